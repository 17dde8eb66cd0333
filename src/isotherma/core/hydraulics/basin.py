"""Water on a sloping floor with drains and a rim: what runs off, what stands, what spills."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf, radians, tan
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import lean

Floats = NDArray[np.float64]

CELLS: Final = 41  # a side: 2 cm on a usual tray; odd, so that the middle is a cell
EDGE: Final = tuple(
    (row, column)
    for row in range(CELLS)
    for column in range(CELLS)
    if row in (0, CELLS - 1) or column in (0, CELLS - 1)
)


@dataclass(frozen=True, slots=True)
class Standing:
    """What becomes of water on a floor.

    `standing_m3` cannot run off, `deepest_m` at most; `to_drain` is the share of the floor
    that runs to a drain, the rest goes over the rim; `holds_m3` goes in before the rim
    spills should the drains be shut.
    """

    standing_m3: float
    deepest_m: float
    to_drain: float
    holds_m3: float


def flood(floor_m: Floats, ways_out: Sequence[tuple[tuple[int, int], float]]) -> Floats:
    """Level to which water rises on each cell of a floor before it runs off.

    Parameters
    ----------
    floor_m : numpy.ndarray
        Height of every cell, shape (n, m). [m]
    ways_out : sequence of (cell, float)
        Cells where water leaves and the level it must reach there. [m]

    Returns
    -------
    numpy.ndarray
        Water level, at least the floor, shape (n, m); infinite without a way out. [m]

    Notes
    -----
    A cell is as high as the lowest of its neighbours, its own floor at least; swept forth and
    back until nothing falls any more.

    References
    ----------
    Planchon and Darboux, A fast, simple and versatile algorithm to fill the depressions of
    digital elevation models, Catena 46, 2002.
    """
    level = np.full(floor_m.shape, inf)
    for cell, least in ways_out:
        level[cell] = min(level[cell], max(float(floor_m[cell]), least))
    sink(floor_m, level)
    return level


@lean
def sink(floor_m: Floats, level_m: Floats) -> None:
    """Let a level fall, in place, to what the cells beside each leave of it.

    Parameters
    ----------
    floor_m : numpy.ndarray
        Height of every cell, shape (n, m), contiguous. [m]
    level_m : numpy.ndarray
        Level to begin with, infinite where nothing leaves, the same shape. [m]

    Returns
    -------
    None
        `level_m` is changed. [m]

    References
    ----------
    Planchon and Darboux, Catena 46, 2002, whose scans from the corners these are.
    """
    rows, columns = floor_m.shape
    falls = True
    while falls:
        falls = False
        for scan in range(2):
            for across in range(rows):
                row = across if scan == 0 else rows - 1 - across
                for along in range(columns):
                    column = along if scan == 0 else columns - 1 - along
                    beside = level_m[row, column]
                    if row > 0:
                        beside = min(beside, level_m[row - 1, column])
                    if row < rows - 1:
                        beside = min(beside, level_m[row + 1, column])
                    if column > 0:
                        beside = min(beside, level_m[row, column - 1])
                    if column < columns - 1:
                        beside = min(beside, level_m[row, column + 1])
                    beside = max(beside, floor_m[row, column])
                    if beside < level_m[row, column]:
                        level_m[row, column] = beside
                        falls = True


def standing_water(
    *,
    length_m: float,
    breadth_m: float,
    rim_m: float,
    fall_deg: float,
    drains: Sequence[tuple[float, float]],
    pitch_deg: float = 0.0,
    roll_deg: float = 0.0,
) -> Standing:
    """Tell what stands in a tray that leans with its vehicle.

    Parameters
    ----------
    length_m, breadth_m : float
        From front to rear, from left to right, > 0. [m]
    rim_m : float
        Of the rim above the floor at a drain, >= 0. [m]
    fall_deg : float
        Fall of the floor to the nearest drain. [°]
    drains : sequence of pairs
        Where drains are, as shares of length and breadth from front left. [-]
    pitch_deg, roll_deg : float
        Nose up, right side down. [°]

    Returns
    -------
    Standing
        Litres that stand, the share that drains, what it holds. [m³, m]

    Notes
    -----
    The floor is a cone round each drain. Water runs off a cell if some way leads down from
    it; else it rises to the lowest sill between it and a drain or the rim.

    References
    ----------
    Planchon and Darboux, Catena 46, 2002; plane geometry.
    """
    along = np.linspace(0.0, length_m, CELLS)[:, None]
    across = np.linspace(0.0, breadth_m, CELLS)[None, :]
    tilt = -tan(radians(pitch_deg)) * along - tan(radians(roll_deg)) * across
    nearest = np.full((CELLS, CELLS), inf)
    for x, y in drains:
        away = np.hypot(along - x * length_m, across - y * breadth_m)
        nearest = np.minimum(nearest, away)
    if not drains:
        nearest = np.zeros((CELLS, CELLS))
    floor = tan(radians(fall_deg)) * nearest + tilt
    last = CELLS - 1
    rim = [(cell, rim_m + float(tilt[cell])) for cell in EDGE]
    holes = [
        ((round(x * last), round(y * last)), float(floor[round(x * last), round(y * last)]))
        for x, y in drains
    ]
    cell_m2 = length_m * breadth_m / CELLS**2
    over_rim = flood(floor, rim)
    down_holes = flood(floor, holes)
    level = np.minimum(over_rim, down_holes)
    by_drain = np.isfinite(down_holes) & (down_holes <= over_rim)
    deep = level - floor
    return Standing(
        standing_m3=float(deep.sum() * cell_m2),
        deepest_m=float(deep.max()),
        to_drain=float(by_drain.mean()),
        holds_m3=float((over_rim - floor).sum() * cell_m2),
    )


def drain_places(count: int, where: str) -> tuple[tuple[float, float], ...]:
    """Place a tray's drains.

    Parameters
    ----------
    count : int
        1, 2 or 4. [-]
    where : str
        "middle", "front", "rear", "left", "right" or "corners". [-]

    Returns
    -------
    tuple of pairs
        Shares of length (from the front) and breadth (from the left). [-]

    Examples
    --------
    >>> drain_places(1, "middle")
    ((0.5, 0.5),)
    """
    corners = ((0.0, 0.0), (0.0, 1.0), (1.0, 0.0), (1.0, 1.0))
    if count >= 4:
        return corners
    one = {
        "middle": (0.5, 0.5),
        "front": (0.0, 0.5),
        "rear": (1.0, 0.5),
        "left": (0.5, 0.0),
        "right": (0.5, 1.0),
        "corners": (1.0, 0.0),
    }
    two = {
        "middle": ((0.25, 0.5), (0.75, 0.5)),
        "front": ((0.0, 0.0), (0.0, 1.0)),
        "rear": ((1.0, 0.0), (1.0, 1.0)),
        "left": ((0.0, 0.0), (1.0, 0.0)),
        "right": ((0.0, 1.0), (1.0, 1.0)),
        "corners": ((0.0, 0.0), (1.0, 1.0)),
    }
    return two[where] if count == 2 else (one[where],)
