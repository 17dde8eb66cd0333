"""Budgets through the day: what has been used by every step, and how full the battery is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from isotherma.core import water
from isotherma.core.flows.waste import GROUND
from isotherma.core.results.draws import draw_results
from isotherma.core.results.inventory import battery_level
from isotherma.core.results.spending import pitch_w
from isotherma.core.results.waters import sink_of
from isotherma.core.setup import Setup
from isotherma.core.setup.reservoirs import FRESH_KG_PER_M3
from isotherma.core.timeline.record import Day

Floats = NDArray[np.float64]


def day_series(setup: Setup, day: Day) -> dict[str, Floats]:
    """Follow every budget through a day.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]

    Returns
    -------
    dict of str to ndarray
        For every row of the log, shape (n,): what has been used since midnight of fresh water,
        grey room, gas, liquid fuel and mains; what the battery still holds, from full; without
        a battery it is empty. [m³, kg, J]

    Notes
    -----
    Water by every step of the log, other water evenly over the day; fuel and electricity are
    straight lines between the edges of the hours.
    """
    rows, brief = day.rows, setup.brief
    times = rows.end_s
    density = water.density_kg_per_m3(setup.conditions.fresh_c)
    masses = rows.mass_kg.copy()
    for index, one in enumerate(day.drawn):
        if one.round_m3 is not None:  # filled once, then it goes round
            ran = np.flatnonzero((rows.draw == index) & (masses > 0.0))
            masses[ran] = 0.0
            masses[ran[:1]] = one.round_m3 * density
    into_grey = masses.copy()
    for index, draw in enumerate(draw_results(setup, day, brief.budgets.wait_limit_s)):
        of_draw = rows.draw == index
        total = float(masses[of_draw].sum())
        if sink_of(setup, draw) == GROUND:
            into_grey[of_draw] = 0.0
        if total > 0.0 and day.drawn[index].round_m3 is None:
            masses[of_draw] *= sum(draw.took_m3.values()) * density / total
    share = times / 86400.0
    other = float(setup.reservoirs.other_kg_per_s.sum()) * 86400.0 / FRESH_KG_PER_M3
    edges, gas, diesel, mains = [0.0], [0.0], [0.0], [0.0]
    for row in day.stretches:
        took = setup.consumers.taken_in(row)
        edges.append(row.start_s + row.span_s)
        gas.append(gas[-1] + took.gas_kg)
        diesel.append(diesel[-1] + took.diesel_m3)
        mains.append(mains[-1] + took.mains_j + pitch_w(setup, row) * row.span_s)
    level = battery_level(setup, day, 1)
    held = np.empty(0)
    if level is not None:
        held = np.interp(times, edges, [setup.hours.full_j, *level.levels_j])
    return {
        "fresh_m3": np.cumsum(masses) / density + share * other,
        "grey_m3": np.cumsum(into_grey) / density + share * brief.other_grey_m3,
        "gas_kg": np.interp(times, edges, gas),
        "diesel_m3": np.interp(times, edges, diesel),
        "mains_j": np.interp(times, edges, mains),
        "battery_left_j": held,
    }
