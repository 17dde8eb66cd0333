"""The day of a trip on which something ends, as pages, files and the command line show it."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import pytest
from bs4 import BeautifulSoup

from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.core.simulate import last_day
from isotherma.files.project_file import write_project
from isotherma.files.report_json import report
from isotherma.services.runs import compute
from tests.support import changed

ROOT = Path(__file__).parents[2]


def soup(response):
    return BeautifulSoup(response.text, "html.parser")


def text(node):
    return " ".join(node.get_text(" ").split())


def without_relief():
    """A layout whose store has lost its relief valve, check valve before it and all."""
    project = layouts()["seat-store"].project()
    variant = project.variants[0]
    parts = tuple(part for part in variant.system.parts if part.id != "relief")
    runs = tuple(
        run for run in variant.system.runs if "relief" not in (run.start.part, run.end.part)
    )
    system = variant.system.model_copy(update={"parts": parts, "runs": runs})
    return project.model_copy(update={"variants": (variant.model_copy(update={"system": system}),)})


# --- pages ---


@pytest.mark.parametrize("units", ["metric", "us"])
def test_the_shower_page_plays_the_day_the_tank_runs_dry(client, demo, units):
    client.cookies.set("units", units)
    page = soup(client.get(f"{demo}/shower"))
    panel = page.find(id="last-day")
    assert text(panel.h2) == "Day 2, unlike the day shown"
    rows = [
        [text(cell) for cell in row.find_all(["td", "th"])] for row in panel.tbody.find_all("tr")
    ]
    assert [row[1] for row in rows] == [
        "Early shower", "Second shower", "Evening shower", "Child’s shower",
    ]  # fmt: skip
    assert "stops when the fresh water runs out" in rows[0][2]
    assert "gets no water: none is left in the tank" in rows[1][2] and rows[1][3] == "never warm"
    assert "On day 2 the fresh water runs out" in text(panel.p)


def test_other_pages_do_not_play_it(client, demo, monkeypatch):
    """An edit never waits for a day nobody looks at."""
    from isotherma.services import runs

    def refuse(*_):
        raise AssertionError("played")

    monkeypatch.setattr(runs, "last_day", refuse)
    for page in ("brief", "layout", "parts", "spaces", "flow"):
        assert client.get(f"{demo}/{page}").status_code == 200


def test_a_trip_of_one_day_has_none(client):
    project = drover()
    short = project.model_copy(update={"brief": project.brief.model_copy(update={"days": 1})})
    number = client.app.state.services.vehicles.create(short, "One day")
    page = soup(client.get(f"/vehicles/{number}/ten-litres/shower"))
    assert page.find(id="last-day") is None


def test_a_store_that_can_burst_is_told_on_the_shower_page(client):
    number = client.app.state.services.vehicles.create(without_relief(), "No relief")
    page = soup(client.get(f"/vehicles/{number}/seat-store/shower"))
    told = [text(item) for item in page(class_="caution")]
    assert any("nothing takes it up" in words for words in told)


# --- files ---


def test_the_report_has_the_last_day_and_the_growth():
    project = drover()
    result = compute(project, project.variants[0])
    assert isinstance(result, Outcome)
    data = report(
        result, last_day(result), name="Drover", variant="Ten litres", units=UnitSystem.METRIC
    )
    json.dumps(data, allow_nan=False)
    assert data["last_day"]["day"] == 2 and len(data["last_day"]["draws"]) == 4
    assert data["last_day"]["draws"][1]["why_not"] == "fresh_water_ran_out"
    (store,) = data["expansion"]
    assert store["part"] == "store" and 0.1 < store["grows_l"] < 0.25
    assert store["relief_bar"] == 3.5 and 0.0 < store["let_out_l_per_day"] < store["grows_l"]


def test_the_command_line_says_it_too(tmp_path):
    file = tmp_path / "drover.json"
    file.write_bytes(write_project(drover()))
    done = subprocess.run(
        [ROOT / "bin/isotherma", "simulate", str(file), "--days", "2"],
        capture_output=True, text=True, timeout=120,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "On day 2 the fresh water runs out" in done.stdout


def test_a_fuse_that_blows_is_in_words_and_figures():
    project = layouts()["tap-canister"].project()
    variant = project.variants[0]
    little = changed(variant.system, "circuit", fuse_a=3.0)
    weak = variant.model_copy(update={"system": little})
    result = compute(project.model_copy(update={"variants": (weak,)}), weak)
    assert isinstance(result, Outcome)
    data = report(result, last_day(result), name="x", variant="y", units=UnitSystem.METRIC)
    assert any("those of a blown fuse" in words for words in data["cautions"])
    assert (
        result.timeline.blown == ("circuit",) and result.timeline.balance.sources_j["element"] == 0
    )
    assert not any(draw["comfort_s"] for draw in data["draws"])
