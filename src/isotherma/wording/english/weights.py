"""What a system weighs, in rows and sentences."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.setup.weights import HEAVY_KG, Filling, Lift, Slosh, Weighed, Weights

_FILLINGS: Final[Mapping[Filling, str]] = {
    Filling.FULL: "Fresh tanks full",
    Filling.HALF: "Half drawn, the rest in the grey tank",
    Filling.EMPTY: "Fresh tanks empty, grey full",
}
_NOT_KNOWN: Final = "not known"


def _mass(value: float | None, units: UnitSystem) -> str:
    return _NOT_KNOWN if value is None else with_unit(value, "mass", units, 3)


def _over(value: float | None, units: UnitSystem) -> str:
    """Say what is left of a limit, with a sign where it is passed."""
    if value is None:
        return _NOT_KNOWN
    words = with_unit(abs(value), "mass", units, 3)
    return f"▲ {words} too much" if value < 0.0 else words


def weighed_row(row: Weighed, units: UnitSystem) -> tuple[str, ...]:
    """Give a row: filling, the whole, payload left, both axles with what is left of them."""
    return (
        _FILLINGS[row.filling], _mass(row.total_kg, units), _over(row.payload_left_kg, units),
        _mass(row.front_kg, units), _over(row.front_left_kg, units), _mass(row.rear_kg, units),
        _over(row.rear_left_kg, units),
    )  # fmt: skip


def weight_sentences(found: Weights, units: UnitSystem) -> tuple[str, ...]:
    """Say what is not known, where it leans, and what would tell most."""
    said = []
    if found.unweighed:
        few = ", ".join(found.unweighed[:3])
        more = len(found.unweighed) - 3
        rest = f" and {more} more" if more > 0 else ""
        said.append(f"In no sum, for nobody weighed them: {few}{rest}.")
    if found.laid_kg > 0.0:
        said.append(f"Pipes and their fittings are in it with about {_mass(found.laid_kg, units)}, "
                    "dry, and bear on no axle here.")  # fmt: skip
    if found.unplaced:
        named = ", ".join(f"{label} ({_mass(kg, units)})" for label, kg in found.unplaced)
        said.append(
            f"{_mass(found.unplaced_kg, units)} have no place and bear on no axle here: say where "
            f"these stand first: {named}."
        )
    right = found.rows[0].right_m
    if right is not None and abs(right) >= 0.05:
        side = "right" if right > 0 else "left"
        said.append(
            f"What has a place stands {with_unit(abs(right), 'bore', units, 2)} to the {side} of "
            "the middle, taken together."
        )
    return tuple(said)


def lift_sentence(lift: Lift, units: UnitSystem) -> str:
    """Say what is lifted by hand, and whether it is too much for one."""
    words = f"{lift.label}: {_mass(lift.kg, units)} full"
    if lift.heavy:
        return (
            f"{words}, more than the {_mass(HEAVY_KG, units)} one person lifts: two, or in place."
        )
    return f"{words}."


def slosh_sentence(slosh: Slosh, units: UnitSystem) -> str:
    """Say what a half full tank without baffles does while the vehicle brakes."""
    words = (
        f"{slosh.label}, half full and without baffles: {_mass(slosh.water_kg, units)} run forward "
        f"by {with_unit(slosh.moves_m, 'bore', units, 2)} under braking and swing back every "
        f"{duration_words(slosh.period_s)}"
    )
    if slosh.front_kg is None:
        return f"{words}."
    return f"{words}; {_mass(slosh.front_kg, units)} go onto the front axle meanwhile."
