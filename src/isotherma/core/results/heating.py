"""From cold to hot: how long each source alone takes to warm its store, nothing drawn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.engine.columns import (
    AIR_C,
    ASIDE_J,
    COUNT,
    FIRST,
    LAYER_J,
    S_AT,
    S_SET,
    S_VESSEL,
    S_WATTS,
    Floats,
)
from isotherma.core.engine.course import Course
from isotherma.core.errors import TargetNotReached
from isotherma.core.fields import known_or
from isotherma.core.flows.fittings import coil_layers
from isotherma.core.system.kinds import heat
from isotherma.core.thermal.estimates import time_to_heat

NEAR_K: Final = 0.5  # a coil never quite brings water to the coolant's heat
STEP_K: Final = 0.25
LEAST_W: Final = 1.0  # the sun's comes by the hour


@dataclass(frozen=True, slots=True)
class HeatUp:
    """One source and what it warms, from fresh water to its set point; None: it never does.

    `share` is the part of the store's height it warms: an element half way up leaves the rest.
    `least` says that it takes at least so long, for the loop's own flow is not counted.
    """

    source: str
    words: str
    start_c: float
    target_c: float
    share: float
    takes_s: float | None
    least: bool = False


def heat_ups(course: Course) -> tuple[HeatUp, ...]:
    """Say how long each element, burner and coil takes from cold to hot.

    Parameters
    ----------
    course : Course
        A system as it stands, with its bodies. [-]

    Returns
    -------
    tuple of HeatUp
        One for each source with a store and power, in the order of the parts. [s]

    Notes
    -----
    The water at and above a source is one body, which it may stir; what lies lower stays cold.
    Standing loss counts in the same share. A coil gives UA (T_coolant − T), no more than its
    heater has.
    """
    bodies, named, circuit = course.named.bodies, course.named, course.circuit
    fresh = course.conditions.fresh_c
    found = []
    for row, part_id in zip(bodies.source, named.sources, strict=True):
        if row[S_VESSEL] < 0.0 or row[S_WATTS] < LEAST_W:
            continue
        vessel = bodies.vessel[int(row[S_VESSEL])]
        first, count = int(vessel[FIRST]), int(vessel[COUNT])
        low = min(count - 1, max(0, int(row[S_AT]) - first))
        body = _body(course, vessel, low)
        takes = _alone(body, float(row[S_WATTS]), fresh, float(row[S_SET]))
        words = circuit.parts[part_id].label
        found.append(HeatUp(part_id, words, fresh, float(row[S_SET]), 1.0 - low / count, takes))
    heaters = [part for part in circuit.parts.values() if isinstance(part, heat.LiquidHeater)]
    if len(heaters) == 1 and heaters[0].heat_w:
        for coil in circuit.parts.values():
            if isinstance(coil, heat.Coil) and coil.fitted_in in named.vessels:
                found.append(_by_coil(course, coil, heaters[0]))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class _Body:
    """The layers of a store from one up: heat capacity [J/K], loss [W/K], air [°C]."""

    capacity: float
    loss: float
    air_c: float


def _body(course: Course, row: Floats, low: int) -> _Body:
    first, count = int(row[FIRST]), int(row[COUNT])
    loss = float(course.named.bodies.loss_w[first + low : first + count].sum())
    capacity = float(row[LAYER_J] + row[ASIDE_J]) * (count - low)
    return _Body(capacity, max(loss, 1e-9), float(row[AIR_C]))


def _alone(body: _Body, watts: float, start_c: float, target_c: float) -> float | None:
    try:
        return time_to_heat(
            capacity_j_per_k=body.capacity, power_w=watts, start_c=start_c, target_c=target_c,
            loss_w_per_k=body.loss, ambient_c=body.air_c,
        )  # fmt: skip
    except TargetNotReached:
        return None


def _by_coil(course: Course, coil: heat.Coil, heater: heat.LiquidHeater) -> HeatUp:
    named, fresh = course.named, course.conditions.fresh_c
    vessel = named.bodies.vessel[named.vessels.index(str(coil.fitted_in))]
    low, _ = sorted(coil_layers(coil, int(vessel[COUNT])))
    body = _body(course, vessel, low)
    conductance, watts = known_or(coil.conductance_w_per_k, 150.0), heater.heat_w or 0.0
    own = next(
        (part for part in course.circuit.parts.values()
         if isinstance(part, heat.Thermostat) and part.fitted_in == coil.fitted_in), None,
    )  # fmt: skip
    coolant_c = heater.set_c
    target = min(own.set_c if own is not None else 60.0, coolant_c - NEAR_K)
    takes_s: float | None = 0.0
    celsius = fresh
    while celsius < target and takes_s is not None:
        step = min(STEP_K, target - celsius)
        middle = celsius + step / 2
        gain = min(watts, conductance * (coolant_c - middle)) - body.loss * (middle - body.air_c)
        takes_s = takes_s + body.capacity * step / gain if gain > 0.0 else None
        celsius += step
    words = f"{course.label(str(coil.fitted_in))} by {heater.label}"
    share = 1.0 - low / int(vessel[COUNT])
    return HeatUp(heater.id, words, fresh, target, share, takes_s, least=True)
