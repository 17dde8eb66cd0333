"""Each check by a flawed design that it finds and a mended twin that it does not."""

from __future__ import annotations

import copy

import pytest

from isotherma.core.checks.found import CHECKS, Severity
from tests.core.checks.designs import GAS, OPEN, STORE, Doc, bands, looked, mended

# id, severity, the sound design, what makes it flawed, rule set
FLAWS: tuple[tuple[str, str, Doc, Doc, str], ...] = (
    ("air.open-flue", "stop", GAS, {"parts.heater.sealed": "open flue"}, "uk-eu"),
    ("air.label-outdoors", "stop", GAS, {"parts.heater.limits": ["outdoors only"]}, "uk-eu"),
    ("air.flue-missing", "fix", GAS, {"parts.end.fitted_in": None}, "uk-eu"),
    ("air.terminal-opening", "stop", GAS, {"parts.end.to_opening_m": 0.2}, "uk-eu"),
    ("air.terminal-opening", "fix", GAS, {"parts.end.to_opening_m": 0.4}, "uk-eu"),
    ("air.terminal-filler", "fix", GAS, {"parts.end.to_filler_m": 0.4}, "uk-eu"),
    ("air.bottle-inside", "stop", GAS, {"parts.bottle.space": "living"}, "uk-eu"),
    ("air.locker-seal", "fix", GAS, {"spaces.locker.sealed_from": []}, "uk-eu"),
    ("air.alarm", "watch", GAS, {"parts.alarm.warns_of": "carbon monoxide"}, "uk-eu"),
    ("air.alarm", "fix", GAS, {"parts.alarm.warns_of": "carbon monoxide"}, "north-america"),
    ("air.alarm", "fix", GAS, {"parts.alarm.dated": "2024-01-01"}, "uk-eu"),
    ("gas.drop-vent", "fix", GAS, {"spaces.locker.low_vent_m2": 0.006}, "uk-eu"),
    ("gas.drop-vent", "stop", GAS, {"spaces.locker.low_vent_m2": 0.001}, "uk-eu"),
    ("gas.pressure-match", "stop", GAS, {"parts.reg.set_pa": 5000.0}, "uk-eu"),
    ("gas.pressure-match", "fix", GAS, {"parts.reg.set_pa": 2000.0}, "uk-eu"),
    ("gas.pressure-match", "watch", GAS, {"parts.reg.set_pa": 3400.0}, "uk-eu"),
    ("gas.pipe-drop", "fix", GAS, {"runs.reg-valve.length_m": 5.0}, "uk-eu"),
    ("gas.regulator-small", "fix", GAS, {"parts.reg.rated_kg_per_s": 0.5 / 3600}, "uk-eu"),
    ("gas.isolation", "fix", GAS, {"parts.valve.space": "outside"}, "uk-eu"),
    ("gas.hose-fixed", "fix", GAS, {"runs.valve-heater.way": "hose",
                                    "runs.valve-heater.dated": "2026-01"}, "uk-eu"),
    ("gas.high-pressure", "fix", GAS, {"parts.reg.space": "living"}, "uk-eu"),
    ("gas.hose-date", "watch", GAS, {"parts.reg.dated": "2020-01-01"}, "uk-eu"),
    ("gas.hose-date", "fix", GAS, {"parts.reg.dated": "2015-01-01"}, "uk-eu"),
    ("gas.clips", "fix", GAS, {"runs.reg-valve.clips": 0, "runs.reg-valve.length_m": 1.5}, "uk-eu"),
    ("gas.clips", "watch", GAS, {"runs.reg-valve.clips": 1, "runs.reg-valve.length_m": 2.0},
     "uk-eu"),
    ("gas.bottle-held", "fix", GAS, {"parts.bottle.stands": "lying"}, "uk-eu"),
    ("settings.gas-screw", "stop", GAS, {"parts.heater.gas_setting": "changed"}, "uk-eu"),
    ("pressure.relief-setting", "fix", STORE, {"parts.relief.set_pa": 2.5e5}, "uk-eu"),
    ("pressure.relief-setting", "stop", STORE, {"parts.store.max_pa": 3e5}, "uk-eu"),
    ("pressure.relief-outlet", "fix", STORE, {"parts.relief.outside": False}, "uk-eu"),
    ("pressure.heat-relief", "fix", STORE, {"parts.relief.opens_c": None}, "north-america"),
    ("pressure.hot-plastic", "stop", STORE, {"runs.store-mixer.max_c": 45.0}, "uk-eu"),
    ("pressure.hot-plastic", "fix", STORE, {"runs.store-mixer.max_c": 60.0}, "uk-eu"),
    ("pressure.vent", "watch", STORE, {"parts.tank.vent_bore_m": 0.004}, "uk-eu"),
    ("dry.no-cutout", "stop", STORE, {"parts.cutout.guards": "pump"}, "uk-eu"),
    ("dry.cutout-setting", "fix", STORE, {"parts.cutout.opens_c": 99.0}, "uk-eu"),
    ("dry.cutout-setting", "fix", STORE, {"parts.cutout.opens_c": 62.0}, "uk-eu"),
    ("dry.cutout-reset", "watch", STORE, {"parts.cutout.resets": "by itself"}, "uk-eu"),
    ("dry.no-interlock", "stop", OPEN, {"parts.lock.guards": "pump"}, "uk-eu"),
    ("dry.interlock-level", "fix", OPEN, {"parts.lock.trips_at_share": 0.22}, "uk-eu"),
    ("dry.sensor-fail", "fix", OPEN, {"parts.lock.fails": "lets it run"}, "uk-eu"),
    ("dry.state", "stop", STORE, {"states.away.positions": [{"part": "pump", "at": "off"}]},
     "uk-eu"),
    ("electric.fuse-cable", "stop", STORE, {"runs.fuse-switch.area_m2": 1.5e-6}, "uk-eu"),
    ("electric.fuse-cable", "watch", STORE, {"runs.battery-fuse.length_m": 0.5}, "uk-eu"),
    ("electric.fuse-cable", "fix", STORE, {"runs.battery-fuse.length_m": 2.0}, "uk-eu"),
    ("electric.load-fuse", "fix", STORE, {"parts.fuse.fuse_a": 10.0}, "uk-eu"),
    ("electric.switch-rating", "fix", STORE, {"parts.switch.amps_a": 10.0}, "uk-eu"),
    ("electric.volts", "fix", STORE, {"parts.pump.volts_v": 6.0}, "uk-eu"),
    ("electric.drop", "fix", STORE, {"runs.pumpfuse-pump.length_m": 20.0,
                                     "runs.pumpfuse-pump.area_m2": 1e-6}, "uk-eu"),
    ("electric.pump-live", "watch", STORE, {"states.away.positions": [
        {"part": "element", "at": "off"}]}, "uk-eu"),
    ("backflow.mixer-checks", "watch", STORE, {"parts.mixer.checks": "none"}, "uk-eu"),
    ("material.drinking", "fix", STORE, {"parts.head.kind": "bottle_fill",
                                         "parts.pump.drinking": "not fit"}, "uk-eu"),
    ("flood.no-tray", "watch", STORE, {"parts.head.falls_to": None}, "uk-eu"),
    ("flood.hidden", "watch", STORE, {"parts.pump.reach": "behind another part",
                                      "parts.pump.behind": "battery"}, "uk-eu"),
    ("weight.restraint", "fix", STORE, {"parts.tank.held": "loose"}, "uk-eu"),
    ("weight.slosh", "watch", STORE, {"parts.tank.volume_m3": 0.07, "parts.tank.baffled": False},
     "uk-eu"),
)  # fmt: skip


@pytest.mark.parametrize(
    ("of", "severity", "sound", "flaw", "rules"),
    FLAWS,
    ids=[f"{row[0]}-{row[1]}-{place}" for place, row in enumerate(FLAWS)],
)
def test_a_flaw_is_found_and_its_mended_twin_is_not(of, severity, sound, flaw, rules):
    found = looked(mended(sound, flaw), rules)
    assert severity in bands(found, of)
    assert severity not in bands(looked(copy.deepcopy(sound), rules), of)


UNKNOWNS: tuple[tuple[str, Doc, Doc, str], ...] = (
    ("gas.pressure-match", GAS, {"parts.reg.set_pa": None}, "parts.reg.set_pa"),
    ("gas.drop-vent", GAS, {"spaces.locker.low_vent_m2": None}, "spaces.locker.low_vent_m2"),
    ("gas.regulator-small", GAS, {"parts.reg.rated_kg_per_s": None}, "parts.reg.rated_kg_per_s"),
    ("air.open-flue", GAS, {"parts.heater.sealed": None}, "parts.heater.sealed"),
    ("settings.gas-screw", GAS, {"parts.heater.gas_setting": None}, "parts.heater.gas_setting"),
    ("dry.no-cutout", GAS, {"parts.heater.limit_c": None}, "parts.heater.limit_c"),
    ("pressure.relief-setting", STORE, {"parts.relief.set_pa": None}, "parts.relief.set_pa"),
    ("pressure.relief-outlet", STORE, {"parts.relief.outside": None}, "parts.relief.outside"),
    ("dry.cutout-reset", STORE, {"parts.cutout.resets": None}, "parts.cutout.resets"),
    ("backflow.mixer-checks", STORE, {"parts.mixer.checks": None}, "parts.mixer.checks"),
    ("electric.fuse-cable", STORE, {"parts.fuse.fuse_a": None}, "parts.fuse.fuse_a"),
    ("pressure.vent", STORE, {"parts.tank.vent_bore_m": None}, "parts.tank.vent_bore_m"),
)  # fmt: skip


@pytest.mark.parametrize(("of", "sound", "gap", "needs"), UNKNOWNS, ids=lambda v: str(v)[:24])
def test_what_nobody_said_is_not_known_and_says_what_it_needs(of, sound, gap, needs):
    [found] = [one for one in looked(mended(sound, gap))
               if one.id == of and one.severity is Severity.UNKNOWN
               and needs in one.needs]  # fmt: skip
    assert found.values["subject"]


def test_sound_designs_have_no_stop_and_nothing_to_fix():
    for sound in (GAS, STORE, OPEN):
        serious = [one.id for one in looked(copy.deepcopy(sound))
                   if one.severity in (Severity.STOP, Severity.FIX)]  # fmt: skip
        assert serious == []


def test_gas_not_tested_is_not_known_and_a_high_place_asks_the_maker():
    untested = {**copy.deepcopy(GAS), "gas_tested_on": None}
    assert bands(looked(untested), "gas.tested") == {"unknown"}
    high = looked(copy.deepcopy(GAS), altitude_m=1800.0)
    assert bands(high, "air.altitude") == {"unknown"}
    assert bands(looked(copy.deepcopy(GAS), altitude_m=400.0), "air.altitude") == set()


@pytest.mark.parametrize(("payload", "severity"), [(50.0, "stop"), (75.0, "watch"), (900.0, "")])
def test_payload_is_held_against_what_all_weighs(payload, severity):
    weighing = {**copy.deepcopy(STORE), "vehicle": {"payload_kg": payload}}
    for one in weighing["parts"]:
        one["dry_mass_kg"] = 0.0
    found = [one for one in looked(weighing) if one.id == "weight.payload"]
    known = {one.severity.value for one in found} - {"unknown"}
    # 70 L of water, a kilogram or two of pipe and fittings, all else weighs nothing here
    assert known == ({severity} if severity else set()) or (payload == 50.0 and "stop" in known)


def test_one_finding_in_all_states_has_none_and_else_one_each():
    found = looked(mended(STORE, {"parts.relief.outside": False}))
    [outlet] = [one for one in found if one.id == "pressure.relief-outlet"]
    assert outlet.state is None
    dry = looked(mended(STORE, {"states.away.positions": [{"part": "pump", "at": "off"}]}))
    [state] = [one for one in dry if one.id == "dry.state"]
    assert state.state == "away"


def test_the_worst_comes_first_and_every_check_has_its_words():
    found = looked(mended(GAS, {"parts.heater.sealed": "open flue"}))
    order = ["stop", "fix", "unknown", "watch"]
    ranks = [order.index(one.severity.value) for one in found]
    assert ranks == sorted(ranks) and found[0].id == "air.open-flue"
    assert len(CHECKS) == 118
