"""The Budgets page: every budget through the trip, its days, the stops it has and needs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.options.limits import limits_of
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.going import where_it_goes
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.levels import LevelBand, level_bands, level_lines
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.trip import BUDGET_STYLES, Trip, TripDay, TripStop
from isotherma.core.results.uncertainty import Range
from isotherma.services.comparisons import BAND_WORK
from isotherma.services.long_work import UnderWay
from isotherma.web.budgets.hourly import ThroughView, through_view
from isotherma.web.budgets.lines import NARROW, WIDE, LinePicture, draw_lines
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.forms import FormView, make_form
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.wording import (
    LIMITED_WORDS,
    SERVICES,
    fails_words,
    goes_words,
    going_title,
    left_words,
    limit_words,
    stops_words,
)


@dataclass(frozen=True, slots=True)
class DayRow:
    """One day, or several that are alike, as a line of the table."""

    numbers: str
    first: int
    kind: str
    draws: str
    met: bool
    cells: tuple[str, ...]
    shown: bool


@dataclass(frozen=True, slots=True)
class StopDay:
    """A stop on one day: when, how much."""

    day: int
    hour: str
    amount: str


@dataclass(frozen=True, slots=True)
class StopRow:
    """One thing that is filled, emptied or changed: on which days it is planned, and needed."""

    what: str
    service: str
    planned: tuple[StopDay, ...]
    needed: tuple[StopDay, ...]


@dataclass(frozen=True, slots=True)
class GoesRow:
    """A share of what is taken: of whom, how much, and how wide its bar is [%]."""

    words: str
    amount: str
    share: str
    width: str


@dataclass(frozen=True, slots=True)
class GoingView:
    """Where one budget goes, the largest share first."""

    title: str
    total: str
    rows: tuple[GoesRow, ...]


@dataclass(frozen=True, slots=True)
class BudgetsPage:
    """What runs out first."""

    template: ClassVar[str] = "budgets.html"
    frame: Frame
    fails: str
    stops_words: str
    lines: tuple[LinePicture, ...] = ()
    narrow: tuple[LinePicture, ...] = ()
    columns: tuple[str, ...] = ()
    days: tuple[DayRow, ...] = ()
    stops: tuple[StopRow, ...] = ()
    going: tuple[GoingView, ...] = ()
    alike: bool = True
    limits: tuple[tuple[str, str, bool], ...] = ()
    hours: int = 24
    hourly: ThroughView | None = None
    hourly_open: bool = False
    band_path: str = ""
    band_work: UnderWayView | None = None
    banded: bool = False
    moved_by: str = ""
    stocks: FormView | None = None
    reserves: FormView | None = None
    limits_open: bool = False


STOCKS = ("grey_m3", "gas_kg", "mains_energy_j", "longest_wait_s", "ignored")
RESERVES = ("fresh_reserve", "gas_reserve", "grey_reserve", "diesel_reserve", "battery_reserve")


def _days(outcome: Outcome, units: UnitSystem) -> tuple[tuple[str, ...], tuple[DayRow, ...]]:
    """Write the days, those that are alike in one row; budgets nothing is taken of are left out."""
    trip = outcome.trip
    used = [
        place for place, row in enumerate(trip.days[0].budgets)
        if any(day.budgets[place].used > 0.0 for day in trip.days)
    ]  # fmt: skip
    kinds = {kind.id: kind.name for leg in outcome.course.legs for kind in leg.brief.day_kinds}

    def cell(days: list[TripDay], place: int) -> str:
        row, last = days[0].budgets[place], days[-1].budgets[place]
        style = BUDGET_STYLES[row.budget]
        said = with_unit(row.used, style, units)
        if last.level is None:
            return said
        left = left_words(last, units)
        ends = next((day.budgets[place].ends_s for day in days if day.budgets[place].ends_s), None)
        out = f"; out at {with_unit(ends, 'clock')}" if ends is not None else ""
        return f"{said}, {left}{out}"

    rows: list[list[TripDay]] = []
    for day in trip.days:
        if rows and rows[-1][0].like == day.like and not any(b.ends_s for b in day.budgets):
            rows[-1].append(day)
        else:
            rows.append([day])
    found = tuple(
        DayRow(
            numbers=str(row[0].number) if len(row) == 1 else f"{row[0].number}–{row[-1].number}",
            first=row[0].number,
            kind=kinds.get(row[0].kind, "as described"),
            draws=f"{row[0].draws_met} of {row[0].draws}",
            met=row[0].draws_met == row[0].draws,
            cells=tuple(cell(row, place) for place in used),
            shown=any(day.number == outcome.number for day in row),
        )
        for row in rows
    )
    return tuple(TITLES[trip.days[0].budgets[place].budget] for place in used), found


def _going(outcome: Outcome, units: UnitSystem) -> tuple[GoingView, ...]:
    """Write where everything goes."""
    found = []
    for item in where_it_goes(outcome.course):
        style, total = item.style, item.total
        rows = sorted(item.rows, key=lambda row: -row.amount)
        found.append(
            GoingView(
                going_title(item),
                with_unit(total, style, units),
                tuple(
                    GoesRow(
                        goes_words(row), with_unit(row.amount, style, units),
                        f"{row.amount / total:.0%}",
                        f"{max(0.0, 100.0 * row.amount / rows[0].amount):.1f}",
                    )
                    for row in rows
                ),
            )
        )  # fmt: skip
    return tuple(found)


def _stops(trip: Trip, units: UnitSystem) -> tuple[StopRow, ...]:
    """Gather the stops by what is done there, and at which tank."""

    def day(stop: TripStop) -> StopDay:
        return StopDay(
            stop.day,
            with_unit(stop.at_s, "clock") if stop.at_s else "before the first draw",
            with_unit(stop.amount, BUDGET_STYLES[stop.budget], units),
        )

    found = []
    for what, label in dict.fromkeys((stop.what, stop.label) for stop in trip.stops):
        mine = [stop for stop in trip.stops if (stop.what, stop.label) == (what, label)]
        found.append(
            StopRow(
                SERVICES[what] + (f", {label}" if label else ""), what,
                tuple(day(stop) for stop in mine if stop.planned),
                tuple(day(stop) for stop in mine if not stop.planned),
            )
        )  # fmt: skip
    return tuple(found)


def _band(context: PageContext, outcome: Outcome) -> Range | UnderWay | None:
    """Give what is known of how unsure figures move the trip; asked for only by a press."""
    comparing, project, variant = context.services.comparing, context.project, context.variant
    if context.query.get("band") == "1":
        return comparing.band(project, variant, outcome, context.asker)
    return comparing.known_band(project, variant)


def _factors(sure: Range) -> dict[str, tuple[float, float, float, float]]:
    """Turn bands of what is used, and of what there is, into shares of what is likely."""

    def ends(key: str) -> tuple[float, float]:
        found = sure.sensitivity(key)
        if found is None or not found.likely:
            return 1.0, 1.0
        low = 1.0 if found.low is None else found.low / found.likely
        return low, 1.0 if found.high is None else found.high / found.likely

    factors = {
        key: (*ends(f"used.{key}"), *ends(f"limit.{key}")) for key in BUDGET_STYLES
    }  # fmt: skip
    return {key: found for key, found in factors.items() if found != (1.0, 1.0, 1.0, 1.0)}


def _moved_by(sure: Range, binding: str) -> str:
    """Name what moves the binding budget most."""
    found = sure.sensitivity(f"used.{binding}")
    return ", ".join(found.moved_by) if found is not None else ""


def budgets_page(context: PageContext) -> BudgetsPage:
    """Put the budgets page together."""
    frame, outcome = make_frame(context, "budgets")
    units, budgets, typed = context.units, context.project.brief.budgets, context.typed
    stocks, reserves = (
        make_form(budgets, "brief.budgets", units, typed, only=names)
        for names in (STOCKS, RESERVES)
    )
    wrong = bool(typed and typed.errors)
    if outcome is None:
        return BudgetsPage(frame, "", "", stocks=stocks, reserves=reserves, limits_open=wrong)
    trip, course = outcome.trip, outcome.course
    lines, sure = level_lines(course), _band(context, outcome)
    bands: tuple[LevelBand, ...] = ()
    if isinstance(sure, Range):
        bands = level_bands(course, _factors(sure))
    binding = next((entry.budget for entry in outcome.ledger if entry.binds), "")
    columns, days = _days(outcome, units)
    return BudgetsPage(
        frame=frame,
        fails=fails_words(trip),
        stops_words=stops_words(trip),
        lines=draw_lines(lines, course, binding, units, WIDE, bands),
        narrow=draw_lines(lines, course, binding, units, NARROW, bands),
        band_path=f"{context.path_of('design.budgets')}?band=1#lines-panel",
        band_work=under_way_view(
            sure, BAND_WORK, f"{context.path_of('design.budgets')}?band=1", "#lines-panel"
        )
        if isinstance(sure, UnderWay)
        else None,
        banded=isinstance(sure, Range),
        moved_by=_moved_by(sure, binding) if isinstance(sure, Range) else "",
        columns=columns,
        days=days,
        stops=_stops(trip, units),
        going=_going(outcome, units),
        alike=not context.project.brief.order,
        hours=24 * course.days,
        limits=tuple(
            (LIMITED_WORDS[one.what], limit_words(one, units), one.over)
            for one in limits_of(outcome, context.project.vehicle)
        ),
        hourly=through_view(course, context.query.get("day", ""), outcome.number, units),
        hourly_open="day" in context.query,
        stocks=stocks,
        reserves=reserves,
        limits_open=wrong,
    )
