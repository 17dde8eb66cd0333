"""Sections of the water: what stays together when everything that can be shut is shut."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import pi
from typing import Final

from isotherma.core.flows.draining import INSIDE_M3
from isotherma.core.graph import both_ways, reach
from isotherma.core.joints.bearing import PRIMARY
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat, use, water
from isotherma.core.system.nominal import ComputedSystem, known_figure
from isotherma.core.system.runs import Pipe

CLOSERS: Final = frozenset({"shut_off", "coupling", "drain", "solenoid", "relief", "interlock"})
PUMPS: Final = frozenset({"pump", "submersible", "foot_pump", "hand_pump"})
SOURCES: Final = frozenset({
    "fresh_tank", "pressurised_inlet", "outside_source", "loose_container", "gravity_bag",
    "fill_point",
})  # fmt: skip
VESSELS: Final = (heat.Store, heat.Combi, heat.Canister, heat.SunContainer)


@dataclass(frozen=True, slots=True)
class Section:
    """Runs and parts between closers, by what it is filled; `opened` is None at a source.

    `litres` are m³ without what was filled before, None where a run or vessel is not known.
    """

    number: int
    opened: str | None
    source: str | None
    runs: tuple[str, ...]
    parts: tuple[str, ...]
    borders: tuple[str, ...]
    litres_m3: float | None
    primary: bool = False


def closes(part: AnyKind) -> bool:
    """Say whether a part can be shut, or moves water only while it runs.

    Parameters
    ----------
    part : AnyKind
        Any. [-]

    Returns
    -------
    bool
        Outlets too: they end a section. [-]
    """
    ends = isinstance(part, use.Outlet | water.Selector)
    return ends or part.kind in CLOSERS or part.kind in PUMPS or part.kind == "air_vent"


def sections_of(
    system: System, known: ComputedSystem, at: Mapping[str, str]
) -> tuple[Section, ...]:  # fmt: skip
    """Part the water into sections, in the order they are filled.

    Parameters
    ----------
    system : System
        The design. [-]
    known : ComputedSystem
        The same with likely figures. [-]
    at : mapping of str to str
        How parts stand. [-]

    Returns
    -------
    tuple of Section
        From the sources along the flow, breadth first; what no source reaches comes last. [m³]
    """
    parts = {part.id: part for part in system.parts}
    figures = {part.id: part for part in known.parts}
    pipes = [run for run in system.runs if isinstance(run, Pipe) and not _wastes(run, parts)]
    lengths = {run.id: run for run in known.runs}
    groups = _groups(pipes, parts)
    order = _filled(groups, pipes, parts, at)
    found = []
    for number, (group, opened, source) in enumerate(order):
        mine = [run for run in pipes if groups[run.id] == group]
        ends = dict.fromkeys(end.part for run in mine for end in (run.start, run.end))
        inside = tuple(key for key in ends
                       if not closes(parts[key]) and parts[key].kind not in SOURCES)  # fmt: skip
        borders = tuple(key for key in ends if closes(parts[key]) and key != opened)
        total = 0.0
        known_all = True
        for run in mine:
            bore = known_figure(lengths[run.id], "bore_m")
            length = known_figure(lengths[run.id], "length_m")
            if bore is None or length is None:
                known_all = False
            else:
                total += pi / 4.0 * bore**2 * length
        for key in inside:
            volume = _inside_m3(figures[key])
            known_all = known_all and volume is not None
            total += 0.0 if volume is None else volume
        if opened is not None and parts[opened].kind in PUMPS:
            total += INSIDE_M3.get(parts[opened].kind, 0.0)
        primary = any(parts[key].kind in PRIMARY for key in ends)
        found.append(Section(
            number, opened, source, tuple(run.id for run in mine), inside, borders,
            total if known_all else None, primary,
        ))  # fmt: skip
    return tuple(found)


def _wastes(run: Pipe, parts: Mapping[str, AnyKind]) -> bool:
    if run.family == "waste pipe":
        return True
    sides = {parts[end.part].side for end in (run.start, run.end)}
    return sides == {"waste"}


def _inside_m3(part: AnyKind) -> float | None:
    if isinstance(part, VESSELS):
        return known_figure(part, "volume_m3")
    return INSIDE_M3.get(part.kind, 0.0)


def _groups(pipes: list[Pipe], parts: Mapping[str, AnyKind]) -> dict[str, int]:
    """Number the runs that stay together: those that meet at a part that cannot be shut."""
    at: dict[str, list[tuple[str, str]]] = {}
    for run in pipes:
        for end in (run.start, run.end):
            if not closes(parts[end.part]) and parts[end.part].kind not in SOURCES:
                at.setdefault(end.part, []).append((run.id, end.port))
    pairs = []
    for key, ends in at.items():
        joined = joined_ports(parts[key])
        for one, first in ends:
            for other, second in ends:
                if one < other and (first == second or frozenset((first, second)) in joined):
                    pairs.append((one, other))
    near = both_ways(pairs)
    groups: dict[str, int] = {}
    for run in pipes:
        if run.id not in groups:
            for key in reach([run.id], lambda item: near.get(item, [])):
                groups[key] = len(set(groups.values())) if key == run.id else groups[run.id]
    return groups


def joined_ports(part: AnyKind) -> set[frozenset[str]]:
    """Give the pairs of ports water goes between inside a part; of a vessel all of them.

    Parameters
    ----------
    part : AnyKind
        Any. [-]

    Returns
    -------
    set of frozenset of str
        Names of two ports each. [-]
    """
    if isinstance(part, VESSELS):
        names = [port.name for port in part.ports if port.medium in ("water", "fluid")]
        return {frozenset((one, other)) for one in names for other in names if one != other}
    at = part.positions or ("",)
    return {frozenset(way) for position in at for way in part.ways(position)}


def _filled(
    groups: Mapping[str, int], pipes: list[Pipe], parts: Mapping[str, AnyKind],
    at: Mapping[str, str],
) -> list[tuple[int, str | None, str | None]]:  # fmt: skip
    """Give groups in the order they are filled, with what is opened to fill each."""
    touch: dict[int, list[str]] = {}
    for run in pipes:
        for end in (run.start, run.end):
            touch.setdefault(groups[run.id], []).append(end.part)
    found: list[tuple[int, str | None, str | None]] = []
    seen: set[int] = set()
    waiting: list[tuple[int, str | None, str | None]] = []
    for run in pipes:
        for end in (run.start, run.end):
            feeds = parts[end.part].kind in SOURCES and end.port in ("outlet", "second_outlet")
            if feeds and groups[run.id] not in seen:
                seen.add(groups[run.id])
                waiting.append((groups[run.id], None, end.part))
    while waiting:
        group, opened, source = waiting.pop(0)
        found.append((group, opened, source))
        for key in dict.fromkeys(touch[group]):
            part = parts[key]
            if not closes(part) or isinstance(part, use.Outlet) or part.kind in ("relief", "drain"):
                continue
            if isinstance(part, water.Selector) and at.get(key) == "neither":
                continue
            for run in pipes:
                beyond = groups[run.id]
                if beyond not in seen and key in (run.start.part, run.end.part):
                    seen.add(beyond)
                    waiting.append((beyond, key, None))
    left = dict.fromkeys(groups[run.id] for run in pipes if groups[run.id] not in seen)
    return [*found, *((group, None, None) for group in left)]
