"""Damp of a shower: what a window clears, and where it condenses first."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf, isfinite, log
from typing import Final

from isotherma.core import water
from isotherma.core.hydraulics.network import GRAVITY_M_PER_S2
from isotherma.core.results.damp import saturated_kg_per_m3, vapour_of, vapours
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.kinds.use import ShowerHead

DISCHARGE: Final = 0.6  # sharp-edged opening
OPENING_TALL_M: Final = 0.3  # of a window that is ajar; judgement
SKIN_SHARE: Final = 0.04 / (0.13 + 0.04)  # a thin pane or bare sheet: outer film over both films
HUMID: Final = 0.5  # relative, before the shower


@dataclass(frozen=True, slots=True)
class Damp:
    """A shower inside: vapour, what a fan or an open window needs, what sweats [kg, s, °C].

    `window_s` None: no opening is said for its space, infinite: it never clears so. `dew_c` is
    the dew point of the air after it; panes and bare metal are at `skin_c`, the cold pipe at
    `cold_c`.
    """

    draw: str
    vapour_kg: float
    condensed_kg: float
    fan_s: float
    fan_m3_per_s: float
    window_s: float | None
    window_m3_per_s: float | None
    dew_c: float
    skin_c: float
    cold_c: float
    inside_c: float
    outside_c: float


def window_m3_per_s(*, area_m2: float, tall_m: float, inside_c: float, outside_c: float) -> float:
    """Air exchanged through one open window by warmth alone.

    Parameters
    ----------
    area_m2, tall_m : float
        Free area and height of the opening, >= 0. [m², m]
    inside_c, outside_c : float
        Air on both sides. [°C]

    Returns
    -------
    float
        Inflow, as much goes out. [m³/s]

    References
    ----------
    Single-sided ventilation by buoyancy, Q = Cd A / 3 · sqrt(g H ΔT / T): Etheridge and Sandberg,
    Building Ventilation, 1996.

    Examples
    --------
    >>> round(window_m3_per_s(area_m2=0.2, tall_m=0.3, inside_c=20.0, outside_c=5.0), 4)
    0.0157
    """
    mean_k = 0.5 * (inside_c + outside_c) + 273.15
    drive = GRAVITY_M_PER_S2 * tall_m * abs(inside_c - outside_c) / mean_k
    return DISCHARGE * area_m2 / 3.0 * float(drive**0.5)


def dew_point_c(vapour_kg_per_m3: float, air_c: float) -> float:
    """Temperature at which air begins to condense.

    Parameters
    ----------
    vapour_kg_per_m3 : float
        Vapour in the air, > 0. [kg/m³]
    air_c : float
        Air. [°C]

    Returns
    -------
    float
        Dew point; the air's own where it is saturated. [°C]

    References
    ----------
    Magnus' formula, Sonntag (1990), solved for the temperature.

    Examples
    --------
    >>> round(dew_point_c(0.5 * saturated_kg_per_m3(20.0), 20.0), 1)
    9.3
    """
    share = min(1.0, vapour_kg_per_m3 / saturated_kg_per_m3(air_c))
    gamma = log(share) + 17.62 * air_c / (243.12 + air_c)
    return 243.12 * gamma / (17.62 - gamma)


def damps(outcome: Outcome) -> tuple[Damp, ...]:
    """Say of each shower inside what it leaves, what clears it and what sweats first.

    Parameters
    ----------
    outcome : Outcome
        A day. [-]

    Returns
    -------
    tuple of Damp
        As `vapours` lists them. [kg, s, °C]

    References
    ----------
    Surface films of ISO 6946; mass balance of a stirred space.
    """
    setup, found = outcome.setup, []
    draws = {draw.draw.id: draw for draw in outcome.draws}
    for steamy in vapours(outcome):
        draw, vapour = draws[steamy.draw], steamy.vapour
        part = setup.parts[draw.outlet]
        space_id = setup.space_of.get(draw.outlet)
        inside = setup.hours.space_c(space_id, draw.start_s)
        outside = setup.climate.air_at_c(draw.start_s)
        space = setup.hours.spaces.get(space_id or "")
        area = None if space is None else space.opening_m2
        flow = window_s = None
        if area is not None:
            flow = window_m3_per_s(area_m2=area, tall_m=OPENING_TALL_M, inside_c=inside,
                                   outside_c=outside)  # fmt: skip
            window_s = inf
            if flow > 0.0:
                window_s = vapour_of(
                    water_kg=draw.comfort_m3 * water.WARM_KG_PER_M3,
                    fine_holes=isinstance(part, ShowerHead) and part.fine_drops(),
                    inside_c=inside, outside_c=outside, space_m3=vapour.space_m3,
                    fan_m3_per_s=flow,
                ).fan_s  # fmt: skip
        full = saturated_kg_per_m3(inside)
        after = min(full, HUMID * full + vapour.vapour_kg / vapour.space_m3)
        found.append(Damp(
            steamy.draw, vapour.vapour_kg, vapour.condensed_kg, vapour.fan_s, vapour.fan_m3_per_s,
            window_s, flow, dew_point_c(after, inside),
            outside + SKIN_SHARE * (inside - outside), setup.conditions.fresh_c, inside, outside,
        ))  # fmt: skip
    return tuple(found)


def sweats(damp: Damp) -> tuple[str, ...]:
    """Name what lies below the dew point, the coldest first.

    Parameters
    ----------
    damp : Damp
        Of a shower. [-]

    Returns
    -------
    tuple of str
        Of "skin" and "cold_pipe". [-]
    """
    rows = sorted((("skin", damp.skin_c), ("cold_pipe", damp.cold_c)), key=lambda row: row[1])
    return tuple(key for key, celsius in rows if celsius < damp.dew_c and isfinite(celsius))
