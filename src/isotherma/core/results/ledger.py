"""The ledger: what each budget must give, what it has, and which one ends the trip."""

from __future__ import annotations

from dataclasses import dataclass
from math import floor
from typing import Literal

from isotherma.core import water
from isotherma.core.brief import Brief
from isotherma.core.results.draws import DrawResult
from isotherma.core.simulate.plan import Plan
from isotherma.core.simulate.run import Balance

BudgetName = Literal["fresh", "grey", "gas", "mains", "warmth", "waiting"]
TITLES: dict[BudgetName, str] = {
    "fresh": "Fresh water",
    "grey": "Grey water",
    "gas": "Gas",
    "mains": "Mains energy",
    "warmth": "Warm minutes",
    "waiting": "Longest wait",
}


@dataclass(frozen=True, slots=True)
class Entry:
    """One budget over the days between fills; SI values with the style that shows them.

    `used` is what the brief asks, `limit` what there is; the margin may be negative.
    """

    budget: BudgetName
    used: float
    limit: float | None
    style: str
    binds: bool
    used_per_day: float
    ends_on_day: int | None

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


def make_ledger(
    brief: Brief, plan: Plan, draws: tuple[DrawResult, ...], balance: Balance
) -> tuple[Entry, ...]:
    """Add up one day, multiply by the days, and find what binds.

    Parameters
    ----------
    brief : Brief
        Days, other water, limits. [-]
    plan : Plan
        The plan that was run. [-]
    draws : tuple of DrawResult
        Its draws. [-]
    balance : Balance
        Its heat and water. [-]

    Returns
    -------
    tuple of Entry
        One per budget; one binds, unless none has both limit and use. [-]

    Notes
    -----
    Fresh and grey include what a draw would still have taken when the tank ran dry.
    Warmth compares minutes asked with minutes given inside the window on one day; it
    binds only when short. Waiting is the longest wait of the day.
    """
    days = brief.days
    density = water.density_kg_per_m3(plan.fresh_c)
    washed_m3 = sum(draw.used_m3 + draw.missing_kg / density for draw in draws)
    gas_kg = balance.burner_j / plan.burner_efficiency / plan.fuel_j_per_kg
    kept = 1 - brief.reserve
    budgets = brief.budgets
    gas_limit = None if budgets.gas_kg is None else budgets.gas_kg * kept
    waits = [draw.wait_s if draw.wait_s is not None else brief.gives_up_s for draw in draws]
    asked_s = sum(draw.asked_s for draw in draws)
    warm_s = sum(min(draw.comfort_s, draw.asked_s) for draw in draws)
    tank_m3 = plan.fresh_kg / density
    entries = [
        _entry("fresh", "volume", washed_m3 + brief.other_fresh_m3, days, tank_m3),
        _entry("grey", "volume", washed_m3 + brief.other_grey_m3, days, budgets.grey_m3),
        _entry("gas", "mass", gas_kg, days, gas_limit),
        _entry("mains", "energy", balance.element_j, days, budgets.mains_energy_j),
        Entry("warmth", asked_s, warm_s, "minutes", False, asked_s, None),
        Entry(
            "waiting", max(waits, default=0.0), budgets.longest_wait_s, "seconds", False,
            max(waits, default=0.0), None,
        ),
    ]  # fmt: skip
    short_s = sum(max(5.0, 0.02 * draw.asked_s) for draw in draws)
    best: int | None = None
    for index, entry in enumerate(entries):
        cover = entry.cover
        if cover is None or (entry.budget == "warmth" and asked_s - warm_s <= short_s):
            continue
        best_cover = entries[best].cover if best is not None else None
        if best_cover is None or cover < best_cover:
            best = index
    return tuple(
        Entry(
            entry.budget, entry.used, entry.limit, entry.style, index == best,
            entry.used_per_day, entry.ends_on_day,
        )
        for index, entry in enumerate(entries)
    )  # fmt: skip
