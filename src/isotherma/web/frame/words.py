"""Words for choices and names of pages, in one place."""

from __future__ import annotations

from isotherma import catalogue
from isotherma.core.climate import MONTHS, Region
from isotherma.core.quantity import STYLES, UnitSystem, shown
from isotherma.core.system import System
from isotherma.core.system.pieces import PartBase

# words of a value where it is a choice of this property, else of any
CHOICES_OF: dict[tuple[str, str], str] = {
    ("clock", "warm"): "when the water is warm",
    ("clock", "open"): "when the tap opens",
    ("day_start", "standing"): "as the day before left it",
    ("day_start", "cold"): "just filled, cold",
    ("wash", "hands"): "hands and dishes",
    ("wash", "stop-and-go"): "quick stop-and-go shower",
    ("wash", "shower"): "normal shower",
    ("wash", "long-shower"): "long shower",
    ("gas", "refused"): "will not have it",
    ("diesel", "refused"): "will not have it",
    ("ignored", "fresh"): "fresh water",
    ("ignored", "grey"): "grey water",
    ("ignored", "mains"): "mains energy",
    ("will_not_have", "compressed-air draining"): "draining by compressed air",
    ("will_not_have", "licensed work"): "work for licensed people",
    ("will_not_have", "battery heating"): "heating from the battery",
    ("will_not_have", "pressurised system"): "water under pressure",
    ("will_not_have", "through-wall flue"): "a flue through the wall",
    ("will_not_have", "mixing valve"): "a mixing valve",
}
CHOICES: dict[str, str] = {
    "heated": "heated living space",
    "unheated": "unheated, inside",
    "slung": "slung below the floor",
    "window": "a window",
    "at least": "at least",
    "above the tank": "above the tank",
    "any": "cold is fine",
}


def choice_words(name: str, value: str, units: UnitSystem = UnitSystem.METRIC) -> str:
    """Give the words of one choice of one property."""
    if name == "region":
        return next((region_words(r, units) for r in catalogue.regions() if r.id == value), value)
    if name == "month":
        return MONTHS[int(value) - 1]
    return CHOICES_OF.get((name, value), CHOICES.get(value, value))


def region_words(region: Region, units: UnitSystem) -> str:
    """Name a region with the air of its coldest and warmest month."""
    low, high = (
        shown(edge, "temperature", units, 2) for edge in (min(region.air_c), max(region.air_c))
    )
    return f"{region.name}, {low} to {high} {STYLES['temperature'].symbol(units)}"


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


def position_words(system: System, part: PartBase, at: str) -> str:
    """Name a position by what it joins, where the part chooses between two."""
    ways = part.ways(at)
    if len(ways) != 1 or at not in part.passes or at in {"on", "open", "joined"}:
        return at
    labels = {other.id: other.label for other in system.parts}
    chosen = ways[0][1]
    there = [labels[end.part] for _, here, end in system.joined(part.id) if here.port == chosen]
    return f"{at}: {there[0]}" if there else at
