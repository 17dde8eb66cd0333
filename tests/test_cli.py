"""The command line, run as a person runs it."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.project import Project, Variant
from isotherma.core.system.layouts import usual_route
from isotherma.files.project_file import read_project, write_project

ROOT = Path(__file__).parents[1]


def isotherma(*arguments, url=None, check=None):
    import os

    env = {**os.environ, **({"DATABASE_URL": url} if url else {})}
    done = subprocess.run(
        [ROOT / "bin/isotherma", *map(str, arguments)], capture_output=True, text=True, env=env,
        timeout=120,
    )  # fmt: skip
    assert check is None or done.returncode == check, done.stderr
    return done


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "drover.isotherma.json"
    path.write_bytes(write_project(drover()))
    return path


def test_simulate_prints_the_object_and_writes_the_timeline(file, tmp_path):
    out = tmp_path / "day.csv"
    done = isotherma("simulate", file, "--json", "--csv", out, "--variant", "foamed", check=0)
    data = json.loads(done.stdout)
    assert data["variant"] == "foamed"
    assert len(data["draws"]) == 4
    assert data["verdict"].startswith("Four washes in May")
    assert max(data["balance"].values()) < 1e-3
    assert out.read_text().startswith("time_s,")


def test_simulate_in_words_and_gallons(file):
    done = isotherma("simulate", file, "--us", check=0)
    assert "gal of" in done.stdout and "Early shower: as asked" in done.stdout
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
    done = isotherma("simulate", file, "--variant", "ghost", check=2)
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
