"""Valves that follow a temperature, and the flows that follow the valves."""

from __future__ import annotations

from math import exp
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled, lean
from isotherma.core.engine.columns import (
    STILL_KG_PER_S,
    FlowState,
    ThermalState,
    Work,
)
from isotherma.core.flows.kernel import (
    COLD_LEG,
    DIFFERENCE,
    FACTOR_SI,
    HOLDS,
    HOT_LEG,
    REGULATED,
    SET_C,
    WIDE,
)  # fmt: skip
from isotherma.core.hydraulics import laws, network
from isotherma.core.hydraulics.network import OPEN, Net
from isotherma.core.thermal import mixer as mixer_law
from isotherma.core.water import fluids

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

_solve = network.solve_flows
_wanted = mixer_law.wanted_hot_share
_look_up = fluids.look_up
_HOT_STOP = mixer_law.HOT_STOP
SECANT_FROM: Final = 1e-3  # two solutions nearer to each other than this give no slope
CLOSE_PA: Final = 0.1  # of 10 kPa and more: a hundred thousandth of a flow
LEARNS_BY: Final = 0.004


@lean
def _open_legs(flowing: FlowState, state: ThermalState, m: int) -> None:
    factor, now = flowing.mixer[m, FACTOR_SI], state.opening[m]
    flowing.parameters[flowing.legs[m, HOT_LEG], laws.RESISTANCE] = (
        1.0 / (factor * max(now, 1e-4)) ** 2
    )
    flowing.parameters[flowing.legs[m, COLD_LEG], laws.RESISTANCE] = (
        1.0 / (factor * max(1.0 - now, 1e-4)) ** 2
    )


@lean
def move_mixers(
    legs: Ints, mixer: Floats, lag: Floats, flow: Floats, out_c: Floats, opening: Floats,
    step_s: float,
) -> float:  # fmt: skip
    """Let thermostatic valves follow with their lag; give the largest move since last solved."""
    most = 0.0
    count = legs.shape[0]
    for m in range(count):
        hot, cold = legs[m, HOT_LEG], legs[m, COLD_LEG]
        if mixer[m, HOLDS] == 0.0:
            continue
        into_hot, into_cold = max(0.0, flow[hot]), max(0.0, flow[cold])
        total = into_hot + into_cold
        if total < STILL_KG_PER_S:
            continue
        want = _wanted(out_c[hot], out_c[cold], mixer[m, SET_C], mixer[m, DIFFERENCE])
        found = min(1.0 - 1e-9, max(1e-9, into_hot / total))
        now = opening[m]
        odds = now / (1.0 - now) * (want / (1.0 - want)) / (found / (1.0 - found))
        aim = min(_HOT_STOP, max(1.0 - _HOT_STOP, odds / (1.0 + odds)))
        opening[m] = now + (1.0 - exp(-step_s / max(lag[m], 1e-3))) * (aim - now)
        most = max(most, abs(opening[m] - lag[count + m]))
    return most


@lean
def solve_again(
    net: Net, flowing: FlowState, state: ThermalState, rho: Floats, mu: Floats
) -> float:
    """Find the flows for the openings and temperatures of now; give what is left [Pa]."""
    for m in range(flowing.legs.shape[0]):
        _open_legs(flowing, state, m)
        flowing.lag[flowing.legs.shape[0] + m] = state.opening[m]
    for link in range(net.law.size):
        table = flowing.tables[flowing.fluid[link]]
        middle = 0.5 * (state.in_c[link] + state.out_c[link])
        rho[link] = _look_up(table, fluids.DENSITY, middle)
        mu[link] = _look_up(table, fluids.VISCOSITY, middle)
    here = Net(
        net.law, net.start, net.end, net.one_way, net.rise, flowing.parameters, net.curves,
        net.given, net.unknown, net.entry, net.order, net.first, net.row, net.place, net.pairs,
        net.update, net.entries,
    )  # fmt: skip
    left = 0.0
    for _ in range(3 if flowing.reducer.shape[0] else 1):
        _, left = _solve(
            here, flowing.shut, flowing.fixed, flowing.outflow, rho, mu, flowing.flow,
            flowing.pressure, net.law.size > 0,  # a literal True would be compiled once more
            CLOSE_PA,
        )  # fmt: skip
        for r in range(flowing.reducer.shape[0]):  # what leaves a reducer is taken before it
            wide, regulated = flowing.reducer[r, WIDE], flowing.reducer[r, REGULATED]
            if flowing.shut[wide] != OPEN:
                flowing.outflow[net.start[wide]] = max(0.0, flowing.flow[regulated])
    for link in range(net.law.size):
        if flowing.shut[link] != OPEN:
            flowing.flow[link] = 0.0
    return float(left)


@lean
def follower(flowing: FlowState) -> int:
    """Give the one mixing valve that follows by itself; -1 without, or with several."""
    found = -1
    for m in range(flowing.legs.shape[0]):
        passes = abs(flowing.flow[flowing.legs[m, HOT_LEG]]) + abs(
            flowing.flow[flowing.legs[m, COLD_LEG]]
        )
        if flowing.mixer[m, HOLDS] != 0.0 and passes > STILL_KG_PER_S:
            if found >= 0:
                return -1
            found = m
    return found


@compiled
def learn(
    net: Net, flowing: FlowState, state: ThermalState, rho: Floats, mu: Floats, m: int,
    swing: Floats,
) -> None:  # fmt: skip
    """Find how every flow changes with the opening of a valve: by solving beside it.

    Both solutions keep what enters a node equal to what leaves, so their difference does.
    """
    now, pressure = flowing.flow.copy(), flowing.pressure.copy()
    outflow = flowing.outflow.copy()
    shut = flowing.shut.copy()
    at = state.opening[m]
    beside = LEARNS_BY * (1.0 if at < 0.5 else -1.0)
    beside *= 2.0 * min(at, 1.0 - at)
    state.opening[m] = at + beside
    solve_again(net, flowing, state, rho, mu)
    same = True
    for link in range(now.size):
        swing[link] = (flowing.flow[link] - now[link]) / beside
        same = same and flowing.shut[link] == shut[link]
    if not same:  # something lifted or shut in between: no straight line
        swing[:] = 0.0
    state.opening[m] = at
    flowing.flow[:] = now
    flowing.pressure[:] = pressure
    flowing.outflow[:] = outflow
    flowing.shut[:] = shut
    for k in range(flowing.legs.shape[0]):
        _open_legs(flowing, state, k)
        flowing.lag[flowing.legs.shape[0] + k] = state.opening[k]


@lean
def bend(
    flow: Floats, shut: Ints, swing: Floats, last_flow: Floats, last_shut: Ints, now: float,
    before: float,
) -> None:  # fmt: skip
    """Take the slope of every flow from two solutions one after the other, for nothing.

    What enters a node leaves it in both, so it does in their difference.
    """
    moved = now - before
    same = True
    for link in range(flow.size):
        same = same and shut[link] == last_shut[link]
    if not same:  # something lifted or shut in between: no straight line until the next
        for link in range(flow.size):
            swing[link] = 0.0
    elif abs(moved) >= SECANT_FROM:
        for link in range(flow.size):
            more = abs(flow[link]) + abs(last_flow[link]) > STILL_KG_PER_S
            swing[link] = (flow[link] - last_flow[link]) / moved if more else 0.0


@lean
def keep(work: Work, flow: Floats, shut: Ints) -> None:
    """Take down a solution, for the slope to the next."""
    for link in range(flow.size):
        work.last_flow[link], work.last_shut[link] = flow[link], shut[link]
