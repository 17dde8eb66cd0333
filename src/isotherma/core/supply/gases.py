"""Liquid gases: pressure over the liquid and heat of boiling, by composition."""

from __future__ import annotations

from math import exp
from typing import Final

import numpy as np

FIRST_C: Final = -45.0
STEP_K: Final = 5.0
# -45 to 45 °C in steps of 5 K; made with a property library, a test compares [bar], [kJ/kg]
_BAR: Final = {
    "propane": (
        0.8905, 1.1112, 1.3723, 1.6783, 2.0343, 2.4452, 2.9162, 3.4528, 4.0604, 4.7446, 5.5112,
        6.366, 7.3151, 8.3646, 9.5207, 10.79, 12.1788, 13.6942, 15.3431,
    ),
    "n-butane": (
        0.127, 0.1679, 0.219, 0.2821, 0.3591, 0.4521, 0.5635, 0.6955, 0.8509, 1.0323, 1.2425,
        1.4845, 1.7615, 2.0765, 2.4329, 2.8341, 3.2836, 3.7849, 4.3416,
    ),
    "isobutane": (
        0.2211, 0.287, 0.368, 0.4662, 0.5843, 0.7248, 0.8905, 1.0845, 1.3098, 1.5696, 1.8672,
        2.2061, 2.5899, 3.0222, 3.5067, 4.0472, 4.6477, 5.3121, 6.0445,
    ),
}  # fmt: skip
_KJ_PER_KG: Final = {
    "propane": (
        428.6, 423.4, 418.0, 412.4, 406.7, 400.8, 394.6, 388.3, 381.7, 374.9, 367.7, 360.3, 352.5,
        344.3, 335.7, 326.7, 317.2, 307.1, 296.3,
    ),
    "n-butane": (
        422.3, 418.4, 414.5, 410.5, 406.5, 402.4, 398.2, 394.0, 389.7, 385.3, 380.8, 376.1, 371.4,
        366.5, 361.5, 356.3, 351.0, 345.4, 339.7,
    ),
    "isobutane": (
        392.8, 388.8, 384.8, 380.7, 376.6, 372.3, 368.0, 363.5, 359.0, 354.3, 349.6, 344.6, 339.6,
        334.3, 328.9, 323.3, 317.5, 311.5, 305.3,
    ),
}  # fmt: skip
_AT_K: Final = FIRST_C + 273.15 + STEP_K * np.arange(19)
_LOG_PA: Final = {name: np.log(np.array(row) * 1e5) for name, row in _BAR.items()}
_J_PER_KG: Final = {name: np.array(row) * 1e3 for name, row in _KJ_PER_KG.items()}
Mix = dict[str, float]


def saturation_pressure_pa(mix: Mix, celsius: float) -> float:
    """Pressure over a liquid gas.

    Parameters
    ----------
    mix : dict of str to float
        Shares by mole of "propane", "n-butane", "isobutane"; they sum to 1. [-]
    celsius : float
        Temperature of the liquid; clamped to -45 to 45. [°C]

    Returns
    -------
    float
        Absolute pressure. [Pa]

    Notes
    -----
    Raoult's law, p = Σ xᵢ pᵢ. The lighter gas boils off first; as a mix is used its pressure
    falls below this, which is not computed.

    References
    ----------
    Poling, Prausnitz and O'Connell, The Properties of Gases and Liquids, ch. 8; tables made
    with CoolProp. ln p is taken linear in 1/T between entries.
    """
    kelvin = celsius + 273.15
    total = 0.0
    for name, share in mix.items():
        total += share * exp(float(np.interp(-1 / kelvin, -1 / _AT_K, _LOG_PA[name])))
    return total


def heat_of_boiling_j_per_kg(mix: Mix, celsius: float) -> float:
    """Heat a kilogram takes to boil.

    Parameters
    ----------
    mix : dict of str to float
        Shares; they sum to 1. [-]
    celsius : float
        Temperature of the liquid; clamped to -45 to 45. [°C]

    Returns
    -------
    float
        Heat of vaporisation. [J/kg]

    References
    ----------
    Tables made with CoolProp; linear between entries.
    """
    return sum(
        share * float(np.interp(celsius + 273.15, _AT_K, _J_PER_KG[name]))
        for name, share in mix.items()
    )
