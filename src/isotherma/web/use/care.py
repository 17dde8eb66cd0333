"""Caring for it as it is used: where to park, damp, routines with a piece of the route each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite, radians, tan
from typing import Final

from isotherma.core.drawing.plan import lay_out
from isotherma.core.errors import CoreError, QuantityError
from isotherma.core.quantity import UnitSystem, duration_words, parse, with_unit
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.core.using.damp import Damp, sweats
from isotherma.core.using.parking import MOST_DEG, Lean, Parking
from isotherma.core.using.routines import Routine, Step
from isotherma.services.using import PRODUCT_G_PER_L
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.route_picture import Picture, Shown, draw, route_of
from isotherma.wording import (
    ROUTINE_CAUTIONS,
    ROUTINES,
    error_words,
    remark_words,
    routine_step,
    step_time,
    sweat_words,
)
from isotherma.wording.reader import Reader

CELL: Final = 26
MM_PER_M: Final = 1000.0
IN_PER_FT: Final = 12.0
PIECE: Final = (104.0, 60.0)  # half of the width and height of a piece of the route
PRODUCT: Final = (1.0, 500.0)  # grams of active substance in a litre of product that are sold


@dataclass(frozen=True, slots=True)
class LeanCell:
    """A lean on the picture: where, and how it looks."""

    x: int
    y: int
    good: bool
    words: str


@dataclass(frozen=True, slots=True)
class ParkPart:
    """Where to park: the picture, and its limits in words."""

    cells: tuple[LeanCell, ...] = ()
    side: int = 0
    here: tuple[int, int] | None = None
    said: tuple[str, ...] = ()
    unmeasured: tuple[str, ...] = ()


def park_part(context: PageContext, names: Mapping[str, str]) -> ParkPart:
    """Try how the vehicle may stand."""
    found = context.services.using.parking(
        context.project, context.variant, context.variant.standing)  # fmt: skip
    unmeasured = tuple(names.get(key, key) for key in found.unmeasured)
    if not found.judged:
        return ParkPart(unmeasured=unmeasured)
    units = context.units
    cells = tuple(_cell(one, units) for one in found.leans)
    pitch, roll = context.project.vehicle.stands_deg
    here = None
    if abs(pitch) <= MOST_DEG and abs(roll) <= MOST_DEG:
        here = (round(CELL * (roll + MOST_DEG)), round(CELL * (MOST_DEG - pitch)))
    return ParkPart(cells, CELL * (2 * MOST_DEG + 1), here, _limits(found, units), unmeasured)


def _cell(one: Lean, units: UnitSystem) -> LeanCell:
    stands = with_unit(one.stands_m3, "volume", units, 2)
    unused = with_unit(one.unused_m3, "volume", units, 2)
    words = f"nose {_tilt(one.nose_up_deg, 'up', 'down')}, right side "
    words += f"{_tilt(one.right_down_deg, 'down', 'up')}: {stands} stand in trays"
    words += f", {unused} of the tank out of reach"
    return LeanCell(CELL * (one.right_down_deg + MOST_DEG), CELL * (MOST_DEG - one.nose_up_deg),
                    one.good, words)  # fmt: skip


def _tilt(degrees: int, more: str, less: str) -> str:
    if degrees == 0:
        return "level"
    return f"{abs(degrees)}° {more if degrees > 0 else less}"


def _off_level(degrees: int, units: UnitSystem) -> str:
    """Say what a level shows at so many degrees."""
    slope = tan(radians(degrees))
    if units is UnitSystem.US:
        return f"{slope * IN_PER_FT:.2f} in to a foot"
    return f"{slope * MM_PER_M:.0f} mm to a metre"


def _limits(found: Parking, units: UnitSystem) -> tuple[str, ...]:
    """Say how far it may lean each way."""
    if found.reaches() is None:
        return ("Not even level does everything drain: look at Spaces and states.",)
    rows = []
    for words, nose, right in (("Nose up", 1, 0), ("Nose down", -1, 0), ("Right side down", 0, 1),
                               ("Left side down", 0, -1)):  # fmt: skip
        reach = found.reaches(nose=nose, right=right) or 0
        if reach == 0:
            rows.append(f"{words}: not at all.")
        elif reach == MOST_DEG:
            rows.append(f"{words}: up to {reach}° and more, all that was tried.")
        else:
            rows.append(f"{words}: up to {reach}°, which is {_off_level(reach, units)}.")
    return tuple(rows)


@dataclass(frozen=True, slots=True)
class DampRow:
    """A shower inside: what it leaves, what clears it, what sweats first."""

    name: str
    vapour: str
    condenses: str
    fan: str
    window: str
    sweats: str


@dataclass(frozen=True, slots=True)
class DampPart:
    """Damp of the day's showers, or why it is not known."""

    rows: tuple[DampRow, ...] = ()
    error: str = ""


def damp_part(context: PageContext) -> DampPart:
    """Say what showers inside leave in the air."""
    result = context.services.computing.result(context.project, context.variant)
    if isinstance(result, CoreError):
        return DampPart(error=error_words(result, context.units))
    draws = {one.id: one.name for one in context.project.brief.draws}
    return DampPart(tuple(_damp(one, draws.get(one.draw, one.draw), context.units)
                          for one in context.services.using.damp(result)))  # fmt: skip


def _damp(one: Damp, name: str, units: UnitSystem) -> DampRow:
    def clears(seconds: float | None) -> str:
        if seconds is None:
            return "its opening is not said"
        return duration_words(seconds) if isfinite(seconds) else "never: outside is as damp"

    condenses = with_unit(one.condensed_kg, "small_mass", units, 2)
    if one.condensed_kg <= 0.0:
        condenses = "nothing"
    return DampRow(
        name, with_unit(one.vapour_kg, "small_mass", units, 2), condenses, clears(one.fan_s),
        clears(one.window_s), sweat_words(sweats(one), one, units),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class StepView:
    """A step: words, time and tool, what goes wrong, where; `view` crops the route round it."""

    words: str
    time: str
    without: str
    where: str
    wrong: tuple[str, ...]
    view: str = ""
    x: float = 0.0
    y: float = 0.0


@dataclass(frozen=True, slots=True)
class RoutineView:
    """A routine as a card."""

    id: str
    title: str
    caution: str
    takes: str
    state: str
    steps: tuple[StepView, ...]


@dataclass(frozen=True, slots=True)
class RoutinesPart:
    """All routines, with the route they are marked on; the product's strength as typed."""

    rows: tuple[RoutineView, ...]
    picture: Picture | None
    product: str
    product_error: str = ""


def product_of(context: PageContext) -> tuple[float, str, str]:
    """Read the strength of the product: grams in a litre, as typed, what is wrong with it."""
    typed = context.query.get("product", "")[:20].strip()
    if not typed:
        return PRODUCT_G_PER_L, "", ""
    try:
        grams = parse(typed.removesuffix("g/L"), "number", context.units)
    except QuantityError as error:
        return PRODUCT_G_PER_L, typed, error_words(error, context.units)
    if not PRODUCT[0] <= grams <= PRODUCT[1]:
        return PRODUCT_G_PER_L, typed, "Say grams in a litre, from 1 to 500, as on its label."
    return grams, typed, ""


def routines_part(
    context: PageContext, names: Mapping[str, str], state: State | None
) -> RoutinesPart:
    """Write the routines of a state, each step with its piece of the route."""
    grams, typed, error = product_of(context)
    system = context.variant.built.system
    result = context.services.computing.result(context.project, context.variant)
    day_m3 = None
    if not isinstance(result, CoreError):
        day_m3 = sum(one.used_m3 for one in result.draws) + context.project.brief.other_fresh_m3
    found = context.services.using.routines(context.project, context.variant, state, grams, day_m3)
    picture = _route(system, context.units)
    return RoutinesPart(
        tuple(_routine(one, system, names, picture, context.units) for one in found), picture,
        typed, error,
    )  # fmt: skip


def _route(system: System, units: UnitSystem) -> Picture | None:
    nodes, lines = route_of(system)
    if not nodes:
        return None
    return draw(Shown(system, None, "", {}, {}, {}, units), lay_out(nodes, lines), lines, "wide")


def _routine(
    one: Routine, system: System, names: Mapping[str, str], picture: Picture | None,
    units: UnitSystem,
) -> RoutineView:  # fmt: skip
    reader = Reader.of(system, units)
    spaces = {space.id: space.name for space in system.spaces}
    at = {piece.id: spaces.get(piece.space or "", "") for piece in (*system.parts, *system.runs)}
    states = {state.id: state.name for state in system.states}
    return RoutineView(
        one.id, ROUTINES[one.id], ROUTINE_CAUTIONS[one.id], duration_words(one.seconds),
        states.get(one.state or "", ""),
        tuple(_step(step, names, at, reader, picture) for step in one.steps),
    )  # fmt: skip


def _step(
    step: Step, names: Mapping[str, str], at: Mapping[str, str], reader: Reader,
    picture: Picture | None,
) -> StepView:  # fmt: skip
    words, without = routine_step(step, names, reader.units)
    place = _place(step.part, picture)
    wrong = tuple(remark_words(one, reader).what for one in step.wrong)
    view, x, y = "", 0.0, 0.0
    if place is not None:
        x, y = place
        wide, tall = PIECE
        view = f"{x - wide:.0f} {y - tall:.0f} {2 * wide:.0f} {2 * tall:.0f}"
    return StepView(f"{words}.", step_time(step), without, at.get(step.part, ""), wrong, view, x, y)


def _place(key: str, picture: Picture | None) -> tuple[float, float] | None:
    """Find a part or run on the drawing."""
    if picture is None or not key:
        return None
    for node in picture.nodes:
        if node.id == key:
            return node.x, node.y
    for line in picture.lines:
        if line.key == f"run-{key}" and (line.x or line.y):
            return line.x, line.y
    return None
