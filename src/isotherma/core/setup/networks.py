"""The networks a system runs as: pumps by their rules, flows of what is open, who sees what."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core import graph
from isotherma.core.brief import Brief, Draw
from isotherma.core.cache import CORE, Cache
from isotherma.core.climate import Climate
from isotherma.core.flows.fittings import Conditions
from isotherma.core.flows.loads import volts_of_pumps
from isotherma.core.flows.network_compiler import CompiledNetwork, Laid, compile_network
from isotherma.core.flows.pulse import Point, operate_once
from isotherma.core.flows.surroundings import surroundings
from isotherma.core.graph import both_ways
from isotherma.core.supply.wires import element_ohm, wires_of
from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import heat, primary, temperature
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.nominal import computed
from isotherma.core.system.states import Position
from isotherma.core.system.states import State as Standing
from isotherma.core.timeline.record import InventoryKind

BAG_C: Final = 40.0  # a bag somebody filled from a kettle
# what stands when the battery is empty; a reuse loop's pump and a combi's board are asked apart
ON_BATTERY: Final = (
    moved.Pump, moved.Submersible, primary.CirculationPump, temperature.LoopPump,
    heat.LiquidHeater,
)  # fmt: skip


@dataclass(slots=True)
class Mode:
    """A way the network runs: heat called for, somebody washing, engine hot, loop pumps on.

    `out`: what carried has ended, and what hangs on it stands; `stopped`: what stands for a fuse;
    `beside`: elements that are on and share wires with a pump.
    """

    called: bool = False
    drawing: bool = False
    engine: bool = False
    out: frozenset[InventoryKind] = frozenset()
    loops: frozenset[str] = frozenset()
    stopped: frozenset[str] = frozenset()
    beside: frozenset[str] = frozenset()

    def key(self) -> tuple[object, ...]:
        """Give what two modes that run alike have in common."""
        return (
            self.called, self.drawing, self.engine, self.out, self.loops, self.stopped,
            self.beside,
        )  # fmt: skip


class Networks:
    """The networks of a system in a state, made when first asked for and kept.

    Parameters
    ----------
    system : System
        As it was entered. [-]
    standing : State or None
        Positions of valves and couplings; None: everything as usual. [-]
    conditions : Conditions
        What it stands in. [-]
    """

    def __init__(self, system: System, standing: Standing | None, conditions: Conditions) -> None:
        self.system, self.standing, self.conditions = system, standing, conditions
        self.computed = computed(system)
        self.wires = wires_of(self.computed, positions(self.computed, standing))
        self.whole = wires_of(self.computed, {})
        self._by_mode: dict[tuple[object, ...], CompiledNetwork] = {}
        self._laid: Laid = {}
        self._by_positions: dict[tuple[object, ...], CompiledNetwork] = {}
        self._points: dict[tuple[object, ...], Point] = {}
        self._seen: dict[tuple[CompiledNetwork, str], tuple[int, int, int, int]] = {}

    def of(self, mode: Mode) -> CompiledNetwork:
        """Give the network as it runs in a mode.

        Parameters
        ----------
        mode : Mode
            What is called for, pressed, ended and blown. [-]

        Returns
        -------
        CompiledNetwork
            The same for modes that run alike. [-]
        """
        key = mode.key()
        if key not in self._by_mode:
            base = self.standing or Standing(id="usual", name="As usual")
            put = {item.part: item.at for item in base.positions}
            for part in self.system.parts:
                if put.get(part.id) != "off":
                    at = _position(part, mode)
                    if at is not None:
                        put[part.id] = at
            # of several modes the same: most pumps heed one thing
            stands = tuple(put.items()), mode.beside
            if stands not in self._by_positions:
                stood = tuple(Position(part=key, at=at) for key, at in stands[0])
                state = base.model_copy(update={"positions": stood})
                self._by_positions[stands] = compile_network(
                    self.system, state, self.conditions, known=self.computed, laid=self._laid,
                    pump_v=self._volts(mode.beside),
                )  # fmt: skip
            self._by_mode[key] = self._by_positions[stands]
        return self._by_mode[key]

    def _volts(self, beside: frozenset[str]) -> dict[str, float]:
        """Give the volts that reach pumps with such elements on beside them."""
        if not self.wires.ids:
            return {}
        ohms = {
            part.id: element_ohm(part, float(self.wires.source_v[row]))
            for part in self.computed.parts
            if part.id in beside and isinstance(part, heat.Element)
            if (row := self.wires.row(part.id)) is not None
        }
        at = positions(self.computed, self.standing)
        return volts_of_pumps(self.computed, at, wires=self.wires, ohms=ohms)

    def point(self, mode: Mode, opens: Mapping[str, float]) -> Point:
        """Give where flows settle; the same each time, so kept.

        Parameters
        ----------
        mode : Mode
            As the network runs. [-]
        opens : mapping of str to float
            How far outlets are open, by id. [-]

        Returns
        -------
        Point
            Flows and pressures. [-]
        """
        network = self.of(mode)
        key = (network, tuple(opens.items()))
        if key not in self._points:
            self._points[key] = operate_once(network, opens)
        return self._points[key]

    def throttled(self, mode: Mode, draw: Draw, outlet: str) -> tuple[float, float | None]:
        """Find how far an outlet is opened for the flow that is wanted.

        Parameters
        ----------
        mode : Mode
            As the network runs. [-]
        draw : Draw
            What somebody asks for. [-]
        outlet : str
            Part id. [-]

        Returns
        -------
        float, float or None
            The opening, and the flow wanted; None where all there is is wanted. [-, m³/s]
        """
        point = self.point(mode, {outlet: 1.0})
        link = point.solved.network.ends[outlet]
        full = float(point.solved.flow_m3_per_s[link])
        wanted = draw.flow_m3_per_s
        if wanted is None or full <= wanted:
            return 1.0, None
        opening = wanted / full
        for _ in range(6):
            point = self.point(mode, {outlet: min(1.0, max(0.01, opening))})
            now = float(point.solved.flow_m3_per_s[link])
            if abs(now - wanted) < 0.003 * wanted:
                break
            opening *= wanted / max(now, 0.1 * wanted)
        return min(1.0, max(0.01, opening)), wanted

    def sees(self, network: CompiledNetwork, outlet: str) -> tuple[int, int, int, int]:
        """Give the links of an outlet and of its mixer's legs, and the mixer.

        Parameters
        ----------
        network : CompiledNetwork
            One of these. [-]
        outlet : str
            Part id. [-]

        Returns
        -------
        tuple of int
            Links of head, hot and cold leg, row of the mixer; -1 where none is. [-]
        """
        key = (network, outlet)
        if key not in self._seen:
            head = network.ends[outlet]
            self._seen[key] = head, -1, -1, -1
            for row, part_id in enumerate(network.mixers):
                if mixes_for(network, part_id, outlet):
                    hot, cold = network.valves.legs[row]
                    self._seen[key] = head, int(hot), int(cold), row
                    break
        return self._seen[key]


NETWORKS_BYTES: Final = 600_000  # with their modes and settled flows; measured on Folio
# of systems that are run again and again: another day, another draw, another state
_made: Cache[Networks] = Cache(CORE, "networks", lambda _: NETWORKS_BYTES)


def networks_of(
    brief: Brief, system: System, standing: Standing | None, climate: Climate
) -> Networks:
    """Give the networks of a system; another day of the same system has the same.

    Parameters
    ----------
    brief : Brief
        For what is around the system. [-]
    system : System
        As it was entered. [-]
    standing : State or None
        Positions of valves and couplings; None: everything as usual. [-]
    climate : Climate
        Air around the vehicle. [-]

    Returns
    -------
    Networks
        Shared with other runs, so it is only read and added to. [-]
    """
    around = surroundings(brief, system, standing, climate)
    stands = standing.digest if standing is not None else ""
    key = (system.digest, stands, around.fresh_c, tuple(around.at_c.items()),
           tuple(around.air_w_per_k.items()))  # fmt: skip
    return _made.once(key, lambda: Networks(system, standing, around))


def _position(part: AnyKind, mode: Mode) -> str | None:
    """Say how a part that heeds the mode stands in it; None for all others."""
    if part.id in mode.stopped or ("battery" in mode.out and isinstance(part, ON_BATTERY)):
        return "off"
    if isinstance(part, primary.CirculationPump):
        runs = mode.drawing if part.runs == "by hand" else mode.called
        return "on" if runs or part.runs == "always" else "off"
    if isinstance(part, heat.LiquidHeater):
        return "ready" if mode.called and "diesel" not in mode.out else "off"
    if isinstance(part, heat.EngineCoolant):
        return "on" if mode.engine else "off"
    if isinstance(part, temperature.LoopPump):
        return "on" if part.id in mode.loops else "off"
    return None


def mixes_for(network: CompiledNetwork, mixer: str, outlet: str) -> bool:
    """Say whether a mixer's water gets to an outlet.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    mixer, outlet : str
        Part ids. [-]

    Returns
    -------
    bool
        Whether a way leads there that does not go back through the mixer. [-]
    """
    start = network.node.get((mixer, "outlet"))
    goal = network.links[network.ends[outlet]].start
    legs = set(network.part_links[mixer])
    near = both_ways(
        (link.start, link.end) for index, link in enumerate(network.links) if index not in legs
    )
    return start is not None and graph.reaches(
        [start],
        lambda node: (other for other in near.get(node, ()) if not network.net.given[other]),
        lambda node: node == goal,
    )
