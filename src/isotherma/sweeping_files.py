"""What `sweep` does: a design run with one or two figures varied, as a table."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NoReturn

from isotherma.core.errors import CoreError, QuantityError
from isotherma.core.options.parameters import Parameter
from isotherma.core.options.sweep import MOST_ACROSS, MOST_UP, Sweep, Vary
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.files.sweep_csv import write_sweep
from isotherma.services.runs import compute
from isotherma.services.sweep_asking import Parameters, parameters, read_values, refused_words
from isotherma.services.sweeps import swept
from isotherma.wording import error_words

Fail = Callable[[str, int], NoReturn]


def sweep_table(
    project: Project, chosen: Variant, asked: Sequence[str], units: UnitSystem, fail: Fail
) -> str:
    """Run every combination of values that is asked and give the table, or fail in words."""
    if len(asked) > 2:
        fail("One or two figures can be varied at a time; give --vary once or twice.", 2)
    outcome = compute(project, chosen)
    if isinstance(outcome, CoreError):
        fail(error_words(outcome, units), 1)
    known = parameters(project, chosen, outcome)
    read = [
        _read(project, chosen, known, text, units, fail, most)
        for text, most in zip(asked, (MOST_ACROSS, MOST_UP), strict=False)
    ]
    if len({vary.path for _, vary in read}) < len(read):
        fail(f"{read[0][1].path} is varied twice; give another figure.", 2)
    sweep = Sweep(*(vary for _, vary in read))
    return write_sweep([row for row, _ in read], [swept(project, chosen.id, sweep)], units)


def _read(
    project: Project, chosen: Variant, known: Parameters, text: str, units: UnitSystem, fail: Fail,
    most: int,
) -> tuple[Parameter, Vary]:  # fmt: skip
    path, sign, values = text.partition("=")
    if not sign or not values.strip():
        fail(f"“{text}” is no figure with values; write PATH=V1,V2,…", 2)
    row = known.find(path) or known.find(f"variants.{chosen.id}.system.{path}")
    if row is None:
        fail(f"{path}: there is no such figure in “{chosen.id}”.{known.meant(path)}", 2)
    try:
        given = read_values(values, row, units, most)
    except QuantityError as error:
        fail(f"{path}: {error_words(error, units)}", 2)
    for value in given:
        refused = refused_words(project, row, value, units)
        if refused:
            fail(f"{path}: a value cannot be: {refused}", 2)
    return row, Vary(row.path, given)
