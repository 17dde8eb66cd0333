"""The one road: brief, system and climate in, a day and everything measured in it out.

Above what runs and what is computed from a run: it is the only place that needs both.
"""

from __future__ import annotations

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.engine.periodic_day import Near, Ran, play, run_day
from isotherma.core.engine.state_simulation import FINE_S
from isotherma.core.errors import NotComputedYet
from isotherma.core.results.draws import draw_results
from isotherma.core.results.last_day import LastDay, first_end, levels_at
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.waters import fresh_shares
from isotherma.core.setup import Setup
from isotherma.core.setup.reservoirs import FRESH_KG_PER_M3
from isotherma.core.system import System
from isotherma.core.system.states import State


def simulate(
    brief: Brief,
    system: System,
    climate: Climate,
    *,
    state: State | None = None,
    fine_s: float = FINE_S,
    near: Near | None = None,
) -> Outcome:
    """Simulate one day of a system under a brief.

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
    setup = Setup(brief, system, standing, climate)
    ran = run_day(setup, fine_s=fine_s, near=near)
    outcome = Outcome.of(setup, ran.day)
    number, ends_s = first_end(setup, ran.day, outcome.ledger, 1)
    if number != 1 or ends_s is None:
        return outcome
    # something else than the water ends on the first day: it is shown as it runs
    first = play(ran, number=1, used_kg={}, levels=setup.full, ends_s=ends_s)
    return Outcome.of(setup, first)


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
    return Near(Ran(outcome.setup, outcome.timeline))


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
    setup, day, ledger = outcome.setup, outcome.timeline, outcome.ledger
    if day.ended:
        return None
    number, ends_s = first_end(setup, day, ledger, setup.brief.days)
    if number < 2:
        return None
    used_kg = {
        share.id: (number - 1) * share.per_day_m3 * FRESH_KG_PER_M3
        for share in fresh_shares(setup, day, outcome.draws)
    }
    played = play(
        Ran(setup, day), number=number, used_kg=used_kg,
        levels=levels_at(setup, day, ledger, number), ends_s=ends_s,
    )  # fmt: skip
    draws = draw_results(setup, played, setup.brief.budgets.longest_wait_s)
    return LastDay(number, ends_s is None, played, draws)
