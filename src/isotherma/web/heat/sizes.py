"""Ways of heating sized on the vehicle's brief: what does it, what strikes the others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from isotherma.catalogue.classes import PRICES
from isotherma.catalogue.families import families
from isotherma.core.options.columns import Columns, price_span
from isotherma.core.project import Wish
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.services.sizing import SIZING_WORK, SizedRow
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, first_under_way_view
from isotherma.wording import REFUSED, all_struck_words, change_words, days_words
from isotherma.wording.reader import Reader


@dataclass(frozen=True, slots=True)
class SizeRow:
    """A way of heating in the table: what it is sized to, or by what it is struck."""

    family: str
    name: str
    sizes: str
    sent: str
    why: str
    by_hand: bool
    cells: tuple[tuple[str, str], ...]
    wishes: tuple[WishCell, ...] = ()


@dataclass(frozen=True, slots=True)
class WishCell:
    """What is said of a way of heating on a wish of the person's own."""

    id: str
    name: str
    says: str
    why: str


@dataclass(frozen=True, slots=True)
class SizesPage:
    """All ways of heating, as far as they are sized."""

    template: ClassVar[str] = "sizes.html"
    ids: dict[str, object]
    vehicle: str
    standing: tuple[SizeRow, ...]
    struck: tuple[SizeRow, ...]
    work: UnderWayView | None
    done: int
    whole: int
    wishes: tuple[tuple[str, str], ...] = ()


def _cells(columns: Columns, row: SizedRow, units: UnitSystem) -> tuple[tuple[str, str], ...]:
    """Write the figures to choose by."""

    def shown(value: float | None, style: str) -> str:
        return "not known" if value is None else with_unit(value, style, units, 2)

    fuels = [
        with_unit(value, style, units, 2) + said
        for value, style, said in (
            (columns.gas_kg, "mass", " gas"), (columns.diesel_m3, "volume", " diesel"),
            (columns.mains_j, "energy", " mains"),
            (columns.battery_j, "battery_energy", " battery"),
        )
        if value > 0.0
    ]  # fmt: skip
    low, high = price_span(columns.price, PRICES)
    wait = columns.longest_wait_s
    stops = sorted({stop.day for stop in row.needed})
    return (
        ("Longest wait", "never warm" if wait is None else duration_words(wait)),
        ("Washing a day", with_unit(columns.washing_m3, "volume", units)),
        ("Takes a day", ", ".join(fuels) or "nothing"),
        ("Room", shown(columns.room_m3, "volume")),
        ("Dry mass", shown(columns.mass_kg, "mass")),
        ("About", f"{low:g} to {high:g}" + (" and what is unpriced" if columns.unpriced else "")),
        ("Ends of pipes", str(columns.joints)),
        ("Flame", "yes" if columns.flame else "no"),
        ("Stops it needs", f"on {days_words(stops)}" if stops else "none"),
    )


def _row(row: SizedRow, units: UnitSystem) -> SizeRow:
    reader = Reader({}, units)
    name = families()[row.family].name
    if row.by_hand:
        why = "You struck it."
    elif row.by_wish[0]:
        said = f": {row.by_wish[1]}" if row.by_wish[1] else ""
        why = f"Your wish “{row.by_wish[0]}” says no{said}."
    elif row.refused:
        why = f"You will not have {', '.join(REFUSED[what] for what in row.refused)}."
    elif row.error:
        why = "It cannot be run on this brief as it stands."
    elif not row.stands:
        why = f"At its largest: {all_struck_words(row.struck, units)}."
        if row.saved is not None:
            why += f" It would do it so: {change_words(row.saved, reader)}."
    elif row.smaller_struck:
        why = f"{row.smaller_names}: {all_struck_words(row.smaller_struck, units)}."
    else:
        why = "The smallest there is."
    return SizeRow(
        row.family, name, row.names,
        ",".join(row.sizes), why, row.by_hand,
        () if row.columns is None else _cells(row.columns, row, units),
    )  # fmt: skip


def _wishes(wishes: Sequence[Wish], family: str) -> tuple[WishCell, ...]:
    found = []
    for wish in wishes:
        said = wish.judgement(family)
        found.append(
            WishCell(wish.id, wish.name, said.says if said else "", said.why if said else "")
        )
    return tuple(found)


def sizes_page(context: PageContext) -> SizesPage:
    """Give what is sized by now, and how far the rest is."""
    found = context.services.sizing.rows(context.project, context.variant, context.asker)
    rows = [row for row in found if isinstance(row, SizedRow)]
    work = first_under_way_view(found, SIZING_WORK, context.path_of("design.sizes"), "#sizes")
    wishes = context.project.wishes
    made = [
        (row, replace(_row(row, context.units), wishes=_wishes(wishes, row.family))) for row in rows
    ]
    return SizesPage(
        ids={"vehicle_id": context.opened.vehicle_id, "variant_id": context.variant_id},
        vehicle=context.project.name,
        standing=tuple(view for row, view in made if row.stands),
        struck=tuple(view for row, view in made if not row.stands),
        work=work,
        done=len(rows),
        whole=len(found),
        wishes=tuple((wish.id, wish.name) for wish in wishes),
    )
