"""Kinds of long work: what a worker computes from what was asked, and how it is written."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Final

from sqlalchemy.orm import Session, sessionmaker
from starlette.datastructures import QueryParams

from isotherma.core.brief import Draw
from isotherma.core.cache import Caches
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.files.plain import write_plain
from isotherma.services.can_do import CAN_DO_WORK, own_way
from isotherma.services.comparisons import (
    BAND_WORK,
    HOLDING_WORK,
    REMEDIES_WORK,
    STRATEGIES_WORK,
    ComparisonService,
)
from isotherma.services.dossier_work import DOSSIER_WORK
from isotherma.services.inverse import INVERSE_WORK, inverse, inverse_asked
from isotherma.services.learn_work import LEARN_WORK, compute_learned
from isotherma.services.levers import LEVERS_WORK, compute_levers
from isotherma.services.long_work import LongWork
from isotherma.services.mending import MENDS, MendingService
from isotherma.services.runs import compute, compute_band
from isotherma.services.sizing import SIZING_WORK, families, sized_row
from isotherma.services.stored_results import StoredResults
from isotherma.services.sweeps import SWEEP_WORK, sweep_asked, swept
from isotherma.services.turns import Stopped
from isotherma.services.using import LEAD_WORK, compute_leads
from isotherma.services.version_two import VERSION_TWO_WORK, compute_version_two
from isotherma.services.year import MONTH_WORK, month_row
from isotherma.web.dossier.document import dossier_pdf
from isotherma.web.frame.context import PageContext
from isotherma.web.furnishing import services_on

Told = Callable[[int, int], None]
Payload = Mapping[str, Any]
Work = Callable[[Payload, Told, Stopped], bytes]
WithDatabase = Callable[[sessionmaker[Session], StoredResults, Payload, Told, Stopped], bytes]
DOSSIER_BYTES: Final = 90_000_000


def _design(payload: Payload) -> tuple[Project, Variant]:
    project = Project.model_validate(payload["project"])
    return project, project.variant(payload["variant"])


def _outcome(project: Project, variant: Variant) -> Outcome:
    found = compute(project, variant)
    if isinstance(found, CoreError):
        raise found
    return found


def _band(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    outcome = _outcome(project, variant)
    return write_plain(compute_band(project, variant, outcome, stopped=stopped, progress=told))


def _remedies(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    draw = Draw.model_validate(payload["draw"])
    return write_plain(
        ComparisonService.compute_dead_leg(
            project, variant, draw, float(payload["pause_s"]), _counted(told, stopped)
        )
    )


def _strategies(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    draw = Draw.model_validate(payload["draw"])
    return write_plain(
        ComparisonService.compute_mixing(project, variant, draw, _counted(told, stopped))
    )


def _holding(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    return write_plain(ComparisonService.compute_holding(project, variant, _counted(told, stopped)))


def _mends(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)

    def count(done: int) -> None:
        told(done, 0)

    return write_plain(
        MendingService.compute_mends(project, variant, _outcome(project, variant), stopped, count)
    )


def _sizing(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    family = families()[payload["family"]]
    return write_plain(sized_row(project, family, variant.id, _counted(told, stopped)))


def _month(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    del told, stopped  # one trip, a part of a second
    project, variant = _design(payload)
    return write_plain(month_row(project, variant.id, int(payload["month"])))


def _sweep(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    return write_plain(swept(project, variant.id, sweep_asked(payload), _counted(told, stopped)))


def _inverse(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    asked = inverse_asked(payload)
    return write_plain(inverse(project, variant.id, asked, _counted(told, stopped)))


def _levers(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)

    def count(done: int) -> None:
        told(done, 0)

    return write_plain(compute_levers(project, variant, _outcome(project, variant), stopped, count))


def _can_do(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    return write_plain(own_way(project, payload["family"], variant.id, _counted(told, stopped)))


def _learn(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    return write_plain(compute_learned(project, variant, payload["readings"], told, stopped))


def _lead(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    return write_plain(compute_leads(project, variant, _counted(told, stopped)))


def _version_two(payload: Payload, told: Told, stopped: Stopped) -> bytes:
    project, variant = _design(payload)
    return write_plain(compute_version_two(project, variant, _counted(told, stopped)))


def _dossier(
    sessions: sessionmaker[Session], keeping: StoredResults, payload: Payload, told: Told,
    stopped: Stopped,
) -> bytes:  # fmt: skip
    """Write a dossier as the pages would show it, of the state that was asked for."""
    caches = Caches(DOSSIER_BYTES)
    services = services_on(sessions, caches, caches, keeping, LongWork(sessions, keeping))
    opened = services.dossiers.opened(payload["vehicle"], payload["revision"])
    context = PageContext(
        services, (), opened, payload["variant"], UnitSystem(payload["units"]), QueryParams(""),
        stopped=stopped,
    )  # fmt: skip
    return dossier_pdf(context, payload, payload["version"], payload["made"], told, stopped)


def _counted(told: Told, stopped: Stopped) -> Stopped:
    """Count how often a run asks whether it shall go on: once for each."""
    done = 0

    def counts() -> bool:
        nonlocal done
        told(done, 0)
        done += 1
        return stopped()

    return counts


KINDS: Final[Mapping[str, Work]] = {
    BAND_WORK: _band, REMEDIES_WORK: _remedies, STRATEGIES_WORK: _strategies, MENDS: _mends,
    HOLDING_WORK: _holding,
    SIZING_WORK: _sizing, MONTH_WORK: _month, SWEEP_WORK: _sweep, INVERSE_WORK: _inverse,
    LEVERS_WORK: _levers, CAN_DO_WORK: _can_do, LEARN_WORK: _learn,
    VERSION_TWO_WORK: _version_two, LEAD_WORK: _lead,
}  # fmt: skip
# what is made from more than the design: from the database itself
WITH_DATABASE: Final[Mapping[str, WithDatabase]] = {DOSSIER_WORK: _dossier}
