"""Bench sums against hand arithmetic, and each inverse against its sum."""

from __future__ import annotations

from math import isfinite, pi

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.core.bench_sums import SUMS, answer
from isotherma.core.engine import columns
from isotherma.core.errors import CannotBe, CoreError, TargetNotReached
from isotherma.core.flows.fittings import Conditions
from isotherma.core.flows.network_compiler import compile_network
from isotherma.core.flows.pulse import operate
from isotherma.core.quantity import STYLES, UnitSystem
from isotherma.core.results.draws import draw_rows
from isotherma.core.setup.inventory import least_bottle_pa
from isotherma.core.supply.bottle import Bottle, hold
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.nominal import computed
from isotherma.core.thermal.estimates import cooled_c
from isotherma.wording import error_words
from tests.networks import network, part, pipe, pump, tank, tap
from tests.support import brief, changed, run, shower, system
from tests.wiring import wired

LITRE, LPM, BAR = 1e-3, 1e-3 / 60, 1e5


def figure(found, title):
    return next(item.value for item in found.figures if item.title == title)


def first(sum_id, **values):
    return answer(sum_id, values).figures[0].value


def test_a1_by_the_bench():
    """11.999 kg from 8 to 65 °C with 1.8 kW and no loss: 1589 s; filled cold, 12 L weigh that."""
    took = first("heat-up", volume=0.012, **{"from": 8.0}, to=65.0, power=1800.0, loss=0.0)
    assert took == pytest.approx(1589.0, rel=0.002)


@given(st.floats(1e-3, 0.1), st.floats(100, 3000), st.floats(0.0, 1.5))
def test_what_took_so_long_is_the_element(volume, power, loss):
    values = {"volume": volume, "from": 10.0, "to": 50.0, "loss": loss, "air": 15.0}
    try:
        took = first("heat-up", power=power, **values)
    except TargetNotReached:
        return
    if took * loss > 0.3 * volume * 4.18e6:  # the mean loss is no more than a first guess then
        return
    assert first("heated", time=took, **values) == pytest.approx(power, rel=0.03)


def test_litres_lie_between_their_bounds():
    """15 L at 62 °C, filled at 9 °C, wanted 38: 15 × 53/29 at most, a kilogram a little more."""
    found = answer("litres", {"volume": 0.015, "hot": 62.0, "cold": 9.0, "want": 38.0})
    assert figure(found, "at most") == pytest.approx(0.015 * 53 / 29 * 999.78 / 992.97, rel=1e-4)
    assert figure(found, "at least, all mixed") == pytest.approx(
        0.015 * 14 / 29 * 999.78 / 992.97, rel=1e-4
    )
    likely = found.figures[0].value
    assert figure(found, "at least, all mixed") < likely < figure(found, "at most")
    assert figure(found, "likely lasts") == pytest.approx(likely / (5 * LPM))


def test_rise_and_power_are_each_other_s_inverse():
    power = first("power", flow=5 * LPM, cold=10.0, want=38.0)
    assert power == pytest.approx(5 * LPM * 999.7 * 4182 * 28, rel=1e-3)
    assert first("rise", flow=5 * LPM, power=power, cold=10.0) == pytest.approx(28.0)


def test_an_element_on_a_long_thin_cable():
    """200 W at 12 V is 0.72 Ω; 2 × 10 m of 2.5 mm² are 0.1424 Ω."""
    found = answer("element", {"watts": 200.0, "volts": 12.0, "supply": 12.0, "length": 10.0,
                               "area": 2.5e-6})  # fmt: skip
    assert figure(found, "draws") == pytest.approx(12 / (0.72 + 0.1424), rel=1e-3)
    assert figure(found, "heats with") == pytest.approx(0.72 * (12 / 0.8624) ** 2, rel=1e-3)
    assert found.put is not None and found.put.kind == "element"
    assert first("measured", amps=15.0, supply=12.0) == 180.0


def test_a_pipe_by_its_bore():
    found = answer("pipe", {"bore": 0.009, "length": 4.0, "flow": 5 * LPM})
    assert found.figures[0].value == pytest.approx(pi / 4 * 0.009**2 * 4.0)
    assert figure(found, "passes in") == pytest.approx(3.05, abs=0.01)
    assert figure(found, "speed") == pytest.approx(1.31, rel=0.01)


def test_a_bucket_and_a_clock():
    found = answer("bucket", {"volume": 0.01, "time": 120.0, "pressure": 1.0 * BAR})
    assert found.figures[0].value == pytest.approx(5 * LPM)
    assert figure(found, "at twice the pressure") == pytest.approx(5 * LPM * 2**0.5)
    assert answer("bucket", {"pressure": 0.0}).put is None


def test_a8_through_the_starts():
    """0.75 L, pre-charge 1.0 bar, 1.6 to 2.8 bar: 0.182 L each start, and 12 mL of tubes."""
    found = answer("kicks", {"every": 3600.0, "on": 1.6 * BAR, "off": 2.8 * BAR,
                             "volume": 0.75e-3, "pre": 1.0 * BAR})  # fmt: skip
    assert figure(found, "each start is") == pytest.approx(0.182e-3 + 0.012e-3, rel=0.006)
    assert found.figures[0].value == pytest.approx(24 * 0.194e-3, rel=0.006)


def test_a9_and_a7_by_the_bench():
    burner = 1.5 / 3600 * 46.34e6
    found = answer("bottle", {"gas": 6.0, "power": burner, "air": -5.0})
    assert found.figures[0].title == "too cold after"
    # A9 itself, to 1.5 bar, is held in test_supply; a regulator of 30 mbar carries on to 1.24 bar
    assert 55.0 < found.figures[0].value / 60 < 75.0
    warm = answer("bottle", {"gas": 11.0, "power": 2000.0, "air": 25.0})
    assert all(item.title != "too cold after" for item in warm.figures)
    assert first("panel", ohm=0.96, sun=1.0) == pytest.approx(40.6, rel=0.01)
    assert first("panel", ohm=5.46, sun=0.5) == pytest.approx(57.0, rel=0.03)


def test_a3_backwards():
    """29.4 kg that fell from 65 to 51.93 °C in 12 h at 5 °C lost 0.7 W/K."""
    loss = first("cooled", volume=0.0299, **{"from": 65.0}, to=51.93, time=12 * 3600.0, air=5.0)
    assert loss == pytest.approx(0.7, rel=0.02)


def test_the_mix_by_mass():
    found = answer("mix", {"hot": 62.0, "cold": 9.0, "want": 38.0, "flow": 6 * LPM})
    assert found.figures[0].value == pytest.approx(29 / 53)
    hot, cold = figure(found, "that is"), figure(found, "and cold")
    mass = hot * 982.0 + cold * 999.78  # kg/m³ at 62 and 9 °C, IAPWS-95
    assert mass == pytest.approx(6 * LPM * 992.97, rel=1e-4)
    assert hot * 982.0 / mass == pytest.approx(29 / 53, rel=1e-3)


@pytest.mark.parametrize("item", SUMS, ids=lambda item: item.id)
def test_every_sum_answers_as_it_stands_and_says_where_from(item):
    found = answer(item.id, {})
    assert found.figures and all(isfinite(row.value) for row in found.figures)
    assert item.question.endswith("?") and item.formula and item.source
    for ask in item.asks:
        assert ask.style in STYLES
    for row in found.figures:
        assert row.style in STYLES
    if found.put is not None:
        assert found.put.name in KINDS[found.put.kind].model_fields


@pytest.mark.parametrize("item", SUMS, ids=lambda item: item.id)
@given(data=st.data())
def test_absurd_values_are_answered_or_refused(item, data):
    values = {
        ask.key: data.draw(st.one_of(st.just(0.0), st.floats(-1e3, 1e6, allow_nan=False)))
        for ask in item.asks
    }
    try:
        found = answer(item.id, values)
    except CoreError:
        return
    assert all(row.value == row.value for row in found.figures)


def test_contradictions_say_what():
    with pytest.raises(CannotBe) as caught:
        answer("mix", {"hot": 30.0, "cold": 40.0})
    assert caught.value.reason == "hot_above_cold"
    assert "hot must be warmer" in error_words(caught.value, UnitSystem.US)
    with pytest.raises(TargetNotReached):
        answer("heat-up", {"power": 1.0, "loss": 5.0})
    with pytest.raises(KeyError):
        answer("nonsense", {})


# --- against the engine ---


def test_heat_up_is_the_engine_s():
    """A store of one layer without corners, heated from cold: both say the same."""
    built = changed(system(power_w=1200.0), "store", layers=1, unreachable=0.0, body_j_per_k=0.0,
                    loss_w_per_k=0.8)  # fmt: skip
    built = changed(built, "element", sensor_lag_s=0.0, sensor_share=0.0)
    log = run(brief(day_start="cold"), built).timeline.log
    off = log[(log[:, columns.ELEMENT] <= 0) & (log[:, columns.END] > 60)][0]
    took = first("heat-up", volume=0.01, **{"from": 10.0}, to=65.0, power=1200.0, loss=0.8,
                 air=20.0)  # fmt: skip
    assert off[columns.END] - off[columns.STEP] == pytest.approx(took, rel=0.002)


def test_the_mix_is_the_engine_s():
    """A steady draw through a valve: hot litres of the day's own log."""
    outcome = run(brief(shower()), system(30.0))
    rows = draw_rows(outcome.timeline, 0)
    at = len(rows) // 2
    found = answer("mix", {"hot": rows.hot_c[at], "cold": rows.cold_c[at],
                           "want": rows.head_c[at], "flow": 5 * LPM})  # fmt: skip
    assert found.figures[0].value == pytest.approx(rows.hot_share[at], abs=0.01)


def test_a_through_flow_heater_warms_by_the_same_sum():
    """Full fire, no valve: the steady solver and the sum."""
    flow, power = 4 * LPM, 6000.0
    way = [tank(), pump(open_flow_m3_per_s=flow * 3), part("heater", "through_flow_gas",
           heat_w=power, least_w=power, set_c=60.0, on_flow_m3_per_s=1e-5,
           off_flow_m3_per_s=5e-6, pressure_loss_pa_at_5=0.0), tap(factor=3.0)]  # fmt: skip
    runs = [pipe("tank", "pump"), pipe("pump", "heater"), pipe("heater", "tap")]
    point = operate(
        compile_network(network(way, runs), None, Conditions(fresh_c=10.0)), {"tap": 1.0}
    )
    solved = point.solved
    link = solved.network.ends["tap"]
    kilograms = float(solved.mass[link])
    rise = first("rise", flow=kilograms / 999.70, power=power, cold=10.0)
    assert float(solved.out_c[link]) - 10.0 == pytest.approx(rise, rel=0.002)


def test_an_element_draws_what_the_wires_say():
    """Handbook: 400 W at 12 V behind 2 × 3.5 m of 10 mm² and 4 mΩ from 12.9 V."""
    fed = wired(400.0, 12.0, 3.5, 10e-6, 0.004, 12.9)
    assert fed.amps == pytest.approx(34.27, rel=1e-3)
    assert fed.volts * fed.amps == pytest.approx(422.7, rel=1e-3)
    assert fed.lost_w == pytest.approx(19.3, rel=5e-3)
    bare = wired(400.0, 12.0, 3.5, 10e-6, 0.0, 12.9)
    bench = answer("element", {"watts": 400.0, "volts": 12.0, "supply": 12.9, "length": 3.5,
                               "area": 10e-6})  # fmt: skip
    assert figure(bench, "heats with") == pytest.approx(bare.volts * bare.amps, rel=1e-6)


def test_a_bottle_is_the_engine_s():
    """The same law with the same least pressure, that of a 30 mbar regulator."""
    load = 1.5 / 3600
    start = Bottle(6.0, 6.0, 1.2 * 3.0**0.5, 6.6, {"propane": 1.0}, -5.0)
    least = least_bottle_pa(computed(network([part("r", "regulator")], [])).parts)
    held = hold(start, kg_per_s=load, air_c=-5.0, limit_pa=least, step_s=20.0)
    found = answer("bottle", {"gas": 6.0, "power": load * 46.34e6, "air": -5.0})
    assert held.held_s is not None
    assert found.figures[0].value == pytest.approx(held.held_s)


def test_cooling_is_the_engine_s():
    cooled = cooled_c(capacity_j_per_k=0.01 * 986.0 * 4185.0, loss_w_per_k=0.8, start_c=65.0,
                      ambient_c=15.0, duration_s=12 * 3600.0)  # fmt: skip
    loss = first("cooled", volume=0.01, **{"from": 65.0}, to=cooled, time=12 * 3600.0, air=15.0)
    assert loss == pytest.approx(0.8, rel=0.01)


def test_the_most_watts_on_a_fuse_and_a_cable_are_the_least_of_three():
    """20 A on 6 mm² of 4 m: 3 % of 12 V over 0.0237 Ω are 15.2 A, less than fuse and copper."""
    short = {"length": 0.5}
    long, near = answer("most-watts", {}), answer("most-watts", short)
    assert long.figures[1].value == pytest.approx(0.36 / (1.78e-8 * 8.0 / 6e-6), rel=1e-3)
    assert near.figures[1].value == 20.0  # the fuse
    thin = answer("most-watts", {"area": 1.5e-6, "length": 0.1, "fuse": 40.0})
    assert thin.figures[1].value == 18.0 and thin.remark == "fuse_above_cable"  # the copper
    watts = long.figures[0].value
    assert watts == pytest.approx(long.figures[1].value * 12.0 * 0.97, rel=1e-6)


def test_the_thinnest_cable_carries_what_the_most_watts_say():
    """The two sums turn each other round, but for the watts that stay in the wire."""
    for watts, length, fuse in ((200.0, 4.0, 20.0), (60.0, 10.0, 10.0), (600.0, 2.0, 60.0)):
        area = answer("thinnest", {"watts": watts, "length": length, "fuse": fuse}).figures[0].value
        most = answer("most-watts", {"area": area, "length": length, "fuse": fuse})
        assert most.figures[0].value >= 0.97 * watts * 0.999
        assert most.remark == "cable_carries"
    with pytest.raises(CannotBe) as refused:
        answer("thinnest", {"watts": 5000.0, "length": 50.0})
    assert refused.value.reason == "no_cable_does"


def test_the_longest_gas_pipe_takes_just_what_it_may():
    from isotherma.core.supply.gas_pipe import gas_drop_pa

    found = answer("gas-pipe", {})
    drop = gas_drop_pa(
        kg_per_s=found.figures[1].value, bore_m=6.4e-3, length_m=found.figures[0].value
    )
    assert drop == pytest.approx(250.0)


def test_a_tapered_tank_holds_the_mean_of_its_lengths():
    """0.8 and 0.6 m long, 0.4 × 0.3 m: 84 L; 15 mm over its floor stay under the outlet."""
    found = answer("tank", {})
    assert figure(found, "holds to the brim") == pytest.approx(0.4 * 0.3 * 0.7)
    under = 0.4 * 0.015 * (0.6 + 0.5 * 0.2 * 0.05)
    assert figure(found, "stays below the outlet") == pytest.approx(under, rel=2e-3)
    assert found.figures[0].value == pytest.approx(0.084 - under, rel=1e-4)
    with pytest.raises(CannotBe, match="outlet_above_lid"):
        answer("tank", {"outlet": 0.4})
    with pytest.raises(CannotBe, match="nothing_given"):
        answer("tank", {"floor": 0.0})


@given(st.floats(0.05, 0.95), st.floats(0.2, 1.0), st.floats(-3.0, 3.0))
def test_a_gauge_read_back_says_what_it_read(reading, floor, nose):
    shape = {"length": 0.8, "floor": floor, "nose": nose}
    litres = first("gauge", reading=reading, **shape)
    again = first("reading", litres=litres, **shape)
    assert again == pytest.approx(reading, abs=2e-3)


def test_a_needle_at_its_stop_gives_a_range():
    empty = answer("gauge", {"reading": 0.0})
    assert empty.remark == "needle_stopped" and empty.figures[0].value == 0.0
    assert figure(empty, "at most") == pytest.approx(0.4 * 0.03 * (0.6 + 0.1 * 0.1), rel=1e-2)


def test_a_tank_and_a_clock():
    assert first("tank-lasts", volume=0.03, flow=5 * LPM) == pytest.approx(360.0)
    took = first("heat-up", volume=0.01, power=800.0)
    found = answer("switch-on", {"when": 7.5 * 3600.0})
    assert found.figures[0].value == pytest.approx(7.5 * 3600.0 - took)
    early = answer("switch-on", {"when": 600.0})
    assert early.figures[0].value == pytest.approx(86400.0 + 600.0 - took)
    assert early.remark == "day_before"
    assert figure(found, "held hot all day instead") == pytest.approx(0.8 * 45.0 * 86400.0)


def test_a_lever_behind_the_rear_axle_lifts_the_front():
    found = answer("axle", {"mass": 120.0, "at": 4.2, "wheelbase": 3.6})
    assert found.figures[0].value == pytest.approx(140.0)
    assert figure(found, "on the front axle") == pytest.approx(-20.0)
    assert found.remark == "axle_lifted"
    assert answer("axle", {"rear": 100.0}).remark == "axle_over"
    assert answer("axle", {"at": 1.8}).remark == "weigh_it"
    with pytest.raises(CannotBe, match="no_wheelbase"):
        answer("axle", {"wheelbase": 0.0})


def test_knobs_by_the_energy_balance():
    """39 °C from 10 °C at 4 L/min take 4/60 × 0.9997 × 4.184 × 29 = 8.09 kW."""
    found = answer("knobs", {})
    assert found.figures[0].value == pytest.approx(8.09 / 12.0, rel=2e-3)
    assert figure(found, "gives") == pytest.approx(39.0, abs=0.01)
    assert found.table is not None
    codes = [[cell.code for cell in row] for row in found.table.cells]
    assert all(row[0] == "no flame" for row in codes)  # 2 L/min do not light it
    assert codes[-1][1] == "too hot" and codes[0][1] == ""
    warm = [cell.value for cell in found.table.cells[-1] if cell.value is not None]
    assert warm == sorted(warm, reverse=True)  # more water is colder water


@pytest.mark.parametrize(("values", "remark"), [
    ({"want": 60.0}, "knob_at_full"), ({"want": 15.0}, "knob_at_least"),
    ({"flow": 1 * LPM}, "too_little_to_light"), ({"steady": 5 * LPM}, "pump_pulses"),
    ({"limit": 30.0}, "cuts_out"),
])  # fmt: skip
def test_knobs_say_where_they_fail(values, remark):
    assert answer("knobs", values).remark == remark
