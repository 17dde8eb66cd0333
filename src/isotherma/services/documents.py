"""The project's own documents, read for people in the application: its words, its methods."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Final

from markdown_it import MarkdownIt
from markdown_it.token import Token

DOCS: Final = Path(__file__).parents[3] / "docs"


@dataclass(frozen=True, slots=True)
class Entry:
    """One line of a document's table: its first cell, and the others as HTML."""

    slug: str
    title: str
    cells: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Read:
    """A document in pieces, in its order: tables as entries, the rest as HTML."""

    pieces: tuple[tuple[Entry, ...] | str, ...]

    @property
    def tables(self) -> tuple[tuple[Entry, ...], ...]:
        """Every table, as its entries."""
        return tuple(piece for piece in self.pieces if not isinstance(piece, str))

    @property
    def entries(self) -> tuple[Entry, ...]:
        """Every entry of every table."""
        return tuple(entry for table in self.tables for entry in table)


def slug_of(title: str) -> str:
    """Make the end of an address of a title."""
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-") or "entry"


def _markdown() -> MarkdownIt:
    return MarkdownIt("commonmark", {"html": False}).enable("table")


def _rows(tokens: Sequence[Token], reader: MarkdownIt) -> Iterator[Entry]:
    """Read the body rows of one table."""
    cells: list[str] = []
    plain = ""
    in_body = False
    for token in tokens:
        if token.type == "tbody_open":
            in_body = True
        elif token.type == "tr_open":
            cells = []
        elif token.type == "inline" and in_body:
            if not cells:
                plain = "".join(child.content for child in token.children or () if child.content)
            cells.append(reader.renderer.render([token], reader.options, {}))
        elif token.type == "tr_close" and in_body and cells:
            yield Entry(slug_of(plain), plain, tuple(cells[1:]))


def _pieces(text: str) -> Iterator[tuple[Entry, ...] | str]:
    reader = _markdown()
    waiting: list[Token] = []
    table: list[Token] | None = None
    for token in reader.parse(text):
        if token.type == "table_open":
            if waiting:
                yield str(reader.renderer.render(waiting, reader.options, {}))
                waiting = []
            table = []
        elif token.type == "table_close":
            yield tuple(_rows(table or (), reader))
            table = None
        elif table is not None:
            table.append(token)
        else:
            waiting.append(token)
    if waiting:
        yield str(reader.renderer.render(waiting, reader.options, {}))


@cache
def read_document(name: str) -> Read:
    """Read a document of the project; without pieces where it was not shipped."""
    path = DOCS / name
    if not path.is_file():
        return Read(())
    text = path.read_text(encoding="utf-8").partition("\n")[2]  # its title is the page's own
    seen: Counter[str] = Counter()
    return Read(tuple(
        piece if isinstance(piece, str) else tuple(_once(entry, seen) for entry in piece)
        for piece in _pieces(text)
    ))  # fmt: skip


def _once(entry: Entry, seen: Counter[str]) -> Entry:
    """Give an entry an address no other has."""
    seen[entry.slug] += 1
    count = seen[entry.slug]
    return entry if count == 1 else replace(entry, slug=f"{entry.slug}-{count}")


def spoken_words() -> tuple[Entry, ...]:
    """Give the words people meet; those of the code alone stand in the document's second table."""
    return next(iter(read_document("nomenclature.md").tables), ())


@cache
def terms() -> tuple[tuple[str, str], ...]:
    """List the words that are explained, the longest first: as written in texts, and their slug."""
    found = [
        (word.strip().lower(), entry.slug)
        for entry in spoken_words()
        for word in entry.title.split(",")
    ]
    return tuple(sorted(found, key=lambda term: (-len(term[0]), term[0])))


@cache
def term_in(text: str) -> str:
    """Name the slug of the longest explained word a text uses; "" where it uses none."""
    plain = f" {re.sub('[^a-z ]+', ' ', text.lower())} "
    return next((slug for word, slug in terms() if f" {word} " in plain), "")
