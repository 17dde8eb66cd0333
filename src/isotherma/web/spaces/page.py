"""The page of spaces and states: where things live, how they stand, what moves between."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.core.quantity import UnitSystem, duration_words
from isotherma.core.setup.fit import fits
from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import fitted_by, positions
from isotherma.core.system.moves import (
    MOST_SEARCHED,
    Move,
    Ordered,
    ordered_moves,
    seconds_of,
)
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.remarks import standing_remarks
from isotherma.core.system.route import reading_order
from isotherma.core.system.sayings import sayings
from isotherma.core.system.states import State
from isotherma.services.weighing import weighed
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.forms import FormView, Typed, make_form, names_of
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.frame.words import position_words
from isotherma.web.spaces.stand import StandView, stand_view
from isotherma.web.spaces.weight import WeightView, weight_view
from isotherma.wording import RemarkWords, filled_sentence, fit_sentence, remark_words
from isotherma.wording.reader import Reader


@dataclass(frozen=True, slots=True)
class SpaceCard:
    """One space with what is in it."""

    id: str
    name: str
    form: FormView
    parts: tuple[tuple[str, str], ...]
    runs: int


@dataclass(frozen=True, slots=True)
class Cell:
    """How one part stands in one state: what it may be, which it is."""

    state_id: str
    label: str
    choices: tuple[tuple[str, str, bool], ...]
    changed: bool


@dataclass(frozen=True, slots=True)
class StateRow:
    """One part that can be moved, in every state."""

    part_id: str
    key: str
    label: str
    usual: str
    cells: tuple[Cell, ...]


FEW: Final = 6  # positions a person takes in at a glance


@dataclass(frozen=True, slots=True)
class Moved:
    """A part that stands otherwise than usual in a state."""

    part_id: str
    label: str
    cell: Cell


@dataclass(frozen=True, slots=True)
class StateHead:
    """One state: its name, what stands empty, what is elsewhere."""

    id: str
    name: str
    form: FormView
    placed: tuple[tuple[str, str, str], ...]
    remarks: tuple[RemarkWords, ...]
    first: bool
    water: tuple[Moved, ...]
    supply: tuple[Moved, ...]
    few: bool


@dataclass(frozen=True, slots=True)
class PhaseRow:
    """One phase: how much is fitted by its end."""

    id: str
    name: str
    form: FormView
    words: str


@dataclass(frozen=True, slots=True)
class HoleCard:
    """One hole through the body."""

    id: str
    name: str
    form: FormView


@dataclass(frozen=True, slots=True)
class SpacesPage:
    """Where everything lives and how it stands."""

    template: ClassVar[str] = "spaces.html"
    frame: Frame
    spaces: tuple[SpaceCard, ...]
    homeless: tuple[tuple[str, str], ...]
    heads: tuple[StateHead, ...]
    rows: tuple[StateRow, ...]
    supply_rows: tuple[StateRow, ...]
    outlets: tuple[tuple[str, str], ...]
    sources: tuple[tuple[str, str], ...]
    start: str
    end: str
    choices: tuple[tuple[str, str], ...]
    moves: tuple[tuple[Move, tuple[RemarkWords, ...]], ...]
    moves_words: str
    moves_open: bool
    phases: tuple[PhaseRow, ...]
    holes: tuple[HoleCard, ...]
    vehicle: FormView
    part_names: tuple[tuple[str, str], ...]
    space_names: tuple[tuple[str, str], ...]
    weight: WeightView
    where: StandView
    misfits: tuple[str, ...]
    filled: tuple[str, ...]


def _space_cards(
    system: System, scope: str, units: UnitSystem, typed: Typed | None
) -> tuple[SpaceCard, ...]:
    names = names_of(system)
    return tuple(
        SpaceCard(
            id=space.id,
            name=space.name,
            form=make_form(space, f"{scope}.spaces.{space.id}", units, typed, names=names),
            parts=tuple(
                (f"part-{part.id}", part.label) for part in system.parts if part.space == space.id
            ),
            runs=sum(run.space == space.id for run in system.runs),
        )
        for space in system.spaces
    )


def _named(system: System, ids: Iterable[str]) -> tuple[tuple[str, str], ...]:
    """Name parts, each once, in the document's order."""
    wanted = set(ids)
    return tuple((part.id, part.label) for part in system.parts if part.id in wanted)


def _state_rows(system: System) -> tuple[StateRow, ...]:
    stands = {state.id: positions(system, state) for state in system.states}
    rows = []
    pieces: tuple[object, ...] = reading_order(system)
    for part in pieces:
        if not isinstance(part, PartBase) or not part.positions:
            continue
        cells = tuple(
            Cell(
                state_id=state.id,
                label=f"{part.label} in {state.name}",
                choices=tuple(
                    (at, position_words(system, part, at), at == stands[state.id][part.id])
                    for at in part.positions
                ),
                changed=stands[state.id][part.id] != part.positions[0],
            )
            for state in system.states
        )
        usual = position_words(system, part, part.positions[0])
        rows.append(StateRow(part.id, f"part-{part.id}", part.label, usual, cells))
    return tuple(rows)


def _moved(rows: Sequence[StateRow], state_id: str) -> tuple[Moved, ...]:
    """Give the parts of some rows that stand otherwise than usual in a state."""
    return tuple(
        Moved(row.part_id, row.label, cell)
        for row in rows for cell in row.cells if cell.state_id == state_id and cell.changed
    )  # fmt: skip


def _state_heads(
    system: System, scope: str, units: UnitSystem, typed: Typed | None,
    rows: tuple[Sequence[StateRow], Sequence[StateRow]],
) -> tuple[StateHead, ...]:  # fmt: skip
    names = names_of(system)
    vessels = [(part.id, part.label) for part in system.parts if _holds_water(part)]
    labels = dict(names["part"])
    spaces, reader = dict(names["space"]), Reader.of(system, units)
    return tuple(
        StateHead(
            id=state.id,
            name=state.name,
            form=make_form(
                state, f"{scope}.states.{state.id}", units, typed,
                names={**names, "part": vessels},
            ),
            placed=tuple(
                (item.part, labels[item.part], spaces[item.space]) for item in state.placed
            ),
            remarks=tuple(remark_words(item, reader) for item in standing_remarks(system, state)),
            first=index == 0,
            water=(water := _moved(rows[0], state.id)),
            supply=(supply := _moved(rows[1], state.id)),
            few=len(water) + len(supply) <= FEW,
        )
        for index, state in enumerate(system.states)
    )  # fmt: skip


def _holds_water(part: AnyKind) -> bool:
    return getattr(part, "volume_m3", None) is not None or part.kind.startswith(
        ("store", "combi", "canister", "through_flow", "fresh_tank", "grey_tank", "gravity_bag")
    )


def _phase_rows(
    system: System, scope: str, units: UnitSystem, typed: Typed | None
) -> tuple[PhaseRow, ...]:
    rows = []
    for phase in system.phases:
        built = fitted_by(system, phase.id)
        caps = len([part for part in built.parts if part.id.startswith("cap-")])
        words = f"{len(built.parts) - caps} of {len(system.parts)} parts fitted by then"
        if caps:
            words += f", {caps} open end{'s' if caps != 1 else ''} capped"
        form = make_form(phase, f"{scope}.phases.{phase.id}", units, typed)
        rows.append(PhaseRow(phase.id, phase.name, form, words))
    return tuple(rows)


def _chosen(states: Sequence[State], state_id: str, otherwise: int) -> State | None:
    for state in states:
        if state.id == state_id:
            return state
    return states[otherwise] if len(states) > otherwise else None


def _moves_words(ordered: Ordered) -> str:
    """Say how many moves there are, how long they take, and whether an order passes them all."""
    steps = ordered.moves
    if not steps:
        return "Nothing has to be moved."
    count = f"{len(steps)} move{'s' if len(steps) != 1 else ''}"
    words = f"{count}, about {duration_words(seconds_of(steps))}."
    if ordered.clean is False:
        words += (
            " Every order passes a half-state that is dangerous: what is wrong stands beside the "
            "move. Change a valve or a coupling before you rely on this."
        )
    elif ordered.clean is None:
        words += (
            f" More than {MOST_SEARCHED} moves: only the usual order was looked at, and it passes "
            "a dangerous half-state. Go by a state in between."
        )
    return words


def spaces_page(context: PageContext, start: str = "", end: str = "") -> SpacesPage:
    """Put the page of spaces and states together."""
    frame, _ = make_frame(context, "spaces")
    units, typed, variant_id = context.units, context.typed, context.variant_id
    system = context.variant.system
    scope = f"variants.{variant_id}.system"
    first, second = _chosen(system.states, start, 0), _chosen(system.states, end, 1)
    ordered = ordered_moves(system, first, second) if first and second else Ordered((), True)
    steps = ordered.moves
    words = _moves_words(ordered) if first is not None and second is not None else ""
    names, reader = names_of(system), Reader.of(system, units)
    supply = {
        part.id
        for part in system.parts
        if part.side in ("gas", "electric") or part.positions[:1] == ("ready",)
    }
    table = _state_rows(system)
    water_rows = tuple(row for row in table if row.part_id not in supply)
    supply_rows = tuple(row for row in table if row.part_id in supply)
    said, room = sayings(system), fits(system)
    return SpacesPage(
        frame=frame,
        spaces=_space_cards(system, scope, units, typed),
        homeless=tuple(
            (f"part-{part.id}", part.label) for part in system.parts if part.space is None
        ),
        heads=_state_heads(system, scope, units, typed, (water_rows, supply_rows)),
        rows=water_rows,
        supply_rows=supply_rows,
        outlets=_named(system, (saying.outlet for saying in said)),
        sources=_named(system, (saying.source for saying in said)),
        start=first.id if first is not None else "",
        end=second.id if second is not None else "",
        choices=tuple((state.id, state.name) for state in system.states),
        moves=tuple(
            (move, tuple(remark_words(item, reader) for item in move.wrong)) for move in steps
        ),
        moves_words=words,
        moves_open=bool(start or end) or any(move.wrong for move in steps),
        phases=_phase_rows(system, scope, units, typed),
        holes=tuple(
            HoleCard(
                hole.id,
                hole.name,
                make_form(hole, f"{scope}.holes.{hole.id}", units, typed, names=names),
            )
            for hole in system.holes
        ),
        vehicle=make_form(context.project.vehicle, "vehicle", units, typed),
        part_names=tuple(names["part"]),
        space_names=tuple(names["space"]),
        where=stand_view(context.built.system, context.project.vehicle, units),
        weight=weight_view(weighed(context.project, context.variant), units),
        misfits=tuple(fit_sentence(fit, units) for fit in room.misfits),
        filled=tuple(filled_sentence(space, units) for space in room.spaces),
    )
