"""Freezing: how long until a filled run or vessel is at 0 °C, and until it is solid."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf, log
from typing import Final

from isotherma.core.engine.columns import ASIDE_J, COUNT, FIRST, LAYER_J
from isotherma.core.engine.course import Course
from isotherma.core.fields import known_or
from isotherma.core.system.kinds.water import FreshTank
from isotherma.core.thermal.store import tank_loss_w_per_k

FUSION_J_PER_KG: Final = 333.6e3


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
    """
    if air_c >= -1e-9:
        return inf, inf
    to_zero = 0.0
    if start_c > 0.0:
        to_zero = heat_j_per_k / loss_w_per_k * log((start_c - air_c) / -air_c)
    return to_zero, to_zero + water_kg * FUSION_J_PER_KG / (loss_w_per_k * -air_c)


def freezes(course: Course) -> tuple[Freeze, ...]:
    """List what can freeze at the coldest of the night, soonest first.

    Parameters
    ----------
    course : Course
        Its bodies; runs and vessels as they are filled. [-]

    Returns
    -------
    tuple of Freeze
        Runs from the fresh water's temperature, stores from where they stand at midnight,
        tanks from the fresh water's; only what is in a space below 0 °C. [s]
    """
    hours, bodies, circuit = course.hours, course.named.bodies, course.circuit
    coldest_s = 3 * 3600.0  # twelve hours after the warmest
    found = []
    fresh = course.conditions.fresh_c
    for row in bodies.pipe:
        item = circuit.links[int(row[7])].item
        if circuit.heat.fluid[int(row[7])] != 0:
            continue  # antifreeze
        air = hours.space_c(course.space_of.get(item), coldest_s)
        water = row[1] * row[2]
        capacity = water * bodies.specific[int(row[7])] + row[1] * row[3]
        zero, solid = freezing_s(heat_j_per_k=capacity, loss_w_per_k=row[1] * row[5],
                                 water_kg=water, start_c=fresh, air_c=air)  # fmt: skip
        if zero < inf:
            found.append(Freeze(item, circuit.links[int(row[7])].label, True, air, fresh, zero,
                                solid))  # fmt: skip
    for row, part_id in zip(bodies.vessel, course.named.vessels, strict=True):
        first, last = int(row[FIRST]), int(row[FIRST] + row[COUNT])
        stands_c = float(course.state.layers[first:last].mean())
        air = hours.space_c(course.space_of.get(part_id), coldest_s)
        loss = float(bodies.loss_w[first:last].sum())
        capacity = (row[LAYER_J] + row[ASIDE_J]) * row[COUNT]
        zero, solid = freezing_s(
            heat_j_per_k=capacity, loss_w_per_k=loss, water_kg=capacity / 4186.0,
            start_c=stands_c, air_c=air,
        )  # fmt: skip
        if zero < inf:
            label = circuit.parts[part_id].label
            found.append(Freeze(part_id, label, False, air, stands_c, zero, solid))
    for part in circuit.parts.values():
        if not isinstance(part, FreshTank) or not part.volume_m3:
            continue
        air = hours.space_c(course.space_of.get(part.id), coldest_s)
        water = part.volume_m3 * 999.0
        zero, solid = freezing_s(
            heat_j_per_k=water * 4186.0,
            loss_w_per_k=known_or(part.loss_w_per_k, tank_loss_w_per_k(part.volume_m3)),
            water_kg=water, start_c=fresh, air_c=air,
        )  # fmt: skip
        if zero < inf:
            found.append(Freeze(part.id, part.label, False, air, fresh, zero, solid))
    return tuple(sorted(found, key=lambda item: (item.to_zero_s, item.id)))
