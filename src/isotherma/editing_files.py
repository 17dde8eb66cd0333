"""The command that edits a file: the same commands and forms as the pages."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NoReturn

from pydantic import ValidationError

from isotherma.core.editing import set_values, value_at
from isotherma.core.errors import ChangeRefused
from isotherma.core.fields import Document
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem
from isotherma.services.edits import EDITS, read_edit
from isotherma.services.form_words import values_label
from isotherma.services.forms import field_errors, read_form
from isotherma.wording import edit_label, error_words, validation_sentences

Fail = Callable[[str, int], NoReturn]
SET = "set"
_OF_THE_WHOLE = ("brief", "vehicle", "variants", "name")


def edits_listed() -> list[str]:
    """Give a line for every edit there is: its name, what it asks for, what it does."""
    lines = [f"{SET} PATH=VALUE …  Set values, as parts.store.volume_m3=14L or brief.days=4."]
    for name, edit in EDITS.items():
        asks = " ".join(
            f"{key}=…" if info.is_required() else f"[{key}=…]"
            for key, info in edit.model_fields.items()
        )
        lines.append(f"{name} {asks}".rstrip() + f"  {(edit.__doc__ or '').splitlines()[0]}")
    return lines


def _pairs(values: Sequence[str], fail: Fail) -> dict[str, str]:
    found: dict[str, str] = {}
    for text in values:
        key, sign, value = text.partition("=")
        if not sign:
            fail(f"“{text}” has no =; write NAME=VALUE.", 2)
        if key in found:
            fail(f"“{key}” is given twice.", 2)
        found[key] = value
    return found


def edited(
    project: Project,
    variant_id: str,
    name: str,
    values: Sequence[str],
    units: UnitSystem,
    fail: Fail,
) -> tuple[Project, str]:
    """Make one edit on a project; give it as it is then and what was done, or fail in words."""
    given = _pairs(values, fail)
    try:
        if name == SET:
            return _with_values(project, variant_id, given, units, fail)
        if name not in EDITS:
            fail(f"There is no edit “{name}”. There are: {SET}, {', '.join(EDITS)}.", 2)
        edit = read_edit(name, given)
        return edit.apply(project, variant_id), edit_label(edit.name, edit.subject)
    except ChangeRefused as error:
        fail(error_words(error, units), 3)
    except ValidationError as error:
        fail("That was not done: " + " ".join(validation_sentences(error)), 2)


def _with_values(
    project: Project, variant_id: str, given: dict[str, str], units: UnitSystem, fail: Fail
) -> tuple[Project, str]:
    """Set values by their paths, read as a form reads them."""
    if not given:
        fail("Say what to set, as parts.store.volume_m3=14L.", 2)
    labels = []
    for path, text in given.items():
        whole = path if path.partition(".")[0] in _OF_THE_WHOLE else (
            f"variants.{variant_id}.system.{path}"
        )  # fmt: skip
        scope, _, name = whole.rpartition(".")
        then = value_at(project, scope) if scope else project
        if not isinstance(then, Document) or name not in type(then).model_fields:
            fail(f"{path}: there is no such property.", 2)
        read = read_form(then, [name], {name: [text]}, units)
        if read.errors:
            fail(f"{path}: {read.errors[name]}", 2)
        try:
            project = set_values(project, {f"{scope}.{name}" if scope else name: value
                                           for value in read.values.values()})  # fmt: skip
        except ValidationError as error:
            wrong = field_errors(error, then, units)
            fail(f"{path}: {wrong.get(name) or ' '.join(wrong.values())}", 2)
        labels.append(values_label(then, dict(read.values), units))
    return project, "; ".join(labels)
