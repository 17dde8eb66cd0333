"""Results of a variant: computed once per document and kept while memory allows."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from isotherma import catalogue
from isotherma.core.cache import Cache, Caches, light
from isotherma.core.errors import CoreError
from isotherma.core.physical import physical_digest
from isotherma.core.project import Project, Variant
from isotherma.core.results.last_day import LastDay
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.day_kinds import Documents
from isotherma.core.simulate import measured
from isotherma.core.system import System
from isotherma.core.system.remarks import Remark, remarks
from isotherma.core.timeline.naming import named_as
from isotherma.core.timeline.record import AlikeDays, Day
from isotherma.files.timeline_file import TimelineRefused, read_timeline, write_timeline
from isotherma.services.readiness import KERNELS
from isotherma.services.runs import compute, play_last_day
from isotherma.services.stored_results import StoredResults
from isotherma.services.turns import Busy

__all__ = ["Busy", "ResultService"]

Key = tuple[str, str, str]
SETUP_BYTES = 600_000  # documents, network and settled flows of an outcome; measured on Folio
STRETCH_BYTES = 1200  # a stretch of the day with what each part took in it


Summarise = Callable[[Outcome | CoreError], dict[str, Any]]
DAY, SUMMARY = "day", "summary"


class ResultService:
    """Simulates variants and remembers what came out, errors included.

    What ran is kept by what the engine reads: another name, note or price runs nothing again. It
    is kept in the database too, for other workers and the next start.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    keeping : StoredResults or None
        Where it is kept for others too; None: nowhere. [-]
    summarise : callable or None
        Makes of a result what a list of vehicles shows. [-]
    """

    def __init__(
        self,
        caches: Caches,
        keeping: StoredResults | None = None,
        summarise: Summarise | None = None,
    ) -> None:
        self._kept: Cache[Outcome | CoreError] = Cache(caches, "outcome", weight_of)
        self._days: Cache[tuple[AlikeDays, ...]] = Cache(caches, "day", _weight_of_days)
        self._last_days: Cache[LastDay | None] = Cache(caches, "last day", _weight_of_last_day)
        self._remarks: Cache[tuple[Remark, ...]] = Cache(caches, "remarks")
        self._keeping = keeping or StoredResults(None)
        self._summarise = summarise

    def result(self, project: Project, variant: Variant) -> Outcome | CoreError:
        """Give a variant's outcome under the project's brief, or why there is none."""
        waits = KERNELS.waits()
        if waits is not None:
            return waits
        return self._kept.once(
            stands_key(project, variant), lambda: self._found_or_made(project, variant)
        )

    def _found_or_made(self, project: Project, variant: Variant) -> Outcome | CoreError:
        """Take what ran from where it is kept, under the names of today, or run it."""
        key = physical_key(project, variant)
        days = self._days.peek(key) or self._stored(key)
        if days is not None:
            result: Outcome | CoreError = _under_names(project, variant, days)
        else:
            result = compute(project, variant)
            if isinstance(result, Outcome):
                made = result.days_run
                self._keeping.keep(DAY, "/".join(key), lambda: write_timeline(made))
        if isinstance(result, Outcome):
            self._days.put(key, result.days_run)
        self._keep_summary(stands_key(project, variant), result)
        return result

    def _stored(self, key: Key) -> tuple[AlikeDays, ...] | None:
        data = self._keeping.find(DAY, "/".join(key))
        if data is None:
            return None
        try:
            return read_timeline(data)
        except TimelineRefused:
            return None

    def _keep_summary(self, key: Key, result: Outcome | CoreError) -> None:
        summarise = self._summarise
        if summarise is not None:
            self._keeping.keep(
                SUMMARY, "/".join(key), lambda: json.dumps(summarise(result)).encode()
            )

    def summaries(self, wanted: Sequence[tuple[Project, Variant]]) -> dict[Key, dict[str, Any]]:
        """Give what is known of variants without computing anything, by `stands_key`."""
        names = {"/".join(key): key for key in (stands_key(*item) for item in wanted)}
        found = self._keeping.find_all(SUMMARY, list(names))
        return {names[name]: json.loads(data) for name, data in found.items()}

    def last_day(self, project: Project, variant: Variant, outcome: Outcome) -> LastDay | None:
        """Give the first day of the trip unlike the day shown, since something ends; or None."""
        return self._last_days.once(stands_key(project, variant), lambda: play_last_day(outcome))

    def remarks(self, system: System) -> tuple[Remark, ...]:
        """Give what a system says of itself; every page of it asks."""
        return self._remarks.once(system.digest, lambda: remarks(system))

    def peek(self, project: Project, variant: Variant) -> Outcome | CoreError | None:
        """Give what is known of a variant without computing it."""
        return self._kept.peek(stands_key(project, variant))


def stands_key(project: Project, variant: Variant) -> Key:
    """Name what a variant's figures hang on: brief, system, the state of its day."""
    variant, state = variant.built, variant.standing
    return project.brief.digest, variant.system.digest, state.id if state is not None else ""


def physical_key(project: Project, variant: Variant) -> Key:
    """Name what the engine reads: the same where only names, notes or prices differ."""
    variant, state = variant.built, variant.standing
    here = state.id if state is not None else ""
    return physical_digest(project.brief), physical_digest(variant.system), here


def _under_names(project: Project, variant: Variant, days: tuple[AlikeDays, ...]) -> Outcome:
    """Measure days that ran before, under the names the documents have now."""
    variant = variant.built
    brief, system = project.brief, variant.system
    labels = {piece.id: piece.label for piece in (*system.parts, *system.runs)}
    named = tuple(replace(row, day=named_as(row.day, labels, brief.draws)) for row in days)
    documents = Documents(brief, system, variant.standing, catalogue.climate(brief))
    return measured(documents, named)


def weight_of(outcome: Outcome | CoreError) -> int:
    """Give about how much memory a result takes [byte]."""
    if isinstance(outcome, CoreError):
        return light(outcome)
    days = outcome.days_run
    return _weight_of_days(days) + SETUP_BYTES * len({row.kind for row in days})


def _weight_of_days(days: tuple[AlikeDays, ...]) -> int:
    return sum(_weight_of_day(row.day) for row in days)


def _weight_of_day(day: Day) -> int:
    states = [
        arrays for moment in (day.morning, day.evening) if moment is not None
        for arrays, _ in moment.states.values()
    ]  # fmt: skip
    held = sum(array.nbytes for arrays in states for array in arrays)
    return int(day.log.nbytes) + held + STRETCH_BYTES * len(day.stretches)


def _weight_of_last_day(last: LastDay | None) -> int:
    return light(last) if last is None else _weight_of_day(last.timeline)
