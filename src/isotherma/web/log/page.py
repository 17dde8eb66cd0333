"""The page of the log: a reading to note, sessions beside what is foretold, what they teach."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, Final

from isotherma.core.errors import CoreError
from isotherma.core.faults.readings import judged
from isotherma.core.faults.typed import offered
from isotherma.core.fields import style_of
from isotherma.core.learning.estimate import Learned
from isotherma.core.learning.gauge import GaugeLearned
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.services.building import labels_of
from isotherma.services.diagnosing import foretold
from isotherma.services.learn_work import LEARN_WORK
from isotherma.services.logbook import Logged
from isotherma.services.long_work import UnderWay
from isotherma.services.photos import Pictured, about_session
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.web.log.columns import VIEW, ColumnsPart, columns_part
from isotherma.web.log.next_version import NextPart, next_part
from isotherma.web.log.probe import ProbePart, probe_part
from isotherma.wording import (
    JUDGED_WORDS,
    SESSION_WORDS,
    figure_words,
    learned_why,
    quantity_title,
    range_words,
)

VIEWS: Final = (("note", "Note"), ("sessions", "Sessions"), ("probe", "Probe box"),
                ("learn", "Learn"), ("next", "What next"))  # fmt: skip
ROWS_SHOWN: Final = 60
NUMBER_SIGNS: Final = 19
COLD_WATER: Final = "brief.cold_water_c"
SAME_K: Final = 0.05


@dataclass(frozen=True, slots=True)
class NoteForm:
    """A reading as it was typed, and what is wrong with it."""

    session: str = ""
    kind: str = "flow"
    quantity: str = ""
    value: str = ""
    time: str = ""
    from_c: str = ""
    to_c: str = ""
    method: str = ""
    note: str = ""
    by: str = ""
    error: str = ""


@dataclass(frozen=True, slots=True)
class ReadingRow:
    """A reading, beside what a design as entered gives."""

    number: int
    when: str
    what: str
    figure: str
    foretold: str
    judged: str
    said: str


@dataclass(frozen=True, slots=True)
class SessionRow:
    """A session of the log."""

    name: str
    words: str
    count: int
    here: bool


@dataclass(frozen=True, slots=True)
class OfferRow:
    """A figure that was learned: as it was, as it is, and whether it is offered."""

    path: str
    title: str
    before: str
    after: str
    why: str
    offered: bool
    values: tuple[tuple[str, str], ...]
    taken: bool
    takes: str = ""


@dataclass(frozen=True, slots=True)
class GaugeRow:
    """What a gauge means in litres, as it was metered; `points` as they are taken."""

    id: str
    title: str
    rows: tuple[str, ...]
    points: str
    offered: bool
    taken: bool


@dataclass(frozen=True, slots=True)
class LogPage:
    """What was measured."""

    template: ClassVar[str] = "log.html"
    frame: Frame
    empty: bool
    view: str
    views: tuple[tuple[str, str, bool], ...]
    form: NoteForm = NoteForm()
    kinds: tuple[tuple[str, str, bool], ...] = ()
    quantities: tuple[tuple[str, str, bool], ...] = ()
    outlets: tuple[tuple[str, str], ...] = ()
    sessions: tuple[SessionRow, ...] = ()
    chosen: str = ""
    rows: tuple[ReadingRow, ...] = ()
    more: int = 0
    offers: tuple[OfferRow, ...] = ()
    gauges: tuple[GaugeRow, ...] = ()
    work: UnderWayView | None = None
    next: NextPart | None = None
    columns: ColumnsPart | None = None
    files: tuple[tuple[int, str, str], ...] = ()
    doubtful: tuple[str, ...] = ()
    held: str = ""
    measured: tuple[tuple[str, str, str], ...] = ()
    settings: tuple[str, ...] = ()
    count: int = 0
    notice: str = ""
    bad: tuple[str, ...] = ()
    pictures: tuple[Pictured, ...] = ()
    probe: ProbePart | None = None


def log_page(
    context: PageContext, form: NoteForm | None = None, *, bad: Sequence[str] = (),
    notice: str = "", view: str = "", refused: str = "",
) -> LogPage:  # fmt: skip
    """Make the page in the view its address asks for."""
    asked = view or context.query.get("view", "")
    shown = asked if asked in {VIEW, *(key for key, _ in VIEWS)} else "note"
    views = tuple((key, words, key == shown) for key, words in VIEWS)
    frame, _ = make_frame(context, "log")
    system = context.variant.system
    if not system.parts:
        return LogPage(frame, True, shown, views)
    place = (context.opened.vehicle_id, context.variant_id)
    names, units = labels_of(system), context.units
    book = context.services.logbook
    kept = book.sessions(*place)
    wanted = context.query.get("session", "")
    chosen = wanted if wanted in {one.name for one in kept} else (kept[0].name if kept else "")
    typed = form or NoteForm(session=chosen)
    page = LogPage(
        frame, False, shown, views, typed,
        tuple((key, words, key == typed.kind) for key, words in SESSION_WORDS.items()),
        tuple(_option(kind, part, names, typed.quantity) for kind, part in offered(system)),
        tuple((part, names[part]) for kind, part in offered(system)
              if kind == "flow" and part is not None),
        tuple(SessionRow(one.name, SESSION_WORDS.get(one.kind, one.kind), one.count,
                         one.name == chosen) for one in kept),
        chosen, count=sum(one.count for one in kept), notice=notice or _imported(context),
        bad=tuple(bad),
        measured=_measured(context, names, units),
        settings=tuple(
            ", ".join(words for words in (
                f"{one.path}: {one.value}", one.on or "", one.why) if words)
            for one in context.variant.notes
        ),
    )  # fmt: skip
    if shown == "probe":
        return replace(page, probe=probe_part(context, refused))
    if shown == VIEW:
        return replace(page, columns=_columns(context))
    if shown == "note":
        return replace(page, files=tuple(
            (one.number, one.name, f"{one.rows} rows, {one.size / 1e6:.1f} MB here")
            for one in context.services.importing.kept(*place)
        ))  # fmt: skip
    if shown == "next":
        return replace(page, next=next_part(context))
    if shown == "learn":
        return _learned(context, page, names, units)
    if shown != "sessions":
        return page
    logged = book.readings(*place, chosen) if chosen else ()
    rows = tuple(_reading(context, one, names, units) for one in logged[:ROWS_SHOWN])
    pictures = tuple(one for one in context.services.photos.listed(*place)
                     if one.about == about_session(chosen))  # fmt: skip
    return replace(page, rows=rows, more=max(0, len(logged) - ROWS_SHOWN), pictures=pictures)


def _imported(context: PageContext) -> str:
    """Say what was kept of a file, where the address tells."""
    kept, read = (context.query.get(name, "") for name in ("kept", "of"))
    if not (kept.isdigit() and read.isdigit()):
        return ""
    thin = f", evenly of {read}; the file is kept whole" if kept != read else ""
    return f"{kept} readings kept{thin}"


def _columns(context: PageContext) -> ColumnsPart | None:
    """Show the file an address names; None where it is not held any more."""
    said = context.query.get("file", "")
    number = int(said) if said.isdigit() and len(said) < NUMBER_SIGNS else 0
    place = (context.opened.vehicle_id, context.variant_id)
    table = context.services.importing.table(*place, number)
    return None if table is None else columns_part(context, number, table, None)


def _option(
    kind: str, part: str | None, names: Mapping[str, str], chosen: str
) -> tuple[str, str, bool]:
    key = f"{kind}.{part}" if part else kind
    return key, quantity_title(key, names), key == chosen


def _reading(
    context: PageContext, one: Logged, names: Mapping[str, str], units: UnitSystem
) -> ReadingRow:
    row, reading = one.row, one.row.reading
    expected = None
    # a store that is left alone or warmed up is not held against one that is kept hot
    if not (reading.kind == "temp" and row.kind in ("cool_down", "heat_up")):
        try:
            expected = foretold(context.services.fault_finding, context.project,
                                context.variant, reading)  # fmt: skip
        except CoreError:
            expected = None
    shown = "" if expected is None else range_words(
        reading.kind, expected.low, expected.high, units)  # fmt: skip
    said = ", ".join(words for words in (row.method, row.note, one.person) if words)
    minutes, seconds = divmod(round(row.time_s), 60)
    return ReadingRow(
        one.number, f"{minutes}:{seconds:02d}", quantity_title(reading.quantity, names),
        figure_words(reading.kind, reading.value, units), shown,
        JUDGED_WORDS[judged(reading, expected)], said,
    )  # fmt: skip


def _measured(
    context: PageContext, names: Mapping[str, str], units: UnitSystem
) -> tuple[tuple[str, str, str], ...]:
    """Give what was taken, to be given up again."""
    found = []
    parts = {part.id: part for part in context.variant.system.parts}
    for one in context.variant.measured:
        _, part_id, name = one.path.split(".")
        part = parts.get(part_id)
        info = None if part is None else type(part).model_fields.get(name)
        if info is None:
            found.append((one.path, one.path, "of a part that went"))
            continue
        style = style_of(info) or "number"
        title = f"{names.get(part_id, part_id)}: {(info.title or name).lower()}"
        words = with_unit(one.value, style, units, 3)
        if one.low is not None and one.high is not None:
            words += (f", {with_unit(one.low, style, units, 3)} to "
                      f"{with_unit(one.high, style, units, 3)}")  # fmt: skip
        if one.on:
            words += f", {one.on}"
        found.append((one.path, title, words))
    return tuple(found)


def _learned(
    context: PageContext, page: LogPage, names: Mapping[str, str], units: UnitSystem
) -> LogPage:
    place = (context.opened.vehicle_id, context.variant_id)
    logged = context.services.logbook.readings(*place)
    if not logged:
        return page
    found = context.services.learning.learned(
        context.project, context.variant, [one.row for one in logged], context.asker
    )
    if isinstance(found, UnderWay):
        here = context.path_of("design.log") + "?view=learn"
        return replace(page, work=under_way_view(found, LEARN_WORK, here, "#learned"))
    taken = {one.path for one in context.variant.measured}
    held = found.figures.held_out
    words = "" if held.before_rms is None or held.after_rms is None else (
        f"{held.rows} readings that were kept back are off by {held.before_rms:.1f} of their doubt "
        f"before, by {held.after_rms:.1f} after")  # fmt: skip
    return replace(
        page,
        offers=tuple(_offer(one, names, units, taken) for one in found.figures.learned),
        gauges=tuple(_gauge(one, context, names) for one in found.gauges),
        doubtful=tuple(
            f"{one.row.session}, {quantity_title(one.row.quantity, names)} "
            f"{figure_words(one.row.reading.kind, one.row.value, units)}: "
            f"{abs(one.standard):.0f} times its doubt off" for one in found.figures.doubtful),
        held=words,
    )  # fmt: skip


def _gauge(one: GaugeLearned, context: PageContext, names: Mapping[str, str]) -> GaugeRow:
    part = next((part for part in context.variant.system.parts if part.id == one.sender), None)
    points = sorted({min(1.0, max(0.0, share)): held for share, held in one.points}.items())
    kept = getattr(part, "gauge_points", None)
    return GaugeRow(
        one.sender, names.get(one.sender, one.sender),
        tuple(f"{share} %: {with_unit(value, 'volume', context.units, 3)}"
              for share, value in one.at if value is not None),
        json.dumps(points), one.offered and part is not None and hasattr(part, "gauge_points"),
        kept is not None and [list(pair) for pair in kept] == [list(pair) for pair in points],
    )  # fmt: skip


def _offer(one: Learned, names: Mapping[str, str], units: UnitSystem, taken: set[str]) -> OfferRow:
    known, style = one.parameter, one.parameter.style
    owner = known.path.split(".")[1]
    before = "unknown" if known.likely is None else with_unit(known.likely, style, units, 3)
    low, likely, high = (with_unit(value, style, units, 3)
                         for value in (one.low, one.likely, one.high))  # fmt: skip
    values: tuple[tuple[str, str], ...]
    cold = known.path == COLD_WATER
    if cold:
        values = (("value", repr(one.likely)),)
    else:
        values = (("path", known.path), ("value", repr(one.likely)), ("low", repr(one.low)),
                  ("high", repr(one.high)), ("sessions", "|".join(one.sessions)))  # fmt: skip
    owner_words, why = names.get(owner, "Brief"), learned_why(one)
    return OfferRow(
        known.path, f"{owner_words}: {known.title.lower()}", before,
        f"{likely}, {low} to {high}", f"{why[0].upper()}{why[1:]}",
        one.offered and (owner in names or cold), values,
        known.path in taken or (cold and known.likely is not None
                                and abs(known.likely - one.likely) < SAME_K),
        "design.measured.cold" if cold else "design.measured.take",
    )  # fmt: skip
