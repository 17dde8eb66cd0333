"""The day of a trip on which something that is carried ends, played to its end."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.results.draws import DrawResult
from isotherma.core.results.inventory import battery_level, bottle_days
from isotherma.core.results.ledger import Entry
from isotherma.core.setup import Setup
from isotherma.core.setup.inventory import Levels
from isotherma.core.timeline.record import Day


@dataclass(frozen=True, slots=True)
class LastDay:
    """The first day unlike the day shown: its number in the trip, how it ran, its draws.

    `fresh_ends` says that it is the fresh water that does not last.
    """

    number: int
    fresh_ends: bool
    timeline: Day
    draws: tuple[DrawResult, ...]


def first_end(
    setup: Setup, day: Day, ledger: tuple[Entry, ...], days: int
) -> tuple[int, float | None]:
    """Find the first day of the trip that cannot be like the day shown.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
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
    level = battery_level(setup, day, days)
    if level is not None and level.empty_s is not None:
        found.append((int(level.empty_s // 86400.0) + 1, level.empty_s % 86400.0))
    held = bottle_days(setup, day, days)
    if held is not None and held[0].held_s is not None:
        failed_s = held[0].held_s
        found.append((int(failed_s // 86400.0) + 1, failed_s % 86400.0))
    fuel = by_name["diesel"]
    if fuel.ends_on_day is not None and fuel.limit is not None:
        left = fuel.limit - (fuel.ends_on_day - 1) * fuel.used_per_day
        found.append((fuel.ends_on_day, _fuel_ends_s(setup, day, left)))
    within = [item for item in found if item[0] <= days]
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


def levels_at(setup: Setup, day: Day, ledger: tuple[Entry, ...], number: int) -> Levels:
    """Give what is carried when a day of the trip begins, those before it being alike.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
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
    full, before = setup.full, number - 1
    if before == 0:
        return full
    level = battery_level(setup, day, before)
    held = bottle_days(setup, day, before)
    fuel_m3 = next(entry.used_per_day for entry in ledger if entry.budget == "diesel")
    return Levels(
        battery_j=level.end_j if level is not None else full.battery_j,
        diesel_m3=max(0.0, full.diesel_m3 - before * fuel_m3)
        if full.diesel_m3 is not None else None,
        bottle=held[0].after if held is not None else full.bottle,
        spares=held[0].spares if held is not None else full.spares,
    )  # fmt: skip
