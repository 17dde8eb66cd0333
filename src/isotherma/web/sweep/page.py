"""The Sweep page: one or two figures varied, what came of every run, the smallest that does it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice
from typing import ClassVar
from urllib.parse import urlencode

from isotherma.core.options.measures import Measure
from isotherma.core.options.parameters import Parameter
from isotherma.core.options.sweep import Cell, Swept
from isotherma.core.quantity import STYLES, UnitSystem, unit_of, with_unit
from isotherma.services.inverse import INVERSE_WORK, Found
from isotherma.services.long_work import UnderWay
from isotherma.services.sweep_asking import Read
from isotherma.services.sweeps import SWEEP_WORK
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.frame.under_way import UnderWayView, first_under_way_view, under_way_view
from isotherma.web.sweep.asked import AXES, FIGURES, SweepAsked, read_asked
from isotherma.web.sweep.maps import (
    NARROW,
    WIDE,
    Axis,
    Run,
    SweepPicture,
    draw_line,
    draw_map,
    nice_levels,
)
from isotherma.wording import all_struck_words, measure_words, measured_words

SUGGESTED = 7


@dataclass(frozen=True, slots=True)
class FigureField:
    """The fields of one figure: as typed, its unit, what is wrong."""

    name: str
    label: str
    text: str
    low: str
    high: str
    count: str
    unit: str
    today: str
    errors: dict[str, str]


@dataclass(frozen=True, slots=True)
class Chosen:
    """One run looked at: what was set, what came of it, and how to keep it."""

    words: str
    met: bool
    rows: tuple[tuple[str, str], ...]
    changes: str


@dataclass(frozen=True, slots=True)
class TableRow:
    """A row of the table: a value of the figure up, or of the only one; a cell for each run."""

    head: str
    cells: tuple[tuple[str, str, bool], ...]


@dataclass(frozen=True, slots=True)
class Result:
    """What has run of a sweep."""

    said: str
    wide: SweepPicture
    narrow: SweepPicture
    heads: tuple[str, ...]
    rows: tuple[TableRow, ...]
    corner: str
    chosen: Chosen | None
    csv: str
    here: str


@dataclass(frozen=True, slots=True)
class Answer:
    """The smallest that does it, or why none does."""

    words: str
    smaller: str
    changes: str
    sentence: str


@dataclass(frozen=True, slots=True)
class SweptPage:
    """What has run of a sweep; a part of the Sweep page, or a page of its own."""

    template: ClassVar[str] = "swept.html"
    ids: dict[str, object]
    vehicle: str
    back: str
    head_id: int
    result: Result | None
    work: UnderWayView | None


@dataclass(frozen=True, slots=True)
class SmallestPage:
    """The smallest that does it; a part of the Sweep page, or a page of its own."""

    template: ClassVar[str] = "smallest.html"
    ids: dict[str, object]
    vehicle: str
    back: str
    answer: Answer | None
    work: UnderWayView | None


@dataclass(frozen=True, slots=True)
class SweepPage:
    """Figures varied."""

    template: ClassVar[str] = "sweep.html"
    frame: Frame
    known: tuple[str, ...] = ()
    suggested: tuple[tuple[str, str], ...] = ()
    axes: tuple[FigureField, ...] = ()
    figures: tuple[FigureField, ...] = ()
    measures: tuple[tuple[str, str, bool], ...] = ()
    musts: tuple[tuple[str, str, bool], ...] = ()
    limit: str = ""
    limit_error: str = ""
    swept: SweptPage | None = None
    smallest: SmallestPage | None = None
    asks_smallest: bool = False
    kept: tuple[tuple[str, str], ...] = ()
    kept_smallest: tuple[tuple[str, str], ...] = ()


def _field(context: PageContext, read: Read, label: str) -> FigureField:
    row, units = read.row, context.units
    unit = today = ""
    if row is not None:
        unit = STYLES[row.style].symbol(units)
        today = "not known" if row.today is None else with_unit(row.today, row.style, units)
    return FigureField(
        read.name, label, row.label if row is not None else read.asked, read.low, read.high,
        read.count, unit, today, read.errors,
    )  # fmt: skip


def _axis(context: PageContext, row: Parameter, values: tuple[float, ...]) -> Axis:
    words = tuple(with_unit(value, row.style, context.units, 3) for value in values)
    return Axis(row.label, values, words, row.today)


def _levels(
    cells: Sequence[Cell | None], place: int | None, style: str, units: UnitSystem
) -> tuple[float, ...]:
    """Give results that are round in the reader's unit, about half a dozen."""
    known = [
        value for cell in cells if cell is not None and place is not None and cell.values
        if (value := cell.values[place]) is not None
    ]  # fmt: skip
    if not known:
        return ()
    unit = unit_of("number" if style == "clock" else style, units)
    low, high = (unit.of_si(end) for end in (min(known), max(known)))
    return tuple(level * unit.factor + unit.offset for level in nice_levels(low, high))


def _result(context: PageContext, asked: SweepAsked, pieces: Sequence[Swept | UnderWay]) -> Result:
    sweep, units, shows = asked.sweep, context.units, asked.shown
    assert sweep is not None  # it has run
    cells: list[Cell | None] = []
    measures: tuple[Measure, ...] = ()
    for piece, part in zip(pieces, sweep.pieces, strict=True):
        if isinstance(piece, Swept):
            measures = measures or piece.measures
            cells += piece.cells
        else:
            cells += [None] * part.runs
    place = next((at for at, one in enumerate(measures) if one.id == shows.id), None)

    def run_of(cell: Cell | None) -> Run | None:
        if cell is None:
            return None
        value = cell.values[place] if cell.values and place is not None else None
        words = "cannot be run" if cell.error else measured_words(shows, value, units)
        return Run(value, cell.met, not cell.error, words)

    runs = [run_of(cell) for cell in cells]
    rows = [axis.row for axis in asked.axes]
    across_row, up_row = rows
    assert across_row is not None
    across = _axis(context, across_row, sweep.across.values)
    levels = _levels(cells, place, shows.style, units)
    level_words = [measured_words(shows, level, units) for level in levels]
    if sweep.up is not None and up_row is not None:
        up = _axis(context, up_row, sweep.up.values)
        wide, narrow = (
            draw_map(across, up, runs, shows.style, level_words, levels, width)
            for width in (WIDE, NARROW)
        )
    else:
        up = None
        title = measure_words(shows)
        wide, narrow = (
            draw_line(across, title, runs, level_words, levels, width) for width in (WIDE, NARROW)
        )
    kept = {key: value for key, value in asked.texts.items() if key != "at"}
    query = urlencode(kept)
    here = f"{context.path_of('design.sweep')}?{query}"
    done = [cell for cell in cells if cell is not None]
    met = sum(cell.met for cell in done)
    said = f"All is as asked in {met} of {len(done)} runs."
    if len(done) < len(cells):
        said += f" {len(cells) - len(done)} are still to run."
    columns = len(across.values)
    return Result(
        said, wide, narrow,
        across.words if up is not None else (measure_words(shows), "As asked"),
        _table(here, across, up, runs, columns),
        f"{up.title} ↓, {across.title} →" if up is not None else across.title,
        _chosen(context, asked, cells, measures), f"{context.path_of('design.sweep.csv')}?{query}",
        here,
    )  # fmt: skip


def _table(
    here: str, across: Axis, up: Axis | None, runs: Sequence[Run | None], columns: int
) -> tuple[TableRow, ...]:
    def cell(at: int) -> tuple[str, str, bool]:
        run = runs[at]
        link = f"{here}&at={at}#chosen"
        return (link, "…", False) if run is None else (link, run.words, run.met)

    if up is None:
        return tuple(TableRow(words, (cell(at),)) for at, words in enumerate(across.words))
    return tuple(
        TableRow(words, tuple(cell(row * columns + at) for at in range(columns)))
        for row, words in enumerate(up.words)
    )


def _chosen(
    context: PageContext, asked: SweepAsked, cells: Sequence[Cell | None],
    measures: Sequence[Measure],
) -> Chosen | None:  # fmt: skip
    at = asked.at
    if at is None or not 0 <= at < len(cells):
        return None
    cell = cells[at]
    if cell is None:
        return None
    set_to = [(asked.axes[0].row, cell.x), (asked.axes[1].row, cell.y)]
    named = [(row, value) for row, value in set_to if row is not None and value is not None]
    rows = tuple(
        (measure_words(one), measured_words(one, value, context.units))
        for one, value in zip(measures, cell.values, strict=False)
    )
    words = ", ".join(
        f"{row.label} {with_unit(value, row.style, context.units)}" for row, value in named
    )
    return Chosen(words, cell.met, rows, "" if cell.error else _changes([(r, v) for r, v in named]))


def _changes(values: Sequence[tuple[Parameter, float]]) -> str:
    """Write values as a form carries them: path, as entered before, value after."""
    return json.dumps(
        [[row.path, row.entered, int(value) if row.whole else value] for row, value in values]
    )


def _answer(context: PageContext, asked: SweepAsked, found: Found) -> Answer:
    units = context.units
    rows = [read.row for read in asked.figures if read.vary is not None]

    def words(values: Sequence[float]) -> str:
        return ", ".join(
            f"{row.label} {with_unit(value, row.style, units)}"
            for row, value in zip(rows, values, strict=True) if row is not None
        )  # fmt: skip

    if found.values is None:
        why = all_struck_words(found.struck, units) if found.struck else "it cannot be run so"
        return Answer("", "", "", f"None of them does it. At the last values: {why}.")
    pairs = [(row, value) for row, value in zip(rows, found.values, strict=True) if row is not None]
    smaller = ""
    if found.smaller is not None and found.smaller_struck:
        smaller = f"{words(found.smaller)}: {all_struck_words(found.smaller_struck, units)}."
    return Answer(words(found.values), smaller, _changes(pairs), f"{found.runs} sets were run.")


def _suggested(context: PageContext, asked: SweepAsked) -> tuple[tuple[str, str], ...]:
    """Suggest figures to begin with: what hands turn, then what is bought most often."""
    known = [row for row in asked.known.rows if row.today is not None]
    rows = [row for row in known if row.turned][:2]
    for start, name in (
        ("brief.draws", "flow_m3_per_s"), ("brief.draws", "duration_s"), ("variants", "power_w"),
        ("variants", "insulation_m"),
    ):  # fmt: skip
        found = (row for row in known if row.path.startswith(start) and row.path.endswith(name))
        rows += islice(found, 1)
    rows += [row for row in known if row.path.endswith(".volume_m3") and row.today
             and row.where in {other.where for other in rows}][:1]  # fmt: skip
    here = context.path_of("design.sweep")
    return tuple((row.label, f"{here}?{urlencode({'x': row.path})}") for row in rows[:SUGGESTED])


def sweep_page(context: PageContext) -> SweepPage:
    """Put the Sweep page together."""
    frame, outcome = make_frame(context, "sweep")
    if outcome is None:
        return SweepPage(frame)
    asked = read_asked(context, outcome)
    return SweepPage(
        frame,
        known=tuple(dict.fromkeys(row.label for row in asked.known.rows)),
        suggested=_suggested(context, asked),
        axes=(_field(context, asked.axes[0], "Vary"), _field(context, asked.axes[1], "and")),
        figures=tuple(
            _field(context, read, label)
            for read, label in zip(asked.figures, ("Vary", "and", "and"), strict=True)
        ),
        measures=tuple((one.id, measure_words(one), one.id == asked.shown.id)
                       for one in asked.measures),
        musts=tuple(
            (f"{side}:{one.id}", f"{measure_words(one)}, at {side}",
             asked.must == f"{side}:{one.id}")
            for one in asked.measures for side in ("most", "least")
        ),
        limit=asked.bound,
        limit_error=asked.errors.get("limit", ""),
        swept=swept_page(context, asked), smallest=smallest_page(context, asked),
        asks_smallest=any(read.asked for read in asked.figures),
        kept=_kept(asked, AXES), kept_smallest=_kept(asked, FIGURES),
    )  # fmt: skip


def _kept(asked: SweepAsked, names: Sequence[str]) -> tuple[tuple[str, str], ...]:
    """Give what is asked of some figures, for the form of the others to carry along."""
    own = {f"{name}{end}" for name in names for end in ("", "_from", "_to", "_n")}
    own |= {"show"} if names == AXES else {"must", "limit"}
    return tuple((key, value) for key, value in asked.texts.items() if key in own)


def _query(asked: SweepAsked) -> str:
    """Write what is asked as an address has it."""
    return urlencode({key: value for key, value in asked.texts.items() if key != "again"})


def _ids(context: PageContext) -> dict[str, object]:
    return {"vehicle_id": context.opened.vehicle_id, "variant_id": context.variant_id}


def swept_page(context: PageContext, asked: SweepAsked) -> SweptPage | None:
    """Give what has run of a sweep, and how far the rest is; None where nothing is asked."""
    if asked.sweep is None:
        return None
    pieces = context.services.sweeping.pieces(
        context.project, context.variant, asked.sweep, context.asker
    )
    query = _query(asked)
    work = first_under_way_view(
        pieces, SWEEP_WORK, f"{context.path_of('design.swept')}?{query}", "#swept"
    )
    return SweptPage(
        _ids(context), context.project.name, f"{context.path_of('design.sweep')}?{query}",
        context.opened.head_id, _result(context, asked, pieces), work,
    )  # fmt: skip


def smallest_page(context: PageContext, asked: SweepAsked) -> SmallestPage | None:
    """Give the smallest that does it, or how far finding it is; None where nothing is asked."""
    if asked.inverse is None:
        return None
    found = context.services.inverting.find(
        context.project, context.variant, asked.inverse, context.asker
    )
    query, answer, work = _query(asked), None, None
    if isinstance(found, UnderWay):
        path = f"{context.path_of('design.smallest')}?{query}"
        work = under_way_view(found, INVERSE_WORK, path, "#smallest-answer")
    else:
        answer = _answer(context, asked, found)
    back = f"{context.path_of('design.sweep')}?{query}"
    return SmallestPage(_ids(context), context.project.name, back, answer, work)
