"""The route, drawn: parts and runs as they stand on the page, with what flows in them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise
from math import isfinite
from typing import Final, Literal

from isotherma.core.drawing.media import carried
from isotherma.core.drawing.plan import Line, Plan
from isotherma.core.flows.report import FlowReport, PartFlow, RunFlow
from isotherma.core.quantity import UnitSystem, shown, with_unit
from isotherma.core.system import AnyKind, Pipe, System
from isotherma.core.system.kinds import use
from isotherma.web.ramp import colour

Way = Literal["wide", "narrow"]
WAYS: Final[tuple[Way, Way]] = ("wide", "narrow")


RANK: Final[dict[Way, float]] = {"wide": 78.0, "narrow": 66.0}


TRACK: Final[dict[Way, float]] = {"wide": 82.0, "narrow": 112.0}


EDGE: Final = 46.0
ABOVE: Final = 8.0  # room over the highest toggle, as the view box of the template has it
GROUNDS: Final = 6  # styles of grounds; the seventh space has the first again


GLYPHS: Final[dict[str, str]] = {
    "fresh_tank": "tank", "grey_tank": "tank", "loose_container": "can",
    "waste_container": "can", "gravity_bag": "bag", "fill_point": "fill",
    "outside_source": "source", "pressurised_inlet": "source", "pump": "pump",
    "submersible": "pump", "foot_pump": "pump", "hand_pump": "pump", "circulation_pump": "pump",
    "loop_pump": "pump", "dump_pump": "pump", "shut_off": "lever", "selector": "selector",
    "check_valve": "check", "return_diverter": "selector", "thermostatic_mixer": "mixer",
    "manual_mixer": "mixer", "store": "store", "combi": "store", "canister": "store",
    "sun_container": "store", "coil": "coil", "air_coil": "coil", "plate_exchanger": "plate",
    "reuse_loop": "plate", "through_flow_gas": "flame", "through_flow_electric": "flame",
    "liquid_heater": "flame", "engine_coolant": "engine", "shower_head": "head", "tap": "tap",
    "outside_outlet": "tap", "split": "split", "strainer": "sieve", "filter": "sieve",
    "accumulator": "bubble", "drain": "drop", "tray": "tray", "open_drain": "drop",
    "trap": "trap", "blanking_cap": "cap", "coupling": "coupling", "loose_hose": "coupling",
    "reducer": "relief", "flow_limiter": "relief", "solenoid": "lever", "gate": "lever",
    "expansion_vessel": "bubble", "bleed": "fill", "air_vent": "fill", "bottle_fill": "tap",
    "toilet_flush": "tap", "appliance": "tap", "relief": "relief",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Node:
    """One part on the drawing."""

    key: str
    id: str
    label: str
    lines: tuple[tuple[str, int], ...]
    glyph: str
    x: float
    y: float
    ground: str
    space: str
    chosen: bool
    warn: str
    words: str
    toggle: str
    opened: str
    then: str
    fill: str


@dataclass(frozen=True, slots=True)
class DrawnRoute:
    """One run on the drawing."""

    key: str
    path: str
    carries: str
    ink: str
    still: bool
    chosen: bool
    x: float
    y: float
    label: str
    title: str
    arrow: str


@dataclass(frozen=True, slots=True)
class Picture:
    """The drawing in one orientation."""

    way: str
    width: float
    height: float
    nodes: tuple[Node, ...]
    lines: tuple[DrawnRoute, ...]
    cell_width: float
    cell_height: float
    cell_x: float
    cell_y: float


def ground_of(index: int) -> str:
    """Give the style of the ground behind parts of a space, by its place in the document."""
    return str((index + 1) % GROUNDS)


def _text_lines(label: str, way: Way, most: int = 13) -> tuple[tuple[str, int], ...]:
    """Break a label into two lines that fit under a symbol, or beside it; with their heights."""
    words, lines = label.split(), [""]
    for word in words:
        longer = f"{lines[-1]} {word}".strip()
        if len(longer) <= most or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    if len(lines) > 2:
        lines = [lines[0], lines[1][: most - 1].rstrip() + "…"]
    top = 30 if way == "wide" else 1 - 2 * len(lines)
    return tuple(
        (line if len(line) <= most + 2 else line[: most + 1] + "…", top + 12 * place)
        for place, line in enumerate(lines)
    )


def route_of(system: System) -> tuple[list[str], list[Line]]:
    """Give what is drawn: parts with a pipe, pipes, and water that falls from outlets."""
    lines = [Line(run.id, run.start.part, run.end.part) for run in system.pipes]
    on = {end for line in lines for end in (line.start, line.end)}
    ids = {part.id for part in system.parts}
    for part in system.parts:
        falls = getattr(part, "falls_to", None)
        if isinstance(part, use.Outlet) and falls in ids:
            lines.append(Line(f"falls:{part.id}", part.id, falls))
            on |= {part.id, falls}
    return [part.id for part in system.parts if part.id in on], lines


def _point(plan: Plan, rank: float, track: float, way: Way) -> tuple[float, float]:
    along, across = EDGE + rank * RANK[way], EDGE - 6 + track * TRACK[way]
    return (along, across) if way == "wide" else (across - 8, along)


def _path(plan: Plan, line: Line, way: Way, lane: float) -> tuple[str, tuple[float, float], str]:
    """Lead a line along its ranks: across only between them, in a lane of its own."""
    spots = [plan.place[line.start], *plan.bends[line.id], plan.place[line.end]]
    points: list[tuple[float, float]] = []
    for (rank_a, track_a), (rank_b, track_b) in pairwise(spots):
        turn = (rank_a + rank_b) / 2 + lane
        if abs(track_a - track_b) < 1e-6:
            points += [(rank_a, track_a), (rank_b, track_b)]
        else:
            points += [(rank_a, track_a), (turn, track_a), (turn, track_b), (rank_b, track_b)]
    flat = [_point(plan, rank, track, way) for rank, track in points]
    tidy = [flat[0]]
    for spot in flat[1:]:
        if abs(spot[0] - tidy[-1][0]) + abs(spot[1] - tidy[-1][1]) > 0.01:
            tidy.append(spot)
    words = "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in tidy)
    longest, at, arrow = -1.0, tidy[0], ""
    for (ax, ay), (bx, by) in pairwise(tidy):
        length = abs(ax - bx) + abs(ay - by)
        if length > longest:
            longest, at = length, ((ax + bx) / 2, (ay + by) / 2)
            arrow = f"{'0' if bx > ax else '180'}" if abs(ax - bx) > abs(ay - by) else (
                "90" if by > ay else "270"
            )  # fmt: skip
    return words, at, arrow


def pressure_words(pressure_pa: float, units: UnitSystem) -> str:
    """Write a pressure to a millibar: less is not felt by anybody."""
    if not isfinite(pressure_pa):
        return "not known"
    return with_unit(round(pressure_pa / 100.0) * 100.0 + 0.0, "pressure", units, 2)


def _glyph(part: AnyKind) -> str:
    return GLYPHS.get(part.kind, "part")


@dataclass(frozen=True, slots=True)
class Shown:
    """What a drawing shows of a design: its parts, the chosen one, what is open, what is wrong."""

    system: System
    report: FlowReport | None
    chosen: str
    opens: Mapping[str, float]
    toggles: Mapping[str, str]
    warned: Mapping[str, str]
    units: UnitSystem


def _node(drawing: Shown, part: AnyKind, at: tuple[float, float], live: PartFlow | None,
          ground: tuple[str, str], way: Way) -> Node:  # fmt: skip
    """Draw one part as it stands, with the water after it."""
    words, fill = part.label, ""
    if live is not None and live.flow_m3_per_s > 0.0:
        words += f": {pressure_words(live.pressure_pa, drawing.units)}, " + with_unit(
            live.temperature_c, "temperature", drawing.units, 3
        )
        fill = colour(live.temperature_c)
    share = drawing.opens.get(part.id)
    opened = then = ""
    if part.id in drawing.toggles:
        opened = "shut" if share is None else "open" if share >= 1.0 else f"{share:.0%}"
        then = {"shut": "open it", "open": "halfway"}.get(opened, "shut it")
    return Node(
        key=f"part-{part.id}", id=part.id, label=part.label, lines=_text_lines(part.label, way),
        glyph=_glyph(part), x=at[0], y=at[1], ground=ground[0], space=ground[1],
        chosen=drawing.chosen == f"part-{part.id}", warn=drawing.warned.get(part.id, ""),
        words=words, toggle=drawing.toggles.get(part.id, ""), opened=opened, then=then, fill=fill,
    )  # fmt: skip


def _lanes(plan: Plan, lines: list[Line]) -> Iterator[tuple[Line, float]]:
    """Give lines with the lane each turns in: those between the same ranks keep apart."""
    taken: dict[int, int] = {}
    for line in lines:
        spots = [plan.place[line.start], *plan.bends.get(line.id, ()), plan.place[line.end]]
        lane = 0.0
        if any(abs(a[1] - b[1]) > 1e-6 for a, b in pairwise(spots)):
            first = int(min(spots[0][0], spots[-1][0]))
            turn = taken.get(first, 0)
            taken[first] = turn + 1
            lane = ((turn % 5) - 2) * 0.055
        yield line, lane


def _line(
    drawing: Shown, run: Pipe, now: RunFlow | None, carries: str,
    drawn: tuple[str, tuple[float, float], str],
) -> DrawnRoute:  # fmt: skip
    """Draw one run with what flows in it."""
    path, (x, y), arrow = drawn
    units = drawing.units
    title, label, ink = run.label, "", ""
    if now is not None and now.flow_m3_per_s != 0.0:
        flow = with_unit(abs(now.flow_m3_per_s), "flow", units, 2)
        title += f": {flow}, {with_unit(now.velocity_m_per_s, 'speed', units, 2)}, "
        title += f"takes {pressure_words(now.drop_pa, units)}, "
        title += with_unit(now.temperature_c, "temperature", units, 3)
        label = shown(abs(now.flow_m3_per_s), "flow", units, 2) if arrow in ("0", "180") else ""
        ink = colour(now.temperature_c)
        if now.flow_m3_per_s < 0:
            arrow = str((int(arrow) + 180) % 360) if arrow else ""
    still = not ink
    return DrawnRoute(
        key=f"run-{run.id}", path=path, carries=carries, ink=ink, still=still,
        chosen=drawing.chosen == f"run-{run.id}", x=x, y=y, label=label, title=title,
        arrow="" if still else arrow,
    )  # fmt: skip


def draw(drawing: Shown, plan: Plan, lines: list[Line], way: Way) -> Picture:
    """Draw a plan in one orientation, with what flows."""
    system, report = drawing.system, drawing.report
    spaces = {space.id: (ground_of(index), space.name) for index, space in enumerate(system.spaces)}
    medium = carried(system)
    pipes = {run.id: run for run in system.pipes}
    runs = {run.id: run for run in report.runs} if report else {}
    parts = {part.id: part for part in report.parts} if report else {}
    nodes = [
        _node(
            drawing, part, _point(plan, *plan.place[part.id], way), parts.get(part.id),
            spaces.get(part.space or "", ("", "")), way,
        )
        for part in system.parts if part.id in plan.place
    ]  # fmt: skip
    drawn = []
    for line, lane in _lanes(plan, lines):
        path, (x, y), arrow = _path(plan, line, way, lane)
        drawn.append(
            DrawnRoute("", path, "falls", "", True, False, x, y, "", "Water falls", arrow)
            if line.id.startswith("falls:")
            else _line(drawing, pipes[line.id], runs.get(line.id), medium[line.id],
                       (path, (x, y), arrow))
        )  # fmt: skip
    along = EDGE * 2 + max(0, plan.ranks - 1) * RANK[way]
    across = EDGE * 2 + max(0.0, plan.tracks - 1) * TRACK[way] + 18
    width, height = (along, across) if way == "wide" else (across + 66, along + 20)
    cell = (RANK[way], TRACK[way]) if way == "wide" else (TRACK[way], RANK[way])
    return Picture(
        way=way, width=round(width, 1), height=round(height + ABOVE, 1), nodes=tuple(nodes),
        lines=tuple(drawn), cell_width=cell[0], cell_height=cell[1], cell_x=-cell[0] / 2,
        cell_y=5 - cell[1] / 2,
    )  # fmt: skip
