"""A sweep as a picture: a map with lines of equal result, or a line where one figure is varied."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from contourpy import LineType, contour_generator
from numpy.typing import NDArray

from isotherma.web.ramp import colour

Floats = NDArray[np.floating[Any]]
WIDE, NARROW = 1000, 440  # two drawings, so that a phone’s has letters of a readable size
LINES: Final = 6  # of equal result, about
LABEL_GAP: Final = 70.0  # between labels, so that they never touch
EDGE: Final = 0.02  # of the span of results
MOST_INK: Final = 0.42  # of the darkest cell: what is written on it stays readable


@dataclass(frozen=True, slots=True)
class Axis:
    """One figure that is varied: its values, how each reads, where it is today [SI]."""

    title: str
    values: tuple[float, ...]
    words: tuple[str, ...]
    today: float | None


@dataclass(frozen=True, slots=True)
class MapCell:
    """One run on the map."""

    at: int
    x: str
    y: str
    width: str
    height: str
    fill: str
    ink: str
    met: bool
    runs: bool
    words: str


@dataclass(frozen=True, slots=True)
class Iso:
    """A line of equal result, with where its figure is written; empty where there is no room."""

    path: str
    x: str
    y: str
    text: str


@dataclass(frozen=True, slots=True)
class SweepPicture:
    """Everything of a picture, worked out."""

    width: int
    height: int
    left: str
    right: str
    foot: str
    cells: tuple[MapCell, ...]
    isos: tuple[Iso, ...]
    edge: str
    line: str
    x_ticks: tuple[tuple[str, str], ...]
    y_ticks: tuple[tuple[str, str], ...]
    x_title: str
    y_title: str
    today: tuple[str, str] | None
    flat: bool

    @property
    def title_y(self) -> int:
        """Where the figure across is named."""
        return self.height - 8


@dataclass(frozen=True, slots=True)
class Run:
    """What a picture needs of one run: its result, whether all is as asked, how it reads."""

    value: float | None
    met: bool
    runs: bool
    words: str


def nice_levels(low: float, high: float, count: int = LINES) -> tuple[float, ...]:
    """Give round figures between two, about so many."""
    span = high - low
    if not span > 1e-12 * max(1.0, abs(high)):
        return ()
    raw = span / count
    power = 10.0 ** np.floor(np.log10(raw))
    step = next(power * m for m in (1.0, 2.0, 2.5, 5.0, 10.0) if power * m >= raw * (1 - 1e-9))
    first = np.ceil(low / step) * step
    inside = np.arange(first, high + step * 1e-6, step)
    # a line at the very edge of a plateau would join runs that are equal
    return tuple(float(v) for v in inside if low + EDGE * span < v < high - EDGE * span)


def _place(value: float | None, values: tuple[float, ...], centres: Floats) -> float | None:
    """Find where a figure of today lies among those that were run; None outside."""
    if value is None or len(values) < 2:
        return None
    order = np.argsort(values)
    sorted_values = np.array(values)[order]
    if not sorted_values[0] <= value <= sorted_values[-1]:
        return None
    return float(np.interp(value, sorted_values, centres[order]))


def _thinned(
    places: Floats, words: Sequence[str], width: float, each: float
) -> tuple[tuple[str, str], ...]:
    """Write as many values beside an axis as there is room for."""
    every = max(1, int(np.ceil(len(words) * each / width)))
    return tuple(
        (f"{place:.1f}", text)
        for at, (place, text) in enumerate(zip(places.tolist(), words, strict=True))
        if at % every == 0
    )


def draw_map(
    across: Axis, up: Axis, runs: Sequence[Run | None], style: str, level_words: Sequence[str],
    levels: Sequence[float], width: int,
) -> SweepPicture:  # fmt: skip
    """Draw runs row by row, the first value of `up` below; None has not run yet."""
    narrow = width <= NARROW
    left = 74.0 if narrow else 96.0
    columns, rows = len(across.values), len(up.values)
    height = 360 if narrow else 440
    top, foot = 26.0, height - 50.0
    wide, tall = (width - left - 10.0) / columns, (foot - top) / rows
    xs = left + (np.arange(columns) + 0.5) * wide
    ys = foot - (np.arange(rows) + 0.5) * tall
    known = [run.value for run in runs if run is not None and run.value is not None]
    low, high = (min(known), max(known)) if known else (0.0, 0.0)
    cells = []
    for at, run in enumerate(runs):
        if run is None:
            continue
        row, column = divmod(at, columns)
        share = 0.0
        if run.value is not None and high > low:
            share = (run.value - low) / (high - low)
        by_ramp = style == "temperature" and run.value is not None
        cells.append(
            MapCell(
                at, f"{left + column * wide:.1f}", f"{foot - (row + 1) * tall:.1f}",
                f"{wide:.2f}", f"{tall:.2f}",
                colour(run.value) if by_ramp and run.value is not None else "",
                "1" if by_ramp else f"{share * MOST_INK:.3f}", run.met, run.runs, run.words,
            )
        )  # fmt: skip
    grid = np.full((rows, columns), np.nan)
    for at, run in enumerate(runs):
        if run is not None and run.value is not None:
            grid[divmod(at, columns)] = run.value
    return SweepPicture(
        width, height, f"{left:.0f}", f"{width - 10:.0f}", f"{foot:.0f}", tuple(cells),
        _isos(xs, ys, grid, levels, level_words),
        _edge([run is not None and run.met for run in runs], left, foot, wide, tall, columns, rows),
        "",
        _thinned(xs, across.words, width - left, 64.0 if narrow else 76.0),
        _thinned(ys, up.words, foot - top, 24.0),
        across.title, up.title, _today(across, up, xs, ys), flat=False,
    )  # fmt: skip


def _today(across: Axis, up: Axis, xs: Floats, ys: Floats) -> tuple[str, str] | None:
    x, y = _place(across.today, across.values, xs), _place(up.today, up.values, ys)
    return None if x is None or y is None else (f"{x:.1f}", f"{y:.1f}")


def _isos(
    xs: Floats, ys: Floats, grid: Floats, levels: Sequence[float], words: Sequence[str]
) -> tuple[Iso, ...]:
    """Find lines of equal result; each is labelled once, where no other label is near."""
    if min(grid.shape) < 2 or not levels:
        return ()
    made = contour_generator(x=xs, y=ys, z=np.ma.masked_invalid(grid), line_type=LineType.Separate)
    found: list[Iso] = []
    taken: list[tuple[float, float]] = []
    for level, text in zip(levels, words, strict=True):
        for points in made.lines(level):
            line = np.asarray(points)
            path = "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in line.tolist())
            x, y = line[len(line) // 2].tolist()
            free = all(abs(x - a) > LABEL_GAP or abs(y - b) > 22.0 for a, b in taken)
            room = float(np.hypot(*np.diff(line, axis=0).T).sum()) > LABEL_GAP
            if free and room:
                taken.append((x, y))
                found.append(Iso(path, f"{x:.1f}", f"{y:.1f}", text))
            else:
                found.append(Iso(path, "", "", ""))
    return tuple(found)


def _edge(
    met: Sequence[bool], left: float, foot: float, wide: float, tall: float, columns: int, rows: int
) -> str:  # fmt: skip
    """Draw the line around what is as asked, along the sides of cells."""
    found = []
    for at, inside in enumerate(met):
        if not inside:
            continue
        row, column = divmod(at, columns)
        x, y = left + column * wide, foot - (row + 1) * tall
        if column == 0 or not met[at - 1]:
            found.append(f"M{x:.1f} {y:.1f}v{tall:.1f}")
        if column == columns - 1 or not met[at + 1]:
            found.append(f"M{x + wide:.1f} {y:.1f}v{tall:.1f}")
        if row == 0 or not met[at - columns]:
            found.append(f"M{x:.1f} {y + tall:.1f}h{wide:.1f}")
        if row == rows - 1 or not met[at + columns]:
            found.append(f"M{x:.1f} {y:.1f}h{wide:.1f}")
    return "".join(found)


def draw_line(
    across: Axis, title: str, runs: Sequence[Run | None], level_words: Sequence[str],
    levels: Sequence[float], width: int,
) -> SweepPicture:  # fmt: skip
    """Draw one figure's runs as a line; what is as asked is a filled mark."""
    narrow = width <= NARROW
    left, height = (74.0 if narrow else 96.0), (300 if narrow else 380)
    top, foot = 24.0, height - 50.0
    low, high = min(across.values), max(across.values)
    span = (high - low) if high > low else 1.0
    xs = left + 20.0 + (np.array(across.values) - low) / span * (width - left - 50.0)
    known = [run.value for run in runs if run is not None and run.value is not None]
    bottom, most = (min([0.0, *known]), max(known)) if known else (0.0, 1.0)
    if known and min(known) > 0.6 * most:
        bottom = min(known) - 0.2 * (most - min(known) or 1.0)
    tall = (most - bottom) or 1.0

    def y_of(value: float) -> float:
        return foot - (value - bottom) / tall * (foot - top)

    cells, steps = [], []
    for at, (x, run) in enumerate(zip(xs.tolist(), runs, strict=True)):
        if run is None:
            continue
        y = "" if run.value is None else f"{y_of(run.value):.1f}"
        cells.append(MapCell(at, f"{x:.1f}", y, "", "", "", "1", run.met, run.runs, run.words))
        if run.value is not None:
            steps.append(f"{x:.1f} {y}")
    today = _place(across.today, across.values, xs)
    return SweepPicture(
        width, height, f"{left:.0f}", f"{width - 10:.0f}", f"{foot:.0f}", tuple(cells), (), "",
        "M" + "L".join(steps) if len(steps) > 1 else "",
        _thinned(xs, across.words, width - left, 64.0 if narrow else 76.0),
        tuple((f"{y_of(level):.1f}", text) for level, text in zip(levels, level_words, strict=True)
              if bottom <= level <= most),
        across.title, title, None if today is None else (f"{today:.1f}", f"{top:.1f}"), flat=True,
    )  # fmt: skip
