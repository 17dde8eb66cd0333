"""The networks a system runs as: pumps by their rules, flows of what is open, who sees what."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Brief, Draw
from isotherma.core.climate import Climate
from isotherma.core.engine.columns import Flowing
from isotherma.core.engine.record import Carried
from isotherma.core.fields import known_or
from isotherma.core.flows.circuit import Circuit, Laid, make_circuit
from isotherma.core.flows.fittings import Conditions
from isotherma.core.flows.loads import volts_of_pumps
from isotherma.core.flows.pulse import Point, operate_once
from isotherma.core.flows.surroundings import surroundings
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import Net
from isotherma.core.kept import Kept
from isotherma.core.supply.wires import element_ohm, wires_of
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat, primary, temperature
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.stands import positions
from isotherma.core.system.states import Position
from isotherma.core.system.states import State as Standing
from isotherma.core.system.understood import settled

Floats = NDArray[np.float64]

HAND_LAG_S: Final = 8.0  # between two nudges; judgement
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
    out: frozenset[Carried] = frozenset()
    loops: frozenset[str] = frozenset()
    stopped: frozenset[str] = frozenset()
    beside: frozenset[str] = frozenset()

    def key(self) -> tuple[object, ...]:
        """Give what two modes that run alike have in common."""
        return (
            self.called, self.drawing, self.engine, self.out, self.loops, self.stopped,
            self.beside,
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Lasting:
    """What of a circuit does not change while it runs; it holds the circuit, so its id lasts."""

    circuit: Circuit
    lag: Floats
    mixer: Floats
    given_c: Floats
    fixed_pa: Floats
    tanks: tuple[tuple[moved.FreshTank, int], ...]


class Circuits:
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
        self.known = settled(system)
        self.wires = wires_of(self.known, positions(self.known, standing))
        self.whole = wires_of(self.known, {})
        self._kettle = any(isinstance(part, heat.Kettle) for part in system.parts)
        self._by_mode: dict[tuple[object, ...], Circuit] = {}
        self._laid: Laid = {}
        self._by_positions: dict[tuple[object, ...], Circuit] = {}
        self._points: dict[tuple[object, ...], Point] = {}
        self._lasting: dict[int, _Lasting] = {}
        self._seen: dict[tuple[int, str], tuple[int, int, int, int]] = {}

    def of(self, mode: Mode) -> Circuit:
        """Give the network as it runs in a mode.

        Parameters
        ----------
        mode : Mode
            What is called for, pressed, ended and blown. [-]

        Returns
        -------
        Circuit
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
                self._by_positions[stands] = make_circuit(
                    self.system, state, self.conditions, known=self.known, laid=self._laid,
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
            for part in self.known.parts
            if part.id in beside and isinstance(part, heat.Element)
            if (row := self.wires.row(part.id)) is not None
        }
        at = positions(self.known, self.standing)
        return volts_of_pumps(self.known, at, wires=self.wires, ohms=ohms)

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
        circuit = self.of(mode)  # kept as long as this, so its id is its own
        key = (id(circuit), tuple(opens.items()))
        if key not in self._points:
            self._points[key] = operate_once(circuit, opens)
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
        link = point.solved.circuit.ends[outlet]
        full = float(point.solved.litres[link])
        wanted = draw.flow_m3_per_s
        if wanted is None or full <= wanted:
            return 1.0, None
        opening = wanted / full
        for _ in range(6):
            point = self.point(mode, {outlet: min(1.0, max(0.01, opening))})
            now = float(point.solved.litres[link])
            if abs(now - wanted) < 0.003 * wanted:
                break
            opening *= wanted / max(now, 0.1 * wanted)
        return min(1.0, max(0.01, opening)), wanted

    def flowing(
        self,
        point: Point,
        shift_k: Callable[[moved.FreshTank], float],
        nudged_c: Mapping[str, float] | None = None,
    ) -> Flowing:
        """Give the kernel a network with its flows, to write on.

        Parameters
        ----------
        point : Point
            Where flows settle. [-]
        shift_k : callable
            What a fresh tank now is above its mean. [K]
        nudged_c : mapping of str to float or None
            What hands steer mixers to, by outlet. [°C]

        Returns
        -------
        Flowing
            Arrays of its own where they change. [see columns]
        """
        solved, circuit = point.solved, point.solved.circuit
        kept = self._lasting.get(id(circuit))
        if kept is None:
            kept = self._lasting[id(circuit)] = self._last(circuit)
        lag, mixer, given = kept.lag.copy(), kept.mixer, kept.given_c.copy()
        if nudged_c:
            mixer = mixer.copy()
        for outlet, celsius in (nudged_c or {}).items():  # a hand is slower than a valve
            for at in np.flatnonzero(mixer[:, 4] == 0.0).tolist():
                if _reaches(circuit, circuit.mixers[at], outlet):
                    mixer[at, :2], mixer[at, 4], lag[at] = (celsius, 0.5), 1.0, HAND_LAG_S
        for tank, node in kept.tanks:
            given[node] += shift_k(tank)
        return Flowing(
            shut=solved.shut.copy(), flow=solved.mass.copy(), pressure=solved.state.pressure.copy(),
            parameters=solved.state.parameters.copy(),
            fixed=kept.fixed_pa, outflow=solved.state.outflow.copy(),
            fluid=circuit.heat.fluid, tables=circuit.heat.tables, given_c=given,
            legs=circuit.valves.legs, mixer=mixer, lag=lag, reducer=circuit.valves.reducer,
        )  # fmt: skip

    def _last(self, circuit: Circuit) -> _Lasting:
        """Gather what of a circuit stays the same from one stretch of flow to the next."""
        count = len(circuit.mixers)
        lag = np.ones(2 * count)
        for row, part_id in enumerate(circuit.mixers):
            lag[row] = known_or(getattr(circuit.parts[part_id], "lag_s", None), 2.0)
        given = np.array(circuit.heat.given_c, dtype=np.float64)
        for link in circuit.links:
            part = circuit.parts.get(link.item)
            if isinstance(part, moved.GravityBag) and self._kettle:
                given[link.start] = max(BAG_C, self.conditions.fresh_c)
        tanks = []
        for part in circuit.parts.values():
            node = circuit.node.get((part.id, "outlet"))
            if isinstance(part, moved.FreshTank) and node is not None and circuit.net.given[node]:
                tanks.append((part, node))
        return _Lasting(
            circuit, lag, circuit.valves.mixer, given,
            np.array(circuit.fixed, dtype=np.float64), tuple(tanks),
        )  # fmt: skip

    def sees(self, circuit: Circuit, outlet: str) -> tuple[int, int, int, int]:
        """Give the links of an outlet and of its mixer's legs, and the mixer.

        Parameters
        ----------
        circuit : Circuit
            One of these. [-]
        outlet : str
            Part id. [-]

        Returns
        -------
        tuple of int
            Links of head, hot and cold leg, row of the mixer; -1 where none is. [-]
        """
        key = (id(circuit), outlet)
        if key not in self._seen:
            head = circuit.ends[outlet]
            self._seen[key] = head, -1, -1, -1
            for row, part_id in enumerate(circuit.mixers):
                if _reaches(circuit, part_id, outlet):
                    hot, cold = circuit.valves.legs[row]
                    self._seen[key] = head, int(hot), int(cold), row
                    break
        return self._seen[key]


_made: Kept[Circuits] = Kept(24)


def circuits_of(
    brief: Brief, system: System, standing: Standing | None, climate: Climate
) -> Circuits:
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
    Circuits
        Shared with other runs, so it is only read and added to. [-]
    """
    around = surroundings(brief, system, standing, climate)
    # what is kept holds both documents, so while it is kept their ids are their own
    key = (id(system), id(standing), around.fresh_c, tuple(around.at_c.items()))
    return _made.once(key, lambda: Circuits(system, standing, around))


def held_back(point: Point, flowing: Flowing, limits: Mapping[str, float]) -> Net:
    """Give the network of draws; a hand keeps each flow where it is wanted.

    Parameters
    ----------
    point : Point
        Where flows settle. [-]
    flowing : Flowing
        Of that point; its parameters are written to. [see columns]
    limits : mapping of str to float
        Wanted flows by outlet. [m³/s]

    Returns
    -------
    Net
        With limits in the place of those outlets. [-]
    """
    net = point.solved.circuit.net
    if not limits:
        return net
    law = net.law.copy()
    for outlet, wanted in limits.items():
        link = point.solved.circuit.ends[outlet]
        law[link] = laws.LIMIT
        flowing.parameters[link, :2] = net.parameters[link, 0], wanted
    return net._replace(law=law)


def heat_ways(circuit: Circuit, net: Net) -> Net:
    """Join the two sides of reducers: their water passes, though their pressures do not.

    Parameters
    ----------
    circuit : Circuit
        Whose reducers. [-]
    net : Net
        Its network, limits and all. [-]

    Returns
    -------
    Net
        As heat goes through it. [-]
    """
    start = net.start.copy()
    for wide, regulated in circuit.valves.reducer:
        start[regulated] = net.start[wide]
    return net._replace(start=start)


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


def _reaches(circuit: Circuit, mixer: str, outlet: str) -> bool:
    """Say whether a mixer's water gets to an outlet."""
    start = circuit.node.get((mixer, "outlet"))
    goal = circuit.links[circuit.ends[outlet]].start
    legs = set(circuit.ways[mixer])
    seen, waiting = {start}, [start]
    while waiting:
        node = waiting.pop()
        if node == goal:
            return True
        for index, link in enumerate(circuit.links):
            if index in legs or node not in (link.start, link.end):
                continue
            other = link.end if link.start == node else link.start
            if other not in seen and not circuit.net.given[other]:
                seen.add(other)
                waiting.append(other)
    return False
