"""Documents: what is legal, what is refused and in which words."""

from __future__ import annotations

import copy
import json

import pytest
from pydantic import ValidationError

from isotherma.catalogue import climate_in, regions
from isotherma.catalogue.demo import drover
from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.errors import MissingValue, NotComputedYet, UnknownRegion
from isotherma.core.project import Project, canonical_json
from isotherma.core.quantity import UnitSystem
from isotherma.core.system import System
from isotherma.core.system.kinds.heat import Element
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.route import not_computed, reading_order
from isotherma.wording import validation_sentences, verdict
from tests.support import brief, run, shower, system


def data():
    return drover().model_dump(mode="json")


def part(document, part_id):
    parts = document["variants"][0]["system"]["parts"]
    return next(item for item in parts if item["id"] == part_id)


def run_of(document, run_id):
    return next(r for r in document["variants"][0]["system"]["runs"] if r["id"] == run_id)


def system_of(document):
    return document["variants"][0]["system"]


def space(document, space_id):
    return next(item for item in system_of(document)["spaces"] if item["id"] == space_id)


def state(positions):
    listed = [{"part": part_id, "at": at} for part_id, at in positions]
    return {"id": "s", "name": "S", "positions": listed}


def put(target, key, value):
    target[key] = value


WRONG = {
    "negative volume": (lambda d: put(part(d, "tank"), "volume_m3", -1), "must be more than 0"),
    "no number": (lambda d: put(part(d, "tank"), "volume_m3", "ten"), "must be a number"),
    "a unit in a number": (
        lambda d: put(part(d, "tank"), "volume_m3", "10 gallons"), "must be a number",
    ),
    "length in words": (lambda d: put(run_of(d, "main"), "length_m", "12 ft"), "must be a number"),
    "not a number": (lambda d: put(part(d, "tank"), "volume_m3", float("nan")), "finite"),
    "endless": (lambda d: put(run_of(d, "main"), "length_m", float("inf")), "finite"),
    "no length": (lambda d: put(run_of(d, "main"), "length_m", 0), "must be more than 0"),
    "huge length": (lambda d: put(run_of(d, "main"), "length_m", 1e6), "must be at most 30"),
    "unknown kind": (lambda d: put(part(d, "pump"), "kind", "windmill"), "does not know"),
    "no kind": (lambda d: part(d, "pump").pop("kind"), "has no kind"),
    "unknown key": (lambda d: put(part(d, "pump"), "colour", "red"), "take it out"),
    "bad id": (lambda d: put(part(d, "pump"), "id", "Pump 1!"), "small letters"),
    "id twice": (lambda d: put(part(d, "pump"), "id", "tank"), "two parts have the id"),
    "run id twice": (lambda d: put(run_of(d, "main"), "id", "suction"), "two runs have the id"),
    "joins nothing": (
        lambda d: put(run_of(d, "main")["start"], "part", "ghost"), "which is not there",
    ),
    "joins no port": (lambda d: put(run_of(d, "main")["start"], "port", "side"), "which has only"),
    "port twice": (
        lambda d: put(run_of(d, "main"), "start", {"part": "pump", "port": "outlet"}),
        "two ends meet",
    ),
    "long name": (lambda d: put(d, "name", "x" * 81), "at most 80 characters"),
    "no name": (lambda d: put(d, "name", "  "), "must not be empty"),
    "script": (lambda d: put(d, "name", "<script>alert(1)</script>"), "not allowed"),
    "zero byte": (lambda d: put(d, "name", "a\x00b"), "hidden character U+0000"),
    "turned text": (lambda d: put(d, "name", "a\u202eb"), "hidden character U+202E"),
    "surrogate": (lambda d: put(d, "name", "a\ud800b"), ""),
    "two lines": (lambda d: put(d, "name", "a\nb"), "one line"),
    "long note": (lambda d: put(d["brief"], "note", "y" * 2001), "at most 2000 characters"),
    "month 13": (lambda d: put(d["brief"], "month", 13), "must be at most 12"),
    "half a day": (lambda d: put(d["brief"], "days", 1.5), "whole number"),
    "boiling": (lambda d: put(part(d, "mixer"), "set_c", 150), "must be at most 95"),
    "window shut": (lambda d: put(d["brief"]["draws"][0], "high_c", 37.5), "at least 1 K"),
    "draw id twice": (lambda d: put(d["brief"]["draws"][0], "id", "child-shower"), "two draws"),
    "too long a day": (
        lambda d: put(d["brief"]["draws"][0], "stop_s", 3600)
        or put(d["brief"]["draws"][0], "stops", 20),
        "four hours",
    ),
    "too many draws": (
        lambda d: put(d["brief"], "draws", [shower(i).model_dump() for i in range(25)]),
        "at most 24 items",
    ),
    "use id twice": (lambda d: put(d["brief"]["uses"][0], "id", "dishes"), "two uses"),
    "grey out of nothing": (
        lambda d: put(d["brief"]["uses"][0], "grey_share", 1.5), "must be at most 1",
    ),
    "no rise": (lambda d: put(d["brief"]["draws"][0], "aim", "above the tank"), "by how much"),
    "in no such space": (lambda d: put(part(d, "tank"), "space", "attic"), "“attic”"),
    "of no such phase": (lambda d: put(run_of(d, "main"), "phase", "never"), "“never”"),
    "sits in nothing": (lambda d: put(part(d, "element"), "fitted_in", "ghost"), "“ghost”"),
    "sits in itself": (lambda d: put(part(d, "store"), "fitted_in", "element"), "sits in itself"),
    "own neighbour": (
        lambda d: put(space(d, "living"), "neighbours", ["living"]), "its own neighbour",
    ),
    "space twice": (lambda d: put(space(d, "living"), "id", "below"), "two spaces"),
    "cable for water": (lambda d: put(run_of(d, "main"), "kind", "cable"), "take it out"),
    "water into power": (
        lambda d: put(run_of(d, "main"), "end", {"part": "element", "port": "power"}),
        "join openings for the same",
    ),
    "position of a tank": (
        lambda d: put(system_of(d), "states", [state([("tank", "open")])]), "does not move",
    ),
    "no such position": (
        lambda d: put(system_of(d), "states", [state([("shut-off", "ajar")])]), "open, shut",
    ),
    "position of nothing": (
        lambda d: put(system_of(d), "states", [state([("ghost", "open")])]), "not there",
    ),
    "dry nothing": (
        lambda d: put(system_of(d), "states", [{**state([]), "dry": ["ghost"]}]), "not there",
    ),
    "two suns": (lambda d: put(system_of(d), "volts_v", 5000), "must be at most 500"),
    "family": (lambda d: put(run_of(d, "main"), "family", "bamboo"), "must be one of"),
    "hole to nowhere": (
        lambda d: put(system_of(d), "holes", [{"id": "h", "name": "H", "first": "attic"}]),
        "“attic”",
    ),
    "a megabyte of name": (lambda d: put(d, "name", "x" * 1_000_000), "at most 80 characters"),
    "refusal": (lambda d: put(d["brief"], "will_not_have", ["steam"]), "must be one of"),
    "refusal twice": (lambda d: put(d["brief"], "will_not_have", ["gas", "gas"]), "twice"),
    "no variant": (lambda d: put(d, "variants", []), "at least 1"),
    "variant twice": (lambda d: put(d["variants"][0], "id", "foamed"), "have the id"),
    "brief missing part": (lambda d: d["brief"]["draws"][0].pop("name"), "is missing"),
    "ten thousand parts": (
        lambda d: put(d["variants"][0]["system"], "parts",
                      [{"id": f"t{i}", "kind": "tap"} for i in range(10_000)]),
        "at most 400 items",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", WRONG)
def test_a_wrong_document_gets_the_right_sentence(name):
    document = data()
    change, words = WRONG[name]
    change(document)
    with pytest.raises((ValidationError, UnicodeEncodeError)) as caught:
        Project.model_validate(document)
    if isinstance(caught.value, ValidationError):
        sentences = validation_sentences(caught.value)
        assert any(words in sentence for sentence in sentences), sentences
        assert all(sentence.endswith(".") and len(sentence) < 400 for sentence in sentences)


def test_equal_documents_have_equal_bytes_and_survive():
    first, second = drover(), Project.model_validate(json.loads(canonical_json(drover())))
    assert first == second
    assert canonical_json(first) == canonical_json(second)


def test_documents_are_frozen():
    with pytest.raises(ValidationError):
        drover().brief.days = 3  # type: ignore[misc]


def test_a_network_of_another_shape_is_legal():
    parts = [
        {"id": "a", "kind": "tap"}, {"id": "b", "kind": "through_flow_gas"},
        {"id": "c", "kind": "manual_mixer"}, {"id": "d", "kind": "drain"},
    ]  # fmt: skip
    runs = [
        {
            "id": "r",
            "kind": "pipe",
            "start": {"part": "b", "port": "outlet"},
            "end": {"part": "a", "port": "inlet"},
        },
    ]
    assert len(System.model_validate({"parts": parts, "runs": runs}).parts) == 4


# --- the one shape the engine computes, and how every other is refused ---


def altered(change):
    document = system().model_dump(mode="json")
    change(document)
    return System.model_validate(document)


def without(document, part_id):
    document["parts"] = [p for p in document["parts"] if part_id not in (p["id"], p["fitted_in"])]
    document["runs"] = [
        r for r in document["runs"] if part_id not in (r["start"]["part"], r["end"]["part"])
    ]


def join(document, run_id, start, end):
    def ref(text):
        return dict(zip(("part", "port"), text.split("."), strict=True))

    document["runs"].append(
        {**copy.deepcopy(document["runs"][0]), "id": run_id, "start": ref(start), "end": ref(end)}
    )


def turn_round(document, run_id):
    run = next(r for r in document["runs"] if r["id"] == run_id)
    run["start"], run["end"] = run["end"], run["start"]


def turn_ports(document, part_id):
    for one in document["runs"]:
        for end in (one["start"], one["end"]):
            if end["part"] == part_id:
                end["port"] = {"inlet": "outlet", "outlet": "inlet"}[end["port"]]


def add_part(document, **values):
    document["parts"].append(values)


def insert(document, run_id, ports=("inlet", "outlet"), **values):
    add_part(document, **values)
    run = next(r for r in document["runs"] if r["id"] == run_id)
    after = {**copy.deepcopy(run), "id": f"{run_id}-2"}
    run["end"] = {"part": values["id"], "port": ports[0]}
    after["start"] = {"part": values["id"], "port": ports[1]}
    document["runs"].append(after)


# another shape than the usual: what becomes of the shower
SHAPES = {
    "no tank": (lambda d: without(d, "tank"), "gets no water"),
    "a heater of its own": (
        lambda d: insert(d, "hot-run", id="geyser", kind="through_flow_gas", heat_w=1e4, set_c=60),
        "One wash",
    ),
    "two elements": (
        lambda d: add_part(d, id="more", kind="element", fitted_in="store", power_w=500.0),
        "One wash",
    ),
    "a gap": (lambda d: d["runs"].pop(0), "gets no water"),
    "drawn backwards": (lambda d: turn_round(d, "hot-run"), "One wash"),
    "legs swapped": (
        lambda d: [
            r["end"].update(port={"hot": "cold", "cold": "hot"}[r["end"]["port"]])
            for r in d["runs"] if r["end"]["part"] == "mixer"
        ],
        "runs cool",
    ),
    "check valve backwards": (
        lambda d: turn_ports(d, "check"), "never gets warm",
    ),
}  # fmt: skip


BESIDE = {
    "a tap": lambda d: add_part(d, id="basin", kind="tap"),
    "a loose valve": lambda d: add_part(d, id="spare", kind="check_valve"),
    "a gas bottle": lambda d: add_part(d, id="bottle", kind="gas_bottle"),
    "a capped branch": lambda d: (
        insert(d, "main", id="tee", kind="split"),
        add_part(d, id="cap", kind="blanking_cap"),
        join(d, "to-cap", "tee.branch", "cap.inlet"),
    ),
    "an unfinished drain": lambda d: (
        insert(d, "store-in", id="tee", kind="split"),
        add_part(d, id="drain", kind="drain"),
        join(d, "to-drain", "tee.branch", "drain.inlet"),
    ),
    "a second head, shut": lambda d: (
        insert(d, "shower-run", id="tee", kind="split"),
        add_part(d, id="outside", kind="shower_head"),
        join(d, "to-outside", "tee.branch", "outside.inlet"),
    ),
}


@pytest.mark.parametrize("name", BESIDE)
def test_what_stands_beside_the_route_does_not_hide_the_shower(name):
    built = altered(BESIDE[name])
    asked = brief(shower(), day_start="cold")  # so that no thermostat stands elsewhere in its cycle
    plain, beside = (run(asked, made).draws[0] for made in (system(), built))
    assert beside.wait_s == pytest.approx(plain.wait_s, abs=1.5)  # a split holds water too
    assert beside.comfort_s == pytest.approx(plain.comfort_s, rel=0.05)
    assert set(not_computed(built)) <= {part.id for part in built.parts}


@pytest.mark.parametrize("name", SHAPES)
def test_another_shape_is_computed_too(name):
    change, words = SHAPES[name]
    outcome = run(brief(shower()), altered(change))
    assert words in verdict(outcome, UnitSystem.METRIC)


def test_an_outlet_that_is_joined_to_nothing_is_named():
    def apart(document):
        document["runs"] = [r for r in document["runs"] if r["end"]["part"] != "head"]

    with pytest.raises(NotComputedYet) as caught:
        run(brief(shower()), altered(apart))
    assert caught.value.part_id == "head"
    with pytest.raises(NotComputedYet):
        run(brief(shower()), System())


@pytest.mark.parametrize(
    ("built", "path"),
    [
        (usual_route(), "parts.tank.volume_m3"),
        (usual_route(tank_m3=0.1), "parts.store.volume_m3"),
        (usual_route(tank_m3=0.1, store_m3=0.01), "parts.store"),
        (
            usual_route(tank_m3=0.1, store_m3=0.01, element=Element(id="element")),
            "parts.element.power_w",
        ),
    ],
)
def test_an_unknown_value_is_asked_for(built, path):
    with pytest.raises(MissingValue) as caught:
        run(brief(shower()), built)
    assert caught.value.path == path


def test_reading_order_walks_from_tank_to_head_and_loses_nothing():
    built = system()
    order = [item.id for item in reading_order(built)]
    assert order[0] == "tank"
    assert order[-1] == "head"
    assert order.index("cold-run") < order.index("mixer")
    assert sorted(order) == sorted([p.id for p in built.parts] + [r.id for r in built.runs])
    broken = altered(lambda d: add_part(d, id="loose", kind="drain"))
    assert "loose" in [item.id for item in reading_order(broken)]
    assert reading_order(System()) == ()


# --- surroundings ---


def test_every_region_has_a_year_and_a_source():
    for region in regions():
        assert len(region.air_c) == 12
        assert region.source
        assert min(region.air_c) > -30 and max(region.air_c) < 45
    assert climate_in("northern-hills", 1).air_c < climate_in("northern-hills", 7).air_c
    with pytest.raises(UnknownRegion) as caught:
        climate_in("atlantis", 1)
    assert "river-plain" in caught.value.known


def test_fresh_water_takes_the_temperature_of_its_place():
    frost = Climate(region="high-plateau", month=1, air_c=-5.0, swing_k=14.0)
    assert frost.fresh_water_c("heated", 18.0) == 15.0
    assert frost.fresh_water_c("slung", 18.0) == 2.0
    summer = Climate(region="dry-south", month=7, air_c=28.0, swing_k=11.0)
    assert summer.space_c("heated", 18.0) == 28.0
    assert frost.space_c("unheated", 18.0) == 6.5
    assert Brief().cold_water_c is None
