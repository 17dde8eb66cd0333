"""One day hour by hour: what takes from battery and mains, what charges, how the bottle stands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.results.course import Course, Leg
from isotherma.core.results.inventory import battery_course, bottle_at, bottle_course
from isotherma.core.results.spending import pitch_w
from isotherma.core.setup.consumption import BudgetName
from isotherma.core.supply.bottle import hold
from isotherma.core.system.kinds import electric
from isotherma.core.system.pieces import MAINS_V
from isotherma.core.timeline.record import Stretch

LONG_S: Final = 6 * 3600.0
STANDING: Final = "standing"  # loads that hang on nothing the water does
PITCH: Final = "charger"  # what a charger takes from the pitch


@dataclass(frozen=True, slots=True)
class Load:
    """What one part takes through the day, a figure for each stretch [W]; by id, or STANDING."""

    id: str
    label: str
    watts: tuple[float, ...]

    @property
    def most_w(self) -> float:
        """The most it takes at a time [W]."""
        return max(self.watts, default=0.0)


@dataclass(frozen=True, slots=True)
class Waits:
    """A source that called for heat and found too little of the hook-up left: when [s]."""

    label: str
    spans: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class BottleDay:
    """The joined gas bottle through a day, at the edges of its hours [Pa, kg, °C, s].

    `flame_s` is for how long it would carry the day's largest load from then on, None for six
    hours and more; under `least_pa` its regulator gives too little.
    """

    pressure_pa: tuple[float, ...]
    gas_kg: tuple[float, ...]
    celsius: tuple[float, ...]
    flame_s: tuple[float | None, ...]
    least_pa: float


@dataclass(frozen=True, slots=True)
class DayPower:
    """A day's electricity by the stretches between the edges of its hours [s, W, J].

    `edges` are one more than there are stretches. `level` is what the battery holds at each edge,
    None without one whose energy is known; `full_j` what it holds full. `plugged_a` is what the
    hook-up gives, None without one; `shed` names what a fuse cut, `waits` what found too little
    of the hook-up left. Loads on the mains stand in the order they are served.
    """

    edges: tuple[float, ...]
    battery: tuple[Load, ...]
    charge_w: tuple[float, ...]
    level: tuple[float, ...] | None
    full_j: float | None
    mains: tuple[Load, ...]
    plugged_a: float | None
    shed: tuple[str, ...]
    waits: tuple[Waits, ...]
    air_c: tuple[float, ...]
    bottle: BottleDay | None

    @property
    def most_mains_a(self) -> float:
        """The most that all of it takes from the hook-up at a time, in means of a stretch [A]."""
        sums = [sum(load.watts[at] for load in self.mains) for at in range(len(self.edges) - 1)]
        return max(sums, default=0.0) / MAINS_V


def through_day(course: Course, number: int) -> DayPower:
    """Follow one day of a trip.

    Parameters
    ----------
    course : Course
        All days as they ran. [-]
    number : int
        Of the day, from 1. [-]

    Returns
    -------
    DayPower
        Means over each stretch; loads that take nothing are left out. [W, J]
    """
    leg = course.leg(number)
    rows = leg.timeline.stretches
    edges = (rows[0].start_s if rows else 0.0, *(row.start_s + row.span_s for row in rows))
    hook = next(
        (part.amps_a for part in leg.setup.parts.values() if isinstance(part, electric.HookUp)),
        None,
    )
    mains = _served(_loads(leg, rows, "mains"), leg)
    pitch = tuple(pitch_w(leg.setup, row) for row in rows)
    if any(watts > 0.0 for watts in pitch):
        mains = (Load(PITCH, "", pitch), *mains)
    standing = tuple(row.standing_w for row in rows)
    battery = _loads(leg, rows, "battery")
    if any(watts > 0.0 for watts in standing):
        battery = (*battery, Load(STANDING, "", standing))
    return DayPower(
        edges, battery, tuple(row.charge_w for row in rows), _level(course, number, len(rows)),
        leg.setup.hours.usable_j, mains, hook, leg.timeline.blown,
        _waits(leg, rows), tuple(row.air_c for row in rows), _bottle(course, leg, number),
    )  # fmt: skip


def _served(loads: tuple[Load, ...], leg: Leg) -> tuple[Load, ...]:
    """Put loads in the order the pitch serves them: that of the sources, then the rest."""
    order = [source.id for source in leg.timeline.sources]
    last = len(order)
    return tuple(sorted(loads, key=lambda load: order.index(load.id) if load.id in order else last))


def _waits(leg: Leg, rows: Sequence[Stretch]) -> tuple[Waits, ...]:
    spans: dict[str, list[tuple[float, float]]] = {}
    for row in rows:
        for key in row.waits:
            mine = spans.setdefault(key, [])
            if mine and mine[-1][1] >= row.start_s - 1e-6:
                mine[-1] = (mine[-1][0], row.start_s + row.span_s)
            else:
                mine.append((row.start_s, row.start_s + row.span_s))
    return tuple(Waits(leg.setup.label(key), tuple(found)) for key, found in spans.items())


def _bottle(course: Course, leg: Leg, number: int) -> BottleDay | None:
    """Follow the bottle through the day; None without one, or where nothing burns."""
    start = leg.setup.full.bottle
    if number > 1:
        before = bottle_course(course.until(number - 1))
        start = before[0].after if before is not None else start
    if start is None:
        return None
    states, most = bottle_at(leg.setup, leg.timeline, start)
    if most <= 0.0:
        return None
    rows, least = leg.timeline.stretches, leg.setup.least_pa
    airs = [row.bottle_c for row in rows] + [rows[-1].bottle_c]
    flames = [
        hold(state, kg_per_s=most, air_c=air, limit_pa=least, at_most_s=LONG_S, step_s=30.0).held_s
        for state, air in zip(states, airs, strict=True)
    ]
    return BottleDay(
        tuple(state.pressure_pa for state in states), tuple(state.gas_kg for state in states),
        tuple(state.celsius for state in states), tuple(flames), least,
    )  # fmt: skip


def _loads(leg: Leg, rows: Sequence[Stretch], budget: BudgetName) -> tuple[Load, ...]:
    takers = leg.setup.consumers
    found: dict[str, list[float]] = {}
    for at, row in enumerate(rows):
        for term in takers.terms(takers.heats_of(row), row.pumped_s, row.starts, row.drawn_j):
            if term.budget == budget and term.value > 0.0:
                found.setdefault(term.part_id, [0.0] * len(rows))[at] += term.value / row.span_s
    return tuple(Load(key, leg.setup.label(key), tuple(watts)) for key, watts in found.items())


def _level(course: Course, number: int, count: int) -> tuple[float, ...] | None:
    """Give what the battery holds at every edge of a day; it is full as the trip begins."""
    level = battery_course(course)
    if level is None:
        return None
    before = 0
    for leg in course.legs:
        per_day = len(leg.timeline.stretches)
        before += per_day * max(0, min(leg.days, number - leg.first))
    full = course.legs[0].setup.hours.usable_j
    assert full is not None  # there is a level, so there is a battery
    begins = full if before == 0 else level.levels_j[before - 1]
    return (begins, *level.levels_j[before : before + count])
