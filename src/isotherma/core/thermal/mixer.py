"""The thermostatic mixer: what share of its water comes from the hot side."""

from __future__ import annotations

from typing import Final

from isotherma.core.compiled import lean

HOT_STOP: Final = 0.97  # share of hot with the valve wide open; the cold port leaks the rest


@lean
def wanted_hot_share(hot_c: float, cold_c: float, set_c: float, difference_k: float) -> float:
    """Give the share of hot water a thermostatic valve settles at.

    Parameters
    ----------
    hot_c, cold_c : float
        Temperatures at its two ports. [°C]
    set_c : float
        What it is set to. [°C]
    difference_k : float
        Hot minus setting below which it no longer holds, >= 0. [K]

    Returns
    -------
    float
        Hot share by mass, 0.03 to 0.97. [-]

    Notes
    -----
    At or above the difference it holds: x = (T_set − T_cold)/(T_hot − T_cold). Below,
    it moves to its hot stop in proportion to what is missing, and never past what the
    setting asks, so the outlet sags with the store instead of jumping.

    References
    ----------
    Balance of heat of two streams that become one.
    """
    if cold_c >= set_c:
        return 1.0 - HOT_STOP
    if hot_c <= set_c:
        return HOT_STOP
    ideal = (set_c - cold_c) / (hot_c - cold_c)
    missing = 1.0 - (hot_c - set_c) / difference_k if difference_k > 0.0 else 0.0
    if missing > 0.0:
        at_limit = (set_c - cold_c) / (set_c + difference_k - cold_c)
        ideal = min(ideal, at_limit + (HOT_STOP - at_limit) * missing)
    return min(HOT_STOP, max(1.0 - HOT_STOP, ideal))
