"""Days of a trip that differ, one after the other, each from where the one before ended."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import groupby
from typing import Final

import numpy as np

from isotherma.core.engine.day_simulation import DaySimulation
from isotherma.core.engine.periodic_day import SAME_K, Near, asked, balanced, run_day
from isotherma.core.engine.state_simulation import FINE_S
from isotherma.core.setup import Setup
from isotherma.core.timeline.record import AlikeDays

SAME_SHARE: Final = 0.01  # of a battery: what waits for a full one hangs on less


def run_days(
    kinds: Mapping[str, Setup], order: Sequence[str], *, fine_s: float = FINE_S,
    near: Near | None = None,
) -> Iterator[AlikeDays]:  # fmt: skip
    """Run the days of a trip in order.

    Parameters
    ----------
    kinds : mapping of str to Setup
        What a day of each kind is run from; all of the same parts. [-]
    order : sequence of str
        The kind of every day, shape (n_days,). [-]
    fine_s : float
        Step while something moves, > 0. [s]
    near : Near or None
        As for `run_day`, for the first day. [-]

    Returns
    -------
    iterator of AlikeDays
        Once a day ended as it began, the rest of its kind in a row is like it. [-]

    Raises
    ------
    BalanceBroken
        If energy or water misses by more than a thousandth.

    Notes
    -----
    The first days begin as the brief has it: as a day like them left everything, or just filled.
    """
    number, evening = 1, None
    simulations: dict[str, DaySimulation] = {}
    for kind, row in groupby(order):
        setup = kinds[kind]
        last = number + len(tuple(row)) - 1
        if evening is None:
            ran = run_day(setup, fine_s=fine_s, near=near)
            evening = ran.day.evening
            upto = last if setup.brief.day_start == "standing" else number
            yield AlikeDays(kind, number, upto, ran.day)
            number = upto + 1
        if number <= last and kind not in simulations:
            simulations[kind] = DaySimulation(setup, fine_s)
        while number <= last:
            days = simulations[kind]
            assert evening is not None  # every day leaves one
            days.go_on_from(evening)
            layers, battery_j = days.usual.state.layers.copy(), days.usual.hours.battery_j
            day = balanced(days.day(asked(setup)))
            moved_k = np.abs(days.usual.state.layers - layers).max(initial=0.0)
            moved_j = abs(days.usual.hours.battery_j - battery_j)
            same = moved_k < SAME_K and moved_j <= SAME_SHARE * setup.hours.full_j
            upto = last if same else number
            yield AlikeDays(kind, number, upto, day)
            number, evening = upto + 1, day.evening
