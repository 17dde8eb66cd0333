"""The table of liquid water as arrays, for what works on many temperatures at once."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.water import table

CELSIUS: Final = np.arange(111, dtype=np.float64)
DENSITY: Final[NDArray[np.float64]] = np.array(table.DENSITY_KG_PER_M3)


def densities_kg_per_m3(celsius: NDArray[np.float64]) -> NDArray[np.float64]:
    """Give the density of liquid water at many temperatures.

    Parameters
    ----------
    celsius : array of float, any shape
        Temperatures, 0 to 110; held at the ends outside. [°C]

    Returns
    -------
    array of float, same shape
        Densities at 3 bar absolute. [kg/m³]

    References
    ----------
    IAPWS-95, tabulated per kelvin.
    """
    return np.interp(celsius, CELSIUS, DENSITY)
