"""Forms as a template shows them: fields with labels, units, values as typed, errors."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from isotherma.core.fields import Document
from isotherma.core.quantity import STYLES, Habit
from isotherma.services.forms import Property, as_typed, properties
from isotherma.web.pages.words import choice_words, choices_of, placeholder_of


@dataclass(frozen=True, slots=True)
class Choice:
    """One option of a choice."""

    value: str
    words: str
    chosen: bool


@dataclass(frozen=True, slots=True)
class FieldView:
    """One field of a form."""

    id: str
    name: str
    label: str
    unit: str
    help: str
    kind: str
    text: str
    choices: tuple[Choice, ...]
    checked: bool
    placeholder: str
    error: str


@dataclass(frozen=True, slots=True)
class FormView:
    """One form: the scope it edits and its fields."""

    scope: str
    id: str
    fields: tuple[FieldView, ...]
    error: str = ""

    @property
    def names(self) -> str:
        """Give the names of its fields, for the hidden list."""
        return ",".join(field.name for field in self.fields)


@dataclass(frozen=True, slots=True)
class Typed:
    """A form that came back with something wrong: what was typed, and what is wrong with it."""

    scope: str
    texts: Mapping[str, list[str]] = field(default_factory=dict)
    errors: Mapping[str, str] = field(default_factory=dict)


def _view(
    item: Property, scope_id: str, value: object, habit: Habit, typed: Typed | None
) -> FieldView:
    texts = as_typed(item, value, habit)
    error = ""
    if typed is not None:
        texts = typed.texts.get(item.name, texts)
        error = typed.errors.get(item.name, "")
    kind, declared = item.kind, choices_of(item.name, item.choices)
    if item.kind in {"text", "whole"} and declared:
        kind = "choice"
    choices = tuple(
        Choice(value, choice_words(item.name, value), value in texts) for value in declared
    )
    if kind == "choice" and texts and texts[0] and not any(c.chosen for c in choices):
        choices = (Choice(texts[0], f"{texts[0]} (unknown)", True), *choices)
    return FieldView(
        id=f"{scope_id}-{item.name}".replace("_", "-"),
        name=item.name,
        label=item.title,
        unit=STYLES[item.style].symbol(habit) if item.style else "",
        help=item.help,
        kind=kind,
        text=texts[0] if texts else "",
        choices=choices,
        checked="yes" in texts,
        placeholder=placeholder_of(item.name) if item.optional else "",
        error=error,
    )


def make_form(
    document: Document,
    scope: str,
    habit: Habit,
    typed: Typed | None,
    *,
    only: Sequence[str] = (),
    leave_out: Sequence[str] = (),
    first: Sequence[str] = (),
) -> FormView:
    """Make the form of a document at a scope, with what was typed if it came back."""
    mine = typed if typed is not None and typed.scope == scope else None
    scope_id = "f-" + scope.replace(".", "-")
    items = [
        item for item in properties(type(document), leave_out) if not only or item.name in only
    ]
    items.sort(key=lambda item: item.name not in first)
    if mine is not None and not any(item.name in mine.texts for item in items):
        shown = any(item.name in mine.errors for item in items)
        mine = mine if shown else None
    views = tuple(
        _view(item, scope_id, getattr(document, item.name), habit, mine) for item in items
    )
    error = mine.errors.get("", "") if mine else ""
    return FormView(scope=scope, id=scope_id, fields=views, error=error)
