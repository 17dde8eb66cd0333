"""The day of a trip on which something that is carried ends, played to its end."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from isotherma.core.results.course import Course
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.inventory import (
    battery_course,
    battery_that_matters,
    bottle_course,
)
from isotherma.core.results.ledger import Entry
from isotherma.core.results.trip import Carried, carried_on, nearest_of
from isotherma.core.results.waters import fresh_shares
from isotherma.core.setup import Setup
from isotherma.core.setup.inventory import Levels
from isotherma.core.setup.reservoirs import FRESH_KG_PER_M3
from isotherma.core.timeline.record import Day


@dataclass(frozen=True, slots=True)
class LastDay:
    """The first day unlike the day shown: its number in the trip, how it ran, its draws.

    `fresh_ends` says that it is the fresh water that does not last; `before` are the draws of that
    day had it not ended.
    """

    number: int
    fresh_ends: bool
    timeline: Day
    draws: tuple[DrawResult, ...]
    before: tuple[DrawResult, ...]


def first_end(course: Course, ledger: tuple[Entry, ...]) -> tuple[int, float | None]:
    """Find the first day of the trip that cannot be like it ran.

    Parameters
    ----------
    course : Course
        Its days as they ran, with as much as they take of everything. [-]
    ledger : tuple of Entry
        What they used. [-]

    Returns
    -------
    tuple of int, float or None
        Its number, 0 when all days are as they ran, and about when something ends; None where
        that is the fresh water, which ends by itself. [-, s]
    """
    found: list[tuple[int, float | None]] = []
    by_name = {entry.budget: entry for entry in ledger}
    fresh = by_name["fresh"].ends_on_day
    if fresh is not None:
        found.append((fresh, None))
    level = battery_that_matters(course)
    if level is not None and level.empty_s is not None:
        found.append((int(level.empty_s // 86400.0) + 1, level.empty_s % 86400.0))
    held = bottle_course(course)
    gas = course.legs[0].brief.budgets.matters("gas")
    if gas and held is not None and held[0].held_s is not None:
        failed_s = held[0].held_s
        found.append((int(failed_s // 86400.0) + 1, failed_s % 86400.0))
    fuel = by_name["diesel"]
    if fuel.ends_on_day is not None and fuel.limit is not None:
        alike = course.alike
        if alike is not None and not alike.stops:
            left = fuel.limit - (fuel.ends_on_day - 1) * fuel.used_per_day
            found.append((fuel.ends_on_day, _fuel_ends_s(alike.setup, alike.timeline, left)))
        else:
            ends = nearest_of(carried_on(course), "diesel").course
            assert ends is not None and ends.ends is not None  # the ledger says so
            found.append(ends.ends)
    within = [item for item in found if item[0] <= course.days]
    # of the same day, one that gives no minute ends the whole of it
    return min(within, key=lambda item: (item[0], item[1] is not None, item[1])) if within else (
        0, None
    )  # fmt: skip


def _fuel_ends_s(setup: Setup, day: Day, left_m3: float) -> float:
    for row in day.stretches:
        left_m3 -= setup.consumers.taken_in(row).diesel_m3
        if left_m3 <= 0.0:
            return row.start_s + row.span_s
    return 86400.0


@dataclass(frozen=True, slots=True)
class Begins:
    """What is carried as a day begins: levels, and what is gone of the fresh water by tank [kg]."""

    levels: Levels
    used_kg: Mapping[str, float]


def begins_with(course: Course, ledger: tuple[Entry, ...], number: int) -> Begins:
    """Give what is carried when a day of the trip begins; a stop made on that day counts already.

    Parameters
    ----------
    course : Course
        Its days as they ran. [-]
    ledger : tuple of Entry
        What they used. [-]
    number : int
        Which day, from 1. [-]

    Returns
    -------
    Begins
        All is full on the first. [-]
    """
    first = course.legs[0]
    full, before = first.setup.full, number - 1
    if before == 0:
        return Begins(full, {})
    alike, gone = course.alike, course.until(before)
    level, held = battery_course(gone), bottle_course(gone)
    if alike is not None and not alike.stops:
        fuel_m3 = before * next(entry.used_per_day for entry in ledger if entry.budget == "diesel")
        used_kg = {
            share.id: before * share.per_day_m3 * FRESH_KG_PER_M3
            for share in fresh_shares(alike.setup, alike.timeline, alike.draws)
        }
    else:
        carried = carried_on(course.until(number))
        fuel_m3 = _gone_m3(nearest_of(carried, "diesel"))
        wells = first.setup.reservoirs.reservoirs
        tanks = [item for item in carried if item.budget == "fresh" and item.course is not None]
        used_kg = {
            well.id: _gone_m3(item) * FRESH_KG_PER_M3
            for well, item in zip(wells, tanks, strict=True)
        }
    return Begins(
        Levels(
            battery_j=level.end_j if level is not None else full.battery_j,
            diesel_m3=max(0.0, full.diesel_m3 - fuel_m3) if full.diesel_m3 is not None else None,
            bottle=held[0].after if held is not None else full.bottle,
            spares=held[0].spares if held is not None else full.spares,
        ),
        used_kg,
    )  # fmt: skip


def _gone_m3(item: Carried) -> float:
    """Give what the days before the last have taken that nothing has brought back [m³]."""
    if item.course is None:
        return 0.0
    # the last day's own use is taken off again: it is that day that is to be played
    return item.course.limit - item.course.levels[-1] - item.takings[-1].total
