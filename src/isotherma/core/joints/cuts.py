"""Cutting and bending: how long a tube is cut, where its bends begin and end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, radians, tan
from typing import Final, Literal

Way = Literal["centres", "faces", "tube", "backs"]
EXACT_PIECES: Final = 30
TIGHT_MM: Final = 1e-6


@dataclass(frozen=True, slots=True)
class Bend:
    """A bend on a tube that is still straight: where it begins and ends, what it gains [mm, °]."""

    turn_deg: float
    start_mm: float
    end_mm: float
    gain_mm: float


@dataclass(frozen=True, slots=True)
class Cut:
    """How long a tube is cut, with its bends; `short` is a leg, from 1, too short for its bends."""

    cut_mm: float
    bends: tuple[Bend, ...]
    short: int | None = None


@dataclass(frozen=True, slots=True)
class Ends:
    """What fittings take out, centre to mouth, and how deep the tube goes in, at both ends [mm]."""

    take_out_mm: tuple[float, float] = (0.0, 0.0)
    insertion_mm: tuple[float, float] = (0.0, 0.0)


def cut(
    legs_mm: Sequence[float], turns_deg: Sequence[float], way: Way = "centres",
    ends: Ends = Ends(), *, radius_mm: float = 0.0, outside_mm: float = 0.0,
) -> Cut:  # fmt: skip
    """Say how long a tube with bends is cut, and where each bend begins.

    Parameters
    ----------
    legs_mm : sequence of float, shape (n + 1,)
        As measured: to the intersections of the middle lines, with "backs" to the outside. [mm]
    turns_deg : sequence of float, shape (n,)
        Turn between each two legs, 0 to 180. [°]
    way : str
        Between centres of fittings, between faces their tubes go into, the tube itself, or to the
        backs of its bends. [-]
    ends : Ends
        Of the fittings; none of a tube that is measured itself. [mm]
    radius_mm : float
        Of the middle line. [mm]
    outside_mm : float
        Of the tube; for backs. [mm]

    Returns
    -------
    Cut
        Marks are from the cut end. [mm]

    References
    ----------
    T = R tan(θ/2), A = Rθ, G = 2T − A: a right angle gains 0.4292 R.

    Examples
    --------
    >>> round(cut([300.0, 450.0], [90.0], radius_mm=60.0).cut_mm, 2)
    724.25
    """
    tangents = [radius_mm * tan(radians(turn) / 2.0) for turn in turns_deg]
    arcs = [radius_mm * radians(turn) for turn in turns_deg]
    gains = [2.0 * tangent - arc for tangent, arc in zip(tangents, arcs, strict=True)]
    legs = list(legs_mm)
    if way == "backs":
        over = [0.5 * outside_mm * tan(radians(turn) / 2.0) for turn in turns_deg]
        legs = [leg - sum(over[max(0, place - 1) : place + 1]) for place, leg in enumerate(legs)]
    taken = (0.0, 0.0) if way in ("faces", "tube") else ends.take_out_mm
    goes_in = (0.0, 0.0) if way == "tube" else ends.insertion_mm
    bends = []
    for place, turn in enumerate(turns_deg):
        start = sum(legs[: place + 1]) - tangents[place] - sum(gains[:place])
        start += goes_in[0] - taken[0]
        bends.append(Bend(turn, start, start + arcs[place], gains[place]))
    short = next(
        (place + 1 for place, leg in enumerate(legs)
         if leg < sum(tangents[max(0, place - 1) : place + 1]) - TIGHT_MM), None,
    )  # fmt: skip
    length = sum(legs) - sum(gains) - sum(taken) + sum(goes_in)
    return Cut(length, tuple(bends), short)


def take_up_mm(radius_mm: float, outside_mm: float) -> float:
    """Give what a bender takes up at a right angle, its zero at the back of the bend.

    Parameters
    ----------
    radius_mm : float
        Of the middle line. [mm]
    outside_mm : float
        Of the tube. [mm]

    Returns
    -------
    float
        From the mark to the back. [mm]

    References
    ----------
    Geometry of a right angle: R + D/2.

    Examples
    --------
    >>> take_up_mm(52.5, 15.0)
    60.0
    """
    return radius_mm + outside_mm / 2.0


@dataclass(frozen=True, slots=True)
class Stock:
    """Pieces on bars, by their places; `exact` says that no fewer bars would do."""

    bars: tuple[tuple[int, ...], ...]
    exact: bool
    at_least: int


def bars_for(pieces_mm: Sequence[float], bar_mm: float, kerf_mm: float = 0.0) -> Stock:
    """Lay pieces on the fewest bars.

    Parameters
    ----------
    pieces_mm : sequence of float
        None longer than a bar. [mm]
    bar_mm : float
        As sold. [mm]
    kerf_mm : float
        Lost between two pieces of a bar: 0 by shears, 2 by a saw. [mm]

    Returns
    -------
    Stock
        Exact up to thirty pieces, else first-fit decreasing with a bound. [-]

    References
    ----------
    First-fit decreasing; integer programming (HiGHS) where that leaves doubt.
    """
    order = sorted(range(len(pieces_mm)), key=lambda place: (-pieces_mm[place], place))
    bars: list[list[int]] = []
    room: list[float] = []
    for place in order:
        needs = pieces_mm[place] + kerf_mm
        at = next((bar for bar, left in enumerate(room) if left >= needs - TIGHT_MM), None)
        if at is None:
            bars.append([])
            room.append(bar_mm + kerf_mm)
            at = len(bars) - 1
        bars[at].append(place)
        room[at] -= needs
    whole = sum(pieces_mm) + kerf_mm * len(pieces_mm)
    least = ceil(whole / (bar_mm + kerf_mm) - 1e-9) if pieces_mm else 0
    if len(bars) > least and len(pieces_mm) <= EXACT_PIECES:
        better = _fewest(pieces_mm, bar_mm, kerf_mm, len(bars) - 1)
        return Stock(tuple(map(tuple, better or bars)), True, len(better or bars))
    return Stock(tuple(map(tuple, bars)), len(bars) <= least, least)


def _fewest(
    pieces_mm: Sequence[float], bar_mm: float, kerf_mm: float, most: int
) -> list[list[int]] | None:
    """Pack pieces on at most so many bars, as few as can be; None where they do not go."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp

    count = len(pieces_mm)
    size = most * (count + 1)  # a piece on a bar, then a bar in use
    cost = np.concatenate([np.zeros(most * count), np.ones(most)])
    once = np.zeros((count, size))
    fits = np.zeros((most, size))
    used_in_turn = np.zeros((max(1, most - 1), size))
    for bar in range(most):
        for piece in range(count):
            once[piece, bar * count + piece] = 1.0
            fits[bar, bar * count + piece] = pieces_mm[piece] + kerf_mm
        fits[bar, most * count + bar] = -(bar_mm + kerf_mm + TIGHT_MM)
        if bar + 1 < most:
            used_in_turn[bar, most * count + bar] = -1.0
            used_in_turn[bar, most * count + bar + 1] = 1.0
    found = milp(
        cost, integrality=np.ones(size, dtype=np.int64), bounds=Bounds(0.0, 1.0),
        constraints=[LinearConstraint(once, 1.0, 1.0), LinearConstraint(fits, -np.inf, 0.0),
                     LinearConstraint(used_in_turn, -np.inf, 0.0)],
    )  # fmt: skip
    if found.x is None:
        return None
    placed = found.x[: most * count].reshape(most, count) > 0.5
    rows = ([int(piece) for piece in np.flatnonzero(row)] for row in placed)
    return [row for row in rows if row]
