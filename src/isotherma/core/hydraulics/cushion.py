"""Water under a cushion of air: how long a pump fills it, what its pressure becomes overnight."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Final

from isotherma.core.water import density_kg_per_m3

AIR_PA: Final = 101_325.0
POLYTROPIC: Final = 1.2  # of air that is squeezed within seconds, between 1 and 1.4; judgement
PIPES_M3_PER_PA: Final = 10e-6 / 1e5  # plastic pipes give 10 mL a bar; judgement
ICE_K: Final = 273.15
STEPS: Final = 400


def held_m3(pressure_pa: float, cushion_m3: float, precharge_pa: float) -> float:
    """Water that pipes and an air cushion take up to a pressure.

    Parameters
    ----------
    pressure_pa : float
        Over the air, >= 0. [Pa]
    cushion_m3 : float
        Of the accumulator, empty; 0 where there is none. [m³]
    precharge_pa : float
        Over the air, of the empty cushion. [Pa]

    Returns
    -------
    float
        Nothing goes into the cushion below its precharge. [m³]

    References
    ----------
    Polytropic squeeze, V0 (1 − ((p0 + A)/(p + A))^(1/n)); pipes 10 mL a bar, judgement.

    Examples
    --------
    >>> round(held_m3(2.8e5, 2e-3, 1.2e5) * 1e3, 3)
    0.757
    """
    held = PIPES_M3_PER_PA * pressure_pa
    if pressure_pa > precharge_pa and cushion_m3 > 0.0:
        ratio = (precharge_pa + AIR_PA) / (pressure_pa + AIR_PA)
        held += cushion_m3 * (1.0 - float(ratio ** (1.0 / POLYTROPIC)))
    return held


def run_on_s(
    flow_at: Callable[[float], float], from_pa: float, to_pa: float, *, cushion_m3: float,
    precharge_pa: float,
) -> float | None:  # fmt: skip
    """Time a pump runs from one pressure to another with everything shut.

    Parameters
    ----------
    flow_at : callable
        What the pump gives against a pressure. [Pa → m³/s]
    from_pa, to_pa : float
        Pressure when it starts and where it stops, over the air. [Pa]
    cushion_m3, precharge_pa : float
        Of the accumulator; 0 where there is none. [m³, Pa]

    Returns
    -------
    float or None
        None where it never gets there. [s]

    References
    ----------
    t = ∫ dV(p)/q(p), by the midpoints of steps that meet the precharge.

    Examples
    --------
    >>> straight = lambda pa: 11.3e-3 / 60 * (1 - pa / 4.2e5)
    >>> round(run_on_s(straight, 0.0, 2.8e5, cushion_m3=2e-3, precharge_pa=1.2e5), 1)
    7.5
    >>> round(run_on_s(straight, 2.0e5, 2.8e5, cushion_m3=2e-3, precharge_pa=1.2e5), 1)
    3.5
    """
    total = 0.0
    knees = sorted({from_pa, to_pa, min(max(precharge_pa, from_pa), to_pa)})
    for low, high in pairwise(knees):
        step = (high - low) / STEPS
        for place in range(STEPS):
            one, other = low + place * step, low + (place + 1) * step
            flow = flow_at(0.5 * (one + other))
            if flow <= 0.0:
                return None
            taken = held_m3(other, cushion_m3, precharge_pa)
            taken -= held_m3(one, cushion_m3, precharge_pa)
            total += taken / flow
    return total


def gas_m3(pressure_pa: float, cushion_m3: float, precharge_pa: float) -> float:
    """Air in a cushion under a pressure.

    Parameters
    ----------
    pressure_pa : float
        Over the air. [Pa]
    cushion_m3, precharge_pa : float
        Of the accumulator, empty. [m³, Pa]

    Returns
    -------
    float
        All of it up to the precharge. [m³]

    References
    ----------
    As `held_m3`.
    """
    if pressure_pa <= precharge_pa:
        return cushion_m3
    ratio = (precharge_pa + AIR_PA) / (pressure_pa + AIR_PA)
    return cushion_m3 * float(ratio ** (1.0 / POLYTROPIC))


def rested_pa(
    from_pa: float, *, gas_m3: float, water_m3: float, from_c: float, to_c: float
) -> float | None:
    """Pressure a tight system comes to when it warms or cools, everything shut.

    Parameters
    ----------
    from_pa : float
        Over the air, at first. [Pa]
    gas_m3 : float
        Air shut in at that pressure, > 0. [m³]
    water_m3 : float
        Water shut in. [m³]
    from_c, to_c : float
        Of air and water, at first and later. [°C]

    Returns
    -------
    float or None
        Over the air; None where the water would leave no room for air. [Pa]

    References
    ----------
    p2 = p1 (T2/T1) Vg / (Vg + Vw (1 − ρ1/ρ2) − c (p1 − p2)), absolute, found by halving.

    Examples
    --------
    >>> gas = gas_m3(2.4e5, 2e-3, 1.2e5)
    >>> round(rested_pa(2.4e5, gas_m3=gas, water_m3=0.025, from_c=18.0, to_c=12.0) / 1e5, 2)
    2.28
    """
    first = from_pa + AIR_PA
    warmth = (to_c + ICE_K) / (from_c + ICE_K)
    shrinks = water_m3 * (1.0 - density_kg_per_m3(from_c) / density_kg_per_m3(to_c))

    def _misses(now: float) -> float:
        room = gas_m3 + shrinks - PIPES_M3_PER_PA * (first - now)
        return now - first * warmth * gas_m3 / room if room > 0.0 else -first

    low, high = 1.0, 20.0 * first
    if _misses(high) <= 0.0:
        return None
    for _ in range(80):
        middle = 0.5 * (low + high)
        low, high = (low, middle) if _misses(middle) > 0.0 else (middle, high)
    return 0.5 * (low + high) - AIR_PA
