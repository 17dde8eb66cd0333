"""The Parts page: every piece by its box label, what was understood, the run table."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from isotherma.catalogue.classes import PartClass, classes
from isotherma.core.editing import goes_in_line
from isotherma.core.fields import Document
from isotherma.core.project import Measured
from isotherma.core.quantity import UnitSystem, shown, with_unit
from isotherma.core.system import AnyKind, AnyRun, System
from isotherma.core.system.kinds import KINDS, SIDES
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import KEEPING, Around, Figure, PartBase, joins
from isotherma.core.system.route import not_computed, reading_order
from isotherma.core.system.runs import RUNS, RunBase
from isotherma.files.run_table import table_rows, write_runs
from isotherma.services.own_classes import OwnClassRow
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.ends import EndRow, ends_at
from isotherma.web.frame.forms import FormView, Names, Typed, make_form, names_of
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.parts.figures import FigureRow, figure_rows, measured_of
from isotherma.wording import LEFT_OUT, RemarkWords, remark_words
from isotherma.wording.reader import Reader, in_units

VIEWS = (("pieces", "Piece by piece"), ("runs", "Run table"), ("list", "What is owned"))
VIEW_KEYS = frozenset(key for key, _ in VIEWS)
_RUN_KEEPING = ("phase", "clips", "note")
_MOST_OFFERS = 60
MOST_REMARKS, MOST_PROBLEMS = 40, 12


@dataclass(frozen=True, slots=True)
class Row:
    """One piece in the list."""

    key: str
    title: str
    kind: str
    words: str
    is_run: bool
    inner: bool
    chosen: bool
    open_words: str
    search: str


@dataclass(frozen=True, slots=True)
class Joint:
    """One port of a part: what it is joined to, or what it could be joined to."""

    port: str
    words: str
    medium: str
    joined: tuple[tuple[str, str], ...]
    offers: tuple[tuple[str, str], ...]
    run_kind: str


@dataclass(frozen=True, slots=True)
class Offer:
    """A class of part that can be added."""

    id: str
    name: str
    kind: str
    words: str
    reason: str


@dataclass(frozen=True, slots=True)
class Detail:
    """The opened piece."""

    key: str
    id: str
    is_run: bool
    title: str
    kind: str
    kind_title: str
    caution: str
    not_computed: str
    printed: FormView
    own: FormView
    rest: FormView
    keeping: FormView
    figures: tuple[FigureRow, ...]
    unknown: int
    joints: tuple[Joint, ...]
    ends: tuple[EndRow, ...]
    apart: bool
    inside: tuple[tuple[str, str], ...]
    fits: tuple[Offer, ...]
    inserts: tuple[Offer, ...]
    remarks: tuple[RemarkWords, ...]


@dataclass(frozen=True, slots=True)
class ListRow:
    """One part in the list of what is owned."""

    key: str
    title: str
    form: FormView


@dataclass(frozen=True, slots=True)
class OwnOffer:
    """A class somebody keeps; `offer` is what a form that adds it carries."""

    id: int
    name: str
    kind: str
    offer: str
    words: str


@dataclass(frozen=True, slots=True)
class PartsPage:
    """The pieces of a variant."""

    template: ClassVar[str] = "parts.html"
    frame: Frame
    views: tuple[tuple[str, str, bool], ...]
    view: str
    query: str
    rows: tuple[Row, ...]
    hidden: int
    detail: Detail | None
    sides: tuple[tuple[str, str], ...]
    side: str
    wanted: str
    offers: tuple[Offer, ...]
    remarks: tuple[RemarkWords, ...]
    more_remarks: int
    table: tuple[tuple[str, ...], ...]
    table_text: str
    table_problems: tuple[str, ...]
    more_problems: int
    list_rows: tuple[ListRow, ...]
    price_words: str
    empty: bool
    own: tuple[OwnOffer, ...]


@dataclass(frozen=True, slots=True)
class PartsAsked:
    """What of the parts page is asked for: the view, the piece, the words searched."""

    view: str = "pieces"
    piece: str = ""
    query: str = ""
    side: str = ""
    wanted: str = ""
    table_text: str = ""
    table_problems: tuple[str, ...] = ()


def key_of(piece: PartBase | RunBase) -> str:
    """Give the key of a piece in addresses: "part-tank", "run-suction"."""
    return f"{'part' if isinstance(piece, PartBase) else 'run'}-{piece.id}"


def _summary(piece: PartBase | RunBase, around: Around, units: UnitSystem) -> str:
    """Say the one or two figures that tell a piece from others."""
    figures = {figure.name: figure for figure in understand(piece, around)}
    if isinstance(piece, RunBase):
        length = figures.get("length_m")
        bits = [] if length is None else [_short(length, units)]
        bits.append(getattr(piece, "nominal", None) or "")
        return ", ".join(bit for bit in bits if bit)
    return ", ".join(_short(figures[name], units) for name in piece.needs[:2] if name in figures)


def _short(figure: Figure, units: UnitSystem) -> str:
    if figure.likely is None:
        return f"{figure.title.lower()} unknown"
    return with_unit(figure.likely, figure.style, units)


def _rows(
    system: System, units: UnitSystem, asked: PartsAsked, lacking: Mapping[str, str]
) -> tuple[tuple[Row, ...], int]:
    found = []
    spaces = {space.id: space.name for space in system.spaces}
    query = asked.query.strip().lower()
    hidden = 0
    for piece in reading_order(system):
        is_run = isinstance(piece, RunBase)
        around = system.between(piece) if isinstance(piece, RunBase) else system.around(piece)
        words = _summary(piece, around, units)
        search = " ".join(
            [piece.label, piece.title, piece.id, words, spaces.get(piece.space or "", "")]
        ).lower()
        if query and query not in search:
            hidden += 1
            continue
        found.append(
            Row(
                key=key_of(piece),
                title=piece.label,
                kind=piece.title if piece.label != piece.title else "",
                words=words,
                is_run=is_run,
                inner=getattr(piece, "fitted_in", None) is not None,
                chosen=key_of(piece) == asked.piece,
                open_words=lacking.get(piece.id, "") if not is_run else "",
                search=search,
            )
        )
    return tuple(found), hidden


def _find(system: System, key: str) -> AnyKind | AnyRun | None:
    return next((piece for piece in (*system.parts, *system.runs) if key_of(piece) == key), None)


def _offers(
    units: UnitSystem, accepted: Callable[[PartClass], bool], own: Sequence[PartClass],
    *, most: int = _MOST_OFFERS,
) -> tuple[Offer, ...]:  # fmt: skip
    found = [
        Offer(
            id=row.id,
            name=row.name,
            kind=KINDS[row.kind].title,
            words=_summary(row.part, Around(), units),
            reason=row.reason,
        )
        for row in (*own, *classes().values())
        if accepted(row)
    ]
    return tuple(found[: most + len(own)])


def _joints(system: System, part: AnyKind) -> tuple[Joint, ...]:
    labels = {other.id: other.label for other in system.parts}
    taken = {(end.part, end.port) for run in system.runs for end in (run.start, run.end)}
    found = []
    for port in part.ports:
        joined = tuple(
            (f"run-{run.id}", f"{labels[there.part]} ({there.port.replace('_', ' ')})")
            for run, here, there in system.joined(part.id)
            if here.port == port.name
        )
        offers: list[tuple[str, str]] = []
        if not joined or port.many:
            for other in system.parts:
                if other.id == part.id:
                    continue
                offers += [
                    (f"{other.id}.{end.name}", f"{other.label}: {end.name.replace('_', ' ')}")
                    for end in other.ports
                    if joins(port.medium, end.medium)
                    and (end.many or (other.id, end.name) not in taken)
                ]
        kind = next(key for key, run in RUNS.items() if port.medium in run.carries)
        words = port.name.replace("_", " ")
        found.append(Joint(port.name, words, port.medium, joined, tuple(offers), kind))
    return tuple(found)


def _detail(
    system: System,
    piece: AnyKind | AnyRun,
    variant_id: str,
    units: UnitSystem,
    typed: Typed | None,
    found: Iterable[RemarkWords],
    lacking: Mapping[str, str],
    own_classes: Sequence[PartClass],
    measured: Sequence[Measured] = (),
) -> Detail:
    names: Names = names_of(system)
    around = system.around(piece) if isinstance(piece, PartBase) else system.between(piece)
    figures = understand(piece, around)
    group = "parts" if isinstance(piece, PartBase) else "runs"
    learned = measured_of(measured, f"{group}.{piece.id}")
    scope = f"variants.{variant_id}.system.{group}.{piece.id}"
    printed = ("name", *piece.printed)
    own = tuple(figure.name for figure in figures if figure.name not in printed)
    keeping = KEEPING if isinstance(piece, PartBase) else _RUN_KEEPING
    place = ("space", "fitted_in") if isinstance(piece, PartBase) else ("space",)
    first = (*printed, *(name for name in place if name not in printed))

    def form(only: tuple[str, ...] = (), leave_out: tuple[str, ...] = ()) -> FormView:
        return make_form(piece, scope, units, typed, only=only, leave_out=leave_out, names=names,
                         figures=figures)  # fmt: skip

    everything = (*first, *own, *keeping, "start", "end")
    rest = tuple(name for name in type(piece).model_fields if name not in everything)
    is_part = isinstance(piece, PartBase)
    ends = ends_at(system, piece.id) if is_part else ends_at(system, run_id=piece.id)
    return Detail(
        key=key_of(piece),
        id=piece.id,
        is_run=not is_part,
        title=piece.label,
        kind=piece.kind,
        kind_title=piece.title,
        caution=piece.care(),
        not_computed=lacking.get(piece.id, "") if is_part else "",
        printed=form(first),
        own=form(own) if own else _none(piece, scope),
        rest=form(rest) if set(rest) - {"id", "kind"} else _none(piece, scope),
        keeping=form(keeping),
        figures=figure_rows(figures, learned, units),
        unknown=sum(figure.origin == "unknown" for figure in figures),
        joints=_joints(system, piece) if isinstance(piece, PartBase) else (),
        ends=ends,
        apart=any(not one.meets for one in ends),
        inside=tuple((key_of(part), part.label) for part in system.fitted(piece.id))
        if is_part
        else (),
        fits=_offers(units, lambda row: piece.kind in KINDS[row.kind].sits_in, own_classes)
        if is_part
        else (),
        inserts=()
        if isinstance(piece, PartBase)
        else _offers(units, lambda row: goes_in_line(KINDS[row.kind], piece), own_classes),
        remarks=tuple(remark for remark in found if remark.part_id == piece.id),
    )


def _none(piece: Document, scope: str) -> FormView:
    return FormView(scope=scope, id="", fields=())


_LIST = ("owned", "phase", "space", "price", "priced_on")


def parts_page(context: PageContext, asked: PartsAsked | None = None) -> PartsPage:
    """Put the parts page together."""
    if asked is None:  # after a change: the piece or the view that stood open
        now = context.piece
        asked = PartsAsked(view=now) if now in VIEW_KEYS else PartsAsked(piece=now)
    place = asked.piece if asked.view == "pieces" else asked.view
    frame, _ = make_frame(replace(context, piece=place), "parts")
    units, typed, variant_id = context.units, context.typed, context.variant_id
    system = context.variant.system
    view = asked.view if asked.view in VIEW_KEYS else "pieces"
    pieces = view == "pieces"
    reader = Reader.of(system, units)
    found = (
        tuple(remark_words(item, reader) for item in context.services.computing.remarks(system))
        if pieces
        else ()
    )
    lacking = {
        key: in_units(LEFT_OUT[code], units)
        for key, code in (not_computed(system) if pieces else {}).items()
    }
    own_rows = context.services.own_classes.rows() if pieces else ()
    own_classes = tuple(row.offered for row in own_rows)
    rows, hidden = _rows(system, units, asked, lacking) if pieces else ((), 0)
    piece = _find(system, asked.piece) if pieces else None
    offers = _wanted(asked, units, own_classes)
    learned = context.variant.measured
    table: list[list[str]] = table_rows(system, units) if view == "runs" else []
    return PartsPage(
        frame=frame,
        views=tuple((key, words, key == view) for key, words in VIEWS),
        view=view,
        query=asked.query,
        rows=rows,
        hidden=hidden,
        detail=None
        if piece is None
        else _detail(system, piece, variant_id, units, typed, found, lacking, own_classes, learned),
        sides=tuple(SIDES.items()),
        side=asked.side,
        wanted=asked.wanted,
        offers=offers,
        remarks=found[:MOST_REMARKS] if piece is None else (),
        more_remarks=max(0, len(found) - MOST_REMARKS) if piece is None else 0,
        table=tuple(tuple(row) for row in table),
        table_text=asked.table_text or (write_runs(system, units) if view == "runs" else ""),
        table_problems=asked.table_problems[:MOST_PROBLEMS],
        more_problems=max(0, len(asked.table_problems) - MOST_PROBLEMS),
        list_rows=_list_rows(system, variant_id, units, typed) if view == "list" else (),
        price_words=_price_words(system),
        empty=not system.parts,
        own=tuple(_own_offer(row, units) for row in own_rows),
    )


def _wanted(
    asked: PartsAsked, units: UnitSystem, own: Sequence[PartClass]
) -> tuple[Offer, ...]:  # fmt: skip
    """List the classes that are looked for; none where nothing is."""
    wanted = asked.wanted.strip().lower()
    if not wanted and not asked.side:
        return ()
    return _offers(
        units,
        lambda row: (
            (not asked.side or KINDS[row.kind].side == asked.side)
            and wanted in f"{row.name} {KINDS[row.kind].title} {row.kind} {row.reason}".lower()
        ),
        own,
    )


def _own_offer(row: OwnClassRow, units: UnitSystem) -> OwnOffer:
    made = row.offered
    words = _summary(made.part, Around(), units)
    return OwnOffer(row.id, row.name, KINDS[row.kind].title, made.id, words)


def _list_rows(
    system: System, variant_id: str, units: UnitSystem, typed: Typed | None
) -> tuple[ListRow, ...]:
    names = names_of(system)
    return tuple(
        ListRow(
            key=key_of(piece),
            title=piece.label,
            form=make_form(
                piece, f"variants.{variant_id}.system.parts.{piece.id}", units, typed,
                only=_LIST, names=names,
            ),
        )
        for piece in reading_order(system)
        if isinstance(piece, PartBase)
    )  # fmt: skip


def _price_words(system: System) -> str:
    """Add up what is to be bought, and say how much of it has no price."""
    buy = [part for part in system.parts if part.owned != "owned"]
    priced = [part.price for part in buy if part.price is not None]
    total = shown(sum(priced), "money", UnitSystem.METRIC, 7)
    without = len(buy) - len(priced)
    owned = len(system.parts) - len(buy)
    tail = f"; {without} without a price" if without else ""
    return f"{owned} owned, {len(buy)} to buy: {total} in all{tail}."
