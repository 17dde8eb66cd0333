"""What a day's heat, pumps and loads take from gas, fuel, mains and battery, term by term."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Literal

from isotherma.core.engine.course import BAG_C, Course
from isotherma.core.engine.record import Balance, Day, Stretch
from isotherma.core.flows.loads import running_w
from isotherma.core.supply.feeds import direct_panel, feeds_of
from isotherma.core.supply.hours import battery_side
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds.water import GravityBag

BudgetName = Literal["fresh", "grey", "gas", "diesel", "mains", "battery", "warmth", "waiting"]
NET_J_PER_KG: Final = {"propane": 46.34e6, "butane": 45.72e6}
DIESEL_J_PER_M3: Final = 35.7e9  # net at 15 °C, middle of 35.2 to 36.2 MJ/L
PETROL_J_PER_M3: Final = 31.8e9
COMBI_SHARE: Final = 0.85  # of the net heat, middle of combi heaters
AIR_SHARE: Final = 0.8  # of the net heat into air heaters' air


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
    for part_id, seconds in pumped_s.items():
        watts = running_w(course.circuit.parts[part_id], course.system.volts_v)
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


def taken_in(course: Course, stretch: Stretch) -> Spent:
    """Add up what a stretch of a day burnt and drew.

    Parameters
    ----------
    course : Course
        What was run. [-]
    stretch : Stretch
        A stretch of its day. [-]

    Returns
    -------
    Spent
        Without what stands by. [-]
    """
    return take(course, heats_of(course, stretch), stretch.pumped_s, stretch.starts)


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
    took = taken_in(course, stretch).battery_j
    needed = stretch.standing_w + took / stretch.span_s
    return min(putting, needed) / (shares[0] if shares else 0.88)


def _plus(one: Spent, other: Spent) -> Spent:
    return Spent(*(getattr(one, key) + getattr(other, key) for key in Spent.__slots__))
