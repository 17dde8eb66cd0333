"""Versions: what was kept, named states, and what differs between one and now."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.editing.difference import Difference, differences
from isotherma.web.frame.changes import ChangeRow, change_row
from isotherma.web.frame.context import PageContext


@dataclass(frozen=True, slots=True)
class VersionRow:
    """One kept state."""

    id: int
    label: str
    name: str
    at: str
    current: bool
    compared: bool


@dataclass(frozen=True, slots=True)
class VersionsPage:
    """Every kept state of a vehicle."""

    template: ClassVar[str] = "versions.html"
    vehicle: str
    vehicle_id: int
    variant_id: str
    head_id: int
    rows: tuple[VersionRow, ...]
    only_named: bool
    against: str
    against_id: int
    changes: tuple[ChangeRow, ...]
    notice: str


def versions_page(
    context: PageContext, against: int = 0, *, only_named: bool = False
) -> VersionsPage:
    """Put the page of versions together, against one of them if asked."""
    opened, units, variant = context.opened, context.units, context.variant
    vehicles = context.services.vehicles
    history = vehicles.history(opened.vehicle_id)
    then = (against, vehicles.at(opened.vehicle_id, against)) if against else None
    found: tuple[Difference, ...] = ()
    words = ""
    if then is not None:
        found = differences(then[1], opened.project)
        row = next((item for item in history if item.id == then[0]), None)
        words = (row.name or row.label) if row is not None else "an earlier state"
    return VersionsPage(
        vehicle=opened.project.name,
        vehicle_id=opened.vehicle_id,
        variant_id=variant.id,
        head_id=opened.head_id,
        rows=tuple(
            VersionRow(
                item.id, item.label, item.name or "", item.at.strftime("%Y-%m-%d %H:%M"),
                item.id == opened.head_id, then is not None and item.id == then[0],
            )
            for item in history
            if item.name or not only_named
        ),
        only_named=only_named,
        against=words,
        against_id=then[0] if then is not None else 0,
        changes=tuple(change_row(item, units) for item in found[:300]),
        notice=context.notice,
    )  # fmt: skip
