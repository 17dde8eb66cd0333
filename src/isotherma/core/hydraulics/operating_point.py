"""The steady flow of the route: where the pump's curve meets what the pipes ask."""

from __future__ import annotations

from dataclasses import dataclass

from scipy.optimize import brentq

from isotherma.core import water
from isotherma.core.hydraulics.friction import ROUGHNESS_M, run_drop_pa
from isotherma.core.system import Run
from isotherma.core.system.parts import Accumulator, CheckValve, Pump, ShutOff, Strainer
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
        case Run():
            return run_drop_pa(
                flow_m3_per_s=flow_m3_per_s,
                bore_m=step.bore_m,
                length_m=step.length_m,
                loss_k=step.loss_k,
                celsius=celsius,
                roughness_m=ROUGHNESS_M[step.material],
            )
        case ShutOff():
            return run_drop_pa(
                flow_m3_per_s=flow_m3_per_s,
                bore_m=bore_m,
                length_m=1e-6,
                loss_k=step.loss_k,
                celsius=celsius,
            )
        case Strainer():
            return (flow_m3_per_s / step.flow_factor_si) ** 2
        case CheckValve():
            return step.opening_pa + (flow_m3_per_s / step.flow_factor_si) ** 2
        case Accumulator() | Pump():
            return 0.0


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
    runs = [step for steps, _, _ in stretches for step in steps if isinstance(step, Run)]
    rise_pa = density * GRAVITY_M_PER_S2 * sum(run.rise_m for run in runs)
    split_bore_m = next(step.bore_m for step in reversed(route.feed) if isinstance(step, Run))

    def losses(flow: float) -> list[Loss]:
        found: list[Loss] = []
        for steps, carried, celsius in stretches:
            bore_m = split_bore_m
            for step in steps:
                bore_m = step.bore_m if isinstance(step, Run) else bore_m
                label = (step.name or step.id) if isinstance(step, Run) else step.label
                drop = _loss_pa(step, flow * carried, bore_m, celsius)
                found.append(Loss(step.id, label, drop))
            if steps is route.feed:
                drop = run_drop_pa(
                    flow_m3_per_s=flow,
                    bore_m=split_bore_m,
                    length_m=1e-6,
                    loss_k=route.split.loss_k,
                    celsius=cold_c,
                )
                found.append(Loss(route.split.id, route.split.label, drop))
        mixer_pa = (flow / route.mixer.flow_factor_si) ** 2
        head_pa = (flow / route.head.flow_factor_si) ** 2
        found.append(Loss(route.mixer.id, route.mixer.label, mixer_pa))
        found.append(Loss(route.head.id, route.head.label, head_pa))
        return found

    pump = route.pump

    def curve(flow: float) -> float:
        return pump.shut_pressure_pa * (1 - flow / pump.open_flow_m3_per_s)

    def solve(pressure_at: float | None) -> float:
        def surplus(flow: float) -> float:
            given = curve(flow) if pressure_at is None else pressure_at
            return given - rise_pa - sum(loss.drop_pa for loss in losses(flow))

        if surplus(0.0) <= 0.0:
            return 0.0
        high = pump.open_flow_m3_per_s
        if surplus(high) > 0.0:  # the water runs down by itself; the pump sets no more than this
            return high
        return float(brentq(surplus, 0.0, high, xtol=1e-12, rtol=1e-10))

    flow = solve(None)
    pulsing = flow > 0.0 and curve(flow) > pump.cut_out_pa
    if pulsing:
        flow = min(flow, solve((pump.cut_in_pa + pump.cut_out_pa) / 2))
    pump_pa = (pump.cut_in_pa + pump.cut_out_pa) / 2 if pulsing else curve(flow)
    return OperatingPoint(
        flow_m3_per_s=flow,
        pump_pa=pump_pa,
        head_pa=(flow / route.head.flow_factor_si) ** 2,
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
    pump = route.pump
    pressure = pump.shut_pressure_pa * (1 - flow_m3_per_s / pump.open_flow_m3_per_s)
    return pressure > pump.cut_out_pa
