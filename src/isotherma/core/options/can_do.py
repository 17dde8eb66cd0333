"""What a way of heating can do, whatever the brief asks: people in a row, longest warm draw."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import floor, inf
from typing import Final

from isotherma.core.brief import Brief, Draw
from isotherma.core.errors import CoreError
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.consumption import BudgetName
from isotherma.core.system.pieces import LITRE_PER_MIN

FLOWS: Final = tuple(flow * LITRE_PER_MIN for flow in (3.0, 4.0, 5.0, 6.0))
LONGEST_S: Final = 3600.0  # nobody washes longer
IN_A_ROW: Final = 8
GAP_S: Final = 60.0  # to change over
BEGINS_S: Final = 7 * 3600.0
USUAL: Final = Draw(id="wash", name="Wash", start_s=BEGINS_S, duration_s=300.0)

Run = Callable[[Brief], Outcome | CoreError]


@dataclass(frozen=True, slots=True)
class WarmDraw:
    """The longest warm draw at one flow [m³/s, s].

    `flow_m3_per_s` is what was asked and `gives_m3_per_s` what comes; `ends` says why it is no
    longer, None where it lasts an hour.
    """

    flow_m3_per_s: float
    gives_m3_per_s: float
    warm_s: float
    ends: WhyNot | None


@dataclass(frozen=True, slots=True)
class CanDo:
    """What a way of heating can do [SI].

    `people` wash one after the other as the first draw asks, `stopped` says why no more do, None
    where eight do; `again_s` is the wait from one until it is ready again. `suits` is the brief it
    would suit: so many people, so long, at such a flow; `days` it lasts for them and `ends_with`
    what ends it, None where nothing does.
    """

    warm: tuple[WarmDraw, ...]
    people: int
    stopped: WhyNot | None
    each_s: float
    again_s: float | None
    suits: tuple[int, float, float] | None
    days: int | None
    ends_with: BudgetName | None


def can_do(brief: Brief, run: Run) -> CanDo | CoreError:
    """Find what a way of heating can do under a brief's climate and tanks.

    Parameters
    ----------
    brief : Brief
        Its longest warm draw says how people wash; its trip is left aside: one day. [-]
    run : callable
        Runs the way of heating with another brief. [-]

    Returns
    -------
    CanDo or CoreError
        The error where it cannot be run at all. [SI]

    Notes
    -----
    An hour is drawn at 3, 4, 5 and 6 L/min: what of it is in the window is the longest warm draw.
    Eight people wash with a minute between: those before the first who is not served are in a row.
    Where nobody is, the brief it would suit is one wash as long as the longest warm draw.
    """
    wash = _wash(brief)
    bare = brief.model_copy(update={"day_kinds": (), "order": (), "days": 1})

    def asked(*draws: Draw) -> Outcome | CoreError:
        return run(bare.model_copy(update={"draws": draws}))

    warm: list[WarmDraw] = []
    for flow in FLOWS:
        long = {"duration_s": LONGEST_S, "stops": 0, "flow_m3_per_s": flow}
        found = asked(wash.model_copy(update=long))
        if isinstance(found, CoreError):
            return found
        draw = found.draws[0]
        # a tank that is empty in the end ends nothing that was cool by then
        ends = WhyNot.RUNS_COOL if draw.cool_after_s is not None else draw.why_not
        warm.append(WarmDraw(flow, draw.flow_m3_per_s, draw.comfort_s, ends))
    row = asked(*_in_a_row(wash, IN_A_ROW))
    alone = asked(wash)
    if isinstance(row, CoreError):
        return row
    if isinstance(alone, CoreError):
        return alone
    people = next((at for at, draw in enumerate(row.draws) if not draw.met), IN_A_ROW)
    stopped = None if people == IN_A_ROW else row.draws[people].why_not
    suits = _suits(people, wash, alone, warm)
    days, ends_with = None, None
    if suits is not None:
        count, each_s, flow = suits
        fits = wash.model_copy(update={"duration_s": each_s, "flow_m3_per_s": flow})
        suited = asked(*_in_a_row(fits, count))
        if isinstance(suited, Outcome):
            days, ends_with = _lasts(suited)
    return CanDo(
        tuple(warm), people, stopped, wash.duration_s, alone.draws[0].ready_again_s, suits, days,
        ends_with,
    )  # fmt: skip


def _wash(brief: Brief) -> Draw:
    """Give the draw people wash with: the longest that asks for warmth, placed at seven."""
    warm = [draw for draw in brief.draws if draw.aim in ("window", "at least")]
    longest = max(warm, key=lambda draw: draw.duration_s, default=USUAL)
    return longest.model_copy(update={"id": "wash", "start_s": BEGINS_S, "waits_hot": False})


def _in_a_row(wash: Draw, count: int) -> tuple[Draw, ...]:
    takes_s = wash.duration_s + wash.stops * wash.stop_s + GAP_S
    return tuple(
        wash.model_copy(update={"id": f"wash-{at}", "start_s": wash.start_s + at * takes_s})
        for at in range(count)
    )


def _suits(
    people: int, wash: Draw, alone: Outcome, warm: list[WarmDraw]
) -> tuple[int, float, float] | None:
    """Give people, seconds and flow of the brief it would suit; None where nothing is warm."""
    if people:
        return people, wash.duration_s, alone.draws[0].flow_m3_per_s
    best = max(warm, key=lambda one: one.warm_s)
    minutes = floor(best.warm_s / 60.0 * 0.95)  # what is drawn long is no better than it was
    return (1, 60.0 * minutes, best.flow_m3_per_s) if minutes >= 1 else None


def _lasts(outcome: Outcome) -> tuple[int | None, BudgetName | None]:
    """Say for how many such days what is carried lasts, and what ends first."""
    covers = [
        (inf if entry.cover is None else entry.cover, entry.budget) for entry in outcome.ledger
        if entry.budget not in ("warmth", "waiting", "mains")
    ]  # fmt: skip
    cover, budget = min(covers)
    return (None, None) if cover == inf else (floor(cover * (1 + 1e-9)), budget)
