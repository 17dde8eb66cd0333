"""Checks that read the day, the coolant, mains, holes, waste and states: flawed, and mended."""

from __future__ import annotations

from typing import Any

import pytest

from isotherma.core.climate import Climate
from tests.core.checks.designs import (
    GAS,
    OPEN,
    STORE,
    Doc,
    bands,
    cable,
    doc,
    gas_pipe,
    looked,
    mended,
    part,
    pipe,
    run,
)

LITRE, LPM = 1e-3, 1e-3 / 60.0
WARM = Climate(region="south", month=7, air_c=27.0, swing_k=10.0)
DRAW = {"id": "wash", "name": "Wash", "start_s": 64_800.0, "duration_s": 180.0,
        "flow_m3_per_s": 4 * LPM, "low_c": 36.0, "high_c": 42.0}  # fmt: skip
TUBE = {"family": "semi-rigid plastic", "nominal": "15 mm", "joint": "push-in"}
WASH = mended(STORE, {
    "-": ("pump-check",),
    "+": (part("split", "split"), pipe("pump.outlet", "split.inlet"),
          pipe("split.outlet", "check.inlet"), pipe("split.branch", "mixer.cold")),
    "parts.battery.charge_as": 3.6e6,
    "parts.element.rated_w": 800.0, "parts.element.rule": "always",
    "parts.fuse.fuse_a": 80.0, "parts.switch.amps_a": 80.0,
    "brief": {"draws": [DRAW], "days": 3},
})  # fmt: skip
for one in WASH["runs"]:
    if one["kind"] == "pipe":
        one |= {"family": "copper", "nominal": "15 mm"}
    else:
        one |= {"area_m2": 25e-6}
HAND = {"-": ("mixer-head", "mixer", "store-mixer", "split-mixer"),
        "+": (part("hand", "manual_mixer", checks="both legs"),
              pipe("store.outlet", "hand.hot", family="copper", nominal="15 mm"),
              pipe("split.branch", "hand.cold", family="copper", nominal="15 mm"),
              pipe("hand.outlet", "head.inlet", family="copper", nominal="15 mm"))}  # fmt: skip
COLD_TAP = (part("split2", "split"), part("tap", "tap", room="bathroom"))
DIRECT = {"-": ("store-mixer", "mixer-head", "split-mixer", "mixer"),
          "+": (pipe("store.outlet", "head.inlet", family="copper", nominal="15 mm"),
                part("cap", "blanking_cap"),
                pipe("split.branch", "cap.inlet", length_m=0.2, family="copper",
                     nominal="15 mm"))}  # fmt: skip
HOT_HEATER = mended(GAS, {
    "+": (part("tank", "fresh_tank", volume_m3=0.05, vent_bore_m=0.01), part("pump", "pump"),
          part("shut", "shut_off"), part("head", "shower_head", falls_to="tray"),
          part("tray", "tray"), pipe("tank.outlet", "shut.inlet"),
          pipe("shut.outlet", "pump.inlet"), pipe("pump.outlet", "heater.inlet"),
          pipe("heater.outlet", "head.inlet")),
    "parts.heater.control": "two knobs", "parts.heater.gas_share": 1.0,
    "parts.heater.heat_w": 8000.0, "parts.heater.off_flow_m3_per_s": 2.2 * LPM,
    "parts.heater.limit_c": 42.0,
})  # fmt: skip
MIXED_GAS = mended(HOT_HEATER, {
    "-": ("heater-head",),
    "+": (part("mixer", "thermostatic_mixer", set_c=40.0, checks="both legs"), part("tee", "split"),
          pipe("pump.outlet", "tee.inlet"), pipe("tee.outlet", "heater.inlet"),
          pipe("tee.branch", "mixer.cold"), pipe("heater.outlet", "mixer.hot"),
          pipe("mixer.outlet", "head.inlet")),
    "parts.heater.control": "thermostatic", "parts.heater.set_c": 44.0,
    "parts.heater.heat_w": 16_000.0, "parts.heater.off_flow_m3_per_s": 1.5 * LPM,
    "parts.heater.on_flow_m3_per_s": 1.8 * LPM, "parts.pump.open_flow_m3_per_s": 1.7e-4,
    "parts.pump.cut_out_pa": 2.4e5, "brief": {"draws": [DRAW], "days": 3},
})  # fmt: skip
MIXED_GAS["runs"] = [one for one in MIXED_GAS["runs"] if one["id"] != "pump-heater"]
for one in MIXED_GAS["runs"]:
    if one["kind"] == "pipe":
        one |= {"family": "copper", "nominal": "15 mm"}
FLUE = (part("flue", "flue", fitted_in="burns", lagged=True, clear_m=0.2, bore_m=0.024),
        part("end", "terminal", fitted_in="flue", space="below", wall="floor", to_opening_m=0.8,
             to_filler_m=1.0))  # fmt: skip
LOOP = doc(
    part("burns", "liquid_heater", heat_w=5000.0, set_c=58.0, trip_v=10.5, glow_a=10.0),
    *FLUE, part("fuel", "fuel_tank", volume_m3=0.06, kept_m3=0.01, space="below"),
    part("circulator", "circulation_pump"), part("plate", "plate_exchanger", double_wall=True),
    part("vessel", "expansion_vessel", volume_m3=0.003, precharge_pa=0.5e5, cap_pa=1.5e5),
    part("tee", "split"), part("fluid", "primary_fluid", fluid="propylene glycol", fills="plate",
                               antifreeze_share=0.5, volume_m3=0.006),
    part("tank", "fresh_tank", volume_m3=0.05, vent_bore_m=0.01), part("shut", "shut_off"),
    part("pump", "pump"), part("open", "drain"), part("tap", "tap", room="kitchen", drinks=False),
    part("relief", "relief", set_pa=3.5e5, outside=True), part("tee2", "split"),
    part("alarm", "gas_alarm", warns_of="carbon monoxide", dated="2029-01-01"),
    part("battery", "battery", charge_as=360_000.0, volts_v=12.8),
    part("fuse", "circuit", fuse_a=20.0, guard="fuse"),
    run("fuel_pipe", "fuel.outlet", "burns.fuel", outside_m=0.006, space="below"),
    pipe("burns.outlet", "circulator.inlet"), pipe("circulator.outlet", "tee.inlet"),
    pipe("tee.branch", "vessel.inlet"), pipe("tee.outlet", "plate.hot_in"),
    pipe("plate.hot_out", "burns.inlet"), pipe("tank.outlet", "shut.inlet"),
    pipe("shut.outlet", "pump.inlet"), pipe("pump.outlet", "tee2.inlet"),
    pipe("tee2.branch", "relief.inlet"), pipe("tee2.outlet", "plate.cold_in"),
    pipe("plate.cold_out", "tap.inlet"),
    cable("battery.power", "fuse.feed"), cable("fuse.load", "burns.power", length_m=2.0),
    cable("fuse.load", "circulator.power", length_m=2.0),
    states=({"id": "use", "name": "In use", "positions": []},
            {"id": "away", "name": "Away", "dry": ["plate"], "positions": [
                {"part": "burns", "at": "off"}, {"part": "pump", "at": "off"},
                {"part": "circulator", "at": "off"}]}),
)  # fmt: skip
MAINS = doc(
    part("pitch", "hook_up", amps_a=10.0, volts_v=230.0),
    part("breaker", "circuit", fuse_a=10.0, guard="breaker with residual current", earthed=True),
    part("cut", "switch", amps_a=16.0), part("store", "store", volume_m3=0.02, held="bolted"),
    part("element", "element", fitted_in="store", set_c=60.0, rated_w=1000.0, rated_v=230.0),
    part("cutout", "high_limit", fitted_in="store", guards="element", opens_c=85.0,
         resets="by hand"),
    cable("pitch.load", "breaker.feed", area_m2=2.5e-6),
    cable("breaker.load", "cut.feed", area_m2=2.5e-6),
    cable("cut.load", "element.power", area_m2=2.5e-6),
)  # fmt: skip
PANEL = doc(
    part("panel", "panel", count=2, short_a=10.0, open_v=40.0, rated_w=200.0),
    part("element", "element", fitted_in="store", set_c=60.0, rated_w=300.0, direct_current=True),
    part("store", "store", volume_m3=0.02), part("cutout", "high_limit", guards="element",
                                                 fitted_in="store", opens_c=85.0),
    cable("panel.load", "element.power", area_m2=6e-6),
)  # fmt: skip
HOLED = doc(
    part("flue", "flue", bore_m=0.06, fitted_in="heater"),
    part("heater", "through_flow_gas", sealed="room sealed"),
    part("bottle", "gas_bottle", space="locker", gas_kg=6.0),
    holes=[{"id": "hole", "name": "Flue hole", "first": "locker", "second": "living",
            "for_part": "flue", "bore_m": 0.062, "edge_treated": True, "sealed": True,
            "behind": "nothing"}], vehicle={"holes_at_most": 2},
)  # fmt: skip
WASTE = mended(WASH, {
    "+": (part("grey", "grey_tank", volume_m3=0.06, space="below"),
          run("pipe", "tray.outlet", "grey.inlet", family="waste pipe", nominal="40 mm",
              rise_m=-0.2)),
    "parts.tray.length_m": 0.7, "parts.tray.breadth_m": 0.6, "parts.tray.rim_m": 0.08,
    "parts.tray.fall_deg": 2.0, "parts.tray.drain_at": "middle",
})  # fmt: skip
TAKES_OUT = part("river", "outside_source", space="outside")
MIXED = {"id": "part", "kind": "loop_pump"}
APART = part("half", "coupling", sealing="neither")

# id, severity, sound, flaw, how it is looked at
FLAWS: tuple[tuple[str, str, Doc, Doc, Doc], ...] = (
    ("scald.outlet", "fix", WASH, {"parts.mixer.set_c": 48.0}, {}),
    ("scald.outlet", "stop", WASH, DIRECT | {"parts.element.set_c": 70.0}, {}),
    ("scald.child", "fix", WASH, {"parts.mixer.set_c": 46.0, "brief": {
        "draws": [DRAW | {"child": True}], "days": 3}}, {}),
    ("scald.second-tap", "fix", WASH, HAND, {}),
    ("scald.low-flow", "fix", HOT_HEATER, {"parts.heater.limit_c": 50.0}, {}),
    ("scald.low-flow", "stop", HOT_HEATER, {"parts.heater.limit_c": 75.0}, {}),
    ("scald.no-mixer", "fix", WASH, DIRECT, {}),
    ("scald.no-mixer", "watch", WASH, HAND, {}),
    ("bacteria.store", "watch", WASH, {"parts.element.set_c": 42.0}, {}),
    ("bacteria.cold-layer", "watch", mended(WASH, {"parts.element.set_c": 65.0}),
     {"parts.element.set_c": 60.0}, {}),
    ("bacteria.loop", "fix", WASH, {"+": (part("loop", "loop_pump", rule="continuous"),
                                          part("tee", "split"),
                                          pipe("tee.branch", "loop.inlet"),
                                          pipe("mixer.outlet", "tee.inlet"),
                                          pipe("tee.outlet", "head.inlet")),
                                    "-": ("mixer-head",)}, {}),
    ("bacteria.dead-leg", "watch", WASH, {
        "-": ("split-mixer",), "+": (part("tee", "split"), part("cap", "blanking_cap"),
                                     pipe("split.branch", "tee.inlet", **TUBE),
                                     pipe("tee.outlet", "mixer.cold", **TUBE),
                                     pipe("tee.branch", "cap.inlet", length_m=2.0, **TUBE))}, {}),
    ("bacteria.dead-leg", "fix", WASH, {
        "-": ("store-mixer",), "+": (part("tee", "split"), part("cap", "blanking_cap"),
                                     pipe("store.outlet", "tee.inlet", **TUBE),
                                     pipe("tee.outlet", "mixer.hot", **TUBE),
                                     pipe("tee.branch", "cap.inlet", length_m=6.0, **TUBE))}, {}),
    ("bacteria.tank", "watch", WASH, {"brief": {"draws": [DRAW | {"duration_s": 120.0}],
                                                "days": 5}},
     {"climate": WARM}),
    ("bacteria.reuse", "fix", WASH, {"+": (
        part("reuse", "reuse_loop", longest_s=18_000.0, filter_step="fine and ultraviolet"),)}, {}),
    ("scald.starved", "watch", MIXED_GAS, {"parts.heater.set_c": 75.0,
                                           "parts.heater.off_flow_m3_per_s": 2.5 * LPM}, {}),
    ("gas.offtake", "fix", MIXED_GAS, {"parts.bottle.gas": "butane",
                                         "parts.bottle.space": "outside",
                                         "parts.bottle.gas_kg": 0.4}, {}),
    ("frost.trapped", "fix", WASH, {
        "-": ("shut-pump",), "+": (part("filter", "filter", space="below"),
                                   pipe("shut.outlet", "filter.inlet", rise_m=-0.3, space="below",
                                        family="copper", nominal="15 mm"),
                                   pipe("filter.outlet", "pump.inlet", rise_m=0.3,
                                        family="copper", nominal="15 mm"))}, {}),
    ("air.near-opening", "watch", GAS, {
        "parts.heater.space": "outside", "parts.heater.sealed": "open flue",
        "spaces.outside.neighbours": ["living"]}, {}),
    ("gas.spark", "fix", GAS, {"+": (part("battery", "battery", space="locker"),)}, {}),
    ("gas.joints", "watch", GAS, {"runs.valve-heater.joints": 7,
                                  "runs.valve-heater.space": "living"}, {}),
    ("gas.joints", "watch", GAS, {"parts.reg.reach": "behind another part",
                                  "parts.reg.behind": "bottle"}, {}),
    ("gas.coupling", "stop", GAS, {"-": ("valve-heater",), "+": (
        part("half", "gas_coupling", sealing="neither", own_valve=True),
        gas_pipe("valve.outlet", "half.inlet"), gas_pipe("half.outlet", "heater.gas"))}, {}),
    ("gas.coupling", "fix", GAS, {"-": ("valve-heater",), "+": (
        part("half", "gas_coupling", sealing="both sides", own_valve=False),
        gas_pipe("valve.outlet", "half.inlet"), gas_pipe("half.outlet", "heater.gas"))}, {}),
    ("gas.high-pressure", "fix", GAS, {"runs.bottle-reg.way": "hose",
                                       "runs.bottle-reg.length_m": 1.2}, {}),
    ("diesel.lagging", "fix", LOOP, {"parts.flue.lagged": False}, {}),
    ("diesel.lagging", "fix", LOOP, {"parts.flue.clear_m": 0.03}, {}),
    ("diesel.exhaust", "stop", LOOP, {"parts.end.space": "living", "parts.end.wall": None}, {}),
    ("diesel.exhaust", "unknown", LOOP, {"-": ("end",)}, {}),
    ("diesel.pickup", "watch", LOOP, {"parts.fuel.kept_m3": 0.004}, {}),
    ("diesel.fuel-inside", "fix", LOOP, {"parts.fuel.space": "living"}, {}),
    ("diesel.fuel-inside", "stop", LOOP, {"parts.fuel.space": "living",
                                          "parts.fuel.fuel": "petrol"}, {}),
    ("diesel.expansion", "fix", LOOP, {"parts.vessel.volume_m3": 0.0004}, {}),
    ("diesel.expansion", "stop", LOOP, {"-": ("tee-vessel", "vessel")}, {}),
    ("diesel.coolant-stopped", "fix", LOOP, {"states": [
        {"id": "use", "name": "In use", "positions": [{"part": "circulator", "at": "off"}]}]}, {}),
    ("diesel.coolant-stopped", "stop", LOOP, {"parts.vessel.cap_pa": None, "states": [
        {"id": "use", "name": "In use", "positions": [{"part": "circulator", "at": "off"}]}]}, {}),
    ("diesel.after-run", "watch", LOOP, {
        "-": ("fuse-burns",), "+": (part("switch", "switch", amps_a=20.0),
                                    cable("fuse.load", "switch.feed"),
                                    cable("switch.load", "burns.power"))}, {}),
    ("diesel.trip", "fix", LOOP, {"runs.fuse-burns.area_m2": 0.75e-6,
                                  "runs.fuse-burns.length_m": 5.0}, {}),
    ("pressure.no-relief", "stop", WASH, {"-": ("store-relief", "relief")}, {}),
    ("pressure.no-relief", "stop", LOOP, {
        "-": ("tee2-relief", "relief"), "parts.plate.max_pa": 10e5}, {}),
    ("pressure.no-relief", "watch", WASH, {
        "-": ("store-relief", "relief", "split-check", "check-store"),
        "+": (part("acc", "accumulator", volume_m3=0.01, precharge_pa=1.0e5),
              pipe("split.outlet", "check.inlet"), pipe("check.outlet", "acc.inlet"),
              pipe("acc.outlet", "store.inlet")), "parts.store.max_pa": 10e5}, {}),
    ("pressure.relief-shut", "stop", WASH, {
        "-": ("store-relief",), "+": (part("iso", "shut_off"), pipe("store.relief", "iso.inlet"),
                                      pipe("iso.outlet", "relief.inlet"))}, {}),
    ("pressure.mains", "watch", WASH, {"+": (
        part("inlet", "pressurised_inlet", pressure_pa=3e5), part("tee", "split"),
        pipe("inlet.outlet", "tee.inlet"), pipe("tee.outlet", "check.inlet")),
        "-": ("split-check",)}, {}),
    ("pressure.mains", "stop", WASH, {"+": (
        part("inlet", "pressurised_inlet", pressure_pa=6e5), part("tee", "split"),
        pipe("inlet.outlet", "tee.inlet"), pipe("tee.outlet", "check.inlet")),
        "-": ("split-check",), "parts.store.max_pa": 4e5}, {}),
    ("pressure.inserts", "fix", WASH, {"runs.store-mixer.family": "semi-rigid plastic",
                                       "runs.store-mixer.joint": "push-in",
                                       "runs.store-mixer.secured": "neither"}, {}),
    ("pressure.inserts", "watch", WASH, {"runs.store-mixer.family": "semi-rigid plastic",
                                         "runs.store-mixer.joint": "push-in",
                                         "runs.store-mixer.secured": "locked"}, {}),
    ("flood.unclipped", "watch", WASH, {"runs.store-mixer.family": "semi-rigid plastic",
                                        "runs.store-mixer.joint": "push-in",
                                        "runs.store-mixer.secured": "inserted"}, {}),
    ("pressure.boiling", "watch", OPEN, {"parts.element.set_c": 95.0}, {"altitude_m": 900.0}),
    ("dry.dc-contacts", "stop", PANEL, {"parts.element.direct_current": None}, {}),
    ("electric.no-fuse", "fix", STORE, {
        "-": ("pumpfuse-pump", "battery-pumpfuse"), "+": (cable("battery.power", "pump.power"),)},
     {}),
    ("electric.no-fuse", "fix", PANEL, {"runs.panel-element.area_m2": 1.0e-6}, {}),
    ("electric.shared", "fix", STORE, {
        "-": ("pumpfuse-pump",), "+": (cable("fuse.load", "pump.power"),),
        "parts.pump.current_a": 8.0}, {}),
    ("electric.two-sources", "stop", MAINS, {"+": (
        part("inverter", "inverter", rated_w=2000.0),
        cable("inverter.load", "breaker.feed", area_m2=2.5e-6))}, {}),
    ("electric.hook-up", "fix", MAINS, {"parts.pitch.amps_a": 3.0}, {}),
    ("electric.hook-up", "watch", MAINS, {"parts.pitch.amps_a": 6.0, "+": (
        part("other", "load", rated_w=800.0), cable("breaker.load", "other.power"))}, {}),
    ("electric.inverter", "fix", MAINS, {"-": ("pitch", "pitch-breaker"), "+": (
        part("inverter", "inverter", rated_w=600.0),
        cable("inverter.load", "breaker.feed", area_m2=2.5e-6))}, {}),
    ("electric.rcd", "stop", MAINS, {"parts.breaker.guard": "breaker"}, {}),
    ("electric.rcd", "fix", MAINS, {"parts.breaker.guard": "breaker"}, {"rules": "north-america"}),
    ("electric.earth", "stop", MAINS, {"parts.breaker.earthed": False}, {}),
    ("electric.isolator", "watch", MAINS, {
        "-": ("cut", "breaker-cut", "cut-element"),
        "+": (cable("breaker.load", "element.power", area_m2=2.5e-6),)}, {}),
    ("electric.near-water", "watch", STORE, {
        "parts.battery.x_m": 1.0, "parts.battery.y_m": 0.0, "parts.battery.z_m": 0.0,
        "parts.pump.x_m": 1.0, "parts.pump.y_m": 0.1, "parts.pump.z_m": 0.2}, {}),
    ("electric.near-water", "fix", MAINS, {
        "parts.breaker.x_m": 1.0, "parts.breaker.y_m": 0.0, "parts.breaker.z_m": 1.0,
        "+": (part("head", "shower_head", x_m=1.0, y_m=0.3, z_m=1.2),)}, {}),
    ("electric.ignition", "fix", STORE, {"+": (
        part("cells", "ignition_cells", replaced=True, volts_v=5.0, cells=2),)}, {}),
    ("electric.ignition", "stop", STORE, {"+": (
        part("cells", "ignition_cells", replaced=True, volts_v=12.0, cells=2),)}, {}),
    ("electric.ignition", "watch", STORE, {"+": (
        part("cells", "ignition_cells", replaced=True, volts_v=2.0, cells=2),)}, {}),
    ("electric.switch-rating", "fix", mended(STORE, {"volts_v": 48.0}),
     {"parts.switch.direct_current": False}, {}),
    ("tubes.bend", "fix", WASH, {"runs.store-mixer.bend_m": 0.03}, {}),
    ("tubes.bend", "watch", WASH, {"runs.tank-shut.family": "semi-rigid plastic",
                                   "runs.tank-shut.bend_m": 0.1}, {}),
    ("tubes.clips", "watch", WASH, {"runs.pump-split.clips": 1, "runs.pump-split.length_m": 2.0},
     {}),
    ("tubes.clips", "fix", WASH, {"runs.store-mixer.clips": 0, "runs.store-mixer.length_m": 2.0},
     {}),
    ("tubes.below", "watch", WASH, {"runs.tank-shut.space": "below",
                                    "runs.tank-shut.family": "semi-rigid plastic"}, {}),
    ("tubes.suction", "watch", WASH, {
        "runs.shut-pump.family": "soft hose", "runs.shut-pump.nominal": "10 mm",
        "runs.shut-pump.length_m": 20.0, "runs.shut-pump.rise_m": 2.5}, {}),
    ("holes.edge", "watch", HOLED, {"holes.hole.edge_treated": False}, {}),
    ("holes.seal", "fix", HOLED, {"holes.hole.sealed": False}, {}),
    ("holes.seal", "watch", HOLED, {"holes.hole.sealed": False, "holes.hole.first": "outside"}, {}),
    ("holes.behind", "unknown", HOLED, {"holes.hole.behind": ""}, {}),
    ("holes.size", "fix", HOLED, {"holes.hole.bore_m": 0.05}, {}),
    ("holes.count", "watch", HOLED, {"vehicle": {"holes_at_most": 0}}, {}),
    ("frost.filled", "fix", WASH, {"parts.store.space": "outside", "runs.tank-shut.space": "below"},
     {}),
    ("frost.no-drain-state", "fix", WASH, {"states": [], "runs.tank-shut.space": "below",
                                           "parts.tank.space": "below",
                                           "parts.tank.volume_m3": 0.002}, {}),
    ("frost.primary", "fix", LOOP, {"parts.fluid.antifreeze_share": 0.1}, {}),
    ("frost.drain-high", "fix", WASH, {
        "-": ("store-relief",), "+": (part("tee", "split"), part("cock", "drain", z_m=0.5),
                                      pipe("store.relief", "tee.inlet"),
                                      pipe("tee.outlet", "relief.inlet"),
                                      pipe("tee.branch", "cock.inlet")), "parts.store.z_m": 0.0},
     {}),
    ("backflow.joined", "stop", LOOP, {
        "-": ("plate-burns",), "+": (part("tee3", "split"), pipe("plate.hot_out", "tee3.inlet"),
                                     pipe("tee3.outlet", "burns.inlet"),
                                     part("tap2", "tap"), pipe("tee3.branch", "tap2.inlet"))}, {}),
    ("backflow.coolant", "watch", LOOP, {"parts.plate.double_wall": False}, {}),
    ("backflow.coolant", "fix", LOOP, {"parts.plate.double_wall": False,
                                       "parts.fluid.fluid": "ethylene glycol"}, {}),
    ("backflow.outside-drinks", "stop", LOOP, {
        "+": (TAKES_OUT, part("tee3", "split"), pipe("river.outlet", "tee3.inlet"),
              pipe("tee3.outlet", "pump.inlet")), "-": ("shut-pump",),
        "parts.tap.drinks": True}, {}),
    ("backflow.outside-drinks", "watch", LOOP, {
        "+": (TAKES_OUT, part("tee3", "split"), pipe("river.outlet", "tee3.inlet"),
              pipe("tee3.outlet", "pump.inlet")), "-": ("shut-pump",)}, {}),
    ("material.drinking", "watch", LOOP, {
        "+": (TAKES_OUT, part("tee3", "split"), pipe("river.outlet", "tee3.inlet"),
              pipe("tee3.outlet", "pump.inlet")), "-": ("shut-pump",)}, {}),
    ("material.metal-in-plastic", "fix", LOOP, {
        "runs.tank-shut.family": "semi-rigid plastic", "runs.tank-shut.nominal": "15 mm",
        "parts.tank.ends": [{"port": "outlet", "end": "plastic female 1/2 in taper"}]}, {}),
    ("material.metal-in-plastic", "watch", LOOP, {
        "runs.tank-shut.family": "copper", "runs.tank-shut.nominal": "15 mm",
        "parts.tank.ends": [{"port": "outlet", "end": "plastic female 1/2 in parallel"}]}, {}),
    ("material.metal-in-plastic", "unknown", LOOP, {
        "runs.tank-shut.family": "copper", "runs.tank-shut.nominal": "15 mm",
        "parts.tank.ends": [{"port": "outlet", "end": "female 1/2 in us taper"}]}, {}),
    ("backflow.mains", "fix", LOOP, {"+": (
        part("inlet", "pressurised_inlet", pressure_pa=3e5), part("tee3", "split"),
        pipe("inlet.outlet", "tee3.inlet"), pipe("tee3.outlet", "shut.inlet")),
        "-": ("tank-shut",)}, {}),
    ("backflow.flush", "fix", LOOP, {"+": (part("flush", "toilet_flush", own_tank=False),)}, {}),
    ("backflow.hose", "watch", LOOP, {"+": (
        part("hose", "outside_outlet", space="outside"), part("tee3", "split"),
        pipe("pump.outlet", "tee3.inlet"), pipe("tee3.outlet", "tee2.inlet"),
        pipe("tee3.branch", "hose.inlet")), "-": ("pump-tee2",)}, {}),
    ("backflow.mixer-checks", "fix", WASH, {"parts.mixer.checks": "none",
                                            "parts.head.button": "on the head"}, {}),
    ("flood.no-shutoff", "watch", LOOP, {
        "-": ("shut", "tank-shut", "shut-pump"), "+": (pipe("tank.outlet", "pump.inlet"),)}, {}),
    ("flood.tray", "fix", WASTE, {"vehicle": {"pitch_deg": 12.0}, "parts.tray.rim_m": 0.03}, {}),
    ("flood.grey-first", "watch", WASTE, {"parts.grey.volume_m3": 0.005,
                                          "brief": {"draws": [DRAW], "days": 3,
                                                    "budgets": {"grey_m3": 0.005}}}, {}),
    ("flood.grey-first", "fix", WASTE, {"parts.grey.space": "living"}, {}),
    ("weight.lift", "watch", STORE, {"+": (part("can", "loose_container", volume_m3=0.025,
                                                held="strapped"),)}, {}),
    ("weight.axle", "stop", mended(STORE, {
        "parts.tank.x_m": 3.0, "parts.store.x_m": 3.0,
        "vehicle": {"wheelbase_m": 3.0, "rear_axle_x_m": 3.0, "rear_axle_kg": 500.0}}),
     {"vehicle": {"wheelbase_m": 3.0, "rear_axle_x_m": 3.0, "rear_axle_kg": 30.0}}, {}),
    ("states.drain-open", "fix", WASH, {
        "-": ("pump-split",), "+": (part("tee", "split"), part("cock", "drain"),
                                    pipe("pump.outlet", "tee.inlet"),
                                    pipe("tee.outlet", "split.inlet"),
                                    pipe("tee.branch", "cock.inlet")),
        "states": [{"id": "use", "name": "In use",
                    "positions": [{"part": "cock", "at": "open"}]}]}, {}),
    ("states.shared-half", "fix", doc(part("one", "coupling"), part("two", "coupling"),
                                      states=({"id": "use", "name": "Use", "positions": []},)),
     {"parts.two.shares_half_with": "one"}, {}),
    ("states.crossed", "fix", WASH, {
        "-": ("shut-pump",), "+": (part("can", "loose_container", volume_m3=0.01),
                                   part("tee", "split"), pipe("shut.outlet", "tee.inlet"),
                                   pipe("can.outlet", "tee.branch"),
                                   pipe("tee.outlet", "pump.inlet"))}, {}),
    ("states.order", "watch", WASH, {"states": [
        {"id": "use", "name": "In use", "positions": []},
        {"id": "empty", "name": "Empty", "dry": ["store"], "positions": [
            {"part": "element", "at": "off"}, {"part": "pump", "at": "off"}]}]}, {}),
)  # fmt: skip


@pytest.mark.parametrize(
    ("of", "severity", "sound", "flaw", "how"),
    FLAWS,
    ids=[f"{row[0]}-{row[1]}-{place}" for place, row in enumerate(FLAWS)],
)
def test_a_flaw_is_found_and_its_mended_twin_is_not(
    of: str, severity: str, sound: Doc, flaw: Doc, how: dict[str, Any]
):
    found = looked(mended(sound, flaw), **how)
    assert severity in bands(found, of)
    if of != "states.order":  # whose twin has one state
        assert severity not in bands(looked(sound, **how), of)


def test_a_switch_behind_a_controller_sees_the_battery_not_the_panel():
    behind = mended(STORE, {
        "parts.switch.direct_current": False,
        "+": (part("panel", "panel", open_v=40.0, short_a=10.0, rated_w=200.0),
              part("box", "panel_controller"), cable("panel.load", "box.feed"),
              cable("box.load", "battery.power"), cable("box.surplus", "switch.feed")),
        "-": ("fuse-switch",),
    })  # fmt: skip
    assert bands(looked(behind), "electric.switch-rating") == set()
    bare = mended(behind, {"-": ("box-switch",), "+": (cable("panel.load", "switch.feed"),)})
    assert bands(looked(bare), "electric.switch-rating") == {"fix"}


def test_sound_designs_have_no_stop_and_nothing_to_fix():
    for sound in (WASH, HOT_HEATER, LOOP, MAINS, WASTE):
        serious = [one.id for one in looked(sound) if one.severity.value in ("stop", "fix")]
        assert serious == []
