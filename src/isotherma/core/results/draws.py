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
from isotherma.core.timeline.record import Day, DrawRecord, InventoryKind
from isotherma.core.timeline.rows import Rows
from isotherma.core.water.arrays import densities_kg_per_m3

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

    `cold_m3` came before it was warm, without `returned_m3` that a return diverter sent back to
    its tank; `comfort_m3` inside the window, `cool_m3` below it later,
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
    returned_m3: float = 0.0


def _volume_m3(mass_kg: Floats, celsius: Floats) -> float:
    """Volume of parcels at their own temperatures."""
    return float(np.sum(mass_kg / densities_kg_per_m3(celsius)))


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


def _pump_off(setup: Setup, drawn: DrawRecord, dead: frozenset[str]) -> bool:
    """Say whether every pump there is is off, or cut off, as it stands."""
    pumps = [key for key, part in setup.parts.items() if isinstance(part, Pump | Submersible)]
    return bool(pumps) and all(key in drawn.off or key in dead for key in pumps)


def _fuse_stopped(setup: Setup, drawn: DrawRecord, dead: frozenset[str], *, flowing: bool) -> bool:
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
    out: frozenset[InventoryKind],
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
    return tuple(
        _measured(setup, timeline, index, longest_wait_s) for index in range(len(timeline.drawn))
    )


class _Felt:
    """The steps of a draw in which water flowed, sorted by what was felt."""

    def __init__(self, drawn: DrawRecord, rows: Rows) -> None:
        self.drawn, self.rows = drawn, rows
        draw, head = drawn.draw, rows.head_c
        warm_at = -1.0 if drawn.warm_s is None else drawn.warm_s
        # the clock of a day loses a last digit: a wait is never under nothing
        self.wait_s = max(0.0, float(warm_at - drawn.opened_s)) if warm_at >= 0 else None
        self.settled_at = warm_at if warm_at >= 0 else drawn.hot_s
        self.before = np.ones(len(rows), bool)
        if self.settled_at is not None:
            self.before = rows.began_s < self.settled_at - 1e-6
        self.inside = (head >= draw.low_c) & (head <= draw.high_c)
        self.hot = head > draw.high_c
        self.cold = self.before & (head < draw.low_c)
        self.after = rows.where(~self.before)
        self.comfort_s = float(rows.step_s[self.inside].sum())
        self.hot_over_s = float(rows.step_s[self.hot & ~self.before].sum())

    def volume_m3(self, picked: NDArray[np.bool_]) -> float:
        """Volume of some of the steps, at their own temperatures."""
        return _volume_m3(self.rows.mass_kg[picked], self.rows.head_c[picked])

    def asked_and_ran_s(self) -> tuple[float, float]:
        """Give for how long warm water was asked for, and for how long it ran."""
        draw, step, running = self.drawn.draw, self.rows.step_s, self.rows.running
        asked_s, ran_s = draw.duration_s, float(step[running].sum())
        if draw.clock == "open":
            asked_s -= self.wait_s if self.wait_s is not None else 0.0
        elif self.wait_s is not None:
            ran_s += float(step[~running & ~self.before].sum())
        return asked_s, ran_s

    def mean_c(self) -> float | None:
        """Give the mean once it was warm, by mass; of all where it never was."""
        warm = self.after if len(self.after) else self.rows
        if not len(warm):
            return None
        weights = warm.mass_kg
        return float((warm.head_c * weights).sum() / weights.sum())

    def falls(self) -> tuple[float, float | None]:
        """Give the largest fall once it was warm, and after how long it was too cool [K, s]."""
        if not len(self.after):
            return 0.0, None
        draw, felt = self.drawn.draw, self.after.head_c
        if self.before.any():  # it came into the window at its edge, between two steps
            came_c = min(max(float(self.rows.head_c[self.before][-1]), draw.low_c), draw.high_c)
            felt = np.concatenate([[came_c], felt])
        drop = float((np.maximum.accumulate(felt) - felt).max())
        cool = np.flatnonzero(self.after.head_c < draw.low_c)
        return drop, float(self.after.step_s[: cool[0]].sum()) if len(cool) else None


def _measured(setup: Setup, timeline: Day, index: int, longest_wait_s: float) -> DrawResult:
    """Measure one draw."""
    drawn = timeline.drawn[index]
    draw, closed = drawn.draw, drawn.closed_s
    rows, fresh_c = draw_rows(timeline, index), setup.conditions.fresh_c
    felt = _Felt(drawn, rows)
    head, mass, step = rows.head_c, rows.mass_kg, rows.step_s
    asked_s, ran_s = felt.asked_and_ran_s()
    mean_c = felt.mean_c()
    drop, cool_after_s = felt.falls()
    held_c = _held_c(head, step)
    density = water.density_kg_per_m3(mean_c if mean_c is not None else fresh_c)
    fresh_density = water.density_kg_per_m3(fresh_c)
    flow_kg = drawn.flow_m3_per_s * density
    if len(rows):
        flow_kg = float(mass.sum() / step.sum())
    dead = _switched_off(setup)
    why = _why_not(
        draw,
        flowing=flow_kg > 0,
        out=drawn.out,
        blown=_fuse_stopped(setup, drawn, dead, flowing=flow_kg > 0),
        dry=drawn.dry,
        wait_s=felt.wait_s,
        hot_over_s=felt.hot_over_s,
        comfort_s=felt.comfort_s,
        asked_s=asked_s,
        longest_wait_s=longest_wait_s,
        cool=held_c is not None and held_c >= draw.low_c - COOL_K,
        pump_off=_pump_off(setup, drawn, dead),
    )
    used_kg = float(mass.sum())
    if drawn.round_m3 is not None:  # fresh water filled it once
        used_kg = drawn.round_m3 * fresh_density
    used_kg = max(0.0, used_kg - drawn.returned_kg)
    returned_m3 = drawn.returned_kg / fresh_density
    missing_s = draw.duration_s - ran_s if drawn.dry else 0.0
    return DrawResult(
        draw=draw, start_s=float(drawn.opened_s), end_s=float(closed), met=why is None,
        why_not=why, wait_s=felt.wait_s, cold_m3=max(0.0, felt.volume_m3(felt.cold) - returned_m3),
        over_m3=felt.volume_m3(felt.hot), comfort_m3=felt.volume_m3(felt.inside),
        comfort_s=felt.comfort_s, asked_s=asked_s,
        missing_kg=max(0.0, missing_s) * float(flow_kg),
        cool_m3=felt.volume_m3(~felt.before & ~felt.inside & ~felt.hot),
        hot_over_s=felt.hot_over_s, hot_before_s=float(step[felt.hot & felt.before].sum()),
        settled=felt.settled_at is not None,
        scald=scald_of(
            setup.parts.get(drawn.outlet), head, step, rows.end_s, child=draw.child
        ),
        mean_c=mean_c, peak_c=float(head.max()) if len(rows) else None, held_c=held_c,
        final_c=float(head[-1]) if len(rows) else None, largest_drop_k=drop,
        flow_m3_per_s=float(flow_kg) / density,
        hot_m3=0.0 if drawn.round_m3 is not None
        else _volume_m3(mass * rows.hot_share, rows.hot_c),
        used_m3=used_kg / fresh_density, through_m3=float(mass.sum()) / fresh_density,
        cool_after_s=cool_after_s,
        ready_again_s=_ready_again(timeline, float(closed), _next_s(timeline, index), setup),
        pulsing=drawn.pulsing, outlet=drawn.outlet, empty=drawn.empty,
        took_m3={key: taken / fresh_density for key, taken in drawn.took_kg.items()},
        returned_m3=returned_m3,
    )  # fmt: skip


def _next_s(timeline: Day, index: int) -> float:
    """Give when the next draw after one begins; the end of the day without one [s]."""
    closed = timeline.drawn[index].closed_s
    return float(min(
        (one.opened_s for place, one in enumerate(timeline.drawn)
         if place != index and one.opened_s >= closed - 1e-6),
        default=86400.0,
    ))  # fmt: skip
