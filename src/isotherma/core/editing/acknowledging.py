"""Findings somebody answers for, and whose rules count."""

from __future__ import annotations

from typing import Any

from isotherma.core.editing.values import set_values, variant_of
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Acknowledged, Project


def acknowledge(project: Project, variant_id: str, values: dict[str, Any]) -> Project:
    """Answer for a finding of the checks.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Whose finding it is. [-]
    values : dict
        Of an `Acknowledged`: which finding, as serious as it is, why, who, when. [-]

    Returns
    -------
    Project
        With it; one said before of the same place gives way. [-]

    Raises
    ------
    pydantic.ValidationError
        If reason or name are missing or too long.
    """
    said = Acknowledged.model_validate(values)
    kept = [one for one in variant_of(project, variant_id).acknowledged if not _same(one, said)]
    return _with(project, variant_id, (*kept, said))


def take_back(project: Project, variant_id: str, values: dict[str, Any]) -> Project:
    """Answer for a finding no longer.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Whose finding it is. [-]
    values : dict
        Its id, parts, runs and state. [-]

    Returns
    -------
    Project
        Without it. [-]

    Raises
    ------
    ChangeRefused
        If nobody answers for it.
    """
    before = variant_of(project, variant_id).acknowledged
    kept = tuple(
        one for one in before
        if any(getattr(one, name) != values[name] for name in ("id", "parts", "runs", "state"))
    )  # fmt: skip
    if len(kept) == len(before):
        raise ChangeRefused(path=f"variants.{variant_id}.acknowledged", reason="gone")
    return _with(project, variant_id, kept)


def choose_rules(project: Project, name: str) -> Project:
    """Say whose rules the checks go by.

    Parameters
    ----------
    project : Project
        The document. [-]
    name : str
        Of a rule set. [-]

    Returns
    -------
    Project
        With it in its vehicle. [-]
    """
    return set_values(project, {"vehicle.rule_set": name})


def _same(one: Acknowledged, other: Acknowledged) -> bool:
    return (one.id, one.parts, one.runs, one.state) == (
        other.id, other.parts, other.runs, other.state
    )  # fmt: skip


def _with(project: Project, variant_id: str, said: tuple[Acknowledged, ...]) -> Project:
    variants = tuple(
        variant.model_copy(update={"acknowledged": said}) if variant.id == variant_id else variant
        for variant in project.variants
    )
    return Project.model_validate({**dict(project), "variants": variants})
