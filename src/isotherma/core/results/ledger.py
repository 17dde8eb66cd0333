"""The ledger: what each budget must give, what it has, and which one ends the trip."""

from __future__ import annotations

from dataclasses import dataclass
from math import floor
from typing import Final, Literal

from isotherma.core import water
from isotherma.core.engine.course import Course, Day
from isotherma.core.flows.report import pump_current_a
from isotherma.core.results.draws import DrawResult
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds.water import (
    FreshTank,
    GravityBag,
    LooseContainer,
    Pump,
    Submersible,
)

BudgetName = Literal["fresh", "grey", "gas", "diesel", "mains", "battery", "warmth", "waiting"]
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
NET_J_PER_KG: Final = {"propane": 46.34e6, "butane": 45.72e6}
DIESEL_J_PER_M3: Final = 35.7e9  # net at 15 °C, middle of 35.2 to 36.2 MJ/L
PETROL_J_PER_M3: Final = 31.8e9
LOW_VOLTS: Final = 60.0


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


@dataclass(frozen=True, slots=True)
class Spent:
    """What a day's heat and pumps took: gas [kg], liquid fuel [m³], energies [J]."""

    gas_kg: float
    diesel_m3: float
    mains_j: float
    battery_j: float
    from_coolant_j: float


def spent(course: Course, day: Day) -> Spent:
    """Turn the heat of a day's sources into what they burn and draw.

    Parameters
    ----------
    course : Course
        What was run. [-]
    day : Day
        A day of it. [-]

    Returns
    -------
    Spent
        By what is carried; mains and battery told apart by volts and by what feeds them. [-]
    """
    parts = course.circuit.parts
    gas = diesel = mains = battery = 0.0
    for part_id, joules in {**day.balance.sources_j, **day.balance.bodies_j}.items():
        part = parts[part_id]
        if isinstance(part, heat.Burner):
            gas += joules / (part.efficiency or 1.0) / NET_J_PER_KG[part.fuel]
        elif isinstance(part, heat.Element):
            if on_battery(course, part):
                battery += 0.0 if part.rule == "surplus sun" else joules
            else:
                mains += joules
        elif isinstance(part, heat.Combi):
            if part.fuel in ("propane", "butane"):
                gas += joules / 0.85 / NET_J_PER_KG[part.fuel]
            elif part.fuel == "diesel":
                diesel += joules / 0.85 / DIESEL_J_PER_M3
            else:
                mains += joules
        elif isinstance(part, heat.ThroughFlowGas):
            gas += joules / (part.efficiency or 0.84) / NET_J_PER_KG[part.fuel]
        elif isinstance(part, heat.ThroughFlowElectric):
            mains += joules
        elif isinstance(part, heat.LiquidHeater):
            worth = PETROL_J_PER_M3 if part.fuel == "petrol" else DIESEL_J_PER_M3
            diesel += joules / (part.efficiency or 0.83) / worth
            runs_s = joules / (part.heat_w or 1.0)
            battery += day.starts.get(part_id, 0.0) * (part.firing_j or 0.0)
            battery += runs_s * (part.running_w or 0.0)
    volts = course.system.volts_v or 12.0
    for part_id, seconds in day.pumped_s.items():
        pump = parts[part_id]
        watts = getattr(pump, "running_w", None) or 0.0
        if isinstance(pump, Pump | Submersible):
            current = pump_current_a(pump, 1.2e5)
            watts = volts * current if current is not None else 0.0
        battery += watts * seconds
    return Spent(gas, diesel, mains, battery, day.balance.held_j)


def on_battery(course: Course, part: AnyKind) -> bool:
    """Say whether an element runs on the battery's volts.

    Parameters
    ----------
    course : Course
        Its system. [-]
    part : a kind of part
        An element. [-]

    Returns
    -------
    bool
        By its volts; else by whether its cable leads to a battery and to no hook-up. [-]
    """
    volts = getattr(part, "supply_v", None) or getattr(part, "rated_v", None)
    if volts is not None:
        return float(volts) <= LOW_VOLTS
    near: dict[str, set[str]] = {}
    for run in course.system.runs:
        if run.kind == "cable":
            near.setdefault(run.start.part, set()).add(run.end.part)
            near.setdefault(run.end.part, set()).add(run.start.part)
    seen, waiting = {part.id}, [part.id]
    kinds = set()
    while waiting:
        for other in near.get(waiting.pop(), ()):
            if other not in seen:
                seen.add(other)
                kinds.add(kind := course.circuit.parts[other].kind)
                if kind not in {"battery", "panel", "hook_up", "inverter"}:
                    waiting.append(other)  # what feeds is where the walk ends
    return bool(kinds & {"battery", "panel"}) and "hook_up" not in kinds and "inverter" not in kinds


def _entry(budget: BudgetName, style: str, per_day: float, days: int, limit: float | None) -> Entry:
    used = per_day * days
    ends = None
    if limit is not None and used > limit * (1 + 1e-9) and per_day > 0:
        ends = floor(limit / per_day * (1 + 1e-9)) + 1
    return Entry(budget, used, limit, style, False, per_day, ends)


def fresh_limit_m3(course: Course) -> float:
    """Add up the fresh water that is carried, less what is kept in reserve.

    Parameters
    ----------
    course : Course
        Its system. [-]

    Returns
    -------
    float
        Litres of tanks, bags and cans that water can be drawn from. [m³]
    """
    total = 0.0
    for part in course.circuit.parts.values():
        carried = isinstance(part, FreshTank | GravityBag | LooseContainer)
        if carried and any(part_id == part.id for part_id, _ in course.circuit.node):
            total += getattr(part, "volume_m3", None) or 0.0
    return total * (1 - course.brief.reserve)


def _battery_j(course: Course) -> float | None:
    """Give what the living space's batteries hold, where nothing charges them."""
    parts = course.circuit.parts.values()
    if any(
        isinstance(part, electric.Panel | electric.Alternator)
        or (isinstance(part, electric.HookUp) and course.circuit.at.get(part.id) != "unplugged")
        for part in parts
    ):
        return None
    held = [
        part.usable_j for part in parts
        if isinstance(part, electric.Battery) and part.serves == "living space" and part.usable_j
    ]  # fmt: skip
    return sum(held) if held else None


def _diesel_m3(course: Course) -> float | None:
    tanks = [
        (part.volume_m3 or 0.0) - (part.kept_m3 or 0.0)
        for part in course.circuit.parts.values()
        if isinstance(part, heat.FuelTank) and part.volume_m3 is not None
    ]
    return max(0.0, sum(tanks)) if tanks else None


def make_ledger(course: Course, day: Day, draws: tuple[DrawResult, ...]) -> tuple[Entry, ...]:
    """Add up one day, multiply by the days, and find what binds.

    Parameters
    ----------
    course : Course
        What was run. [-]
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
    Fresh and grey include what a draw would still have taken when the tank ran dry.
    Warmth compares minutes asked with minutes given inside the window on one day; it
    binds only when short. Waiting is the longest wait of the day. A battery that
    something charges, and diesel where no tank is drawn, have no limit.
    """
    brief = course.brief
    days = brief.days
    density = water.density_kg_per_m3(course.conditions.fresh_c)
    washed_m3 = sum(draw.used_m3 + draw.missing_kg / density for draw in draws)
    took = spent(course, day)
    kept = 1 - brief.reserve
    budgets = brief.budgets
    gas_limit = None if budgets.gas_kg is None else budgets.gas_kg * kept
    waits = [draw.wait_s if draw.wait_s is not None else brief.gives_up_s for draw in draws]
    asked_s = sum(draw.asked_s for draw in draws)
    warm_s = sum(min(draw.comfort_s, draw.asked_s) for draw in draws)
    entries = [
        _entry("fresh", "volume", washed_m3 + brief.other_fresh_m3, days, fresh_limit_m3(course)),
        _entry("grey", "volume", washed_m3 + brief.other_grey_m3, days, budgets.grey_m3),
        _entry("gas", "mass", took.gas_kg, days, gas_limit),
        _entry("diesel", "volume", took.diesel_m3, days, _diesel_m3(course)),
        _entry("mains", "energy", took.mains_j, days, budgets.mains_energy_j),
        _entry("battery", "battery_energy", took.battery_j, days, _battery_j(course)),
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
