"""The books of a run: what came in, went out and stayed, from what the kernel counted."""

from __future__ import annotations

from isotherma.core.engine import columns, resting
from isotherma.core.engine.bodies import Named
from isotherma.core.engine.columns import State
from isotherma.core.engine.record import Balance
from isotherma.core.flows.circuit import Circuit


def balance(
    circuit: Circuit, named: Named, state: State, started_j: float, pooled_kg: float
) -> Balance:
    """Close the books of what was counted.

    Parameters
    ----------
    circuit : Circuit
        The network that ran. [-]
    named : Named
        Its bodies. [-]
    state : State
        As it stands now. [see columns]
    started_j, pooled_kg : float
        Heat and open water when counting began. [J, kg]

    Returns
    -------
    Balance
        With what did not add up, as a share of the largest sum. [-]
    """
    counted = state.counted
    change = resting.total_heat(named.bodies, state) - started_j
    came = sum(counted[key] for key in (columns.IN, columns.SOURCES, columns.BODIES))
    came += counted[columns.HELD_HEAT] + counted[columns.AIR_HEAT]
    lost = counted[columns.LOST_STORE] + counted[columns.LOST_PIPE] + counted[columns.LOST_BODY]
    out = counted[columns.OUT]
    scale = max(abs(came), abs(out), abs(lost), abs(change), 1.0)
    kept = resting.held_mass(state) - pooled_kg
    into, away = float(counted[columns.MASS_IN]), float(counted[columns.MASS_OUT])
    taken: dict[str, float] = {}
    for link, mass in zip(circuit.links, state.taken, strict=True):
        if mass > 0.0:
            taken[link.item] = taken.get(link.item, 0.0) + float(mass)
    given: dict[str, float] = {}
    for part_id, joules in zip(named.sources, state.given, strict=True):
        given[part_id] = given.get(part_id, 0.0) + float(joules)
    return Balance(
        heat_in_j=float(counted[columns.IN]), sources_j=given,
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
