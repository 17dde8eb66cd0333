"""The course of a day: draws one after the other, rest and heating between, loops by their rule."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
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
    GONE_C,
    HELD,
    LOOP_HEATER,
    S_ALLOWED,
    S_HYSTERESIS,
    S_SET,
    S_VESSEL,
    S_WATTS,
)
from isotherma.core.engine.kernel import (
    CALLED,
    DRY,
    LOG_FULL,
    TOO_COLD,
    WARM,
    Flowing,
    State,
)
from isotherma.core.engine.needs import main_outlet, refuse_missing
from isotherma.core.engine.record import Balance, Day, Drawn, Stretch
from isotherma.core.errors import NotComputedYet
from isotherma.core.flows.circuit import Circuit, make_circuit
from isotherma.core.flows.pulse import Point, operate
from isotherma.core.flows.surroundings import surroundings
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import Net
from isotherma.core.supply.hours import Hours, battery_side
from isotherma.core.system import System
from isotherma.core.system.kinds import heat, primary, temperature
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.states import Position
from isotherma.core.system.states import State as Standing
from isotherma.core.system.understood import settled
from isotherma.core.thermal.mixer import HOT_STOP

Floats = NDArray[np.float64]

FINE_S: Final = 0.25
SEGMENT_S: Final = 300.0
REST, WAITING, RUNNING, STOPPED = range(4)
NEVER_C: Final = -300.0  # nobody gives up
LONGEST_QUEUE_S: Final = 3 * 3600.0
QUEUE_STEP_S: Final = 60.0
HAND_LAG_S: Final = 8.0  # between two nudges; judgement
BAG_C: Final = 40.0  # a bag somebody filled from a kettle


@dataclass(slots=True)
class _Mode:
    """A way the network runs: heat called for, somebody washing, engine hot, loop pumps on."""

    called: bool = False
    drawing: bool = False
    engine: bool = False
    loops: frozenset[str] = field(default_factory=frozenset)


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
        self.fine_s = fine_s
        self.brief, self.system, self.standing, self.climate = brief, system, standing, climate
        self.conditions = surroundings(brief, system, standing, climate)
        self._circuits: dict[tuple[bool, bool, bool, frozenset[str]], Circuit] = {}
        self._points: dict[tuple[object, ...], Point] = {}
        self._known = settled(system)
        self.mode = _Mode()
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
        self._combi_w = {
            key: float(row[S_WATTS])
            for key, row in zip(self.named.sources, bodies.source, strict=True)
        }
        self.state = self._filled()
        self.trial = State(*(array.copy() for array in self.state))
        self.shown = self._shown()
        self.clock = 0.0
        self.log: list[Floats] = []
        self.pumped: dict[str, float] = {}
        self.stretches: list[Stretch] = []
        self._began = self._marks()
        self._edge = 0.0

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
        key = (mode.called, mode.drawing, mode.engine, mode.loops)
        if key not in self._circuits:
            base = self.standing or Standing(id="usual", name="As usual")
            put = {item.part: item.at for item in base.positions}
            for part in self.system.parts:
                if put.get(part.id) == "off":
                    continue
                if isinstance(part, primary.CirculationPump):
                    runs = mode.drawing if part.runs == "by hand" else mode.called
                    put[part.id] = "on" if runs or part.runs == "always" else "off"
                elif isinstance(part, heat.LiquidHeater):
                    put[part.id] = "ready" if mode.called else "off"
                elif isinstance(part, heat.EngineCoolant):
                    put[part.id] = "on" if mode.engine else "off"
                elif isinstance(part, temperature.LoopPump):
                    put[part.id] = "on" if part.id in mode.loops else "off"
            positions = tuple(Position(part=key, at=at) for key, at in put.items())
            state = base.model_copy(update={"positions": positions})
            self._circuits[key] = make_circuit(
                self.system, state, self.conditions, known=self._known
            )
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
            plate=np.zeros((len(bodies.plate), 6)),
            opening=opening, in_c=np.full(links, fresh),
            out_c=np.full(links, fresh), counted=np.zeros(kernel.COUNTED), taken=np.zeros(links),
        )  # fmt: skip

    def _shown(self) -> tuple[str, int, int]:
        """Choose the vessel the pages show: the largest."""
        best, size = -1, 0.0
        for index, row in enumerate(self.named.bodies.vessel):
            mass = row[1] * row[2]
            if mass > size:
                best, size = index, mass
        if best < 0:
            return "", 0, 0
        row = self.named.bodies.vessel[best]
        return self.named.vessels[best], int(row[0]), int(row[1])

    # --- flows ---

    def _flowing(self, point: Point, nudged_c: float | None = None) -> Flowing:
        solved, circuit = point.solved, point.solved.circuit
        count = len(circuit.mixers)
        lag = np.ones(2 * count)
        for row, part_id in enumerate(circuit.mixers):
            lag[row] = getattr(circuit.parts[part_id], "lag_s", None) or 2.0
        mixer = circuit.valves.mixer.copy()
        if nudged_c is not None:  # a hand on the mixer follows more slowly than a valve
            for at in np.flatnonzero(mixer[:, 4] == 0.0).tolist():
                mixer[at, :2], mixer[at, 4], lag[at] = (nudged_c, 0.5), 1.0, HAND_LAG_S
        given = np.array(circuit.heat.given_c, dtype=np.float64)
        for link in circuit.links:
            part = circuit.parts.get(link.item)
            if isinstance(part, moved.GravityBag) and self._kettle():
                given[link.start] = max(BAG_C, self.conditions.fresh_c)
        for part in circuit.parts.values():
            node = circuit.node.get((part.id, "outlet"))
            if isinstance(part, moved.FreshTank) and node is not None and circuit.net.given[node]:
                given[node] += self._shift_k(part)
        return Flowing(
            shut=solved.shut.copy(), flow=solved.mass.copy(), pressure=solved.state.pressure.copy(),
            parameters=solved.state.parameters.copy(),
            fixed=np.array(circuit.fixed, dtype=np.float64), outflow=solved.state.outflow.copy(),
            fluid=circuit.heat.fluid, tables=circuit.heat.tables, given_c=given,
            legs=circuit.valves.legs, mixer=mixer, lag=lag, reducer=circuit.valves.reducer,
        )  # fmt: skip

    def _held_back(
        self, point: Point, outlet: str, nudged_c: float | None, wanted: float | None
    ) -> tuple[Flowing, Net]:
        """Give the network of a draw; a hand keeps the flow where it is wanted."""
        flowing = self._flowing(point, nudged_c)
        circuit = point.solved.circuit
        if wanted is None:
            return flowing, circuit.net
        link = circuit.ends[outlet]
        law = circuit.net.law.copy()
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

    def _watch(self, circuit: Circuit, outlet: str | None) -> NDArray[np.int64]:
        _, first, layers = self.shown
        watch = np.array([-1, -1, -1, -1, first, layers], dtype=np.int64)
        if outlet is None:
            return watch
        watch[0] = circuit.ends[outlet]
        for row, part_id in enumerate(circuit.mixers):
            if self._reaches(circuit, part_id, outlet):
                watch[1], watch[2] = circuit.valves.legs[row]
                watch[3] = row
                break
        return watch

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

    def _point(self, opens: Mapping[str, float]) -> Point:
        """Give where flows settle for a mode and what is open; the same each time, so kept."""
        mode = self.mode
        key = (mode.called, mode.drawing, mode.engine, mode.loops, tuple(opens.items()))
        if key not in self._points:
            self._points[key] = operate(self._circuit(), opens)
        return self._points[key]

    def _throttled(self, draw: Draw, outlet: str) -> tuple[dict[str, float], Point, float | None]:
        """Find how far the outlet is opened for the flow that is wanted, and that flow."""
        point = self._point({outlet: 1.0})
        link = point.solved.circuit.ends[outlet]
        full = float(point.solved.litres[link])
        wanted = draw.flow_m3_per_s
        if wanted is None or full <= wanted:
            return {outlet: 1.0}, point, None
        opening = wanted / full
        for _ in range(6):
            point = self._point({outlet: min(1.0, max(0.01, opening))})
            now = float(point.solved.litres[link])
            if abs(now - wanted) < 0.003 * wanted:
                break
            opening *= wanted / max(now, 0.1 * wanted)
        return {outlet: min(1.0, max(0.01, opening))}, point, wanted

    def _wants(self) -> bool:
        """Set heaters of loops to what thermostats call for; say whether heat is called for."""
        called = any(self.state.relays[index] > 0.0 for index in self.named.calls)
        for row in range(len(self.named.bodies.stirred)):
            if self.named.bodies.stirred[row, B_KIND] == LOOP_HEATER:
                self.state.stirred[row, kernel.WANTED] = float(called)
        return called

    # --- time ---

    def _run(
        self, until_s: float, flowing: Flowing, watch: NDArray[np.int64],
        window: tuple[float, float], inside: float, stop_warm: bool, left_kg: float, other: float,
        draw: int, phase: int, net: Net, gives_up_c: float = NEVER_C,
    ) -> tuple[int, float, float]:  # fmt: skip
        """Run water until a time; give why it ended, kilograms left and seconds inside."""
        circuit = self._circuit()
        fine = self.fine_s if draw >= 0 else max(1.0, 4.0 * self.fine_s)
        below = 0.0
        while True:
            rows = int((until_s - self.clock) / fine * 1.1) + 40 if draw >= 0 else 1
            log = np.empty((rows, kernel.LOG_COLUMNS + self.shown[2]))
            edges = np.array([*window, inside, float(stop_warm), gives_up_c, below])
            limits = np.array([until_s - self.clock, left_kg, other])
            why, clock, written, left_kg, inside = kernel.run_flow(
                net, self._ways(net), self.named.bodies, self.state, flowing, watch, edges,
                self.clock, limits, fine, log, 0, draw, phase,
            )  # fmt: skip
            if draw >= 0:
                self.log.append(log[:written])
            for pump, link in circuit.pumps.items():
                if abs(flowing.flow[link]) > kernel.STILL_KG_PER_S:
                    self.pumped[pump] = self.pumped.get(pump, 0.0) + clock - self.clock
            self.clock, below = clock, float(edges[5])
            if why != LOG_FULL:
                return why, left_kg, inside

    def _pass_time(self, until_s: float, draw: int = -1, phase: int = REST) -> None:
        """Let time pass with everything shut: rest, or heating through the primary."""
        pressed = self.mode.loops
        while self.clock < until_s - 1e-9:
            if self.clock >= self._edge - 1e-9:
                self._hour()
            self.mode.called = self._wants()
            self.mode.loops, goal = self._loops(pressed, until_s)
            goal = min(goal, self._edge)
            if self.mode.called or self.mode.loops or self._turns():
                point = self._point({})
                if np.abs(point.solved.mass).max(initial=0.0) > kernel.STILL_KG_PER_S:
                    self._heat(min(goal, self.clock + SEGMENT_S), point, draw, phase)
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
            into = self.clock % max(loop.every_s, loop.runs_s + 1.0)
            if into < loop.runs_s - 1e-6:
                running.add(loop.id)
                goal = min(goal, self.clock + loop.runs_s - into)
            else:
                goal = min(goal, self.clock + max(loop.every_s, loop.runs_s + 1.0) - into)
        return frozenset(running), goal

    # --- the clock ---

    def _shift_k(self, tank: moved.FreshTank) -> float:
        return self.hours.tank_shift_k(tank, self.space_of.get(tank.id), self.clock)

    def _marks(self) -> tuple[float, Floats, Floats, dict[str, float], float]:
        """Take down what has been given so far."""
        columns = [kernel.HEAT_GIVEN, kernel.STARTS]
        return (
            self.clock, self.state.given.copy(),
            self.state.stirred[:, columns].copy(), dict(self.pumped),
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
        for part_id, joules in zip(self.named.sources, given_now - given, strict=True):
            if joules > 0.0:
                sources[part_id] = sources.get(part_id, 0.0) + float(joules)
        changed = bodies_now - bodies
        middle = 0.5 * (start + end)
        stretch = Stretch(
            start_s=start, span_s=span, sources_j=sources,
            bodies_j={key: float(row[0]) for key, row in
                      zip(self.named.stirred, changed, strict=True)},
            pumped_s={key: now - pumped.get(key, 0.0) for key, now in pumped_now.items()},
            starts={key: float(row[1]) for key, row in
                    zip(self.named.stirred, changed, strict=True)},
            charge_w=self.hours.charge_w(middle), standing_w=self.hours.standing_w(middle),
            air_c=self.climate.air_at_c(middle), air_j=air_now_j - air_j,
        )  # fmt: skip
        self.stretches.append(stretch)
        if self.hours.usable_j is not None:
            taken = sum(sources.get(key, 0.0) for key in self._on_battery)
            level = self.hours.battery_j - taken
            level += (stretch.charge_w - stretch.standing_w) * span
            self.hours.battery_j = min(self.hours.usable_j, max(0.0, level))

    def _hour(self) -> None:
        """Let the clock act: air around things, what sources may do, the engine's coolant."""
        self._close()
        hours, bodies, now = self.hours, self.named.bodies, self.clock
        kernel.catch_up_all(bodies, self.state, now)
        self._edge = hours.next_edge_s(now)
        middle = 0.5 * (now + self._edge)
        spaces = {*self.space_of.values(), None}
        found = {at: hours.space_c(at, middle) for at in spaces}

        def around(part_id: str) -> float:
            return found[self.space_of.get(part_id)]

        for row, part_id in zip(bodies.vessel, self.named.vessels, strict=True):
            row[AIR_C] = around(part_id)
        for row, part_id in zip(bodies.pool, self.named.pools, strict=True):
            row[3] = around(part_id)
        for row, part_id in zip(bodies.stirred, self.named.stirred, strict=True):
            row[B_AIR] = around(part_id)
        bodies.pipe[:, 6] = [around(key) for key in self._runs]
        for index, part_id in enumerate(self.named.sources):
            self._gate(index, part_id, middle)
        self.mode.engine = False
        for slot, part in self._engines:
            warm = hours.engine_c(part, middle)
            bodies.air[slot, 0] = GONE_C if warm is None else warm
            self.mode.engine = self.mode.engine or warm is not None

    def _gate(self, index: int, part_id: str, clock_s: float) -> None:
        """Let a source run, or not, and with the watts it gets."""
        row = self.named.bodies.source[index]
        part = self.circuit.parts[part_id]
        if isinstance(part, heat.SunContainer):
            face = part.face_m2 or (part.volume_m3 or 0.0) ** (2 / 3)
            watts = self.climate.sun_w_per_m2(clock_s) * face * (part.absorbed or 0.7)
            row[S_WATTS], row[S_ALLOWED] = max(watts, 1e-9), float(watts > 0.0)
            return
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
        row[S_ALLOWED] = float(may.may)
        if may.watts is not None:
            row[S_WATTS] = max(may.watts, 1e-9)

    def _turns(self) -> bool:
        """Say whether something always moves past a coil: an engine, a pump that never stops."""
        parts = self.circuit.parts.values()
        moves = any(
            (isinstance(part, heat.EngineCoolant) and self.mode.engine)
            or (isinstance(part, primary.CirculationPump) and part.runs == "always")
            for part in parts
        )
        return moves and len(self.named.bodies.coil) > 0

    def _heat(self, until_s: float, point: Point, draw: int, phase: int) -> None:
        began, before = self.clock, float(self.state.given.sum())
        flowing = self._flowing(point)
        body = float(self.state.counted[kernel.BODIES] + self.state.counted[kernel.HELD_HEAT])
        watch = self._watch(point.solved.circuit, None)
        self._run(until_s, flowing, watch, (0.0, 0.0), 0.0, False, np.inf, 0.0, -1, phase,
                  point.solved.circuit.net)  # fmt: skip
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
        still = np.zeros(len(self.circuit.links))
        while self.clock < until_s - 1e-9:
            log = np.empty((2000, kernel.LOG_COLUMNS + self.shown[2]))
            why, self.clock, written = kernel.run_rest(
                self.named.bodies, self.state, self.trial, still, self._watch(self.circuit, None),
                self.clock, until_s, log, 0, draw, phase,
            )  # fmt: skip
            self.log.append(log[:written])
            if why == CALLED:
                return

    def _draw(self, index: int, draw: Draw, left_kg: float, other: float) -> tuple[Drawn, float]:
        outlet = draw.outlet or ""
        if outlet not in self.circuit.parts:  # a variant may lack what the brief names
            outlet = main_outlet(self.system)
        if not self._joined(outlet):
            raise NotComputedYet(
                part_id=outlet, part_name=self._label(outlet),
                reason="nothing is joined to it in this state",
            )  # fmt: skip
        if self.clock >= self._edge - 1e-9:
            self._hour()
        self._press_loops()
        self.mode.called = self._wants()
        self.mode.drawing = True
        opens, point, wanted = self._throttled(draw, outlet)
        nudged_c = 0.5 * (draw.low_c + draw.high_c) if draw.nudged else None
        flowing, net = self._held_back(point, outlet, nudged_c, wanted)
        watch = self._watch(point.solved.circuit, outlet)
        opened = self.clock
        kernel.catch_up_all(self.named.bodies, self.state, self.clock)
        ends = point.solved.circuit.ends[outlet]
        flow = float(point.solved.litres[ends])
        warm: float | None = None
        dry = False
        window = (draw.low_c, draw.high_c)
        inside, ran = 0.0, 0.0
        phase = WAITING if draw.clock == "warm" else RUNNING
        stretch = draw.duration_s / (draw.stops + 1)
        stops_left, next_stop = draw.stops, stretch
        while flow > 1e-8:
            until = opened + self.brief.gives_up_s
            if phase == RUNNING:
                until = self.clock + (next_stop if stops_left else draw.duration_s) - ran
            before = self.clock
            why, left_kg, inside = self._run(
                until, flowing, watch, window, inside, warm is None, left_kg, other, index,
                phase, net,
                draw.gives_up_c if draw.gives_up_c is not None and warm is not None else NEVER_C,
            )  # fmt: skip
            if phase == RUNNING:
                ran += self.clock - before
            if why == CALLED:
                self.mode.called = self._wants()
                point = self._point(opens)
                flowing, net = self._held_back(point, outlet, nudged_c, wanted)
                continue
            if why == DRY:
                dry = True
                break
            if why == TOO_COLD:
                break
            if why == WARM:
                warm = self.clock - inside
                if phase == WAITING:
                    phase, ran = RUNNING, inside
                continue
            if phase == WAITING:
                phase = RUNNING
                continue
            if stops_left and ran >= next_stop - 1e-9:
                self._pass_time(self.clock + draw.stop_s, index, STOPPED)
                left_kg -= other * draw.stop_s
                stops_left -= 1
                next_stop += stretch
                inside = 0.0
                continue
            if ran >= draw.duration_s - 1e-9:
                break
        self.mode.drawing = False
        self._refill()
        drawn = Drawn(draw, outlet, opened, warm, self.clock, dry, flow, point)
        return drawn, left_kg

    def _await_hot(self) -> None:
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
            self._pass_time(min(until, self.clock + QUEUE_STEP_S))

    def _label(self, part_id: str) -> str:
        part = self.circuit.parts.get(part_id)
        return part.label if part is not None else "An outlet"

    def _joined(self, outlet: str) -> bool:
        """Say whether a run leads to an outlet."""
        if outlet not in self.circuit.ends:
            return False
        node = self.circuit.links[self.circuit.ends[outlet]].start
        return any(link.is_run and node in (link.start, link.end) for link in self.circuit.links)

    def _press_loops(self) -> None:
        """Run loops on a button before the tap is opened."""
        pressed = [loop for loop in self.loops if loop.rule == "button" and self._fitted(loop.id)]
        if not pressed:
            return
        self.mode.loops = frozenset(loop.id for loop in pressed)
        self._pass_time(self.clock + max(loop.runs_s for loop in pressed))
        self.mode.loops = frozenset()

    def _fitted(self, part_id: str) -> bool:
        return part_id in self.circuit.ways and part_id not in self.circuit.dry

    def _refill(self) -> None:
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

    def day(self, draws: tuple[Draw, ...], fresh_kg: float, other_kg_per_s: float) -> Day:
        """Run one day from where the last one ended.

        Parameters
        ----------
        draws : tuple of Draw
            In order of time, edges settled. [-]
        fresh_kg : float
            In the tank at midnight. [kg]
        other_kg_per_s : float
            Other fresh water, evenly. [kg/s]

        Returns
        -------
        Day
            Every step, every draw, the balance. [-]
        """
        bodies, state = self.named.bodies, self.state
        self.clock, self.log, self.pumped, self.stretches = 0.0, [], {}, []
        self._edge = 0.0
        state.rested[:] = 0.0
        state.counted[:] = 0.0
        state.given[:] = 0.0
        state.taken[:] = 0.0
        if len(state.stirred):
            state.stirred[:, kernel.HEAT_GIVEN] = 0.0
            state.stirred[:, kernel.STARTS] = 0.0
        self._began = self._marks()
        started = kernel.total_heat(bodies, state)
        pooled = kernel.held_mass(state)
        drawn: list[Drawn] = []
        left = fresh_kg
        for index, draw in enumerate(draws):
            start, before = max(draw.start_s, self.clock), self.clock
            self._pass_time(start)
            if draw.waits_hot:
                self._await_hot()
            left -= other_kg_per_s * (self.clock - before)
            done, left = self._draw(index, draw, left, other_kg_per_s)
            drawn.append(done)
        self._pass_time(86400.0)
        self._close()
        kernel.catch_up_all(bodies, state, self.clock)
        vessel, _, layers = self.shown
        width = kernel.LOG_COLUMNS + layers
        log = np.concatenate(self.log) if self.log else np.empty((0, width))
        return Day(
            log=log, drawn=tuple(drawn), balance=self._balance(started, pooled),
            pumped_s=dict(self.pumped),
            starts={
                part_id: float(row[kernel.STARTS])
                for part_id, row in zip(self.named.stirred, state.stirred, strict=True)
            },
            vessel=vessel, layers=layers, stretches=tuple(self.stretches),
        )  # fmt: skip

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
