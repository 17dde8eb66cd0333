"""Edits of a project: one value by its path, or one piece added or taken away.

Every function takes a project and gives another; nothing is changed in place, and
what comes out has been validated as a whole.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from isotherma.core.brief import Draw
from isotherma.core.errors import ChangeRefused
from isotherma.core.fields import Document
from isotherma.core.project import Project, Variant
from isotherma.core.system import AnyKind, AnyRun, Pipe, PortRef, System, part_refs
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.pieces import PartBase, joins
from isotherma.core.system.runs import RUNS, RunBase


def _step_into(value: object, key: str, path: str) -> object:
    if isinstance(value, tuple):
        for item in value:
            if getattr(item, "id", None) == key:
                return item
    elif isinstance(value, Document) and key in type(value).model_fields:
        found: object = getattr(value, key)
        return found
    raise ChangeRefused(path=path, reason="it is not there any more")


def value_at(project: Project, path: str) -> object:
    """Read what stands at a path.

    Parameters
    ----------
    project : Project
        The document. [-]
    path : str
        Names and ids joined by dots: "variants.a.system.parts.store.volume_m3". [-]

    Returns
    -------
    object
        A document, a tuple or a plain value. [SI]

    Raises
    ------
    ChangeRefused
        If nothing stands there.
    """
    value: object = project
    for key in path.split(".") if path else ():
        value = _step_into(value, key, path)
    return value


def _patch(data: dict[str, Any], keys: Sequence[str], value: object, path: str) -> None:
    """Put a value into a dumped document, following ids through lists."""
    place: Any = data
    for key in keys[:-1]:
        if isinstance(place, list | tuple):
            place = next((item for item in place if item["id"] == key), None)
        else:
            place = place.get(key)
        if place is None:
            raise ChangeRefused(path=path, reason="it is not there any more")
    if not isinstance(place, dict) or keys[-1] not in place:
        raise ChangeRefused(path=path, reason="it has no such property")
    place[keys[-1]] = value


def set_values(project: Project, values: Mapping[str, object]) -> Project:
    """Put values at paths, all together.

    Parameters
    ----------
    project : Project
        The document. [-]
    values : mapping of str to object
        New value by path. [SI]

    Returns
    -------
    Project
        The document with these values, validated. [-]

    Raises
    ------
    ChangeRefused
        If a path leads nowhere.
    pydantic.ValidationError
        If the values do not fit the document.
    """
    data = project.model_dump()
    for path, value in values.items():
        _patch(data, path.split("."), value, path)
    return Project.model_validate(data)


def fresh_id(stem: str, taken: Sequence[str]) -> str:
    """Make an id from words that no other piece has.

    Parameters
    ----------
    stem : str
        Words to build on. [-]
    taken : sequence of str
        Ids in use. [-]

    Returns
    -------
    str
        Lower-case letters, digits and hyphens. [-]
    """
    plain = re.sub(r"[^a-z0-9]+", "-", stem.lower()).strip("-")[:30] or "item"
    if plain not in taken:
        return plain
    number = 2
    while f"{plain}-{number}" in taken:
        number += 1
    return f"{plain}-{number}"


def add_draw(project: Project, draw: Draw) -> Project:
    """Add a draw to the brief, under an id of its own.

    Parameters
    ----------
    project : Project
        The document. [-]
    draw : Draw
        Its id may be taken already. [-]

    Returns
    -------
    Project
        With one more draw. [-]
    """
    draws = project.brief.draws
    taken = [other.id for other in draws]
    named = draw.model_copy(update={"id": fresh_id(draw.name, taken)})
    return _with_draws(project, (*draws, named))


def repeat_draw(project: Project, draw_id: str) -> Project:
    """Add the same draw again, a minute after it could have ended.

    Parameters
    ----------
    project : Project
        The document. [-]
    draw_id : str
        Which draw to repeat. [-]

    Returns
    -------
    Project
        With one more draw, after every draw that already follows in a row. [-]

    Raises
    ------
    ChangeRefused
        If the draw is not there, or the day has no room after it.
    """
    path = f"brief.draws.{draw_id}"
    draws = project.brief.draws
    source = next((draw for draw in draws if draw.id == draw_id), None)
    if source is None:
        raise ChangeRefused(path=path, reason="it is not there any more")
    taken = {draw.start_s for draw in draws}
    step_s = source.duration_s + source.stops * source.stop_s + 60.0
    start_s = source.start_s + step_s
    while start_s in taken:
        start_s += step_s
    if start_s >= 86400:
        raise ChangeRefused(path=path, reason="the day has no room after it")
    return add_draw(project, source.model_copy(update={"start_s": start_s, "who": ""}))


def remove_draw(project: Project, draw_id: str) -> Project:
    """Take a draw out of the brief; ChangeRefused if it is not there.

    Parameters
    ----------
    project : Project
        The document. [-]
    draw_id : str
        Which. [-]

    Returns
    -------
    Project
        With one draw less. [-]
    """
    left = tuple(draw for draw in project.brief.draws if draw.id != draw_id)
    if len(left) == len(project.brief.draws):
        raise ChangeRefused(path=f"brief.draws.{draw_id}", reason="it is not there any more")
    return _with_draws(project, left)


def add_use(project: Project, purpose: str) -> Project:
    """Add water by the litre to the brief, its litres still none.

    Parameters
    ----------
    project : Project
        The document. [-]
    purpose : str
        One of the purposes. [-]

    Returns
    -------
    Project
        With one more use. [-]
    """
    uses = project.brief.uses
    use = {
        "id": fresh_id(purpose, [other.id for other in uses]),
        "name": purpose.capitalize(),
        "purpose": purpose,
    }
    data = project.model_dump()
    data["brief"]["uses"] = [*(other.model_dump() for other in uses), use]
    return Project.model_validate(data)


def remove_use(project: Project, use_id: str) -> Project:
    """Take a use out of the brief; ChangeRefused if it is not there.

    Parameters
    ----------
    project : Project
        The document. [-]
    use_id : str
        Which. [-]

    Returns
    -------
    Project
        With one use less. [-]
    """
    left = [use.model_dump() for use in project.brief.uses if use.id != use_id]
    if len(left) == len(project.brief.uses):
        raise ChangeRefused(path=f"brief.uses.{use_id}", reason="it is not there any more")
    data = project.model_dump()
    data["brief"]["uses"] = left
    return Project.model_validate(data)


def _with_draws(project: Project, draws: tuple[Draw, ...]) -> Project:
    data = project.model_dump()
    data["brief"]["draws"] = [draw.model_dump() for draw in draws]
    return Project.model_validate(data)


def _variant(project: Project, variant_id: str) -> Variant:
    try:
        return project.variant(variant_id)
    except KeyError:
        raise ChangeRefused(
            path=f"variants.{variant_id}", reason="it is not there any more"
        ) from None


def with_system(project: Project, variant_id: str, system: System) -> Project:
    """Give a variant another system.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    system : System
        Its new system. [-]

    Returns
    -------
    Project
        With that system. [-]
    """
    _variant(project, variant_id)
    variants = (
        variant.model_copy(update={"system": system}) if variant.id == variant_id else variant
        for variant in project.variants
    )
    return _with_variants(project, tuple(variants))


def _with_variants(project: Project, variants: tuple[Variant, ...]) -> Project:
    data = project.model_dump()
    data["variants"] = [variant.model_dump() for variant in variants]
    return Project.model_validate(data)


def goes_in_line(kind: type[PartBase], run: RunBase) -> bool:
    """Say whether a kind of part can be put into a run.

    Parameters
    ----------
    kind : type
        A class of part. [-]
    run : RunBase
        The run that would be cut. [-]

    Returns
    -------
    bool
        True when it has an inlet and an outlet for what the run carries. [-]
    """
    inlet, outlet = kind.port("inlet"), kind.port("outlet")
    if inlet is None or outlet is None or kind.side == "use":
        return False
    return all(
        any(joins(port.medium, medium) for medium in run.carries) for port in (inlet, outlet)
    )


def insert_part(project: Project, variant_id: str, run_id: str, part: PartBase) -> Project:
    """Cut a run in two halves and put a part in line between them.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, run_id : str
        Where. [-]
    part : PartBase
        What; it gets an id of its own, and the run's space where it has none. [-]

    Returns
    -------
    Project
        With the part, length and rise of the run shared equally. [-]

    Raises
    ------
    ChangeRefused
        If the run is gone or the kind does not go in line.
    """
    system = _variant(project, variant_id).system
    path = f"variants.{variant_id}.system.runs.{run_id}"
    run = next((run for run in system.runs if run.id == run_id), None)
    if run is None:
        raise ChangeRefused(path=path, reason="it is not there any more")
    if not goes_in_line(type(part), run):
        raise ChangeRefused(
            path=path, reason=f"a {part.title.lower()} does not go in line with {run.title.lower()}"
        )
    part_id = fresh_id(part.id, [other.id for other in system.parts])
    placed = part.model_copy(update={"id": part_id, "space": part.space or run.space})
    halves: dict[str, Any] = {
        "length_m": None if run.length_m is None else run.length_m / 2,
        "rise_m": run.rise_m / 2,
    }
    second_id = fresh_id(f"{run.id}-after", [other.id for other in system.runs])
    first = {**run.model_dump(), **halves, "end": {"part": part_id, "port": "inlet"}}
    second = {
        **run.model_dump(),
        **halves,
        "id": second_id,
        "name": f"After {part.label}"[:80],
        "start": {"part": part_id, "port": "outlet"},
    }
    for name in ("elbows", "formed_bends", "joiners", "tails", "clips"):
        if second.get(name):  # counted once, on the first half
            second[name] = 0
    if first.get("loss_k") is not None:
        first["loss_k"] = second["loss_k"] = first["loss_k"] / 2
    runs: list[object] = []
    for other in system.runs:
        runs += [first, second] if other.id == run_id else [other.model_dump()]
    return _with(project, variant_id, parts=(*system.parts, placed), runs=runs)


def _with(project: Project, variant_id: str, **lists: Sequence[object]) -> Project:
    """Give a variant's system other lists, and validate the whole."""
    system = _variant(project, variant_id).system
    data = system.model_dump()
    for name, items in lists.items():
        data[name] = [item.model_dump() if isinstance(item, Document) else item for item in items]
    return with_system(project, variant_id, System.model_validate(data))


def remove_part(project: Project, variant_id: str, part_id: str) -> Project:
    """Take a part away: runs on both sides of a part in line are joined, others go with it.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, part_id : str
        Which. [-]

    Returns
    -------
    Project
        Without it and without what named it; a joined run keeps the bore of the first
        and both lengths. [-]

    Raises
    ------
    ChangeRefused
        If the part is gone.
    """
    system = _variant(project, variant_id).system
    path = f"variants.{variant_id}.system.parts.{part_id}"
    part = next((part for part in system.parts if part.id == part_id), None)
    if part is None:
        raise ChangeRefused(path=path, reason="it is not there any more")
    touching = [run for run, _, _ in system.joined(part_id)]
    before = [run for run in touching if run.end.part == part_id and run.start.part != part_id]
    after = [run for run in touching if run.start.part == part_id and run.end.part != part_id]
    pipes = [run for run in touching if isinstance(run, Pipe)]
    joined: AnyRun | None = None
    if len(before) == len(after) == 1 and pipes == touching:
        joined = _joined(before[0], after[0])
    runs = []
    for run in system.runs:
        if joined is not None and run.id == joined.id:
            runs.append(joined)
        elif run not in touching:
            runs.append(run)
    parts = [_forgetting(other, part_id) for other in system.parts if other.id != part_id]
    states = [
        state.model_copy(
            update={
                "positions": tuple(item for item in state.positions if item.part != part_id),
                "dry": tuple(item for item in state.dry if item != part_id),
                "placed": tuple(item for item in state.placed if item.part != part_id),
            }
        )
        for state in system.states
    ]
    holes = [
        hole.model_copy(update={"for_part": None}) if hole.for_part == part_id else hole
        for hole in system.holes
    ]
    return _with(project, variant_id, parts=parts, runs=runs, states=states, holes=holes)


def _joined(before: AnyRun, after: AnyRun) -> AnyRun:
    """Make one run of two: the ends of both, their lengths and fittings added."""
    changes: dict[str, Any] = {"end": after.end, "rise_m": before.rise_m + after.rise_m}
    known = before.length_m is not None and after.length_m is not None
    changes["length_m"] = (before.length_m or 0) + (after.length_m or 0) if known else None
    if isinstance(before, Pipe) and isinstance(after, Pipe):
        for name in ("elbows", "formed_bends", "joiners", "tails"):
            changes[name] = getattr(before, name) + getattr(after, name)
        if before.loss_k is not None and after.loss_k is not None:
            changes["loss_k"] = before.loss_k + after.loss_k
    return before.model_copy(update=changes)


def _forgetting(part: AnyKind, gone_id: str) -> AnyKind:
    """Empty the properties of a part that name one that is taken away."""
    names = part_refs(type(part))
    gone = {name: None for name in names if getattr(part, name) == gone_id}
    return part.model_copy(update=gone) if gone else part


def add_part(project: Project, variant_id: str, part: PartBase) -> Project:
    """Put a part into a variant, joined to nothing yet.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    part : PartBase
        What; it gets an id of its own. [-]

    Returns
    -------
    Project
        With the part last in the list. [-]

    Raises
    ------
    ChangeRefused
        If the variant is gone.
    """
    system = _variant(project, variant_id).system
    part_id = fresh_id(part.id, [other.id for other in system.parts])
    return _with(
        project, variant_id, parts=(*system.parts, part.model_copy(update={"id": part_id}))
    )


def new_part(kind: str, values: Mapping[str, object] | None = None) -> PartBase:
    """Make a part of a kind.

    Parameters
    ----------
    kind : str
        Key of `KINDS`. [-]
    values : mapping or None
        Properties that are known already. [SI]

    Returns
    -------
    PartBase
        Its id is a first guess; `add_part` makes it unique. [-]

    Raises
    ------
    ChangeRefused
        If there is no such kind.
    """
    if kind not in KINDS:
        raise ChangeRefused(path="", reason=f"there is no kind “{kind[:40]}”")
    return KINDS[kind].model_validate({"id": kind.replace("_", "-"), **(values or {})})


ARRIVING = frozenset(
    {"inlet", "hot", "cold", "hot_in", "cold_in", "feed", "fill", "gas", "fuel", "returns"}
)


def fit_part(project: Project, variant_id: str, part: PartBase) -> Project:
    """Put a part into another, in the same space and phase.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    part : PartBase
        What; `fitted_in` names the other. [-]

    Returns
    -------
    Project
        With the part last in the list. [-]

    Raises
    ------
    ChangeRefused
        If the other is gone, or holds no such part.
    """
    system = _variant(project, variant_id).system
    host = next((other for other in system.parts if other.id == part.fitted_in), None)
    if host is None:
        raise ChangeRefused(path="parts", reason="it is not there any more")
    if host.kind not in part.sits_in:
        raise ChangeRefused(
            path=f"parts.{host.id}", reason=f"a {part.title.lower()} does not sit in it"
        )
    placed = part.model_copy(update={"space": host.space, "phase": host.phase})
    return add_part(project, variant_id, placed)


def join(project: Project, variant_id: str, start: str, end: str, kind: str) -> Project:
    """Join two ports written "part.port", the way water takes where that is known.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    start, end : str
        Part and port with a point between; turned round when the first is an inlet. [-]
    kind : str
        Kind of run. [-]

    Returns
    -------
    Project
        With the run. [-]

    Raises
    ------
    ChangeRefused
        If an end is not written so, or there is no such kind of run.
    pydantic.ValidationError
        If the ports do not fit.
    """
    ends = []
    for text in (start, end):
        part, dot, port = text.partition(".")
        if not dot:
            raise ChangeRefused(path="runs", reason="say part and port, as tank.outlet")
        ends.append(PortRef(part=part, port=port))
    if ends[0].port in ARRIVING and ends[1].port not in ARRIVING:
        ends.reverse()
    return add_run(project, variant_id, kind, ends[0], ends[1])


def add_run(project: Project, variant_id: str, kind: str, start: PortRef, end: PortRef) -> Project:
    """Join two ports by a new run, its measures still unknown.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    kind : str
        Key of `RUNS`. [-]
    start, end : PortRef
        What it joins. [-]

    Returns
    -------
    Project
        With the run last in the list. [-]

    Raises
    ------
    ChangeRefused
        If there is no such kind of run.
    pydantic.ValidationError
        If the ports are not there, taken, or for different things.
    """
    system = _variant(project, variant_id).system
    if kind not in RUNS:
        raise ChangeRefused(path="", reason=f"there is no run of the kind “{kind[:40]}”")
    names = {part.id: part.label for part in system.parts}
    run_id = fresh_id(f"{start.part}-{end.part}"[:30], [run.id for run in system.runs])
    words = f"{names.get(start.part, start.part)} to {names.get(end.part, end.part).lower()}"
    run = RUNS[kind].model_validate({"id": run_id, "name": words[:80], "start": start, "end": end})
    return _with(project, variant_id, runs=(*system.runs, run))


def with_runs(project: Project, variant_id: str, runs: Sequence[AnyRun]) -> Project:
    """Give a variant other runs, all together; ValidationError if they do not fit.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    runs : sequence of Run
        All its runs. [-]

    Returns
    -------
    Project
        With these runs. [-]
    """
    return _with(project, variant_id, runs=runs)


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
    system = _variant(project, variant_id).system
    if group not in {"spaces", "states", "phases", "holes"}:
        raise ChangeRefused(path=group, reason="there is no such list")
    there = getattr(system, group)
    name = getattr(piece, "name", "") or getattr(piece, "id", "item")
    new_id = fresh_id(name, [other.id for other in there])
    return _with(project, variant_id, **{group: (*there, piece.model_copy(update={"id": new_id}))})


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
    system = _variant(project, variant_id).system
    path = f"variants.{variant_id}.system.{group}.{piece_id}"
    there = getattr(system, group) if group in System.model_fields else ()
    left = tuple(item for item in there if item.id != piece_id)
    if group == "parts" or len(left) == len(there):
        raise ChangeRefused(path=path, reason="it is not there any more")
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
    system = _variant(project, variant_id).system
    path = f"variants.{variant_id}.system.states.{state_id}"
    state = next((item for item in system.states if item.id == state_id), None)
    part = next((item for item in system.parts if item.id == part_id), None)
    if state is None or part is None:
        raise ChangeRefused(path=path, reason="it is not there any more")
    if at not in part.positions:
        raise ChangeRefused(path=path, reason=f"{part.label} has no position “{at[:20]}”")
    kept = [item.model_dump() for item in state.positions if item.part != part_id]
    if at != part.positions[0]:
        kept.append({"part": part_id, "at": at})
    return set_values(project, {f"{path}.positions": kept})


def duplicate_variant(project: Project, variant_id: str) -> Project:
    """Copy a variant under another name, last in the list.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which. [-]

    Returns
    -------
    Project
        With one more variant. [-]
    """
    source = _variant(project, variant_id)
    taken = [variant.id for variant in project.variants]
    copy = source.model_copy(
        update={"id": fresh_id(source.id, taken), "name": f"{source.name[:70]} (copy)"}
    )
    return _with_variants(project, (*project.variants, copy))


def remove_variant(project: Project, variant_id: str) -> Project:
    """Take a variant away; a vehicle keeps at least one.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which. [-]

    Returns
    -------
    Project
        Without it. [-]

    Raises
    ------
    ChangeRefused
        If it is the only one.
    """
    _variant(project, variant_id)
    left = tuple(variant for variant in project.variants if variant.id != variant_id)
    if not left:
        raise ChangeRefused(
            path=f"variants.{variant_id}", reason="a vehicle keeps at least one variant"
        )
    return _with_variants(project, left)


def lay_usual_route(project: Project, variant_id: str) -> Project:
    """Put the usual route into a variant that has no parts yet.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]

    Returns
    -------
    Project
        With the route; its sizes are unknown. [-]

    Raises
    ------
    ChangeRefused
        If the variant has parts.
    """
    return lay(project, variant_id, usual_route())


def lay(project: Project, variant_id: str, system: System) -> Project:
    """Put a whole system into a variant that has no parts yet.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    system : System
        What to begin with. [-]

    Returns
    -------
    Project
        With it; spaces, states and phases of the empty variant go. [-]

    Raises
    ------
    ChangeRefused
        If the variant has parts.
    """
    if _variant(project, variant_id).system.parts:
        raise ChangeRefused(path=f"variants.{variant_id}.system", reason="it has parts already")
    return with_system(project, variant_id, system)


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
    system = _variant(project, variant_id).system
    path = f"variants.{variant_id}.system.states.{state_id}"
    state = next((item for item in system.states if item.id == state_id), None)
    if state is None:
        raise ChangeRefused(path=path, reason="it is not there any more")
    kept = [item.model_dump() for item in state.placed if item.part != part_id]
    if space_id is not None:
        kept.append({"part": part_id, "space": space_id})
    return set_values(project, {f"{path}.placed": kept})
