"""What a gas pipe takes of the pressure, at an appliance's low pressure."""

from __future__ import annotations

from math import pi
from typing import Final

from isotherma.core.hydraulics.friction import friction_factor

GAS_KG_PER_M3: Final = 1.9  # propane at 15 °C and a little over the air's pressure
GAS_PA_S: Final = 8e-6


def gas_drop_pa(*, kg_per_s: float, bore_m: float, length_m: float) -> float:
    """Pressure that gas loses in a pipe.

    Parameters
    ----------
    kg_per_s : float
        Through it, >= 0. [kg/s]
    bore_m : float
        Inside diameter, > 0. [m]
    length_m : float
        With what bends and joints stand for. [m]

    Returns
    -------
    float
        0.0 without flow. [Pa]

    Notes
    -----
    The pressure is so near the air's that the gas keeps its density, 1.9 kg/m³.

    References
    ----------
    Darcy–Weisbach; friction as for water, smooth pipe.

    Examples
    --------
    >>> round(gas_drop_pa(kg_per_s=1.0 / 3600, bore_m=0.0064, length_m=5.0))
    528
    """
    if kg_per_s <= 0.0:
        return 0.0
    speed = kg_per_s / GAS_KG_PER_M3 / (pi / 4 * bore_m**2)
    reynolds = GAS_KG_PER_M3 * speed * bore_m / GAS_PA_S
    friction = friction_factor(reynolds, 1.5e-6 / bore_m)
    return friction * length_m / bore_m * 0.5 * GAS_KG_PER_M3 * speed**2


def longest_pipe_m(*, kg_per_s: float, bore_m: float, drop_pa: float) -> float:
    """Longest gas pipe that takes no more than so much pressure.

    Parameters
    ----------
    kg_per_s : float
        Through it, > 0. [kg/s]
    bore_m : float
        Inside diameter, > 0. [m]
    drop_pa : float
        Allowed, >= 0. [Pa]

    Returns
    -------
    float
        With 0.3 m for each bend and 0.15 m for each joint counted in. [m]

    References
    ----------
    `gas_drop_pa` is proportional to length.
    """
    return drop_pa / gas_drop_pa(kg_per_s=kg_per_s, bore_m=bore_m, length_m=1.0)
