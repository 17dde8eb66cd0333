"""Designs side by side on one trip: variants, kept versions, ways of heating not yet begun with."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final, Literal

from pydantic import ValidationError

from isotherma.catalogue.families import families, fixed_to
from isotherma.core.editing.difference import Difference, differences
from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.options.built import Tally, built
from isotherma.core.options.compared import Results
from isotherma.core.options.measures import measure
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.services.shopping import shopping
from isotherma.services.sizing import on_brief

MOST_SIDES: Final = 4
Kind = Literal["variant", "version", "family"]


@dataclass(frozen=True, slots=True)
class Side:
    """One of the designs: what it is, its name, the document it is run in.

    `key` says which in addresses: "variant:ID", "version:REVISION:ID", "family:ID:SIZES".
    """

    key: str
    kind: Kind
    name: str
    project: Project
    variant: Variant


@dataclass(frozen=True, slots=True)
class Compared:
    """A design with what came of it; `error` says why nothing did."""

    side: Side
    outcome: Outcome | None
    result: Results | None
    error: CoreError | None


def variant_side(project: Project, variant_id: str) -> Side | None:
    """Give a variant of the vehicle; None where it is gone."""
    found = next((one for one in project.variants if one.id == variant_id), None)
    if found is None:
        return None
    return Side(f"variant:{found.id}", "variant", found.name, project, found)


def version_side(
    project: Project, then: Project, revision_id: int, name: str, variant_id: str
) -> Side | None:
    """Give a variant as it was kept, under the brief of today; None where it was not there."""
    found = next((one for one in then.variants if one.id == variant_id), None)
    if found is None:
        return None
    made = project.model_copy(update={"variants": (found,)})
    return Side(
        f"version:{revision_id}:{found.id}", "version", f"{found.name}, {name}", made, found
    )


def family_side(
    project: Project, family_id: str, sizes: Sequence[str], tank_of: str
) -> Side | None:
    """Give a way of heating that is not begun with yet, in sizes or as it is laid out."""
    found = families().get(family_id)
    if found is None:
        return None
    family, steps = fixed_to(found, project.owned), []
    for axis, wanted in zip(family.axes, sizes, strict=False):
        step = next((one for one in axis.steps if one.id == wanted), None)
        if step is None:
            return None
        steps.append(step)
    try:
        made = on_brief(project, family, steps, tank_of)
    except (ChangeRefused, ValidationError):
        return None
    key = f"family:{family_id}" + (f":{','.join(sizes)}" if sizes else "")
    return Side(key, "family", family.name, made, made.variants[0])


def compared(side: Side, result: Outcome | CoreError) -> Compared:
    """Measure a side that was run."""
    if isinstance(result, CoreError):
        return Compared(side, None, None, result)
    made = shopping(side.project, side.variant.built, spare=False)
    price = Tally(made.money.sum, made.money.unknown)
    return Compared(
        side, result, Results(measure(result), built(result, made.listed.joints, price)), None
    )


def as_one_variant(side: Side) -> Project:
    """Give a side as the only variant of the document, under one id: for what differs in words."""
    bare = side.variant.model_copy(update={"id": "side", "name": "side"})
    return side.project.model_copy(update={"variants": (bare,)})


def changed(base: Side, other: Side) -> tuple[Difference, ...]:
    """List what differs from one design to another, in the document's order."""
    return differences(as_one_variant(base), as_one_variant(other))
