"""Levers on the budget that ends a trip: each tried by running it."""

from __future__ import annotations

from typing import Final

from pydantic import ValidationError

from isotherma.core.cache import Cache, Caches
from isotherma.core.editing import set_values
from isotherma.core.errors import CoreError
from isotherma.core.options.changes import Change, What
from isotherma.core.options.levers import (
    Lever,
    Levers,
    Price,
    budget_to_stretch,
    changes_for,
    lever_of,
)
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.services.comparisons import found_or_asked
from isotherma.services.computing import stands_key
from isotherma.services.edits import read_edit
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.mending import Told
from isotherma.services.runs import compute
from isotherma.services.turns import Cancelled, Stopped, long_turn, never

LEVERS_WORK: Final = "levers"
LEAST_SHARE: Final = 2e-3  # of what there is: less is no gain to anybody
WRITTEN: Final = (Levers, Lever, Price, Change, What)


def compute_levers(
    project: Project, variant: Variant, outcome: Outcome, stopped: Stopped = never,
    told: Told = lambda _: None,
) -> Levers:  # fmt: skip
    """Try every lever on the budget that ends a trip; Cancelled when stopped.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    outcome : Outcome
        What it does now. [-]
    stopped : callable
        Asked before every run. [-]
    told : callable
        Hears how many were tried. [-]

    Returns
    -------
    Levers
        What gains most days first, then what spares most; what gains nothing is left out. [SI]
    """
    budget = budget_to_stretch(outcome)
    if budget is None:
        return Levers("fresh", (), 0)
    found: list[Lever] = []
    tried = 0
    with long_turn(stopped):
        for change in changes_for(project, variant, outcome, budget):
            if stopped():
                raise Cancelled
            try:
                changed = made(project, variant, change)
            except (CoreError, ValidationError):
                continue
            after = compute(changed, changed.variant(variant.id))
            tried += 1
            told(tried)
            if isinstance(after, Outcome):
                found.append(lever_of(change, outcome, after, budget))
    limit = next((one.limit for one in outcome.ledger if one.budget == budget), None)
    worth = LEAST_SHARE * (limit or 0.0)
    gains = [lever for lever in found if lever.days > 0 or lever.spared > worth]
    gains.sort(key=lambda one: (-one.days, -one.spared, one.change.weight))
    return Levers(budget, tuple(gains), tried)


def made(project: Project, variant: Variant, change: Change) -> Project:
    """Make a change: its values, or the edit it is.

    Raises
    ------
    CoreError, ValidationError
        If it cannot be made.
    """
    if change.edit:
        return read_edit(change.edit, {"part": change.part_id}).apply(project, variant.id)
    return set_values(project, dict(change.values))


class LeverService:
    """Tries levers and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._found: Cache[Levers] = Cache(caches, "levers", lambda _: 20_000)

    def levers(
        self, project: Project, variant: Variant, outcome: Outcome, asker: Asker
    ) -> Levers | UnderWay:
        """Give every lever on the budget that ends the trip, or how far trying them is."""
        return found_or_asked(
            self._work, self._found, LEVERS_WORK, stands_key(project, variant),
            (project, variant, {}), asker, lambda: compute_levers(project, variant, outcome),
            WRITTEN,
        )  # fmt: skip
