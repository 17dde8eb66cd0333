"""One day as the brief has it: as the day before left it, or just filled."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

import numpy as np

from isotherma.core.brief import Brief, Draw
from isotherma.core.climate import Climate
from isotherma.core.engine.course import FINE_S, Course
from isotherma.core.engine.record import Day
from isotherma.core.engine.supplies import Levels
from isotherma.core.errors import BalanceBroken
from isotherma.core.system import System
from isotherma.core.system.states import State as Standing

MOST_WARM_UP_DAYS: Final = 3  # each a coarse and a fine one
SAME_K: Final = 0.2  # what is published hangs on less
COARSE: Final = 4.0  # how much longer the steps of days that only warm up may be
BALANCE_LIMIT: Final = 1e-3


def run_day(
    brief: Brief,
    system: System,
    standing: Standing | None,
    climate: Climate,
    *,
    fine_s: float = FINE_S,
    near: Course | None = None,
) -> tuple[Course, Day]:
    """Run a day as the brief has it: as the day before left it, or just filled.

    Parameters
    ----------
    brief, system, climate : Brief, System, Climate
        The documents. [-]
    standing : State or None
        How everything stands. [-]
    fine_s : float
        Step while something moves, > 0. [s]
    near : Course or None
        Of documents that differ in little, whose day has been run: days begin where it ended,
        so that most need no day to warm up. [-]

    Returns
    -------
    tuple of Course and Day
        What ran, and its last day. [-]

    Raises
    ------
    BalanceBroken
        If energy or water misses by more than a thousandth.
    """
    course = Course(brief, system, standing, climate, fine_s)
    order = _asked(course)
    if brief.day_start == "standing":
        day = _standing_day(course, order, fine_s, near)
    else:
        day = course.day(order)
    return course, _balanced(day)


def play(
    course: Course, *, number: int, used_kg: Mapping[str, float], levels: Levels,
    ends_s: float | None,
) -> Day:  # fmt: skip
    """Run a day of the trip on which something carried ends.

    Parameters
    ----------
    course : Course
        That has run the day shown; it stays as it is. [-]
    number : int
        Which day, from 1. [-]
    used_kg : mapping of str to float
        Fresh water used before it, by tank, bag and can. [kg]
    levels : Levels
        What is carried at its beginning. [-]
    ends_s : float or None
        About when something else than the water ends. [s]

    Returns
    -------
    Day
        The first again, or another after the day shown. [-]

    Raises
    ------
    BalanceBroken
        If energy or water misses by more than a thousandth.
    """
    order = _asked(course)
    return _balanced(course.again(order, used_kg, levels, ends_s, next_day=number > 1))


def _asked(course: Course) -> tuple[Draw, ...]:
    """Give the day's draws in order, their edges settled."""
    fresh_c = course.conditions.fresh_c
    return tuple(
        draw.settled(fresh_c) for draw in sorted(course.brief.draws, key=lambda item: item.start_s)
    )


def _balanced(day: Day) -> Day:
    balance = day.balance
    if max(balance.energy_error_share, balance.water_error_share) > BALANCE_LIMIT:
        raise BalanceBroken(
            energy_error_share=balance.energy_error_share,
            water_error_share=balance.water_error_share,
        )
    return day


def _standing_day(
    course: Course, order: tuple[Draw, ...], fine_s: float, near: Course | None
) -> Day:
    """Run days until one ends as it began, and give that one.

    Days that only warm up are coarse and come near; they are never shown. Most systems repeat
    themselves on the second day already, so the second is run as if it were the one.
    """
    if near is not None and near.ran_plainly():
        course.begin_as(near)
        day, same = _shown_day(course, order)
        if same:
            return day
    for _ in range(MOST_WARM_UP_DAYS):
        course.fine_s = COARSE * fine_s
        course.day(order)
        course.fine_s = fine_s
        day, same = _shown_day(course, order)
        if same:
            break
    return day


def _shown_day(course: Course, order: tuple[Draw, ...]) -> tuple[Day, bool]:
    """Run a day that may be shown; say whether it ended as it began."""
    before = course.state.layers.copy()
    day = course.day(order)
    return day, bool(np.abs(course.state.layers - before).max(initial=0.0) < SAME_K)
