"""The page of sharing: who else may see a vehicle, what was signed, who changed what when."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Final

from markupsafe import Markup

from isotherma.files.qr import qr_svg
from isotherma.services.sharing import LinkRow, Shared, Signed
from isotherma.services.visitors import visitor
from isotherma.web.frame.context import Mark, PageContext
from isotherma.web.frame.frame import Frame, make_frame

NO_CODE: Final = Markup("")
LASTS: Final = (("day", "a day"), ("week", "a week"), ("month", "a month"), ("year", "a year"))
KINDS: Final = (("look", "to look"), ("review", "to review and sign, for a licensed person"))


@dataclass(frozen=True, slots=True)
class LinkView:
    """A link, ready to read."""

    id: int
    title: str
    words: str
    lives: bool
    uses: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ReviewView:
    """A review, ready to read."""

    id: int
    title: str
    words: str
    rows: tuple[tuple[str, str, str, str], ...]
    note: str
    changed: tuple[str, ...]
    answer: str
    closed: bool


@dataclass(frozen=True, slots=True)
class SharePage:
    """Who else may see it."""

    template: ClassVar[str] = "share.html"
    frame: Frame
    own: bool
    accounts: bool
    reachable: bool
    shares: tuple[Shared, ...]
    links: tuple[LinkView, ...]
    reviews: tuple[ReviewView, ...]
    journal: tuple[tuple[str, str, str], ...]
    kinds: tuple[tuple[str, str], ...] = KINDS
    lasts: tuple[tuple[str, str], ...] = LASTS
    made: str = ""
    code: Markup = NO_CODE
    error: str = ""
    field: str = ""
    typed: str = ""


def link_view(one: LinkRow) -> LinkView:
    """Write a link for its owner."""
    until = f"opens until {one.ends:%Y-%m-%d %H:%M}" if one.lives else "opens nothing any more"
    of = "of whatever is newest" if one.revision_id is None else f"of version {one.revision_id}"
    times = "never opened" if not one.count else (
        "opened once" if one.count == 1 else f"opened {one.count} times")  # fmt: skip
    label = one.label or "nobody named"
    kind = "To look" if one.kind == "look" else "To review"
    uses = tuple(f"{at:%Y-%m-%d %H:%M}, {browser}" for at, browser in one.uses)
    words = f"{of}, made {one.made:%Y-%m-%d}, {until}; {times}"
    return LinkView(one.id, f"{kind}: {label}", words, one.lives, uses)


def review_view(one: Signed) -> ReviewView:
    """Write a review, with what was changed after it."""
    words = (f"{one.trade}, licence {one.licence}, signed for {one.on}; version {one.revision_id}, "
             f"content {one.digest[:12]}")  # fmt: skip
    if one.changed:
        words += " – before a change"
    rows = tuple(
        (item.title, item.verdict, item.note, "" if item.photo is None else str(item.photo))
        for item in one.items
    )
    return ReviewView(one.id, one.name, words, rows, one.note, one.changed, one.answer,
                      one.closed is not None)  # fmt: skip


def share_page(
    context: PageContext, *, made: str = "", error: str = "", field: str = "", typed: str = ""
) -> SharePage:
    """Put the page together; `made` is the address of a link that was just made."""
    frame, _ = make_frame(context, "share")
    services, vehicle = context.services, context.opened.vehicle_id
    own = context.may == "own"
    history = services.vehicles.history(vehicle)
    reviews = services.sharing.reviews(vehicle, context.variant_id, context.variant.system)
    return SharePage(
        frame, own, visitor().kind == "account", bool(context.address),
        services.sharing.shares(vehicle) if own else (),
        tuple(link_view(one) for one in services.sharing.links(vehicle)) if own else (),
        tuple(review_view(one) for one in reviews),
        tuple((f"{one.at:%Y-%m-%d %H:%M}", one.by or "–", one.name or one.label)
              for one in history),
        made=made, code=Markup(qr_svg(made, 40.0)) if made and context.address else NO_CODE,
        error=error, field=field, typed=typed,
    )  # fmt: skip


def share_mark(_: PageContext, __: object) -> Mark:
    """Nothing here is wrong by itself."""
    return Mark("done", "done")
