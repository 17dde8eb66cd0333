"""Project file, timeline and result: written, read again, refused with a reason."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma.catalogue.demo import drover, folio
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.simulate import last_day
from isotherma.core.system.kinds.heat import Store
from isotherma.files.project_file import (
    MAX_BYTES,
    FileRefused,
    _unique,
    read_project,
    write_project,
)
from isotherma.files.report_json import report
from isotherma.files.schema import project_schema
from isotherma.files.tables import plain_text, safe_text
from isotherma.files.timeline_csv import write_timeline
from tests.core.test_simulate import valid_cases
from tests.support import brief, run, shower, system


def test_the_demo_comes_back_byte_for_byte():
    data = write_project(drover())
    assert read_project(data) == drover()
    assert write_project(read_project(data)) == data


@given(valid_cases(), st.text(alphabet="aé語🚐 -", min_size=1, max_size=20).filter(str.strip))
@settings(max_examples=40)
def test_any_valid_project_comes_back_exactly(case, name):
    asked, built, _ = case
    project = Project(
        name=name, brief=asked, variants=(Variant(id="a", name="Ä/ “x”", system=built),)
    )
    data = write_project(project)
    assert read_project(data) == project
    assert write_project(read_project(data)) == data


def altered(**values):
    return json.dumps({**json.loads(write_project(drover())), **values}).encode()


REFUSED = [
    (b"", "broken", "line 1"),
    (b"{", "broken", "broken at line 1"),
    (b"\xff\xfe\x00", "not_text", "no UTF-8"),
    (b"[]", "other_format", "no project file"),
    (b'{"format": "letter"}', "other_format", "isotherma-project"),
    (altered(format_version=10), "newer", "newer Isotherma"),
    (altered(format_version=10**30), "newer", "newer"),
    (altered(format_version="1"), "no_version", "format_version"),
    (altered(format_version=0), "no_version", "format_version"),
    (altered(format_version=True), "no_version", "format_version"),
    (altered(name="<script>alert(1)</script>"), "invalid", "not allowed"),
    (altered(name="a\x00b"), "invalid", "hidden character"),
    (altered(name="\ud800"), "torn_letter", ""),
    (altered(name=5), "invalid", "name"),
    (altered(secret="x"), "invalid", "take it out"),
    (altered(variants=[]), "invalid", "at least 1"),
    (b'{"format": "isotherma-project", "format": "isotherma-project"}', "key_twice", "twice"),
    (b'{"format": NaN}', "not_a_number", "no number"),
    (altered(variants=[0] * 30_000), "too_many", "30000 items"),
    (altered(brief={"cold_water_c": "0.5"}), "invalid", "number"),
    (altered(brief={"cold_water_c": True}), "invalid", "number"),
    (b'{"format": 1e999, "format_version": 1}', "other_format", ""),
    (b"[" * 100_000, "too_deep", "deeper"),
    (b" " * (MAX_BYTES + 1), "too_large", "MB"),
    (b" " * 50_000_000, "too_large", "at most 2 MB"),
    (b'{"format": ' + b"9" * 5000 + b"}", "broken", "too large"),
]


@pytest.mark.parametrize(("data", "code", "words"), REFUSED, ids=range(len(REFUSED)))
def test_a_bad_file_is_refused_with_a_reason(data, code, words):
    with pytest.raises(FileRefused) as caught:
        read_project(data)
    assert caught.value.code == code
    assert words in caught.value.message
    assert "<script" not in caught.value.message
    assert len(caught.value.message) < 2500


def test_a_key_given_twice_among_many_is_found_in_one_pass():
    """Each key is looked at once, so that twice as many take twice as long and not four times."""
    looked = 0

    class Counted(str):
        __slots__ = ()

        def __eq__(self, other):
            nonlocal looked
            looked += 1
            return str.__eq__(self, other)

        __hash__ = str.__hash__

    pairs = [(Counted(f"key-{number}"), 0) for number in range(20_000)]
    with pytest.raises(FileRefused, match="twice"):
        _unique([*pairs, (Counted("key-19999"), 1)])
    assert looked < 10 * len(pairs)


@given(st.text(max_size=30))
def test_no_text_runs_in_a_spreadsheet_and_all_come_back(words):
    cell = safe_text(words)
    assert cell[:1] not in {"=", "+", "-", "@", "\t", "\r"}
    assert plain_text(cell) == words


@given(st.binary(max_size=300))
def test_any_bytes_are_refused_in_words(data):
    with pytest.raises(FileRefused):
        read_project(data)


@given(st.data())
@settings(max_examples=60)
def test_a_damaged_file_never_breaks_the_reader(data):
    whole = write_project(drover())
    at = data.draw(st.integers(0, len(whole) - 1))
    byte = data.draw(st.integers(0, 255))
    damaged = whole[:at] + bytes([byte]) + whole[at + 1 :]
    try:
        read_project(damaged)
    except FileRefused as error:
        assert error.message


def test_the_schema_describes_the_file():
    schema = project_schema()
    assert schema["properties"]["format"]["const"] == "isotherma-project"
    assert {"format", "format_version", "name", "variants"} <= set(schema["required"])
    kinds = schema["$defs"]["System"]["properties"]["parts"]["items"]["discriminator"]["mapping"]
    assert {"store", "pump", "thermostatic_mixer", "shower_head"} <= set(kinds)


def test_the_timeline_has_a_row_per_step_and_adds_up():
    outcome = run(brief(shower(stops=1)), system())
    rows = list(csv.DictReader(io.StringIO(write_timeline(outcome))))
    assert len(rows) == len(outcome.timeline.log)
    flowing = [row for row in rows if row["phase"] in {"waiting", "running"}]
    litres = sum(float(row["flow_l_per_min"]) * float(row["step_s"]) / 60 for row in flowing)
    assert litres == pytest.approx(outcome.draws[0].used_m3 * 1e3, rel=0.02)
    assert {row["phase"] for row in rows} == {"rest", "waiting", "running", "stopped"}
    resting = next(row for row in rows if row["phase"] == "rest")
    assert resting["head_c"] == "" and float(resting["store_layer_0_c"]) > 0
    assert float(rows[-1]["time_s"]) == pytest.approx(86400.0)


def test_the_result_has_the_documented_keys():
    outcome = run(brief(shower(), days=2), system())
    data = json.loads(
        json.dumps(
            report(outcome, last_day(outcome), name="X", variant="a", units=UnitSystem.METRIC)
        )
    )
    assert data["format"] == "isotherma-result-1"
    for key in ("name", "start_s", "met", "why_not", "wait_s", "cold_l", "comfort_l", "comfort_s",
                "mean_c", "peak_c", "final_c", "flow_l_per_min", "hot_l", "used_l"):  # fmt: skip
        assert key in data["draws"][0]
    units = {row["budget"]: row["unit"] for row in data["ledger"]}
    assert units == {"fresh": "L", "grey": "L", "gas": "kg", "diesel": "L", "mains": "kWh",
                     "battery": "Wh", "warmth": "min", "waiting": "s"}  # fmt: skip
    fresh = next(row for row in data["ledger"] if row["budget"] == "fresh")
    assert fresh["limit"] == pytest.approx(100.0)
    assert fresh["margin"] == pytest.approx(fresh["limit"] - fresh["used"])
    assert data["balance"]["energy_error_share"] < 1e-3


KEPT = Path(__file__).parent / "kept"


def test_a_zero_of_format_2_that_nobody_knew_is_unknown_now():
    """Format 2 read a time of 0 as unknown; format 3 refuses it, so the old file is mended."""
    project = read_project((KEPT / "format-2-folio.isotherma.json").read_bytes())
    assert [variant.name for variant in project.variants] == [v.name for v in folio().variants]
    for variant in project.variants:
        store = next(part for part in variant.system.parts if isinstance(part, Store))
        assert store.cooled_in_s is None and variant.state is None
    old = json.loads((KEPT / "format-2-folio.isotherma.json").read_text())
    with pytest.raises(FileRefused):
        read_project(json.dumps({**old, "format_version": 3}).encode())
    again = read_project(write_project(project))
    assert again == project


def test_the_state_of_the_day_goes_along():
    project = folio()
    variant = project.variants[0]
    other = variant.system.states[-1].id
    stands = project.model_copy(update={"variants": (variant.model_copy(update={"state": other}),)})
    standing = read_project(write_project(stands)).variants[0].standing
    assert standing is not None and standing.id == other
    gone = variant.model_copy(update={"state": "gone-away"})
    assert gone.standing == variant.system.states[0]


def test_a_trip_of_equal_days_of_format_4_says_nothing_more():
    project = read_project((KEPT / "format-4-drover.isotherma.json").read_bytes())
    assert project.brief.order == () and project.brief.day_kinds == ()
    assert project.brief.trip_days == project.brief.days


def said(raw: dict[str, Any], part: str, name: str) -> object:
    """A property of a part of the first variant, as a file of it is read."""
    system = read_project(json.dumps(raw).encode()).variants[0].system
    return getattr(system.part(part), name)


def test_what_format_6_took_for_granted_stays_said():
    """A property somebody's file never asked about is unknown only in new files."""
    raw = json.loads((KEPT / "format-6-gas-combi.isotherma.json").read_text())
    assert said(raw, "flue", "room_sealed") is True
    assert said(raw, "combi", "may_stand_empty") is True
    for part in raw["variants"][0]["system"]["parts"]:
        for name in ("room_sealed", "may_stand_empty", "warns_of", "guard", "valves", "outside"):
            part.pop(name, None)
    assert said(raw, "flue", "room_sealed") is True
    assert said(raw, "relief", "outside") is False and said(raw, "breaker", "guard") == "fuse"
    raw["format_version"] = 7
    assert said(raw, "flue", "room_sealed") is None
    assert said(raw, "combi", "may_stand_empty") is None


def test_format_8_only_adds_and_an_end_nobody_states_is_none():
    data = (KEPT / "format-7-diesel-plate.isotherma.json").read_bytes()
    project = read_project(data)
    system = project.variants[0].system
    assert all(part.ends == () for part in system.parts) and system.tradition is None
    assert project.prices == () and project.currency == ""
    assert json.loads(write_project(project))["format_version"] == 9
    assert read_project(write_project(project)) == project


def test_format_9_only_adds_and_nothing_is_measured_until_it_is():
    project = read_project((KEPT / "format-8-curlew.isotherma.json").read_bytes())
    variant = project.variants[0]
    assert variant.measured == () and variant.notes == ()
    assert all(space.lined is None for space in variant.system.spaces)
    assert variant.built.system == variant.system
    assert read_project(write_project(project)) == project


def test_measured_figures_notes_points_and_linings_are_kept_as_they_are_said():
    def change(system, raw):
        raw["variants"][0]["measured"] = [
            {"path": "parts.store.loss_w_per_k", "value": 0.8, "low": 0.7, "high": 0.9,
             "on": "2026-11-28", "sessions": ["night"]}]  # fmt: skip
        raw["variants"][0]["notes"] = [
            {"path": "parts.mixer.set_c", "value": "40 on its scale", "why": "found so"}
        ]
        system["spaces"].append({"id": "den", "name": "Den", "lined": True})

    project = read_project(of_drover(change))
    variant = project.variants[0]
    assert variant.notes[0].value == "40 on its scale"
    store = next(part for part in variant.built.system.parts if part.id == "store")
    assert getattr(store, "loss_w_per_k", None) == 0.8
    assert read_project(write_project(project)) == project


@pytest.mark.parametrize(
    "row",
    [
        {"path": "brief.cold_water_c", "value": 9.0},
        {"path": "parts.store", "value": 9.0},
        {"path": "parts.store.loss_w_per_k", "value": "much"},
        {"value": 9.0},
    ],
)
def test_a_measured_figure_that_is_none_is_refused_by_name(row):
    data = of_drover(lambda system, raw: raw["variants"][0].update(measured=[row]))
    with pytest.raises(FileRefused) as caught:
        read_project(data)
    assert "measured" in str(caught.value)


def of_drover(change):
    """Drover's file with something changed in its first system."""
    raw = json.loads(write_project(drover()))
    change(raw["variants"][0]["system"], raw)
    return json.dumps(raw).encode()


def test_ends_legs_and_prices_are_kept_as_they_are_said():
    def change(system, raw):
        pump = next(part for part in system["parts"] if part["kind"] == "pump")
        pump["ends"] = [{"port": "inlet", "end": "Male  3/8 in in parallel"},
                        {"port": "outlet", "end": "run"}]  # fmt: skip
        pipe = next(run for run in system["runs"] if run["kind"] == "pipe")
        pipe["legs"] = [{"length_m": 0.3, "turn_deg": 90}, {"length_m": 0.45}]
        pipe["measured"] = "between centres"
        system["tradition"] = "UK"
        raw["currency"] = "EUR"
        raw["prices"] = [{"item": "clip", "size": "", "pack": 10, "price": 0, "have": 3}]

    project = read_project(of_drover(change))
    system = project.variants[0].system
    pump = next(part for part in system.parts if part.kind == "pump")
    assert pump.end_at("inlet") == "male 3/8 in parallel" and pump.end_at("outlet") == "run"
    pipe = next(run for run in system.runs if run.kind == "pipe")
    assert pipe.legs_m == pytest.approx(0.75) and pipe.counted("formed_bends") == 1
    assert project.prices[0].price == 0.0 and project.prices[0].have == 3.0


BAD_8 = [
    ("inlet", "male 1/2 in paralel", "male 1/2 in parallel"),
    ("inlet", "female three quarters", "no end known"),
    ("nozzle", "male 1/2 in parallel", "no port “nozzle”"),
]


@pytest.mark.parametrize(("port", "end", "words"), BAD_8)
def test_a_bad_end_or_port_is_refused_with_where_and_the_nearest(port, end, words):
    def change(system, raw):
        pump = next(part for part in system["parts"] if part["kind"] == "pump")
        pump["ends"] = [{"port": port, "end": end}]

    with pytest.raises(FileRefused) as caught:
        read_project(of_drover(change))
    text = str(caught.value.message) if hasattr(caught.value, "message") else str(caught.value)
    assert words in text and "pump" in text


def test_turns_stand_between_legs_and_a_price_is_said_once():
    def turned(system, raw):
        pipe = next(run for run in system["runs"] if run["kind"] == "pipe")
        pipe["legs"] = [{"length_m": 0.3, "turn_deg": 90}]

    def twice(system, raw):
        raw["prices"] = [{"item": "clip", "size": "x"}, {"item": "clip", "size": "x"}]

    for change, words in ((turned, "between two legs"), (twice, "prices")):
        with pytest.raises(FileRefused) as caught:
            read_project(of_drover(change))
        assert words in str(caught.value)
