"""A simulated day as data: the documents, what came of them, what was measured in it."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.findings import Finding
from isotherma.core.results.causes import Cause, causes_of
from isotherma.core.results.course import Course, Leg
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.findings import day_findings
from isotherma.core.results.ledger import Entry, make_ledger
from isotherma.core.results.trace import make_traces
from isotherma.core.results.traced import Trace
from isotherma.core.results.trip import Trip, trip_of
from isotherma.core.setup import Setup
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.core.timeline.record import AlikeDays, Day


@dataclass(frozen=True)
class Outcome:
    """A simulated day as data: the documents, what came of them, what was measured in it.

    Where the days of a trip differ, it is the day that is shown, `number` in the trip, `legs` are
    all of them and the ledger is the trip's. It can be kept, pickled and read on another machine:
    what follows from the documents alone is worked out again there, and the timeline is arrays and
    figures.
    """

    brief: Brief
    system: System
    standing: State | None
    climate: Climate
    timeline: Day
    draws: tuple[DrawResult, ...]
    ledger: tuple[Entry, ...]
    legs: tuple[Leg, ...] = ()
    number: int = 1

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
        today = setup.brief.today
        kind = today.id if today is not None else ""
        return cls.of_leg(Leg.of(kind, 1, setup.brief.trip_days, setup, timeline))

    @classmethod
    def of_leg(cls, leg: Leg, legs: tuple[Leg, ...] = (), *, number: int = 1) -> Outcome:
        """Show a day of a trip.

        Parameters
        ----------
        leg : Leg
            The day that is shown. [-]
        legs : tuple of Leg
            All days of the trip, where they differ; else none. [-]
        number : int
            Of the day that is shown. [-]

        Returns
        -------
        Outcome
            With the ledger of the whole trip. [-]
        """
        made = cls(
            leg.brief, leg.system, leg.standing, leg.climate, leg.timeline, leg.draws,
            make_ledger(Course(legs or (leg,))), legs, number,
        )  # fmt: skip
        made.__dict__["setup"] = leg.setup
        if not legs:
            made.__dict__["course"] = Course((leg,))
        return made

    @classmethod
    def of_trip(cls, legs: tuple[Leg, ...]) -> Outcome:
        """Show of a trip whose days differ the one on which most goes wrong.

        Parameters
        ----------
        legs : tuple of Leg
            Its days. [-]

        Returns
        -------
        Outcome
            The first of those on which most draws are not as asked; of equals the one with the
            longest wait. [-]
        """

        def wrong(leg: Leg) -> tuple[int, float]:
            waits = [
                leg.brief.gives_up_s if draw.wait_s is None else draw.wait_s for draw in leg.draws
            ]
            return sum(not draw.met for draw in leg.draws), max(waits, default=0.0)

        worst = max(legs, key=wrong)  # the first of equals
        return cls.of_leg(worst, legs, number=worst.first)

    @cached_property
    def course(self) -> Course:
        """All days of the trip."""
        if self.legs:
            return Course(self.legs)
        today = self.brief.today
        kind = today.id if today is not None else ""
        return Course((Leg.of(kind, 1, self.brief.trip_days, self.setup, self.timeline),))

    @property
    def days_run(self) -> tuple[AlikeDays, ...]:
        """The days as they were run: enough to measure them again."""
        if not self.legs:
            return (AlikeDays("", 1, self.brief.trip_days, self.timeline),)
        return tuple(AlikeDays(leg.kind, leg.first, leg.last, leg.timeline) for leg in self.legs)

    @cached_property
    def trip(self) -> Trip:
        """The trip in figures, day by day; made when it is first asked for."""
        return trip_of(self.course)

    def on_day(self, number: int) -> Outcome:
        """Show another day of the same trip; KeyError if it has no such day."""
        if not 1 <= number <= self.course.days:
            raise KeyError(number)
        leg = self.course.leg(number)
        if not self.legs or leg.first <= self.number <= leg.last:
            return self
        made = Outcome(
            leg.brief, leg.system, leg.standing, leg.climate, leg.timeline, leg.draws,
            self.ledger, self.legs, number,
        )  # fmt: skip
        made.__dict__["setup"] = leg.setup
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
        return make_traces(self.course, self.setup, self.timeline, self.draws, self.ledger)

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
        return day_findings(self.setup, self.timeline, self.draws, self.course)
