"""Vapour from a shower, and minutes of fan to be rid of it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import exp, inf, log, prod
from typing import Final

from isotherma.core import water
from isotherma.core.fields import known_or
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import use
from isotherma.core.thermal.drops import TO_TRAY_K, arrives_c

EVAPORATED: Final = 0.75  # of that heat; the rest warms the air
BOILING_J_PER_KG: Final = 2.43e6  # at about 30 °C
GAS_J_PER_KG_K: Final = 461.5  # of water vapour
FAN_M3_PER_S: Final = 70.0 / 3600.0  # a small roof fan; judgement
SPACE_M3: Final = 9.0  # a panel van's living space where its size is not said


@dataclass(frozen=True, slots=True)
class Vapour:
    """What a shower leaves in the air: vapour, what condenses, how long a fan runs [kg, s]."""

    vapour_kg: float
    condensed_kg: float
    fan_s: float
    fan_m3_per_s: float
    space_m3: float


def saturated_kg_per_m3(celsius: float) -> float:
    """Vapour a cubic metre of air can hold.

    Parameters
    ----------
    celsius : float
        Of the air, -30 to 50. [°C]

    Returns
    -------
    float
        Density of saturated vapour. [kg/m³]

    References
    ----------
    Magnus' formula with the constants of Sonntag (1990); ideal gas.

    Examples
    --------
    >>> round(saturated_kg_per_m3(20.0) * 1e3, 1)
    17.2
    """
    over_ice = celsius < 0.0
    a, b = (22.46, 272.62) if over_ice else (17.62, 243.12)
    pressure_pa = 611.2 * exp(a * celsius / (b + celsius))
    return pressure_pa / (GAS_J_PER_KG_K * (celsius + 273.15))


def vapour_of(
    *,
    water_kg: float,
    fine_holes: bool,
    inside_c: float,
    outside_c: float,
    space_m3: float = SPACE_M3,
    fan_m3_per_s: float = FAN_M3_PER_S,
    humid: float = 0.5,
    dry_to: float = 0.6,
) -> Vapour:
    """Say what a shower evaporates and for how long a fan runs to clear it.

    Parameters
    ----------
    water_kg : float
        Warm water of the shower, >= 0. [kg]
    fine_holes : bool
        Whether its drops are fine; they lose twice as much. [-]
    inside_c, outside_c : float
        Air in the living space and outside, taken at four fifths humidity. [°C]
    space_m3 : float
        Air in the space, > 0. [m³]
    fan_m3_per_s : float
        What the fan moves, > 0. [m³/s]
    humid, dry_to : float
        Relative humidity before, and that it is cleared to. [-]

    Returns
    -------
    Vapour
        Infinite fan time where the outside air is too damp to dry to that. [kg, s]

    Notes
    -----
    m = 0.75 M c ΔT / h with ΔT the heat of handbook practice lost in the air. What the air
    cannot hold condenses and must dry again at the saturated rate; then humidity falls as a
    stirred volume's: t = V/q ln((w − w_out)/(w_end − w_out)).

    References
    ----------
    Mass balance of a stirred space; 4.5 K ordinary and 10 K fine drops.

    Examples
    --------
    >>> vapour_of(water_kg=0.0, fine_holes=False, inside_c=20.0, outside_c=5.0).vapour_kg
    0.0
    """
    loss_k = TO_TRAY_K["fine" if fine_holes else "ordinary"]
    vapour = EVAPORATED * water_kg * water.SPECIFIC_J_PER_KG_K * loss_k / BOILING_J_PER_KG
    full = saturated_kg_per_m3(inside_c)
    out = 0.8 * saturated_kg_per_m3(outside_c)
    room = (full - humid * full) * space_m3
    condensed = max(0.0, vapour - room)
    start = min(full, humid * full + vapour / space_m3)
    goal = dry_to * full
    if goal <= out or full <= out:
        return Vapour(vapour, condensed, inf if start > goal else 0.0, fan_m3_per_s, space_m3)
    seconds = condensed / (fan_m3_per_s * (full - out))
    if start > goal:
        seconds += space_m3 / fan_m3_per_s * log((start - out) / (goal - out))
    return Vapour(vapour, condensed, seconds, fan_m3_per_s, space_m3)


AIR_J_PER_M3_K: Final = 1200.0  # of air, at about 20 °C
LEAVES_HUMID: Final = 0.8  # of what it could hold: air that passes hung cloth; judgement


def dries_kg_per_s(*, air_c: float, stream_w_per_k: float, inside_c: float, humid: float) -> float:
    """Say how much water a stream of warm air takes out of what hangs in it.

    Parameters
    ----------
    air_c : float
        As it comes. [°C]
    stream_w_per_k : float
        Its volume flow times 1200 J/m³K. [W/K]
    inside_c : float
        Room it was taken from. [°C]
    humid : float
        Relative humidity there, 0 to 1. [-]

    Returns
    -------
    float
        Water, 0 where the air is no drier than it leaves. [kg/s]

    Notes
    -----
    Its heat alone evaporates: it cools until it holds four fifths of what it can.

    References
    ----------
    Adiabatic humidification; Incropera et al., ch. 6 (wet bulb).

    Examples
    --------
    >>> round(dries_kg_per_s(air_c=60.0, stream_w_per_k=20.0, inside_c=18.0, humid=0.5) * 3600, 2)
    0.92
    """
    flow = stream_w_per_k / AIR_J_PER_M3_K
    brings = humid * saturated_kg_per_m3(inside_c)
    low, high = -20.0, air_c
    for _ in range(60):
        middle = 0.5 * (low + high)
        taken = max(0.0, LEAVES_HUMID * saturated_kg_per_m3(middle) - brings) * flow
        if stream_w_per_k * (air_c - middle) > taken * BOILING_J_PER_KG:
            low = middle
        else:
            high = middle
    return max(0.0, LEAVES_HUMID * saturated_kg_per_m3(low) - brings) * flow


@dataclass(frozen=True, slots=True)
class Steamy:
    """A draw inside the vehicle, and what it leaves in the air."""

    draw: str
    vapour: Vapour


def vapours(outcome: Outcome) -> tuple[Steamy, ...]:
    """Say what each shower inside leaves in the air of its space.

    Parameters
    ----------
    outcome : Outcome
        A day. [-]

    Returns
    -------
    tuple of Steamy
        None for outlets outside the vehicle or below it. [-]
    """
    hours, found = outcome.setup.hours, []
    dry = _washed_outdoors(outcome.setup.parts.values())
    for draw in outcome.draws:
        if draw.outlet in dry:
            continue
        part = outcome.setup.parts[draw.outlet]
        space = hours.spaces.get(outcome.setup.space_of.get(draw.outlet) or "")
        if space is not None and space.warmth in ("outside", "slung", "engine bay"):
            continue
        if not isinstance(part, use.ShowerHead):
            continue
        sides = (space.width_m, space.depth_m, space.height_m) if space is not None else ()
        volume = prod(side for side in sides if side) if sides and None not in sides else SPACE_M3
        fine = part.fine_drops()
        found.append(Steamy(draw.draw.id, vapour_of(
            water_kg=draw.comfort_m3 * water.WARM_KG_PER_M3, fine_holes=fine,
            inside_c=hours.space_c(outcome.setup.space_of.get(draw.outlet), draw.start_s),
            outside_c=outcome.setup.climate.air_at_c(draw.start_s), space_m3=volume,
        )))  # fmt: skip
    return tuple(found)


def _washed_outdoors(parts: Iterable[AnyKind]) -> frozenset[str]:
    """Name the heads people stand under in a tent or outside."""
    heads, found = [], []
    for part in parts:
        if isinstance(part, use.ShowerHead):
            heads.append(part.id)
        elif isinstance(part, use.ShowerPlace) and not part.wets_the_air:
            found.append(part.serves)
    return frozenset(known_or(head, heads[0] if heads else "") for head in found)


@dataclass(frozen=True, slots=True)
class Arrives:
    """What reaches chest and tray of a shower whose head gives `head_c` on average [°C]."""

    head_c: float
    chest_c: float
    tray_c: float
    air_c: float
    fine_holes: bool


def arrives(outcome: Outcome, index: int) -> Arrives | None:
    """Say what of a draw's warmth reaches who stands under it.

    Parameters
    ----------
    outcome : Outcome
        A day. [-]
    index : int
        Which draw. [-]

    Returns
    -------
    Arrives or None
        None for taps, and where nothing came. The window of a draw is read at the head. [°C]
    """
    draw = outcome.draws[index]
    part = outcome.setup.parts[draw.outlet]
    if not isinstance(part, use.ShowerHead) or draw.mean_c is None:
        return None
    setup = outcome.setup
    air = setup.hours.space_c(setup.space_of.get(draw.outlet), draw.start_s)
    fine = part.fine_drops()
    chest, tray = arrives_c(draw.mean_c, air, fine_holes=fine)
    return Arrives(draw.mean_c, chest, tray, air, fine)
