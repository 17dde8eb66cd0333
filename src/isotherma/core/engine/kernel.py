"""The compiled heart: stretches of flow and of rest, run to the next event."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled, lean
from isotherma.core.engine.columns import (
    B_AIR,
    BEFORE_HEAD,
    BEFORE_HOT,
    BURNER,
    CALLED,
    COLD_SIDE,
    CUT,
    DRAW,
    DRY,
    ELEMENT,
    END,
    HEAD,
    HOT,
    LOG_COLUMNS,
    LOG_FULL,
    MASS,
    MIXED,
    ON,
    PHASE_OF,
    POWER,
    R_STREAM_KG,
    ROUND_HEAD_C,
    S_ALLOWED,
    S_AT,
    S_FROM,
    S_HYSTERESIS,
    S_LIMIT,
    S_SET,
    S_UNTIL,
    S_VESSEL,
    SHARE,
    SHOWN_FROM,
    SHOWN_LAYERS,
    STEP,
    STILL_KG_PER_S,
    T_COLD,
    T_DRAW,
    T_HEAD,
    T_HOT,
    T_MIXER,
    T_PHASE,
    T_ROUND,
    TEMP,
    TIME_OVER,
    TOO_COLD,
    TOO_HOT,
    TRIPPED,
    W_ABOVE,
    W_BELOW,
    W_GIVES_UP,
    W_HIGH,
    W_INSIDE,
    W_LOW,
    W_STOPS,
    WAITS,
    WARM,
    FlowState,
    Reservoirs,
    ThermalElements,
    ThermalState,
    Work,
)  # fmt: skip
from isotherma.core.engine.flow_step import flow_step, longest_step, pass_order
from isotherma.core.engine.heater_control import CUT_HYSTERESIS_K, may_run, switch
from isotherma.core.engine.standing_step import rest_bodies, stand
from isotherma.core.engine.valve_dynamics import (
    bend,
    follower,
    keep,
    learn,
    move_mixers,
    solve_again,
)  # fmt: skip
from isotherma.core.hydraulics.network import Net

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

BEARS_S: Final = 10.0  # for how long somebody stands water that is too cold, or waits in too hot
SHARE_MOVED: Final = 0.0012  # 0.05 K at the head
SHARE_JUMPED: Final = 0.01
SOLVED_EVERY_S: Final = 30.0  # temperatures change what pipes take
UNWATCHED_EVERY_S: Final = 120.0  # the same, with nobody at an outlet
KEEPS_TO: Final = 0.15  # how far one valve may move, of its nearer stop, on a straight line
REST_STEP_S: Final = 300.0
MOVES_K: Final = 0.8  # in a step, at a joint: a front is smeared there by what passes in a step
LEAST: Final = 1.0 / 32.0  # of the fine step, where a front comes
OPENING_S: Final = 15.0  # after an outlet opens or shuts fronts are on their way


@lean
def _total_given(given: Floats) -> float:
    total = 0.0
    for s in range(given.size):
        total += given[s]
    return total


@lean
def _from_wells(reservoirs: Reservoirs, flow: Floats) -> None:
    """Add up what comes out of every tank, bag and can, less what comes back [kg/s]."""
    for k in range(reservoirs.rate.size):
        reservoirs.rate[k] = 0.0
    for link in range(flow.size):
        if reservoirs.row[link] >= 0 and flow[link] > 0.0:
            reservoirs.rate[reservoirs.row[link]] += reservoirs.way[link] * flow[link]


@lean
def _lasts(reservoirs: Reservoirs, step: float) -> tuple[float, int]:
    """Shorten a step to what the reservoirs still hold; say which was the first to end, or -1."""
    first = -1
    for k in range(reservoirs.rate.size):
        rate = reservoirs.rate[k] + reservoirs.other[k]
        if reservoirs.rate[k] > 0.0 and step * rate > reservoirs.left[k]:
            step, first = reservoirs.left[k] / rate, k
    return step, first


@lean
def _sort(thermal_net: Net, thermal: ThermalElements, flow: Floats, work: Work) -> int:
    """Put links in the order of the flow, and keep which way they run; give how many run."""
    for link in range(flow.size):
        work.sign[link] = np.sign(flow[link])
    return pass_order(thermal_net, thermal, flow, work.order, work.cut, work.waiting, work.done)


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
def _copy(into: ThermalState, source: ThermalState) -> None:
    """Copy what a rest changes."""
    _copy_line(into.layers, source.layers)
    _copy_line(into.aside, source.aside)
    _copy_line(into.sensors, source.sensors)
    _copy_line(into.relays, source.relays)
    _copy_line(into.given, source.given)
    _copy_line(into.drawn, source.drawn)
    _copy_line(into.counted, source.counted)
    _copy_table(into.stirred, source.stirred)
    _copy_table(into.pool, source.pool)
    _copy_table(into.reuse, source.reuse)


@lean
def _copy_flown(into: ThermalState, source: ThermalState) -> None:
    """Copy what only flow changes."""
    _copy_line(into.water, source.water)
    _copy_line(into.wall, source.wall)
    _copy_table(into.ring, source.ring)
    _copy_line(into.rested, source.rested)
    _copy_line(into.opening, source.opening)
    _copy_table(into.plate, source.plate)
    _copy_line(into.in_c, source.in_c)
    _copy_line(into.out_c, source.out_c)
    _copy_line(into.taken, source.taken)


@lean
def _follow(flow: Floats, swing: Floats, sign: Floats, moved: float) -> bool:
    """Let flows follow a valve in a straight line; not where one would run the other way."""
    for link in range(flow.size):
        if (flow[link] + swing[link] * moved) * sign[link] < 0.0:
            return False
    for link in range(flow.size):
        flow[link] += swing[link] * moved
    return True


@lean
def _moved(taps: Ints, flow: Floats, out_c: Floats, now_reuse: Floats, work: Work) -> float:
    """Give the most that water moved at any joint in a step, or where somebody stands [K]."""
    most = 0.0
    for link in range(flow.size):
        if abs(flow[link]) > STILL_KG_PER_S:
            most = max(most, abs(out_c[link] - work.last_c[link]))
    for k in range(taps.shape[0]):
        if taps[k, T_ROUND] >= 0:
            head_c = now_reuse[taps[k, T_ROUND], ROUND_HEAD_C]
            most = max(most, abs(head_c - work.before[k, BEFORE_HEAD]))
    return most


@lean
def _run(
    net: Net, thermal_net: Net, thermal: ThermalElements, state: ThermalState, flowing: FlowState,
    taps: Ints, windows: Floats, shown: Ints, clock_s: float, until: float, reservoirs: Reservoirs,
    fine_s: float, log: Floats, rows: int, follows: int, work: Work, back: ThermalState,
) -> tuple[int, int, float, int]:  # fmt: skip
    """Step from a first solution, as `run_flow` says; `follows` is the one valve that does.

    With somebody at an outlet a step in which too much moves is taken back to `back` and done
    in shorter ones: so a front arrives at the edge of a step, not somewhere within a long one.
    """
    links, people = net.law.size, taps.shape[0]
    flow, shut, opening, out_c = flowing.flow, flowing.shut, state.opening, state.out_c
    layers, given, now_stirred = state.layers, state.given, state.stirred
    reuse, now_reuse, swing, before, sign = (
        thermal.reuse,
        state.reuse,
        work.swing,
        work.before,
        work.sign,
    )
    legs, mixer, lag, given_c = flowing.legs, flowing.mixer, flowing.lag, flowing.given_c
    mixers, width = legs.shape[0], log.shape[1]
    every_s = SOLVED_EVERY_S if people > 0 else UNWATCHED_EVERY_S
    last = opening[follows] if follows >= 0 else 0.0
    keep(work, flow, shut)
    total = _sort(thermal_net, thermal, flow, work)
    most_s = longest_step(thermal, flow, work.order, work.cut, total)
    event = clock_s
    moving, began = True, True
    least = LEAST * fine_s
    free = least
    since = 0.0
    _from_wells(reservoirs, flow)
    while clock_s < until - 1e-9:
        if rows + people > log.shape[0]:
            return LOG_FULL, -1, clock_s, rows
        longest = 4.0 * fine_s
        if people > 0:
            if moving or clock_s - event < OPENING_S:
                longest = fine_s
            longest = min(longest, free)
        step = min(longest, until - clock_s, most_s)
        if people > 0:
            step, empty = _lasts(reservoirs, step)
            if empty >= 0 and step < 1e-4:
                return DRY, empty, clock_s, rows
        if switch(clock_s, thermal, state):
            return CALLED, -1, clock_s, rows
        given_before = _total_given(given)
        if people > 0 and step > least:
            _copy(back, state)
            _copy_flown(back, state)
        stood = opening[follows] if follows >= 0 else 0.0
        if mixers > 0:  # half way before the step and half after: water meets the valve of its time
            move_mixers(legs, mixer, lag, flow, out_c, opening, 0.5 * step)
        half = opening[follows] if follows >= 0 else 0.0
        if half != stood and not _follow(flow, swing, sign, half - stood):
            half = stood
        _from_wells(reservoirs, flow)  # as it flows in this very step
        flow_step(thermal_net, thermal, state, flow, given_c, work, total, clock_s, step)
        if people > 0:
            moved = 0.0 if began else _moved(taps, flow, out_c, now_reuse, work)
            if moved > MOVES_K and step > least:
                _copy(state, back)
                _copy_flown(state, back)
                for link in range(links):
                    flow[link] -= swing[link] * (half - stood)
                free = max(least, step * max(0.1, min(0.5, 0.8 * MOVES_K / moved)))
                continue
            free = step * (2.0 if moved < 0.4 * MOVES_K else 1.0)
            began = False
            _copy_line(work.last_c, out_c)
        clock_s += step
        for k in range(reservoirs.rate.size):
            rate = reservoirs.rate[k]
            reservoirs.left[k] = max(0.0, reservoirs.left[k] - (rate + reservoirs.other[k]) * step)
            reservoirs.took[k] += rate * step
        since += step
        found = 0.0
        if mixers > 0:
            found = move_mixers(legs, mixer, lag, flow, out_c, opening, 0.5 * step)
        moving = False
        why, who = TIME_OVER, -1
        if people > 0:
            element = (_total_given(given) - given_before) / step
            fire = 0.0
            for b in range(now_stirred.shape[0]):
                fire += now_stirred[b, POWER]
        for k in range(people):
            head, hot_leg, cold_leg = taps[k, T_HEAD], taps[k, T_HOT], taps[k, T_COLD]
            goes_round = taps[k, T_ROUND]
            if goes_round < 0:
                head_c, flows = out_c[head], abs(flow[head])
            else:
                head_c = now_reuse[goes_round, ROUND_HEAD_C]
                flows = reuse[goes_round, R_STREAM_KG]
            hot_c = out_c[hot_leg] if hot_leg >= 0 else head_c
            change = max(abs(head_c - before[k, BEFORE_HEAD]), abs(hot_c - before[k, BEFORE_HOT]))
            if change > 0.2 * step:
                moving = True
            before[k, BEFORE_HEAD], before[k, BEFORE_HOT] = head_c, hot_c
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
            for layer in range(shown[SHOWN_LAYERS]):
                log[rows, LOG_COLUMNS + layer] = layers[shown[SHOWN_FROM] + layer]
            rows += 1
            windows[k, W_BELOW] = (
                windows[k, W_BELOW] + step if head_c < windows[k, W_GIVES_UP] else 0.0
            )
            hot = head_c > windows[k, W_HIGH] and flows > STILL_KG_PER_S
            windows[k, W_ABOVE] = windows[k, W_ABOVE] + step if hot else 0.0
            if windows[k, W_STOPS] > 0.5 and windows[k, W_INSIDE] >= 5.0 - 1e-9:
                if why == TIME_OVER:
                    why, who = WARM, k
            elif windows[k, W_STOPS] > 1.5 and windows[k, W_ABOVE] >= BEARS_S - 1e-9:
                if why == TIME_OVER:
                    why, who = TOO_HOT, k
            elif windows[k, W_BELOW] >= BEARS_S and why == TIME_OVER:
                why, who = TOO_COLD, k
        if why != TIME_OVER:
            return why, who, clock_s, rows
        if follows >= 0:
            solved_at = lag[mixers + follows]
            far = KEEPS_TO * min(solved_at, 1.0 - solved_at)
            again = found > far or since > every_s
            if opening[follows] != half:  # where it is solved again, this is a better start
                again = again or not _follow(flow, swing, sign, opening[follows] - half)
        else:
            again = (found > SHARE_MOVED and since > 0.7) or found > SHARE_JUMPED or since > every_s
        if again:
            since = 0.0
            solve_again(net, flowing, state, work.rho, work.mu)
            if follows >= 0:
                bend(flow, shut, swing, work.last_flow, work.last_shut, opening[follows], last)
                last = opening[follows]
                keep(work, flow, shut)
            turned = False
            for link in range(links):
                if np.sign(flow[link]) != sign[link]:
                    turned = True
            if turned:
                total = _sort(thermal_net, thermal, flow, work)
                most_s = longest_step(thermal, flow, work.order, work.cut, total)
    return TIME_OVER, -1, clock_s, rows


@compiled
def run_flow(
    net: Net, thermal_net: Net, thermal: ThermalElements, state: ThermalState, trial: ThermalState,
    flowing: FlowState, taps: Ints, windows: Floats, shown: Ints, clock_s: float, until_s: float,
    reservoirs: Reservoirs, fine_s: float, log: Floats, rows: int,
) -> tuple[int, int, float, int]:  # fmt: skip
    """Run until the time is over, water is warm, a tank is dry or heat is called for.

    `thermal_net` is the network as heat goes through it, with a reducer's two sides joined. `taps`
    and `windows` have a row for everybody who is washing, as their columns say; a tap on water
    that goes round names its row. `shown`: first layer and layers of the store shown.
    Gives why it ended, at which tap or reservoir, the clock and rows of the log; `windows` and what
    is left in `reservoirs` are written back and `trial` is room to take a step back in.
    """
    links, nodes, people = net.law.size, thermal_net.given.size, taps.shape[0]
    layers = state.layers.size
    work = Work(
        order=np.empty(links, np.int64), cut=np.empty(links, np.int64),
        waiting=np.empty(nodes, np.int64), done=np.empty(links, np.bool_), rho=np.empty(links),
        mu=np.empty(links), mass_at=np.zeros(nodes), heat_at=np.zeros(nodes),
        coil_w=np.zeros(layers), room=np.empty((2, layers)), swing=np.zeros(links),
        last_flow=np.empty(links), last_shut=np.empty(links, np.int64), sign=np.empty(links),
        before=np.zeros((people, 2)), last_c=np.empty(links),
    )  # fmt: skip
    solve_again(net, flowing, state, work.rho, work.mu)
    follows = follower(flowing)
    if follows >= 0:
        learn(net, flowing, state, work.rho, work.mu, follows, work.swing)
    return _run(
        net, thermal_net, thermal, state, flowing, taps, windows, shown, clock_s, until_s,
        reservoirs, fine_s, log, rows, follows, work, trial,
    )  # fmt: skip


@lean
def _edge(clock_s: float, thermal: ThermalElements) -> float:
    """Seconds until a source's hours begin or end."""
    nearest = 86400.0
    for s in range(thermal.source.shape[0]):
        row = thermal.source[s]
        if row[S_FROM] != row[S_UNTIL]:
            for column in (S_FROM, S_UNTIL):
                ahead = (row[column] - clock_s) % 86400.0
                if 1e-6 < ahead < nearest:
                    nearest = ahead
    return nearest


@lean
def _rest(
    thermal: ThermalElements, state: ThermalState, trial: ThermalState, still: Floats, shown: Ints,
    clock_s: float, until_s: float, log: Floats, rows: int, draw: int, phase: int, nothing: Floats,
    room: Floats,
) -> tuple[int, float, int]:  # fmt: skip
    """Do what `run_rest` says; `nothing` and `room` are to work in."""
    while clock_s < until_s - 1e-9:
        if rows >= log.shape[0]:
            return LOG_FULL, clock_s, rows
        if switch(clock_s, thermal, state):
            return CALLED, clock_s, rows
        step = min(REST_STEP_S, until_s - clock_s, _edge(clock_s, thermal))
        for b in range(thermal.stirred.shape[0]):  # a heater that cools or burns moves in minutes
            if abs(state.stirred[b, TEMP] - thermal.stirred[b, B_AIR]) > 1.0:
                step = min(step, 60.0)
        low, high = 0.0, step
        for _ in range(24):
            _copy(trial, state)
            stand(thermal, trial, nothing, room, high)
            if high <= 0.05 or not _crosses(clock_s, high, thermal, state, trial):
                break
            # the first crossing lies between: halve until it is within a twentieth of a second
            top = high
            while top - low > 0.05:
                middle = 0.5 * (low + top)
                _copy(trial, state)
                stand(thermal, trial, nothing, room, middle)
                if _crosses(clock_s, middle, thermal, state, trial):
                    top = middle
                else:
                    low = middle
            high = top
            _copy(trial, state)
            stand(thermal, trial, nothing, room, high)
            break
        before = _total_given(state.given)
        _copy(state, trial)
        if thermal.stirred.shape[0] > 0:
            rest_bodies(
                thermal.act, thermal.slot, thermal.stirred, state.stirred, state.counted, still,
                high,
            )  # fmt: skip
        clock_s += high
        for column in range(LOG_COLUMNS):
            log[rows, column] = 0.0
        log[rows, END], log[rows, STEP] = clock_s, high
        log[rows, ELEMENT] = (_total_given(state.given) - before) / high
        log[rows, DRAW], log[rows, PHASE_OF] = draw, phase
        for layer in range(shown[SHOWN_LAYERS]):
            log[rows, LOG_COLUMNS + layer] = state.layers[shown[SHOWN_FROM] + layer]
        rows += 1
    return TIME_OVER, clock_s, rows


@compiled
def run_rest(
    thermal: ThermalElements, state: ThermalState, trial: ThermalState, still: Floats, shown: Ints,
    clock_s: float, until_s: float, log: Floats, rows: int, draw: int, phase: int,
) -> tuple[int, float, int]:  # fmt: skip
    """Let everything stand until a time, or until heat is called for; thermostats found inside."""
    nothing, room = np.zeros(state.layers.size), np.empty((2, state.layers.size))
    return _rest(
        thermal, state, trial, still, shown, clock_s, until_s, log, rows, draw, phase, nothing,
        room,
    )  # fmt: skip


@lean
def _crosses(
    clock_s: float,
    after_s: float,
    thermal: ThermalElements,
    state: ThermalState,
    trial: ThermalState,
) -> bool:
    """Say whether a thermostat would switch by the end of a trial."""
    for s in range(thermal.source.shape[0]):
        row = thermal.source[s]
        if state.relays[s] == ON:
            if trial.sensors[s] >= row[S_SET] + 1e-9:
                return True
            if row[S_VESSEL] >= 0.0 and trial.layers[int(row[S_AT])] >= row[S_LIMIT] + 1e-9:
                return True
        elif state.relays[s] == CUT:
            if trial.layers[int(row[S_AT])] <= row[S_LIMIT] - CUT_HYSTERESIS_K - 1e-9:
                return True
        elif state.relays[s] != WAITS and state.relays[s] != TRIPPED:
            allowed = row[S_ALLOWED] > 0.0 and may_run(
                (clock_s + after_s) % 86400.0, row[S_FROM], row[S_UNTIL]
            )
            if allowed and trial.sensors[s] <= row[S_SET] - row[S_HYSTERESIS] - 1e-9:
                return True
    return False
