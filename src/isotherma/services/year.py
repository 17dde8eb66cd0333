"""A design's trip in each month of the year."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma import catalogue
from isotherma.core.cache import Cache, Caches
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.results.trip import Fails, TripStop
from isotherma.services.comparisons import found_or_asked
from isotherma.services.computing import stands_key
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute

MONTH_WORK: Final = "month"
MONTHS_OF_YEAR: Final = tuple(range(1, 13))


@dataclass(frozen=True, slots=True)
class MonthRow:
    """How a trip goes in one month.

    Air is the month's mean [°C], None where nobody knows the region. `failure` is the first that is
    not as asked, after planned stops; None also where it cannot be run, which `error` says as a
    code.
    """

    month: int
    air_c: float | None
    days: int
    draws: int
    draws_met: int
    failure: Fails | None
    needed: tuple[TripStop, ...]
    error: str = ""


WRITTEN: Final = (MonthRow, Fails, TripStop)


def in_month(project: Project, month: int) -> Project:
    """Move a trip to another month; all else of the brief stays."""
    brief = project.brief.model_copy(update={"month": month})
    return project.model_copy(update={"brief": brief})


def month_row(project: Project, variant_id: str, month: int) -> MonthRow:
    """Run a variant's trip in one month of the year.

    Parameters
    ----------
    project : Project
        With the brief that is moved to the month. [-]
    variant_id : str
        Of the project. [-]
    month : int
        1 to 12. [-]

    Returns
    -------
    MonthRow
        What came of it; an answer also where it cannot be run. [-]
    """
    moved = in_month(project, month)
    try:
        air_c = catalogue.climate(moved.brief).air_c
    except CoreError as error:
        return MonthRow(month, None, 0, 0, 0, None, (), error.code)
    found = compute(moved, moved.variant(variant_id))
    if isinstance(found, CoreError):
        return MonthRow(month, air_c, 0, 0, 0, None, (), found.code)
    trip = found.trip
    return MonthRow(
        month, air_c, len(trip.days),
        draws=sum(day.draws for day in trip.days),
        draws_met=sum(day.draws_met for day in trip.days),
        failure=trip.failure, needed=trip.needed,
    )  # fmt: skip


class YearService:
    """Runs a trip in every month and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._rows: Cache[MonthRow] = Cache(caches, "months", lambda _: 2_000)

    def rows(
        self, project: Project, variant: Variant, asker: Asker
    ) -> tuple[MonthRow | UnderWay, ...]:
        """Give the twelve months, January first, or how far each is."""
        return tuple(self._row(project, variant, month, asker) for month in MONTHS_OF_YEAR)

    def _row(
        self, project: Project, variant: Variant, month: int, asker: Asker
    ) -> MonthRow | UnderWay:
        key = stands_key(in_month(project, month), variant)
        return found_or_asked(
            self._work, self._rows, MONTH_WORK, key, (project, variant, {"month": month}), asker,
            lambda: month_row(project, variant.id, month), WRITTEN,
        )  # fmt: skip
