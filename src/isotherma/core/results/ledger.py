"""The ledger: what each budget must give, what it has, and which one ends the trip."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import floor
from typing import Final, Literal

from isotherma.core import water
from isotherma.core.engine.course import Balance, Course, Day, Stretch
from isotherma.core.flows.report import pump_current_a
from isotherma.core.results.draws import DrawResult
from isotherma.core.supply.battery import Level, over_days
from isotherma.core.supply.bottle import Bottle, Hold
from isotherma.core.supply.bottle import over_days as bottle_over_days
from isotherma.core.supply.feeds import direct_panel, feeds_of
from isotherma.core.supply.hours import battery_side
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds import gas as gas_kinds
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
COMBI_SHARE: Final = 0.85  # of the net heat, middle of combi heaters
AIR_SHARE: Final = 0.8  # of the net heat into air heaters' air
BAG_C: Final = 40.0  # a bag somebody filled from a kettle


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
    heats = heats_of(course, day.balance)
    total = _plus(take(course, heats, day.pumped_s, day.starts), kettle_takes(course, day))
    mains = total.mains_j + sum(pitch_w(course, row) * row.span_s for row in day.stretches)
    standing = sum(row.standing_w * row.span_s for row in day.stretches)
    return Spent(
        total.gas_kg, total.diesel_m3, mains, total.battery_j + standing, day.balance.held_j
    )


def heats_of(course: Course, row: Stretch | Balance) -> dict[str, float]:
    """Give the heat of every source by part, hot air's by the heater that blew it.

    Parameters
    ----------
    course : Course
        What was run. [-]
    row : Stretch or Balance
        A stretch of a day, or the whole. [-]

    Returns
    -------
    dict of str to float
        Heat to the water. [J]
    """
    heats = {**row.sources_j, **row.bodies_j}
    blower = next(
        (part.id for part in course.hours.system.parts if isinstance(part, heat.AirHeater)), None
    )
    if blower is not None and row.air_j > 0.0:
        heats[blower] = heats.get(blower, 0.0) + row.air_j
    return heats


@dataclass(frozen=True, slots=True)
class Term:
    """One thing that took from a budget: `value` is `amount` over `efficiency` and `worth`.

    `amount` is heat [J], or, with `times`, seconds or starts of what takes `worth` each.
    """

    budget: BudgetName
    part_id: str
    words: str
    amount: float
    efficiency: float
    worth: float
    times: bool = False

    @property
    def value(self) -> float:
        """What it took: gas [kg], liquid fuel [m³], energy [J]."""
        if self.times:
            return self.amount * self.worth / self.efficiency
        return self.amount / self.efficiency / self.worth


def terms(
    course: Course,
    heats: Mapping[str, float],
    pumped_s: Mapping[str, float],
    starts: Mapping[str, float],
) -> tuple[Term, ...]:
    """Turn heat, pump seconds and starts into what they burn and draw, one by one.

    Parameters
    ----------
    course : Course
        Whose parts they are. [-]
    heats : mapping of str to float
        Heat by part. [J]
    pumped_s : mapping of str to float
        How long pumps ran. [s]
    starts : mapping of str to float
        How often heaters lit. [-]

    Returns
    -------
    tuple of Term
        Without what stands by; the sun's heat costs nothing. [-]
    """
    found: list[Term] = []
    for part_id, joules in heats.items():
        if joules > 0.0:
            found += _heat_terms(course, part_id, joules, starts.get(part_id, 0.0))
    volts = course.system.volts_v or 12.0
    for part_id, seconds in pumped_s.items():
        pump = course.circuit.parts[part_id]
        watts = getattr(pump, "running_w", None) or 0.0
        if isinstance(pump, Pump | Submersible):
            current = pump_current_a(pump, 1.2e5)
            watts = volts * current if current is not None else 0.0
        if watts * seconds > 0.0:
            found.append(Term("battery", part_id, "seconds of", seconds, 1.0, watts, times=True))
    return tuple(found)


def _heat_terms(course: Course, part_id: str, joules: float, starts: float) -> list[Term]:
    part = course.circuit.parts[part_id]
    system = course.hours.system
    if isinstance(part, heat.Burner):
        share = part.efficiency or 1.0
        return [Term("gas", part_id, "heat from", joules, share, NET_J_PER_KG[part.fuel])]
    if isinstance(part, heat.ThroughFlowGas):
        share = part.efficiency or 0.84
        return [Term("gas", part_id, "heat from", joules, share, NET_J_PER_KG[part.fuel])]
    if isinstance(part, heat.Combi):
        if part.fuel in ("propane", "butane"):
            worth = NET_J_PER_KG[part.fuel]
            return [Term("gas", part_id, "heat from", joules, COMBI_SHARE, worth)]
        if part.fuel == "diesel":
            return [Term("diesel", part_id, "heat from", joules, COMBI_SHARE, DIESEL_J_PER_M3)]
        return [Term("mains", part_id, "heat from", joules, 1.0, 1.0)]
    if isinstance(part, heat.ThroughFlowElectric):
        return [Term("mains", part_id, "heat from", joules, 1.0, 1.0)]
    if isinstance(part, heat.Element):
        if battery_side(system, part):
            return [Term("battery", part_id, "heat from", joules, 1.0, 1.0)]
        if direct_panel(system, part) is not None:
            return []
        inverters = [
            item.efficiency or 0.9 for item in system.parts
            if isinstance(item, electric.Inverter)
            and item.id in feeds_of(system, part_id).sources
        ]  # fmt: skip
        if inverters and part.rule != "on hook-up":
            return [Term("battery", part_id, "heat from", joules, inverters[0], 1.0)]
        return [Term("mains", part_id, "heat from", joules, 1.0, 1.0)]
    if isinstance(part, heat.AirHeater):
        runs_s = joules / (part.heat_w or 2000.0)
        running = Term("battery", part_id, "seconds of", runs_s, 1.0, part.running_w or 0.0, True)
        if part.fuel == "propane":
            worth = NET_J_PER_KG["propane"]
            return [Term("gas", part_id, "heat from", joules, AIR_SHARE, worth), running]
        worth = PETROL_J_PER_M3 if part.fuel == "petrol" else DIESEL_J_PER_M3
        return [Term("diesel", part_id, "heat from", joules, AIR_SHARE, worth), running]
    if isinstance(part, heat.LiquidHeater):
        worth = PETROL_J_PER_M3 if part.fuel == "petrol" else DIESEL_J_PER_M3
        runs_s = joules / (part.heat_w or 1.0)
        found = [
            Term("diesel", part_id, "heat from", joules, part.efficiency or 0.83, worth),
            Term("battery", part_id, "seconds of", runs_s, 1.0, part.running_w or 0.0, True),
        ]
        if starts > 0.0 and part.firing_j:
            found.append(Term("battery", part_id, "starts of", starts, 1.0, part.firing_j, True))
        return found
    return []


def take(
    course: Course,
    heats: Mapping[str, float],
    pumped_s: Mapping[str, float],
    starts: Mapping[str, float],
) -> Spent:
    """Add up what heat, pump seconds and starts burn and draw.

    Parameters
    ----------
    course : Course
        Whose parts they are. [-]
    heats : mapping of str to float
        Heat by part. [J]
    pumped_s : mapping of str to float
        How long pumps ran. [s]
    starts : mapping of str to float
        How often heaters lit. [-]

    Returns
    -------
    Spent
        Without what stands by. [-]
    """
    found = terms(course, heats, pumped_s, starts)

    def total(budget: BudgetName) -> float:
        return sum(term.value for term in found if term.budget == budget)

    return Spent(total("gas"), total("diesel"), total("mains"), total("battery"), 0.0)


def kettle_takes(course: Course, day: Day) -> Spent:
    """Count what a kettle takes to warm the water of bags beside it.

    Parameters
    ----------
    course : Course
        What was run. [-]
    day : Day
        A day of it. [-]

    Returns
    -------
    Spent
        Nothing without a kettle. [-]
    """
    kettle = next(
        (part for part in course.hours.system.parts if isinstance(part, heat.Kettle)), None
    )
    rise_k = max(0.0, BAG_C - course.conditions.fresh_c)
    warmed = sum(
        kilograms for key, kilograms in day.balance.taken_kg.items()
        if isinstance(course.circuit.parts.get(key), GravityBag)
    )  # fmt: skip
    if kettle is None or warmed <= 0.0:
        return Spent(0.0, 0.0, 0.0, 0.0, 0.0)
    joules = warmed * 4186.0 * rise_k / (kettle.efficiency or 0.45)
    fuel = kettle.fuel
    return Spent(
        gas_kg=joules / NET_J_PER_KG[fuel] if fuel in ("propane", "butane") else 0.0,
        diesel_m3=0.0, mains_j=joules if fuel == "mains" else 0.0,
        battery_j=joules if fuel == "battery" else 0.0, from_coolant_j=0.0,
    )  # fmt: skip


def pitch_w(course: Course, stretch: Stretch) -> float:
    """Give what a charger takes from the pitch; full or not, it carries the loads.

    Parameters
    ----------
    course : Course
        What was run. [-]
    stretch : Stretch
        A stretch of its day. [-]

    Returns
    -------
    float
        Mean power; 0 unplugged. [W]
    """
    putting = course.hours.pitch_charge_w()
    if putting <= 0.0:
        return 0.0
    shares = [part.efficiency or 0.88 for part in course.hours.system.parts
              if isinstance(part, electric.Charger)]  # fmt: skip
    took = take(course, heats_of(course, stretch), stretch.pumped_s, stretch.starts).battery_j
    needed = stretch.standing_w + took / stretch.span_s
    return min(putting, needed) / (shares[0] if shares else 0.88)


def battery_level(course: Course, day: Day, days: int) -> Level | None:
    """Follow the battery through a trip of equal days, full at the start.

    Parameters
    ----------
    course : Course
        What was run. [-]
    day : Day
        A day of it. [-]
    days : int
        How many. [-]

    Returns
    -------
    Level or None
        None without a battery whose energy is known. [J]
    """
    usable = course.hours.usable_j
    if usable is None:
        return None
    rows = []
    for row in day.stretches:
        took = take(course, heats_of(course, row), row.pumped_s, row.starts).battery_j
        rows.append((row.span_s, row.standing_w + took / row.span_s, row.charge_w))
    lead = any(
        isinstance(part, electric.Battery) and part.chemistry in ("lead", "gel or mat")
        for part in course.hours.system.parts
    )
    return over_days(usable, rows, days=days, charge_share=0.85 if lead else 0.96)


def _plus(one: Spent, other: Spent) -> Spent:
    return Spent(*(getattr(one, key) + getattr(other, key) for key in Spent.__slots__))


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


def _battery_entry(course: Course, day: Day, days: int, per_day_j: float) -> Entry:
    """Give the battery's entry: what the trip takes out of it that nothing puts back."""
    level = battery_level(course, day, days)
    if level is None:
        return _entry("battery", "battery_energy", per_day_j, days, None)
    usable = course.hours.usable_j or 0.0
    if level.charged_j <= 0.0:
        return _entry("battery", "battery_energy", per_day_j, days, usable)
    ends = None if level.empty_s is None else int(level.empty_s // 86400.0) + 1
    short = max(0.0, (level.used_j - level.charged_j) * days - usable)
    used = usable - level.least_j if ends is None else usable + short
    return Entry("battery", used, usable, "battery_energy", False, per_day_j, ends)


def bottle(course: Course) -> Bottle | None:
    """Put the joined gas bottle together as it stands.

    Parameters
    ----------
    course : Course
        Its system. [-]

    Returns
    -------
    Bottle or None
        The first that is joined and whose gas is known, at the air's temperature. [-]
    """
    for part in course.circuit.parts.values():
        if not isinstance(part, gas_kinds.GasBottle) or part.spare or not part.gas_kg:
            continue
        butane = (part.butane_share or 0.5) if part.gas == "mix" else 0.0
        mix = {"propane": 1.0 - butane, "n-butane": butane}
        if part.gas == "butane":
            mix = {"n-butane": 0.75, "isobutane": 0.25}
        ua = part.conductance_w_per_k or 1.2 * (part.gas_kg / 2.0) ** 0.5
        steel = part.empty_kg or 1.1 * part.gas_kg
        left = part.gas_kg * part.fill_share
        return Bottle(left, part.gas_kg, ua, steel, mix, course.climate.air_c)
    return None


def bottle_days(course: Course, day: Day, days: int) -> tuple[Hold, float, float] | None:
    """Let the bottle carry the day's burners over a trip.

    Parameters
    ----------
    course : Course
        What was run. [-]
    day : Day
        A day of it. [-]
    days : int
        How many. [-]

    Returns
    -------
    tuple or None
        How it held, the lowest pressure under load, the largest load; None without a known
        bottle or without a load. [-, Pa, kg/s]
    """
    start = bottle(course)
    if start is None:
        return None
    loads, most = [], 0.0
    for row in day.stretches:
        heats = heats_of(course, row)
        burnt = take(course, heats, {}, {}).gas_kg
        full = sum(_full_kg_per_s(course, key) for key, joules in heats.items() if joules > 0.0)
        if burnt <= 0.0 or full <= 0.0:
            loads.append((row.span_s, 0.0, row.air_c))
            continue
        burns_s = min(row.span_s, burnt / full)
        most = max(most, burnt / burns_s)
        loads += [(burns_s, burnt / burns_s, row.air_c), (row.span_s - burns_s, 0.0, row.air_c)]
    if most <= 0.0:
        return None
    held, lowest = bottle_over_days(start, loads, days=days)
    return held, lowest, most


def _full_kg_per_s(course: Course, part_id: str) -> float:
    """Give the gas a burner takes at full fire."""
    part = course.circuit.parts[part_id]
    if isinstance(part, heat.Burner):
        return (part.input_w or 0.0) / NET_J_PER_KG[part.fuel]
    if isinstance(part, heat.ThroughFlowGas):
        return (part.input_w or (part.heat_w or 0.0) / 0.84) / NET_J_PER_KG[part.fuel]
    if isinstance(part, heat.Combi) and part.fuel in ("propane", "butane"):
        return (part.rated_w or 4000.0) / 0.85 / NET_J_PER_KG[part.fuel]
    return 0.0


def _gas_limit_kg(course: Course, asked_kg: float | None) -> float | None:
    """Give the gas carried: as the brief says, else what is in the bottles."""
    if asked_kg is not None:
        return asked_kg
    held = [
        part.gas_kg * part.fill_share for part in course.circuit.parts.values()
        if isinstance(part, gas_kinds.GasBottle) and part.gas_kg
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
    binds only when short. Waiting is the longest wait of the day. The battery is followed
    through the trip, full at the start: where something charges it, its use is how far it
    falls, and what is short where it empties. Diesel has no limit where no tank is drawn.
    """
    brief = course.brief
    days = brief.days
    density = water.density_kg_per_m3(course.conditions.fresh_c)
    washed_m3 = sum(draw.used_m3 + draw.missing_kg / density for draw in draws)
    took = spent(course, day)
    kept = 1 - brief.reserve
    budgets = brief.budgets
    gas_kg = _gas_limit_kg(course, budgets.gas_kg)
    gas_limit = None if gas_kg is None else gas_kg * kept
    waits = [draw.wait_s if draw.wait_s is not None else brief.gives_up_s for draw in draws]
    asked_s = sum(draw.asked_s for draw in draws)
    warm_s = sum(min(draw.comfort_s, draw.asked_s) for draw in draws)
    entries = [
        _entry("fresh", "volume", washed_m3 + brief.other_fresh_m3, days, fresh_limit_m3(course)),
        _entry("grey", "volume", washed_m3 + brief.other_grey_m3, days, budgets.grey_m3),
        _entry("gas", "mass", took.gas_kg, days, gas_limit),
        _entry("diesel", "volume", took.diesel_m3, days, _diesel_m3(course)),
        _entry("mains", "energy", took.mains_j, days, budgets.mains_energy_j),
        _battery_entry(course, day, days, took.battery_j),
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
