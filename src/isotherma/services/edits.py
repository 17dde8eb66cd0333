"""Every edit of a design as a small frozen command: its name, what it asks for, what it does.

A command is the form of its button, the route it comes by and the line of the history it makes;
pages, files and the command line send the same ones.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, Final, Literal, cast, get_args

from pydantic import Field
from pydantic_core import to_jsonable_python
from typing_extensions import override

from isotherma import catalogue
from isotherma.catalogue.classes import classes
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.brief import Draw, Purpose
from isotherma.core.editing.values import variant_of
from isotherma.core.errors import ChangeRefused
from isotherma.core.fields import Document
from isotherma.core.project import Project
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds.heat import Element
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.states import Phase, State
from isotherma.core.system.vehicle import Hole, Space
from isotherma.services import (
    buying_edits,
    check_edits,
    family_edits,
    guess_edits,
    learn_edits,
    place_edits,
    trip_edits,
    wish_edits,
)
from isotherma.services.edit import Edit, Key
from isotherma.services.own_classes import part_of_own

USUAL: Final = "usual"  # the usual route, among the starts
FIRST_IDEA: Final = "First idea"
Group = Literal["spaces", "states", "phases", "holes"]
_NEW: Final[Mapping[Group, Document]] = {
    "spaces": Space(id="space", name="New space", warmth="unheated"),
    "states": State(id="state", name="New state"),
    "phases": Phase(id="phase", name="New phase"),
    "holes": Hole(id="hole", name="New hole"),
}


def starting_system(start: str) -> System:
    """Give the system of a start: a layout's, or the usual route, whose watts are asked for."""
    return usual_route(element=Element(id="element")) if start == USUAL else layouts()[start].system


def class_part(class_id: str, **more: str | None) -> PartBase:
    """Make a part of a class of the catalogue or of one's own; ChangeRefused for any other."""
    own = part_of_own(class_id)
    if own is not None:
        key = editing.fresh_id(own.label, ())
        return own.model_copy(update={"id": key, **more})
    found = classes().get(class_id)
    if found is None:
        raise ChangeRefused(path="", reason="no_class", part=class_id[:40])
    return found.part.model_copy(update=more)


class _OfClass(Edit):
    """An edit that puts a part of a class in; one of one's own is carried whole."""

    part_class: str = Field(min_length=1, max_length=4000)

    @property
    @override
    def subject(self) -> str:
        return class_part(self.part_class).label


# --- the brief ---


class AddDraw(Edit):
    """Add a draw like one of the presets."""

    name = "draw.add"
    preset: Key

    @property
    @override
    def subject(self) -> str:
        return self._preset().name

    def _preset(self) -> Draw:
        if self.preset not in catalogue.PRESETS:
            raise ChangeRefused(path="brief.draws", reason="gone")
        return catalogue.PRESETS[self.preset]

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.add_draw(project, self._preset())


class RepeatDraw(Edit):
    """Add another draw right after one."""

    name = "draw.repeat"
    draw: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.repeat_draw(project, self.draw)


class RemoveDraw(Edit):
    """Take a draw out."""

    name = "draw.remove"
    draw: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_draw(project, self.draw)


class AddUse(Edit):
    """Add another use of water."""

    name = "use.add"
    purpose: Key

    @property
    @override
    def subject(self) -> str:
        return self.purpose.capitalize()

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        if self.purpose not in get_args(Purpose):
            raise ChangeRefused(path="brief.uses", reason="gone")
        return editing.add_use(project, self.purpose)


class RemoveUse(Edit):
    """Take a use of water out."""

    name = "use.remove"
    use: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_use(project, self.use)


# --- variants and beginnings ---


class CopyVariant(Edit):
    """Copy the variant; the copy is shown."""

    name = "variant.copy"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.duplicate_variant(project, variant_id)

    @override
    def shows(self, after: Project, variant_id: str) -> str:
        return after.variants[-1].id


class RemoveVariant(Edit):
    """Take the variant out; the first is shown."""

    name = "variant.remove"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_variant(project, variant_id)

    @override
    def shows(self, after: Project, variant_id: str) -> str:
        return after.variants[0].id


class LayUsualRoute(Edit):
    """Begin with the usual route."""

    name = "system.usual"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        route = editing.with_owned(starting_system(USUAL), project.owned)
        return editing.lay(project, variant_id, route)


class LayLayout(Edit):
    """Begin with a starting layout, around a part of one's own or in the place of what is there."""

    name = "system.layout"
    shuts = True
    layout: Key
    own: str = Field(default="", max_length=100)
    instead: bool = False

    @property
    @override
    def subject(self) -> str:
        named = f"“{self._layout()}”"
        return f"{named} around {class_part(self.own).label.lower()}" if self.own else named

    def _layout(self) -> str:
        if self.layout not in layouts():
            raise ChangeRefused(path="", reason="gone")
        return layouts()[self.layout].name

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        name = self._layout()
        system = editing.with_owned(starting_system(self.layout), project.owned)
        laid = (
            editing.lay_with_own(project, variant_id, system, class_part(self.own)) if self.own
            else editing.lay(project, variant_id, system, instead=self.instead)
        )  # fmt: skip
        # a variant nobody has named is called after what it begins with
        unnamed = variant_of(project, variant_id).name == FIRST_IDEA
        named = {f"variants.{variant_id}.name": name}
        return editing.set_values(laid, named) if unnamed else laid


class KeepExamples(Edit):
    """Make examples of the brief one's own, as they stand."""

    name = "brief.keep"
    names: str = Field(default="", max_length=400)

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.keep_examples(project, self.names.split(","))


class AddOwned(_OfClass):
    """Note a part that is there already."""

    name = "owned.add"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.add_owned(project, cast("AnyKind", class_part(self.part_class)))


class RemoveOwned(Edit):
    """Forget a part that was noted as there already."""

    name = "owned.remove"
    part: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_owned(project, self.part)


class MakeChanges(Edit):
    """Make changes that were tried: each path with the value it had and the one it gets."""

    name = "changes.make"
    changes: str = Field(max_length=4000)
    words: str = Field(default="", max_length=200)

    @property
    @override
    def subject(self) -> str:
        plain = self.words.replace("\N{NO-BREAK SPACE}", " ")
        return "".join(letter for letter in plain if letter.isprintable()) or "Changes"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        rows = _read_changes(self.changes)
        for path, before, _ in rows:
            if not path.startswith(("brief.", f"variants.{variant_id}.")):
                raise ChangeRefused(path=path, reason="no_property")
            if to_jsonable_python(editing.value_at(project, path)) != before:
                raise ChangeRefused(path=path, reason="changed_since")
        return editing.set_values(project, {path: after for path, _, after in rows})


def _read_changes(text: str) -> list[tuple[str, object, object]]:
    """Read what a form carries: rows of path, value before, value after."""
    try:
        rows = json.loads(text)
        return [(str(path), before, after) for path, before, after in rows]
    except (ValueError, TypeError):
        raise ChangeRefused(path="", reason="unreadable_changes") from None


class CopySystem(Edit):
    """Begin as in another variant."""

    name = "system.copy"
    shuts = True
    source: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.copy_system(project, variant_id, self.source)


class LayNothing(Edit):
    """Begin with an empty route."""

    name = "system.empty"
    shuts = True

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.lay(project, variant_id, System(), instead=True)


# --- parts and runs ---


class AddPart(_OfClass):
    """Add a part that joins nothing yet."""

    name = "part.add"
    opens_new = True

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.add_part(project, variant_id, class_part(self.part_class))


class FitPart(_OfClass):
    """Fit a part in or on another."""

    name = "part.fit"
    opens_new = True
    host: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        part = class_part(self.part_class, fitted_in=self.host)
        return editing.fit_part(project, variant_id, part)


class InsertPart(_OfClass):
    """Put a part into a run."""

    name = "part.insert"
    opens_new = True
    run: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.insert_part(project, variant_id, self.run, class_part(self.part_class))


class PlaceDiverter(Edit):
    """Put a return diverter before an outlet, with the pipe back to the tank."""

    name = "diverter.place"
    part: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.place_diverter(project, variant_id, self.part)


class ReplacePart(_OfClass):
    """Put a part in the place of another."""

    name = "part.replace"
    part: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.replace_part(project, variant_id, self.part, class_part(self.part_class))


class RemovePart(Edit):
    """Take a part out; its two runs become one."""

    name = "part.remove"
    shuts = True
    part: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_part(project, variant_id, self.part)


class CapPort(Edit):
    """Cap an open port."""

    name = "port.cap"
    opens_new = True
    end: Key

    @property
    @override
    def subject(self) -> str:
        return self.end.partition(".")[2].replace("_", " ").capitalize()

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.cap_port(project, variant_id, self.end, class_part("blanking-cap-usual"))


class JoinPorts(Edit):
    """Join two ports by a run."""

    name = "run.join"
    start: Key
    end: Key
    kind: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.join(project, variant_id, self.start, self.end, self.kind)


class RemoveRun(Edit):
    """Take a run out."""

    name = "run.remove"
    shuts = True
    run: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_piece(project, variant_id, "runs", self.run)


# --- spaces, states, phases, holes ---


class AddPiece(Edit):
    """Add a space, state, phase or hole."""

    name = "piece.add"
    group: Group

    @property
    @override
    def subject(self) -> str:
        return self.group.removesuffix("s").capitalize()

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.add_piece(project, variant_id, self.group, _NEW[self.group])


class RemovePiece(Edit):
    """Take a space, state, phase or hole out."""

    name = "piece.remove"
    group: Group
    piece: Key

    @property
    @override
    def subject(self) -> str:
        return self.group.removesuffix("s").capitalize()

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_piece(project, variant_id, self.group, self.piece)


class SayState(Edit):
    """Add a state by what is wanted: an outlet from a source."""

    name = "state.say"
    outlet: Key
    source: Key

    @property
    @override
    def subject(self) -> str:
        return f"{self.outlet} from {self.source}"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.say_state(project, variant_id, self.outlet, self.source)


class SetDayState(Edit):
    """Choose the state the day is seen in."""

    name = "state.day"
    state: str = Field(default="", max_length=100)

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.set_values(project, {f"variants.{variant_id}.state": self.state or None})


class SetDayPhase(Edit):
    """Choose how far it is built on the day that is seen."""

    name = "phase.day"
    phase: str = Field(default="", max_length=100)

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        known = {phase.id for phase in variant_of(project, variant_id).system.phases}
        if self.phase and self.phase not in known:
            raise ChangeRefused(path=f"variants.{variant_id}.phase", reason="no_phase")
        return editing.set_values(project, {f"variants.{variant_id}.phase": self.phase or None})


class SetPosition(Edit):
    """Set how a part stands in a state."""

    name = "state.position"
    state: Key
    part: Key
    at: str = Field(default="", max_length=100)

    @property
    @override
    def subject(self) -> str:
        return f"{self.part} → {self.at}"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.set_position(project, variant_id, self.state, self.part, self.at)


class PlacePart(Edit):
    """Put a part elsewhere in a state."""

    name = "state.place"
    state: Key
    part: Key
    space: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.set_place(project, variant_id, self.state, self.part, self.space)


class PutBack(Edit):
    """Put a part back to where it lives in a state."""

    name = "state.put_back"
    state: Key
    part: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.set_place(project, variant_id, self.state, self.part, None)


def _every(kind: type[Edit]) -> dict[str, type[Edit]]:
    found: dict[str, type[Edit]] = {}
    for item in kind.__subclasses__():
        if item.name:
            found[item.name] = item
        found |= _every(item)
    return found


# theirs are among all edits
assert trip_edits and family_edits and wish_edits and place_edits and check_edits and learn_edits
assert guess_edits
assert buying_edits
EDITS: Final[Mapping[str, type[Edit]]] = _every(Edit)


def read_edit(name: str, values: Mapping[str, Any]) -> Edit:
    """Read a command from what a form or a line gives.

    KeyError if there is no such command; pydantic's ValidationError for what it cannot take.
    """
    return EDITS[name].model_validate(dict(values))


def tried_edit(name: str, query: Mapping[str, str], project: Project, variant_id: str) -> Project:
    """Give a project with an edit made that is not kept; its values by the names of its fields.

    KeyError if there is no such command, ValidationError for what it cannot take, ChangeRefused
    where it cannot be done.
    """
    asked = {key: query[key] for key in EDITS[name].model_fields if key in query}
    return read_edit(name, asked).apply(project, variant_id)
