"""Freezing: how long until a filled run or vessel is at 0 °C, and until it is solid."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf, log
from typing import Final

import numpy as np

from isotherma.core.fields import known_or
from isotherma.core.flows.waste import trays_of
from isotherma.core.setup import Setup
from isotherma.core.system.kinds.heat import HeatPad
from isotherma.core.system.kinds.waste import GreyTank, Trap
from isotherma.core.system.kinds.water import FreshTank
from isotherma.core.system.nominal import figure, known_figure
from isotherma.core.system.vehicle import Vehicle
from isotherma.core.thermal.losses import tank_loss_w_per_k
from isotherma.core.thermal.pipe import loss_w_per_m_k
from isotherma.core.timeline.record import Day
from isotherma.core.water import FRESH_KG_PER_M3, SPECIFIC_J_PER_KG_K

FUSION_J_PER_KG: Final = 333.6e3
TRAP_WALL_M, TRAP_W_PER_M_K = 0.0025, 0.2  # of plastic, as most small ones


@dataclass(frozen=True, slots=True)
class Freeze:
    """A filled thing at the brief's coldest night, nothing heating: to 0 °C, to solid [s]."""

    id: str
    label: str
    is_run: bool
    air_c: float
    start_c: float
    to_zero_s: float
    to_solid_s: float


def freezing_s(
    *, heat_j_per_k: float, loss_w_per_k: float, water_kg: float, start_c: float, air_c: float
) -> tuple[float, float]:
    """Time to 0 °C and to solid ice, one body in steady cold.

    Parameters
    ----------
    heat_j_per_k : float
        Of water and what holds it, > 0. [J/K]
    loss_w_per_k : float
        To the air, > 0. [W/K]
    water_kg : float
        That freezes. [kg]
    start_c, air_c : float
        At first, and around. [°C]

    Returns
    -------
    tuple of float
        To 0 °C and to solid; infinite where the air is not below 0 °C. [s]

    Notes
    -----
    t₀ = C/U ln((T − T_a)/(0 − T_a)); then all heat of fusion at the loss of 0 °C, which is
    early, for ice insulates.

    References
    ----------
    Incropera et al., ch. 5 (lumped capacitance).

    Examples
    --------
    >>> cools, solid = freezing_s(
    ...     heat_j_per_k=4200.0, loss_w_per_k=1.0, water_kg=1.0, start_c=10.0, air_c=-10.0
    ... )
    >>> round(cools)
    2911
    >>> round(solid - cools)
    33360
    """
    if air_c >= -1e-9:
        return inf, inf
    to_zero = 0.0
    if start_c > 0.0:
        to_zero = heat_j_per_k / loss_w_per_k * log((start_c - air_c) / -air_c)
    return to_zero, to_zero + water_kg * FUSION_J_PER_KG / (loss_w_per_k * -air_c)


def freezes(setup: Setup, day: Day) -> tuple[Freeze, ...]:
    """List what can freeze at the coldest of the night, soonest first.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day: runs and vessels as they are filled. [-]

    Returns
    -------
    tuple of Freeze
        Runs from the fresh water's temperature, stores from where they stand at midnight,
        tanks from the fresh water's; only what is in a space below 0 °C. [s]

    References
    ----------
    Lumped capacitance to 0 °C, then the heat of freezing at a steady loss; Incropera et al.,
    Fundamentals of Heat and Mass Transfer, ch. 5.
    """
    hours = setup.hours
    coldest_s = 3 * 3600.0  # twelve hours after the warmest
    found = []
    fresh = setup.conditions.fresh_c
    for run in day.pipes:
        air = hours.space_c(setup.space_of.get(run.id), coldest_s)
        zero, solid = freezing_s(
            heat_j_per_k=run.heat_j_per_k, loss_w_per_k=run.loss_w_per_k, water_kg=run.water_kg,
            start_c=fresh, air_c=air,
        )  # fmt: skip
        if zero < inf:
            found.append(Freeze(run.id, run.label, True, air, fresh, zero, solid))
    for vessel in day.vessels:
        stands_c = float(np.mean(vessel.end_c))
        air = hours.space_c(setup.space_of.get(vessel.id), coldest_s)
        capacity = (vessel.layer_j_per_k + vessel.aside_j_per_k) * vessel.layers
        zero, solid = freezing_s(
            heat_j_per_k=capacity, loss_w_per_k=float(np.sum(vessel.losses_w_per_k)),
            water_kg=capacity / SPECIFIC_J_PER_KG_K, start_c=stands_c, air_c=air,
        )  # fmt: skip
        if zero < inf:
            label = setup.parts[vessel.id].label
            found.append(Freeze(vessel.id, label, False, air, stands_c, zero, solid))
    for part in setup.parts.values():
        if not isinstance(part, FreshTank | GreyTank) or not part.volume_m3:
            continue
        air = hours.space_c(setup.space_of.get(part.id), coldest_s)
        water = part.volume_m3 * FRESH_KG_PER_M3
        loss = known_or(part.loss_w_per_k, tank_loss_w_per_k(part.volume_m3))
        zero, solid = freezing_s(
            heat_j_per_k=water * SPECIFIC_J_PER_KG_K, loss_w_per_k=loss, water_kg=water,
            start_c=fresh, air_c=air + _padded_w(setup, part.id) / loss,
        )  # fmt: skip
        if zero < inf:
            found.append(Freeze(part.id, part.label, False, air, fresh, zero, solid))
    found += _waste_runs(setup, coldest_s)
    return tuple(sorted(found, key=lambda item: (item.to_zero_s, item.id)))


def _padded_w(setup: Setup, tank: str) -> float:
    """Give what heat pads on a tank put into it [W]."""
    return sum(
        figure(part, "power_w")
        for part in setup.parts.values()
        if isinstance(part, HeatPad) and part.fitted_in == tank
        and setup.at.get(part.id) != "off" and known_figure(part, "power_w") is not None
    )  # fmt: skip


def _waste_runs(setup: Setup, clock_s: float) -> list[Freeze]:
    """Give waste runs in which water stands where they rise, and traps that seal by water."""
    runs = {run.id: run for run in setup.computed.pipes}
    found = []
    for tray in trays_of(setup.system, setup.standing, Vehicle()):
        for held in tray.runs:
            run = runs[held.id]
            if held.keeps_m3 and run.length_m is not None and run.bore_m is not None:
                around = loss_w_per_m_k(
                    bore_m=run.bore_m, wall_m=figure(run, "wall_m"), material=run.material,
                    insulation_m=figure(run, "insulation_m"),
                    insulation_w_per_m_k=figure(run, "insulation_w_per_m_k"),
                )  # fmt: skip
                found.append(_standing(
                    setup, run.id, run.label, True, held.keeps_m3, run.length_m * around, clock_s
                ))  # fmt: skip
        trap = setup.parts.get(tray.trapped_by)
        if tray.seal_m3 > 0.0 and isinstance(trap, Trap):
            around = loss_w_per_m_k(
                bore_m=figure(trap, "bore_m"), wall_m=TRAP_WALL_M, material="plastic",
                insulation_m=0.0, insulation_w_per_m_k=TRAP_W_PER_M_K,
            )  # fmt: skip
            length = 2.0 * figure(trap, "seal_m")
            found.append(_standing(
                setup, trap.id, trap.label, False, tray.seal_m3, length * around, clock_s
            ))  # fmt: skip
    return [item for item in found if item.to_zero_s < inf]


def _standing(
    setup: Setup, item: str, label: str, is_run: bool, volume_m3: float, loss_w_per_k: float,
    clock_s: float,
) -> Freeze:  # fmt: skip
    """Say when water that stands somewhere freezes; it starts as warm as fresh water."""
    air, fresh = setup.hours.space_c(setup.space_of.get(item), clock_s), setup.conditions.fresh_c
    water = volume_m3 * FRESH_KG_PER_M3
    zero, solid = freezing_s(
        heat_j_per_k=water * SPECIFIC_J_PER_KG_K, loss_w_per_k=loss_w_per_k, water_kg=water,
        start_c=fresh, air_c=air,
    )  # fmt: skip
    return Freeze(item, label, is_run, air, fresh, zero, solid)
