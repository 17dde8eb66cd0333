"""The smallest changes that would mend a design, each with what it would do and a button."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.errors import CoreError
from isotherma.core.results.outcome import Outcome
from isotherma.services.long_work import UnderWay
from isotherma.services.mending import MENDS, Mend
from isotherma.web.frame.changes import sent_changes
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.wording import changes_words, error_words
from isotherma.wording.reader import Reader


@dataclass(frozen=True, slots=True)
class MendRow:
    """Changes that may be kept together."""

    words: str
    verdict: str
    changes: str


@dataclass(frozen=True, slots=True)
class MendsPage:
    """What was found by trying."""

    template: ClassVar[str] = "mends.html"
    ids: dict[str, object]
    vehicle: str
    rows: tuple[MendRow, ...]
    said: str
    nearest: MendRow | None
    work: UnderWayView | None = None


def _row(context: PageContext, mend: Mend, outcome: Outcome) -> MendRow:
    reader = Reader.of(outcome.system, context.units)
    return MendRow(
        changes_words(mend.changes, reader), mend.verdicts[context.units],
        sent_changes(context.project, {
            path: value for change in mend.changes for path, value in change.values.items()}),
    )  # fmt: skip


def mends_page(context: PageContext) -> MendsPage:
    """Give the changes that would mend it, or how far trying them is."""
    project, variant, units = context.project, context.variant, context.units
    ids: dict[str, object] = {
        "vehicle_id": context.opened.vehicle_id, "variant_id": variant.id,
    }  # fmt: skip
    result = context.services.computing.result(project, variant)
    if isinstance(result, CoreError):
        return MendsPage(ids, project.name, (), error_words(result, units), None)
    found = context.services.mending.mends(project, variant, result, context.asker)
    if isinstance(found, UnderWay):
        work = under_way_view(found, MENDS, context.path_of("design.mends"))
        return MendsPage(ids, project.name, (), "", None, work)
    rows = tuple(_row(context, mend, result) for mend in found.mends)
    said = f"{found.tried} small changes were tried, alone and together."
    nearest = None
    if rows:
        said += f" {'This one does' if len(rows) == 1 else 'These do'} what the brief asks."
    elif found.nearest is None:
        said = "There is no small change to try here: look at the causes above, part by part."
    else:
        said += " None does all the brief asks; this one comes nearest:"
        nearest = _row(context, found.nearest, result)
    return MendsPage(ids, project.name, rows, said, nearest)
