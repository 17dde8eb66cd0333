"""The chosen piece of the route: its live figures, what hands turn on it, what can go there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.catalogue.classes import PartClass, classes
from isotherma.core.editing import goes_in_line
from isotherma.core.flows.report import FlowReport
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.failure_modes import Outage, if_fails
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.level_switches import stuck_at
from isotherma.core.setup.reach import reach_of
from isotherma.core.system import AnyKind, AnyRun, Pipe, System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import PartBase, joins
from isotherma.core.system.runs import RunBase
from isotherma.core.system.states import State
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.ends import EndRow, ends_at
from isotherma.web.frame.forms import FormView, make_form, names_of
from isotherma.web.frame.route_picture import (
    pressure_words,
)
from isotherma.web.frame.words import position_words
from isotherma.web.layout.solved import Ran
from isotherma.web.parts.page import Offer, key_of
from isotherma.wording import (
    doing_words,
    reach_sentences,
    stuck_sentences,
)

MOST_OFFERS: Final = 60


RUN_FIELDS: Final = ("name", "length_m", "family", "nominal", "rise_m", "elbows", "bends",
                     "insulation_m", "space")  # fmt: skip


@dataclass(frozen=True, slots=True)
class Position:
    """How a part that can be moved stands in the state that is drawn."""

    state_id: str
    state: str
    choices: tuple[tuple[str, str, bool], ...]


@dataclass(frozen=True, slots=True)
class Hand:
    """A part with something on it that hands turn: a knob, a set point, a switch."""

    key: str
    title: str
    form: FormView


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
    hands: FormView
    position: Position | None
    inserts: tuple[Offer, ...]
    replacements: tuple[Offer, ...]
    fails: tuple[str, ...]
    ends: tuple[EndRow, ...]
    apart: bool
    open_ports: tuple[tuple[str, str], ...] = ()
    warnings: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Live:
    """What flows through a piece now, and its figures."""

    flow_m3_per_s: float = 0.0
    figures: tuple[tuple[str, str], ...] = ()


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


def _replacements(
    system: System, piece: PartBase, used: set[str], own: Sequence[PartClass]
) -> tuple[Offer, ...]:
    """List what could stand in a part's place: of its side, with the openings that are used."""
    if system.fitted(piece.id) or piece.fitted_in is not None or not used:
        return ()
    return tuple(
        Offer(row.id, row.name, KINDS[row.kind].title, "", "")
        for row in (*own, *classes().values())
        if used <= {port.name for port in KINDS[row.kind].ports}
        and KINDS[row.kind].side == piece.side
    )[:MOST_OFFERS]  # fmt: skip


def all_hands(context: PageContext) -> tuple[Hand, ...]:
    """List the parts with something on them that hands turn."""
    return tuple(
        Hand(key_of(part), part.label, form)
        for part in context.variant.system.parts if (form := hands_of(context, part)).fields
    )  # fmt: skip


def hands_of(context: PageContext, piece: AnyKind | AnyRun) -> FormView:
    """Make the small form of what hands turn on a part; without fields where there is nothing."""
    names = piece.by_hand() if isinstance(piece, PartBase) else ()
    scope = f"variants.{context.variant_id}.system.parts.{piece.id}"
    if not names:
        return FormView(scope, "", ())
    return make_form(piece, scope, context.units, context.typed, only=names)


def _position(system: System, piece: AnyKind | AnyRun, state: State | None) -> Position | None:
    """Say how a part stands in a state, and how else it could."""
    if state is None or not isinstance(piece, PartBase) or not piece.positions:
        return None
    at = positions(system, state)[piece.id]
    choices = ((key, position_words(system, piece, key), key == at) for key in piece.positions)
    return Position(state.id, state.name, tuple(choices))


def make_piece(
    context: PageContext, piece: AnyKind | AnyRun, ran: Ran, outcome: Outcome | None,
    state: State | None,
) -> Piece:  # fmt: skip
    """Put the panel of the chosen piece together."""
    system, units = context.variant.system, context.units
    live = _live(piece, ran.flows.report, units) if ran.flows is not None else Live()
    is_run = isinstance(piece, Pipe)
    group = "runs" if is_run else "parts"
    by_hand = piece.by_hand() if isinstance(piece, PartBase) else ()
    only = RUN_FIELDS if is_run else (
        "name", *(name for name in piece.printed[:6] if name not in by_hand), "space"
    )  # fmt: skip
    around = system.between(piece) if isinstance(piece, RunBase) else system.around(piece)
    form = make_form(
        piece, f"variants.{context.variant_id}.system.{group}.{piece.id}", units, context.typed,
        only=only, names=names_of(system), figures=understand(piece, around),
    )  # fmt: skip
    inserts: tuple[Offer, ...] = ()
    replacements: tuple[Offer, ...] = ()
    fails: tuple[str, ...] = ()
    ends = ends_at(system, "" if is_run else piece.id, piece.id if is_run else "")
    open_ports: tuple[tuple[str, str], ...] = ()
    own = context.services.own_classes.offered()
    if isinstance(piece, Pipe):
        inserts = tuple(
            Offer(row.id, row.name, KINDS[row.kind].title,
                  _takes(row.part, live.flow_m3_per_s, units), "")
            for row in (*own, *classes().values())
            if goes_in_line(KINDS[row.kind], piece)
        )  # fmt: skip
    elif isinstance(piece, PartBase):
        used = {here.port for _, here, _ in system.joined(piece.id)}
        open_ports = tuple(
            (f"{piece.id}.{port.name}", port.name.replace("_", " ")) for port in piece.ports
            if port.name not in used and joins("fluid", port.medium)
            and piece.kind != "blanking_cap"
        )  # fmt: skip
        replacements = _replacements(system, piece, used, own)
        if outcome is not None and piece.id in outcome.setup.parts:
            out = if_fails(outcome.setup.computed, outcome.setup.network, piece.id)
            labels = {part.id: part.label for part in system.parts}
            fails = _fails_words(out, labels, units)
            fails += stuck_sentences(stuck_at(system, piece.id), labels)
            fails += reach_sentences(
                reach_of(system, piece.id), out.spilt_m3, out.close, labels, units
            )
    return Piece(
        key=key_of(piece), id=piece.id, title=piece.label, kind_title=piece.title,
        caution=piece.care(), is_run=is_run, live=live.figures, form=form,
        hands=hands_of(context, piece), position=_position(system, piece, state), inserts=inserts,
        replacements=replacements, fails=fails, ends=ends, apart=any(not one.meets for one in ends),
        open_ports=open_ports,
        warnings=tuple(item.words for item in ran.warnings if piece.id in item.parts),
    )  # fmt: skip
