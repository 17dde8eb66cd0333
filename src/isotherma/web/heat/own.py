"""What a heater or store that is there already can do; a part of the Heat page, or its own."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import ClassVar

from isotherma.catalogue.families import families
from isotherma.core.options.can_do import WarmDraw
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.services.can_do import CAN_DO_WORK, OwnWay, ways_of
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, first_under_way_view
from isotherma.wording import ENDS, row_words, suits_words


@dataclass(frozen=True, slots=True)
class WayView:
    """One way of heating with it: what it can do, or why it cannot be run."""

    family: str
    name: str
    sizes: str
    row: str
    suits: str
    warm: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True)
class PartView:
    """One thing that is there already, in the ways of heating it has a place in."""

    label: str
    ways: tuple[WayView, ...]


@dataclass(frozen=True, slots=True)
class OwnPage:
    """Everything that heats or stores and is there already."""

    template: ClassVar[str] = "own.html"
    ids: dict[str, object]
    vehicle: str
    parts: tuple[PartView, ...]
    work: UnderWayView | None


def _warm(one: WarmDraw, units: UnitSystem) -> tuple[str, str, str]:
    """Write flow, minutes and why no longer; a head that gives less than asked says so."""
    flow = with_unit(one.flow_m3_per_s, "flow", units)
    short = one.gives_m3_per_s < 0.97 * one.flow_m3_per_s
    gives = f", the head gives {with_unit(one.gives_m3_per_s, 'flow', units)}" if short else ""
    lasts = duration_words(one.warm_s) if one.warm_s > 0.0 else "none"
    return f"{flow}{gives}", lasts, "an hour and more" if one.ends is None else ENDS[one.ends]


def _view(way: OwnWay, units: UnitSystem) -> WayView:
    name = families()[way.family].name
    name = f"{name[:1].lower()}{name[1:]}"
    if way.found is None:
        return WayView(way.family, name, way.sizes, "It cannot be run on this brief.", "", ())
    return WayView(
        way.family,
        name,
        way.sizes,
        row_words(way.found),
        suits_words(way.found, units),
        tuple(_warm(one, units) for one in _told_apart(way.found.warm)),
    )


def _told_apart(warm: Sequence[WarmDraw]) -> Iterator[WarmDraw]:
    """Leave out flows at which the head gives no more than at the one before."""
    before = 0.0
    for one in warm:
        if one.gives_m3_per_s > 1.005 * before or not before:
            yield one
        before = one.gives_m3_per_s


def has_own(context: PageContext) -> bool:
    """Say whether something that heats or stores is there already."""
    return any(ways_of(context.project, part.id) for part in context.project.owned)


def own_page(context: PageContext) -> OwnPage:
    """Give what is found by now, and how far the rest is."""
    project, variant = context.project, context.variant
    owning, asker = context.services.owning, context.asker
    found = [
        (part.label, owning.ways(project, variant, part.id, asker)) for part in project.owned
    ]  # fmt: skip
    every = [way for _, ways in found for way in ways]
    return OwnPage(
        ids={"vehicle_id": context.opened.vehicle_id, "variant_id": context.variant_id},
        vehicle=project.name,
        parts=tuple(
            PartView(label, tuple(_view(way, context.units) for way in ways
                                  if isinstance(way, OwnWay)))
            for label, ways in found if ways
        ),
        work=first_under_way_view(every, CAN_DO_WORK, context.path_of("design.own"), "#own-does"),
    )  # fmt: skip
