"""What buttons of a design do: each an operation on its document, with a name for undo."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import get_args

from isotherma import catalogue
from isotherma.catalogue.classes import classes
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.brief import Purpose
from isotherma.core.fields import Document
from isotherma.core.project import Project
from isotherma.core.system import System
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.states import Phase, State
from isotherma.core.system.vehicle import Hole, Space
from isotherma.web.pages.frame import find_variant

Found = tuple[Callable[[Project], Project], str] | None
_NEW: dict[str, tuple[str, Document]] = {
    "spaces": ("Space", Space(id="space", name="New space", warmth="unheated")),
    "states": ("State", State(id="state", name="New state")),
    "phases": ("Phase", Phase(id="phase", name="New phase")),
    "holes": ("Hole", Hole(id="hole", name="New hole")),
}


@dataclass(frozen=True, slots=True)
class Act:
    """What a button asks for."""

    action: str
    item: str
    kind: str
    run: str
    variant_id: str
    page: str = ""


def piece_after(before: Project, after: Project, wanted: Act, piece: str) -> str:
    """Open what was just added; close what was just removed."""
    if wanted.action in {"add_part", "fit", "insert", "cap"}:
        there = {part.id for part in find_variant(before, wanted.variant_id).system.parts}
        new = [
            part.id
            for part in find_variant(after, wanted.variant_id).system.parts
            if part.id not in there
        ]
        return f"part-{new[-1]}" if new else piece
    gone = {"remove_part", "remove_run", "empty", "layout", "copy_system"}
    return "" if wanted.action in gone else piece


def brief_operation(act: Act) -> Found:
    """Find the core's edit for a button of the brief or the variants, and its name."""
    item, here = act.item, act.variant_id
    match act.action:
        case "add_draw" if item in catalogue.PRESETS:
            draw = catalogue.PRESETS[item]
            return partial(editing.add_draw, draw=draw), f"{draw.name} added"
        case "repeat_draw":
            return partial(editing.repeat_draw, draw_id=item), "Draw repeated"
        case "remove_draw":
            return partial(editing.remove_draw, draw_id=item), "Draw removed"
        case "add_use" if item in get_args(Purpose):
            return partial(editing.add_use, purpose=item), f"{item.capitalize()} added"
        case "remove_use":
            return partial(editing.remove_use, use_id=item), "Use of water removed"
        case "duplicate":
            return partial(editing.duplicate_variant, variant_id=here), "Variant copied"
        case "remove_variant":
            return partial(editing.remove_variant, variant_id=here), "Variant removed"
    return None


def _class_part(class_id: str, **more: str | None) -> PartBase | None:
    """Make a part of a class of the catalogue; None when there is no such class."""
    found = classes().get(class_id)
    return found.part.model_copy(update=more) if found is not None else None


def system_operation(act: Act) -> Found:
    """Find the core's edit for a button of the parts page, and its name."""
    here = act.variant_id
    match act.action:
        case "usual_route":
            return partial(editing.lay_usual_route, variant_id=here), "Usual route laid"
        case "layout" if act.item in layouts():
            layout = layouts()[act.item]
            own = _class_part(act.kind)
            words = f"Begun with “{layout.name}”"
            if own is None:
                lay = partial(
                    editing.lay, system=layout.system, variant_id=here,
                    instead=act.page == "layout",  # which says that it takes the place
                )  # fmt: skip
                return lay, words
            mine = partial(editing.lay_with_own, system=layout.system, variant_id=here, part=own)
            return mine, f"{words} around {own.label.lower()}"
        case "copy_system":
            copy = partial(editing.copy_system, source_id=act.item, variant_id=here)
            return copy, "Begun as in another variant"
        case "empty":
            lay = partial(editing.lay, system=System(), variant_id=here, instead=True)
            return lay, "Begun with an empty route"
        case "cap" if (part := _class_part("blanking-cap-usual")) is not None:
            cap = partial(editing.cap_port, end=act.item, cap=part, variant_id=here)
            return cap, f"{act.item.partition('.')[2].replace('_', ' ').capitalize()} capped"
        case "add_part" if (part := _class_part(act.item)) is not None:
            return partial(editing.add_part, part=part, variant_id=here), f"{part.label} added"
        case "fit" if (part := _class_part(act.kind, fitted_in=act.item)) is not None:
            return partial(editing.fit_part, part=part, variant_id=here), f"{part.label} fitted"
        case "insert" if (part := _class_part(act.kind)) is not None:
            put = partial(editing.insert_part, run_id=act.item, part=part, variant_id=here)
            return put, f"{part.label} put in"
        case "replace" if (part := _class_part(act.kind)) is not None:
            swap = partial(editing.replace_part, part_id=act.item, part=part, variant_id=here)
            return swap, f"{part.label} put in its place"
        case "remove_part":
            return partial(editing.remove_part, part_id=act.item, variant_id=here), "Part removed"
        case "remove_run":
            remove = partial(editing.remove_piece, group="runs", piece_id=act.item, variant_id=here)
            return remove, "Run removed"
        case "join":
            join = partial(
                editing.join, start=act.item, end=act.kind, kind=act.run, variant_id=here
            )
            return join, "Run added"
    return None


def state_operation(act: Act) -> Found:
    """Find the core's edit for a button of spaces and states, and its name."""
    first, _, second = act.item.partition(".")
    here = act.variant_id
    match act.action:
        case "add_piece" if act.item in _NEW:
            words, piece = _NEW[act.item]
            add = partial(editing.add_piece, group=act.item, piece=piece, variant_id=here)
            return add, f"{words} added"
        case "remove_piece" if first in _NEW:
            remove = partial(editing.remove_piece, group=first, piece_id=second, variant_id=here)
            return remove, f"{_NEW[first][0]} removed"
        case "stand":
            stand = partial(editing.set_values, values={f"variants.{here}.state": act.item})
            return stand, "State of the day"
        case "position":
            put = partial(
                editing.set_position,
                state_id=first,
                part_id=second,
                at=act.kind,
                variant_id=here,
            )
            return put, f"{second} → {act.kind}"
        case "place":
            place = partial(
                editing.set_place,
                state_id=act.run,
                part_id=act.item,
                space_id=act.kind,
                variant_id=here,
            )
            return place, "Put elsewhere in a state"
        case "unplace":
            back = partial(
                editing.set_place,
                state_id=first,
                part_id=second,
                space_id=None,
                variant_id=here,
            )
            return back, "Put back in a state"
    return None
