"""What copper bears, by its area."""

from __future__ import annotations

from typing import Final

# one copper conductor in air of 30 °C, sheath of 70 °C: ISO 10133, table A.1 [m² → A]
BEARS: Final[tuple[tuple[float, float], ...]] = tuple((area * 1e-6, amps) for area, amps in (
    (0.75, 10.0), (1.0, 14.0), (1.5, 18.0), (2.5, 25.0), (4.0, 35.0), (6.0, 45.0), (10.0, 65.0),
    (16.0, 90.0), (25.0, 120.0), (35.0, 160.0), (50.0, 210.0), (70.0, 265.0), (95.0, 310.0),
))  # fmt: skip
_MAINS_SHARE: Final = 0.8  # of it in a mains cable; ours
LOST_AT_MOST: Final = 0.03  # of the volts: what boats and vans are wired for
_LEAST_A: Final = 3.0  # thinner than the table; ours


def cable_bears_a(area_m2: float, *, mains: bool) -> float:
    """Current a copper cable bears.

    Parameters
    ----------
    area_m2 : float
        Of one conductor, > 0. [m²]
    mains : bool
        Whether it is a mains cable. [-]

    Returns
    -------
    float
        Of the next size of the table that is no larger; 3 A for thinner ones. [A]

    References
    ----------
    ISO 10133:2012, table A.1, 30 °C around it, sheath of 70 °C; mains × 0.8: ours.

    Examples
    --------
    >>> cable_bears_a(6e-6, mains=False), cable_bears_a(0.5e-6, mains=False)
    (45.0, 3.0)
    """
    bears = max((amps for area, amps in BEARS if area <= area_m2 * 1.001), default=_LEAST_A)
    return bears * _MAINS_SHARE if mains else bears
