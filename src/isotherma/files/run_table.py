"""The run table: every run as a line of tab-separated text, for a spreadsheet and back."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from math import isclose
from typing import Any, cast

from pydantic import ValidationError

from isotherma.core.errors import QuantityError
from isotherma.core.fields import style_of
from isotherma.core.quantity import STYLES, UnitSystem, parse, shown
from isotherma.core.system import AnyRun, System
from isotherma.core.system.runs import RUNS, RunBase
from isotherma.files.tables import plain_text, safe_text
from isotherma.wording import problem_words, reason_of

MOST_ROWS = 800
_WHOLE = re.compile(r"[-+]?[0-9]{1,9}")


@dataclass(frozen=True, slots=True)
class Column:
    """One column: its heading and the property it holds."""

    heading: str
    name: str
    style: str = ""


_PROPERTIES = (
    "name", "family", "nominal", "bore_m", "length_m", "rise_m", "elbows", "formed_bends",
    "joiners", "tails", "joint", "board", "insulation_m", "area_m2", "gauge", "outside_m",
    "space", "phase", "clips", "note",
)  # fmt: skip
_NAMED = {"area_m2": "Cable area", "outside_m": "Gas pipe outside", "gauge": "Wire gauge"}


def columns() -> tuple[Column, ...]:
    """List the columns after id, kind, from and to, in their order.

    Returns
    -------
    tuple of Column
        Headings without units. [-]
    """
    found = []
    for name in _PROPERTIES:
        info = next(run.model_fields[name] for run in RUNS.values() if name in run.model_fields)
        heading = _NAMED.get(name, info.title or name)
        found.append(Column(heading, name, style_of(info) or ""))
    return tuple(found)


class TableRefused(Exception):
    """A table that was not read: one sentence for each thing wrong with it."""

    def __init__(self, problems: Sequence[str]) -> None:
        super().__init__(problems[0])
        self.problems = tuple(problems)


def _headings(units: UnitSystem) -> list[str]:
    named = [
        f"{column.heading} [{STYLES[column.style].symbol(units)}]"
        if column.style and STYLES[column.style].symbol(units)
        else column.heading
        for column in columns()
    ]
    return ["Run", "Kind", "From", "To", *named]


def table_rows(system: System, units: UnitSystem) -> list[list[str]]:
    """Give the run table as text cells, headings first.

    Parameters
    ----------
    system : System
        Whose runs. [-]
    units : UnitSystem
        Units of the figures. [-]

    Returns
    -------
    list of list of str
        One row per run. [unit in the heading]
    """
    rows = [_headings(units)]
    for run in system.runs:
        cells = [run.id, run.kind, str(run.start), str(run.end)]
        for column in columns():
            value = getattr(run, column.name, None)
            if value is None:
                cells.append("")
            elif column.style:
                cells.append(shown(float(value), column.style, units, 6))
            elif isinstance(value, str):
                cells.append(safe_text(value))
            else:
                cells.append(str(value))
        rows.append(cells)
    return rows


def write_runs(system: System, units: UnitSystem) -> str:
    """Write the run table as tab-separated text.

    Parameters
    ----------
    system : System
        Whose runs. [-]
    units : UnitSystem
        Units of the figures. [-]

    Returns
    -------
    str
        Headings and a line per run. [unit in the heading]
    """
    text = io.StringIO()
    csv.writer(text, dialect="excel-tab", lineterminator="\n").writerows(table_rows(system, units))
    return text.getvalue()


def read_runs(text: str, system: System, units: UnitSystem) -> tuple[AnyRun, ...]:
    """Read a pasted run table into a system's runs.

    Parameters
    ----------
    text : str
        Tab-separated (or semicolon-separated) lines; the first names the columns, of which
        only "Run" is needed for known runs. [unit in the heading, or with the figure]
    system : System
        A row whose id is known changes that run, columns left out stay; another row is a
        new run; runs without a row stay. [-]
    units : UnitSystem
        Units of figures without one in a heading without one. [-]

    Returns
    -------
    tuple of Run
        All runs of the system after. [SI]

    Raises
    ------
    TableRefused
        With row and column of everything that cannot be read.
    """
    text = text.replace("\r\n", "\n").replace("\r", "\n").lstrip("\n")
    separator = "\t" if "\t" in text.partition("\n")[0] else ";"
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator)
    rows: list[list[str]] = []
    try:
        for cells in reader:
            if any(cell.strip() for cell in cells):
                rows.append(cells)
            if len(rows) > MOST_ROWS + 1:
                raise TableRefused([f"The table has more than {MOST_ROWS} runs; no more fit."])
    except csv.Error:
        raise TableRefused(
            [f"Row {len(rows) + 1}: a cell is far too long, or its quotes are never closed."]
        ) from None
    if len(rows) < 2:
        raise TableRefused(["Paste a heading line and at least one run below it."])
    names = _column_names(rows[0])
    runs = {run.id: run for run in system.runs}
    order = list(runs)
    problems: list[str] = []
    seen: set[str] = set()
    for number, cells in enumerate(rows[1:], start=2):
        values = dict(
            zip([name for name, _ in names], (cell.strip() for cell in cells), strict=False)
        )
        run_id = values.get("id", "")
        if run_id in seen:
            problems.append(f"Row {number}: the run “{run_id}” stands twice; keep one.")
            continue
        seen.add(run_id)
        made = _read_row(number, values, dict(names), runs.get(run_id), units, problems)
        if made is not None:
            if run_id not in runs:
                order.append(run_id)
            runs[run_id] = made
    if problems:
        raise TableRefused(problems)
    return tuple(runs[run_id] for run_id in order)


def _column_names(headings: Sequence[str]) -> list[tuple[str, str]]:
    """Find the property and the unit behind each heading; unknown headings are refused."""
    known = {"run": "id", "kind": "kind", "from": "start", "to": "end"}
    known |= {column.heading.lower(): column.name for column in columns()}
    found, unknown = [], []
    for heading in headings:
        words, _, unit = heading.strip().partition("[")
        name = known.get(words.strip().lower())
        if name is None:
            unknown.append(heading.strip()[:40])
            name = ""
        found.append((name, unit.rstrip("] ").strip()))
    if unknown:
        offered = ", ".join(sorted(column.heading for column in columns()))
        raise TableRefused(
            [f"Row 1: “{unknown[0]}” is no column. There are: Run, Kind, From, To, {offered}."]
        )
    if "id" not in dict(found):
        raise TableRefused(["Row 1: the column “Run” is missing; it names each run."])
    return found


def _read_row(
    number: int,
    values: dict[str, str],
    symbols: dict[str, str],
    before: AnyRun | None,
    units: UnitSystem,
    problems: list[str],
) -> AnyRun | None:
    kind = values.get("kind") or (before.kind if before is not None else "pipe")
    if kind not in RUNS:
        problems.append(f"Row {number}, Kind: “{kind[:20]}” is none of {', '.join(RUNS)}.")
        return None
    data: dict[str, Any] = before.model_dump() if before is not None and before.kind == kind else {}
    data |= {"id": values.get("id", ""), "kind": kind}
    headings = {column.name: column.heading for column in columns()}
    for name in ("start", "end"):
        if values.get(name):
            part, dot, port = values[name].partition(".")
            if not dot:
                side = "From" if name == "start" else "To"
                problems.append(
                    f"Row {number}, {side}: “{values[name][:40]}” names no port; "
                    "write part.port, as tank.outlet."
                )
                return None
            data[name] = {"part": part.strip(), "port": port.strip()}
    for name, text in values.items():
        if name in {"id", "kind", "start", "end", ""} or name not in RUNS[kind].model_fields:
            continue
        try:
            value = _cell(RUNS[kind], name, text, symbols.get(name, ""), units)
        except QuantityError as error:
            why = reason_of(error.reason, error.values)
            problems.append(
                f"Row {number}, {headings[name]}: “{text[:30]}”, {why}. "
                f"Type for example {error.example}."
            )
            continue
        kept = data.get(name)
        if (
            isinstance(kept, float)
            and isinstance(value, float)
            and isclose(kept, value, rel_tol=5e-6)
        ):
            continue  # the table shows six digits; what still says the same is left exact
        data[name] = value
    try:
        return cast(AnyRun, RUNS[kind].model_validate(data))
    except ValidationError as error:
        for item in error.errors(include_url=False, include_input=False):
            name = next((str(step) for step in reversed(item["loc"]) if str(step) in data), "")
            where = headings.get(name, {"id": "Run", "start": "From", "end": "To"}.get(name, name))
            problems.append(f"Row {number}, {where}: {problem_words(item, None, units)}.")
        return None


def _cell(kind: type[RunBase], name: str, text: str, unit: str, units: UnitSystem) -> object:
    info = kind.model_fields[name]
    style = style_of(info)
    if not text:
        return info.get_default()
    if style is None:
        if info.annotation is int or name in {"gauge", "clips"}:
            return int(text) if _WHOLE.fullmatch(text) else text
        return plain_text(text)
    bare = text.replace(",", ".").lstrip("+-−")
    if unit and bare.replace(".", "", 1).isdigit():
        text = f"{text} {unit}"
    return parse(text, style, units)
