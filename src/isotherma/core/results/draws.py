"""What each draw was like, read from the timeline."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core import water
from isotherma.core.brief import Draw
from isotherma.core.results.scald import Scald, scald_of
from isotherma.core.setup import Setup
from isotherma.core.system.kinds.water import Pump, Submersible
from isotherma.core.timeline.record import Carried, Day, Drawn
from isotherma.core.timeline.rows import Rows

Floats = NDArray[np.float64]


HELD_S: Final = 5.0  # as for the wait
COOL_K: Final = 3.0  # below the window: cool, not cold


class WhyNot(StrEnum):
    """The limit that kept a draw from being as asked."""

    NO_FLOW = "no_flow"
    PUMP_OFF = "pump_off"
    NO_POWER = "battery_empty"
    BLOWN = "fuse_blown"
    NO_GAS = "gas_ended"
    NO_FUEL = "fuel_ended"
    DRY = "fresh_water_ran_out"
    NEVER_WARM = "never_warm"
    STAYS_COOL = "stays_cool"
    TOO_HOT = "too_hot"
    RUNS_COOL = "runs_cool"
    LONG_WAIT = "long_wait"


@dataclass(frozen=True, slots=True)
class DrawResult:
    """One draw as it came out; volumes in m³ at the stream's own temperature.

    `cold_m3` came before it was warm, `comfort_m3` inside the window, `cool_m3` below it later,
    `over_m3` above it at any time; `held_c` is what it reached for five seconds, `settled` says
    whether it became warm, or ran hot, at all.
    `used_m3` is fresh water, `through_m3` what passed the outlet: more, where water goes round;
    `took_m3` what of it came out of each tank, bag and can, `empty` which of them ran dry.
    """

    draw: Draw
    start_s: float
    end_s: float
    met: bool
    why_not: WhyNot | None
    wait_s: float | None
    cold_m3: float
    over_m3: float
    comfort_m3: float
    comfort_s: float
    asked_s: float
    missing_kg: float
    cool_m3: float
    hot_over_s: float
    hot_before_s: float
    settled: bool
    scald: Scald
    mean_c: float | None
    peak_c: float | None
    held_c: float | None
    final_c: float | None
    largest_drop_k: float
    flow_m3_per_s: float
    hot_m3: float
    used_m3: float
    through_m3: float
    cool_after_s: float | None
    ready_again_s: float | None
    pulsing: bool
    outlet: str
    empty: str
    took_m3: Mapping[str, float]


def _volume_m3(mass_kg: Floats, celsius: Floats) -> float:
    """Volume of parcels at their own temperatures."""
    axis = np.arange(111, dtype=np.float64)
    density = np.interp(celsius, axis, water.DENSITY)
    return float(np.sum(mass_kg / density))


def _held_c(head_c: Floats, step_s: Floats) -> float | None:
    """Give the warmest that lasted five seconds in all: a burst is not how warm water is."""
    if not len(head_c):
        return None
    order = np.argsort(head_c)[::-1]
    lasted = np.cumsum(step_s[order])
    return float(head_c[order][min(len(order) - 1, int(np.searchsorted(lasted, HELD_S)))])


def draw_rows(timeline: Day, index: int) -> Rows:
    """Pick the steps of one draw in which water flowed.

    Parameters
    ----------
    timeline : Day
        A day. [-]
    index : int
        Which draw, in order of time. [-]

    Returns
    -------
    Rows
        Empty when nothing flowed. [-]
    """
    return timeline.rows.of_draw(index)


def _ready_again(timeline: Day, end_s: float, next_s: float, setup: Setup) -> float | None:
    """Seconds after a draw until a source's sensor is content and no source heats.

    None without a source, or if the next draw or the end of the day comes first; at once
    where nothing is stored. A store that is idle only because its hours are over is not hot
    again.
    """
    if not timeline.vessel:
        return 0.0
    rows = timeline.rows
    shown = next(at for at, vessel in enumerate(timeline.vessels) if vessel.id == timeline.vessel)
    after = rows.where((rows.end_s > end_s) & (rows.draw < 0))
    content = np.zeros(len(after), bool)
    for source in timeline.sources:
        if source.vessel == shown and setup.at.get(source.id) != "off":
            reading = after.layers_c[:, source.sensor]
            content |= reading >= source.set_c - source.hysteresis_k - 0.5
    idle = after.where(content & (after.element_w + after.burner_w <= 0.0))
    if not len(idle):
        return None
    hot = float(idle.began_s[0])
    return None if hot >= next_s else max(0.0, hot - end_s)


def _switched_off(setup: Setup) -> frozenset[str]:
    """Name what stands for an open switch or for too few volts, and not for a fuse."""
    return setup.fuses.wires.dead | frozenset(setup.fuses.faint)


def _pump_off(setup: Setup, drawn: Drawn, dead: frozenset[str]) -> bool:
    """Say whether every pump there is is off, or cut off, as it stands."""
    pumps = [key for key, part in setup.parts.items() if isinstance(part, Pump | Submersible)]
    return bool(pumps) and all(key in drawn.off or key in dead for key in pumps)


def _fuse_stopped(setup: Setup, drawn: Drawn, dead: frozenset[str], *, flowing: bool) -> bool:
    """Say whether a fuse took the pump away: before the draw, or from water that flowed."""
    if not flowing:
        return any(
            isinstance(setup.parts.get(key), Pump | Submersible) for key in drawn.stopped - dead
        )
    return bool(drawn.pumping & drawn.stopped)


def _why_not(
    draw: Draw,
    *,
    flowing: bool,
    out: frozenset[Carried],
    blown: bool,
    dry: bool,
    wait_s: float | None,
    hot_over_s: float,
    comfort_s: float,
    asked_s: float,
    longest_wait_s: float,
    cool: bool,
    pump_off: bool,
) -> WhyNot | None:
    if dry:
        return WhyNot.DRY
    slack_s = max(5.0, 0.02 * asked_s)
    if blown and (not flowing or comfort_s + hot_over_s < asked_s - slack_s):
        return WhyNot.BLOWN
    if not flowing and "battery" in out:
        return WhyNot.NO_POWER
    if not flowing:
        return WhyNot.PUMP_OFF if pump_off else WhyNot.NO_FLOW
    if wait_s is None or comfort_s + hot_over_s < asked_s - slack_s:
        for carried, why in (("gas", WhyNot.NO_GAS), ("diesel", WhyNot.NO_FUEL)):
            if carried in out:
                return why
    if wait_s is None and hot_over_s > max(slack_s, comfort_s):
        return WhyNot.TOO_HOT
    if wait_s is None:
        return WhyNot.STAYS_COOL if cool else WhyNot.NEVER_WARM
    if hot_over_s > 3.0 and comfort_s + hot_over_s >= asked_s - slack_s:
        return WhyNot.TOO_HOT
    if comfort_s < asked_s - slack_s:
        return WhyNot.RUNS_COOL
    if wait_s > longest_wait_s:
        return WhyNot.LONG_WAIT
    return None


def draw_results(setup: Setup, timeline: Day, longest_wait_s: float) -> tuple[DrawResult, ...]:
    """Measure every draw of a day.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    timeline : Day
        What came of it. [-]
    longest_wait_s : float
        Wait above which a draw is not as asked. [s]

    Returns
    -------
    tuple of DrawResult
        In order of time. [-]
    """
    results = []
    fresh_c = setup.conditions.fresh_c
    dead = _switched_off(setup)
    for index, drawn in enumerate(timeline.drawn):
        draw, opened, closed, dry = drawn.draw, drawn.opened_s, drawn.closed_s, drawn.dry
        warm_at = -1.0 if drawn.warm_s is None else drawn.warm_s
        rows = draw_rows(timeline, index)
        head, mass, step = rows.head_c, rows.mass_kg, rows.step_s
        began = rows.began_s
        wait_s = float(warm_at - opened) if warm_at >= 0 else None
        settled_at = warm_at if warm_at >= 0 else drawn.hot_s
        before = np.ones(len(rows), bool)
        if settled_at is not None:
            before = began < settled_at - 1e-6
        inside = (head >= draw.low_c) & (head <= draw.high_c)
        after = rows.where(~before)
        running = rows.running
        asked_s = draw.duration_s
        ran_s = float(step[running].sum())
        if draw.clock == "open":
            asked_s -= wait_s if wait_s is not None else 0.0
        elif wait_s is not None:
            ran_s += float(step[~running & ~before].sum())
        cold = before & (head < draw.low_c)
        comfort_s = float(step[inside].sum())
        warm = after if len(after) else rows
        mean_c = None
        if len(warm):
            weights = warm.mass_kg
            mean_c = float((warm.head_c * weights).sum() / weights.sum())
        drop = 0.0
        cool_after_s = None
        if len(after):
            felt = after.head_c
            if before.any():  # it came into the window at its edge, between two steps
                came_c = min(max(float(head[before][-1]), draw.low_c), draw.high_c)
                felt = np.concatenate([[came_c], felt])
            drop = float((np.maximum.accumulate(felt) - felt).max())
            cool = np.flatnonzero(after.head_c < draw.low_c)
            if len(cool):
                cool_after_s = float(after.step_s[: cool[0]].sum())
        hot = head > draw.high_c
        held_c = _held_c(head, step)
        scald = scald_of(
            setup.parts.get(drawn.outlet), head, step, rows.end_s,
            child=draw.child,
        )  # fmt: skip
        hot_over_s = float(step[hot & ~before].sum())
        density = water.density_kg_per_m3(mean_c if mean_c is not None else fresh_c)
        flow_kg = drawn.flow_m3_per_s * density
        if len(rows):
            flow_kg = float(mass.sum() / step.sum())
        why = _why_not(
            draw,
            flowing=flow_kg > 0,
            out=drawn.out,
            blown=_fuse_stopped(setup, drawn, dead, flowing=flow_kg > 0),
            dry=dry,
            wait_s=wait_s,
            hot_over_s=hot_over_s,
            comfort_s=comfort_s,
            asked_s=asked_s,
            longest_wait_s=longest_wait_s,
            cool=held_c is not None and held_c >= draw.low_c - COOL_K,
            pump_off=_pump_off(setup, drawn, dead),
        )
        next_s = min(
            (
                one.opened_s for place, one in enumerate(timeline.drawn)
                if place != index and one.opened_s >= closed - 1e-6
            ),
            default=86400.0,
        )  # fmt: skip
        used_kg = float(mass.sum())
        if drawn.round_m3 is not None:  # fresh water filled it once
            used_kg = drawn.round_m3 * water.density_kg_per_m3(fresh_c)
        missing_s = draw.duration_s - ran_s if dry else 0.0
        results.append(
            DrawResult(
                draw=draw,
                start_s=float(opened),
                end_s=float(closed),
                met=why is None,
                why_not=why,
                wait_s=wait_s,
                cold_m3=_volume_m3(mass[cold], head[cold]),
                over_m3=_volume_m3(mass[hot], head[hot]),
                comfort_m3=_volume_m3(mass[inside], head[inside]),
                comfort_s=comfort_s,
                asked_s=asked_s,
                missing_kg=max(0.0, missing_s) * float(flow_kg),
                cool_m3=_volume_m3(mass[~before & ~inside & ~hot], head[~before & ~inside & ~hot]),
                hot_over_s=hot_over_s,
                hot_before_s=float(step[hot & before].sum()),
                settled=settled_at is not None,
                scald=scald,
                mean_c=mean_c,
                peak_c=float(head.max()) if len(rows) else None,
                held_c=held_c,
                final_c=float(head[-1]) if len(rows) else None,
                largest_drop_k=drop,
                flow_m3_per_s=float(flow_kg) / density,
                hot_m3=0.0
                if drawn.round_m3 is not None
                else _volume_m3(mass * rows.hot_share, rows.hot_c),
                used_m3=used_kg / water.density_kg_per_m3(fresh_c),
                through_m3=float(mass.sum()) / water.density_kg_per_m3(fresh_c),
                cool_after_s=cool_after_s,
                ready_again_s=_ready_again(timeline, float(closed), float(next_s), setup),
                pulsing=drawn.pulsing,
                outlet=drawn.outlet,
                empty=drawn.empty,
                took_m3={
                    key: taken / water.density_kg_per_m3(fresh_c)
                    for key, taken in drawn.took_kg.items()
                },
            )
        )
    return tuple(results)
