"""Gauges in litres, joined tanks, strokes and hot air, ready to read."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.flows.gauges import GaugeTable
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.system.states import State
from isotherma.services.flows import tanks_of, warm_air
from isotherma.wording import (
    doubt_sentence,
    gauge_sentence,
    hot_air_words,
    joined_sentences,
    reading_words,
    stroke_sentence,
)


@dataclass(frozen=True, slots=True)
class GaugePanel:
    """One gauge: what it reads, what is in the tank then, what the needle alone would say."""

    key: str
    label: str
    tank: str
    said: str
    rows: tuple[tuple[str, str, str], ...]


def _panel(table: GaugeTable, units: UnitSystem) -> GaugePanel:
    return GaugePanel(
        f"part-{table.tank if table.lacking else table.id}", table.label, table.tank_label,
        gauge_sentence(table, units),
        tuple(reading_words(table, row, units) for row in table.rows),
    )  # fmt: skip


def beside(
    view: str, project: Project, variant: Variant, state: State | None, units: UnitSystem
) -> dict[str, object]:
    """Give what the views of gauges and tanks, and of hot air, show."""
    if view == "air":
        return {"air": _air_rows(project, variant, state, units)}
    found = tanks_of(project, variant, state, 0.0)
    labels = {part.id: part.label for part in variant.system.parts}
    said = [words for pair in found.joined for words in joined_sentences(pair, labels, units)]
    said += [stroke_sentence(strokes, labels, units) for strokes in found.strokes]
    said += [doubt_sentence(doubt, units) for doubt in found.doubts]
    panels = tuple(_panel(table, units) for table in found.gauges)
    return {"gauges": panels, "tank_said": tuple(said)}


def _air_rows(
    project: Project, variant: Variant, state: State | None, units: UnitSystem
) -> tuple[tuple[str, ...], ...]:
    """Give a row for every place where hot air arrives."""
    spaces = {space.id: space.name for space in variant.system.spaces}
    return tuple(
        hot_air_words(blown.air, blown.dries_kg_per_s, spaces, units)
        for blown in warm_air(project, variant, state)
    )
