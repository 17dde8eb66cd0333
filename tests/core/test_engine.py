"""The engine against closed forms, hand calculation and a stiff solver, body by body."""

from __future__ import annotations

from math import exp, pi

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from isotherma import catalogue
from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core import water
from isotherma.core.engine import columns
from isotherma.core.engine.columns import LAYER_J
from isotherma.core.errors import CoreError
from isotherma.core.simulate import simulate
from isotherma.core.system.kinds.heat import LiquidHeater
from isotherma.wording import cautions
from tests.core.test_flow_networks import mixing
from tests.networks import LITRE_PER_MIN, network, part, pipe, pump, tank, tap
from tests.support import MILD, brief, days_of, ran, shower, stands_of

COLD = 10.0


def rows_of(day, index=0):
    log = day.log
    return log[(log[:, columns.DRAW] == index) & (log[:, columns.MASS] > 0)]


def day_of(system, *draws, state=None, fine_s=0.25, **values):
    asked = brief(*draws, **{"day_start": "cold", **values})
    return ran(asked, system, state, MILD, fine_s=fine_s)


def short(*parts, runs):
    """Parts with pipes of almost no water between them."""
    return network([tank(), pump(), *parts], [pipe("tank", "pump", 0.05, 0.02), *runs])


def close(start, end, **values):
    return pipe(start, end, 0.05, 0.008, **values)


def long_draw(seconds=200.0, **values):
    return shower(duration_s=seconds, clock="open", low_c=11.0, high_c=80.0, outlet="tap", **values)


# --- balance first ---


@pytest.mark.parametrize("name", layouts())
def test_every_layout_balances_and_gives_numbers(name):
    layout = layouts()[name]
    for month in (1, 7):
        asked = layout.brief.model_copy(update={"month": month})
        climate = catalogue.climate_in(asked.region, month)
        state = layout.system.states[0] if layout.system.states else None
        _, day = ran(asked, layout.system, state, climate)
        assert day.balance.energy_error_share <= 1e-4
        assert day.balance.water_error_share <= 1e-4
        assert np.isfinite(day.log).all()
        assert (np.diff(day.log[:, columns.END]) > 0).all()
        assert day.log[-1, columns.END] == pytest.approx(86400.0)


@given(st.integers(0, 10_000))
@hypothesis_settings(max_examples=25)
def test_networks_that_grew_balance_or_are_refused(seed):
    from tests.networks import Grown

    built = Grown(seed, 25).system()
    taps = [item.id for item in built.parts if item.kind in {"tap", "shower_head"}]
    if not taps:
        return
    try:
        _, day = day_of(built, shower(duration_s=60.0, outlet=taps[0], clock="open"))
    except CoreError as error:
        assert error.code != "balance_broken"
        return
    assert day.balance.energy_error_share < 1e-6
    assert np.isfinite(day.log).all()


def test_the_same_day_twice_is_the_same_bit_for_bit():
    project = folio()
    climate = catalogue.climate(project.brief)
    first, second = (
        simulate(project.brief, project.variants[0].system, climate).timeline.log for _ in range(2)
    )
    assert np.array_equal(first, second)


def test_two_days_are_two_halves_of_one_course():
    """A day after a day, and a course that never stopped, hold the same heat."""
    system = mixing(set_c=40.0)
    asked = brief(day_start="cold")
    one, other = (days_of(asked, system, None, MILD) for _ in range(2))
    one.day(())
    one.day(())
    other.usual.pass_time(86400.0)
    other.usual.state.rested[:] -= 86400.0
    other.usual.clock = other.usual._edge = 0.0
    other.usual.pass_time(86400.0)
    assert one.usual.state.layers == pytest.approx(other.usual.state.layers, abs=1e-9)


# --- closed forms ---


def test_a_pipe_passes_its_water_on_after_it_has_emptied():
    """Plug flow: the front of hot water reaches the tap after V/q, less nothing."""
    length, bore = 8.0, 0.01
    system = short(
        part("store", "store", volume_m3=0.02),
        part("element", "element", power_w=3000.0, fitted_in="store", set_c=60.0), tap(factor=4.0),
        runs=[close("pump", "store"), pipe("store", "tap", length, bore)],
    )  # fmt: skip
    _, day = day_of(system, long_draw(60.0))
    rows = rows_of(day)
    flow = rows[0, columns.MASS] / rows[0, columns.STEP]
    transit = pi / 4 * bore**2 * length * water.density_kg_per_m3(35.0) / flow
    head, at = rows[:, columns.HEAD], rows[:, columns.END] - rows[0, columns.END]
    assert head[at < 0.9 * transit].max() < 20.0
    assert head[at > 1.5 * transit].min() > 45.0


def test_a_canister_ends_at_the_rise_its_element_gives():
    """Steady: P/ṁc above the cold water."""
    system = short(
        part("can", "canister", volume_m3=0.0015, body_j_per_k=500.0, loss_w_per_k=0.01),
        part("element", "element", power_w=1500.0, fitted_in="can", set_c=85.0,
             sensor_lag_s=0.0), tap(factor=1.5),
        runs=[close("pump", "can"), close("can", "tap")],
    )  # fmt: skip
    _, day = day_of(system, long_draw(600.0))
    last = rows_of(day)[-1]
    rate = last[columns.MASS] / last[columns.STEP] * 4190.0
    assert last[columns.HEAD] == pytest.approx(COLD + 1500.0 / rate, abs=0.4)


def test_one_temperature_vessel_empties_by_the_exponential():
    """Stirred: (T − T_in) falls with e^(−m/M), M with the body as water."""
    system = short(
        part("can", "canister", volume_m3=0.003, body_j_per_k=1000.0, loss_w_per_k=0.01),
        part("element", "element", power_w=400.0, fitted_in="can", set_c=60.0,
             window_start_s=0.0, window_end_s=25100.0), tap(factor=2.0),
        runs=[close("pump", "can"), pipe("can", "tap", 0.02, 0.008)],
    )  # fmt: skip
    _, day = day_of(system, long_draw(90.0))
    rows = rows_of(day)
    vessel = day.vessels[0]
    assert vessel.layers == 1
    start = 60.0
    passed = np.cumsum(rows[:, columns.MASS]) * vessel.specific_j_per_kg_k / vessel.layer_j_per_k
    late = rows[:, columns.END] - rows[0, columns.END] > 5.0
    expected = COLD + (start - COLD) * np.exp(-passed[late])
    assert rows[late, columns.HEAD] == pytest.approx(expected, abs=1.6)


def test_a_resting_store_cools_like_a3():
    """Handbook A3: 29.418 kg at 65 °C, UA 0.7 W/K to 5 °C, 12 h → 51.93 °C."""
    system = short(
        part("store", "store", volume_m3=29.418 / 999.7, layers=1, loss_w_per_k=0.7,
             unreachable=0.0, body_j_per_k=0.0),
        part("element", "element", power_w=9000.0, fitted_in="store", set_c=65.0,
             hysteresis_k=1.0, sensor_lag_s=0.0, window_start_s=0.0, window_end_s=43200.0),
        tap(), runs=[close("pump", "store"), close("store", "tap")],
    )  # fmt: skip
    asked = brief(day_start="cold", inside_c=5.0)
    air = type(MILD)(region="x", month=1, air_c=5.0, swing_k=0.0)
    _, day = ran(asked, system, None, air)
    began = day.log[day.log[:, columns.END] <= 43200.0][-1][columns.LOG_COLUMNS]
    ended = day.log[-1][columns.LOG_COLUMNS]
    c = water.mean_specific_heat_j_per_kg_k(10.0, 65.0)
    fade = exp(-0.7 * 43200.0 / (29.418 * c))
    assert ended == pytest.approx(5.0 + (began - 5.0) * fade, abs=0.1)


# --- heaters by flow ---


def by_flow(factor=3.0, **values):
    usual = {"heat_w": 12e3, "set_c": 42.0, "least_w": 4e3, "body_j_per_k": 2700.0,
             "on_flow_m3_per_s": 2.5 * LITRE_PER_MIN, "off_flow_m3_per_s": 2 * LITRE_PER_MIN,
             "sense_s": 0.5, "light_s": 2.0, "ramp_s": 5.0}  # fmt: skip
    return short(
        part("heater", "through_flow_gas", **{**usual, **values}),
        tap(factor=factor),
        runs=[close("pump", "heater"), close("heater", "tap")],
    )


def test_a_through_flow_heater_starts_by_its_timers_and_holds_its_setting():
    _, day = day_of(by_flow(), long_draw(120.0))
    rows = rows_of(day)
    at = rows[:, columns.END] - rows[0, columns.END] + rows[0, columns.STEP]
    assert rows[at < 2.4, columns.HEAD].max() < 20.0  # half a second to sense, two to light
    assert rows[at > 70.0, columns.HEAD] == pytest.approx(42.0, abs=0.5)
    burning = rows[at < 8.0, columns.BURNER]
    assert burning.max() <= 12e3 + 1 and (np.diff(burning[burning > 0]) >= -1.0).all()
    assert day.starts["heater"] == 1.0


def test_below_its_flow_it_stays_cold_and_at_low_flow_it_surges():
    _, weak = day_of(by_flow(factor=0.9), long_draw(60.0))
    assert rows_of(weak)[:, columns.HEAD].max() < 18.0 and weak.starts["heater"] == 0.0
    # 2.6 L/min at its lowest fire of 8 kW is more than 42 °C: 10 + 8000/ṁc
    _, low = day_of(by_flow(factor=1.75, least_w=8e3), long_draw(120.0))
    rows = rows_of(low)
    flow = rows[-1, columns.MASS] / rows[-1, columns.STEP]
    assert flow > 2.45 / 60
    assert rows[-1, columns.HEAD] == pytest.approx(10.0 + 8e3 / (flow * 4185.0), abs=1.5)
    assert rows[-1, columns.HEAD] > 50.0


def test_a_stop_gives_a_burst_of_hot_then_cold():
    """The body keeps its heat through a stop; then it lights anew for seconds."""
    draw = long_draw(120.0, stops=1, stop_s=20.0)
    _, day = day_of(by_flow(), draw)
    rows = rows_of(day)
    gap = int(np.argmax(np.diff(rows[:, columns.END]) > 10.0)) + 1
    after = rows[gap:]
    since = after[:, columns.END] - after[0, columns.END]
    assert after[0, columns.HEAD] > 30.0
    dip = after[(since > 1.0) & (since < 10.0), columns.HEAD].min()
    assert dip < 36.0
    assert after[-1, columns.HEAD] == pytest.approx(42.0, abs=0.6)
    assert day.starts["heater"] == 2.0


def test_two_knobs_less_flow_is_hotter():
    ends = []
    for factor in (2.4, 4.0):
        _, day = day_of(by_flow(factor=factor, control="two knobs", gas_share=0.7),
                        long_draw(90.0))  # fmt: skip
        rows = rows_of(day)
        ends.append((rows[-1, columns.HEAD], rows[-1, columns.MASS] / rows[-1, columns.STEP]))
    (slow_c, slow), (fast_c, fast) = ends
    assert slow < fast and slow_c > fast_c + 5.0
    for celsius, flow in ends:
        assert celsius == pytest.approx(10.0 + 0.7 * 12e3 / (flow * 4185.0), abs=1.5)


# --- coils, loops, plates against another solver ---


def test_a_coil_warms_a_store_like_the_stiff_solver_says():
    """70 °C water through a coil in one stirred store, UA as the engine has it."""
    held = [
        part("engine", "engine_coolant", coolant_c=70.0, flow_m3_per_s=6 * LITRE_PER_MIN,
             heat_w=5e4, drive_start_s=0.0, drive_s=7200.0),
        part("store", "store", volume_m3=0.02, layers=1, loss_w_per_k=1.0, unreachable=0.0,
             body_j_per_k=0.0),
        part("coil", "coil", fitted_in="store", length_m=6.0, conductance_w_per_k=150.0),
        part("pump-c", "circulation_pump", flow_m3_per_s=8 * LITRE_PER_MIN, runs="always"),
        tap(),
    ]  # fmt: skip
    system = network(
        [tank(), pump(), *held],
        [pipe("tank", "pump", 0.05, 0.02), close("pump", "store"), close("store", "tap"),
         close("engine", "pump-c"), close("pump-c", "coil"), close("coil", "engine")],
    )  # fmt: skip
    asked = brief(day_start="cold")
    days = days_of(asked, system, None, MILD)
    days.day(())
    mark = stands_of(asked, system, None, MILD)
    mark.pass_time(1800.0)
    row = mark.named.thermal.vessel[0]
    flow = abs(float(mark.point({}).solved.mass[mark.network.part_links["coil"][0]]))
    rate = flow * mark.named.thermal.specific[mark.network.part_links["coil"][0]]

    def right(_, t):
        gap = 70.0 - t[0]
        grip = 150.0 * max(0.2, abs(gap) / 20.0) ** 0.25
        return [(rate * gap * (1 - exp(-grip / rate)) - 1.0 * (t[0] - 18.0)) / row[LAYER_J]]

    run = solve_ivp(right, (0, 1800), [COLD], rtol=1e-8, max_step=5.0)
    assert mark.state.layers[0] == pytest.approx(run.y[0, -1], abs=0.6)


def test_a_loop_on_a_button_brings_warm_water_at_once():
    layout = layouts()["coolant-coil"]
    far = layout.brief.model_copy(
        update={"draws": (shower(outlet="kitchen", start_s=43200.0, duration_s=60.0,
                                 low_c=36.0),)}
    )  # fmt: skip
    climate = catalogue.climate(far)
    plain = [
        {**item, "runs_s": 0.0} if item["kind"] == "loop_pump" else item
        for item in layout.system.model_dump()["parts"]
    ]
    never = type(layout.system).model_validate({**layout.system.model_dump(), "parts": plain})

    def first_warm_s(system):
        log = simulate(far, system, climate).timeline.log
        rows = log[(log[:, columns.DRAW] == 0) & (log[:, columns.MASS] > 0)]
        warm = rows[rows[:, columns.HEAD] >= 36.0][0]
        return warm[columns.END] - rows[0, columns.END] + rows[0, columns.STEP]

    # warm at once; then fresh cold reaches the valve, which had grown used to warm, and it dips
    assert first_warm_s(layout.system) < 1.8 < 2.5 < first_warm_s(never)


def test_a_nudged_mixer_stays_warm_longer_than_one_left_alone():
    system = mixing(kind="manual_mixer", hot_share=0.55)
    alone, nudged = (
        simulate(brief(shower(duration_s=300.0, outlet="head", nudged=hand)), system, MILD).draws[0]
        for hand in (False, True)
    )
    assert nudged.comfort_s > alone.comfort_s + 20.0


def test_step_halving_moves_the_figures_little():
    for project in (drover(), folio(), curlew()):
        climate = catalogue.climate(project.brief)
        system = project.variants[0].system
        coarse = simulate(project.brief, system, climate)
        fine = simulate(project.brief, system, climate, fine_s=0.125)
        for a, b in zip(coarse.draws, fine.draws, strict=True):
            assert a.comfort_s == pytest.approx(b.comfort_s, abs=max(2.5, 0.01 * b.comfort_s))
            assert a.mean_c == pytest.approx(b.mean_c, abs=0.2)
            assert a.wait_s == pytest.approx(b.wait_s, abs=1.0)
        for one, other in zip(coarse.ledger, fine.ledger, strict=True):
            assert one.used == pytest.approx(other.used, rel=0.01, abs=1.0)


def test_diesel_battery_and_gas_follow_from_the_heat():
    project = folio()
    climate = catalogue.climate(project.brief)
    outcome = simulate(project.brief, project.variants[0].system, climate)
    heat = outcome.timeline.balance.bodies_j["heater"]
    entry = {row.budget: row for row in outcome.ledger}
    heater = outcome.setup.parts["heater"]
    assert isinstance(heater, LiquidHeater) and heater.efficiency and heater.firing_j
    litres = heat / heater.efficiency / 35.7e9 * 1e3
    assert entry["diesel"].used_per_day * 1e3 == pytest.approx(litres, rel=1e-6)
    fired = outcome.timeline.starts["heater"] * heater.firing_j
    assert entry["battery"].used_per_day > fired > 0
    assert entry["gas"].used == 0.0


def test_what_the_brief_names_and_a_variant_lacks_is_told():
    project = curlew()
    climate = catalogue.climate(project.brief)
    outcome = simulate(project.brief, project.variants[1].system, climate)
    from isotherma.core.quantity import UnitSystem

    assert any("lacks the outlet" in words for words in cautions(outcome, UnitSystem.METRIC))
