"""The command line, run as a person runs it."""

from __future__ import annotations

import csv
import io
import json
import os
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path

import pytest
from typer.testing import CliRunner

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import drover_on_trip
from isotherma.catalogue.layouts import layouts
from isotherma.cli import app
from isotherma.core.project import Project, Variant
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.nominal import known_figure
from isotherma.files.project_file import read_project, write_project
from isotherma.services.edits import EDITS
from tests.networks import network, part, pipe, pump, tank, tap

ROOT = Path(__file__).parents[1]


@dataclass
class Done:
    """What a command printed and ended with."""

    returncode: int
    stdout: str
    stderr: str


def isotherma(*arguments, url=None, check=None, apart=False):
    """Run a command; `apart` as a process of its own, as a person does, else within this one."""
    path = {"PYTHONPATH": str(ROOT / "src")}  # the environment the tests run in, and no other
    words = [*map(str, arguments)]
    if apart:
        ran = subprocess.run(
            [sys.executable, "-m", "isotherma", *words], capture_output=True, text=True,
            env={**os.environ, **path, **({"DATABASE_URL": url} if url else {})}, timeout=120,
        )  # fmt: skip
        done = Done(ran.returncode, ran.stdout, ran.stderr)
    else:
        result = CliRunner().invoke(app, words, env={"DATABASE_URL": url} if url else None)
        if result.exception is not None and not isinstance(result.exception, SystemExit):
            raise result.exception
        done = Done(result.exit_code, result.stdout, result.stderr)
    assert check is None or done.returncode == check, done.stderr
    return done


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "drover.isotherma.json"
    path.write_bytes(write_project(drover()))
    return path


def test_simulate_prints_the_object_and_writes_the_timeline(file, tmp_path):
    out = tmp_path / "day.csv"
    done = isotherma("simulate", file, "--json", "--csv", out, "--variant", "foamed", check=0,
                     apart=True)  # fmt: skip
    data = json.loads(done.stdout)
    assert data["variant"] == "foamed"
    assert len(data["draws"]) == 4
    assert data["verdict"].startswith("Four washes in May")
    assert max(data["balance"].values()) < 1e-3
    assert out.read_text().startswith("time_s,")


def test_simulate_in_words_and_gallons(file):
    done = isotherma("simulate", file, "--us", check=0)
    assert "gal of" in done.stdout and "Early shower: runs cool after" in done.stdout
    assert "!" in done.stdout


@pytest.mark.parametrize(
    ("content", "words"),
    [(b"{", "broken"), (b"{}", "no project file"), (b" " * 50_000_000, "larger than")],
    ids=["broken", "other", "50 MB"],
)
def test_a_bad_file_is_told_and_ends_with_2(tmp_path, content, words):
    path = tmp_path / "bad.json"
    path.write_bytes(content)
    done = isotherma("simulate", path, check=2)
    assert words in done.stderr
    assert "Traceback" not in done.stderr and done.stdout == ""
    assert words in isotherma("import", path, check=2).stderr


def test_missing_files_variants_and_folders_are_told(file, tmp_path):
    assert "No such file" in isotherma("simulate", tmp_path / "ghost", check=2).stderr
    assert "directory" in isotherma("simulate", tmp_path, check=2).stderr
    done = isotherma("simulate", file, "--variant", "ghost", check=2, apart=True)
    assert "ten-litres, fourteen, foamed" in done.stderr
    done = isotherma("simulate", file, "--csv", tmp_path / "no" / "x.csv", check=2)
    assert "No such file" in done.stderr


def test_what_is_not_computed_names_the_part(tmp_path):
    project = Project(name="x", variants=(Variant(id="a", name="a", system=usual_route()),))
    path = tmp_path / "x.json"
    path.write_bytes(write_project(project))
    done = isotherma("simulate", path, "--json", check=3)
    assert "Fresh tank has no usable volume" in done.stderr
    error = json.loads(done.stdout)["error"]
    assert error["code"] == "missing_value"
    assert "Not computed yet: Fresh tank" in error["message"]


def test_schema_is_json():
    schema = json.loads(isotherma("schema", check=0).stdout)
    assert schema["title"] == "Isotherma project file"


def test_import_and_export_through_the_database(file, tmp_path, database_url):
    done = isotherma("import", file, url=database_url, check=0)
    assert "Kept “Drover” as vehicle 1" in done.stdout
    out = tmp_path / "out.json"
    isotherma("export", "Drover", "--out", out, url=database_url, check=0)
    assert out.read_bytes() == file.read_bytes()
    done = isotherma("export", "1", url=database_url, check=0)
    assert read_project(done.stdout.encode()) == drover()
    done = isotherma("export", "ghost", url=database_url, check=2)
    assert "1 Drover" in done.stderr


def test_a_database_that_does_not_answer_is_told(file):
    url = "postgresql://nobody:x@127.0.0.1:1/none"
    done = isotherma("import", file, url=url, check=2)
    assert "cannot be reached" in done.stderr and "Traceback" not in done.stderr


@pytest.fixture
def seats(tmp_path):
    path = tmp_path / "seats.isotherma.json"
    path.write_bytes(write_project(layouts()["seat-store"].project()))
    return path


def test_solve_gives_every_run_part_and_outlet(seats):
    done = isotherma("solve", seats, "--state", "tank", "--open", "head", "--open",
                     "basin=0.5", "--json", check=0)  # fmt: skip
    data = json.loads(done.stdout)
    assert {run["id"] for run in data["runs"]} >= {"tank-shut", "join-head"}
    outlets = {row["id"]: row for row in data["outlets"]}
    assert outlets["basin"]["opening"] == 0.5
    assert 2 < outlets["head"]["flow_l_per_min"] < 6
    assert outlets["head"]["temperature_c"] == pytest.approx(40, abs=0.1)
    run = next(row for row in data["runs"] if row["id"] == "tank-shut")
    assert run["drop_kpa"] > 0 and run["velocity_m_per_s"] > 0.5
    assert data["pump"]["doing"] == "runs" and data["pump"]["current_a"] > 2
    assert data["pulsing"][0]["below_l_per_min"] == pytest.approx(2.546, rel=0.02)
    assert data["residual"] <= 0.1 and data["balance"] <= 1e-9 and data["iterations"] > 0


def test_solve_takes_levels_temperatures_and_dirty_filters(seats):
    def head(*more):
        done = isotherma("solve", seats, "--open", "head", "--json", *more, check=0)
        return json.loads(done.stdout)["outlets"][0]

    usual = head()["flow_l_per_min"]
    assert head("--level", "tank=0.5 m")["flow_l_per_min"] > usual * 1.005
    assert head("--dirty")["flow_l_per_min"] < usual
    assert head("--at", "store=30C", "--fresh", "5C")["temperature_c"] < 31


def test_solve_in_words_with_leak_waste_and_drain(seats):
    said = isotherma("solve", seats, "--open", "head", "--us", check=0).stdout
    assert "gal/min" in said and "What eats the pressure" in said and "When Basin tap opens" in said
    said = isotherma("solve", seats, "--leak", "--every", "12 min", "--drain", "--waste",
                     check=0).stdout.replace("\u00a0", " ")  # fmt: skip
    assert "One start every 12 min: 0.6" in said
    assert "Store behind the seats keeps 10 L" in said and "Basin bowl drains" in said
    data = json.loads(isotherma("solve", seats, "--leak", "--drain", "--json", check=0).stdout)
    assert data["leak"][0]["kept_ml"]["likely"] == pytest.approx(122, rel=0.05)
    assert data["drain"]["stays_l"] > 10 and data["drain"]["open_in_order"]


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["--open", "nothing"], "There is no outlet “nothing”. There are: basin, head"),
        (["--open", "head=2"], "cannot be open by 2"),
        (["--open", "head=half"], "“half” is no share"),
        (["--state", "moon"], "no state “moon”. The variant has: tank, bucket"),
        (["--level", "tunk=1 m"], "there is no part “tunk”"),
        (["--level", "tank=1 kg"], "--level tank=1 kg:"),
        (["--fresh", "warm"], "--fresh “warm”"),
        (["--leak", "--every", "0"], "give a time between two starts"),
    ],
)
def test_solve_says_what_is_wrong_with_what_was_asked(seats, options, words):
    done = isotherma("solve", seats, *options)
    assert done.returncode in (2, 3)
    assert words in done.stderr


def test_solve_names_what_is_missing_as_json(tmp_path):
    parts = [tank(), pump(), part("limit", "flow_limiter"), tap()]
    runs = [pipe("tank", "pump"), pipe("pump", "limit"), pipe("limit", "tap")]
    only = Project(name="Gap", variants=(Variant(id="v", name="V", system=network(parts, runs)),))
    path = tmp_path / "gap.isotherma.json"
    path.write_bytes(write_project(only))
    done = isotherma("solve", path, "--open", "tap", "--json")
    assert done.returncode == 3
    assert json.loads(done.stdout)["error"]["code"] == "missing_value"
    assert "lets through" in done.stderr


def test_simulate_in_another_state_phase_and_month(tmp_path):
    path = tmp_path / "coil.isotherma.json"
    path.write_bytes(write_project(layouts()["coolant-coil"].project()))

    def ledger(*more):
        data = json.loads(isotherma("simulate", path, "--json", *more, check=0).stdout)
        return {row["budget"]: row["used"] for row in data["ledger"]}

    winter, summer = ledger("--month", "1"), ledger("--month", "7")
    assert winter["diesel"] > summer["diesel"] > 0
    assert ledger("--days", "2")["fresh"] < winter["fresh"] / 3
    first = isotherma("simulate", path, "--phase", "first", check=0).stdout
    assert "washes in January" in first
    for option, words in (("--state", "no state “moon”"), ("--phase", "no phase “moon”")):
        assert words in isotherma("simulate", path, option, "moon", check=2).stderr


# --- edit ---


@pytest.fixture
def small(tmp_path):
    path = tmp_path / "small.json"
    path.write_bytes(write_project(layouts()["mini-store"].project()))
    return path


def edit(*arguments):
    return CliRunner().invoke(app, ["edit", *map(str, arguments)])


def test_every_edit_is_listed():
    said = edit("--list").output
    assert all(f"{name} " in said or f"{name}\n" in said for name in EDITS)


def test_an_edit_of_a_page_is_made_on_a_file(small, tmp_path):
    out = tmp_path / "out.json"
    done = edit(small, "part.add", "part_class=pump-small", "--out", out)
    assert done.exit_code == 0 and "added" in done.output
    before, after = (read_project(path.read_bytes()) for path in (small, out))
    assert len(after.variants[0].system.parts) == len(before.variants[0].system.parts) + 1


def test_values_are_set_as_a_form_reads_them(small, tmp_path):
    out = tmp_path / "out.json"
    done = edit(small, "set", "parts.store.volume_m3=2 gal", "brief.days=4", "--out", out)
    assert done.exit_code == 0, done.output
    assert "Volume" in done.output and "→ 4" in done.output
    after = read_project(out.read_bytes())
    store = next(part for part in after.variants[0].system.parts if part.id == "store")
    assert known_figure(store, "volume_m3") == pytest.approx(7.570823568e-3)  # 2 × 231 in³
    assert after.brief.days == 4


@pytest.mark.parametrize(
    ("arguments", "status", "words"),
    [
        (("part.explode",), 2, "There is no edit"),
        (("part.add",), 2, "part_class: is missing"),
        (("part.add", "x"), 2, "has no ="),
        (("part.add", "part_class=a", "part_class=b"), 2, "given twice"),
        (("part.add", "part_class=castle"), 3, "no class of part"),
        (("part.remove", "part=castle"), 3, "not there any more"),
        (("set",), 2, "Say what to set"),
        (("set", "parts.store.volume_m3=soup"), 2, "not a number"),
        (("set", "parts.store.volume_m3=-4"), 2, "must be more than 0"),
        (("set", "parts.store.nothing=4"), 2, "no such property"),
        (("set", "castle.x=4"), 3, "not there any more"),
        (("set", "name="), 2, "must not be empty"),
    ],
)
def test_a_wrong_edit_is_refused_in_words(small, arguments, status, words):
    before = small.read_bytes()
    refused = edit(small, *arguments)
    assert refused.exit_code == status
    assert words.lower() in refused.output.lower()
    assert small.read_bytes() == before


def test_an_edit_wants_a_file_and_a_name(small):
    assert edit().exit_code == 2 and edit(small).exit_code == 2
    assert edit("/nowhere.json", "part.add").exit_code == 2


@pytest.fixture
def show_file(tmp_path):
    path = tmp_path / "show.isotherma.json"
    path.write_bytes(write_project(drover_on_trip()))
    return path


def test_a_trip_is_followed_day_by_day(show_file):
    said = isotherma("trip", show_file, check=0).stdout
    assert "Day 2: Show day" in said and "fill fresh water" in said
    data = json.loads(isotherma("trip", show_file, "--json", check=0).stdout)
    assert data["format"] == "isotherma-trip"
    assert [day["kind"] for day in data["days"]] == ["arrive", "show", "home"]
    fresh = [row for day in data["days"] for row in day["budgets"] if row["budget"] == "fresh"]
    assert [row["unit"] for row in fresh] == ["L"] * 3
    assert data["stops"][0]["what"] == "fill fresh" and data["stops"][0]["hour"] == 12.0
    assert data["fails"]["day"] == 1 and data["fails"]["budget"] == "warmth"


def test_a_trip_of_alike_days_needs_its_stops(file):
    data = json.loads(isotherma("trip", file, "--days", "3", "--json", check=0).stdout)
    needed = [(stop["what"], stop["day"]) for stop in data["stops"] if not stop["planned"]]
    assert ("fill fresh", 2) in needed and ("empty grey", 3) in needed
    assert "gives out first" in isotherma(
        "trip", file, "--variant", "fourteen", "--us", check=0
    ).stdout  # fmt: skip


def test_a_trip_that_cannot_be_computed_says_why(tmp_path):
    path = tmp_path / "bare.isotherma.json"
    path.write_bytes(write_project(Project(name="B", variants=(Variant(id="a", name="A"),))))
    done = isotherma("trip", path, "--json")
    assert done.returncode == 3
    assert json.loads(done.stdout)["error"]["code"] == "not_computed_yet"


def test_every_way_of_heating_is_sized_on_a_files_brief(file):
    data = json.loads(
        isotherma("size", file, "--family", "gas-and-mains", "--json", check=0).stdout
    )
    (row,) = data["families"]
    assert data["format"] == "isotherma-size" and row["stands"] and not row["struck_by"]
    assert row["sizes"]["parts.store.volume_m3"] == pytest.approx(0.045)
    assert row["next_smaller"]["fails"][0]["why"] == "runs_cool"
    assert row["columns"]["price_from"] < row["columns"]["price_to"]
    said = isotherma("size", file, "--family", "two-knob-through-flow", "--us", check=0).stdout
    assert "struck at its largest" in said and "°F" in said
    none = isotherma("size", file, "--family", "cauldron")
    assert none.returncode == 2 and "gas-and-mains" in none.stderr


def test_a_figure_is_swept_on_a_file_and_written_as_a_table(file, tmp_path):
    out = tmp_path / "sweep.csv"
    isotherma("sweep", file, "--vary", "parts.store.volume_m3=8L,14L", "--vary",
              "brief.inside_c=10;20", "--out", str(out), check=0)  # fmt: skip
    rows = list(csv.DictReader(io.StringIO(out.read_text())))
    assert len(rows) == 4 and {row["all as asked"] for row in rows} <= {"yes", "no"}
    for vary, said in (
        ("parts.stor.volume_m3=8L", "parts.store.volume_m3"), ("parts.store.volume_m3", "PATH=V1"),
        ("parts.store.volume_m3=8L,lots", "lots"), ("parts.store.volume_m3=-1", "more than"),
    ):  # fmt: skip
        wrong = isotherma("sweep", file, "--vary", vary)
        assert wrong.returncode == 2 and said in wrong.stderr, wrong.stderr
    twice = isotherma("sweep", file, *(["--vary", "brief.inside_c=10"] * 2))
    assert twice.returncode == 2 and "varied twice" in twice.stderr


def test_variants_of_a_file_are_compared(file):
    data = json.loads(
        isotherma("compare", file, "--variants", "ten-litres,foamed", "--json", check=0).stdout
    )
    assert data["format"] == "isotherma-compare"
    assert [row["variant"] for row in data["variants"]] == ["ten-litres", "foamed"]
    assert data["variants"][0]["differs"] == [] and data["variants"][1]["differs"]
    assert {row["what"] for row in data["variants"][1]["if_fails"]} == {
        "heat", "store", "pump", "mixer",
    }  # fmt: skip
    said = isotherma("compare", file, "--us", check=0).stdout
    assert said.startswith("Ten litres: ") and "Fresh water: taken,gal," in said
    for wanted, words in (("ten-litres", "Two to 4"), ("ten-litres,ten-litres", "named twice"),
                          ("ten-litres,twelve", "no variant “twelve”")):  # fmt: skip
        wrong = isotherma("compare", file, "--variants", wanted)
        assert wrong.returncode == 2 and words in wrong.stderr


def test_check_says_what_could_hurt_somebody(tmp_path):
    path = tmp_path / "combi.isotherma.json"
    path.write_bytes(write_project(layouts()["gas-combi"].project()))
    found = json.loads(isotherma("check", path, "--json", "--on", "2026-11-27", check=0).stdout)
    assert found["format"] == "isotherma-check" and found["rule_set"] == "strictest"
    keys = {"id", "severity", "parts", "runs", "state", "figure", "limit", "unit", "sentence",
            "remedy", "who", "source", "needs", "acknowledged"}  # fmt: skip
    assert all(set(one) == keys for one in found["findings"])
    assert {one["severity"] for one in found["findings"]} >= {"unknown", "watch"}
    [tested] = [one for one in found["findings"] if one["id"] == "gas.tested"]
    assert tested["needs"] == ["system.gas_tested_on"] and tested["severity"] == "unknown"
    one = json.loads(
        isotherma("check", path, "--json", "--rules", "uk-eu", "--state", "gas", check=0).stdout
    )
    assert one["rule_set"] == "uk-eu"
    said = isotherma("check", path, check=0).stdout
    assert "check the current text" in said and "gas.tested" in said


@pytest.mark.parametrize(("options", "status", "words"), [
    (("--rules", "mine"), 2, "There is no rule set “mine”"),
    (("--on", "soon"), 2, "“soon” is no day"), (("--state", "nowhere"), 2, "nowhere"),
])  # fmt: skip
def test_check_refuses_what_it_cannot_read(file, options, status, words):
    done = isotherma("check", file, *options, check=status)
    assert words in done.stderr


def test_check_of_nothing_ends_with_three(tmp_path):
    path = tmp_path / "none.isotherma.json"
    path.write_bytes(write_project(Project(name="None", variants=(Variant(id="a", name="A"),))))
    assert "Nothing to check" in isotherma("check", path, check=3).stderr
