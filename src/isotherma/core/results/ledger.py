"""The ledger: what each budget must give, what it has, and which one ends the trip."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import floor

from isotherma.core.results.draws import DrawResult
from isotherma.core.results.inventory import battery_level
from isotherma.core.results.spending import spent
from isotherma.core.results.waters import Share, fresh_shares, grey_shares, nearest
from isotherma.core.setup import Setup
from isotherma.core.setup.consumption import BudgetName
from isotherma.core.system.kinds import gas as gas_kinds
from isotherma.core.timeline.record import Day

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


def _battery_entry(setup: Setup, day: Day, days: int, per_day_j: float) -> Entry:
    """Give the battery's entry: what the trip takes out of it that nothing puts back."""
    level = battery_level(setup, day, days)
    if level is None:
        return _entry("battery", "battery_energy", per_day_j, days, None)
    usable = setup.hours.full_j
    if level.charged_j <= 0.0:
        return _entry("battery", "battery_energy", per_day_j, days, usable)
    ends = None if level.empty_s is None else int(level.empty_s // 86400.0) + 1
    short = max(0.0, (level.used_j - level.charged_j) * days - usable)
    used = usable - level.least_j if ends is None else usable + short
    return Entry("battery", used, usable, "battery_energy", False, per_day_j, ends)


def _gas_limit_kg(setup: Setup, asked_kg: float | None) -> float | None:
    """Give the gas carried: as the brief says, else what is in the bottles."""
    if asked_kg is not None:
        return asked_kg
    held = [
        part.gas_kg * part.fill_share for part in setup.parts.values()
        if isinstance(part, gas_kinds.GasBottle) and part.gas_kg
    ]  # fmt: skip
    return sum(held) if held else None


def make_ledger(setup: Setup, day: Day, draws: tuple[DrawResult, ...]) -> tuple[Entry, ...]:
    """Add up one day, multiply by the days, and find what binds.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    draws : tuple of DrawResult
        Its draws. [-]

    Returns
    -------
    tuple of Entry
        One per budget; one binds, unless none has both limit and use. [-]

    Notes
    -----
    Water is counted by the tank, bag or can it comes out of and the tank it runs into; the first
    to end is the one shown. Both include what a draw would still have taken when it ran dry.
    Warmth compares minutes asked with minutes given inside the window on one day; it
    binds only when short. Waiting is the longest wait of the day. The battery is followed
    through the trip, full at the start: where something charges it, its use is how far it
    falls, and what is short where it empties. Diesel has no limit where no tank is drawn.
    """
    brief = setup.brief
    days = brief.days
    took = spent(setup, day)
    kept = 1 - brief.reserve
    budgets = brief.budgets
    gas_kg = _gas_limit_kg(setup, budgets.gas_kg)
    gas_limit = None if gas_kg is None else gas_kg * kept
    waits = [draw.wait_s if draw.wait_s is not None else brief.gives_up_s for draw in draws]
    asked_s = sum(draw.asked_s for draw in draws)
    warm_s = sum(min(draw.comfort_s, draw.asked_s) for draw in draws)
    entries = [
        _water("fresh", nearest(fresh_shares(setup, day, draws)), days),
        _water("grey", nearest(grey_shares(setup, draws, budgets.grey_m3)), days),
        _entry("gas", "mass", took.gas_kg, days, gas_limit),
        _entry("diesel", "volume", took.diesel_m3, days, setup.full.diesel_m3),
        _entry("mains", "energy", took.mains_j, days, budgets.mains_energy_j),
        _battery_entry(setup, day, days, took.battery_j),
        Entry("warmth", asked_s, warm_s, "minutes", False, asked_s, None),
        Entry(
            "waiting", max(waits, default=0.0), budgets.longest_wait_s, "seconds", False,
            max(waits, default=0.0), None, never=any(draw.wait_s is None for draw in draws),
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
    return tuple(replace(entry, binds=index == best) for index, entry in enumerate(entries))
