"""Columns of the kernels' tables have names; what is kept has one owner, a key and a bound."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

import isotherma
from isotherma import KERNEL_SOURCES

CORE = Path(isotherma.__file__).parent / "core"
ON_TABLES = (
    *(CORE / name for name in KERNEL_SOURCES if name.startswith(("engine/", "flows/", "thermal/"))),
    CORE / "engine" / "network_state.py", CORE / "engine" / "boundary_conditions.py",
    CORE / "engine" / "state_transfer.py", CORE / "flows" / "solving.py",
    CORE / "hydraulics" / "laws.py",
)  # fmt: skip
# the one table of two rows that is no table of columns: flow over head of a pump's points
CURVES = "curves"


def _bare(tree: ast.AST) -> list[str]:
    found = []
    for node in ast.walk(tree):
        if not isinstance(node, ast.Subscript) or not isinstance(node.slice, ast.Tuple):
            continue
        last = node.slice.elts[-1]
        number = isinstance(last, ast.Constant) and last.value is not ...
        if number and ast.unparse(node.value) != CURVES:
            found.append(ast.unparse(node))
    return found


@pytest.mark.parametrize("path", ON_TABLES, ids=lambda path: path.relative_to(CORE).as_posix())
def test_no_column_is_a_bare_number(path):
    assert not _bare(ast.parse(path.read_text(encoding="utf-8")))


def test_the_check_sees_bare_numbers():
    assert _bare(ast.parse("a = pipe[slot, 3] + net.parameters[link, 0]")) == [
        "pipe[slot, 3]", "net.parameters[link, 0]"
    ]  # fmt: skip
    assert not _bare(ast.parse("a = pipe[slot, P_WALL_J] + layers[3] + curves[0, first]"))


def _stores(tree: ast.AST) -> list[str]:
    """List keys by id, and stores of functools that have no bound in bytes."""
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "id":
            found.append(ast.unparse(node))
        if isinstance(node, ast.alias) and node.name == "lru_cache":
            found.append(node.name)
    return found


@pytest.mark.parametrize("path", sorted(CORE.rglob("*.py")), ids=lambda p: p.stem)
def test_nothing_is_kept_by_id_or_without_a_bound_in_bytes(path):
    assert not _stores(ast.parse(path.read_text(encoding="utf-8")))


def test_the_check_sees_ids_and_stores():
    bad = "from functools import lru_cache\nkept[id(circuit)] = 1"
    assert sorted(_stores(ast.parse(bad))) == ["id(circuit)", "lru_cache"]
