"""Battery and gas bottle through a trip: how low, how cold, when they end."""

from __future__ import annotations

from dataclasses import replace

from isotherma.core.results.course import Course
from isotherma.core.setup import Setup
from isotherma.core.supply.battery import Level, over_days
from isotherma.core.supply.bottle import Bottle, Hold
from isotherma.core.supply.bottle import over_days as bottle_over_days
from isotherma.core.timeline.record import Day, Stretch


def battery_level(setup: Setup, day: Day, days: int) -> Level | None:
    """Follow the battery through a trip of equal days, full at the start.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    days : int
        How many. [-]

    Returns
    -------
    Level or None
        None without a battery whose energy is known. [J]
    """
    usable = setup.hours.usable_j
    if usable is None:
        return None
    share = setup.charge_share
    return over_days(usable, _battery_rows(setup, day), days=days, charge_share=share)


def battery_course(course: Course) -> Level | None:
    """Follow the battery through a trip, full at the start.

    Parameters
    ----------
    course : Course
        Its days. [-]

    Returns
    -------
    Level or None
        None without a battery whose energy is known; use and charge of an average day. [J]
    """
    alike = course.alike
    if alike is not None:
        return battery_level(alike.setup, alike.timeline, alike.days)
    first = course.legs[0].setup
    if first.hours.usable_j is None:
        return None
    rows = [
        row for leg in course.legs
        for row in _battery_rows(leg.setup, leg.timeline) * leg.days
    ]  # fmt: skip
    level = over_days(first.hours.usable_j, rows, days=1, charge_share=first.charge_share)
    days = course.days
    return replace(level, used_j=level.used_j / days, charged_j=level.charged_j / days)


def battery_that_matters(course: Course) -> Level | None:
    """Follow the battery through a trip it may end.

    Parameters
    ----------
    course : Course
        Its days. [-]

    Returns
    -------
    Level or None
        None also where the brief says that the battery does not matter. [J]
    """
    matters = course.legs[0].brief.budgets.matters("battery")
    return battery_course(course) if matters else None


def _battery_rows(setup: Setup, day: Day) -> list[tuple[float, float, float]]:
    """Give what a day's stretches take out of the battery and might put in [s, W, W]."""
    rows = []
    for row in day.stretches:
        took = setup.consumers.taken_in(row).battery_j
        rows.append((row.span_s, row.standing_w + took / row.span_s, row.charge_w))
    return rows


def bottle(setup: Setup) -> Bottle | None:
    """Put the joined gas bottle together as it stands.

    Parameters
    ----------
    setup : Setup
        Its system. [-]

    Returns
    -------
    Bottle or None
        Full as a trip begins, at the air's temperature. [-]
    """
    return setup.full.bottle


def bottle_days(setup: Setup, day: Day, days: int) -> tuple[Hold, float, float] | None:
    """Let the bottle carry the day's burners over a trip.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    days : int
        How many. [-]

    Returns
    -------
    tuple or None
        How it held, the lowest pressure under load, the largest load; None without a known
        bottle or without a load. [-, Pa, kg/s]
    """
    start = bottle(setup)
    if start is None:
        return None
    loads, most = _bottle_loads(setup, day)
    if most <= 0.0:
        return None
    held, lowest = bottle_over_days(
        start, loads, days=days, limit_pa=setup.least_pa, spares=setup.full.spares
    )
    return held, lowest, most


def bottle_course(course: Course) -> tuple[Hold, float, float] | None:
    """Let the bottle carry the burners through a trip; where it is changed, it is full again.

    Parameters
    ----------
    course : Course
        Its days. [-]

    Returns
    -------
    tuple or None
        As for `bottle_days`. [-, Pa, kg/s]
    """
    alike, changes = course.alike, course.stops("change gas")
    if alike is not None and not changes:
        return bottle_days(alike.setup, alike.timeline, alike.days)
    first = course.legs[0].setup
    start = bottle(first)
    if start is None:
        return None
    pieces: list[tuple[float, list[tuple[float, float, float]]]] = [(0.0, [])]
    most = clock = 0.0
    for leg in course.legs:
        loads, heaviest = _bottle_loads(leg.setup, leg.timeline)
        most = max(most, heaviest)
        for number in range(leg.first, leg.last + 1):
            waiting = [at_s for at_s, _ in changes.get(number, ())]
            for load in loads:
                while waiting and waiting[0] <= clock % 86400.0:
                    waiting.pop(0)
                    pieces.append((clock, []))
                pieces[-1][1].append(load)
                clock += load[0]
            pieces += [(clock, []) for _ in waiting]
    if most <= 0.0:
        return None
    return _joined_holds(first, start, pieces, most)


def _joined_holds(
    setup: Setup, start: Bottle, pieces: list[tuple[float, list[tuple[float, float, float]]]],
    most: float,
) -> tuple[Hold, float, float]:  # fmt: skip
    """Let full bottles carry one piece of a trip after the other."""
    lowest, swaps, failed = start.pressure_pa, [], None
    for began_s, loads in pieces:
        hold, low = bottle_over_days(
            start, loads, days=1, limit_pa=setup.least_pa, spares=setup.full.spares
        )
        lowest = min(lowest, low)
        swaps += [began_s + at_s for at_s in hold.swaps]
        if failed is None and hold.held_s is not None:
            failed = began_s + hold.held_s, hold.ended
    held_s, ended = failed if failed is not None else (None, "carried")
    return Hold(held_s, ended, hold.after, tuple(swaps), hold.spares), lowest, most


def bottle_at(setup: Setup, day: Day, start: Bottle) -> tuple[tuple[Bottle, ...], float]:
    """Follow the joined bottle through a day, from one edge of its hours to the next.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        The day. [-]
    start : Bottle
        As the day begins. [-]

    Returns
    -------
    tuple
        How it stands at every edge, one more than there are stretches, and the largest load; where
        it is emptied it stays empty. [-, kg/s]
    """
    found, most, now = [start], 0.0, start
    for row in day.stretches:
        loads, heaviest = _loads_of(setup, row)
        most = max(most, heaviest)
        now = bottle_over_days(now, loads, days=1)[0].after
        found.append(now)
    return tuple(found), most


def _loads_of(setup: Setup, row: Stretch) -> tuple[list[tuple[float, float, float]], float]:
    """Give what burners take in a stretch, and the most of it [s, kg/s, °C; kg/s]."""
    burnt, full = setup.consumers.burning(row)
    if burnt <= 0.0 or full <= 0.0:
        return [(row.span_s, 0.0, row.bottle_c)], 0.0
    burns_s = min(row.span_s, burnt / full)
    load = burnt / burns_s
    return [(burns_s, load, row.bottle_c), (row.span_s - burns_s, 0.0, row.bottle_c)], load


def _bottle_loads(setup: Setup, day: Day) -> tuple[list[tuple[float, float, float]], float]:
    """Give what a day's burners take of the bottle, and the most of it [s, kg/s, °C; kg/s]."""
    loads: list[tuple[float, float, float]] = []
    most = 0.0
    for row in day.stretches:
        found, heaviest = _loads_of(setup, row)
        loads += found
        most = max(most, heaviest)
    return loads, most
