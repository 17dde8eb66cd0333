"""What runs must bear: hot by what heats them, pressure by what pumps them."""

from __future__ import annotations

import pytest

from isotherma.core.joints.bearing import what_runs_bear
from isotherma.core.system import System
from tests.core.checks.designs import doc, part, pipe

BAR = 1e5
WARM = doc(
    part("tank", "fresh_tank", volume_m3=0.05), part("pump", "pump", cut_out_pa=2.4 * BAR),
    part("tee", "split"), part("check", "check_valve"), part("store", "store", nature="closed"),
    part("element", "element", fitted_in="store", set_c=65.0), part("relief", "relief"),
    part("mixer", "thermostatic_mixer", set_c=42.0), part("head", "shower_head"),
    pipe("tank.outlet", "pump.inlet"), pipe("pump.outlet", "tee.inlet"),
    pipe("tee.outlet", "check.inlet"), pipe("check.outlet", "store.inlet"),
    pipe("store.relief", "relief.inlet"), pipe("store.outlet", "mixer.hot"),
    pipe("tee.branch", "mixer.cold"), pipe("mixer.outlet", "head.inlet"),
)  # fmt: skip


def bears(document):
    return what_runs_bear(System.model_validate(document))


def with_part(document, key, **values):
    parts = [{**one, **values} if one["id"] == key else one for one in document["parts"]]
    return {**document, "parts": parts}


def test_hot_is_what_leaves_the_store_up_to_a_mixer_that_cools_it():
    found = bears(WARM)
    assert {key for key, one in found.items() if one.hot} == {"store-relief", "store-mixer"}
    assert found["store-mixer"].hot_c == 65.0 and found["mixer-head"].hot_c is None
    assert not any(one.coolant for one in found.values())


@pytest.mark.parametrize(("set_c", "hot"), [(48.0, False), (49.0, True)])
def test_a_mixer_set_over_48_sends_hot_on(set_c, hot):
    found = bears(with_part(WARM, "mixer", set_c=set_c))
    assert found["mixer-head"].hot is hot
    assert not found["tee-mixer"].hot  # what comes in cold stays cold


def test_a_mixer_in_the_hand_may_send_all_of_it():
    document = with_part(WARM, "mixer", kind="manual_mixer")
    document["parts"] = [
        {key: value for key, value in one.items() if one["id"] != "mixer" or key != "set_c"}
        for one in document["parts"]
    ]
    assert bears(document)["mixer-head"].hot_c == 65.0


def test_without_a_check_valve_the_cold_feed_is_still_cold_but_a_tee_behind_it_is_not():
    """Hot water is followed from what leaves a store, not back through its inlet."""
    bare = [run for run in WARM["runs"] if not run["id"].startswith(("tee-check", "check-"))]
    joined = {**WARM, "runs": [*bare, pipe("tee.outlet", "store.inlet")]}
    joined["parts"] = [one for one in WARM["parts"] if one["id"] != "check"]
    found = bears(joined)
    assert not found["tee-store"].hot and found["store-mixer"].hot


def test_pressure_is_the_pumps_cut_out_behind_it_and_none_before():
    found = bears(WARM)
    assert found["tank-pump"].pressure_pa == 0.0
    behind = ("pump-tee", "check-store", "store-mixer", "store-relief", "mixer-head")
    assert {found[key].pressure_pa for key in behind} == {2.4 * BAR}


def test_nobodys_cut_out_is_not_known():
    assert bears(with_part(WARM, "pump", cut_out_pa=None))["pump-tee"].pressure_pa is None


def test_an_open_vented_store_hands_no_pressure_on():
    found = bears(with_part(WARM, "store", nature="open vented"))
    assert found["store-mixer"].pressure_pa == 2.4 * BAR  # through the mixer, from its cold side
    alone = {**WARM, "runs": [run for run in WARM["runs"] if run["id"] != "tee-mixer"]}
    assert bears(with_part(alone, "store", nature="open vented"))["store-mixer"].pressure_pa == 0.0


def test_a_pitch_presses_up_to_its_reducer_and_its_setting_behind():
    document = doc(
        part("pitch", "pressurised_inlet", pressure_pa=4.0 * BAR),
        part("reducer", "reducer", set_pa=1.5 * BAR), part("tap", "tap"),
        pipe("pitch.outlet", "reducer.inlet"), pipe("reducer.outlet", "tap.inlet"),
    )  # fmt: skip
    found = bears(document)
    assert found["pitch-reducer"].pressure_pa == 4.0 * BAR
    assert found["reducer-tap"].pressure_pa == 1.5 * BAR


def test_a_primary_is_hot_all_round_and_nobody_drinks_from_it():
    document = doc(
        part("heater", "liquid_heater", set_c=75.0), part("pump", "circulation_pump"),
        part("store", "store", nature="closed"), part("coil", "coil", fitted_in="store"),
        part("tap", "tap"),
        pipe("heater.outlet", "pump.inlet"), pipe("pump.outlet", "coil.inlet"),
        pipe("coil.outlet", "heater.inlet"), pipe("store.outlet", "tap.inlet"),
    )  # fmt: skip
    found = bears(document)
    assert all(one.hot and one.hot_c == 75.0 for one in found.values())
    assert {key for key, one in found.items() if one.coolant} == {
        "heater-pump", "pump-coil", "coil-heater"}  # fmt: skip
