"""Bands, what fails, damp and frost."""

from __future__ import annotations

from math import inf, log

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from isotherma import catalogue
from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.climate import Climate
from isotherma.core.engine import columns
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.damp import saturated_kg_per_m3, vapour_of, vapours
from isotherma.core.results.failure_modes import dry_fires, if_fails
from isotherma.core.results.frost import freezes, freezing_s
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.series import day_series
from isotherma.core.results.uncertainty import make_band, uncertain_inputs
from isotherma.core.simulate import simulate
from isotherma.core.system.nominal import computed
from isotherma.services.runs import compute, compute_band
from isotherma.wording import cautions
from tests.networks import network, part, pipe, pump, tank, tap
from tests.support import MILD, brief, changed, ran, run, shower, system


def outcome_of(project, variant=0):
    found = compute(project, project.variants[variant])
    assert isinstance(found, Outcome)
    return found


# --- bands ---


@pytest.fixture(scope="module")
def drovers_band():
    """The band of a vehicle, every changed pair of documents, and how far it said it was."""
    project = drover()
    likely = outcome_of(project)
    calls, told = [], []

    def again(asked, built):
        calls.append((asked, built))
        return simulate(asked, built, catalogue.climate(asked))

    band = make_band(
        project.brief, project.variants[0].system, likely, again,
        lambda done, of: told.append((done, of)),
    )  # fmt: skip
    return project, band, calls, told


def test_a_band_tries_every_doubt_and_carries_what_matters(drovers_band):
    project, band, calls, told = drovers_band
    system = project.variants[0].system
    every = uncertain_inputs(project.brief, system, 15.0)
    assert band.runs == len(calls) + 1
    assert band.tried == len(every) > len(band.inputs) > 5
    assert told[0] == (0, len(every)) and told[-1] == (len(every), len(every))
    assert [done for done, _ in told] == sorted(done for done, _ in told)
    paths = {uncertain.path for uncertain in band.inputs}
    assert {"brief.cold_water_c", "parts.element.sensor_lag_s"} <= paths
    assert "parts.store.film_w_per_m2_k" not in paths  # the standing loss has it already


def test_a_band_encloses_what_is_likely(drovers_band):
    _, band, _, _ = drovers_band
    for sensitivity in band.sensitivities:
        if sensitivity.likely is not None and sensitivity.low is not None:
            assert sensitivity.low <= sensitivity.likely + 1e-9
            assert sensitivity.high is None or sensitivity.high >= sensitivity.likely - 1e-9
    gas = band.sensitivity("used.gas")
    assert gas is not None and gas.low is not None and gas.likely is not None
    assert gas.high is not None and gas.low < gas.likely < gas.high
    assert "draw.second-shower" in band.decides
    for key in ("inside.second-shower", "wait.second-shower", "flow.second-shower", "hot.burner"):
        sensitivity = band.sensitivity(key)
        assert (
            sensitivity is not None
            and sensitivity.likely is not None
            and sensitivity.low is not None
        )
        assert sensitivity.moved_by, key


def test_cold_water_moves_the_warm_time_of_a_store(drovers_band):
    """Three degrees colder water is the largest doubt a store shower has; it is never left out."""
    _, band, _, _ = drovers_band
    warm = band.sensitivity("warm.second-shower")
    assert warm is not None and "cold water" in warm.moved_by
    assert warm.low is not None and warm.likely is not None and warm.low < 0.8 * warm.likely


def test_what_nobody_feels_is_not_carried(drovers_band):
    project, band, calls, _ = drovers_band
    carried = {uncertain.path for uncertain in band.inputs}
    assert not any(path.endswith(("freezes_c", "fall_deg", "holds_m3")) for path in carried)
    sides = {"brief" if asked != project.brief else "system" for asked, _ in calls}
    assert sides == {"brief", "system"}


def test_runs_of_a_family_err_together():
    project = folio()
    doubts = uncertain_inputs(project.brief, project.variants[0].system, 12.0)
    bores = [uncertain for uncertain in doubts if uncertain.name == "bore_m"]
    assert len(bores) == 2  # plastic within 1 %, hose within 3 %
    assert max(len(uncertain.each) for uncertain in bores) > 10
    assert len(doubts) < 80


def test_what_was_measured_is_not_doubted():
    asked = brief(shower())
    vague = changed(system(), "store", loss_w_per_k=None, unreachable=None)
    sure = changed(system(), "store", unreachable=0.0, loss_w_per_k=0.5)
    paths = {uncertain.path for uncertain in uncertain_inputs(asked, vague, 10.0)}
    known = {uncertain.path for uncertain in uncertain_inputs(asked, sure, 10.0)}
    assert "parts.store.loss_w_per_k" in paths and "parts.store.loss_w_per_k" not in known
    assert "parts.store.unreachable" in paths and "parts.store.unreachable" not in known
    assert "brief.cold_water_c" not in paths
    open_end = asked.model_copy(update={"cold_water_c": None})
    assert any(
        uncertain.path == "brief.cold_water_c"
        for uncertain in uncertain_inputs(open_end, vague, 10.0)
    )


def test_a_band_without_doubt_is_a_point():
    project = drover()
    likely = outcome_of(project)
    band = make_band(project.brief, project.variants[0].system, likely, lambda *_: likely)
    for sensitivity in band.sensitivities:
        assert sensitivity.low == sensitivity.high == sensitivity.likely
    assert band.decides == ()


def test_the_band_names_what_decides_on_the_coast():
    project = curlew()
    band = compute_band(project, project.variants[0], outcome_of(project))
    assert "budget.battery" in band.decides
    sensitivity = band.sensitivity("used.battery")
    assert (
        sensitivity is not None
        and sensitivity.moved_by
        and "standing loss" in sensitivity.moved_by[0]
    )


# --- if this fails ---


@pytest.fixture(scope="module")
def coil():
    return outcome_of(folio())


def fails(outcome, part_id):
    return if_fails(outcome.setup.computed, outcome.setup.network, part_id)


def test_a_failed_heater_leaves_the_water(coil):
    """The coolant side is shut by its two selectors; the drinking water never stops."""
    out = fails(coil, "heater")
    assert set(out.close) == {"hot-selector", "back-selector"}
    assert all(left.water for left in out.left)
    assert out.bypassed and not out.all_of


def test_a_leaking_store_is_shut_off_at_the_tank(coil):
    out = fails(coil, "store")
    assert out.close == ("shut",)
    assert 28e-3 < out.spilt_m3 < 35e-3
    assert not any(left.water for left in out.left)


def test_a_leaking_tank_spills_all_of_it(coil):
    out = fails(coil, "tank")
    assert out.all_of == ("tank",)
    tank_m3 = next(part for part in coil.setup.network.parts.values() if part.id == "tank")
    assert out.spilt_m3 >= tank_m3.volume_m3


def test_a_flat_battery_takes_pumps_and_heaters_with_it(coil):
    out = fails(coil, "battery")
    assert {"pump", "heater", "circulator"} <= set(out.stopped)
    assert not any(left.water for left in out.left)
    breaker = fails(coil, "breaker")
    assert breaker.stopped == ("back-up",) and all(left.warm for left in breaker.left)


def test_a_blown_fuse_leaves_cold_water():
    out = fails(outcome_of(curlew()), "heat-circuit")
    assert out.stopped == ("element",)
    assert all(left.water and not left.warm for left in out.left)


def test_a_second_outlet_lives_on_when_its_neighbour_is_uncoupled():
    out = fails(outcome_of(curlew()), "head")
    assert out.close == ("join",)
    by_outlet = {left.outlet: left for left in out.left}
    assert by_outlet["basin"].water and not by_outlet["head"].water


@pytest.mark.parametrize("name", layouts())
def test_every_part_of_every_layout_can_fail(name):
    layout = layouts()[name]
    outcome = outcome_of(layout.project())
    tanks = sum(getattr(part, "volume_m3", None) or 0.0 for part in outcome.setup.parts.values())
    for part_id in outcome.setup.parts:
        out = fails(outcome, part_id)
        assert 0.0 <= out.spilt_m3 <= tanks + 0.05
        assert part_id not in out.close
        assert {left.outlet for left in out.left} <= set(outcome.setup.network.ends)


# --- dry fire ---


def test_an_empty_canister_heated_is_hot_soon():
    """60 W into a tube of 200 J/K that loses 0.2 W/K: e^(-t/1000 s) of 300 K."""
    built = network(
        [tank(), pump(), part("can", "canister", volume_m3=0.001, body_j_per_k=200.0,
                              loss_w_per_k=0.2), tap(),
         part("element", "element", fitted_in="can", power_w=60.0)],
        [pipe("tank", "pump", 0.05, 0.02), pipe("pump", "can", 0.05, 0.02),
         pipe("can", "tap", 0.05, 0.02)],
    )  # fmt: skip
    outcome = run(brief(shower(outlet="tap")), built)
    (fire,) = dry_fires(outcome.setup.network, 20.0)
    assert fire.to_limit_s == pytest.approx(-1000.0 * log(1 - 80.0 / 300.0))
    assert fire.reaches_c == pytest.approx(320.0) and fire.stopped_by == ""
    assert any("Nothing drawn stops" in words for words in cautions(outcome, UnitSystem.METRIC))
    limit = part("cut", "high_limit", guards="element", opens_c=90.0, fitted_in="can")
    guarded = type(built).model_validate(
        {**built.model_dump(), "parts": [*(p.model_dump() for p in built.parts), limit]}
    )
    outcome = run(brief(shower(outlet="tap")), guarded)
    (fire,) = dry_fires(outcome.setup.network, 20.0)
    assert fire.reaches_c == 90.0 and fire.stopped_by
    assert not any("Nothing drawn stops" in words for words in cautions(outcome, UnitSystem.METRIC))


def test_a_level_interlock_stops_heat_in_a_low_box():
    layout = layouts()["open-sun-box"]
    climate = catalogue.climate_in("high-plateau", 7)
    heats = []
    for share in (0.05, 0.999):
        built = changed(layout.system, "interlock", trips_at_share=share)
        built = changed(built, "element", rule="always")
        built = changed(built, "store", refill="in batches")
        state = built.states[0] if built.states else None
        _, day = ran(layout.brief, built, state, climate)
        draws = [row for row in day.stretches if 18 * 3600 < row.start_s < 19.5 * 3600]
        heats.append(sum(row.sources_j.get("element", 0.0) for row in draws))
    assert heats[1] < heats[0]


# --- damp ---


def test_saturated_air_is_the_table_s():
    """Steam tables: 17.3 g/m³ at 20 °C, 9.4 at 10, 4.85 at 0."""
    for celsius, grams in ((20.0, 17.3), (10.0, 9.4), (0.0, 4.85), (-10.0, 2.14)):
        assert saturated_kg_per_m3(celsius) * 1e3 == pytest.approx(grams, rel=0.02)


def test_vapour_of_thirty_litres():
    """0.75 × 30 kg × 4186 × 4.5 K / 2.43 MJ/kg = 174 g."""
    ordinary = vapour_of(water_kg=30.0, fine_holes=False, inside_c=18.0, outside_c=3.0)
    assert ordinary.vapour_kg == pytest.approx(0.1744, rel=1e-3)
    fine = vapour_of(water_kg=30.0, fine_holes=True, inside_c=18.0, outside_c=3.0)
    assert fine.vapour_kg == pytest.approx(10.0 / 4.5 * ordinary.vapour_kg)
    assert fine.fan_s > ordinary.fan_s > 0.0
    damp = vapour_of(water_kg=30.0, fine_holes=False, inside_c=18.0, outside_c=18.0)
    assert damp.fan_s == inf
    none = vapour_of(water_kg=0.0, fine_holes=False, inside_c=18.0, outside_c=3.0)
    assert none.fan_s == 0.0 and none.condensed_kg == 0.0


@given(st.floats(1, 80), st.floats(10, 30), st.floats(-20, 9), st.floats(0.01, 0.1))
def test_a_stronger_fan_is_never_slower(water_kg, inside, outside, fan):
    one = vapour_of(water_kg=water_kg, fine_holes=False, inside_c=inside, outside_c=outside,
                    fan_m3_per_s=fan)  # fmt: skip
    two = vapour_of(water_kg=water_kg, fine_holes=False, inside_c=inside, outside_c=outside,
                    fan_m3_per_s=2 * fan)  # fmt: skip
    assert two.fan_s <= one.fan_s


def test_showers_inside_leave_damp_those_outside_do_not():
    inside = vapours(outcome_of(drover()))
    assert [item.draw for item in inside] == [
        "early-shower", "second-shower", "evening-shower", "child-shower",
    ]  # fmt: skip
    hung = layouts()["hung-outside"].project()
    assert vapours(outcome_of(hung)) == ()


# --- frost ---


def test_freezing_is_the_closed_form_s():
    zero, solid = freezing_s(
        heat_j_per_k=8000.0, loss_w_per_k=0.8, water_kg=1.5, start_c=10.0, air_c=-5.0
    )
    run_ = solve_ivp(lambda t, y: [-0.8 / 8000.0 * (y[0] + 5.0)], (0, zero), [10.0], rtol=1e-9)
    assert run_.y[0, -1] == pytest.approx(0.0, abs=1e-3)
    assert solid - zero == pytest.approx(1.5 * 333.6e3 / 4.0)
    assert freezing_s(heat_j_per_k=1.0, loss_w_per_k=1.0, water_kg=1.0, start_c=5.0, air_c=1.0) == (
        inf, inf,
    )  # fmt: skip


def test_what_stands_outside_freezes_first():
    layout = layouts()["hung-outside"]
    frost = Climate(region="x", month=1, air_c=-6.0, swing_k=8.0)
    cold = simulate(layout.brief, layout.system, frost)
    found = freezes(cold.setup, cold.timeline)
    assert found and all(item.air_c < 0.0 for item in found)
    times = [item.to_zero_s for item in found]
    assert times == sorted(times) and all(item.to_solid_s > item.to_zero_s for item in found)
    mild = simulate(layout.brief, layout.system, MILD)
    assert freezes(mild.setup, mild.timeline) == ()


# --- series ---


def test_series_end_where_the_ledger_does(coil):
    series = day_series(coil.setup, coil.timeline)
    entries = {entry.budget: entry for entry in coil.ledger}
    assert series["fresh_m3"][-1] == pytest.approx(entries["fresh"].used_per_day, rel=5e-3)
    assert series["diesel_m3"][-1] == pytest.approx(entries["diesel"].used_per_day, rel=1e-6)
    for name in ("fresh_m3", "grey_m3", "gas_kg", "diesel_m3", "mains_j"):
        assert (series[name][1:] >= series[name][:-1] - 1e-12).all()
    assert len(series["battery_left_j"]) == len(coil.timeline.log)
    assert coil.timeline.log[-1, columns.END] == pytest.approx(86400.0)
    assert computed(coil.setup.system) is not None
