"""Budgets through the day: what has been used by every step, and how full the battery is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from isotherma.core import water
from isotherma.core.engine import columns
from isotherma.core.engine.course import Course
from isotherma.core.engine.record import Day
from isotherma.core.engine.wells import FRESH_KG_PER_M3
from isotherma.core.flows.waste import GROUND
from isotherma.core.results.carried import battery_level
from isotherma.core.results.draws import draw_results
from isotherma.core.results.spending import pitch_w
from isotherma.core.results.waters import sink_of

Floats = NDArray[np.float64]


def day_series(course: Course, day: Day) -> dict[str, Floats]:
    """Follow every budget through a day.

    Parameters
    ----------
    course : Course
        What was run. [-]
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
    log, brief = day.log, course.brief
    times = log[:, columns.END]
    density = water.density_kg_per_m3(course.conditions.fresh_c)
    masses = log[:, columns.MASS].copy()
    for index, one in enumerate(day.drawn):
        if one.round_m3 is not None:  # filled once, then it goes round
            rows = np.flatnonzero((log[:, columns.DRAW] == index) & (masses > 0.0))
            masses[rows] = 0.0
            masses[rows[:1]] = one.round_m3 * density
    into_grey = masses.copy()
    for index, draw in enumerate(draw_results(course, day, brief.budgets.longest_wait_s)):
        rows = log[:, columns.DRAW] == index
        total = float(masses[rows].sum())
        if sink_of(course, draw) == GROUND:
            into_grey[rows] = 0.0
        if total > 0.0 and day.drawn[index].round_m3 is None:
            masses[rows] *= sum(draw.took_m3.values()) * density / total
    share = times / 86400.0
    other = float(course.wells.other_kg_per_s.sum()) * 86400.0 / FRESH_KG_PER_M3
    edges, gas, diesel, mains = [0.0], [0.0], [0.0], [0.0]
    for row in day.stretches:
        took = course.takers.taken_in(row)
        edges.append(row.start_s + row.span_s)
        gas.append(gas[-1] + took.gas_kg)
        diesel.append(diesel[-1] + took.diesel_m3)
        mains.append(mains[-1] + took.mains_j + pitch_w(course, row) * row.span_s)
    level = battery_level(course, day, 1)
    held = np.empty(0)
    if level is not None:
        held = np.interp(times, edges, [course.hours.usable_j or 0.0, *level.levels_j])
    return {
        "fresh_m3": np.cumsum(masses) / density + share * other,
        "grey_m3": np.cumsum(into_grey) / density + share * brief.other_grey_m3,
        "gas_kg": np.interp(times, edges, gas),
        "diesel_m3": np.interp(times, edges, diesel),
        "mains_j": np.interp(times, edges, mains),
        "battery_left_j": held,
    }
