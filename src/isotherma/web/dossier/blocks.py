"""What a chapter is made of: tables, lists, sentences, figures, lines to sign."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar
from xml.etree import ElementTree

from markupsafe import Markup

Rows = tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True)
class Table:
    """A table; a cell that is long wraps. `widths` are shares of the paper's, in percent."""

    kind: ClassVar[str] = "table"
    title: str
    heads: tuple[str, ...]
    rows: Rows
    empty: str = "Nothing."
    widths: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Sentences:
    """Sentences under each other; as steps they are numbered."""

    kind: ClassVar[str] = "sentences"
    title: str
    rows: tuple[str, ...]
    steps: bool = False
    caution: str = ""


@dataclass(frozen=True, slots=True)
class Drawing:
    """A drawing of a page, the same SVG, with its caption."""

    kind: ClassVar[str] = "drawing"
    title: str
    svg: Markup
    caption: str = ""

    @property
    def address(self) -> str:
        """Give it as an image of its own; ParseError if it is no XML, which would leave a gap.

        As a part of the page the report library reads and styles every line of it twice.
        """
        named = str(self.svg)
        if "xmlns=" not in named[: named.find(">")]:
            named = named.replace("<svg", '<svg xmlns="http://www.w3.org/2000/svg"', 1)
        ElementTree.fromstring(named)
        return f"data:image/svg+xml;base64,{b64encode(named.encode()).decode()}"


@dataclass(frozen=True, slots=True)
class Sign:
    """A place for a hand: what is signed for, and what is already recorded of it."""

    kind: ClassVar[str] = "sign"
    title: str
    rows: tuple[str, ...]
    recorded: str = ""


Block = Table | Sentences | Drawing | Sign


@dataclass(frozen=True, slots=True)
class Chapter:
    """A chapter; `wide` lies across the paper."""

    id: str
    title: str
    blocks: tuple[Block, ...]
    wide: bool = False


def table(
    title: str, heads: Sequence[str], rows: Sequence[Sequence[str]], empty: str,
    widths: tuple[int, ...] = (),
) -> Table:  # fmt: skip
    """Put a table together."""
    return Table(title, tuple(heads), tuple(tuple(row) for row in rows), empty, widths)
