"""The ledger: what each budget must give, what it has, and which one ends the trip."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import floor

from isotherma.core.brief import Budgets
from isotherma.core.results.course import Course, Leg
from isotherma.core.results.inventory import battery_course
from isotherma.core.results.spending import spent
from isotherma.core.results.trip import (
    BUDGET_STYLES,
    CARRIED,
    Carried,
    carried_on,
    gas_limit_kg,
    nearest_of,
)
from isotherma.core.results.waters import Share, fresh_shares, grey_shares, nearest
from isotherma.core.setup.consumption import BudgetName

TITLES: dict[BudgetName, str] = {
    "fresh": "Fresh water",
    "grey": "Grey water",
    "gas": "Gas",
    "diesel": "Diesel",
    "mains": "Mains energy",
    "battery": "Battery",
    "warmth": "Warm minutes",
    "waiting": "Longest wait",
}


@dataclass(frozen=True, slots=True)
class Entry:
    """One budget over the days between fills; SI values with the style that shows them.

    `used` is what the brief asks, `limit` what there is; the margin may be negative. `of` names
    the tank or can, where there are several and this is the first to end.
    """

    budget: BudgetName
    used: float
    limit: float | None
    style: str
    binds: bool
    used_per_day: float
    ends_on_day: int | None
    of: str = ""
    never: bool = False  # a wait that no time ends
    filled: bool = False  # on the way: `used` is between two fillings

    @property
    def margin(self) -> float | None:
        """Limit less use; None without a limit."""
        return None if self.limit is None else self.limit - self.used

    @property
    def cover(self) -> float | None:
        """How often the limit covers the use; None without limit or use."""
        if self.limit is None or self.used <= 0:
            return None
        return self.limit / self.used


def _entry(budget: BudgetName, style: str, per_day: float, days: int, limit: float | None) -> Entry:
    used = per_day * days
    ends = None
    if limit is not None and used > limit * (1 + 1e-9) and per_day > 0:
        ends = floor(limit / per_day * (1 + 1e-9)) + 1
    return Entry(budget, used, limit, style, False, per_day, ends)


def _water(budget: BudgetName, share: Share, days: int) -> Entry:
    entry = _entry(budget, "volume", share.per_day_m3, days, share.limit_m3)
    return replace(entry, of=share.label)


def _battery_entry(course: Course) -> Entry:
    """Give the battery's entry: what the trip takes out of it that nothing puts back."""
    level, days = battery_course(course), course.days
    alike = course.alike
    if alike is not None:
        per_day_j = spent(alike.setup, alike.timeline).battery_j
    else:
        taken = (spent(leg.setup, leg.timeline).battery_j * leg.days for leg in course.legs)
        per_day_j = sum(taken) / days
    if level is None:
        return _entry("battery", "battery_energy", per_day_j, days, None)
    usable = course.legs[0].setup.hours.full_j
    if level.charged_j <= 0.0 and alike is not None:
        return _entry("battery", "battery_energy", per_day_j, days, usable)
    ends = None if level.empty_s is None else int(level.empty_s // 86400.0) + 1
    short = max(0.0, (level.used_j - level.charged_j) * days - usable)
    used = usable - level.least_j if ends is None else usable + short
    return Entry("battery", used, usable, "battery_energy", False, per_day_j, ends)


def _carried_entry(item: Carried) -> Entry:
    """Give the entry of something that is followed through days that differ, or filled."""
    days, course, style = len(item.takings), item.course, BUDGET_STYLES[item.budget]
    per_day = item.total / days
    if course is None:
        return Entry(item.budget, item.total, None, style, False, per_day, None, item.label)
    ends = None if course.ends is None else course.ends[0]
    return Entry(
        item.budget, course.used, course.limit, style, False, per_day, ends, item.label,
        filled=any(made.amount > 0.0 for made in course.filled),
    )  # fmt: skip


def _carried_entries(course: Course) -> list[Entry]:
    """Give fresh and grey water, gas, liquid fuel and mains."""
    alike = course.alike
    if alike is not None and not alike.stops:
        return _alike_entries(alike)
    carried = carried_on(course)
    return [_carried_entry(nearest_of(carried, budget)) for budget in CARRIED]


def _alike_entries(leg: Leg) -> list[Entry]:
    """Give them where every day takes the same and nothing is filled on the way."""
    setup, draws, days = leg.setup, leg.draws, leg.days
    took, budgets = spent(setup, leg.timeline), leg.brief.budgets
    return [
        _water("fresh", nearest(fresh_shares(setup, leg.timeline, draws)), days),
        _water("grey", nearest(grey_shares(setup, draws, budgets.grey_m3)), days),
        _entry("gas", "mass", took.gas_kg, days, gas_limit_kg(leg)),
        _entry("diesel", "volume", took.diesel_m3, days, setup.full.diesel_m3),
        _entry("mains", "energy", took.mains_j, days, budgets.mains_energy_j),
    ]


def make_ledger(course: Course) -> tuple[Entry, ...]:
    """Add up the days of a trip, and find what binds.

    Parameters
    ----------
    course : Course
        Its days as they ran. [-]

    Returns
    -------
    tuple of Entry
        One per budget; one binds, unless none has both limit and use. [-]

    Notes
    -----
    Water is counted by the tank, bag or can it comes out of and the tank it runs into; the first
    to end is the one shown. Both include what a draw would still have taken when it ran dry.
    Where something is filled on the way, its use is the most it is drawn down between two
    fillings. Warmth compares minutes asked with minutes given inside the window, on one day where
    all are alike, else on all of them; it binds only when short. Waiting is the longest wait. The
    battery is followed through the trip, full at the start: where something charges it, its use
    is how far it falls, and what is short where it empties. Diesel has no limit where no tank is
    drawn. What the brief says does not matter has none either.
    """
    brief = course.legs[0].brief
    counted = [
        (draw, leg.days if course.alike is None else 1) for leg in course.legs for draw in leg.draws
    ]
    waits = [draw.wait_s if draw.wait_s is not None else brief.gives_up_s for draw, _ in counted]
    asked_s = sum(draw.asked_s * days for draw, days in counted)
    warm_s = sum(min(draw.comfort_s, draw.asked_s) * days for draw, days in counted)
    entries = [
        *_carried_entries(course),
        _battery_entry(course),
        Entry("warmth", asked_s, warm_s, "minutes", False, asked_s / (
            1 if course.alike is not None else course.days), None),
        Entry(
            "waiting", max(waits, default=0.0), brief.budgets.longest_wait_s, "seconds", False,
            max(waits, default=0.0), None, never=any(draw.wait_s is None for draw, _ in counted),
        ),
    ]  # fmt: skip
    entries = [_heeded(entry, brief.budgets) for entry in entries]
    short_s = sum(max(5.0, 0.02 * draw.asked_s) * days for draw, days in counted)
    best: int | None = None
    for index, entry in enumerate(entries):
        cover = entry.cover
        if cover is None or (entry.budget == "warmth" and asked_s - warm_s <= short_s):
            continue
        best_cover = entries[best].cover if best is not None else None
        if best_cover is None or cover < best_cover:
            best = index
    return tuple(replace(entry, binds=index == best) for index, entry in enumerate(entries))


def _heeded(entry: Entry, budgets: Budgets) -> Entry:
    """Take the limit off what does not matter."""
    if budgets.matters(entry.budget):
        return entry
    return replace(entry, limit=None, ends_on_day=None)
