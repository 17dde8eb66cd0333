"""Variants: copied, taken away, begun with a layout."""

from __future__ import annotations

from isotherma.core.editing.values import fresh_id, variant_of, with_system, with_variants
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project
from isotherma.core.system import System
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.pieces import PartBase


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
        raise ChangeRefused(path=f"variants.{variant_id}", reason="last_variant")
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


def lay(project: Project, variant_id: str, system: System, *, instead: bool = False) -> Project:
    """Put a whole system into a variant.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    system : System
        What to begin with. [-]
    instead : bool
        Whether it may take the place of parts that are there. [-]

    Returns
    -------
    Project
        With it; spaces, states and phases of before go. [-]

    Raises
    ------
    ChangeRefused
        If the variant has parts and they are not to go.
    """
    if variant_of(project, variant_id).system.parts and not instead:
        raise ChangeRefused(path=f"variants.{variant_id}.system", reason="has_parts")
    return with_system(project, variant_id, system)


def lay_with_own(project: Project, variant_id: str, system: System, part: PartBase) -> Project:
    """Begin with a layout that has what one owns in the place of its own part of that kind.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    system : System
        The layout. [-]
    part : PartBase
        What is owned. [-]

    Returns
    -------
    Project
        With the system; the part keeps the place and what sits in it, and is marked as owned. [-]

    Raises
    ------
    ChangeRefused
        If the layout has no such kind.
    """
    old = next((item for item in system.parts if type(item) is type(part)), None)
    if old is None:
        raise ChangeRefused(path=f"variants.{variant_id}.system", reason="has_no", part=part.title)
    kept = {"id": old.id, "space": old.space, "phase": old.phase, "fitted_in": old.fitted_in}
    own = part.model_copy(update={**kept, "owned": "owned"})
    parts = [own if item.id == old.id else item for item in system.parts]
    data = system.model_dump()
    data["parts"] = [item.model_dump() for item in parts]
    return lay(project, variant_id, System.model_validate(data), instead=True)


def copy_system(project: Project, variant_id: str, source_id: str) -> Project:
    """Begin with what another variant of the vehicle has.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, source_id : str
        Into which, from which. [-]

    Returns
    -------
    Project
        With the same system in both. [-]

    Raises
    ------
    ChangeRefused
        If one of them is gone, or they are the same.
    """
    if variant_id == source_id:
        raise ChangeRefused(path=f"variants.{variant_id}", reason="same_variant")
    return lay(project, variant_id, variant_of(project, source_id).system, instead=True)
