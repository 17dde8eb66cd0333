"""The picture of pressure from source to outlet: steps down, labels where most is lost."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, floor
from typing import Final

from isotherma.core.flows.report import FlowReport, ProfileStep
from isotherma.core.quantity import STYLES, UnitSystem, unit_of, with_unit
from isotherma.web.ramp import colour

LEFT, TOP, BOTTOM = 46.0, 18.0, 240.0
WIDE, NARROW = 1000, 440
PART_SHARE: Final = 0.35  # a part is drawn as wide as this many metres, or its step has no foot
MARKED: Final = 6


@dataclass(frozen=True, slots=True)
class Segment:
    """One stroke of the curve, in the colour of its water."""

    x1: str
    y1: str
    x2: str
    y2: str
    ink: str
    title: str


@dataclass(frozen=True, slots=True)
class Mark:
    """A numbered place where much pressure goes."""

    x: str
    y: str
    number: int


@dataclass(frozen=True, slots=True)
class Tick:
    """One line of the pressure axis."""

    at: str
    text: str


@dataclass(frozen=True, slots=True)
class Eaten:
    """One row of what eats the pressure."""

    number: int
    key: str
    label: str
    words: str
    share: str
    width: str


@dataclass(frozen=True, slots=True)
class Profile:
    """The whole picture, once wide and once narrow."""

    width: int
    right: str
    segments: tuple[Segment, ...]
    marks: tuple[Mark, ...]
    ticks: tuple[Tick, ...]
    zero_y: str
    from_label: str
    to_label: str
    unit: str
    description: str


def _size(steps: tuple[ProfileStep, ...]) -> list[tuple[float, float]]:
    """Give each step its place along the way, parts with a foot of their own."""
    places = []
    at = 0.0
    for step in steps:
        wide = step.to_m - step.from_m if step.is_run else PART_SHARE
        places.append((at, at + wide))
        at += wide
    return places


def _ticks(low: float, high: float, units: UnitSystem) -> list[float]:
    """Round pressures of the units's unit across a range [Pa]."""
    unit = unit_of("pressure", units)
    span = (high - low) / unit.factor
    step = next((s for s in (0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50) if span / s <= 6), 100)
    first, last = ceil(low / unit.factor / step - 1e-6), floor(high / unit.factor / step + 1e-6)
    return [index * step * unit.factor for index in range(first, last + 1)]


def eaten_rows(report: FlowReport, outlet: str, units: UnitSystem) -> tuple[Eaten, ...]:
    """List what takes most on the way to an outlet, with its share of all that is taken."""
    taken = report.eaten(outlet)
    total = sum(step.drop_pa for step in taken) or 1.0
    most = taken[0].drop_pa if taken else 1.0
    return tuple(
        Eaten(
            number=index + 1,
            key=f"{'run' if step.is_run else 'part'}-{step.id}",
            label=step.label,
            words=with_unit(step.drop_pa, "pressure", units, 2),
            share=f"{step.drop_pa / total:.0%}",
            width=f"{100 * step.drop_pa / most:.1f}",
        )
        for index, step in enumerate(taken[:MARKED])
    )


def draw_profile(report: FlowReport, outlet: str, units: UnitSystem, width: int) -> Profile | None:
    """Draw the pressure along the way to one outlet; None where nothing runs."""
    steps = report.profiles[outlet]
    if len(steps) < 2:
        return None
    warm = {run.id: run.temperature_c for run in report.runs}
    warm |= {part.id: part.temperature_c for part in report.parts}
    right = width - 14.0
    places = _size(steps)
    total = places[-1][1]
    values = [value for step in steps for value in (step.start_pa, step.end_pa)]
    low, high = min(0.0, *values), max(*values, 1e4)
    high += 0.06 * (high - low)

    def x(metres: float) -> float:
        return LEFT + (right - LEFT) * metres / total

    def y(pressure_pa: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * (pressure_pa - low) / (high - low)

    numbers = {row.key: row.number for row in eaten_rows(report, outlet, units)}
    segments, marks = [], []
    for step, (start, end) in zip(steps, places, strict=True):
        ends = (x(start), y(step.start_pa), x(end), y(step.end_pa))
        title = f"{step.label}: {with_unit(step.end_pa, 'pressure', units)} after it"
        x1, y1, x2, y2 = (f"{value:.1f}" for value in ends)
        segments.append(Segment(x1, y1, x2, y2, colour(warm.get(step.id, 10.0)), title))
        key = f"{'run' if step.is_run else 'part'}-{step.id}"
        if key in numbers:
            above = (ends[1] + ends[3]) / 2 - 18.0
            middle = (ends[0] + ends[2]) / 2 + 9.0
            marks.append(Mark(f"{middle:.1f}", f"{max(12.0, above):.1f}", numbers[key]))
    top = max(values)
    said = (
        f"From {steps[0].label} to {steps[-1].label}: {with_unit(top, 'pressure', units)} at most, "
        f"{with_unit(steps[-1].start_pa, 'pressure', units)} before the outlet."
    )
    return Profile(
        width=width,
        right=f"{right:.1f}",
        segments=tuple(segments),
        marks=tuple(marks),
        ticks=tuple(
            Tick(f"{y(pa):.1f}", with_unit(pa, "pressure", units).split("\u00a0")[0])
            for pa in _ticks(low, high, units)
        ),
        zero_y=f"{y(0.0):.1f}",
        from_label=steps[0].label,
        to_label=steps[-1].label,
        unit=STYLES["pressure"].symbol(units),
        description=said,
    )
