"""The course of a trip: its days in order, alike ones together, and its stops."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from functools import cached_property

from isotherma.core.brief import Brief
from isotherma.core.brief.days import Service, ServiceStop
from isotherma.core.climate import Climate
from isotherma.core.results.draws import DrawResult, draw_results
from isotherma.core.setup import Setup
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.core.timeline.record import Day


@dataclass(frozen=True)
class Leg:
    """Days in a row that are alike: their numbers, their kind, how one of them ran.

    `kind` is "" where the brief names no kinds.
    """

    kind: str
    first: int
    last: int
    brief: Brief
    system: System
    standing: State | None
    climate: Climate
    timeline: Day
    draws: tuple[DrawResult, ...]

    @classmethod
    def of(cls, kind: str, first: int, last: int, setup: Setup, timeline: Day) -> Leg:
        """Measure days that were run.

        Parameters
        ----------
        kind : str
            Of which kind they are. [-]
        first, last : int
            Their numbers in the trip, from 1. [-]
        setup : Setup
            What they were run from; kept beside, for it is at hand. [-]
        timeline : Day
            How one of them ran. [-]

        Returns
        -------
        Leg
            With its draws. [-]
        """
        made = cls(
            kind, first, last, setup.brief, setup.system, setup.standing, setup.climate, timeline,
            draw_results(setup, timeline, setup.brief.budgets.wait_limit_s),
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

    def numbered(self, first: int, last: int) -> Leg:
        """Give the same days under other numbers."""
        made = replace(self, first=first, last=last)
        made.__dict__["setup"] = self.setup
        return made

    @property
    def days(self) -> int:
        """How many days it has [-]."""
        return self.last - self.first + 1

    @property
    def stops(self) -> tuple[ServiceStop, ...]:
        """The stops of each of its days."""
        today = self.brief.today
        return today.stops if today is not None else ()


@dataclass(frozen=True)
class Course:
    """All days of a trip, in order."""

    legs: tuple[Leg, ...]

    @property
    def days(self) -> int:
        """How many days the trip has [-]."""
        return self.legs[-1].last

    @property
    def alike(self) -> Leg | None:
        """The only leg, where all days are alike; None where they differ."""
        return self.legs[0] if len(self.legs) == 1 else None

    def leg(self, number: int) -> Leg:
        """Find the leg a day belongs to."""
        return next(leg for leg in self.legs if leg.first <= number <= leg.last)

    def until(self, number: int) -> Course:
        """Give the course up to a day and with it; at least the first."""
        kept = [leg for leg in self.legs if leg.first <= number]
        last = kept[-1]
        return Course((*kept[:-1], last.numbered(last.first, min(last.last, max(1, number)))))

    def stops(self, *what: Service) -> Mapping[int, list[tuple[float, ServiceStop]]]:
        """Give the stops at which something of this is done, by day, with their hour.

        Parameters
        ----------
        what : str
            What is done there. [-]

        Returns
        -------
        mapping of int to list of tuple of float and ServiceStop
            By number of the day; one without an hour is made as the day begins. [s]
        """
        found: dict[int, list[tuple[float, ServiceStop]]] = {}
        for leg in self.legs:
            made = [
                (stop.made_s, stop)
                for stop in leg.stops if stop.what in what
            ]  # fmt: skip
            if made:
                made.sort(key=lambda item: (item[0], item[1].id))
                found |= dict.fromkeys(range(leg.first, leg.last + 1), made)
        return found
