"""The project's documents as pages read them: every line of every table, once."""

from __future__ import annotations

from html import unescape

import pytest

from isotherma.services.documents import (
    DOCS,
    read_document,
    slug_of,
    spoken_words,
    term_in,
    terms,
)


@pytest.mark.parametrize("name", ["nomenclature.md", "physics.md"])
def test_every_line_of_every_table_is_an_entry(name):
    lines = (DOCS / name).read_text(encoding="utf-8").splitlines()
    rows = [line for line in lines if line.startswith("| ") and not line.startswith("|---")]
    heads = sum(line.startswith("|---") for line in lines)
    entries = read_document(name).entries
    assert len(entries) == len(rows) - heads
    slugs = [entry.slug for entry in entries]
    assert len(slugs) == len(set(slugs))
    assert all(entry.title and len(entry.cells) == 2 for entry in entries)


def test_markup_is_rendered_and_nothing_else_passes():
    kind = next(entry for entry in spoken_words() if entry.title == "kind")
    assert "<code>store</code>" in kind.cells[0]
    assert all("<script" not in cell for entry in read_document("physics.md").entries
               for cell in entry.cells)  # fmt: skip
    flow = next(entry for entry in spoken_words() if entry.title == "flow factor")
    assert "q = K√Δp" in unescape(flow.cells[0])


def test_words_of_the_code_are_not_shown_to_people():
    spoken = {entry.title for entry in spoken_words()}
    assert "draw" in spoken and "store" in spoken
    assert not spoken & {"page context", "compiled network", "edit command", "valve dynamics"}


def test_a_document_that_was_not_shipped_is_empty():
    assert read_document("no-such.md").pieces == ()


@pytest.mark.parametrize(
    ("text", "slug"),
    [
        ("Share of the store's height.", "store"),
        ("The dead leg after a pause", "dead-leg"),
        ("The longest wait for warm", "wait"),
        ("Restore it", ""),  # a word within a word is none
        ("", ""),
    ],
)
def test_the_longest_word_a_text_uses_is_found(text, slug):
    assert term_in(text) == slug
    lengths = [len(word) for word, _ in terms()]
    assert lengths == sorted(lengths, reverse=True)


def test_slugs_are_made_of_letters():
    assert slug_of("Waste pipe, emptying") == "waste-pipe-emptying" and slug_of("—") == "entry"
