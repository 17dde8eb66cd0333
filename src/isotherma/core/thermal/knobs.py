"""A heater with a gas knob and a water knob: what comes out of it at every setting."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from isotherma.core import water
from isotherma.core.thermal.estimates import rise_k

Region = Literal["", "no flame", "pulses", "too hot", "cuts out"]
TOO_HOT_C: Final = 48.0  # over it an outlet scalds


@dataclass(frozen=True, slots=True)
class Knobs:
    """A two-knob heater: heat to the water at full fire [W], what its gas knob leaves at least [-],
    the flow it lights at [m³/s], from which the pump runs without a break [m³/s], its cut-out [°C].
    """

    heat_w: float
    least_share: float
    lights_m3_per_s: float
    steady_m3_per_s: float
    limit_c: float


def at_knobs(
    heater: Knobs, *, gas_share: float, flow_m3_per_s: float, cold_c: float
) -> tuple[float | None, Region]:
    """Give what comes out at a setting of both knobs, once it is steady.

    Parameters
    ----------
    heater : Knobs
        The heater and what feeds it. [SI]
    gas_share : float
        Gas knob, of full fire; never under its least. [-]
    flow_m3_per_s : float
        Through it. [m³/s]
    cold_c : float
        Water that enters. [°C]

    Returns
    -------
    tuple of float or None, Region
        Temperature, None without a flame; and what is wrong there, "" for nothing. [°C]

    References
    ----------
    Energy balance of the water.

    Examples
    --------
    >>> small = Knobs(12e3, 0.4, 2.5e-3 / 60, 2e-3 / 60, 85.0)
    >>> at_knobs(small, gas_share=0.5, flow_m3_per_s=1e-3 / 60, cold_c=10.0)
    (None, 'no flame')
    >>> warm, region = at_knobs(small, gas_share=0.5, flow_m3_per_s=3e-3 / 60, cold_c=10.0)
    >>> round(warm, 1), region
    (38.7, '')
    """
    if flow_m3_per_s < heater.lights_m3_per_s:
        return None, "no flame"
    fire = heater.heat_w * max(gas_share, heater.least_share)
    warm = cold_c + rise_k(fire, flow_m3_per_s, cold_c)
    if warm >= heater.limit_c:
        return None, "cuts out"
    if flow_m3_per_s < heater.steady_m3_per_s:
        return warm, "pulses"
    return warm, "too hot" if warm > TOO_HOT_C else ""


def gas_for(*, heat_w: float, want_c: float, flow_m3_per_s: float, cold_c: float) -> float:
    """Give the share of full fire that makes a flow so warm; more than 1: it cannot.

    Parameters
    ----------
    heat_w : float
        To the water at full fire, > 0. [W]
    want_c : float
        Wanted. [°C]
    flow_m3_per_s : float
        Through it, > 0. [m³/s]
    cold_c : float
        Water that enters. [°C]

    Returns
    -------
    float
        Of full fire. [-]

    References
    ----------
    Energy balance of the water.
    """
    mean = water.mean_specific_heat_j_per_kg_k(cold_c, max(want_c, cold_c + 0.1))
    return flow_m3_per_s * water.density_kg_per_m3(cold_c) * mean * (want_c - cold_c) / heat_w
