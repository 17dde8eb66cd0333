"""What drops lose in the air between the head, the chest and the tray."""

from __future__ import annotations

from typing import Final

WASHES_AT_C: Final = 38.0  # the head's water the falls are given for
# head to tray, middle of 3-6 K for ordinary drops and of 8-12 K for fine holes in cold air
TO_TRAY_K: Final = {"ordinary": 4.5, "fine": 10.0}
CHEST_SHARE: Final = 0.4  # judgement: the chest is 0.5 m below the head, the tray 1.9 m
LEAST_GAP_K: Final = 5.0  # in air nearly as warm as the water the given falls say nothing
MOST_SHARE: Final = 0.9


def fall_share(air_c: float, *, fine_holes: bool) -> float:
    """Give what drops lose from head to tray, as a share of their excess over the air.

    Parameters
    ----------
    air_c : float
        Air of the shower. [°C]
    fine_holes : bool
        Whether the head makes fine drops. [-]

    Returns
    -------
    float
        0 to 0.9; at 38 °C the given fall. [-]

    References
    ----------
    Judgement, from measured falls of 3-6 K for ordinary drops and 8-12 K for fine ones.

    Examples
    --------
    >>> round(fall_share(20.0, fine_holes=False) * (38.0 - 20.0), 1)
    4.5
    """
    fall = TO_TRAY_K["fine" if fine_holes else "ordinary"]
    return min(MOST_SHARE, fall / max(LEAST_GAP_K, WASHES_AT_C - air_c))


def arrives_c(head_c: float, air_c: float, *, fine_holes: bool) -> tuple[float, float]:
    """Give what reaches the chest and the tray.

    Parameters
    ----------
    head_c : float
        Water at the head. [°C]
    air_c : float
        Air of the shower. [°C]
    fine_holes : bool
        Whether the head makes fine drops. [-]

    Returns
    -------
    tuple of float
        At the chest and at the tray; never colder than the air. [°C]

    References
    ----------
    Judgement, see `fall_share`.

    Examples
    --------
    >>> arrives_c(20.0, 20.0, fine_holes=True)
    (20.0, 20.0)
    """
    fall = fall_share(air_c, fine_holes=fine_holes) * max(0.0, head_c - air_c)
    return head_c - CHEST_SHARE * fall, head_c - fall
