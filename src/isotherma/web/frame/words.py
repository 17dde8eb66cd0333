"""Words for choices and names of pages, in one place."""

from __future__ import annotations

from isotherma import catalogue
from isotherma.core.climate import MONTHS
from isotherma.core.system import AnyKind, System

CHOICES: dict[str, str] = {
    "warm": "when the water is warm",
    "open": "when the tap opens",
    "standing": "as the day before left it",
    "cold": "just filled, cold",
    "outside": "outside",
    "gas": "Gas",
    "mains": "Mains",
    "mixing valve": "A mixing valve",
    "heated": "heated living space",
    "unheated": "unheated, inside",
    "slung": "slung below the floor",
    "window": "a window",
    "at least": "at least",
    "above the tank": "above the tank",
    "any": "cold is fine",
}


def choice_words(name: str, value: str) -> str:
    """Give the words of one choice of one property."""
    if name == "region":
        return next((r.name for r in catalogue.regions() if r.id == value), value)
    if name == "month":
        return MONTHS[int(value) - 1]
    return CHOICES.get(value, value)


def choices_of(name: str, declared: tuple[str, ...]) -> tuple[str, ...]:
    """Give the choices of a property: its own, or those of the catalogue."""
    if name == "region":
        return tuple(region.id for region in catalogue.regions())
    if name == "month":
        return tuple(str(month) for month in range(1, 13))
    return declared


_PLACEHOLDERS = {
    "grey_m3": "no limit",
    "gas_kg": "no limit",
    "mains_energy_j": "no limit",
    "cold_water_c": "estimated",
    "kept_c": "estimated",
    "pressure_pa": "not said",
    "flow_m3_per_s": "fully open",
}


def placeholder_of(name: str) -> str:
    """Say what an empty field means."""
    return _PLACEHOLDERS.get(name, "unknown")


def position_words(system: System, part: AnyKind, at: str) -> str:
    """Name a position by what it joins, where the part chooses between two."""
    ways = part.ways(at)
    if len(ways) != 1 or at not in part.passes or at in {"on", "open", "joined"}:
        return at
    labels = {other.id: other.label for other in system.parts}
    chosen = ways[0][1]
    there = [labels[end.part] for _, here, end in system.joined(part.id) if here.port == chosen]
    return f"{at}: {there[0]}" if there else at
