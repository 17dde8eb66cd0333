"""What a day took of what is carried, standing loads, kettles and chargers included."""

from __future__ import annotations

from isotherma.core.setup import Setup
from isotherma.core.setup.consumption import NET_J_PER_KG, Spent
from isotherma.core.setup.networks import BAG_C
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds.water import GravityBag
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.record import Day, Stretch
from isotherma.core.water import SPECIFIC_J_PER_KG_K


def spent(setup: Setup, day: Day) -> Spent:
    """Turn the heat of a day's sources into what they burn and draw.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]

    Returns
    -------
    Spent
        By what is carried; mains and battery told apart by volts and by what feeds them. [-]
    """
    takers = setup.consumers
    heats = takers.heats_of(day.balance)
    total = _plus(
        takers.take(heats, day.pumped_s, day.starts, day.balance.drawn_j), kettle_takes(setup, day)
    )
    mains = total.mains_j + sum(pitch_w(setup, row) * row.span_s for row in day.stretches)
    standing = sum(row.standing_w * row.span_s for row in day.stretches)
    return Spent(
        total.gas_kg, total.diesel_m3, mains, total.battery_j + standing, day.balance.held_j
    )


def kettle_takes(setup: Setup, day: Day) -> Spent:
    """Count what a kettle takes to warm the water of bags beside it.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]

    Returns
    -------
    Spent
        Nothing without a kettle. [-]

    References
    ----------
    Balance of heat: mass, specific heat, difference, over the kettle's efficiency.
    """
    kettle = next((part for part in setup.computed.parts if isinstance(part, heat.Kettle)), None)
    rise_k = max(0.0, BAG_C - setup.conditions.fresh_c)
    warmed = sum(
        kilograms for key, kilograms in day.balance.taken_kg.items()
        if isinstance(setup.parts.get(key), GravityBag)
    )  # fmt: skip
    if kettle is None or warmed <= 0.0:
        return Spent(0.0, 0.0, 0.0, 0.0, 0.0)
    joules = warmed * SPECIFIC_J_PER_KG_K * rise_k / figure(kettle, "efficiency")
    fuel = kettle.fuel
    return Spent(
        gas_kg=joules / NET_J_PER_KG[fuel] if fuel in ("propane", "butane") else 0.0,
        diesel_m3=0.0, mains_j=joules if fuel == "mains" else 0.0,
        battery_j=joules if fuel == "battery" else 0.0, from_coolant_j=0.0,
    )  # fmt: skip


def pitch_w(setup: Setup, stretch: Stretch) -> float:
    """Give what a charger takes from the pitch; full or not, it carries the loads.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    stretch : Stretch
        A stretch of its day. [-]

    Returns
    -------
    float
        Mean power; 0 unplugged. [W]
    """
    putting = setup.hours.pitch_charge_w(stretch.start_s + 0.5 * stretch.span_s)
    if putting <= 0.0:
        return 0.0
    shares = [figure(part, "efficiency") for part in setup.computed.parts
              if isinstance(part, electric.Charger)]  # fmt: skip
    took = setup.consumers.taken_in(stretch).battery_j
    needed = stretch.standing_w + took / stretch.span_s
    return min(putting, needed) / (shares[0] if shares else 0.88)


def _plus(one: Spent, other: Spent) -> Spent:
    return Spent(*(getattr(one, key) + getattr(other, key) for key in Spent.__slots__))
