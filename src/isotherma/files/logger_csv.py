"""Tables of loggers: whatever a box wrote, with what somebody says its columns mean."""

from __future__ import annotations

import csv
import re
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, tzinfo
from hashlib import sha256
from math import isfinite
from typing import Annotated, Final, Literal

from pydantic import BaseModel, ConfigDict, Field

from isotherma.core.errors import QuantityError
from isotherma.core.faults.readings import KINDS, Reading
from isotherma.core.faults.typed import OF_NO_PART
from isotherma.core.learning.rows import Row
from isotherma.files.calendar import zone_named
from isotherma.files.readings_csv import MOST_ROWS, BadRow, ReadingsUnreadable, scale_of

SEPARATORS: Final = ";\t,|"
MOST_COLUMNS: Final = 60
PREAMBLE: Final = 40  # lines a box may write before its heading
LOOKED_AT: Final = 40  # rows, to guess by
TimeForm = Literal["seconds", "minutes", "hours", "clock", "iso", "day first", "month first"]
Decimal = Literal[".", ","]
_CLOCK: Final = re.compile(r"(\d{1,3}):(\d{1,2})(?::(\d{1,2}(?:[.,]\d+)?))?")
_DATE: Final = re.compile(
    r"(\d{1,2})[./-](\d{1,2})[./-](\d{4}),? +(\d{1,2}):(\d{2})(?::(\d{2}))?(?: *([AaPp])\.?[Mm])?"
)
_PLAIN: Final[dict[str, re.Pattern[str]]] = {
    ",": re.compile(r"-?\d+(,\d+)?"), ".": re.compile(r"-?\d+(\.\d+)?"),
}  # fmt: skip
_THOUSANDS: Final[dict[str, re.Pattern[str]]] = {
    ",": re.compile(r"[-+]?\d{1,3}(\.\d{3})+(,\d*)?"),
    ".": re.compile(r"[-+]?\d{1,3}(,\d{3})+(\.\d*)?"),
}
_NUMBER: Final = re.compile(r"[-+]?(\d+([.,]\d*)?|[.,]\d+)([eE][-+]?\d+)?")


@dataclass(frozen=True, slots=True)
class LoggerTable:
    """Cells below a heading; `first` is the number of the line the first row stands on."""

    heading: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    separator: str
    first: int

    @property
    def name(self) -> str:
        """Name what is remembered of such a heading."""
        return sha256("\x1f".join(self.heading).encode()).hexdigest()[:40]


class ColumnMeaning(BaseModel):
    """What a column holds: a quantity as `temp.store`, its unit, what it is scaled by first."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    quantity: Annotated[str, Field(max_length=80)]
    unit: Annotated[str, Field(max_length=20)] = ""
    factor: Annotated[float, Field(allow_inf_nan=False)] = 1.0
    offset: Annotated[float, Field(allow_inf_nan=False)] = 0.0


class TableMeaning(BaseModel):
    """What a table means: columns by their number, which one is the time and how it is written."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    columns: dict[int, ColumnMeaning]
    time: int
    time_form: TimeForm = "seconds"
    zone: Annotated[str, Field(max_length=60)] = ""
    decimal: Decimal = "."


def read_logger(text: str) -> LoggerTable:
    """Find heading and rows of a table, whatever separates its cells.

    Parameters
    ----------
    text : str
        As the box wrote it; lines before the heading are left out. [-]

    Returns
    -------
    LoggerTable
        Every row as long as the heading. [-]

    Raises
    ------
    ReadingsUnreadable
        If there is no table in it, or it is too long.
    """
    lines = text.removeprefix("\ufeff").splitlines()
    found = _heading(lines)
    if found is None:
        raise ReadingsUnreadable(
            "There is no table in it: no line with two columns and figures below it."
        )
    at, separator = found
    heading, *rows = csv.reader(lines[at:], delimiter=separator)
    if len(heading) > MOST_COLUMNS:
        raise ReadingsUnreadable(f"More than {MOST_COLUMNS} columns; leave some out.")
    if len(rows) > MOST_ROWS:
        raise ReadingsUnreadable(f"More than {MOST_ROWS} rows; take every tenth.")
    width = len(heading)
    cells = tuple(
        tuple(cell.strip() for cell in (*row, *[""] * (width - len(row)))[:width])
        for row in rows if any(cell.strip() for cell in row)
    )  # fmt: skip
    if not cells:
        raise ReadingsUnreadable("There is a heading, and no row below it.")
    names = tuple(name.strip() or f"column {place}" for place, name in enumerate(heading, start=1))
    return LoggerTable(names, cells, separator, at + 2)


def _heading(lines: Sequence[str]) -> tuple[int, str] | None:
    """Find the line of the heading: the last of words before rows as wide, mostly of figures."""
    for at, line in enumerate(lines[:PREAMBLE]):
        for separator in SEPARATORS:
            cells = next(csv.reader([line], delimiter=separator), [])
            if len(cells) < 2 or any(_figure(cell) for cell in cells):
                continue
            below = next((row for row in csv.reader(lines[at + 1 :], delimiter=separator)
                          if any(cell.strip() for cell in row)), [])  # fmt: skip
            if abs(len(below) - len(cells)) <= 1 and any(_figure(cell) for cell in below):
                return at, separator
    return None


def _figure(cell: str) -> bool:
    return _NUMBER.fullmatch(cell.strip()) is not None


def guessed(table: LoggerTable) -> TableMeaning:
    """Guess which column is the time, how it is written, and how decimals are.

    Parameters
    ----------
    table : LoggerTable
        As it was read. [-]

    Returns
    -------
    TableMeaning
        No column has a quantity yet. [-]
    """
    rows = table.rows[:LOOKED_AT]
    commas = sum("," in cell and _figure(cell) for row in rows for cell in row)
    points = sum("." in cell and _figure(cell) for row in rows for cell in row)
    decimal: Decimal = "," if commas > points and table.separator != "," else "."
    words = ("time", "date", "zeit", "heure", "hora", "uhr", "stamp")
    named = [place for place, name in enumerate(table.heading)
             if any(word in name.lower() for word in words)]  # fmt: skip
    dated = [place for place in range(len(table.heading))
             if rows[0][place] and _form(rows, place) != "seconds"]  # fmt: skip
    time = next(iter([*(place for place in named if place in dated), *dated, *named]), 0)
    return TableMeaning(columns={}, time=time, time_form=_form(rows, time), decimal=decimal)


def _form(rows: Sequence[Sequence[str]], place: int) -> TimeForm:
    """Guess how times are written: a day over 12 says which number is the day."""
    form: TimeForm = "seconds"
    for row in rows:
        cell = row[place]
        if _CLOCK.fullmatch(cell):
            return "clock"
        dated = _DATE.fullmatch(cell)
        if dated is not None:
            if int(dated[1]) > 12:
                return "day first"
            if int(dated[2]) > 12 or dated[7]:
                return "month first"
            form = "day first"
        elif not _figure(cell) and _iso(cell) is not None:
            return "iso"
    return form


def _iso(cell: str) -> datetime | None:
    try:
        return datetime.fromisoformat(cell)
    except ValueError:
        return None


def logger_rows(
    table: LoggerTable, meaning: TableMeaning, *, session: str, kind: str,
    parts: Collection[str],
) -> Iterator[Row | BadRow | None]:  # fmt: skip
    """Give the readings of a table, row by row; after each row of it None.

    Parameters
    ----------
    table : LoggerTable
        As it was read. [-]
    meaning : TableMeaning
        What its columns hold. [-]
    session, kind : str
        What the readings belong to. [-]
    parts : collection of str
        Ids of the design's parts. [-]

    Returns
    -------
    iterator of Row, BadRow or None
        Times from the first row's; an empty cell is no reading; a bad row has its line. [-]

    Raises
    ------
    ReadingsUnreadable
        If no column means anything, or one of them something that is not there.
    """
    columns = [(place, *_column(one, table.heading[place], parts))
               for place, one in sorted(meaning.columns.items())]  # fmt: skip
    if not columns:
        raise ReadingsUnreadable("Say of one column at least what it holds.")
    zone = zone_named(meaning.zone) if meaning.zone else UTC
    if zone is None:
        raise ReadingsUnreadable(f"There is no time zone “{meaning.zone}”; as Europe/Lisbon.")
    return _rows(table, meaning, columns, zone, session, kind)


_Column = tuple[int, str, str | None, float, float]


def _rows(
    table: LoggerTable, meaning: TableMeaning, columns: Sequence[_Column], zone: tzinfo,
    session: str, kind: str,
) -> Iterator[Row | BadRow | None]:  # fmt: skip
    first: float | None = None
    number = 0
    for line, cells in enumerate(table.rows, start=table.first):
        try:
            at = _time_s(cells[meaning.time], meaning, zone)
        except ValueError as error:
            yield BadRow(line, f"its time {error}")
            yield None
            continue
        first = at if first is None else first
        for place, name, part, slope, start in columns:
            cell = cells[place]
            if not cell:
                continue
            try:
                value = _value(cell, meaning.decimal)
            except ValueError:
                yield BadRow(line, f"{table.heading[place]}: “{cell[:30]}” is no number")
                continue
            number += 1
            reading = Reading(name, part, start + slope * value, None)
            yield Row(number, session, kind, at - first, reading)
        yield None


def _column(
    one: ColumnMeaning, title: str, parts: Collection[str]
) -> tuple[str, str | None, float, float]:
    """Give a column's quantity, part, and what its cells are multiplied by and begin at."""
    name, _, part = one.quantity.partition(".")
    if name not in KINDS or KINDS[name].timed:
        raise ReadingsUnreadable(f"{title}: there is no quantity “{name}” to read in a column.")
    if (part or name not in OF_NO_PART) and part not in parts:
        raise ReadingsUnreadable(f"{title}: there is no part “{part}”.")
    kind = KINDS[name]
    try:
        slope, start = scale_of(one.unit or kind.unit, kind)
    except QuantityError as error:
        raise ReadingsUnreadable(
            f"{title}: “{one.unit}” is no unit for it; as {error.example}."
        ) from None
    return name, part or None, slope * one.factor, start + slope * one.offset


def _value(cell: str, decimal: Decimal) -> float:
    """Read a number; the other sign may stand between thousands, and nowhere else."""
    if _PLAIN[decimal].fullmatch(cell) is not None:
        return float(cell.replace(",", "."))
    plain = cell.replace("\u00a0", "").replace(" ", "").replace("\u202f", "")
    other = "." if decimal == "," else ","
    if other in plain:
        if _THOUSANDS[decimal].fullmatch(plain) is None:
            raise ValueError
        plain = plain.replace(other, "")
    value = float(plain.replace(",", "."))
    if not isfinite(value):
        raise ValueError
    return value


def _time_s(cell: str, meaning: TableMeaning, zone: tzinfo) -> float:
    """Read a time as seconds; ValueError says what it is not."""
    form = meaning.time_form
    if form in ("seconds", "minutes", "hours"):
        try:
            return _value(cell, meaning.decimal) * _STEP[form]
        except ValueError:
            raise ValueError(f"“{cell[:30]}” is no number of {form}") from None
    if form == "clock":
        found = _CLOCK.fullmatch(cell)
        if found is None:
            raise ValueError(f"“{cell[:30]}” is no 12:34 or 12:34:56")
        seconds = float((found[3] or "0").replace(",", "."))
        return 3600.0 * int(found[1]) + 60.0 * int(found[2]) + seconds
    moment = _iso(cell) if form == "iso" else _dated(cell, day_first=form == "day first")
    if moment is None:
        example = "2026-03-28 14:30:00" if form == "iso" else "28.03.2026 14:30:00"
        raise ValueError(f"“{cell[:30]}” is no {example}")
    if moment.tzinfo is None:
        moment = moment.replace(tzinfo=zone)
    return moment.timestamp()


_STEP: Final = {"seconds": 1.0, "minutes": 60.0, "hours": 3600.0}


def _dated(cell: str, *, day_first: bool) -> datetime | None:
    found = _DATE.fullmatch(cell)
    if found is None:
        return None
    one, two = int(found[1]), int(found[2])
    day, month = (one, two) if day_first else (two, one)
    hour = int(found[4])
    if found[7]:
        hour = hour % 12 + (12 if found[7] in "Pp" else 0)
    try:
        return datetime(int(found[3]), month, day, hour, int(found[5]), int(found[6] or 0))
    except ValueError:
        return None
