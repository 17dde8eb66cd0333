"""Two figures of the ways of heating against each other: a labelled scatter with its front."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.catalogue.classes import PRICES
from isotherma.catalogue.families import families
from isotherma.core.options.columns import Columns, price_span
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.services.sizing import SizedRow

WIDTH, HEIGHT = 560, 320
LEFT, RIGHT, TOP, FOOT = 70.0, 20.0, 22.0, 270.0
LINE: Final = 17.0  # between two labels, one over the other


def _money(columns: Columns) -> float:
    low, high = price_span(columns.price, PRICES)
    return 0.5 * (low + high)


Read = Callable[[Columns], float | None]
# what may be traded: its words, its style, how it is read; of each less is better
TRADED: Final[Mapping[str, tuple[str, str, Read]]] = {
    "money": ("About, money", "money", _money),
    "room": ("Room", "volume", lambda one: one.room_m3),
    "mass": ("Dry mass", "mass", lambda one: one.mass_kg),
    "wait": ("Longest wait", "seconds", lambda one: one.longest_wait_s),
    "again": ("Between people", "minutes", lambda one: one.ready_again_s),
    "water": ("Cold first, a day", "volume", lambda one: one.waiting_m3),
    "mains": ("Mains a day", "energy", lambda one: one.mains_j),
    "battery": ("Battery a day", "battery_energy", lambda one: one.battery_j),
    "joints": ("Joints", "number", lambda one: float(one.joints)),
    "setup": ("Set up and pack", "seconds", lambda one: one.setup_s),
}


@dataclass(frozen=True, slots=True)
class Point:
    """One way of heating in the picture."""

    family: str
    name: str
    words: str
    x: str
    y: str
    text_x: str
    text_y: str
    anchor: str
    front: bool


@dataclass(frozen=True, slots=True)
class Trade:
    """The picture, and what may be chosen for it."""

    across: str
    up: str
    choices: tuple[tuple[str, str], ...]
    points: tuple[Point, ...]
    front: str
    x_title: str
    y_title: str
    x_ends: tuple[tuple[str, str, str], ...]
    y_ends: tuple[tuple[str, str], ...]
    missing: str
    width: int = WIDTH
    height: int = HEIGHT
    foot: str = f"{FOOT:.0f}"
    left: str = f"{LEFT:.0f}"
    right: str = f"{WIDTH - RIGHT:.0f}"
    title_y: int = HEIGHT - 6


def value_of(row: SizedRow, key: str) -> float | None:
    """Give a figure of a way of heating that may be traded [SI]; None where nobody knows it."""
    return None if row.columns is None else TRADED[key][2](row.columns)


def in_order(rows: Sequence[SizedRow], key: str) -> list[SizedRow]:
    """Put ways of heating in order by a figure, the least first, what is not known last."""
    if key not in TRADED:
        return list(rows)

    def rank(row: SizedRow) -> tuple[bool, float]:
        value = value_of(row, key)
        return (True, 0.0) if value is None else (False, value)

    return sorted(rows, key=rank)


def _said(value: float, key: str, units: UnitSystem) -> str:
    style = TRADED[key][1]
    if style in ("seconds", "minutes"):
        return duration_words(value)
    return with_unit(value, style, units, 2)


def draw_trade(rows: Sequence[SizedRow], across: str, up: str, units: UnitSystem) -> Trade | None:
    """Draw two figures against each other; None with fewer than two ways of heating."""
    if len(rows) < 2:
        return None
    across = across if across in TRADED else "money"
    up = up if up in TRADED else "room"
    known = [
        (row, x, y) for row in rows
        if (x := value_of(row, across)) is not None and (y := value_of(row, up)) is not None
    ]  # fmt: skip
    lost = [families()[row.family].name for row in rows
            if row not in {one for one, _, _ in known}]  # fmt: skip
    most_x = max((x for _, x, _ in known), default=0.0) or 1.0
    most_y = max((y for _, _, y in known), default=0.0) or 1.0

    def x_of(value: float) -> float:
        return LEFT + (WIDTH - RIGHT - LEFT) * value / most_x

    def y_of(value: float) -> float:
        return FOOT - (FOOT - TOP) * value / most_y

    best = [
        one for one in known
        if not any(x <= one[1] and y <= one[2] and (x, y) != one[1:] for _, x, y in known)
    ]  # fmt: skip
    steps = sorted({(x, y) for _, x, y in best})
    taken: list[tuple[float, float]] = []
    points = []
    for row, x, y in sorted(known, key=lambda one: (one[2], one[1])):
        at_x, at_y = x_of(x), y_of(y)
        left = at_x > 0.6 * WIDTH
        text_y = at_y
        while any(abs(text_y - b) < LINE and abs(at_x - a) < 260.0 for a, b in taken):
            text_y -= LINE
        taken.append((at_x, text_y))
        points.append(
            Point(
                row.family, families()[row.family].name,
                f"{_said(x, across, units)}, {_said(y, up, units)}", f"{at_x:.1f}", f"{at_y:.1f}",
                f"{at_x - 11.0 if left else at_x + 11.0:.1f}", f"{text_y:.1f}",
                "end" if left else "start", any(row is one for one, _, _ in best),
            )
        )  # fmt: skip
    return Trade(
        across, up, tuple((key, words) for key, (words, _, _) in TRADED.items()), tuple(points),
        "M" + "L".join(f"{x_of(x):.1f} {y_of(y):.1f}" for x, y in steps) if len(steps) > 1 else "",
        TRADED[across][0], TRADED[up][0],
        ((f"{LEFT:.0f}", _said(0.0, across, units), "start"),
         (f"{WIDTH - RIGHT:.0f}", _said(most_x, across, units), "end")),
        ((f"{FOOT:.0f}", _said(0.0, up, units)), (f"{TOP:.0f}", _said(most_y, up, units))),
        f"Not shown, for a figure is not known: {', '.join(lost)}." if lost else "",
    )  # fmt: skip
