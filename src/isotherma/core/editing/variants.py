"""Variants: copied, taken away, begun with a layout."""

from __future__ import annotations

from isotherma.core.editing.values import fresh_id, variant_of, with_system, with_variants
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project
from isotherma.core.system import System
from isotherma.core.system.layouts import usual_route


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
    source = variant_of(project, variant_id)
    taken = [variant.id for variant in project.variants]
    copy = source.model_copy(
        update={"id": fresh_id(source.id, taken), "name": f"{source.name[:70]} (copy)"}
    )
    return with_variants(project, (*project.variants, copy))


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
    variant_of(project, variant_id)
    left = tuple(variant for variant in project.variants if variant.id != variant_id)
    if not left:
        raise ChangeRefused(
            path=f"variants.{variant_id}", reason="a vehicle keeps at least one variant"
        )
    return with_variants(project, left)


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
    if variant_of(project, variant_id).system.parts:
        raise ChangeRefused(path=f"variants.{variant_id}.system", reason="it has parts already")
    return with_system(project, variant_id, system)
