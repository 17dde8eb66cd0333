"""The smallest changes that would make a failing design do what its brief asks, found by trying."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Final

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
    What,
    changes_of,
    shortfall,
)
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.services.comparisons import found_or_asked
from isotherma.services.computing import stands_key
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute
from isotherma.services.turns import Cancelled, Stopped, long_turn, never
from isotherma.wording import verdict


@dataclass(frozen=True, slots=True)
class Mend:
    """Changes made together, the sentence they would give, and how far that is from the brief."""

    changes: tuple[Change, ...]
    verdicts: Mapping[UnitSystem, str]
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


# what overshoots when it is turned too far: each of its notches is a lever of its own
_KNOBS: Final = (What.GAS_KNOB, What.SET_POINT, What.SEASON)


def _levers(changes: Sequence[Change]) -> list[list[Change]]:
    """Group changes that are the same at several sizes, the smallest first."""
    found: dict[tuple[object, ...], list[Change]] = {}
    for change in changes:
        notch = change.step if change.what in _KNOBS else 0
        found.setdefault((change.what, change.part_id, notch), []).append(change)
    return [sorted(lever, key=lambda change: change.step) for lever in found.values()]


class _Search:
    """The runs of one search, and what came of them."""

    def __init__(self, run: Run, told: Told) -> None:
        self.run, self.told = run, told
        self.count = 0
        self.tried: list[Mend] = []

    def attempt(self, changes: Sequence[Change]) -> Mend | None:
        """Run changes made together; None where they cannot be made."""
        self.count += 1
        self.told(self.count)
        found = self.run(changes)
        if found is not None:
            self.tried.append(found)
        return found

    @property
    def met(self) -> list[Mend]:
        """Those that do all the brief asks, of each combination of levers the smallest."""
        best: dict[tuple[object, ...], Mend] = {}
        for mend in sorted(self.tried, key=lambda mend: mend.weight):
            if mend.shortfall == 0.0:
                key = tuple((change.what, change.part_id) for change in mend.changes)
                best.setdefault(key, mend)
        return list(best.values())

    def smaller(self, mend: Mend, levers: Sequence[Sequence[Change]], most: int) -> None:
        """Turn each change of a mend down while it still does it."""
        for place in range(len(mend.changes)):
            lever = next(lever for lever in levers if mend.changes[place] in lever)
            for change in lever[: lever.index(mend.changes[place])]:
                if self.count >= most:
                    return
                turned = (*mend.changes[:place], change, *mend.changes[place + 1 :])
                found = self.attempt(turned)
                if found is not None and found.shortfall == 0.0:
                    mend = found
                    break


def find_mends(changes: Sequence[Change], run: Run, told: Told) -> Mending:
    """Try changes alone, by two, by three, until three do all the brief asks or twenty were run.

    Of every lever the largest step is tried first: where that is not enough, less is not either.
    What does it is turned down until it does not. `run` gives what comes of changes, None where
    they cannot be made.
    """
    levers = _levers(changes)
    search = _Search(run, told)
    for lever in levers[:SINGLES]:
        if len(search.met) == SHOWN_AT_MOST:
            break
        found = search.attempt(lever[-1:])
        if found is not None and found.shortfall == 0.0:
            search.smaller(found, levers, TRIED_AT_MOST)
    failing = sorted(
        (mend for mend in search.tried if mend.shortfall > 0.0 and len(mend.changes) == 1),
        key=lambda mend: (mend.shortfall, mend.weight),
    )
    pairs = sorted(
        (pair for pair in combinations(failing, 2)
         if _together((*pair[0].changes, *pair[1].changes))),
        key=lambda pair: (pair[0].shortfall + pair[1].shortfall, pair[0].weight + pair[1].weight),
    )  # fmt: skip
    for one, other in pairs:
        most = TRIED_AT_MOST if search.met else PAIRS
        if search.count >= most or len(search.met) == SHOWN_AT_MOST:
            break
        found = search.attempt((*one.changes, *other.changes))
        if found is not None and found.shortfall == 0.0:
            search.smaller(found, levers, TRIED_AT_MOST)
    if not search.met and search.tried:
        closest = min(search.tried, key=lambda mend: (mend.shortfall, mend.weight))
        for single in failing:
            together = (*closest.changes, *single.changes)
            if search.count >= TRIED_AT_MOST or search.met:
                break
            if len(together) > 2 and _together(together):
                search.attempt(together)
    best = sorted(search.met, key=lambda mend: mend.weight)[:SHOWN_AT_MOST]
    nearest = min(search.tried, key=lambda mend: (mend.shortfall, mend.weight), default=None)
    return Mending(tuple(best), None if best else nearest, search.count)


MENDS: Final = "mends"
WRITTEN: Final = (Mending, Mend, Change, What, UnitSystem)


class MendingService:
    """Finds mends and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._found: Cache[Mending] = Cache(caches, "mends", lambda _: 20_000)

    def mends(
        self, project: Project, variant: Variant, outcome: Outcome, asker: Asker
    ) -> Mending | UnderWay:
        """Give the smallest changes that meet the brief, or how far finding them is."""
        key = stands_key(project, variant)
        return found_or_asked(
            self._work, self._found, MENDS, key, (project, variant, {}), asker,
            lambda: self.compute_mends(project, variant, outcome), WRITTEN,
        )  # fmt: skip

    @staticmethod
    def compute_mends(
        project: Project, variant: Variant, outcome: Outcome, stopped: Stopped = never,
        told: Told = lambda _: None,
    ) -> Mending:  # fmt: skip
        """Find the smallest changes that meet the brief; Cancelled when stopped."""

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
            # the day itself is not kept: twenty of them would be as much as twenty pages
            said = {units: verdict(result, units) for units in UnitSystem}
            return Mend(tuple(changes), said, shortfall(result))

        with long_turn(stopped):
            return find_mends(changes_of(project, variant, outcome), run, told)
