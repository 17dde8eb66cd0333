"""The course of a day: draws one after the other, rest between, moves from state to state."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from isotherma.core.brief import Draw
from isotherma.core.climate import DAY_S
from isotherma.core.engine import columns
from isotherma.core.engine.columns import ThermalState
from isotherma.core.engine.draw_events import wash
from isotherma.core.engine.draw_records import (
    Shut,
    heaters_of,
    pipes_of,
    recorded,
    sources_of,
    vessels_of,
)  # fmt: skip
from isotherma.core.engine.state_simulation import FINE_S, StateSimulation
from isotherma.core.engine.state_transfer import copied, filled_up, hand_over, overwrite
from isotherma.core.engine.thermal_elements import Named
from isotherma.core.setup import Setup
from isotherma.core.setup.inventory import Levels
from isotherma.core.setup.reservoirs import fresh_reservoirs
from isotherma.core.system.moves import moves
from isotherma.core.timeline.columns import MOVING
from isotherma.core.timeline.record import Day, Snapshot, merged

AROUND_S = 3600.0  # levels are looked at every minute so long before and after one ends


class DaySimulation:
    """A system ready to run days, in the state of the day and in those that draws ask for.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them, in the state of the day. [-]
    fine_s : float
        Step while something moves, > 0. [s]
    """

    def __init__(self, setup: Setup, fine_s: float = FINE_S) -> None:
        self.setup, self.fine_s = setup, fine_s
        self.usual = StateSimulation(setup, fine_s)
        self._elsewhere: dict[str, StateSimulation] = {}

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
        morning, usual = self.snapshot(), self.usual
        self._at_midnight(used_kg, levels, ends_s)
        drawn: list[tuple[Shut, Named]] = []
        starts: dict[str, float] = {}
        fired: dict[str, float] = {}
        here, balances = usual, []
        begun = usual.begin()
        queue = list(enumerate(draws))
        while queue or here is not usual:
            there = self._in_state(queue[0][1].state if queue else None)
            if there is not here:
                if here is not usual:  # back at once: things stand as usual between draws
                    there = usual
                else:
                    here.pass_time(max(here.clock, queue[0][1].start_s))
                balances.append(here.end(begun, starts, fired))
                seconds = _moving_s(here, there)
                moved_j = there.take_over(here)
                balances[-1] = balances[-1].drained(moved_j)
                here, begun = there, there.begin()
                here.pass_time(min(DAY_S, here.clock + seconds), -1, MOVING)
                continue
            drawn += [(shut, here.named) for shut in wash(here, queue)]
        usual.pass_time(DAY_S)
        balances.append(usual.end(begun, starts, fired))
        usual.watched = (0.0, 0.0)
        if usual.fine_s > usual.finest_s:
            drawn = []  # a day that only warms up is shown to nobody
        vessel, _, layers = usual.shown
        width = columns.LOG_COLUMNS + layers
        log = np.concatenate(filled_up(usual.log, width)) if usual.log else np.empty((0, width))
        named = usual.named
        return Day(
            log=log,
            drawn=tuple(
                recorded(shut, thermal)
                for shut, thermal in sorted(drawn, key=lambda one: one[0].index)
            ),
            balance=merged(balances), pumped_s=dict(usual.pumped), starts=starts,
            fired_s=fired, vessel=vessel, layers=layers, stretches=tuple(usual.stretches),
            ended=tuple(usual.supplies.ended), washed_kg=usual.reservoirs.washed_kg(),
            swaps=tuple(usual.reservoirs.swaps),
            vessels=vessels_of(named, usual.state), pipes=pipes_of(named, usual.network),
            sources=sources_of(named), heaters=heaters_of(named), blown=usual.blown,
            tripped=usual.tripped, morning=morning, evening=self.snapshot(),
        )  # fmt: skip

    def _at_midnight(
        self, used_kg: Mapping[str, float] | None, levels: Levels | None, ends_s: float | None
    ) -> None:
        """Begin a day with what is carried then."""
        usual = self.usual
        usual.clock, usual.log, usual.pumped, usual.stretches = 0.0, [], {}, []
        usual.supplies.begin(levels)
        usual.reservoirs = fresh_reservoirs(
            usual.reservoirs.reservoirs, usual.brief, usual.home, used_kg
        )
        usual.mode.out = frozenset()
        usual.heed_fuses()
        usual.watched = (0.0, 0.0) if ends_s is None else (ends_s - AROUND_S, ends_s + AROUND_S)

    def step_by(self, fine_s: float) -> None:
        """Take other steps from now on: longer ones for a day that only warms up [s]."""
        self.fine_s = self.usual.fine_s = fine_s

    def snapshot(self) -> Snapshot:
        """Take down how everything stands, in every state that was run.

        Returns
        -------
        Snapshot
            Arrays of its own. [see columns]
        """
        return Snapshot(self.usual.hours.battery_j, {
            key: (tuple(copied(simulation.state)), simulation.named.thermal.fuse.copy())
            for key, simulation in {"": self.usual, **self._elsewhere}.items()
        })  # fmt: skip

    def go_on_from(self, snapshot: Snapshot) -> None:
        """Stand as everything stood at a moment.

        Parameters
        ----------
        snapshot : Snapshot
            Of the same documents. [-]
        """
        self.usual.hours.battery_j = snapshot.battery_j
        for key, (state, fuse) in snapshot.states.items():
            simulation = self._in_state(key) if key else self.usual
            overwrite(simulation.state, ThermalState(*state))
            simulation.named.thermal.fuse[:] = fuse

    def begin_near(self, other: DaySimulation) -> None:
        """Begin as the last day of one ended that differs in figures only.

        Parameters
        ----------
        other : DaySimulation
            Standing as that day ended; only read. [-]
        """
        self.usual.hours.battery_j = other.usual.hours.battery_j
        hand_over(self.usual.holder(), other.usual.holder())

    def _in_state(self, state_id: str | None) -> StateSimulation:
        """Give the system as it stands in a state; as usual where it has none such."""
        usual, setup = self.usual, self.setup
        if state_id is None or (setup.standing is not None and state_id == setup.standing.id):
            return usual
        if state_id not in self._elsewhere:
            standing = setup.system.state_or(state_id, None)
            if standing is None:
                return usual
            self._elsewhere[state_id] = StateSimulation(
                Setup(setup.brief, setup.system, standing, setup.climate), self.fine_s,
                shows=usual.shown[0],
            )  # fmt: skip
        there = self._elsewhere[state_id]
        there.fine_s = self.fine_s
        return there


def _moving_s(here: StateSimulation, there: StateSimulation) -> float:
    """Give how long hands take from one state to another [s]."""
    system = here.setup.system
    return sum(move.seconds_s for move in moves(system, here.standing, there.standing))
