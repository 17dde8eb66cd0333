"""The books of a run: what came in, went out and stayed, from what the kernel counted."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from isotherma.core.engine import columns, standing_step
from isotherma.core.engine.columns import ThermalState
from isotherma.core.engine.thermal_elements import Named
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.timeline.record import Balance

Floats = NDArray[np.float64]


def drawn_for(names: tuple[str, ...], given_j: Floats, drawn_j: Floats) -> dict[str, float]:
    """Say what sources took for their heat, where it is not that heat itself.

    Parameters
    ----------
    names : tuple of str
        Sources in the kernel's order. [-]
    given_j, drawn_j : array of float
        Heat to the water, and what was taken at the source of their wires, shape (n_sources,).
        [J]

    Returns
    -------
    dict of str to float
        Of those whose wires kept some. [J]
    """
    found: dict[str, float] = {}
    for part_id, heat, took in zip(names, given_j.tolist(), drawn_j.tolist(), strict=True):
        if heat > 0.0 and took != heat:
            found[part_id] = found.get(part_id, 0.0) + took
    return found


def balance(
    network: CompiledNetwork, named: Named, state: ThermalState, started_j: float, pooled_kg: float
) -> Balance:
    """Close the books of what was counted.

    Parameters
    ----------
    network : CompiledNetwork
        The network that ran. [-]
    named : Named
        Its thermal elements. [-]
    state : ThermalState
        As it stands now. [see columns]
    started_j, pooled_kg : float
        Heat and open water when counting began. [J, kg]

    Returns
    -------
    Balance
        With what did not add up, as a share of the largest sum. [-]
    """
    counted = state.counted
    change = standing_step.total_heat(named.thermal, state) - started_j
    came = sum(counted[key] for key in (columns.IN, columns.SOURCES, columns.BODIES))
    came += counted[columns.HELD_HEAT] + counted[columns.AIR_HEAT]
    lost = counted[columns.LOST_STORE] + counted[columns.LOST_PIPE] + counted[columns.LOST_BODY]
    out = counted[columns.OUT]
    scale = max(abs(came), abs(out), abs(lost), abs(change), 1.0)
    kept = standing_step.held_mass(state) - pooled_kg
    into, away = float(counted[columns.MASS_IN]), float(counted[columns.MASS_OUT])
    taken: dict[str, float] = {}
    for link, mass in zip(network.links, state.taken, strict=True):
        if mass > 0.0:
            taken[link.item] = taken.get(link.item, 0.0) + float(mass)
    given: dict[str, float] = {}
    for part_id, joules in zip(named.sources, state.given, strict=True):
        given[part_id] = given.get(part_id, 0.0) + float(joules)
    return Balance(
        heat_in_j=float(counted[columns.IN]), sources_j=given,
        drawn_j=drawn_for(named.sources, state.given, state.drawn),
        bodies_j={
            part_id: float(row[columns.HEAT_GIVEN])
            for part_id, row in zip(named.stirred, state.stirred, strict=True)
        },
        held_j=float(counted[columns.HELD_HEAT]), air_j=float(counted[columns.AIR_HEAT]),
        heat_out_j=float(out), store_loss_j=float(counted[columns.LOST_STORE]),
        pipe_loss_j=float(counted[columns.LOST_PIPE]),
        body_loss_j=float(counted[columns.LOST_BODY]), stored_change_j=float(change),
        taken_kg=taken,
        energy_error_share=float(abs(came - out - lost - change) / scale),
        water_error_share=float(abs(into - away - kept) / max(into, away, 1e-3)),
    )  # fmt: skip
