"""Documents: what is legal, what is refused and in which words."""

from __future__ import annotations

import copy
import json

import pytest
from pydantic import ValidationError

from isotherma.catalogue import climate, regions
from isotherma.catalogue.demo import drover
from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.errors import MissingValue, NotComputedYet, UnknownRegion
from isotherma.core.project import Project, canonical_json
from isotherma.core.system import System
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.parts import Element
from isotherma.core.system.route import find_route, reading_order
from isotherma.files.wording import validation_sentences
from tests.support import shower, system


def data():
    return drover().model_dump(mode="json")


def part(document, part_id):
    parts = document["variants"][0]["system"]["parts"]
    return next(item for item in parts if item["id"] == part_id)


def run_of(document, run_id):
    return next(r for r in document["variants"][0]["system"]["runs"] if r["id"] == run_id)


def put(target, key, value):
    target[key] = value


WRONG = {
    "negative volume": (lambda d: put(part(d, "tank"), "volume_m3", -1), "must be more than 0"),
    "no number": (lambda d: put(part(d, "tank"), "volume_m3", "ten"), "must be a number"),
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
    "grey out of nothing": (lambda d: put(d["brief"], "other_grey_m3", 1.0), "more grey water"),
    "refusal": (lambda d: put(d["brief"], "will_not_have", ["steam"]), "must be one of"),
    "refusal twice": (lambda d: put(d["brief"], "will_not_have", ["gas", "gas"]), "twice"),
    "material": (lambda d: put(run_of(d, "main"), "material", "wood"), "must be one of"),
    "no variant": (lambda d: put(d, "variants", []), "at least 1"),
    "variant twice": (lambda d: put(d["variants"][0], "id", "foamed"), "same id"),
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
        {"id": "a", "kind": "tap"}, {"id": "b", "kind": "through_flow_heater"},
        {"id": "c", "kind": "manual_mixer"}, {"id": "d", "kind": "drain"},
    ]  # fmt: skip
    runs = [
        {"id": "r", "start": {"part": "b", "port": "outlet"}, "end": {"part": "a", "port": "inlet"}}
    ]
    assert len(System.model_validate({"parts": parts, "runs": runs}).parts) == 4


# --- the one shape the engine computes, and how every other is refused ---


def altered(change):
    document = system().model_dump(mode="json")
    change(document)
    return System.model_validate(document)


def without(document, part_id):
    document["parts"] = [p for p in document["parts"] if p["id"] != part_id]
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


def add_part(document, **values):
    document["parts"].append(values)


REFUSED = {
    "no tank": (lambda d: without(d, "tank"), "", "needs one"),
    "no mixer": (lambda d: without(d, "mixer"), "", "needs one"),
    "second tank": (lambda d: add_part(d, id="t2", kind="fresh_tank"), "t2", "second tank"),
    "second head": (lambda d: add_part(d, id="h2", kind="shower_head"), "h2", "second outlet"),
    "a tap": (lambda d: add_part(d, id="basin", kind="tap"), "basin", "no method"),
    "a heater": (
        lambda d: add_part(d, id="geyser", kind="through_flow_heater"), "geyser", "no method",
    ),
    "a gap": (lambda d: d["runs"].pop(0), "tank", "joins nothing"),
    "backwards": (lambda d: turn_round(d, "hot-run"), "store", "wrong way"),
    "valve backwards": (
        lambda d: turn_round(d, "store-feed") or turn_round(d, "store-in"), "split", "wrong way",
    ),
    "loose part": (lambda d: add_part(d, id="spare", kind="check_valve"), "spare", "not on the"),
    "legs swapped": (
        lambda d: [
            r["end"].update(port={"hot": "cold", "cold": "hot"}[r["end"]["port"]])
            for r in d["runs"] if r["end"]["part"] == "mixer"
        ],
        "mixer", "stands where",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", REFUSED)
def test_another_shape_names_the_part(name):
    change, part_id, words = REFUSED[name]
    with pytest.raises(NotComputedYet) as caught:
        find_route(altered(change))
    assert caught.value.part_id == part_id
    assert words in caught.value.reason


def test_a_pump_in_the_wrong_place_is_named():
    def move(document):
        without(document, "pump")
        without(document, "check")
        join(document, "x", "strainer.outlet", "accumulator.inlet")
        add_part(document, id="pump", kind="pump")
        join(document, "y", "split.outlet", "pump.inlet")
        join(document, "z", "pump.outlet", "store.inlet")

    with pytest.raises(NotComputedYet) as caught:
        find_route(altered(move))
    assert caught.value.part_id == "pump"


@pytest.mark.parametrize(
    ("built", "path"),
    [
        (usual_route(), "parts.tank.volume_m3"),
        (usual_route(tank_m3=0.1), "parts.store.volume_m3"),
        (usual_route(tank_m3=0.1, store_m3=0.01), "parts.store.element"),
        (usual_route(tank_m3=0.1, store_m3=0.01, element=Element()), "parts.store.element.power_w"),
    ],
)
def test_an_unknown_value_is_asked_for(built, path):
    with pytest.raises(MissingValue) as caught:
        find_route(built)
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
    assert climate("northern-hills", 1).air_c < climate("northern-hills", 7).air_c
    with pytest.raises(UnknownRegion) as caught:
        climate("atlantis", 1)
    assert "river-plain" in caught.value.known


def test_fresh_water_takes_the_temperature_of_its_place():
    frost = Climate(region="high-plateau", month=1, air_c=-5.0, swing_k=14.0)
    assert frost.fresh_water_c("inside", 18.0) == 15.0
    assert frost.fresh_water_c("outside", 18.0) == 2.0
    summer = Climate(region="dry-south", month=7, air_c=28.0, swing_k=11.0)
    assert summer.space_c("inside", 18.0) == 28.0
    assert Brief().cold_water_c is None
