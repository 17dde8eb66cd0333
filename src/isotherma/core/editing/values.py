"""One value by its path, and what every other edit stands on."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from isotherma.core.errors import ChangeRefused
from isotherma.core.fields import Document
from isotherma.core.project import Project, Variant
from isotherma.core.system import System


def _step_into(value: object, key: str, path: str) -> object:
    if isinstance(value, tuple):
        for item in value:
            if getattr(item, "id", None) == key:
                return item
    elif isinstance(value, Document) and key in type(value).model_fields:
        found: object = getattr(value, key)
        return found
    raise ChangeRefused(path=path, reason="gone")


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
            raise ChangeRefused(path=path, reason="gone")
    if not isinstance(place, dict) or keys[-1] not in place:
        raise ChangeRefused(path=path, reason="no_property")
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


def variant_of(project: Project, variant_id: str) -> Variant:
    """Find a variant.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which. [-]

    Returns
    -------
    Variant
        That variant. [-]

    Raises
    ------
    ChangeRefused
        If it is not there.
    """
    try:
        return project.variant(variant_id)
    except KeyError:
        raise ChangeRefused(path=f"variants.{variant_id}", reason="gone") from None


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
    variant_of(project, variant_id)
    variants = (
        variant.model_copy(update={"system": system}) if variant.id == variant_id else variant
        for variant in project.variants
    )
    return with_variants(project, tuple(variants))


def with_variants(project: Project, variants: tuple[Variant, ...]) -> Project:
    """Give a project other variants, and validate the whole.

    Parameters
    ----------
    project : Project
        The document. [-]
    variants : tuple of Variant
        All its variants. [-]

    Returns
    -------
    Project
        With these. [-]
    """
    data = project.model_dump()
    data["variants"] = [variant.model_dump() for variant in variants]
    return Project.model_validate(data)


def with_lists(project: Project, variant_id: str, **lists: Sequence[object]) -> Project:
    """Give a variant's system other lists, and validate the whole.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    lists : sequence of Document or dict
        New content of lists, by the name of each. [-]

    Returns
    -------
    Project
        With these lists. [-]

    Raises
    ------
    pydantic.ValidationError
        If they do not fit together.
    """
    system = variant_of(project, variant_id).system
    data = system.model_dump()
    for name, items in lists.items():
        data[name] = [item.model_dump() if isinstance(item, Document) else item for item in items]
    return with_system(project, variant_id, System.model_validate(data))
