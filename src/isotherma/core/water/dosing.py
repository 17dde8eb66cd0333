"""How much of a disinfecting product a tank of water takes."""

from __future__ import annotations

from typing import Final

USUAL_G_PER_M3: Final = 50.0  # of active substance in the water; handbook practice, by label
USUAL_G_PER_L: Final = 50.0  # in the product


def dose_m3(
    *, water_m3: float, wanted_g_per_m3: float = USUAL_G_PER_M3,
    product_g_per_l: float = USUAL_G_PER_L,
) -> float:  # fmt: skip
    """Give the product that brings so much water to a strength.

    Parameters
    ----------
    water_m3 : float
        All that is treated, >= 0. [m³]
    wanted_g_per_m3 : float
        Active substance wanted in it, >= 0. [g/m³]
    product_g_per_l : float
        Active substance in the product, > 0. [g/L]

    Returns
    -------
    float
        Product. [m³]

    Notes
    -----
    What the product adds to the volume is left out: a thousandth.

    References
    ----------
    Mass balance; strengths and contact times are the label's and the rule set's.

    Examples
    --------
    >>> round(dose_m3(water_m3=0.1) * 1e6)
    100
    """
    return water_m3 * wanted_g_per_m3 / (product_g_per_l * 1e3)
