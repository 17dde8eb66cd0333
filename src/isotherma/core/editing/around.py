"""Spaces, states, phases and holes: added and taken away; how parts stand in a state."""

from __future__ import annotations

from isotherma.core.editing.values import (
    fresh_id,
    set_values,
    value_at,
    variant_of,
    with_lists,
    with_system,
)
from isotherma.core.errors import ChangeRefused
from isotherma.core.fields import Document
from isotherma.core.project import Project
from isotherma.core.system import System
from isotherma.core.system.sayings import Saying, positions_for
from isotherma.core.system.states import Position, State


def add_piece(project: Project, variant_id: str, group: str, piece: Document) -> Project:
    """Add a space, a state, a phase or a hole.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    group : str
        "spaces", "states", "phases" or "holes". [-]
    piece : Document
        What; it gets an id of its own. [-]

    Returns
    -------
    Project
        With it last in its list. [-]

    Raises
    ------
    ChangeRefused
        If the group is none of these.
    """
    system = variant_of(project, variant_id).system
    if group not in {"spaces", "states", "phases", "holes"}:
        raise ChangeRefused(path=group, reason="no_list")
    there = getattr(system, group)
    name = getattr(piece, "name", "") or getattr(piece, "id", "item")
    new_id = fresh_id(name, [other.id for other in there])
    return with_lists(
        project, variant_id, **{group: (*there, piece.model_copy(update={"id": new_id}))}
    )


def say_state(project: Project, variant_id: str, outlet_id: str, source_id: str) -> Project:
    """Add a state by what is wanted of it: an outlet fed from a source.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, outlet_id, source_id : str
        Which. [-]

    Returns
    -------
    Project
        With a state named so last in its list, its valves set. [-]

    Raises
    ------
    ChangeRefused
        If one of them is gone, or no way leads from the source to the outlet.
    """
    system = variant_of(project, variant_id).system
    labels = {part.id: part.label for part in system.parts}
    path = f"variants.{variant_id}.system.states"
    if outlet_id not in labels or source_id not in labels:
        raise ChangeRefused(path=path, reason="gone")
    outlet, source = labels[outlet_id], labels[source_id]
    positions = positions_for(system, Saying(outlet_id, source_id))
    if positions is None:
        raise ChangeRefused(path=path, reason="no_way", outlet=outlet, source=source)
    state = State(
        id="state", name=f"{outlet} from {source[:1].lower()}{source[1:]}"[:80],
        positions=tuple(Position(part=key, at=at) for key, at in positions.items()),
    )  # fmt: skip
    return add_piece(project, variant_id, "states", state)


def remove_piece(project: Project, variant_id: str, group: str, piece_id: str) -> Project:
    """Take a run, space, state, phase or hole away; what named it names nothing after.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    group : str
        "runs", "spaces", "states", "phases" or "holes". [-]
    piece_id : str
        Which. [-]

    Returns
    -------
    Project
        Without it. [-]

    Raises
    ------
    ChangeRefused
        If it is not there.
    """
    system = variant_of(project, variant_id).system
    path = f"variants.{variant_id}.system.{group}.{piece_id}"
    there = getattr(system, group) if group in System.model_fields else ()
    left = tuple(item for item in there if item.id != piece_id)
    if group == "parts" or len(left) == len(there):
        raise ChangeRefused(path=path, reason="gone")
    data = system.model_dump()
    data[group] = [item.model_dump() for item in left]
    key = {"spaces": "space", "phases": "phase"}.get(group)
    if key is not None:
        for piece in (*data["parts"], *data["runs"]):
            if piece[key] == piece_id:
                piece[key] = None
    if group == "spaces":
        for space in data["spaces"]:
            for name in ("neighbours", "sealed_from"):
                space[name] = [other for other in space[name] if other != piece_id]
        for hole in data["holes"]:
            for name in ("first", "second"):
                hole[name] = None if hole[name] == piece_id else hole[name]
        for state in data["states"]:
            state["placed"] = [item for item in state["placed"] if item["space"] != piece_id]
    return with_system(project, variant_id, System.model_validate(data))


def _state(project: Project, variant_id: str, state_id: str) -> tuple[str, State]:
    """Find a state of a variant, and the path it stands at."""
    variant_of(project, variant_id)
    path = f"variants.{variant_id}.system.states.{state_id}"
    state = value_at(project, path)
    assert isinstance(state, State)
    return path, state


def set_position(
    project: Project, variant_id: str, state_id: str, part_id: str, at: str
) -> Project:
    """Say how a part stands in a state; its usual position is not written down.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, state_id, part_id : str
        Where. [-]
    at : str
        One of the part's positions. [-]

    Returns
    -------
    Project
        With that position. [-]

    Raises
    ------
    ChangeRefused
        If state or part are gone, or the part does not move.
    """
    system = variant_of(project, variant_id).system
    path, state = _state(project, variant_id, state_id)
    part = next((item for item in system.parts if item.id == part_id), None)
    if part is None:
        raise ChangeRefused(path=path, reason="gone")
    if at not in part.positions:
        raise ChangeRefused(path=path, reason="no_position", part=part.label, at=at[:20])
    kept = [item.model_dump() for item in state.positions if item.part != part_id]
    if at != part.positions[0]:
        kept.append({"part": part_id, "at": at})
    return set_values(project, {f"{path}.positions": kept})


def set_place(
    project: Project, variant_id: str, state_id: str, part_id: str, space_id: str | None
) -> Project:
    """Say where a part is in a state, other than where it lives.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, state_id, part_id : str
        Where. [-]
    space_id : str or None
        The space it is in; None puts it back. [-]

    Returns
    -------
    Project
        With that place. [-]

    Raises
    ------
    ChangeRefused
        If the state is gone.
    """
    path, state = _state(project, variant_id, state_id)
    kept = [item.model_dump() for item in state.placed if item.part != part_id]
    if space_id is not None:
        kept.append({"part": part_id, "space": space_id})
    return set_values(project, {f"{path}.placed": kept})
