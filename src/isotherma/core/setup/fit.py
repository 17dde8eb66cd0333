"""Whether parts go where they are put: inner size of a space, room to service, what collides."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from itertools import combinations
from math import prod
from typing import Final

from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds.use import ShowerPlace
from isotherma.core.system.vehicle import Space

_NO_CUPBOARD: Final = frozenset({
    "panel", "primary_fluid", "engine_coolant", "alternator", "fuel_tank", "shower_place",
    "open_drain", "outside_source",
})  # fmt: skip
ELBOW_M: Final = 0.05  # under or beside a part that pipes come to: an elbow's centre to its mouth
TOUCH_M: Final = 0.001  # closer than this two parts only touch
ROUGHLY_M: Final = 0.02  # nobody measures a rise closer in a vehicle; judgement


class Misfit(StrEnum):
    """Why something does not go where it was put."""

    TOO_TALL = "too_tall"
    TOO_WIDE = "too_wide"
    NO_ELBOWS = "no_elbows"
    NO_SERVICE = "no_service"
    COLLIDES = "collides"
    TOO_MUCH = "too_much"
    RISES_OTHERWISE = "rises_otherwise"


@dataclass(frozen=True, slots=True)
class Fit:
    """One thing that does not fit: the part or run, what it meets (a space, a part), by how much.

    `over` is a length, or with `TOO_MUCH` a volume [m, m³]; with `RISES_OTHERWISE` the rise that
    was entered, and `least` and `most` what its ends allow [m].
    """

    why: Misfit
    part_id: str
    label: str
    other: str
    over: float
    least: float = 0.0
    most: float = 0.0


@dataclass(frozen=True, slots=True)
class Filled:
    """A space with what its parts take: of those whose outer size is known.

    `room_m3` is None where its inner size is not; `unknown` counts parts without a size.
    """

    space_id: str
    name: str
    room_m3: float | None
    taken_m3: float
    unknown: int


@dataclass(frozen=True, slots=True)
class Fits:
    """What of a design does not fit, and how full its spaces are."""

    misfits: tuple[Fit, ...]
    spaces: tuple[Filled, ...]


def fits(system: System) -> Fits:
    """Hold every part against the space it lives in, and against the parts beside it.

    Parameters
    ----------
    system : System
        As entered: only what somebody measured counts. [m]

    Returns
    -------
    Fits
        In the order of the document. [m, m³]

    Notes
    -----
    A part may be turned on its foot, not laid down. Pipes that come to it want an elbow's room
    over its height; service wants its clearance before it. A place is the middle of a part and its
    underside; a pipe may leave and arrive anywhere on a part's height.

    References
    ----------
    Boxes along the vehicle's axes.
    """
    spaces = {space.id: space for space in system.spaces}
    piped = {
        end.part for run in system.runs if run.kind in ("pipe", "fuel_pipe")
        for end in (run.start, run.end)
    }  # fmt: skip
    found: list[Fit] = []
    for part in system.parts:
        space = spaces.get(part.space or "")
        if space is not None:
            found += _in_space(part, space, part.id in piped)
    found += _collisions(system)
    found += _rises(system)
    filled = tuple(_filled(system, space) for space in system.spaces)
    found += [
        Fit(Misfit.TOO_MUCH, "", "", one.name, one.taken_m3 - one.room_m3)
        for one in filled if one.room_m3 is not None and one.taken_m3 > one.room_m3
    ]  # fmt: skip
    return Fits(tuple(found), filled)


def cupboard_m3(system: System) -> tuple[float | None, ...]:
    """Give the room of every part that takes some of the living space and its lockers.

    Parameters
    ----------
    system : System
        Any document. [-]

    Returns
    -------
    tuple of float or None
        By outer sizes, None for a part nobody measured. Not of what sits in another part, hangs
        below or outside, lies on the roof, is a fluid, came with the vehicle or is a place to
        stand in. [m³]
    """
    away = {
        space.id for space in system.spaces if space.warmth in ("slung", "outside", "engine bay")
    }
    return tuple(
        part.outer_m3 for part in system.parts
        if part.fitted_in is None and part.space not in away and part.kind not in _NO_CUPBOARD
    )  # fmt: skip


def _in_space(part: AnyKind, space: Space, piped: bool) -> list[Fit]:
    """Say what of a part is larger than its space: the first thing that matters."""
    found = []
    if part.tall_m is not None and space.height_m is not None:
        over = part.tall_m - space.height_m
        if over > TOUCH_M:
            found.append(Fit(Misfit.TOO_TALL, part.id, part.label, space.name, over))
        elif piped and over + ELBOW_M > TOUCH_M:
            found.append(Fit(Misfit.NO_ELBOWS, part.id, part.label, space.name, over + ELBOW_M))
    sides = (part.width_m, part.depth_m)
    inner = (space.width_m, space.depth_m)
    if None not in sides and None not in inner:
        clear = sum(side for side in (part.clearance_m,) if side is not None)
        bare = _over(sides, inner, 0.0)
        if bare > TOUCH_M:
            found.append(Fit(Misfit.TOO_WIDE, part.id, part.label, space.name, bare))
        elif (serviced := _over(sides, inner, clear)) > TOUCH_M:
            found.append(Fit(Misfit.NO_SERVICE, part.id, part.label, space.name, serviced))
    return found


def _over(
    sides: tuple[float | None, float | None], inner: tuple[float | None, float | None],
    clear_m: float,
) -> float:  # fmt: skip
    """Give how much a foot is too large, turned the better way; its clearance is before it."""
    (wide, deep), (room_w, room_d) = sides, inner
    assert wide is not None and deep is not None and room_w is not None and room_d is not None
    ways = [
        max(across - room_w, along + clear_m - room_d) for across, along in
        ((wide, deep), (deep, wide))
    ] + [
        max(across + clear_m - room_w, along - room_d) for across, along in
        ((wide, deep), (deep, wide))
    ]  # fmt: skip
    return min(ways)


def _box(part: AnyKind) -> tuple[tuple[float, float], ...] | None:
    """Give where a placed part reaches along, across and up; None where nobody says all of it."""
    figures = (part.x_m, part.y_m, part.z_m, part.width_m, part.depth_m, part.tall_m)
    known = [value for value in figures if value is not None]
    if len(known) < len(figures):
        return None
    x, y, z, wide, deep, tall = known
    return ((x - 0.5 * deep, x + 0.5 * deep), (y - 0.5 * wide, y + 0.5 * wide), (z, z + tall))


def _collisions(system: System) -> list[Fit]:
    boxes: Mapping[str, tuple[tuple[float, float], ...] | None] = {
        part.id: _box(part) for part in system.parts
    }
    found = []
    # a place to wash is a room: what stands in it meets nothing
    solid = (part for part in system.parts if not isinstance(part, ShowerPlace))
    for one, other in combinations(solid, 2):
        first, second = boxes[one.id], boxes[other.id]
        inside = one.fitted_in == other.id or other.fitted_in == one.id
        if first is None or second is None or inside or one.space != other.space:
            continue
        shared = min(min(a[1], b[1]) - max(a[0], b[0]) for a, b in zip(first, second, strict=True))
        if shared > TOUCH_M:
            found.append(Fit(Misfit.COLLIDES, one.id, one.label, other.label, shared))
    return found


def _rises(system: System) -> Iterator[Fit]:
    """Hold what runs are said to rise against the heights of their ends, wherever on those."""
    parts = {part.id: part for part in system.parts}
    for run in system.pipes:
        start, end = parts[run.start.part], parts[run.end.part]
        if not run.rise_m or start.z_m is None or end.z_m is None:
            continue  # of no rise the ends decide
        tall = [0.0 if part.tall_m is None else part.tall_m for part in (start, end)]
        least, most = end.z_m - start.z_m - tall[0], end.z_m + tall[1] - start.z_m
        if not least - ROUGHLY_M <= run.rise_m <= most + ROUGHLY_M:
            yield Fit(Misfit.RISES_OTHERWISE, run.id, run.label, end.label, run.rise_m, least, most)


def _filled(system: System, space: Space) -> Filled:
    here = [part for part in system.parts if part.space == space.id and part.fitted_in is None]
    sizes = [part.outer_m3 for part in here]
    inner = [side for side in (space.width_m, space.depth_m, space.height_m) if side is not None]
    room = prod(inner) if len(inner) == 3 else None
    return Filled(
        space.id, space.name, room, sum(size for size in sizes if size is not None),
        sum(size is None for size in sizes),
    )  # fmt: skip
