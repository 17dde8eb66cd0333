"""Battery and gas bottle through a trip: how low, how cold, when they end."""

from __future__ import annotations

from isotherma.core.engine.course import Course
from isotherma.core.engine.record import Day
from isotherma.core.results.spending import COMBI_SHARE, NET_J_PER_KG, heats_of, take, taken_in
from isotherma.core.supply.battery import Level, over_days
from isotherma.core.supply.bottle import Bottle, Hold
from isotherma.core.supply.bottle import over_days as bottle_over_days
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds import gas as gas_kinds


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
        took = taken_in(course, row).battery_j
        rows.append((row.span_s, row.standing_w + took / row.span_s, row.charge_w))
    lead = any(
        isinstance(part, electric.Battery) and part.chemistry in ("lead", "gel or mat")
        for part in course.hours.system.parts
    )
    return over_days(usable, rows, days=days, charge_share=0.85 if lead else 0.96)


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
        return (part.rated_w or 4000.0) / COMBI_SHARE / NET_J_PER_KG[part.fuel]
    return 0.0
