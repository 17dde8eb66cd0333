"""Commands about joints: what they print, and what they refuse."""

from __future__ import annotations

import json

import pytest
from typer.testing import CliRunner

from isotherma.catalogue.demo import folio
from isotherma.cli import app
from isotherma.files.project_file import write_project

RUN = CliRunner()


def made(*words, code=0):
    done = RUN.invoke(app, [*words, "--json"])
    assert done.exit_code == code, done.output
    return json.loads(done.stdout)


def test_a_thread_is_named_with_what_would_decide():
    found = made("thread", "--outside", "20.9mm", "--threads", "7", "--over", "12.7mm")
    assert found["format"] == "isotherma-thread" and len(found["candidates"]) == 4
    assert found["decide"]["measure"] == "taper" and found["decide"]["words"]
    inch = made("thread", "--outside", "0.823 in", "--pitch", "14tpi", "--taper", "none",
                "--flank", "55", "--hand", "right")  # fmt: skip
    assert inch["candidates"][0]["thread"] == "1/2 in parallel"
    words = RUN.invoke(app, ["thread", "--outside", "20.9"]).output
    assert "none of these" in words and "To decide" in words


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["thread"], "either --outside"),
        (["thread", "--outside", "9", "--inside", "8"], "either --outside"),
        (["thread", "--outside", "wide"], "is no length"),
        (["thread", "--outside", "9", "--threads", "7"], "--over"),
        (["thread", "--outside", "9", "--pitch", "0tpi"], "is no pitch"),
        (["thread", "--outside", "9", "--threads", "0", "--over", "10"], "more than 0"),
        (["cut"], "either legs"),
        (["cut", "300; 90"], "missing"),
        (["cut", "300; 200; 300", "--radius", "60"], "is no turn"),
        (["cut", "300; 90; 300"], "--radius"),
        (["cut", "300; 90; 300", "--radius", "60", "--measured", "backs"], "--outside"),
        (["cut", "300", "--measured", "by eye"], "none of centres"),
        (["cut", "300", "--take-out", "1,2,3"], "more than two"),
        (["cut", "--pieces", "300"], "--of"),
        (["cut", "--pieces", "0", "--of", "3m"], "longer than 0"),
    ],
)
def test_what_cannot_be_read_says_what_and_how(words, says):
    done = RUN.invoke(app, words)
    assert done.exit_code == 2 and says in done.output


def test_a_tube_is_cut_and_a_leg_too_short_is_refused():
    found = made("cut", "300 mm; 90; 450 mm", "--radius", "60mm", "--take-out", "29,29",
                 "--insertion", "21,21")  # fmt: skip
    assert found["cut_mm"] == pytest.approx(750.0 - 25.752 - 58.0 + 42.0, abs=0.01)
    assert found["bends"][0]["start_mm"] == pytest.approx(232.0) and found["refused"] is None
    offset = made("cut", "300 mm; offset 80 mm 45; 450 mm", "--radius", "40mm")
    assert [one["turn_deg"] for one in offset["bends"]] == [45.0, 45.0]
    short = made("cut", "30 mm; 90; 450 mm", "--radius", "60mm", code=3)
    assert short["refused"]["reason"] == "leg_too_short" and "leg 1" in short["refused"]["words"]
    assert "Cut 724.2 mm" in RUN.invoke(app, ["cut", "300; 90; 450", "--radius", "60"]).output


def test_pieces_lie_on_the_fewest_bars():
    found = made("cut", "--pieces", "1.2m,0.9m,0.9m,1.5m", "--of", "3m", "--kerf", "2mm")
    assert len(found["bars"]) == 2 and found["waste_mm"] == pytest.approx(1500.0)
    assert sorted(piece for bar in found["bars"] for piece in bar) == [900.0, 900.0, 1200.0, 1500.0]
    long = made("cut", "--pieces", "4m", "--of", "3m", code=3)
    assert long["refused"]["reason"] == "too_long"
    assert "left over" in RUN.invoke(app, ["cut", "--pieces", "1m", "--of", "3m"]).output


def test_two_ends_are_joined_by_the_fewest_adapters():
    found = made("join", "male 1/2 in parallel", "plastic tube 15 mm", "--for", "hot",
                 "--at", "60C", "--pressure", "3bar", "--stock", "base")  # fmt: skip
    assert found["joins"] and found["adapters"] == 1 and found["joints"] == 2
    assert found["chain"][0]["id"] == "push-in-female-15-to-1/2"
    assert found["seal"] == ["washer", "own"] and found["refused"] is None
    words = RUN.invoke(app, ["join", "male 1/2 in us taper", "plastic tube 15 mm"]).output
    assert "not sold everywhere" in words and "3 joints" in words


@pytest.mark.parametrize(
    ("words", "reason"),
    [
        (["male banana", "push-in 12 mm"], "unclear_end"),
        (["male 7/9 in parallel", "push-in 12 mm"], "unknown_size"),
        (["cone 8 mm", "push-in 12 mm"], "gas_only"),
        (["plastic tube 12 mm", "push-in 12 mm", "--at", "90C"], "too_hot"),
        (["male M22x1", "push-in 12 mm"], "no_chain"),
    ],
)
def test_what_does_not_join_says_why(words, reason):
    found = made("join", *words, code=3)
    assert not found["joins"] and found["refused"]["reason"] == reason and found["chain"] == []
    assert found["refused"]["words"] and "{" not in found["refused"]["words"]
    assert RUN.invoke(app, ["join", *words]).output.startswith("Refused")


def test_how_hot_and_how_much_must_be_readable():
    for option, text in (("--at", "warm"), ("--pressure", "much")):
        done = RUN.invoke(app, ["join", "open", "open", option, text])
        assert done.exit_code == 2 and option in done.output


@pytest.fixture
def library(tmp_path):
    path = tmp_path / "library.isotherma.json"
    path.write_bytes(write_project(folio()))
    return str(path)


def test_a_list_has_every_key_and_nothing_unresolved(library):
    found = made("parts", library)
    assert found["format"] == "isotherma-parts" and found["tradition"] == "metric"
    keys = {"item", "end_a", "end_b", "size", "quantity", "net", "unit", "packs", "for", "why",
            "approval", "phase", "spare", "price", "currency", "mass_kg", "unknown"}  # fmt: skip
    assert found["lines"] and all(set(line) == keys for line in found["lines"])
    assert found["not_resolved"] == [] and found["assumed"]
    joints = found["joints"]
    assert joints["total"] == sum(joints["by_run"].values()) == sum(joints["by_space"].values())
    assert found["totals"]["joints"] == joints["total"]
    waiting = [cut for cut in found["cuts"] if cut["cut_mm"] is None]
    assert waiting and all(cut["unknown"] == ["how measured"] for cut in waiting)
    words = RUN.invoke(app, ["parts", library]).output
    assert f"{joints['total']} joints" in words


def test_a_list_of_a_phase_is_part_of_the_whole_and_strange_words_are_refused(library):
    for words, says in (
        (["--phase", "never"], "no phase"), (["--tradition", "moon"], "none of"),
        (["--variant", "nobody"], "no variant"),
    ):  # fmt: skip
        done = RUN.invoke(app, ["parts", library, *words])
        assert done.exit_code == 2 and says in done.output
    american = made("parts", library, "--tradition", "US")
    assert american["tradition"] == "US"


def test_the_list_is_a_table_too_and_says_its_cuts_holes_and_totals(tmp_path):
    path = tmp_path / "folio.isotherma.json"
    path.write_bytes(write_project(folio()))
    listed = made("parts", str(path))
    assert set(listed) == {"format", "tradition", "assumed", "lines", "joints", "cuts", "holes",
                         "totals", "not_resolved", "remarks"}  # fmt: skip
    tube = next(line for line in listed["lines"] if line["size"] == "semi-rigid plastic 15 mm"
                and line["item"] == "tube")  # fmt: skip
    assert (tube["packs"], tube["quantity"], tube["price"], tube["currency"]) == (
        4, 12.0, pytest.approx(33.6), "EUR")  # fmt: skip
    cuts = {cut["label"]: cut for cut in listed["cuts"]}
    assert cuts["split-mixer-2"]["cut_mm"] == pytest.approx(1900 - 76 + 50)
    assert cuts["check-return-tee-1"]["unknown"] == ["how measured"]
    assert {hole["kind"] for hole in listed["holes"]} == {"not planned", "bulkhead"}
    assert listed["totals"]["currency"] == "EUR" and listed["totals"]["lines_not_priced"] > 0
    assert listed["totals"]["money"] == pytest.approx(
        sum(line["price"] for line in listed["lines"] if line["price"] is not None))  # fmt: skip
    table = RUN.invoke(app, ["parts", str(path), "--table", "tsv"]).stdout.splitlines()
    assert len(table) == len(listed["lines"]) + 1 and table[0].startswith("item\tsize")


def test_an_end_of_no_known_size_is_refused_with_the_nearest(tmp_path):
    raw = json.loads(write_project(folio()))
    pump = next(part for part in raw["variants"][0]["system"]["parts"] if part["kind"] == "pump")
    pump["ends"] = [{"port": "inlet", "end": "push-in 17 mm"}]
    path = tmp_path / "odd.isotherma.json"
    path.write_text(json.dumps(raw))
    refused = RUN.invoke(app, ["parts", str(path)])
    assert refused.exit_code == 2
    assert "parts.pump.ends.inlet" in refused.output and "push-in 1" in refused.output
