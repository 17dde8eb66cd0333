"""From cold to hot: how long each source alone takes to warm its store, nothing drawn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from isotherma.core.errors import TargetNotReached
from isotherma.core.flows.fittings import coil_layers
from isotherma.core.setup import Setup
from isotherma.core.system.kinds import heat
from isotherma.core.system.nominal import figure
from isotherma.core.thermal.estimates import time_to_heat
from isotherma.core.timeline.record import Day, Vessel

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


def heat_ups(setup: Setup, day: Day) -> tuple[HeatUp, ...]:
    """Say how long each element, burner and coil takes from cold to hot.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day: what is stored and what heats it. [-]

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
    fresh = setup.conditions.fresh_c
    found = []
    for source in day.sources:
        if source.vessel < 0 or source.power_w < LEAST_W:
            continue
        vessel = day.vessels[source.vessel]
        low = min(vessel.layers - 1, max(0, source.layer))
        takes = _alone(_body(vessel, low), source.power_w, fresh, source.set_c)
        share = 1.0 - low / vessel.layers
        words = setup.parts[source.id].label
        found.append(HeatUp(source.id, words, fresh, source.set_c, share, takes))
    heaters = [part for part in setup.parts.values() if isinstance(part, heat.LiquidHeater)]
    if len(heaters) == 1 and heaters[0].heat_w:
        vessels = {vessel.id: vessel for vessel in day.vessels}
        for coil in setup.parts.values():
            if isinstance(coil, heat.Coil) and coil.fitted_in in vessels:
                found.append(_by_coil(setup, vessels[coil.fitted_in], coil, heaters[0]))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class _Body:
    """The layers of a store from one up: heat capacity [J/K], loss [W/K], air [°C]."""

    capacity: float
    loss: float
    air_c: float


def _body(vessel: Vessel, low: int) -> _Body:
    loss = float(np.sum(vessel.losses_w_per_k[low:]))
    capacity = (vessel.layer_j_per_k + vessel.aside_j_per_k) * (vessel.layers - low)
    return _Body(capacity, max(loss, 1e-9), vessel.air_c)


def _alone(body: _Body, watts: float, start_c: float, target_c: float) -> float | None:
    try:
        return time_to_heat(
            capacity_j_per_k=body.capacity, power_w=watts, start_c=start_c, target_c=target_c,
            loss_w_per_k=body.loss, ambient_c=body.air_c,
        )  # fmt: skip
    except TargetNotReached:
        return None


def _by_coil(setup: Setup, vessel: Vessel, coil: heat.Coil, heater: heat.LiquidHeater) -> HeatUp:
    fresh = setup.conditions.fresh_c
    low, _ = sorted(coil_layers(coil, vessel.layers))
    body = _body(vessel, low)
    conductance, watts = figure(coil, "conductance_w_per_k"), figure(heater, "heat_w")
    own = next(
        (part for part in setup.parts.values()
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
    words = f"{setup.label(str(coil.fitted_in))} by {heater.label}"
    share = 1.0 - low / vessel.layers
    return HeatUp(heater.id, words, fresh, target, share, takes_s, least=True)
