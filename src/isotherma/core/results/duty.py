"""How hard heaters worked and how hot stores stood, over a day."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from isotherma.core.results.outcome import Outcome


@dataclass(frozen=True, slots=True)
class Duty:
    """A heater that lights: how long it heated, how often, at what share of its full power.

    `share` is None where it never burned; a low one soots and wears it.
    """

    id: str
    label: str
    fired_s: float
    starts: float
    share: float | None


def duties(outcome: Outcome) -> tuple[Duty, ...]:
    """Say of each heater that modulates how hard it worked.

    Parameters
    ----------
    outcome : Outcome
        A day. [-]

    Returns
    -------
    tuple of Duty
        Through-flow heaters and loop heaters that have power, in their order. [s, -]
    """
    day, found = outcome.timeline, []
    for heater in day.heaters:
        part_id, watts = heater.id, heater.power_w
        if watts <= 0.0:
            continue
        seconds = day.fired_s.get(part_id, 0.0)
        heat_j = day.balance.bodies_j.get(part_id, 0.0)
        share = min(1.0, heat_j / (watts * seconds)) if seconds > 0.0 else None
        found.append(Duty(
            part_id, outcome.setup.label(part_id), seconds, day.starts.get(part_id, 0.0), share
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
    at_rest = day.rows.where(day.rows.mass_kg <= 0.0)
    rows = at_rest if len(at_rest) else day.rows
    return float(np.max(rows.layers_c))
