"""Every example of docs/formats.md is read back by what reads such files."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import icalendar
import pytest

from isotherma.core.quantity import UnitSystem
from isotherma.files.classes_file import read_classes, write_classes
from isotherma.files.project_file import read_project, write_project
from isotherma.files.readings_csv import read_readings, write_readings
from isotherma.files.run_table import read_runs, write_runs
from tests.files.test_network_text import refereed

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs/formats.md").read_text()
EXAMPLES = dict(re.findall(r"<!-- example: (\w+) -->\n```\w*\n(.*?)```", PAGE, re.DOTALL))


def test_every_kind_of_file_has_its_example():
    assert set(EXAMPLES) == {"project", "readings", "classes", "calendar", "network", "runs"}
    for name in ("record.json", "PDF", "SVG", "apostrophe"):
        assert name in PAGE


def test_the_project_is_one_and_comes_back():
    project = read_project(EXAMPLES["project"].encode())
    assert project.variants[0].system.parts[0].id == "tank"
    assert read_project(write_project(project)) == project


def test_readings_are_read_and_a_figure_stays_one():
    rows, bad = read_readings(EXAMPLES["readings"], {"head", "store"})
    assert not bad and [row.value for row in rows] == [pytest.approx(4.1), -0.5]
    assert rows[0].note == "=not a formula"
    assert "'=not a formula" in write_readings(rows) and ",-0.5," in write_readings(rows)


def test_classes_are_read_and_written_the_same():
    (part,) = read_classes(EXAMPLES["classes"].encode())
    assert part.label == "Quiet pump"
    assert b"Quiet pump" in write_classes([{"kind": "pump", "name": "Quiet pump"}])


def test_the_calendar_is_read_by_a_library():
    read: Any = icalendar.Calendar.from_ical(EXAMPLES["calendar"])
    events = {str(one["uid"]): one for one in read.walk("VEVENT")}
    on = events["on.early-shower.0@first"]
    assert (on["dtend"].dt - on["dtstart"].dt).total_seconds() == 2400.0
    assert events["routine.sanitise@first"]["rrule"]["FREQ"] == ["YEARLY"]


def test_the_network_is_solved_by_an_open_solver(tmp_path):
    flows = refereed(EXAMPLES["network"], tmp_path)
    assert len(flows) == 4 and max(flows.values()) - min(flows.values()) < 0.01
    assert 2.0 < flows[0] < 11.0


def test_the_run_table_is_read_into_the_project():
    system = read_project(EXAMPLES["project"].encode()).variants[0].system
    (run,) = read_runs(EXAMPLES["runs"], system, UnitSystem.METRIC)
    assert run.id == "suction" and run.length_m == pytest.approx(0.4)
    assert write_runs(system, UnitSystem.METRIC).splitlines()[1].startswith("suction\t")
