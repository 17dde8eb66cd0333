"""Drain-down: what empties through which drain, in what order, and what stays trapped where.

With everything that can be opened open and the pumps off, water at a place runs out only
if some way leads down from it to an open drain, and air can follow from above. The level
it would stand at is that of the lowest sill on the way, found as water on a hilly floor
is (Barnes, Lehman and Mulla, Priority-flood, Computers & Geosciences 62, 2014).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from heapq import heappop, heappush
from math import inf, pi, radians, tan
from typing import Final

from isotherma.core.flows.fittings import IDLE_OPENING_PA, RESERVOIR
from isotherma.core.flows.network_compiler import CompiledNetwork, Link
from isotherma.core.graph import reach, reaches
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import GRAVITY_M_PER_S2
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat, temperature, water
from isotherma.core.system.nominal import figure
from isotherma.core.system.vehicle import Vehicle
from isotherma.core.thermal.losses import as_wide_as_tall_m

WATER_PA_PER_M: Final = 1000.0 * GRAVITY_M_PER_S2
LEVEL_KEEPS: Final = 0.1  # of a run that lies level: a film and a puddle at each end; judgement
VESSEL_TALL_M: Final = 0.3
ALMOST_M: Final = 1e-4
# litres inside parts that have no volume of their own; judgement, of usual sizes
INSIDE_M3: Final[Mapping[str, float]] = {
    "pump": 0.08e-3,
    "strainer": 0.05e-3,
    "filter": 0.6e-3,
    "through_flow_gas": 0.5e-3,
    "through_flow_electric": 0.3e-3,
    "plate_exchanger": 0.15e-3,
    "thermostatic_mixer": 0.05e-3,
    "manual_mixer": 0.05e-3,
    "accumulator": 0.05e-3,
}


class Why(StrEnum):
    """Why water stays."""

    NO_WAY_OUT = "no_way_out"
    NO_AIR = "no_air"
    LOWER = "lower_than_the_way_out"
    LEVEL = "level"
    END_LOW = "end_low"


@dataclass(frozen=True, slots=True)
class HeldWater:
    """One run or part: what it holds filled, what stays in it, and why.

    `drain` is the drain or outlet the rest leaves by, empty if none; `why` is None for one that
    empties; `in_the_way` the part that would let it out if it were opened.
    """

    id: str
    label: str
    is_run: bool
    holds_m3: float
    stays_m3: float
    drain: str
    why: Why | None
    in_the_way: str
    height_m: float


@dataclass(frozen=True, slots=True)
class Opening:
    """One drain or outlet to open, in order; water that leaves there."""

    id: str
    label: str
    is_drain: bool
    height_m: float
    volume_m3: float


@dataclass(frozen=True, slots=True)
class DrainDown:
    """The whole: what to switch off, what to open in which order, what stays.

    `unknown` are runs and parts whose water nobody can know yet: they are in no sum.
    """

    off: tuple[str, ...]
    openings: tuple[Opening, ...]
    kept: tuple[HeldWater, ...]
    holds_m3: float
    stays_m3: float
    heights_said: bool
    unknown: tuple[str, ...] = ()

    @property
    def trapped(self) -> tuple[HeldWater, ...]:
        """What keeps water, the most first."""
        return tuple(
            sorted((item for item in self.kept if item.stays_m3 > 1e-6), key=lambda k: -k.stays_m3)
        )


def _crest_m(link: Link, ahead: bool) -> float | None:
    """Height water needs above a link to pass it by gravity; None if it never does."""
    law = link.element.law
    if link.element.role in {"regulated", "relief"}:
        return None
    if law in (laws.PUMP, laws.STROKE):
        return IDLE_OPENING_PA / WATER_PA_PER_M if ahead else None
    if law == laws.CHECK:
        return link.element.figures[1] / WATER_PA_PER_M if ahead else None
    if link.element.one_way and not ahead:
        return None
    return 0.0


def leaning_m(network: CompiledNetwork, vehicle: Vehicle) -> list[float]:
    """Give the heights of a network's nodes as its vehicle stands.

    Parameters
    ----------
    network : CompiledNetwork
        Of a state. [-]
    vehicle : Vehicle
        Its pitch and roll count for parts whose place is known. [-]

    Returns
    -------
    list of float
        By node. [m]

    References
    ----------
    Plane geometry of a tilt.
    """
    height = list(network.height_m)
    lean_x, lean_y = (-tan(radians(angle)) for angle in vehicle.stands_deg)
    for (part_id, _), node in network.node.items():
        part = network.parts[part_id]
        if part.x_m is not None and part.y_m is not None:
            height[node] += lean_x * part.x_m + lean_y * part.y_m
    return height


class _Hills:
    """The network as ground for water to run over: heights of nodes, ways between them."""

    def __init__(self, network: CompiledNetwork, vehicle: Vehicle) -> None:
        self.network = network
        self.height = leaning_m(network, vehicle)
        self.near: dict[int, list[int]] = {}
        for index, link in enumerate(network.links):
            self.near.setdefault(link.start, []).append(index)
            self.near.setdefault(link.end, []).append(index)
        self._attach_hoses()
        self.level, self.by = self._flood()
        self.airy = self._air()

    def _attach_hoses(self) -> None:
        """Let heads and taps on a soft hose hang down to where their hose begins."""
        self.hung: set[int] = set()
        for link in self.network.ends.values():
            node = self.network.links[link].start
            runs = [at for at in self.near[node] if self.network.links[at].is_run]
            if len(runs) != 1:
                continue
            item = self.network.links[runs[0]]
            if self.network.runs[item.item].material != "hose":
                continue
            other = item.start if item.end == node else item.end
            self.height[node] = min(self.height[node], self.height[other])
            self.hung.add(runs[0])

    def shuts(self, link: Link) -> bool:
        """Say whether a link stands shut and nobody will open it when draining."""
        return (
            link.element.start == RESERVOIR and self.network.parts[link.item].kind != "fresh_tank"
        )

    def _ends(self) -> list[tuple[int, str, int]]:
        """List nodes where water may leave when all is opened: drains, outlets, tanks."""
        network = self.network
        found = []
        for part_id, link in network.ends.items():
            rank = 0 if network.parts[part_id].kind == "drain" else 1
            found.append((network.links[link].start, part_id, rank))
        open_to_air = set(network.net.given.nonzero()[0].tolist())
        for item in network.links:
            if item.is_run or item.element.role in {"end", "relief", "regulated", "mains"}:
                continue
            if item.end in open_to_air:
                found.append((item.start, item.item, 2))
            elif item.element.start == RESERVOIR and network.parts[item.item].kind == "fresh_tank":
                found.append((item.end, item.item, 2))  # back into the tank, once that is empty
        return found

    def _flood(self) -> tuple[dict[int, float], dict[int, str]]:
        """Give each node the level its water falls to, and where it leaves."""
        level: dict[int, float] = {}
        by: dict[int, str] = {}
        heap: list[tuple[float, int, int, str]] = []
        for node, part_id, rank in self._ends():
            heappush(heap, (self.height[node], rank, node, part_id))
        while heap:
            now, rank, node, part_id = heappop(heap)
            if node in level:
                continue
            level[node], by[node] = now, part_id
            for index in self.near.get(node, ()):
                link = self.network.links[index]
                if link.element.role == "end" or self.shuts(link):
                    continue
                other = link.start if link.end == node else link.end
                crest = _crest_m(link, ahead=link.end == node)
                if crest is None or other in level:
                    continue
                heappush(heap, (max(now, self.height[other], now + crest), rank, other, part_id))
        return level, by

    def _air(self) -> set[int]:
        """Find the links above whose upper end air can follow from an open end."""
        found = set()
        sources = {node for node, _, _ in self._ends()}
        sources |= {link.end for link in self.network.links if link.element.start == RESERVOIR}
        sources |= {
            node
            for (part_id, _), node in self.network.node.items()
            if self.network.parts[part_id].kind in {"air_vent", "bleed", "relief"}
        }  # fmt: skip
        for index, link in enumerate(self.network.links):
            high, low = link.start, link.end
            if self.height[high] < self.height[low]:
                high, low = low, high
            level = abs(self.height[high] - self.height[low]) < ALMOST_M
            if self._reaches(high, index, sources) or (
                level and self._reaches(low, index, sources)
            ):
                found.add(index)
        return found

    def _reaches(self, start: int, without: int, wanted: set[int]) -> bool:
        def near(node: int) -> Iterator[int]:
            for index in self.near.get(node, ()):
                link = self.network.links[index]
                if index == without or link.element.role == "end":
                    continue
                if _crest_m(link, ahead=link.end == node) is not None:  # air comes towards the node
                    yield link.start if link.end == node else link.end

        return reaches([start], near, wanted.__contains__)


def _volume(part: AnyKind, link: Link) -> float | None:
    """Water inside a part that drains with the pipes; open tanks and cans have none here."""
    if isinstance(part, heat.Coil):
        bore = float(link.element.figures[1])
        return pi / 4 * bore**2 * figure(part, "length_m")
    if isinstance(part, heat.Store | heat.Combi | heat.Canister | heat.SunContainer):
        return part.volume_m3
    return INSIDE_M3.get(part.kind, 0.0)


def _tall(part: AnyKind) -> float:
    if isinstance(part, heat.Store):
        return figure(part, "height_m")
    if isinstance(part, heat.Combi):
        return min(VESSEL_TALL_M, as_wide_as_tall_m(figure(part, "volume_m3")))
    return 0.0


def _span(low: float, high: float, level: float) -> float:
    """Give the share of a thing from low to high that lies below a level."""
    if high - low < ALMOST_M:
        return LEVEL_KEEPS if level <= low + ALMOST_M else 1.0
    return min(1.0, max(0.0, (level - low) / (high - low)))


def _run(hills: _Hills, index: int) -> HeldWater:
    network = hills.network
    link = network.links[index]
    run = network.runs[link.item]
    holds = pi / 4 * link.bore_m**2 * figure(run, "length_m")
    low, high = sorted((link.start, link.end), key=lambda node: hills.height[node])
    levels = [hills.level.get(node, inf) for node in (low, high)]
    level = levels[0] if hills.height[high] - hills.height[low] >= ALMOST_M else min(levels)
    where = low if levels[0] <= levels[1] else high
    return _kept(hills, index, holds, (low, high), level, hills.by.get(where, ""))


def _kept(
    hills: _Hills, index: int, holds: float, ends: tuple[int, int], level: float, drain: str,
    tall: float = 0.0,
) -> HeldWater:  # fmt: skip
    link = hills.network.links[index]
    low, high = (hills.height[node] for node in ends)
    high = max(high, low + tall)
    share = _span(low, high, level)
    why: Why | None = None
    if level == inf:
        share, why = 1.0, Why.NO_WAY_OUT
    elif index in hills.hung:
        share = 0.0
    elif index not in hills.airy:
        share, why = 1.0, Why.NO_AIR
    elif share > LEVEL_KEEPS + 1e-9:
        why = Why.LOWER
    elif share > 0.0 and high - low < ALMOST_M:
        why = Why.LEVEL
    elif share > 0.0:
        why = Why.END_LOW
    return HeldWater(
        id=link.item,
        label=link.label,
        is_run=link.is_run,
        holds_m3=holds,
        stays_m3=holds * share,
        drain=drain if share < 1.0 else "",
        why=why if holds > 0.0 else None,
        in_the_way=_in_the_way(hills, ends) if level == inf else "",
        height_m=low,
    )


def _in_the_way(hills: _Hills, ends: tuple[int, int]) -> str:
    """Name a part at the edge of a piece that is cut off: a shut valve, a check, a pump."""
    network = hills.network
    seen, waiting = set(ends), list(ends)
    nodes = {node: part_id for (part_id, _), node in network.node.items()}
    while waiting:
        node = waiting.pop()
        for index in hills.near.get(node, ()):
            link = network.links[index]
            other = link.start if link.end == node else link.end
            if _crest_m(link, ahead=link.start == node) is None:
                return link.item
            if other not in seen:
                seen.add(other)
                waiting.append(other)
        part_id = nodes.get(node, "")
        part = network.parts.get(part_id)
        if part is not None and part.positions and not part.ways(network.at.get(part_id, "")):
            return part_id
    return ""


def drain_down(network: CompiledNetwork, vehicle: Vehicle) -> DrainDown:
    """Drain a network by its drains and outlets as it stands, pumps off.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state: its shut valves stay shut. [-]
    vehicle : Vehicle
        Pitch and roll count for parts whose place is known. [-]

    Returns
    -------
    DrainDown
        What leaves where, in the order that lets air follow: outlets from the highest down,
        then drains from the highest down. [m³]
    """
    hills = _Hills(network, vehicle)
    kept, unknown = _everything(hills)
    leaves: dict[str, float] = {}
    for item in kept:
        if item.drain:
            leaves[item.drain] = leaves.get(item.drain, 0.0) + item.holds_m3 - item.stays_m3
    openings = [
        Opening(
            id=part_id,
            label=network.parts[part_id].label,
            is_drain=network.parts[part_id].kind == "drain",
            height_m=hills.height[network.links[link].start],
            volume_m3=leaves.get(part_id, 0.0),
        )
        for part_id, link in network.ends.items()
    ]
    openings += [
        Opening(part.id, part.label, False, hills.height[network.node[part.id, "inlet"]], 0.0)
        for part in network.parts.values()
        if part.kind == "relief" and (part.id, "inlet") in network.node
    ]
    openings.sort(key=lambda item: (item.is_drain, -item.height_m, item.id))
    return DrainDown(
        off=_off(network),
        openings=tuple(openings),
        kept=tuple(kept),
        holds_m3=sum(item.holds_m3 for item in kept),
        stays_m3=sum(item.stays_m3 for item in kept),
        heights_said=any(abs(run.rise_m) > 0 for run in network.runs.values()),
        unknown=tuple(unknown),
    )


def _everything(hills: _Hills) -> tuple[list[HeldWater], list[str]]:
    """Give what every run and part keeps, and those whose water nobody can know."""
    kept: list[HeldWater] = []
    unknown: list[str] = []
    done: set[str] = set()
    network = hills.network
    apart = _antifreeze(network)
    for index, link in enumerate(network.links):
        if index in apart:
            continue
        if link.is_run:
            if index in network.unsure:
                unknown.append(link.item)
            else:
                kept.append(_run(hills, index))
            continue
        part = network.parts[link.item]
        if link.item in done or link.element.role == "end":
            continue
        holds = _volume(part, link)
        if holds is None:
            unknown.append(link.item)
            done.add(link.item)
            continue
        if holds <= 0.0:
            continue
        done.add(link.item)
        ends = sorted((link.start, link.end), key=lambda node: hills.height[node])
        where = min(ends, key=lambda node: hills.level.get(node, inf))
        level = hills.level.get(where, inf)
        low_high = (ends[0], ends[1])
        kept.append(
            _kept(hills, index, holds, low_high, level, hills.by.get(where, ""), _tall(part))
        )
    return kept, unknown


def _antifreeze(network: CompiledNetwork) -> set[int]:
    """Find the links of circuits that stay filled: antifreeze, or an engine's coolant."""
    found = {index for index in range(len(network.links)) if network.heat.fluid[index] != 0}
    waiting = [
        index
        for index, link in enumerate(network.links)
        if network.links[index].item in network.parts
        and isinstance(network.parts[link.item], heat.EngineCoolant)
    ]
    at: dict[int, list[int]] = {}
    for index, link in enumerate(network.links):
        at.setdefault(link.start, []).append(index)
        at.setdefault(link.end, []).append(index)
    return found | set(reach(waiting, lambda index: (
        *at[network.links[index].start], *at[network.links[index].end]
    )))  # fmt: skip


def _off(network: CompiledNetwork) -> tuple[str, ...]:
    """List what is switched off or shut first: heat, then pumps, then water under pressure."""
    first: list[str] = []
    then: list[str] = []
    for part in network.parts.values():
        if isinstance(
            part,
            heat.Element | heat.Burner | heat.ThroughFlowGas | heat.ThroughFlowElectric
            | heat.LiquidHeater | heat.Combi | heat.Canister,
        ):  # fmt: skip
            first.append(part.id)
        elif isinstance(
            part, water.Pump | water.Submersible | temperature.LoopPump | water.PressurisedInlet
        ):
            then.append(part.id)
    return (*first, *then)
