"""Figures that were learned from readings: taken, and given up again."""

from __future__ import annotations

from typing import Any

from isotherma.core.editing.values import variant_of, with_variants
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Measured, Project


def take_measured(project: Project, variant_id: str, values: dict[str, Any]) -> Project:
    """Let a measured figure win over what was entered or derived.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Whose figure it is. [-]
    values : dict
        Of a `Measured`. [SI]

    Returns
    -------
    Project
        With it; one measured before of the same figure gives way. [SI]

    Raises
    ------
    ChangeRefused
        If the design has no such part or property.
    pydantic.ValidationError
        If the value is none the property may have.
    """
    said = Measured.model_validate(values)
    variant = variant_of(project, variant_id)
    _, part_id, name = said.path.split(".")
    part = next((one for one in variant.system.parts if one.id == part_id), None)
    if part is None or name not in type(part).model_fields:
        raise ChangeRefused(path=said.path, reason="gone")
    # the bounds of the property hold for what was measured too
    type(part).model_validate({**part.model_dump(), name: said.value})
    kept = tuple(one for one in variant.measured if one.path != said.path)
    return _with(project, variant_id, (*kept, said))


def forget_measured(project: Project, variant_id: str, path: str) -> Project:
    """Give up a measured figure: what was entered or derived stands again.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Whose figure it is. [-]
    path : str
        Where it is. [-]

    Returns
    -------
    Project
        Without it. [SI]

    Raises
    ------
    ChangeRefused
        If it was not measured.
    """
    before = variant_of(project, variant_id).measured
    kept = tuple(one for one in before if one.path != path)
    if len(kept) == len(before):
        raise ChangeRefused(path=path, reason="gone")
    return _with(project, variant_id, kept)


def _with(project: Project, variant_id: str, measured: tuple[Measured, ...]) -> Project:
    return with_variants(project, tuple(
        variant.model_copy(update={"measured": measured}) if variant.id == variant_id else variant
        for variant in project.variants
    ))  # fmt: skip
