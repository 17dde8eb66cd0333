"""Pieces of a simulated day: switching, heating, resting, counting and writing a step down."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled
from isotherma.core.thermal import pipe as pipe_kernel
from isotherma.core.thermal import store as store_kernel

Floats = NDArray[np.float64]

_exchange = pipe_kernel.exchange
_cool = pipe_kernel.rest
_pipe_heat = pipe_kernel.stored_heat
_advance = store_kernel.advance

REST, WAITING, RUNNING, STOPPED = 0, 1, 2, 3
# columns of the log before the layers
END, STEP, MASS, HEAD, HOT, COLD, SHARE, MIXED, ELEMENT, BURNER, DRAW, PHASE = range(12)
LOG_COLUMNS = 12
# what is counted: inflow heat, element, burner, outflow heat, store loss, pipe loss,
# water from the tank, water at the head, stored heat before and after
IN, Q_ELEMENT, Q_BURNER, OUT, LOST_STORE, LOST_PIPE, DRAWN, GIVEN, U_START, U_END = range(10)
COUNTED = 10


@compiled
def total_heat(
    layers: Floats,
    layer_j: float,
    specific_j: float,
    pipe: Floats,
    water: Floats,
    wall: Floats,
    ring: Floats,
) -> float:
    """Add up the heat of store, water and walls above 0 °C [J]."""
    heat = layer_j * layers.sum()
    for p in range(pipe.shape[0]):
        heat += _pipe_heat(
            water,
            wall,
            int(pipe[p, 1]),
            int(pipe[p, 2]),
            pipe[p, 3],
            ring,
            p,
            specific_j,
            pipe[p, 4],
        )
    return float(heat)


@compiled
def may_run(clock_s: float, start_s: float, end_s: float) -> bool:
    """Say whether a window, which may pass midnight, is open; equal ends are all day."""
    if start_s == end_s:
        return True
    if start_s < end_s:
        return start_s <= clock_s < end_s
    return clock_s >= start_s or clock_s < end_s


@compiled
def next_edge(clock_s: float, source: Floats) -> float:
    """Seconds until the next opening or closing of a source's window."""
    nearest = 86400.0
    for s in range(2):
        if source[s, 7] > 0.0 and source[s, 5] != source[s, 6]:
            for column in (5, 6):
                ahead = (source[s, column] - clock_s) % 86400.0
                if 1e-6 < ahead < nearest:
                    nearest = ahead
    return nearest


@compiled
def switch(clock_s: float, source: Floats, sensors: Floats, relays: Floats) -> None:
    """Let the thermostats act on their readings."""
    for s in range(2):
        allowed = source[s, 7] > 0.0 and may_run(clock_s % 86400.0, source[s, 5], source[s, 6])
        if not allowed or sensors[s] >= source[s, 1]:
            relays[s] = 0.0
        elif sensors[s] <= source[s, 1] - source[s, 2]:
            relays[s] = 1.0


@compiled
def heat_store(
    layers: Floats,
    layer_j: float,
    loss_w: Floats,
    air_c: float,
    link_w: float,
    heat_share: Floats,
    source: Floats,
    sensors: Floats,
    relays: Floats,
    duration_s: float,
    counted: Floats,
) -> None:
    """Run sources, loss and conduction for a while with the relays as they are."""
    power = np.empty(layers.shape[0])
    for i in range(layers.shape[0]):
        power[i] = (
            relays[0] * source[0, 0] * heat_share[0, i]
            + relays[1] * source[1, 0] * heat_share[1, i]
        )
    counted[LOST_STORE] += _advance(
        layers,
        layer_j,
        loss_w,
        air_c,
        link_w,
        power,
        sensors,
        source[:, 3],
        source[:, 4],
        duration_s,
    )
    counted[Q_ELEMENT] += relays[0] * source[0, 0] * duration_s
    counted[Q_BURNER] += relays[1] * source[1, 0] * duration_s


@compiled
def crossed(source: Floats, sensors: Floats, relays: Floats, clock_s: float) -> bool:
    """Say whether a thermostat would switch at these readings."""
    for s in range(2):
        if source[s, 7] > 0.0:
            if relays[s] > 0.0 and sensors[s] >= source[s, 1]:
                return True
            allowed = may_run(clock_s % 86400.0, source[s, 5], source[s, 6])
            low = source[s, 1] - source[s, 2]
            if relays[s] == 0.0 and allowed and sensors[s] <= low:
                return True
    return False


@compiled
def rest_step(
    clock_s: float,
    limit_s: float,
    layers: Floats,
    layer_j: float,
    loss_w: Floats,
    air_c: float,
    link_w: float,
    heat_share: Floats,
    source: Floats,
    sensors: Floats,
    relays: Floats,
    counted: Floats,
) -> float:
    """Advance a resting store to the next thermostat event or the limit; return seconds."""
    switch(clock_s, source, sensors, relays)
    duration = min(300.0, limit_s, next_edge(clock_s % 86400.0, source))
    trial = layers.copy()
    reading = sensors.copy()
    scrap = np.zeros(COUNTED)
    heat_store(
        trial, layer_j, loss_w, air_c, link_w, heat_share, source, reading, relays, duration, scrap
    )
    if not (crossed(source, reading, relays, clock_s) and duration > 0.05):
        layers[:] = trial
        sensors[:] = reading
        for i in range(COUNTED):
            counted[i] += scrap[i]
    else:
        low = 0.0
        high = duration
        while high - low > 0.05:
            middle = 0.5 * (low + high)
            trial[:] = layers
            reading[:] = sensors
            heat_store(
                trial,
                layer_j,
                loss_w,
                air_c,
                link_w,
                heat_share,
                source,
                reading,
                relays,
                middle,
                scrap,
            )
            if crossed(source, reading, relays, clock_s):
                high = middle
            else:
                low = middle
        duration = high
        heat_store(
            layers,
            layer_j,
            loss_w,
            air_c,
            link_w,
            heat_share,
            source,
            sensors,
            relays,
            duration,
            counted,
        )
    return duration


@compiled
def walls(
    pipe: Floats,
    water: Floats,
    wall: Floats,
    ring: Floats,
    specific_j: float,
    duration_s: float,
    counted: Floats,
) -> None:
    """Exchange heat between water, walls and air in every pipe."""
    for p in range(pipe.shape[0]):
        counted[LOST_PIPE] += _exchange(
            water,
            wall,
            int(pipe[p, 1]),
            int(pipe[p, 2]),
            pipe[p, 3],
            ring,
            p,
            specific_j,
            pipe[p, 4],
            pipe[p, 5],
            pipe[p, 6],
            pipe[p, 7],
            duration_s,
        )


@compiled
def rest_pipes(
    pipe: Floats,
    water: Floats,
    wall: Floats,
    ring: Floats,
    specific_j: float,
    duration_s: float,
    counted: Floats,
) -> None:
    """Let all pipes rest: briefly with their own walls, longer as one body."""
    if duration_s <= 0.0:
        return
    if duration_s <= 5.0:
        walls(pipe, water, wall, ring, specific_j, duration_s, counted)
        return
    for p in range(pipe.shape[0]):
        counted[LOST_PIPE] += _cool(
            water,
            wall,
            int(pipe[p, 1]),
            int(pipe[p, 2]),
            pipe[p, 3],
            ring,
            p,
            specific_j,
            pipe[p, 4],
            pipe[p, 6],
            pipe[p, 7],
            duration_s,
        )


@compiled
def record(
    log: Floats,
    row: int,
    end_s: float,
    step_s: float,
    element_w: float,
    burner_w: float,
    draw: int,
    phase: int,
    layers: Floats,
) -> None:
    """Write what every step has into a row of the log; the flow's columns stay 0."""
    log[row, :] = 0.0
    log[row, END] = end_s
    log[row, STEP] = step_s
    log[row, ELEMENT] = element_w
    log[row, BURNER] = burner_w
    log[row, DRAW] = draw
    log[row, PHASE] = phase
    log[row, LOG_COLUMNS:] = layers
