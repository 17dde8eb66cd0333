"""Forms as a template shows them: fields with labels, units, values as typed, errors."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from isotherma.core.fields import Document
from isotherma.core.quantity import STYLES, UnitSystem, shown
from isotherma.core.system import System
from isotherma.core.system.pieces import Figure
from isotherma.services.documents import term_in
from isotherma.services.forms import Property, as_typed, properties
from isotherma.web.frame.words import choice_words, choices_of, placeholder_of


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
    example: bool = False
    word: str = ""


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


Names = Mapping[str, Sequence[tuple[str, str]]]


def names_of(system: System) -> Names:
    """Give what a field may refer to: ids and names of parts, spaces and phases."""
    return {
        "part": [(part.id, part.label) for part in system.parts],
        "space": [(space.id, space.name) for space in system.spaces],
        "phase": [(phase.id, phase.name) for phase in system.phases],
    }


def _choices(
    item: Property, texts: Sequence[str], names: Names, units: UnitSystem
) -> tuple[Choice, ...]:
    """List what a field offers; an unknown one can be left open."""
    if item.refers:
        offered = list(names.get(item.refers, ()))
    else:
        declared = choices_of(item.name, item.choices)
        offered = [(value, choice_words(item.name, value, units)) for value in declared]
    if item.kind == "choice" and item.optional:
        offered = [("", "–" if item.refers else "unknown"), *offered]
    choices = tuple(Choice(value, words, value in texts) for value, words in offered)
    if item.kind == "choice" and texts and texts[0] and not any(c.chosen for c in choices):
        choices = (Choice(texts[0], f"{texts[0]} (unknown)", True), *choices)
    return choices


def _view(
    item: Property,
    scope_id: str,
    value: object,
    units: UnitSystem,
    typed: Typed | None,
    names: Names,
) -> FieldView:
    texts = as_typed(item, value, units)
    error = ""
    if typed is not None:
        texts = typed.texts.get(item.name, texts)
        error = typed.errors.get(item.name, "")
    kind, declared = item.kind, choices_of(item.name, item.choices)
    if item.kind in {"text", "whole"} and declared:
        kind = "choice"
    if kind == "choice" and item.kind != "choice":
        item = replace(item, kind="choice")
    choices = _choices(item, texts, names, units) if kind in {"choice", "many"} else ()
    return FieldView(
        id=f"{scope_id}-{item.name}".replace("_", "-"),
        name=item.name,
        label=item.title,
        unit=STYLES[item.style].symbol(units) if item.style and item.kind != "pairs" else "",
        help=item.help,
        kind=kind,
        text=texts[0] if texts else "",
        choices=choices,
        checked="yes" in texts,
        placeholder=placeholder_of(item.name) if item.optional and not item.refers else "",
        error=error,
        word=term_in(f"{item.title} {item.help}") if item.help else "",
    )


def marked(view: FormView, examples: Sequence[str]) -> FormView:
    """Mark the fields of a form that still hold an example."""
    fields = tuple(replace(field, example=field.name in examples) for field in view.fields)
    return replace(view, fields=fields)


def make_form(
    document: Document,
    scope: str,
    units: UnitSystem,
    typed: Typed | None,
    *,
    only: Sequence[str] = (),
    leave_out: Sequence[str] = (),
    first: Sequence[str] = (),
    names: Names | None = None,
    figures: Sequence[Figure] = (),
) -> FormView:
    """Make the form of a document at a scope, with what was typed if it came back.

    `figures` are those the engine takes: an empty field shows what it would be.
    """
    mine = typed if typed is not None and typed.scope == scope else None
    scope_id = "f-" + scope.replace(".", "-")
    items = [
        item for item in properties(type(document), leave_out) if not only or item.name in only
    ]
    order = {name: index for index, name in enumerate((*first, *only))}
    items.sort(key=lambda item: order.get(item.name, len(order)))
    if mine is not None and not any(item.name in mine.texts for item in items):
        told = any(item.name in mine.errors for item in items)
        mine = mine if told else None
    views = tuple(
        _view(item, scope_id, getattr(document, item.name), units, mine, names or {})
        for item in items
    )
    assumed = {
        figure.name: f"{shown(figure.likely, figure.style, units, 3)} if empty"
        for figure in figures
        if figure.likely is not None and figure.origin != "given" and figure.style
    }
    views = tuple(
        replace(view, placeholder=assumed.get(view.name, view.placeholder))
        if view.placeholder and not view.text else view
        for view in views
    )  # fmt: skip
    error = mine.errors.get("", "") if mine else ""
    return FormView(scope=scope, id=scope_id, fields=views, error=error)
