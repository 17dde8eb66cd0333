"""Documents say what is true: docstrings, settings, links, pictures, codes, words."""

from __future__ import annotations

import importlib
import importlib.util
import inspect
import pkgutil
import re
import struct
import subprocess
from pathlib import Path
from typing import Any

import pytest

import isotherma
from isotherma import core
from isotherma.catalogue.layouts import layouts
from isotherma.core import errors
from isotherma.core.brief import Brief, Draw, Use
from isotherma.core.fields import Document, style_of
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.ledger import TITLES
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.runs import RUNS
from isotherma.core.system.vehicle import Hole, Space, Vehicle
from isotherma.files.flow_json import flow_object
from isotherma.files.timeline_csv import _HEADINGS
from isotherma.services.flows import Asked, solve_flows
from isotherma.services.reference import reference_markdown

ROOT = Path(__file__).parents[2]
DOCS = {path.relative_to(ROOT).as_posix(): path.read_text() for path in ROOT.glob("*.md")}
DOCS |= {path.relative_to(ROOT).as_posix(): path.read_text() for path in ROOT.glob("docs/**/*.md")}


def core_functions():
    found = []
    for info in pkgutil.walk_packages(isotherma.__path__, "isotherma."):
        if not info.name.startswith(("isotherma.core", "isotherma.files")):
            continue
        module = importlib.import_module(info.name)
        for name, thing in vars(module).items():
            plain = getattr(thing, "py_func", thing)
            if name.startswith("_") or not inspect.isfunction(plain):
                continue
            if plain.__module__ == info.name:
                found.append(
                    pytest.param(thing, id=f"{info.name.removeprefix('isotherma.')}.{name}")
                )
    return found


@pytest.mark.parametrize("function", core_functions())
def test_public_functions_say_parameters_units_and_errors(function):
    compiled = hasattr(function, "py_func")
    plain = getattr(function, "py_func", function)
    text = inspect.getdoc(plain) or ""
    assert text, "no docstring"
    if compiled and "Parameters" not in text:
        return  # a kernel on arrays: its sentence names the arrays and their units
    names = list(inspect.signature(plain).parameters)
    if not names:
        return
    assert "Parameters\n----------" in text
    block = text.split("Parameters\n----------")[1].split("\nReturns\n")[0]
    described = {
        word.strip()
        for line in block.splitlines()
        if re.match(r"^[a-z_][\w, ]* : ", line)
        for word in line.split(" : ")[0].split(",")
    }
    assert described == set(names)
    entries = re.split(r"\n(?=\S[\w, ]* : )", block.strip("\n"))
    assert all(re.search(r"\[[^\]]+\]\s*$", entry.rstrip()) for entry in entries), (
        "a unit is missing"
    )
    assert "Returns\n-------" in text
    source = inspect.getsource(plain)
    if re.search(r"^    (    )*raise [A-Z]", source, re.MULTILINE):
        assert "Raises\n------" in text or "refused" in text.lower() or "Refused" in text


def test_every_example_of_the_core_runs_and_there_are_enough():
    """An example counts that ends in a figure; lines that only prepare one do not."""
    import doctest

    shown = 0
    names = [found.name for found in pkgutil.walk_packages(core.__path__, "isotherma.core.")]
    for name in names:
        module = importlib.import_module(name)
        for case in doctest.DocTestFinder(exclude_empty=True).find(module):
            runner = doctest.DocTestRunner(verbose=False)
            assert runner.run(case).failed == 0, case.name
            shown += sum(bool(example.want) for example in case.examples)
    assert shown >= 60


def test_every_property_of_every_document_has_a_title():
    every: list[type[Document]] = [Space, Hole, Vehicle, Draw, Use, Brief]
    for kind in (*KINDS.values(), *RUNS.values(), *every):
        for name, info in kind.model_fields.items():
            if name not in {"id", "kind", "start", "end", "draws", "uses", "budgets"}:
                assert info.title, f"{kind.__name__}.{name}"


def test_every_figure_of_a_kind_is_a_property_with_an_unit():
    """What is derived can be overridden under the same name."""
    every: list[Any] = [*KINDS.values(), *RUNS.values()]
    for kind in every:
        for name in (*kind.usual, *kind.needs, *kind.printed):
            assert name in kind.model_fields, f"{kind.__name__}.{name}"
        for name in kind.usual:
            assert (
                style_of(kind.model_fields[name])
                or "share" in name
                or "per_min" in name
                or (name in {"wall_w_m_per_k", "pressure_ratio", "loss_k"})
            ), f"{kind.__name__}.{name}"


def test_the_reference_of_kinds_is_up_to_date():
    assert DOCS["docs/kinds.md"] == reference_markdown(), "run scripts/reference.py"
    for kind in KINDS:
        assert f"`{kind}`" in DOCS["docs/kinds.md"]


def test_every_key_code_and_column_is_in_the_file_format():
    text = DOCS["docs/file-format.md"]
    for why in WhyNot:
        assert f"`{why.value}`" in text
    for budget in TITLES:
        assert budget in text.lower()
    for column in _HEADINGS:
        assert f"`{column}`" in text
    for _, kind in inspect.getmembers(errors, inspect.isclass):
        if issubclass(kind, errors.CoreError) and kind is not errors.CoreError:
            assert f"`{kind.code}`" in text, kind.code


def test_the_table_of_flows_is_up_to_date():
    """A sample, since all of it takes a while; every layout is solved in test_flow_laws."""
    path = ROOT / "scripts/flow_table.py"
    spec = importlib.util.spec_from_file_location("flow_table", path)
    assert spec is not None and spec.loader is not None
    made = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(made)
    for name in ("seat-store", "cupboard-through-flow", "open-sun-box", "two-knob-selector"):
        for row in made.rows(layouts()[name]):
            assert row in DOCS["docs/flows.md"], "run scripts/flow_table.py"


def test_every_key_of_the_flow_object_is_in_the_file_format():
    found = solve_flows(
        (project := layouts()["seat-store"].project()),
        project.variants[0],
        None,
        Asked(opens={"head": 1.0, "basin": 1.0}),
    )
    text = DOCS["docs/file-format.md"]

    def keys(data):
        if isinstance(data, dict):
            for key, value in data.items():
                if key not in {"head", "basin"}:
                    yield key
                yield from keys(value)
        elif isinstance(data, list):
            for value in data:
                yield from keys(value)

    for key in set(keys(flow_object(found.report, found.shocks))):
        short = key.removesuffix("l_per_min") if key.startswith(("mean", "least")) else key
        assert f"`{short}`" in text, key


def test_links_lead_somewhere():
    for name, text in DOCS.items():
        for target in re.findall(r"\]\(([^)#]+)\)", text):
            if "://" not in target:
                assert (ROOT / name).parent.joinpath(target).exists(), f"{name}: {target}"


def test_pictures_are_shown_few_and_of_the_right_size():
    shown = set(re.findall(r"docs/screenshots/([\w-]+\.png)", DOCS["README.md"]))
    there = {path.name for path in (ROOT / "docs/screenshots").glob("*.png")}
    assert shown == there
    assert len(there) < 20
    for name in there:
        width, height = struct.unpack(">II", (ROOT / "docs/screenshots" / name).read_bytes()[16:24])
        assert (width, height) in {(1280, 800), (390, 844)}, name


def test_settings_are_listed():
    source = (ROOT / "src/isotherma/settings.py").read_text()
    for name in re.findall(r'environ\.get\("(\w+)"', source):
        assert f"`{name}`" in DOCS["README.md"]


def test_quick_start_has_two_commands_and_they_run():
    block = DOCS["README.md"].split("```sh\n")[1].split("```")[0]
    commands = [line.split("#")[0].strip() for line in block.splitlines()]
    assert commands == ["bin/start", "bin/test"]
    for name in ("bin/start", "bin/test", "bin/check", "bin/isotherma", ".ci/run"):
        path = ROOT / name
        assert path.stat().st_mode & 0o111, name
        assert subprocess.run(["bash", "-n", path], check=False).returncode == 0


def test_vendored_libraries_have_versions_and_licences():
    folder = ROOT / "src/isotherma/web/static/vendor"
    table = (folder / "VERSIONS.md").read_text()
    for path in folder.iterdir():
        if path.suffix in {".js", ".css", ".woff2"}:
            assert path.name in table
    assert len(list(folder.glob("*.LICENSE"))) == 3


def test_locks_carry_hashes_and_no_address():
    for name in ("requirements.lock", "requirements-test.lock"):
        text = (ROOT / name).read_text()
        assert "://" not in text
        pins = re.findall(r"^[a-z0-9][\w.\[\]-]*==", text, re.MULTILINE)
        assert len(pins) > 20
        assert text.count("--hash=sha256:") >= len(pins)


def test_the_words_are_in_the_order_of_their_use():
    words = [line.split("|")[1].strip() for line in DOCS["docs/nomenclature.md"].splitlines()
             if line.startswith("| ")][1:]  # fmt: skip
    assert len(words) == len(set(words)) > 25


def test_nothing_promises_what_it_must_not():
    templates = (ROOT / "src/isotherma/web").rglob("*.html")
    for path in [*templates, *(ROOT / "src/isotherma/core").rglob("*.py")]:
        text = path.read_text().replace("|safe", "")
        assert not re.search(r"\b(safe|compliant|approved)\b", text, re.IGNORECASE), path
