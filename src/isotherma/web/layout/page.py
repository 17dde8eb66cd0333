"""The Layout page: the route drawn by the product, live, and changed where it stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.core.drawing.media import WORDS, carried
from isotherma.core.drawing.plan import lay_out
from isotherma.core.quantity import STYLES
from isotherma.core.system import System
from isotherma.core.system.moves import moves
from isotherma.core.system.states import State
from isotherma.services.flows import outlets_of
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
from isotherma.web.frame.ends import unmet_ends
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.frame.route_picture import (
    WAYS,
    Picture,
    Shown,
    draw,
    ground_of,
    route_of,
)
from isotherma.web.layout.piece import Hand, Piece, all_hands, make_piece
from isotherma.web.layout.solved import Ran, solve_open
from isotherma.web.parts.page import key_of

HALFWAY: Final = 0.5


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
    hands: tuple[Hand, ...]
    spaces: tuple[tuple[str, str], ...]
    carries: tuple[tuple[str, str], ...]
    moves: tuple[tuple[str, str], ...]
    empty: bool
    flow_unit: str
    profile_to: str
    wide_profile: Profile | None
    narrow_profile: Profile | None
    eaten: tuple[Eaten, ...]


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


def layout_page(context: PageContext) -> LayoutPage:
    """Put the Layout page together for what the address asks."""
    frame, outcome = make_frame(context, "layout")
    variant, units = context.built, context.units
    piece, system = context.piece, variant.system
    asked = flow_asked(context.query)
    state = state_of(variant, asked.state)
    opens, unknown = opens_of(system, asked)
    nodes, lines = route_of(system)
    ran, wide, narrow = Ran(), None, None
    if nodes:
        ran = solve_open(context, state, opens)
        toggles = _toggles(system, state, opens)
        drawing = Shown(system, ran.report, piece, opens, toggles, ran.warned, units,
                        unmet_ends(system))  # fmt: skip
        plan = lay_out(nodes, lines)
        wide, narrow = (draw(drawing, plan, lines, way) for way in WAYS)
    running = ran.running
    # what the phase caps is drawn, but is no piece of the plan
    plan_of = {item.id for item in (*context.variant.system.parts, *context.variant.system.pipes)}
    chosen = next(
        (item for item in (*system.parts, *system.pipes)
         if key_of(item) == piece and item.id in plan_of), None
    )  # fmt: skip
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
        piece=make_piece(context, chosen, ran, outcome, state) if chosen is not None else None,
        hands=all_hands(context) if chosen is None else (),
        spaces=tuple(
            (ground_of(index), space.name) for index, space in enumerate(system.spaces)
            if space.id in used
        ),
        carries=tuple((key, words) for key, words in WORDS.items() if key in medium),
        moves=tuple((move.label, f"{move.before} → {move.after}, {move.tool}") for move in listed),
        empty=not system.parts,
        flow_unit=STYLES["flow"].symbol(units),
        profile_to=next((part.label for part in system.parts if part.id == running), ""),
        wide_profile=draw_profile(shown, running, units, WIDE) if shown else None,
        eaten=eaten_rows(shown, running, units) if shown else (),
        narrow_profile=draw_profile(shown, running, units, NARROW) if shown else None,
    )  # fmt: skip
