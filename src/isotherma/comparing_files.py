"""What `compare` does: variants of a file side by side, in words or as an object."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from typing import Any, NoReturn

from isotherma.core.options.compared import figures
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.files.compare_json import compare_object, difference_object
from isotherma.files.compare_table import write_comparison
from isotherma.services.comparing import MOST_SIDES, Compared, Side, changed, compared
from isotherma.services.runs import compute
from isotherma.wording import error_words, failure_words, state_change_words, verdict

Fail = Callable[[str, int], NoReturn]


def compared_variants(
    project: Project, chosen: Sequence[Variant], units: UnitSystem, fail: Fail, *, as_json: bool
) -> None:
    """Compare variants and print them, or fail in words."""
    if len({variant.id for variant in chosen}) < len(chosen):
        fail("A variant is named twice; name each once.", 2)
    if not 2 <= len(chosen) <= MOST_SIDES:
        fail(f"Two to {MOST_SIDES} variants can be compared; name them with --variants A,B.", 2)
    sides = [
        compared(Side(f"variant:{one.id}", "variant", one.name, project, one),
                 compute(project, one))
        for one in chosen
    ]  # fmt: skip
    rows = figures([side.result for side in sides])
    if as_json:
        made = compare_object([_object(sides[0], side, units) for side in sides], rows,
                              name=project.name)  # fmt: skip
        print(json.dumps(made, ensure_ascii=False, indent=2, allow_nan=False))
        return
    for side in sides:
        print(f"{side.side.name}: {_said(side, units)}")
    print()
    print(write_comparison([side.side.name for side in sides], rows, units), end="")


def _said(side: Compared, units: UnitSystem) -> str:
    if side.outcome is not None:
        return verdict(side.outcome, units)
    return error_words(side.error, units) if side.error is not None else ""


def _object(base: Compared, side: Compared, units: UnitSystem) -> dict[str, Any]:
    made = side.result.built if side.result is not None else None
    return {
        "variant": side.side.variant.id, "name": side.side.name, "verdict": _said(side, units),
        "as_asked": side.result.measured.met if side.result is not None else None,
        "cannot_run": side.error.code if side.error is not None else None,
        "if_fails": [] if made is None else [
            {"what": item.kind.value, "part": item.part_id, "outlets": item.outlets,
             "with_water": item.water, "warm": item.warm, "spilt_l": item.spilt_m3 * 1e3,
             "words": failure_words(item, units)}
            for item in made.failures
        ],
        "states": [] if made is None else [
            {"state": item.state, "moves": item.moves, "seconds": item.seconds_s,
             "words": state_change_words(item)}
            for item in made.changes
        ],
        "differs": [difference_object(item) for item in changed(base.side, side.side)],
    }  # fmt: skip
