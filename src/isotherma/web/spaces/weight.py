"""What a design weighs on its axles, ready to read."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.quantity import UnitSystem
from isotherma.core.setup.weights import Weights
from isotherma.wording import lift_sentence, slosh_sentence, weighed_row, weight_sentences


@dataclass(frozen=True, slots=True)
class WeightView:
    """Rows by filling; sentences on what is not known, what is lifted, what sloshes."""

    rows: tuple[tuple[str, ...], ...]
    said: tuple[str, ...]
    lifts: tuple[str, ...]
    sloshing: tuple[str, ...]
    over: bool


def weight_view(found: Weights, units: UnitSystem) -> WeightView:
    """Put the weights of a design into rows and sentences."""
    limits = [
        left for row in found.rows
        for left in (row.payload_left_kg, row.front_left_kg, row.rear_left_kg) if left is not None
    ]  # fmt: skip
    return WeightView(
        tuple(weighed_row(row, units) for row in found.rows), weight_sentences(found, units),
        tuple(lift_sentence(lift, units) for lift in found.lifts),
        tuple(slosh_sentence(slosh, units) for slosh in found.sloshing),
        any(left < 0.0 for left in limits),
    )  # fmt: skip
