"""A simulated day as data: the documents, what came of them, what was measured in it."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.findings import Finding
from isotherma.core.results.causes import Cause, causes_of
from isotherma.core.results.draws import DrawResult, draw_results
from isotherma.core.results.findings import day_findings
from isotherma.core.results.ledger import Entry, make_ledger
from isotherma.core.results.trace import make_traces
from isotherma.core.results.traced import Trace
from isotherma.core.setup import Setup
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.core.timeline.record import Day


@dataclass(frozen=True)
class Outcome:
    """A simulated day as data: the documents, what came of them, what was measured in it.

    It can be kept, pickled and read on another machine: what follows from the documents alone is
    worked out again there, and the timeline is arrays and figures.
    """

    brief: Brief
    system: System
    standing: State | None
    climate: Climate
    timeline: Day
    draws: tuple[DrawResult, ...]
    ledger: tuple[Entry, ...]

    @classmethod
    def of(cls, setup: Setup, timeline: Day) -> Outcome:
        """Measure a day that was run.

        Parameters
        ----------
        setup : Setup
            The documents and what follows from them; kept beside, for it is at hand. [-]
        timeline : Day
            What came of it. [-]

        Returns
        -------
        Outcome
            With draws and ledger. [-]
        """
        draws = draw_results(setup, timeline, setup.brief.budgets.longest_wait_s)
        made = cls(
            setup.brief, setup.system, setup.standing, setup.climate, timeline, draws,
            make_ledger(setup, timeline, draws),
        )  # fmt: skip
        made.__dict__["setup"] = setup
        return made

    @cached_property
    def setup(self) -> Setup:
        """What follows from the documents alone."""
        return Setup(self.brief, self.system, self.standing, self.climate)

    def __getstate__(self) -> dict[str, object]:
        """Leave behind what can be worked out again."""
        return {item.name: getattr(self, item.name) for item in fields(self)}

    @property
    def fresh_c(self) -> float:
        """Temperature of the fresh water [°C]."""
        return self.setup.conditions.fresh_c

    @cached_property
    def traces(self) -> tuple[Trace, ...]:
        """The steps behind every figure; made when the first is opened."""
        return make_traces(self.setup, self.timeline, self.draws, self.ledger)

    @cached_property
    def causes(self) -> tuple[Cause, ...]:
        """What broke the day, the gravest first."""
        return causes_of(self.setup, self.timeline, self.draws)

    def trace(self, trace_id: str) -> Trace:
        """Find a trace by id; KeyError if there is none."""
        for trace in self.traces:
            if trace.id == trace_id:
                return trace
        raise KeyError(trace_id)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What the reader must know, what can hurt first."""
        return day_findings(self.setup, self.timeline, self.draws)
