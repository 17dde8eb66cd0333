"""A day of draws: balances, closed cases, and laws that must hold for any system."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma.core import water
from isotherma.core.climate import Climate
from isotherma.core.engine import columns
from isotherma.core.results.draws import WhyNot
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.kinds.heat import Burner, Element
from isotherma.core.system.layouts import usual_route
from tests.support import MILD, brief, changed, run, shower, system, use


@st.composite
def valid_cases(draw):
    """Any valid brief on any valid system of the computed shape."""
    element = Element(id="element", power_w=draw(st.floats(50, 3000)),
                      set_c=draw(st.floats(30, 85)),
                      height_share=draw(st.floats(0, 1)), sensor_share=draw(st.floats(0, 1)),
                      sensor_lag_s=draw(st.floats(0, 90)))  # fmt: skip
    burner = Burner(id="burner", input_w=draw(st.floats(500, 6000)), set_c=draw(st.floats(30, 85)))
    with_element, with_burner = draw(st.sampled_from([(1, 0), (0, 1), (1, 1)]))
    built = usual_route(
        tank_m3=draw(st.floats(0.005, 0.3)), store_m3=draw(st.floats(0.001, 0.06)),
        element=element if with_element else None, burner=burner if with_burner else None,
    )  # fmt: skip
    built = changed(
        built, "store", layers=draw(st.none() | st.integers(1, 20)),
        insulation_m=draw(st.floats(0, 0.08)), jet_share=draw(st.floats(0, 0.5)),
        unreachable=draw(st.floats(0, 0.4)), body_j_per_k=draw(st.floats(0, 6000)),
        wall_w_m_per_k=draw(st.floats(0, 1)),
    )  # fmt: skip
    family = st.sampled_from(["semi-rigid plastic", "copper", "soft hose"])
    runs = [
        {
            **r.model_dump(),
            "length_m": draw(st.floats(0.05, 6)),
            "bore_m": draw(st.floats(0.006, 0.02)),
            "family": draw(family),
        }
        for r in built.runs
    ]
    built = System.model_validate({**built.model_dump(), "runs": runs})
    draws = [
        shower(
            i, start_s=draw(st.floats(0, 86399)), duration_s=draw(st.floats(10, 500)),
            stops=draw(st.integers(0, 3)), stop_s=draw(st.floats(0, 120)),
            clock=draw(st.sampled_from(["warm", "open"])),
            flow_m3_per_s=draw(st.none() | st.floats(2e-5, 2e-4)),
        )
        for i in range(draw(st.integers(0, 4)))
    ]  # fmt: skip
    asked = brief(
        *draws, day_start=draw(st.sampled_from(["standing", "cold"])),
        cold_water_c=draw(st.floats(1, 30)), uses=[use(draw(st.floats(0, 0.05)))],
    )  # fmt: skip
    air = Climate(region="x", month=1, air_c=draw(st.floats(-20, 40)), swing_k=5.0)
    return asked, built, air


@given(valid_cases())
@settings(max_examples=60)
def test_energy_and_water_balance_for_any_valid_input(case):
    outcome = simulate(*case)
    balance = outcome.timeline.balance
    assert balance.energy_error_share < 1e-6
    assert balance.water_error_share < 1e-6
    assert np.isfinite(outcome.timeline.log).all()
    for draw in outcome.draws:
        assert draw.comfort_s <= draw.end_s - draw.start_s + 1e-6
        assert draw.met == (draw.why_not is None)
        assert draw.wait_s is None or draw.wait_s >= 0
    assert sum(entry.binds for entry in outcome.ledger) <= 1
    log = outcome.timeline.log
    assert (np.diff(log[:, columns.END]) > 0).all()
    assert np.allclose(
        log[1:, columns.END] - log[1:, columns.STEP], log[:-1, columns.END], atol=1e-6
    )


def heat_of(outcome, part_id):
    """Heat a source gave in the day [J]."""
    return outcome.timeline.balance.sources_j[part_id]


def test_the_same_input_gives_the_same_bits():
    first = run(brief(shower()), system())
    second = run(brief(shower()), system())
    assert (first.timeline.log == second.timeline.log).all()


def test_a_refined_step_changes_little():
    asked = brief(shower(), shower(2, start_s=25900.0))
    coarse, fine = run(asked, system()), run(asked, system(), fine_s=0.05)
    for a, b in zip(coarse.draws, fine.draws, strict=True):
        assert a.comfort_s == pytest.approx(b.comfort_s, abs=3.0)
        assert a.final_c == pytest.approx(b.final_c, abs=0.3)
        assert a.mean_c == pytest.approx(b.mean_c, abs=0.1)
        assert a.wait_s == pytest.approx(b.wait_s, abs=1.0)


def ideal(store_l=15.0, layers=10):
    """A store without heat, loss, body, jet or conduction behind pipes of almost no volume."""
    built = usual_route(
        tank_m3=0.2, store_m3=store_l / 1000,
        element=Element(id="element", power_w=20_000.0, set_c=62.0, hysteresis_k=0.2,
                        sensor_share=0.0, sensor_lag_s=0.0, height_share=0.0),
    )  # fmt: skip
    built = changed(
        built, "store", layers=layers, jet_share=0.0, unreachable=0.0, body_j_per_k=0.0,
        wall_w_m_per_k=0.0, insulation_m=0.3, insulation_w_per_m_k=0.005,
    )  # fmt: skip
    built = changed(built, "mixer", set_c=38.0, difference_k=0.2, lag_s=0.2)
    runs = [
        {**r.model_dump(), "length_m": 0.02, "bore_m": 0.012, "wall_m": 0.0002} for r in built.runs
    ]
    return System.model_validate({**built.model_dump(), "runs": runs})


def test_a5_through_the_whole_engine():
    """Handbook A5, N = 10: 23.03 L at 5 L/min, the element shut off by its window at the draw."""
    built = ideal()
    built = changed(built, "element", window_start_s=0.0, window_end_s=25200.0)
    asked = brief(
        shower(duration_s=600.0, low_c=37.4, high_c=40.0, flow_m3_per_s=5e-3 / 60, clock="open"),
        cold_water_c=9.0,
    )
    outcome = run(asked, built)
    # litres at the head weigh what 23.03 kg weigh; 37.4 stands for the valve's hot stop at 0.97
    assert outcome.draws[0].comfort_m3 * 1e3 == pytest.approx(23.03, rel=0.03)


def test_reheating_takes_the_time_of_the_closed_form():
    """A1's law: ten litres and the vessel from 10 to 65 °C on 1200 W, loss of a percent or so."""
    outcome = run(brief(day_start="cold"), system(power_w=1200.0))
    log = outcome.timeline.log
    off = log[(log[:, columns.ELEMENT] <= 0) & (log[:, columns.END] > 60)][0]
    mass = 10e-3 * water.density_kg_per_m3(10)
    capacity = mass * water.mean_specific_heat_j_per_kg_k(10, 65) + 1500
    lossless = capacity * 55 / 1200
    assert lossless < off[columns.END] - off[columns.STEP] < 1.05 * lossless


def test_a_standing_day_repeats_itself():
    outcome = run(brief(shower()), system())
    layers = outcome.timeline.log[:, columns.LOG_COLUMNS :]
    assert np.abs(layers[-1] - layers[0]).max() < 5.0
    assert abs(outcome.timeline.balance.stored_change_j) < 0.02 * heat_of(outcome, "element")


@given(st.floats(4, 25), st.floats(1.1, 2.0))
@settings(max_examples=15)
def test_a_larger_store_never_gives_fewer_warm_seconds(litres, more):
    small = run(brief(shower(duration_s=900.0)), system(litres)).draws[0].comfort_s
    large = run(brief(shower(duration_s=900.0)), system(litres * more)).draws[0].comfort_s
    assert large >= small - 1.0


def test_better_insulation_never_costs_energy():
    energies = []
    for thickness in (0.0, 0.02, 0.05, 0.1):
        outcome = run(brief(shower()), changed(system(), "store", insulation_m=thickness))
        balance = outcome.timeline.balance
        energies.append(balance.sources_j["element"] - balance.stored_change_j)
    assert energies == sorted(energies, reverse=True)


def test_heat_out_of_the_head_is_what_the_mixer_made():
    outcome = run(brief(shower(duration_s=240.0)), system(20.0))
    draw = outcome.draws[0]
    assert draw.mean_c == pytest.approx(40.0, abs=1.0)
    assert draw.met
    # x = (40 − 10)/(65 − 10) of hot while the top stays at 65
    assert draw.hot_m3 / draw.used_m3 == pytest.approx(30 / 55, rel=0.1)


def test_the_wait_is_the_water_in_the_pipes_and_a_little_more():
    """Long thin run: V/q is a floor, and the wall adds less than its own heat over the water's."""
    built = system(20.0)
    runs = [
        {**r.model_dump(), "length_m": 6.0} if r.id == "hot-run" else r.model_dump()
        for r in built.runs
    ]
    built = System.model_validate({**built.model_dump(), "runs": runs})
    near, far = run(brief(shower()), system(20.0)).draws[0], run(brief(shower()), built).draws[0]
    assert near.wait_s is not None and far.wait_s is not None
    extra_m3 = 4.8 * np.pi / 4 * 0.0117**2
    assert far.wait_s > near.wait_s + 0.9 * extra_m3 / far.flow_m3_per_s
    assert far.wait_s < near.wait_s + 3.0 * extra_m3 / far.flow_m3_per_s
    assert far.cold_m3 > near.cold_m3


@pytest.mark.parametrize(
    ("asked", "built", "why"),
    [
        pytest.param(brief(shower()), system(30.0), None, id="as asked"),
        pytest.param(brief(shower()), system(3.0), WhyNot.RUNS_COOL, id="small store"),
        pytest.param(brief(shower()), system(10.0, tank_l=8.0), WhyNot.DRY, id="small tank"),
        pytest.param(
            brief(shower()), changed(system(), "mixer", set_c=30.0), WhyNot.NEVER_WARM, id="set low"
        ),
        pytest.param(  # less than 3 K under the window is cool, not cold: handbook 2 §6
            brief(shower()), changed(system(), "mixer", set_c=35.0), WhyNot.STAYS_COOL, id="cool"
        ),
        pytest.param(
            brief(shower(high_c=42.0), gives_up_s=20.0),
            changed(system(30.0), "mixer", set_c=55.0), WhyNot.TOO_HOT, id="set high",
        ),
        pytest.param(
            brief(shower(), budgets={"longest_wait_s": 1.0}), system(30.0), WhyNot.LONG_WAIT,
            id="impatient",
        ),
        pytest.param(
            brief(shower()), changed(system(), "pump", shut_pressure_pa=5e3), WhyNot.NO_FLOW,
            id="weak pump",
        ),
        pytest.param(
            brief(shower(), uses=[use(0.2)]), system(30.0, tank_l=50.0), WhyNot.DRY,
            id="drunk up",
        ),
    ],
)  # fmt: skip
def test_why_a_draw_is_not_as_asked(asked, built, why):
    draw = run(asked, built).draws[0]
    assert draw.why_not == why
    assert draw.met == (why is None)


def test_a_draw_counted_from_warm_runs_longer_than_one_from_opening():
    warm = run(brief(shower()), system(30.0)).draws[0]
    opened = run(brief(shower(clock="open")), system(30.0)).draws[0]
    assert warm.wait_s is not None
    assert opened.end_s - opened.start_s == pytest.approx(300.0, abs=0.01)
    assert warm.end_s - warm.start_s == pytest.approx(300.0 + warm.wait_s, abs=0.3)


def test_stops_cost_time_but_hardly_water():
    plain = run(brief(shower()), system(30.0)).draws[0]
    stopped = run(brief(shower(stops=2, stop_s=60.0)), system(30.0)).draws[0]
    assert stopped.end_s - stopped.start_s == pytest.approx(
        plain.end_s - plain.start_s + 120, abs=1
    )
    assert stopped.used_m3 == pytest.approx(plain.used_m3, rel=0.01)


def test_throttling_stretches_the_store():
    full = run(brief(shower(duration_s=900.0)), system()).draws[0]
    half = run(brief(shower(duration_s=900.0, flow_m3_per_s=3.5e-5)), system()).draws[0]
    assert half.flow_m3_per_s == pytest.approx(3.5e-5, rel=0.01)
    assert half.comfort_s > 1.5 * full.comfort_s
    assert half.pulsing


def test_draws_queue_when_they_overlap():
    outcome = run(brief(shower(), shower(2, start_s=25260.0)), system(30.0))
    first, second = outcome.draws
    assert second.start_s == pytest.approx(first.end_s)


def test_the_second_in_a_row_is_colder_and_recovers_with_time():
    soon = run(brief(shower(), shower(2, start_s=25600.0)), system()).draws
    late = run(brief(shower(), shower(2, start_s=40000.0)), system()).draws
    assert soon[1].comfort_s < soon[0].comfort_s
    assert late[1].comfort_s == pytest.approx(late[0].comfort_s, rel=0.1)
    assert late[0].ready_again_s is not None
    assert soon[0].ready_again_s is None


def test_a_window_keeps_the_element_off():
    built = system()
    early = changed(built, "element", window_start_s=3600.0, window_end_s=7200.0)
    log = run(brief(day_start="cold"), early).timeline.log
    on = log[log[:, columns.ELEMENT] > 0]
    assert on[:, columns.END].min() >= 3600
    assert on[:, columns.END].max() <= 7200 + 1e-6
    night = changed(built, "element", window_start_s=82800.0, window_end_s=3600.0)
    log = run(brief(day_start="cold"), night).timeline.log
    on = log[log[:, columns.ELEMENT] > 0]
    assert ((on[:, columns.END] <= 3600 + 1e-6) | (on[:, columns.END] > 82800)).all()


def test_a_store_whose_hours_are_over_is_not_hot_again():
    built = system()
    early = changed(built, "element", window_start_s=0.0, window_end_s=25200.0)
    draw = run(brief(shower(duration_s=400.0)), early).draws[0]
    assert draw.ready_again_s is None
    always = run(brief(shower(duration_s=400.0)), built).draws[0]
    assert always.ready_again_s is not None and 600 < always.ready_again_s < 3600
    rinse = run(brief(shower(duration_s=5.0, clock="open", low_c=10.0)), system(60.0)).draws[0]
    assert rinse.ready_again_s is not None and rinse.ready_again_s < 600


def test_both_sources_share_the_work():
    both = usual_route(tank_m3=0.1, store_m3=0.02, element=Element(id="element", power_w=800.0),
                       burner=Burner(id="burner", input_w=1500.0, efficiency=0.8))  # fmt: skip
    balance = simulate(brief(day_start="cold"), both, MILD).timeline.balance
    heats = balance.sources_j
    assert heats["element"] > 0 and heats["burner"] > 0
    # both heat from the first minute, 800 W and 1200 W
    assert heats["burner"] / heats["element"] == pytest.approx(1.5, rel=0.15)


def test_nothing_happens_without_draws_but_the_loss():
    outcome = run(brief(), system())
    balance = outcome.timeline.balance
    assert outcome.draws == ()
    assert sum(balance.taken_kg.values()) == pytest.approx(0.0, abs=1e-9)
    mean_loss = balance.store_loss_j / 86400
    loss_w_per_k = sum(outcome.timeline.vessels[0].losses_w_per_k)
    assert mean_loss == pytest.approx(loss_w_per_k * (64 - 18), rel=0.1)


def test_somebody_gives_up_when_it_stays_cold():
    """A store of 8 L cannot carry eight minutes; ten seconds under 34 °C end the wash."""
    long: dict[str, Any] = {"duration_s": 480.0, "low_c": 37.0}
    stays = run(brief(shower(**long)), system(8.0))
    goes = run(brief(shower(**long, gives_up_c=34.0)), system(8.0))
    assert goes.draws[0].end_s < stays.draws[0].end_s - 60.0
    assert goes.draws[0].final_c == pytest.approx(34.0 - 10.0 * 0.4, abs=1.5)  # sags 0.4 K/s
    assert goes.draws[0].used_m3 < stays.draws[0].used_m3
    assert not goes.draws[0].met
    never = run(brief(shower(**long, gives_up_c=5.0)), system(8.0))
    assert never.draws[0].end_s == stays.draws[0].end_s


def test_who_waits_for_hot_again_is_warm_for_longer():
    pair: dict[str, Any] = {"start_s": 25500.0}
    at_once = run(brief(shower(), shower(2, **pair)), system(10.0))
    waits = run(brief(shower(), shower(2, **pair, waits_hot=True)), system(10.0))
    assert waits.draws[1].start_s > at_once.draws[1].start_s + 300.0
    assert waits.draws[1].comfort_s > at_once.draws[1].comfort_s
    ready = at_once.draws[0].ready_again_s
    assert ready is None or waits.draws[1].start_s == pytest.approx(
        at_once.draws[0].end_s + ready, abs=300.0
    )
