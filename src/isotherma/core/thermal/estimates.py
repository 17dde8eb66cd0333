"""Closed forms for one temperature: how long to heat, how far it cools, what can be drawn."""

from __future__ import annotations

from math import exp, log1p

from isotherma.core import water
from isotherma.core.errors import TargetNotReached


def time_to_heat(
    *,
    capacity_j_per_k: float,
    power_w: float,
    start_c: float,
    target_c: float,
    loss_w_per_k: float,
    ambient_c: float,
) -> float:
    r"""Time a mixed store needs to warm up under constant power.

    One temperature throughout, loss proportional to the excess over ambient,
    no draw-off. A stratified store heats its top sooner: use `simulate`.

    Parameters
    ----------
    capacity_j_per_k : float
        Heat capacity C of water and vessel together, > 0. [J/K]
    power_w : float
        Heat P reaching the water, after heater efficiency, >= 0. [W]
    start_c, target_c : float
        Store temperature before and after. [°C]
    loss_w_per_k : float
        Standing loss U to the surroundings, > 0. [W/K]
    ambient_c : float
        Temperature of the surroundings. [°C]

    Returns
    -------
    float
        Duration; 0.0 when the store is already warm enough. [s]

    Raises
    ------
    TargetNotReached
        If P is no more than the loss at the target.

    Notes
    -----
    t = -(C/U) ln(1 - U (T1 - T0) / (P - U (T0 - Ta))). ``log1p`` keeps
    precision as U nears 0, where t tends to C (T1 - T0) / P.

    References
    ----------
    Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 5, solved for t.

    Examples
    --------
    >>> fast = time_to_heat(
    ...     capacity_j_per_k=41_840.0,
    ...     power_w=1000.0,
    ...     start_c=10.0,
    ...     target_c=60.0,
    ...     loss_w_per_k=1e-9,
    ...     ambient_c=10.0,
    ... )
    >>> round(fast)
    2092
    """
    if target_c <= start_c:
        return 0.0
    limit_c = ambient_c + power_w / loss_w_per_k
    if target_c >= limit_c:
        raise TargetNotReached(target_c=target_c, limit_c=limit_c)
    rise_k = target_c - start_c
    net_w = power_w - loss_w_per_k * (start_c - ambient_c)
    return -capacity_j_per_k / loss_w_per_k * log1p(-loss_w_per_k * rise_k / net_w)


def cooled_c(
    *,
    capacity_j_per_k: float,
    loss_w_per_k: float,
    start_c: float,
    ambient_c: float,
    duration_s: float,
) -> float:
    """Temperature of a mixed store left alone.

    Parameters
    ----------
    capacity_j_per_k : float
        Heat capacity of water and vessel together, > 0. [J/K]
    loss_w_per_k : float
        Standing loss, >= 0. [W/K]
    start_c, ambient_c : float
        Temperature before, and of the surroundings. [°C]
    duration_s : float
        How long, >= 0. [s]

    Returns
    -------
    float
        Temperature after. [°C]

    References
    ----------
    Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 5, lumped capacity.

    Examples
    --------
    >>> round(
    ...     cooled_c(
    ...         capacity_j_per_k=1000.0,
    ...         loss_w_per_k=1.0,
    ...         start_c=70.0,
    ...         ambient_c=20.0,
    ...         duration_s=1000.0,
    ...     ),
    ...     2,
    ... )
    38.39
    """
    return ambient_c + (start_c - ambient_c) * exp(-loss_w_per_k * duration_s / capacity_j_per_k)


def rise_k(power_w: float, flow_m3_per_s: float, cold_c: float) -> float:
    """Give how much warmer a flow leaves that heat goes into.

    Parameters
    ----------
    power_w : float
        Into the water. [W]
    flow_m3_per_s : float
        As it enters, > 0. [m³/s]
    cold_c : float
        It enters at. [°C]

    Returns
    -------
    float
        Of a liquid: over 99 °C its specific heat is that of 99 °C. [K]

    References
    ----------
    Energy balance of the water, with the mean specific heat between both ends.

    Examples
    --------
    >>> round(rise_k(10e3, 5e-3 / 60, 10.0), 1)
    28.7
    """
    rate = flow_m3_per_s * water.density_kg_per_m3(cold_c)
    rise = 20.0
    for _ in range(6):
        warm = min(99.0, cold_c + max(rise, 0.1))
        rise = power_w / (rate * water.mean_specific_heat_j_per_kg_k(cold_c, warm))
    return rise
