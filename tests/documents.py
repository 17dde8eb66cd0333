"""Documents made up at random from the annotations of their properties.

A kind that is added is covered without a word here. Seeds make them the same every time;
a plain generator, since drawing every property of sixty pieces one by one is slow.
"""

from __future__ import annotations

from random import Random
from typing import Any, Literal, get_args, get_origin

from pydantic.fields import FieldInfo

from isotherma.core.brief import Brief, Budgets, Draw, Use
from isotherma.core.fields import Document, list_of, pairs_of, refers_to
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.pieces import joins
from isotherma.core.system.runs import RUNS
from isotherma.core.system.states import State
from isotherma.core.system.vehicle import Hole, Space, Vehicle
from isotherma.services.forms import _unpacked
from isotherma.services.reference import _bounds

NAMES = ("Tank", "Wärme ½", "the second, by “Ann”", "語", "x" * 80, "Pump; 12 V")
DATES = {"priced_on", "dated"}
FIXED = {
    "id",
    "kind",
    "start",
    "end",
    "region",
    "aim",
    "rise_k",
    "fitted_in",
    "examples",
    "warmest_c",
}
Refs = dict[str, list[str]]
SKIP = object()


def values(random: Random, kind: type[Document], refs: Refs, filled: float = 0.5) -> dict[str, Any]:
    """Any value of about half the properties of a document, by their annotations."""
    found = {}
    for name, info in kind.model_fields.items():
        if name in FIXED or random.random() > filled:
            continue
        value = one(random, name, info, refs)
        if value is not SKIP:
            found[name] = value
    return found


def one(random: Random, name: str, info: FieldInfo, refs: Refs) -> Any:
    """A value for one property; SKIP where the caller fills it itself."""
    inner, _, _ = _unpacked(info.annotation)
    refers = refers_to(info)
    if refers:
        ids = refs.get(refers, [])
        if not ids:
            return SKIP
        chosen = random.sample(ids, min(len(ids), random.randint(0, 2)))
        return chosen if get_origin(inner) is tuple else random.choice(ids)
    if list_of(info) is not None:
        return [random.uniform(-30, 40) for _ in range(12)]
    pairs = pairs_of(info)
    if pairs is not None and pairs.first == "share":
        return [(random.uniform(0, 1), random.uniform(0, 0.2)) for _ in range(3)]
    if pairs is not None:
        return [(random.uniform(0, 4e5), random.uniform(0, 2e-4)) for _ in range(3)]
    if get_origin(inner) is Literal:
        return random.choice(get_args(inner))
    if get_origin(inner) is tuple:
        item = get_args(inner)[0]
        return random.sample(get_args(item), 2) if get_origin(item) is Literal else SKIP
    if inner is bool:
        return random.random() < 0.5
    if inner in (int, float):
        bounds = _bounds(info)
        low, high = bounds.get("ge", bounds.get("gt", 0)), bounds.get("le", bounds.get("lt", 1e3))
        if inner is int:
            return random.randint(int(low), int(high))
        edge = random.random()
        if edge < 0.1 and "ge" in bounds and "gt" not in bounds:
            return float(low)
        if edge > 0.9 and "le" in bounds and "lt" not in bounds:
            return float(high)
        return low + (high - low) * random.uniform(0.001, 0.999)
    if inner is str:
        return "2026-11-23" if name in DATES else random.choice(NAMES)
    return SKIP


def system(seed: int, most: int = 8) -> System:
    """Any valid system: parts of any kind, joined where they can be, in any state."""
    random = Random(seed)
    kinds = random.choices(sorted(KINDS), k=random.randint(0, most))
    ids = [f"p{number}" for number in range(len(kinds))]
    refs = {"part": ids, "space": ["in", "out"], "phase": ["now", "then"]}
    parts: list[dict[str, Any]] = []
    for part_id, kind in zip(ids, kinds, strict=True):
        part = {**values(random, KINDS[kind], refs), "id": part_id, "kind": kind}
        if parts and random.random() < 0.3:
            part["fitted_in"] = random.choice(parts)["id"]
        parts.append(part)
    movable = [part for part in parts if KINDS[part["kind"]].positions]
    states = []
    for key in ("a", "b")[: random.randint(0, 2)]:
        positions = [
            {"part": part["id"], "at": random.choice(KINDS[part["kind"]].positions)}
            for part in movable
            if random.random() < 0.5
        ]
        placed = [{"part": part_id, "space": "out"} for part_id in ids[:1]]
        states.append({**values(random, State, refs), "id": key, "name": "As " + key,
                       "positions": positions, "placed": placed})  # fmt: skip
    inside = {**values(random, Space, {"space": ["out"]}), "id": "in", "name": "Inside"}
    return System.model_validate(
        {
            "volts_v": random.choice([None, 12.0, 24.0]),
            "parts": parts,
            "runs": runs(random, parts, refs),
            "spaces": [inside, {"id": "out", "name": "Outside", "warmth": "outside"}],
            "phases": [{"id": "now", "name": "Now"}, {"id": "then", "name": "Then"}],
            "states": states,
            "holes": [{**values(random, Hole, refs), "id": "hole", "name": "Hole"}],
        }
    )


def runs(random: Random, parts: list[dict[str, Any]], refs: Refs) -> list[dict[str, Any]]:
    """Join about half of what can be joined."""
    found: list[dict[str, Any]] = []
    ports = [(part["id"], port) for part in parts for port in KINDS[part["kind"]].ports]
    taken: set[tuple[str, str]] = set()
    for number, (first_id, first) in enumerate(ports):
        for second_id, second in random.sample(ports, len(ports)):
            ends = {(first_id, first.name), (second_id, second.name)}
            if first_id == second_id or ends & taken or not joins(first.medium, second.medium):
                continue
            carrying = [
                kind for kind, run in RUNS.items()
                if {first.medium, second.medium} & set(run.carries)
            ]  # fmt: skip
            taken |= ends
            kind = random.choice(carrying)
            found.append({
                **values(random, RUNS[kind], refs), "id": f"r{number}", "kind": kind,
                "start": {"part": first_id, "port": first.name},
                "end": {"part": second_id, "port": second.name},
            })  # fmt: skip
            break
    return found


def project(seed: int) -> Project:
    """Any valid project of one variant."""
    random = Random(1_000_000 + seed)
    use = {**values(random, Use, {}), "id": "use", "name": "Use"}
    shower = {
        **values(random, Draw, {}), "id": "draw", "name": "Draw", "start_s": 25200.0,
        "duration_s": random.uniform(5, 600), "stops": 0, "low_c": 37.0, "high_c": 42.0,
    }  # fmt: skip
    brief = {
        **values(random, Brief, {}), "draws": [shower], "uses": [use],
        "budgets": values(random, Budgets, {}),
    }  # fmt: skip
    return Project(
        name=random.choice(NAMES),
        brief=Brief.model_validate(brief),
        vehicle=Vehicle.model_validate(values(random, Vehicle, {})),
        variants=(Variant(id="only", name="Only", system=system(seed)),),
    )
