"""The core as a library: built by its back end it stands alone, and its page's example runs."""

import contextlib
import io
import os
import re
import shutil
import subprocess
import sys
import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[2]
EXAMPLE = re.compile(r"```python\n(.*?)```", re.DOTALL)
# no day is run here: away from the checkout every kernel would be compiled again
ALONE = """
import sys
import isotherma
from isotherma import catalogue
from isotherma.catalogue.layouts import layouts
from isotherma.core.hydraulics.friction import velocity_m_per_s
from isotherma.core.simulate import simulate
print(isotherma.__file__)
print(isotherma.kernel_folder())
print(len(layouts()), len(catalogue.regions()))
print(velocity_m_per_s(flow_m3_per_s=1e-4, bore_m=0.012))
print('sqlalchemy' in sys.modules or 'fastapi' in sys.modules)
"""


def test_what_is_built_stands_alone(tmp_path):
    source, built = tmp_path / "source", tmp_path / "built"
    source.mkdir()
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, source / name)
    shutil.copytree(ROOT / "src", source / "src", ignore=shutil.ignore_patterns("__pycache__"))
    build = "from setuptools import setup; setup()"
    subprocess.run(
        [sys.executable, "-c", build, "-q", "build", "--build-lib", str(built)],
        cwd=source, check=True, capture_output=True, timeout=120,
    )  # fmt: skip
    environment = {key: value for key, value in os.environ.items() if key != "NUMBA_CACHE_DIR"}
    environment |= {"PYTHONPATH": str(built), "XDG_CACHE_HOME": str(tmp_path / "cache")}
    ran = subprocess.run(
        [sys.executable, "-c", ALONE], cwd=tmp_path, env=environment, text=True,
        capture_output=True, timeout=120, check=False,
    )  # fmt: skip
    assert ran.returncode == 0, ran.stderr
    where, kernels, catalogued, speed, pages = ran.stdout.splitlines()
    assert where.startswith(str(built))
    assert kernels.startswith(str(tmp_path / "cache" / "isotherma" / "kernels"))
    assert catalogued == "23 5"
    assert abs(float(speed) - 0.8842) < 1e-4
    assert pages == "False"


def test_the_example_of_the_page_runs_as_it_stands():
    (example,) = EXAMPLE.findall((ROOT / "docs" / "library.md").read_text())
    assert len(example.splitlines()) <= 10
    said = io.StringIO()
    with contextlib.redirect_stdout(said):
        exec(compile(example, "docs/library.md", "exec"), {})
    lines = said.getvalue().splitlines()
    assert lines
    assert all(re.search(r" (True|False) \d+\.\d+$", line) for line in lines)


def test_what_the_application_needs_is_declared():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    declared = [*project["dependencies"], *project["optional-dependencies"]["web"]]
    assert all(re.fullmatch(r"[a-z0-9-]+(\[(binary|argon2)\])?>=[\d.]+", line) for line in declared)
    needed = (ROOT / "requirements.in").read_text().split()
    assert sorted(line.split(">")[0] for line in declared) == sorted(needed)
