"""Runs of a variant: its day, its last day, its day with uncertain figures low and high.

Nothing is kept here and no database is known, so that the command line need not load one.
"""

from __future__ import annotations

from isotherma import catalogue
from isotherma.core.brief import Brief
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.results.last_day import LastDay
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.uncertainty import Progress, Range, make_band
from isotherma.core.simulate import last_day, near, simulate
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.services.turns import Cancelled, Stopped, long_turn, never, turn


def compute(project: Project, variant: Variant, state: State | None = None) -> Outcome | CoreError:
    """Simulate a variant, in its state of the day unless told; no answer is given, not raised."""
    brief, variant = project.brief, variant.built
    try:
        climate = catalogue.climate(brief)
        with turn():
            return simulate(brief, variant.system, climate, state=state or variant.standing)
    except CoreError as error:
        return error


def play_last_day(outcome: Outcome) -> LastDay | None:
    """Play the first later day on which something ends; None where all days are alike."""
    with turn():
        return last_day(outcome)


def compute_band(
    project: Project, variant: Variant, outcome: Outcome, state: State | None = None,
    stopped: Stopped = never, progress: Progress | None = None,
) -> Range:  # fmt: skip
    """Run a day again with each uncertain figure low and high; `progress` hears how far it is.

    Of a trip whose days differ it is the day that is shown, as if all were like it.
    """
    climate, variant = catalogue.climate(project.brief), variant.built
    brief = outcome.brief if outcome.legs else project.brief
    if outcome.legs:
        outcome = simulate(brief, variant.system, climate, state=state or variant.standing)
    begins = near(outcome)

    def run(changed: Brief, system: System) -> Outcome:
        if stopped():
            raise Cancelled
        with turn(stopped):
            return simulate(changed, system, climate, state=state or variant.standing, near=begins)

    with long_turn(stopped):
        return make_band(brief, variant.system, outcome, run, progress)
