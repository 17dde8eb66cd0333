"""Battery and gas bottle through a trip: how low, how cold, when they end."""

from __future__ import annotations

from isotherma.core.setup import Setup
from isotherma.core.supply.battery import Level, over_days
from isotherma.core.supply.bottle import Bottle, Hold
from isotherma.core.supply.bottle import over_days as bottle_over_days
from isotherma.core.timeline.record import Day


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
    rows = []
    for row in day.stretches:
        took = setup.consumers.taken_in(row).battery_j
        rows.append((row.span_s, row.standing_w + took / row.span_s, row.charge_w))
    share = setup.charge_share
    return over_days(usable, rows, days=days, charge_share=share)


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
    takers, loads, most = setup.consumers, [], 0.0
    for row in day.stretches:
        burnt, full = takers.burning(row)
        if burnt <= 0.0 or full <= 0.0:
            loads.append((row.span_s, 0.0, row.bottle_c))
            continue
        burns_s = min(row.span_s, burnt / full)
        most = max(most, burnt / burns_s)
        loads += [
            (burns_s, burnt / burns_s, row.bottle_c),
            (row.span_s - burns_s, 0.0, row.bottle_c),
        ]
    if most <= 0.0:
        return None
    held, lowest = bottle_over_days(
        start, loads, days=days, limit_pa=setup.least_pa, spares=setup.full.spares
    )
    return held, lowest, most
