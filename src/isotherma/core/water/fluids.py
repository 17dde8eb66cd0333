"""Any fluid of a circuit as one table the kernels interpolate: water, or an antifreeze mix."""

from __future__ import annotations

from functools import cache
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from isotherma.core import water
from isotherma.core.compiled import lean
from isotherma.core.water import antifreeze_table

Floats = NDArray[np.float64]
Antifreeze = Literal["water", "propylene glycol", "ethylene glycol"]

COLDEST_C: Final = -40
CELSIUS: Final = np.arange(COLDEST_C, 111, dtype=np.float64)
DENSITY, VISCOSITY, SPECIFIC = 0, 1, 2


@cache
def fluid_table(fluid: Antifreeze, share: float) -> Floats:
    """Give the properties of a fluid, a column per kelvin.

    Parameters
    ----------
    fluid : str
        "water", "propylene glycol" or "ethylene glycol". [-]
    share : float
        Antifreeze by volume, 0 to 0.6; more is taken as 0.6. [-]

    Returns
    -------
    numpy.ndarray
        Density, dynamic viscosity, specific heat at −40 to 110 °C; held at the ends of
        what is liquid. [kg/m³, Pa s, J/kgK], shape (3, 151)

    References
    ----------
    IAPWS-95 for water; ASHRAE Handbook Fundamentals ch. 31 for the mixes, by volume,
    between shares linear (viscosity in its logarithm).
    """
    plain = np.array(
        [
            [water.density_kg_per_m3(c) for c in CELSIUS],
            [water.viscosity_pa_s(c) for c in CELSIUS],
            [water.mean_specific_heat_j_per_kg_k(c, c) for c in np.clip(CELSIUS, 0.0, 110.0)],
        ]
    )
    if fluid == "water" or share <= 0.0:
        return plain
    given_c = np.arange(-40.0, 101.0, 5.0)
    rows = np.array(antifreeze_table.MIXES[fluid])
    rows[:, VISCOSITY] = np.log(rows[:, VISCOSITY])
    plain[VISCOSITY] = np.log(plain[VISCOSITY])
    fine = np.array([[np.interp(CELSIUS, given_c, row) for row in mix] for mix in rows])
    shares = np.array([0.0, *antifreeze_table.SHARES])
    stack = np.concatenate([plain[np.newaxis], fine])
    at = int(np.clip(np.searchsorted(shares, share) - 1, 0, len(shares) - 2))
    part = min(1.0, (share - shares[at]) / (shares[at + 1] - shares[at]))
    mixed: Floats = (1 - part) * stack[at] + part * stack[at + 1]
    mixed[VISCOSITY] = np.exp(mixed[VISCOSITY])
    return mixed


@lean
def look_up(table: Floats, row: int, celsius: float) -> float:
    """Interpolate one property of one fluid; held at the ends of the table.

    References
    ----------
    Straight lines between rows of the tables, see `water.table` and `antifreeze_table`.
    """
    at = celsius - COLDEST_C
    last = table.shape[1] - 1
    if at <= 0.0:
        return float(table[row, 0])
    if at >= last:
        return float(table[row, last])
    below = int(at)
    part = at - below
    return float((1.0 - part) * table[row, below] + part * table[row, below + 1])
