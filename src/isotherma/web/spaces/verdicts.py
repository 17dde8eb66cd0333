"""The verdict of a day in every state, for the frame's small table."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.results.outcome import Outcome
from isotherma.web.frame.context import PageContext
from isotherma.wording import error_words, verdict


@dataclass(frozen=True, slots=True)
class StateVerdict:
    """One state with its verdict; whether the day is seen in it."""

    name: str
    words: str
    chosen: bool


@dataclass(frozen=True, slots=True)
class VerdictsPage:
    """The verdict in every state a system may stand in all day."""

    template: ClassVar[str] = "verdicts.html"
    vehicle: str
    rows: tuple[StateVerdict, ...]


def verdicts_page(context: PageContext) -> VerdictsPage:
    """Compute the day in every state; nothing is chosen by looking."""
    variant, units = context.variant, context.units
    rows = []
    for state in variant.system.states:
        result = context.services.computing.result(
            context.project, variant.model_copy(update={"state": state.id})
        )
        words = verdict(result, units) if isinstance(result, Outcome) else (
            error_words(result, units)
        )  # fmt: skip
        rows.append(StateVerdict(state.name, words, state is variant.standing))
    return VerdictsPage(context.project.name, tuple(rows))
