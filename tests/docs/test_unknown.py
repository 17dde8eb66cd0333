"""Unknown is unknown: no number of the code's own stands where a figure is missing."""

from __future__ import annotations

import ast
import inspect
from collections.abc import Iterator
from pathlib import Path
from textwrap import dedent

import pytest

from isotherma import core
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.runs import RUNS, RunBase

HERE = Path(core.__file__).parent
MODULES = sorted(HERE.rglob("*.py"))


def _is_number(node: ast.expr) -> bool:
    """Say whether an expression is a number, or one written with a sign or a name in capitals."""
    if isinstance(node, ast.UnaryOp):
        return _is_number(node.operand)
    if isinstance(node, ast.Name):
        return node.id.isupper() and len(node.id) > 1
    return (
        isinstance(node, ast.Constant)
        and isinstance(node.value, int | float)
        and not isinstance(node.value, bool)
    )


def _stand_ins(tree: ast.AST) -> Iterator[int]:
    for node in ast.walk(tree):
        if isinstance(node, ast.BoolOp) and isinstance(node.op, ast.Or):
            if any(_is_number(value) for value in node.values[1:]):
                yield node.lineno
        elif isinstance(node, ast.Call) and getattr(node.func, "id", "") in {"known_or", "getattr"}:
            last = node.args[-1]
            if len(node.args) > 1 and _is_number(last):
                yield node.lineno


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(HERE)))
def test_no_number_stands_in_for_a_missing_figure(path: Path) -> None:
    found = list(_stand_ins(ast.parse(path.read_text(encoding="utf-8"))))
    assert found == [], f"{path.name}: lines {found}; declare what is usual, or name it missing"


def _figures() -> Iterator[tuple[str, str, int]]:
    """Give every property the core reads as a figure: its name, module and line."""
    for path in MODULES:
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "figure":
                name = node.args[1]
                if isinstance(name, ast.Constant):
                    yield str(name.value), path.name, node.lineno


def test_every_figure_read_is_a_property_that_can_be_known_or_named() -> None:
    pieces: list[type[PartBase] | type[RunBase]] = [*KINDS.values(), *RUNS.values()]
    loose = []
    for name, module, line in _figures():
        having = [piece for piece in pieces if name in piece.model_fields]
        assert having, f"{module}:{line} reads {name}, which no kind has"
        # known, assumed, or a named lack of some kind that has it
        if not any(
            name in piece.usual
            or name in piece.needs
            or piece.model_fields[name].default is not None
            or name in _named_beside(piece)
            for piece in having
        ):
            loose.append(f"{module}:{line} {name}")
    assert loose == []


def _named_beside(piece: type[PartBase] | type[RunBase]) -> set[str]:
    """Give the names a kind's own code derives, or says how to know."""
    source = ast.parse(dedent(inspect.getsource(piece)))
    return {
        node.value for node in ast.walk(source)
        if isinstance(node, ast.Constant) and isinstance(node.value, str)
    }  # fmt: skip
