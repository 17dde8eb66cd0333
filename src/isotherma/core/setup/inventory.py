"""What is carried at the start of a trip: battery, gas bottles, fuel in the tank."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from isotherma.core.supply.battery import CHARGE_SHARE
from isotherma.core.supply.bottle import ATMOSPHERE_PA, LEAST_PA, Bottle
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds import gas as gas_kinds
from isotherma.core.system.nominal import figure


@dataclass(frozen=True, slots=True)
class Levels:
    """What is left: battery [J], fuel [m³], the bottle; None where nobody knows or has one.

    `spares` are bottles that wait.
    """

    battery_j: float | None
    diesel_m3: float | None
    bottle: Bottle | None
    spares: tuple[Bottle, ...] = ()


def charge_share_of(parts: Iterable[AnyKind]) -> float:
    """Give how much of what goes into the batteries comes out again.

    Parameters
    ----------
    parts : iterable of part
        Batteries among them. [-]

    Returns
    -------
    float
        Of one that is lead, if any is; it gives least back. [-]
    """
    lead = any(
        isinstance(part, electric.Battery) and part.chemistry in ("lead", "gel or mat")
        for part in parts
    )
    return 0.85 if lead else CHARGE_SHARE


def full_levels(parts: Iterable[AnyKind], air_c: float, usable_j: float | None) -> Levels:
    """Give what a system carries at the start of a trip.

    Parameters
    ----------
    parts : iterable of part
        As they are computed with. [-]
    air_c : float
        Around the bottle. [°C]
    usable_j : float or None
        Of the battery. [J]

    Returns
    -------
    Levels
        The fuel is that of all tanks less what must stay in them. [-]
    """
    parts = tuple(parts)
    tanks = [
        figure(part, "volume_m3") - figure(part, "kept_m3")
        for part in parts
        if isinstance(part, heat.FuelTank) and part.volume_m3 is not None
    ]
    joined, spares = bottles_of(parts, air_c)
    return Levels(usable_j, max(0.0, sum(tanks)) if tanks else None, joined, spares)


def bottles_of(parts: Iterable[AnyKind], air_c: float) -> tuple[Bottle | None, tuple[Bottle, ...]]:
    """Put the gas bottles together as they stand.

    Parameters
    ----------
    parts : iterable of part
        As they are computed with. [-]
    air_c : float
        Around them. [°C]

    Returns
    -------
    tuple of Bottle or None, and Bottles
        The first that is joined and whose gas is known, at the air's temperature, and the
        spares. [-]
    """
    joined: Bottle | None = None
    spares = []
    for part in parts:
        if not isinstance(part, gas_kinds.GasBottle) or not part.gas_kg:
            continue
        found = _bottle(part, air_c)
        if part.spare:
            spares.append(found)
        elif joined is None:
            joined = found
    return joined, tuple(spares)


def _bottle(part: gas_kinds.GasBottle, air_c: float) -> Bottle:
    assert part.gas_kg
    butane = figure(part, "butane_share")
    mix = {"propane": 1.0 - butane, "n-butane": butane}
    if part.gas == "butane":
        mix = {"n-butane": 0.75, "isobutane": 0.25}
    ua = figure(part, "conductance_w_per_k")
    steel = figure(part, "empty_kg")
    return Bottle(part.gas_kg * part.fill_share, part.gas_kg, ua, steel, mix, air_c)


def least_bottle_pa(parts: Iterable[AnyKind]) -> float:
    """Give the least pressure at which bottles still carry their load.

    Parameters
    ----------
    parts : iterable of part
        Regulators among them. [-]

    Returns
    -------
    float
        What the first regulator needs before it, absolute; 1.5 bar where none is drawn. [Pa]
    """
    for part in parts:
        if isinstance(part, gas_kinds.Regulator) and part.least_inlet_pa is not None:
            return part.least_inlet_pa + ATMOSPHERE_PA
    return LEAST_PA


def swap_s_of(parts: Iterable[AnyKind]) -> float:
    """Give how long it takes to join a spare bottle.

    Parameters
    ----------
    parts : iterable of part
        Bottles among them. [-]

    Returns
    -------
    float
        The longest; 0 without a spare. [s]
    """
    return max(
        (part.swap_s for part in parts if isinstance(part, gas_kinds.GasBottle) and part.spare),
        default=0.0,
    )


def joined_bottle_id(parts: Iterable[AnyKind]) -> str | None:
    """Name the joined gas bottle.

    Parameters
    ----------
    parts : iterable of part
        Bottles among them. [-]

    Returns
    -------
    str or None
        Its id; None without one whose gas is known. [-]
    """
    return next(
        (
            part.id for part in parts
            if isinstance(part, gas_kinds.GasBottle) and not part.spare and part.gas_kg
        ),
        None,
    )  # fmt: skip
