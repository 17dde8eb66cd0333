"""What is left of everything carried, hour by hour through a trip: lines to be drawn."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Final

from isotherma.core.climate import DAY_S
from isotherma.core.results.course import Course
from isotherma.core.results.following import Taking, follow
from isotherma.core.results.inventory import battery_that_matters
from isotherma.core.results.trip import CARRIED, Carried, carried_on, nearest_of
from isotherma.core.setup.consumption import BudgetName

HOUR_S: Final = 3600.0


@dataclass(frozen=True, slots=True)
class LevelLine:
    """What is left of a budget through a trip: pairs of seconds since its start and level [s, SI].

    `limit` is what there is when it is full; `ends_s` when it first gives out, `filled_s` when a
    stop brought something [s since the start].
    """

    budget: BudgetName
    label: str
    limit: float
    points: tuple[tuple[float, float], ...]
    ends_s: float | None
    filled_s: tuple[float, ...]

    @property
    def least(self) -> float:
        """The least that is ever left; below 0 what is owed [SI]."""
        return min((level for _, level in self.points), default=self.limit)


def level_lines(course: Course) -> tuple[LevelLine, ...]:
    """Give a line for every budget that has a limit and that something is taken of.

    Parameters
    ----------
    course : Course
        The days of a trip. [-]

    Returns
    -------
    tuple of LevelLine
        Of several tanks of a kind the one that ends first. [SI]
    """
    carried = carried_on(course)
    nearest = [nearest_of(carried, budget) for budget in CARRIED]
    lines = [_line(item) for item in nearest if item.course is not None and item.total > 0.0]
    battery = _battery_line(course)
    return (*lines, battery) if battery is not None else tuple(lines)


def _battery_line(course: Course) -> LevelLine | None:
    """Follow the battery; None without one, or where it does not matter."""
    level = battery_that_matters(course)
    if level is None:
        return None
    clock = 0.0
    spans = [
        row.span_s for leg in course.legs for _ in range(leg.days) for row in leg.timeline.stretches
    ]
    full = course.legs[0].setup.hours.full_j
    points = [(0.0, full)]
    for span, left in zip(spans, level.levels_j, strict=True):
        clock += span
        points.append((clock, left))
    return LevelLine("battery", "", full, tuple(points), level.empty_s, ())


Factors = Mapping[str, tuple[float, float, float, float]]


@dataclass(frozen=True, slots=True)
class LevelBand:
    """How low and how high a line may lie: points at the times of the line [s, SI]."""

    budget: BudgetName
    label: str
    low: tuple[tuple[float, float], ...]
    high: tuple[tuple[float, float], ...]

    @property
    def least(self) -> tuple[float, float]:
        """The least that is ever left, low and high [SI]."""
        return min(level for _, level in self.low), min(level for _, level in self.high)


def level_bands(course: Course, factors: Factors) -> tuple[LevelBand, ...]:
    """Give the bands of the lines: what is taken and what there is, low and high.

    Parameters
    ----------
    course : Course
        The days of a trip. [-]
    factors : mapping of str to tuple of float
        By budget: how much less and how much more may be taken, and how much less and more there
        may be, as shares of what is likely. [-]

    Returns
    -------
    tuple of LevelBand
        Of those lines that have factors, followed anew through every stop. [SI]
    """
    carried = carried_on(course)
    found = []
    for budget in CARRIED:
        item = nearest_of(carried, budget)
        if budget not in factors or item.course is None or item.total <= 0.0:
            continue
        less, more, small, large = factors[budget]
        low, high = _scaled(item, more, small), _scaled(item, less, large)
        found.append(LevelBand(budget, item.label, _line(low).points, _line(high).points))
    line = _battery_line(course) if "battery" in factors else None
    if line is not None:
        less, more, small, large = factors["battery"]
        full, points = line.limit, line.points

        def moved(taken: float, there: float) -> tuple[tuple[float, float], ...]:
            return tuple((at, full * there - (full - left) * taken) for at, left in points)

        found.append(LevelBand("battery", "", moved(more, small), moved(less, large)))
    return tuple(found)


def _scaled(item: Carried, taken: float, there: float) -> Carried:
    """Follow one thing again with more or less taken, and more or less of it there."""
    assert item.limit is not None
    takings = tuple(
        Taking(one.total * taken, tuple((a, b, each * taken) for a, b, each in one.spells))
        for one in item.takings
    )
    limit = item.limit * there
    return replace(item, limit=limit, takings=takings, course=follow(limit, takings, item.fillings))


def _line(item: Carried) -> LevelLine:
    """Follow one hour by hour, with a step where a stop is made."""
    assert item.course is not None and item.limit is not None
    filled = {(made.day, made.at_s): made.amount for made in item.course.filled}
    points = [(0.0, item.limit)]
    left = item.limit
    for number, taking in enumerate(item.takings, start=1):
        began, gone = (number - 1) * DAY_S, 0.0
        hours = {hour * HOUR_S for hour in range(1, 25)}
        visits = sorted(at_s for day, at_s in filled if day == number)
        for at_s in sorted(hours | set(visits)):
            by_now = taking.before(at_s)
            left, gone = left - (by_now - gone), by_now
            points.append((began + at_s, left))
            if at_s in visits:
                amount = filled[number, at_s]
                left = max(0.0, left) + amount if amount > 0.0 else left
                points.append((began + at_s, left))
    ends = item.course.ends
    return LevelLine(
        item.budget, item.label, item.limit, tuple(points),
        None if ends is None else (ends[0] - 1) * DAY_S + ends[1],
        tuple(
            (made.day - 1) * DAY_S + made.at_s for made in item.course.filled if made.amount > 0.0
        ),
    )  # fmt: skip
