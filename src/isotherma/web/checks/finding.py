"""One finding, opened: how it is judged, what it reads, each rule set, a picture."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import ClassVar, Final

import numpy as np

from isotherma.core.checks.found import Found
from isotherma.core.fields import Document
from isotherma.core.quantity import UnitSystem, duration_words, shown, unit_of, with_unit
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.kinds.gas import GasBottle
from isotherma.core.system.states import State
from isotherma.core.system.vehicle import Space
from isotherma.services.form_words import value_words
from isotherma.web.checks.page import amount
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.found import checked
from isotherma.wording import SEVERITY_WORDS, check_how, check_reads, check_sentence

Place = tuple[str, tuple[str, ...], tuple[str, ...], str | None]
LEFT, RIGHT, TOP, BOTTOM = 40.0, 330.0, 8.0, 100.0  # of the curve, in its picture
MOST_POINTS: Final = 300
PIXELS_A_METRE: Final = 200.0
BOTTLE_M: Final = 0.15  # of a bottle nobody measured: half of what most are across


@dataclass(frozen=True, slots=True)
class Curve:
    """Temperature at the head over a draw, with its limit."""

    label: str
    points: str
    limit_y: float
    marks: tuple[tuple[float, str], ...]
    lasts: str


@dataclass(frozen=True, slots=True)
class Plan:
    """The space of a bottle from above, to scale, with its vents as squares of their free area."""

    label: str
    wide: float
    deep: float
    floor: tuple[float, float]
    vents: tuple[tuple[float, float, float], ...]
    bottles: tuple[tuple[float, float, float], ...]


@dataclass(frozen=True, slots=True)
class FindingPage:
    """What a finding rests on."""

    template: ClassVar[str] = "finding.html"
    vehicle: str
    gone: bool = False
    sentence: str = "It is not found any more"
    how: str = ""
    values: tuple[tuple[str, str, str, str], ...] = ()
    rules: tuple[tuple[str, str, str, str, bool], ...] = ()
    curve: Curve | None = None
    plan: Plan | None = None
    moves: tuple[str, ...] = ()


def _values(context: PageContext, found: Found) -> tuple[tuple[str, str, str, str], ...]:
    """List what the check reads of what it is about, known or not."""
    system, units = context.built.system, context.units
    pieces: list[tuple[str, Document]] = []
    inside = {part.fitted_in for part in system.parts} - {None}
    for part in system.parts:
        if part.id in found.parts or (part.fitted_in in found.parts and part.fitted_in in inside):
            pieces.append((part.label, part))
    pieces += [(run.label, run) for run in system.runs if run.id in found.runs]
    pieces += [(hole.name, hole) for hole in system.holes if hole.id in found.needs]
    names = {space.id: space.name for space in system.spaces}
    rows = []
    for label, piece in pieces:
        for name in check_reads(found.id):
            info = type(piece).model_fields.get(name)
            if info is None:
                continue
            value = getattr(piece, name)
            if name == "space" and value is not None:
                words = f"“{names.get(value, value)}”"
            else:
                words = "not said" if value is None else value_words(piece, name, value, units)
            evidence = getattr(piece, "evidence", "")
            rows.append((label, info.title or name, words, "" if value is None else evidence))
    return tuple(rows)


def _worst_draw(context: PageContext, found: Found) -> tuple[Outcome, DrawResult] | None:
    """Find the draw a finding is about: the hottest of its outlet, in its state or in all."""
    states: tuple[State | None, ...] = tuple(
        one for one in context.built.system.states if found.state in (None, one.id)
    )
    child = found.id == "scald.child"
    came = []
    for state in states or (None,):
        outcome = context.services.checking.day(context.project, context.variant, state)
        if isinstance(outcome, Outcome):
            came += [
                (outcome, draw) for draw in outcome.draws
                if (draw.draw.outlet or draw.outlet) == found.parts[0]
                and draw.draw.child is child
            ]  # fmt: skip
    return max(came, key=lambda one: one[1].scald.peak_c, default=None)


def _curve(context: PageContext, found: Found) -> Curve | None:
    """Draw what came out of the head it is about."""
    if found.id not in ("scald.outlet", "scald.child") or not found.parts:
        return None
    if found.limit is None or found.limit.style != "temperature":
        return None
    worst = _worst_draw(context, found)
    if worst is None:
        return None
    (outcome, draw), limit = worst, found.limit.value
    rows = outcome.timeline.rows
    picked = (rows.end_s > draw.start_s) & (rows.end_s <= draw.end_s) & (rows.head_c > 0.0)
    times, heads = rows.end_s[picked] - draw.start_s, rows.head_c[picked]
    if len(times) < 2:
        return None
    every = max(1, len(times) // MOST_POINTS)
    high = max(float(np.max(heads)), limit) + 3.0
    low = min(float(np.min(heads)), limit) - 3.0

    def y_of(celsius: float) -> float:
        return round(BOTTOM - (celsius - low) / (high - low) * (BOTTOM - TOP), 1)

    last = float(times[-1])
    points = " ".join(
        f"{LEFT + (RIGHT - LEFT) * float(at) / last:.1f},{y_of(float(head))}"
        for at, head in zip(times[::every], heads[::every], strict=True)
    )
    units = context.units
    top, wall = (shown(value, "temperature", units, 2) for value in (float(np.max(heads)), limit))
    return Curve(
        f"Temperature at the head over {duration_words(last)}, highest {top}, "
        f"limit {wall} {unit_of('temperature', units).symbol}",
        points, y_of(limit),
        ((y_of(limit), f"{wall}"), (y_of(float(np.max(heads))), top)),
        duration_words(last),
    )  # fmt: skip


def _plan(context: PageContext, found: Found) -> Plan | None:
    """Draw the space of the bottles it is about."""
    if found.id not in ("gas.drop-vent", "air.locker-seal"):
        return None
    system = context.built.system
    space = next((one for one in system.spaces if one.id in found.needs), None)
    if space is None or space.width_m is None or space.depth_m is None:
        return None
    wide, deep = space.width_m * PIXELS_A_METRE, space.depth_m * PIXELS_A_METRE
    bottles = [part for part in system.parts
               if isinstance(part, GasBottle) and part.space == space.id]  # fmt: skip
    circles = []
    for place, bottle in enumerate(bottles):
        radius = PIXELS_A_METRE * (BOTTLE_M if bottle.width_m is None else bottle.width_m / 2.0)
        circles.append((10.0 + radius * (2 * place + 1) + 4.0, 10.0 + deep / 2.0, radius))
    vents = [
        (10.0 + wide - 4.0 - PIXELS_A_METRE * area**0.5, y, PIXELS_A_METRE * area**0.5)
        for area, y in ((space.low_vent_m2, 10.0 + deep - 4.0), (space.high_vent_m2, 14.0)) if area
    ]  # fmt: skip
    low = [(x, round(y - side, 1) if y > 14.0 else y, round(side, 1)) for x, y, side in vents]
    return Plan(_plan_words(space, context.units), wide + 20.0, deep + 20.0, (wide, deep),
                tuple((round(x, 1), y, side) for x, y, side in low), tuple(circles))  # fmt: skip


def _plan_words(space: Space, units: UnitSystem) -> str:
    def said(area: float | None) -> str:
        return "not known" if area is None else with_unit(area, "area", units, 3)

    return (
        f"“{space.name}” from above, to scale: low vent {said(space.low_vent_m2)}, "
        f"high vent {said(space.high_vent_m2)}, each as a square of its free area"
    )


def _rules(context: PageContext, found: Found) -> tuple[tuple[str, str, str, str, bool], ...]:
    units, result = context.units, checked(context)
    today = date.today().isoformat()
    by_rule = context.services.checking.by_every_rule(
        context.project, context.variant, today, found
    )
    rows = []
    for rules, one in by_rule:
        limit = "" if one is None else amount(one.limit, units)
        rows.append((
            rules.title, "not found" if one is None else SEVERITY_WORDS[one.severity], limit,
            "" if one is None else one.source.replace("ours", "our own cautious figure"),
            rules.name == result.rules.name,
        ))  # fmt: skip
    return tuple(rows)


def finding_page(context: PageContext, place: Place) -> FindingPage:
    """Open the finding of a place; where it is gone that is said."""
    found = next((one for one in checked(context).found
                  if (one.id, one.parts, one.runs, one.state) == place), None)  # fmt: skip
    if found is None:
        return FindingPage(context.project.name, gone=True)
    names = {state.id: state.name for state in context.variant.system.states}
    moves = found.values.get("moves") if found.id in ("states.order", "frost.trapped") else None
    return FindingPage(
        context.project.name,
        sentence=check_sentence(found, context.units, names.get(found.state or "", ""), every=True),
        how=check_how(found.id, context.units),
        values=_values(context, found), rules=_rules(context, found),
        curve=_curve(context, found), plan=_plan(context, found),
        moves=tuple(str(moves).split(" → ")) if moves else (),
    )  # fmt: skip
