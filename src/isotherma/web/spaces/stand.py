"""The vehicle from above and from the side, as pictures: boxes with numbers, and their names."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.drawing.stand import (
    GROUND_M,
    WHEEL_M,
    Stand,
    View,
    stand,
    tags,
    unplaced,
)
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.system import System
from isotherma.core.system.vehicle import Vehicle

WIDE: Final = 560.0
NARROW: Final = 350.0  # of a phone: numbers are as large there
TAG: Final = 20.0
TITLES: Final[dict[View, str]] = {"above": "From above", "side": "From the left"}


@dataclass(frozen=True, slots=True)
class BoxView:
    """One part in a picture: its box and number, in the picture's units."""

    id: str
    number: int
    label: str
    words: str
    x: str
    y: str
    width: str
    height: str
    tag_x: str
    tag_y: str
    cls: str
    water: str
    lead: str


@dataclass(frozen=True, slots=True)
class StandPicture:
    """One view, ready to draw."""

    view: str
    title: str
    suffix: str
    width: int
    height: int
    boxes: tuple[BoxView, ...]
    lines: tuple[tuple[str, str, str, str, str, str], ...]
    wheels: tuple[tuple[str, str, str], ...]
    floor: str
    ground: tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class StandView:
    """Both views, what has no place, and what a part can be put beside."""

    pictures: tuple[tuple[StandPicture, ...], ...]
    tray: tuple[tuple[str, tuple[tuple[str, str], ...]], ...]
    placed: tuple[tuple[str, str], ...]
    parts: tuple[tuple[str, str], ...]


def _n(value: float) -> str:
    return f"{value:.1f}"


def _lead(box: tuple[float, float, float, float], tag: tuple[float, float]) -> str:
    """Lead from a number to its box, where that had no room for it."""
    x, y = 0.5 * (box[0] + box[2]), 0.5 * (box[1] + box[3])
    if box[0] <= tag[0] <= box[2] and box[1] <= tag[1] <= box[3]:
        return ""
    return f"M{_n(tag[0])} {_n(tag[1])}L{_n(x)} {_n(y)}"


def _area(box: tuple[float, float, float, float]) -> float:
    return (box[2] - box[0]) * (box[3] - box[1])


def _height(metres: float, units: UnitSystem) -> str:
    if abs(metres) < 0.005:
        return "on the floor"
    side = "above" if metres > 0.0 else "below"
    return f"{with_unit(abs(metres), 'length', units, 2)} {side} the floor"


def _picture(found: Stand, units: UnitSystem, width: float) -> StandPicture:
    left, low, right, high = found.frame
    scale = width / (right - left)
    height = scale * (high - low)

    def x(metres: float) -> float:
        return (metres - left) * scale

    def y(metres: float) -> float:
        return (high - metres) * scale

    boxes = [(x(part.left), y(part.high), x(part.right), y(part.low)) for part in found.parts]
    views = []
    for number, (part, box, tag) in enumerate(
        zip(found.parts, boxes, tags(boxes, TAG), strict=True), start=1
    ):
        where = f"{with_unit(0.5 * (part.left + part.right), 'length', units, 3)} from the front"
        if found.view == "side":
            where += f", {_height(part.low, units)}"
        cls = " ".join(
            ["stand-box"] + ["stand-unsized"] * (not part.sized) + ["stand-tank"] * part.is_tank
            + ["stand-drain"] * part.is_drain + ["stand-below"] * part.is_below
        )  # fmt: skip
        water = ""
        if part.level is not None:
            (a, b), (x1, x2) = part.level, (box[0], box[2])
            water = f"M{_n(x1)} {_n(y(a))}L{_n(x2)} {_n(y(b))}V{_n(box[3])}H{_n(x1)}Z"
        views.append(BoxView(
            part.part_id, number, part.label, where, _n(box[0]), _n(box[1]), _n(box[2] - box[0]),
            _n(box[3] - box[1]), _n(tag[0]), _n(tag[1]),
            cls, water, _lead(box, tag),
        ))  # fmt: skip
    # small ones over large ones, so that none hides another
    order = sorted(range(len(boxes)), key=lambda at: -_area(boxes[at]))
    lines = tuple(
        (_n(x(a)), _n(y(b)), _n(x(c)), _n(y(d)), run.label, f"stand-run stand-{run.kind}")
        for run in found.runs for (a, b), (c, d) in (run.points,)
    )  # fmt: skip
    side = found.view == "side"
    ground = GROUND_M if side else low
    fall = found.slope * (right - left)
    return StandPicture(
        found.view, TITLES[found.view], "" if width == WIDE else "-narrow", round(width),
        round(height), tuple(views[at] for at in order), lines,
        tuple((_n(x(a)), _n(y(b)), _n(WHEEL_M * scale * (1.0 if side else 0.35)))
              for a, b in found.wheels),
        _n(y(0.0)) if side else "",
        (_n(y(ground - 0.5 * fall)), _n(y(ground + 0.5 * fall)), "yes" if side else ""),
    )  # fmt: skip


def stand_view(system: System, vehicle: Vehicle, units: UnitSystem) -> StandView:
    """Draw the vehicle from above and from the side, and list what has no place."""
    names = {space.id: space.name for space in system.spaces}
    tray: dict[str, list[tuple[str, str]]] = {}
    for part_id, label, space in unplaced(system):
        tray.setdefault(names.get(space or "", "In no space"), []).append((part_id, label))
    views: tuple[View, ...] = ("above", "side")
    placed = tuple(
        (part.id, part.label) for part in system.parts
        if None not in (part.x_m, part.y_m, part.z_m)
    )  # fmt: skip
    return StandView(
        tuple(
            tuple(_picture(found, units, width) for width in (WIDE, NARROW))
            for found in (stand(system, vehicle, view) for view in views)
        ) if placed else (),
        tuple((space, tuple(parts)) for space, parts in tray.items()), placed,
        tuple((part.id, part.label) for part in system.parts),
    )  # fmt: skip
