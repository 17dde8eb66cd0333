"""A system in one state, stepped: flows with somebody at the outlets, rest and heating between."""

from __future__ import annotations

from collections.abc import Mapping
from copy import copy
from dataclasses import replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Draw
from isotherma.core.engine import columns, kernel, standing_step
from isotherma.core.engine.balance import balance, drawn_for
from isotherma.core.engine.boundary_conditions import BoundaryConditions
from isotherma.core.engine.columns import (
    B_KIND,
    CALLED,
    LOG_FULL,
    LOOP_HEATER,
    FlowState,
)
from isotherma.core.engine.fuse_rows import FuseRows
from isotherma.core.engine.inventory import Inventory
from isotherma.core.engine.loops import loops_running
from isotherma.core.engine.network_state import NetworkFlows, held_back, make_thermal_net
from isotherma.core.engine.state_transfer import (
    Holder,
    copied,
    filled,
    hand_over,
)
from isotherma.core.engine.thermal_elements import Named, make_thermal_elements
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import Point
from isotherma.core.hydraulics.network import Net
from isotherma.core.setup import Setup
from isotherma.core.setup.level_switches import batch_fills
from isotherma.core.setup.networks import Mode
from isotherma.core.setup.reservoirs import fresh_reservoirs, rows_of
from isotherma.core.system.kinds import heat, primary, temperature
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.columns import REST
from isotherma.core.timeline.record import Balance, Stretch

Floats = NDArray[np.float64]

FINE_S: Final = 0.25
SEGMENT_S: Final = 300.0
WATCHED_S: Final = 60.0  # between looks at levels near the hour one of them ends


class StateSimulation:
    """A system in one state, stepped through the part of a day it stands so."""

    def __init__(
        self,
        setup: Setup,
        fine_s: float = FINE_S,
        *,
        shows: str | None = None,
    ) -> None:
        self.fine_s = self.finest_s = fine_s
        self.setup = setup
        brief, system, climate = setup.brief, setup.system, setup.climate
        self.brief, self.system, self.standing = brief, system, setup.standing
        self.networks, self.conditions = setup.networks, setup.conditions
        self.flows = NetworkFlows(setup.networks)
        self.fuses = FuseRows(setup.fuses)
        self.mode = Mode(stopped=setup.fuses.unable)
        self.loops = [part for part in system.parts if isinstance(part, temperature.LoopPump)]
        self.network, self.space_of = setup.network, setup.space_of
        self.hours = copy(setup.hours)  # its battery runs down
        self.watched = (0.0, 0.0)
        self.home = setup.home
        self.reservoirs = fresh_reservoirs(setup.reservoirs.reservoirs, brief, self.home)
        self._reservoir_rows: dict[CompiledNetwork, tuple[NDArray[np.int64], Floats]] = {}
        self.supplies = Inventory(setup)
        self.air = {key: self.hours.space_c(at, 0.0) for key, at in self.space_of.items()}
        self.named = self._bodies()
        thermal = self.named.thermal
        self.boundary = BoundaryConditions(
            brief, climate, setup.computed, system, self.network, self.named, self.space_of,
            self.hours, setup.wires.dead,
        )  # fmt: skip
        self._coiled = len(thermal.coil) > 0
        self.batches = batch_fills(self.network.parts)
        self._fed = bool(thermal.feed.any())
        self._shares = self.fuses.sharing(self.named.sources, self.network.pumps)
        self._always = any(
            isinstance(part, primary.CirculationPump) and part.runs == "always"
            for part in self.network.parts.values()
        )
        self.state = filled(self.network, self.named, self.conditions.fresh_c)
        self.trial = copied(self.state)
        self.shown = self._shown(self._largest() if shows is None else shows)
        self._still = np.zeros(len(self.network.links))
        self.clock = 0.0
        self.log: list[Floats] = []
        self.pumped: dict[str, float] = {}
        self.stretches: list[Stretch] = []
        self._began = self._marks()
        self._waited: set[str] = set()
        self._on_pitch = np.flatnonzero(thermal.source[:, columns.S_SHARES] >= 0)
        self._edge = 0.0

    def _bodies(self) -> Named:
        """Make the thermal bodies of the network, with what feeds and fuses them."""
        brief, climate = self.setup.brief, self.setup.climate
        hot_c = max([self.conditions.fresh_c + 5.0, *self._settings()])
        self.mode.called = self.mode.engine = True  # heaters of loops as they burn
        lit = self.networks.of(self.mode)
        self.mode.called = self.mode.engine = False
        assert [link.item for link in lit.links] == [link.item for link in self.network.links]
        named = make_thermal_elements(
            lit, air_c=self.air, usual_c=max(brief.inside_c, climate.air_c), hot_c=hot_c
        )
        sources, parts = named.sources, self.network.parts
        watts = named.thermal.source[:, columns.S_WATTS]
        feed, ohm = self.fuses.feed(sources, parts)
        thermal = named.thermal._replace(
            fuse=self.fuses.rows(), wired=self.fuses.wired(sources, watts, parts), feed=feed,
            ohm=ohm,
        )  # fmt: skip
        return replace(named, thermal=thermal)

    @property
    def blown(self) -> tuple[str, ...]:
        """Fuses that have blown, as far as was run."""
        return self.fuses.blown(self.named.thermal.fuse)

    @property
    def tripped(self) -> tuple[str, ...]:
        """Sources whose cut-out waits for a hand, as far as was run."""
        return tuple(
            key
            for key, relay in zip(self.named.sources, self.state.relays.tolist(), strict=True)
            if relay == columns.TRIPPED
        )

    def heed_fuses(self) -> None:
        """Let what hangs on a blown fuse stand."""
        self.mode.stopped = self.fuses.stopped(self.named.thermal.fuse)

    def _load_fuses(self, network: CompiledNetwork, flowing: FlowState) -> None:
        """Say what runs on the fuses beside elements while water moves so."""
        pumping = frozenset(
            pump
            for pump, link in network.pumps.items()
            if abs(flowing.flow[link]) > columns.STILL_KG_PER_S
        )
        lit = {
            part_id: bool(now[columns.PHASE] == columns.BURNING)
            for part_id, now in zip(self.named.stirred, self.state.stirred, strict=True)
            if now[columns.WANTED] > 0.0
        }
        pumping |= {
            key for key, now in zip(self.named.rounds, self.state.reuse, strict=True)
            if now[columns.ROUND_RUNS] > 0.5
        }  # fmt: skip
        thermal = self.named.thermal
        self.fuses.carry(
            thermal.fuse, thermal.feed, self.named.sources, pumping, lit, blowing=self.mode.called
        )
        for waits in self.fuses.waits(pumping, lit):
            self.state.stirred[self.named.stirred.index(waits), columns.WANTED] = 0.0

    def _heed_elements(self) -> None:
        """Let pumps have what elements on the same wires leave them."""
        if self._shares:
            self.mode.beside = frozenset(
                key
                for key, relay in zip(self.named.sources, self.state.relays, strict=True)
                if relay == columns.ON and key in self._shares
            )

    def _settings(self) -> list[float]:
        return [
            float(part.set_c)
            for part in self.network.parts.values()
            if isinstance(part, heat.Element | heat.Burner | heat.Combi | heat.Thermostat)
        ] + [60.0 for part in self.network.parts.values() if isinstance(part, heat.Coil)]

    def _largest(self) -> str:
        """Choose the vessel the pages show: the largest."""
        rows = self.named.thermal.vessel
        masses = {key: row[1] * row[2] for key, row in zip(self.named.vessels, rows, strict=True)}
        return max(masses, key=lambda key: masses[key]) if masses else ""

    def _shown(self, vessel: str) -> tuple[str, int, int]:
        """Give a vessel with its first layer and how many it has; nothing if it is not there."""
        if vessel not in self.named.vessels:
            return "", 0, 0
        row = self.named.thermal.vessel[self.named.vessels.index(vessel)]
        return vessel, int(row[0]), int(row[1])

    @property
    def layers_shown(self) -> NDArray[np.int64]:
        """First layer of the vessel shown and how many it has."""
        return np.array(self.shown[1:], dtype=np.int64)

    # --- flows ---

    def point(self, opens: Mapping[str, float]) -> Point:
        """Give where flows settle as the network runs now."""
        self._heed_elements()
        return self.networks.point(self.mode, opens)

    def throttled(self, draw: Draw, outlet: str) -> tuple[float, float | None]:
        """Find how far an outlet is opened for the flow that is wanted, and that flow."""
        return self.networks.throttled(self.mode, draw, outlet)

    def held_back(
        self, point: Point, limits: Mapping[str, float], nudged_c: Mapping[str, float]
    ) -> tuple[FlowState, Net]:
        """Give the network of draws: wanted flows by outlet [m³/s], what hands steer to [°C]."""
        flowing = self.flows.flowing(point, self._shift_k, nudged_c)
        return flowing, held_back(point, flowing, limits)

    def wants(self) -> bool:
        """Set heaters of loops to what thermostats call for; say whether heat is called for."""
        called = any(self.state.relays[index] == columns.ON for index in self.named.calls)
        for row in range(len(self.named.thermal.stirred)):
            if self.named.thermal.stirred[row, B_KIND] == LOOP_HEATER:
                self.state.stirred[row, columns.WANTED] = float(called)
        return called

    # --- time ---

    def run(
        self, until_s: float, flowing: FlowState, net: Net, taps: NDArray[np.int64],
        windows: Floats,
    ) -> tuple[int, int]:  # fmt: skip
        """Run water until a time; give why it ended, and at which tap or reservoir."""
        network, people = self.networks.of(self.mode), len(taps)
        # a loop's water is felt at the head, a primary's by nobody: its slugs may be longer
        felt = people or self.mode.loops
        fine = self.fine_s if felt else max(1.0, 4.0 * self.fine_s)
        thermal_net = make_thermal_net(self.network, net)
        if self.fuses.ids or self._fed:
            self._load_fuses(network, flowing)
        reservoirs, before = self._draw_from(network), self.reservoirs.now_kg()
        while True:
            rows = people * (int((until_s - self.clock) / fine * 1.1) + 300)
            log = np.empty((max(1, rows), columns.LOG_COLUMNS + self.shown[2]))
            why, who, clock, written = kernel.run_flow(
                net, thermal_net, self.named.thermal, self.state, self.trial, flowing, taps,
                windows, self.layers_shown, self.clock, until_s, reservoirs, fine, log, 0,
            )  # fmt: skip
            if people:
                self.log.append(log[:written])
            for pump, link in network.pumps.items():
                if abs(flowing.flow[link]) > columns.STILL_KG_PER_S:
                    self.pumped[pump] = self.pumped.get(pump, 0.0) + clock - self.clock
            self.clock = clock
            if why != LOG_FULL:
                if why == CALLED:
                    self.heed_fuses()
                self.reservoirs.ran(before, reservoirs.left, self.clock)
                return why, who

    def _draw_from(self, network: CompiledNetwork) -> columns.Reservoirs:
        """Give the kernel what is left to draw from."""
        if network not in self._reservoir_rows:
            self._reservoir_rows[network] = rows_of(network, self.reservoirs.reservoirs)
        row, way = self._reservoir_rows[network]
        reservoirs = self.reservoirs
        reservoirs.pass_time(self.clock)
        return columns.Reservoirs(
            row, way, reservoirs.now_kg(), reservoirs.other_kg_per_s, reservoirs.took_kg,
            np.zeros(len(reservoirs.reservoirs)),
        )  # fmt: skip

    def pass_time(self, until_s: float, draw: int = -1, phase: int = REST) -> None:
        """Let time pass with everything shut: rest, or heating through the primary."""
        pressed = self.mode.loops
        fitted = [loop for loop in self.loops if self.fitted(loop.id)]
        while self.clock < until_s - 1e-9:
            self.turn()
            self._note_waits()
            self.mode.called = self.wants()
            self.mode.loops, goal = loops_running(fitted, pressed, self.clock, until_s)
            goal = min(goal, self._edge)
            if self.mode.called or self.mode.loops or self._turns():
                point = self.point({})
                if np.abs(point.solved.mass).max(initial=0.0) > columns.STILL_KG_PER_S:
                    # a day that only warms up shows nobody its steps
                    segment = SEGMENT_S if self.fine_s <= self.finest_s else 4.0 * SEGMENT_S
                    self._heat(min(goal, self.clock + segment), point, draw, phase)
                    continue
            self._rest(goal, draw, phase)
        self.mode.loops = pressed

    # --- the clock ---

    def _shift_k(self, tank: moved.FreshTank) -> float:
        return self.hours.tank_shift_k(tank, self.space_of.get(tank.id), self.clock)

    def _marks(self) -> tuple[float, Floats, Floats, Floats, dict[str, float], float]:
        """Take down what has been given so far."""
        stirred = self.state.stirred
        return (
            self.clock, self.state.given.copy(), self.state.drawn.copy(),
            stirred[:, columns.HEAT_GIVEN : columns.STARTS + 1].copy(), dict(self.pumped),
            float(self.state.counted[columns.AIR_HEAT]),
        )  # fmt: skip

    def _note_waits(self) -> None:
        """Note which sources call for heat and find too little of the pitch left."""
        for s in self._on_pitch:
            if self.state.relays[s] == columns.WAITS:
                self._waited.add(self.named.sources[s])

    def _close(self) -> None:
        """Close a stretch of the day, and carry the battery over it."""
        self._note_waits()
        waits, self._waited = tuple(sorted(self._waited)), set()
        start, given, drawn, thermal, pumped, air_j = self._began
        self._began = self._marks()
        end, given_now, drawn_now, bodies_now, pumped_now, air_now_j = self._began
        span = end - start
        if span <= 1e-9:
            return
        sources: dict[str, float] = {}
        for part_id, joules in zip(self.named.sources, (given_now - given).tolist(), strict=True):
            if joules > 0.0:
                sources[part_id] = sources.get(part_id, 0.0) + joules
        took = drawn_for(self.named.sources, given_now - given, drawn_now - drawn)
        made = tuple(zip(self.named.stirred, (bodies_now - thermal).tolist(), strict=True))
        charge, standing, air_c, bottle_c = self.boundary.over(self.hours, start, end)
        stretch = Stretch(
            start_s=start, span_s=span, sources_j=sources, drawn_j=took,
            bodies_j={key: row[0] for key, row in made if row[0] != 0.0},
            pumped_s={
                key: now - before for key, now in pumped_now.items()
                if now > (before := pumped.get(key, 0.0))
            },
            starts={key: row[1] for key, row in made if row[1] > 0.0},
            charge_w=charge, standing_w=standing, air_c=air_c, bottle_c=bottle_c,
            air_j=air_now_j - air_j, waits=waits,
        )  # fmt: skip
        self.stretches.append(stretch)
        if self.hours.usable_j is not None:
            taken = sum(took.get(key, sources.get(key, 0.0)) for key in self.boundary.on_battery)
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
        return figure(self.network.parts[part_id], "holds_m3")

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
        first, last = self.watched
        return first <= clock_s < last

    def _hour(self) -> None:
        """Let the clock act: air around things, what sources may do, the engine's coolant."""
        self._close()
        thermal, now = self.named.thermal, self.clock
        standing_step.catch_up_all(thermal, self.state, now)
        slot = self.boundary.slot(self.hours, now)
        self._edge = slot.edge_s
        if self._looks(now):
            self._edge = min(self._edge, now + WATCHED_S)
        elif now < self.watched[0]:
            self._edge = min(self._edge, self.watched[0])
        middle = 0.5 * (now + self._edge)
        self.mode.engine = self.boundary.act(self.hours, thermal, slot, middle, self.mode.out)

    def _turns(self) -> bool:
        """Say whether something always moves past a coil: an engine, a pump that never stops."""
        return self._coiled and (self._always or (self.mode.engine and bool(self.boundary.engines)))

    def _heat(self, until_s: float, point: Point, draw: int, phase: int) -> None:
        began, before = self.clock, float(self.state.given.sum())
        flowing = self.flows.flowing(point, self._shift_k)
        body = float(self.state.counted[columns.BODIES] + self.state.counted[columns.HELD_HEAT])
        nobody = np.empty((0, 6), np.int64), np.empty((0, 7))
        self.run(until_s, flowing, point.solved.network.net, *nobody)
        span = self.clock - began
        if span <= 0.0:
            return
        row = np.zeros((1, columns.LOG_COLUMNS + self.shown[2]))
        row[0, columns.END], row[0, columns.STEP] = self.clock, span
        row[0, columns.ELEMENT] = (float(self.state.given.sum()) - before) / span
        now = float(self.state.counted[columns.BODIES] + self.state.counted[columns.HELD_HEAT])
        row[0, columns.BURNER] = (now - body) / span
        row[0, columns.DRAW], row[0, columns.PHASE_OF] = draw, phase
        _, first, layers = self.shown
        row[0, columns.LOG_COLUMNS :] = self.state.layers[first : first + layers]
        self.log.append(row)

    def _rest(self, until_s: float, draw: int, phase: int) -> None:
        still = self._still
        self.named.thermal.fuse[:, columns.U_OTHERS] = 0.0
        while self.clock < until_s - 1e-9:
            rows = int((until_s - self.clock) / kernel.REST_STEP_S) + 24
            log = np.empty((rows, columns.LOG_COLUMNS + self.shown[2]))
            why, self.clock, written = kernel.run_rest(
                self.named.thermal, self.state, self.trial, still, self.layers_shown,
                self.clock, until_s, log, 0, draw, phase,
            )  # fmt: skip
            self.log.append(log[:written])
            if why == CALLED:
                return

    def joined(self, outlet: str) -> bool:
        """Say whether a run leads to an outlet, or water goes round to it."""
        if outlet in self.named.rounds:
            return True
        if outlet not in self.network.ends:
            return False
        node = self.network.links[self.network.ends[outlet]].start
        return any(link.is_run and node in (link.start, link.end) for link in self.network.links)

    def fitted(self, part_id: str) -> bool:
        """Say whether a part is joined and holds water in this state."""
        return part_id in self.network.part_links and part_id not in self.network.dry

    def begin(self) -> tuple[float, float]:
        """Count anew from here; give the heat and the open water there are."""
        state, thermal = self.state, self.named.thermal
        self._edge = self.clock
        state.rested[:] = self.clock
        for counted in (state.counted, state.given, state.drawn, state.taken):
            counted[:] = 0.0
        if len(state.stirred):
            state.stirred[:, columns.HEAT_GIVEN] = 0.0
            state.stirred[:, columns.STARTS] = 0.0
            state.stirred[:, columns.FIRED_S] = 0.0
        self._began = self._marks()
        return standing_step.total_heat(thermal, state), standing_step.held_mass(state)

    def end(
        self, begun: tuple[float, float], starts: dict[str, float], fired: dict[str, float]
    ) -> Balance:
        """Close the books of what ran in this state."""
        self._close()
        standing_step.catch_up_all(self.named.thermal, self.state, self.clock)
        for part_id, row in zip(self.named.stirred, self.state.stirred, strict=True):
            starts[part_id] = starts.get(part_id, 0.0) + float(row[columns.STARTS])
            fired[part_id] = fired.get(part_id, 0.0) + float(row[columns.FIRED_S])
        return balance(self.network, self.named, self.state, *begun)

    # --- other states within a day ---

    def take_over(self, other: StateSimulation) -> float:
        """Go on from another state of the same system; give the heat that was let out [J].

        What both have keeps its heat; what only one has stands as it was left, or is empty.
        """
        self.clock, self.log, self.pumped = other.clock, other.log, other.pumped
        self.stretches, self.hours.battery_j = other.stretches, other.hours.battery_j
        self.supplies.go_on(other.supplies)
        self.reservoirs = other.reservoirs
        self.mode.out, self.watched = other.mode.out, other.watched
        self.named.thermal.fuse[:] = other.named.thermal.fuse  # of one system: the same fuses
        self.heed_fuses()
        held_j = standing_step.total_heat(other.named.thermal, other.state)
        standing_step.catch_up_all(self.named.thermal, self.state, self.clock)
        hand_over(self.holder(), other.holder())
        return float(held_j - standing_step.total_heat(self.named.thermal, self.state))

    def holder(self) -> Holder:
        """Give its state with the names of what it holds."""
        return Holder(self.state, self.named, self.boundary.runs, tuple(self.network.mixers))
