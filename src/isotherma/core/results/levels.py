"""What is left of everything carried, hour by hour through a trip: lines to be drawn."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.climate import DAY_S
from isotherma.core.results.course import Course
from isotherma.core.results.inventory import battery_course
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
    level = battery_course(course)
    if level is not None:
        clock = 0.0
        spans = [
            row.span_s for leg in course.legs for _ in range(leg.days)
            for row in leg.timeline.stretches
        ]  # fmt: skip
        full = course.legs[0].setup.hours.full_j
        points = [(0.0, full)]
        for span, left in zip(spans, level.levels_j, strict=True):
            clock += span
            points.append((clock, left))
        lines.append(LevelLine("battery", "", full, tuple(points), level.empty_s, ()))
    return tuple(lines)


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
