"""Holes: a schedule with what is behind, the order of the work, templates at true size."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.joints.holes import Drilling
from isotherma.core.joints.pricing import Shopping
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.web.frame.context import PageContext
from isotherma.wording import EDGE_WORDS, STEP_WORDS, unknown_words

MADE_OF: Final = ("metal", "wood", "plastic", "glass fibre", "tank")
KIND_WORDS: Final = {
    "hole": "planned", "not planned": "not planned", "bulkhead": "fitting in a tank",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class HoleRow:
    """One hole of the schedule, with what its form shows."""

    id: str
    kind: str
    name: str
    between: str
    bore: str
    steps: str
    pilot: str
    behind: str
    lined: str
    order: tuple[str, ...]
    unknown: str
    planned: bool
    run: str
    bore_text: str
    made_of: str
    drill_from: str
    behind_text: str


@dataclass(frozen=True, slots=True)
class Template:
    """A circle to be printed at true size [mm]."""

    name: str
    bore_mm: str
    radius_mm: str
    middle_mm: str
    side_mm: str
    words: str


@dataclass(frozen=True, slots=True)
class HolesView:
    """The schedule and the templates."""

    said: str
    rows: tuple[HoleRow, ...]
    templates: tuple[Template, ...]
    materials: tuple[str, ...]


def holes_view(context: PageContext, made: Shopping) -> HolesView:
    """Make the schedule of holes."""
    system, units = context.variant.system, context.units
    names = {one.id: one.label for one in (*system.parts, *system.runs)}
    named = {hole.id: hole.name for hole in system.holes}
    spaces = {space.id: space.name for space in system.spaces}
    said_of = {hole.id: hole for hole in system.holes}
    rows = []
    for one in made.listed.holes:
        hole = said_of.get(one.id)
        row = HoleRow(
            one.id, KIND_WORDS[one.kind], _name(one, named, names), _between(one, spaces),
            "not known" if one.bore_mm is None else _mm(one.bore_mm, units),
            ", ".join(f"{step:g}" for step in one.steps_mm), one.pilot_from or "say from where",
            one.behind,
            "; ".join(filter(None, (EDGE_WORDS.get(one.edge or "", ""), one.sleeve, one.seal))),
            tuple(STEP_WORDS[step] for step in one.order),
            ", ".join(unknown_words(name) for name in one.unknown), hole is not None,
            one.about or "" if one.kind == "not planned" else "",
            "" if hole is None or hole.bore_m is None else _mm(hole.bore_m * 1000.0, units),
            "" if hole is None else hole.made_of or "", "" if hole is None else hole.drill_from,
            "" if hole is None else hole.behind,
        )  # fmt: skip
        rows.append(row)
    open_ones = sum(row.kind == "not planned" for row in rows)
    said = f"{len(rows)} holes" if len(rows) != 1 else "1 hole"
    said += f", {open_ones} of them not planned" if open_ones else ""
    sizes = sorted({one.bore_mm for one in made.listed.holes if one.bore_mm is not None})
    return HolesView(f"{said}.", tuple(rows), tuple(_template(size, units) for size in sizes),
                     MADE_OF)  # fmt: skip


def _mm(value_mm: float, units: UnitSystem) -> str:
    return with_unit(value_mm / 1000.0, "bore", units)


def _name(one: Drilling, named: dict[str, str], names: dict[str, str]) -> str:
    if one.id in named:
        return named[one.id]
    about = names.get(one.about or "", one.about or one.id)
    if one.kind == "bulkhead":
        port = one.id.removeprefix(f"{one.about}-").replace("-", " ")
        return f"{about}, {port}"
    return about


def _between(one: Drilling, spaces: dict[str, str]) -> str:
    first, second = (spaces.get(key or "", "not known") for key in one.spaces)
    return f"in {first}" if first == second else f"{first} – {second}"


def _template(size_mm: float, units: UnitSystem) -> Template:
    side = size_mm + 16.0
    return Template(
        f"{size_mm:g}", f"{size_mm:g}", f"{size_mm / 2.0:g}", f"{side / 2.0:g}", f"{side:g}",
        _mm(size_mm, units),
    )  # fmt: skip
