"""Pumps worked by foot or hand: water comes in pulses, and a flame that needs flow goes out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.system import System
from isotherma.core.system.configuration import ports_reached
from isotherma.core.system.kinds.heat import ThroughFlow, ThroughFlowGas
from isotherma.core.system.kinds.water import Accumulator, FootPump, HandPump
from isotherma.core.system.nominal import computed, figure, known_figure

PRESSING: Final = 0.5  # of a stroke's time: as long as the way back
ELECTRIC_SENSES_S: Final = 1.0
SMOOTHS: Final = 2.0  # strokes of water an accumulator must hold to carry the flow over; judgement


@dataclass(frozen=True, slots=True)
class Strokes:
    """What a heater feels of a pump worked by hand or foot [m³/s, s].

    `peak_m3_per_s` while it is pressed, for `pressed_s`; `needs_m3_per_s` to come on, `needs_s`
    until it heats. `smoothed_by` is an accumulator that carries the flow over, "" none.
    """

    pump: str
    heater: str
    peak_m3_per_s: float
    mean_m3_per_s: float
    pressed_s: float
    needs_m3_per_s: float
    needs_s: float
    smoothed_by: str

    @property
    def stays_lit(self) -> bool:
        """Whether it comes on and stays on between strokes."""
        return bool(self.smoothed_by) and self.mean_m3_per_s >= self.needs_m3_per_s

    @property
    def ever_lights(self) -> bool:
        """Whether it comes on at all, if only to go out again."""
        lit = self.peak_m3_per_s >= self.needs_m3_per_s and self.pressed_s >= self.needs_s
        return self.stays_lit or lit


def strokes_of(system: System) -> tuple[Strokes, ...]:
    """Find heaters that need flow behind pumps that are worked by foot or hand.

    Parameters
    ----------
    system : System
        Any document; likely figures are written in. [-]

    Returns
    -------
    tuple of Strokes
        Of pumps whose flow is known. [m³/s]

    Notes
    -----
    Half of each stroke presses, at twice the mean flow.

    References
    ----------
    Continuity; Hydraulic Institute, reciprocating pumps of one cylinder.
    """
    if not any(isinstance(part, FootPump | HandPump) for part in system.parts):
        return ()
    known = computed(system)
    parts = {part.id: part for part in known.parts}
    found = []
    for pump in known.parts:
        if not isinstance(pump, FootPump | HandPump):
            continue
        mean = known_figure(pump, "flow_m3_per_s")
        if mean is None:
            continue
        span = 60.0 / figure(pump, "strokes_per_min")
        stroke = mean * span if pump.stroke_m3 is None else pump.stroke_m3
        reached = {key for key, _ in ports_reached(known, None, (pump.id, "outlet"))}
        smoothed = next(
            (part.id for part in known.parts if isinstance(part, Accumulator)
             and part.id in reached and figure(part, "volume_m3") >= SMOOTHS * stroke), ""
        )  # fmt: skip
        for key in sorted(reached):
            heater = parts.get(key)
            if not isinstance(heater, ThroughFlow):
                continue
            waits = ELECTRIC_SENSES_S
            if isinstance(heater, ThroughFlowGas):
                waits = figure(heater, "sense_s") + figure(heater, "light_s")
            found.append(Strokes(
                pump.id, heater.id, mean / PRESSING, mean, PRESSING * span,
                figure(heater, "on_flow_m3_per_s"), waits, smoothed,
            ))  # fmt: skip
    return tuple(found)
