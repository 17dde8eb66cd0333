"""What a heater or store that is there already can do, in each way of heating with a place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from pydantic import ValidationError

from isotherma.catalogue.families import OWN, families, fixed_to, has_place
from isotherma.core.brief import Brief
from isotherma.core.cache import Cache, Caches
from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.options.can_do import CanDo, WarmDraw, can_do
from isotherma.core.project import Project, Variant
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.needs import needs_of
from isotherma.services.comparisons import found_or_asked
from isotherma.services.edits import starting_system
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute
from isotherma.services.sizing import bare, on_brief
from isotherma.services.turns import Cancelled, Stopped, never

CAN_DO_WORK: Final = "can_do"
WAYS_AT_MOST: Final = 3


@dataclass(frozen=True, slots=True)
class OwnWay:
    """What an owned part can do in one way of heating; `sizes` are of what else is chosen.

    `error` is the code of why it cannot be run, "" where it can.
    """

    family: str
    sizes: str
    found: CanDo | None
    error: str


WRITTEN: Final = (OwnWay, CanDo, WarmDraw, WhyNot)


def ways_of(project: Project, part_id: str) -> tuple[str, ...]:
    """Give the ways of heating an owned part has a place in, what the brief refuses last.

    Parameters
    ----------
    project : Project
        The document. [-]
    part_id : str
        Of the owned part. [-]

    Returns
    -------
    tuple of str
        Three at most, in our order; empty for a part that neither heats nor stores. [-]
    """
    own = next((part for part in project.owned if part.id == part_id), None)
    if own is None or own.side != "heat":
        return ()
    will_not = set(project.brief.will_not_have)

    def refused(key: str) -> bool:
        return bool(will_not & set(needs_of(starting_system(families()[key].layout))))

    fit = [key for key, family in families().items() if has_place(family, own)]
    return tuple(sorted(fit, key=refused)[:WAYS_AT_MOST])


def own_way(project: Project, family_id: str, tank_of: str, stopped: Stopped = never) -> OwnWay:
    """Find what is owned can do in one way of heating, all else at its largest.

    Parameters
    ----------
    project : Project
        The document, with what is owned. [-]
    family_id : str
        The way of heating. [-]
    tank_of : str
        The variant whose fresh tank it takes. [-]
    stopped : callable
        Asked before every run; Cancelled is raised once it says so. [-]

    Returns
    -------
    OwnWay
        Computed by running days. [SI]
    """
    family = fixed_to(families()[family_id], project.owned)
    steps = [axis.steps[-1] for axis in family.axes]
    sizes = ", ".join(step.name for step in steps if step.id != OWN)
    try:
        made = on_brief(project, family, steps, tank_of)
    except (ChangeRefused, ValidationError):
        return OwnWay(family_id, sizes, None, "cannot_be")

    def run(brief: Brief) -> Outcome | CoreError:
        if stopped():
            raise Cancelled
        return compute(made.model_copy(update={"brief": brief}), made.variants[0])

    found = can_do(made.brief, run)
    if isinstance(found, CoreError):
        return OwnWay(family_id, sizes, None, found.code)
    return OwnWay(family_id, sizes, found, "")


class OwnWays:
    """Finds what owned parts can do and remembers it.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._found: Cache[OwnWay] = Cache(caches, "what owned parts can do", lambda _: 4_000)

    def ways(
        self, project: Project, variant: Variant, part_id: str, asker: Asker
    ) -> tuple[OwnWay | UnderWay, ...]:
        """Give what an owned part can do in each way of heating, or how far that is."""
        return tuple(
            self._way(project, variant, family, asker) for family in ways_of(project, part_id)
        )

    def _way(
        self, project: Project, variant: Variant, family: str, asker: Asker
    ) -> OwnWay | UnderWay:
        plain = bare(project)
        key = (family, plain.brief.digest, variant.system.digest,
               *(part.digest for part in project.owned))  # fmt: skip
        return found_or_asked(
            self._work, self._found, CAN_DO_WORK, key, (plain, variant, {"family": family}),
            asker, lambda: own_way(plain, family, variant.id), WRITTEN,
        )  # fmt: skip
