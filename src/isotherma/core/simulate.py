"""The one road: brief, system and climate in, a day and everything measured in it out.

Above what runs and what is computed from a run: it is the only place that needs both.
"""

from __future__ import annotations

from collections.abc import Mapping

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.engine.periodic_day import Near, Ran, play, run_day
from isotherma.core.engine.state_simulation import FINE_S
from isotherma.core.engine.trip_days import run_days
from isotherma.core.errors import NotComputedYet
from isotherma.core.results.course import Leg
from isotherma.core.results.draws import draw_results
from isotherma.core.results.last_day import LastDay, begins_with, first_end
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup import Setup
from isotherma.core.setup.day_kinds import Documents
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.core.timeline.record import AlikeDays


def simulate(
    brief: Brief,
    system: System,
    climate: Climate,
    *,
    state: State | None = None,
    fine_s: float = FINE_S,
    near: Near | None = None,
) -> Outcome:
    """Simulate a trip of a system under a brief: one day where all are alike, else each.

    Parameters
    ----------
    brief : Brief
        What is asked. [-]
    system : System
        What is built; never changed. [-]
    climate : Climate
        Where and when. [-]
    state : State or None
        How it stands; None: its first state, or everything as usual. [-]
    fine_s : float
        Step while something moves, > 0. [s]
    near : Near or None
        A day of documents that differ in little: it saves the days that only warm up. [-]

    Returns
    -------
    Outcome
        The same for the same input, bit for bit. [-]

    Raises
    ------
    NotComputedYet
        If there is nothing to be computed; it names a part.
    MissingValue
        If a value the engine needs is unknown.
    FlowNotSolved, BalanceBroken
        If flows cannot be found, or energy or water does not add up.
    """
    if not system.parts:
        raise NotComputedYet(part_id="", part_name="", reason="no_parts")
    standing = state or (system.states[0] if system.states else None)
    documents = Documents(brief, system, standing, climate)
    if brief.unlike:
        kinds = documents.kinds()
        days = tuple(run_days(kinds, brief.order, fine_s=fine_s, near=near))
        return _trip(kinds, days)
    setup = documents.alike().setup()
    ran = run_day(setup, fine_s=fine_s, near=near)
    outcome = Outcome.of(setup, ran.day)
    number, ends_s = first_end(outcome.course.until(1), outcome.ledger)
    if number != 1 or ends_s is None:
        return outcome
    # something else than the water ends on the first day: it is shown as it runs
    first = play(setup, ran.day.morning, used_kg={}, levels=setup.full, ends_s=ends_s)
    return Outcome.of(setup, first)


def measured(documents: Documents, days: tuple[AlikeDays, ...]) -> Outcome:
    """Measure days that were run before from the same documents.

    Parameters
    ----------
    documents : Documents
        Brief, system, state and climate. [-]
    days : tuple of AlikeDays
        As `Outcome.days_run` gave them. [-]

    Returns
    -------
    Outcome
        The same as when they were run. [-]
    """
    if documents.brief.unlike:
        return _trip(documents.kinds(), days)
    return Outcome.of(documents.alike().setup(), days[0].day)


def _trip(kinds: Mapping[str, Setup], days: tuple[AlikeDays, ...]) -> Outcome:
    """Show a trip whose days differ by the day on which most goes wrong."""
    return Outcome.of_trip(
        tuple(Leg.of(row.kind, row.first, row.last, kinds[row.kind], row.day) for row in days)
    )


def near(outcome: Outcome) -> Near:
    """Give where a day ended, for days of documents that differ in little.

    Parameters
    ----------
    outcome : Outcome
        That day. [-]

    Returns
    -------
    Near
        For `simulate`. [-]
    """
    first = outcome.course.legs[0]
    return Near(Ran(first.setup, first.timeline))


def last_day(outcome: Outcome) -> LastDay | None:
    """Play the first later day of the trip on which something ends.

    Parameters
    ----------
    outcome : Outcome
        The day shown; it stays as it is. [-]

    Returns
    -------
    LastDay or None
        None when all days of the trip are like the day shown, or it is the one. [-]
    """
    course, ledger = outcome.course, outcome.ledger
    alike = course.alike is not None
    if alike and outcome.timeline.ended:
        return None
    number, ends_s = first_end(course, ledger)
    if number < (2 if alike else 1):
        return None
    leg, begins = course.leg(number), begins_with(course, ledger, number)
    before = course.leg(max(1, number - 1)).timeline
    began = before.morning if number == 1 else before.evening
    played = play(leg.setup, began, used_kg=begins.used_kg, levels=begins.levels, ends_s=ends_s)
    draws = draw_results(leg.setup, played, leg.brief.budgets.wait_limit_s)
    return LastDay(number, ends_s is None, played, draws, leg.draws)
