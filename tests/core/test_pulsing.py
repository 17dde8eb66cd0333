"""Pumps that stop and start, and what their starts tell of a leak."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from isotherma.catalogue.demo import folio
from isotherma.core import water
from isotherma.core.errors import NoPumpStarts, NoSuchOutlet
from isotherma.core.flows.fittings import Conditions
from isotherma.core.flows.leak import pump_starts
from isotherma.core.flows.loads import pump_current_a
from isotherma.core.flows.network_compiler import compile_network
from isotherma.core.flows.pulse import operate, operate_once
from isotherma.core.flows.report import flow_report
from isotherma.core.hydraulics import pulsing
from isotherma.core.system.kinds.water import Pump
from tests.networks import FACTOR, LITRE_PER_MIN, network, part, pipe, pump, tank, tap
from tests.support import changed

TEN = Conditions(fresh_c=10.0)


@pytest.mark.parametrize(("exponent", "litres"), [(1.0, 0.182), (1.2, 0.147), (1.4, 0.123)])
def test_a8_water_of_an_accumulator(exponent, litres):
    found = pulsing.accumulator_water_m3(
        volume_m3=0.75e-3, precharge_pa=1e5, low_pa=1.6e5, high_pa=2.8e5, exponent=exponent
    )
    assert found * 1e3 == pytest.approx(litres, rel=0.005)


def test_an_accumulator_charged_above_the_cut_out_holds_nothing():
    common = {"volume_m3": 1e-3, "low_pa": 1.6e5, "high_pa": 2.8e5}
    assert pulsing.accumulator_water_m3(precharge_pa=3e5, **common) == 0.0
    # empty below its pre-charge: by the handbook V0 p0 (1/p0 − 1/p_out)
    between = pulsing.accumulator_water_m3(precharge_pa=2.2e5, **common)
    p0, out = 2.2e5 + 101_325, 2.8e5 + 101_325
    assert between == pytest.approx(1e-3 * p0 * (1 / p0 - 1 / out), rel=1e-9)


def cycling(accumulator_l=0.75, factor=0.8, **values):
    parts = [tank(), pump(control="switch", cut_in_pa=1.7e5, cut_out_pa=2.4e5, **values),
             tap(factor=factor)]  # fmt: skip
    runs = [pipe("tank", "pump", 0.1, 0.02)]
    if accumulator_l:
        parts.append(part("acc", "accumulator", volume_m3=accumulator_l / 1e3, precharge_pa=1e5))
        runs += [pipe("pump", "acc", 0.1, 0.02), pipe("acc", "tap", 0.5, 0.012)]
    else:
        runs.append(pipe("pump", "tap", 0.5, 0.012))
    return network(parts, runs)


def point_of(system, opening=1.0):
    return operate(compile_network(system, None, TEN), {"tap": opening})


def test_a_cycle_against_an_integrated_one():
    """Pressure in time by scipy: gas polytropic, outlet K√p, pump on its line."""
    system = cycling()
    found = point_of(system).running[0].cycle
    n, v0, p0, atm = 1.2, 0.75e-3, 1e5 + 101_325, 101_325
    rest = v0 * p0 / (2.4e5 + atm)  # gas at cut-out, where it came to rest
    factor = 0.8 * FACTOR

    def kept_slope(p):
        gas = rest * ((2.4e5 + atm) / (p + atm)) ** (1 / n)
        return gas / (n * (p + atm)) + pulsing.TUBE_M3_PER_PA

    def out(p):
        return factor * np.sqrt(p)

    def on(_, y):
        p = y[0]
        return [(10 * LITRE_PER_MIN * (1 - p / 3e5) - out(p)) / kept_slope(p)]

    def off(_, y):
        return [-out(y[0]) / kept_slope(y[0])]

    def until(target):
        def event(_, y):
            return y[0] - target

        setattr(event, "terminal", True)  # noqa: B010 - as scipy wants it
        return event

    up = solve_ivp(on, (0, 600), [1.7e5], events=until(2.4e5), rtol=1e-9, atol=1e-3)
    down = solve_ivp(off, (0, 600), [2.4e5], events=until(1.7e5), rtol=1e-9, atol=1e-3)
    assert found.on_s == pytest.approx(up.t[-1], rel=0.03)
    assert found.off_s == pytest.approx(down.t[-1], rel=0.03)
    steps = np.linspace(0, 1, 400)
    rising = np.interp(steps * up.t[-1], up.t, up.y[0])
    falling = np.interp(steps * down.t[-1], down.t, down.y[0])
    mean = (out(rising).mean() * up.t[-1] + out(falling).mean() * down.t[-1]) / (
        up.t[-1] + down.t[-1]
    )
    assert found.mean_m3_per_s == pytest.approx(mean, rel=0.01)
    assert found.ripple == pytest.approx((out(2.4e5) - out(1.7e5)) / mean, rel=0.05)


def test_above_its_threshold_it_runs_on_and_below_it_cycles():
    system = cycling(factor=6.0)
    running = point_of(system)
    assert running.running[0].cycle is None and not running.running[0].at_rest
    # the pump gives 10 (1 − 2.4/3) = 2 L/min at its cut-out
    above = running.running[0].switched.steady_above
    assert above == pytest.approx(2 * LITRE_PER_MIN, rel=0.01)
    throttled = running.running[0].switched.throttled(1.2 * LITRE_PER_MIN)
    assert throttled.mean_m3_per_s == pytest.approx(1.2 * LITRE_PER_MIN, rel=0.03)
    assert throttled.off_s > 0
    shut = operate(compile_network(system, None, TEN), {})
    assert shut.running[0].at_rest


def test_without_an_accumulator_it_flutters():
    with_one, without = (point_of(cycling(size)).running[0].cycle for size in (0.75, 0.0))
    assert without.short_cycles and not with_one.short_cycles
    assert without.starts_per_h > 5 * with_one.starts_per_h


def test_held_at_constant_pressure_and_resting_pumps():
    steady = network(
        [tank(), pump(control="constant pressure", cut_out_pa=2e5), tap(factor=1.5)],
        [pipe("tank", "pump", 0.1, 0.02), pipe("pump", "tap", 0.1, 0.02)],
    )
    report = flow_report(point_of(steady))
    assert report.pumps[0].doing == "held"
    assert report.pumps[0].outlet_pa == pytest.approx(2e5, abs=50)
    assert flow_report(operate(compile_network(steady, None, TEN), {})).pumps[0].doing == "rests"


def test_current_follows_pressure_from_the_box_or_by_size():
    box = Pump(id="p", open_flow_m3_per_s=2e-4, cut_out_pa=2.8e5, current_a=8.0)
    assert pump_current_a(box, 2.8e5) == pytest.approx(8.0)
    assert pump_current_a(box, 0.0) == pytest.approx(8.0 * 2.5 / (2.5 + 2.2 * 2.8))
    large = Pump(id="p", open_flow_m3_per_s=11.3 / 6e4)
    assert pump_current_a(large, 1e5) == pytest.approx(4.7, rel=1e-3)  # 2.5 A + 2.2 A/bar


@given(st.floats(0.2, 3.0), st.floats(0.0, 1.6), st.floats(1.0, 36_000.0))
def test_starts_and_leaks_are_each_others_inverse(litres, charged, seconds):
    system = cycling(litres)
    data = system.model_dump()
    for item in data["parts"]:
        if item["id"] == "acc":
            item["precharge_pa"] = charged * 1e5
    built = type(system).model_validate(data)
    found = pump_starts(built, compile_network(built, None, TEN))[0]
    leak = found.leak(seconds)
    assert found.interval(leak.likely).likely == pytest.approx(seconds, rel=1e-9)
    assert leak.low <= leak.likely <= leak.high
    assert found.kept.low > 0


def test_leak_arithmetic_by_hand_and_what_it_cannot_tell():
    system = cycling(0.75)
    found = pump_starts(system, compile_network(system, None, TEN))[0]
    # slowly, n = 1: V0 p0 (1/p_in − 1/p_out) + 10 mL/bar of tubes
    by_hand = 0.75e-3 * 201_325 * (1 / 271_325 - 1 / 341_325) + 0.7 * 10e-6
    assert found.kept.likely == pytest.approx(by_hand, rel=1e-6)
    assert found.leak(720.0).likely * 3.6e6 == pytest.approx(by_hand / 720 * 3.6e6, rel=1e-6)
    alone = pump_starts(cycling(0.0), compile_network(cycling(0.0), None, TEN))[0]
    assert alone.kept.high / alone.kept.low == pytest.approx(9.0, rel=0.01)
    assert not alone.accumulators
    with pytest.raises(NoPumpStarts) as caught:
        found.leak(0.0)
    assert caught.value.interval_s == 0.0
    with pytest.raises(NoPumpStarts) as caught:
        found.interval(0.0)
    assert caught.value.leak_m3_per_s == 0.0


def test_a_cooling_store_explains_starts():
    parts = [*cycling(0.75).model_dump()["parts"], part("store", "store", volume_m3=0.02),
             part("element", "element", power_w=500, fitted_in="store", set_c=60.0)]  # fmt: skip
    runs = [pipe("tank", "pump"), pipe("pump", "acc"), pipe("acc", "store"), pipe("store", "tap")]
    system = network(parts, runs)
    found = pump_starts(system, compile_network(system, None, TEN))[0]
    rho = water.density_kg_per_m3
    assert found.shrinks_m3_per_k == pytest.approx(0.02 * (1 - rho(60) / rho(59)), rel=1e-6)
    assert found.leak(3600.0, 20.0).likely < found.leak(3600.0).likely
    assert found.leak(3600.0, 80.0).high == 0.0


def test_two_pumps_on_one_mixer_are_told():
    parts = [tank("a"), pump("one", control="switch", cut_out_pa=2.4e5),
             tank("b"), pump("two", control="switch", cut_out_pa=2.4e5),
             part("mixer", "manual_mixer", hot_share=0.5, checks="both legs"),
             tap(factor=1.0)]  # fmt: skip
    runs = [pipe("a", "one"), pipe("b", "two"), pipe("one", "mixer.hot"), pipe("two", "mixer.cold"),
            pipe("mixer", "tap")]  # fmt: skip
    point = point_of(network(parts, runs))
    assert len(point.running) == 2
    assert point.solved.flow_m3_per_s[-1] > 0


# --- what is asked again ---


def folio_circuit(**store: object):
    base = folio().variants[0].system
    return compile_network(changed(base, "store", **store) if store else base, base.states[0])


def test_a_point_asked_again_is_the_same_and_names_the_asker():
    plain, other = folio_circuit(), folio_circuit(insulation_m=0.05)
    first, second = (operate_once(one, {"head": 1.0}) for one in (plain, other))
    assert second.solved.mass is first.solved.mass  # worked out once
    assert first.solved.network is plain and second.solved.network is other
    fresh = operate(other, {"head": 1.0})
    assert (fresh.solved.mass == second.solved.mass).all()
    assert (fresh.solved.opening == second.solved.opening).all()


@pytest.mark.parametrize(
    ("part_id", "values"),
    [("pump", {"cut_in_pa": 1.2e5}), ("mixer", {"set_c": 38.0}),
     ("accumulator", {"volume_m3": 1e-3}), ("head", {"flow_factor_si": 1e-7})],
)  # fmt: skip
def test_what_the_answer_hangs_on_is_asked_anew(part_id, values):
    base = folio().variants[0].system
    plain = operate_once(compile_network(base, base.states[0]), {"head": 1.0})
    moved = compile_network(changed(base, part_id, **values), base.states[0])
    again = operate_once(moved, {"head": 1.0})
    assert again.solved.mass is not plain.solved.mass
    fresh = operate(moved, {"head": 1.0})
    assert (fresh.solved.mass == again.solved.mass).all()


def test_a_question_that_cannot_be_answered_is_not_kept():
    compiled = folio_circuit()
    for _ in range(2):
        with pytest.raises(NoSuchOutlet):
            operate_once(compiled, {"castle": 1.0})
