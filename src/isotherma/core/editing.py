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
from isotherma.core.system import PortRef, Run, System
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.parts import (
    IN_LINE,
    Accumulator,
    Burner,
    CheckValve,
    Element,
    InLine,
    ShutOff,
    Store,
    Strainer,
)

IN_LINE_KINDS: dict[str, type[InLine]] = {
    "shut_off": ShutOff,
    "strainer": Strainer,
    "accumulator": Accumulator,
    "check_valve": CheckValve,
}


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


def insert_part(project: Project, variant_id: str, run_id: str, kind: str) -> Project:
    """Cut a run in two halves and put a part in line between them.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, run_id : str
        Where. [-]
    kind : str
        Key of `IN_LINE_KINDS`. [-]

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
    if kind not in IN_LINE_KINDS:
        raise ChangeRefused(path=path, reason="only parts with one way through go in line")
    part_id = fresh_id(kind, [part.id for part in system.parts])
    part = IN_LINE_KINDS[kind](id=part_id, place=run.place)
    halves = {"length_m": run.length_m / 2, "rise_m": run.rise_m / 2, "loss_k": run.loss_k / 2}
    second_id = fresh_id(f"{run.id}-after", [other.id for other in system.runs])
    first = run.model_copy(update={**halves, "end": PortRef(part=part_id, port="inlet")})
    second = run.model_copy(
        update={
            **halves,
            "id": second_id,
            "name": f"After {part.title.lower()}",
            "start": PortRef(part=part_id, port="outlet"),
        }
    )
    runs: list[Run] = []
    for other in system.runs:
        runs += [first, second] if other.id == run_id else [other]
    return with_system(project, variant_id, System(parts=(*system.parts, part), runs=tuple(runs)))


def remove_part(project: Project, variant_id: str, part_id: str) -> Project:
    """Take a part in line away and join the runs on both its sides.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, part_id : str
        Which. [-]

    Returns
    -------
    Project
        Without it; the joined run keeps the bore of the first and both lengths. [-]

    Raises
    ------
    ChangeRefused
        If the part is gone or does not stand in line.
    """
    system = _variant(project, variant_id).system
    path = f"variants.{variant_id}.system.parts.{part_id}"
    part = next((part for part in system.parts if part.id == part_id), None)
    if part is None:
        raise ChangeRefused(path=path, reason="it is not there any more")
    before = next((run for run in system.runs if run.end.part == part_id), None)
    after = next((run for run in system.runs if run.start.part == part_id), None)
    if not isinstance(part, IN_LINE) or before is None or after is None:
        raise ChangeRefused(path=path, reason="the route needs it")
    joined = before.model_copy(
        update={
            "end": after.end,
            "length_m": before.length_m + after.length_m,
            "rise_m": before.rise_m + after.rise_m,
            "loss_k": before.loss_k + after.loss_k,
        }
    )
    parts = tuple(other for other in system.parts if other.id != part_id)
    runs = tuple(
        joined if run.id == before.id else run for run in system.runs if run.id != after.id
    )
    return with_system(project, variant_id, System(parts=parts, runs=runs))


def fit_source(project: Project, variant_id: str, source: str, fitted: bool) -> Project:
    """Fit an element or a burner to the store, or take it out.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    source : str
        "element" or "burner". [-]
    fitted : bool
        Whether it should be there. [-]

    Returns
    -------
    Project
        With or without it; a new one has no power yet. [-]

    Raises
    ------
    ChangeRefused
        If the system has no store.
    """
    system = _variant(project, variant_id).system
    store = next((part for part in system.parts if isinstance(part, Store)), None)
    if store is None or source not in {"element", "burner"}:
        raise ChangeRefused(path=f"variants.{variant_id}.system", reason="it has no store")
    new: Element | Burner | None = None
    if fitted:
        new = Element() if source == "element" else Burner()
    changed = store.model_copy(update={source: new})
    parts = tuple(changed if part.id == store.id else part for part in system.parts)
    return with_system(project, variant_id, System(parts=parts, runs=system.runs))


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
    if _variant(project, variant_id).system.parts:
        raise ChangeRefused(path=f"variants.{variant_id}.system", reason="it has parts already")
    return with_system(project, variant_id, usual_route())
