"""The coldest night a design has to stand."""

from __future__ import annotations

from typing import Final

from isotherma.core.checks.look import Look

COLDER_K: Final = 5.0  # than the month's mean night; ours


def lowest_c(look: Look) -> float:
    """Give the lowest night: the month's mean less half its swing less five degrees.

    Parameters
    ----------
    look : Look
        The design and its climate. [-]

    Returns
    -------
    float
        Of the air outside. [°C]

    References
    ----------
    Ours.
    """
    return look.climate.air_c - 0.5 * look.climate.swing_k - COLDER_K
