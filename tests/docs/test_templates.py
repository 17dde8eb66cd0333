"""Templates repeat what a page gives them: they compute nothing."""

from __future__ import annotations

from pathlib import Path

import pytest
from jinja2 import nodes

import isotherma
from isotherma.web.rendering import environment

WEB = Path(isotherma.__file__).parent / "web"
TEMPLATES = sorted([*WEB.rglob("*.html"), *WEB.glob("*/*.svg")])
ARITHMETIC = (nodes.Add, nodes.Sub, nodes.Mul, nodes.Div, nodes.FloorDiv, nodes.Mod, nodes.Pow)


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda path: path.relative_to(WEB).as_posix())
def test_a_template_holds_no_arithmetic(path):
    tree = environment().parse(path.read_text(encoding="utf-8"))
    assert [node.lineno for kind in ARITHMETIC for node in tree.find_all(kind)] == []


def test_names_of_templates_are_unique_among_the_rooms():
    names = [path.name for path in TEMPLATES if "static" not in path.parts]
    assert len(names) == len(set(names))
