"""What differs between two states of a document, or two designs, as rows to read."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass

from pydantic_core import to_jsonable_python

from isotherma.core.editing import value_at
from isotherma.core.editing.difference import Difference
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem, with_unit


@dataclass(frozen=True, slots=True)
class ChangeRow:
    """One value that differs."""

    where: str
    title: str
    before: str
    after: str


def _words(value: object, style: str, units: UnitSystem) -> str:
    if value is None:
        return "–"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float | int) and style:
        return with_unit(float(value), style, units, 4)
    return str(value)[:80]


def change_row(item: Difference, units: UnitSystem) -> ChangeRow:
    """Write one value that differs."""
    return ChangeRow(
        item.where, item.title, _words(item.before, item.style, units),
        _words(item.after, item.style, units),
    )  # fmt: skip


def sent_changes(project: Project, values: Mapping[str, object]) -> str:
    """Write changes as a form carries them: path, value before, value after."""
    return json.dumps([
        [path, to_jsonable_python(value_at(project, path)), to_jsonable_python(value)]
        for path, value in values.items()
    ])  # fmt: skip
