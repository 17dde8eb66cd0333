"""Levels through a trip as pictures: a line, its limits, its stops, the days behind it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

from isotherma.core.climate import DAY_S
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.course import Course
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.levels import LevelBand, LevelLine
from isotherma.core.results.trip import BUDGET_STYLES

LEFT, RIGHT, TOP = 66.0, 8.0, 12.0
WIDE, NARROW = 1200, 380
NIGHT_S: Final = ((0.0, 6 * 3600.0), (22 * 3600.0, DAY_S))  # when people sleep; judgement


@dataclass(frozen=True, slots=True)
class Ground:
    """A day behind the lines: where, what it is called, whether it differs from the day before."""

    x: str
    width: str
    number: int
    name: str
    odd: bool
    labelled: bool


@dataclass(frozen=True, slots=True)
class LinePicture:
    """One budget through the trip."""

    budget: str
    title: str
    words: str
    large: bool
    width: int
    height: int
    line: str
    zero_y: str
    full_y: str
    full: str
    zero: str
    stops: tuple[str, ...]
    ends_x: str
    nights: tuple[tuple[str, str], ...]
    grounds: tuple[Ground, ...]
    right: str
    band: str = ""
    band_words: str = ""
    left: str = f"{LEFT:.0f}"

    @property
    def ground_height(self) -> int:
        """How tall a day stands behind the line."""
        return self.height - 28

    @property
    def night_y(self) -> int:
        """Where nights are marked."""
        return self.height - 26

    @property
    def foot_y(self) -> int:
        """Where marks of stops and ends stand on."""
        return self.height - 22

    @property
    def label_y(self) -> int:
        """Where the numbers of days are written."""
        return self.height - 8


def _grounds(course: Course, scale: float) -> tuple[Ground, ...]:
    found: list[Ground] = []
    names = {kind.id: kind.name for leg in course.legs for kind in leg.brief.day_kinds}
    odd, before = False, None
    wide = scale * DAY_S
    for leg in course.legs:
        if before is not None and leg.kind != before:
            odd = not odd
        before = leg.kind
        for number in range(leg.first, leg.last + 1):
            found.append(
                Ground(
                    f"{LEFT + (number - 1) * wide:.1f}", f"{wide:.1f}", number,
                    names.get(leg.kind, ""), odd, labelled=wide >= 16.0 or number % 5 == 1,
                )
            )  # fmt: skip
    return tuple(found)


def _said(line: LevelLine, units: UnitSystem, style: str) -> str:
    if line.ends_s is not None:
        day, clock_s = int(line.ends_s // DAY_S) + 1, line.ends_s % DAY_S
        owed = with_unit(-line.least, style, units) if line.least < 0.0 else ""
        said = f"gives out on day {day} at {with_unit(clock_s, 'clock')}"
        return f"{said}; at worst {owed} short" if owed else said
    left = "room left" if line.budget == "grey" else "left"
    return f"at least {with_unit(line.least, style, units)} {left}"


def _band_words(band: LevelBand | None, units: UnitSystem, style: str) -> str:
    """Say between what the least that is left may lie."""
    if band is None:
        return ""
    low, high = (max(0.0, one) for one in band.least)
    if with_unit(low, style, units) == with_unit(high, style, units):
        return ""
    gone = " or nothing" if low <= 0.0 else ""
    return (
        f"as unsure figures may have it {with_unit(low, style, units)}{gone} to "
        f"{with_unit(high, style, units)}"
    )


def draw_lines(
    lines: tuple[LevelLine, ...], course: Course, binding: str, units: UnitSystem, width: int,
    bands: tuple[LevelBand, ...] = (),
) -> tuple[LinePicture, ...]:  # fmt: skip
    """Draw every line with its band where that is known, the binding budget first and large."""
    banded = {(one.budget, one.label): one for one in bands}
    scale = (width - LEFT - RIGHT) / (course.days * DAY_S)
    grounds = _grounds(course, scale)
    nights = tuple(
        (f"{LEFT + (number * DAY_S + start) * scale:.1f}", f"{(end - start) * scale:.1f}")
        for number in range(course.days) for start, end in NIGHT_S
    )  # fmt: skip
    found = []
    order = sorted(lines, key=lambda line: line.budget != binding)
    for line in order:
        large = line.budget == binding or (line is order[0] and binding not in BUDGET_STYLES)
        height = 222 if large else 70
        band = banded.get((line.budget, line.label))
        most = max((level for _, level in band.high), default=0.0) if band is not None else 0.0
        low, high = min(0.0, line.least), max(line.limit, most, 1e-12)
        if low < -line.limit:  # what is owed is cut where it would hide the rest
            low = -line.limit

        def y(level: float, low: float = low, high: float = high, tall: int = height) -> str:
            share = (max(low, level) - low) / (high - low)
            return f"{tall - 24.0 - share * (tall - 24.0 - TOP):.1f}"

        def ribbon(band: LevelBand, y: Callable[[float], str] = y) -> str:
            there = [f"{LEFT + at * scale:.1f} {y(level)}" for at, level in band.high]
            back = [f"{LEFT + at * scale:.1f} {y(level)}" for at, level in reversed(band.low)]
            return f"M{'L'.join((*there, *back))}Z"

        style = BUDGET_STYLES[line.budget]
        title = TITLES[line.budget] if not line.label else f"{TITLES[line.budget]}, {line.label}"
        found.append(
            LinePicture(
                line.budget, title, _said(line, units, style), large, width, height,
                "M" + "L".join(f"{LEFT + at * scale:.1f} {y(level)}" for at, level in line.points),
                y(0.0), y(line.limit), with_unit(line.limit, style, units),
                "full" if line.budget == "grey" else "empty",
                tuple(f"{LEFT + at * scale:.1f}" for at in line.filled_s),
                "" if line.ends_s is None else f"{LEFT + line.ends_s * scale:.1f}",
                nights if course.days <= 14 else (), grounds,
                f"{width - RIGHT:.0f}",
                "" if band is None else ribbon(band), _band_words(band, units, style),
            )
        )  # fmt: skip
    return tuple(found)
