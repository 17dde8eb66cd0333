"""Older formats of a project, made new: one function per version, each to the next."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Final

from isotherma.core.project import FORMAT_VERSION

_LITRE_PER_MIN: Final = 1e-3 / 60
_FACTOR: Final = _LITRE_PER_MIN / 1e5**0.5

# What a file of format 1 meant where it said nothing; format 2 would call it unknown.
_MEANT_1: Final[Mapping[str, Mapping[str, Any]]] = {
    "shut_off": {"loss_k": 0.3},
    "strainer": {"flow_factor_si": 35 * _FACTOR},
    "pump": {
        "open_flow_m3_per_s": 7.5 * _LITRE_PER_MIN,
        "shut_pressure_pa": 3.6e5,
        "cut_in_pa": 1.7e5,
        "cut_out_pa": 2.4e5,
    },
    "accumulator": {"volume_m3": 0.75e-3, "precharge_pa": 1.0e5},
    "split": {"loss_k": 1.0},
    "check_valve": {"opening_pa": 2e3, "flow_factor_si": 30 * _FACTOR},
    "store": {
        "insulation_m": 0.025,
        "insulation_w_per_m_k": 0.035,
        "film_w_per_m2_k": 8.0,
        "fittings_share": 0.2,
        "body_j_per_k": 1500.0,
        "wall_w_m_per_k": 0.04,
        "jet_share": 0.1,
        "unreachable": 0.05,
    },
    "thermostatic_mixer": {
        "difference_k": 10.0,
        "lag_s": 2.0,
        "flow_factor_si": 12 * _FACTOR,
        "min_flow_m3_per_s": 3 * _LITRE_PER_MIN,
    },
    "shower_head": {"flow_factor_si": 5.2 * _FACTOR},
    "tap": {"flow_factor_si": 6 * _FACTOR},
    "manual_mixer": {"flow_factor_si": 12 * _FACTOR},
    "element": {
        "hysteresis_k": 4.0, "sensor_share": 0.3, "sensor_lag_s": 30.0, "height_share": 0.1,
    },
    "burner": {
        "hysteresis_k": 4.0, "sensor_share": 0.3, "sensor_lag_s": 30.0, "efficiency": 0.8,
    },
    "pipe": {
        "bore_m": 0.0117,
        "length_m": 0.5,
        "wall_m": 0.00165,
        "insulation_m": 0.0,
        "insulation_w_per_m_k": 0.038,
        "loss_k": 0.0,
    },
}  # fmt: skip
_FAMILY_1: Final = {"plastic": "semi-rigid plastic", "copper": "copper", "hose": "soft hose"}
_SPACES_1: Final = (
    {"id": "inside", "name": "Living space", "warmth": "heated"},
    {"id": "outside", "name": "Outside or below", "warmth": "outside"},
)


def _listed(data: object) -> list[Any]:
    """Give a list that stands there; what is no list is left for the validation to refuse."""
    return data if isinstance(data, list) else []


def _placed(piece: dict[str, Any]) -> dict[str, Any]:
    """Turn `place` into a space; an odd word stays, for the validation to refuse."""
    space = piece.pop("place", "inside")
    return {**piece, "space": space}


def _source_1(store_id: str, kind: str, source: dict[str, Any], space: object) -> dict[str, Any]:
    window = source.pop("window", None) or {}
    part = {**_MEANT_1[kind], **source, "id": f"{store_id[:32]}-{kind}", "kind": kind}
    part |= {"fitted_in": store_id, "space": space}
    for name in ("start_s", "end_s"):
        if isinstance(window, dict) and name in window:
            part[f"window_{name}"] = window[name]
    return part


def _part_1(piece: dict[str, Any]) -> list[dict[str, Any]]:
    part = _placed(dict(piece))
    kind = part.get("kind")
    part = {**_MEANT_1.get(str(kind), {}), **part}
    found = [part]
    if kind == "store":
        for name in ("element", "burner"):
            source = part.pop(name, None)
            if isinstance(source, dict):
                store_id = str(part.get("id"))
                found.append(_source_1(store_id, name, dict(source), part["space"]))
    if kind == "through_flow_heater":
        part["kind"] = "through_flow_gas"
        if "power_w" in part:
            part["heat_w"] = part.pop("power_w")
    return found


def _run_1(piece: dict[str, Any]) -> dict[str, Any]:
    run = {**_MEANT_1["pipe"], **_placed(dict(piece)), "kind": "pipe"}
    material = run.pop("material", "plastic")
    return {**run, "family": _FAMILY_1.get(material, material)}


def _system_1(system: dict[str, Any]) -> dict[str, Any]:
    parts: list[Any] = []
    for part in _listed(system.get("parts")):
        parts += _part_1(part) if isinstance(part, dict) else [part]
    runs = [_run_1(run) if isinstance(run, dict) else run for run in _listed(system.get("runs"))]
    return {**system, "parts": parts, "runs": runs, "spaces": list(_SPACES_1)}


def _from_1(project: dict[str, Any]) -> dict[str, Any]:
    """Format 2: spaces instead of two places, sources as parts, water by its uses."""
    brief = project.get("brief")
    if isinstance(brief, dict):
        brief = dict(brief)
        fresh, grey = brief.pop("other_fresh_m3", 0.0), brief.pop("other_grey_m3", 0.0)
        if isinstance(fresh, int | float) and isinstance(grey, int | float) and fresh > 0:
            use = {"id": "other", "name": "Other water", "purpose": "other", "volume_m3": fresh}
            brief["uses"] = [{**use, "grey_share": grey / fresh}]
        project["brief"] = brief
    variants: list[Any] = []
    for variant in _listed(project.get("variants")):
        if isinstance(variant, dict) and isinstance(variant.get("system"), dict):
            variant = {**variant, "system": _system_1(variant["system"])}
        variants.append(variant)
    if isinstance(project.get("variants"), list):
        project["variants"] = variants
    return project


# what format 2 wrote as 0 where it meant nobody knows: no heater is hot or cold at once
_UNKNOWN_2: Final = ("heats_in_s", "boils_in_s", "cooled_in_s")


# of a flow on a label; water at a pitch may well have no pressure
_LABELLED_2: Final = (
    "filter", "shower_head", "tap", "outside_outlet", "bottle_fill", "appliance", "toilet_flush",
)  # fmt: skip


def _says_nothing_2(part: dict[str, Any], key: str) -> bool:
    """Say whether a 0 stood for what nobody knew."""
    value = part[key]
    if isinstance(value, bool) or value != 0:
        return False
    labelled = key == "pressure_pa" and part.get("kind") in _LABELLED_2
    return key in _UNKNOWN_2 or labelled


def _system_2(system: dict[str, Any]) -> dict[str, Any]:
    parts = [
        {key: value for key, value in part.items() if not _says_nothing_2(part, key)}
        if isinstance(part, dict) else part
        for part in _listed(system.get("parts"))
    ]  # fmt: skip
    return {**system, "parts": parts} if isinstance(system.get("parts"), list) else system


def _from_2(project: dict[str, Any]) -> dict[str, Any]:
    """Format 3: a 0 is a 0; wires, wells and sinks may say more, and a variant its state."""
    if isinstance(project.get("variants"), list):
        project["variants"] = [
            {**variant, "system": _system_2(variant["system"])}
            if isinstance(variant, dict) and isinstance(variant.get("system"), dict)
            else variant
            for variant in project["variants"]
        ]
    return project


def _from_3(project: dict[str, Any]) -> dict[str, Any]:
    """Format 4: own air, more that one will not have, examples, what is there already."""
    return project  # it only adds: what a file of format 3 does not say is unknown or empty


def _from_4(project: dict[str, Any]) -> dict[str, Any]:
    """Format 5: kinds of day, their order and the stops on the way."""
    return project  # it only adds: a trip that says no order is of equal days


def _from_5(project: dict[str, Any]) -> dict[str, Any]:
    """Format 6: element steps, shower places, hot-air outlets, caps and what a tank is made of."""
    for variant in _listed(project.get("variants")):
        system = variant.get("system") if isinstance(variant, dict) else None
        for part in _listed(system.get("parts")) if isinstance(system, dict) else ():
            if isinstance(part, dict) and part.get("kind") == "panel":
                part.pop("heat_share", None)  # its curve by the cells' heat says it
    return project


# what these said when a file left them out, before nobody's word became nobody's word
_SAID_6: Final[Mapping[str, Mapping[str, object]]] = {
    "burner": {"sealed": "room sealed"},
    "flue": {"room_sealed": True, "lagged": False},
    "gas_coupling": {"sealing": "supply side", "own_valve": True},
    "coupling": {"sealing": "supply side"},
    "switch": {"direct_current": True},
    "manifold": {"valves": True},
    "relief": {"outside": False},
    "fresh_tank": {"baffled": False},
    "plate_exchanger": {"double_wall": False},
    "high_limit": {"resets": "by hand"},
    "gas_alarm": {"warns_of": "carbon monoxide"},
    "combi": {"may_stand_empty": True},
    "primary_fluid": {"fluid": "propylene glycol"},
    "tap": {"drinks": False, "room": "kitchen"},
    "toilet_flush": {"own_tank": False},
    "circuit": {"guard": "fuse"},
}
_HOLES_6: Final[Mapping[str, object]] = {"edge_treated": False, "sleeved": False, "sealed": False}


def _from_6(project: dict[str, Any]) -> dict[str, Any]:
    """Format 7: what the checks ask; what was taken as said stays said in old files."""
    for variant in _listed(project.get("variants")):
        system = variant.get("system") if isinstance(variant, dict) else None
        if not isinstance(system, dict):
            continue
        for part in _listed(system.get("parts")):
            if isinstance(part, dict):
                for name, value in _SAID_6.get(str(part.get("kind")), {}).items():
                    part.setdefault(name, value)
        for hole in _listed(system.get("holes")):
            if isinstance(hole, dict):
                for name, value in _HOLES_6.items():
                    hole.setdefault(name, value)
    return project


def _from_7(project: dict[str, Any]) -> dict[str, Any]:
    """Format 8: ends of parts, legs, how runs were measured, what holes are drilled in, prices."""
    return project  # it only adds: an end nobody states is assumed, and says so


def _from_8(project: dict[str, Any]) -> dict[str, Any]:
    """Format 9: measured figures, notes of settings, gauge points, linings."""
    return project  # it only adds


MIGRATIONS: Final[Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]]] = {
    1: _from_1,
    2: _from_2,
    3: _from_3,
    4: _from_4,
    5: _from_5,
    6: _from_6,
    7: _from_7,
    8: _from_8,
}


def migrated(project: dict[str, Any], version: int) -> dict[str, Any]:
    """Bring a project's data to the current format, step by step.

    Parameters
    ----------
    project : dict
        Data of a project without format and version; not changed. [-]
    version : int
        Its format version, 1 to the current. [-]

    Returns
    -------
    dict
        Data of the current format, not validated yet. [SI]
    """
    data = dict(project)
    for step in range(version, FORMAT_VERSION):
        data = MIGRATIONS[step](data)
    return data
