"""The route, drawn: parts and runs as they stand on the page, with what flows in them."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from math import hypot, isfinite
from typing import Final, Literal

from isotherma.core.drawing.geometry import Box, Extent, Geometry, trace
from isotherma.core.drawing.media import carried
from isotherma.core.drawing.plan import Line, Plan
from isotherma.core.flows.report import FlowReport, PartFlow, RunFlow
from isotherma.core.quantity import UnitSystem, shown, with_unit
from isotherma.core.system import AnyKind, Pipe, System
from isotherma.core.system.kinds import use
from isotherma.web.ramp import colour

Way = Literal["wide", "narrow"]
WAYS: Final[tuple[Way, Way]] = ("wide", "narrow")


LABEL: Final[dict[Way, int]] = {"wide": 10, "narrow": 9}  # letters in a line of a label
LABEL_LINES: Final[dict[Way, int]] = {"wide": 4, "narrow": 4}
LINE_PX: Final = 12.0
JOINED: Final = "\N{NO-BREAK SPACE}"
FIGURE: Final = re.compile(r"(\d) (?=\S{1,2}\b)")  # a figure and its unit stay together
# how wide letters are at the size of labels; a test in the browser measures that none is wider
NARROW_LETTERS: Final = frozenset("fijlrtI.,:;'’|()[]/- " + JOINED)
WIDE_LETTERS: Final = frozenset("mwMWO@%&")
LEAST: Final[dict[Way, float]] = {"wide": 0.68, "narrow": 0.62}  # smaller is no longer read
ABOVE: Final = 8.0  # room over the highest toggle, as the view box of the template has it
GAP_PX: Final = 27.0  # past the symbol
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
class Ground:
    """The ground behind a part, in the style of its space."""

    style: str
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class Node:
    """One part on the drawing."""

    key: str
    id: str
    label: str
    lines: tuple[tuple[str, float], ...]
    glyph: str
    x: float
    y: float
    ground: Ground
    space: str
    chosen: bool
    warn: str
    words: str
    toggle: str
    toggle_x: float
    toggle_y: float
    toggle_word: tuple[float, float]
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
class Gap:
    """A joint where two ends do not meet."""

    key: str
    x: float
    y: float
    words: str


@dataclass(frozen=True, slots=True)
class Picture:
    """The drawing in one orientation; `least` is how narrow it may be made and still be read."""

    way: str
    width: float
    height: float
    least: float
    nodes: tuple[Node, ...]
    lines: tuple[DrawnRoute, ...]
    gaps: tuple[Gap, ...] = ()


def ground_of(index: int) -> str:
    """Give the style of the ground behind parts of a space, by its place in the document."""
    return str((index + 1) % GROUNDS)


def letters_px(words: str) -> float:
    """Estimate how wide a line of a label is, from above."""
    return sum(
        3.6 if letter in NARROW_LETTERS else 8.6 if letter in WIDE_LETTERS
        else 6.9 if letter.isupper() else 8.6 if ord(letter) > 0x24F else 5.7
        for letter in words
    )  # fmt: skip


def _text_lines(label: str, way: Way) -> tuple[str, ...]:
    """Break a label into lines that fit under a symbol, or beside it."""
    letters, most, lines = LABEL[way], LABEL_LINES[way], [""]
    for word in FIGURE.sub(lambda found: f"{found[1]}{JOINED}", label).split(" "):
        longer = f"{lines[-1]} {word}".strip()
        if len(longer) <= letters or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    if len(lines) > most:
        lines = [*lines[: most - 1], lines[most - 1][:letters].rstrip() + "…"]
    return tuple(line if len(line) <= letters + 3 else line[: letters + 2] + "…" for line in lines)


def _label_at(count: int, way: Way, toggled: bool) -> list[float]:
    """Give the heights of a label's lines: under the symbol, or beside it."""
    top = 30.0 if way == "wide" else 9.0 if toggled else 4.0 - 6.0 * (count - 1)
    return [top + LINE_PX * place for place in range(count)]


def extent_of(label: str, way: Way, toggled: bool) -> Extent:
    """Say what a part with its label and its toggle takes of the drawing."""
    lines = _text_lines(label, way)
    wide = max(letters_px(line) for line in lines)
    low = _label_at(len(lines), way, toggled)[-1] + 4.0
    if way == "wide":
        return Extent(max(21.0, wide / 2), max(21.0, wide / 2), 45.0 if toggled else 25.0, low)
    return Extent(21.0, 23.0 + max(wide, 46.0 if toggled else 0.0), 31.0 if toggled else 25.0,
                  max(21.0, low))  # fmt: skip


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


def pressure_words(pressure_pa: float, units: UnitSystem) -> str:
    """Write a pressure to a millibar: less is not felt by anybody."""
    if not isfinite(pressure_pa):
        return "not known"
    return with_unit(round(pressure_pa / 100.0) * 100.0 + 0.0, "pressure", units, 2)


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
    unmet: Mapping[tuple[str, bool], str] = field(default_factory=dict)


def _node(
    drawing: Shown, part: AnyKind, geometry: Geometry, live: PartFlow | None,
    ground: tuple[str, str], way: Way,
) -> Node:  # fmt: skip
    """Draw one part as it stands, with the water after it."""
    words, fill = part.label, ""
    if live is not None and live.flow_m3_per_s > 0.0:
        words += f": {pressure_words(live.pressure_pa, drawing.units)}, " + with_unit(
            live.temperature_c, "temperature", drawing.units, 3
        )
        fill = colour(live.temperature_c)
    share = drawing.opens.get(part.id)
    toggle = drawing.toggles.get(part.id, "")
    opened = then = ""
    if toggle:
        opened = "shut" if share is None else "open" if share >= 1.0 else f"{share:.0%}"
        then = {"shut": "open it", "open": "halfway"}.get(opened, "shut it")
    lines, (x, y) = _text_lines(part.label, way), geometry.at[part.id]
    return Node(
        key=f"part-{part.id}", id=part.id, label=part.label,
        lines=tuple(zip(lines, _label_at(len(lines), way, bool(toggle)), strict=True)),
        glyph=GLYPHS.get(part.kind, "part"), x=_px(x), y=_px(y),
        ground=_ground(ground[0], geometry.cells[part.id]), space=ground[1],
        chosen=drawing.chosen == f"part-{part.id}", warn=drawing.warned.get(part.id, ""),
        words=words, toggle=toggle, toggle_x=-22.0 if way == "wide" else 23.0,
        toggle_y=-45.0 if way == "wide" else -31.0,
        toggle_word=(0.0, -29.0) if way == "wide" else (45.0, -15.0),
        opened=opened, then=then, fill=fill,
    )  # fmt: skip


def _ground(style: str, cell: Box) -> Ground:
    return Ground(style, _px(cell.left), _px(cell.top), _px(cell.right - cell.left),
                  _px(cell.bottom - cell.top))  # fmt: skip


def _px(value: float) -> float:
    return round(value, 1)


def _line(
    drawing: Shown, run: Pipe, now: RunFlow | None, carries: str, geometry: Geometry
) -> DrawnRoute:
    """Draw one run with what flows in it."""
    units, mark = drawing.units, geometry.marks.get(run.id)
    title, label, ink, turn = run.label, "", "", 0 if mark is None else mark.turn
    if now is not None and now.flow_m3_per_s != 0.0:
        flow = with_unit(abs(now.flow_m3_per_s), "flow", units, 2)
        title += f": {flow}, {with_unit(now.velocity_m_per_s, 'speed', units, 2)}, "
        title += f"takes {pressure_words(now.drop_pa, units)}, "
        title += with_unit(now.temperature_c, "temperature", units, 3)
        if mark is not None and mark.figure:
            label = shown(abs(now.flow_m3_per_s), "flow", units, 2)
        ink = colour(now.temperature_c)
        if now.flow_m3_per_s < 0:
            turn = (turn + 180) % 360
    return DrawnRoute(
        key=f"run-{run.id}", path=_path(geometry, run.id), carries=carries, ink=ink,
        still=not ink, chosen=drawing.chosen == f"run-{run.id}",
        x=0.0 if mark is None else _px(mark.x), y=0.0 if mark is None else _px(mark.y),
        label=label, title=title, arrow=str(turn) if ink and mark is not None else "",
    )  # fmt: skip


def _path(geometry: Geometry, line: str) -> str:
    return "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in geometry.paths[line])


def _falls(geometry: Geometry, line: str) -> DrawnRoute:
    """Draw water that falls from an outlet into what stands under it."""
    mark = geometry.marks.get(line)
    return DrawnRoute(
        "", _path(geometry, line), "falls", "", True, False,
        0.0 if mark is None else _px(mark.x), 0.0 if mark is None else _px(mark.y), "",
        "Water falls", "" if mark is None else str(mark.turn),
    )  # fmt: skip


def draw(drawing: Shown, plan: Plan, lines: list[Line], way: Way) -> Picture:
    """Draw a plan in one orientation, with what flows."""
    system, report = drawing.system, drawing.report
    spaces = {space.id: (ground_of(index), space.name) for index, space in enumerate(system.spaces)}
    medium = carried(system)
    pipes = {run.id: run for run in system.pipes}
    runs = {run.id: run for run in report.runs} if report else {}
    parts = {part.id: part for part in report.parts} if report else {}
    there = [part for part in system.parts if part.id in plan.place]
    extents = {part.id: extent_of(part.label, way, part.id in drawing.toggles) for part in there}
    geometry = trace(plan, lines, extents, tall=way == "narrow")
    return Picture(
        way=way, width=_px(geometry.width), height=_px(geometry.height + ABOVE),
        least=_px(geometry.width * LEAST[way]),
        nodes=tuple(
            _node(drawing, part, geometry, parts.get(part.id),
                  spaces.get(part.space or "", ("", "")), way)
            for part in there
        ),
        lines=tuple(
            _falls(geometry, line.id) if line.id not in pipes
            else _line(drawing, pipes[line.id], runs.get(line.id), medium[line.id], geometry)
            for line in lines if line.id in geometry.paths
        ),
        gaps=tuple(
            _gap(geometry, run, words, begins=begins)
            for (run, begins), words in drawing.unmet.items() if run in geometry.paths
        ),
    )  # fmt: skip


def _gap(geometry: Geometry, run: str, words: str, *, begins: bool) -> Gap:
    """Place the mark of a joint on its line, a little way from the part."""
    points = geometry.paths[run]
    (x, y), (to_x, to_y) = points[:2] if begins else (points[-1], points[-2])
    length = max(1e-9, hypot(to_x - x, to_y - y))
    share = min(0.5, GAP_PX / length)
    return Gap(f"run-{run}", _px(x + share * (to_x - x)), _px(y + share * (to_y - y)), words)
