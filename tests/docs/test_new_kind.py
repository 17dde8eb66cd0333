"""CONTRIBUTING's example, followed to the letter on a copy: one module, one catalogue file."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import textwrap
from pathlib import Path

ROOT = Path(__file__).parents[2]

PROOF = """
import json
from isotherma.catalogue.classes import classes
from isotherma.core.editing import new_part
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import Around
from isotherma.core.system.route import not_computed
from isotherma.files.project_file import read_project, write_project
from isotherma.files.schema import project_schema
from isotherma.services.forms import properties
from isotherma.services.reference import reference_markdown

row = classes()["leak-sensor-usual"]
system = System(parts=(row.part,))
project = Project(name="x", variants=(Variant(id="a", name="A", system=system),))
assert read_project(write_project(project)) == project
assert "leak_sensor" in json.dumps(project_schema())
assert "`leak_sensor`" in reference_markdown()
assert [p.name for p in properties(type(row.part))][-3:] == ["length_m", "answers_s", "acts_on"]
figures = {f.name: f for f in understand(new_part("leak_sensor"), Around())}
assert figures["length_m"].because == "enter its length, by tape"
assert (figures["answers_s"].low, figures["answers_s"].high) == (1.0, 30.0)
assert "gauges" in not_computed(system)["leak-sensor-usual"]
print("covered")
"""


def blocks(language: str) -> list[str]:
    text = (ROOT / "CONTRIBUTING.md").read_text()
    section = text.split("## Adding a kind of part")[1].split("\n## ")[0]
    found = re.findall(rf"```{language}\n(.*?)```", section, re.DOTALL)
    return [textwrap.dedent(block) for block in found]


def test_the_example_of_a_new_kind_works_as_written(tmp_path):
    shutil.copytree(ROOT / "src", tmp_path / "src")
    module = tmp_path / "src/isotherma/core/system/kinds/gauges.py"
    text = module.read_text()
    (python,) = blocks("python")
    start = text.index("GaugeKind = ")
    needed = (
        "from collections.abc import Mapping\nfrom isotherma.core.fields import Length, Seconds\n"
    )
    head, rest = text[:start].split("from typing import Annotated, Literal", 1)
    module.write_text(f"{head}{needed}from typing import Annotated, Literal{rest}{python}")
    (toml,) = blocks("toml")
    catalogue = tmp_path / "src/isotherma/catalogue/classes/gauges.toml"
    catalogue.write_text(f"{catalogue.read_text()}\n{toml}")
    env = os.environ | {"PYTHONPATH": str(tmp_path / "src")}
    done = subprocess.run(
        [sys.executable, "-c", PROOF], env=env, capture_output=True, text=True, timeout=120
    )
    assert done.stdout.strip() == "covered", done.stderr[-2000:]
