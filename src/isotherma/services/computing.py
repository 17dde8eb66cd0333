"""Results of a variant: computed once per document and kept while memory allows."""

from __future__ import annotations

from isotherma import catalogue
from isotherma.core.brief import Brief
from isotherma.core.cache import Cache, Caches, light
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.results.band import Progress, Range, make_band
from isotherma.core.results.last_day import LastDay
from isotherma.core.results.outcome import Outcome
from isotherma.core.simulate import last_day, near, simulate
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.core.timeline.record import Day
from isotherma.services.readiness import WARMING
from isotherma.services.turns import Busy, Cancelled, Stopped, never, turn

__all__ = ["Busy", "Computing", "compute", "compute_band", "play_last_day"]

Key = tuple[str, str, str]
SETUP_BYTES = 600_000  # documents, network and settled flows of an outcome; measured on Folio
STRETCH_BYTES = 1200  # a stretch of the day with what each part took in it


class Computing:
    """Simulates variants and remembers what came out, errors included.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    """

    def __init__(self, caches: Caches) -> None:
        self._kept: Cache[Outcome | CoreError] = Cache(caches, "outcome", weight_of)
        self._last_days: Cache[LastDay | None] = Cache(caches, "last day", _weight_of_last_day)

    def result(self, project: Project, variant: Variant) -> Outcome | CoreError:
        """Give a variant's outcome under the project's brief, or why there is none."""
        waits = WARMING.waits()
        if waits is not None:
            return waits
        return self._kept.once(stands_key(project, variant), lambda: compute(project, variant))

    def last_day(self, project: Project, variant: Variant, outcome: Outcome) -> LastDay | None:
        """Give the first day of the trip unlike the day shown, since something ends; or None."""
        return self._last_days.once(stands_key(project, variant), lambda: play_last_day(outcome))

    def peek(self, project: Project, variant: Variant) -> Outcome | CoreError | None:
        """Give what is known of a variant without computing it."""
        return self._kept.peek(stands_key(project, variant))


def stands_key(project: Project, variant: Variant) -> Key:
    """Name what a variant's figures hang on: brief, system, the state of its day."""
    state = variant.standing
    return project.brief.digest, variant.system.digest, state.id if state is not None else ""


def weight_of(outcome: Outcome | CoreError) -> int:
    """Give about how much memory a result takes [byte]."""
    if isinstance(outcome, CoreError):
        return light(outcome)
    return _weight_of_day(outcome.timeline) + SETUP_BYTES


def _weight_of_day(day: Day) -> int:
    states = [
        arrays for moment in (day.morning, day.evening) if moment is not None
        for arrays, _ in moment.states.values()
    ]  # fmt: skip
    held = sum(array.nbytes for arrays in states for array in arrays)
    return int(day.log.nbytes) + held + STRETCH_BYTES * len(day.stretches)


def _weight_of_last_day(last: LastDay | None) -> int:
    return light(last) if last is None else _weight_of_day(last.timeline)


def compute(project: Project, variant: Variant, state: State | None = None) -> Outcome | CoreError:
    """Simulate a variant, in its state of the day unless told; no answer is given, not raised."""
    brief = project.brief
    try:
        climate = catalogue.climate(brief.region, brief.month)
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
    """Run a day again with each uncertain figure low and high; `progress` hears how far it is."""
    brief = project.brief
    climate = catalogue.climate(brief.region, brief.month)
    begins = near(outcome)

    def run(changed: Brief, system: System) -> Outcome:
        if stopped():
            raise Cancelled
        return simulate(changed, system, climate, state=state or variant.standing, near=begins)

    with turn(stopped):
        return make_band(brief, variant.system, outcome, run, progress)
