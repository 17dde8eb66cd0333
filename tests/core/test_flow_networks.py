"""Small networks whose answer is known: by hand, from textbooks, by an independent solver."""

from __future__ import annotations

from dataclasses import replace
from math import pi, sqrt

import numpy as np
import pytest
from fluids import friction_factor as library_friction
from fluids.fittings import bend_miter, bend_rounded
from scipy.optimize import brentq, root

from isotherma.catalogue.layouts import layouts
from isotherma.core import water
from isotherma.core.errors import FlowNotSolved, MissingValue, NoSuchOutlet
from isotherma.core.flows.fittings import Conditions
from isotherma.core.flows.heights import heights
from isotherma.core.flows.network_compiler import compile_network
from isotherma.core.flows.pulse import operate
from isotherma.core.flows.report import flow_report, vapour_pa
from isotherma.core.flows.solving import solve
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.friction import run_drop_pa
from isotherma.core.system.tubes import FITTINGS
from isotherma.wording import doing_words
from tests.networks import FACTOR, LITRE_PER_MIN, network, part, pipe, pump, tank, tap

TEN = Conditions(fresh_c=10.0)
G = 9.80665


def flows(system, opens, conditions=TEN, state=None):
    found = solve(compile_network(system, state, conditions), opens)
    assert found.balance <= 1e-9 and found.residual_pa <= 0.1
    return found


def litres_per_min(found, run_id):
    return found.flow_m3_per_s[found.network.run[run_id]] / LITRE_PER_MIN


def report(system, opens, conditions=TEN, state=None):
    return flow_report(operate(compile_network(system, state, conditions), opens))


def by_id(rows, wanted):
    return next(row for row in rows if row.id == wanted)


@pytest.mark.parametrize(
    ("bore", "celsius", "kpa", "speed"),
    [pytest.param(0.009, 40.0, 20.4, 1.31, id="A6"), pytest.param(0.0117, 10.0, 7.08, 0.775,
                                                                   id="A6b")],
)  # fmt: skip
def test_reference_figures_through_the_whole_network(bore, celsius, kpa, speed):
    # a pump worked by foot gives its flow whatever the pressure: 5 L/min
    system = network(
        [tank(), part("foot", "foot_pump", flow_m3_per_s=5 * LITRE_PER_MIN), tap(factor=50)],
        [pipe("tank", "foot", 0.1, 0.02), pipe("foot", "tap", 6.0, bore, loss_k=6.0)],
    )
    run = by_id(report(system, {"tap": 1.0}, Conditions(fresh_c=celsius)).runs, "foot-tap")
    assert run.flow_m3_per_s == pytest.approx(5 * LITRE_PER_MIN, rel=1e-4)
    assert run.drop_pa / 1e3 == pytest.approx(kpa, rel=0.02)
    assert run.velocity_m_per_s == pytest.approx(speed, rel=0.02)


def test_a_tank_and_a_pipe_by_the_library_friction_factor():
    # White, ch. 6: g H = (f L/D + ΣK) V²/2, solved here with another library's Colebrook
    head, length, bore, loss = 1.2, 4.0, 0.012, 3.0
    system = network(
        [tank(), tap(factor=1800)], [pipe("tank", "tap", length, bore, -head, loss)]
    )  # fmt: skip
    rho, mu = water.density_kg_per_m3(10.0), water.viscosity_pa_s(10.0)

    def left(speed):
        reynolds = rho * speed * bore / mu
        f = library_friction(Re=reynolds, eD=1.5e-6 / bore)
        return G * head - (f * length / bore + loss) * speed**2 / 2

    speed = brentq(left, 0.1, 20)
    found = litres_per_min(flows(system, {"tap": 1.0}), "tank-tap")
    assert found == pytest.approx(speed * pi / 4 * bore**2 / LITRE_PER_MIN, rel=0.002)


def test_laminar_flow_is_hagen_and_poiseuille():
    # 6 m of 4 mm, 5 cm of head: Re about 250; Δp = 128 μ L q / (π d⁴)
    system = network([tank(), tap(factor=1800)], [pipe("tank", "tap", 6.0, 0.004, -0.05)])
    rho, mu = water.density_kg_per_m3(10.0), water.viscosity_pa_s(10.0)
    expected = rho * G * 0.05 * pi * 0.004**4 / (128 * mu * 6.0)
    found = flows(system, {"tap": 1.0}).flow_m3_per_s[-1]
    assert found == pytest.approx(expected, rel=0.01)


def test_pump_and_square_resistance_meet_where_the_quadratic_says():
    # 3 bar (1 − q/10) = (q/5)² bar: q² /25 + 0.3 q − 3 = 0
    system = network([tank(), pump(), tap()], [pipe("tank", "pump", 0.01, 0.05),
                                              pipe("pump", "tap", 0.01, 0.05)])  # fmt: skip
    expected = (-0.3 + sqrt(0.09 + 4 * 3 / 25)) * 25 / 2
    assert litres_per_min(flows(system, {"tap": 1.0}), "pump-tap") == pytest.approx(
        expected, rel=1e-3
    )


def test_series_and_parallel_of_square_resistances():
    # in series 1/K² adds, in parallel K adds; a tap at half opening has half its K
    parts = [part("in", "pressurised_inlet", pressure_pa=2e5, flow_m3_per_s=0.002),
             part("split", "split", loss_k=0.0), tap("a", 4.0), tap("b", 6.0),
             part("strainer", "strainer", flow_factor_si=10 * FACTOR)]  # fmt: skip
    runs = [pipe("in", "strainer", 0.01, 0.08), pipe("strainer", "split", 0.01, 0.08),
            pipe("split", "a", 0.01, 0.08), pipe("split.branch", "b", 0.01, 0.08)]  # fmt: skip
    system = network(parts, runs)
    behind = 120 / sqrt(2)  # the inlet gives 120 L/min wide open, from 2 bar
    both = 1 / sqrt(1 / behind**2 + 1 / 10**2 + 1 / (4 + 6) ** 2) * sqrt(2)
    found = flows(system, {"a": 1.0, "b": 1.0})
    assert litres_per_min(found, "in-strainer") == pytest.approx(both, rel=2e-3)
    assert litres_per_min(found, "split-a") / litres_per_min(
        found, "split-branch-b"
    ) == pytest.approx(4 / 6, rel=2e-3)
    half = 1 / sqrt(1 / behind**2 + 1 / 10**2 + 1 / 2**2) * sqrt(2)
    assert litres_per_min(flows(system, {"a": 0.5}), "split-a") == pytest.approx(half, rel=2e-3)


def test_three_reservoirs_like_the_textbook_problem():
    # White, three-reservoir junction: flows from the high tank to the two low ones, checked by
    # an independent root of the junction's balance
    parts = [tank("high"), part("split", "split", loss_k=0.0), tap("mid", 1800), tap("low", 1800)]
    legs = {"high-split": (3.0, 0.012, 2.0), "split-mid": (5.0, 0.010, -0.6),
            "split-branch-low": (4.0, 0.009, -1.1)}  # fmt: skip
    runs = [
        pipe("high", "split", 3.0, 0.012, 0.4), pipe("split", "mid", 5.0, 0.010, -0.6),
        pipe("split.branch", "low", 4.0, 0.009, -1.1),
    ]  # fmt: skip
    rho = water.density_kg_per_m3(10.0)

    def flow_of(push, length, bore):
        size = abs(push)
        if size < 1e-9:
            return 0.0
        found = brentq(
            lambda q: size - run_drop_pa(flow_m3_per_s=q, bore_m=bore, length_m=length, loss_k=0.0,
                                         celsius=10.0), 0.0, 1e-2)  # fmt: skip
        return float(np.copysign(found, push))

    def balance(p):
        into = flow_of(-rho * G * 0.4 - p, 3.0, 0.012)
        out = flow_of(p + rho * G * 0.6, 5.0, 0.010) + flow_of(p + rho * G * 1.1, 4.0, 0.009)
        return into - out

    p = brentq(balance, -3e4, 3e4)
    found = flows(network(parts, runs), {"mid": 1.0, "low": 1.0})
    expected = flow_of(p + rho * G * 0.6, 5.0, 0.010) / LITRE_PER_MIN
    assert litres_per_min(found, "split-mid") == pytest.approx(expected, rel=0.01)
    assert found.port_pa("split", "outlet") == pytest.approx(p, abs=60)
    assert set(legs) == set(found.network.run)


def test_a_siphon_runs_below_air_pressure_and_a_higher_outlet_does_not():
    over = [tank(), part("bend", "coupling", flow_factor_si=9e-5), tap(factor=1800)]
    runs = [pipe("tank", "bend", 1.0, 0.01, 0.8), pipe("bend", "tap", 2.0, 0.01, -1.5)]
    found = flows(network(over, runs), {"tap": 1.0})
    assert litres_per_min(found, "tank-bend") > 3
    assert found.port_pa("bend", "inlet") < -0.8 * 9790
    up = [pipe("tank", "bend", 1.0, 0.01, 0.8), pipe("bend", "tap", 2.0, 0.01, 0.1)]
    assert litres_per_min(flows(network(over, up), {"tap": 1.0}), "tank-bend") == pytest.approx(
        0, abs=1e-3
    )


def test_random_loops_against_a_general_root_finder():
    """Two meshes of pipes fed by a pump, by an independent formulation with scipy."""
    parts = [tank(), pump(), *(part(f"s{k}", "split", loss_k=0.0) for k in range(5)),
             tap("one", 4.0), tap("two", 3.0)]  # fmt: skip
    shape = [("pump", "s0"), ("s0", "s1"), ("s0.branch", "s2"), ("s1", "s3"),
             ("s2", "s3.branch"), ("s1.branch", "s4"), ("s3.outlet", "s4.branch"),
             ("s4", "one"), ("s2.branch", "two")]  # fmt: skip
    lengths = [0.5, 1.0, 2.0, 1.5, 0.7, 2.2, 1.1, 0.6, 3.0]
    bores = [0.012, 0.009, 0.007, 0.009, 0.010, 0.008, 0.006, 0.009, 0.008]
    runs = [pipe("tank", "pump", 0.1, 0.03)]
    runs += [pipe(a, b, lengths[i], bores[i], 0.0, 1.0) for i, (a, b) in enumerate(shape)]
    found = flows(network(parts, runs), {"one": 1.0, "two": 1.0})
    names = ["pump", "s0", "s1", "s2", "s3", "s4", "one", "two"]
    place = {name: k for k, name in enumerate(names)}

    def run_flow(push, k):
        def drop(q):
            return run_drop_pa(flow_m3_per_s=q, bore_m=bores[k], length_m=lengths[k], loss_k=1.0,
                               celsius=10.0)  # fmt: skip

        q = brentq(lambda q: drop(q) - abs(push), 0, 5e-3) if abs(push) > 1e-9 else 0.0
        return float(np.copysign(q, push))

    def balances(p):
        net = np.zeros(len(names))
        open_flow = 10 * LITRE_PER_MIN
        net[0] += open_flow * (1 - p[0] / 3e5)
        for k, (a, b) in enumerate(shape):
            i, j = place[a.split(".")[0]], place[b.split(".")[0]]
            q = run_flow(p[i] - p[j], k)
            net[i] -= q
            net[j] += q
        for name, factor in (("one", 4.0), ("two", 3.0)):
            at = p[place[name]]
            net[place[name]] -= np.sign(at) * factor * FACTOR * sqrt(abs(at))
        return net / LITRE_PER_MIN

    answer = root(balances, np.linspace(1.5e5, 0.5e5, len(names)), method="hybr", tol=1e-10)
    assert np.abs(answer.fun).max() < 1e-5
    for name in ("one", "two"):
        expected = answer.x[place[name]]
        assert found.port_pa(name, "inlet") == pytest.approx(expected, rel=0.01, abs=300)


def test_checks_close_and_need_their_spring():
    parts = [tank(), part("check", "check_valve", opening_pa=5e3, flow_factor_si=30 * FACTOR),
             tap(factor=20)]  # fmt: skip
    low = [pipe("tank", "check", 0.2, 0.02), pipe("check", "tap", 0.2, 0.02, -0.4)]
    high = [pipe("tank", "check", 0.2, 0.02), pipe("check", "tap", 0.2, 0.02, -0.9)]
    assert (
        litres_per_min(flows(network(parts, low), {"tap": 1.0}), "tank-check") == 0.0
    )  # 3.9 kPa < 5 kPa
    found = flows(network(parts, high), {"tap": 1.0})
    push = water.density_kg_per_m3(10) * G * 0.9 - 5e3
    both = 1 / sqrt(1 / 30**2 + 1 / 20**2)
    assert litres_per_min(found, "tank-check") == pytest.approx(both * sqrt(push / 1e5), rel=0.01)
    turned = [pipe("tank", "check.outlet", 0.2, 0.02), pipe("check.inlet", "tap", 0.2, 0.02, -0.9)]
    assert litres_per_min(flows(network(parts, turned), {"tap": 1.0}), "tank-check-outlet") == 0.0


def test_limiter_reducer_and_selector():
    mains = part("in", "pressurised_inlet", pressure_pa=4e5, flow_m3_per_s=40 * LITRE_PER_MIN)
    limit = part("limit", "flow_limiter", flow_m3_per_s=6 * LITRE_PER_MIN)
    parts = [mains, part("red", "reducer", set_pa=1.5e5), limit, tap(factor=12)]
    runs = [pipe("in", "red", 0.2, 0.02), pipe("red", "limit", 0.2, 0.02),
            pipe("limit", "tap", 0.2, 0.02)]  # fmt: skip
    found = flows(network(parts, runs), {"tap": 1.0})
    assert litres_per_min(found, "limit-tap") == pytest.approx(6.0, rel=0.01)
    assert found.port_pa("red", "outlet") == pytest.approx(1.5e5, rel=1e-6)
    # a reducer set above what arrives stands wide open
    wide = network([mains, part("red", "reducer", set_pa=6e5), tap(factor=12)],
                   [pipe("in", "red", 0.2, 0.02), pipe("red", "tap", 0.2, 0.02)])  # fmt: skip
    assert 0 < flows(wide, {"tap": 1.0}).port_pa("red", "outlet") < 4e5
    chooses = network(
        [tank("near"), tank("far"), part("sel", "selector", loss_k=0.5), pump(), tap()],
        [pipe("near", "sel.first", 0.2), pipe("far", "sel.second", 0.2),
         pipe("sel.common", "pump", 0.2), pipe("pump", "tap", 0.5)],
        states=[{"id": "far", "name": "Far", "positions": [{"part": "sel", "at": "second"}]}],
    )  # fmt: skip
    found = flows(chooses, {"tap": 1.0}, state=chooses.state("far"))
    assert litres_per_min(found, "near-sel-first") == pytest.approx(0, abs=1e-6)
    assert litres_per_min(found, "far-sel-second") > 3


def test_bag_foot_and_level():
    bag = network([part("bag", "gravity_bag", volume_m3=0.02, hung_m=1.0), tap(factor=5)],
                  [pipe("bag", "tap", 0.01, 0.05)])  # fmt: skip
    expected = 5 * sqrt(water.density_kg_per_m3(10) * G / 1e5)
    assert litres_per_min(flows(bag, {"tap": 1.0}), "bag-tap") == pytest.approx(expected, rel=0.01)
    level = network([tank(), tap(factor=5)], [pipe("tank", "tap", 0.01, 0.05)])
    quarter = Conditions(fresh_c=10.0, level_m={"tank": 0.25})
    found = flows(level, {"tap": 1.0}, quarter)
    assert litres_per_min(found, "tank-tap") == pytest.approx(expected / 2, rel=0.01)


def mixing(checks="both legs", kind="thermostatic_mixer", hot_factor=30.0, **values):
    """Pump, split, a store at 65 °C, a mixing valve, a head."""
    parts = [tank(), pump(), part("split", "split", loss_k=0.0),
             part("store", "store", volume_m3=0.01),
             part("element", "element", power_w=800.0, fitted_in="store", set_c=65.0),
             part("drag", "strainer", flow_factor_si=hot_factor * FACTOR),
             part("mixer", kind, checks=checks, flow_factor_si=12 * FACTOR, **values),
             tap("head", 4.0)]  # fmt: skip
    runs = [pipe("tank", "pump", 0.2, 0.02), pipe("pump", "split", 0.5, 0.012),
            pipe("split", "store", 0.3, 0.012), pipe("store", "drag", 0.3, 0.012),
            pipe("drag", "mixer.hot", 0.3, 0.012), pipe("split.branch", "mixer.cold", 0.4, 0.012),
            pipe("mixer", "head", 1.0, 0.012)]  # fmt: skip
    return network(parts, runs)


def test_a_thermostatic_valve_holds_by_mass_and_says_so():
    found = report(mixing(set_c=40.0, difference_k=10.0), {"head": 1.0})
    assert by_id(found.outlets, "head").temperature_c == pytest.approx(40.0, abs=0.05)
    hot, cold = (by_id(found.runs, key) for key in ("drag-mixer-hot", "split-branch-mixer-cold"))
    mass = [run.flow_m3_per_s * water.density_kg_per_m3(run.temperature_c) for run in (hot, cold)]
    assert mass[0] / sum(mass) == pytest.approx((40 - 10) / (65 - 10), rel=0.002)
    assert doing_words(by_id(found.parts, "mixer").doing) == "holds"


@pytest.mark.parametrize(("store_c", "expected"), [(45.0, 41.0), (35.0, 34.25), (8.0, 8.0)])
def test_below_its_difference_a_valve_sags_to_its_hot_stop(store_c, expected):
    # hand: at 45 the share is between 30/40 and the stop by half of the 10 K missing, never
    # hotter than the setting asks; at 35 it is 0.97 hot: 0.97·35 + 0.03·10
    warm = Conditions(fresh_c=10.0, at_c={"store": store_c})
    found = report(mixing(set_c=40.0, difference_k=10.0), {"head": 1.0}, warm)
    outlet = by_id(found.outlets, "head").temperature_c
    assert outlet <= 40.0 + 0.05
    if store_c != 45.0:
        assert outlet == pytest.approx(expected, abs=0.1)


def test_a_thermostatic_valve_beyond_what_it_takes_is_told():
    # a leg that loses most of the pressure stands far below the other
    uneven = mixing(set_c=40.0, difference_k=10.0, hot_factor=1.2, pressure_ratio=1.5)
    words = doing_words(by_id(report(uneven, {"head": 1.0}).parts, "mixer").doing)
    assert "differ" in words and "to 1" in words
    slow = report(mixing(set_c=40.0, min_flow_m3_per_s=3 * LITRE_PER_MIN), {"head": 0.3})
    assert "less water" in doing_words(by_id(slow.parts, "mixer").doing)


def test_a_manual_valve_follows_the_pressures_of_its_legs():
    even = report(mixing(kind="manual_mixer", hot_share=0.5), {"head": 1.0})
    uneven = report(mixing(kind="manual_mixer", hot_share=0.5, hot_factor=4.0), {"head": 1.0})
    warm, cool = (by_id(found.outlets, "head").temperature_c for found in (even, uneven))
    assert 34 < warm < 38
    assert cool < warm - 5


def test_legs_without_checks_cross_when_the_outlet_is_shut():
    """A second tap on the hot side alone draws cold through an open, unchecked mixer."""
    system = mixing(kind="manual_mixer", checks="none", hot_share=0.5)
    parts = [*system.model_dump()["parts"], part("tee", "split", loss_k=0.0), tap("sink", 6.0)]
    runs = [run for run in system.model_dump()["runs"] if run["id"] != "store-drag"]
    runs += [pipe("store", "tee", 0.3), pipe("tee", "drag", 0.1), pipe("tee.branch", "sink", 0.5)]
    crossing = network(parts, runs)
    found = flows(crossing, {"sink": 1.0, "head": 0.01})
    assert litres_per_min(found, "drag-mixer-hot") < -0.1
    checked = [{**item, "checks": "both legs"} if item["id"] == "mixer" else item for item in parts]
    held = flows(network(checked, runs), {"sink": 1.0, "head": 0.01})
    assert litres_per_min(held, "drag-mixer-hot") >= 0.0


def test_without_cold_a_thermostatic_valve_shuts():
    system = mixing(set_c=40.0, difference_k=10.0)
    shut = part("cold-shut", "shut_off", loss_k=0.3)
    data = system.model_dump()
    runs = [run for run in data["runs"] if run["id"] != "split-branch-mixer-cold"]
    runs += [pipe("split.branch", "cold-shut", 0.2), pipe("cold-shut", "mixer.cold", 0.2)]
    state = {"id": "off", "name": "Off", "positions": [{"part": "cold-shut", "at": "shut"}]}
    built = network([*data["parts"], shut], runs, states=[state])
    found = report(built, {"head": 1.0}, state=built.state("off"))
    assert by_id(found.outlets, "head").flow_m3_per_s == 0.0
    assert "no cold water" in doing_words(by_id(found.parts, "mixer").doing)


def test_a_through_flow_heater_lights_by_its_flow_and_heats_what_it_can():
    def run(factor, **values):
        heater = part("heater", "through_flow_gas", heat_w=12e3, set_c=42.0, least_w=4e3,
                      on_flow_m3_per_s=2.5 * LITRE_PER_MIN, off_flow_m3_per_s=2 * LITRE_PER_MIN,
                      pressure_loss_pa_at_5=2e4, **values)  # fmt: skip
        system = network([tank(), pump(), heater, tap(factor=factor)],
                         [pipe("tank", "pump", 0.2), pipe("pump", "heater", 0.5, 0.012),
                          pipe("heater", "tap", 1.0, 0.012)])  # fmt: skip
        found = report(system, {"tap": 1.0})
        return by_id(found.outlets, "tap"), by_id(found.parts, "heater")

    outlet, heater = run(3.0)
    assert outlet.temperature_c == pytest.approx(42.0, abs=0.01)
    assert doing_words(heater.doing) == "burns"
    strong, _ = run(8.0)  # 12 kW cannot bring this flow to 42 °C: 10 + P/ṁc
    flow = strong.flow_m3_per_s * water.density_kg_per_m3(strong.temperature_c)
    rise = 12e3 / (flow * 4185)
    assert strong.temperature_c == pytest.approx(10 + rise, abs=0.2) and rise < 30
    weak, cold = run(0.9)
    assert weak.temperature_c == pytest.approx(10.0)
    assert "too little flow" in doing_words(cold.doing)


def test_exchanger_by_effectiveness():
    """Counterflow, hand: ε = (1 − e^(−N(1−C)))/(1 − C e^(−N(1−C)))."""
    layout = layouts()["drive-plate"]
    compiled = compile_network(layout.system, layout.system.state("wash"), TEN)
    found = solve(compiled, {"head": 1.0})
    plate = next(key for key, item in compiled.parts.items() if item.kind == "plate_exchanger")
    hot, cold = compiled.part_links[plate]
    capacity = []
    for link in (hot, cold):
        enters = found.node_c[compiled.net.start[link]]
        table = compiled.heat.tables[compiled.heat.fluid[link]]
        from isotherma.core.water import fluids

        capacity.append(found.mass[link] * fluids.look_up(table, fluids.SPECIFIC, enters))
    least, ratio = min(capacity), min(capacity) / max(capacity)
    ntu = getattr(compiled.parts[plate], "conductance_w_per_k") / least  # noqa: B009
    fade = np.exp(-ntu * (1 - ratio))
    effect = (1 - fade) / (1 - ratio * fade)
    gains = capacity[1] * (found.out_c[cold] - found.node_c[compiled.net.start[cold]])
    loses = capacity[0] * (found.node_c[compiled.net.start[hot]] - found.out_c[hot])
    most = least * (found.node_c[compiled.net.start[hot]] - found.node_c[compiled.net.start[cold]])
    assert gains == pytest.approx(effect * most, rel=0.01)
    assert gains == pytest.approx(loses, rel=0.01)


def test_antifreeze_is_thicker_and_slower():
    layout = layouts()["coolant-coil"]
    thin = compile_network(layout.system, layout.system.state("pitch"), TEN)
    assert any("glycol" in name for name in thin.fluids)
    data = layout.system.model_dump()
    for item in data["parts"]:
        if item["kind"] == "primary_fluid":
            item["fluid"] = "water"
    watered = type(layout.system).model_validate(data)
    plain = compile_network(watered, watered.state("pitch"), TEN)
    speeds = [
        abs(float(solve(c, {}).flow_m3_per_s[c.run["header-tee-coil"]])) for c in (thin, plain)
    ]
    assert 0 < speeds[0] < speeds[1]


def test_what_is_unknown_is_only_refused_where_water_passes():
    parts = [tank(), pump(), part("split", "split", loss_k=0.0), tap("known"),
             tap("other"), part("limit", "flow_limiter")]  # fmt: skip
    runs = [pipe("tank", "pump"), pipe("pump", "split"), pipe("split", "known"),
            pipe("split.branch", "limit"), pipe("limit", "other")]  # fmt: skip
    system = network(parts, runs)
    assert litres_per_min(flows(system, {"known": 1.0}), "split-known") > 3
    with pytest.raises(MissingValue) as caught:
        flows(system, {"other": 1.0})
    assert caught.value.path == "parts.limit.flow_m3_per_s"


@pytest.mark.parametrize(
    "opens", [{"tap": 1.5}, {"tap": 0.0}, {"tap": float("nan")}, {"pump": 1.0}]
)
def test_openings_that_are_none_are_refused(opens):
    system = network([tank(), pump(), tap()], [pipe("tank", "pump"), pipe("pump", "tap")])
    with pytest.raises(NoSuchOutlet) as caught:
        flows(system, opens)
    assert caught.value.known == ("tap",)


def test_a_network_that_cannot_be_met_names_the_part():
    system = network([tank(), pump(), tap()], [pipe("tank", "pump"), pipe("pump", "tap")])
    compiled = compile_network(system, None, TEN)
    broken = compiled.net._replace(parameters=compiled.net.parameters * np.nan)
    with pytest.raises(FlowNotSolved) as caught:
        solve(replace(compiled, net=broken), {"tap": 1.0})
    assert caught.value.part_id


def test_pump_points_and_volts():
    points = [(0.0, 12 * LITRE_PER_MIN), (1e5, 8 * LITRE_PER_MIN), (2e5, 2 * LITRE_PER_MIN)]
    built = pump(points=points, volts_v=12.0, open_flow_m3_per_s=None, shut_pressure_pa=None)
    runs = [pipe("tank", "pump", 0.01, 0.05), pipe("pump", "tap", 0.01, 0.05)]
    # 8 L/min at 1 bar is the tap's own flow at 1 bar: the curve's second point
    found = flows(network([tank(), built, tap(factor=8.0)], runs), {"tap": 1.0})
    assert litres_per_min(found, "pump-tap") == pytest.approx(8.0, rel=0.005)
    slow = flows(network([tank(), built, tap(factor=8.0)], runs, volts_v=10.8), {"tap": 1.0})
    assert litres_per_min(slow, "pump-tap") < 8.0


def test_the_friction_kernel_against_the_library_over_its_range():
    for reynolds in np.geomspace(4.1e3, 2e5, 12):
        for rough in (1e-5, 1e-4, 1e-3):
            ours, slope = laws.friction(float(reynolds), rough)
            assert ours == pytest.approx(library_friction(Re=reynolds, eD=rough), rel=0.002)
            step = 1e-4 * reynolds
            ahead, behind = (laws.friction(reynolds + s, rough)[0] for s in (step, -step))
            assert slope == pytest.approx((ahead - behind) / (2 * step), rel=1e-3)


def test_fittings_lie_where_the_library_puts_them():
    # a formed bend of about five diameters; a mitred 90° bend stands for a sharp elbow fitting
    low, _, high = FITTINGS["formed_bends"]
    bend = bend_rounded(Di=0.0117, angle=90, bend_diameters=4.0, Re=1.2e4)
    assert low <= bend <= high
    low, likely, high = FITTINGS["elbows"]
    assert low <= bend_miter(angle=90) <= high
    assert likely > 2 * bend


def test_heights_close_loops_where_long_unmeasured_runs_give_way():
    level, moved = heights(3, [(0, 1, 1.0, 1.0), (1, 2, 0.0, 1e6), (0, 2, 0.8, 1.0)])
    assert moved == pytest.approx(0.1, abs=1e-6)
    assert level[1] == pytest.approx(level[2], abs=1e-6)
    level, moved = heights(3, [(0, 1, 1.0, 1.0), (1, 2, -0.4, 1.0)])
    assert moved == 0.0 and list(level) == pytest.approx([0.0, 1.0, 0.6])


def test_boiling_pressure_against_the_property_library():
    from CoolProp.CoolProp import PropsSI

    for celsius in (5.0, 20.0, 50.0, 80.0, 99.0):
        expected = PropsSI("P", "T", celsius + 273.15, "Q", 0, "Water")
        assert vapour_pa(celsius) == pytest.approx(expected, rel=0.01)
