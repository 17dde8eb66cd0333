"""Bench sums of flow, heat, electricity and gas, and their inverses."""

from __future__ import annotations

from math import inf, isfinite, log, pi, sqrt
from typing import Final

from isotherma.core import water
from isotherma.core.bench_sums.base import (
    AIR,
    BAR,
    COLD,
    FLOW,
    HOT,
    LITRE,
    LOSS,
    MAINS,
    VOLUME,
    WANT,
    WIRED,
    Answer,
    Asks,
    Figure,
    Put,
    Sum,
    Values,
    capacity_j_per_k,
    hot_after_s,
    need,
)  # fmt: skip
from isotherma.core.errors import CannotBe
from isotherma.core.hydraulics.friction import run_drop_pa, velocity_m_per_s
from isotherma.core.hydraulics.pulsing import accumulator_water_m3, leak_m3_per_s
from isotherma.core.supply.bottle import ATMOSPHERE_PA, Bottle, hold, sustained_kg_per_s
from isotherma.core.supply.copper import BEARS, LOST_AT_MOST, cable_bears_a
from isotherma.core.supply.feeds import LOW_VOLTS
from isotherma.core.supply.gas_pipe import longest_pipe_m
from isotherma.core.supply.panel import Curve, best_point, matching_ohm, on_element
from isotherma.core.system.kinds.gas import LEAST_OVER_PA
from isotherma.core.system.runs import COPPER_OHM_M
from isotherma.core.thermal.estimates import rise_k

VALVE_K: Final = 10.0
SLACK_M3_PER_PA: Final = 1e-5 / 1e5  # 10 mL/bar of tubes without an accumulator
NET_J_PER_KG: Final = 46.34e6  # propane
LEAST_BURNT_W: Final = 1.0  # under them a pipe takes nothing that could be told
LEAST_BORE_M: Final = 1e-4
REGULATED: Final = ATMOSPHERE_PA + 3e3 + LEAST_OVER_PA  # what a regulator of 30 mbar needs


def _heat_up(v: Values) -> Answer:
    seconds = hot_after_s(v)
    return Answer((
        Figure("takes", seconds, "minutes"), Figure("energy", v["power"] * seconds, "energy"),
    ))  # fmt: skip


def _heated(v: Values) -> Answer:
    need(v["volume"], 0.0, "no_volume")
    need(v["time"], 0.0, "no_time")
    need(v["to"], v["from"], "got_warmer")
    mean = 0.5 * (v["from"] + v["to"]) - v["air"]
    power = capacity_j_per_k(v["volume"], v["from"], v["to"]) * (v["to"] - v["from"]) / v["time"]
    power += v["loss"] * mean
    need(power, 0.0, "no_heat_given")
    return Answer(
        (Figure("the element is", power, "power"),),
        "vessel_takes_some",
        Put("element", "power_w", power, "power"),
    )


def _litres(v: Values) -> Answer:
    need(v["volume"], 0.0, "no_volume")
    need(v["want"], v["cold"], "wanted_above_cold")
    need(v["hot"], v["want"], "store_above_wanted")
    span = v["want"] - v["cold"]
    # by mass: the store was filled cold, and what is drawn is measured as warm as it is wanted
    held = v["volume"] * water.density_kg_per_m3(v["cold"]) / water.density_kg_per_m3(v["want"])
    most = held * (v["hot"] - v["cold"]) / span
    least = held * max(0.0, v["hot"] - v["want"] - VALVE_K) / span
    rate = v["flow"] if v["flow"] > 0 else inf
    figures = [
        Figure("likely, in layers", 0.5 * (least + most) + 0.2 * (most - least), "volume"),
        Figure("at least, all mixed", least, "volume"), Figure("at most", most, "volume"),
    ]  # fmt: skip
    if isfinite(rate):
        figures.append(Figure("likely lasts", figures[0].value / rate, "minutes"))
    return Answer(tuple(figures), "without_reheating")


def _rise(v: Values) -> Answer:
    need(v["flow"], 0.0, "no_flow")
    rise = rise_k(v["power"], v["flow"], v["cold"])
    return Answer((
        Figure("warmer by", rise, "difference"),
        Figure("comes out at", min(100.0, v["cold"] + rise), "temperature"),
    ))  # fmt: skip


def _power(v: Values) -> Answer:
    need(v["flow"], 0.0, "no_flow")
    need(v["want"], v["cold"], "wanted_above_cold")
    rate = v["flow"] * water.density_kg_per_m3(v["cold"])
    rate *= water.mean_specific_heat_j_per_kg_k(v["cold"], v["want"])
    power = rate * (v["want"] - v["cold"])
    return Answer(
        (Figure("takes", power, "heat_power"),),
        put=Put("through_flow_gas", "heat_w", power, "heat_power"),
    )


def _element(v: Values) -> Answer:
    for key, words in (("watts", "watts"), ("volts", "volts on the label"), ("area", "cable")):
        need(v[key], 0.0, "nothing_given", what=words)
    ohm = v["volts"] ** 2 / v["watts"]
    cable = 2.0 * v["length"] * COPPER_OHM_M / v["area"]
    amps = v["supply"] / (ohm + cable)
    return Answer(
        (
            Figure("heats with", amps * amps * ohm, "power"), Figure("draws", amps, "current"),
            Figure("gets", amps * ohm, "voltage"),
            Figure("lost in the cable", amps * amps * cable, "power"),
            Figure("its resistance", ohm, "resistance"),
        ),
        "cable_carries",
        Put("element", "power_w", amps * amps * ohm, "power"),
    )  # fmt: skip


def _measured(v: Values) -> Answer:
    need(v["amps"], 0.0, "no_current")
    ohm = v["supply"] / v["amps"]
    return Answer(
        (
            Figure("it is", v["supply"] * v["amps"], "power"),
            Figure("resistance", ohm, "resistance"),
        ),
        "volts_at_element",
        Put("element", "power_w", v["supply"] * v["amps"], "power"),
    )


def _pipe(v: Values) -> Answer:
    for key in ("bore", "length", "flow"):
        need(v[key], 0.0, "nothing_given", what=key)
    volume = pi / 4 * v["bore"] ** 2 * v["length"]
    drop = run_drop_pa(
        flow_m3_per_s=v["flow"], bore_m=v["bore"], length_m=v["length"], loss_k=0.0, celsius=30.0
    )
    return Answer((
        Figure("holds", volume, "volume"), Figure("passes in", volume / v["flow"], "seconds"),
        Figure("speed", velocity_m_per_s(flow_m3_per_s=v["flow"], bore_m=v["bore"]), "speed"),
        Figure("takes", drop, "pressure"),
    ), "wall_takes_first")  # fmt: skip


def _bucket(v: Values) -> Answer:
    need(v["volume"], 0.0, "no_volume")
    need(v["time"], 0.0, "no_time")
    flow = v["volume"] / v["time"]
    figures = [Figure("runs at", flow, "flow")]
    put = None
    if v["pressure"] > 0.0:
        factor = flow / sqrt(v["pressure"])
        figures += [
            Figure("flow factor", factor, "flow_factor"),
            Figure("at twice the pressure", factor * sqrt(2 * v["pressure"]), "flow"),
        ]
        put = Put("shower_head", "flow_factor_si", factor, "flow_factor")
    return Answer(tuple(figures), put=put)


def _pump_starts(v: Values) -> Answer:
    need(v["off"], v["on"], "stop_above_start")
    need(v["every"], 0.0, "no_time")
    kept = (v["off"] - v["on"]) * SLACK_M3_PER_PA
    if v["volume"] > 0.0:
        kept += accumulator_water_m3(
            volume_m3=v["volume"], precharge_pa=v["pre"], low_pa=v["on"], high_pa=v["off"],
            exponent=1.0,
        )  # fmt: skip
    leak = leak_m3_per_s(kept_m3=kept, interval_s=v["every"])
    return Answer((
        Figure("leaks in a day", leak * 86400.0, "volume"),
        Figure("each start is", kept, "millilitres"),
    ), "hot_store_kicks")  # fmt: skip


def _bottle(v: Values) -> Answer:
    need(v["gas"], 0.0, "no_gas")
    need(v["power"], 0.0, "no_power")
    load = v["power"] / NET_J_PER_KG
    ua = 1.2 * (v["gas"] / 2.0) ** 0.5
    start = Bottle(v["gas"], v["gas"], ua, 1.1 * v["gas"], {"propane": 1.0}, v["air"])
    held = hold(
        start, kg_per_s=load, air_c=v["air"], limit_pa=REGULATED, at_most_s=4 * 86400.0, step_s=20.0
    )
    lasts = sustained_kg_per_s(start, air_c=v["air"], limit_pa=REGULATED)
    figures = [Figure("burns", load, "mass_flow"),
               Figure("would be empty after", v["gas"] / load, "hours")]  # fmt: skip
    remark = "carries_until_empty"
    if held.held_s is not None and held.ended == "too cold":
        figures.insert(0, Figure("too cold after", held.held_s, "minutes"))
        remark = "bottle_cools"
    figures.append(Figure("gives without end", lasts, "mass_flow"))
    return Answer(tuple(figures), remark)


def _panel(v: Values) -> Answer:
    for key, words in (("short", "short-circuit current"), ("ohm", "resistance")):
        need(v[key], 0.0, "nothing_given", what=words)
    need(v["short"], v["best_a"], "short_above_best")
    need(v["open"], v["best_v"], "open_above_best")
    need(v["best_a"], 0.0, "no_best_current")
    need(v["best_v"], 0.0, "no_best_voltage")
    need(v["sun"], 0.0, "no_sun")
    curve = Curve(v["short"], v["open"], v["best_a"], v["best_v"])
    watts, volts = on_element(curve, v["ohm"], v["sun"])
    best, _ = best_point(curve, v["sun"])
    need(best, 0.0, "no_best_voltage")
    return Answer(
        (
            Figure("heats with", watts, "power"), Figure("of what it could", watts / best, "share"),
            Figure("at", volts, "voltage"),
            Figure("would match", matching_ohm(curve, v["sun"]), "resistance"),
        ),
        "direct_current_contacts",
    )  # fmt: skip


def _cooled(v: Values) -> Answer:
    need(v["volume"], 0.0, "no_volume")
    need(v["time"], 0.0, "no_time")
    need(v["to"], v["air"], "colder_than_air")
    need(v["from"], v["to"], "was_warmer")
    capacity = capacity_j_per_k(v["volume"], v["to"], v["from"])
    loss = capacity / v["time"] * log((v["from"] - v["air"]) / (v["to"] - v["air"]))
    return Answer(
        (Figure("loses", loss, "loss"),
         Figure("in a day, kept hot", loss * (v["from"] - v["air"]) * 86400.0, "energy")),
        put=Put("store", "loss_w_per_k", loss, "loss"),
    )  # fmt: skip


def _mix(v: Values) -> Answer:
    need(v["hot"], v["cold"], "hot_above_cold")
    need(v["hot"], v["want"], "hot_above_wanted", above=False)
    need(v["want"], v["cold"], "wanted_above_cold", above=False)
    share = (v["want"] - v["cold"]) / (v["hot"] - v["cold"])
    mass = v["flow"] * water.density_kg_per_m3(v["want"])
    hot = share * mass / water.density_kg_per_m3(v["hot"])
    cold = (1 - share) * mass / water.density_kg_per_m3(v["cold"])
    return Answer((
        Figure("hot", share, "share"), Figure("that is", hot, "flow"),
        Figure("and cold", cold, "flow"),
    ), "by_mass")  # fmt: skip


def _most_watts(v: Values) -> Answer:
    need(v["volts"], 0.0, "nothing_given", what="voltage")
    need(v["area"], 0.0, "nothing_given", what="copper area")
    need(v["fuse"], 0.0, "nothing_given", what="fuse")
    ohm = COPPER_OHM_M * 2.0 * v["length"] / v["area"]
    bears = cable_bears_a(v["area"], mains=v["volts"] > LOW_VOLTS)
    by_drop = LOST_AT_MOST * v["volts"] / ohm if ohm > 0.0 else inf
    amps = min(v["fuse"], bears, by_drop)
    return Answer(
        (
            Figure("at most", amps * (v["volts"] - amps * ohm), "power"),
            Figure("that is", amps, "current"), Figure("the cable bears", bears, "current"),
            Figure("lost on the way", amps * ohm, "voltage"),
        ),
        "cable_carries" if v["fuse"] <= bears else "fuse_above_cable",
    )  # fmt: skip


def _thinnest(v: Values) -> Answer:
    need(v["volts"], 0.0, "nothing_given", what="voltage")
    need(v["watts"], 0.0, "no_power")
    amps, mains = v["watts"] / v["volts"], v["volts"] > LOW_VOLTS
    needs = max(amps, v["fuse"])

    def lost(area: float) -> float:
        return COPPER_OHM_M * 2.0 * v["length"] / area * amps

    found = next(
        (area for area, _ in BEARS if cable_bears_a(area, mains=mains) >= needs
         and lost(area) <= LOST_AT_MOST * v["volts"]), None
    )  # fmt: skip
    if found is None:
        raise CannotBe(reason="no_cable_does")
    return Answer(
        (
            Figure("thinnest", found, "cable_area"), Figure("takes", amps, "current"),
            Figure("it bears", cable_bears_a(found, mains=mains), "current"),
            Figure("lost on the way", lost(found), "voltage"),
        ),
    )  # fmt: skip


def _longest_gas(v: Values) -> Answer:
    need(v["watts"], LEAST_BURNT_W, "too_little", what="what it burns")
    need(v["bore"], LEAST_BORE_M, "too_little", what="the bore")
    rate = v["watts"] / NET_J_PER_KG
    longest = longest_pipe_m(kg_per_s=rate, bore_m=v["bore"], drop_pa=v["drop"])
    return Answer((
        Figure("at most", longest, "length"), Figure("burns", rate, "mass_flow"),
    ))  # fmt: skip


FLOWING_AND_HEATING: Final[tuple[Sum, ...]] = (
    Sum("heat-up", "How long until it is hot?",
        (VOLUME, Asks("from", "From", "temperature", 10.0),
         Asks("to", "To", "temperature", 60.0), Asks("power", "Heat", "power", 800.0), LOSS,
         AIR), _heat_up, "t = −(C/U) ln(1 − U (T₁ − T₀)/(P − U (T₀ − Tₐ)))",
        "Incropera et al., ch. 5; one temperature throughout.", MAINS),
    Sum("heated", "It took this long: what is the element?",
        (VOLUME, Asks("from", "From", "temperature", 10.0),
         Asks("to", "To", "temperature", 60.0), Asks("time", "Took", "minutes", 3000.0), LOSS,
         AIR), _heated, "P = C (T₁ − T₀)/t + U (T̄ − Tₐ)", "Energy balance.", MAINS),
    Sum("litres", "How many warm litres are in a store?",
        (Asks("volume", "Store holds", "volume", 10 * LITRE), HOT, COLD, WANT, FLOW), _litres,
        "V (T_hot − T_cold)/(T_mix − T_cold) at most; V (T_hot − T_mix − 10 K)/(T_mix − T_cold) "
        "at least", "Mixing by mass; perfect displacement and one temperature are the bounds.",
        "Water over 48 °C at an outlet scalds: mix it down."),
    Sum("rise", "How warm does it get passing through?",
        (FLOW, Asks("power", "Heat to the water", "heat_power", 10000.0), COLD), _rise,
        "ΔT = P/(ṁ c)", "Energy balance of the water."),
    Sum("power", "How much heat for this flow?", (FLOW, COLD, WANT), _power,
        "P = ṁ c ΔT", "Energy balance of the water."),
    Sum("element", "What does an element draw here?",
        (Asks("watts", "Watts on the label", "power", 200.0),
         Asks("volts", "At volts on the label", "voltage", 12.0),
         Asks("supply", "Volts at the source", "voltage", 12.8),
         Asks("length", "Cable, one way", "length", 3.0),
         Asks("area", "Cable", "cable_area", 6e-6)), _element,
        "I = V/(R + 2ρL/A), R = V₀²/P₀", "Ohm; stranded copper, IEC 60228 class 5.", MAINS),
    Sum("measured", "I measured amps: what is the element?",
        (Asks("amps", "Current", "current", 15.0), Asks("supply", "Volts at it", "voltage", 12.4)),
        _measured, "P = V I", "Ohm.", MAINS),
    Sum("pipe", "What does a pipe hold, and how long does it take?",
        (Asks("bore", "Inside diameter", "bore", 0.009), Asks("length", "Length", "length", 4.0),
         FLOW), _pipe, "V = π d² L/4, t = V/q", "Darcy with Colebrook's friction."),
    Sum("bucket", "How much does a head pass?",
        (Asks("volume", "Filled", "volume", 10 * LITRE), Asks("time", "In", "seconds", 120.0),
         Asks("pressure", "At a pressure of", "pressure", 1.5 * BAR)), _bucket,
        "q = V/t, K = q/√Δp", "Outlet law."),
    Sum("kicks", "The pump starts by itself: how large is the leak?",
        (Asks("every", "Starts every", "minutes", 600.0), Asks("on", "Starts at", "pressure",
         1.7 * BAR), Asks("off", "Stops at", "pressure", 2.4 * BAR),
         Asks("volume", "Accumulator", "volume", 0.75 * LITRE),
         Asks("pre", "Its pre-charge", "pressure", 1.5 * BAR)), _pump_starts,
        "V = V₀ p₀ (1/max(p₁, p₀) − 1/p₂) + 10 mL/bar", "Isothermal gas."),
    Sum("bottle", "How long does a bottle carry a burner?",
        (Asks("gas", "Propane in it", "mass", 6.0), Asks("power", "Burner, net input",
         "heat_power", 12000.0), AIR), _bottle, "C dT/dt = UA (Tₐ − T) − ṁ h",
        "Lumped boiling liquid; CoolProp tables.",
        "Bottles upright, outside the living space; gas work is for a licensed fitter."),
    Sum("panel", "A panel straight on an element: what comes of it?",
        (Asks("short", "Short-circuit current", "current", 6.5),
         Asks("open", "Open voltage", "voltage", 40.2),
         Asks("best_a", "Current at best", "current", 6.06),
         Asks("best_v", "Voltage at best", "voltage", 33.1),
         Asks("ohm", "Element", "resistance", 5.46), Asks("sun", "Sun", "share", 0.5)), _panel,
        "where I(V) of the panel meets V/R", "Rauschenbach's four-figure curve.", MAINS),
    Sum("most-watts", "How many watts on this fuse and cable?",
        (Asks("volts", "Volts", "voltage", 12.0), Asks("fuse", "Fuse", "current", 20.0),
         Asks("area", "Copper", "cable_area", 6e-6),
         Asks("length", "One way", "length", 4.0)), _most_watts,
        "the least of fuse, what the cable bears, and 3 % of the volts over its resistance",
        "Ohm's law; ISO 10133, table A.1.", WIRED),
    Sum("thinnest", "Which cable for this load?",
        (Asks("watts", "Takes", "power", 200.0), Asks("volts", "Volts", "voltage", 12.0),
         Asks("length", "One way", "length", 4.0), Asks("fuse", "Fuse", "current", 20.0)),
        _thinnest, "the first size that bears the fuse and loses no more than 3 %",
        "Ohm's law; ISO 10133, table A.1.", WIRED),
    Sum("gas-pipe", "How long may a gas pipe be?",
        (Asks("watts", "Burns", "heat_power", 6000.0), Asks("bore", "Bore", "bore", 6.4e-3),
         Asks("drop", "May take", "gas_pressure", 250.0)), _longest_gas,
        "Δp over the drop of one metre, 0.3 m for a bend and 0.15 m for a joint counted in",
        "Darcy–Weisbach; propane of 1.9 kg/m³.",
        "Gas pipe is laid and tested by a licensed fitter."),
    Sum("cooled", "It cooled this much: what does it lose?",
        (VOLUME, Asks("from", "From", "temperature", 65.0), Asks("to", "To", "temperature", 52.0),
         Asks("time", "In", "hours", 12 * 3600.0), AIR), _cooled,
        "U = (C/t) ln((T₀ − Tₐ)/(T₁ − Tₐ))", "Incropera et al., ch. 5."),
    Sum("mix", "How much hot is in the mix?", (HOT, COLD, WANT, FLOW), _mix,
        "x = (T_mix − T_cold)/(T_hot − T_cold)", "Mixing by mass."),
)  # fmt: skip
