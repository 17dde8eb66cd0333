"""Thermal elements while time passes: stores, open boxes, water that goes round, pipes at rest."""

from __future__ import annotations

from math import exp
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import lean
from isotherma.core.engine.columns import (
    AIR_C,
    ASIDE_J,
    B_AIR,
    B_HEAT_J,
    B_LOSS,
    B_WATTS,
    BODIES,
    COUNT,
    DRAWN,
    FIRST,
    HEAT_GIVEN,
    LAYER_J,
    LINK_W,
    LOST_BODY,
    LOST_PIPE,
    LOST_STORE,
    O_AIR_C,
    O_BODY_J,
    O_LOSS,
    O_SPECIFIC,
    ON,
    P_AIR_C,
    P_CELL_KG,
    P_CELLS,
    P_FIRST,
    P_LINK,
    P_TO_AIR_W,
    P_WALL_J,
    POOL_C,
    POOL_KG,
    R_AIR,
    R_EXCHANGER,
    R_FALL,
    R_HEAT_J,
    R_STREAM_W,
    ROUND_C,
    ROUND_HEAD_C,
    ROUND_RUNS,
    ROUND_THERE,
    ROUND_W,
    S_AT,
    S_DRAWS,
    S_LAG,
    S_POOL,
    S_SENSOR,
    S_WATTS,
    SOURCES,
    SOURCES_FROM,
    SOURCES_TO,
    STILL_KG_PER_S,
    STIRRED,
    TEMP,
    ThermalElements,
    ThermalState,
)  # fmt: skip
from isotherma.core.engine.heater_control import burn
from isotherma.core.thermal import exchanger
from isotherma.core.thermal import pipe as pipe_law
from isotherma.core.thermal import store as store_law

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

ASIDE_S: Final = 120.0  # corners follow what heats or cools by circulation; judgement
ASIDE_DRAWN_S: Final = 1800.0  # the flow passes them by while somebody draws
_cool = pipe_law.rest
_pipe_heat = pipe_law.stored_heat
_advance = store_law.advance_at
_counterflow = exchanger.counterflow_w_per_k


@lean
def turn_round(layers: Floats, first: int, last: int) -> None:
    """Put layers upside down."""
    one, other = first, last - 1
    while one < other:
        layers[one], layers[other] = layers[other], layers[one]
        one += 1
        other -= 1


@lean
def vessels(
    vessel: Floats, source: Floats, loss_w: Floats, layers: Floats, aside: Floats,
    sensors: Floats, relays: Floats, given: Floats, drawn: Floats, counted: Floats,
    heat_w: Floats, room: Floats, step_s: float,
) -> None:  # fmt: skip
    """Heat, cool and turn over every vessel for a while.

    `heat_w` is what coils give each layer; it is used up and left at nothing. `room` is to work
    in, two rows as long as the layers.
    """
    for v in range(vessel.shape[0]):
        first, count = int(vessel[v, FIRST]), int(vessel[v, COUNT])
        a, b = int(vessel[v, SOURCES_FROM]), int(vessel[v, SOURCES_TO])
        for s in range(a, b):
            if relays[s] == ON:
                joules = source[s, S_WATTS] * step_s
                heat_w[int(source[s, S_AT])] += source[s, S_WATTS]
                given[s] += joules
                drawn[s] += joules * source[s, S_DRAWS]
                counted[SOURCES] += joules
        counted[LOST_STORE] += _advance(
            layers, first, count, vessel[v, LAYER_J], loss_w, vessel[v, AIR_C],
            vessel[v, LINK_W], heat_w, source, sensors, a, b, S_SENSOR, S_LAG, room, step_s,
        )  # fmt: skip
        for layer in range(first, first + count):
            heat_w[layer] = 0.0
        if vessel[v, ASIDE_J] > 0.0:
            slow_s = ASIDE_DRAWN_S if vessel[v, DRAWN] > 0.5 else ASIDE_S
            _creep(
                layers, aside, first, count, vessel[v, LAYER_J], vessel[v, ASIDE_J], step_s / slow_s
            )
        vessel[v, DRAWN] = 0.0


@lean
def _creep(
    layers: Floats, aside: Floats, first: int, count: int, layer_j: float, aside_j: float,
    spans: float,
) -> None:  # fmt: skip
    """Let water that the flow passes by come nearer to its layer, exactly."""
    both = layer_j + aside_j
    left = exp(-spans)
    for i in range(first, first + count):
        middle = (layer_j * layers[i] + aside_j * aside[i]) / both
        layers[i] = middle + (layers[i] - middle) * left
        aside[i] = middle + (aside[i] - middle) * left


@lean
def pools(thermal: ThermalElements, state: ThermalState, step_s: float) -> None:
    """Heat and cool every open box for a while."""
    source, relays, sensors = thermal.source, state.relays, state.sensors
    given, counted = state.given, state.counted
    for p in range(thermal.pool.shape[0]):
        row, now = thermal.pool[p], state.pool[p]
        power = 0.0
        for s in range(source.shape[0]):
            if int(source[s, S_POOL]) == p:
                if relays[s] == ON:
                    power += source[s, S_WATTS]
                    given[s] += source[s, S_WATTS] * step_s
                    state.drawn[s] += source[s, S_WATTS] * source[s, S_DRAWS] * step_s
                    counted[SOURCES] += source[s, S_WATTS] * step_s
                sensors[s] = now[POOL_C]
        heat_j = now[POOL_KG] * row[O_SPECIFIC] + row[O_BODY_J]
        goal = row[O_AIR_C] + power / row[O_LOSS]
        before = now[POOL_C]
        now[POOL_C] = goal + (before - goal) * exp(-row[O_LOSS] * step_s / heat_j)
        counted[LOST_STORE] += power * step_s - heat_j * (now[POOL_C] - before)


@lean
def stand(
    thermal: ThermalElements, state: ThermalState, heat_w: Floats, room: Floats, step_s: float
) -> None:
    """Let every vessel and box stand for a while."""
    vessels(
        thermal.vessel, thermal.source, thermal.loss_w, state.layers, state.aside, state.sensors,
        state.relays, state.given, state.drawn, state.counted, heat_w, room, step_s,
    )  # fmt: skip
    if thermal.pool.shape[0] > 0:
        pools(thermal, state, step_s)


@lean
def exchange_round(rows: Floats, nows: Floats, slot: int, rate: float, enters_c: float) -> float:
    """Let the primary warm water that goes round to a shower; give what leaves."""
    nows[slot, ROUND_W] = 0.0
    if nows[slot, ROUND_RUNS] < 0.5 or rate <= 0.0:
        return enters_c
    grip = _counterflow(rows[slot, R_EXCHANGER], rate, rows[slot, R_STREAM_W])
    power = grip * (enters_c - nows[slot, ROUND_C])
    nows[slot, ROUND_W] = power
    return float(enters_c - power / rate)


@lean
def go_round(rows: Floats, nows: Floats, counted: Floats, step_s: float) -> None:
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
def catch_up(thermal: ThermalElements, state: ThermalState, p: int, until_s: float) -> None:
    """Let a pipe that stood cool until now."""
    span = until_s - state.rested[p]
    if span > 0.0:
        row = thermal.pipe[p]
        c = thermal.specific[int(row[P_LINK])]
        state.counted[LOST_PIPE] += _cool(
            state.water, state.wall, int(row[P_FIRST]), int(row[P_CELLS]), row[P_CELL_KG],
            state.ring, p, c, row[P_WALL_J], row[P_TO_AIR_W], row[P_AIR_C], span,
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
        power = burn(rows, nows, slot, 0.0, rows[slot, B_WATTS], step_s)
        loss = rows[slot, B_LOSS]
        before = nows[slot, TEMP]
        if loss > 0.0:
            goal = rows[slot, B_AIR] + power / loss
            nows[slot, TEMP] = goal + (before - goal) * exp(-loss * step_s / rows[slot, B_HEAT_J])
        else:
            nows[slot, TEMP] = before + power * step_s / rows[slot, B_HEAT_J]
        nows[slot, HEAT_GIVEN] += power * step_s
        counted[BODIES] += power * step_s
        counted[LOST_BODY] += power * step_s - rows[slot, B_HEAT_J] * (nows[slot, TEMP] - before)


@lean
def catch_up_all(thermal: ThermalElements, state: ThermalState, until_s: float) -> None:
    """Let every pipe cool until now."""
    for p in range(thermal.pipe.shape[0]):
        catch_up(thermal, state, p, until_s)


@lean
def total_heat(thermal: ThermalElements, state: ThermalState) -> float:
    """Add up all heat held, above 0 °C [J]."""
    heat = 0.0
    for v in range(thermal.vessel.shape[0]):
        row = thermal.vessel[v]
        for layer in range(int(row[FIRST]), int(row[FIRST] + row[COUNT])):
            heat += row[LAYER_J] * state.layers[layer] + row[ASIDE_J] * state.aside[layer]
    for p in range(thermal.pipe.shape[0]):
        row = thermal.pipe[p]
        heat += _pipe_heat(
            state.water, state.wall, int(row[P_FIRST]), int(row[P_CELLS]), row[P_CELL_KG],
            state.ring, p, thermal.specific[int(row[P_LINK])], row[P_WALL_J],
        )  # fmt: skip
    for b in range(thermal.stirred.shape[0]):
        heat += thermal.stirred[b, B_HEAT_J] * state.stirred[b, TEMP]
    for r in range(thermal.reuse.shape[0]):
        heat += state.reuse[r, ROUND_THERE] * thermal.reuse[r, R_HEAT_J] * state.reuse[r, ROUND_C]
    for p in range(thermal.pool.shape[0]):
        heat += (
            state.pool[p, POOL_KG] * thermal.pool[p, O_SPECIFIC] + thermal.pool[p, O_BODY_J]
        ) * state.pool[p, POOL_C]
    return float(heat)


@lean
def held_mass(state: ThermalState) -> float:
    """Water in open pools, which alone may change [kg]; what goes round is counted by itself."""
    mass = 0.0
    for p in range(state.pool.shape[0]):
        mass += state.pool[p, POOL_KG]
    return float(mass)
