"""The Layout page: the route drawn by the product, live, and changed where it stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.catalogue.classes import classes
from isotherma.core.drawing.media import WORDS, carried
from isotherma.core.drawing.plan import lay_out
from isotherma.core.editing import goes_in_line
from isotherma.core.errors import CoreError
from isotherma.core.flows.findings import flow_findings
from isotherma.core.flows.report import FlowReport
from isotherma.core.quantity import STYLES, UnitSystem, with_unit
from isotherma.core.results.failure_modes import Outage, if_fails
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import AnyKind, AnyRun, Pipe, System
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.moves import moves
from isotherma.core.system.pieces import PartBase, joins
from isotherma.core.system.states import State
from isotherma.services.flows import Asked, SolvedFlows, outlets_of
from isotherma.web.flow.asked import OpenChoice, choice_of, flow_asked, opens_of, query_of, state_of
from isotherma.web.flow.profile import (
    NARROW,
    WIDE,
    Eaten,
    Profile,
    draw_profile,
    eaten_rows,
)
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.forms import FormView, make_form, names_of
from isotherma.web.frame.frame import Frame, make_frame, mend_piece
from isotherma.web.layout.route_picture import (
    WAYS,
    Picture,
    Shown,
    draw,
    ground_of,
    pressure_words,
    route_of,
)
from isotherma.web.layout.starts import Began, began, owned
from isotherma.web.parts.page import Offer, key_of
from isotherma.wording import (
    doing_words,
    error_words,
    flow_warning,
    outlet_sentence,
    pump_sentences,
)
from isotherma.wording.reader import Reader

HALFWAY: Final = 0.5
MOST_OFFERS: Final = 60


RUN_FIELDS: Final = ("name", "length_m", "family", "nominal", "rise_m", "elbows", "bends",
                     "insulation_m", "space")  # fmt: skip


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
class Live:
    """What flows through a piece now, and its figures."""

    flow_m3_per_s: float = 0.0
    figures: tuple[tuple[str, str], ...] = ()


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
    spaces: tuple[tuple[str, str], ...]
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


def _fails_words(out: Outage, labels: Mapping[str, str], units: UnitSystem) -> tuple[str, ...]:
    """Say in sentences what a failed part means."""
    found = []
    if out.spilt_m3 > 1e-5:
        spilt = with_unit(out.spilt_m3, "volume", units, 2)
        if out.unknown:
            spilt += f" and what {', '.join(labels.get(key, key) for key in out.unknown)} holds"
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


def _takes(class_part: PartBase, flow_m3_per_s: float, units: UnitSystem) -> str:
    """Say what a part would take of the pressure at the run's flow."""
    factor = getattr(class_part, "flow_factor_si", None)
    if not factor:
        band = class_part.usual.get("flow_factor_si")
        factor = band.likely if band else None
    if not factor or flow_m3_per_s <= 0.0:
        return ""
    return f" – takes {with_unit((flow_m3_per_s / factor) ** 2, 'pressure', units, 2)} here"


def _live(piece: AnyKind | AnyRun, report: FlowReport, units: UnitSystem) -> Live:
    """Give the flow through a piece as it runs now, and its figures for reading."""
    if isinstance(piece, Pipe):
        run = next((item for item in report.runs if item.id == piece.id), None)
        if run is None:
            return Live()
        flow = abs(run.flow_m3_per_s)
        return Live(flow, (
            ("flow", with_unit(flow, "flow", units, 3)),
            ("speed", with_unit(run.velocity_m_per_s, "speed", units, 2)),
            ("takes", pressure_words(run.drop_pa, units)),
            ("rise takes", pressure_words(run.static_head_pa, units)),
            ("water", with_unit(run.temperature_c, "temperature", units, 3)),
        ))  # fmt: skip
    part = next((item for item in report.parts if item.id == piece.id), None)
    if part is None:
        return Live()
    figures = [
        ("flow", with_unit(part.flow_m3_per_s, "flow", units, 3)),
        ("pressure after it", pressure_words(part.pressure_pa, units)),
        ("takes", pressure_words(part.drop_pa, units)),
        ("water", with_unit(part.temperature_c, "temperature", units, 3)),
    ]
    if part.doing is not None:
        figures.append(("does", doing_words(part.doing)))
    return Live(part.flow_m3_per_s, tuple(figures))


def _replacements(system: System, piece: PartBase, used: set[str]) -> tuple[Offer, ...]:
    """List what could stand in a part's place: of its side, with the openings that are used."""
    if system.fitted(piece.id) or piece.fitted_in is not None or not used:
        return ()
    return tuple(
        Offer(row.id, row.name, KINDS[row.kind].title, "", "")
        for row in classes().values()
        if used <= {port.name for port in KINDS[row.kind].ports}
        and KINDS[row.kind].side == piece.side
    )[:MOST_OFFERS]  # fmt: skip


def _piece(
    context: PageContext, piece: AnyKind | AnyRun, ran: Ran, outcome: Outcome | None
) -> Piece:
    system, units = context.variant.system, context.units
    live = _live(piece, ran.flows.report, units) if ran.flows is not None else Live()
    is_run = isinstance(piece, Pipe)
    group = "runs" if is_run else "parts"
    only = RUN_FIELDS if is_run else ("name", *piece.printed[:6], "space")
    form = make_form(
        piece, f"variants.{context.variant_id}.system.{group}.{piece.id}", units, context.typed,
        only=only, names=names_of(system),
    )  # fmt: skip
    inserts: tuple[Offer, ...] = ()
    replacements: tuple[Offer, ...] = ()
    fails: tuple[str, ...] = ()
    open_ports: tuple[tuple[str, str], ...] = ()
    if isinstance(piece, Pipe):
        inserts = tuple(
            Offer(row.id, row.name, KINDS[row.kind].title,
                  _takes(row.part, live.flow_m3_per_s, units), "")
            for row in classes().values()
            if goes_in_line(KINDS[row.kind], piece)
        )  # fmt: skip
    elif isinstance(piece, PartBase):
        used = {here.port for _, here, _ in system.joined(piece.id)}
        open_ports = tuple(
            (f"{piece.id}.{port.name}", port.name.replace("_", " ")) for port in piece.ports
            if port.name not in used and joins("fluid", port.medium)
            and piece.kind != "blanking_cap"
        )  # fmt: skip
        replacements = _replacements(system, piece, used)
        if outcome is not None and piece.id in outcome.setup.parts:
            out = if_fails(outcome.setup.computed, outcome.setup.network, piece.id)
            fails = _fails_words(out, {part.id: part.label for part in system.parts}, units)
    return Piece(
        key=key_of(piece), id=piece.id, title=piece.label, kind_title=piece.title,
        caution=piece.care(), is_run=is_run, live=live.figures, form=form, inserts=inserts,
        replacements=replacements, fails=fails, open_ports=open_ports,
        warnings=tuple(item.words for item in ran.warnings if piece.id in item.parts),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Warned:
    """A warning with the parts and runs it is about."""

    parts: tuple[str, ...]
    words: str


@dataclass(frozen=True, slots=True)
class Ran:
    """What runs where it is open: flows or why there are none, in words, warnings by part."""

    flows: SolvedFlows | None = None
    error: str = ""
    mend: str = ""
    said: tuple[str, ...] = ()
    warnings: tuple[Warned, ...] = ()

    @property
    def report(self) -> FlowReport | None:
        """What was solved."""
        return self.flows.report if self.flows is not None else None

    @property
    def warned(self) -> dict[str, str]:
        """The first warning of each part, by its id."""
        found: dict[str, str] = {}
        for item in self.warnings:
            for key in item.parts:
                found.setdefault(key, item.words)
        return found

    @property
    def running(self) -> str:
        """The first outlet that runs; "" where none does."""
        outlets = self.flows.report.outlets if self.flows is not None else ()
        return next((item.id for item in outlets if item.flow_m3_per_s > 0.0), "")


def _ran(context: PageContext, state: State | None, opens: Mapping[str, float]) -> Ran:
    """Solve the flows of what is open and say what they are."""
    variant, units = context.variant, context.units
    asked = Asked(opens=opens)
    found = context.services.flowing.result(context.project, variant, state, asked)
    if isinstance(found, CoreError):
        return Ran(error=error_words(found, units), mend=mend_piece(found))
    said = [outlet_sentence(outlet, units) for outlet in found.report.outlets]
    for pump in found.report.pumps:
        if pump.doing != "rests":
            said += pump_sentences(pump, units)
    reader = Reader.of(variant.system, units)
    warnings = tuple(
        Warned(item.parts, flow_warning(item, reader))
        for item in flow_findings(found.report, found.network)
    )
    return Ran(flows=found, said=tuple(said), warnings=warnings)


def _toggles(system: System, state: State | None, opens: Mapping[str, float]) -> dict[str, str]:
    """Give the address that each outlet's press leads to: shut, open, halfway, shut again."""
    toggles = {}
    for part_id in outlets_of(system):
        other = {key: share for key, share in opens.items() if key != part_id}
        if part_id not in opens:
            other = {**other, part_id: 1.0}
        elif opens[part_id] >= 1.0:
            other = {**other, part_id: HALFWAY}
        toggles[part_id] = query_of(state, other, False)
    return toggles


def layout_page(context: PageContext, *, choose: bool = False, own: str = "") -> LayoutPage:
    """Put the Layout page together for what the address asks."""
    frame, outcome = make_frame(context, "layout")
    project, variant, units = context.project, context.variant, context.units
    variant_id, piece, system = variant.id, context.piece, variant.system
    asked = flow_asked(context.query)
    state = state_of(variant, asked.state)
    opens, unknown = opens_of(system, asked)
    nodes, lines = route_of(system)
    ran, wide, narrow = Ran(), None, None
    if nodes:
        ran = _ran(context, state, opens)
        toggles = _toggles(system, state, opens)
        drawing = Shown(system, ran.report, piece, opens, toggles, ran.warned, units)
        plan = lay_out(nodes, lines)
        wide, narrow = (draw(drawing, plan, lines, way) for way in WAYS)
    running, begins = ran.running, choose or not system.parts
    chosen = next((item for item in (*system.parts, *system.pipes) if key_of(item) == piece), None)
    usual = variant.standing
    listed = () if state is usual else moves(system, usual, state)
    used = {part.space for part in system.parts if part.id in set(nodes)}
    medium = set(carried(system).values())
    error = ran.error or (f"Not opened: {', '.join(unknown)} is no outlet here." if unknown else "")
    shown = ran.report if running else None
    return LayoutPage(
        frame=frame,
        states=tuple((item.id, item.name, item is state) for item in system.states),
        outlets=tuple(
            choice_of(part_id, label, system, opens)
            for part_id, label in outlets_of(system).items()
        ),
        query=query_of(state, opens, False),
        wide=wide,
        narrow=narrow,
        said=ran.said,
        warnings=tuple(item.words for item in ran.warnings),
        error=error,
        mend=ran.mend,
        piece=_piece(context, chosen, ran, outcome) if chosen is not None else None,
        spaces=tuple(
            (ground_of(index), space.name) for index, space in enumerate(system.spaces)
            if space.id in used
        ),
        carries=tuple((key, words) for key, words in WORDS.items() if key in medium),
        moves=tuple((move.label, f"{move.before} → {move.after}, {move.tool}") for move in listed),
        empty=not system.parts,
        offers=began(context, own) if begins else (),
        own=own if own in classes() else "",
        owned=owned() if begins else (),
        others=tuple(
            (item.id, item.name) for item in project.variants
            if item.id != variant_id and item.system.parts
        ) if begins else (),
        flow_unit=STYLES["flow"].symbol(units),
        profile_to=next((part.label for part in system.parts if part.id == running), ""),
        wide_profile=draw_profile(shown, running, units, WIDE) if shown else None,
        eaten=eaten_rows(shown, running, units) if shown else (),
        narrow_profile=draw_profile(shown, running, units, NARROW) if shown else None,
    )  # fmt: skip
