"""Where parts stand in the vehicle, from above and from the side, to scale."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import radians, tan
from typing import Final, Literal

from isotherma.core.system import System
from isotherma.core.system.vehicle import Vehicle

View = Literal["above", "side"]
DOT_M: Final = 0.1  # of a placed part nobody measured
MARGIN_M: Final = 0.12
WHEEL_M: Final = 0.34  # radius
GROUND_M: Final = -0.55  # below the floor of most vans; judgement
_DRAINS: Final = ("drain", "gate", "open_drain", "outside_outlet", "relief")
HALF_WIDTH_M: Final = 0.9  # of most bodies inside; only the drawing's frame


@dataclass(frozen=True, slots=True)
class Standing:
    """A placed part in one view: its box, and whether its size is known.

    `is_below` the floor, seen from above; `level` is what a half full tank's water stands at, left
    and right, in the view from the side.
    """

    part_id: str
    label: str
    left: float
    right: float
    low: float
    high: float
    sized: bool
    is_tank: bool
    is_drain: bool = False
    is_below: bool = False
    level: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Laid:
    """A run whose ends are both placed."""

    run_id: str
    label: str
    kind: str
    points: tuple[tuple[float, float], tuple[float, float]]


@dataclass(frozen=True, slots=True)
class Stand:
    """One view: what stands where [m], right is rearward, up is up or to the left.

    `frame` is the least box round all of it: left, low, right, high; `wheels` are their middles
    and `slope` how much what is level rises rearward on a metre, from the side.
    """

    view: View
    parts: tuple[Standing, ...]
    runs: tuple[Laid, ...]
    frame: tuple[float, float, float, float]
    wheels: tuple[tuple[float, float], ...]
    slope: float


def unplaced(system: System) -> tuple[tuple[str, str, str | None], ...]:
    """List parts that have no place: id, name, space.

    Parameters
    ----------
    system : System
        Any document. [-]

    Returns
    -------
    tuple of (str, str, str or None)
        In the order of the document; what sits in another part goes with it. [-]
    """
    return tuple(
        (part.id, part.label, part.space) for part in system.parts
        if part.fitted_in is None and None in (part.x_m, part.y_m, part.z_m)
    )  # fmt: skip


def stand(system: System, vehicle: Vehicle, view: View) -> Stand:
    """Give where everything that has a place stands, in one view.

    Parameters
    ----------
    system : System
        Any document. [m]
    vehicle : Vehicle
        Its axles and how it is parked. [m, °]
    view : str
        "above", the nose to the left; or "side", from the left. [-]

    Returns
    -------
    Stand
        Nothing stands where nobody put it. [m]

    References
    ----------
    Orthogonal projection.
    """
    slope = tan(radians(vehicle.stands_deg[0])) if view == "side" else 0.0
    shown: list[Standing] = []
    middles: dict[str, tuple[float, float]] = {}
    for part in system.parts:
        if part.x_m is None or part.y_m is None or part.z_m is None:
            continue
        sizes = (part.depth_m, part.width_m, part.tall_m)
        deep, wide, tall = (DOT_M if size is None else size for size in sizes)
        left, right = part.x_m - 0.5 * deep, part.x_m + 0.5 * deep
        if view == "above":  # the left side of the vehicle is up
            low, high = -part.y_m - 0.5 * wide, -part.y_m + 0.5 * wide
        else:
            low, high = part.z_m, part.z_m + tall
        is_tank = part.kind in ("fresh_tank", "grey_tank")
        shown.append(Standing(
            part.id, part.label, left, right, low, high, None not in sizes, is_tank,
            part.kind in _DRAINS, view == "above" and part.z_m + tall <= 0.0,
            _half_full(left, low, right, high, slope) if is_tank and view == "side" else None,
        ))  # fmt: skip
        middles[part.id] = (part.x_m, 0.5 * (low + high))
    runs = tuple(
        Laid(run.id, run.label, run.kind, (middles[run.start.part], middles[run.end.part]))
        for run in system.runs if run.start.part in middles and run.end.part in middles
    )  # fmt: skip
    wheels: tuple[tuple[float, float], ...] = ()
    if vehicle.rear_axle_x_m is not None:
        rear = vehicle.rear_axle_x_m
        along = [rear] if vehicle.wheelbase_m is None else [rear - vehicle.wheelbase_m, rear]
        heights = (HALF_WIDTH_M, -HALF_WIDTH_M) if view == "above" else (GROUND_M + WHEEL_M,)
        wheels = tuple((x, y) for x in along for y in heights)
    return Stand(view, tuple(shown), runs, _frame(shown, wheels, view), wheels, slope)


def _half_full(
    left: float, low: float, right: float, high: float, slope: float
) -> tuple[float, float]:
    """Give where the water of a half full tank stands at its left and right wall."""
    middle, lean = 0.5 * (low + high), 0.5 * slope * (right - left)
    return min(high, max(low, middle - lean)), min(high, max(low, middle + lean))


def _frame(
    shown: Sequence[Standing], wheels: Sequence[tuple[float, float]], view: View
) -> tuple[float, float, float, float]:
    """Give the least box round everything, with a margin."""
    low, high = (-HALF_WIDTH_M, HALF_WIDTH_M) if view == "above" else (GROUND_M, 0.6)
    lefts = [part.left for part in shown] + [x - WHEEL_M for x, _ in wheels] + [0.0]
    rights = [part.right for part in shown] + [x + WHEEL_M for x, _ in wheels] + [1.0]
    lows, highs = [part.low for part in shown] + [low], [part.high for part in shown] + [high]
    return (
        min(lefts) - MARGIN_M,
        min(lows) - MARGIN_M,
        max(rights) + MARGIN_M,
        max(highs) + MARGIN_M,
    )


def tags(
    boxes: Sequence[tuple[float, float, float, float]], size: float
) -> tuple[tuple[float, float], ...]:
    """Give a place for a number on every box, so that no two numbers cover each other.

    Parameters
    ----------
    boxes : sequence of tuple of float
        Left, low, right, high of each, in any unit. [-]
    size : float
        What a number takes across and up, in the same unit. [-]

    Returns
    -------
    tuple of tuple of float
        Middles of the numbers: of the box where that is free, else the nearest that is. [-]
    """
    taken: list[tuple[float, float]] = []
    for left, low, right, high in boxes:
        middle = (0.5 * (left + right), 0.5 * (low + high))
        taken.append(_free(middle, taken, size))
    return tuple(taken)


def _free(
    middle: tuple[float, float], taken: Sequence[tuple[float, float]], size: float
) -> tuple[float, float]:
    for ring in range(60):
        for dx in range(-ring, ring + 1):
            for dy in range(-ring, ring + 1):
                if max(abs(dx), abs(dy)) != ring:
                    continue
                at = middle[0] + dx * 0.5 * size, middle[1] + dy * 0.5 * size
                if all(max(abs(at[0] - x), abs(at[1] - y)) >= size for x, y in taken):
                    return at
    return middle
