"""From cold to hot, how hard heaters work, drops in the air, litres from a gauge."""

from __future__ import annotations

from math import log

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.errors import CannotBe
from isotherma.core.hydraulics.levels import Gauge, TankShape, litres_at, reading_at
from isotherma.core.results.damp import arrives
from isotherma.core.results.duty import duties, hottest_at_rest_c
from isotherma.core.results.heating import heat_ups
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.kinds.use import ShowerHead
from isotherma.core.thermal.drops import CHEST_SHARE, arrives_c, fall_share
from isotherma.services.runs import compute
from tests.networks import FACTOR, network, pipe, pump, tank, tap
from tests.support import brief, changed, run, shower, system


def outcome_of(project):
    found = compute(project, project.variants[0])
    assert isinstance(found, Outcome)
    return found


@pytest.fixture(scope="module")
def coil():
    return outcome_of(folio())


# --- cold to hot ---


def test_a_store_heats_as_the_closed_form_says():
    """C/U ln((P − U(T0 − Ta)) / (P − U(T1 − Ta))) with a heater at the bottom."""
    outcome = run(brief(shower(), cold_water_c=10.0), changed(system(), "store", loss_w_per_k=1.0))
    for item in heat_ups(outcome.setup, outcome.timeline):
        vessel = outcome.timeline.vessels[0]
        source = next(one for one in outcome.timeline.sources if one.id == item.source)
        low = round(vessel.layers * (1 - item.share))
        capacity = (vessel.layer_j_per_k + vessel.aside_j_per_k) * (vessel.layers - low)
        loss = sum(vessel.losses_w_per_k[low:])
        power, air = source.power_w, vessel.air_c
        expected = (
            capacity
            / loss
            * log((power - loss * (item.start_c - air)) / (power - loss * (item.target_c - air)))
        )
        assert item.takes_s == pytest.approx(expected, rel=1e-6)
    assert heat_ups(outcome.setup, outcome.timeline)


def test_a_weak_element_never_gets_there():
    built = changed(changed(system(), "store", loss_w_per_k=5.0), "element", power_w=50.0)
    outcome = run(brief(shower()), built)
    found = heat_ups(outcome.setup, outcome.timeline)
    item = next(one for one in found if one.source == "element")
    assert item.takes_s is None


def test_a_coil_is_slower_than_its_heater_alone(coil):
    """5 kW into 28 L would take 20 min from 16 to 60 °C; 150 W/K slows the last degrees."""
    by_coil = next(item for item in heat_ups(coil.setup, coil.timeline) if item.source == "heater")
    assert by_coil.least and by_coil.takes_s is not None
    alone = 28e-3 * 990 * 4180 * (by_coil.target_c - by_coil.start_c) / 5000.0
    assert alone < by_coil.takes_s < 2 * alone


# --- fire ---


def test_the_share_of_full_fire_is_heat_over_time(coil):
    (heater,) = [item for item in duties(coil) if item.id == "heater"]
    assert heater.share is not None and 0.0 < heater.share <= 1.0
    heat = coil.timeline.balance.bodies_j["heater"]
    assert heater.fired_s * 5000.0 * heater.share == pytest.approx(heat, rel=1e-6)
    assert heater.starts >= 1.0


def test_a_through_flow_heater_at_little_flow_burns_low():
    shares = []
    for flow in (1.0, 0.5):
        layout = layouts()["two-knob-selector"]
        draws = tuple(
            draw.model_copy(update={"flow_m3_per_s": flow * 6e-3 / 60}) for draw in
            layout.brief.draws
        )  # fmt: skip
        outcome = run(layout.brief.model_copy(update={"draws": draws}), layout.system)
        shares += [item.share for item in duties(outcome) if item.share is not None]
    assert shares and all(0.0 < share <= 1.0 for share in shares)


def test_the_hottest_layer_is_not_colder_than_where_heating_ends():
    outcome = outcome_of(drover())
    hottest = hottest_at_rest_c(outcome)
    assert hottest is not None and 55.0 < hottest < 80.0
    bare = network([tank(), pump(), tap()], [pipe("tank", "pump"), pipe("pump", "tap")])
    assert hottest_at_rest_c(run(brief(shower(outlet="tap")), bare)) is None


# --- drops ---


def test_drops_lose_what_was_measured():
    """4.5 K ordinary and 10 K fine at 38 °C; the chest has a part of it."""
    for fine, fall in ((False, 4.5), (True, 10.0)):
        chest, tray = arrives_c(38.0, 18.0, fine_holes=fine)
        assert 38.0 - tray == pytest.approx(fall)
        assert 38.0 - chest == pytest.approx(CHEST_SHARE * fall)


@given(st.floats(-20, 60), st.floats(-30, 45), st.booleans())
def test_drops_end_between_the_head_and_the_air(head, air, fine):
    chest, tray = arrives_c(head, air, fine_holes=fine)
    assert min(head, air) - 1e-9 <= tray <= chest + 1e-9 <= head + 2e-9
    assert 0.0 < fall_share(air, fine_holes=fine) <= 0.9


def test_a_tap_has_no_chest_below_it():
    outcome = outcome_of(curlew())
    found = {draw.draw.id: arrives(outcome, index) for index, draw in enumerate(outcome.draws)}
    assert found["hands"] is None
    falls = [item for item in found.values() if item is not None]
    assert falls and all(item.tray_c < item.chest_c < item.head_c for item in falls)


# --- gauges ---

BOX = TankShape(1.0, 0.4, 0.25)
WHOLE = Gauge(0.0, 0.25)


def test_a_box_reads_straight():
    assert BOX.volume_m3 == pytest.approx(0.1)
    assert litres_at(0.5, BOX, WHOLE)[0] == pytest.approx(0.05, rel=1e-3)
    assert reading_at(0.03, BOX, WHOLE) == pytest.approx(0.3, abs=2e-3)


def test_a_tank_wider_above_holds_less_than_half_at_half_height():
    """A frustum of 1:1.5 sides: (1 + 1.25 + 1.25²) / (1 + 1.5 + 1.5²) of 1/2."""
    tapered = TankShape(1.0, 0.4, 0.25, top_share=1.5)
    expected = 0.5 * (1 + 1.25 + 1.25**2) / (1 + 1.5 + 1.5**2)
    assert litres_at(0.5, tapered, WHOLE)[0] / tapered.volume_m3 == pytest.approx(
        expected, rel=1e-3
    )


def test_a_float_that_stops_short_gives_a_range():
    offset = Gauge(0.03, 0.22)
    low, high = litres_at(0.0, BOX, offset)
    assert low == 0.0 and high == pytest.approx(0.012, rel=1e-2)
    low, high = litres_at(1.0, BOX, offset)
    assert low == pytest.approx(0.088, rel=1e-2) and high == pytest.approx(0.1)
    assert reading_at(0.005, BOX, offset) == 0.0 and reading_at(0.1, BOX, offset) == 1.0


def test_nose_up_a_gauge_in_front_reads_too_little():
    ahead = Gauge(0.0, 0.25, ahead_m=0.4)
    level = reading_at(0.05, BOX, ahead)
    up = reading_at(0.05, BOX, ahead, nose_up_deg=3.0)
    assert up == pytest.approx(level - 0.4 * 0.052408 / 0.25, abs=3e-3)
    assert reading_at(0.05, BOX, WHOLE, nose_up_deg=3.0) == pytest.approx(level, abs=3e-3)
    assert litres_at(up, BOX, ahead, nose_up_deg=3.0)[0] == pytest.approx(0.05, rel=5e-3)


@given(st.floats(0.001, 0.08), st.floats(-8, 8), st.floats(-8, 8), st.floats(0.7, 1.6))
def test_litres_and_readings_turn_each_other_round(volume, pitch, roll, top):
    shape = TankShape(0.9, 0.4, 0.3, top)
    gauge = Gauge(-0.5, 0.8, ahead_m=0.2, right_m=-0.1)  # reads past floor and lid: no stop
    volume = min(volume, 0.98 * shape.volume_m3)
    share = reading_at(volume, shape, gauge, nose_up_deg=pitch, right_down_deg=roll)
    low, high = litres_at(share, shape, gauge, nose_up_deg=pitch, right_down_deg=roll)
    assert low == high == pytest.approx(volume, rel=1e-3, abs=2e-6)


@pytest.mark.parametrize("make", [
    lambda: TankShape(0.0, 0.4, 0.2), lambda: TankShape(1.0, 0.4, 0.2, -1.0),
    lambda: Gauge(0.2, 0.2), lambda: litres_at(0.5, BOX, WHOLE, nose_up_deg=45.0),
])  # fmt: skip
def test_a_tank_or_gauge_that_cannot_be_is_refused(make):
    with pytest.raises(CannotBe):
        make()


@pytest.mark.parametrize(
    ("style", "factor", "fine"),
    [("fine holes", 6.0, True), ("fine holes", None, True), (None, 3.0, True), (None, 5.0, False),
     (None, None, False), ("rain", 8.0, False)],
)  # fmt: skip
def test_a_head_makes_fine_drops_by_its_style_or_by_how_little_it_passes(style, factor, fine):
    given = None if factor is None else factor * FACTOR
    assert ShowerHead(id="head", style=style, flow_factor_si=given).fine_drops() == fine
