"""Pumped loops of warm water: which run now, by button, timer or always."""

from __future__ import annotations

from collections.abc import Iterable

from isotherma.core.system.kinds.temperature import LoopPump


def loops_running(
    loops: Iterable[LoopPump], pressed: frozenset[str], clock_s: float, until_s: float
) -> tuple[frozenset[str], float]:
    """Say which loop pumps run now, and until when that stays so.

    Parameters
    ----------
    loops : iterable of LoopPump
        Those that are joined. [-]
    pressed : frozenset of str
        Those whose button was pressed. [-]
    clock_s, until_s : float
        Now, and how far to look. [s]

    Returns
    -------
    tuple of frozenset of str and float
        Ids, and the time of the next change, `until_s` at the latest. [-, s]
    """
    running, goal = set(pressed), until_s
    for loop in loops:
        if loop.rule == "button":
            continue
        if loop.rule == "continuous":
            running.add(loop.id)
            continue
        period = max(loop.every_s, loop.runs_s + 1.0)
        into = clock_s % period
        if period - into < 1e-6:  # a hair before it runs again: time would not move on
            into = 0.0
        if into < loop.runs_s - 1e-6:
            running.add(loop.id)
            goal = min(goal, clock_s + loop.runs_s - into)
        else:
            goal = min(goal, clock_s + period - into)
    return frozenset(running), goal
