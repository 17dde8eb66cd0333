"""Home: vehicles and their variants with their verdicts; start, import, delete."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.catalogue.layouts import layouts
from isotherma.core.quantity import Habit
from isotherma.core.results.outcome import Outcome
from isotherma.services.computing import Computing
from isotherma.services.vehicles import Listed
from isotherma.services.wording import error_words
from isotherma.web.pages.chart import Glance, make_glance
from isotherma.web.pages.design import project_words

MOST_SHOWN = 40


@dataclass(frozen=True, slots=True)
class VariantRow:
    """One variant in a vehicle's list."""

    id: str
    name: str
    verdict: str
    glance: Glance | None


@dataclass(frozen=True, slots=True)
class VehicleRow:
    """One vehicle."""

    id: int
    name: str
    words: str
    variants: tuple[VariantRow, ...]


@dataclass(frozen=True, slots=True)
class HomePage:
    """All vehicles."""

    template: ClassVar[str] = "home.html"
    vehicles: tuple[VehicleRow, ...]
    hidden: int
    notice: str
    error: str
    error_for: str
    typed_name: str
    undo_delete: int | None
    start: str
    layouts: tuple[tuple[str, str], ...]


def home_page(
    listed: list[Listed],
    habit: Habit,
    computing: Computing,
    *,
    notice: str = "",
    error: str = "",
    error_for: str = "",
    typed_name: str = "",
    undo_delete: int | None = None,
    start: str = "usual",
) -> HomePage:
    """Put the home page together; the newest vehicles first, the rest counted."""
    rows = []
    for vehicle in listed[:MOST_SHOWN]:
        variants = []
        for variant in vehicle.project.variants:
            result = computing.result(vehicle.project, variant)
            if isinstance(result, Outcome):
                words, glance = result.verdict(habit), make_glance(result, habit)
            else:
                words, glance = error_words(result, habit), None
            variants.append(VariantRow(variant.id, variant.name, words, glance))
        rows.append(
            VehicleRow(
                vehicle.vehicle_id,
                vehicle.project.name,
                project_words(vehicle.project),
                tuple(variants),
            )
        )
    return HomePage(
        vehicles=tuple(rows),
        hidden=max(0, len(listed) - MOST_SHOWN),
        notice=notice,
        error=error,
        error_for=error_for,
        typed_name=typed_name,
        undo_delete=undo_delete,
        start=start,
        layouts=tuple((layout.id, layout.name) for layout in layouts().values()),
    )


@dataclass(frozen=True, slots=True)
class MessagePage:
    """A page that says one thing: not found, an error of ours."""

    template: ClassVar[str] = "message.html"
    title: str
    text: str
    status: int
