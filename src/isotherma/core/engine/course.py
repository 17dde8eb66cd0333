"""The course of a day: draws one after the other, rest and heating between, loops by their rule."""

from __future__ import annotations

from collections.abc import Mapping
from copy import copy
from dataclasses import replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Brief, Draw
from isotherma.core.climate import DAY_S, WARMEST_S, Climate
from isotherma.core.engine import columns, kernel, resting
from isotherma.core.engine.bodies import Named, make_bodies
from isotherma.core.engine.books import balance, drawn_for
from isotherma.core.engine.circuits import Mode, circuits_of, heat_ways, held_back
from isotherma.core.engine.columns import (
    B_KIND,
    CALLED,
    LOG_FULL,
    LOOP_HEATER,
    S_HYSTERESIS,
    S_SET,
    S_VESSEL,
    Bodies,
    Flowing,
    State,
)
from isotherma.core.engine.fuses import Fuses
from isotherma.core.engine.handing import Holder, copied, filled, filled_up, hand_over, overwrite
from isotherma.core.engine.hourly import Hourly
from isotherma.core.engine.needs import main_outlet, refuse_missing
from isotherma.core.engine.record import Balance, Day, Drawn, Stretch, merged
from isotherma.core.engine.supplies import Levels, Supplies, full_levels, joined_bottle_id
from isotherma.core.engine.taking import Takers
from isotherma.core.engine.washing import MOVING, REST, wash
from isotherma.core.engine.wells import fresh_wells, home_of, rows_of, wells_of
from isotherma.core.flows.circuit import Circuit
from isotherma.core.flows.pulse import Point
from isotherma.core.hydraulics.network import Net
from isotherma.core.supply.hours import Hours
from isotherma.core.system import System
from isotherma.core.system.kinds import heat, primary, temperature
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.moves import Move, moves
from isotherma.core.system.stands import positions
from isotherma.core.system.states import State as Standing

Floats = NDArray[np.float64]

FINE_S: Final = 0.25
SEGMENT_S: Final = 300.0
LONGEST_QUEUE_S: Final = 3 * 3600.0
QUEUE_STEP_S: Final = 60.0
COLDEST_S: Final = WARMEST_S + DAY_S / 2
WATCHED_S: Final = 60.0  # between looks at levels near the hour one of them ends


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
        self.circuits = circuits_of(brief, system, standing, climate)
        self.conditions = self.circuits.conditions
        stands = positions(self.circuits.known, standing)
        clock = Hours.of(brief, self.circuits.known, climate, stands)
        self.fuses = Fuses(
            self.circuits.known, self.circuits.wires, self.circuits.whole, stands,
            clock.ever_warms,
        )  # fmt: skip
        self.mode = Mode(stopped=self.fuses.stands)
        self.loops = [part for part in system.parts if isinstance(part, temperature.LoopPump)]
        self.circuit = self.circuits.of(self.mode)
        refuse_missing(self.circuit)
        known = system.model_copy(update={"parts": tuple(self.circuit.parts.values())})
        self.hours = Hours.of(brief, known, climate, self.circuit.at)
        self.takers = Takers(self.circuit.parts, known, system.volts_v)
        self._watched = (0.0, 0.0)
        joined = {end.part for run in system.pipes for end in (run.start, run.end)}
        found = wells_of(self.circuits.known.parts, joined, brief.reserve)
        self.home = home_of(self.circuit, main_outlet(system), found)
        self.wells = fresh_wells(found, brief, self.home)
        self._well_rows: dict[int, tuple[NDArray[np.int64], Floats]] = {}
        self.space_of = self._spaces()
        self.supplies = Supplies(
            self.takers,
            full_levels(self.circuit.parts.values(), self._bottle_c(), self.hours.usable_j),
        )
        self.air = {key: self.hours.space_c(at, 0.0) for key, at in self.space_of.items()}
        hot_c = max([self.conditions.fresh_c + 5.0, *self._settings()])
        self.mode.called = self.mode.engine = True  # heaters of loops as they burn
        lit = self.circuits.of(self.mode)
        self.mode.called = self.mode.engine = False
        assert [link.item for link in lit.links] == [link.item for link in self.circuit.links]
        self.named: Named = make_bodies(
            lit, air_c=self.air, usual_c=max(brief.inside_c, climate.air_c), hot_c=hot_c
        )
        sources, parts = self.named.sources, self.circuit.parts
        watts = self.named.bodies.source[:, columns.S_WATTS]
        feed, ohm = self.fuses.feed(sources, parts)
        bodies = self.named.bodies._replace(
            fuse=self.fuses.rows(), wired=self.fuses.wired(sources, watts, parts), feed=feed,
            ohm=ohm,
        )  # fmt: skip
        self.named = replace(self.named, bodies=bodies)
        self.hourly = Hourly(
            brief, climate, known, system, self.circuit, self.named, self.space_of, self.hours,
            self.circuits.wires.dead,
        )  # fmt: skip
        self._coiled = len(bodies.coil) > 0
        self._fed = bool(bodies.feed.any())
        self._shares = self._sharing()
        self._always = any(
            isinstance(part, primary.CirculationPump) and part.runs == "always"
            for part in self.circuit.parts.values()
        )
        self.state = filled(self.circuit, self.named, self.conditions.fresh_c)
        self.trial = copied(self.state)
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

    @property
    def tripped(self) -> tuple[str, ...]:
        """Sources whose cut-out waits for a hand, as far as was run."""
        return tuple(
            key
            for key, relay in zip(self.named.sources, self.state.relays.tolist(), strict=True)
            if relay == columns.TRIPPED
        )

    def _heed_fuses(self) -> None:
        """Let what hangs on a blown fuse stand."""
        self.mode.stopped = self.fuses.stopped(self.named.bodies.fuse)

    def _load_fuses(self, circuit: Circuit, flowing: Flowing) -> None:
        """Say what runs on the fuses beside elements while water moves so."""
        pumping = frozenset(
            pump
            for pump, link in circuit.pumps.items()
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
        bodies = self.named.bodies
        self.fuses.carry(
            bodies.fuse, bodies.feed, self.named.sources, pumping, lit, blowing=self.mode.called
        )
        for waits in self.fuses.waits(pumping, lit):
            self.state.stirred[self.named.stirred.index(waits), columns.WANTED] = 0.0

    def _sharing(self) -> frozenset[str]:
        """Name elements that share wires with a pump: while they are on it is slower."""
        wires = self.circuits.wires
        pumps = [row for key in self.circuit.pumps if (row := wires.row(key)) is not None]
        return frozenset(
            key for key in self.named.sources
            if (row := wires.row(key)) is not None and pumps and wires.ohm[row, pumps].any()
        )  # fmt: skip

    def _heed_elements(self) -> None:
        """Let pumps have what elements on the same wires leave them."""
        if self._shares:
            self.mode.beside = frozenset(
                key
                for key, relay in zip(self.named.sources, self.state.relays, strict=True)
                if relay > 0.0 and key in self._shares
            )

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

    def _bottle_c(self) -> float:
        """Give the mean air around the joined bottle."""
        at = self.space_of.get(joined_bottle_id(self.circuit.parts.values()) or "")
        if at is None:
            return self.climate.air_c
        return 0.5 * (self.hours.space_c(at, WARMEST_S) + self.hours.space_c(at, COLDEST_S))

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

    def point(self, opens: Mapping[str, float]) -> Point:
        """Give where flows settle as the network runs now."""
        self._heed_elements()
        return self.circuits.point(self.mode, opens)

    def throttled(self, draw: Draw, outlet: str) -> tuple[float, float | None]:
        """Find how far an outlet is opened for the flow that is wanted, and that flow."""
        return self.circuits.throttled(self.mode, draw, outlet)

    def held_back(
        self, point: Point, limits: Mapping[str, float], nudged_c: Mapping[str, float]
    ) -> tuple[Flowing, Net]:
        """Give the network of draws: wanted flows by outlet [m³/s], what hands steer to [°C]."""
        flowing = self.circuits.flowing(point, self._shift_k, nudged_c)
        return flowing, held_back(point, flowing, limits)

    def sees(self, circuit: Circuit, outlet: str) -> tuple[int, int, int, int]:
        """Give the links of an outlet and of its mixer's legs, and the mixer; -1 where none is.

        Below -1: water that goes round, see the kernel.
        """
        if outlet in self.named.rounds:
            return -2 - self.named.rounds.index(outlet), -1, -1, -1
        return self.circuits.sees(circuit, outlet)

    def wants(self) -> bool:
        """Set heaters of loops to what thermostats call for; say whether heat is called for."""
        called = any(self.state.relays[index] > 0.0 for index in self.named.calls)
        for row in range(len(self.named.bodies.stirred)):
            if self.named.bodies.stirred[row, B_KIND] == LOOP_HEATER:
                self.state.stirred[row, columns.WANTED] = float(called)
        return called

    # --- time ---

    def run(
        self, until_s: float, flowing: Flowing, net: Net, taps: NDArray[np.int64],
        windows: Floats,
    ) -> tuple[int, int]:  # fmt: skip
        """Run water until a time; give why it ended, and at which tap or well."""
        circuit, people = self.circuits.of(self.mode), len(taps)
        # a loop's water is felt at the head, a primary's by nobody: its slugs may be longer
        felt = people or self.mode.loops
        fine = self.fine_s if felt else max(1.0, 4.0 * self.fine_s)
        ways = heat_ways(self.circuit, net)
        if self.fuses.ids or self._fed:
            self._load_fuses(circuit, flowing)
        wells, before = self._draw_from(circuit), self.wells.now_kg()
        while True:
            rows = people * (int((until_s - self.clock) / fine * 1.1) + 300)
            log = np.empty((max(1, rows), columns.LOG_COLUMNS + self.shown[2]))
            why, who, clock, written = kernel.run_flow(
                net, ways, self.named.bodies, self.state, self.trial, flowing, taps, windows,
                self.layers_shown, self.clock, until_s, wells, fine, log, 0,
            )  # fmt: skip
            if people:
                self.log.append(log[:written])
            for pump, link in circuit.pumps.items():
                if abs(flowing.flow[link]) > columns.STILL_KG_PER_S:
                    self.pumped[pump] = self.pumped.get(pump, 0.0) + clock - self.clock
            self.clock = clock
            if why != LOG_FULL:
                if why == CALLED:
                    self._heed_fuses()
                self.wells.ran(before, wells.left, self.clock)
                return why, who

    def _draw_from(self, circuit: Circuit) -> columns.Wells:
        """Give the kernel what is left to draw from."""
        key = id(circuit)  # kept as long as the circuits are
        if key not in self._well_rows:
            self._well_rows[key] = rows_of(circuit, self.wells.wells)
        row, way = self._well_rows[key]
        wells = self.wells
        wells.pass_time(self.clock)
        return columns.Wells(
            row, way, wells.now_kg(), wells.other_kg_per_s, wells.took_kg,
            np.zeros(len(wells.wells)),
        )  # fmt: skip

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
                if np.abs(point.solved.mass).max(initial=0.0) > columns.STILL_KG_PER_S:
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

    def _marks(self) -> tuple[float, Floats, Floats, Floats, dict[str, float], float]:
        """Take down what has been given so far."""
        stirred = self.state.stirred
        return (
            self.clock, self.state.given.copy(), self.state.drawn.copy(),
            stirred[:, columns.HEAT_GIVEN : columns.STARTS + 1].copy(), dict(self.pumped),
            float(self.state.counted[columns.AIR_HEAT]),
        )  # fmt: skip

    def _close(self) -> None:
        """Close a stretch of the day, and carry the battery over it."""
        start, given, drawn, bodies, pumped, air_j = self._began
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
        made = tuple(zip(self.named.stirred, (bodies_now - bodies).tolist(), strict=True))
        charge, standing, air_c, bottle_c = self.hourly.over(self.hours, start, end)
        stretch = Stretch(
            start_s=start, span_s=span, sources_j=sources, drawn_j=took,
            bodies_j={key: row[0] for key, row in made if row[0] != 0.0},
            pumped_s={
                key: now - before for key, now in pumped_now.items()
                if now > (before := pumped.get(key, 0.0))
            },
            starts={key: row[1] for key, row in made if row[1] > 0.0},
            charge_w=charge, standing_w=standing, air_c=air_c, bottle_c=bottle_c,
            air_j=air_now_j - air_j,
        )  # fmt: skip
        self.stretches.append(stretch)
        if self.hours.usable_j is not None:
            taken = sum(took.get(key, sources.get(key, 0.0)) for key in self.hourly.on_battery)
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
        resting.catch_up_all(bodies, self.state, now)
        slot = self.hourly.slot(self.hours, now)
        self._edge = slot.edge_s
        if self._looks(now):
            self._edge = min(self._edge, now + WATCHED_S)
        elif now < self._watched[0]:
            self._edge = min(self._edge, self._watched[0])
        middle = 0.5 * (now + self._edge)
        self.mode.engine = self.hourly.act(self.hours, bodies, slot, middle, self.mode.out)

    def _turns(self) -> bool:
        """Say whether something always moves past a coil: an engine, a pump that never stops."""
        return self._coiled and (self._always or (self.mode.engine and bool(self.hourly.engines)))

    def _heat(self, until_s: float, point: Point, draw: int, phase: int) -> None:
        began, before = self.clock, float(self.state.given.sum())
        flowing = self.circuits.flowing(point, self._shift_k)
        body = float(self.state.counted[columns.BODIES] + self.state.counted[columns.HELD_HEAT])
        nobody = np.empty((0, 6), np.int64), np.empty((0, 7))
        self.run(until_s, flowing, point.solved.circuit.net, *nobody)
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
        self.named.bodies.fuse[:, columns.U_OTHERS] = 0.0
        while self.clock < until_s - 1e-9:
            rows = int((until_s - self.clock) / kernel.REST_STEP_S) + 24
            log = np.empty((rows, columns.LOG_COLUMNS + self.shown[2]))
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
                self.wells.take(self.home, missing)
                heat_j = now[0] * row[4] + row[1]
                now[1] = (heat_j * now[1] + missing * row[4] * fresh) / (heat_j + missing * row[4])
                now[0] = row[0]
                self.state.counted[columns.IN] += missing * row[4] * fresh
                self.state.counted[columns.MASS_IN] += missing

    def day(
        self,
        draws: tuple[Draw, ...],
        used_kg: Mapping[str, float] | None = None,
        levels: Levels | None = None,
        ends_s: float | None = None,
    ) -> Day:
        """Run one day from where the last one ended.

        Parameters
        ----------
        draws : tuple of Draw
            In order of time, edges settled. [-]
        used_kg : mapping of str to float or None
            What earlier days took from tanks, bags and cans, by part; None: all are full. [kg]
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
        self.wells = fresh_wells(self.wells.wells, self.brief, self.home, used_kg)
        self.mode.out = frozenset()
        self._heed_fuses()
        self._watched = (0.0, 0.0) if ends_s is None else (ends_s - 3600.0, ends_s + 3600.0)
        drawn: list[Drawn] = []
        starts: dict[str, float] = {}
        fired: dict[str, float] = {}
        here, balances = self, []
        begun = self._begin()
        queue = list(enumerate(draws))
        while queue or here is not self:
            there = self._in_state(queue[0][1].state if queue else None)
            if there is not here:
                if here is not self:  # back at once: things stand as usual between draws
                    there = self
                else:
                    here.pass_time(max(here.clock, queue[0][1].start_s))
                balances.append(here._end(begun, starts, fired))
                seconds = sum(move.seconds_s for move in here.moves_to(there))
                moved_j = there._take_over(here)
                balances[-1] = balances[-1].drained(moved_j)
                here, begun = there, there._begin()
                here.pass_time(min(86400.0, here.clock + seconds), -1, MOVING)
                continue
            drawn += wash(here, queue)
        self.pass_time(86400.0)
        balances.append(self._end(begun, starts, fired))
        self._watched = (0.0, 0.0)
        vessel, _, layers = self.shown
        width = columns.LOG_COLUMNS + layers
        log = np.concatenate(filled_up(self.log, width)) if self.log else np.empty((0, width))
        return Day(
            log=log, drawn=tuple(sorted(drawn, key=lambda one: one.index)),
            balance=merged(balances), pumped_s=dict(self.pumped), starts=starts,
            fired_s=fired, vessel=vessel, layers=layers, stretches=tuple(self.stretches),
            ended=tuple(self.supplies.ended), washed_kg=self.wells.washed_kg(),
            swaps=tuple(self.wells.swaps),
        )  # fmt: skip

    def again(
        self,
        draws: tuple[Draw, ...],
        used_kg: Mapping[str, float] | None,
        levels: Levels,
        ends_s: float | None,
        *,
        next_day: bool,
    ) -> Day:
        """Run the last day once more, or the next, with other levels; this stays as it is.

        Parameters
        ----------
        draws, used_kg, levels, ends_s
            As `day` has them. [-, kg, -, s]
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
                    state, fuse = states[key]
                overwrite(course.state, state)
                course.named.bodies.fuse[:] = fuse
        return there.day(draws, used_kg, levels, ends_s)

    def _twin(self) -> Course:
        """Give another that stands as this one; what is only read is shared."""
        twin = copy(self)
        twin.state, twin.trial = copied(self.state), copied(self.trial)
        bodies = Bodies._make(array.copy() for array in self.named.bodies)
        twin.named = replace(self.named, bodies=bodies)
        twin.hours, twin.mode = copy(self.hours), copy(self.mode)
        twin.supplies = Supplies(self.takers, self.supplies.full)
        twin._elsewhere = {key: course._twin() for key, course in self._elsewhere.items()}
        return twin

    def _kept(self) -> tuple[float, dict[str, tuple[State, Floats]]]:
        """Take down how everything stands, in every state that was run."""
        return self.hours.battery_j, {
            key: (copied(course.state), course.named.bodies.fuse.copy())
            for key, course in {"": self, **self._elsewhere}.items()
        }  # fmt: skip

    def _begin(self) -> tuple[float, float]:
        """Count anew from here; give the heat and the open water there are."""
        state, bodies = self.state, self.named.bodies
        self._edge = self.clock
        state.rested[:] = self.clock
        for counted in (state.counted, state.given, state.drawn, state.taken):
            counted[:] = 0.0
        if len(state.stirred):
            state.stirred[:, columns.HEAT_GIVEN] = 0.0
            state.stirred[:, columns.STARTS] = 0.0
            state.stirred[:, columns.FIRED_S] = 0.0
        self._began = self._marks()
        return resting.total_heat(bodies, state), resting.held_mass(state)

    def _end(
        self, begun: tuple[float, float], starts: dict[str, float], fired: dict[str, float]
    ) -> Balance:
        """Close the books of what ran in this state."""
        self._close()
        resting.catch_up_all(self.named.bodies, self.state, self.clock)
        for part_id, row in zip(self.named.stirred, self.state.stirred, strict=True):
            starts[part_id] = starts.get(part_id, 0.0) + float(row[columns.STARTS])
            fired[part_id] = fired.get(part_id, 0.0) + float(row[columns.FIRED_S])
        return balance(self.circuit, self.named, self.state, *begun)

    # --- other states within a day ---

    def _in_state(self, state_id: str | None) -> Course:
        """Give the system as it stands in a state of its own; this one where it has none such."""
        if state_id is None or (self.standing is not None and state_id == self.standing.id):
            return self
        if state_id not in self._elsewhere:
            standing = self.system.state_or(state_id, None)
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
        self.wells = other.wells
        self.mode.out, self._watched = other.mode.out, other._watched
        self.named.bodies.fuse[:] = other.named.bodies.fuse  # of one system: the same fuses
        self._heed_fuses()
        held_j = resting.total_heat(other.named.bodies, other.state)
        resting.catch_up_all(self.named.bodies, self.state, self.clock)
        hand_over(self._holder(), other._holder())
        return float(held_j - resting.total_heat(self.named.bodies, self.state))

    def begin_as(self, other: Course) -> None:
        """Begin as the last day of one ended that differs in figures only.

        Parameters
        ----------
        other : Course
            That has run its day; only read. [-]
        """
        self.hours.battery_j = other.hours.battery_j
        hand_over(self._holder(), other._holder())

    def ran_plainly(self) -> bool:
        """Say whether its days were run in one state, with nothing blown or tripped."""
        return not (self._elsewhere or self.blown or self.tripped)

    def _holder(self) -> Holder:
        return Holder(self.state, self.named, self.hourly.runs, tuple(self.circuit.mixers))
