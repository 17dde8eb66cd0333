"""Modules of at most 400 lines of code, functions of at most 60; who is longer says why."""

from __future__ import annotations

import ast
import io
import tokenize
from functools import cache
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[2] / "src" / "isotherma"
MODULE, FUNCTION = 400, 60
# a kernel is one function to the compiler: cut in pieces it hands arrays from one to the other,
# and each hand-over counts who holds them
KERNELS = {
    "core/engine/heater_control.py:switch", "core/engine/kernel.py", "core/engine/kernel.py:_run",
    "core/engine/flow_step.py:flow_step", "core/hydraulics/network.py:_newton",
    "core/hydraulics/network.py:_exact", "core/hydraulics/network.py:_settle",
    "core/thermal/pipe.py:exchange",
}  # fmt: skip
_EMPTY = {
    tokenize.COMMENT, tokenize.NL, tokenize.NEWLINE, tokenize.INDENT, tokenize.DEDENT,
    tokenize.ENDMARKER,
}  # fmt: skip
_DOCUMENTED = (ast.Module, ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)


@cache
def lengths(path: Path) -> dict[str, int]:
    """Lines of code of a module and of its functions, docstrings and comments left out."""
    text = path.read_text(encoding="utf-8")
    tree = ast.parse(text)
    lines: set[int] = set()
    for token in tokenize.generate_tokens(io.StringIO(text).readline):
        if token.type not in _EMPTY:
            lines.update(range(token.start[0], token.end[0] + 1))
    for node in ast.walk(tree):
        if isinstance(node, _DOCUMENTED) and ast.get_docstring(node, clean=False) is not None:
            first = node.body[0]
            lines -= set(range(first.lineno, (first.end_lineno or first.lineno) + 1))
    name = path.relative_to(SOURCE).as_posix()
    found = {name: len(lines)}
    for node in ast.walk(tree):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            inside = range(node.lineno, (node.end_lineno or node.lineno) + 1)
            found[f"{name}:{node.name}"] = len(lines.intersection(inside))
    return found


MODULES = sorted(SOURCE.rglob("*.py"))


@pytest.mark.parametrize("path", MODULES, ids=lambda path: path.relative_to(SOURCE).as_posix())
def test_it_can_be_read_in_one_go(path):
    for name, count in lengths(path).items():
        most = FUNCTION if ":" in name else MODULE
        if name not in KERNELS:
            assert count <= most, f"{name} has {count} lines of code; cut it"


def test_no_exception_outlives_its_reason():
    every = {name: count for path in MODULES for name, count in lengths(path).items()}
    for name in KERNELS:
        assert every.get(name, 0) > (FUNCTION if ":" in name else MODULE), f"{name} may leave"
