"""Where water comes from: what tanks, bags and cans hold, and what of it is gone."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from math import ceil
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Brief
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.graph import reach_nearest
from isotherma.core.hydraulics.network import SHUT
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds.water import (
    FreshTank,
    GravityBag,
    LooseContainer,
    OutsideSource,
    PressurisedInlet,
    Submersible,
)
from isotherma.core.system.nominal import figure
from isotherma.core.water import FRESH_KG_PER_M3 as FRESH_KG_PER_M3

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

ENDLESS: Final = -1  # the row of a river or a pitch's mains
DAY_S: Final = 86400.0
_LEFT_KG: Final = 1e-4  # less is empty
_SOURCES: Final = (FreshTank, GravityBag, LooseContainer, OutsideSource, PressurisedInlet)


@dataclass(frozen=True, slots=True)
class Reservoir:
    """Something carried that water is drawn from.

    `size_kg` of it, `waiting` portions beside it of `portion_kg`: spares to join in its place, or
    loose cans to pour into it; one takes `swap_s`. `levels_with` are tanks that level out with
    it: what is in them is counted in it. `first_fill_kg` goes into empty stores at the start.
    """

    id: str
    label: str
    size_kg: float
    waiting: int
    portion_kg: float
    swap_s: float
    levels_with: tuple[str, ...] = ()
    first_fill_kg: float = 0.0

    @property
    def ids(self) -> tuple[str, ...]:
        """Give the parts whose water it is."""
        return (self.id, *self.levels_with)

    @property
    def full_kg(self) -> float:
        """All that can be drawn, with what waits, once empty stores are filled [kg]."""
        return self.size_kg + self.waiting * self.portion_kg - self.first_fill_kg


@dataclass(slots=True)
class Reservoirs:
    """What is carried and what is left of it, through a day.

    `left_kg` counts spares too; `took_kg` is what draws took, `other_kg_per_s` what else is
    taken evenly, by row of `reservoirs`; `since_s` until when that has been taken off.
    """

    reservoirs: tuple[Reservoir, ...]
    left_kg: Floats
    other_kg_per_s: Floats
    took_kg: Floats
    since_s: float = 0.0
    swaps: list[tuple[float, str]] = field(default_factory=list)

    def now_kg(self) -> Floats:
        """Give what is in the tank, bag or can that is joined now [kg], shape (n_wells,)."""
        rows = zip(self.reservoirs, self.left_kg.tolist(), strict=True)
        return np.array([_joined(reservoir, left) for reservoir, left in rows]).reshape(-1)

    def pass_time(self, clock_s: float) -> None:
        """Take off what is taken evenly, until now."""
        span = max(0.0, clock_s - self.since_s)
        self.left_kg = np.maximum(0.0, self.left_kg - self.other_kg_per_s * span)
        self.since_s = clock_s

    def ran(self, before_kg: Floats, after_kg: Floats, clock_s: float) -> None:
        """Take off what a stretch of flow took."""
        self.left_kg = np.maximum(0.0, self.left_kg - (before_kg - after_kg))
        self.since_s = clock_s

    def take(self, row: int, kilograms: float) -> None:
        """Take water at once, as for a box that is filled up again."""
        if row != ENDLESS:
            self.left_kg[row] = max(0.0, self.left_kg[row] - kilograms)
            self.took_kg[row] += kilograms

    def give_back(self, part_id: str, kilograms: float) -> None:
        """Let water come back that was taken from a tank, bag or can."""
        for row, reservoir in enumerate(self.reservoirs):
            if part_id in reservoir.ids:
                self.left_kg[row] = min(reservoir.full_kg, self.left_kg[row] + kilograms)
                self.took_kg[row] -= kilograms

    def swap(self, row: int, clock_s: float) -> float | None:
        """Give how long it takes until a spare is joined; None where none is left [s]."""
        reservoir = self.reservoirs[row]
        waiting = _waiting_kg(reservoir, max(0.0, float(self.left_kg[row]) - _LEFT_KG))
        waiting = max(waiting, float(self.left_kg[row]))
        self.left_kg[row] = waiting if waiting > 10.0 * _LEFT_KG else 0.0
        if not self.left_kg[row]:
            return None
        self.swaps.append((clock_s, reservoir.id))
        return reservoir.swap_s

    def washed_kg(self) -> dict[str, float]:
        """Give what draws took, by part [kg]."""
        return {
            reservoir.id: float(took)
            for reservoir, took in zip(self.reservoirs, self.took_kg, strict=True)
        }


def _waiting_kg(reservoir: Reservoir, left_kg: float) -> float:
    """Give what of all that is left still waits beside it [kg]."""
    if left_kg <= reservoir.size_kg or reservoir.portion_kg <= 0.0:
        return 0.0
    return reservoir.portion_kg * ceil((left_kg - reservoir.size_kg) / reservoir.portion_kg - 1e-9)


def _joined(reservoir: Reservoir, left_kg: float) -> float:
    return left_kg - _waiting_kg(reservoir, left_kg)


def reservoirs_of(
    parts: Iterable[AnyKind], joined: Collection[str], reserve: float,
    levels: Collection[tuple[str, ...]] = (),
) -> tuple[Reservoir, ...]:  # fmt: skip
    """List what is carried that water can be drawn from.

    Parameters
    ----------
    parts : iterable of part
        As they are computed with. [-]
    joined : collection of str
        Parts that a run touches: a can that none does is poured into the first tank or bag. [-]
    reserve : float
        Share that is left in it. [-]
    levels : collection of tuple of str
        Tanks that level out with each other. [-]

    Returns
    -------
    tuple of Reservoir
        In the order of the document; with spares and loose cans. [kg]
    """
    parts = tuple(parts)
    litres = {
        part.id: figure(part, "volume_m3") * (1.0 - reserve) * FRESH_KG_PER_M3
        for part in parts
        if isinstance(part, FreshTank | GravityBag | LooseContainer) and part.volume_m3 is not None
    }
    loose = [
        part for part in parts
        if isinstance(part, LooseContainer) and part.id not in joined
        and not any(other.fitted_in == part.id for other in parts)
    ]  # fmt: skip
    if len(loose) == len(litres):
        loose = []
    found = []
    with_it = {
        ids[0]: tuple(key for key in ids[1:] if key in litres) for ids in levels if ids[0] in litres
    }
    names = {part.id: part.label for part in parts}
    counted = {key for others in with_it.values() for key in others}
    for part in parts:
        if part.id not in litres or part in loose or part.id in counted:
            continue
        others = with_it.get(part.id, ())
        size, waiting, portion, swap_s = litres[part.id], 0, 0.0, 0.0
        size += sum(litres[key] for key in others)
        if isinstance(part, LooseContainer):
            waiting, portion, swap_s = part.spare_count, size, part.swap_s
        label = " + ".join([part.label, *(names[key] for key in others)])
        found.append(Reservoir(part.id, label, size, waiting, portion, swap_s, others))
    if loose and found:  # poured into the first there is
        first, size = found[0], litres[loose[0].id]
        portion = min(size, first.size_kg)
        total = sum(litres[can.id] * (1 + can.spare_count) for can in loose)
        found[0] = replace(
            first, waiting=int(total / portion + 1e-9) if portion > 0.0 else 0,
            portion_kg=portion, swap_s=loose[0].swap_s,
        )  # fmt: skip
    return tuple(found)


def places_of(reservoirs: tuple[Reservoir, ...]) -> dict[str, int]:
    """Say in which row the water of every tank, bag and can is counted.

    Parameters
    ----------
    reservoirs : tuple of Reservoir
        What is carried. [-]

    Returns
    -------
    dict of str to int
        Row by part. [-]
    """
    return {key: row for row, reservoir in enumerate(reservoirs) for key in reservoir.ids}


def rows_of(network: CompiledNetwork, reservoirs: tuple[Reservoir, ...]) -> tuple[Ints, Floats]:
    """Say for every link from which well it takes, or to which it gives back.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    reservoirs : tuple of Reservoir
        What is carried. [-]

    Returns
    -------
    tuple of arrays
        The reservoir's row, -1 for none, and 1 or, for water that comes back, -1.
        [-], shape (n_links,)
    """
    places = places_of(reservoirs)
    rows = np.full(len(network.links), ENDLESS, dtype=np.int64)
    ways = np.ones(len(network.links))
    for index, link in enumerate(network.links):
        row = None if link.is_run else places.get(_holder(network, link.item))
        if row is None:
            continue
        if network.net.given[link.start]:
            rows[index] = row
        elif network.net.given[link.end]:
            rows[index], ways[index] = row, -1.0
    return rows, ways


def _holder(network: CompiledNetwork, part_id: str) -> str:
    """Give what a pump hangs in; anything else itself."""
    part = network.parts.get(part_id)
    return part.fitted_in or part_id if isinstance(part, Submersible) else part_id


def feeding(network: CompiledNetwork, outlet: str) -> tuple[str, ...]:
    """Name the sources that water can come from to an outlet, as everything stands.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    outlet : str
        Part id. [-]

    Returns
    -------
    tuple of str
        Tanks, bags, cans, outside sources, mains; nearest first. [-]
    """
    if outlet not in network.ends:
        return ()
    near: dict[int, list[tuple[int, str]]] = {}
    for index, link in enumerate(network.links):
        if network.shut[index] == SHUT and link.element.role == "end":
            continue
        near.setdefault(link.start, []).append((link.end, link.item))
        near.setdefault(link.end, []).append((link.start, link.item))
    start = network.links[network.ends[outlet]].start
    found: list[str] = []

    def beside(node: int) -> Iterator[int]:
        for other, item in near.get(node, ()):
            holder = _holder(network, item)
            part = network.parts.get(holder)
            if isinstance(part, _SOURCES) and network.net.given[other] and holder not in found:
                found.append(holder)
            if not network.net.given[other]:
                yield other

    reach_nearest([start], beside)
    return tuple(found)


def home_of(network: CompiledNetwork, outlet: str, reservoirs: tuple[Reservoir, ...]) -> int:
    """Say from which well the state's water comes.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    outlet : str
        Part id; one that people wash at. [-]
    reservoirs : tuple of Reservoir
        What is carried. [-]

    Returns
    -------
    int
        The row of the nearest; -1 where the nearest has no end, or nothing is carried. [-]
    """
    places = places_of(reservoirs)
    sources = feeding(network, outlet)
    if sources:
        return places.get(sources[0], ENDLESS)
    tanks = [row for row, reservoir in enumerate(reservoirs)
             if isinstance(network.parts.get(reservoir.id), FreshTank)]  # fmt: skip
    return tanks[0] if tanks else (0 if reservoirs else ENDLESS)


def fresh_reservoirs(
    reservoirs: tuple[Reservoir, ...],
    brief: Brief,
    home: int,
    used_kg: Mapping[str, float] | None = None,
) -> Reservoirs:
    """Give what is carried at midnight.

    Parameters
    ----------
    reservoirs : tuple of Reservoir
        What there is. [-]
    brief : Brief
        What else takes water, and from where. [-]
    home : int
        The row other water comes from where the brief does not say; -1: from no reservoir. [-]
    used_kg : mapping of str to float or None
        What earlier days took, by part. [kg]

    Returns
    -------
    Reservoirs
        To be run down. [kg]
    """
    gone = used_kg or {}
    places = places_of(reservoirs)
    other = np.zeros(len(reservoirs))
    for use in brief.uses:
        row = home if use.source is None else places.get(use.source, ENDLESS)
        if row != ENDLESS:
            other[row] += use.day_m3 * FRESH_KG_PER_M3 / DAY_S
    left = np.array(
        [max(0.0, reservoir.full_kg - gone.get(reservoir.id, 0.0)) for reservoir in reservoirs]
    )
    return Reservoirs(reservoirs, left.reshape(-1), other, np.zeros(len(reservoirs)))
