"""Variants: copied, taken away, begun with a layout."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from isotherma.core.editing.values import (
    fresh_id,
    set_values,
    variant_of,
    with_system,
    with_variants,
)
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project, Variant
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds.water import FreshTank
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


def keep_first(project: Project, variant_id: str) -> Project:
    """Put a variant before all others; they stay in their order.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which. [-]

    Returns
    -------
    Project
        With it first. [-]

    Raises
    ------
    ChangeRefused
        If it is not there.
    """
    first = variant_of(project, variant_id)
    others = tuple(variant for variant in project.variants if variant.id != variant_id)
    return with_variants(project, (first, *others))


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


def with_tank(system: System, of: System) -> System:
    """Give a route the litres of another's fresh tank: water is the vehicle's, not the heater's.

    Parameters
    ----------
    system, of : System
        The route, and where the litres come from. [-]

    Returns
    -------
    System
        As it was where the other has no fresh tank. [-]
    """
    tank = next((part for part in of.parts if isinstance(part, FreshTank)), None)
    if tank is None:
        return system
    litres = {"nominal_m3": tank.nominal_m3, "volume_m3": tank.volume_m3}
    parts = tuple(
        part.model_copy(update=litres) if isinstance(part, FreshTank) else part
        for part in system.parts
    )
    return system.model_copy(update={"parts": parts})


def lay_sized(
    project: Project, variant_id: str, system: System, values: Mapping[str, object], name: str
) -> Project:
    """Begin with a route in the sizes that were found for it, in a variant of its own.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        The variant that is looked at; it is used where it is still empty. [-]
    system : System
        The route. [-]
    values : mapping of str to object
        Sizes by path in the system. [SI]
    name : str
        What the variant is called. [-]

    Returns
    -------
    Project
        With that variant last, or filled. [-]
    """
    here = variant_id
    if variant_of(project, variant_id).system.parts:
        taken = [variant.id for variant in project.variants]
        here = fresh_id(name, taken)
        project = with_variants(
            project, (*project.variants, Variant(id=here, name=name, system=System()))
        )
    laid = lay(project, here, system)
    sizes = {f"variants.{here}.system.{path}": value for path, value in values.items()}
    return set_values(laid, {**sizes, f"variants.{here}.name": name})


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


def _said(own: AnyKind) -> dict[str, object]:
    """Give what is known of a part: its figures, its name, and choices that are not the usual."""
    plain = type(own).model_fields
    values = {name: getattr(own, name) for name in plain if name not in ("id", "kind")}
    return {
        name: value for name, value in values.items()
        if isinstance(value, float) or (value is not None and value != plain[name].default)
    }  # fmt: skip


def with_owned(system: System, owned: Sequence[AnyKind]) -> System:
    """Put what is there already into a layout that has a place for it.

    Parameters
    ----------
    system : System
        The layout. [-]
    owned : sequence of part
        What the vehicle has or somebody owns. [-]

    Returns
    -------
    System
        Of each kind the layout's first part takes what is known of the owned one; a heater or
        store that is known well enough takes its place whole. [-]
    """
    parts = list(system.parts)
    for own in owned:
        at = next((index for index, part in enumerate(parts) if type(part) is type(own)), None)
        if at is None:
            continue
        old = parts[at]
        kept = {"id": old.id, "space": old.space, "phase": old.phase, "fitted_in": old.fitted_in}
        if own.side == "heat":
            parts[at] = own.model_copy(update={**kept, "owned": "owned"})
            continue
        parts[at] = old.model_copy(update={**_said(own), **kept, "owned": "owned"})
    data = system.model_dump()
    data["parts"] = [part.model_dump() for part in parts]
    return System.model_validate(data)


def add_owned(project: Project, part: AnyKind) -> Project:
    """Note a part that is there already.

    Parameters
    ----------
    project : Project
        The document. [-]
    part : part
        What; it gets an id of its own. [-]

    Returns
    -------
    Project
        With it last. [-]
    """
    taken = [other.id for other in project.owned]
    own = part.model_copy(update={"id": fresh_id(part.label, taken), "owned": "owned"})
    return _with_owned_list(project, (*project.owned, own))


def remove_owned(project: Project, part_id: str) -> Project:
    """Forget a part that was noted as there already.

    Parameters
    ----------
    project : Project
        The document. [-]
    part_id : str
        Which. [-]

    Returns
    -------
    Project
        Without it; routes that have it keep it. [-]

    Raises
    ------
    ChangeRefused
        If it is not there.
    """
    left = tuple(part for part in project.owned if part.id != part_id)
    if len(left) == len(project.owned):
        raise ChangeRefused(path=f"owned.{part_id}", reason="gone")
    return _with_owned_list(project, left)


def _with_owned_list(project: Project, owned: Sequence[AnyKind]) -> Project:
    data = project.model_dump()
    data["owned"] = [part.model_dump() for part in owned]
    return Project.model_validate(data)


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
