"""What to change next: complaints, what measuring overturned first, and what removes each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.errors import CoreError
from isotherma.core.options.version_two import Complaint, Proposal
from isotherma.core.quantity import duration_words
from isotherma.core.results.ledger import TITLES
from isotherma.services.long_work import UnderWay
from isotherma.services.version_two import VERSION_TWO_WORK
from isotherma.web.frame.changes import sent_changes
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.wording import changes_words, error_words
from isotherma.wording.reader import Reader

SHOWN: Final = 3
_TITLES: Final[Mapping[str, str]] = {str(key): words for key, words in TITLES.items()}
COMPLAINS: Final = {
    "draw": "{name} is not as asked", "wait": "{name} waits too long for warm water",
    "budget": "{name} ends before the trip does",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class NextRow:
    """A change that removes a complaint, with what it takes and a button."""

    words: str
    takes: str
    removes: str
    breaks: str
    changes: str
    edit: str = ""
    part: str = ""


@dataclass(frozen=True, slots=True)
class ComplaintRow:
    """What is not as asked, and the changes that remove it."""

    words: str
    overturned: bool
    rows: tuple[NextRow, ...]
    more: int


@dataclass(frozen=True, slots=True)
class NextPart:
    """All of it; `asked` False while nobody has asked for it yet."""

    asked: bool
    said: str = ""
    work: UnderWayView | None = None
    complaints: tuple[ComplaintRow, ...] = ()


def next_part(context: PageContext) -> NextPart:
    """Give what to change next, once it was asked for."""
    project, variant = context.project, context.variant
    service = context.services.next_version
    try:
        if context.query.get("ask") or context.query.get("again"):
            found = service.found(project, variant, context.asker)
        else:
            known = service.known(project, variant)
            if known is None:
                return NextPart(asked=False)
            found = known
    except CoreError as error:
        return NextPart(asked=True, said=error_words(error, context.units))
    if isinstance(found, UnderWay):
        here = context.path_of("design.log") + "?view=next&ask=1"
        return NextPart(True, work=under_way_view(found, VERSION_TWO_WORK, here, "#what-next"))
    names = {one.key: _name(one) for one in found.complaints}
    if not found.complaints:
        return NextPart(True, "Nothing is to be changed: all the brief asks is given.")
    tried = f"{found.tried} change{'' if found.tried == 1 else 's'}"
    rows = []
    for one in found.complaints:
        removing = found.removing(one.key)
        rows.append(ComplaintRow(
            COMPLAINS[one.kind].format(name=names[one.key]), one.overturned,
            tuple(_row(context, change, one.key, names) for change in removing[:SHOWN]),
            max(0, len(removing) - SHOWN),
        ))  # fmt: skip
    measured = "on the design as it was entered; nothing is taken as measured yet"
    if variant.measured:
        measured = "on the design as it was measured"
    return NextPart(True, f"{tried} were tried {measured}.", complaints=tuple(rows))


def _name(one: Complaint) -> str:
    return _TITLES.get(one.name, one.name) if one.kind == "budget" else one.name


def _row(context: PageContext, one: Proposal, key: str, names: dict[str, str]) -> NextRow:
    change = one.change
    words = changes_words([change], Reader.of(context.variant.system, context.units))
    money = "Its price is not known"
    if one.money is not None:
        money = f"About {one.money:g}, as the one that is there" if one.money else "No money"
    holes = "no new hole" if one.holes == 0 else (
        "1 new hole" if one.holes == 1 else f"{one.holes} new holes")  # fmt: skip
    minutes = "minutes not known" if one.minutes is None else (
        duration_words(one.minutes * 60.0) if one.minutes else "no work")  # fmt: skip
    return NextRow(
        words, ", ".join((money, holes, minutes)),
        "; ".join(names[other] for other in one.removes if other != key),
        "; ".join(_TITLES.get(name, name) for name in one.breaks),
        sent_changes(context.project, change.values), change.edit, change.part_id,
    )  # fmt: skip
