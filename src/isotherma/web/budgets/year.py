"""The trip in each month of the year, as a strip."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.brief import Brief
from isotherma.core.climate import MONTHS
from isotherma.core.quantity import with_unit
from isotherma.services.year import MONTH_WORK, MonthRow
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, first_under_way_view
from isotherma.wording import days_words, first_wrong_words, month_words, year_words


@dataclass(frozen=True, slots=True)
class MonthView:
    """One month: its mean air, whether the trip is as asked, what goes wrong first."""

    name: str
    here: bool
    air: str
    met: bool
    words: str
    whole: str
    draws: str
    stops: str


@dataclass(frozen=True, slots=True)
class YearPage:
    """Twelve months, as far as they have run."""

    template: ClassVar[str] = "year.html"
    ids: dict[str, object]
    vehicle: str
    said: str
    held: str
    months: tuple[MonthView, ...]
    work: UnderWayView | None


def _month(row: MonthRow, context: PageContext) -> MonthView:
    units, here = context.units, row.month == context.project.brief.month
    name = MONTHS[row.month - 1]
    air = "not known" if row.air_c is None else with_unit(row.air_c, "temperature", units)
    if row.error:
        return MonthView(name, here, air, False, "not run", "It cannot be run.", "", "")
    days = sorted({stop.day for stop in row.needed})
    return MonthView(
        name, here, air, row.failure is None, month_words(row.failure, row.days),
        first_wrong_words(row.failure, row.days), f"{row.draws_met} of {row.draws}",
        f"on {days_words(days)}" if days else "none",
    )  # fmt: skip


def _held(brief: Brief, context: PageContext) -> str:
    """Say what of the brief is the same in every month though a year would change it."""
    if brief.cold_water_c is None:
        return ""
    cold = with_unit(brief.cold_water_c, "temperature", context.units)
    return f"Cold water is {cold} in every month, as the brief has it."


def year_page(context: PageContext) -> YearPage:
    """Give the months that have run by now, and how far the rest is."""
    found = context.services.year.rows(context.project, context.variant, context.asker)
    rows = [row for row in found if isinstance(row, MonthRow)]
    work = first_under_way_view(found, MONTH_WORK, context.path_of("design.year"), "#year")
    good = [MONTHS[row.month - 1] for row in rows if not row.error and row.failure is None]
    ran = sum(not row.error for row in rows)
    return YearPage(
        ids={"vehicle_id": context.opened.vehicle_id, "variant_id": context.variant_id},
        vehicle=context.project.name,
        said=f"{len(rows)} of {len(found)} months have run." if work else year_words(good, ran),
        held=_held(context.project.brief, context),
        months=tuple(_month(row, context) for row in rows),
        work=work,
    )
