"""One day, compiled: draws in sequence, rest between, heat and water counted as they cross.

State: store layers, two thermostat readings and relays, water and wall of every pipe,
the mixer's opening, fresh water left. Order within a step of flow: water moves from
tank to head, then walls, then sources and losses act, then the mixer follows.
"""

from __future__ import annotations

from math import exp

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled
from isotherma.core.simulate import steps
from isotherma.core.simulate.steps import (
    BURNER,
    COLD,
    COUNTED,
    DRAW,
    DRAWN,
    ELEMENT,
    END,
    GIVEN,
    HEAD,
    HOT,
    IN,
    LOG_COLUMNS,
    LOST_PIPE,
    LOST_STORE,
    MASS,
    MIXED,
    OUT,
    PHASE,
    Q_BURNER,
    Q_ELEMENT,
    REST,
    RUNNING,
    SHARE,
    STEP,
    STOPPED,
    U_END,
    U_START,
    WAITING,
)
from isotherma.core.thermal import mixer as mixer_kernel
from isotherma.core.thermal import pipe as pipe_kernel
from isotherma.core.thermal import store as store_kernel

__all__ = [
    "BURNER", "COLD", "COUNTED", "DRAW", "DRAWN", "ELEMENT", "END", "GIVEN", "HEAD", "HOT", "IN",
    "LOG_COLUMNS", "LOST_PIPE", "LOST_STORE", "MASS", "MIXED", "OUT", "PHASE", "Q_BURNER",
    "Q_ELEMENT", "REST", "RUNNING", "SHARE", "STEP", "STOPPED", "U_END", "U_START", "WAITING",
    "run_day",
]  # fmt: skip

Floats = NDArray[np.float64]

_heat_store = steps.heat_store
_record = steps.record
_rest_pipes = steps.rest_pipes
_rest_step = steps.rest_step
_switch = steps.switch
_total_heat = steps.total_heat
_walls = steps.walls
_wanted_hot_share = mixer_kernel.wanted_hot_share
_push = pipe_kernel.push
_draw = store_kernel.draw


@compiled
def run_day(
    specific_j: float,
    fresh_c: float,
    fresh_kg: float,
    other_kg_per_s: float,
    gives_up_s: float,
    store_air_c: float,
    layer_kg: float,
    layer_j: float,
    link_w: float,
    jet_share: float,
    loss_w: Floats,
    heat_share: Floats,
    source: Floats,
    pipe: Floats,
    mixer: Floats,
    draws: Floats,
    fine_s: float,
    layers: Floats,
    sensors: Floats,
    relays: Floats,
    water: Floats,
    wall: Floats,
    ring: Floats,
    opening: Floats,
    log: Floats,
    outcome: Floats,
    counted: Floats,
) -> int:
    """Run one day in place; return the number of log rows, or -1 when the log is full.

    `outcome` has a row per draw: opened at, warm at (-1 never), closed at, ran dry.
    """
    rows = 0
    clock = 0.0
    left_kg = fresh_kg
    pipes_until = 0.0
    total = pipe.shape[0]
    counted[U_START] = _total_heat(layers, layer_j, specific_j, pipe, water, wall, ring)
    for k in range(draws.shape[0] + 1):
        # --- rest until the next draw, or the end of the day ---
        until = draws[k, 0] if k < draws.shape[0] else 86400.0
        while clock < until - 1e-9:
            if rows >= log.shape[0]:
                return -1
            before_e = counted[Q_ELEMENT]
            before_b = counted[Q_BURNER]
            duration = _rest_step(
                clock,
                until - clock,
                layers,
                layer_j,
                loss_w,
                store_air_c,
                link_w,
                heat_share,
                source,
                sensors,
                relays,
                counted,
            )
            clock += duration
            left_kg -= other_kg_per_s * duration
            _record(
                log,
                rows,
                clock,
                duration,
                (counted[Q_ELEMENT] - before_e) / duration,
                (counted[Q_BURNER] - before_b) / duration,
                -1,
                REST,
                layers,
            )
            rows += 1
        if k == draws.shape[0]:
            break
        _rest_pipes(pipe, water, wall, ring, specific_j, clock - pipes_until, counted)
        # --- one draw ---
        duration_s = draws[k, 1]
        flow = draws[k, 2]
        low_c = draws[k, 3]
        high_c = draws[k, 4]
        stops_left = int(draws[k, 5])
        stretch = duration_s / (stops_left + 1)
        next_stop = stretch
        phase = WAITING if draws[k, 7] > 0.0 else RUNNING
        opened = clock
        event = clock
        ran = 0.0
        inside = 0.0
        warm_at = -1.0
        dry = 0.0
        last_head = 0.0
        last_hot = 0.0
        moving = True
        while flow > 0.0:
            if phase == RUNNING and ran >= duration_s - 1e-9:
                break
            if phase == RUNNING and stops_left > 0 and ran >= next_stop - 1e-9:
                pause = draws[k, 6]
                while pause > 1e-9:
                    if rows >= log.shape[0]:
                        return -1
                    _switch(clock, source, sensors, relays)
                    step = min(5.0, pause)
                    _heat_store(
                        layers,
                        layer_j,
                        loss_w,
                        store_air_c,
                        link_w,
                        heat_share,
                        source,
                        sensors,
                        relays,
                        step,
                        counted,
                    )
                    _rest_pipes(pipe, water, wall, ring, specific_j, step, counted)
                    clock += step
                    pause -= step
                    left_kg -= other_kg_per_s * step
                    _record(
                        log,
                        rows,
                        clock,
                        step,
                        relays[0] * source[0, 0],
                        relays[1] * source[1, 0],
                        k,
                        STOPPED,
                        layers,
                    )
                    log[rows, SHARE] = opening[0]
                    rows += 1
                stops_left -= 1
                next_stop += stretch
                event = clock
                moving = True
                continue
            step = fine_s if (moving or clock - event < 15.0) else 4.0 * fine_s
            if phase == RUNNING:
                step = min(step, (next_stop if stops_left > 0 else duration_s) - ran)
            else:
                step = min(step, opened + gives_up_s - clock)
            if step * (flow + other_kg_per_s) > left_kg:
                step = left_kg / (flow + other_kg_per_s)
                if step < 1e-4:
                    dry = 1.0
                    break
            if rows >= log.shape[0]:
                return -1
            if step <= 1e-9:  # gave up waiting before it began
                phase = RUNNING
                continue
            _switch(clock, source, sensors, relays)
            mass = flow * step
            share = opening[0]
            feed_c = fresh_c
            store_in_c = fresh_c
            hot_c = 0.0
            cold_c = 0.0
            head_c = 0.0
            mixed_c = 0.0
            previous = -1
            passing = fresh_c
            moved = mass
            for p in range(total):
                group = int(pipe[p, 0])
                if group != previous:
                    for entered in range(previous + 1, group + 1):
                        if entered == 1:
                            feed_c = passing
                            moved = share * mass
                        elif entered == 2:
                            store_in_c = passing
                            passing = _draw(
                                layers,
                                layer_kg,
                                layer_j,
                                specific_j,
                                moved,
                                store_in_c,
                                jet_share,
                            )
                        elif entered == 3:
                            hot_c = passing
                            passing = feed_c
                            moved = (1.0 - share) * mass
                        elif entered == 4:
                            cold_c = passing
                            mixed_c = share * hot_c + (1.0 - share) * cold_c
                            passing = mixed_c
                            moved = mass
                    previous = group
                passing = _push(
                    water, int(pipe[p, 1]), int(pipe[p, 2]), pipe[p, 3], ring, p, moved, passing
                )
            head_c = passing
            _walls(pipe, water, wall, ring, specific_j, step, counted)
            _heat_store(
                layers,
                layer_j,
                loss_w,
                store_air_c,
                link_w,
                heat_share,
                source,
                sensors,
                relays,
                step,
                counted,
            )
            wanted = _wanted_hot_share(hot_c, cold_c, mixer[0], mixer[1])
            opening[0] += (1.0 - exp(-step / mixer[2])) * (wanted - opening[0])
            counted[IN] += mass * specific_j * fresh_c
            counted[OUT] += mass * specific_j * head_c
            clock += step
            left_kg -= mass + other_kg_per_s * step
            moving = abs(head_c - last_head) > 0.2 * step or abs(hot_c - last_hot) > 0.2 * step
            last_head = head_c
            last_hot = hot_c
            if phase == RUNNING:
                ran += step
            if low_c <= head_c <= high_c:
                inside += step
            else:
                inside = 0.0
            if warm_at < 0.0 and inside >= 5.0 - 1e-9:
                warm_at = clock - inside
                if phase == WAITING:
                    ran = inside
            _record(
                log,
                rows,
                clock,
                step,
                relays[0] * source[0, 0],
                relays[1] * source[1, 0],
                k,
                phase,
                layers,
            )
            log[rows, MASS] = mass
            log[rows, HEAD] = head_c
            log[rows, HOT] = hot_c
            log[rows, COLD] = cold_c
            log[rows, SHARE] = share
            log[rows, MIXED] = mixed_c
            counted[GIVEN] += log[rows, MASS]
            rows += 1
            if phase == WAITING and (warm_at >= 0.0 or clock >= opened + gives_up_s - 1e-9):
                phase = RUNNING
        outcome[k, 0] = opened
        outcome[k, 1] = warm_at
        outcome[k, 2] = clock
        outcome[k, 3] = dry
        pipes_until = clock
    _rest_pipes(pipe, water, wall, ring, specific_j, max(0.0, clock - pipes_until), counted)
    # what the tank lost, against what the head gave: pipes and store keep their mass
    counted[DRAWN] = fresh_kg - left_kg - other_kg_per_s * clock
    counted[U_END] = _total_heat(layers, layer_j, specific_j, pipe, water, wall, ring)
    return rows
