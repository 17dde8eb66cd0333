"""Flow and temperature of a network together, compiled.

Flows decide temperatures, temperatures decide viscosity, density and what a mixing
valve does, and that decides flows: each round solves the flows, carries the heat along
them, then moves valves, caps and reducers, until nothing moves.
"""

from __future__ import annotations

from math import exp, sqrt
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled
from isotherma.core.hydraulics import laws, network
from isotherma.core.hydraulics.network import OPEN, SHUT, Net
from isotherma.core.thermal import exchanger
from isotherma.core.thermal import mixer as mixer_law
from isotherma.core.water import fluids

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Table = NDArray[np.float64]

# what a link does to the temperature of what passes
PLAIN, HELD_AT, THROUGH, BODY, EXCHANGE, POWER, IN_STORE = range(7)
# columns of `Heat.figures` by what the link does
AT = 0  # HELD_AT, BODY, IN_STORE: temperature
SET, WATTS, LEAST, ON, OFF, MOST = range(6)  # THROUGH, POWER; MOST: where its cut-out holds
UA, PARTNER, PIECES = 1, 2, 2  # conductance; EXCHANGE: the other side's link; IN_STORE: layers
# columns of `Valves.mixer`
SET_C, DIFFERENCE, FACTOR_SI, BAND, HOLDS = range(5)
# columns of `Valves.legs`, of `Valves.reducer`
HOT_LEG, COLD_LEG = range(2)
WIDE, REGULATED = range(2)
# what a mixer is found to do
NORMAL, AT_HOT_STOP, AT_COLD_STOP, COLD_LOST = range(4)

ROUNDS: Final = 250
SAME_WARMTH_K: Final = 0.05
SWEEPS: Final = 400
SAME_SHARE: Final = 1e-6
SAME_K: Final = 1e-4
SAME_PA: Final = 0.01
LEAST_INLET_PA: Final = -0.9e5  # gauge: vapour and dissolved air; judgement, at sea level
FLIPS: Final = 4  # a heater that lights and drops more often than this never settles

_solve = network.solve_flows
_wanted = mixer_law.wanted_hot_share
_look_up = fluids.look_up
_counterflow = exchanger.counterflow_w_per_k
_coil_gives = exchanger.coil_gives_w
_HOT_STOP = mixer_law.HOT_STOP


class Heat(NamedTuple):
    """Temperatures: what enters, what each link does, and the properties of the fluids.

    `fluid` and `kind` have an entry per link, `figures` a row; `given_c` is what enters
    at given nodes. `first` and `touching` list the links at each node. `tables` holds a
    property table per fluid.
    """

    fluid: Ints
    kind: Ints
    figures: Floats
    given_c: Floats
    first: Ints
    touching: Ints
    tables: Table


class Valves(NamedTuple):
    """What moves by itself: mixers, pumps held by a switch or drive, reducers.

    `legs` has the hot and cold link of each mixer, `mixer` its figures. `capped` lists
    pumps' links and `cap_pa` the pressure they are held at; `stroked` those worked by hand or
    foot and `stroke_m3` their flow [m³/s]. `reducer` has for each its wide-open link and the
    link of its regulated side, `set_pa` what it is set to.
    """

    legs: Ints
    mixer: Floats
    capped: Ints
    cap_pa: Floats
    stroked: Ints
    stroke_m3: Floats
    reducer: Ints
    set_pa: Floats


class Flow(NamedTuple):
    """All that is solved: written in place, and where the next state starts from."""

    shut: Ints
    flow: Floats
    pressure: Floats
    node_c: Floats
    out_c: Floats
    opening: Floats
    doing: Ints
    lit: Ints
    parameters: Floats
    outflow: Floats


@compiled
def _leaving(net: Net, heat: Heat, flow: Flow, link: int, enters_c: float) -> float:
    """Temperature at which water leaves a link."""
    kind = heat.kind[link]
    if kind == PLAIN:
        return enters_c
    figures = heat.figures[link]
    if kind == HELD_AT:
        return float(figures[AT])
    table = heat.tables[heat.fluid[link]]
    rate = abs(flow.flow[link]) * _look_up(table, fluids.SPECIFIC, enters_c)
    if rate <= 0.0:
        return enters_c
    if kind in (THROUGH, POWER):
        if not flow.lit[link] or enters_c >= figures[SET]:
            return enters_c
        # of the water between both ends, as far as it gets warm
        middle = 0.5 * (enters_c + min(figures[SET], enters_c + figures[WATTS] / rate))
        rate = abs(flow.flow[link]) * _look_up(table, fluids.SPECIFIC, middle)
        given = min(figures[WATTS], max(figures[LEAST], rate * (figures[SET] - enters_c)))
        warm = enters_c + given / rate
        return float(min(warm, figures[MOST]) if kind == THROUGH else warm)
    if kind == IN_STORE:
        at = enters_c
        for _ in range(int(figures[PIECES])):
            at -= _coil_gives(figures[UA] / figures[PIECES], rate, at - figures[AT]) / rate
        return float(at)
    if kind == BODY:
        return float(figures[AT] + (enters_c - figures[AT]) * exp(-figures[UA] / rate))
    other = int(figures[PARTNER])
    their_flow = flow.flow[other]
    their_node = net.start[other] if their_flow >= 0.0 else net.end[other]
    their_c = flow.node_c[their_node]
    their_rate = abs(their_flow) * _look_up(
        heat.tables[heat.fluid[other]], fluids.SPECIFIC, their_c
    )
    grip = _counterflow(figures[UA], rate, their_rate)
    return float(enters_c + grip * (their_c - enters_c) / rate)


@compiled
def _carry(net: Net, heat: Heat, flow: Flow) -> float:
    """Carry heat along the flows until nothing changes; give the largest change found."""
    nodes = net.given.size
    most = 0.0
    for link in range(net.law.size):
        size = flow.flow[link]
        at = net.start[link] if size >= 0.0 else net.end[link]
        flow.out_c[link] = _leaving(net, heat, flow, link, flow.node_c[at])
    for sweep in range(SWEEPS):
        change = 0.0
        for index in range(nodes):
            node = index if sweep % 2 == 0 else nodes - 1 - index
            mass = warm = 0.0
            for at in range(heat.first[node], heat.first[node + 1]):
                link = heat.touching[at]
                size = flow.flow[link]
                arrives = size > 0.0 and net.end[link] == node
                arrives = arrives or (size < 0.0 and net.start[link] == node)
                if arrives:
                    mass += abs(size)
                    warm += abs(size) * flow.out_c[link]
            if net.given[node] and mass <= 0.0:
                now = heat.given_c[node]
            elif mass > 1e-9:
                now = warm / mass
            else:
                now = flow.node_c[node]
            change = max(change, abs(now - flow.node_c[node]))
            flow.node_c[node] = now
            for at in range(heat.first[node], heat.first[node + 1]):
                link = heat.touching[at]
                size = flow.flow[link]
                leaves = size > 0.0 and net.start[link] == node
                leaves = leaves or (size < 0.0 and net.end[link] == node)
                if leaves or (size == 0.0 and net.start[link] == node):
                    starts_c = heat.given_c[node] if net.given[node] else now
                    flow.out_c[link] = _leaving(net, heat, flow, link, starts_c)
                    if heat.kind[link] == EXCHANGE:
                        other = int(heat.figures[link, PARTNER])
                        theirs = flow.flow[other]
                        at_node = net.start[other] if theirs >= 0.0 else net.end[other]
                        flow.out_c[other] = _leaving(net, heat, flow, other, flow.node_c[at_node])
        most = max(most, change)
        if change < 0.1 * SAME_K:
            break
    return most


@compiled
def _light(heat: Heat, flow: Flow, rho: Floats, flips: Ints) -> bool:
    """Light and put out through-flow heaters by their flow; say whether one changed."""
    changed = False
    for link in range(heat.kind.size):
        if heat.kind[link] != THROUGH or flips[link] > FLIPS:
            continue
        flow_m3_per_s = abs(flow.flow[link]) / rho[link]
        if flow.lit[link] == 0 and flow_m3_per_s >= heat.figures[link, ON]:
            flow.lit[link] = 1
        elif flow.lit[link] == 1 and flow_m3_per_s < heat.figures[link, OFF]:
            flow.lit[link] = 0
        else:
            continue
        flips[link] += 1
        changed = True
        if flips[link] > FLIPS:
            flow.lit[link] = 2  # it lights and drops for ever: shown burning
    return changed


@compiled
def _blend(net: Net, flow: Flow, valves: Valves, pace: Floats, went: Floats) -> float:
    """Move every mixing valve towards what it wants; give the largest move.

    One that turns back goes half as far from then on, one that keeps its way a little further:
    so valves behind valves, and those at the edge of a check valve, come to rest.
    """
    most = 0.0
    for m in range(valves.legs.shape[0]):
        hot, cold = valves.legs[m, HOT_LEG], valves.legs[m, COLD_LEG]
        if valves.mixer[m, HOLDS] == 0.0 or flow.shut[hot] == SHUT or flow.shut[cold] == SHUT:
            continue
        into_hot, into_cold = max(0.0, flow.flow[hot]), max(0.0, flow.flow[cold])
        total = into_hot + into_cold
        if total < 1e-7:
            continue
        hot_c, cold_c = flow.out_c[hot], flow.out_c[cold]
        set_c = valves.mixer[m, SET_C]
        if abs(hot_c - cold_c) < SAME_WARMTH_K and abs(hot_c - set_c) < 1.0:
            continue  # both are as wanted: whatever it does changes nothing
        want = _wanted(hot_c, cold_c, set_c, valves.mixer[m, DIFFERENCE])
        found = min(1.0 - 1e-9, max(1e-9, into_hot / total))
        now = flow.opening[m]
        odds = now / (1.0 - now) * (want / (1.0 - want)) / (found / (1.0 - found))
        aim = odds / (1.0 + odds)
        if found <= 1e-8 or found >= 1.0 - 1e-8:
            aim = 0.5 * (now + (_HOT_STOP if found < 0.5 else 1.0 - _HOT_STOP))
        if (aim - now) * went[m] < 0.0:
            pace[m] *= 0.5
        else:
            pace[m] = min(16.0, 1.2 * pace[m])
        went[m] = aim - now
        aim = min(_HOT_STOP, max(1.0 - _HOT_STOP, now + pace[m] * (aim - now)))
        move = abs(aim - now)
        flow.doing[m] = NORMAL
        if aim >= _HOT_STOP - 1e-9:
            flow.doing[m] = AT_HOT_STOP
        elif aim <= 1.0 - _HOT_STOP + 1e-9:
            flow.doing[m] = AT_COLD_STOP
        if move > SAME_SHARE:
            most = max(most, move)
            flow.opening[m] = aim
            _open_legs(flow, valves, m)
        elif into_cold <= 1e-7 and hot_c > set_c + valves.mixer[m, BAND]:
            flow.doing[m] = COLD_LOST  # without cold it closes rather than scald
            flow.shut[hot] = SHUT
            most = 1.0
    return most


@compiled
def _open_legs(flow: Flow, valves: Valves, m: int) -> None:
    """Turn an opening into what its legs take."""
    factor, now = valves.mixer[m, FACTOR_SI], flow.opening[m]
    flow.parameters[valves.legs[m, HOT_LEG], laws.RESISTANCE] = 1.0 / (factor * max(now, 1e-4)) ** 2
    flow.parameters[valves.legs[m, COLD_LEG], laws.RESISTANCE] = (
        1.0 / (factor * max(1.0 - now, 1e-4)) ** 2
    )


@compiled
def _regulate(
    net: Net, flow: Flow, valves: Valves, rho: Floats, turns: Ints, choke: Floats
) -> float:
    """Hold pumps and reducers at their pressure, suction above its end; give the largest move [Pa].

    `choke` is the most head each pump makes so that its inlet stays above that end: what boils
    and comes out of solution there fills the pump instead of water.
    """
    most = 0.0
    for index in range(valves.capped.size):
        link = valves.capped[index]
        inlet = flow.pressure[net.start[link]]
        made = flow.pressure[net.end[link]] - inlet
        if inlet < LEAST_INLET_PA - SAME_PA or (choke[index] < np.inf and inlet < 0.0):
            choke[index] = max(0.0, made * LEAST_INLET_PA / inlet)
        head = min(choke[index], max(0.0, valves.cap_pa[index] - inlet))
        move = abs(head - flow.parameters[link, laws.CAP_PA])
        if move > SAME_PA:
            most = max(most, move)
            flow.parameters[link, laws.CAP_PA] = head
    for index in range(valves.stroked.size):
        link = valves.stroked[index]
        inlet = flow.pressure[net.start[link]]
        now = flow.parameters[link, laws.STROKE_M3]
        if inlet < LEAST_INLET_PA - SAME_PA or (now < valves.stroke_m3[index] and inlet < 0.0):
            aim = min(valves.stroke_m3[index], now * sqrt(LEAST_INLET_PA / inlet))
            if abs(aim - now) > SAME_SHARE * now:
                flow.parameters[link, laws.STROKE_M3] = aim
                most = max(most, 1.0)
    for index in range(valves.reducer.shape[0]):
        wide, regulated = valves.reducer[index, WIDE], valves.reducer[index, REGULATED]
        before = net.start[wide]
        if flow.shut[wide] != SHUT:  # wide open: is what leaves it above the setting?
            if flow.pressure[net.end[wide]] > valves.set_pa[index] + SAME_PA and turns[index] < 12:
                flow.shut[wide], flow.shut[regulated] = SHUT, OPEN
                turns[index] += 1
                most = max(most, 1.0)
            continue
        passing = max(0.0, flow.flow[regulated])
        flow_m3_per_s = passing / rho[wide]
        left = (
            flow.pressure[before]
            - flow.parameters[wide, laws.RESISTANCE] * flow_m3_per_s * flow_m3_per_s
        )
        miss = abs(passing - flow.outflow[before])
        if miss > 1e-10 * passing:
            flow.outflow[before] = passing
            most = max(most, 1.0)
        if left < valves.set_pa[index] - SAME_PA:
            flow.shut[wide], flow.shut[regulated] = OPEN, SHUT
            flow.outflow[before] = 0.0
            turns[index] += 1
            most = max(most, 1.0)
    return most


@compiled
def operate(
    net: Net, heat: Heat, valves: Valves, flow: Flow, fixed: Floats, warm: bool
) -> tuple[int, int, float, float]:
    """Find the operating point; `flow` is written in place.

    Gives the rounds, all steps of Newton's method, what is left of the energy equations
    [Pa], and the last move of temperature, share or pressure: above 1 it did not settle.
    """
    net = Net(
        net.law, net.start, net.end, net.one_way, net.rise, flow.parameters, net.curves,
        net.given, net.unknown, net.entry, net.order, net.first, net.row, net.place, net.pairs,
        net.update, net.entries,
    )  # fmt: skip
    links = net.law.size
    rho, mu = np.empty(links), np.empty(links)
    flips = np.zeros(links, dtype=np.int64)
    turns = np.zeros(valves.reducer.shape[0], dtype=np.int64)
    choke = np.full(valves.capped.size, np.inf)
    pace, went = np.ones(valves.legs.shape[0]), np.zeros(valves.legs.shape[0])
    for m in range(valves.legs.shape[0]):
        _open_legs(flow, valves, m)
    steps = 0
    residual = moved = np.inf
    for count in range(1, ROUNDS + 1):
        for link in range(links):
            table = heat.tables[heat.fluid[link]]
            ends = flow.node_c[net.start[link]], flow.node_c[net.end[link]]
            enters = ends[0] if flow.flow[link] >= 0.0 else ends[1]
            middle = 0.5 * (enters + flow.out_c[link])
            rho[link] = _look_up(table, fluids.DENSITY, middle)
            mu[link] = _look_up(table, fluids.VISCOSITY, middle)
        taken, residual = _solve(
            net, flow.shut, fixed, flow.outflow, rho, mu, flow.flow, flow.pressure,
            warm or count > 1, network.CLOSE_PA,
        )  # fmt: skip
        steps += taken
        warmer = _carry(net, heat, flow)
        lit = _light(heat, flow, rho, flips)
        share = _blend(net, flow, valves, pace, went)
        push = _regulate(net, flow, valves, rho, turns, choke)
        moved = max(warmer / SAME_K, share / SAME_SHARE, push / SAME_PA, 2.0 if lit else 0.0)
        if moved <= 1.0:
            return count, steps, residual, moved
    return ROUNDS, steps, residual, moved


@compiled
def finish(net: Net, heat: Heat, flow: Flow) -> tuple[Floats, float, bool]:
    """Give the density in each link, the worst imbalance, and if all pressures mean something."""
    links = net.law.size
    density = np.empty(links)
    for link in range(links):
        enters = net.start[link] if flow.flow[link] >= 0.0 else net.end[link]
        middle = 0.5 * (flow.node_c[enters] + flow.out_c[link])
        density[link] = _look_up(heat.tables[heat.fluid[link]], fluids.DENSITY, middle)
    home = network.islands(net, flow.shut)
    grounded = np.zeros(net.given.size, dtype=np.bool_)
    for node in range(net.given.size):
        if net.given[node]:
            grounded[home[node]] = True
    whole = True
    for node in range(net.given.size):
        whole = whole and grounded[home[node]]
    return density, network.imbalance(net, flow.flow, flow.outflow), whole
