"""One day hour by hour: what takes from battery and mains, what charges, how the bottle stands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.results.course import Course, Leg
from isotherma.core.results.inventory import battery_course
from isotherma.core.results.spending import pitch_w
from isotherma.core.setup.consumption import BudgetName
from isotherma.core.system.kinds import electric
from isotherma.core.system.pieces import MAINS_V
from isotherma.core.timeline.record import Stretch

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
class DayPower:
    """A day's electricity by the stretches between the edges of its hours [s, W, J].

    `edges` are one more than there are stretches. `level` is what the battery holds at each edge,
    None without one whose energy is known; `full_j` what it holds full. `plugged_a` is what the
    hook-up gives, None without one; `shed` names what a fuse cut.
    """

    edges: tuple[float, ...]
    battery: tuple[Load, ...]
    charge_w: tuple[float, ...]
    level: tuple[float, ...] | None
    full_j: float | None
    mains: tuple[Load, ...]
    plugged_a: float | None
    shed: tuple[str, ...]
    air_c: tuple[float, ...]
    bottle_c: tuple[float, ...]

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
    mains = _loads(leg, rows, "mains")
    pitch = tuple(pitch_w(leg.setup, row) for row in rows)
    if any(watts > 0.0 for watts in pitch):
        mains = (*mains, Load(PITCH, "", pitch))
    standing = tuple(row.standing_w for row in rows)
    battery = _loads(leg, rows, "battery")
    if any(watts > 0.0 for watts in standing):
        battery = (*battery, Load(STANDING, "", standing))
    return DayPower(
        edges, battery, tuple(row.charge_w for row in rows), _level(course, number, len(rows)),
        leg.setup.hours.usable_j, mains, hook, leg.timeline.blown,
        tuple(row.air_c for row in rows), tuple(row.bottle_c for row in rows),
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
