"""The Layout page: the route drawn by the product, live, and changed where it stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from math import isfinite
from typing import ClassVar, Final, Literal

from isotherma.catalogue.classes import classes
from isotherma.catalogue.layouts import layouts
from isotherma.core.drawing.media import WORDS, carried
from isotherma.core.drawing.plan import Line, Plan, lay_out
from isotherma.core.editing import goes_in_line, lay_with_own
from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.flows.report import FlowReport
from isotherma.core.flows.words import flow_warnings, outlet_sentence, pump_sentences
from isotherma.core.project import Project
from isotherma.core.quantity import STYLES, Habit, shown, with_unit
from isotherma.core.results.outages import Outage, if_fails
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import AnyKind, AnyRun, Pipe, System
from isotherma.core.system.kinds import KINDS, use
from isotherma.core.system.moves import moves
from isotherma.core.system.pieces import PartBase, joins
from isotherma.services.computing import Computing
from isotherma.services.flows import Asked, Flowing, Flows, outlets_of
from isotherma.services.vehicles import Opened
from isotherma.services.wording import error_words
from isotherma.web.pages.flow import FlowAsked, OpenChoice, choice_of, opens_of, query_of, state_of
from isotherma.web.pages.forms import FormView, Typed, make_form, names_of
from isotherma.web.pages.frame import Frame, find_variant, make_frame, mend_piece
from isotherma.web.pages.parts import LayoutOffer, Offer, key_of
from isotherma.web.pages.profile import (
    NARROW,
    WIDE,
    Eaten,
    Profile,
    draw_profile,
    eaten_rows,
)
from isotherma.web.ramp import colour

Way = Literal["wide", "narrow"]
RANK: Final[dict[Way, float]] = {"wide": 78.0, "narrow": 66.0}
TRACK: Final[dict[Way, float]] = {"wide": 82.0, "narrow": 112.0}
EDGE: Final = 46.0
HALFWAY: Final = 0.5
OWN_KINDS: Final = (
    "fresh_tank", "gravity_bag", "store", "combi", "canister", "through_flow_gas",
    "through_flow_electric", "liquid_heater", "air_heater", "sun_container", "kettle",
)  # fmt: skip
RUN_FIELDS: Final = ("name", "length_m", "family", "nominal", "rise_m", "elbows", "bends",
                     "insulation_m", "space")  # fmt: skip
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
    lines: tuple[str, ...]
    glyph: str
    x: float
    y: float
    ground: int
    space: str
    chosen: bool
    warn: str
    words: str
    toggle: str
    opened: str
    then: str
    fill: str


@dataclass(frozen=True, slots=True)
class Drawn:
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
    lines: tuple[Drawn, ...]
    cell_width: float
    cell_height: float


@dataclass(frozen=True, slots=True)
class Piece:
    """The chosen piece: its live figures and what can be done with it."""

    key: str
    id: str
    title: str
    kind_title: str
    caution: str
    is_run: bool
    live: tuple[tuple[str, str], ...]
    form: FormView
    inserts: tuple[Offer, ...]
    replacements: tuple[Offer, ...]
    fails: tuple[str, ...]
    open_ports: tuple[tuple[str, str], ...] = ()
    warnings: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Began:
    """A starting layout with its verdict on this brief."""

    offer: LayoutOffer
    verdict: str


@dataclass(frozen=True, slots=True)
class LayoutPage:
    """The route of a variant."""

    template: ClassVar[str] = "layout.html"
    frame: Frame
    states: tuple[tuple[str, str, bool], ...]
    outlets: tuple[OpenChoice, ...]
    query: str
    wide: Picture | None
    narrow: Picture | None
    said: tuple[str, ...]
    warnings: tuple[str, ...]
    error: str
    mend: str
    piece: Piece | None
    spaces: tuple[tuple[int, str], ...]
    carries: tuple[tuple[str, str], ...]
    moves: tuple[tuple[str, str], ...]
    empty: bool
    offers: tuple[Began, ...]
    own: str
    owned: tuple[tuple[str, str], ...]
    others: tuple[tuple[str, str], ...]
    flow_unit: str
    profile_to: str
    wide_profile: Profile | None
    narrow_profile: Profile | None
    eaten: tuple[Eaten, ...]


def _text_lines(label: str, most: int = 13) -> tuple[str, ...]:
    """Break a label into two lines that fit under a symbol."""
    words, lines = label.split(), [""]
    for word in words:
        longer = f"{lines[-1]} {word}".strip()
        if len(longer) <= most or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    if len(lines) > 2:
        lines = [lines[0], lines[1][: most - 1].rstrip() + "…"]
    return tuple(line if len(line) <= most + 2 else line[: most + 1] + "…" for line in lines)


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


def _pressure(pressure_pa: float, habit: Habit) -> str:
    """Write a pressure to a millibar: less is not felt by anybody."""
    if not isfinite(pressure_pa):
        return "not known"
    return with_unit(round(pressure_pa / 100.0) * 100.0 + 0.0, "pressure", habit, 2)


def _glyph(part: AnyKind) -> str:
    return GLYPHS.get(part.kind, "part")


def draw(
    system: System, plan: Plan, lines: list[Line], way: Way, report: FlowReport | None,
    chosen: str, opens: Mapping[str, float], toggles: Mapping[str, str],
    warned: Mapping[str, str], habit: Habit,
) -> Picture:  # fmt: skip
    """Draw a plan in one orientation, with what flows."""
    spaces = {space.id: (index + 1, space.name) for index, space in enumerate(system.spaces)}
    medium = carried(system)
    pipes = {run.id: run for run in system.pipes}
    runs = {run.id: run for run in report.runs} if report else {}
    parts = {part.id: part for part in report.parts} if report else {}
    nodes, drawn = [], []
    for part in system.parts:
        if part.id not in plan.place:
            continue
        x, y = _point(plan, *plan.place[part.id], way)
        live = parts.get(part.id)
        ground, space = spaces.get(part.space or "", (0, ""))
        words = part.label
        fill = ""
        if live is not None and live.flow_m3_per_s > 0.0:
            words += f": {_pressure(live.pressure_pa, habit)}, " + with_unit(
                live.temperature_c, "temperature", habit, 3
            )
            fill = colour(live.temperature_c)
        share = opens.get(part.id)
        opened = then = ""
        if part.id in toggles:
            opened = "shut" if share is None else "open" if share >= 1.0 else f"{share:.0%}"
            then = {"shut": "open it", "open": "halfway"}.get(opened, "shut it")
        nodes.append(Node(
            key=f"part-{part.id}", id=part.id, label=part.label, lines=_text_lines(part.label),
            glyph=_glyph(part), x=x, y=y, ground=ground, space=space,
            chosen=chosen == f"part-{part.id}", warn=warned.get(part.id, ""), words=words,
            toggle=toggles.get(part.id, ""), opened=opened, then=then, fill=fill,
        ))  # fmt: skip
    # lines that turn between the same ranks keep apart: each its own lane
    lanes: dict[int, int] = {}
    for line in lines:
        spots = [plan.place[line.start], *plan.bends.get(line.id, ()), plan.place[line.end]]
        first = int(min(spots[0][0], spots[-1][0]))
        crosses = any(abs(a[1] - b[1]) > 1e-6 for a, b in pairwise(spots))
        lane = 0.0
        if crosses:
            turn = lanes.get(first, 0)
            lanes[first] = turn + 1
            lane = ((turn % 5) - 2) * 0.055
        path, (x, y), arrow = _path(plan, line, way, lane)
        if line.id.startswith("falls:"):
            drawn.append(Drawn("", path, "falls", "", True, False, x, y, "", "Water falls", arrow))
            continue
        run = pipes[line.id]
        now = runs.get(line.id)
        still = now is None or now.flow_m3_per_s == 0.0
        title = run.label
        label = ""
        if now is not None and not still:
            flow = with_unit(abs(now.flow_m3_per_s), "flow", habit, 2)
            title += f": {flow}, {with_unit(now.velocity_m_per_s, 'speed', habit, 2)}, "
            title += f"takes {_pressure(now.drop_pa, habit)}, "
            title += with_unit(now.temperature_c, "temperature", habit, 3)
            label = shown(abs(now.flow_m3_per_s), "flow", habit, 2) if arrow in ("0", "180") else ""
            if now.flow_m3_per_s < 0:
                arrow = str((int(arrow) + 180) % 360) if arrow else ""
        drawn.append(Drawn(
            key=f"run-{run.id}", path=path, carries=medium[run.id],
            ink="" if still or now is None else colour(now.temperature_c), still=still,
            chosen=chosen == f"run-{run.id}", x=x, y=y, label=label, title=title,
            arrow="" if still else arrow,
        ))  # fmt: skip
    along = EDGE * 2 + max(0, plan.ranks - 1) * RANK[way]
    across = EDGE * 2 + max(0.0, plan.tracks - 1) * TRACK[way] + 18
    width, height = (along, across) if way == "wide" else (across + 66, along + 20)
    return Picture(
        way=way, width=round(width, 1), height=round(height, 1), nodes=tuple(nodes),
        lines=tuple(drawn), cell_width=RANK[way] if way == "wide" else TRACK[way],
        cell_height=TRACK[way] if way == "wide" else RANK[way],
    )  # fmt: skip


def _fails_words(out: Outage, labels: Mapping[str, str], habit: Habit) -> tuple[str, ...]:
    """Say in sentences what a failed part means."""
    found = []
    if out.spilt_m3 > 1e-5:
        spilt = with_unit(out.spilt_m3, "volume", habit, 2)
        if out.close:
            shut = ", ".join(labels.get(key, key) for key in out.close)
            found.append(f"If it leaks: shut {shut}; up to {spilt} run out.")
        elif out.all_of:
            found.append(f"If it leaks: nothing shuts it off; all {spilt} may run out.")
        else:
            found.append(f"If it leaks: up to {spilt} run out.")
    if out.stopped:
        found.append(f"With it stop: {', '.join(labels.get(key, key) for key in out.stopped)}.")
    for left in out.left:
        what = "still warm" if left.warm else "cold only" if left.water else "no water"
        found.append(f"{left.label}: {what}.")
    return tuple(found)


def _takes(class_part: PartBase, flow_m3_per_s: float, habit: Habit) -> str:
    """Say what a part would take of the pressure at the run's flow."""
    factor = getattr(class_part, "flow_factor_si", None)
    if not factor:
        band = class_part.usual.get("flow_factor_si")
        factor = band.likely if band else None
    if not factor or flow_m3_per_s <= 0.0:
        return ""
    return f" – takes {with_unit((flow_m3_per_s / factor) ** 2, 'pressure', habit, 2)} here"


def _piece(
    system: System, piece: AnyKind | AnyRun, variant_id: str, habit: Habit, typed: Typed | None,
    flows: Flows | None, outcome: Outcome | None, warnings: tuple[str, ...] = (),
) -> Piece:  # fmt: skip
    labels = {part.id: part.label for part in system.parts}
    live: list[tuple[str, str]] = []
    flow = 0.0
    is_run = isinstance(piece, Pipe)
    report = flows.report if flows is not None else None
    if report is not None and is_run:
        now = next((run for run in report.runs if run.id == piece.id), None)
        if now is not None:
            flow = abs(now.flow_m3_per_s)
            live = [
                ("flow", with_unit(flow, "flow", habit, 3)),
                ("speed", with_unit(now.velocity_m_per_s, "speed", habit, 2)),
                ("takes", _pressure(now.drop_pa, habit)),
                ("rise takes", _pressure(now.lift_pa, habit)),
                ("water", with_unit(now.temperature_c, "temperature", habit, 3)),
            ]
    elif report is not None:
        at = next((part for part in report.parts if part.id == piece.id), None)
        if at is not None:
            flow = at.flow_m3_per_s
            live = [
                ("flow", with_unit(flow, "flow", habit, 3)),
                ("pressure after it", _pressure(at.pressure_pa, habit)),
                ("takes", _pressure(at.drop_pa, habit)),
                ("water", with_unit(at.temperature_c, "temperature", habit, 3)),
            ]
            if at.words:
                live.append(("does", at.words))
    group = "runs" if is_run else "parts"
    scope = f"variants.{variant_id}.system.{group}.{piece.id}"
    only = RUN_FIELDS if is_run else ("name", *piece.printed[:6], "space")
    form = make_form(piece, scope, habit, typed, only=only, names=names_of(system))
    inserts: tuple[Offer, ...] = ()
    replacements: tuple[Offer, ...] = ()
    fails: tuple[str, ...] = ()
    open_ports: tuple[tuple[str, str], ...] = ()
    if isinstance(piece, Pipe):
        inserts = tuple(
            Offer(row.id, row.name, KINDS[row.kind].title, _takes(row.part, flow, habit), "")
            for row in classes().values()
            if goes_in_line(KINDS[row.kind], piece)
        )
    elif isinstance(piece, PartBase):
        used = {here.port for _, here, _ in system.joined(piece.id)}
        open_ports = tuple(
            (f"{piece.id}.{port.name}", port.name.replace("_", " ")) for port in piece.ports
            if port.name not in used and joins("fluid", port.medium)
            and piece.kind != "blanking_cap"
        )  # fmt: skip
        replacements = tuple(
            Offer(row.id, row.name, KINDS[row.kind].title, "", "")
            for row in classes().values()
            if used and used <= {port.name for port in KINDS[row.kind].ports}
            and KINDS[row.kind].side == piece.side
            and not system.fitted(piece.id) and piece.fitted_in is None
        )[:60]  # fmt: skip
        if outcome is not None and piece.id in outcome.setup.parts:
            out = if_fails(outcome.setup.computed, outcome.setup.circuit, piece.id)
            fails = _fails_words(out, labels, habit)
    return Piece(
        key=key_of(piece), id=piece.id, title=piece.label, kind_title=piece.title,
        caution=piece.care(), is_run=is_run, live=tuple(live), form=form, inserts=inserts,
        replacements=replacements, fails=fails, open_ports=open_ports,
        warnings=tuple(words for words in warnings if piece.label in words),
    )  # fmt: skip


def _on_brief(opened: Opened, layout_id: str, own: str = "") -> Project:
    """Put a starting layout under the vehicle's brief, with what is owned in it."""
    layout = layouts()[layout_id]
    made = layout.project()
    if own in classes():
        made = lay_with_own(made, made.variants[0].id, layout.system, classes()[own].part)
    return opened.project.model_copy(update={"variants": made.variants})


def _owned() -> tuple[tuple[str, str], ...]:
    """List heaters and tanks one may own that some starting layout has a place for."""
    there = {part.kind for item in layouts().values() for part in item.system.parts}
    return tuple(
        (row.id, row.name) for row in classes().values()
        if row.kind in OWN_KINDS and row.kind in there
    )  # fmt: skip


def _began(opened: Opened, computing: Computing, habit: Habit, own: str) -> tuple[Began, ...]:
    """Offer every starting layout, with its verdict on this brief where it is known already.

    With something owned, those that have a place for it.
    """
    found = []
    mine = classes().get(own)
    for item in layouts().values():
        if mine is not None and all(part.kind != mine.kind for part in item.system.parts):
            continue
        project = _on_brief(opened, item.id, own)
        result = computing.peek(project, project.variants[0])
        words = "" if result is None else _verdict(result, habit)
        found.append(Began(LayoutOffer(item.id, item.name, item.heat, item.summary), words))
    return tuple(found)


def _verdict(result: Outcome | CoreError, habit: Habit) -> str:
    return result.verdict(habit) if isinstance(result, Outcome) else error_words(result, habit)


@dataclass(frozen=True, slots=True)
class OfferPage:
    """The verdict of one starting layout on a vehicle's brief."""

    template: ClassVar[str] = "offer.html"
    vehicle: str
    name: str
    verdict: str


def offer_page(
    opened: Opened, layout_id: str, habit: Habit, computing: Computing, own: str = ""
) -> OfferPage | None:
    """Compute a starting layout on the vehicle's brief; None if there is no such layout."""
    if layout_id not in layouts():
        return None
    try:
        project = _on_brief(opened, layout_id, own)
    except ChangeRefused:
        return None
    result = computing.result(project, project.variants[0])
    return OfferPage(opened.project.name, layouts()[layout_id].name, _verdict(result, habit))


@dataclass(frozen=True, slots=True)
class EffectPage:
    """What putting a part in, or another in its place, would change."""

    template: ClassVar[str] = "effect.html"
    vehicle: str
    sentences: tuple[str, ...]


def effect_page(
    opened: Opened, changed: Project, variant_id: str, habit: Habit, computing: Computing,
    flowing: Flowing, asked: FlowAsked,
) -> EffectPage:  # fmt: skip
    """Compare a variant with itself changed: flow at what is open, waiting, fuel, joints."""
    sentences: list[str] = []
    one, other = find_variant(opened.project, variant_id), find_variant(changed, variant_id)
    state, then = state_of(one, asked.state), state_of(other, asked.state)
    opens, _ = opens_of(one.system, asked)
    before = flowing.result(opened.project, one, state, Asked(opens=opens))
    after = flowing.result(changed, other, then, Asked(opens=opens))
    if isinstance(after, CoreError):
        sentences.append(f"Water would not run: {error_words(after, habit)}")
    elif not isinstance(before, CoreError):
        was = {item.id: item.flow_m3_per_s for item in before.report.outlets}
        for item in after.report.outlets:
            if max(item.flow_m3_per_s, was.get(item.id, 0.0)) > 0.0:
                sentences.append(
                    f"{item.label}: "
                    + _from_to(was.get(item.id, 0.0), item.flow_m3_per_s, "flow", habit)
                )
    day, changed_day = computing.result(opened.project, one), computing.result(changed, other)
    if isinstance(changed_day, CoreError):
        sentences.append(f"The day could not be computed: {error_words(changed_day, habit)}")
    elif not isinstance(day, CoreError):
        sentences += [
            f"{_BUDGET_WORDS[was.budget]}: "
            + _from_to(was.used_per_day, now.used_per_day, now.style, habit)
            for was, now in zip(day.ledger, changed_day.ledger, strict=True)
            if was.budget in _BUDGET_WORDS and max(was.used_per_day, now.used_per_day) > 0.0
        ]
    joints = len(other.system.pipes) - len(one.system.pipes)
    if joints:
        sentences.append(
            f"{2 * joints} joints more." if joints > 0 else f"{-2 * joints} joints fewer."
        )
    return EffectPage(opened.project.name, tuple(sentences))


_BUDGET_WORDS: Final = {
    "waiting": "Longest wait",
    "fresh": "Fresh water a day",
    "gas": "Gas a day",
    "diesel": "Diesel a day",
    "mains": "Mains a day",
    "battery": "Battery a day",
}


def _from_to(before: float, after: float, style: str, habit: Habit) -> str:
    """Write what changes; what does not, once."""
    one, other = with_unit(before, style, habit, 3), with_unit(after, style, habit, 3)
    return f"{one}, as before." if one == other else f"{one} → {other}."


def layout_page(
    opened: Opened,
    variant_id: str,
    habit: Habit,
    computing: Computing,
    flowing: Flowing,
    asked: FlowAsked,
    *,
    piece: str = "",
    typed: Typed | None = None,
    notice: str = "",
    choose: bool = False,
    own: str = "",
) -> LayoutPage:
    """Put the Layout page together for what the address asks."""
    frame, outcome = make_frame(
        opened, variant_id, "layout", habit, computing, notice, typed, piece
    )
    project = opened.project
    variant = find_variant(project, variant_id)
    system = variant.system
    state = state_of(variant, asked.state)
    opens, unknown = opens_of(system, asked)
    nodes, lines = route_of(system)
    flows: Flows | None = None
    error, mend = "", ""
    said: list[str] = []
    warnings: tuple[str, ...] = ()
    warned: dict[str, str] = {}
    if nodes:
        found = flowing.result(project, variant, state, Asked(opens=opens))
        if isinstance(found, CoreError):
            error, mend = error_words(found, habit), mend_piece(found)
        else:
            flows = found
            said = [outlet_sentence(outlet, habit) for outlet in found.report.outlets]
            for pump in found.report.pumps:
                if pump.doing != "rests":
                    said += pump_sentences(pump, habit)
            warnings = flow_warnings(found.report, found.circuit, habit)
            for words in warnings:
                for part in system.parts:
                    if part.label in words and part.id not in warned:
                        warned[part.id] = words
    running = ""
    if flows is not None:
        moving = [item.id for item in flows.report.outlets if item.flow_m3_per_s > 0.0]
        running = next(iter(moving), "")
    toggles = {}
    for part_id in outlets_of(system):
        other = {key: share for key, share in opens.items() if key != part_id}
        if part_id not in opens:  # shut, open, halfway, shut again
            other = {**other, part_id: 1.0}
        elif opens[part_id] >= 1.0:
            other = {**other, part_id: HALFWAY}
        toggles[part_id] = query_of(state, other, False)
    plan = lay_out(nodes, lines) if nodes else None
    pictures: list[Picture | None] = [None, None]
    if plan is not None:
        report = flows.report if flows is not None else None
        ways: tuple[Way, Way] = ("wide", "narrow")
        pictures = [
            draw(system, plan, lines, way, report, piece, opens, toggles, warned, habit)
            for way in ways
        ]
    chosen = next((item for item in (*system.parts, *system.pipes) if key_of(item) == piece), None)
    usual = variant.standing
    listed = () if state is usual else moves(system, usual, state)
    used = {part.space for part in system.parts if part.id in set(nodes)}
    medium = set(carried(system).values())
    if unknown:
        error = error or f"Not opened: {', '.join(unknown)} is no outlet here."
    return LayoutPage(
        frame=frame,
        states=tuple((item.id, item.name, item is state) for item in system.states),
        outlets=tuple(
            choice_of(part_id, label, system, opens)
            for part_id, label in outlets_of(system).items()
        ),
        query=query_of(state, opens, False),
        wide=pictures[0],
        narrow=pictures[1],
        said=tuple(said),
        warnings=warnings,
        error=error,
        mend=mend,
        piece=_piece(system, chosen, variant_id, habit, typed,
                     flows, outcome, warnings) if chosen is not None else None,
        spaces=tuple(
            (index + 1, space.name) for index, space in enumerate(system.spaces)
            if space.id in used
        ),
        carries=tuple((key, words) for key, words in WORDS.items() if key in medium),
        moves=tuple((move.label, f"{move.before} → {move.after}, {move.tool}") for move in listed),
        empty=not system.parts,
        offers=_began(opened, computing, habit, own) if choose or not system.parts else (),
        own=own if own in classes() else "",
        owned=_owned() if choose or not system.parts else (),
        others=tuple(
            (item.id, item.name) for item in project.variants
            if item.id != variant_id and item.system.parts
        ) if choose or not system.parts else (),
        flow_unit=STYLES["flow"].symbol(habit),
        profile_to=next((part.label for part in system.parts if part.id == running), ""),
        wide_profile=draw_profile(flows.report, running, habit, WIDE)
        if flows is not None and running else None,
        eaten=eaten_rows(flows.report, running, habit) if flows is not None and running else (),
        narrow_profile=draw_profile(flows.report, running, habit, NARROW)
        if flows is not None and running else None,
    )  # fmt: skip
