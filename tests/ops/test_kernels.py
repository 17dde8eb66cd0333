"""Compiled kernels never outlive the source they were made from."""

from __future__ import annotations

import ast
import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import isotherma
from isotherma import KERNEL_SOURCES, catalogue, kernel_folder
from isotherma.catalogue.demo import folio
from isotherma.core.engine import kernel
from isotherma.core.engine.precompiling import compile_flow, compile_rest
from isotherma.core.setup import Setup
from isotherma.core.simulate import simulate
from isotherma.ops import launch

SOURCE = Path(isotherma.__file__).parents[1]
CODE = """
import numpy as np
from isotherma.core.thermal.mixer import wanted_hot_share
from isotherma.core.compiled import compiled
print(round(wanted_hot_share(30.0, 10.0, 40.0, 10.0), 3))
"""


def test_a_changed_core_has_another_folder(tmp_path):
    copy = tmp_path / "src"
    shutil.copytree(SOURCE, copy, ignore=shutil.ignore_patterns("__pycache__", "static"))
    (tmp_path / "pyproject.toml").touch()  # a checkout keeps its kernels beside itself
    env = {key: value for key, value in os.environ.items() if key != "NUMBA_CACHE_DIR"}
    env["PYTHONPATH"] = str(copy)

    def run():
        done = subprocess.run([sys.executable, "-c", CODE], env=env, capture_output=True, text=True)
        assert done.returncode == 0, done.stderr
        return done.stdout.strip(), {p.name for p in (tmp_path / ".run" / "kernels").iterdir()}

    share, first = run()
    assert share == "0.97" and len(first) == 1
    assert run() == (share, first)
    table = copy / "isotherma/core/water/table.py"
    table.write_text(table.read_text() + "\n# a change in what a kernel calls\n")
    assert len(run()[1]) == 2


def test_kernels_hang_on_nothing_but_what_their_folder_is_named_after():
    core = Path(isotherma.__file__).parent / "core"
    allowed = {"isotherma.core." + name[:-3].replace("/", ".").removesuffix(".__init__")
               for name in KERNEL_SOURCES}  # fmt: skip
    packages = {"isotherma.core", "isotherma.core.thermal", "isotherma.core.hydraulics"}
    for path in core.rglob("*.py"):
        text = path.read_text()
        name = path.relative_to(core).as_posix()
        if "@compiled" in text or "@lean" in text:
            assert name in KERNEL_SOURCES
        if name not in KERNEL_SOURCES:
            continue
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("isotherma"):
                for item in node.names:
                    whole = f"{node.module}.{item.name}"
                    inside = node.module in allowed and node.module not in packages
                    assert inside or whole in allowed, f"{name} imports {whole}"


def test_old_kernels_are_forgotten(tmp_path, monkeypatch):
    monkeypatch.setattr(launch, "kernel_folder", lambda: tmp_path / "new")
    for name in ("old", "new"):
        (tmp_path / name).mkdir()
    launch.forget_old_kernels()
    assert [path.name for path in tmp_path.iterdir()] == ["new"]


def test_this_process_uses_the_folder_of_its_core():
    assert os.environ["NUMBA_CACHE_DIR"] == str(kernel_folder())


def test_kernels_compiled_ahead_are_those_that_a_day_calls():
    project = folio()  # with a coil, loops and several states: every table has rows
    variant = project.variants[0]
    climate = catalogue.climate(project.brief)
    simulate(project.brief, variant.system, climate, state=variant.standing)
    kernels: tuple[Any, ...] = (kernel.run_flow, kernel.run_rest)
    before = [list(each.signatures) for each in kernels]
    setup = Setup(project.brief, variant.system, variant.standing, climate)
    compile_flow(setup)
    compile_rest(setup)
    assert [list(each.signatures) for each in kernels] == before
    assert [len(signatures) for signatures in before] == [1, 1]
