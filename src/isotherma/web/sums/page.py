"""Bench sums: a question, what is known, the answer; no vehicle needed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import ClassVar, Final

from isotherma.core.bench_sums import SUMS, Answer, Cell, Figure, Put, Sum, Table, answer
from isotherma.core.errors import CoreError, QuantityError
from isotherma.core.project import Project
from isotherma.core.quantity import STYLES, UnitSystem, duration_words, parse, shown, with_unit
from isotherma.wording import SUM_CELLS, SUM_REMARKS, error_words
from isotherma.wording.reader import in_units

_TIMES: Final = {"seconds", "minutes", "hours"}


@dataclass(frozen=True, slots=True)
class AskView:
    """One field of a sum."""

    id: str
    name: str
    label: str
    unit: str
    text: str
    error: str


@dataclass(frozen=True, slots=True)
class SumTable:
    """An answer for many values of two figures: heads in words, a row of cells by each."""

    title: str
    corner: str
    heads: tuple[str, ...]
    rows: tuple[tuple[str, tuple[tuple[str, str], ...]], ...]


@dataclass(frozen=True, slots=True)
class SumView:
    """One sum with its answer."""

    id: str
    question: str
    fields: tuple[AskView, ...]
    answer: str
    lead: str
    figures: tuple[tuple[str, str], ...]
    table: SumTable | None
    remark: str
    formula: str
    source: str
    caution: str
    error: str
    targets: tuple[tuple[str, str], ...]
    put_words: str
    chosen: bool


@dataclass(frozen=True, slots=True)
class SumsPage:
    """Every bench sum."""

    template: ClassVar[str] = "sums.html"
    groups: tuple[tuple[str, tuple[SumView, ...]], ...]
    notice: str


# what people come with, and the sums that answer it
GROUPS: Final[tuple[tuple[str, tuple[str, ...]], ...]] = (
    ("Water", ("bucket", "litres", "mix", "pipe")),
    ("Tanks and weight", ("tank", "gauge", "reading", "tank-lasts", "axle")),
    ("Heat", ("heat-up", "switch-on", "heated", "rise", "power", "cooled", "knobs")),
    ("Power", ("element", "measured", "panel", "most-watts", "thinnest")),
    ("Gas", ("bottle", "gas-pipe")),
    ("Leaks", ("kicks",)),
)


@dataclass(frozen=True, slots=True)
class SumAsked:
    """Which sum was worked out, with what."""

    id: str = ""
    texts: Mapping[str, str] = field(default_factory=dict)


def _words(figure: Figure, units: UnitSystem) -> str:
    if figure.style in _TIMES:
        return duration_words(figure.value)
    return with_unit(figure.value, figure.style, units)


def _table(table: Table, units: UnitSystem) -> SumTable:
    """Put an answer by two figures into words: a value, what is wrong there, or both."""

    def words(cell: Cell) -> tuple[str, str]:
        value = "" if cell.value is None else with_unit(cell.value, table.style, units, 2)
        return value, SUM_CELLS[cell.code]

    return SumTable(
        table.title, f"{table.down.title} \\ {table.along.title}",
        tuple(with_unit(at, table.along.style, units, 2) for at in table.along_at),
        tuple(
            (with_unit(at, table.down.style, units, 2), tuple(words(cell) for cell in row))
            for at, row in zip(table.down_at, table.cells, strict=True)
        ),
    )  # fmt: skip


def read_values(
    item: Sum, asked: SumAsked, units: UnitSystem
) -> tuple[dict[str, float], dict[str, str]]:
    """Read what was typed into a sum: values, and what is wrong by field."""
    values: dict[str, float] = {}
    errors: dict[str, str] = {}
    for ask in item.asks:
        text = asked.texts.get(ask.key, "").strip() if asked.id == item.id else ""
        if not text:
            values[ask.key] = ask.start
            continue
        try:
            values[ask.key] = parse(text, ask.style, units)
        except QuantityError as problem:
            errors[ask.key] = error_words(problem, units)
    return values, errors


def targets_of(put: Put, vehicles: Sequence[tuple[int, Project]]) -> tuple[tuple[str, str], ...]:
    """List parts of designs an answer can go into: key and words."""
    return tuple(
        (f"{number}.{variant.id}.{part.id}", f"{project.name}, {variant.name}: {part.label}")
        for number, project in vehicles
        for variant in project.variants
        for part in variant.system.parts
        if part.kind == put.kind
    )[:80]


def _view(
    item: Sum, asked: SumAsked, units: UnitSystem, vehicles: Sequence[tuple[int, Project]]
) -> SumView:
    mine = asked.id == item.id
    values, errors = read_values(item, asked, units)
    found: Answer | None = None
    error = ""
    if not errors:
        try:
            found = answer(item.id, values)
        except CoreError as problem:
            error = error_words(problem, units)
    fields = tuple(
        AskView(
            f"{item.id}-{ask.key}".replace("_", "-"), ask.key, ask.title,
            STYLES[ask.style].symbol(units),
            asked.texts.get(ask.key, "")[:40] if mine and asked.texts.get(ask.key, "").strip()
            else shown(ask.start, ask.style, units, 3),
            errors.get(ask.key, ""),
        )
        for ask in item.asks
    )  # fmt: skip
    figures = found.figures if found else ()
    put = found.put if found and mine else None
    return SumView(
        id=item.id, question=item.question, fields=fields,
        answer=_words(figures[0], units) if figures else "",
        lead=figures[0].title if figures else "",
        figures=tuple((figure.title, _words(figure, units)) for figure in figures[1:]),
        table=_table(found.table, units) if found and found.table else None,
        remark=in_units(SUM_REMARKS[found.remark], units) if found else "",
        formula=item.formula, source=in_units(item.source, units),
        caution=in_units(item.caution, units), error=error, chosen=mine,
        targets=targets_of(put, vehicles) if put else (),
        put_words=with_unit(put.value, put.style, units) if put else "",
    )  # fmt: skip


def sums_page(
    units: UnitSystem, asked: SumAsked, vehicles: Sequence[tuple[int, Project]], notice: str = ""
) -> SumsPage:
    """Put the page of bench sums together; one of them may be worked out."""
    views = {item.id: _view(item, asked, units, vehicles) for item in SUMS}
    grouped = {key for _, keys in GROUPS for key in keys}
    rest = tuple(view for key, view in views.items() if key not in grouped)
    groups = tuple((title, tuple(views[key] for key in keys)) for title, keys in GROUPS)
    return SumsPage(groups=(*groups, ("More", rest)) if rest else groups, notice=notice)
