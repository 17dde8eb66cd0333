"""The part of the log's page where somebody says what the columns of a logger's file hold."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final, get_args

from pydantic import ValidationError

from isotherma.core.faults.readings import KINDS
from isotherma.core.faults.typed import offered
from isotherma.files.calendar import zone_names
from isotherma.files.logger_csv import LoggerTable, TableMeaning, TimeForm
from isotherma.files.readings_csv import BadRow
from isotherma.services.building import labels_of
from isotherma.web.frame.context import PageContext
from isotherma.wording import SESSION_WORDS, quantity_title

VIEW: Final = "columns"
PREVIEW: Final = 4
DATED: Final = ("iso", "day first", "month first")
FORM_WORDS: Final[Mapping[TimeForm, str]] = {
    "seconds": "seconds", "minutes": "minutes", "hours": "hours", "clock": "clock, 14:30:05",
    "iso": "2026-03-28 14:30:05", "day first": "28.03.2026 14:30",
    "month first": "03/28/2026 14:30",
}  # fmt: skip
DECIMALS: Final = ((".", "12.5, a point"), (",", "12,5, a comma"))


@dataclass(frozen=True, slots=True)
class ColumnsForm:
    """What was typed of a file's columns, by the names of its fields."""

    typed: Mapping[str, str]

    def get(self, name: str, usual: str = "") -> str:
        """Give a field as it was typed."""
        return self.typed.get(name, usual).strip()


@dataclass(frozen=True, slots=True)
class ColumnRow:
    """One column: its heading, what its first cells hold, what it is said to be."""

    place: int
    title: str
    cells: tuple[str, ...]
    offered: tuple[tuple[str, str, bool], ...]
    unit: str
    factor: str
    offset: str
    is_time: bool


@dataclass(frozen=True, slots=True)
class ColumnsPart:
    """A file that is held, and the form that says what it means."""

    number: int
    rows: int
    columns: tuple[ColumnRow, ...]
    forms: tuple[tuple[str, str, bool], ...]
    decimals: tuple[tuple[str, str, bool], ...]
    kinds: tuple[tuple[str, str, bool], ...]
    zone: str
    zones: tuple[str, ...]
    session: str
    by: str
    error: str
    bad: tuple[str, ...]


def columns_part(
    context: PageContext, number: int, table: LoggerTable, form: ColumnsForm | None, *,
    error: str = "", bad: Sequence[BadRow] = (),
) -> ColumnsPart:  # fmt: skip
    """Show the first rows of a file beside what its columns may hold."""
    place = (context.opened.vehicle_id, context.variant_id)
    meaning = context.services.importing.meaning(*place, table)
    typed = form or _as_typed(meaning)
    system = context.variant.system
    names = labels_of(system)
    quantities = [(f"{kind}.{part}" if part else kind) for kind, part in offered(system)
                  if not KINDS[kind].timed]  # fmt: skip
    time = typed.get("time", str(meaning.time))
    columns = tuple(
        ColumnRow(
            at, title, tuple(row[at] for row in table.rows[:PREVIEW]),
            tuple((key, quantity_title(key, names), key == typed.get(f"is.{at}"))
                  for key in quantities),
            typed.get(f"unit.{at}"), typed.get(f"factor.{at}", "1"),
            typed.get(f"offset.{at}", "0"), str(at) == time,
        )
        for at, title in enumerate(table.heading)
    )  # fmt: skip
    chosen, decimal = typed.get("time_form", meaning.time_form), typed.get("decimal", ".")
    kind = typed.get("kind", "draw")
    zone = typed.get("zone") or context.services.archives.zone(place[0]) or ""
    return ColumnsPart(
        number, len(table.rows), columns,
        tuple((key, words, key == chosen) for key, words in FORM_WORDS.items()),
        tuple((key, words, key == decimal) for key, words in DECIMALS),
        tuple((key, words, key == kind) for key, words in SESSION_WORDS.items()),
        zone, zone_names(), typed.get("session"), typed.get("by"), error,
        tuple(f"Line {one.number}: {one.why}." for one in bad),
    )  # fmt: skip


def _as_typed(meaning: TableMeaning) -> ColumnsForm:
    """Write a meaning as it would have been typed."""
    said = {"time": str(meaning.time), "time_form": meaning.time_form, "zone": meaning.zone,
            "decimal": meaning.decimal}  # fmt: skip
    for place, one in meaning.columns.items():
        said |= {f"is.{place}": one.quantity, f"unit.{place}": one.unit,
                 f"factor.{place}": f"{one.factor:g}",
                 f"offset.{place}": f"{one.offset:g}"}  # fmt: skip
    return ColumnsForm(said)


def meant(form: ColumnsForm, table: LoggerTable) -> TableMeaning:
    """Read what was said of a file's columns; ValueError says what cannot be read of it."""
    columns: dict[int, dict[str, object]] = {}
    for place, title in enumerate(table.heading):
        quantity = form.get(f"is.{place}")
        if not quantity:
            continue
        figures = {}
        for name, usual in (("factor", "1"), ("offset", "0")):
            said = form.get(f"{name}.{place}") or usual
            try:
                figures[name] = float(said.replace(",", "."))
            except ValueError:
                raise ValueError(f"{title}: the {name} “{said}” is no number.") from None
        columns[place] = {"quantity": quantity, "unit": form.get(f"unit.{place}"), **figures}
    form_said, zone = form.get("time_form", "seconds"), form.get("zone")
    if form_said not in get_args(TimeForm):
        raise ValueError("Choose how its times are written.")
    if form_said in DATED and not zone:
        raise ValueError("Choose the time zone, as Europe/Lisbon; none is guessed.")
    time = form.get("time", "0")
    if not time.isdigit() or int(time) >= len(table.heading):
        raise ValueError("Choose the column that holds the time.")
    if int(time) in columns:
        raise ValueError(f"{table.heading[int(time)]} is the time, and cannot hold a figure too.")
    if not columns:
        raise ValueError("Say of one column at least what it holds.")
    try:
        return TableMeaning.model_validate({
            "columns": columns, "time": int(time), "time_form": form_said, "zone": zone,
            "decimal": form.get("decimal", "."),
        })  # fmt: skip
    except ValidationError as error:
        first = error.errors()[0]
        raise ValueError(
            f"{'.'.join(str(step) for step in first['loc'])}: {first['msg']}."
        ) from None
