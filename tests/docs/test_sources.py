"""Wherever a formula of physics stands, its docstring names where it comes from."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

import isotherma

CORE = Path(isotherma.__file__).parent / "core"
ROOMS = ("hydraulics", "thermal", "water", "supply")
ARITHMETIC = (ast.Mult, ast.Div, ast.Pow)
A_FORMULA = 2  # products, quotients or powers
# numbers are moved or compared there, not worked out of physics
PLAIN = {"next_edge_s", "curve", "left", "gnielinski"}  # the last two stand within a formula


def _formulas() -> Iterator[tuple[str, str]]:
    for room in ROOMS:
        for path in sorted((CORE / room).rglob("*.py")):
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if not isinstance(node, ast.FunctionDef) or node.name.startswith("_"):
                    continue
                sums = sum(
                    isinstance(item, ast.BinOp) and isinstance(item.op, ARITHMETIC)
                    for item in ast.walk(node)
                )
                if sums >= A_FORMULA and node.name not in PLAIN:
                    place = path.relative_to(CORE).as_posix()
                    yield f"{place}:{node.name}", ast.get_docstring(node) or ""


def test_every_formula_names_its_source():
    found = dict(_formulas())
    assert len(found) > 50  # the walk itself found them
    assert [name for name, words in found.items() if "References\n----" not in words] == []
