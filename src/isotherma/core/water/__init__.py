"""Properties of liquid water, interpolated in a table made from IAPWS-95."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.water import table

_CELSIUS: Final = np.arange(111, dtype=np.float64)
DENSITY: Final[NDArray[np.float64]] = np.array(table.DENSITY_KG_PER_M3)
_ENTHALPY: Final = np.array(table.ENTHALPY_J_PER_KG)
_LOG_VISCOSITY: Final = np.log(np.array(table.VISCOSITY_PA_S))
_CONDUCTIVITY: Final = np.array(table.CONDUCTIVITY_W_PER_M_K)


def density_kg_per_m3(celsius: float) -> float:
    """Give the density of liquid water.

    Parameters
    ----------
    celsius : float
        Temperature, 0 to 110; held at the ends outside. [°C]

    Returns
    -------
    float
        Density at 3 bar absolute. [kg/m³]

    References
    ----------
    IAPWS-95, tabulated per kelvin.
    """
    return float(np.interp(celsius, _CELSIUS, DENSITY))


def enthalpy_j_per_kg(celsius: float) -> float:
    """Give the specific enthalpy of liquid water above that at 0.01 °C.

    Parameters
    ----------
    celsius : float
        Temperature, 0 to 110; held at the ends outside. [°C]

    Returns
    -------
    float
        Enthalpy. [J/kg]

    References
    ----------
    IAPWS-95, tabulated per kelvin.
    """
    return float(np.interp(celsius, _CELSIUS, _ENTHALPY))


def viscosity_pa_s(celsius: float) -> float:
    """Give the dynamic viscosity of liquid water.

    Parameters
    ----------
    celsius : float
        Temperature, 0 to 110; held at the ends outside. [°C]

    Returns
    -------
    float
        Viscosity, interpolated in its logarithm. [Pa s]

    References
    ----------
    IAPWS 2008 viscosity formulation, tabulated per kelvin.
    """
    return float(np.exp(np.interp(celsius, _CELSIUS, _LOG_VISCOSITY)))


def conductivity_w_per_m_k(celsius: float) -> float:
    """Give the thermal conductivity of liquid water.

    Parameters
    ----------
    celsius : float
        Temperature, 0 to 110; held at the ends outside. [°C]

    Returns
    -------
    float
        Conductivity. [W/mK]

    References
    ----------
    IAPWS 2011 conductivity formulation, tabulated per kelvin.
    """
    return float(np.interp(celsius, _CELSIUS, _CONDUCTIVITY))


def mean_specific_heat_j_per_kg_k(low_c: float, high_c: float) -> float:
    """Give the specific heat that makes heating from low to high exact.

    Parameters
    ----------
    low_c, high_c : float
        Ends of the range in either order; 1 K is taken round equal ends. [°C]

    Returns
    -------
    float
        Enthalpy difference over temperature difference. [J/kgK]

    References
    ----------
    IAPWS-95, tabulated per kelvin.
    """
    if abs(high_c - low_c) < 1.0:
        low_c, high_c = low_c - 0.5, low_c + 0.5
    low_c, high_c = max(0.0, min(low_c, high_c)), min(110.0, max(low_c, high_c))
    return (enthalpy_j_per_kg(high_c) - enthalpy_j_per_kg(low_c)) / (high_c - low_c)
