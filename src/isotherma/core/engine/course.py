"""The course of a day: draws one after the other, rest and heating between, loops by their rule."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from copy import copy
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Brief, Draw
from isotherma.core.climate import Climate
from isotherma.core.engine import kernel
from isotherma.core.engine.bodies import Named, make_bodies
from isotherma.core.engine.columns import (
    AIR_C,
    B_AIR,
    B_KIND,
    B_WATTS,
    GONE_C,
    HELD,
    LOOP_HEATER,
    S_ALLOWED,
    S_HYSTERESIS,
    S_SET,
    S_SHARES,
    S_VESSEL,
    S_WATTS,
    Bodies,
)
from isotherma.core.engine.fuses import Fuses
from isotherma.core.engine.kernel import (
    CALLED,
    LOG_FULL,
    Flowing,
    State,
)
from isotherma.core.engine.needs import refuse_missing
from isotherma.core.engine.record import Balance, Carried, Day, Drawn, Stretch, merged
from isotherma.core.engine.supplies import Levels, Supplies, full_levels
from isotherma.core.engine.taking import NET_J_PER_KG, Takers
from isotherma.core.engine.washing import MOVING, REST, wash
from isotherma.core.flows.circuit import Circuit, Laid, make_circuit
from isotherma.core.flows.pulse import Point, operate_once
from isotherma.core.flows.surroundings import surroundings
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import Net
from isotherma.core.supply.hours import Hours, battery_side
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat, primary, temperature
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.moves import Move, moves
from isotherma.core.system.states import Position
from isotherma.core.system.states import State as Standing
from isotherma.core.system.understood import settled
from isotherma.core.thermal.mixer import HOT_STOP

Floats = NDArray[np.float64]

FINE_S: Final = 0.25
SEGMENT_S: Final = 300.0
LONGEST_QUEUE_S: Final = 3 * 3600.0
QUEUE_STEP_S: Final = 60.0
HAND_LAG_S: Final = 8.0  # between two nudges; judgement
# what stands when the battery is empty; a reuse loop's pump and a combi's board are asked apart
ON_BATTERY: Final = (
    moved.Pump, moved.Submersible, primary.CirculationPump, temperature.LoopPump,
    heat.LiquidHeater,
)  # fmt: skip
WATCHED_S: Final = 60.0  # between looks at levels near the hour one of them ends
BAG_C: Final = 40.0  # a bag somebody filled from a kettle


@dataclass(slots=True)
class _Mode:
    """A way the network runs: heat called for, somebody washing, engine hot, loop pumps on.

    `out`: what carried has ended, and what hangs on it stands; `stopped`: what stands for a fuse.
    """

    called: bool = False
    drawing: bool = False
    engine: bool = False
    out: frozenset[Carried] = frozenset()
    loops: frozenset[str] = frozenset()
    stopped: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class _Lasting:
    """What of a circuit does not change while it runs; it holds the circuit, so its id lasts."""

    circuit: Circuit
    lag: Floats
    mixer: Floats
    given_c: Floats
    fixed_pa: Floats
    tanks: tuple[tuple[moved.FreshTank, int], ...]


@dataclass(frozen=True, slots=True)
class _Slot:
    """What the clock says until its next edge: air around things [°C], charge and loads [W]."""

    edge_s: float
    vessel_c: Floats
    pool_c: Floats
    stirred_c: Floats
    pipe_c: Floats
    charge_w: float
    standing_w: float
    air_c: float


class Course:
    """A system in a state under a brief, ready to run days."""

    def __init__(
        self,
        brief: Brief,
        system: System,
        standing: Standing | None,
        climate: Climate,
        fine_s: float = FINE_S,
    ) -> None:
        self.fine_s = self._finest_s = fine_s
        self.brief, self.system, self.standing, self.climate = brief, system, standing, climate
        self.conditions = surroundings(brief, system, standing, climate)
        self._circuits: dict[tuple[object, ...], Circuit] = {}
        self._laid: Laid = {}
        self._standing: dict[tuple[tuple[str, str], ...], Circuit] = {}
        self._points: dict[tuple[object, ...], Point] = {}
        self._fixed: dict[int, _Lasting] = {}
        self._watching: dict[tuple[int, str], tuple[int, int, int, int]] = {}
        self._known = settled(system)
        self.fuses = Fuses(self._known)
        self.mode = _Mode(stopped=self.fuses.stands)
        self.loops = [part for part in system.parts if isinstance(part, temperature.LoopPump)]
        self.circuit = self._circuit()
        refuse_missing(self.circuit)
        known = system.model_copy(update={"parts": tuple(self.circuit.parts.values())})
        self.hours = Hours.of(brief, known, climate, self.circuit.at)
        self._on_battery = tuple(
            part.id
            for part in self.circuit.parts.values()
            if isinstance(part, heat.Element) and battery_side(known, part)
        )
        self.takers = Takers(self.circuit.parts, known, system.volts_v)
        self.supplies = Supplies(
            self.takers,
            full_levels(self.circuit.parts.values(), climate.air_c, self.hours.usable_j),
        )
        self._watched = (0.0, 0.0)
        self.space_of = self._spaces()
        self.air = {key: self.hours.space_c(at, 0.0) for key, at in self.space_of.items()}
        hot_c = max([self.conditions.fresh_c + 5.0, *self._settings()])
        self.mode.called = self.mode.engine = True  # heaters of loops as they burn
        lit = self._circuit()
        self.mode.called = self.mode.engine = False
        assert [link.item for link in lit.links] == [link.item for link in self.circuit.links]
        self.named: Named = make_bodies(
            lit, air_c=self.air, usual_c=max(brief.inside_c, climate.air_c), hot_c=hot_c
        )
        bodies, links = self.named.bodies, self.circuit.links
        self._runs = [links[int(row[7])].item for row in bodies.pipe]
        self._engines = [
            (int(bodies.slot[link]), part)
            for link in np.flatnonzero(bodies.act == HELD).tolist()
            if isinstance(part := self.circuit.parts.get(links[link].item), heat.EngineCoolant)
        ]
        entered = {part.id: part for part in system.parts}
        for slot, engine in self._engines:
            # what is usual is spared at cruising for hours; a block at 85 °C carries a wash
            # from its own heat, so only an entered figure holds it back
            bodies.air[slot, 1] = getattr(entered[engine.id], "heat_w", None) or 0.0
        self._coiled = len(bodies.coil) > 0
        self._always = any(
            isinstance(part, primary.CirculationPump) and part.runs == "always"
            for part in self.circuit.parts.values()
        )
        self._slots: dict[float, _Slot] = {}
        self._gated = [
            (index, key) for index, key in enumerate(self.named.sources)
            if index not in self.named.calls and isinstance(
                self.circuit.parts[key], heat.SunContainer | heat.Combi | heat.Element | heat.Burner
            )
        ]  # fmt: skip
        bodies = self.named.bodies._replace(
            fuse=self.fuses.rows(), wired=self.fuses.wired(self.named.sources, self.circuit.parts)
        )
        self.named = replace(self.named, bodies=bodies)
        self._pitch_w = limit_w = self.hours.pitch_limit_w()
        for row, part_id in zip(bodies.source, self.named.sources, strict=True):
            if limit_w is not None and self.hours.on_pitch(self.circuit.parts[part_id]):
                row[S_SHARES] = 0.0
        self._fire_w = bodies.stirred[:, B_WATTS].copy()
        self._combi_w = {
            key: float(row[S_WATTS])
            for key, row in zip(self.named.sources, bodies.source, strict=True)
        }
        self.state = self._filled()
        self.trial = _copied(self.state)
        self.shown = self._shown(self._largest())
        self._elsewhere: dict[str, Course] = {}
        self._morning: tuple[float, dict[str, tuple[State, Floats]]] | None = None
        self._still = np.zeros(len(self.circuit.links))
        self.clock = 0.0
        self.log: list[Floats] = []
        self.pumped: dict[str, float] = {}
        self.stretches: list[Stretch] = []
        self._began = self._marks()
        self._edge = 0.0

    @property
    def blown(self) -> tuple[str, ...]:
        """Fuses that have blown, as far as was run."""
        return self.fuses.blown(self.named.bodies.fuse)

    def _heed_fuses(self) -> None:
        """Let what hangs on a blown fuse stand."""
        self.mode.stopped = self.fuses.stopped(self.named.bodies.fuse)

    def _load_fuses(self, circuit: Circuit, flowing: Flowing) -> None:
        """Say what runs on the fuses beside elements while water moves so."""
        pumping = frozenset(
            pump
            for pump, link in circuit.pumps.items()
            if abs(flowing.flow[link]) > kernel.STILL_KG_PER_S
        )
        lit = {
            part_id: bool(now[kernel.PHASE] == kernel.BURNING)
            for part_id, now in zip(self.named.stirred, self.state.stirred, strict=True)
            if now[kernel.WANTED] > 0.0
        }
        self.fuses.carry(self.named.bodies.fuse, pumping, lit)

    def _settings(self) -> list[float]:
        return [
            float(part.set_c)
            for part in self.circuit.parts.values()
            if isinstance(part, heat.Element | heat.Burner | heat.Combi | heat.Thermostat)
        ] + [60.0 for part in self.circuit.parts.values() if isinstance(part, heat.Coil)]

    def _spaces(self) -> dict[str, str | None]:
        """Say where every part and run is in this state."""
        moved_to = {}
        if self.standing is not None:
            moved_to = {item.part: item.space for item in self.standing.placed}
        return {
            piece.id: moved_to.get(piece.id, piece.space)
            for piece in (*self.system.parts, *self.system.pipes)
        }

    def _circuit(self) -> Circuit:
        """Give the network as it runs now: pumps of primaries and loops by their rules."""
        mode = self.mode
        key = (mode.called, mode.drawing, mode.engine, mode.out, mode.loops, mode.stopped)
        if key not in self._circuits:
            base = self.standing or Standing(id="usual", name="As usual")
            put = {item.part: item.at for item in base.positions}
            for part in self.system.parts:
                if put.get(part.id) == "off":
                    continue
                if part.id in mode.stopped:
                    put[part.id] = "off"
                elif isinstance(part, primary.CirculationPump):
                    runs = mode.drawing if part.runs == "by hand" else mode.called
                    put[part.id] = "on" if runs or part.runs == "always" else "off"
                elif isinstance(part, heat.LiquidHeater):
                    burns = mode.called and "diesel" not in mode.out
                    put[part.id] = "ready" if burns else "off"
                elif isinstance(part, heat.EngineCoolant):
                    put[part.id] = "on" if mode.engine else "off"
                elif isinstance(part, temperature.LoopPump):
                    put[part.id] = "on" if part.id in mode.loops else "off"
                if "battery" in mode.out and isinstance(part, ON_BATTERY):
                    put[part.id] = "off"
            stands = tuple(put.items())  # of several modes the same: most pumps heed one thing
            if stands not in self._standing:
                positions = tuple(Position(part=key, at=at) for key, at in stands)
                state = base.model_copy(update={"positions": positions})
                self._standing[stands] = make_circuit(
                    self.system, state, self.conditions, known=self._known, laid=self._laid
                )
            self._circuits[key] = self._standing[stands]
        return self._circuits[key]

    def _filled(self) -> State:
        """Give the state just filled: fresh water everywhere, walls at their surroundings."""
        bodies, named = self.named.bodies, self.named
        fresh = self.conditions.fresh_c
        wall = np.empty(named.cells)
        for row in bodies.pipe:
            wall[int(row[0]) : int(row[0] + row[1])] = row[6]
        layers = np.full(named.layers, fresh)
        stirred = np.zeros((len(bodies.stirred), 7))
        stirred[:, kernel.TEMP] = bodies.stirred[:, 2] if len(bodies.stirred) else 0.0
        pool = np.zeros((len(bodies.pool), 3))
        if len(bodies.pool):
            pool[:, 0], pool[:, 1] = bodies.pool[:, 0], fresh
        links = len(self.circuit.links)
        opening = np.full(len(self.circuit.mixers), HOT_STOP)
        for row, part_id in enumerate(self.circuit.mixers):
            part = self.circuit.parts[part_id]
            if isinstance(part, temperature.ManualMixer):
                opening[row] = min(0.999, max(0.001, part.hot_share))
        return State(
            water=np.full(named.cells, fresh), wall=wall, ring=np.zeros((len(bodies.pipe), 3)),
            rested=np.zeros(len(bodies.pipe)), layers=layers,
            sensors=np.full(len(bodies.source), fresh), relays=np.zeros(len(bodies.source)),
            given=np.zeros(len(bodies.source)), stirred=stirred, pool=pool,
            plate=np.zeros((len(bodies.plate), 6)), reuse=np.zeros((len(bodies.reuse), 5)),
            opening=opening, in_c=np.full(links, fresh),
            out_c=np.full(links, fresh), counted=np.zeros(kernel.COUNTED), taken=np.zeros(links),
        )  # fmt: skip

    def _largest(self) -> str:
        """Choose the vessel the pages show: the largest."""
        rows = self.named.bodies.vessel
        masses = {key: row[1] * row[2] for key, row in zip(self.named.vessels, rows, strict=True)}
        return max(masses, key=lambda key: masses[key]) if masses else ""

    def _shown(self, vessel: str) -> tuple[str, int, int]:
        """Give a vessel with its first layer and how many it has; nothing if it is not there."""
        if vessel not in self.named.vessels:
            return "", 0, 0
        row = self.named.bodies.vessel[self.named.vessels.index(vessel)]
        return vessel, int(row[0]), int(row[1])

    @property
    def layers_shown(self) -> NDArray[np.int64]:
        """First layer of the vessel shown and how many it has."""
        return np.array(self.shown[1:], dtype=np.int64)

    # --- flows ---

    def _flowing(self, point: Point, nudged_c: Mapping[str, float] | None = None) -> Flowing:
        solved, circuit = point.solved, point.solved.circuit
        kept = self._fixed.get(id(circuit))
        if kept is None:
            kept = self._fixed[id(circuit)] = self._lasting(circuit)
        lag, mixer, given = kept.lag.copy(), kept.mixer, kept.given_c.copy()
        if nudged_c:
            mixer = mixer.copy()
        for outlet, celsius in (nudged_c or {}).items():  # a hand is slower than a valve
            for at in np.flatnonzero(mixer[:, 4] == 0.0).tolist():
                if self._reaches(circuit, circuit.mixers[at], outlet):
                    mixer[at, :2], mixer[at, 4], lag[at] = (celsius, 0.5), 1.0, HAND_LAG_S
        for tank, node in kept.tanks:
            given[node] += self._shift_k(tank)
        return Flowing(
            shut=solved.shut.copy(), flow=solved.mass.copy(), pressure=solved.state.pressure.copy(),
            parameters=solved.state.parameters.copy(),
            fixed=kept.fixed_pa, outflow=solved.state.outflow.copy(),
            fluid=circuit.heat.fluid, tables=circuit.heat.tables, given_c=given,
            legs=circuit.valves.legs, mixer=mixer, lag=lag, reducer=circuit.valves.reducer,
        )  # fmt: skip

    def _lasting(self, circuit: Circuit) -> _Lasting:
        """Gather what of a circuit stays the same from one stretch of flow to the next."""
        count = len(circuit.mixers)
        lag = np.ones(2 * count)
        for row, part_id in enumerate(circuit.mixers):
            lag[row] = getattr(circuit.parts[part_id], "lag_s", None) or 2.0
        given = np.array(circuit.heat.given_c, dtype=np.float64)
        for link in circuit.links:
            part = circuit.parts.get(link.item)
            if isinstance(part, moved.GravityBag) and self._kettle():
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

    def held_back(
        self, point: Point, limits: Mapping[str, float], nudged_c: Mapping[str, float]
    ) -> tuple[Flowing, Net]:
        """Give the network of draws; a hand keeps each flow where it is wanted.

        `limits` are wanted flows by outlet [m³/s], `nudged_c` what hands steer mixers to, by
        outlet [°C].
        """
        flowing = self._flowing(point, nudged_c)
        circuit = point.solved.circuit
        if not limits:
            return flowing, circuit.net
        law = circuit.net.law.copy()
        for outlet, wanted in limits.items():
            link = circuit.ends[outlet]
            law[link] = laws.LIMIT
            flowing.parameters[link, :2] = circuit.net.parameters[link, 0], wanted
        return flowing, circuit.net._replace(law=law)

    def _ways(self, net: Net) -> Net:
        """Join the two sides of reducers: their water passes, though their pressures do not."""
        start = net.start.copy()
        for wide, regulated in self.circuit.valves.reducer:
            start[regulated] = net.start[wide]
        return net._replace(start=start)

    def _kettle(self) -> bool:
        return any(isinstance(part, heat.Kettle) for part in self.system.parts)

    def watch(self, circuit: Circuit, outlet: str) -> tuple[int, int, int, int]:
        """Give the links of an outlet and of its mixer's legs, and the mixer; -1 where none is.

        Below -1: water that goes round, see the kernel.
        """
        if outlet in self.named.rounds:
            return -2 - self.named.rounds.index(outlet), -1, -1, -1
        key = (id(circuit), outlet)
        if key not in self._watching:
            self._watching[key] = self._watch(circuit, outlet)
        return self._watching[key]

    def _watch(self, circuit: Circuit, outlet: str) -> tuple[int, int, int, int]:
        for row, part_id in enumerate(circuit.mixers):
            if self._reaches(circuit, part_id, outlet):
                hot, cold = circuit.valves.legs[row]
                return circuit.ends[outlet], int(hot), int(cold), row
        return circuit.ends[outlet], -1, -1, -1

    @staticmethod
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

    def point(self, opens: Mapping[str, float]) -> Point:
        """Give where flows settle for a mode and what is open; the same each time, so kept."""
        circuit = self._circuit()  # kept as long as this, so its id is its own
        key = (id(circuit), tuple(opens.items()))
        if key not in self._points:
            self._points[key] = operate_once(circuit, opens)
        return self._points[key]

    def throttled(self, draw: Draw, outlet: str) -> tuple[float, float | None]:
        """Find how far an outlet is opened for the flow that is wanted, and that flow."""
        point = self.point({outlet: 1.0})
        link = point.solved.circuit.ends[outlet]
        full = float(point.solved.litres[link])
        wanted = draw.flow_m3_per_s
        if wanted is None or full <= wanted:
            return 1.0, None
        opening = wanted / full
        for _ in range(6):
            point = self.point({outlet: min(1.0, max(0.01, opening))})
            now = float(point.solved.litres[link])
            if abs(now - wanted) < 0.003 * wanted:
                break
            opening *= wanted / max(now, 0.1 * wanted)
        return min(1.0, max(0.01, opening)), wanted

    def wants(self) -> bool:
        """Set heaters of loops to what thermostats call for; say whether heat is called for."""
        called = any(self.state.relays[index] > 0.0 for index in self.named.calls)
        for row in range(len(self.named.bodies.stirred)):
            if self.named.bodies.stirred[row, B_KIND] == LOOP_HEATER:
                self.state.stirred[row, kernel.WANTED] = float(called)
        return called

    # --- time ---

    def run(
        self, until_s: float, flowing: Flowing, net: Net, taps: NDArray[np.int64],
        windows: Floats, left_kg: float, other: float,
    ) -> tuple[int, int, float]:  # fmt: skip
        """Run water until a time; give why it ended, at which tap, and kilograms left."""
        circuit, people = self._circuit(), len(taps)
        # a loop's water is felt at the head, a primary's by nobody: its slugs may be longer
        felt = people or self.mode.loops
        fine = self.fine_s if felt else max(1.0, 4.0 * self.fine_s)
        ways = self._ways(net)
        if self.fuses.ids:
            self._load_fuses(circuit, flowing)
        while True:
            rows = people * (int((until_s - self.clock) / fine * 1.1) + 300)
            log = np.empty((max(1, rows), kernel.LOG_COLUMNS + self.shown[2]))
            limits = np.array([until_s - self.clock, left_kg, other])
            why, who, clock, written, left_kg = kernel.run_flow(
                net, ways, self.named.bodies, self.state, flowing, taps, windows,
                self.layers_shown, self.clock, limits, fine, log, 0,
            )  # fmt: skip
            if people:
                self.log.append(log[:written])
            for pump, link in circuit.pumps.items():
                if abs(flowing.flow[link]) > kernel.STILL_KG_PER_S:
                    self.pumped[pump] = self.pumped.get(pump, 0.0) + clock - self.clock
            self.clock = clock
            if why != LOG_FULL:
                if why == CALLED:
                    self._heed_fuses()
                return why, who, left_kg

    def pass_time(self, until_s: float, draw: int = -1, phase: int = REST) -> None:
        """Let time pass with everything shut: rest, or heating through the primary."""
        pressed = self.mode.loops
        while self.clock < until_s - 1e-9:
            self.turn()
            self.mode.called = self.wants()
            self.mode.loops, goal = self._loops(pressed, until_s)
            goal = min(goal, self._edge)
            if self.mode.called or self.mode.loops or self._turns():
                point = self.point({})
                if np.abs(point.solved.mass).max(initial=0.0) > kernel.STILL_KG_PER_S:
                    # a day that only warms up shows nobody its steps
                    segment = SEGMENT_S if self.fine_s <= self._finest_s else 4.0 * SEGMENT_S
                    self._heat(min(goal, self.clock + segment), point, draw, phase)
                    continue
            self._rest(goal, draw, phase)
        self.mode.loops = pressed

    def _loops(self, pressed: frozenset[str], until_s: float) -> tuple[frozenset[str], float]:
        """Say which loop pumps run now, and until when that stays so."""
        running, goal = set(pressed), until_s
        for loop in self.loops:
            if not self._fitted(loop.id) or loop.rule == "button":
                continue
            if loop.rule == "continuous":
                running.add(loop.id)
                continue
            period = max(loop.every_s, loop.runs_s + 1.0)
            into = self.clock % period
            if period - into < 1e-6:  # a hair before it runs again: time would not move on
                into = 0.0
            if into < loop.runs_s - 1e-6:
                running.add(loop.id)
                goal = min(goal, self.clock + loop.runs_s - into)
            else:
                goal = min(goal, self.clock + period - into)
        return frozenset(running), goal

    # --- the clock ---

    def _shift_k(self, tank: moved.FreshTank) -> float:
        return self.hours.tank_shift_k(tank, self.space_of.get(tank.id), self.clock)

    def _marks(self) -> tuple[float, Floats, Floats, dict[str, float], float]:
        """Take down what has been given so far."""
        stirred = self.state.stirred
        return (
            self.clock, self.state.given.copy(),
            stirred[:, kernel.HEAT_GIVEN : kernel.STARTS + 1].copy(), dict(self.pumped),
            float(self.state.counted[kernel.AIR_HEAT]),
        )  # fmt: skip

    def _close(self) -> None:
        """Close a stretch of the day, and carry the battery over it."""
        start, given, bodies, pumped, air_j = self._began
        self._began = self._marks()
        end, given_now, bodies_now, pumped_now, air_now_j = self._began
        span = end - start
        if span <= 1e-9:
            return
        sources: dict[str, float] = {}
        for part_id, joules in zip(self.named.sources, (given_now - given).tolist(), strict=True):
            if joules > 0.0:
                sources[part_id] = sources.get(part_id, 0.0) + joules
        made = tuple(zip(self.named.stirred, (bodies_now - bodies).tolist(), strict=True))
        middle = 0.5 * (start + end)
        slot = self._slots.get(round(start, 3))
        if slot is not None and abs(slot.edge_s - end) < 1e-6:
            charge, standing, air_c = slot.charge_w, slot.standing_w, slot.air_c
        else:
            charge, standing = self.hours.charge_w(middle), self.hours.standing_w(middle)
            air_c = self.climate.air_at_c(middle)
        stretch = Stretch(
            start_s=start, span_s=span, sources_j=sources,
            bodies_j={key: row[0] for key, row in made if row[0] != 0.0},
            pumped_s={
                key: now - before for key, now in pumped_now.items()
                if now > (before := pumped.get(key, 0.0))
            },
            starts={key: row[1] for key, row in made if row[1] > 0.0},
            charge_w=charge, standing_w=standing, air_c=air_c, air_j=air_now_j - air_j,
        )  # fmt: skip
        self.stretches.append(stretch)
        if self.hours.usable_j is not None:
            taken = sum(sources.get(key, 0.0) for key in self._on_battery)
            level = self.hours.battery_j - taken
            level += (stretch.charge_w - stretch.standing_w) * span
            self.hours.battery_j = min(self.hours.usable_j, max(0.0, level))
        self.supplies.carry(stretch)
        self.mode.out = self.supplies.out

    @property
    def powered(self) -> bool:
        """Say whether what hangs on the battery still has electricity."""
        return "battery" not in self.mode.out

    def round_m3(self, part_id: str) -> float:
        """Give the water that goes round in a loop of its own [m³]."""
        return float(getattr(self.circuit.parts[part_id], "holds_m3", None) or 0.0)

    def turn(self) -> None:
        """Let the clock act where an edge of the hours has come, or levels are watched."""
        if self.clock >= self._edge - 1e-9:
            self._hour()

    def turn_within(self) -> None:
        """Do the same within a draw, where levels are watched; else the hour waits for its end."""
        if self._looks(self.clock):
            self.turn()

    def due_s(self, until_s: float) -> float:
        """Give when `turn` is wanted next within a draw, where levels are watched."""
        return min(until_s, self._edge) if self._looks(self.clock) else until_s

    def _looks(self, clock_s: float) -> bool:
        """Say whether levels are watched at a time: something ends near it."""
        first, last = self._watched
        return first <= clock_s < last

    def _hour(self) -> None:
        """Let the clock act: air around things, what sources may do, the engine's coolant."""
        self._close()
        bodies, now = self.named.bodies, self.clock
        kernel.catch_up_all(bodies, self.state, now)
        key = round(now, 3)
        slot = self._slots.get(key)
        if slot is None:
            slot = self._slots[key] = self._slot(now)
        self._edge = slot.edge_s
        if self._looks(now):
            self._edge = min(self._edge, now + WATCHED_S)
        elif now < self._watched[0]:
            self._edge = min(self._edge, self._watched[0])
        middle = 0.5 * (now + self._edge)
        bodies.vessel[:, AIR_C] = slot.vessel_c
        bodies.pool[:, 3] = slot.pool_c
        bodies.stirred[:, B_AIR] = slot.stirred_c
        bodies.pipe[:, 6] = slot.pipe_c
        for index, part_id in self._gated:
            self._gate(index, part_id, middle)
        for slot_at, part_id in enumerate(self.named.stirred):
            if isinstance(self.circuit.parts[part_id], heat.ThroughFlowGas):
                burns = self._fuelled(self.circuit.parts[part_id])
                bodies.stirred[slot_at, B_WATTS] = self._fire_w[slot_at] if burns else 0.0
        limit_w = self._pitch_w
        if limit_w is not None:
            bodies.shared[0] = max(0.0, limit_w - self.hours.pitch_carries_w(middle))
        self.mode.engine = False
        for at, part in self._engines:
            warm = self.hours.engine_c(part, middle)
            bodies.air[at, 0] = GONE_C if warm is None else warm
            self.mode.engine = self.mode.engine or warm is not None

    def _slot(self, now_s: float) -> _Slot:
        """Work out what the clock says from now to the next edge; days repeat it."""
        edge = self.hours.next_edge_s(now_s)
        middle = 0.5 * (now_s + edge)
        found = {at: self.hours.space_c(at, middle) for at in {*self.space_of.values(), None}}

        def around(names: Iterable[str]) -> Floats:
            return np.array([found[self.space_of.get(key)] for key in names], dtype=np.float64)

        named = self.named
        return _Slot(
            edge, around(named.vessels), around(named.pools), around(named.stirred),
            around(self._runs), self.hours.charge_w(middle), self.hours.standing_w(middle),
            self.climate.air_at_c(middle),
        )  # fmt: skip

    def _gate(self, index: int, part_id: str, clock_s: float) -> None:
        """Let a source run, or not, and with the watts it gets."""
        row = self.named.bodies.source[index]
        part = self.circuit.parts[part_id]
        if isinstance(part, heat.SunContainer):
            face = part.face_m2 or (part.volume_m3 or 0.0) ** (2 / 3)
            watts = self.climate.sun_w_per_m2(clock_s) * face * (part.absorbed or 0.7)
            row[S_WATTS], row[S_ALLOWED] = max(watts, 1e-9), float(watts > 0.0)
            return
        if isinstance(part, heat.Combi):
            row[S_ALLOWED] = float(
                self.powered and self._fuelled(part) and self.circuit.at.get(part_id) != "off"
            )
        if isinstance(part, heat.Combi) and not part.water_first:
            cold = self.climate.air_at_c(clock_s) < self.brief.inside_c - 1.0
            row[S_WATTS] = self._combi_w[part_id] * (1.0 - (part.cabin_share or 0.0) * cold)
            return
        if not isinstance(part, heat.Element | heat.Burner):
            return
        if self.circuit.at.get(part_id) == "off":
            row[S_ALLOWED] = 0.0
            return
        may = self.hours.allowed(part, clock_s)
        may_now = may.may and (self.powered or part_id not in self._on_battery)
        row[S_ALLOWED] = float(may_now and self._fuelled(part))
        if may.watts is not None:
            row[S_WATTS] = max(may.watts, 1e-9)

    def _fuelled(self, part: AnyKind) -> bool:
        """Say whether a flame still has what it burns."""
        fuel = getattr(part, "fuel", None)
        if fuel in NET_J_PER_KG:
            return "gas" not in self.mode.out
        return fuel not in ("diesel", "petrol") or "diesel" not in self.mode.out

    def _turns(self) -> bool:
        """Say whether something always moves past a coil: an engine, a pump that never stops."""
        return self._coiled and (self._always or (self.mode.engine and bool(self._engines)))

    def _heat(self, until_s: float, point: Point, draw: int, phase: int) -> None:
        began, before = self.clock, float(self.state.given.sum())
        flowing = self._flowing(point)
        body = float(self.state.counted[kernel.BODIES] + self.state.counted[kernel.HELD_HEAT])
        self.run(until_s, flowing, point.solved.circuit.net, np.empty((0, 6), np.int64),
                 np.empty((0, 6)), np.inf, 0.0)  # fmt: skip
        span = self.clock - began
        if span <= 0.0:
            return
        row = np.zeros((1, kernel.LOG_COLUMNS + self.shown[2]))
        row[0, kernel.END], row[0, kernel.STEP] = self.clock, span
        row[0, kernel.ELEMENT] = (float(self.state.given.sum()) - before) / span
        now = float(self.state.counted[kernel.BODIES] + self.state.counted[kernel.HELD_HEAT])
        row[0, kernel.BURNER] = (now - body) / span
        row[0, kernel.DRAW], row[0, kernel.PHASE_OF] = draw, phase
        _, first, layers = self.shown
        row[0, kernel.LOG_COLUMNS :] = self.state.layers[first : first + layers]
        self.log.append(row)

    def _rest(self, until_s: float, draw: int, phase: int) -> None:
        still = self._still
        self.named.bodies.fuse[:, 2] = 0.0
        while self.clock < until_s - 1e-9:
            rows = int((until_s - self.clock) / kernel.REST_STEP_S) + 24
            log = np.empty((rows, kernel.LOG_COLUMNS + self.shown[2]))
            why, self.clock, written = kernel.run_rest(
                self.named.bodies, self.state, self.trial, still, self.layers_shown,
                self.clock, until_s, log, 0, draw, phase,
            )  # fmt: skip
            self.log.append(log[:written])
            if why == CALLED:
                return

    def await_hot(self) -> None:
        """Wait until the sources of the shown store are content, as who hears them would."""
        until = min(self.clock + LONGEST_QUEUE_S, 86400.0)
        bodies, state = self.named.bodies, self.state
        if not self.shown[0]:
            return
        vessel = self.named.vessels.index(self.shown[0])
        rows = [
            index for index, row in enumerate(bodies.source)
            if int(row[S_VESSEL]) == vessel and self.circuit.at.get(self.named.sources[index])
            != "off"
        ]  # fmt: skip
        while self.clock < until - 1e-9:
            content = [
                state.relays[index] <= 0.0
                and state.sensors[index]
                > bodies.source[index, S_SET] - bodies.source[index, S_HYSTERESIS] - 0.5
                for index in rows
            ]
            if not rows or any(content):
                return
            self.pass_time(min(until, self.clock + QUEUE_STEP_S))

    def label(self, part_id: str) -> str:
        """Give a part's name."""
        part = self.circuit.parts.get(part_id)
        return part.label if part is not None else "An outlet"

    def joined(self, outlet: str) -> bool:
        """Say whether a run leads to an outlet, or water goes round to it."""
        if outlet in self.named.rounds:
            return True
        if outlet not in self.circuit.ends:
            return False
        node = self.circuit.links[self.circuit.ends[outlet]].start
        return any(link.is_run and node in (link.start, link.end) for link in self.circuit.links)

    def press_loops(self) -> None:
        """Run loops on a button before the tap is opened."""
        pressed = [loop for loop in self.loops if loop.rule == "button" and self._fitted(loop.id)]
        if not pressed:
            return
        self.mode.loops = frozenset(loop.id for loop in pressed)
        self.pass_time(self.clock + max(loop.runs_s for loop in pressed))
        self.mode.loops = frozenset()

    def _fitted(self, part_id: str) -> bool:
        return part_id in self.circuit.ways and part_id not in self.circuit.dry

    def refill(self) -> None:
        """Fill open boxes up again with fresh water."""
        bodies, fresh = self.named.bodies, self.conditions.fresh_c
        for row, now in zip(bodies.pool, self.state.pool, strict=True):
            missing = row[0] - now[0]
            if missing > 1e-9:
                heat_j = now[0] * row[4] + row[1]
                now[1] = (heat_j * now[1] + missing * row[4] * fresh) / (heat_j + missing * row[4])
                now[0] = row[0]
                self.state.counted[kernel.IN] += missing * row[4] * fresh
                self.state.counted[kernel.MASS_IN] += missing

    def day(
        self,
        draws: tuple[Draw, ...],
        fresh_kg: float,
        other_kg_per_s: float,
        levels: Levels | None = None,
        ends_s: float | None = None,
    ) -> Day:
        """Run one day from where the last one ended.

        Parameters
        ----------
        draws : tuple of Draw
            In order of time, edges settled. [-]
        fresh_kg : float
            In the tank at midnight. [kg]
        other_kg_per_s : float
            Other fresh water, evenly. [kg/s]
        levels : Levels or None
            What is carried at midnight; None: the battery full, gas and fuel without end. [-]
        ends_s : float or None
            About when one of them ends: levels are looked at every minute around it. [s]

        Returns
        -------
        Day
            Every step, every draw, the balance. [-]
        """
        self._morning = self._kept()
        self.clock, self.log, self.pumped, self.stretches = 0.0, [], {}, []
        self.supplies.begin(levels)
        self.mode.out = frozenset()
        self._heed_fuses()
        self._watched = (0.0, 0.0) if ends_s is None else (ends_s - 3600.0, ends_s + 3600.0)
        drawn: list[Drawn] = []
        starts: dict[str, float] = {}
        here, balances = self, []
        begun = self._begin()
        queue = list(enumerate(draws))
        left, since = fresh_kg, 0.0
        while queue or here is not self:
            there = self._in_state(queue[0][1].state if queue else None)
            if there is not here:
                if here is not self:  # back at once: things stand as usual between draws
                    there = self
                else:
                    here.pass_time(max(here.clock, queue[0][1].start_s))
                balances.append(here._end(begun, starts))
                seconds = sum(move.seconds_s for move in here.moves_to(there))
                moved_j = there._take_over(here)
                balances[-1] = balances[-1].drained(moved_j)
                here, begun = there, there._begin()
                here.pass_time(min(86400.0, here.clock + seconds), -1, MOVING)
                continue
            done, left = wash(here, queue, left, other_kg_per_s, since)
            since = here.clock
            drawn += done
        self.pass_time(86400.0)
        balances.append(self._end(begun, starts))
        self._watched = (0.0, 0.0)
        vessel, _, layers = self.shown
        width = kernel.LOG_COLUMNS + layers
        log = np.concatenate(_filled_up(self.log, width)) if self.log else np.empty((0, width))
        return Day(
            log=log, drawn=tuple(sorted(drawn, key=lambda one: one.index)),
            balance=merged(balances), pumped_s=dict(self.pumped), starts=starts,
            vessel=vessel, layers=layers, stretches=tuple(self.stretches),
            ended=tuple(self.supplies.ended),
        )  # fmt: skip

    def again(
        self,
        draws: tuple[Draw, ...],
        fresh_kg: float,
        other_kg_per_s: float,
        levels: Levels,
        ends_s: float | None,
        *,
        next_day: bool,
    ) -> Day:
        """Run the last day once more, or the next, with other levels; this stays as it is.

        Parameters
        ----------
        draws, fresh_kg, other_kg_per_s, levels, ends_s
            As `day` has them. [-, kg, kg/s, -, s]
        next_day : bool
            Begin as the last day ended, not as it began. [-]

        Returns
        -------
        Day
            Every step, every draw, the balance. [-]
        """
        there = self._twin()
        if not next_day and self._morning is not None:
            there.hours.battery_j, states = self._morning
            for key, course in {"": there, **there._elsewhere}.items():
                if key in states:
                    _write(course, *states[key])
        return there.day(draws, fresh_kg, other_kg_per_s, levels, ends_s)

    def _twin(self) -> Course:
        """Give another that stands as this one; what is only read is shared."""
        twin = copy(self)
        twin.state, twin.trial = _copied(self.state), _copied(self.trial)
        bodies = Bodies._make(array.copy() for array in self.named.bodies)
        twin.named = replace(self.named, bodies=bodies)
        twin.hours, twin.mode = copy(self.hours), copy(self.mode)
        twin.supplies = Supplies(self.takers, self.supplies.full)
        twin._elsewhere = {key: course._twin() for key, course in self._elsewhere.items()}
        return twin

    def _kept(self) -> tuple[float, dict[str, tuple[State, Floats]]]:
        """Take down how everything stands, in every state that was run."""
        return self.hours.battery_j, {
            key: (_copied(course.state), course.named.bodies.fuse.copy())
            for key, course in {"": self, **self._elsewhere}.items()
        }  # fmt: skip

    def _begin(self) -> tuple[float, float]:
        """Count anew from here; give the heat and the open water there are."""
        state, bodies = self.state, self.named.bodies
        self._edge = self.clock
        state.rested[:] = self.clock
        for counted in (state.counted, state.given, state.taken):
            counted[:] = 0.0
        if len(state.stirred):
            state.stirred[:, kernel.HEAT_GIVEN] = 0.0
            state.stirred[:, kernel.STARTS] = 0.0
        self._began = self._marks()
        return kernel.total_heat(bodies, state), kernel.held_mass(state)

    def _end(self, begun: tuple[float, float], starts: dict[str, float]) -> Balance:
        """Close the books of what ran in this state."""
        self._close()
        kernel.catch_up_all(self.named.bodies, self.state, self.clock)
        for part_id, row in zip(self.named.stirred, self.state.stirred, strict=True):
            starts[part_id] = starts.get(part_id, 0.0) + float(row[kernel.STARTS])
        return self._balance(*begun)

    # --- other states within a day ---

    def _in_state(self, state_id: str | None) -> Course:
        """Give the system as it stands in a state of its own; this one where it has none such."""
        if state_id is None or (self.standing is not None and state_id == self.standing.id):
            return self
        if state_id not in self._elsewhere:
            standing = next((item for item in self.system.states if item.id == state_id), None)
            if standing is None:
                return self
            there = Course(self.brief, self.system, standing, self.climate, self.fine_s)
            there.shown = there._shown(self.shown[0])
            self._elsewhere[state_id] = there
        there = self._elsewhere[state_id]
        there.fine_s = self.fine_s
        return there

    def moves_to(self, other: Course) -> tuple[Move, ...]:
        """List what hands do to get from this state to another."""
        return moves(self.system, self.standing, other.standing)

    def _take_over(self, other: Course) -> float:
        """Go on from another state of the same system; give the heat that was let out [J].

        What both have keeps its heat; what only one has stands as it was left, or is empty.
        """
        self.clock, self.log, self.pumped = other.clock, other.log, other.pumped
        self.stretches, self.hours.battery_j = other.stretches, other.hours.battery_j
        self.supplies.go_on(other.supplies)
        self.mode.out, self._watched = other.mode.out, other._watched
        self.named.bodies.fuse[:] = other.named.bodies.fuse  # of one system: the same fuses
        self._heed_fuses()
        mine, theirs = self.state, other.state
        held_j = kernel.total_heat(other.named.bodies, theirs)
        kernel.catch_up_all(self.named.bodies, mine, self.clock)
        for at, run in enumerate(self._runs):
            if run in other._runs:
                frm = other._runs.index(run)
                one, two = self.named.bodies.pipe[at], other.named.bodies.pipe[frm]
                a, b, cells = int(one[0]), int(two[0]), int(min(one[1], two[1]))
                mine.water[a : a + cells] = theirs.water[b : b + cells]
                mine.wall[a : a + cells] = theirs.wall[b : b + cells]
                mine.ring[at] = theirs.ring[frm]
        for at, vessel in enumerate(self.named.vessels):
            if vessel in other.named.vessels:
                frm = other.named.vessels.index(vessel)
                one, two = self.named.bodies.vessel[at], other.named.bodies.vessel[frm]
                a, b, layers = int(one[0]), int(two[0]), int(one[1])
                mine.layers[a : a + layers] = theirs.layers[b : b + layers]
        _by_name(self.named.sources, mine.sensors, other.named.sources, theirs.sensors)
        _by_name(self.named.sources, mine.relays, other.named.sources, theirs.relays)
        _by_name(self.named.stirred, mine.stirred, other.named.stirred, theirs.stirred)
        _by_name(self.named.pools, mine.pool, other.named.pools, theirs.pool)
        _by_name(self.circuit.mixers, mine.opening, other.circuit.mixers, theirs.opening)
        return float(held_j - kernel.total_heat(self.named.bodies, mine))

    def _balance(self, started_j: float, pooled_kg: float) -> Balance:
        state, counted = self.state, self.state.counted
        change = kernel.total_heat(self.named.bodies, state) - started_j
        came = sum(counted[key] for key in (kernel.IN, kernel.SOURCES, kernel.BODIES))
        came += counted[kernel.HELD_HEAT] + counted[kernel.AIR_HEAT]
        lost = counted[kernel.LOST_STORE] + counted[kernel.LOST_PIPE] + counted[kernel.LOST_BODY]
        out = counted[kernel.OUT]
        scale = max(abs(came), abs(out), abs(lost), abs(change), 1.0)
        kept = kernel.held_mass(state) - pooled_kg
        into, away = float(counted[kernel.MASS_IN]), float(counted[kernel.MASS_OUT])
        taken: dict[str, float] = {}
        for link, mass in zip(self.circuit.links, state.taken, strict=True):
            if mass > 0.0:
                taken[link.item] = taken.get(link.item, 0.0) + float(mass)
        given: dict[str, float] = {}
        for part_id, joules in zip(self.named.sources, state.given, strict=True):
            given[part_id] = given.get(part_id, 0.0) + float(joules)
        return Balance(
            heat_in_j=float(counted[kernel.IN]), sources_j=given,
            bodies_j={
                part_id: float(row[kernel.HEAT_GIVEN])
                for part_id, row in zip(self.named.stirred, state.stirred, strict=True)
            },
            held_j=float(counted[kernel.HELD_HEAT]), air_j=float(counted[kernel.AIR_HEAT]),
            heat_out_j=float(out), store_loss_j=float(counted[kernel.LOST_STORE]),
            pipe_loss_j=float(counted[kernel.LOST_PIPE]),
            body_loss_j=float(counted[kernel.LOST_BODY]), stored_change_j=float(change),
            taken_kg=taken,
            energy_error_share=float(abs(came - out - lost - change) / scale),
            water_error_share=float(abs(into - away - kept) / max(into, away, 1e-3)),
        )  # fmt: skip


def _copied(state: State) -> State:
    return State(*(array.copy() for array in state))


def _write(course: Course, state: State, fuse: Floats) -> None:
    """Let a course stand as it was taken down."""
    for mine, theirs in zip(course.state, state, strict=True):
        mine[:] = theirs
    course.named.bodies.fuse[:] = fuse


def _filled_up(rows: list[Floats], width: int) -> list[Floats]:
    """Let a vessel that a state lacks stand as it last was, in the log."""
    found: list[Floats] = []
    last = np.zeros(width - kernel.LOG_COLUMNS)
    for part in rows:
        if part.shape[1] < width:
            part = np.hstack([part, np.broadcast_to(last, (len(part), last.size))])
        if len(part):
            last = part[-1, kernel.LOG_COLUMNS :]
        found.append(part)
    return found


def _by_name(names: tuple[str, ...], into: Floats, others: tuple[str, ...], source: Floats) -> None:
    """Copy rows of what goes by the same name; of several alike, in their order."""
    rows: dict[str, list[int]] = {}
    for at, name in enumerate(others):
        rows.setdefault(name, []).append(at)
    for at, name in enumerate(names):
        if rows.get(name):
            into[at] = source[rows[name].pop(0)]
