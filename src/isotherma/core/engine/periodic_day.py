"""One day as the brief has it: as the day before left it, or just filled."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np

from isotherma.core.brief import Draw
from isotherma.core.engine.day_simulation import DaySimulation
from isotherma.core.engine.state_simulation import FINE_S
from isotherma.core.errors import BalanceBroken
from isotherma.core.setup import Setup
from isotherma.core.setup.inventory import Levels
from isotherma.core.timeline.record import Day, Snapshot

MOST_WARM_UP_DAYS: Final = 3  # each a coarse and a fine one
SAME_K: Final = 0.2  # what is published hangs on less
COARSE: Final = 4.0  # how much longer the steps of days that only warm up may be
BALANCE_LIMIT: Final = 1e-3


@dataclass(frozen=True, slots=True)
class Ran:
    """Documents with a day of theirs that was run."""

    setup: Setup
    day: Day


class Near:
    """Where a day ended, for days of documents that differ in little.

    Parameters
    ----------
    ran : Ran
        Only of use where it was run in one state, with nothing blown or tripped. [-]
    """

    def __init__(self, ran: Ran) -> None:
        self.days: DaySimulation | None = None
        evening = ran.day.evening
        if evening is None or len(evening.states) > 1 or ran.day.blown or ran.day.tripped:
            return
        self.days = DaySimulation(ran.setup)
        self.days.go_on_from(evening)


def run_day(setup: Setup, *, fine_s: float = FINE_S, near: Near | None = None) -> Ran:
    """Run a day as the brief has it: as the day before left it, or just filled.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    fine_s : float
        Step while something moves, > 0. [s]
    near : Near or None
        A day of documents that differ in little: days begin where it ended,
        so that most need no day to warm up. [-]

    Returns
    -------
    Ran
        What was run, and its last day. [-]

    Raises
    ------
    BalanceBroken
        If energy or water misses by more than a thousandth.
    """
    days = DaySimulation(setup, fine_s)
    order = asked(setup)
    if setup.brief.day_start == "standing":
        day = _standing_day(days, order, fine_s, near)
    else:
        day = days.day(order)
    return Ran(setup, balanced(day))


def play(
    setup: Setup, began: Snapshot | None, *, used_kg: Mapping[str, float], levels: Levels,
    ends_s: float | None,
) -> Day:  # fmt: skip
    """Run a day of the trip on which something carried ends.

    Parameters
    ----------
    setup : Setup
        What it is run from. [-]
    began : Snapshot or None
        How everything stood as it began. [-]
    used_kg : mapping of str to float
        Fresh water used before it, by tank, bag and can. [kg]
    levels : Levels
        What is carried at its beginning. [-]
    ends_s : float or None
        About when something else than the water ends. [s]

    Returns
    -------
    Day
        As it runs when something gives out. [-]

    Raises
    ------
    BalanceBroken
        If energy or water misses by more than a thousandth.
    """
    days = DaySimulation(setup)
    assert began is not None  # every day that was run says how it began and ended
    days.go_on_from(began)
    return balanced(days.day(asked(setup), used_kg, levels, ends_s))


def asked(setup: Setup) -> tuple[Draw, ...]:
    """Give the day's draws in order, their edges settled.

    Parameters
    ----------
    setup : Setup
        What the day is run from. [-]

    Returns
    -------
    tuple of Draw
        By their start. [-]
    """
    fresh_c = setup.conditions.fresh_c
    return tuple(
        draw.settled(fresh_c) for draw in sorted(setup.brief.draws, key=lambda item: item.start_s)
    )


def balanced(day: Day) -> Day:
    """Give a day that adds up.

    Parameters
    ----------
    day : Day
        As it was run. [-]

    Returns
    -------
    Day
        The same. [-]

    Raises
    ------
    BalanceBroken
        If energy or water misses by more than a thousandth.
    """
    balance = day.balance
    if max(balance.energy_error_share, balance.water_error_share) > BALANCE_LIMIT:
        raise BalanceBroken(
            energy_error_share=balance.energy_error_share,
            water_error_share=balance.water_error_share,
        )
    return day


def _standing_day(
    days: DaySimulation, order: tuple[Draw, ...], fine_s: float, near: Near | None
) -> Day:
    """Run days until one ends as it began, and give that one.

    Days that only warm up are coarse and come near; they are never shown. Most systems repeat
    themselves on the second day already, so the second is run as if it were the one.
    """
    if near is not None and near.days is not None:
        days.begin_near(near.days)
        day, same = _shown_day(days, order)
        if same:
            return day
    for _ in range(MOST_WARM_UP_DAYS):
        days.step_by(COARSE * fine_s)
        days.day(order)
        days.step_by(fine_s)
        day, same = _shown_day(days, order)
        if same:
            break
    return day


def _shown_day(days: DaySimulation, order: tuple[Draw, ...]) -> tuple[Day, bool]:
    """Run a day that may be shown; say whether it ended as it began."""
    before = days.usual.state.layers.copy()
    day = days.day(order)
    return day, bool(np.abs(days.usual.state.layers - before).max(initial=0.0) < SAME_K)
