"""Ways of heating sized on the vehicle's brief: what does it, what strikes the others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Final
from urllib.parse import urlencode

from isotherma.catalogue.classes import PRICES
from isotherma.catalogue.families import families
from isotherma.catalogue.layouts import layouts
from isotherma.core.options.columns import Columns, price_span
from isotherma.core.options.extremes import FROST_C, LITTLE_M3_PER_S
from isotherma.core.project import Project, Wish
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.system import AnyKind
from isotherma.services.long_work import UnderWay
from isotherma.services.sizing import SIZING_WORK, SizedRow
from isotherma.web.frame.changes import sent_changes
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, first_under_way_view
from isotherma.web.heat.offers import FILTERS, Mini, asked_of, layouts_asked, mini_of
from isotherma.web.heat.trade import TRADED, Trade, draw_trade, in_order
from isotherma.wording import (
    FOOT_WORDS,
    REFUSED,
    all_struck_words,
    change_words,
    days_words,
    extreme_words,
    failure_words,
    works_without_words,
)
from isotherma.wording.reader import Reader


@dataclass(frozen=True, slots=True)
class SizeRow:
    """A way of heating in the table: what it is sized to, or by what it is struck."""

    family: str
    name: str
    sizes: str
    sent: str
    stands: bool
    why: str
    back: bool
    cells: tuple[tuple[str, str], ...]
    more: tuple[tuple[str, str], ...]
    summary: str
    mini: Mini
    unused: str
    saves: str
    saved: str
    wishes: tuple[WishCell, ...] = ()


@dataclass(frozen=True, slots=True)
class WishCell:
    """What is said of a way of heating on a wish of the person's own."""

    id: str
    name: str
    says: str
    why: str


@dataclass(frozen=True, slots=True)
class ColumnView:
    """A column of the table: its title, and where it puts the least first."""

    title: str
    key: str
    path: str


@dataclass(frozen=True, slots=True)
class WaitingRow:
    """A way of heating that is not sized yet."""

    family: str
    name: str
    summary: str
    mini: Mini


@dataclass(frozen=True, slots=True)
class SizesPage:
    """All ways of heating, as far as they are sized.

    While some are not, each stays in its place in our order, so that nothing moves as they come.
    """

    template: ClassVar[str] = "sizes.html"
    ids: dict[str, object]
    vehicle: str
    standing: tuple[SizeRow, ...]
    struck: tuple[SizeRow, ...]
    slots: tuple[tuple[SizeRow | None, WaitingRow], ...]
    glyphs: tuple[str, ...]
    trade: Trade | None
    order: str
    work: UnderWayView | None
    done: int
    whole: int
    wishes: tuple[tuple[str, str], ...] = ()
    unasked: bool = False
    columns: tuple[ColumnView, ...] = ()
    span: int = 2  # of a row under the columns, with its name and its acts


# the columns of the table, and what orders by them
COLUMNS: Final = (
    ("Longest wait", "wait"), ("Between people", "again"), ("Takes a day", ""), ("Room", "room"),
    ("About", "money"),
)  # fmt: skip


def _cells(columns: Columns, row: SizedRow, units: UnitSystem) -> tuple[tuple[str, str], ...]:
    """Write the figures to choose by."""

    def shown(value: float | None, style: str) -> str:
        return "not known" if value is None else with_unit(value, style, units, 2)

    wait = columns.longest_wait_s
    again = columns.ready_again_s
    return (
        ("Longest wait", "never warm" if wait is None else duration_words(wait)),
        ("Between people", "not that day" if again is None else duration_words(again)),
        ("Takes a day", ", ".join(_fuels(columns, units)) or "nothing"),
        ("Room", shown(columns.room_m3, "volume")),
        ("About", _money(columns)),
    )  # fmt: skip


def _money(columns: Columns) -> str:
    """Write what is to be bought: from and to, with a word on what has no price class."""
    low, high = price_span(columns.price, PRICES)
    if not columns.price:
        return "not known" if columns.unpriced else "nothing to buy"
    return f"{low:g} to {high:g}" + (" and what is unpriced" if columns.unpriced else "")


def _fuels(columns: Columns, units: UnitSystem) -> list[str]:
    return [
        with_unit(value, style, units, 2) + said
        for value, style, said in (
            (columns.gas_kg, "mass", " gas"), (columns.diesel_m3, "volume", " diesel"),
            (columns.mains_j, "energy", " mains"),
            (columns.battery_j, "battery_energy", " battery"),
        )
        if value > 0.0
    ]  # fmt: skip


def _more(columns: Columns, row: SizedRow, units: UnitSystem) -> tuple[tuple[str, str], ...]:
    """Write the figures that fewer choose by."""
    mass = columns.mass_kg
    stops = sorted({stop.day for stop in row.needed})
    set_up = duration_words(columns.setup_s) if columns.setup_s > 0.0 else "nothing to do"
    edges = () if row.extremes is None else (
        ("At 2 L/min" if units is UnitSystem.METRIC else
         f"At {with_unit(LITTLE_M3_PER_S, 'flow', units)}",
         extreme_words(row.extremes.little, units)),
        (f"At {with_unit(FROST_C, 'temperature', units)}",
         extreme_words(row.extremes.frost, units)),
        ("With a foot pump", FOOT_WORDS[row.extremes.foot]),
        ("Heat lost standing by", with_unit(row.extremes.lost_w, "power", units, 2)),
    )  # fmt: skip
    return (
        ("Works without", works_without_words(columns.leans)),
        (
            "If its heat fails",
            "–" if columns.heat_fails is None else failure_words(columns.heat_fails, units),
        ),
        *edges,
        ("Warm of asked", f"{duration_words(columns.warm_s)} of {duration_words(columns.asked_s)}"),
        ("Washing a day", with_unit(columns.washing_m3, "volume", units)),
        ("Cold first, a day", with_unit(columns.waiting_m3, "volume", units, 2)),
        ("Other water a day", with_unit(columns.other_m3, "volume", units)),
        ("Dry mass", "not known" if mass is None else with_unit(mass, "mass", units, 2)),
        ("Set up and pack", set_up),
        (
            "To get at the heat",
            duration_words(columns.reach_s) if columns.reach_s > 0.0 else "nothing to take out",
        ),
        ("Parts", str(columns.parts)),
        ("Joints", str(columns.joints)),
        ("Holes", str(columns.holes)),
        ("Flame", "yes" if columns.flame else "no"),
        ("Fitted by", "licensed people" if columns.licensed else "whoever builds it"),
        ("Stops it needs", f"on {days_words(stops)}" if stops else "none"),
    )


def _row(row: SizedRow, units: UnitSystem, project: Project) -> SizeRow:
    reader, owned = Reader({}, units), project.owned
    name = families()[row.family].name
    if row.by_hand:
        why = "You struck it."
    elif row.by_wish[0]:
        said = f": {row.by_wish[1]}" if row.by_wish[1] else ""
        why = f"Your wish “{row.by_wish[0]}” says no{said}."
    elif row.unused:
        why = f"Leaves your {' and '.join(row.unused)} unused."
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
        why = "The smallest there is." if row.names else "With what is there already."
    return SizeRow(
        row.family, name, row.names or "with what you have",
        ",".join(row.sizes), row.stands, why, row.by_hand or bool(row.unused),
        () if row.columns is None else _cells(row.columns, row, units),
        () if row.columns is None else _more(row.columns, row, units),
        *_told(row.family), "" if row.unused else _unused(row.family, owned), _saves(row, project),
        "" if row.saved is None else change_words(row.saved, reader),
    )  # fmt: skip


def _saves(row: SizedRow, project: Project) -> str:
    """Write the change of the brief that would save a struck family, as a form carries it.

    Empty where there is none, or where it changes a part of the family itself.
    """
    if row.saved is None or not all(path.startswith("brief.") for path in row.saved.values):
        return ""
    return sent_changes(project, row.saved.values)


def _told(family: str) -> tuple[str, Mini]:
    """Give the sentence of a way of heating, and its small drawing."""
    layout = families()[family].layout
    return layouts()[layout].summary, mini_of(layout)


def _unused(family: str, owned: Sequence[AnyKind]) -> str:
    """Name what is there already and has no place in a way of heating."""
    there = {part.kind for part in layouts()[families()[family].layout].system.parts}
    return ", ".join(part.label for part in owned if part.kind not in there)


def _wishes(wishes: Sequence[Wish], family: str) -> tuple[WishCell, ...]:
    found = []
    for wish in wishes:
        said = wish.judgement(family)
        found.append(
            WishCell(wish.id, wish.name, said.says if said else "", said.why if said else "")
        )
    return tuple(found)


def _glyphs(minis: Sequence[Mini]) -> tuple[str, ...]:
    return tuple(sorted({node.glyph for mini in minis for node in mini.nodes}))


def _waiting(family: str) -> WaitingRow:
    return WaitingRow(family, families()[family].name, *_told(family))


def sizes_page(context: PageContext, *, asks: bool = True) -> SizesPage:
    """Give what is sized by now, and how far the rest is; else only what others have asked for."""
    sizing = context.services.sizing
    found: Sequence[SizedRow | UnderWay | None]
    if asks:
        found = sizing.rows(context.project, context.variant, context.asker)
    else:
        found = sizing.seen(context.project, context.variant)
    order = context.query.get("order", "")
    kept = ("order", "across", "up", "own", *FILTERS)
    asked = {key: context.query.get(key, "")[:60] for key in kept}
    passes = layouts_asked(*asked_of(context.query))
    fits = [family.layout in passes for family in families().values()]
    rows = [row for row in found if isinstance(row, SizedRow)]
    placed = len(rows) < len(found) or context.query.get("placed") == "1"
    sizes_path = context.path_of("design.sizes")
    others = {key: value for key, value in asked.items() if value}
    query = urlencode(others | {"placed": "1"})
    work = first_under_way_view(found, SIZING_WORK, f"{sizes_path}?{query}", "#sizes")
    wishes = context.project.wishes
    shown_ids = {key for key, fit in zip(families(), fits, strict=True) if fit}
    seen = [row for row in rows if row.family in shown_ids]
    standing = in_order([row for row in seen if row.stands], order)

    def view(row: SizedRow) -> SizeRow:
        made = _row(row, context.units, context.project)
        return replace(made, wishes=_wishes(wishes, row.family))

    slots = tuple(
        (view(row) if isinstance(row, SizedRow) else None, _waiting(key))
        for key, row in zip(families(), found, strict=True) if key in shown_ids
    ) if placed else ()  # fmt: skip
    shown = () if placed else tuple(view(row) for row in standing)
    struck = () if placed else tuple(view(row) for row in seen if not row.stands)
    return SizesPage(
        ids={"vehicle_id": context.opened.vehicle_id, "variant_id": context.variant_id},
        vehicle=context.project.name,
        standing=shown,
        struck=struck,
        slots=slots,
        glyphs=_glyphs([_waiting(key).mini for key in families()]),
        trade=None if placed else draw_trade(
            standing, asked["across"], asked["up"], context.units
        ),
        order=order if order in TRADED else "",
        work=work,
        done=len(rows),
        whole=len(found),
        wishes=tuple((wish.id, wish.name) for wish in wishes),
        unasked=any(row is None for row in found),
        span=len(COLUMNS) + 2,
        columns=tuple(
            ColumnView(title, key, f"{sizes_path}?{urlencode(others | {'order': key})}"
                       if key else "")
            for title, key in COLUMNS
        ),
    )  # fmt: skip
