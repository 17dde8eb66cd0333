"""How hard heaters worked and how hot stores stood, over a day."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from isotherma.core.engine import columns
from isotherma.core.results.outcome import Outcome


@dataclass(frozen=True, slots=True)
class Fire:
    """A heater that lights: how long it heated, how often, at what share of its full power.

    `share` is None where it never burned; a low one soots and wears it.
    """

    id: str
    label: str
    fired_s: float
    starts: float
    share: float | None


def fires(outcome: Outcome) -> tuple[Fire, ...]:
    """Say of each heater that modulates how hard it worked.

    Parameters
    ----------
    outcome : Outcome
        A day. [-]

    Returns
    -------
    tuple of Fire
        Through-flow heaters and loop heaters that have power, in the order of the bodies. [s, -]
    """
    named, day = outcome.course.named, outcome.timeline
    found = []
    for row, part_id in zip(named.bodies.stirred, named.stirred, strict=True):
        watts = float(row[columns.B_WATTS])
        if watts <= 0.0 or int(row[columns.B_KIND]) == columns.PLAIN_BODY:
            continue
        seconds = day.fired_s.get(part_id, 0.0)
        heat_j = day.balance.bodies_j.get(part_id, 0.0)
        share = min(1.0, heat_j / (watts * seconds)) if seconds > 0.0 else None
        found.append(Fire(
            part_id, outcome.course.label(part_id), seconds, day.starts.get(part_id, 0.0), share
        ))  # fmt: skip
    return tuple(found)


def hottest_at_rest_c(outcome: Outcome) -> float | None:
    """Give the hottest a layer of the shown store stood while nothing was drawn.

    Parameters
    ----------
    outcome : Outcome
        A day. [-]

    Returns
    -------
    float or None
        Of the day; None without a layered store. [°C]
    """
    day = outcome.timeline
    if not day.layers or not len(day.log):
        return None
    at_rest = day.log[day.log[:, columns.MASS] <= 0.0]
    rows = at_rest if len(at_rest) else day.log
    return float(np.max(rows[:, columns.LOG_COLUMNS : columns.LOG_COLUMNS + day.layers]))
