"""A finished run is data: it can be pickled, read by another process, and shows the same there."""

from __future__ import annotations

import json
import pickle
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from isotherma import catalogue
from isotherma.catalogue.demo import drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.core.simulate import last_day, simulate
from isotherma.files.report_json import report
from isotherma.files.timeline_csv import write_timeline
from tests.support import brief, run, shower, system

ROOT = Path(__file__).parents[2]
# what a run may leave behind: documents, arrays, plain values; nothing that runs, waits or keeps
PLAIN = (
    "isotherma.core.",
    "numpy.",
    "builtins",
    "collections",
    "pydantic",
    "_reconstruct",
    "copyreg",
)
NEVER = (
    "isotherma.core.engine",
    "isotherma.core.setup",
    "isotherma.core.kept",
    "threading",
    "_thread",
)

READS = """
import json, pickle, sys
from isotherma.core.quantity import UnitSystem
from isotherma.core.simulate import last_day
from isotherma.files.report_json import report
outcome = pickle.load(sys.stdin.buffer)
said = report(outcome, last_day(outcome), name="x", variant="y", units=UnitSystem.METRIC)
print(json.dumps(said))
"""


def words_of(outcome: Outcome) -> str:
    data = report(outcome, last_day(outcome), name="x", variant="y", units=UnitSystem.METRIC)
    return json.dumps(data)


def outcomes():
    for project in (drover(), folio()):
        climate = catalogue.climate(project.brief)
        yield simulate(project.brief, project.variants[0].system, climate)


class Looking(pickle.Unpickler):
    """Reads a pickle and notes every class and function it names."""

    def __init__(self, file) -> None:
        super().__init__(file)
        self.named: set[str] = set()

    def find_class(self, module_name, global_name):
        self.named.add(f"{module_name}.{global_name}")
        return super().find_class(module_name, global_name)


@pytest.mark.parametrize("outcome", list(outcomes()), ids=["drover", "folio"])
def test_another_process_reads_a_run_and_says_the_same(outcome):
    packed = pickle.dumps(outcome)
    done = subprocess.run(
        [sys.executable, "-c", READS], input=packed, capture_output=True, timeout=120,
        env={"PYTHONPATH": str(ROOT / "src"), "PATH": ""},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr.decode()
    assert done.stdout.decode().strip() == words_of(outcome)


@pytest.mark.parametrize("name", ["coolant-coil", "two-knob-selector", "pitch-store"])
def test_a_run_holds_documents_arrays_and_values_alone(name, tmp_path):
    layout = layouts()[name]
    climate = catalogue.climate(layout.brief)
    outcome = simulate(layout.brief, layout.system, climate)
    file = tmp_path / "run"
    file.write_bytes(pickle.dumps(outcome))
    with file.open("rb") as source:
        reader = Looking(source)
        again = reader.load()
    assert not [one for one in reader.named if one.startswith(NEVER)]
    assert not [one for one in reader.named if not one.startswith(PLAIN)]
    assert write_timeline(again) == write_timeline(outcome)
    assert [trace.value for trace in again.traces] == [trace.value for trace in outcome.traces]


def test_a_run_is_small_enough_to_keep():
    """Some hundred kilobytes: five thousand steps of a dozen figures and the store's layers."""
    outcome = run(brief(shower(), shower(2, start_s=64800.0)), system())
    assert len(pickle.dumps(outcome)) < 400_000


def test_series_are_named_and_have_the_log_s_figures():
    rows = run(brief(shower()), system()).timeline.rows
    assert np.isclose(rows.step_s.sum(), 86400.0)
    assert (np.diff(rows.end_s) > 0.0).all() and np.allclose(rows.began_s + rows.step_s, rows.end_s)
    one = rows.of_draw(0)
    assert (one.mass_kg > 0.0).all() and (one.draw == 0.0).all()
    assert one.layers_c.shape == (len(one), rows.layers_c.shape[1])
    assert len(list(rows.where(slice(3)))) == 3
