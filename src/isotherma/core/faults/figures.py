"""What would be read of water and heat on a design, sound or with a fault played."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from math import isfinite, log
from typing import Final

from isotherma.core.bench_sums.base import capacity_j_per_k
from isotherma.core.errors import TargetNotReached
from isotherma.core.faults.altered import Altered
from isotherma.core.faults.electric_figures import electric_figure, element_w
from isotherma.core.faults.player import Asked, Player, Reads
from isotherma.core.faults.plays import SUCTION_LEAST_PA, Play
from isotherma.core.faults.readings import Expected
from isotherma.core.fields import known_or
from isotherma.core.flows.alone import run_on_of
from isotherma.core.flows.bands import read_outlet
from isotherma.core.flows.fittings import held_c
from isotherma.core.flows.leak import pump_starts
from isotherma.core.flows.pulse import Point
from isotherma.core.flows.report import profile, standing_m3
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import gas, heat, primary, waste, water
from isotherma.core.system.nominal import figure, known_figure
from isotherma.core.thermal.estimates import time_to_heat

LITRE, BAR, MINUTE = 1e-3, 1e5, 60.0
L_PER_MIN: Final = LITRE / MINUTE
PRINTED: Final = 0.1  # how far a switch may be off its box's figure
LEAST_LEAK_MIN, MOST_LEAK_MIN = 30.0, 10_080.0  # what a tight system keeps: half an hour to a week
STREAM_K: Final = 2.0
USUAL_SWING_K: Final = 5.0
COMBI_FROM_C: Final = 15.0  # makers time from it
WAIT_MORE: Final = 1.6  # the pipe's wall is warmed too


def _sucks(point: Point) -> float:
    """Give the share of a flow that is left once no pump sucks more than water stands."""
    solved = point.solved
    least = 1.0
    for link in solved.network.pumps.values():
        inlet = float(solved.pressure_pa[solved.network.net.start[link]])
        if isfinite(inlet) and inlet < SUCTION_LEAST_PA:
            least = min(least, float((SUCTION_LEAST_PA / inlet) ** 0.5))
    return least


def _flow(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    outlet = player.opened(asked.part)
    if outlet is None:
        return None
    point, band = player.point(play, outlet), player.band(outlet)
    if point is None or band is None:
        return None
    flow, pressure = read_outlet(point, outlet)
    share = _sucks(point)
    network = point.solved.network
    pump = network.pumps.get(asked.part or "")
    if asked.kind == "flow":
        if pump is not None:
            flow = abs(float(point.solved.flow_m3_per_s[pump]))
        likely, rows, unit = flow * share, band.flow, L_PER_MIN
    else:
        if pump is not None:
            pressure = float(point.solved.pressure_pa[network.net.end[pump]])
        elif asked.part is not None and asked.part != outlet:
            if (asked.part, "outlet") not in network.node:
                return None
            pressure = point.solved.port_pa(asked.part, "outlet")
        if not isfinite(pressure):
            pressure = 0.0
        likely, rows, unit = max(0.0, pressure) * share**2, band.pressure, BAR
    low, high = (rows[0] / rows[1], rows[2] / rows[1]) if rows[1] > 0.0 else (1.0, 1.0)
    return Expected(likely * low / unit, likely / unit, likely * high / unit)


def _printed(pa: float | None) -> Expected | None:
    if pa is None:
        return None
    return Expected((1 - PRINTED) * pa / BAR, pa / BAR, (1 + PRINTED) * pa / BAR)


def _switch(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    part = player.part(made, asked.part)
    if not isinstance(part, water.Pump):
        return None
    if asked.kind == "cut_in":
        return _printed(part.cut_in_pa)
    stops = part.cut_out_pa if part.control == "switch" else part.shut_pressure_pa
    stands = made.stood.get(part.id)
    return Expected(0.0, 0.0, 0.0) if stands == "off" else _printed(stops)


def _precharge(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    part = player.part(made, asked.part)
    pa = None if part is None else known_figure(part, "precharge_pa")
    return None if pa is None else Expected(0.85 * pa / BAR, pa / BAR, 1.15 * pa / BAR)


def _run_on(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    if asked.part is None or asked.part not in made.network.pumps:
        return None
    took = run_on_of(made.network, asked.part)
    return None if took is None else Expected(0.8 * took, took, 1.25 * took)


def _kicks(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    if made.leak_l_per_h is None:
        return Expected(LEAST_LEAK_MIN, None, MOST_LEAK_MIN)
    for starts in pump_starts(player.case.system, made.network):
        if starts.pump == asked.part:
            band = starts.interval(made.leak_l_per_h * LITRE / 3600.0)
            return Expected(band.low / MINUTE, band.likely / MINUTE, band.high / MINUTE)
    return None


def _warmth(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    part = player.part(made, asked.part)
    if part is None:
        return None
    if isinstance(part, heat.Store | heat.Combi | heat.Canister | heat.SunContainer):
        return _held(player, made, part)
    if isinstance(part, water.FreshTank | water.LooseContainer):
        at_c = made.network.conditions.at_c.get(part.id, made.network.conditions.fresh_c)
        return Expected(at_c - 3.0, at_c, at_c + 3.0)
    if isinstance(part, heat.EngineCoolant):
        hot_c = known_figure(part, "coolant_c")
        return None if hot_c is None else Expected(hot_c - 8.0, hot_c, hot_c + 5.0)
    outlet = player.opened(part.id)
    point = None if outlet is None else player.point(play, outlet)
    if outlet is None or point is None:
        return None
    solved, network = point.solved, point.solved.network
    rows = [network.ends[part.id]] if part.id in network.ends else network.part_links.get(part.id)
    if not rows:
        return None
    if abs(float(solved.flow_m3_per_s[rows[0]])) < 1e-8:
        return Expected(5.0, None, 25.0)  # nothing comes; what drips is as warm as the room
    out_c = float(solved.out_c[rows[0]])
    return Expected(out_c - STREAM_K, out_c, out_c + STREAM_K)


def _held(player: Player, made: Altered, part: AnyKind) -> Expected:
    """A store's warmth while it is kept hot; cold once nothing heats it."""
    inside = tuple(one for one in made.known.parts if one.fitted_in == part.id)
    stood = made.stood
    sources = [one for one in (*inside, part) if isinstance(
        one, heat.Element | heat.Burner | heat.Combi | heat.Coil)]  # fmt: skip
    coiled = _primary_runs(made, stood)
    heated = [
        one
        for one in sources
        if (coiled if isinstance(one, heat.Coil) else stood.get(one.id) != "off")
    ]
    conditions = made.network.conditions
    if sources and not heated:
        cold = conditions.fresh_c
        return Expected(cold - 2.0, None, max(cold, player.air(part)) + 5.0)
    others = {key: celsius for key, celsius in conditions.at_c.items() if key != part.id}
    at_c = held_c(part, inside, replace(conditions, at_c=others))
    swings = [known_figure(one, "hysteresis_k") for one in inside]
    swing = max((one for one in swings if one is not None), default=USUAL_SWING_K)
    return Expected(at_c - swing - 3.0, at_c - 0.5 * swing, at_c + 3.0)


def _primary_runs(made: Altered, stood: Mapping[str, str]) -> bool:
    """Say whether coolant is warmed and moved: no pump of its circuit off, one heater on."""
    pumps = [one for one in made.known.parts if isinstance(one, primary.CirculationPump)]
    if any(stood.get(one.id) == "off" for one in pumps):
        return False
    warm = [one for one in made.known.parts
            if isinstance(one, heat.LiquidHeater | heat.EngineCoolant)]  # fmt: skip
    return any(stood.get(one.id) != "off" for one in warm) or not warm


def _wait(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    outlet = player.opened(asked.part)
    point = None if outlet is None else player.point(play, outlet)
    if outlet is None or point is None:
        return None
    flow, _ = read_outlet(point, outlet)
    if flow < 1e-7:
        return None
    hot = [part.id for part in made.known.parts if isinstance(part, heat.HeatPart)]
    network = point.solved.network
    still = standing_m3(network, profile(point.solved, outlet), hot) / flow
    return Expected(still, 0.5 * (1.0 + WAIT_MORE) * still, WAIT_MORE * still)


def _timed(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    """Minutes from one temperature to another: heated, or left alone."""
    part = player.part(made, asked.part)
    if not isinstance(part, heat.Store | heat.Combi | heat.Canister):
        return None
    volume, loss = known_figure(part, "volume_m3"), known_figure(part, "loss_w_per_k")
    if not volume or not loss:
        return None
    air_c, fresh_c = player.air(part), made.network.conditions.fresh_c
    heats = asked.kind == "heat_up"
    at_c = held_c(part, tuple(one for one in made.known.parts if one.fitted_in == part.id),
                  made.network.conditions)  # fmt: skip
    from_c = asked.from_c if asked.from_c is not None else fresh_c if heats else at_c
    to_c = asked.to_c if asked.to_c is not None else at_c if heats else at_c - 0.3 * (at_c - air_c)
    body = figure(part, "body_j_per_k")
    capacity = capacity_j_per_k(volume, min(from_c, to_c), max(from_c, to_c)) + body
    if not heats:
        if not from_c > to_c > air_c:
            return None
        took = capacity / loss * log((from_c - air_c) / (to_c - air_c)) / MINUTE
        spread = _spread(player, part.id, "loss_w_per_k")
        return Expected(took / spread[1], took, took / spread[0])
    watts = _heats_w(made, part, 0.5 * (from_c + to_c))
    try:
        took = time_to_heat(capacity_j_per_k=capacity, power_w=watts, start_c=from_c,
                            target_c=to_c, loss_w_per_k=loss, ambient_c=air_c) / MINUTE  # fmt: skip
    except TargetNotReached:
        return Expected(1_440.0, None, MOST_LEAK_MIN)
    return Expected(0.9 * took, took, 1.15 * took)


def _spread(player: Player, part_id: str, name: str) -> tuple[float, float]:
    """Give how far a figure may lie off, low and high, over what is likely."""
    for one in player.known.figures(part_id):
        if one.name == name and one.low and one.likely and one.high:
            low, high = one.low / one.likely, one.high / one.likely
            return min(low, 0.9), max(high, 1.1)
    return 0.9, 1.1


def _coil_w(made: Altered, coil: heat.Coil, water_c: float) -> float:
    """Give what a coil brings into water half way to hot: no more than what warms its coolant."""
    conductance, best = known_figure(coil, "conductance_w_per_k"), 0.0
    if conductance is None:
        return 0.0
    for one in made.known.parts:
        if isinstance(one, heat.LiquidHeater) and one.heat_w is not None:
            best = max(best, min(one.heat_w, conductance * (one.set_c - water_c)))
        elif isinstance(one, heat.EngineCoolant) and one.coolant_c is not None:
            spared, given = known_figure(one, "heat_w"), conductance * (one.coolant_c - water_c)
            best = max(best, given if spared is None else min(spared, given))
    return max(0.0, best)


def _heats_w(made: Altered, part: AnyKind, middle_c: float) -> float:
    """Add up what heats a store: elements at the volts they get, burners, coils, its own."""
    stood = made.stood
    total = 0.0
    for one in made.known.parts:
        if one.fitted_in != part.id or stood.get(one.id) == "off":
            continue
        if isinstance(one, heat.Element):
            total += element_w(made, one, stood)
        elif isinstance(one, heat.Burner) and one.input_w is not None:
            total += one.input_w * figure(one, "efficiency")
        elif isinstance(one, heat.Coil) and _primary_runs(made, stood):
            total += _coil_w(made, one, middle_c)
    if not isinstance(part, heat.Combi) or stood.get(part.id) == "off":
        return total
    from_c = COMBI_FROM_C if part.from_c is None else part.from_c
    to_c = known_or(part.to_c, part.set_c)
    if part.volume_m3 and part.heats_in_s and to_c > from_c:
        total += capacity_j_per_k(part.volume_m3, from_c, to_c) * (to_c - from_c) / part.heats_in_s
    return total


def _stored(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    """What is in a vessel, a bottle or a battery: anything between a tenth and full."""
    part = player.part(made, asked.part)
    if asked.kind == "level":
        return Expected(0.0, None, 100.0)
    if asked.kind == "bottle_kg":
        if not isinstance(part, gas.GasBottle) or not part.gas_kg or part.empty_kg is None:
            return None
        share = part.fill_share
        if play:
            return Expected(part.empty_kg, None, part.empty_kg + max(share, 0.06) * part.gas_kg)
        return Expected(part.empty_kg + 0.06 * part.gas_kg, None, part.empty_kg + part.gas_kg)
    if asked.kind == "wh_to_empty":
        for one in player.known.figures(asked.part or ""):
            if one.name == "usable_j" and one.likely:
                low, high = one.low or one.likely, one.high or one.likely
                return Expected(low / 3600.0, one.likely / 3600.0, high / 3600.0)
        return None
    volume = None
    if isinstance(part, water.Vessel | waste.GreyTank | heat.FuelTank):
        volume = part.volume_m3
    return None if not volume else Expected(0.1 * volume / LITRE, None, volume / LITRE)


def _gas(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    regulators = [one for one in made.known.parts if isinstance(one, gas.Regulator)]
    if not regulators or regulators[0].set_pa is None:
        return None
    mbar = regulators[0].set_pa / 100.0
    return Expected(0.93 * mbar, mbar, 1.07 * mbar)


READS: Final[dict[str, Reads]] = {
    "flow": _flow, "pressure": _flow, "cut_in": _switch, "cut_out": _switch,
    "shut_pressure": _switch, "precharge": _precharge, "run_on": _run_on, "kick_every": _kicks,
    "volts": electric_figure, "amps": electric_figure, "temp": _warmth, "wait": _wait,
    "heat_up": _timed, "cool_down": _timed, "level": _stored, "litres": _stored,
    "bottle_kg": _stored, "wh_to_empty": _stored, "gas_pressure": _gas,
}  # fmt: skip
