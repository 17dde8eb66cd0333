"""Version two: what to change next, each change tried on the design as it was measured."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from pydantic import ValidationError

from isotherma.catalogue.joints import assumed_ends, threads
from isotherma.core.building.tasks import Task, tasks_of
from isotherma.core.cache import Cache, Caches
from isotherma.core.errors import CoreError
from isotherma.core.joints.holes import holes_of
from isotherma.core.options.changes import Change, What
from isotherma.core.options.version_two import (
    FREE,
    Complaint,
    Proposal,
    VersionTwo,
    candidates,
    complaints_of,
    in_order,
)
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import System
from isotherma.services.comparisons import found_or_asked, found_or_none
from isotherma.services.computing import stands_key
from isotherma.services.levers import made
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute
from isotherma.services.shopping import METRIC, run_ends
from isotherma.services.turns import Cancelled, Stopped, long_turn, never

VERSION_TWO_WORK: Final = "version_two"
WRITTEN: Final = (VersionTwo, Complaint, Proposal, Change, What)


def compute_version_two(
    project: Project, variant: Variant, stopped: Stopped = never
) -> VersionTwo:  # fmt: skip
    """Try what may remove the complaints of a design; Cancelled when stopped.

    Parameters
    ----------
    project, variant : Project, Variant
        The design with the figures that were taken as measured. [SI]
    stopped : callable
        Asked before every run. [-]

    Returns
    -------
    VersionTwo
        Nothing where all is as the brief asks. [SI]

    Raises
    ------
    CoreError
        If the design as it is cannot be run.
    """
    with long_turn(stopped):
        outcome = _run(project, variant, stopped)
        if isinstance(outcome, CoreError):
            raise outcome
        found = complaints_of(outcome)
        if variant.measured:
            thought = _run(project, variant.model_copy(update={"measured": ()}), stopped)
            was = set() if isinstance(thought, CoreError) else {
                one.key for one in complaints_of(thought)}  # fmt: skip
            found = tuple(replace(one, overturned=one.key not in was) for one in found)
        before = _work(variant.system)
        proposals, tried = [], 0
        for change in candidates(project, variant, outcome):
            try:
                changed = made(project, variant, change)
            except (CoreError, ValidationError):
                continue
            after = _run(changed, changed.variant(variant.id), stopped)
            tried += 1
            if not isinstance(after, CoreError):
                one = _proposal(changed, variant, change, found, after, before)
                proposals += [one] if one.removes else []
    found = tuple(sorted(found, key=lambda one: not one.overturned))
    return VersionTwo(found, in_order(proposals), tried)


def _run(project: Project, variant: Variant, stopped: Stopped) -> Outcome | CoreError:
    if stopped():
        raise Cancelled
    return compute(project, variant)


def _proposal(
    changed: Project, variant: Variant, change: Change, found: tuple[Complaint, ...],
    after: Outcome, before: list[Task],
) -> Proposal:  # fmt: skip
    """Say what a change removes, what it breaks, what it takes."""
    left = {one.key: one.name for one in complaints_of(after)}
    known = {one.key for one in found}
    system = changed.variant(variant.id).system
    tasks = _work(system)
    old = {task.id for task in before}
    holes = sum(task.row == "hole" and task.id not in old for task in tasks)
    return Proposal(
        change, tuple(one.key for one in found if one.key not in left),
        tuple(name for key, name in left.items() if key not in known),
        _money(system, change), holes, _minutes(change, tasks, old),
    )  # fmt: skip


def _money(system: System, change: Change) -> float | None:
    """Give what the part that is there costs; nothing for hands and habits."""
    if change.what in FREE:
        return 0.0
    part = next((one for one in system.parts if one.id == change.part_id), None)
    return None if part is None or change.edit else part.price


def _work(system: System) -> list[Task]:
    holes = holes_of(system, threads(), assumed_ends(system.tradition or METRIC))
    lined = {space.id for space in system.spaces if space.lined}
    return list(tasks_of(system, run_ends(system), holes, lined))


def _minutes(change: Change, tasks: list[Task], old: set[str]) -> float | None:
    """Give the minutes of all that is mounted or laid again, and of what is new."""
    if change.what in FREE and change.what is not What.RUN:
        return 0.0
    again = {path.split(".")[4] for path in change.values if len(path.split(".")) > 5}
    known = [task.minutes for task in tasks
             if task.id not in old or (task.about[0] in again and task.row != "hole")]  # fmt: skip
    if not known or None in known:
        return None
    return sum(one for one in known if one is not None)


class VersionTwoService:
    """Finds what to change next and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._found: Cache[VersionTwo] = Cache(caches, "version_two", lambda _: 20_000)

    def known(self, project: Project, variant: Variant) -> VersionTwo | UnderWay | None:
        """Give what was found, or how far finding it is; None where nobody has asked."""
        key = stands_key(project, variant)
        found = found_or_none(self._work, self._found, VERSION_TWO_WORK, key, WRITTEN)
        if found is not None or self._work is None:
            return found
        return self._work.look(VERSION_TWO_WORK, "/".join(map(str, key)))

    def found(
        self, project: Project, variant: Variant, asker: Asker
    ) -> VersionTwo | UnderWay:  # fmt: skip
        """Give what to change next, or how far trying it is."""
        return found_or_asked(
            self._work, self._found, VERSION_TWO_WORK, stands_key(project, variant),
            (project, variant, {}), asker, lambda: compute_version_two(project, variant), WRITTEN,
        )  # fmt: skip
