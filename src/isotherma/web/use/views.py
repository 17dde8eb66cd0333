"""Views for whoever did not build it: when to switch on, how far to open, what to shut."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from isotherma.core.errors import CoreError, QuantityError
from isotherma.core.quantity import duration_words, parse, with_unit
from isotherma.core.results.draws import DrawResult
from isotherma.core.using.lead import sources_of
from isotherma.core.using.now import Today
from isotherma.core.using.shutting import TROUBLES, Shut, shuts_for
from isotherma.core.using.tap import recommended
from isotherma.services.building import labels_of
from isotherma.services.flows import tanks_of
from isotherma.services.long_work import UnderWay
from isotherma.services.using import LEAD_WORK, LeadRow, LeadTable
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.wording import (
    SHUT_WORDS,
    TROUBLE_FIRST,
    TROUBLE_SYMPTOM,
    TROUBLE_WORDS,
    error_words,
    now_acts,
    now_sentences,
    opening_words,
    tap_sentence,
)

MONTH_NAMES: Final = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct",
                      "Nov", "Dec")  # fmt: skip
FEW_M3: Final = 2e-5
TAKES_LESS: Final = 0.9  # of what the one before takes: worth changing turns for
LINE_STYLES: Final = 4
MM: Final = 1e3
CHART: Final = (600.0, 180.0)


@dataclass(frozen=True, slots=True)
class NowForm:
    """What is wanted and what is so today, as it was typed."""

    draw: str = ""
    at: str = ""
    cold: str = ""
    fresh: str = ""
    grey: str = ""
    on: tuple[str, ...] = ()
    asked: bool = False
    error: str = ""
    field: str = ""


@dataclass(frozen=True, slots=True)
class Act:
    """One act of the card: seconds from when it is hot, its time of day, what to do."""

    seconds: float
    when: str
    words: str


@dataclass(frozen=True, slots=True)
class NowCard:
    """The answer for one warm shower today."""

    acts: tuple[Act, ...] = ()
    said: tuple[str, ...] = ()
    takes_s: float = 0.0
    wanted_s: float | None = None
    error: str = ""


@dataclass(frozen=True, slots=True)
class LeadLine:
    """One set of sources: its line in the picture, and how it is drawn."""

    title: str
    style: str
    points: str
    said: str


@dataclass(frozen=True, slots=True)
class LeadPart:
    """Lead times of the year: a row a month, a line a set of sources."""

    rows: tuple[tuple[str, tuple[str, ...]], ...] = ()
    lines: tuple[LeadLine, ...] = ()
    top: str = ""
    work: UnderWayView | None = None


@dataclass(frozen=True, slots=True)
class TroubleRow:
    """What is wrong, what to do first, what to shut and where it is."""

    id: str
    title: str
    first: str
    shuts: tuple[str, ...]
    find: str


@dataclass(frozen=True, slots=True)
class TapRow:
    """A tap so far open: its flow, what comes of it; `best` is the mark to make."""

    opening: str
    flow: str
    words: str
    best: bool


@dataclass(frozen=True, slots=True)
class TapPart:
    """How far to open, and who is next."""

    draw: str
    rows: tuple[TapRow, ...] = ()
    queue: tuple[tuple[str, str, str, str], ...] = ()
    error: str = ""


@dataclass(frozen=True, slots=True)
class GaugePart:
    """What one gauge says; `marks` are those of a strip at true size, from its top [mm]."""

    title: str
    rows: tuple[tuple[str, str, str], ...]
    lacking: bool
    tall_mm: float = 0.0
    marks: tuple[tuple[float, str], ...] = ()


def read_now(context: PageContext) -> NowForm:
    """Read what is wanted from the address, with good guesses for what it does not say."""
    query, draws = context.query, context.project.brief.draws
    sources = sources_of(context.variant.built.system)
    asked = query.get("ask") == "1"
    wanted = query.get("draw", "")
    first = draws[0].id if draws else ""
    on = context.services.using.sources(context.variant)
    if asked:
        on = tuple(key for key in query.getlist("on") if key in sources)
    typed = {name: query.get(name, "")[:20] for name in ("at", "cold", "fresh", "grey")}
    form = NowForm(wanted if wanted in {one.id for one in draws} else first, on=on, asked=asked,
                   **typed)  # fmt: skip
    if not draws:
        return replace(form, error="Nobody washes in the brief yet.", field="draw")
    for name, style in (("at", "clock"), ("cold", "temperature"), ("fresh", "volume"),
                        ("grey", "volume")):  # fmt: skip
        try:
            _read(form, name, style, context)
        except QuantityError as error:
            return replace(form, error=error_words(error, context.units), field=name)
    return form


def _read(form: NowForm, name: str, style: str, context: PageContext) -> float | None:
    text = getattr(form, name).strip()
    return parse(text, style, context.units) if text else None


def now_card(context: PageContext, form: NowForm) -> NowCard:
    """Answer for one warm shower today, by the engine."""
    draw = next(one for one in context.project.brief.draws if one.id == form.draw)
    wanted = _read(form, "at", "clock", context)
    grey = _read(form, "grey", "volume", context)
    today = Today(
        form.on, wanted, _read(form, "cold", "temperature", context),
        _read(form, "fresh", "volume", context), 0.0 if grey is None else grey,
    )  # fmt: skip
    try:
        now = context.services.using.now(context.project, context.variant, draw, today)
    except CoreError as error:
        return NowCard(error=error_words(error, context.units))
    if now is None:
        return NowCard(error="With what is on it does not get warm in a day.")
    names = labels_of(context.variant.system)
    takes = now.lead.takes_s
    if now.lead.by_clock and takes:  # the sun or the engine has its own hour
        wanted = takes
    acts = tuple(Act(seconds, _when(seconds, wanted, takes or 0.0), words)
                 for seconds, words in now_acts(now, names, context.units))  # fmt: skip
    return NowCard(acts, now_sentences(now, context.units), takes or 0.0, wanted)


def _when(seconds: float, wanted: float | None, takes: float) -> str:
    """Say when an act is: the time of day, or how long after switching on."""
    if wanted is None:
        after = seconds + takes
        return "now" if after <= 0.0 else f"after {duration_words(after)}"
    minutes = round((wanted + seconds) % 86_400.0 / 60.0) % 1440
    return f"{minutes // 60}:{minutes % 60:02d}"


def lead_part(context: PageContext, names: Mapping[str, str]) -> LeadPart:
    """Give lead times of the year, or how far they are."""
    found = context.services.using.leads(context.project, context.variant, context.asker)
    if isinstance(found, UnderWay):
        here = context.path_of("design.use") + "?view=lead"
        return LeadPart(work=under_way_view(found, LEAD_WORK, here, "#lead"))
    return _lines(found, names, context)


def _lines(table: LeadTable, names: Mapping[str, str], context: PageContext) -> LeadPart:
    """Put lead times into a table by month, and into a picture over how cold the water is."""
    sets: dict[tuple[str, ...], list[LeadRow]] = {}
    for row in table.rows:
        sets.setdefault(row.sources, []).append(row)
    longest = max((row.takes_s for row in table.rows if row.takes_s is not None), default=0.0)
    colds = [row.cold_c for row in table.rows]
    units = context.units
    lines: list[LeadLine] = []
    for on, rows in sets.items():
        short = [row for row in rows if row.short and row.target_c is not None]
        said = ""
        if short:
            most = with_unit(max(row.target_c or 0.0 for row in short), "temperature", units)
            said = f"does not come to its setting: the times are to {most}"
        lines.append(LeadLine(
            " and ".join(names.get(key, key) for key in on),
            f"use-line-{len(lines) % LINE_STYLES}",
            _points(rows, min(colds), max(colds), longest), said,
        ))  # fmt: skip
    cold = {row.month: with_unit(row.cold_c, "temperature", units) for row in table.rows}
    at = {(row.sources, row.month): row for row in table.rows}
    months = tuple(
        (f"{name}, {cold[month]}" if month in cold else name,
         tuple(_takes(at.get((on, month))) for on in sets))
        for month, name in enumerate(MONTH_NAMES, start=1)
    )  # fmt: skip
    return LeadPart(months, tuple(lines), duration_words(longest))


def _takes(row: LeadRow | None) -> str:
    if row is None:
        return "not known"
    return "never" if row.takes_s is None else duration_words(row.takes_s)


def _points(rows: Sequence[LeadRow], low: float, high: float, longest: float) -> str:
    wide, tall = CHART
    span = max(high - low, 1e-6)
    known = sorted({row.cold_c: row.takes_s for row in rows if row.takes_s is not None}.items())
    return " ".join(
        f"{wide * (cold - low) / span:.1f},{tall - tall * takes / max(longest, 1e-6):.1f}"
        for cold, takes in known
    )


def tap_part(context: PageContext) -> TapPart:
    """Try the first draw's tap, and put the draws of the day in their queue."""
    project, variant, units = context.project, context.variant, context.units
    if not project.brief.draws:
        return TapPart("", error="Nobody washes in the brief yet.")
    draw = project.brief.draws[0]
    try:
        rows = context.services.using.openings(project, variant, draw)
    except CoreError as error:
        return TapPart(draw.name, error=error_words(error, units))
    best = recommended(rows)
    result = context.services.computing.result(project, variant)
    queue = (
        ()
        if isinstance(result, CoreError)
        else _queue(
            result.draws,
            context.services.using.sources(variant) != sources_of(variant.built.system),
        )
    )
    return TapPart(draw.name, tuple(
        TapRow(opening_words(one.opening), with_unit(one.flow_m3_per_s, "flow", units, 2),
               tap_sentence(one, units), one is best) for one in rows), queue)  # fmt: skip


def _queue(draws: Sequence[DrawResult], more_heat: bool) -> tuple[tuple[str, str, str, str], ...]:
    """Put draws in their turn: who, how long, hot again after, and what to do till the next."""
    rows = []
    turns = sorted(draws, key=lambda one: one.start_s)
    for one, after in zip(turns, [*turns[1:], None], strict=True):
        again = "not on that day" if one.ready_again_s is None else duration_words(
            one.ready_again_s)  # fmt: skip
        rows.append((one.draw.name, duration_words(one.end_s - one.start_s), again,
                     _meanwhile(one, after, more_heat)))  # fmt: skip
    return tuple(rows)


def _meanwhile(one: DrawResult, after: DrawResult | None, more_heat: bool) -> str:
    """Say what helps where the next one comes before it is hot again."""
    if after is None:
        return ""
    gap = after.start_s - one.end_s
    ready = one.ready_again_s
    same = after.draw.name == one.draw.name
    next_one = "the next one" if same else after.draw.name
    if ready is not None and ready <= gap:
        return f"{next_one[:1].upper()}{next_one[1:]} finds it hot"
    short = "Not hot again for" if ready is None else f"{duration_words(ready - gap)} too soon for"
    ways = ["open less, as marked above"]
    if not same and after.used_m3 < TAKES_LESS * one.used_m3:
        ways.insert(0, f"let {after.draw.name} go first, who takes less")
    if more_heat:
        ways.append("switch on all that heats")
    return f"{short} {next_one}: {'; '.join(ways)}"


def gauges_of(context: PageContext) -> tuple[GaugePart, ...]:
    """Say what gauges mean, and how many showers are left by them."""
    units = context.units
    tanks = tanks_of(context.project, context.variant, context.variant.standing, 0.0)
    result = context.services.computing.result(context.project, context.variant)
    used = 0.0
    if not isinstance(result, CoreError):
        used = max((one.used_m3 for one in result.draws), default=0.0)
    fresh = {part.id for part in context.variant.system.parts if part.kind == "fresh_tank"}
    found = []
    for one in tanks.gauges:
        rows = []
        for row in one.rows:
            held = max(0.0, 0.5 * (row.least_m3 + row.most_m3) - one.unused_m3)
            shows = with_unit(row.height_m, "bore", units) if one.is_tube else f"{row.shows:.0%}"
            litres = with_unit(row.least_m3, "volume", units, 2)
            if row.most_m3 - row.least_m3 > FEW_M3:
                litres += f" to {with_unit(row.most_m3, 'volume', units, 2)}"
            showers = f"about {int(held / used)}" if used > 0.0 and one.tank in fresh else ""
            rows.append((shows, litres, showers))
        tall = max((row.height_m for row in one.rows), default=0.0)
        marks = tuple((MM * (tall - row.height_m), with_unit(row.least_m3, "volume", units, 2))
                      for row in one.rows) if one.is_tube else ()  # fmt: skip
        found.append(GaugePart(f"{one.label}, in {one.tank_label}", tuple(rows), one.lacking,
                               MM * tall, marks))  # fmt: skip
    return tuple(found)


def troubles(context: PageContext, names: Mapping[str, str]) -> tuple[TroubleRow, ...]:
    """Say of each trouble what is done first, and what to shut where."""
    system = context.variant.system
    spaces = {space.id: space.name for space in system.spaces}

    def words(one: Shut) -> str:
        where = f", in {spaces[one.space]}" if one.space in spaces else ""
        return f"{SHUT_WORDS[one.to]} {names.get(one.part, one.part)}{where}"

    return tuple(
        TroubleRow(key, TROUBLE_WORDS[key], TROUBLE_FIRST[key],
                   tuple(words(one) for one in shuts_for(system, key)), TROUBLE_SYMPTOM[key])
        for key in TROUBLES
    )  # fmt: skip
