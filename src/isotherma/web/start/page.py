"""The Start page: six questions, each with a default and "don't know yet"."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Final

from isotherma.catalogue.layouts import layouts
from isotherma.core.brief.answers import Answers
from isotherma.core.quantity import UnitSystem
from isotherma.web.frame.forms import FieldView, FormView, Typed, make_form
from isotherma.web.heat.offers import owned_choices

SCOPE: Final = "start"
# the questions, each with the fields that answer it
QUESTIONS: Final[tuple[tuple[str, tuple[str, ...]], ...]] = (
    ("Who washes, and how?", ("people", "wash", "washes")),
    ("How long between fills?", ("days", "fresh_m3")),
    ("Where and when?", ("region", "month")),
    ("What heat and power is there on most days?",
     ("hook_up_a", "drive_s", "panels_w", "gas", "diesel")),
    ("What is there already?", ("heater",)),
    ("What hurts most?", ("hurts",)),
)  # fmt: skip
FIELDS: Final = ("name", *(name for _, names in QUESTIONS for name in names))


@dataclass(frozen=True, slots=True)
class Question:
    """One question with its fields."""

    title: str
    fields: tuple[FieldView, ...]


@dataclass(frozen=True, slots=True)
class StartPage:
    """The few things a person knows."""

    template: ClassVar[str] = "start.html"
    name: FieldView
    questions: tuple[Question, ...]
    error: str
    names: str
    layouts: tuple[tuple[str, str], ...]
    start: str
    known_name: str
    known_error: str


def _open(view: FieldView) -> FieldView:
    """Call an answer that is left open what it is."""
    choices = tuple(
        replace(choice, words="don’t know yet") if not choice.value else choice
        for choice in view.choices
    )
    placeholder = "don’t know yet" if view.placeholder else ""
    return replace(view, choices=choices, placeholder=placeholder)


def form_of(units: UnitSystem, typed: Typed | None = None) -> FormView:
    """Make the form of the answers."""
    return make_form(Answers(), SCOPE, units, typed, only=FIELDS, names={"part": owned_choices()})


def start_page(
    units: UnitSystem, texts: Mapping[str, Sequence[str]] | None = None,
    errors: Mapping[str, str] | None = None, start: str = "usual", known_name: str = "",
    known_error: str = "",
) -> StartPage:  # fmt: skip
    """Put the page together, with what was typed if something of it was wrong."""
    typed = None
    if texts is not None:
        typed = Typed(SCOPE, {key: list(value) for key, value in texts.items()}, errors or {})
    form = form_of(units, typed)
    views = {view.name: _open(view) for view in form.fields}
    return StartPage(
        name=views["name"],
        questions=tuple(
            Question(title, tuple(views[name] for name in names)) for title, names in QUESTIONS
        ),
        error=form.error,
        names=",".join(FIELDS),
        layouts=tuple((layout.id, layout.name) for layout in layouts().values()),
        start=start,
        known_name=known_name,
        known_error=known_error,
    )
