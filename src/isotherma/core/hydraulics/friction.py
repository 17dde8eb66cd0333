"""Pressure a run of pipe takes: Darcy friction, with a smooth way through transition."""

from __future__ import annotations

from math import pi
from typing import Final

from fluids.friction import friction_factor as turbulent_friction_factor

from isotherma.core import water

ROUGHNESS_M: Final = {"plastic": 1.5e-6, "copper": 1.5e-6, "hose": 1.5e-6}
LAMINAR_BELOW: Final = 2000.0
TURBULENT_ABOVE: Final = 4000.0


def friction_factor(reynolds: float, relative_roughness: float) -> float:
    """Darcy friction factor from creeping flow to turbulence without a jump.

    Parameters
    ----------
    reynolds : float
        Reynolds number, > 0. [-]
    relative_roughness : float
        Roughness over bore, 0 to 0.05. [-]

    Returns
    -------
    float
        64/Re below 2000, Colebrook above 4000, a smooth blend of both between. [-]

    References
    ----------
    Colebrook (1939) as solved by the `fluids` library; blend: judgement, within 10 %.

    Examples
    --------
    >>> friction_factor(1600.0, 0.0)
    0.04
    >>> round(friction_factor(1e5, 0.0), 4)
    0.018
    """
    if reynolds <= LAMINAR_BELOW:
        return 64.0 / reynolds
    rough = float(turbulent_friction_factor(Re=max(reynolds, 2100.0), eD=relative_roughness))
    if reynolds >= TURBULENT_ABOVE:
        return rough
    at = (reynolds - LAMINAR_BELOW) / (TURBULENT_ABOVE - LAMINAR_BELOW)
    weight = at * at * (3.0 - 2.0 * at)
    return (1.0 - weight) * 64.0 / reynolds + weight * rough


def run_drop_pa(
    *,
    flow_m3_per_s: float,
    bore_m: float,
    length_m: float,
    loss_k: float,
    celsius: float,
    roughness_m: float = 1.5e-6,
) -> float:
    """Pressure lost along a run and its fittings.

    Parameters
    ----------
    flow_m3_per_s : float
        Flow, >= 0. [m³/s]
    bore_m, length_m : float
        Inside diameter and length, > 0. [m]
    loss_k : float
        Sum of the fittings' loss coefficients on this bore. [-]
    celsius : float
        Water temperature. [°C]
    roughness_m : float
        Wall roughness. [m]

    Returns
    -------
    float
        Pressure loss, 0.0 without flow. [Pa]

    References
    ----------
    Darcy and Weisbach; White, Fluid Mechanics, ch. 6.

    Examples
    --------
    >>> slow = run_drop_pa(flow_m3_per_s=5e-6, bore_m=0.01, length_m=1.0, loss_k=0.0, celsius=20.0)
    >>> hagen = 128 * water.viscosity_pa_s(20.0) * 1.0 * 5e-6 / (pi * 0.01**4)
    >>> abs(slow / hagen - 1) < 1e-9
    True
    """
    if flow_m3_per_s <= 0.0:
        return 0.0
    speed = velocity_m_per_s(flow_m3_per_s=flow_m3_per_s, bore_m=bore_m)
    density = water.density_kg_per_m3(celsius)
    reynolds = density * speed * bore_m / water.viscosity_pa_s(celsius)
    factor = friction_factor(reynolds, roughness_m / bore_m)
    return (factor * length_m / bore_m + loss_k) * density * speed**2 / 2


def velocity_m_per_s(*, flow_m3_per_s: float, bore_m: float) -> float:
    """Mean velocity in a round bore.

    Parameters
    ----------
    flow_m3_per_s : float
        Flow. [m³/s]
    bore_m : float
        Inside diameter, > 0. [m]

    Returns
    -------
    float
        Velocity. [m/s]

    References
    ----------
    Continuity; White, Fluid Mechanics, ch. 3.

    Examples
    --------
    >>> round(velocity_m_per_s(flow_m3_per_s=1e-4, bore_m=0.012), 3)
    0.884
    """
    return flow_m3_per_s / (pi * bore_m**2 / 4)


def inner_film_w_per_m2_k(*, flow_m3_per_s: float, bore_m: float, celsius: float) -> float:
    """Convection between water and pipe wall.

    Parameters
    ----------
    flow_m3_per_s : float
        Flow, >= 0. [m³/s]
    bore_m : float
        Inside diameter, > 0. [m]
    celsius : float
        Water temperature. [°C]

    Returns
    -------
    float
        Film coefficient. [W/m²K]

    References
    ----------
    Nu = 4.36 laminar; Gnielinski (1976) above Re 4000; linear in Re between.

    Examples
    --------
    >>> still = inner_film_w_per_m2_k(flow_m3_per_s=0.0, bore_m=0.01, celsius=20.0)
    >>> round(still * 0.01 / water.conductivity_w_per_m_k(20.0), 2)
    4.36
    """
    speed = velocity_m_per_s(flow_m3_per_s=flow_m3_per_s, bore_m=bore_m)
    viscosity = water.viscosity_pa_s(celsius)
    conductivity = water.conductivity_w_per_m_k(celsius)
    reynolds = water.density_kg_per_m3(celsius) * speed * bore_m / viscosity
    prandtl = water.mean_specific_heat_j_per_kg_k(celsius, celsius) * viscosity / conductivity

    def gnielinski(re: float) -> float:
        f8 = friction_factor(re, 1.5e-6 / bore_m) / 8
        return float(f8 * (re - 1000) * prandtl / (1 + 12.7 * f8**0.5 * (prandtl ** (2 / 3) - 1)))

    if reynolds >= TURBULENT_ABOVE:
        nusselt = gnielinski(reynolds)
    else:
        share = max(0.0, (reynolds - LAMINAR_BELOW) / (TURBULENT_ABOVE - LAMINAR_BELOW))
        nusselt = 4.36 + share * (gnielinski(TURBULENT_ABOVE) - 4.36)
    return nusselt * conductivity / bore_m
