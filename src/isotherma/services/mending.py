"""The smallest changes that would make a failing design do what its brief asks, found by trying."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations

from pydantic import ValidationError

from isotherma.core.cache import Cache, Caches
from isotherma.core.editing import set_values
from isotherma.core.errors import CoreError
from isotherma.core.options.changes import (
    PAIRS,
    SHOWN_AT_MOST,
    SINGLES,
    TRIED_AT_MOST,
    Change,
    changes_of,
    shortfall,
)
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.services.computing import Key, stands_key
from isotherma.services.runs import compute
from isotherma.services.turns import Cancelled, Stopped, long_turn, never


@dataclass(frozen=True, slots=True)
class Mend:
    """Changes made together, what comes of them, and how far that is from the brief."""

    changes: tuple[Change, ...]
    outcome: Outcome
    shortfall: float

    @property
    def weight(self) -> int:
        """Say how far the changes reach."""
        return sum(change.weight for change in self.changes)


@dataclass(frozen=True, slots=True)
class Mending:
    """What was found: changes that meet the brief, or which came nearest; how many were tried."""

    mends: tuple[Mend, ...]
    nearest: Mend | None
    tried: int


Run = Callable[[Sequence[Change]], Mend | None]
Told = Callable[[int], None]


def _together(changes: Sequence[Change]) -> bool:
    """Say whether changes may be made together: none touches what another does."""
    paths = [path for change in changes for path in change.values]
    return len(paths) == len(set(paths)) and len({change.what for change in changes}) > 1


def find_mends(changes: Sequence[Change], run: Run, told: Told) -> Mending:
    """Try changes one by one, by two, by three, until three meet the brief or twenty were tried.

    `run` gives what comes of changes, None where they cannot be made.
    """
    tried: list[Mend] = []
    count = 0

    def attempt(wanted: Sequence[Change]) -> Mend | None:
        nonlocal count
        count += 1
        told(count)
        found = run(wanted)
        if found is not None:
            tried.append(found)
        return found

    def met() -> list[Mend]:
        return [mend for mend in tried if mend.shortfall == 0.0]

    for change in changes[:SINGLES]:
        if len(met()) == SHOWN_AT_MOST:
            break
        attempt((change,))
    singles = sorted(tried, key=lambda mend: (mend.shortfall, mend.weight))
    failing = [mend for mend in singles if mend.shortfall > 0.0]
    pairs = sorted(
        (pair for pair in combinations(failing, 2)
         if _together((*pair[0].changes, *pair[1].changes))),
        key=lambda pair: (pair[0].shortfall + pair[1].shortfall, pair[0].weight + pair[1].weight),
    )  # fmt: skip
    for one, other in pairs:
        if count >= (TRIED_AT_MOST if met() else PAIRS) or len(met()) == SHOWN_AT_MOST:
            break
        attempt((*one.changes, *other.changes))
    if not met() and tried:
        closest = min(tried, key=lambda mend: (mend.shortfall, mend.weight))
        for single in failing:
            together = (*closest.changes, *single.changes)
            if count >= TRIED_AT_MOST or met():
                break
            if _together(together) and len(together) > 2:
                attempt(together)
    best = sorted(met(), key=lambda mend: mend.weight)[:SHOWN_AT_MOST]
    nearest = min(tried, key=lambda mend: (mend.shortfall, mend.weight), default=None)
    return Mending(tuple(best), None if best else nearest, count)


class MendingService:
    """Finds mends and remembers what came out."""

    def __init__(self, caches: Caches) -> None:
        self._found: Cache[Mending] = Cache(caches, "mends", lambda _: 400_000)
        self._progress: dict[Key, int] = {}

    def mends(
        self, project: Project, variant: Variant, outcome: Outcome, stopped: Stopped = never
    ) -> Mending:
        """Find the smallest changes that meet the brief; Cancelled when stopped."""
        key = stands_key(project, variant)

        def run(changes: Sequence[Change]) -> Mend | None:
            if stopped():
                raise Cancelled
            values = {path: value for change in changes for path, value in change.values.items()}
            try:
                changed = set_values(project, values)
            except (CoreError, ValidationError):
                return None
            result = compute(changed, changed.variant(variant.id))
            if not isinstance(result, Outcome):
                return None
            return Mend(tuple(changes), result, shortfall(result))

        def told(count: int) -> None:
            self._progress[key] = count

        def make() -> Mending:
            try:
                with long_turn(stopped):
                    return find_mends(changes_of(project, variant, outcome), run, told)
            finally:
                self._progress.pop(key, None)

        return self._found.once(key, make)

    def progress(self, project: Project, variant: Variant) -> int | None:
        """Say how many were tried; None while nothing is."""
        return self._progress.get(stands_key(project, variant))
