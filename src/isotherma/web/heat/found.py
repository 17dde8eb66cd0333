"""What the checks find in a way of heating, before it is begun with."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.checks.found import Severity
from isotherma.services.comparing import family_side
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.found import SIGNS, checked_side, counts_of, found_words
from isotherma.wording import check_sentence

MOST_SAID = 8


@dataclass(frozen=True, slots=True)
class FoundWay:
    """How many were found of each severity, and what is worst in words."""

    template: ClassVar[str] = "heat_found.html"
    vehicle: str
    name: str
    words: str
    said: tuple[tuple[str, str], ...]
    more: int
    family: str
    stops: int
    ids: dict[str, object]


def found_way(context: PageContext, family: str, sizes: str) -> FoundWay | None:
    """Check a way of heating in sizes, as it would be laid out; None where there is none such."""
    side = family_side(
        context.project, family, sizes.split(",") if sizes else (), context.variant_id
    )
    if side is None:
        return None
    result = checked_side(context, side.project, side.variant)
    units = context.units
    said = [
        (SIGNS[one.severity], check_sentence(one, units)) for one in result.found
        if one.severity in (Severity.STOP, Severity.FIX)
    ]  # fmt: skip
    said = list(dict.fromkeys(said))
    counts = counts_of(result)
    return FoundWay(
        context.project.name, side.name, found_words(counts), tuple(said[:MOST_SAID]),
        max(0, len(said) - MOST_SAID), family, counts[Severity.STOP],
        {"vehicle_id": context.opened.vehicle_id, "variant_id": context.variant_id},
    )  # fmt: skip
