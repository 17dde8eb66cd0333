"""A document in a state → the arrays the solver works on, and who is who in them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from math import inf
from typing import Final

import numpy as np

from isotherma.core.errors import MissingValue
from isotherma.core.fields import known_or
from isotherma.core.flows import kernel
from isotherma.core.flows.fittings import (
    AIR,
    ALIASES,
    WELL,
    Conditions,
    Place,
    Way,
    passive,
    pump_points,
    ways_of,
)
from isotherma.core.flows.heights import heights
from isotherma.core.flows.kernel import Heat, Valves
from isotherma.core.flows.loads import pump_speed, volts_of_pumps
from isotherma.core.graph import both_ways, components, reach
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.friction import ROUGHNESS_M
from isotherma.core.hydraulics.network import OPEN, SHUT, Net
from isotherma.core.hydraulics.structure import structure
from isotherma.core.supply.ignition import sparkless
from isotherma.core.system import AnyKind, Pipe, System
from isotherma.core.system.kinds.primary import CirculationPump, ExpansionVessel, PrimaryFluid
from isotherma.core.system.kinds.temperature import ManualMixer, ThermostaticMixer
from isotherma.core.system.kinds.water import (
    FootPump,
    GravityBag,
    HandPump,
    OutsideSource,
    Pump,
    Reducer,
    Submersible,
)
from isotherma.core.system.stands import positions
from isotherma.core.system.states import State
from isotherma.core.system.understood import settled
from isotherma.core.water.fluids import fluid_table

_LOOSE_LOOP_M: Final = 0.15  # a loop whose rises miss by more is worth a word: 15 mbar


@dataclass(frozen=True, slots=True)
class Link:
    """One link: a run, or one way through a part."""

    item: str
    label: str
    is_run: bool
    start: int
    end: int
    way: Way
    rise_m: float
    bore_m: float = 0.0


@dataclass(frozen=True, slots=True)
class Circuit:
    """A network ready to be solved for any set of open outlets.

    `node` finds a port's node, `links` names them in the order of the arrays, `run` and
    `ways` find a run's link and a part's. `ends` are outlets and drains that may be
    opened, `diverted` finds the ways to the tank that open in their stead, `mixers` and `pumps`
    parts in the order of their arrays. `shut` says of every
    link whether it starts shut, `fixed` is the pressure of nodes that have one.
    """

    parts: Mapping[str, AnyKind]
    runs: Mapping[str, Pipe]
    at: Mapping[str, str]
    dry: frozenset[str]
    node: Mapping[tuple[str, str], int]
    links: tuple[Link, ...]
    run: Mapping[str, int]
    ways: Mapping[str, tuple[int, ...]]
    ends: Mapping[str, int]
    diverted: Mapping[str, tuple[int, ...]]
    mixers: tuple[str, ...]
    pumps: Mapping[str, int]
    net: Net
    heat: Heat
    valves: Valves
    shut: tuple[int, ...]
    fixed: tuple[float, ...]
    start_c: tuple[float, ...]
    reference: Mapping[int, float]
    fluids: tuple[str, ...]
    height_m: tuple[float, ...]
    loop_miss_m: float
    unsure: tuple[int, ...]
    conditions: Conditions


Laid = dict[tuple[str, str, bool, float], list[Way]]


class _Builder:
    """Collects nodes and links of the network of one state."""

    def __init__(
        self, system: System, state: State | None, conditions: Conditions, known: System | None,
        laid: Laid | None, pump_v: Mapping[str, float] | None,
    ) -> None:  # fmt: skip
        self.laid = laid if laid is not None else {}
        self.system = known or settled(system)
        self.conditions = conditions
        self.parts = {part.id: part for part in self.system.parts}
        self.at = positions(self.system, state)
        self.moved = {item.part for item in state.positions} if state is not None else set()
        self.pump_v = volts_of_pumps(self.system, self.at) if pump_v is None else pump_v
        self.dry = frozenset(state.dry) if state is not None else frozenset()
        self.runs = {run.id: run for run in self.system.pipes}
        self.sparkless = sparkless(system)
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
        return 0.012

    def add_parts(self) -> None:
        """Lay the ways through every part."""
        for part in self.parts.values():
            if part.id in self.dry:
                continue
            host = self.parts.get(part.fitted_in or "")
            inside = self.fitted.get(part.fitted_in or "" if host else part.id, [])
            for alias, port in ALIASES.get(type(part), {}).items():
                if (part.id, alias) in self.joined:
                    self.add(part, Way(alias, port), 0.0)
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
                    sparks=part.id not in self.sparkless,
                    moved=moved,
                )
                self.laid[key] = ways_of(part, stands)
            for way in self.laid[key]:
                self.add(part, way, way.rise_m)

    def add(self, part: AnyKind, way: Way, rise_m: float) -> None:
        """Lay one way through a part, if its ports are joined to the water."""
        tag = f"{way.role or len(self.links)}"
        start = self.place(part.id, way.start if way.start != WELL else f"{WELL}{tag}")
        end = self.place(part.id, way.end if way.end != AIR else f"{AIR}{tag}")
        if way.start == WELL:
            self.given[start] = 0.0
        if way.end == AIR:
            self.given[end] = 0.0
        if way.role == "regulated" and isinstance(part, Reducer):
            self.given[start] = known_or(part.set_pa, 1.5e5)
        self.links.append(Link(part.id, part.label, False, start, end, way, rise_m))

    def add_runs(self) -> None:
        """Lay every run of the water and primary sides."""
        for run in self.runs.values():
            ends = ((run.start.part, run.start.port), (run.end.part, run.end.port))
            if not any(end in self.wet for end in ends):
                continue
            start, end = (self.place(*port) for port in ends)
            unknown = tuple(name for name in run.needs if not getattr(run, name))
            figures = (
                known_or(run.length_m, 1.0), known_or(run.bore_m, 0.012), run.loss_k or 0.0,
                ROUGHNESS_M[run.material], 1.0,
            )  # fmt: skip
            way = Way("", "", laws.PIPE, figures, unknown=unknown)
            rise = run.rise_m or self._by_places(run)
            self.links.append(
                Link(run.id, run.label, True, start, end, way, rise, known_or(run.bore_m, 0.012))
            )

    def _by_places(self, run: Pipe) -> float:
        """Take a rise nobody entered from where both ends are, should both be placed."""
        low, high = self.parts[run.start.part].z_m, self.parts[run.end.part].z_m
        return high - low if low is not None and high is not None else 0.0

    def hang(self) -> None:
        """Give bags and outside sources the height that is said but not in the runs' rises."""
        for index, link in enumerate(self.links):
            if link.is_run or link.way.role not in {"hung", "lift"}:
                continue
            part = self.parts[link.item]
            rises = self._rises_to(link.end, "end" if link.way.role == "hung" else "pump")
            original = self.system_part(part.id)
            if isinstance(part, GravityBag):
                said = original.hung_m if isinstance(original, GravityBag) else None
                wanted = said if said is not None else (None if rises else part.hung_m)
                more = (wanted or 0.0) + (rises or 0.0) if wanted is not None else 0.0
                self.links[index] = replace(link, rise_m=-more)
            elif isinstance(part, OutsideSource):
                said = original.lift_m if isinstance(original, OutsideSource) else None
                wanted = said if said is not None else (None if rises else part.lift_m)
                more = (wanted or 0.0) - (rises or 0.0) if wanted is not None else 0.0
                self.links[index] = replace(link, rise_m=more)

    def rest_own_pumps(self) -> None:
        """Let heaters' own pumps stand where another pump drives the circuit."""
        home = _circuits(self.links, len(self.node))
        driven = {
            home[link.start]
            for link in self.links
            if link.way.role == "pump" and isinstance(self.parts[link.item], CirculationPump)
        }
        for index, link in enumerate(self.links):
            if link.way.role == "own":
                way = passive(link.way) if home[link.start] in driven else link.way
                self.links[index] = replace(link, way=way)

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
                if not link.is_run and link.way.role == role:
                    return risen
                if other not in seen and other not in self.given:
                    seen.add(other)
                    waiting.append((other, risen + rise))
        return None


def make_circuit(
    system: System,
    state: State | None,
    conditions: Conditions | None = None,
    *,
    known: System | None = None,
    laid: Laid | None = None,
    pump_v: Mapping[str, float] | None = None,
) -> Circuit:
    """Compile the network of a state.

    Parameters
    ----------
    system : System
        Any document; likely figures are written in. [-]
    state : State or None
        How it stands; None: everything as usual. [-]
    conditions : Conditions or None
        Temperatures and levels. [-]
    known : System or None
        The same document with likely figures written in, where it is at hand. [-]
    laid : dict or None
        Ways through parts by how they stand, kept from one state of this very document under
        these very conditions to the next; filled here. [-]
    pump_v : mapping of str to float or None
        Volts that reach pumps, where more than they hang on their wires; None: each alone. [V]

    Returns
    -------
    Circuit
        Ready for any set of open outlets. What is unknown is carried along and only
        refused if water would pass it. [-]
    """
    stands = conditions or Conditions()
    build = _Builder(system, state, stands, known, laid, pump_v)
    build.entered = {part.id: part for part in system.parts}
    build.add_parts()
    build.add_runs()
    build.hang()
    build.rest_own_pumps()
    return _arrays(build)


# States, modes and most edits leave a network's shape as it was: what follows from the shape alone
# is worked out once. What comes back is shared and only read.
_heights = lru_cache(maxsize=128)(heights)
_structure = lru_cache(maxsize=128)(structure)


def _arrays(build: _Builder) -> Circuit:
    links = build.links
    nodes = len(build.node)
    count = len(links)
    level, miss = _heights(
        nodes, tuple((link.start, link.end, link.rise_m, _trust(link)) for link in links)
    )
    given = tuple(node in build.given for node in range(nodes))
    shape = _structure(nodes, tuple((link.start, link.end) for link in links), given)
    parameters = np.zeros((max(count, 1), laws.PARAMETERS))[:count]
    points: list[tuple[float, float]] = []
    for index, link in enumerate(links):
        figures = list(link.way.figures)
        part = build.parts.get(link.item)
        if link.way.law == laws.PUMP and isinstance(part, Pump):
            curve = pump_points(part, build.speed_of(part))
            figures[:2] = [float(len(points)), float(len(curve))]
            points += curve
        parameters[index, : len(figures)] = figures
    curves = np.array(points or [(0.0, 0.0), (1.0, -1.0)]).T.copy()
    rise = np.array([level[link.end] - level[link.start] for link in links], dtype=np.float64)
    net = Net(
        law=np.array([link.way.law for link in links], dtype=np.int64),
        start=np.array([link.start for link in links], dtype=np.int64),
        end=np.array([link.end for link in links], dtype=np.int64),
        one_way=np.array([link.way.one_way for link in links], dtype=np.bool_),
        rise=rise,
        parameters=parameters,
        curves=curves,
        given=np.array(given, dtype=np.bool_),
        unknown=shape.unknown,
        entry=shape.entry,
        order=shape.order,
        first=shape.first,
        row=shape.row,
        place=shape.place,
        pairs=shape.pairs,
        update=shape.update,
        entries=shape.entries,
    )
    heat, names = _heat(build, nodes)
    valves, mixers = _valves(build)
    ways: dict[str, list[int]] = {}
    for index, link in enumerate(links):
        if not link.is_run:
            ways.setdefault(link.item, []).append(index)
    ends = {link.item: i for i, link in enumerate(links) if link.way.role == "end"}
    shut = [SHUT if link.way.role in {"end", "regulated", "divert"} else OPEN for link in links]
    for part_id, index in ends.items():
        if build.at.get(part_id) == "open" and build.parts[part_id].kind == "drain":
            shut[index] = OPEN
    return Circuit(
        parts=build.parts,
        runs=build.runs,
        at=build.at,
        dry=build.dry,
        node=build.node,
        links=tuple(links),
        run={link.item: i for i, link in enumerate(links) if link.is_run},
        ways={key: tuple(rows) for key, rows in ways.items()},
        ends=ends,
        diverted=_diverted(build, ends),
        mixers=mixers,
        pumps={link.item: i for i, link in enumerate(links) if link.way.role in {"pump", "own"}},
        net=net,
        heat=heat,
        valves=valves,
        shut=tuple(shut),
        fixed=tuple(build.given.get(node, 0.0) for node in range(nodes)),
        start_c=tuple(heat.given_c),
        reference=_references(build),
        fluids=names,
        height_m=tuple(float(value) for value in level),
        unsure=tuple(index for index, link in enumerate(links) if link.way.unknown),
        loop_miss_m=miss if miss > _LOOSE_LOOP_M else 0.0,
        conditions=build.conditions,
    )


def _trust(link: Link) -> float:
    """Weigh a rise where a loop does not close: a part has none, a long run may well have.

    A run of no rise is more likely one nobody measured.
    """
    if not link.is_run:
        return 1e6
    return (1.0 if link.rise_m else 0.1) / max(0.05, link.way.figures[0])


def _diverted(build: _Builder, ends: Mapping[str, int]) -> dict[str, tuple[int, ...]]:
    """Find for each outlet the diverters before it that send its water to the tank."""
    near = both_ways((link.start, link.end) for link in build.links)
    found: dict[str, tuple[int, ...]] = {}
    for index, link in enumerate(build.links):
        if link.way.role != "divert":
            continue
        first = build.node.get((link.item, "outlet"))
        if first is None:
            continue
        seen = reach([first], lambda node: (
            other for other in near.get(node, ()) if other not in build.given
        ))  # fmt: skip
        for part_id, end in ends.items():
            if build.links[end].start in seen or build.links[end].start in build.given:
                found[part_id] = (*found.get(part_id, ()), index)
    return found


def _references(build: _Builder) -> dict[int, float]:
    """Find what sets the pressure of a closed circuit: its vessel's pre-charge."""
    return {
        build.node[part.id, "inlet"]: known_or(part.precharge_pa, 1e5)
        for part in build.parts.values()
        if isinstance(part, ExpansionVessel)
        and not part.open_header
        and (part.id, "inlet") in build.node
    }


def _heat(build: _Builder, nodes: int) -> tuple[Heat, tuple[str, ...]]:
    links, count = build.links, len(build.links)
    figures = np.zeros((max(count, 1), 6))[:count]
    sides: dict[tuple[str, str], int] = {}
    for index, link in enumerate(links):
        figures[index, : len(link.way.warmth)] = link.way.warmth
        if link.way.heat == kernel.EXCHANGE:
            sides[link.item, link.way.role] = index
    for (part_id, side), index in sides.items():
        other = sides[part_id, "cold" if side == "hot" else "hot"]
        figures[index, kernel.PARTNER] = other
    home = _circuits(links, nodes, _in_any_position(build))
    tables = [fluid_table("water", 0.0)]
    names = ["water"]
    fluid_of: dict[int, int] = {}
    for part in build.parts.values():
        if not isinstance(part, PrimaryFluid) or part.fills is None or part.fluid == "water":
            continue
        at = [link.start for link in links if link.item == part.fills]
        if at:
            fluid_of[home[at[0]]] = len(tables)
            share = part.antifreeze_share or 0.0
            tables.append(fluid_table(part.fluid, round(share, 4)))
            names.append(f"{part.fluid}, {share:.0%}" if share else part.fluid)
    first = np.zeros(nodes + 1, dtype=np.int64)
    near: list[list[int]] = [[] for _ in range(nodes)]
    for index, link in enumerate(links):
        near[link.start].append(index)
        near[link.end].append(index)
    first[1:] = np.cumsum([len(rows) for rows in near])
    touching = np.array([index for rows in near for index in rows], dtype=np.int64)
    given_c = np.full(nodes, float(build.conditions.fresh_c))
    for link in links:
        source = build.parts.get(link.item)
        if isinstance(source, OutsideSource) and source.water_c is not None:
            given_c[link.start] = source.water_c
        said = build.conditions.at_c.get(link.item)
        if said is not None and link.way.start == WELL:
            given_c[link.start] = said
    heat = Heat(
        fluid=np.array([fluid_of.get(home[link.start], 0) for link in links], dtype=np.int64),
        kind=np.array([link.way.heat for link in links], dtype=np.int64),
        figures=figures,
        given_c=given_c,
        first=first,
        touching=touching,
        tables=np.array(tables),
    )
    return heat, tuple(names)


def _in_any_position(build: _Builder) -> list[tuple[int, int]]:
    """Give what parts join in one position or another: a limb that is shut off keeps its fluid."""
    return [
        (build.node[part.id, one], build.node[part.id, other])
        for part in build.parts.values()
        for at in part.positions
        for one, other in part.ways(at)
        if (part.id, one) in build.node and (part.id, other) in build.node
    ]


def _circuits(links: list[Link], nodes: int, also: Iterable[tuple[int, int]] = ()) -> list[int]:
    """Number the circuits: nodes joined by links, whatever stands open, and what else is."""
    return components(nodes, [*((link.start, link.end) for link in links), *also])


def _valves(build: _Builder) -> tuple[Valves, tuple[str, ...]]:
    legs: dict[str, dict[str, int]] = {}
    wide: dict[str, dict[str, int]] = {}
    capped: list[tuple[int, float]] = []
    stroked: list[tuple[int, float]] = []
    for index, link in enumerate(build.links):
        part = build.parts.get(link.item)
        if isinstance(part, ThermostaticMixer | ManualMixer) and not link.is_run:
            legs.setdefault(link.item, {})[link.way.role] = index
        elif link.way.role in {"wide", "regulated"}:
            wide.setdefault(link.item, {})[link.way.role] = index
        elif link.way.law == laws.PUMP and isinstance(part, Pump):
            cap = part.cut_out_pa if part.control == "constant pressure" else None
            capped.append((index, cap if cap is not None else inf))
        elif link.way.law == laws.STROKE and isinstance(part, FootPump | HandPump):
            stroked.append((index, link.way.figures[0]))
    rows = []
    for part_id in legs:
        valve = build.parts[part_id]
        factor = known_or(getattr(valve, "flow_factor_si", None), 2e-4 / 1e5**0.5)
        if isinstance(valve, ThermostaticMixer):
            difference, band = known_or(valve.difference_k, 10.0), known_or(valve.band_k, 2.0)
            rows.append([valve.set_c, difference, factor, band, 1.0])
        else:
            rows.append([0.0, 10.0, factor, 2.0, 0.0])
    valves = Valves(
        legs=np.array([[pair["hot"], pair["cold"]] for pair in legs.values()], dtype=np.int64)
        .reshape(len(legs), 2),
        mixer=np.array(rows, dtype=np.float64).reshape(len(rows), 5),
        capped=np.array([row[0] for row in capped], dtype=np.int64),
        cap_pa=np.array([row[1] for row in capped], dtype=np.float64),
        stroked=np.array([row[0] for row in stroked], dtype=np.int64),
        stroke_m3=np.array([row[1] for row in stroked], dtype=np.float64),
        reducer=np.array([[pair["wide"], pair["regulated"]] for pair in wide.values()],
                         dtype=np.int64).reshape(len(wide), 2),
        set_pa=np.array([build.given[build.links[pair["regulated"]].start]
                         for pair in wide.values()], dtype=np.float64),
    )  # fmt: skip
    return valves, tuple(legs)


def refuse_unknown(circuit: Circuit, flows: np.ndarray[tuple[int], np.dtype[np.float64]]) -> None:
    """Refuse to give figures that hang on a value nobody knows.

    Parameters
    ----------
    circuit : Circuit
        Its links know what they lack. [-]
    flows : numpy.ndarray
        Mass flow of each of the links. [kg/s]

    Returns
    -------
    None
        If all that water passes is known. [-]

    Raises
    ------
    MissingValue
        Naming the first value that water would pass by.
    """
    for index in circuit.unsure:
        link = circuit.links[index]
        if abs(flows[index]) > 1e-7:
            name = link.way.unknown[0]
            piece = circuit.runs[link.item] if link.is_run else circuit.parts[link.item]
            title = type(piece).model_fields[name].title or name
            group = "runs" if link.is_run else "parts"
            raise MissingValue(
                path=f"{group}.{link.item}.{name}", part_name=link.label, label=title.lower()
            )
