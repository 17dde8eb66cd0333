"""People at the outlets: who waits for warm, who stops, who gives up, who comes beside them.

Everybody at an outlet has a clock of their own. The network runs from one event to the
next: somebody is done, shuts for soaping, comes back, or opens another outlet.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Draw
from isotherma.core.engine import columns, standing_step
from isotherma.core.engine.columns import (
    CALLED,
    DRY,
    R_HEAT_J,
    R_STREAM_KG,
    S_HYSTERESIS,
    S_SET,
    S_VESSEL,
    TOO_COLD,
    TOO_HOT,
    WARM,
)  # fmt: skip
from isotherma.core.engine.diverters import Diverts, diverts
from isotherma.core.engine.draw_records import Shut
from isotherma.core.engine.state_simulation import StateSimulation
from isotherma.core.engine.thermal_elements import ROUND_KG_PER_M3
from isotherma.core.errors import MissingValue, NotComputedYet
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import Point
from isotherma.core.setup.completeness import main_outlet
from isotherma.core.setup.reservoirs import feeding
from isotherma.core.system.kinds import temperature, use
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.columns import RUNNING, STOPPED, WAITING

LONGEST_QUEUE_S: Final = 3 * 3600.0
QUEUE_STEP_S: Final = 60.0
NEVER_C: Final = -300.0  # nobody gives up
LEAST_FLOW_M3_PER_S: Final = 1e-8

Waiting = list[tuple[int, Draw]]
Floats = NDArray[np.float64]


@dataclass(slots=True)
class _Tap:
    """Somebody at an outlet: what they ask for, and how far they are."""

    index: int
    draw: Draw
    outlet: str
    opening: float
    wanted: float | None
    opened_s: float
    phase: int
    stretch_s: float
    next_stop_s: float
    stops_left: int
    flow: float = 0.0
    point: Point | None = None
    warm_s: float | None = None
    hot_s: float | None = None
    inside_s: float = 0.0
    above_s: float = 0.0
    below_s: float = 0.0
    ran_s: float = 0.0
    stopped_until_s: float = 0.0
    back_to: int = RUNNING
    took_kg: dict[str, float] = field(default_factory=dict)
    returned_kg: float = 0.0
    diverts: Diverts | None = None
    jug_kg: float = 0.0

    def until_s(self, clock_s: float, gives_up_s: float) -> float:
        """Give when something is due: warm or given up, a stop, its end, or done."""
        if self.phase == WAITING:
            return self.opened_s + gives_up_s
        if self.phase == STOPPED:
            return self.stopped_until_s
        goal = self.next_stop_s if self.stops_left else self.draw.duration_s
        return clock_s + goal - self.ran_s

    def window(self) -> list[float]:
        """Give its row of the kernel's windows."""
        gives_up = self.draw.gives_up_c
        below_c = gives_up if gives_up is not None and self.warm_s is not None else NEVER_C
        stops = 0.0 if self.warm_s is not None else 1.0 if self.hot_s is not None else 2.0
        return [
            self.draw.low_c, self.draw.high_c, self.inside_s, stops, below_c,
            self.below_s, self.above_s,
        ]  # fmt: skip


def outlet_of(simulation: StateSimulation, draw: Draw) -> str:
    """Give the outlet a draw is taken at.

    Parameters
    ----------
    simulation : StateSimulation
        A system in a state. [-]
    draw : Draw
        What somebody asks for. [-]

    Returns
    -------
    str
        Part id; the main outlet where the draw names none that is there. [-]
    """
    outlet = draw.outlet or ""
    if outlet in simulation.named.rounds or outlet in simulation.network.ends:
        return outlet
    named = simulation.network.parts.get(outlet)
    # another layout may call a tray what this brief's tap is called
    return outlet if isinstance(named, use.Outlet) else main_outlet(simulation.system)


def wash(simulation: StateSimulation, queue: Waiting) -> list[Shut]:
    """Run the first draw of a queue and whoever comes beside it; take them off the queue.

    Parameters
    ----------
    simulation : StateSimulation
        A system in the state the first draw asks for. [-]
    queue : list of pairs
        Draws by their index, in order of time. [-]

    Returns
    -------
    list of Shut
        As they ended. [-]

    Raises
    ------
    NotComputedYet
        If nothing is joined to an outlet.
    """
    index, draw = queue.pop(0)
    simulation.pass_time(max(draw.start_s, simulation.clock))
    if draw.waits_hot:
        _await_hot(simulation)
    simulation.turn()
    people = _People(simulation, queue)
    people.open(index, draw)
    while people.active:
        people.step()
    simulation.mode.drawing = False
    _refill(simulation)
    return people.done


class _People:
    """All who wash at once, from the first to open to the last to shut."""

    def __init__(self, simulation: StateSimulation, queue: Waiting) -> None:
        self.simulation, self.queue = simulation, queue
        self.active: list[_Tap] = []
        self.done: list[Shut] = []

    def open(self, index: int, draw: Draw) -> None:
        """Let somebody open an outlet now."""
        simulation = self.simulation
        outlet = outlet_of(simulation, draw)
        if not simulation.joined(outlet):
            raise NotComputedYet(
                part_id=outlet, part_name=simulation.setup.label(outlet),
                reason="not_joined",
            )  # fmt: skip
        if not self.active:
            _press_loops(simulation)
            simulation.mode.called = simulation.wants()
            simulation.mode.drawing = True
            standing_step.catch_up_all(simulation.named.thermal, simulation.state, simulation.clock)
        opening, wanted = 1.0, None
        if outlet in simulation.named.rounds:
            self._fill_round(outlet)
        else:
            opening, wanted = simulation.throttled(draw, outlet)
        stretch = draw.duration_s / (draw.stops + 1)
        tap = _Tap(
            index, draw, outlet, opening, wanted, simulation.clock,
            WAITING if draw.clock == "warm" else RUNNING, stretch, stretch, draw.stops,
        )  # fmt: skip
        if outlet not in simulation.named.rounds:
            tap.diverts = diverts(simulation.setup.computed, simulation.network.at, outlet)
        tap.jug_kg = _jug_kg(simulation, outlet)
        self.active.append(tap)
        tap.point = simulation.point(self._opens())
        tap.flow = self._flow_of(tap, tap.point)
        if tap.flow <= LEAST_FLOW_M3_PER_S:
            self._shut(tap)

    def _flow_of(self, tap: _Tap, point: Point) -> float:
        simulation = self.simulation
        if tap.outlet in simulation.named.rounds:
            if not simulation.powered:
                return 0.0
            slot = simulation.named.rounds.index(tap.outlet)
            return float(simulation.named.thermal.reuse[slot, R_STREAM_KG]) / ROUND_KG_PER_M3
        return float(point.solved.flow_m3_per_s[point.solved.network.ends[tap.outlet]])

    def _opens(self) -> dict[str, float]:
        """Give how far everything is open now."""
        return {
            tap.outlet: tap.opening for tap in self.active
            if tap.phase != STOPPED and tap.outlet not in self.simulation.named.rounds
        }  # fmt: skip

    def _next(self) -> int | None:
        """Find who may come next beside those who wash: at a free outlet, in the same state."""
        simulation = self.simulation
        busy = {tap.outlet for tap in self.active}
        first = self.active[0].draw
        for at, (_, draw) in enumerate(self.queue):
            if draw.state != first.state or draw.waits_hot:
                return None
            outlet = outlet_of(simulation, draw)
            if outlet not in busy:
                return at
            busy.add(outlet)
        return None

    def step(self) -> None:
        """Run to the next event and let it happen."""
        simulation = self.simulation
        simulation.mode.drawing = True
        simulation.turn_within()
        goal = min(
            tap.until_s(simulation.clock, simulation.brief.gives_up_s) for tap in self.active
        )
        joins = self._next()
        comes_s = (
            max(simulation.clock, self.queue[joins][1].start_s) if joins is not None else np.inf
        )
        if joins is not None and comes_s <= simulation.clock:
            self.open(*self.queue.pop(joins))
            return
        goal = simulation.due_s(min(goal, comes_s))
        flowing = [tap for tap in self.active if tap.phase != STOPPED]
        if not flowing:
            simulation.pass_time(goal, self.active[0].index, STOPPED)
            self._settle()
            return
        self._flow(flowing, goal)

    def _flow(self, flowing: list[_Tap], goal: float) -> None:
        """Run water until a time or until somebody is warm, cold, or without water."""
        simulation = self.simulation
        simulation.mode.called = simulation.wants()
        point = simulation.point(self._opens())
        limits = {tap.outlet: tap.wanted for tap in flowing if tap.wanted is not None}
        nudged = {
            tap.outlet: 0.5 * (tap.draw.low_c + tap.draw.high_c)
            for tap in flowing if tap.draw.nudged
        }  # fmt: skip
        started, net = simulation.held_back(point, limits, nudged)
        network = point.solved.network
        taps = np.array(
            [_row(simulation, network, tap) for tap in flowing],
            dtype=np.int64,
        )
        windows = np.array([tap.window() for tap in flowing])
        before = simulation.clock
        rounds = [tap for tap in flowing if tap.outlet in simulation.named.rounds]
        self._send_round(rounds)
        took = simulation.reservoirs.took_kg.copy()
        why, who = simulation.run(goal, started, net, taps, windows)
        self._share_out(flowing, simulation.reservoirs.took_kg - took)
        self._send_round([])
        for tap, row in zip(flowing, windows, strict=True):
            tap.inside_s, tap.below_s = float(row[columns.W_INSIDE]), float(row[columns.W_BELOW])
            tap.above_s = float(row[columns.W_ABOVE])
            if tap.phase == RUNNING:
                tap.ran_s += simulation.clock - before
        if why == DRY:
            self._run_dry(who, network)
            return
        if why == WARM:
            tap = flowing[who]
            self._send_back(tap, tap.inside_s)
            tap.warm_s = simulation.clock - tap.inside_s
            if tap.phase == WAITING:
                tap.phase, tap.ran_s = RUNNING, tap.inside_s
        elif why == TOO_HOT:  # nobody waits in it
            tap = flowing[who]
            self._send_back(tap, tap.above_s)
            tap.hot_s = simulation.clock - tap.above_s
            if tap.phase == WAITING:
                tap.phase, tap.ran_s = RUNNING, tap.above_s
        elif why == TOO_COLD:
            self._shut(flowing[who])
        if why != CALLED:
            self._settle()

    def _share_out(self, flowing: list[_Tap], took_kg: Floats) -> None:
        """Say whose water came out of the reservoirs, by how much runs at each outlet."""
        fresh = [tap for tap in flowing if tap.outlet not in self.simulation.named.rounds]
        total = sum(tap.flow for tap in fresh)
        for tap in fresh if total > 0.0 else ():
            for reservoir, kilograms in zip(
                self.simulation.reservoirs.reservoirs, took_kg.tolist(), strict=True
            ):
                if kilograms != 0.0:
                    share = kilograms * tap.flow / total
                    tap.took_kg[reservoir.id] = tap.took_kg.get(reservoir.id, 0.0) + share

    def _send_back(self, tap: _Tap, since_s: float) -> None:
        """Give back to its tank what a return diverter kept from the outlet until now.

        What stands between diverter and outlet runs out there; `since_s` it has been warm.
        """
        found, tap.diverts = tap.diverts, None  # once for each draw: then hands turn it
        if found is None:
            self._into_the_jug(tap, tap.flow * ROUND_KG_PER_M3 * since_s)
            return
        took = tap.took_kg.get(found.tank, 0.0)
        used = found.beyond_kg + tap.flow * ROUND_KG_PER_M3 * since_s
        tap.returned_kg = max(0.0, took - used)
        tap.took_kg[found.tank] = took - tap.returned_kg
        self.simulation.reservoirs.give_back(found.tank, tap.returned_kg)

    def _into_the_jug(self, tap: _Tap, warm_kg: float) -> None:
        """Give back to the tank what a jug under the outlet caught of the cold water."""
        room, tap.jug_kg = min(tap.jug_kg, sum(tap.took_kg.values()) - warm_kg), 0.0
        for tank, took in list(tap.took_kg.items()):
            caught = max(0.0, min(room, took))
            tap.took_kg[tank], room = took - caught, room - caught
            tap.returned_kg += caught
            self.simulation.reservoirs.give_back(tank, caught)

    def _settle(self) -> None:
        """Let everybody whose time has come act: give up waiting, stop, come back, be done."""
        simulation = self.simulation
        for tap in list(self.active):
            if tap.until_s(simulation.clock, simulation.brief.gives_up_s) > simulation.clock + 1e-9:
                continue
            if tap.phase == WAITING:
                self._send_back(tap, 0.0)
                tap.phase = RUNNING
            elif tap.phase == STOPPED:
                tap.phase, tap.inside_s, tap.back_to = tap.back_to, 0.0, RUNNING
                # a mixer that lost its place is found again with the water running
                tap.ran_s -= self._finds_s(tap)
            elif tap.stops_left:
                tap.phase = STOPPED
                tap.stopped_until_s = simulation.clock + tap.draw.stop_s
                tap.stops_left -= 1
                tap.next_stop_s += tap.stretch_s
            else:
                self._shut(tap)

    def _finds_s(self, tap: _Tap) -> float:
        """Give how long hands look for the temperature again after a pause [s]."""
        simulation = self.simulation
        if tap.outlet in simulation.named.rounds:
            return 0.0
        network = simulation.networks.of(simulation.mode)
        _, _, _, row = simulation.networks.sees(network, tap.outlet)
        mixer = network.parts.get(network.mixers[row]) if row >= 0 else None
        head = network.parts.get(tap.outlet)
        if not isinstance(mixer, temperature.ManualMixer) or mixer.pauses:
            return 0.0
        paused_elsewhere = isinstance(head, use.ShowerHead) and head.button != "none"
        return 0.0 if paused_elsewhere else figure(mixer, "finds_s")

    def _run_dry(self, row: int, network: CompiledNetwork) -> None:
        """Let those a well fed join the next can, or shut for good."""
        simulation = self.simulation
        reservoir = simulation.reservoirs.reservoirs[row].id
        pause_s = simulation.reservoirs.swap(row, simulation.clock)
        fed = [tap for tap in self.active if reservoir in feeding(network, tap.outlet)]
        for tap in fed:
            if pause_s is None:
                self._shut(tap, empty=reservoir)
            elif tap.phase != STOPPED:
                tap.back_to = tap.phase
                tap.phase, tap.stopped_until_s = STOPPED, simulation.clock + pause_s
                tap.opened_s += pause_s if tap.back_to == WAITING else 0.0

    def _shut(self, tap: _Tap, *, empty: str = "") -> None:
        """Let somebody shut their outlet for good; `empty` names what ran dry."""
        self.active.remove(tap)
        assert tap.point is not None
        if tap.outlet in self.simulation.named.rounds:
            self._drain_round(tap.outlet)
        self.done.append(
            Shut(
                tap.index, tap.draw, tap.outlet, tap.opened_s, tap.warm_s, tap.hot_s,
                self.simulation.clock, tap.flow, tap.point, self.simulation.mode.out,
                self.simulation.mode.stopped,
                self.simulation.round_m3(tap.outlet)
                if tap.outlet in self.simulation.named.rounds
                else None,
                empty, tap.took_kg, tap.returned_kg,
            )
        )  # fmt: skip

    # --- water that goes round ---

    def _fill_round(self, part_id: str) -> None:
        """Fill a loop of its own with fresh water, once for each wash."""
        simulation = self.simulation
        slot = simulation.named.rounds.index(part_id)
        row, now = simulation.named.thermal.reuse[slot], simulation.state.reuse[slot]
        if row[R_HEAT_J] <= 0.0:
            raise MissingValue(
                path=f"parts.{part_id}.holds_m3", part_name=simulation.setup.label(part_id),
                label="water going round",
            )  # fmt: skip
        fresh_c = simulation.conditions.fresh_c
        now[:] = fresh_c, fresh_c, 0.0, 1.0, 0.0
        simulation.reservoirs.take(simulation.home, simulation.round_m3(part_id) * ROUND_KG_PER_M3)
        simulation.state.counted[columns.IN] += row[R_HEAT_J] * fresh_c

    def _send_round(self, taps: list[_Tap]) -> None:
        """Let water go round at these outlets and stand at the others."""
        simulation = self.simulation
        if simulation.named.rounds:
            simulation.state.reuse[:, columns.ROUND_RUNS] = 0.0
            for tap in taps:
                simulation.state.reuse[
                    simulation.named.rounds.index(tap.outlet), columns.ROUND_RUNS
                ] = 1.0

    def _drain_round(self, part_id: str) -> None:
        """Let it out again."""
        simulation = self.simulation
        slot = simulation.named.rounds.index(part_id)
        row, now = simulation.named.thermal.reuse[slot], simulation.state.reuse[slot]
        simulation.state.counted[columns.OUT] += row[R_HEAT_J] * now[columns.ROUND_C]
        now[columns.ROUND_THERE] = now[columns.ROUND_RUNS] = 0.0


def _jug_kg(simulation: StateSimulation, outlet: str) -> float:
    """Give what a jug held under an outlet catches of its cold water [kg]."""
    return sum(
        figure(part, "volume_m3") * ROUND_KG_PER_M3
        for part in simulation.setup.computed.parts
        if isinstance(part, temperature.Jug) and part.under == outlet
    )


def _row(simulation: StateSimulation, network: CompiledNetwork, tap: _Tap) -> list[int]:
    """Give the kernel's row of somebody at an outlet: what is seen of it, for whom."""
    row = [columns.NOWHERE] * 7
    if tap.outlet in simulation.named.rounds:
        row[columns.T_ROUND] = simulation.named.rounds.index(tap.outlet)
    else:
        row[columns.T_HEAD : columns.T_MIXER + 1] = simulation.networks.sees(network, tap.outlet)
    row[columns.T_DRAW], row[columns.T_PHASE] = tap.index, tap.phase
    return row


def _await_hot(simulation: StateSimulation) -> None:
    """Wait until the sources of the shown store are content, as who hears them would."""
    until = min(simulation.clock + LONGEST_QUEUE_S, 86400.0)
    thermal, state = simulation.named.thermal, simulation.state
    if not simulation.shown[0]:
        return
    vessel = simulation.named.vessels.index(simulation.shown[0])
    rows = [
        index
        for index, row in enumerate(thermal.source)
        if int(row[S_VESSEL]) == vessel
        and simulation.network.at.get(simulation.named.sources[index]) != "off"
    ]
    while simulation.clock < until - 1e-9:
        content = [
            state.relays[index] != columns.ON
            and state.sensors[index]
            > thermal.source[index, S_SET] - thermal.source[index, S_HYSTERESIS] - 0.5
            for index in rows
        ]
        if not rows or any(content):
            return
        simulation.pass_time(min(until, simulation.clock + QUEUE_STEP_S))


def _press_loops(simulation: StateSimulation) -> None:
    """Run loops on a button before the tap is opened."""
    pressed = [
        loop for loop in simulation.loops if loop.rule == "button" and simulation.fitted(loop.id)
    ]
    if not pressed:
        return
    simulation.mode.loops = frozenset(loop.id for loop in pressed)
    simulation.pass_time(simulation.clock + max(loop.runs_s for loop in pressed))
    simulation.mode.loops = frozenset()


def _refill(simulation: StateSimulation) -> None:
    """Fill open boxes up again with fresh water, by their level switches where there are any."""
    thermal, fresh = simulation.named.thermal, simulation.conditions.fresh_c
    for key, row, now in zip(
        simulation.named.pools, thermal.pool, simulation.state.pool, strict=True
    ):
        batch = simulation.batches.get(key)
        missing = (row[0] if batch is None else batch.to_share * row[0]) - now[0]
        if batch is not None and not batch.opens(now[0] / row[0], simulation.clock):
            continue
        if missing > 1e-9:
            simulation.reservoirs.take(simulation.home, missing)
            heat_j = now[0] * row[4] + row[1]
            now[1] = (heat_j * now[1] + missing * row[4] * fresh) / (heat_j + missing * row[4])
            now[0] += missing
            simulation.state.counted[columns.IN] += missing * row[4] * fresh
            simulation.state.counted[columns.MASS_IN] += missing
