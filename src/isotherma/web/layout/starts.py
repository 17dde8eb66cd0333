"""Where a layout begins: starting layouts on the vehicle's own brief."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.catalogue.classes import classes
from isotherma.catalogue.layouts import layouts
from isotherma.core.editing import lay_with_own
from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.web.frame.context import PageContext
from isotherma.web.parts.page import LayoutOffer
from isotherma.wording import error_words, verdict

OWN_KINDS: Final = (
    "fresh_tank", "gravity_bag", "store", "combi", "canister", "through_flow_gas",
    "through_flow_electric", "liquid_heater", "air_heater", "sun_container", "kettle",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Began:
    """A starting layout with its verdict on this brief."""

    offer: LayoutOffer
    verdict: str


def _on_brief(project: Project, layout_id: str, own: str = "") -> Project:
    """Put a starting layout under the vehicle's brief, with what is owned in it."""
    layout = layouts()[layout_id]
    made = layout.project()
    if own in classes():
        made = lay_with_own(made, made.variants[0].id, layout.system, classes()[own].part)
    return project.model_copy(update={"variants": made.variants})


def owned() -> tuple[tuple[str, str], ...]:
    """List heaters and tanks one may own that some starting layout has a place for."""
    there = {part.kind for item in layouts().values() for part in item.system.parts}
    return tuple(
        (row.id, row.name) for row in classes().values()
        if row.kind in OWN_KINDS and row.kind in there
    )  # fmt: skip


def began(context: PageContext, own: str) -> tuple[Began, ...]:
    """Offer every starting layout, with its verdict on this brief where it is known already.

    With something owned, those that have a place for it.
    """
    found = []
    mine = classes().get(own)
    for item in layouts().values():
        if mine is not None and all(part.kind != mine.kind for part in item.system.parts):
            continue
        project = _on_brief(context.project, item.id, own)
        result = context.services.computing.peek(project, project.variants[0])
        words = "" if result is None else _verdict(result, context.units)
        found.append(Began(LayoutOffer(item.id, item.name, item.heat, item.summary), words))
    return tuple(found)


def _verdict(result: Outcome | CoreError, units: UnitSystem) -> str:
    return verdict(result, units) if isinstance(result, Outcome) else error_words(result, units)


@dataclass(frozen=True, slots=True)
class OfferPage:
    """The verdict of one starting layout on a vehicle's brief."""

    template: ClassVar[str] = "offer.html"
    vehicle: str
    name: str
    verdict: str


def offer_page(context: PageContext, layout_id: str, own: str = "") -> OfferPage | None:
    """Compute a starting layout on the vehicle's brief; None if there is no such layout."""
    if layout_id not in layouts():
        return None
    try:
        project = _on_brief(context.project, layout_id, own)
    except ChangeRefused:
        return None
    result = context.services.computing.result(project, project.variants[0])
    words = _verdict(result, context.units)
    return OfferPage(context.project.name, layouts()[layout_id].name, words)
