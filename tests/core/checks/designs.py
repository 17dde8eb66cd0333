"""Small designs for the tests of the checks, and how they are changed and looked at."""

from __future__ import annotations

import copy
from typing import Any

from isotherma.catalogue.rules import rule_sets
from isotherma.core.brief import Brief
from isotherma.core.checks.found import Found
from isotherma.core.checks.run import check_design
from isotherma.core.climate import Climate
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.core.system.vehicle import Vehicle
from isotherma.services.shopping import run_ends

COLD = Climate(region="hills", month=12, air_c=0.0, swing_k=6.0)
TODAY = "2026-11-27"
Doc = dict[str, Any]


def part(key: str, kind: str, **values: Any) -> Doc:
    return {"id": key, "kind": kind, "space": "living", **values}


def run(kind: str, start: str, end: str, **values: Any) -> Doc:
    (a, ap), (b, bp) = start.split("."), end.split(".")
    return {"id": f"{a}-{b}", "kind": kind, "start": {"part": a, "port": ap},
            "end": {"part": b, "port": bp}, "length_m": 1.0, **values}  # fmt: skip


def pipe(start: str, end: str, **values: Any) -> Doc:
    return run("pipe", start, end, **values)


def gas_pipe(start: str, end: str, **values: Any) -> Doc:
    return run("fuel_pipe", start, end, outside_m=0.008, space="locker", **values)


def cable(start: str, end: str, **values: Any) -> Doc:
    return run("cable", start, end, **{"area_m2": 6e-6, "length_m": 0.2, **values})


SPACES = [
    {"id": "living", "name": "Living", "warmth": "heated", "width_m": 1.8, "depth_m": 2.0,
     "low_vent_m2": 0.01, "high_vent_m2": 0.02, "neighbours": ["locker"]},
    {"id": "locker", "name": "Locker", "warmth": "unheated", "width_m": 0.5, "depth_m": 0.5,
     "low_vent_m2": 0.01, "sealed_from": ["living"]},
    {"id": "outside", "name": "Outside", "warmth": "outside"},
    {"id": "below", "name": "Below", "warmth": "slung"},
]  # fmt: skip


def doc(*pieces: Doc, states: tuple[Doc, ...] = (), **more: Any) -> Doc:
    return {
        "parts": [one for one in pieces if "start" not in one],
        "runs": [one for one in pieces if "start" in one], "spaces": copy.deepcopy(SPACES),
        "states": list(states), **more,
    }  # fmt: skip


def mended(document: Doc, changes: Doc) -> Doc:
    """Set `group.id.property`s; `+` has pieces to add, `-` ids to take out, else all."""
    made = copy.deepcopy(document)
    for piece in changes.get("+", ()):
        made["runs" if "start" in piece else "parts"].append(copy.deepcopy(piece))
    for group in ("parts", "runs"):
        made[group] = [one for one in made[group] if one["id"] not in changes.get("-", ())]
    for path, value in changes.items():
        if path in "+-":
            continue
        if "." not in path:
            made[path] = copy.deepcopy(value)
            continue
        group, key, name = path.split(".")
        next(one for one in made[group] if one["id"] == key)[name] = value
    return made


def looked(
    document: Doc, rules: str = "uk-eu", climate: Climate = COLD, **brief: Any
) -> tuple[Found, ...]:
    """Check a document; with draws in its brief the day is computed too."""
    document = copy.deepcopy(document)
    vehicle = Vehicle.model_validate(document.pop("vehicle", {}))
    asked = Brief(**{**document.pop("brief", {}), **brief})
    variant = Variant(id="v", name="V", system=System.model_validate(document))
    project = Project(name="P", vehicle=vehicle, variants=(variant,), brief=asked)

    def day(state: State | None) -> Outcome | CoreError | None:
        if not asked.draws:
            return None
        try:
            return simulate(asked, variant.system, climate, state=state)
        except CoreError as error:
            return error

    return check_design(project, variant, rule_sets()[rules], climate, TODAY, day=day,
                        joints=run_ends(variant.system))  # fmt: skip


def bands(found: tuple[Found, ...], of: str) -> set[str]:
    return {one.severity.value for one in found if one.id == of}


BOTTLE = part("bottle", "gas_bottle", space="locker", gas_kg=6.0, held="strapped",
              stands="upright")  # fmt: skip
REGULATOR = part("reg", "regulator", space="locker", set_pa=3000.0, rated_kg_per_s=1.5 / 3600,
                 dated="2025-01-01", gas_setting="as delivered")  # fmt: skip
VALVE = part("valve", "gas_valve")
HEATER = part("heater", "through_flow_gas", sealed="room sealed", gas_pa=3000.0, input_w=9000.0,
              gas_setting="as delivered", limit_c=80.0)  # fmt: skip
GAS = doc(
    BOTTLE, REGULATOR, VALVE, HEATER, part("flue", "flue", fitted_in="heater", bore_m=0.06),
    part("end", "terminal", fitted_in="flue", to_opening_m=0.8, to_filler_m=2.0),
    part("alarm", "gas_alarm", warns_of="both", dated="2029-01-01"),
    gas_pipe("bottle.outlet", "reg.inlet", clips=2), gas_pipe("reg.outlet", "valve.inlet", clips=2),
    gas_pipe("valve.outlet", "heater.gas", clips=2), gas_tested_on="2026-05-01",
)  # fmt: skip
STORE = doc(
    part("tank", "fresh_tank", volume_m3=0.05, vent_bore_m=0.01, baffled=True, held="strapped"),
    part("shut", "shut_off"), part("pump", "pump", cut_out_pa=2.4e5, volts_v=12.0, current_a=5.0,
                                   open_flow_m3_per_s=1.7e-4),
    part("check", "check_valve"), part("store", "store", volume_m3=0.02, held="bolted"),
    part("element", "element", fitted_in="store", set_c=60.0, rated_w=200.0, rated_v=12.0,
         height_share=0.2),
    part("cutout", "high_limit", fitted_in="store", guards="element", opens_c=85.0,
         resets="by hand"),
    part("relief", "relief", set_pa=3.5e5, opens_c=93.0, outside=True),
    part("mixer", "thermostatic_mixer", set_c=40.0, checks="both legs"),
    part("head", "shower_head", falls_to="tray"), part("tray", "tray"),
    part("battery", "battery", charge_as=360_000.0, volts_v=12.8, held="bolted"),
    part("fuse", "circuit", fuse_a=20.0, guard="fuse"), part("pumpfuse", "circuit", fuse_a=10.0,
                                                             guard="fuse"),
    part("switch", "switch", amps_a=30.0, direct_current=True),
    pipe("tank.outlet", "shut.inlet"), pipe("shut.outlet", "pump.inlet"),
    pipe("pump.outlet", "check.inlet"), pipe("check.outlet", "store.inlet"),
    pipe("store.relief", "relief.inlet"),
    pipe("store.outlet", "mixer.hot", family="copper", nominal="15 mm"),
    pipe("mixer.outlet", "head.inlet"),
    cable("battery.power", "fuse.feed"),
    cable("fuse.load", "switch.feed"), cable("switch.load", "element.power"),
    cable("battery.power", "pumpfuse.feed"), cable("pumpfuse.load", "pump.power"),
    states=({"id": "use", "name": "In use", "positions": []},
            {"id": "away", "name": "Away", "dry": ["store"], "positions": [
                {"part": "pump", "at": "off"}, {"part": "element", "at": "off"}]}),
)  # fmt: skip
OPEN = mended(STORE, {"parts.store.nature": "open vented"})
OPEN["parts"].append(part("lock", "interlock", senses="level", trips_at_share=0.4,
                          guards="element", fitted_in="store", fails="stops the heat"))  # fmt: skip
