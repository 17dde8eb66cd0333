"""What a part put in, or in another's place, would change."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Final

from pydantic import ValidationError

from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.services.flows import Asked
from isotherma.services.vehicles import find_variant
from isotherma.web.flow.asked import flow_asked, opens_of, state_of
from isotherma.web.frame.context import PageContext
from isotherma.wording import error_words, validation_sentences


@dataclass(frozen=True, slots=True)
class EffectPage:
    """What putting a part in, or another in its place, would change."""

    template: ClassVar[str] = "effect.html"
    vehicle: str
    sentences: tuple[str, ...]


def refused_page(context: PageContext, error: ChangeRefused | ValidationError) -> EffectPage:
    """Say why a part does not go in."""
    words = (
        error_words(error, context.units) if isinstance(error, ChangeRefused)
        else "; ".join(validation_sentences(error))
    )  # fmt: skip
    return EffectPage(context.project.name, (f"It does not go in: {words}",))


def effect_page(context: PageContext, changed: Project) -> EffectPage:
    """Compare a variant with itself changed: flow at what is open, waiting, fuel, joints."""
    sentences: list[str] = []
    project, units, asked = context.project, context.units, flow_asked(context.query)
    one, other = context.variant, find_variant(changed, context.variant_id)
    flowing, computing = context.services.flowing, context.services.computing
    state, then = state_of(one, asked.state), state_of(other, asked.state)
    opens, _ = opens_of(one.system, asked)
    before = flowing.result(project, one, state, Asked(opens=opens))
    after = flowing.result(changed, other, then, Asked(opens=opens))
    if isinstance(after, CoreError):
        sentences.append(f"Water would not run: {error_words(after, units)}")
    elif not isinstance(before, CoreError):
        was = {item.id: item.flow_m3_per_s for item in before.report.outlets}
        for item in after.report.outlets:
            if max(item.flow_m3_per_s, was.get(item.id, 0.0)) > 0.0:
                sentences.append(
                    f"{item.label}: "
                    + _from_to(was.get(item.id, 0.0), item.flow_m3_per_s, "flow", units)
                )
    day, changed_day = computing.result(project, one), computing.result(changed, other)
    if isinstance(changed_day, CoreError):
        sentences.append(f"The day could not be computed: {error_words(changed_day, units)}")
    elif not isinstance(day, CoreError):
        sentences += [
            f"{_BUDGET_WORDS[was.budget]}: "
            + _from_to(was.used_per_day, now.used_per_day, now.style, units)
            for was, now in zip(day.ledger, changed_day.ledger, strict=True)
            if was.budget in _BUDGET_WORDS and max(was.used_per_day, now.used_per_day) > 0.0
        ]
    joints = len(other.system.pipes) - len(one.system.pipes)
    if joints:
        sentences.append(
            f"{2 * joints} joints more." if joints > 0 else f"{-2 * joints} joints fewer."
        )
    return EffectPage(project.name, tuple(sentences))


_BUDGET_WORDS: Final = {
    "waiting": "Longest wait",
    "fresh": "Fresh water a day",
    "gas": "Gas a day",
    "diesel": "Diesel a day",
    "mains": "Mains a day",
    "battery": "Battery a day",
}


def _from_to(before: float, after: float, style: str, units: UnitSystem) -> str:
    """Write what changes; what does not, once."""
    one, other = with_unit(before, style, units, 3), with_unit(after, style, units, 3)
    return f"{one}, as before." if one == other else f"{one} → {other}."
