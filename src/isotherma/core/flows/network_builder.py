"""Laying a network: nodes for ports, links for runs and for the ways through parts."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Final

from isotherma.core.flows.compiled_network import Laid, Link
from isotherma.core.flows.fittings import (
    AIR,
    ALIASES,
    RESERVOIR,
    Conditions,
    NetworkElement,
    Place,
    elements_of,
    passive,
)  # fmt: skip
from isotherma.core.flows.loads import pump_speed, volts_of_pumps
from isotherma.core.graph import both_ways, components, reach
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.friction import ROUGHNESS_M
from isotherma.core.supply.ignition import sparkless
from isotherma.core.supply.strokes import strokes_of
from isotherma.core.system import AnyKind, Pipe, System
from isotherma.core.system.configuration import positions
from isotherma.core.system.joined_tanks import tank_joints
from isotherma.core.system.kinds.heat import Interlock
from isotherma.core.system.kinds.primary import CirculationPump
from isotherma.core.system.kinds.water import (
    GravityBag,
    OutsideSource,
    Pump,
    Reducer,
    Submersible,
)
from isotherma.core.system.nominal import ComputedSystem, computed, figure
from isotherma.core.system.states import State

# a run whose length or bore nobody knows has its place in the network, so that the rest can be
# laid; no figure is given of water that would pass it: `refuse_unknown`
STAND_IN: Final = (1.0, 0.012)
UNJOINED_M: Final = 0.012  # the bore a valve's loss counts on where no run is joined to it


class Builder:
    """Collects nodes and links of the network of one state."""

    def __init__(
        self, system: System, state: State | None, conditions: Conditions,
        known: ComputedSystem | None, laid: Laid | None, pump_v: Mapping[str, float] | None,
    ) -> None:  # fmt: skip
        self.laid = laid if laid is not None else {}
        self.system = known or computed(system)
        self.conditions = conditions
        self.parts = {part.id: part for part in self.system.parts}
        self.at = positions(self.system, state)
        self.moved = {item.part for item in state.positions} if state is not None else set()
        self.pump_v = volts_of_pumps(self.system, self.at) if pump_v is None else pump_v
        self.dry = frozenset(state.dry) if state is not None else frozenset()
        # tanks that level out through a pipe stand as one: no circuit of given levels
        levels = {key for joint in tank_joints(self.system) for key in joint.run_ids}
        self.runs = {run.id: run for run in self.system.pipes if run.id not in levels}
        # a flame behind a foot pump goes out at every stroke
        out = {item.heater for item in strokes_of(system) if not item.stays_lit}
        self.unlit = out | set(sparkless(system))
        self.node: dict[tuple[str, str], int] = {}
        self.given: dict[int, float] = {}
        self.links: list[Link] = []
        self.joined: dict[tuple[str, str], Pipe] = {}
        for run in self.runs.values():
            for end in (run.start, run.end):
                self.joined[end.part, end.port] = run
        self.fitted: dict[str, list[AnyKind]] = {}
        for part in self.system.parts:
            if part.fitted_in is not None:
                self.fitted.setdefault(part.fitted_in, []).append(part)
        self.trips = {
            part.guards: part.trips_at_m3_per_s
            for part in self.system.parts
            if isinstance(part, Interlock) and part.senses == "flow"
            and part.guards is not None and part.trips_at_m3_per_s is not None
        }  # fmt: skip
        self.wet = self._wet()

    def _wet(self) -> set[tuple[str, str]]:
        """Find the ports that carry drinking water or the primary, not waste."""
        pairs = [
            ((run.start.part, run.start.port), (run.end.part, run.end.port))
            for run in self.runs.values()
        ]
        for part in self.parts.values():
            alias = ALIASES.get(type(part), {})
            for first, second in (*part.ways(self.at.get(part.id, "")), *alias.items()):
                port = part.port(first)
                if port is None or port.medium != "fluid":
                    continue
                pairs.append(((part.id, first), (part.id, second)))
        near = both_ways(pairs)
        clean: set[tuple[str, str]] = set()
        seen: set[tuple[str, str]] = set()
        for start in near:
            if start in seen:
                continue
            group = reach([start], near.__getitem__).keys()
            seen |= group
            media = set()
            for part_id, name in group:
                port = self.parts[part_id].port(name)
                if port is not None:
                    media.add(port.medium)
            if "water" in media or "primary" in media or "waste" not in media:
                clean |= group
        return clean

    def place(self, part_id: str, port: str) -> int:
        """Give the node of a port, a new one the first time."""
        return self.node.setdefault((part_id, port), len(self.node))

    def _bore_before(self, part: AnyKind) -> float:
        """Give the bore a valve's loss counts on: of the run at its first port, or another."""
        for port in part.ports:
            run = self.joined.get((part.id, port.name))
            if run is not None and run.bore_m:
                return run.bore_m
        return UNJOINED_M

    def add_parts(self) -> None:
        """Lay the ways through every part."""
        for part in self.parts.values():
            if part.id in self.dry:
                continue
            host = self.parts.get(part.fitted_in or "")
            inside = self.fitted.get(part.fitted_in or "" if host else part.id, [])
            for alias, port in ALIASES.get(type(part), {}).items():
                if (part.id, alias) in self.joined:
                    self.add(part, NetworkElement(alias, port), 0.0)
            at, moved = self.at.get(part.id, ""), part.id in self.moved
            speed = self.speed_of(part)
            key = (part.id, at, moved, speed)
            if key not in self.laid:
                stands = Place(
                    bore_m=self._bore_before(part),
                    at=at,
                    fitted=tuple(inside if host is not None else self.fitted.get(part.id, ())),
                    host=host,
                    conditions=self.conditions,
                    speed=speed,
                    sparks=part.id not in self.unlit,
                    moved=moved,
                    trips_m3_per_s=self.trips.get(part.id, 0.0),
                )
                self.laid[key] = elements_of(part, stands)
            for element in self.laid[key]:
                self.add(part, element, element.rise_m)

    def add(self, part: AnyKind, element: NetworkElement, rise_m: float) -> None:
        """Lay one way through a part, if its ports are joined to the water."""
        tag = f"{element.role or len(self.links)}"
        start = self.place(
            part.id, element.start if element.start != RESERVOIR else f"{RESERVOIR}{tag}"
        )
        end = self.place(part.id, element.end if element.end != AIR else f"{AIR}{tag}")
        if element.start == RESERVOIR:
            self.given[start] = 0.0
        if element.end == AIR:
            self.given[end] = 0.0
        if element.role == "regulated" and isinstance(part, Reducer):
            self.given[start] = figure(part, "set_pa")
        self.links.append(Link(part.id, part.label, False, start, end, element, rise_m))

    def add_runs(self) -> None:
        """Lay every run of the water and primary sides."""
        for run in self.runs.values():
            ends = ((run.start.part, run.start.port), (run.end.part, run.end.port))
            if not any(end in self.wet for end in ends):
                continue
            start, end = (self.place(*port) for port in ends)
            unknown = tuple(name for name in run.needs if not getattr(run, name))
            length, bore = STAND_IN if unknown else (run.length_m, run.bore_m)
            assert length is not None and bore is not None
            figures = (length, bore, figure(run, "loss_k"), ROUGHNESS_M[run.material], 1.0)
            element = NetworkElement("", "", laws.PIPE, figures, unknown=unknown)
            rise = run.rise_m or self._by_places(run)
            self.links.append(Link(run.id, run.label, True, start, end, element, rise, bore))

    def _by_places(self, run: Pipe) -> float:
        """Take a rise nobody entered from where both ends are, should both be placed."""
        low, high = self.parts[run.start.part].z_m, self.parts[run.end.part].z_m
        return high - low if low is not None and high is not None else 0.0

    def set_hung_rises(self) -> None:
        """Give bags and outside sources the height that is said but not in the runs' rises."""
        for index, link in enumerate(self.links):
            if link.is_run or link.element.role not in {"hung", "lift"}:
                continue
            part = self.parts[link.item]
            rises = self._rises_to(link.end, "end" if link.element.role == "hung" else "pump")
            original = self.system_part(part.id)
            if isinstance(part, GravityBag):
                said = original.hung_m if isinstance(original, GravityBag) else None
                wanted = said if said is not None else (None if rises else part.hung_m)
                more = 0.0 if wanted is None else wanted if rises is None else wanted + rises
                self.links[index] = replace(link, rise_m=-more)
            elif isinstance(part, OutsideSource):
                said = original.lift_m if isinstance(original, OutsideSource) else None
                wanted = said if said is not None else (None if rises else part.lift_m)
                more = 0.0 if wanted is None else wanted if rises is None else wanted - rises
                self.links[index] = replace(link, rise_m=more)

    def rest_own_pumps(self) -> None:
        """Let heaters' own pumps stand where another pump drives the circuit."""
        home = network_numbers(self.links, len(self.node))
        driven = {
            home[link.start]
            for link in self.links
            if link.element.role == "pump" and isinstance(self.parts[link.item], CirculationPump)
        }
        for index, link in enumerate(self.links):
            if link.element.role == "own":
                element = passive(link.element) if home[link.start] in driven else link.element
                self.links[index] = replace(link, element=element)

    def speed_of(self, part: AnyKind | None) -> float:
        """Say how fast a pump runs on the volts its wires leave it, against its label."""
        if not isinstance(part, Pump | Submersible):
            return 1.0
        return pump_speed(part, self.system, self.pump_v.get(part.id))

    def system_part(self, part_id: str) -> AnyKind:
        """Give a part as entered, before likely figures were written in."""
        return self.entered[part_id]

    entered: Mapping[str, AnyKind] = {}

    def _rises_to(self, node: int, role: str) -> float | None:
        """Add up the rises from a node to the first outlet or pump; None if none is there."""
        near: dict[int, list[tuple[int, float, Link]]] = {}
        for link in self.links:
            near.setdefault(link.start, []).append((link.end, link.rise_m, link))
            near.setdefault(link.end, []).append((link.start, -link.rise_m, link))
        seen, waiting = {node}, [(node, 0.0)]
        while waiting:
            at, risen = waiting.pop(0)
            for other, rise, link in near.get(at, ()):
                if not link.is_run and link.element.role == role:
                    return risen
                if other not in seen and other not in self.given:
                    seen.add(other)
                    waiting.append((other, risen + rise))
        return None


def network_numbers(
    links: list[Link], nodes: int, also: Iterable[tuple[int, int]] = ()
) -> list[int]:
    """Number the circuits: nodes joined by links, whatever stands open, and what else is.

    Parameters
    ----------
    links : list of Link
        Of a network. [-]
    nodes : int
        How many it has. [-]
    also : iterable of pairs of int
        Nodes that are joined in another way. [-]

    Returns
    -------
    list of int
        Of every node, one that stands for its circuit. [-]
    """
    return components(nodes, [*((link.start, link.end) for link in links), *also])
