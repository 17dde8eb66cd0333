"""The Heat page: what would heat the water, as pictures with a sentence on these answers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.heat.offers import FILTERS, Card, asked_of, cards, owned_choices
from isotherma.web.heat.own import has_own
from isotherma.web.heat.sizes import SizesPage, sizes_page

FIRST = 20  # cards in five lines; the rest is folded


@dataclass(frozen=True, slots=True)
class HeatPage:
    """Starts to choose from, for a variant with or without parts."""

    template: ClassVar[str] = "heat.html"
    frame: Frame
    cards: tuple[Card, ...]
    glyphs: tuple[str, ...]
    filters: tuple[tuple[str, str, bool], ...]
    own: str
    owned_choices: tuple[tuple[str, str], ...]
    owned: tuple[tuple[str, str, bool], ...]
    others: tuple[tuple[str, str], ...]
    empty: bool
    query: str
    first: int
    more: str
    unsized: bool
    sized: SizesPage
    owns: bool


def heat_page(context: PageContext) -> HeatPage:
    """Put the page together for what the address asks."""
    frame, _ = make_frame(context, "heat")
    project, variant = context.project, context.variant
    own, wanted = asked_of(context.query)
    found = cards(context, own, wanted)
    there = {part.kind for part in variant.system.parts}
    asked = [f"own={own}"] if own else []
    sized = sizes_page(context, asks=False)
    return HeatPage(
        frame=frame,
        cards=found,
        glyphs=tuple(sorted({node.glyph for card in found for node in card.mini.nodes})),
        filters=tuple((key, words, key in wanted) for key, (words, _) in FILTERS.items()),
        own=own,
        owned_choices=owned_choices(context.services.own_classes.offered()),
        owned=tuple((part.id, part.label, part.kind in there) for part in project.owned),
        others=tuple(
            (item.id, item.name) for item in project.variants
            if item.id != variant.id and item.system.parts
        ),
        empty=not variant.system.parts,
        query="?" + "&".join(asked) if asked else "",
        first=FIRST,
        more=f"{len(found) - FIRST} more, with gas or against your wishes",
        # a vehicle with parts is sized; the cards are for beginning
        unsized=bool(wanted or own) or not variant.system.parts,
        sized=sized,
        owns=has_own(context),
    )  # fmt: skip
