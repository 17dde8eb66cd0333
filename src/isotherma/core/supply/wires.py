"""The tree of wires from battery, hook-up and inverter to what takes: volts and amps of each."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.fields import known_or
from isotherma.core.graph import reach
from isotherma.core.supply.feeds import LOW_VOLTS
from isotherma.core.supply.ohms import F_AMPS, F_OHM, F_VOLTS, settle_amps
from isotherma.core.system import AnyKind, PortRef
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.system.pieces import MAINS_V
from isotherma.core.system.runs import Cable

Floats = NDArray[np.float64]
Node = tuple[str, str]

# what passes electricity on, from which opening to which; the rest are sources or loads
PASSES: Final = (
    electric.Circuit, electric.Switch, electric.EitherOr, electric.Relay, electric.Remote,
)  # fmt: skip
# neither do these take anything: they pass on, or give
_NO_LOADS: Final = (
    *PASSES, electric.Charger, electric.PanelController, electric.Panel, electric.Alternator,
)  # fmt: skip
_SURPLUS: Final = ("load", "surplus")


@dataclass(frozen=True, slots=True)
class Fed:
    """What reaches a load: volts at its ends, its amps, volts at the source, its switch shut."""

    volts: float
    amps: float
    source_v: float

    @property
    def lost_w(self) -> float:
        """Watts that stay in the wires for it [W]."""
        return (self.source_v - self.volts) * self.amps


@dataclass(frozen=True, slots=True)
class Wires:
    """Loads that hang on wires, in a state.

    `ids` are theirs, `source_v` the volts their source gives [V], `ohm` what each loses for an
    amp of another [Ω]; `dead` hang on wires that an open switch cuts off; `unmeasured` are cables
    whose resistance nobody knows, taken as none.
    """

    ids: tuple[str, ...]
    source_v: Floats
    ohm: Floats
    dead: frozenset[str]
    unmeasured: tuple[str, ...]

    def row(self, part_id: str) -> int | None:
        """Give a load's row; None where no wire feeds it."""
        return self.ids.index(part_id) if part_id in self.ids else None

    def settled(
        self, ohms: Mapping[str, float], amps: Mapping[str, float] | None = None
    ) -> dict[str, Fed]:
        """Give volts and amps of loads that are on together.

        Parameters
        ----------
        ohms : mapping of str to float
            Loads that follow their volts, > 0. [Ω]
        amps : mapping of str to float or None
            Loads that take their amps whatever the volts. [A]

        Returns
        -------
        dict of str to Fed
            Of those that hang on wires. [V, A]

        References
        ----------
        Ohm's and Kirchhoff's laws, see `ohms.settle_amps`.
        """
        takes = amps or {}
        loads = np.zeros((len(self.ids), 4))
        on = np.zeros(len(self.ids))
        for row, key in enumerate(self.ids):
            loads[row, F_VOLTS] = self.source_v[row]
            if key in ohms:
                loads[row, F_OHM], on[row] = ohms[key], 1.0
            elif key in takes:
                loads[row, F_AMPS], on[row] = takes[key], 1.0
        if not len(loads):
            return {}
        settle_amps(loads, self.ohm, on)
        lost = self.ohm @ loads[:, F_AMPS]
        return {
            key: Fed(max(0.0, float(self.source_v[row] - lost[row])), float(loads[row, F_AMPS]),
                     float(self.source_v[row]))
            for row, key in enumerate(self.ids) if on[row] > 0.0
        }  # fmt: skip

    def lost_v(self, part_id: str, amps: Mapping[str, float]) -> float:
        """Give the volts a load loses to others that take so many amps [V]."""
        row = self.row(part_id)
        if row is None:
            return 0.0
        return sum(
            float(self.ohm[row, other]) * takes
            for key, takes in amps.items()
            if (other := self.row(key)) is not None
        )


def source_volts(part: AnyKind, system: ComputedSystem) -> float | None:
    """Give the volts a source keeps up.

    Parameters
    ----------
    part : a kind of part
        Any. [-]
    system : System
        Its system. [-]

    Returns
    -------
    float or None
        A battery's own, else the system's, else 12; a pitch's, else 230; an inverter's 230; None
        for what is no source. [V]
    """
    if isinstance(part, electric.Battery):
        return known_or(part.volts_v, system.nominal_v)
    if isinstance(part, electric.HookUp):
        return figure(part, "volts_v")
    return MAINS_V if isinstance(part, electric.Inverter) else None


def element_ohm(part: heat.Element, source_v: float) -> float:
    """Give an element's resistance.

    Parameters
    ----------
    part : Element
        With what was understood of it. [-]
    source_v : float
        Volts at its source, for watts without volts. [V]

    Returns
    -------
    float
        As measured, or from its label; infinite where nobody knows its watts. [Ω]

    References
    ----------
    R = V²/P.
    """
    if part.resistance_ohm is not None:
        return part.resistance_ohm
    if part.rated_w is not None:
        return known_or(part.rated_v, source_v) ** 2 / part.rated_w
    return source_v**2 / part.power_w if part.power_w else np.inf


def wires_of(system: ComputedSystem, positions: Mapping[str, str]) -> Wires:
    """Follow every wire of a system in a state.

    Parameters
    ----------
    system : System
        With what was understood of its cables. [-]
    positions : mapping of str to str
        How circuits, switches and hook-ups stand. [-]

    Returns
    -------
    Wires
        Loads by what they lose for each other. [-]

    Notes
    -----
    Openings are nodes; what passes electricity on joins two of them without resistance, a cable
    with its own there and back and its contacts. With sources held, the inverse of the nodal
    conductances gives the volts lost at a node for an amp taken at another; so wires may also
    form a ring.

    References
    ----------
    Nodal analysis, any textbook of circuits.
    """
    cables = [run for run in system.runs if isinstance(run, Cable)]
    if not cables:
        return Wires((), np.zeros(0), np.zeros((0, 0)), frozenset(), ())
    parts = {part.id: part for part in system.parts}
    live = _Nodes(system, cables, parts, positions)
    whole = _Nodes(system, cables, parts, {})
    loads = [
        (part.id, node)
        for part in system.parts
        if source_volts(part, system) is None or isinstance(part, electric.Inverter)
        if not isinstance(part, _NO_LOADS)
        for node in [_opening(part)]
        if node in live.at
    ]  # fmt: skip
    reached = [
        (key, node, volts) for key, node in loads if (volts := live.volts_at(node)) is not None
    ]
    dead = frozenset(
        key for key, node in loads
        if live.volts_at(node) is None and whole.volts_at(node) is not None
    )  # fmt: skip
    return Wires(
        ids=tuple(key for key, _, _ in reached),
        source_v=np.array([volts for _, _, volts in reached]),
        ohm=live.between([node for _, node, _ in reached]),
        dead=dead,
        unmeasured=tuple(run.id for run in cables if run.loop_ohm is None),
    )


def way_ohm(system: ComputedSystem, positions: Mapping[str, str], load: str, source: str) -> float:
    """Give the resistance of the wires between a load and one source.

    Parameters
    ----------
    system : System
        With what was understood of its cables. [-]
    positions : mapping of str to str
        How circuits and switches stand. [-]
    load, source : str
        Ids of parts. [-]

    Returns
    -------
    float
        There and back; 0 where no wire joins them. [Ω]
    """
    cables = [run for run in system.runs if isinstance(run, Cable)]
    parts = {part.id: part for part in system.parts}
    nodes = _Nodes(system, cables, parts, positions, source)
    node = (load, "power")
    if node not in nodes.at or nodes.volts_at(node) is None:
        return 0.0
    return float(nodes.between([node])[0, 0])


BARE_OHM: Final = 1e-7  # of a cable nobody measured, so that its amps are known


def cable_amps(
    system: ComputedSystem, positions: Mapping[str, str], takes: Mapping[str, float]
) -> dict[str, tuple[float, float]]:
    """Give what every cable carries and loses.

    Parameters
    ----------
    system : System
        With what was understood of its cables. [-]
    positions : mapping of str to str
        How circuits, switches and hook-ups stand. [-]
    takes : mapping of str to float
        Amps of loads by part. [A]

    Returns
    -------
    dict of str to tuple of float
        By run: amps from its start to its end, and volts lost in it; what no source reaches is left
        out, and in a cable nobody measured nothing is lost. [A, V]

    References
    ----------
    Nodal analysis, any textbook of circuits.
    """
    cables = [run for run in system.runs if isinstance(run, Cable)]
    if not cables:
        return {}
    parts = {part.id: part for part in system.parts}
    nodes = _Nodes(system, cables, parts, positions, bare_ohm=BARE_OHM)
    pulled = {_opening(parts[key]): amps for key, amps in takes.items() if key in parts}
    found = nodes.flows(cables, pulled, BARE_OHM)
    known = {run.id for run in cables if _resists(run)}
    return {key: (amps, lost if key in known else 0.0) for key, (amps, lost) in found.items()}


def _opening(part: AnyKind) -> Node:
    """Give the opening by which a load is fed."""
    return part.id, "feed" if isinstance(part, electric.Inverter) else "power"


class _Nodes:
    """Openings that wires join, those without resistance between them as one."""

    def __init__(
        self, system: ComputedSystem, cables: list[Cable], parts: Mapping[str, AnyKind],
        positions: Mapping[str, str], source: str | None = None, bare_ohm: float = 0.0,
    ) -> None:  # fmt: skip
        self.at: dict[Node, int] = {}
        self._parent: list[int] = []
        self._split = _fed_by_two(system, cables, parts) if source is None else {}
        for run in cables:
            one, other = (self._node(*self.end_of(run, end)) for end in (run.start, run.end))
            if not (_resists(run) or bare_ohm):
                self._join(one, other)
        for part in parts.values():
            stands = positions.get(part.id)
            if isinstance(part, electric.EitherOr):
                # as a whole, whichever way it stands: both loads hang on what feeds it
                self._joined(part.id, ("feed", "first", "second") if stands is None
                             else ("feed", stands))  # fmt: skip
            elif isinstance(part, PASSES) and stands != "off":
                self._joined(part.id, ("feed", "load"))
            elif isinstance(part, electric.PanelController):
                self._joined(part.id, _SURPLUS)
        rooted = [self._root(node) for node in range(len(self._parent))]
        order = {root: row for row, root in enumerate(dict.fromkeys(rooted))}
        self.at = {key: order[rooted[node]] for key, node in self.at.items()}
        count = len(order)
        self._grid = np.zeros((count, count))
        near: list[set[int]] = [set() for _ in range(count)]
        for run in cables:
            ohm = _resists(run) or bare_ohm
            one, other = (self.at[self.end_of(run, end)] for end in (run.start, run.end))
            if ohm > 0.0 and one != other:
                self._grid[one, one] += 1.0 / ohm
                self._grid[other, other] += 1.0 / ohm
                self._grid[one, other] -= 1.0 / ohm
                self._grid[other, one] -= 1.0 / ohm
                near[one].add(other)
                near[other].add(one)
        self.held: dict[int, float] = {}
        for part in parts.values():
            volts = source_volts(part, system)
            if source is not None:
                volts = 1.0 if part.id == source else None
            port = "power" if isinstance(part, electric.Battery) else "load"
            node = self.at.get((part.id, port))
            stands = positions.get(part.id)
            if volts is not None and node is not None and stands not in ("off", "unplugged"):
                self.held.setdefault(node, volts)
        self._volts: dict[int, float] = {}
        for start, volts in self.held.items():
            waiting = [start]
            while waiting:
                node = waiting.pop()
                if node not in self._volts:
                    self._volts[node] = volts
                    waiting += near[node]
        self._between: Floats | None = None

    def end_of(self, run: Cable, end: PortRef) -> Node:
        """Give the opening a cable ends at; what two kinds of source feed has one for each."""
        return self._split.get((run.id, end.part), (end.part, end.port))

    def _node(self, part_id: str, port: str) -> int:
        key = (part_id, port)
        if key not in self.at:
            self.at[key] = len(self._parent)
            self._parent.append(len(self._parent))
        return self.at[key]

    def _root(self, node: int) -> int:
        while self._parent[node] != node:
            self._parent[node] = self._parent[self._parent[node]]
            node = self._parent[node]
        return node

    def _join(self, one: int, other: int) -> None:
        self._parent[self._root(one)] = self._root(other)

    def _joined(self, part_id: str, ports: Iterable[str]) -> None:
        nodes = [self.at[part_id, port] for port in ports if (part_id, port) in self.at]
        for other in nodes[1:]:
            self._join(nodes[0], other)

    def volts_at(self, node: Node) -> float | None:
        """Give the volts of the source that feeds a node; None where none does [V]."""
        return self._volts.get(self.at[node])

    def flows(
        self, cables: list[Cable], takes: Mapping[Node, float], bare_ohm: float
    ) -> dict[str, tuple[float, float]]:
        """Give amps from start to end and volts lost of every cable a source reaches [A, V].

        References
        ----------
        Nodal analysis, any textbook of circuits.
        """
        free = [row for row in self._volts if row not in self.held]
        place = {row: at for at, row in enumerate(free)}
        volts = dict(self.held)
        if free:
            pulled = np.zeros(len(free))
            for node, amps in takes.items():
                row = self.at.get(node)
                if row in place:
                    pulled[place[row]] -= amps
            for row, held in self.held.items():
                pulled -= self._grid[free, row] * held
            settled = np.linalg.solve(self._grid[np.ix_(free, free)], pulled)
            volts |= dict(zip(free, settled.tolist(), strict=True))
        found = {}
        for run in cables:
            one, other = (self.at[self.end_of(run, end)] for end in (run.start, run.end))
            if one in volts and other in volts:
                lost = volts[one] - volts[other]
                found[run.id] = (lost / (_resists(run) or bare_ohm), lost)
        return found

    def between(self, nodes: list[Node]) -> Floats:
        """Give the volts lost at one node for each amp at another [Ω]."""
        free = [row for row in self._volts if row not in self.held]
        rows = [self.at[node] for node in nodes]
        inverse = np.linalg.inv(self._grid[np.ix_(free, free)]) if free else np.zeros((0, 0))
        place = {row: at for at, row in enumerate(free)}
        found = np.zeros((len(rows), len(rows)))
        for i, one in enumerate(rows):
            for j, other in enumerate(rows):
                if one in place and other in place:
                    found[i, j] = inverse[place[one], place[other]]
        return found


def _fed_by_two(
    system: ComputedSystem, cables: list[Cable], parts: Mapping[str, AnyKind]
) -> dict[tuple[str, str], Node]:
    """Part the openings of what hangs on mains and on low volts, as a combi does, by cable.

    The fan, valves and boards of such a part run on the low side; its mains element is counted
    where it heats.
    """
    near: dict[str, list[Cable]] = {}
    for run in cables:
        near.setdefault(run.start.part, []).append(run)
        near.setdefault(run.end.part, []).append(run)
    found: dict[tuple[str, str], Node] = {}
    for key, runs in near.items():
        part = parts.get(key)
        takes = part is not None and source_volts(part, system) is None
        if len(runs) < 2 or not takes or isinstance(part, _NO_LOADS):
            continue
        low: list[Cable] = []
        high: list[Cable] = []
        for run in runs:
            begins = run.start.part if run.end.part == key else run.end.part
            reached = _reached_volts(begins, key, near, parts, system)
            (high if reached and min(reached) > LOW_VOLTS else low).append(run)
        if low and high:
            port = low[0].end.port if low[0].end.part == key else low[0].start.port
            found |= {(run.id, key): (key, f"{port}, mains") for run in high}
    return found


def _reached_volts(
    begins: str, load: str, near: Mapping[str, list[Cable]], parts: Mapping[str, AnyKind],
    system: ComputedSystem,
) -> set[float]:  # fmt: skip
    """Give the volts of the sources that a cable of a load leads to, switched on or not."""

    def beyond(at: str) -> Iterator[str]:
        part = parts.get(at)
        if isinstance(part, PASSES):
            for run in near.get(at, ()):
                other = run.end.part if run.start.part == at else run.start.part
                if other != load:
                    yield other

    reached = (parts[key] for key in reach([begins], beyond) if key in parts)
    volts = (source_volts(part, system) for part in reached)
    return {one for one in volts if one is not None}


def _resists(run: Cable) -> float:
    """Give a cable's resistance with its contacts; nothing where nobody knows the copper [Ω]."""
    if run.loop_ohm is None:
        return 0.0
    return run.loop_ohm + figure(run, "contacts_ohm")
