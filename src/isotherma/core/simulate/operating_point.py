"""The steady flow of the route: where the pump's curve meets what the pipes ask."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf

import numpy as np
from scipy.optimize import brentq

from isotherma.core import water
from isotherma.core.hydraulics.friction import ROUGHNESS_M, run_drop_pa
from isotherma.core.system import Pipe
from isotherma.core.system.kinds.water import (
    Accumulator,
    CheckValve,
    Pump,
    Selector,
    ShutOff,
    Split,
)
from isotherma.core.system.route import Route, Step

GRAVITY_M_PER_S2 = 9.80665


@dataclass(frozen=True, slots=True)
class Loss:
    """What one part or run takes of the pressure at the operating flow."""

    item_id: str
    label: str
    drop_pa: float


@dataclass(frozen=True, slots=True)
class OperatingPoint:
    """Flow at the head with everything open, and what sets it."""

    flow_m3_per_s: float
    pump_pa: float
    head_pa: float
    rise_pa: float
    hot_share: float
    pulsing: bool
    losses: tuple[Loss, ...]


def _loss_pa(step: Step, flow_m3_per_s: float, bore_m: float, celsius: float) -> float:
    """Pressure one step takes at a flow; a shut-off counts on the bore before it."""
    match step:
        case Pipe():
            assert step.bore_m is not None and step.length_m is not None
            return run_drop_pa(
                flow_m3_per_s=flow_m3_per_s,
                bore_m=step.bore_m,
                length_m=step.length_m,
                loss_k=step.loss_k or 0.0,
                celsius=celsius,
                roughness_m=ROUGHNESS_M[step.material],
            )
        case ShutOff() | Split() | Selector():
            return run_drop_pa(
                flow_m3_per_s=flow_m3_per_s,
                bore_m=bore_m,
                length_m=1e-6,
                loss_k=step.loss_k or 0.0,
                celsius=celsius,
            )
        case CheckValve():
            return (step.opening_pa or 0.0) + _by_factor(step.flow_factor_si, flow_m3_per_s)
        case Accumulator() | Pump():
            return 0.0
        case _:
            return _by_factor(step.flow_factor_si, flow_m3_per_s)


def _by_factor(flow_factor_si: float | None, flow_m3_per_s: float) -> float:
    """Loss by q = K√Δp; a part whose factor nobody knows takes nothing."""
    return 0.0 if flow_factor_si is None else (flow_m3_per_s / flow_factor_si) ** 2


def operating_point(route: Route, *, cold_c: float, hot_c: float) -> OperatingPoint:
    """Solve the flow of the route with the mixer at its setting.

    Parameters
    ----------
    route : Route
        The recognised shape. [-]
    cold_c, hot_c : float
        Temperatures of the fresh water and of the store. [°C]

    Returns
    -------
    OperatingPoint
        Flow, pressures (gauge) and the list of losses; flow 0.0 when the pump cannot
        lift the water to the head. [m³/s, Pa]

    Notes
    -----
    pump(q) = Σ losses(q) + ρ g Σ rise. The hot branch carries its share of the flow and
    decides, since the valve opens it widest; mixer and head follow q = K√Δp. Where the
    curve meets the pipes above the switch-off pressure the pump pulses, and the mean of
    its two switch pressures drives the flow instead.
    """
    mixer_c = min(route.mixer.set_c, hot_c)
    share = (mixer_c - cold_c) / (hot_c - cold_c) if hot_c > cold_c + 0.1 else 0.97
    share = min(0.97, max(0.03, share))
    stretches = (
        (route.feed, 1.0, cold_c),
        (route.to_store, share, cold_c),
        (route.hot, share, hot_c),
        (route.mixed, 1.0, mixer_c),
    )
    density = water.density_kg_per_m3(mixer_c)
    runs = [step for steps, _, _ in stretches for step in steps if isinstance(step, Pipe)]
    rise_pa = density * GRAVITY_M_PER_S2 * sum(run.rise_m for run in runs)
    split_bore_m = next(
        step.bore_m for step in reversed(route.feed) if isinstance(step, Pipe) and step.bore_m
    )

    def losses(flow: float) -> list[Loss]:
        found: list[Loss] = []
        for steps, carried, celsius in stretches:
            bore_m = split_bore_m
            for step in steps:
                bore_m = step.bore_m or bore_m if isinstance(step, Pipe) else bore_m
                label = step.label
                drop = _loss_pa(step, flow * carried, bore_m, celsius)
                found.append(Loss(step.id, label, drop))
            if steps is route.feed:
                drop = run_drop_pa(
                    flow_m3_per_s=flow,
                    bore_m=split_bore_m,
                    length_m=1e-6,
                    loss_k=route.split.loss_k or 0.0,
                    celsius=cold_c,
                )
                found.append(Loss(route.split.id, route.split.label, drop))
        mixer_pa = _by_factor(route.mixer.flow_factor_si, flow)
        head_pa = _by_factor(route.head.flow_factor_si, flow)
        found.append(Loss(route.mixer.id, route.mixer.label, mixer_pa))
        found.append(Loss(route.head.id, route.head.label, head_pa))
        return found

    pump = route.pump
    high = pump.open_flow_m3_per_s
    assert high is not None
    cut_in_pa, cut_out_pa = _switching_pa(pump)

    def curve(flow: float) -> float:
        return curve_pa(pump, flow)

    def solve(pressure_at: float | None) -> float:
        def surplus(flow: float) -> float:
            given = curve(flow) if pressure_at is None else pressure_at
            return given - rise_pa - sum(loss.drop_pa for loss in losses(flow))

        if surplus(0.0) <= 0.0:
            return 0.0
        if surplus(high) > 0.0:  # the water runs down by itself; the pump sets no more than this
            return high
        return float(brentq(surplus, 0.0, high, xtol=1e-12, rtol=1e-10))

    flow = solve(None)
    pulsing = flow > 0.0 and curve(flow) > cut_out_pa
    if pulsing:
        flow = min(flow, solve((cut_in_pa + cut_out_pa) / 2))
    pump_pa = (cut_in_pa + cut_out_pa) / 2 if pulsing else curve(flow)
    return OperatingPoint(
        flow_m3_per_s=flow,
        pump_pa=pump_pa,
        head_pa=_by_factor(route.head.flow_factor_si, flow),
        rise_pa=rise_pa,
        hot_share=share,
        pulsing=pulsing,
        losses=tuple(losses(flow)),
    )


def pulses_when_throttled(route: Route, flow_m3_per_s: float) -> bool:
    """Say whether the pump would switch on and off at a flow held back at the head.

    Parameters
    ----------
    route : Route
        The recognised shape. [-]
    flow_m3_per_s : float
        The throttled flow. [m³/s]

    Returns
    -------
    bool
        True when the pump's curve at this flow lies above its switch-off pressure. [-]
    """
    return curve_pa(route.pump, flow_m3_per_s) > _switching_pa(route.pump)[1]


def curve_pa(pump: Pump, flow_m3_per_s: float) -> float:
    """Pressure a pump gives at a flow.

    Parameters
    ----------
    pump : Pump
        With open flow and pressure at no flow, or points. [-]
    flow_m3_per_s : float
        Flow, >= 0. [m³/s]

    Returns
    -------
    float
        Gauge pressure; below 0 past its open flow. [Pa]

    Notes
    -----
    Straight between the points given, else between open flow and no flow.
    """
    open_flow, shut_pa = pump.open_flow_m3_per_s, pump.shut_pressure_pa
    assert open_flow is not None and shut_pa is not None
    points = sorted((q, p) for p, q in pump.points or ())
    if len(points) < 2 or flow_m3_per_s >= open_flow:
        return shut_pa * (1 - flow_m3_per_s / open_flow)
    flows = [0.0, *(q for q, _ in points if q > 0)]
    heads = [shut_pa, *(p for q, p in points if q > 0)]
    return float(np.interp(flow_m3_per_s, flows, heads))


def _switching_pa(pump: Pump) -> tuple[float, float]:
    """Switch pressures; a pump held at constant pressure, or by the tap, never cycles."""
    if pump.control != "switch" or pump.cut_in_pa is None or pump.cut_out_pa is None:
        return inf, inf
    return pump.cut_in_pa, pump.cut_out_pa
