"""Pages of a link: chapters to look at; what a licensed person is asked, their trade first."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import ClassVar, Final

from markupsafe import Markup

from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat, primary, water
from isotherma.services.sharing import VERDICTS, Item, Signed
from isotherma.web.checks.page import finding_rows
from isotherma.web.dossier.asked import CHAPTERS, SETS
from isotherma.web.dossier.blocks import Block, Chapter, Drawing
from isotherma.web.dossier.document import chapter_of, digest_of
from isotherma.web.dossier.work_chapters import Terms
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.found import checked
from isotherma.web.links.opened import LinkOpened

TRADES: Final = (("gas", "Gas"), ("electrical", "Electrical"), ("flue", "Flues and burning"),
                 ("pressure", "Pressure and water"))  # fmt: skip
_GROUPS: Final[Mapping[str, tuple[str, ...]]] = {
    "gas": ("gas",), "electrical": ("electric",), "flue": ("air", "diesel"),
    "pressure": ("pressure", "dry", "scald", "backflow"),
}  # fmt: skip
_PRESSURE: Final = (heat.Store, heat.Combi, water.Relief, water.Accumulator, water.Reducer,
                    primary.ExpansionVessel, water.CheckValve)  # fmt: skip
_FLUE: Final = (heat.Flue, heat.Terminal, heat.AirHeater, heat.LiquidHeater)
_STYLE: Final = re.compile(r"<style>.*?</style>", re.DOTALL)


@dataclass(frozen=True, slots=True)
class LinkPage:
    """A design to look at, a chapter at a time."""

    template: ClassVar[str] = "link.html"
    token: str
    vehicle: str
    variant: str
    version: str
    chapters: tuple[tuple[str, str, bool], ...]
    chapter: Chapter


def version_words(opened: LinkOpened) -> str:
    """Name the version a link shows."""
    state = "" if opened.link.revision_id is not None else ", the newest there is"
    content = digest_of(opened.context.project)
    return f"Version {opened.revision_id}{state}, content {content}"


def on_screen(chapter: Chapter) -> Chapter:
    """Give a chapter for a page: drawings have their look from its style, not from within."""
    blocks: list[Block] = []
    for block in chapter.blocks:
        if isinstance(block, Drawing):
            block = replace(block, svg=Markup(_STYLE.sub("", str(block.svg))))
        blocks.append(block)
    return replace(chapter, blocks=tuple(blocks))


def link_page(opened: LinkOpened, token: str, wanted: str) -> LinkPage:
    """Put a page of a link together."""
    context = opened.context
    shown = wanted if wanted in SETS["whole"] else "verdict"
    return LinkPage(
        token, context.project.name, context.variant.name, version_words(opened),
        tuple((key, CHAPTERS[key], key == shown) for key in SETS["whole"]),
        on_screen(chapter_of(context, shown, Terms())),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Asked:
    """Something that is to be looked at: a finding or a part."""

    id: str
    title: str
    words: str
    about: tuple[str, ...]
    verdict: str = ""
    note: str = ""


@dataclass(frozen=True, slots=True)
class ReviewPage:
    """What a licensed person looks at and signs."""

    template: ClassVar[str] = "review.html"
    token: str
    vehicle: str
    variant: str
    version: str
    trade: str
    trades: tuple[tuple[str, str, bool], ...]
    first: tuple[Asked, ...]
    others: tuple[Asked, ...]
    verdicts: tuple[str, ...]
    drawing: Chapter
    figures: Chapter
    signed: tuple[Signed, ...]
    photos: tuple[int, ...]
    texts: Mapping[str, str] = field(default_factory=dict)
    error: str = ""
    wrong: str = ""
    notice: str = ""


def items_of(context: PageContext, trade: str) -> tuple[tuple[Asked, ...], tuple[Asked, ...]]:
    """List what is to be looked at: of a trade first, then all else that was found."""
    first: list[Asked] = []
    others: list[Asked] = []
    for one in _findings(context):
        mine = one.id.split(".")[1] in _GROUPS.get(trade, ())
        (first if mine else others).append(one)
    first += list(_parts(context, trade))
    return tuple(first), tuple(others)


def _findings(context: PageContext) -> Iterator[Asked]:
    if not context.built.system.parts:
        return
    for row in finding_rows(context, checked(context)):
        about = tuple(filter(None, (*row.part_ids.split(","), *row.run_ids.split(","))))
        figure = f"{row.figure}, limit {row.limit}. " if row.figure and row.limit else ""
        yield Asked(f"f.{row.id}.{'+'.join(about)}"[:200], f"{row.sign} {row.sentence}",
                    f"{figure}Mended by: {row.remedy} ({row.who}).", about)  # fmt: skip


def _parts(context: PageContext, trade: str) -> Iterator[Asked]:
    spaces = {space.id: space.name for space in context.variant.system.spaces}
    for part in context.variant.system.parts:
        if _of_trade(part, trade):
            where = spaces.get(part.space or "", "")
            yield Asked(f"p.{part.id}", part.label, f"in {where}" if where else "", (part.id,))


def _of_trade(part: AnyKind, trade: str) -> bool:
    if trade == "gas":
        return part.side == "gas" or getattr(part, "fuel", "") in ("propane", "butane", "mix")
    if trade == "electrical":
        return part.side == "electric" or isinstance(part, heat.Element)
    return isinstance(part, _FLUE if trade == "flue" else _PRESSURE)


def review_page(
    opened: LinkOpened, token: str, trade: str, *, texts: Mapping[str, str] | None = None,
    error: str = "", wrong: str = "", notice: str = "",
) -> ReviewPage:  # fmt: skip
    """Put the page of a review together, with what was typed where it was refused."""
    context, said = opened.context, texts or {}
    shown = trade if trade in dict(TRADES) else "gas"
    first, others = items_of(context, shown)

    def typed(one: Asked) -> Asked:
        return replace(one, verdict=said.get(f"v.{one.id}", ""), note=said.get(f"n.{one.id}", ""))

    kept = context.services.photos.listed(opened.link.vehicle_id, opened.link.variant_id)
    return ReviewPage(
        token, context.project.name, context.variant.name, version_words(opened), shown,
        tuple((key, words, key == shown) for key, words in TRADES),
        tuple(typed(one) for one in first), tuple(typed(one) for one in others), VERDICTS,
        on_screen(chapter_of(context, "route", Terms())),
        on_screen(chapter_of(context, "verdict", Terms())),
        context.services.sharing.reviews(
            opened.link.vehicle_id, opened.link.variant_id, context.variant.system),
        tuple(one.number for one in kept), said, error, wrong, notice,
    )  # fmt: skip


def said_items(
    context: PageContext, trade: str, texts: Mapping[str, str], photos: Mapping[str, int]
) -> tuple[Item, ...]:
    """Read what was said of each thing that is to be looked at."""
    first, others = items_of(context, trade)
    found = []
    for one in (*first, *others):
        verdict = next((each for each in VERDICTS if each == texts.get(f"v.{one.id}")), None)
        if verdict is not None:
            found.append(Item(one.id, one.title, one.about, verdict,
                              texts.get(f"n.{one.id}", ""), photos.get(one.id)))  # fmt: skip
    return tuple(found)
