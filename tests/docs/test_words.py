"""The core says codes; every code has words, and no sentence is made in the core."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from string import Formatter
from types import ModuleType

import pytest

from isotherma import core, wording
from isotherma.core.flows.draining import Why
from isotherma.wording.english import comparing, errors, flows, traces, validation, waste

HERE = Path(core.__file__).parent
MODULES = sorted(HERE.rglob("*.py"))
# what stands with the declaration of a property, kind, band or sum is declared there
DECLARING = re.compile(
    r"^(system/(kinds|runs|pieces|tubes|vehicle|layouts)|brief|bench_sums|project)"
)
CALLS = {"need": 2, "refuse": 0, "refusal": 0, "Finding": 0, "Remark": 0, "contradiction": 0,
         "_found": 0}  # fmt: skip


@cache
def _calls() -> tuple[tuple[str, ast.Call], ...]:
    """Give every call of the core with its module's name, read once."""
    return tuple(
        (path.name, node) for path in MODULES
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Call)
    )  # fmt: skip


def _codes(call: str) -> Iterator[tuple[str, str]]:
    """Give the codes that modules pass to a function, with where."""
    for path, node in _calls():
        name = getattr(node.func, "id", getattr(node.func, "attr", ""))
        if name != call or len(node.args) <= CALLS[call]:
            continue
        code = node.args[CALLS[call]]
        if isinstance(code, ast.Constant) and isinstance(code.value, str):
            yield code.value, f"{path}:{node.lineno}"


def _reasons() -> Iterator[tuple[str, str]]:
    for path, node in _calls():
        for key in node.keywords:
            if key.arg == "reason" and isinstance(key.value, ast.Constant):
                yield str(key.value.value), f"{path}:{node.lineno}"


def _wordless(found: Iterator[tuple[str, str]], known: set[str]) -> list[tuple[str, str]]:
    return [(code, where) for code, where in found if code not in known]


def test_every_finding_has_words():
    known = {*wording.CAUTIONS, *flows.DOES, *_cases(_read(waste)), *_cases(_read(flows))}
    assert _wordless(_codes("Finding"), known) == []


def _cases(source: str) -> set[str]:
    """Give the codes a module tells apart by hand."""
    return {code for pair in re.findall(r'case "(\w+)"|== "(\w+)"', source) for code in pair}


def test_every_remark_has_words():
    known = set(wording.REMARKS)
    for call in ("Remark", "contradiction", "_found"):
        assert _wordless(_codes(call), known) == []
    for _, why, mend in wording.REMARKS.values():
        assert why and mend and not mend.endswith(".")


def test_every_refusal_has_words():
    for call in ("need", "refuse"):
        assert _wordless(_codes(call), set(errors.REASONS)) == []
    assert _wordless(_reasons(), set(errors.REASONS)) == []
    assert _wordless(_codes("refusal"), set(validation.PROBLEMS)) == []


def test_no_words_are_left_over():
    raised = {code for code, _ in _reasons()}
    raised |= {code for call in ("need", "refuse") for code, _ in _codes(call)}
    elsewhere = {
        "no_class",
        "no_pair",
        "no_phase",
        "no_gap",
        "no_whole_number",
        "over_twelve_hours",
        "mixer_stays",
        "no_choice",
        "changed_since",
        "unreadable_changes",
        "cannot_be",
        "too_many_values",
        "no_figure",
        "unknown_size",
    }  # of services
    assert set(errors.REASONS) - raised == elsewhere
    assert set(validation.PROBLEMS) == {code for code, _ in _codes("refusal")}


def test_every_trace_and_its_inputs_have_words():
    named = set(re.findall(r'Input\(\s*"[^"]*", "(\w+)"', _source("results")))
    assert named <= set(traces.INPUTS)
    for words in traces.TRACES.values():
        assert words.formula and words.words and words.valid and words.source
    assert set(comparing.NEEDS) >= set(
        re.findall(r'Remedy\("\w[\w-]*", "(\w+)"', _source("results"))
    )
    assert set(waste.WHY) == set(Why)


def _read(module: ModuleType) -> str:
    return Path(str(module.__file__)).read_text(encoding="utf-8")


def _source(folder: str) -> str:
    return "\n".join(path.read_text(encoding="utf-8") for path in (HERE / folder).glob("*.py"))


def test_templates_take_names_only():
    for text in (*errors.REASONS.values(), *validation.PROBLEMS.values()):
        assert all(name is None or name.isidentifier() for _, name, _, _ in Formatter().parse(text))


def _sentences(tree: ast.AST) -> Iterator[tuple[int, str]]:
    """Give texts of six words and more that are no docstring."""
    docs = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
        and node.body and isinstance(node.body[0], ast.Expr)
    }  # fmt: skip
    for node in ast.walk(tree):
        if not isinstance(node, ast.Constant) or id(node) in docs:
            continue
        text = node.value
        if isinstance(text, str) and len(re.findall(r"[a-z]{2,}", text)) >= 6 and " " in text:
            yield node.lineno, text


# why a figure is what it is stands with the figure (`Band.because`)
BANDS = {"flows/leak.py"}
# words of the fault table are looked up, never shown
LOOKED_UP = {"faults/plays.py"}


@pytest.mark.parametrize("path", MODULES, ids=lambda path: path.relative_to(HERE).as_posix())
def test_no_sentence_is_made_in_the_core(path: Path) -> None:
    name = path.relative_to(HERE).as_posix()
    if not DECLARING.match(name) and name not in BANDS | LOOKED_UP:
        assert list(_sentences(ast.parse(path.read_text(encoding="utf-8")))) == []


def test_a_name_without_words_is_refused():
    with pytest.raises(AttributeError):
        wording.nonsense  # noqa: B018 - asked for on purpose
