"""Properties of liquid water, interpolated in a table made from IAPWS-95."""

from __future__ import annotations

from collections.abc import Sequence
from math import exp, isnan, log
from typing import Final

from isotherma.core.water import table

HOTTEST_C: Final = 110
# where no temperature is known, so that every estimate takes the same
FRESH_KG_PER_M3: Final = 999.0  # about 15 °C
WARM_KG_PER_M3: Final = 993.0  # about 38 °C
SPECIFIC_J_PER_KG_K: Final = 4186.0  # about 15 °C
HEAT_J_PER_M3_K: Final = 4.18e6  # about 20 °C
LABEL_J_PER_M3_K: Final = 4.185e6  # by which labels give litres a minute at so many kelvin
_LOG_VISCOSITY: Final = tuple(log(value) for value in table.VISCOSITY_PA_S)


def _at(celsius: float, values: Sequence[float]) -> float:
    """Read a table of one value per kelvin from 0 °C, straight between them, held at its ends."""
    if isnan(celsius):  # what nobody knows stays so
        return celsius
    if celsius <= 0.0:
        return float(values[0])
    if celsius >= HOTTEST_C:
        return float(values[-1])
    below = int(celsius)
    return float((values[below + 1] - values[below]) * (celsius - below) + values[below])


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

    Examples
    --------
    >>> round(density_kg_per_m3(20.0))
    998
    >>> round(density_kg_per_m3(80.0))
    972
    """
    return _at(celsius, table.DENSITY_KG_PER_M3)


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

    Examples
    --------
    >>> round(enthalpy_j_per_kg(50.0) / 1e3, 1)
    209.3
    """
    return _at(celsius, table.ENTHALPY_J_PER_KG)


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

    Examples
    --------
    >>> round(viscosity_pa_s(20.0) * 1e3, 3)
    1.002
    """
    return exp(_at(celsius, _LOG_VISCOSITY))


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

    Examples
    --------
    >>> round(conductivity_w_per_m_k(20.0), 3)
    0.598
    """
    return _at(celsius, table.CONDUCTIVITY_W_PER_M_K)


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

    Examples
    --------
    >>> round(mean_specific_heat_j_per_kg_k(10.0, 60.0))
    4182
    """
    if abs(high_c - low_c) < 1.0:
        low_c, high_c = low_c - 0.5, low_c + 0.5
    low_c, high_c = max(0.0, min(low_c, high_c)), min(110.0, max(low_c, high_c))
    return (enthalpy_j_per_kg(high_c) - enthalpy_j_per_kg(low_c)) / (high_c - low_c)
