"""What heats: thermostats, hours, cut-outs and fuses of sources; burners of flowing heaters."""

from __future__ import annotations

from math import exp
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import lean
from isotherma.core.engine.columns import (
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
    B_SEES,
    B_SENSE,
    B_SET,
    B_WATTS,
    BODIES,
    BURNING,
    COLD,
    CUT,
    D_AMPS_PER_W,
    D_FUSE,
    D_SOURCE,
    FIRED_S,
    HEAT_GIVEN,
    LIGHTING,
    LOOP_HEATER,
    LOST_BODY,
    O_KG,
    OFF,
    ON,
    PHASE,
    POOL_KG,
    POWER,
    S_ALLOWED,
    S_AT,
    S_DRAWS,
    S_FROM,
    S_HYSTERESIS,
    S_LATCHES,
    S_LEAST,
    S_LIMIT,
    S_POOL,
    S_SET,
    S_SHARES,
    S_UNTIL,
    S_VESSEL,
    S_WATTS,
    SENSING,
    STARTS,
    TEMP,
    THROUGH_FLOW,
    TIMER,
    TRIPPED,
    U_ALONE,
    U_BEARS,
    U_BLOWN,
    U_OTHERS,
    U_STANDING,
    WAITS,
    WANTED,
    ThermalElements,
    ThermalState,
)  # fmt: skip
from isotherma.core.supply.ohms import F_AMPS, F_OHM, F_VOLTS, FUSE_BEARS, settle_amps

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

CUT_HYSTERESIS_K: Final = 5.0


@lean
def may_run(clock_s: float, start_s: float, end_s: float) -> bool:
    """Say whether a window, which may pass midnight, is open; equal ends are all day."""
    if start_s == end_s:
        return True
    if start_s < end_s:
        return start_s <= clock_s < end_s
    return clock_s >= start_s or clock_s < end_s


@lean
def _amps(thermal: ThermalElements, w: int) -> float:
    """Give what a source on a fuse takes [A]."""
    at = int(thermal.wired[w, D_SOURCE])
    if thermal.feed[at, F_VOLTS] > 0.0:
        return float(thermal.feed[at, F_AMPS])
    return float(thermal.wired[w, D_AMPS_PER_W] * thermal.source[at, S_WATTS])


@lean
def feed(thermal: ThermalElements, relays: Floats) -> None:
    """Give every source that is on the volts its wires leave it: its amps and its watts."""
    feeds, rows = thermal.feed, thermal.source
    if not settle_amps(feeds, thermal.ohm, relays):
        return
    for s in range(rows.shape[0]):
        if feeds[s, F_VOLTS] > 0.0 and relays[s] == ON:
            amps = feeds[s, F_AMPS]
            rows[s, S_WATTS] = max(1e-9, amps * amps * feeds[s, F_OHM])
            rows[s, S_DRAWS] = feeds[s, F_VOLTS] / max(1e-9, amps * feeds[s, F_OHM])


@lean
def _stands_alone(thermal: ThermalElements, relays: Floats, s: int) -> bool:
    """Say whether a fuse whose loads must not run together bears something before a source."""
    fuse, wired = thermal.fuse, thermal.wired
    for w in range(wired.shape[0]):
        f = int(wired[w, D_FUSE])
        if int(wired[w, D_SOURCE]) != s or fuse[f, U_ALONE] < 0.5:
            continue
        if fuse[f, U_OTHERS] > 0.0:
            return True
        for other in range(wired.shape[0]):
            before = int(wired[other, D_SOURCE])
            if int(wired[other, D_FUSE]) == f and before < s and relays[before] == ON:
                return True
    return False


@lean
def switch(clock_s: float, thermal: ThermalElements, state: ThermalState) -> bool:
    """Let thermostats, hours and cut-outs act; say whether a call for heat changed.

    Sources that share a supply are served in their order; who finds too little waits.
    """
    rows, relays, shared = thermal.source, state.relays, thermal.shared
    fuse, wired = thermal.fuse, thermal.wired
    changed = False
    for s in range(rows.shape[0]):
        before = relays[s]
        if (
            rows[s, S_LATCHES] > 0.0
            and rows[s, S_VESSEL] >= 0.0
            and (before == TRIPPED or state.layers[int(rows[s, S_AT])] >= rows[s, S_LIMIT])
        ):
            relays[s] = TRIPPED
            continue
        allowed = rows[s, S_ALLOWED] > 0.0 and may_run(
            clock_s % 86400.0, rows[s, S_FROM], rows[s, S_UNTIL]
        )
        reading = state.sensors[s]
        if not allowed or reading >= rows[s, S_SET]:
            relays[s] = OFF
        elif reading <= rows[s, S_SET] - rows[s, S_HYSTERESIS] or before >= WAITS:
            relays[s] = ON
        if rows[s, S_VESSEL] >= 0.0 and relays[s] != OFF:
            over = state.layers[int(rows[s, S_AT])] - rows[s, S_LIMIT]
            if over >= 0.0 or (before == CUT and over > -CUT_HYSTERESIS_K):
                relays[s] = CUT
        if rows[s, S_POOL] >= 0.0:  # a level interlock of an open box
            pool = int(rows[s, S_POOL])
            short = state.pool[pool, POOL_KG] < rows[s, S_LEAST] * thermal.pool[pool, O_KG] - 1e-9
            if short and relays[s] == ON:
                relays[s] = WAITS
        share = int(rows[s, S_SHARES])
        if share >= 0 and relays[s] == ON:
            taken = rows[s, S_WATTS]
            for other in range(s):
                if int(rows[other, S_SHARES]) == share and relays[other] == ON:
                    taken += rows[other, S_WATTS]
            if taken > shared[share] * (1.0 + 1e-9):
                relays[s] = WAITS
        for w in range(wired.shape[0]):
            blown = int(wired[w, D_SOURCE]) == s and fuse[int(wired[w, D_FUSE]), U_BLOWN] > 0.0
            if blown and relays[s] == ON:
                relays[s] = WAITS
        if relays[s] == ON and _stands_alone(thermal, relays, s):
            relays[s] = WAITS
        if rows[s, S_WATTS] == 0.0 and relays[s] != before:
            changed = True
    feed(thermal, relays)
    for f in range(fuse.shape[0]):
        if fuse[f, U_BLOWN] > 0.0:
            continue
        amps = fuse[f, U_OTHERS] + fuse[f, U_STANDING]
        for w in range(wired.shape[0]):
            if int(wired[w, D_FUSE]) == f and relays[int(wired[w, D_SOURCE])] == ON:
                amps += _amps(thermal, w)
        if amps > fuse[f, U_BEARS] * FUSE_BEARS:
            fuse[f, U_BLOWN] = 1.0
            changed = changed or fuse[f, U_OTHERS] > 0.0  # what stands now changes the flows
            fuse[f, U_OTHERS] = 0.0
            for w in range(wired.shape[0]):
                if int(wired[w, D_FUSE]) == f and relays[int(wired[w, D_SOURCE])] == ON:
                    relays[int(wired[w, D_SOURCE])] = WAITS
            feed(thermal, relays)
    return changed


@lean
def burn(
    rows: Floats, nows: Floats, slot: int, flow_m3_per_s: float, warms_w: float, step_s: float
) -> float:
    """Move a heater through sensing, lighting and burning; give its mean power [W].

    `flow_m3_per_s` is the volume flow it feels [m³/s], `warms_w` what would bring the water to
    its setting.
    """
    watts = rows[slot, B_WATTS]
    mean = 0.0
    called = nows[slot, WANTED] > 0.5 and rows[slot, B_KIND] == LOOP_HEATER
    flows = rows[slot, B_KIND] == THROUGH_FLOW and flow_m3_per_s >= (
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
                nows[slot, FIRED_S] += step_s
    return float(mean)


@lean
def heat_body(
    rows: Floats, nows: Floats, counted: Floats, slot: int, rate: float, enters_c: float,
    flow_m3_per_s: float, step_s: float,
) -> float:  # fmt: skip
    """Let a stirred heater take in water in a step; give its mean temperature."""
    loss, air = rows[slot, B_LOSS], rows[slot, B_AIR]
    pull = rate + loss
    k = pull * step_s / rows[slot, B_HEAT_J]
    fade = exp(-k)
    warms_w = rate * (rows[slot, B_SET] - enters_c)
    if rows[slot, B_SEES] > 0.5:  # full fire until the outlet is at its setting, then as needed
        wanted = (rows[slot, B_SET] - nows[slot, TEMP] * fade) / (1.0 - fade)
        warms_w = pull * wanted - loss * air - rate * enters_c
    power = burn(rows, nows, slot, flow_m3_per_s, warms_w, step_s)
    goal = (power + loss * air + rate * enters_c) / pull
    gap = nows[slot, TEMP] - goal
    mean = goal + gap * (1.0 - fade) / k
    nows[slot, TEMP] = goal + gap * fade
    nows[slot, HEAT_GIVEN] += power * step_s
    counted[BODIES] += power * step_s
    counted[LOST_BODY] += loss * (mean - air) * step_s
    return float(mean)
