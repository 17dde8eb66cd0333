"""One step of flow: links in the order of the flow give and take heat, and every joule is counted.

Two phases per step. A round of links is cut at a body that emits from what it holds and takes in
what arrives at the end of the step. So no order of parts matters and nothing is lost.
"""

from __future__ import annotations

from math import exp

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import lean
from isotherma.core.engine.columns import (
    A_C,
    A_W,
    AIR_COIL,
    AIR_HEAT,
    B_HEAT_J,
    C_CONDUCTANCE,
    C_FROM,
    C_TO,
    COIL,
    DRAWN,
    ENTERS,
    FIRST,
    GONE_C,
    HELD,
    HELD_HEAT,
    IN,
    JET,
    LAYER_J,
    LAYER_KG,
    LAYERED,
    LEAVES,
    LOST_PIPE,
    MASS_IN,
    MASS_OUT,
    O_BODY_J,
    O_SPECIFIC,
    OUT,
    P_AIR_C,
    P_CELL_KG,
    P_CELLS,
    P_FIRST,
    P_TO_AIR_W,
    P_TO_WALL_W,
    P_WALL_J,
    PIPE,
    PLATE,
    POOL_C,
    POOL_IN,
    POOL_KG,
    POOL_OUT,
    REUSE,
    STILL_KG_PER_S,
    STIRRED,
    TEMP,
    X_COLD,
    X_CONDUCTANCE,
    X_ENTERS_C,
    X_HOT,
    X_MET,
    X_PASSES_W,
    X_RATE,
    ThermalElements,
    ThermalState,
    Work,
)  # fmt: skip
from isotherma.core.engine.heater_control import heat_body
from isotherma.core.engine.standing_step import (
    catch_up,
    exchange_round,
    go_round,
    pools,
    rest_bodies,
    turn_round,
    vessels,
)  # fmt: skip
from isotherma.core.hydraulics.network import Net
from isotherma.core.thermal import exchanger
from isotherma.core.thermal import pipe as pipe_law
from isotherma.core.thermal import store as store_law
from isotherma.core.thermal.pipe import RING_C, RING_HEAD, RING_KG

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]

_push = pipe_law.push
_exchange = pipe_law.exchange
_draw = store_law.draw_at
_counterflow = exchanger.counterflow_w_per_k
_coil_gives = exchanger.coil_gives_w


@lean
def emits_s(thermal: ThermalElements, link: int, flow: float) -> float:
    """Give for how long a body can emit from what it holds, before what enters it counts [s]."""
    act, slot = thermal.act[link], thermal.slot[link]
    if act == HELD:  # whatever enters, it emits the same, unless it is cold
        return 1e6 if thermal.air[slot, A_C] > GONE_C else 0.0
    if act == PIPE:
        return float(thermal.pipe[slot, P_CELLS] * thermal.pipe[slot, P_CELL_KG] / flow)
    if act == STIRRED:
        return float(0.3 * thermal.stirred[slot, B_HEAT_J] / (flow * thermal.specific[link]))
    if act == LAYERED:
        return float(thermal.vessel[slot, LAYER_KG] / flow)
    return 0.0


@lean
def pass_order(
    net: Net, thermal: ThermalElements, flow: Floats, order: Ints, cut: Ints, waiting: Ints,
    done: Bools,
) -> int:  # fmt: skip
    """Sort the links that carry water by the flow; mark where rounds are cut. Give how many.

    `waiting` (by node) and `done` (by link) are to work in.
    """
    links, nodes = net.law.size, net.given.size
    for node in range(nodes):
        waiting[node] = 0
    for link in range(links):
        cut[link] = 0
        if abs(flow[link]) > STILL_KG_PER_S:
            to = net.end[link] if flow[link] > 0.0 else net.start[link]
            if not net.given[to]:
                waiting[to] += 1
    total = 0
    for link in range(links):
        done[link] = abs(flow[link]) <= STILL_KG_PER_S
    while True:
        moved = False
        for link in range(links):
            if done[link]:
                continue
            start = net.start[link] if flow[link] > 0.0 else net.end[link]
            if waiting[start] == 0 or net.given[start]:
                done[link] = True
                order[total] = link
                total += 1
                moved = True
                if cut[link] == 0:
                    to = net.end[link] if flow[link] > 0.0 else net.start[link]
                    if not net.given[to]:
                        waiting[to] -= 1
        if moved:
            continue
        best, longest = -1, -1.0
        for link in range(links):  # a round: cut it at the body that can emit longest
            if not done[link] and cut[link] == 0:
                lasts = emits_s(thermal, link, abs(flow[link]))
                if lasts > longest:
                    best, longest = link, lasts
        if best < 0:
            break
        cut[best] = 1
        to = net.end[best] if flow[best] > 0.0 else net.start[best]
        if not net.given[to]:
            waiting[to] -= 1
    return total


@lean
def longest_step(
    thermal: ThermalElements, flow: Floats, order: Ints, cut: Ints, total: int
) -> float:
    """Give the longest step at which no cut body emits more than it holds [s]."""
    longest = 1e6
    for at in range(total):
        link = order[at]
        if cut[link] == 1:
            longest = min(longest, max(0.02, emits_s(thermal, link, abs(flow[link]))))
    return longest


@lean
def _held(
    thermal: ThermalElements, link: int, heat_j_per_k: float, enters_c: float, step_s: float
) -> float:
    """Give what leaves a held link: its temperature, as far as the heat it spares goes."""
    at_c, cap_w = thermal.air[thermal.slot[link], A_C], thermal.air[thermal.slot[link], A_W]
    if at_c <= GONE_C:
        return enters_c
    if cap_w > 0.0 and heat_j_per_k > 0.0:
        return float(min(at_c, max(enters_c, enters_c + cap_w * step_s / heat_j_per_k)))
    return float(at_c)


@lean
def _mouth(vessel: Floats, slot: int, back: bool) -> int:
    """Give the layer water leaves a vessel from: at its outlet, or backwards at its inlet."""
    return int(vessel[slot, FIRST] + vessel[slot, ENTERS if back else LEAVES])


@lean
def _peek(
    thermal: ThermalElements, state: ThermalState, link: int, mass: float, back: bool, step_s: float
) -> float:
    """Say at what temperature a cut link emits, from what it holds."""
    act, slot = thermal.act[link], thermal.slot[link]
    if act == PIPE:
        first, count = int(thermal.pipe[slot, P_FIRST]), int(thermal.pipe[slot, P_CELLS])
        head = int(state.ring[slot, RING_HEAD])
        cell = thermal.pipe[slot, P_CELL_KG]
        left, heat, at = mass, 0.0, 0
        size = cell - state.ring[slot, RING_KG]
        while left > 0.0 and at < count:
            part = min(left, size if at == 0 else cell)
            heat += part * state.water[first + (head + count - 1 - at) % count]
            left -= part
            at += 1
        if left > 0.0:
            heat += left * state.ring[slot, RING_C]
        return float(heat / mass)
    if act == STIRRED:
        return float(state.stirred[slot, TEMP])
    if act == LAYERED:
        return float(state.layers[_mouth(thermal.vessel, slot, back)])
    if act == HELD:
        return _held(thermal, link, mass * thermal.specific[link], state.in_c[link], step_s)
    return float(state.out_c[link])


@lean
def _pass_coil(
    coil: Floats, layers: Floats, heat_w: Floats, slot: int, rate: float, enters_c: float
) -> float:
    """March a coil layer by layer from its inlet; give what leaves."""
    layer, end = int(coil[slot, C_FROM]), int(coil[slot, C_TO])
    way = 1 if end >= layer else -1
    share = coil[slot, C_CONDUCTANCE] / (abs(end - layer) + 1)
    at = enters_c
    for _ in range(abs(end - layer) + 1):
        given = _coil_gives(share, rate, at - layers[layer])
        heat_w[layer] += given
        at -= given / rate
        layer += way
    return at


@lean
def _pass_plate(
    plate: Floats, now: Floats, slot: int, link: int, rate: float, enters_c: float
) -> float:
    """Pass one side of a plate exchanger; the first of them works out what goes over."""
    hot, cold = int(plate[slot, X_HOT]), int(plate[slot, X_COLD])
    mine = X_HOT if link == hot else X_COLD
    now[slot, X_RATE + mine] = rate
    now[slot, X_ENTERS_C + mine] = enters_c
    if now[slot, X_MET] < 0.5:
        now[slot, X_MET] = 1.0
        one, other = now[slot, X_RATE + X_HOT], now[slot, X_RATE + X_COLD]
        passes = 0.0
        if min(one, other) > 1e-6 and hot >= 0 and cold >= 0:
            passes = _counterflow(plate[slot, X_CONDUCTANCE], one, other) * (
                now[slot, X_ENTERS_C + X_HOT] - now[slot, X_ENTERS_C + X_COLD]
            )
        now[slot, X_PASSES_W] = passes
    sign = -1.0 if mine == X_HOT else 1.0
    return float(enters_c + sign * now[slot, X_PASSES_W] / rate)


@lean
def _draw_layers(
    vessel: Floats, layers: Floats, room: Floats, slot: int, specific_j: float, mass: float,
    enters_c: float, back: bool,
) -> float:  # fmt: skip
    """Push water through a layered vessel from port to port, or backwards; give what leaves."""
    one, other = _mouth(vessel, slot, True), _mouth(vessel, slot, False)
    first, last = min(one, other), max(one, other) + 1
    kg, joules = vessel[slot, LAYER_KG], vessel[slot, LAYER_J]
    if back == (other >= one):  # downwards
        turn_round(layers, first, last)
        out = _draw(layers, first, last - first, kg, joules, specific_j, mass, enters_c, 0.0, room)
        turn_round(layers, first, last)
        return float(out)
    return float(
        _draw(
            layers, first, last - first, kg, joules, specific_j, mass, enters_c,
            vessel[slot, JET], room,
        )
    )  # fmt: skip


@lean
def _settle(
    thermal: ThermalElements, state: ThermalState, link: int, gap_c: float, mass: float, back: bool
) -> None:
    """Give a cut body what its emission missed, so that nothing is lost."""
    act, slot, c = thermal.act[link], thermal.slot[link], thermal.specific[link]
    if act == LAYERED:
        mouth = _mouth(thermal.vessel, slot, back)
        state.layers[mouth] += gap_c * mass * c / thermal.vessel[slot, LAYER_J]
    elif act == STIRRED:
        state.stirred[slot, TEMP] += gap_c * mass * c / thermal.stirred[slot, B_HEAT_J]
    elif act == HELD:  # it was counted for what it would have given
        state.counted[HELD_HEAT] -= gap_c * mass * c
    elif act == PIPE and gap_c != 0.0:  # more than a pipe holds went through it
        first, count = int(thermal.pipe[slot, P_FIRST]), int(thermal.pipe[slot, P_CELLS])
        spread = gap_c * mass / (thermal.pipe[slot, P_CELL_KG] * count)
        for cell in range(first, first + count):
            state.water[cell] += spread
        state.ring[slot, RING_C] += spread


@lean
def flow_step(
    thermal_net: Net, thermal: ThermalElements, state: ThermalState, flow: Floats, given_c: Floats,
    work: Work, total: int, clock_s: float, step_s: float,
) -> None:  # fmt: skip
    """Move everything on by one step at the flows there are; `total` links of the order run."""
    starts, ends, node_given = thermal_net.start, thermal_net.end, thermal_net.given
    act, slots, specifics, pipe = thermal.act, thermal.slot, thermal.specific, thermal.pipe
    vessel, source, loss_w, coil, plate, air, pool, stirred, reuse = (
        thermal.vessel, thermal.source, thermal.loss_w, thermal.coil, thermal.plate, thermal.air,
        thermal.pool, thermal.stirred, thermal.reuse,
    )  # fmt: skip
    water, wall, ring, rested, layers = (
        state.water, state.wall, state.ring, state.rested, state.layers,
    )  # fmt: skip
    now_stirred, now_pool, now_plate, now_reuse = (
        state.stirred, state.pool, state.plate, state.reuse,
    )  # fmt: skip
    in_c, out_c, counted, taken = state.in_c, state.out_c, state.counted, state.taken
    order, cut, mass_at, heat_at = work.order, work.cut, work.mass_at, work.heat_at
    coil_w, room = work.coil_w, work.room
    for node in range(mass_at.size):
        mass_at[node] = heat_at[node] = 0.0
    for e in range(plate.shape[0]):
        now_plate[e, X_MET] = 0.0
        for side in (X_HOT, X_COLD):
            if plate[e, side] >= 0 and abs(flow[int(plate[e, side])]) <= STILL_KG_PER_S:
                now_plate[e, X_RATE + side] = 0.0
    for at in range(total):
        link = order[at]
        if act[link] == PIPE and rested[slots[link]] < clock_s:
            catch_up(thermal, state, slots[link], clock_s)
        if cut[link] == 1:
            mass = abs(flow[link]) * step_s
            out = _peek(thermal, state, link, mass, flow[link] < 0.0, step_s)
            out_c[link] = out
            to = ends[link] if flow[link] > 0.0 else starts[link]
            mass_at[to] += mass
            heat_at[to] += mass * out
    for at in range(total):
        link = order[at]
        back = flow[link] < 0.0
        mass = abs(flow[link]) * step_s
        start = ends[link] if back else starts[link]
        to = starts[link] if back else ends[link]
        kind, slot, c = act[link], slots[link], specifics[link]
        if node_given[start]:
            enters = given_c[start]
            if kind == POOL_OUT:
                enters = now_pool[slot, POOL_C]
                now_pool[slot, POOL_KG] -= mass
            else:
                counted[IN] += mass * c * enters
                counted[MASS_IN] += mass
            taken[link] += mass
        elif mass_at[start] > 0.0:
            enters = heat_at[start] / mass_at[start]
        else:
            enters = in_c[link]
        in_c[link] = enters
        out = enters
        rate = mass * c / step_s
        if kind == PIPE:
            out = _push(
                water, int(pipe[slot, P_FIRST]), int(pipe[slot, P_CELLS]), pipe[slot, P_CELL_KG],
                ring, slot, mass, enters,
            )  # fmt: skip
        elif kind == LAYERED:
            out = _draw_layers(vessel, layers, room, slot, c, mass, enters, back)
            vessel[slot, DRAWN] = 1.0
        elif kind == STIRRED:
            flow_m3_per_s = abs(flow[link]) / 995.0
            out = heat_body(
                stirred, now_stirred, counted, slot, rate, enters, flow_m3_per_s, step_s
            )
        elif kind == HELD:
            out = _held(thermal, link, mass * c, enters, step_s)
            counted[HELD_HEAT] += mass * c * (out - enters)
        elif kind == AIR_COIL:
            gain = (air[slot, A_C] - enters) * (1.0 - exp(-air[slot, A_W] / rate))
            counted[AIR_HEAT] += mass * c * gain
            out = enters + gain
        elif kind == COIL:
            out = _pass_coil(coil, layers, coil_w, slot, rate, enters)
        elif kind == PLATE:
            out = _pass_plate(plate, now_plate, slot, link, rate, enters)
        elif kind == REUSE:
            out = exchange_round(reuse, now_reuse, slot, rate, enters)
        elif kind == POOL_IN:
            held_j = now_pool[slot, POOL_KG] * pool[slot, O_SPECIFIC] + pool[slot, O_BODY_J]
            more_j = mass * pool[slot, O_SPECIFIC]
            now_pool[slot, POOL_C] = (held_j * now_pool[slot, POOL_C] + more_j * enters) / (
                held_j + more_j
            )
            now_pool[slot, POOL_KG] += mass
        if cut[link] == 1:
            _settle(thermal, state, link, out - out_c[link], mass, back)
        else:
            out_c[link] = out
            mass_at[to] += mass
            heat_at[to] += mass * out
        if node_given[to] and kind != POOL_IN:
            counted[OUT] += mass * c * out_c[link]
            counted[MASS_OUT] += mass
    lost = 0.0
    for at in range(total):
        link = order[at]
        if act[link] == PIPE:
            p = slots[link]
            lost += _exchange(
                water, wall, int(pipe[p, P_FIRST]), int(pipe[p, P_CELLS]), pipe[p, P_CELL_KG],
                ring, p, specifics[link], pipe[p, P_WALL_J], pipe[p, P_TO_WALL_W],
                pipe[p, P_TO_AIR_W], pipe[p, P_AIR_C], step_s,
            )  # fmt: skip
            rested[p] = clock_s + step_s
    counted[LOST_PIPE] += lost
    if stirred.shape[0] > 0:
        rest_bodies(act, slots, stirred, now_stirred, counted, flow, step_s)
    if reuse.shape[0] > 0:
        go_round(reuse, now_reuse, counted, step_s)
    vessels(
        vessel, source, loss_w, layers, state.aside, state.sensors, state.relays, state.given,
        state.drawn, counted, coil_w, room, step_s,
    )  # fmt: skip
    if pool.shape[0] > 0:
        pools(thermal, state, step_s)
