"""Words used, and how it is computed: pages made from the project's own documents."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Final

from markupsafe import Markup

from isotherma.services.documents import Entry, read_document, spoken_words

# words that have a sign on the drawing
SIGNS: Final[Mapping[str, str]] = {
    "store": "store", "mixer": "mixer", "head": "head", "route": "lever", "run": "coupling",
    "reservoir": "tank", "dead-leg": "tap", "diverter": "selector", "coil": "coil",
    "plate": "plate", "pump": "pump", "canister": "store", "through-flow-heater": "flame",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Word:
    """A word with what it means, what it is not called here, and its sign."""

    slug: str
    title: str
    means: Markup
    instead: Markup
    glyph: str


@dataclass(frozen=True, slots=True)
class WordsPage:
    """The words used here."""

    template: ClassVar[str] = "words.html"
    words: tuple[Word, ...]


@dataclass(frozen=True, slots=True)
class Method:
    """One thing that is computed: how, and after whom."""

    slug: str
    title: str
    how: Markup
    source: Markup


@dataclass(frozen=True, slots=True)
class MethodPage:
    """How everything is computed."""

    template: ClassVar[str] = "method.html"
    pieces: tuple[tuple[Markup, tuple[Method, ...]], ...]


def _html(entry: Entry) -> tuple[Markup, Markup]:
    """Give the cells of an entry as rendered: from our own documents, with HTML in them off."""
    means, instead = (*entry.cells, "", "")[:2]
    return Markup(means), Markup(instead)


def _word(entry: Entry) -> Word:
    means, instead = _html(entry)
    return Word(entry.slug, entry.title, means, instead, SIGNS.get(entry.slug, ""))


def words_page() -> WordsPage:
    """Put the page of words together."""
    return WordsPage(tuple(_word(entry) for entry in spoken_words()))


def method_page() -> MethodPage:
    """Put the page of methods together: text as HTML, or a table's lines."""
    pieces: list[tuple[Markup, tuple[Method, ...]]] = []
    for piece in read_document("physics.md").pieces:
        if isinstance(piece, str):
            pieces.append((Markup(piece), ()))
        else:
            methods = tuple(Method(entry.slug, entry.title, *_html(entry)) for entry in piece)
            pieces.append((Markup(), methods))
    return MethodPage(tuple(pieces))


def index() -> list[tuple[str, str, str]]:
    """List what the palette finds: words, the page they stand on, where on it."""
    found = [(entry.title, "words", entry.slug) for entry in spoken_words()]
    found += [(f"How {entry.title} is computed", "method", entry.slug)
              for entry in read_document("physics.md").entries]  # fmt: skip
    return found
