"""Water that runs by its own height: through waste pipes, out of tanks, into tanks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import pi, sqrt
from typing import Final

from isotherma.core import water
from isotherma.core.hydraulics.friction import run_drop_pa

GRAVITY_M_PER_S2: Final = 9.80665
ENTRANCE_K, EXIT_K = 0.5, 1.0  # sharp-edged tank outlet; all speed lost: White, ch. 6
AIR_KG_PER_M3: Final = 1.2
DISCHARGE: Final = 0.6  # of a sharp-edged hole
GULPS: Final = 0.3  # share of the flow where air must come back up the same pipe; judgement
MOST_M3_PER_S: Final = 0.01  # 600 L/min: past what any part here passes
SLICES: Final = 60


@dataclass(frozen=True, slots=True)
class FallingLeg:
    """One stretch of pipe: bore, length, sum of loss coefficients, roughness."""

    bore_m: float
    length_m: float
    loss_k: float = 0.0
    roughness_m: float = 1.5e-6


def gravity_flow_m3_per_s(
    *,
    head_m: float,
    stretches: Sequence[FallingLeg],
    vent_bore_m: float | None = None,
    celsius: float = 20.0,
) -> float:
    """Flow that a height of water drives through pipes one behind the other, all full.

    Parameters
    ----------
    head_m : float
        Height from surface to outlet; none or less drives nothing. [m]
    stretches : sequence of FallingLeg
        The pipes; at least one. [-]
    vent_bore_m : float or None
        Where the tank filled breathes out through this hole, its bore. [m]
    celsius : float
        Of the water. [°C]

    Returns
    -------
    float
        Flow. [m³/s]

    Notes
    -----
    ρ g H = Σ friction and fittings + entrance and exit + ½ ρ_air (q/(C_d A_vent))².

    References
    ----------
    White, Fluid Mechanics, ch. 6, three-reservoir form for one pipe.

    Examples
    --------
    >>> wide = gravity_flow_m3_per_s(head_m=0.5, stretches=[FallingLeg(0.025, 0.001)])
    >>> speed = wide / (pi / 4 * 0.025**2)
    >>> 0.97 < speed / sqrt(2 * GRAVITY_M_PER_S2 * 0.5 / (ENTRANCE_K + EXIT_K)) < 1.0
    True
    >>> gravity_flow_m3_per_s(head_m=0.0, stretches=[FallingLeg(0.025, 1.0)])
    0.0
    """
    if head_m <= 0.0:
        return 0.0
    push = water.density_kg_per_m3(celsius) * GRAVITY_M_PER_S2 * head_m

    def left(flow: float) -> float:
        taken = 0.0
        for at, stretch in enumerate(stretches):
            more = (ENTRANCE_K if at == 0 else 0.0) + (EXIT_K if at == len(stretches) - 1 else 0.0)
            taken += run_drop_pa(
                flow_m3_per_s=flow,
                bore_m=stretch.bore_m,
                length_m=max(stretch.length_m, 1e-3),
                loss_k=stretch.loss_k + more,
                celsius=celsius,
                roughness_m=stretch.roughness_m,
            )
        if vent_bore_m is not None:
            area = pi / 4 * vent_bore_m**2
            taken += 0.5 * AIR_KG_PER_M3 * (flow / (DISCHARGE * area)) ** 2
        return push - taken

    if left(MOST_M3_PER_S) > 0.0:
        return MOST_M3_PER_S
    from scipy.optimize import brentq  # half a second to load, and few pages ask for it

    return float(brentq(left, 0.0, MOST_M3_PER_S, xtol=1e-12, rtol=1e-10))


def emptying_s(
    *,
    volume_m3: float,
    depth_m: float,
    below_m: float,
    stretches: Sequence[FallingLeg],
    taper: float = 1.0,
) -> float | None:
    """Time a tank takes to run empty by its own height.

    Parameters
    ----------
    volume_m3 : float
        What is in it. [m³]
    depth_m : float
        How deep that stands, > 0. [m]
    below_m : float
        From the tank's floor down to where the pipe ends; less than none lies higher. [m]
    stretches : sequence of FallingLeg
        The pipes. [-]
    taper : float
        Floor area over the area at the surface, > 0. [-]

    Returns
    -------
    float or None
        Time; None where water is left since the pipe ends above the floor. [s]

    References
    ----------
    White, Fluid Mechanics, ch. 3: quasi-steady draining, dV/dt = −q(h), in 60 slices.
    """
    if below_m < 0.0:
        return None
    mean_area = volume_m3 / depth_m
    top = 2.0 * mean_area / (1.0 + taper)
    total = 0.0
    for slice_ in range(SLICES):
        share = (slice_ + 0.5) / SLICES
        area = top * (taper + (1.0 - taper) * share)
        flow = gravity_flow_m3_per_s(head_m=share * depth_m + below_m, stretches=stretches)
        total += area * depth_m / SLICES / flow
    return total


def lifting_flow_m3_per_s(*, open_flow_m3_per_s: float, most_m: float, lift_m: float) -> float:
    """Flow of a pump that lifts waste.

    Parameters
    ----------
    open_flow_m3_per_s : float
        Without lift. [m³/s]
    most_m : float
        Lift at which nothing comes any more, > 0. [m]
    lift_m : float
        What it has to lift. [m]

    Returns
    -------
    float
        q0 √(1 − lift/most); nothing beyond. [m³/s]

    References
    ----------
    White, Fluid Mechanics, ch. 11: where the pump's curve meets the lift.

    Examples
    --------
    >>> round(lifting_flow_m3_per_s(open_flow_m3_per_s=2e-4, most_m=3.0, lift_m=3.0), 9)
    0.0
    """
    left = 1.0 - max(0.0, lift_m) / most_m
    return open_flow_m3_per_s * sqrt(left) if left > 0.0 else 0.0
