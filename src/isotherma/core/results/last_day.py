"""The day of a trip on which something that is carried ends, played to its end."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.brief import Brief
from isotherma.core.engine.course import Course
from isotherma.core.engine.record import Carried, Day
from isotherma.core.engine.running import play
from isotherma.core.engine.supplies import Levels
from isotherma.core.engine.wells import FRESH_KG_PER_M3
from isotherma.core.quantity import Habit, shown
from isotherma.core.results.carried import battery_level, bottle_days
from isotherma.core.results.draws import DrawResult, draw_results
from isotherma.core.results.ledger import Entry
from isotherma.core.results.verdict import reason_words
from isotherma.core.results.waters import fresh_shares

ENDS: dict[Carried, str] = {
    "battery": "the battery is empty",
    "gas": "the gas bottle is empty",
    "diesel": "the fuel has come to what must stay in the tank",
}


@dataclass(frozen=True, slots=True)
class LastDay:
    """The first day unlike the day shown: its number in the trip, how it ran, its draws.

    `fresh_ends` says that it is the fresh water that does not last.
    """

    number: int
    fresh_ends: bool
    timeline: Day
    draws: tuple[DrawResult, ...]

    def words(self, brief: Brief, usual: tuple[DrawResult, ...], habit: Habit) -> str:
        """Say what ends and what comes of it, beside the draws of the day shown."""
        said = []
        for ended in self.timeline.ended:
            how = ENDS[ended.carried]
            if ended.how == "too cold":
                how = "the gas bottle is too cold to give what the flame takes"
            said.append(f"{how} at {shown(ended.clock_s, 'clock', habit)}")
        if any(drawn.dry for drawn in self.timeline.drawn):
            said.append("the fresh water runs out")
        elif self.fresh_ends:
            said.append("the fresh water runs out, though not in a draw")
        words = f"On day {self.number} {' and '.join(said) or 'less is left than a day takes'}"
        limit = brief.budgets.longest_wait_s
        worse = [
            draw for draw, before in zip(self.draws, usual, strict=True)
            if draw.why_not not in (None, before.why_not)
        ]  # fmt: skip
        come = [f"“{draw.draw.name}” {reason_words(draw, limit, habit)}" for draw in worse[:2]]
        if len(worse) > 2:
            come.append(f"{len(worse) - 2} more are not as asked")
        return f"{words}: {'; '.join(come)}." if come else f"{words}; the draws are as shown."


def first_end(
    course: Course, day: Day, ledger: tuple[Entry, ...], days: int
) -> tuple[int, float | None]:
    """Find the first day of the trip that cannot be like the day shown.

    Parameters
    ----------
    course : Course
        What was run. [-]
    day : Day
        The day shown. [-]
    ledger : tuple of Entry
        What it used. [-]
    days : int
        How many to look through. [-]

    Returns
    -------
    tuple of int, float or None
        Its number, 0 when all days are alike, and about when something ends; None where that
        is the fresh water, which ends by itself. [-, s]
    """
    found: list[tuple[int, float | None]] = []
    by_name = {entry.budget: entry for entry in ledger}
    fresh = by_name["fresh"].ends_on_day
    if fresh is not None:
        found.append((fresh, None))
    level = battery_level(course, day, days)
    if level is not None and level.empty_s is not None:
        found.append((int(level.empty_s // 86400.0) + 1, level.empty_s % 86400.0))
    held = bottle_days(course, day, days)
    if held is not None and held[0].held_s is not None:
        failed_s = held[0].held_s
        found.append((int(failed_s // 86400.0) + 1, failed_s % 86400.0))
    fuel = by_name["diesel"]
    if fuel.ends_on_day is not None and fuel.limit is not None:
        left = fuel.limit - (fuel.ends_on_day - 1) * fuel.used_per_day
        found.append((fuel.ends_on_day, _fuel_ends_s(course, day, left)))
    within = [item for item in found if item[0] <= days]
    return min(within, key=lambda item: (item[0], item[1] or 0.0)) if within else (0, None)


def _fuel_ends_s(course: Course, day: Day, left_m3: float) -> float:
    for row in day.stretches:
        left_m3 -= course.takers.taken_in(row).diesel_m3
        if left_m3 <= 0.0:
            return row.start_s + row.span_s
    return 86400.0


def levels_at(course: Course, day: Day, ledger: tuple[Entry, ...], number: int) -> Levels:
    """Give what is carried when a day of the trip begins, those before it being alike.

    Parameters
    ----------
    course : Course
        What was run. [-]
    day : Day
        The day shown. [-]
    ledger : tuple of Entry
        What it used. [-]
    number : int
        Which day, from 1. [-]

    Returns
    -------
    Levels
        Full on the first. [-]
    """
    full, before = course.supplies.full, number - 1
    if before == 0:
        return full
    level = battery_level(course, day, before)
    held = bottle_days(course, day, before)
    fuel_m3 = next(entry.used_per_day for entry in ledger if entry.budget == "diesel")
    return Levels(
        battery_j=level.end_j if level is not None else full.battery_j,
        diesel_m3=max(0.0, full.diesel_m3 - before * fuel_m3)
        if full.diesel_m3 is not None else None,
        bottle=held[0].after if held is not None else full.bottle,
        spares=held[0].spares if held is not None else full.spares,
    )  # fmt: skip


def first_day(course: Course, day: Day, ledger: tuple[Entry, ...]) -> Day:
    """Give the day to show: the first as it runs, where gas or fuel ends on it.

    Parameters
    ----------
    course : Course
        What was run. [-]
    day : Day
        The first day as if gas and fuel had no end. [-]
    ledger : tuple of Entry
        What it used. [-]

    Returns
    -------
    Day
        The same, unless something else than the water ends on it. [-]
    """
    number, ends_s = first_end(course, day, ledger, 1)
    if number != 1 or ends_s is None:
        return day
    return play(course, number=1, used_kg={}, levels=course.supplies.full, ends_s=ends_s)


def last_day(course: Course, day: Day, ledger: tuple[Entry, ...]) -> LastDay | None:
    """Play the first later day on which something ends.

    Parameters
    ----------
    course : Course
        What was run. [-]
    day : Day
        The day shown. [-]
    ledger : tuple of Entry
        What it used. [-]

    Returns
    -------
    LastDay or None
        None when all days of the trip are like the day shown, or it is the one. [-]
    """
    if day.ended:
        return None
    number, ends_s = first_end(course, day, ledger, course.brief.days)
    if number < 2:
        return None
    levels = levels_at(course, day, ledger, number)
    draws = draw_results(course, day, course.brief.budgets.longest_wait_s)
    used_kg = {
        share.id: (number - 1) * share.per_day_m3 * FRESH_KG_PER_M3
        for share in fresh_shares(course, day, draws)
    }
    played = play(course, number=number, used_kg=used_kg, levels=levels, ends_s=ends_s)
    draws = draw_results(course, played, course.brief.budgets.longest_wait_s)
    return LastDay(number, ends_s is None, played, draws)
