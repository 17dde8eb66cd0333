"""An entered 0 is 0: no property jumps between nothing and next to nothing."""

from __future__ import annotations

import ast
from pathlib import Path
from typing import get_args

import numpy as np
import pytest
from pydantic import ValidationError

import isotherma.core as core
from isotherma.catalogue.layouts import layouts
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.setup.completeness import main_outlet
from isotherma.core.system import System
from isotherma.core.system.nominal import computed
from isotherma.services.flows import Asked, solve_flows
from tests.support import MILD, stands_of

TINY = 1e-9
ROOT = Path(core.__file__).parent


def numeric(piece):
    """Names of what a piece says in numbers, unknown or not."""
    for name, field in type(piece).model_fields.items():
        if name.endswith("_s") and name.startswith("window"):
            continue
        kinds = {field.annotation, *get_args(field.annotation)}
        nested = {inner for kind in kinds for inner in get_args(kind)}
        if float in kinds | nested:
            yield name


def with_value(system, group, piece, name, value):
    data = system.model_dump()
    data[group] = [
        {**item, name: value} if item["id"] == piece.id else item for item in data[group]
    ]
    return System.model_validate(data)


def arrays(layout, system):
    """Every array of bodies a day begins with, and the flow of the first outlet, as numbers."""
    state = system.states[0] if system.states else None
    stands = stands_of(layout.brief, computed(system), state, MILD)
    found = [np.ravel(array) for array in stands.named.thermal if isinstance(array, np.ndarray)]
    variant = Variant(id="a", name="A", system=system)
    project = Project(name="a", brief=layout.brief, variants=(variant,))
    outlet = main_outlet(system)
    solved = solve_flows(project, variant, state, Asked(opens={outlet: 1.0} if outlet else {}))
    flows = [one.flow_m3_per_s * 6e4 for one in solved.report.outlets]
    return np.concatenate([*(array.astype(float) for array in found), flows])


@pytest.mark.parametrize(("name", "every"), [("tap-canister", 1), ("seat-store", 3)])
def test_nothing_jumps_between_zero_and_next_to_nothing(name, every):
    """Where both 0 and a thousand-millionth are allowed the engine gets nearly the same."""
    layout = layouts()[name]
    tried = 0
    kinds: set[tuple[type, str]] = set()  # one of a kind is enough
    for group in ("parts", "runs"):
        for piece in getattr(layout.system, group)[: 40 if group == "parts" else 2]:
            for key in numeric(piece):
                if (type(piece), key) in kinds:
                    continue
                kinds.add((type(piece), key))
                if len(kinds) % every:
                    continue
                ends = []
                for value in (0.0, TINY):
                    try:
                        ends.append(arrays(layout, with_value(
                            layout.system, group, piece, key, value
                        )))  # fmt: skip
                    except (ValidationError, CoreError):
                        break
                if len(ends) < 2 or ends[0].shape != ends[1].shape:
                    continue
                tried += 1
                with np.errstate(invalid="ignore", over="ignore"):
                    apart = np.abs(ends[0] - ends[1])
                scale = np.maximum(1.0, np.abs(ends[0]))
                worst = np.nanmax(np.where(np.isfinite(apart), apart / scale, 0.0), initial=0.0)
                assert worst < 5e-3, (group, piece.id, key, worst)
    assert tried > 5


def or_numbers(tree):
    """Places where an entered 0 would count as nothing: `x or 5.0`."""
    for node in ast.walk(tree):
        if isinstance(node, ast.BoolOp) and isinstance(node.op, ast.Or):
            for value in node.values[1:]:
                number = value.operand if isinstance(value, ast.UnaryOp) else value
                if not isinstance(number, ast.Constant) or isinstance(number.value, bool):
                    continue
                if isinstance(number.value, int | float) and number.value != 0:
                    yield node.lineno, number.value


@pytest.mark.parametrize("path", sorted(ROOT.rglob("*.py")), ids=lambda p: str(p.relative_to(ROOT)))
def test_no_rule_takes_a_zero_for_unknown(path):
    """`known_or(x, 5.0)` says what is meant; `x or 5.0` turns an entered 0 into 5."""
    found = list(or_numbers(ast.parse(path.read_text(encoding="utf-8"))))
    assert found == []
