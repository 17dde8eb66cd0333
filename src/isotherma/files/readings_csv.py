"""Readings as CSV: session, kind, time_s, quantity, value, unit, uncertainty, method, note."""

from __future__ import annotations

import csv
import re
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass
from io import StringIO
from typing import Final

from isotherma.core.errors import QuantityError
from isotherma.core.faults.readings import KINDS, Kind, Reading
from isotherma.core.faults.typed import OF_NO_PART
from isotherma.core.learning.rows import Row
from isotherma.core.quantity import parse
from isotherma.files.tables import plain_text, safe_text

HEADING: Final = (
    "session", "kind", "time_s", "quantity", "value", "unit", "uncertainty", "method", "note",
)  # fmt: skip
NEEDED: Final = HEADING[:5]
SESSION_KINDS: Final = (
    "draw", "heat_up", "cool_down", "day", "fill", "gauge", "flow", "electric", "stage", "fault",
)  # fmt: skip
MOST_ROWS: Final = 200_000
# the units the files write, besides those people type
_UNITS: Final = {"C": "°C", "c": "°C", "degC": "°C"}


@dataclass(frozen=True, slots=True)
class BadRow:
    """A row that could not be read: its number, counted from 1 below the heading, and why."""

    number: int
    why: str


class ReadingsUnreadable(Exception):
    """A file that is no table of readings at all."""

    def __init__(self, why: str) -> None:
        super().__init__(why)
        self.why = why


def write_readings(rows: Iterable[Row]) -> str:
    """Write readings as a table that `read_readings` reads back.

    Parameters
    ----------
    rows : iterable of Row
        In any order, which is kept. [see `KINDS`]

    Returns
    -------
    str
        CSV with a heading, in the quantities' units. [-]
    """
    return write_cells([HEADING, *(cells_of(row) for row in rows)])


def cells_of(row: Row) -> tuple[str, ...]:
    """Give a reading as the cells of its row.

    Parameters
    ----------
    row : Row
        A reading. [see `KINDS`]

    Returns
    -------
    tuple of str
        In the order of `HEADING`. [-]
    """
    read = row.reading
    ends = [end for end in (read.from_c, read.to_c) if end is not None]
    return (
        safe_text(row.session), row.kind, repr(row.time_s), read.quantity,
        ":".join(repr(one) for one in (read.value, *ends)), KINDS[read.kind].unit,
        "" if read.unsure is None else repr(read.unsure), safe_text(row.method),
        safe_text(row.note),
    )  # fmt: skip


def write_cells(rows: Iterable[Iterable[str]]) -> str:
    """Write rows of cells.

    Parameters
    ----------
    rows : iterable of iterables of str
        The heading first. [-]

    Returns
    -------
    str
        CSV, separated by commas. [-]
    """
    out = StringIO()
    csv.writer(out, lineterminator="\n").writerows(rows)
    return out.getvalue()


def read_readings(
    text: str, parts: Collection[str] | None
) -> tuple[tuple[Row, ...], tuple[BadRow, ...]]:
    """Read a table of readings.

    Parameters
    ----------
    text : str
        CSV with a heading; separated by commas, semicolons or tabs. [-]
    parts : collection of str or None
        Ids of the design's parts; None: any will do, as of a log older than the design. [-]

    Returns
    -------
    tuple
        Rows that could be read, in their quantities' units, and those that could not. [-]

    Raises
    ------
    ReadingsUnreadable
        If there is no such heading, or there are too many rows.
    """
    rows: list[Row] = []
    bad: list[BadRow] = []
    for one in readings_in(text, parts):
        if isinstance(one, BadRow):
            bad.append(one)
        else:
            rows.append(one)
    return tuple(rows), tuple(bad)


def is_readings(text: str) -> bool:
    """Say whether a table has our own heading.

    Parameters
    ----------
    text : str
        CSV. [-]

    Returns
    -------
    bool
        All columns that are needed are there. [-]
    """
    first, _, _ = text.removeprefix("\ufeff").partition("\n")
    return set(NEEDED) <= set(_names(first, _separator(first)))


def _separator(line: str) -> str:
    return max(",;\t", key=line.count)


def _names(line: str, separator: str) -> list[str]:
    return [name.strip().strip('"').lower() for name in line.strip().split(separator)]


def readings_in(text: str, parts: Collection[str] | None) -> Iterator[Row | BadRow]:
    """Give the rows of a table of readings as they are read.

    Parameters
    ----------
    text : str
        As `read_readings` takes it. [-]
    parts : collection of str or None
        Ids of the design's parts; None: any. [-]

    Returns
    -------
    iterator of Row or BadRow
        In the table's order. [see `KINDS`]

    Raises
    ------
    ReadingsUnreadable
        If there is no such heading, or there are too many rows.
    """
    body = text.removeprefix("\ufeff")
    lines = body.splitlines()
    if not lines or not lines[0].strip():
        raise ReadingsUnreadable(f"The file is empty. Its first line is: {','.join(HEADING)}.")
    separator = _separator(lines[0])
    heading = _names(lines[0], separator)
    missing = [name for name in NEEDED if name not in heading]
    if missing:
        raise ReadingsUnreadable(
            f"The heading lacks {', '.join(missing)}. It is: {','.join(HEADING)}."
        )
    if len(lines) > MOST_ROWS + 1:
        raise ReadingsUnreadable(f"More than {MOST_ROWS} rows; take every tenth.")
    return _read(heading, lines[1:], separator, parts)


def _read(
    heading: Sequence[str], lines: Sequence[str], separator: str, parts: Collection[str] | None
) -> Iterator[Row | BadRow]:
    scales: Scales = {}
    for number, cells in enumerate(csv.reader(lines, delimiter=separator), start=1):
        if not any(cell.strip() for cell in cells):
            continue
        said = dict(zip(heading, (cell.strip() for cell in cells), strict=False))
        try:
            yield _row(number, said, parts, scales)
        except (QuantityError, ValueError) as error:
            yield BadRow(number, _why(error))


def scale_of(unit: str, kind: Kind) -> tuple[float, float]:
    """Say how figures in a unit become those of a quantity.

    Parameters
    ----------
    unit : str
        As people write it, or as the files do. [-]
    kind : Kind
        What is read. [-]

    Returns
    -------
    tuple of float
        What a figure is multiplied by, and what is added then. [the quantity's unit]

    Raises
    ------
    QuantityError
        If there is no such unit.
    """
    known = _UNITS.get(unit, unit)
    start = parse(f"0 {known}".strip(), kind.style) / kind.si
    return parse(f"1 {known}".strip(), kind.style) / kind.si - start, start


Scales = dict[tuple[str, str], tuple[float, float]]
_PLAIN: Final = re.compile(r"-?\d+(\.\d+)?")


def _figure(text: str, unit: str, kind: Kind, scales: Scales) -> float:
    """Read a figure; what is nothing but digits without asking for its unit again."""
    if _PLAIN.fullmatch(text) is None:
        return parse(f"{text} {unit}".strip(), kind.style) / kind.si
    if (unit, kind.name) not in scales:
        scales[unit, kind.name] = scale_of(unit, kind)
    slope, start = scales[unit, kind.name]
    return start + slope * float(text)


def _why(error: Exception) -> str:
    if isinstance(error, QuantityError):
        return f"“{error.text}” is no {error.dimension.replace('_', ' ')}; as {error.example}"
    return str(error)


def _number(text: str, what: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise ValueError(f"{what} “{text}” is no number") from None


def _row(number: int, said: dict[str, str], parts: Collection[str] | None, scales: Scales) -> Row:
    name, _, part = said.get("quantity", "").partition(".")
    if name not in KINDS:
        raise ValueError(f"there is no quantity “{name}”; there are {', '.join(KINDS)}")
    known = bool(part) if parts is None else part in parts
    if (part or name not in OF_NO_PART) and not known:
        raise ValueError(f"there is no part “{part}”")
    kind = said.get("kind", "")
    if kind not in SESSION_KINDS:
        raise ValueError(f"there is no kind of session “{kind}”; as {', '.join(SESSION_KINDS)}")
    if not said.get("session"):
        raise ValueError("it names no session")
    one = KINDS[name]
    unit = _UNITS.get(said.get("unit", ""), said.get("unit", ""))
    value, *ends = said.get("value", "").split(":")
    read = _figure(value, unit, one, scales)
    unsure = said.get("uncertainty", "")
    doubt = None
    if unsure:
        style = "difference" if one.style == "temperature" else one.style
        step = {"°C": "K", "°F": "°F"}.get(unit, unit) if style == "difference" else unit
        doubt = abs(parse(f"{unsure} {step}".strip(), style) / one.si)
    from_c, to_c = (_number(end, "temperature") for end in ends) if len(ends) == 2 else (None, None)
    return Row(number, plain_text(said["session"]), kind,
               _number(said.get("time_s") or "0", "time_s"),
               Reading(name, part or None, read, doubt, from_c, to_c),
               plain_text(said.get("method", "")), plain_text(said.get("note", "")))  # fmt: skip
