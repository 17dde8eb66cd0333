"""The compiled heart: flows move heat through bodies, step by step, and every joule is counted.

Two phases per step. Links go in the order of the flow; a round of links is cut at a body
that emits from what it holds and takes in what arrives at the end of the step. So no order
of parts matters and nothing is lost.
"""

from __future__ import annotations

from math import exp
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled, lean
from isotherma.core.engine.columns import (
    AIR_C,
    AIR_COIL,
    B_AIR,
    B_HEAT_J,
    B_KIND,
    B_LEAST,
    B_LIGHT,
    B_LIMIT,
    B_LOSS,
    B_OFF,
    B_ON,
    B_RAMP,
    B_SENSE,
    B_SET,
    B_WATTS,
    COIL,
    COUNT,
    FIRST,
    GONE_C,
    HELD,
    JET,
    LAYER_J,
    LAYER_KG,
    LAYERED,
    LINK_W,
    LOOP_HEATER,
    PIPE,
    PLATE,
    POOL_IN,
    POOL_OUT,
    R_AIR,
    R_EXCHANGER,
    R_FALL,
    R_HEAT_J,
    R_STREAM_KG,
    R_STREAM_W,
    REUSE,
    S_ALLOWED,
    S_AT,
    S_FROM,
    S_HYSTERESIS,
    S_LAG,
    S_LEAST,
    S_LIMIT,
    S_SENSOR,
    S_SET,
    S_SHARES,
    S_UNTIL,
    S_VESSEL,
    S_WATTS,
    SOURCES_FROM,
    SOURCES_TO,
    SPECIFIC,
    STIRRED,
    THROUGH_FLOW,
    Bodies,
)
from isotherma.core.hydraulics import network
from isotherma.core.hydraulics.network import OPEN, Net
from isotherma.core.thermal import exchanger
from isotherma.core.thermal import mixer as mixer_law
from isotherma.core.thermal import pipe as pipe_law
from isotherma.core.thermal import store as store_law
from isotherma.core.water import fluids

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]

_push = pipe_law.push
_exchange = pipe_law.exchange
_cool = pipe_law.rest
_pipe_heat = pipe_law.stored_heat
_draw = store_law.draw_at
_advance = store_law.advance_at
_turn_over = store_law.turn_over
_solve = network.solve_flows
_wanted = mixer_law.wanted_hot_share
_look_up = fluids.look_up
_counterflow = exchanger.counterflow_w_per_k
_HOT_STOP = mixer_law.HOT_STOP

# what is counted [J, kg]
(
    IN, OUT, SOURCES, BODIES, HELD_HEAT, AIR_HEAT, LOST_STORE, LOST_PIPE, LOST_BODY, MASS_IN,
    MASS_OUT,
) = range(11)  # fmt: skip
COUNTED: Final = 11
# columns of the state of a stirred body
TEMP, PHASE, TIMER, POWER, WANTED, HEAT_GIVEN, STARTS = range(7)
COLD, SENSING, LIGHTING, BURNING = range(4)
# columns of the state of a pool
POOL_KG, POOL_C, POOL_RELAY = range(3)
# columns of the state of water that goes round: at the drain, at the head, power, whether it is
# there and runs
ROUND_C, ROUND_HEAD_C, ROUND_W, ROUND_THERE, ROUND_RUNS = range(5)
# columns of `taps`: links of the head and of the mixer's legs, the mixer, whose draw, its phase
T_HEAD, T_HOT, T_COLD, T_MIXER, T_DRAW, T_PHASE = range(6)
# columns of `windows`: edges, seconds inside so far, whether to stop when warm, what somebody
# gives up below and seconds below it
W_LOW, W_HIGH, W_INSIDE, W_STOPS, W_GIVES_UP, W_BELOW = range(6)
WAITS: Final = -1.0  # a relay that would be on, were its supply or its water there
CUT: Final = -2.0  # a relay that its cut-out holds off
CUT_HYSTERESIS_K: Final = 5.0
FUSE_BEARS: Final = 1.001  # for a moment; what a slow fuse bears for minutes is not known
# columns of the log before the layers, as the pages read them
END, STEP, MASS, HEAD, HOT, COLD_SIDE, SHARE, MIXED, ELEMENT, BURNER, DRAW, PHASE_OF = range(12)
LOG_COLUMNS: Final = 12
# why a stretch of flow ended
TIME_OVER, WARM, DRY, CALLED, LOG_FULL, TOO_COLD = range(6)
BEARS_S: Final = 10.0  # for how long somebody stands water that is too cold
STILL_KG_PER_S: Final = 1e-7
SHARE_MOVED: Final = 0.0012  # 0.05 K at the head
SHARE_JUMPED: Final = 0.01
SOLVED_EVERY_S: Final = 30.0  # temperatures change what pipes take
UNWATCHED_EVERY_S: Final = 120.0  # the same, with nobody at an outlet
KEEPS_TO: Final = 0.15  # how far one valve may move, of its nearer stop, on a straight line
SECANT_FROM: Final = 1e-3  # two solutions nearer to each other than this give no slope
CLOSE_PA: Final = 0.1  # of 10 kPa and more: a hundred thousandth of a flow
LEARNS_BY: Final = 0.004
REST_STEP_S: Final = 300.0
RUSH_K_PER_S: Final = 3.0  # a front at a mixer or head: a spike hangs on how late the valve sees it
RUSH: Final = 0.25  # of the fine step then
OPENING_S: Final = 15.0  # after an outlet opens or shuts fronts are on their way


class State(NamedTuple):
    """Everything that changes, written in place.

    `ring`, `water`, `wall` of the pipes and `rested` until when each has been cooled [s];
    `layers`, `sensors`, `relays`; `stirred`, `pool`, `plate` and `reuse` as their columns say;
    `opening` and `shut`, `flow`, `pressure`, `parameters` of the network.
    """

    water: Floats
    wall: Floats
    ring: Floats
    rested: Floats
    layers: Floats
    sensors: Floats
    relays: Floats
    given: Floats
    stirred: Floats
    pool: Floats
    plate: Floats
    reuse: Floats
    opening: Floats
    in_c: Floats
    out_c: Floats
    counted: Floats
    taken: Floats


class Flowing(NamedTuple):
    """The network side of a stretch: flows of the links and what they start from."""

    shut: Ints
    flow: Floats
    pressure: Floats
    parameters: Floats
    fixed: Floats
    outflow: Floats
    fluid: Ints
    tables: Floats
    given_c: Floats
    legs: Ints
    mixer: Floats
    lag: Floats
    reducer: Ints


class Work(NamedTuple):
    """To work in, made once for a stretch: by link, by node, by layer.

    `order`, `cut` and `sign` say in which order, where cut and which way links run; `swing`,
    `last_flow`, `last_shut` how flows follow a valve; `before` what each head and hot leg were.
    """

    order: Ints
    cut: Ints
    waiting: Ints
    done: Bools
    rho: Floats
    mu: Floats
    mass_at: Floats
    heat_at: Floats
    coil_w: Floats
    room: Floats
    swing: Floats
    last_flow: Floats
    last_shut: Ints
    sign: Floats
    before: Floats


@lean
def _may_run(clock_s: float, start_s: float, end_s: float) -> bool:
    """Say whether a window, which may pass midnight, is open; equal ends are all day."""
    if start_s == end_s:
        return True
    if start_s < end_s:
        return start_s <= clock_s < end_s
    return clock_s >= start_s or clock_s < end_s


@lean
def emits_s(bodies: Bodies, link: int, flow: float) -> float:
    """Give for how long a body can emit from what it holds, before what enters it counts [s]."""
    act, slot = bodies.act[link], bodies.slot[link]
    if act == HELD:  # whatever enters, it emits the same, unless it is cold
        return 1e6 if bodies.air[slot, 0] > GONE_C else 0.0
    if act == PIPE:
        return float(bodies.pipe[slot, 1] * bodies.pipe[slot, 2] / flow)
    if act == STIRRED:
        return float(0.3 * bodies.stirred[slot, B_HEAT_J] / (flow * bodies.specific[link]))
    if act == LAYERED:
        return float(bodies.vessel[slot, LAYER_KG] / flow)
    return 0.0


@lean
def pass_order(
    net: Net, bodies: Bodies, flow: Floats, order: Ints, cut: Ints, waiting: Ints, done: Bools
) -> int:
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
                lasts = emits_s(bodies, link, abs(flow[link]))
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
def _longest_step(bodies: Bodies, flow: Floats, order: Ints, cut: Ints, total: int) -> float:
    """Give the longest step at which no cut body emits more than it holds [s]."""
    longest = 1e6
    for at in range(total):
        link = order[at]
        if cut[link] == 1:
            longest = min(longest, max(0.02, emits_s(bodies, link, abs(flow[link]))))
    return longest


@lean
def _held(bodies: Bodies, link: int, heat_j_per_k: float, enters_c: float, step_s: float) -> float:
    """Give what leaves a held link: its temperature, as far as the heat it spares goes."""
    at_c, cap_w = bodies.air[bodies.slot[link], 0], bodies.air[bodies.slot[link], 1]
    if at_c <= GONE_C:
        return enters_c
    if cap_w > 0.0 and heat_j_per_k > 0.0:
        return float(min(at_c, max(enters_c, enters_c + cap_w * step_s / heat_j_per_k)))
    return float(at_c)


@lean
def _peek(bodies: Bodies, state: State, link: int, mass: float, step_s: float) -> float:
    """Say at what temperature a cut link emits, from what it holds."""
    act, slot = bodies.act[link], bodies.slot[link]
    if act == PIPE:
        first, count = int(bodies.pipe[slot, 0]), int(bodies.pipe[slot, 1])
        head = int(state.ring[slot, 0])
        cell = bodies.pipe[slot, 2]
        left, heat, at = mass, 0.0, 0
        size = cell - state.ring[slot, 1]
        while left > 0.0 and at < count:
            part = min(left, size if at == 0 else cell)
            heat += part * state.water[first + (head + count - 1 - at) % count]
            left -= part
            at += 1
        if left > 0.0:
            heat += left * state.ring[slot, 2]
        return float(heat / mass)
    if act == STIRRED:
        return float(state.stirred[slot, TEMP])
    if act == LAYERED:
        last = int(bodies.vessel[slot, FIRST] + bodies.vessel[slot, COUNT]) - 1
        return float(state.layers[last])
    if act == HELD:
        return _held(bodies, link, mass * bodies.specific[link], state.in_c[link], step_s)
    return float(state.out_c[link])


@lean
def _burn(
    rows: Floats, nows: Floats, slot: int, litres: float, warms_w: float, step_s: float
) -> float:
    """Move a heater through sensing, lighting and burning; give its mean power [W].

    `litres` is the volume flow it feels [m³/s], `warms_w` what would bring the water to
    its setting.
    """
    watts = rows[slot, B_WATTS]
    mean = 0.0
    called = nows[slot, WANTED] > 0.5 and rows[slot, B_KIND] == LOOP_HEATER
    flows = rows[slot, B_KIND] == THROUGH_FLOW and litres >= (
        rows[slot, B_ON] if nows[slot, PHASE] < LIGHTING else rows[slot, B_OFF]
    )
    over = nows[slot, TEMP] >= rows[slot, B_LIMIT]
    if watts <= 0.0 or not (called or flows):
        nows[slot, PHASE], nows[slot, TIMER], nows[slot, POWER] = COLD, 0.0, 0.0
    else:
        nows[slot, TIMER] += step_s
        sensed = rows[slot, B_SENSE]
        if nows[slot, PHASE] == COLD:
            nows[slot, PHASE] = SENSING
        if nows[slot, PHASE] == SENSING and nows[slot, TIMER] >= sensed:
            nows[slot, PHASE] = LIGHTING
        if nows[slot, PHASE] == LIGHTING and nows[slot, TIMER] >= sensed + rows[slot, B_LIGHT]:
            nows[slot, PHASE] = BURNING
            nows[slot, STARTS] += 1.0
        if nows[slot, PHASE] == BURNING:
            if rows[slot, B_KIND] == LOOP_HEATER and over:
                nows[slot, PHASE], nows[slot, TIMER], nows[slot, POWER] = COLD, 0.0, 0.0
            else:
                goal = 0.0 if over else min(watts, max(rows[slot, B_LEAST], warms_w))
                most = watts * step_s / max(rows[slot, B_RAMP], step_s)
                before = nows[slot, POWER]
                nows[slot, POWER] = before + min(most, max(-4.0 * most, goal - before))
                mean = 0.5 * (before + nows[slot, POWER])
    return float(mean)


@lean
def _heat_body(
    rows: Floats, nows: Floats, counted: Floats, slot: int, rate: float, enters_c: float,
    litres: float, step_s: float,
) -> float:  # fmt: skip
    """Let a stirred heater take in water in a step; give its mean temperature."""
    power = _burn(rows, nows, slot, litres, rate * (rows[slot, B_SET] - enters_c), step_s)
    loss, air = rows[slot, B_LOSS], rows[slot, B_AIR]
    pull = rate + loss
    goal = (power + loss * air + rate * enters_c) / pull
    k = pull * step_s / rows[slot, B_HEAT_J]
    fade = exp(-k)
    gap = nows[slot, TEMP] - goal
    mean = goal + gap * (1.0 - fade) / k
    nows[slot, TEMP] = goal + gap * fade
    nows[slot, HEAT_GIVEN] += power * step_s
    counted[BODIES] += power * step_s
    counted[LOST_BODY] += loss * (mean - air) * step_s
    return float(mean)


@lean
def _pass_coil(
    coil: Floats, layers: Floats, heat_w: Floats, slot: int, rate: float, enters_c: float
) -> float:
    """March a coil layer by layer from its inlet; give what leaves."""
    layer, end = int(coil[slot, 1]), int(coil[slot, 2])
    way = 1 if end >= layer else -1
    share = coil[slot, 3] / (abs(end - layer) + 1)
    at = enters_c
    for _ in range(abs(end - layer) + 1):
        gap = at - layers[layer]
        grip = share * max(0.2, abs(gap) / 20.0) ** 0.25
        given = rate * gap * (1.0 - exp(-grip / rate))
        heat_w[layer] += given
        at -= given / rate
        layer += way
    return at


@lean
def _pass_plate(
    plate: Floats, now: Floats, slot: int, link: int, rate: float, enters_c: float
) -> float:
    """Pass one side of a plate exchanger; the first of them works out what goes over."""
    hot, cold = int(plate[slot, 0]), int(plate[slot, 1])
    mine = 0 if link == hot else 1
    now[slot, 2 + mine] = rate
    now[slot, mine] = enters_c
    if now[slot, 4] < 0.5:
        now[slot, 4] = 1.0
        one, other = now[slot, 2], now[slot, 3]
        passes = 0.0
        if min(one, other) > 1e-6 and hot >= 0 and cold >= 0:
            passes = _counterflow(plate[slot, 2], one, other) * (now[slot, 0] - now[slot, 1])
        now[slot, 5] = passes
    sign = -1.0 if mine == 0 else 1.0
    return float(enters_c + sign * now[slot, 5] / rate)


@lean
def _turn_round(layers: Floats, first: int, last: int) -> None:
    """Put layers upside down."""
    one, other = first, last - 1
    while one < other:
        layers[one], layers[other] = layers[other], layers[one]
        one += 1
        other -= 1


@lean
def _draw_layers(
    vessel: Floats, layers: Floats, room: Floats, slot: int, specific_j: float, mass: float,
    enters_c: float, back: bool,
) -> float:  # fmt: skip
    """Push water through a layered vessel, up or, backwards, down; give what leaves."""
    first, last = int(vessel[slot, FIRST]), int(vessel[slot, FIRST] + vessel[slot, COUNT])
    kg, joules = vessel[slot, LAYER_KG], vessel[slot, LAYER_J]
    if back:
        _turn_round(layers, first, last)
        out = _draw(layers, first, last - first, kg, joules, specific_j, mass, enters_c, 0.0, room)
        _turn_round(layers, first, last)
        return float(out)
    return float(
        _draw(
            layers, first, last - first, kg, joules, specific_j, mass, enters_c,
            vessel[slot, JET], room,
        )
    )  # fmt: skip


@lean
def _settle(bodies: Bodies, state: State, link: int, gap_c: float, mass: float) -> None:
    """Give a cut body what its emission missed, so that nothing is lost."""
    act, slot, c = bodies.act[link], bodies.slot[link], bodies.specific[link]
    if act == LAYERED:
        row = bodies.vessel[slot]
        last = int(row[FIRST] + row[COUNT]) - 1
        state.layers[last] += gap_c * mass * c / row[LAYER_J]
    elif act == STIRRED:
        state.stirred[slot, TEMP] += gap_c * mass * c / bodies.stirred[slot, B_HEAT_J]
    elif act == HELD:  # it was counted for what it would have given
        state.counted[HELD_HEAT] -= gap_c * mass * c
    elif act == PIPE and gap_c != 0.0:  # more than a pipe holds went through it
        first, count = int(bodies.pipe[slot, 0]), int(bodies.pipe[slot, 1])
        spread = gap_c * mass / (bodies.pipe[slot, 2] * count)
        for cell in range(first, first + count):
            state.water[cell] += spread
        state.ring[slot, 2] += spread


@lean
def _switch(clock_s: float, bodies: Bodies, state: State) -> bool:
    """Let thermostats, hours and cut-outs act; say whether a call for heat changed.

    Sources that share a supply are served in their order; who finds too little waits.
    """
    rows, relays, shared = bodies.source, state.relays, bodies.shared
    fuse, wired = bodies.fuse, bodies.wired
    changed = False
    for s in range(rows.shape[0]):
        before = relays[s]
        allowed = rows[s, S_ALLOWED] > 0.0 and _may_run(
            clock_s % 86400.0, rows[s, S_FROM], rows[s, S_UNTIL]
        )
        reading = state.sensors[s]
        if not allowed or reading >= rows[s, S_SET]:
            relays[s] = 0.0
        elif reading <= rows[s, S_SET] - rows[s, S_HYSTERESIS] or before < 0.0:
            relays[s] = 1.0
        if rows[s, S_VESSEL] >= 0.0 and relays[s] != 0.0:
            over = state.layers[int(rows[s, S_AT])] - rows[s, S_LIMIT]
            if over >= 0.0 or (before == CUT and over > -CUT_HYSTERESIS_K):
                relays[s] = CUT
        if rows[s, S_VESSEL] < 0.0:  # a level interlock of an open box
            pool = int(-1.0 - rows[s, S_VESSEL])
            short = state.pool[pool, POOL_KG] < rows[s, S_LEAST] * bodies.pool[pool, 0] - 1e-9
            if short and relays[s] > 0.0:
                relays[s] = WAITS
        share = int(rows[s, S_SHARES])
        if share >= 0 and relays[s] > 0.0:
            taken = rows[s, S_WATTS]
            for other in range(s):
                if int(rows[other, S_SHARES]) == share and relays[other] > 0.0:
                    taken += rows[other, S_WATTS]
            if taken > shared[share] * (1.0 + 1e-9):
                relays[s] = WAITS
        for w in range(wired.shape[0]):
            blown = int(wired[w, 1]) == s and fuse[int(wired[w, 0]), 1] > 0.0
            if blown and relays[s] > 0.0:
                relays[s] = WAITS
        if rows[s, S_WATTS] == 0.0 and relays[s] != before:
            changed = True
    for f in range(fuse.shape[0]):
        if fuse[f, 1] > 0.0:
            continue
        amps = fuse[f, 2]
        for w in range(wired.shape[0]):
            at = int(wired[w, 1])
            if int(wired[w, 0]) == f and relays[at] > 0.0:
                amps += wired[w, 2] * rows[at, S_WATTS]
        if amps > fuse[f, 0] * FUSE_BEARS:
            fuse[f, 1] = 1.0
            changed = changed or fuse[f, 2] > 0.0  # what stands now changes the flows
            fuse[f, 2] = 0.0
            for w in range(wired.shape[0]):
                if int(wired[w, 0]) == f and relays[int(wired[w, 1])] > 0.0:
                    relays[int(wired[w, 1])] = WAITS
    return changed


@lean
def _vessels(
    vessel: Floats, source: Floats, loss_w: Floats, layers: Floats, sensors: Floats,
    relays: Floats, given: Floats, counted: Floats, heat_w: Floats, room: Floats, step_s: float,
) -> None:  # fmt: skip
    """Heat, cool and turn over every vessel for a while.

    `heat_w` is what coils give each layer; it is used up and left at nothing. `room` is to work
    in, two rows as long as the layers.
    """
    for v in range(vessel.shape[0]):
        first, count = int(vessel[v, FIRST]), int(vessel[v, COUNT])
        a, b = int(vessel[v, SOURCES_FROM]), int(vessel[v, SOURCES_TO])
        for s in range(a, b):
            if relays[s] > 0.0:
                joules = source[s, S_WATTS] * step_s
                heat_w[int(source[s, S_AT])] += source[s, S_WATTS]
                given[s] += joules
                counted[SOURCES] += joules
        counted[LOST_STORE] += _advance(
            layers, first, count, vessel[v, LAYER_J], loss_w, vessel[v, AIR_C],
            vessel[v, LINK_W], heat_w, source, sensors, a, b, S_SENSOR, S_LAG, room, step_s,
        )  # fmt: skip
        for layer in range(first, first + count):
            heat_w[layer] = 0.0


@lean
def _pools(bodies: Bodies, state: State, step_s: float) -> None:
    """Heat and cool every open box for a while."""
    source, relays, sensors = bodies.source, state.relays, state.sensors
    given, counted = state.given, state.counted
    for p in range(bodies.pool.shape[0]):
        row, now = bodies.pool[p], state.pool[p]
        power = 0.0
        for s in range(source.shape[0]):
            if int(source[s, S_VESSEL]) == -1 - p:
                if relays[s] > 0.0:
                    power += source[s, S_WATTS]
                    given[s] += source[s, S_WATTS] * step_s
                    counted[SOURCES] += source[s, S_WATTS] * step_s
                sensors[s] = now[POOL_C]
        heat_j = now[POOL_KG] * row[4] + row[1]
        goal = row[3] + power / row[2]
        before = now[POOL_C]
        now[POOL_C] = goal + (before - goal) * exp(-row[2] * step_s / heat_j)
        counted[LOST_STORE] += power * step_s - heat_j * (now[POOL_C] - before)


@lean
def stand(bodies: Bodies, state: State, heat_w: Floats, room: Floats, step_s: float) -> None:
    """Let every vessel and box stand for a while."""
    _vessels(
        bodies.vessel, bodies.source, bodies.loss_w, state.layers, state.sensors, state.relays,
        state.given, state.counted, heat_w, room, step_s,
    )  # fmt: skip
    if bodies.pool.shape[0] > 0:
        _pools(bodies, state, step_s)


@lean
def _exchange_round(rows: Floats, nows: Floats, slot: int, rate: float, enters_c: float) -> float:
    """Let the primary warm water that goes round to a shower; give what leaves."""
    nows[slot, ROUND_W] = 0.0
    if nows[slot, ROUND_RUNS] < 0.5 or rate <= 0.0:
        return enters_c
    grip = _counterflow(rows[slot, R_EXCHANGER], rate, rows[slot, R_STREAM_W])
    power = grip * (enters_c - nows[slot, ROUND_C])
    nows[slot, ROUND_W] = power
    return float(enters_c - power / rate)


@lean
def _go_round(rows: Floats, nows: Floats, counted: Floats, step_s: float) -> None:
    """Send water once more from the drain through the exchanger to the head and down."""
    for slot in range(rows.shape[0]):
        if nows[slot, ROUND_RUNS] < 0.5:
            nows[slot, ROUND_W] = 0.0
            continue
        power, stream = nows[slot, ROUND_W], rows[slot, R_STREAM_W]
        head_c = nows[slot, ROUND_C] + power / stream
        lost = stream * rows[slot, R_FALL] * (head_c - rows[slot, R_AIR])
        nows[slot, ROUND_HEAD_C] = head_c
        nows[slot, ROUND_C] += (power - lost) * step_s / rows[slot, R_HEAT_J]
        counted[LOST_BODY] += lost * step_s
        nows[slot, ROUND_W] = 0.0


@lean
def _catch_up(bodies: Bodies, state: State, p: int, until_s: float) -> None:
    """Let a pipe that stood cool until now."""
    span = until_s - state.rested[p]
    if span > 0.0:
        row = bodies.pipe[p]
        c = bodies.specific[int(row[7])]
        state.counted[LOST_PIPE] += _cool(
            state.water, state.wall, int(row[0]), int(row[1]), row[2], state.ring, p, c,
            row[3], row[5], row[6], span,
        )  # fmt: skip
    state.rested[p] = until_s


@lean
def rest_bodies(
    act: Ints, slots: Ints, rows: Floats, nows: Floats, counted: Floats, flow: Floats,
    step_s: float,
) -> None:  # fmt: skip
    """Cool heaters that stand; what flows is cooled by its own step."""
    for link in range(act.size):
        if act[link] != STIRRED or abs(flow[link]) > STILL_KG_PER_S:
            continue
        slot = slots[link]
        power = _burn(rows, nows, slot, 0.0, rows[slot, B_WATTS], step_s)
        loss = rows[slot, B_LOSS]
        goal = rows[slot, B_AIR] + power / loss
        before = nows[slot, TEMP]
        nows[slot, TEMP] = goal + (before - goal) * exp(-loss * step_s / rows[slot, B_HEAT_J])
        nows[slot, HEAT_GIVEN] += power * step_s
        counted[BODIES] += power * step_s
        counted[LOST_BODY] += power * step_s - rows[slot, B_HEAT_J] * (nows[slot, TEMP] - before)


@lean
def flow_step(
    ways: Net, bodies: Bodies, state: State, flow: Floats, given_c: Floats, work: Work,
    total: int, clock_s: float, step_s: float,
) -> None:  # fmt: skip
    """Move everything on by one step at the flows there are; `total` links of the order run."""
    starts, ends, node_given = ways.start, ways.end, ways.given
    act, slots, specifics, pipe = bodies.act, bodies.slot, bodies.specific, bodies.pipe
    vessel, source, loss_w, coil, plate, air, pool, stirred, reuse = (
        bodies.vessel, bodies.source, bodies.loss_w, bodies.coil, bodies.plate, bodies.air,
        bodies.pool, bodies.stirred, bodies.reuse,
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
        now_plate[e, 4] = 0.0
        for side in range(2):
            if plate[e, side] >= 0 and abs(flow[int(plate[e, side])]) <= STILL_KG_PER_S:
                now_plate[e, 2 + side] = 0.0
    for at in range(total):
        link = order[at]
        if act[link] == PIPE and rested[slots[link]] < clock_s:
            _catch_up(bodies, state, slots[link], clock_s)
        if cut[link] == 1:
            mass = abs(flow[link]) * step_s
            out = _peek(bodies, state, link, mass, step_s)
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
                water, int(pipe[slot, 0]), int(pipe[slot, 1]), pipe[slot, 2], ring, slot, mass,
                enters,
            )  # fmt: skip
        elif kind == LAYERED:
            out = _draw_layers(vessel, layers, room, slot, c, mass, enters, back)
        elif kind == STIRRED:
            litres = abs(flow[link]) / 995.0
            out = _heat_body(stirred, now_stirred, counted, slot, rate, enters, litres, step_s)
        elif kind == HELD:
            out = _held(bodies, link, mass * c, enters, step_s)
            counted[HELD_HEAT] += mass * c * (out - enters)
        elif kind == AIR_COIL:
            gain = (air[slot, 0] - enters) * (1.0 - exp(-air[slot, 1] / rate))
            counted[AIR_HEAT] += mass * c * gain
            out = enters + gain
        elif kind == COIL:
            out = _pass_coil(coil, layers, coil_w, slot, rate, enters)
        elif kind == PLATE:
            out = _pass_plate(plate, now_plate, slot, link, rate, enters)
        elif kind == REUSE:
            out = _exchange_round(reuse, now_reuse, slot, rate, enters)
        elif kind == POOL_IN:
            held_j = now_pool[slot, POOL_KG] * pool[slot, 4] + pool[slot, 1]
            more_j = mass * pool[slot, 4]
            now_pool[slot, POOL_C] = (held_j * now_pool[slot, POOL_C] + more_j * enters) / (
                held_j + more_j
            )
            now_pool[slot, POOL_KG] += mass
        if cut[link] == 1:
            _settle(bodies, state, link, out - out_c[link], mass)
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
                water, wall, int(pipe[p, 0]), int(pipe[p, 1]), pipe[p, 2], ring, p,
                specifics[link], pipe[p, 3], pipe[p, 4], pipe[p, 5], pipe[p, 6], step_s,
            )  # fmt: skip
            rested[p] = clock_s + step_s
    counted[LOST_PIPE] += lost
    if stirred.shape[0] > 0:
        rest_bodies(act, slots, stirred, now_stirred, counted, flow, step_s)
    if reuse.shape[0] > 0:
        _go_round(reuse, now_reuse, counted, step_s)
    _vessels(
        vessel, source, loss_w, layers, state.sensors, state.relays, state.given, counted, coil_w,
        room, step_s,
    )  # fmt: skip
    if pool.shape[0] > 0:
        _pools(bodies, state, step_s)


@lean
def _open_legs(flowing: Flowing, state: State, m: int) -> None:
    factor, now = flowing.mixer[m, 2], state.opening[m]
    flowing.parameters[flowing.legs[m, 0], 0] = 1.0 / (factor * max(now, 1e-4)) ** 2
    flowing.parameters[flowing.legs[m, 1], 0] = 1.0 / (factor * max(1.0 - now, 1e-4)) ** 2


@lean
def _move_mixers(
    legs: Ints, mixer: Floats, lag: Floats, flow: Floats, out_c: Floats, opening: Floats,
    step_s: float,
) -> float:  # fmt: skip
    """Let thermostatic valves follow with their lag; give the largest move since last solved."""
    most = 0.0
    count = legs.shape[0]
    for m in range(count):
        hot, cold = legs[m, 0], legs[m, 1]
        if mixer[m, 4] == 0.0:
            continue
        into_hot, into_cold = max(0.0, flow[hot]), max(0.0, flow[cold])
        total = into_hot + into_cold
        if total < STILL_KG_PER_S:
            continue
        want = _wanted(out_c[hot], out_c[cold], mixer[m, 0], mixer[m, 1])
        found = min(1.0 - 1e-9, max(1e-9, into_hot / total))
        now = opening[m]
        odds = now / (1.0 - now) * (want / (1.0 - want)) / (found / (1.0 - found))
        aim = min(_HOT_STOP, max(1.0 - _HOT_STOP, odds / (1.0 + odds)))
        opening[m] = now + (1.0 - exp(-step_s / lag[m])) * (aim - now)
        most = max(most, abs(opening[m] - lag[count + m]))
    return most


@lean
def solve_again(net: Net, flowing: Flowing, state: State, rho: Floats, mu: Floats) -> float:
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
            wide, regulated = flowing.reducer[r, 0], flowing.reducer[r, 1]
            if flowing.shut[wide] != OPEN:
                flowing.outflow[net.start[wide]] = max(0.0, flowing.flow[regulated])
    for link in range(net.law.size):
        if flowing.shut[link] != OPEN:
            flowing.flow[link] = 0.0
    return float(left)


@lean
def _follower(flowing: Flowing) -> int:
    """Give the one mixing valve that follows by itself; -1 without, or with several."""
    found = -1
    for m in range(flowing.legs.shape[0]):
        passes = abs(flowing.flow[flowing.legs[m, 0]]) + abs(flowing.flow[flowing.legs[m, 1]])
        if flowing.mixer[m, 4] != 0.0 and passes > STILL_KG_PER_S:
            if found >= 0:
                return -1
            found = m
    return found


@compiled
def _learn(
    net: Net, flowing: Flowing, state: State, rho: Floats, mu: Floats, m: int, swing: Floats
) -> None:
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
def _total_given(given: Floats) -> float:
    total = 0.0
    for s in range(given.size):
        total += given[s]
    return total


@lean
def _from_outside(ways: Net, act: Ints, flow: Floats) -> float:
    """Add up what comes out of tanks and sources [kg/s]."""
    drawn = 0.0
    for link in range(flow.size):
        if ways.given[ways.start[link]] and act[link] != POOL_OUT and flow[link] > 0.0:
            drawn += flow[link]
    return drawn


@lean
def _bend(
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
def _keep(work: Work, flow: Floats, shut: Ints) -> None:
    """Take down a solution, for the slope to the next."""
    for link in range(flow.size):
        work.last_flow[link], work.last_shut[link] = flow[link], shut[link]


@lean
def _sort(ways: Net, bodies: Bodies, flow: Floats, work: Work) -> int:
    """Put links in the order of the flow, and keep which way they run; give how many run."""
    for link in range(flow.size):
        work.sign[link] = np.sign(flow[link])
    return pass_order(ways, bodies, flow, work.order, work.cut, work.waiting, work.done)


@lean
def _run(
    net: Net, ways: Net, bodies: Bodies, state: State, flowing: Flowing, taps: Ints,
    windows: Floats, shown: Ints, clock_s: float, limits: Floats, fine_s: float, log: Floats,
    rows: int, follows: int, work: Work,
) -> tuple[int, int, float, int, float]:  # fmt: skip
    """Step from a first solution, as `run_flow` says; `follows` is the one valve that does."""
    links, people = net.law.size, taps.shape[0]
    flow, shut, opening, out_c = flowing.flow, flowing.shut, state.opening, state.out_c
    layers, given, now_stirred, act = state.layers, state.given, state.stirred, bodies.act
    reuse, now_reuse, swing, before, sign = (
        bodies.reuse, state.reuse, work.swing, work.before, work.sign,
    )  # fmt: skip
    legs, mixer, lag, given_c = flowing.legs, flowing.mixer, flowing.lag, flowing.given_c
    mixers, width = legs.shape[0], log.shape[1]
    every_s = SOLVED_EVERY_S if people > 0 else UNWATCHED_EVERY_S
    last = opening[follows] if follows >= 0 else 0.0
    _keep(work, flow, shut)
    total = _sort(ways, bodies, flow, work)
    most_s = _longest_step(bodies, flow, work.order, work.cut, total)
    until, left = clock_s + limits[0], limits[1]
    event = clock_s
    moving, rushing = True, False
    since = 0.0
    drawn = _from_outside(ways, act, flow)
    while clock_s < until - 1e-9:
        if rows + people > log.shape[0]:
            return LOG_FULL, -1, clock_s, rows, left
        longest = 4.0 * fine_s
        if people > 0 and rushing:
            longest = RUSH * fine_s
        elif people > 0 and (moving or clock_s - event < OPENING_S):
            longest = fine_s
        step = min(longest, until - clock_s, most_s)
        rate = limits[2] + drawn
        if people > 0 and step * rate > left:
            step = left / rate
            if step < 1e-4:
                return DRY, -1, clock_s, rows, left
        if _switch(clock_s, bodies, state):
            return CALLED, -1, clock_s, rows, left
        given_before = _total_given(given)
        flow_step(ways, bodies, state, flow, given_c, work, total, clock_s, step)
        clock_s += step
        left -= rate * step
        since += step
        stood = opening[follows] if follows >= 0 else 0.0
        found = _move_mixers(legs, mixer, lag, flow, out_c, opening, step) if mixers > 0 else 0.0
        moving = rushing = False
        why, who = TIME_OVER, -1
        if people > 0:
            element = (_total_given(given) - given_before) / step
            fire = 0.0
            for b in range(now_stirred.shape[0]):
                fire += now_stirred[b, POWER]
        for k in range(people):
            head, hot_leg, cold_leg = taps[k, T_HEAD], taps[k, T_HOT], taps[k, T_COLD]
            if head >= 0:
                head_c, flows = out_c[head], abs(flow[head])
            else:
                head_c, flows = now_reuse[-2 - head, ROUND_HEAD_C], reuse[-2 - head, R_STREAM_KG]
            hot_c = out_c[hot_leg] if hot_leg >= 0 else head_c
            change = max(abs(head_c - before[k, 0]), abs(hot_c - before[k, 1]))
            if change > 0.2 * step:
                moving = True
            if change > RUSH_K_PER_S * step:
                rushing = True
            before[k, 0], before[k, 1] = head_c, hot_c
            if windows[k, W_LOW] <= head_c <= windows[k, W_HIGH] and flows > STILL_KG_PER_S:
                windows[k, W_INSIDE] += step
            else:
                windows[k, W_INSIDE] = 0.0
            for column in range(width):
                log[rows, column] = 0.0
            log[rows, END], log[rows, STEP] = clock_s, step
            log[rows, MASS] = flows * step
            log[rows, HEAD], log[rows, HOT] = head_c, hot_c
            log[rows, MIXED] = head_c
            log[rows, SHARE] = 1.0
            if cold_leg >= 0:
                into = max(0.0, flow[hot_leg])
                both = into + max(0.0, flow[cold_leg])
                log[rows, COLD_SIDE] = out_c[cold_leg]
                log[rows, SHARE] = into / both if both > 0.0 else opening[taps[k, T_MIXER]]
            log[rows, ELEMENT], log[rows, BURNER] = element, fire
            log[rows, DRAW], log[rows, PHASE_OF] = taps[k, T_DRAW], taps[k, T_PHASE]
            for layer in range(shown[1]):
                log[rows, LOG_COLUMNS + layer] = layers[shown[0] + layer]
            rows += 1
            windows[k, W_BELOW] = (
                windows[k, W_BELOW] + step if head_c < windows[k, W_GIVES_UP] else 0.0
            )
            if windows[k, W_STOPS] > 0.5 and windows[k, W_INSIDE] >= 5.0 - 1e-9:
                if why == TIME_OVER:
                    why, who = WARM, k
            elif windows[k, W_BELOW] >= BEARS_S and why == TIME_OVER:
                why, who = TOO_COLD, k
        if why != TIME_OVER:
            return why, who, clock_s, rows, left
        if follows >= 0:
            solved_at = lag[mixers + follows]
            far = KEEPS_TO * min(solved_at, 1.0 - solved_at)
            again = found > far or since > every_s
            if opening[follows] != stood:  # where it is solved again, this is a better start
                for link in range(links):
                    flow[link] += swing[link] * (opening[follows] - stood)
                    if flow[link] * sign[link] < 0.0:  # it would run the other way
                        again = True
        else:
            again = (found > SHARE_MOVED and since > 0.7) or found > SHARE_JUMPED or since > every_s
        if again:
            since = 0.0
            solve_again(net, flowing, state, work.rho, work.mu)
            if follows >= 0:
                _bend(flow, shut, swing, work.last_flow, work.last_shut, opening[follows], last)
                last = opening[follows]
                _keep(work, flow, shut)
            turned = False
            for link in range(links):
                if np.sign(flow[link]) != sign[link]:
                    turned = True
            drawn = _from_outside(ways, act, flow)
            if turned:
                total = _sort(ways, bodies, flow, work)
                most_s = _longest_step(bodies, flow, work.order, work.cut, total)
    return TIME_OVER, -1, clock_s, rows, left


@compiled
def run_flow(
    net: Net, ways: Net, bodies: Bodies, state: State, flowing: Flowing, taps: Ints,
    windows: Floats, shown: Ints, clock_s: float, limits: Floats, fine_s: float, log: Floats,
    rows: int,
) -> tuple[int, int, float, int, float]:  # fmt: skip
    """Run until the time is over, water is warm, a tank is dry or heat is called for.

    `ways` is the network as heat goes through it, with a reducer's two sides joined. `taps`
    and `windows` have a row for everybody who is washing, as their columns say; a head below
    -1 is that of water going round. `shown`: first layer and layers of the store shown.
    `limits`: seconds to run, kilograms left, other water per second. Gives why it ended, at
    which tap, the clock, rows of the log and kilograms left; `windows` is written back.
    """
    links, nodes, people = net.law.size, ways.given.size, taps.shape[0]
    layers = state.layers.size
    work = Work(
        order=np.empty(links, np.int64), cut=np.empty(links, np.int64),
        waiting=np.empty(nodes, np.int64), done=np.empty(links, np.bool_), rho=np.empty(links),
        mu=np.empty(links), mass_at=np.zeros(nodes), heat_at=np.zeros(nodes),
        coil_w=np.zeros(layers), room=np.empty((2, layers)), swing=np.zeros(links),
        last_flow=np.empty(links), last_shut=np.empty(links, np.int64), sign=np.empty(links),
        before=np.zeros((people, 2)),
    )  # fmt: skip
    solve_again(net, flowing, state, work.rho, work.mu)
    follows = _follower(flowing)
    if follows >= 0:
        _learn(net, flowing, state, work.rho, work.mu, follows, work.swing)
    return _run(
        net, ways, bodies, state, flowing, taps, windows, shown, clock_s, limits, fine_s, log,
        rows, follows, work,
    )  # fmt: skip


@lean
def _copy_line(into: Floats, source: Floats) -> None:
    for at in range(into.size):
        into[at] = source[at]


@lean
def _copy_table(into: Floats, source: Floats) -> None:
    for row in range(into.shape[0]):
        for column in range(into.shape[1]):
            into[row, column] = source[row, column]


@lean
def _copy(into: State, source: State) -> None:
    """Copy what a rest changes."""
    _copy_line(into.layers, source.layers)
    _copy_line(into.sensors, source.sensors)
    _copy_line(into.relays, source.relays)
    _copy_line(into.given, source.given)
    _copy_line(into.counted, source.counted)
    _copy_table(into.stirred, source.stirred)
    _copy_table(into.pool, source.pool)
    _copy_table(into.reuse, source.reuse)


@lean
def _edge(clock_s: float, bodies: Bodies) -> float:
    """Seconds until a source's hours begin or end."""
    nearest = 86400.0
    for s in range(bodies.source.shape[0]):
        row = bodies.source[s]
        if row[S_FROM] != row[S_UNTIL]:
            for column in (S_FROM, S_UNTIL):
                ahead = (row[column] - clock_s) % 86400.0
                if 1e-6 < ahead < nearest:
                    nearest = ahead
    return nearest


@lean
def _rest(
    bodies: Bodies, state: State, trial: State, still: Floats, shown: Ints, clock_s: float,
    until_s: float, log: Floats, rows: int, draw: int, phase: int, nothing: Floats, room: Floats,
) -> tuple[int, float, int]:  # fmt: skip
    """Do what `run_rest` says; `nothing` and `room` are to work in."""
    while clock_s < until_s - 1e-9:
        if rows >= log.shape[0]:
            return LOG_FULL, clock_s, rows
        if _switch(clock_s, bodies, state):
            return CALLED, clock_s, rows
        step = min(REST_STEP_S, until_s - clock_s, _edge(clock_s, bodies))
        for b in range(bodies.stirred.shape[0]):  # a heater that cools or burns moves in minutes
            if abs(state.stirred[b, TEMP] - bodies.stirred[b, B_AIR]) > 1.0:
                step = min(step, 60.0)
        low, high = 0.0, step
        for _ in range(24):
            _copy(trial, state)
            stand(bodies, trial, nothing, room, high)
            if high <= 0.05 or not _crosses(clock_s, high, bodies, state, trial):
                break
            # the first crossing lies between: halve until it is within a twentieth of a second
            top = high
            while top - low > 0.05:
                middle = 0.5 * (low + top)
                _copy(trial, state)
                stand(bodies, trial, nothing, room, middle)
                if _crosses(clock_s, middle, bodies, state, trial):
                    top = middle
                else:
                    low = middle
            high = top
            _copy(trial, state)
            stand(bodies, trial, nothing, room, high)
            break
        before = _total_given(state.given)
        _copy(state, trial)
        if bodies.stirred.shape[0] > 0:
            rest_bodies(
                bodies.act, bodies.slot, bodies.stirred, state.stirred, state.counted, still, high
            )
        clock_s += high
        for column in range(LOG_COLUMNS):
            log[rows, column] = 0.0
        log[rows, END], log[rows, STEP] = clock_s, high
        log[rows, ELEMENT] = (_total_given(state.given) - before) / high
        log[rows, DRAW], log[rows, PHASE_OF] = draw, phase
        for layer in range(shown[1]):
            log[rows, LOG_COLUMNS + layer] = state.layers[shown[0] + layer]
        rows += 1
    return TIME_OVER, clock_s, rows


@compiled
def run_rest(
    bodies: Bodies, state: State, trial: State, still: Floats, shown: Ints, clock_s: float,
    until_s: float, log: Floats, rows: int, draw: int, phase: int,
) -> tuple[int, float, int]:  # fmt: skip
    """Let everything stand until a time, or until heat is called for; thermostats found inside."""
    nothing, room = np.zeros(state.layers.size), np.empty((2, state.layers.size))
    return _rest(
        bodies, state, trial, still, shown, clock_s, until_s, log, rows, draw, phase, nothing,
        room,
    )  # fmt: skip


@lean
def _crosses(clock_s: float, after_s: float, bodies: Bodies, state: State, trial: State) -> bool:
    """Say whether a thermostat would switch by the end of a trial."""
    for s in range(bodies.source.shape[0]):
        row = bodies.source[s]
        if state.relays[s] > 0.0:
            if trial.sensors[s] >= row[S_SET] + 1e-9:
                return True
            if row[S_VESSEL] >= 0.0 and trial.layers[int(row[S_AT])] >= row[S_LIMIT] + 1e-9:
                return True
        elif state.relays[s] == CUT:
            if trial.layers[int(row[S_AT])] <= row[S_LIMIT] - CUT_HYSTERESIS_K - 1e-9:
                return True
        elif state.relays[s] != WAITS:
            allowed = row[S_ALLOWED] > 0.0 and _may_run(
                (clock_s + after_s) % 86400.0, row[S_FROM], row[S_UNTIL]
            )
            if allowed and trial.sensors[s] <= row[S_SET] - row[S_HYSTERESIS] - 1e-9:
                return True
    return False


@lean
def catch_up_all(bodies: Bodies, state: State, until_s: float) -> None:
    """Let every pipe cool until now."""
    for p in range(bodies.pipe.shape[0]):
        _catch_up(bodies, state, p, until_s)


@lean
def total_heat(bodies: Bodies, state: State) -> float:
    """Add up all heat held, above 0 °C [J]."""
    heat = 0.0
    for v in range(bodies.vessel.shape[0]):
        row = bodies.vessel[v]
        for layer in range(int(row[FIRST]), int(row[FIRST] + row[COUNT])):
            heat += row[LAYER_J] * state.layers[layer]
    for p in range(bodies.pipe.shape[0]):
        row = bodies.pipe[p]
        heat += _pipe_heat(
            state.water, state.wall, int(row[0]), int(row[1]), row[2], state.ring, p,
            bodies.specific[int(row[7])], row[3],
        )  # fmt: skip
    for b in range(bodies.stirred.shape[0]):
        heat += bodies.stirred[b, B_HEAT_J] * state.stirred[b, TEMP]
    for r in range(bodies.reuse.shape[0]):
        heat += state.reuse[r, ROUND_THERE] * bodies.reuse[r, R_HEAT_J] * state.reuse[r, ROUND_C]
    for p in range(bodies.pool.shape[0]):
        heat += (state.pool[p, POOL_KG] * bodies.pool[p, 4] + bodies.pool[p, 1]) * state.pool[
            p, POOL_C
        ]
    return float(heat)


@lean
def held_mass(state: State) -> float:
    """Water in open pools, which alone may change [kg]; what goes round is counted by itself."""
    mass = 0.0
    for p in range(state.pool.shape[0]):
        mass += state.pool[p, POOL_KG]
    return float(mass)


__all__ = ["COLD", "SPECIFIC", "TIME_OVER", "Flowing", "State", "run_flow", "run_rest"]
