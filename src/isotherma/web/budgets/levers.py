"""Levers: what would make the budget that ends the trip last longer, each with its price."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.errors import CoreError
from isotherma.core.options.levers import Lever
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.ledger import TITLES
from isotherma.services.levers import LEVERS_WORK
from isotherma.services.long_work import UnderWay
from isotherma.web.frame.changes import sent_changes
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.wording import changes_words, error_words
from isotherma.wording.reader import Reader


@dataclass(frozen=True, slots=True)
class LeverRow:
    """One lever: what is changed, what it gains, what it costs, and how to keep it."""

    words: str
    gain: str
    prices: str
    breaks: str
    mends: str
    changes: str
    edit: str = ""
    part: str = ""


@dataclass(frozen=True, slots=True)
class LeversPage:
    """Every lever that gains something; a part of the Budgets page, or a page of its own."""

    template: ClassVar[str] = "levers.html"
    ids: dict[str, object]
    vehicle: str
    said: str
    rows: tuple[LeverRow, ...]
    work: UnderWayView | None


def _amount(value: float, style: str, units: UnitSystem) -> str:
    if style in ("seconds", "minutes"):
        return duration_words(value)
    return with_unit(value, style, units, 2)


def _gain(lever: Lever, units: UnitSystem) -> str:
    said = []
    if lever.days:
        said.append(f"{lever.days} day{'' if lever.days == 1 else 's'} more")
    if lever.spared > 0.0:
        said.append(f"{_amount(lever.spared, lever.style, units)} more left at the end")
    return ", ".join(said)


def _prices(lever: Lever, units: UnitSystem) -> str:
    """Write what else is taken, what costs more first."""
    rows = sorted(lever.prices, key=lambda one: one.more < 0.0)
    said = []
    for one in rows:
        words = _amount(abs(one.more), one.style, units)
        if not words.startswith(("0 ", "0\u00a0", "under ")):
            said.append(f"{TITLES[one.budget]} {'+' if one.more > 0.0 else '−'}{words}")
    return ", ".join(said) or "nothing"


def levers_page(context: PageContext) -> LeversPage:
    """Give the levers that were tried by now, or how far trying them is."""
    project, variant, units = context.project, context.variant, context.units
    ids: dict[str, object] = {
        "vehicle_id": context.opened.vehicle_id, "variant_id": context.variant_id,
    }  # fmt: skip
    result = context.services.computing.result(project, variant)
    if isinstance(result, CoreError):
        return LeversPage(ids, project.name, error_words(result, units), (), None)
    found = context.services.levering.levers(project, variant, result, context.asker)
    if isinstance(found, UnderWay):
        work = under_way_view(found, LEVERS_WORK, context.path_of("design.levers"), "#levers")
        return LeversPage(ids, project.name, "", (), work)
    reader = Reader.of(variant.system, units)
    rows = tuple(
        LeverRow(
            changes_words([lever.change], reader), _gain(lever, units), _prices(lever, units),
            ", ".join(lever.breaks), ", ".join(lever.mends),
            sent_changes(project, lever.change.values),
            lever.change.edit, lever.change.part_id,
        )
        for lever in found.rows
    )  # fmt: skip
    title = TITLES[found.budget].lower()
    tried = f"{found.tried} change{'' if found.tried == 1 else 's'}"
    said = (
        f"{tried} were tried so that {title} lasts longer; these do it, the most first."
        if rows else f"{tried} were tried so that {title} lasts longer; none gains anything."
    )  # fmt: skip
    return LeversPage(ids, project.name, said, rows, None)
