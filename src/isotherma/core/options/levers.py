"""What a person can change so that a budget lasts longer, and what each change costs elsewhere."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import islice
from typing import Final

from isotherma.core.editing import plan_stop
from isotherma.core.errors import ChangeRefused
from isotherma.core.options.changes import Change, Failing, Tries, What
from isotherma.core.project import Project, Variant
from isotherma.core.results.ledger import Entry
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.trip import REFILLS
from isotherma.core.setup.consumption import BudgetName
from isotherma.core.system.hot_route import hot_route
from isotherma.core.system.kinds import electric, gas
from isotherma.core.system.tubes import next_smaller

LEVERS_AT_MOST: Final = 15
CAUGHT_FOR: Final = frozenset({"dishes", "toilet flush", "laundry", "pets", "wipe-down"})
_BOTTLES_KG: Final = (2.75, 5.0, 6.0, 11.0, 13.0)  # sizes shops fill, ours


@dataclass(frozen=True, slots=True)
class Price:
    """What a change does to another budget: more or less of it is taken [SI]."""

    budget: BudgetName
    more: float
    style: str


@dataclass(frozen=True, slots=True)
class Lever:
    """A change that was tried: how much longer the budget lasts, and what that costs.

    `days` more are carried until the budget ends, `spared` is what is left over more than before;
    `breaks` names draws that were as asked and are not any more, `mends` those that now are.
    """

    change: Change
    days: int
    spared: float
    style: str
    prices: tuple[Price, ...]
    breaks: tuple[str, ...]
    mends: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Levers:
    """Every lever that was tried on one budget, what gains most first."""

    budget: BudgetName
    rows: tuple[Lever, ...]
    tried: int


def budget_to_stretch(outcome: Outcome) -> BudgetName | None:
    """Give the budget that levers are for: the first that ends, else the one that binds.

    Parameters
    ----------
    outcome : Outcome
        Of a trip. [-]

    Returns
    -------
    str or None
        None where nothing that is carried has a limit. [-]
    """
    carried = [entry for entry in outcome.ledger if entry.budget not in ("warmth", "waiting")]
    ends = [(entry.ends_on_day, at) for at, entry in enumerate(carried)
            if entry.ends_on_day is not None]  # fmt: skip
    if ends:
        return carried[min(ends)[1]].budget
    near = [(entry.cover, entry.budget) for entry in carried if entry.cover is not None]
    return min(near)[1] if near else None


def changes_for(
    project: Project, variant: Variant, outcome: Outcome, budget: BudgetName
) -> tuple[Change, ...]:
    """List what may make a budget last longer, of everything the smallest step.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    outcome : Outcome
        What it does now. [-]
    budget : str
        What is to last longer. [-]

    Returns
    -------
    tuple of Change
        Twelve at most. [-]
    """
    short = Failing(cold=False, hot=False, waits=False, water=True, grey=True, supply=True,
                    broke=())  # fmt: skip
    cooler = Tries(project, variant, outcome, short)
    hotter = Tries(project, variant, outcome, replace(short, cold=True))
    found = [
        *_fills(project, outcome, budget),
        *islice(cooler.flows(), 1), *islice(cooler.minutes(), 1),
        *_firsts(cooler.set_points()), *_firsts(hotter.set_points()),
        *(change for change in hotter.sizes() if change.what is What.FOAM),
        *_tanks(cooler, budget), *_supplies(cooler, variant, budget),
        *(_slugs(project, variant, outcome) if budget in ("fresh", "grey") else ()),
    ]  # fmt: skip
    return tuple(found[:LEVERS_AT_MOST])


def _firsts(changes: Iterator[Change]) -> Iterator[Change]:
    return (change for change in changes if change.step == 1)


def _fills(project: Project, outcome: Outcome, budget: BudgetName) -> Iterator[Change]:
    """Bring some of it on the day it ends, or half way."""
    services = REFILLS.get(budget, ())
    if not services:
        return
    entry = next(one for one in outcome.ledger if one.budget == budget)
    days = project.brief.trip_days
    day = entry.ends_on_day if entry.ends_on_day is not None else days // 2 + 1
    try:
        planned = plan_stop(project, min(day, days), services[0]).brief.model_dump(mode="json")
    except ChangeRefused:
        return
    values = {"brief.day_kinds": planned["day_kinds"], "brief.order": planned["order"]}
    yield Change(What.FILL, "", None, f"{services[0]} on day {min(day, days)}", "", values)


def _slugs(project: Project, variant: Variant, outcome: Outcome) -> Iterator[Change]:
    """Keep the cold water before a draw: a jug, a return diverter, a thinner pipe."""
    lost_m3 = sum(draw.cold_m3 for draw in outcome.draws)
    if lost_m3 <= 0.0:
        return
    yield from _jug(project, lost_m3)
    worst = max(outcome.draws, key=lambda draw: draw.cold_m3)
    yield Change(What.DIVERTER, worst.outlet, None, "", "", {}, edit="diverter.place")
    yield from _thinner(variant, outcome, worst.outlet)


def _jug(project: Project, lost_m3: float) -> Iterator[Change]:
    """Catch it for what any clean water is good for, each time."""
    left_m3, values = lost_m3, {}
    for use in project.brief.uses:
        if use.purpose not in CAUGHT_FOR or use.day_m3 <= 0.0 or left_m3 <= 0.0:
            continue
        caught = min(left_m3, use.day_m3)
        values[f"brief.uses.{use.id}.volume_m3"] = use.volume_m3 * (1.0 - caught / use.day_m3)
        left_m3 -= caught
    if values:
        yield Change(What.JUG, "", None, lost_m3 - left_m3, "volume", values)


def _thinner(variant: Variant, outcome: Outcome, outlet: str) -> Iterator[Change]:
    """The next smaller tube from the heat to the outlet that waits for most."""
    values: dict[str, object] = {}
    before = after = ""
    for run in hot_route(outcome.setup.computed, outlet):
        if run.family is None or run.nominal is None:
            continue
        smaller = next_smaller(run.family, run.nominal)
        if smaller is not None:
            before, after = before or run.nominal, after or smaller
            values[f"variants.{variant.id}.system.runs.{run.id}.nominal"] = smaller
    if values:
        yield Change(What.PIPE, outlet, before, after, "", values)


def _tanks(tries: Tries, budget: BudgetName) -> Iterator[Change]:
    """The next larger tank."""
    kinds = {"fresh": What.TANK, "grey": What.GREY}
    if budget in kinds:
        yield from tries.next_tanks(kinds[budget])


def _supplies(tries: Tries, variant: Variant, budget: BudgetName) -> Iterator[Change]:
    """One panel more, the next larger bottle."""
    for part in variant.system.parts:
        if budget == "battery" and isinstance(part, electric.Panel):
            more = float(part.count + 1)
            yield tries.part_change(What.PANEL, part, "count", more, "number")
        elif budget == "gas" and isinstance(part, gas.GasBottle) and part.gas_kg:
            larger = next((size for size in _BOTTLES_KG if size > part.gas_kg), None)
            if larger is not None:
                yield tries.part_change(What.BOTTLE, part, "gas_kg", larger, "mass")


def lever_of(change: Change, before: Outcome, after: Outcome, budget: BudgetName) -> Lever:
    """Say what a change gained, and what it costs.

    Parameters
    ----------
    change : Change
        That was tried. [-]
    before, after : Outcome
        The design without and with it. [-]
    budget : str
        What is to last longer. [-]

    Returns
    -------
    Lever
        Days and what is spared; prices of half a hundredth and more of what was taken. [SI]
    """
    was = {entry.budget: entry for entry in before.ledger}
    now = {entry.budget: entry for entry in after.ledger}
    one, two = was[budget], now[budget]
    prices = tuple(
        Price(key, now[key].used - entry.used, entry.style)
        for key, entry in was.items()
        if key not in (budget, "warmth") and key in now
        and abs(now[key].used - entry.used) > 5e-3 * max(abs(entry.used), 1e-9)
    )  # fmt: skip
    first, then = _met(before), _met(after)
    return Lever(
        change, _lasts(after, two) - _lasts(before, one), _spared(one, two), one.style, prices,
        breaks=tuple(name for key, (name, met) in first.items()
                     if met and key in then and not then[key][1]),
        mends=tuple(name for key, (name, met) in first.items()
                    if not met and key in then and then[key][1]),
    )  # fmt: skip


def _spared(before: Entry, after: Entry) -> float:
    """Give what is left over more than before; nothing where one has no limit."""
    if before.margin is None or after.margin is None:
        return 0.0
    return after.margin - before.margin


def _lasts(outcome: Outcome, entry: Entry) -> int:
    return outcome.course.days if entry.ends_on_day is None else entry.ends_on_day - 1


def _met(outcome: Outcome) -> dict[str, tuple[str, bool]]:
    """Say of every draw whether it is as asked on all days."""
    found: dict[str, tuple[str, bool]] = {}
    for leg in outcome.course.legs:
        for draw in leg.draws:
            _, met = found.get(draw.draw.id, ("", True))
            found[draw.draw.id] = (draw.draw.name, met and draw.met)
    return found
