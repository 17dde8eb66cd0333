"""Curves of one draw from several designs over each other, told apart by line and letter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from isotherma.core.quantity import UnitSystem, duration_words, shown, with_unit
from isotherma.core.results.draws import DrawResult, draw_rows
from isotherma.core.results.outcome import Outcome

WIDTH, HEIGHT = 460, 250
LEFT, RIGHT, TOP, FOOT = 44.0, 10.0, 12.0, 214.0
SAMPLES: Final = 220
LETTERS: Final = "ABCD"
AT_SHARE: Final = (0.3, 0.5, 0.7, 0.9)  # of each line: where its letter stands


@dataclass(frozen=True, slots=True)
class Curve:
    """One design's temperature at the outlet."""

    letter: str
    path: str
    x: str
    y: str


@dataclass(frozen=True, slots=True)
class CurvePicture:
    """One draw of every design."""

    title: str
    words: str
    curves: tuple[Curve, ...]
    window_y: str
    window_height: str
    low: tuple[str, str]
    high: tuple[str, str]
    x_ticks: tuple[tuple[str, str], ...]
    width: int = WIDTH
    height: int = HEIGHT
    left: str = f"{LEFT:.0f}"
    inner: str = f"{WIDTH - LEFT - RIGHT:.0f}"
    foot: str = f"{FOOT:.0f}"
    title_y: int = HEIGHT - 2


def draw_curves(sides: Sequence[Outcome | None], units: UnitSystem) -> tuple[CurvePicture, ...]:
    """Draw every draw that one of the designs has, on the day that the first shows."""
    known = [(place, side) for place, side in enumerate(sides) if side is not None]
    if not known:
        return ()
    day = known[0][1].number
    seen = [(place, side.on_day(min(day, side.course.days))) for place, side in known]
    names = dict.fromkeys(draw.draw.id for _, side in seen for draw in side.draws)
    found = []
    for draw_id in names:
        mine = [
            (place, side, index) for place, side in seen
            for index, draw in enumerate(side.draws) if draw.draw.id == draw_id
        ]  # fmt: skip
        found.append(_picture(mine, units))
    return tuple(found)


def _picture(mine: Sequence[tuple[int, Outcome, int]], units: UnitSystem) -> CurvePicture:
    first = mine[0][1].draws[mine[0][2]]
    lines = []
    for place, side, index in mine:
        rows, draw = draw_rows(side.timeline, index), side.draws[index]
        if len(rows) > 1:
            lines.append((place, rows.end_s - draw.start_s, rows.head_c))
    longest = max((float(ends[-1]) for _, ends, _ in lines), default=60.0)
    warmest = max((float(head.max()) for _, _, head in lines), default=0.0)
    top_c = max(50.0, np.ceil(max(warmest, first.draw.high_c) / 10) * 10)

    def x_of(seconds: float) -> float:
        return LEFT + (WIDTH - LEFT - RIGHT) * seconds / longest

    def y_of(celsius: float) -> float:
        return FOOT - (FOOT - TOP) * max(0.0, celsius) / float(top_c)

    curves = []
    for place, ends, head in lines:
        picks = np.unique(np.linspace(0, len(ends) - 1, min(SAMPLES, len(ends))).astype(int))
        steps = [(x_of(float(ends[at])), y_of(float(head[at]))) for at in picks.tolist()]
        x, y = steps[min(len(steps) - 1, int(AT_SHARE[place] * len(steps)))]
        curves.append(
            Curve(
                LETTERS[place], "M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in steps),
                f"{x:.1f}", f"{y:.1f}",
            )
        )  # fmt: skip
    high, low = y_of(first.draw.high_c), y_of(first.draw.low_c)
    step_s = next(s for s in (30.0, 60.0, 120.0, 300.0, 600.0, 1800.0, 7200.0) if longest / s <= 7)
    ticks = np.arange(0.0, longest + 1.0, step_s).tolist()
    return CurvePicture(
        first.draw.name,
        "; ".join(_said(LETTERS[place], side.draws[index]) for place, side, index in mine),
        tuple(curves), f"{high:.1f}", f"{low - high:.1f}",
        (f"{low:.1f}", with_unit(first.draw.low_c, "temperature", units)),
        (f"{high:.1f}", with_unit(first.draw.high_c, "temperature", units)),
        tuple((f"{x_of(s):.1f}", shown(s, "minutes", units, 3)) for s in ticks),
    )  # fmt: skip


def _said(letter: str, draw: DrawResult) -> str:
    wait = "never warm" if draw.wait_s is None else f"warm after {duration_words(draw.wait_s)}"
    return f"{letter} {wait}, for {duration_words(draw.comfort_s)}"
