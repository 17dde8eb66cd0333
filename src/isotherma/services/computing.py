"""Results of a variant: computed once per document and kept while memory allows."""

from __future__ import annotations

from isotherma import catalogue
from isotherma.core.brief import Brief
from isotherma.core.errors import CoreError
from isotherma.core.kept import Kept
from isotherma.core.project import Project, Variant
from isotherma.core.results.band import Progress, Range, make_band
from isotherma.core.results.outcome import Outcome, simulate
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.services.kept import stands_text, text_of
from isotherma.services.turns import Busy, Cancelled, Stopped, never, turn

__all__ = ["Busy", "Computing", "compute", "compute_band"]

KEPT = 200


class Computing:
    """Simulates variants and remembers what came out, errors included."""

    def __init__(self) -> None:
        self._kept: Kept[Outcome | CoreError] = Kept(KEPT)

    def result(self, project: Project, variant: Variant) -> Outcome | CoreError:
        """Give a variant's outcome under the project's brief, or why there is none."""
        return self._kept.once(_key(project, variant), lambda: compute(project, variant))

    def peek(self, project: Project, variant: Variant) -> Outcome | CoreError | None:
        """Give what is known of a variant without computing it."""
        return self._kept.peek(_key(project, variant))


def _key(project: Project, variant: Variant) -> tuple[str, str]:
    return text_of(project.brief), stands_text(variant)


def compute(project: Project, variant: Variant, state: State | None = None) -> Outcome | CoreError:
    """Simulate a variant, in its state of the day unless told; no answer is given, not raised."""
    brief = project.brief
    try:
        climate = catalogue.climate(brief.region, brief.month)
        with turn():
            return simulate(brief, variant.system, climate, state=state or variant.standing)
    except CoreError as error:
        return error


def compute_band(
    project: Project, variant: Variant, outcome: Outcome, state: State | None = None,
    stopped: Stopped = never, progress: Progress | None = None,
) -> Range:  # fmt: skip
    """Run a day again with each uncertain figure low and high; `progress` hears how far it is."""
    brief = project.brief
    climate = catalogue.climate(brief.region, brief.month)

    def run(changed: Brief, system: System) -> Outcome:
        if stopped():
            raise Cancelled
        return simulate(changed, system, climate, state=state or variant.standing, near=outcome)

    with turn(stopped):
        return make_band(brief, variant.system, outcome, run, progress)
