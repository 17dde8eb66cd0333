"""Drawings and letters for paper."""

from __future__ import annotations

from base64 import b64decode
from xml.etree.ElementTree import ParseError

import pytest
from fontTools.ttLib import TTFont
from markupsafe import Markup

from isotherma.web.dossier.blocks import Drawing
from isotherma.web.dossier.document import LETTERS, WEIGHTS
from isotherma.web.dossier.drawings import on_paper
from isotherma.web.rendering import STATIC


def test_a_drawing_for_paper_names_no_colours_and_has_its_own_rules():
    made = str(
        on_paper('<svg viewBox="0 0 9 9" width="9" height="9"><path class="trend" d="M0 0"/></svg>')
    )
    assert "var(" not in made and ".trend{" in made and ".route .label" in made
    assert 'width="9"' not in made.split(">")[0]


def test_a_drawing_becomes_an_image_and_one_that_is_none_is_not_left_out():
    bare = on_paper('<svg viewBox="0 0 9 9" data-cursor data-x="d0"><g data-level/></svg>')
    assert "data-" not in bare
    address = Drawing("", bare).address
    image = b64decode(address.partition(",")[2]).decode()
    assert image.startswith('<svg xmlns="http://www.w3.org/2000/svg"') and "<g/>" in image
    with pytest.raises(ParseError):
        _ = Drawing("", Markup("<svg><g cursor></g></svg>")).address


@pytest.mark.parametrize("weight", WEIGHTS)
def test_paper_has_every_letter_of_the_pages_at_one_weight(weight):
    font = TTFont(LETTERS / f"archivo-{weight}.ttf")
    assert "fvar" not in font and font["OS/2"].usWeightClass == weight
    shown = set()
    for part in ("latin", "latin-ext"):
        shown |= set(TTFont(STATIC / f"vendor/archivo-{part}.woff2").getBestCmap())
    assert set(font.getBestCmap()) == shown
    pages = (STATIC / "vendor/archivo.LICENSE").read_bytes()
    assert (LETTERS / "archivo.LICENSE").read_bytes() == pages
