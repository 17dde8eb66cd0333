"""What `size` does: ways of heating sized on a file's brief, in words or as an object."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any, NoReturn

from isotherma.catalogue.classes import PRICES
from isotherma.catalogue.families import families
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.files.size_json import columns_object, extremes_object, size_object, struck_object
from isotherma.services.sizing import SizedRow, sized_rows
from isotherma.wording import REFUSED, all_struck_words, change_words
from isotherma.wording.reader import Reader

Fail = Callable[[str, int], NoReturn]


def sized(
    project: Project, chosen: Variant, wanted: str, units: UnitSystem, fail: Fail, *,
    as_json: bool,
) -> None:  # fmt: skip
    """Size every family, or one, and print it."""
    if wanted and wanted not in families():
        fail(f"There is no family “{wanted}”. There are: {', '.join(families())}.", 2)
    rows = sized_rows(project, chosen.id, only=wanted)
    if as_json:
        made = size_object([_object(row) for row in rows], name=project.name)
        print(json.dumps(made, ensure_ascii=False, indent=2, allow_nan=False))
        return
    for row in rows:
        print(f"{families()[row.family].name}: {_words(row, units)}.")


def _paths(row: SizedRow, ids: tuple[str, ...]) -> dict[str, object]:
    """Give the values of sizes by their path in the system [SI]."""
    return {
        path: value
        for axis, wanted in zip(families()[row.family].axes, ids, strict=False)
        for step in axis.steps if step.id == wanted
        for path, value in step.values.items()
    }  # fmt: skip


def _object(row: SizedRow) -> dict[str, Any]:
    refused = [
        {"what": what, "name": REFUSED[what], "why": "refused", "figure": None, "limit": None,
         "unit": ""}
        for what in row.refused
    ]  # fmt: skip
    if row.by_hand:
        refused.append({"what": row.family, "name": "struck by hand", "why": "by_hand",
                        "figure": None, "limit": None, "unit": ""})  # fmt: skip
    if row.by_wish[0]:
        refused.append({"what": row.family, "name": row.by_wish[0], "why": "by_wish",
                        "figure": None, "limit": None, "unit": ""})  # fmt: skip
    refused += [
        {"what": row.family, "name": label, "why": "leaves_unused", "figure": None, "limit": None,
         "unit": ""}
        for label in row.unused
    ]  # fmt: skip
    smaller = None
    if row.smaller:
        smaller = {
            "classes": list(row.smaller), "sizes": _paths(row, row.smaller),
            "fails": [struck_object(item) for item in row.smaller_struck],
        }  # fmt: skip
    saved = None
    if row.saved is not None:
        saved = {"what": row.saved.what.value, "from": row.saved.before, "to": row.saved.after}
    return {
        "family": row.family, "stands": row.stands,
        "struck_by": [*refused, *(struck_object(item) for item in row.struck)],
        "cannot_run": row.error or None,
        "classes": list(row.sizes), "sizes": _paths(row, row.sizes),
        "next_smaller": smaller, "saved_by": saved,
        "stops_needed": [{"day": stop.day, "what": stop.what} for stop in row.needed],
        "columns": None if row.columns is None else columns_object(row.columns, PRICES),
        "at_the_edges": None if row.extremes is None else extremes_object(row.extremes),
        "runs": row.runs,
    }  # fmt: skip


def _words(row: SizedRow, units: UnitSystem) -> str:
    if row.by_hand:
        return "struck by hand"
    if row.by_wish[0]:
        return f"struck by your wish “{row.by_wish[0]}”"
    if row.unused:
        return f"struck: it leaves your {', '.join(row.unused)} unused"
    if row.refused:
        return f"struck: it needs {', '.join(REFUSED[what] for what in row.refused)}"
    if row.error:
        return f"cannot be run here ({row.error})"
    if not row.stands:
        words = f"struck at its largest: {all_struck_words(row.struck, units)}"
        if row.saved is not None:
            reader = Reader({}, units)
            words += f". It would do it so: {change_words(row.saved, reader)}"
        return words
    words = row.names or "as what you have"
    if row.smaller_struck:
        words += f". {row.smaller_names}: {all_struck_words(row.smaller_struck, units)}"
    return words
