"""Using a vehicle: lead times through the year, one warm shower today."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma import catalogue
from isotherma.core.brief import Brief, Draw
from isotherma.core.building.sections import sections_of
from isotherma.core.building.stages import treated_m3
from isotherma.core.cache import Cache, Caches
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds.water import OutsideSource
from isotherma.core.system.nominal import computed
from isotherma.core.system.states import State
from isotherma.core.using.damp import Damp, damps
from isotherma.core.using.lead import Run, lead_of, on_in, sources_of
from isotherma.core.using.now import Now, Today, now_of
from isotherma.core.using.parking import Parking, parking_of
from isotherma.core.using.routines import Known, Routine, routines_of
from isotherma.core.using.tap import Opening, openings_of
from isotherma.services.comparisons import found_or_asked
from isotherma.services.computing import stands_key
from isotherma.services.flows import drained
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.turns import Cancelled, Stopped, long_turn, never, turn

LEAD_WORK: Final = "lead"
PRODUCT_G_PER_L: Final = 50.0
MONTHS: Final = tuple(range(1, 13))


@dataclass(frozen=True, slots=True)
class LeadRow:
    """Sources that are on, in one month: from how cold to how hot, and how long it takes [s].

    `takes_s` None: it does not warm with these; `short`: it never comes to its setting.
    """

    sources: tuple[str, ...]
    month: int
    cold_c: float
    target_c: float | None
    short: bool
    takes_s: float | None


@dataclass(frozen=True, slots=True)
class LeadTable:
    """Rows of every month, for each source alone and all together."""

    rows: tuple[LeadRow, ...]


WRITTEN: Final = (LeadTable, LeadRow)


def run_of(stopped: Stopped = never) -> Run:
    """Give what runs a day of a design in a state; Cancelled when stopped."""

    def run(brief: Brief, system: System, state: State) -> Outcome:
        if stopped():
            raise Cancelled
        with turn(stopped):
            return simulate(brief, system, catalogue.climate(brief), state=state)

    return run


def source_sets(variant: Variant) -> tuple[tuple[str, ...], ...]:
    """List each source alone, and all together where there are several."""
    sources = sources_of(variant.built.system)
    return (*((one,) for one in sources), *((sources,) if len(sources) > 1 else ()))


def compute_leads(project: Project, variant: Variant, stopped: Stopped = never) -> LeadTable:
    """Work out lead times for the year; Cancelled when stopped.

    Parameters
    ----------
    project, variant : Project, Variant
        The design. [SI]
    stopped : callable
        Asked before every run. [-]

    Returns
    -------
    LeadTable
        A month that cannot be run has no row. [s]
    """
    run, rows = run_of(stopped), []
    with long_turn(stopped):
        for on in source_sets(variant):
            for month in MONTHS:
                try:
                    one = lead_of(run, project.brief, variant.built.system, variant.standing, on,
                                  month=month)  # fmt: skip
                except CoreError:
                    continue
                rows.append(LeadRow(on, month, one.cold_c, one.target_c, one.short, one.takes_s))
    return LeadTable(tuple(rows))


class UsingService:
    """Answers for whoever uses a vehicle, and remembers.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes the year; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._leads: Cache[LeadTable] = Cache(caches, "leads", lambda _: 20_000)
        self._openings: Cache[tuple[Opening, ...]] = Cache(caches, "openings", lambda _: 2_000)
        self._parkings: Cache[Parking] = Cache(caches, "parkings", lambda _: 20_000)
        self._routines: Cache[tuple[Routine, ...]] = Cache(caches, "routines", lambda _: 40_000)
        self._months: Cache[LeadRow] = Cache(caches, "lead", lambda _: 1_000)
        self._nows: Cache[Now | None] = Cache(caches, "nows", lambda _: 60_000)

    def leads(self, project: Project, variant: Variant, asker: Asker) -> LeadTable | UnderWay:
        """Give lead times for the year, or how far they are."""
        return found_or_asked(
            self._work, self._leads, LEAD_WORK, stands_key(project, variant),
            (project, variant, {}), asker, lambda: compute_leads(project, variant), WRITTEN,
        )  # fmt: skip

    def now(self, project: Project, variant: Variant, draw: Draw, today: Today) -> Now | None:
        """Answer for one draw today; None where it never gets warm; CoreError says why not."""
        key = (*stands_key(project, variant), draw.id, repr(today))
        return self._nows.once(key, lambda: now_of(
            run_of(), project.brief, variant.built.system, variant.standing, draw,
            today))  # fmt: skip

    def openings(self, project: Project, variant: Variant, draw: Draw) -> tuple[Opening, ...]:
        """Try a tap at several openings, all sources on; CoreError says why not."""
        key = (*stands_key(project, variant), draw.id)
        system = variant.built.system
        return self._openings.once(key, lambda: openings_of(
            run_of(), project.brief, system, variant.standing, draw,
            sources_of(system)))  # fmt: skip

    @staticmethod
    def sources(variant: Variant) -> tuple[str, ...]:
        """List what a hand switches on to heat in the state that is seen; all where none is on."""
        system = variant.built.system
        return on_in(system, variant.standing) or sources_of(system)

    def parking(self, project: Project, variant: Variant, state: State | None) -> Parking:
        """Try how a vehicle may stand."""
        key = (variant.built.system.digest, state and state.id, repr(project.vehicle))
        return self._parkings.once(
            key, lambda: parking_of(variant.built.system, state, project.vehicle)
        )

    @staticmethod
    def damp(outcome: Outcome) -> tuple[Damp, ...]:
        """Say what showers inside leave in the air of a day."""
        return damps(outcome)

    def routines(
        self, project: Project, variant: Variant, state: State | None,
        product_g_per_l: float = PRODUCT_G_PER_L, day_m3: float | None = None,
    ) -> tuple[Routine, ...]:  # fmt: skip
        """Write the routines of a design in one of its states; `day_m3` is what a day takes."""
        key = (project.brief.digest, variant.built.system.digest, state and state.id,
               repr(project.vehicle), product_g_per_l, day_m3)  # fmt: skip
        return self._routines.once(
            key, lambda: self._written(project, variant, state, product_g_per_l, day_m3)
        )

    def _written(
        self, project: Project, variant: Variant, state: State | None, product_g_per_l: float,
        day_m3: float | None,
    ) -> tuple[Routine, ...]:  # fmt: skip
        system = variant.built.system
        known = computed(system)
        try:
            down = drained(project, variant, state)
        except CoreError:  # no network can be laid: nothing to drain by
            down = None
        outside = {part.id for part in system.parts if isinstance(part, OutsideSource)}
        rivers = tuple(
            one.id for one in system.states
            if any(section.source in outside
                   for section in sections_of(system, known, positions(system, one)))
        ) if outside else ()  # fmt: skip
        water = treated_m3(system, sections_of(system, known, positions(system, state)))
        parking = self.parking(project, variant, state)
        return routines_of(system, state, Known(
            down, water, product_g_per_l, rivers, parking.judged, day_m3))  # fmt: skip

    def lead(self, project: Project, variant: Variant, month: int) -> LeadRow | None:
        """Give the time from switching all sources on to hot, in a month; CoreError says why not.

        None where nothing is switched on.
        """
        on = self.sources(variant)
        if not on:
            return None
        key = (*stands_key(project, variant), month)

        def find() -> LeadRow:
            one = lead_of(run_of(), project.brief, variant.built.system, variant.standing, on,
                          month=month)  # fmt: skip
            return LeadRow(on, month, one.cold_c, one.target_c, one.short, one.takes_s)

        return self._months.once(key, find)
