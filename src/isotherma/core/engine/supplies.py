"""What is carried, followed through the days: battery, joined gas bottle, fuel in the tank."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Final

from isotherma.core.engine.record import Carried, Ended, Stretch
from isotherma.core.engine.taking import Takers
from isotherma.core.fields import known_or
from isotherma.core.supply.battery import CHARGE_SHARE, after_stretch
from isotherma.core.supply.bottle import ATMOSPHERE_PA, LEAST_PA, Bottle, after_step
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds import gas as gas_kinds

COMES_BACK: Final = 0.02  # of a battery, before a cut-off lets it give again
RELIGHTS_PA: Final = 0.2e5  # over what a flame needs, before somebody lights it again; judgement
BURNING_STEP_S, RESTING_STEP_S = 20.0, 600.0


@dataclass(frozen=True, slots=True)
class Levels:
    """What is left: battery [J], fuel [m³], the bottle; None where nobody knows or has one.

    `spares` are bottles that wait.
    """

    battery_j: float | None
    diesel_m3: float | None
    bottle: Bottle | None
    spares: tuple[Bottle, ...] = ()


class Supplies:
    """Levels as a day takes from them, and what has ended.

    Parameters
    ----------
    takers : Takers
        The parts that take. [-]
    full : Levels
        At the start of a trip. [-]
    """

    def __init__(self, takers: Takers, full: Levels) -> None:
        self.takers, self.full, self.left = takers, full, full
        self.charge_share = charge_share_of(takers.system.parts)
        self.least_pa = least_bottle_pa(takers.system.parts)
        self.swap_s = swap_s_of(takers.system.parts)
        self._joined_s = 0.0
        self.follows_fuel = False
        self.out: frozenset[Carried] = frozenset()
        self.ended: list[Ended] = []

    def begin(self, left: Levels | None) -> None:
        """Begin a day: battery full and fuel not followed, or all from levels."""
        self.follows_fuel = left is not None
        self.left = left if left is not None else self.full
        self.out, self.ended, self._joined_s = frozenset(), [], 0.0

    def go_on(self, other: Supplies) -> None:
        """Go on from another state of the same system."""
        self.follows_fuel, self.left, self.out = other.follows_fuel, other.left, other.out
        self.ended, self._joined_s = other.ended, other._joined_s

    def carry(self, stretch: Stretch) -> None:
        """Take from the levels what a stretch of the day took; let go of what hangs on them."""
        took = self.takers.taken_in(stretch)
        end_s = stretch.start_s + stretch.span_s
        if self.full.battery_j is not None and self.left.battery_j is not None:
            level, _, _ = after_stretch(
                self.left.battery_j, self.full.battery_j, span_s=stretch.span_s,
                load_w=stretch.standing_w + took.battery_j / stretch.span_s,
                charge_w=stretch.charge_w, charge_share=self.charge_share,
            )  # fmt: skip
            self.left = replace(self.left, battery_j=level)
            if level <= 0.0:
                self._end("battery", end_s, "empty")
            elif level >= COMES_BACK * self.full.battery_j:
                self.out -= {"battery"}
        if not self.follows_fuel:
            return
        if self.left.diesel_m3 is not None:
            left = max(0.0, self.left.diesel_m3 - took.diesel_m3)
            self.left = replace(self.left, diesel_m3=left)
            if left <= 0.0 and took.diesel_m3 > 0.0:
                self._end("diesel", end_s, "empty")
        if self.left.bottle is not None:
            self._boil(self.left.bottle, stretch)

    def _boil(self, bottle: Bottle, stretch: Stretch) -> None:
        """Let the bottle give what was burnt at full fire, then stand."""
        burnt, full = self.takers.burning(stretch)
        burns_s = min(stretch.span_s, burnt / full) if full > 0.0 else 0.0
        clock = stretch.start_s
        for span, load, longest in (
            (burns_s, burnt / burns_s if burns_s > 0.0 else 0.0, BURNING_STEP_S),
            (stretch.span_s - burns_s, 0.0, RESTING_STEP_S),
        ):
            left = span
            while left > 1e-9:
                step = min(left, longest)
                bottle = after_step(bottle, kg_per_s=load, air_c=stretch.bottle_c, step_s=step)
                left -= step
                clock += step
                if load > 0.0 and bottle.gas_kg <= 1e-9:
                    if self.left.spares:  # somebody joins the next, and no flame burns meanwhile
                        first, *rest = self.left.spares
                        bottle = replace(first, celsius=stretch.bottle_c)
                        self.left = replace(self.left, spares=tuple(rest))
                        self._joined_s = clock + self.swap_s
                    self._end("gas", clock, "empty")
                elif load > 0.0 and bottle.pressure_pa < self.least_pa:
                    self._end("gas", clock, "too cold")
        self.left = replace(self.left, bottle=bottle)
        lights = bottle.pressure_pa > self.least_pa + RELIGHTS_PA
        if bottle.gas_kg > 1e-9 and lights and clock >= self._joined_s:
            self.out -= {"gas"}

    def _end(self, carried: Carried, clock_s: float, how: str) -> None:
        if carried not in self.out:
            self.ended.append(Ended(carried, clock_s, how))
            self.out |= {carried}


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
        (part.volume_m3 or 0.0) - (part.kept_m3 or 0.0)
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
    butane = known_or(part.butane_share, 0.0)
    mix = {"propane": 1.0 - butane, "n-butane": butane}
    if part.gas == "butane":
        mix = {"n-butane": 0.75, "isobutane": 0.25}
    ua = known_or(part.conductance_w_per_k, 1.2 * (part.gas_kg / 2.0) ** 0.5)
    steel = known_or(part.empty_kg, 1.1 * part.gas_kg)
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
