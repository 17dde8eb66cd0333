"""What a link of a network takes of the pressure at a flow: one law per kind of link.

A law gives the drop h(q) and its slope, both in SI, for a volume flow that may be
negative. Every law rises with the flow, so that any network of them has one solution
(a convex content function; Boulos, Lansey and Karney, Comprehensive Water Distribution
Systems Analysis, ch. 6). What may only pass one way is made steep, not cut off: the
solver shuts it exactly once it knows it is shut.

Parameters of a link by law:

    PIPE     length [m], bore [m], sum of K, roughness [m], factor on friction
    FACTOR   Δp/q² [Pa s²/m⁶]
    CHECK    Δp/q², opening pressure [Pa]
    LIMIT    Δp/q², most flow [m³/s]
    PUMP     first point, points (in the table of curves), highest head [Pa]
    ROUND    open flow [m³/s], head at no flow [Pa]: head₀(1 − (q/q₀)²), passes backwards
    STROKE   flow [m³/s], head it can push [Pa]
    SUPPLY   Δp/q² of what is behind a tap, pressure at rest [Pa]
"""

from __future__ import annotations

from math import log, log10, pi, sqrt
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import lean

Floats = NDArray[np.float64]

PIPE, FACTOR, CHECK, LIMIT, PUMP, ROUND, STROKE, SUPPLY = range(8)
PARAMETERS: Final = 5
# columns of a link's parameters: of a pipe
LENGTH_M, BORE_M, LOSS_K, ROUGHNESS_M, ON_FRICTION = range(5)
# of what takes by the square of the flow; what a check valve opens at, a limiter lets pass at
# most, a tap has behind it at rest
RESISTANCE, OPENS_PA, MOST, REST_PA = 0, 1, 1, 1
# of pumps: by points, that pass backwards too, that push the same whatever is before them
FIRST_POINT, POINTS, CAP_PA = range(3)
OPEN_M3, HEAD_PA = range(2)
STROKE_M3, PUSH_PA = range(2)
SHUT_SLOPE: Final = 1e13  # Pa s/m³: 0.6 mL/min at one bar, until the solver shuts it wholly
HARD_SLOPE: Final = 1e14  # past the most a limiter passes: 0.06 mL/min at one bar
SLACK: Final = 1e3  # least slope: 0.1 Pa at 6 L/min
NEAR: Final = 1e-8  # square laws are straight below this flow [m³/s]
CRACK: Final = 1e-7  # a check valve lifts over this much flow [m³/s]
LAMINAR_BELOW: Final = 2000.0
TURBULENT_ABOVE: Final = 4000.0


@lean
def colebrook(reynolds: float, relative_roughness: float) -> tuple[float, float]:
    """Darcy friction factor of Colebrook and its slope by the Reynolds number.

    References
    ----------
    Colebrook (1939), J. Inst. Civil Engineers 11; White, Fluid Mechanics, ch. 6.
    """
    rough = relative_roughness / 3.7
    # near Haaland's, without its power, then Newton on Colebrook's
    x = -1.8 * log10(6.9 / reynolds + 0.4 * rough)
    for _ in range(20):
        inside = rough + 2.51 * x / reynolds
        miss = x + 2.0 * log10(inside)
        step = miss / (1.0 + 2.0 / log(10.0) * 2.51 / reynolds / inside)
        x -= step
        if abs(step) < 1e-8 * x:  # what is left is its square
            break
    inside = rough + 2.51 * x / reynolds
    grip = 2.0 / log(10.0) * 2.51 / inside
    x_slope = grip * x / reynolds**2 / (1.0 + grip / reynolds)
    return 1.0 / (x * x), -2.0 / x**3 * x_slope


@lean
def friction(reynolds: float, relative_roughness: float) -> tuple[float, float]:
    """Darcy friction factor over the whole range and its slope by the Reynolds number.

    References
    ----------
    Hagen–Poiseuille below Re 2000, Colebrook above 4000; White, Fluid Mechanics, ch. 6. Between
    them a smooth join, judgement: what flows there is not settled.
    """
    if reynolds <= LAMINAR_BELOW:
        return 64.0 / reynolds, -64.0 / reynolds**2
    rough, rough_slope = colebrook(reynolds, relative_roughness)
    if reynolds >= TURBULENT_ABOVE:
        return rough, rough_slope
    span = TURBULENT_ABOVE - LAMINAR_BELOW
    at = (reynolds - LAMINAR_BELOW) / span
    weight = at * at * (3.0 - 2.0 * at)
    weight_slope = 6.0 * at * (1.0 - at) / span
    smooth = 64.0 / reynolds
    factor = (1.0 - weight) * smooth + weight * rough
    slope = (
        (1.0 - weight) * -smooth / reynolds + weight * rough_slope + weight_slope * (rough - smooth)
    )
    return factor, slope


@lean
def _pipe(flow: float, p: Floats, rho: float, mu: float) -> tuple[float, float]:
    """Friction and fittings of a run, at a flow of either sign."""
    size = abs(flow)
    length, bore, loss_k = p[LENGTH_M], p[BORE_M], p[LOSS_K]
    area = pi / 4.0 * bore * bore
    if size < 1e-12:
        return 0.0, 32.0 * mu * length * p[ON_FRICTION] / (bore * bore * area)
    speed = size / area
    dynamic = 0.5 * rho * speed * speed
    drop, slope = loss_k * dynamic, loss_k * rho * speed / area
    if length > 0.0:
        reynolds = rho * speed * bore / mu
        factor, by_reynolds = friction(reynolds, p[ROUGHNESS_M] / bore)
        scale = p[ON_FRICTION] * length / bore
        drop += scale * factor * dynamic
        slope += scale * (
            factor * rho * speed / area + by_reynolds * dynamic * rho * bore / mu / area
        )
    return (drop if flow > 0.0 else -drop), slope


@lean
def _square(flow: float, resistance: float) -> tuple[float, float]:
    """Δp = R q², straight close to nothing."""
    size = abs(flow)
    if size < NEAR:
        return resistance * NEAR * flow, resistance * NEAR
    return resistance * size * flow, 2.0 * resistance * size


@lean
def _curve(flow: float, p: Floats, curves: Floats) -> tuple[float, float]:
    """Head of a pump between the points of its curve, carried on past the last."""
    first, count = int(p[FIRST_POINT]), int(p[POINTS])
    last = first + count - 1
    at = first
    while at < last - 1 and flow > curves[0, at + 1]:
        at += 1
    slope = (curves[1, at + 1] - curves[1, at]) / (curves[0, at + 1] - curves[0, at])
    return curves[1, at] + slope * (flow - curves[0, at]), slope


@lean
def drop(
    law: int, flow: float, p: Floats, curves: Floats, rho: float, mu: float, one_way: bool
) -> tuple[float, float]:
    """Pressure a link takes at a volume flow, and its slope; a pump takes less than none.

    References
    ----------
    Darcy–Weisbach with loss coefficients, White, Fluid Mechanics, ch. 6; valves by their flow
    factor, IEC 60534-2-1.
    """
    if one_way and flow < 0.0:
        nothing = 0.0
        if law == PUMP:
            nothing = -min(curves[1, int(p[FIRST_POINT])], p[CAP_PA])
        elif law in (STROKE, SUPPLY):
            nothing = -(p[PUSH_PA] if law == STROKE else p[REST_PA])
        return nothing + SHUT_SLOPE * flow, SHUT_SLOPE
    if law == PIPE:
        taken, slope = _pipe(flow, p, rho, mu)
    elif law == FACTOR:
        taken, slope = _square(flow, p[RESISTANCE])
    elif law == CHECK:
        taken, slope = _square(flow, p[RESISTANCE])
        if flow < CRACK:
            taken += p[OPENS_PA] * flow / CRACK
            slope += p[OPENS_PA] / CRACK
        else:
            taken += p[OPENS_PA]
    elif law == LIMIT:
        taken, slope = _square(flow, p[RESISTANCE])
        if flow > p[MOST]:
            taken += HARD_SLOPE * (flow - p[MOST])
            slope += HARD_SLOPE
    elif law == PUMP:
        head, down = _curve(max(flow, 0.0), p, curves)
        if head > p[CAP_PA]:
            head, down = p[CAP_PA], -10.0 * SLACK
            head += down * flow
        taken, slope = -head, -down
    elif law == ROUND:
        most, head = p[OPEN_M3], p[HEAD_PA]
        ratio = abs(flow) / most
        taken, slope = -head * (1.0 - ratio * flow / most), 2.0 * head * ratio / most
    elif law == STROKE:
        taken, slope = -p[PUSH_PA], 0.0
        if flow > p[STROKE_M3]:
            taken += HARD_SLOPE * (flow - p[STROKE_M3])
            slope = HARD_SLOPE
    else:
        taken, slope = _square(flow, p[RESISTANCE])
        taken -= p[REST_PA]
    return taken + SLACK * flow, slope + SLACK


@lean
def flow_at_head(head: float, p: Floats, curves: Floats) -> float:
    """Flow a pump gives against a head; none at or above its head at no flow.

    References
    ----------
    White, Fluid Mechanics, ch. 11: a curve through printed points, straight between them.
    """
    first, count = int(p[FIRST_POINT]), int(p[POINTS])
    if head >= curves[1, first]:
        return 0.0
    at = first
    while at < first + count - 2 and curves[1, at + 1] > head:
        at += 1
    rise = (curves[0, at + 1] - curves[0, at]) / (curves[1, at + 1] - curves[1, at])
    return float(max(0.0, curves[0, at] + rise * (head - curves[1, at])))


def resistance(flow_factor_si: float) -> float:
    """Turn a flow factor into Δp/q².

    Parameters
    ----------
    flow_factor_si : float
        K of q = K√Δp, > 0. [m³/s/√Pa]

    Returns
    -------
    float
        1/K². [Pa s²/m⁶]

    References
    ----------
    Definition of the flow factor, q = K√Δp, IEC 60534-2-1.
    """
    return 1.0 / flow_factor_si**2


def orifice_factor(bore_m: float, *, discharge: float = 0.6, density: float = 1000.0) -> float:
    """Flow factor of an open bore, such as a drain cock.

    Parameters
    ----------
    bore_m : float
        Its diameter, > 0. [m]
    discharge : float
        Coefficient of discharge; 0.6 is a sharp edge, 0.8 a short tube. [-]
    density : float
        Of the liquid. [kg/m³]

    Returns
    -------
    float
        K of q = K√Δp. [m³/s/√Pa]

    References
    ----------
    White, Fluid Mechanics, ch. 3: q = C_d A √(2Δp/ρ).
    """
    return discharge * pi / 4 * bore_m**2 * sqrt(2.0 / density)
