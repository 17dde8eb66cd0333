"""The pages of a design: brief, parts, shower, and the traces they open."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import ClassVar

from isotherma import catalogue
from isotherma.core.climate import MONTHS
from isotherma.core.project import Project
from isotherma.core.quantity import STYLES, Habit, duration_words, with_unit
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.outcome import Outcome, ready_words
from isotherma.core.results.trace import Trace
from isotherma.core.results.verdict import reason_words
from isotherma.core.system import Run
from isotherma.core.system.parts import IN_LINE, Store
from isotherma.core.system.route import reading_order
from isotherma.services.computing import Computing
from isotherma.services.vehicles import Opened
from isotherma.web.pages.chart import NARROW, Chart, Glance, Layer, make_chart, make_glance
from isotherma.web.pages.forms import FormView, Typed, make_form
from isotherma.web.pages.frame import Frame, find_variant, make_frame

TRIP = ("days", "region", "month", "cold_water_c", "inside_c", "day_start")
OTHER = ("other_fresh_m3", "other_grey_m3", "reserve", "gives_up_s")


@dataclass(frozen=True, slots=True)
class DrawForm:
    """One draw of the brief."""

    id: str
    name: str
    summary: str
    main: FormView
    more: FormView


@dataclass(frozen=True, slots=True)
class BriefPage:
    """Who washes, when and where."""

    template: ClassVar[str] = "brief.html"
    frame: Frame
    trip: FormView
    other: FormView
    budgets: FormView
    refusals: FormView
    note: FormView
    draws: tuple[DrawForm, ...]
    presets: tuple[tuple[str, str], ...]
    water_words: str


def brief_page(
    opened: Opened,
    variant_id: str,
    habit: Habit,
    computing: Computing,
    typed: Typed | None = None,
    notice: str = "",
) -> BriefPage:
    """Put the brief page together."""
    frame, outcome = make_frame(opened, variant_id, "brief", habit, computing, notice, typed)
    brief = opened.project.brief
    words = ""
    if outcome is not None:
        given = "as given" if brief.cold_water_c is not None else "estimated"
        month = MONTHS[brief.month - 1]
        air = with_unit(catalogue.climate(brief.region, brief.month).air_c, "temperature", habit, 3)
        water = with_unit(outcome.plan.fresh_c, "temperature", habit, 3)
        words = f"Fresh water {water}, {given}; the air in {month} is {air} on average."
    draws = tuple(
        DrawForm(
            id=draw.id,
            name=draw.name,
            summary=f"{with_unit(draw.start_s, 'clock')}, {duration_words(draw.duration_s)}",
            main=make_form(
                draw, f"brief.draws.{draw.id}", habit, typed,
                only=("name", "who", "start_s", "duration_s", "low_c", "high_c"),
            ),
            more=make_form(
                draw, f"brief.draws.{draw.id}", habit, typed,
                only=("flow_m3_per_s", "stops", "stop_s", "clock", "child"),
            ),
        )
        for draw in sorted(brief.draws, key=lambda draw: draw.start_s)
    )  # fmt: skip
    return BriefPage(
        frame=frame,
        trip=make_form(brief, "brief", habit, typed, only=TRIP),
        other=make_form(brief, "brief", habit, typed, only=OTHER),
        budgets=make_form(brief.budgets, "brief.budgets", habit, typed),
        refusals=make_form(brief, "brief", habit, typed, only=("will_not_have",)),
        note=make_form(brief, "brief", habit, typed, only=("note",)),
        draws=draws,
        presets=tuple((key, draw.name) for key, draw in catalogue.PRESETS.items()),
        water_words=words,
    )


@dataclass(frozen=True, slots=True)
class Piece:
    """One part or run, in the order of the route."""

    id: str
    anchor: str
    is_run: bool
    title: str
    kind: str
    summary: str
    main: FormView
    more: FormView
    sources: tuple[SourceForm, ...]
    offers: tuple[tuple[str, str], ...]
    removable: bool
    caution: str


@dataclass(frozen=True, slots=True)
class SourceForm:
    """The element or the burner of a store."""

    key: str
    title: str
    fitted: bool
    form: FormView | None
    window: FormView | None
    caution: str


@dataclass(frozen=True, slots=True)
class PartsPage:
    """The pieces and runs of the route."""

    template: ClassVar[str] = "parts.html"
    frame: Frame
    pieces: tuple[Piece, ...]


_SOURCES = {
    "element": (
        "Element",
        "Mains wiring, its earth, residual-current protection and isolator are work for a "
        "licensed electrician; check the current local rules.",
    ),
    "burner": (
        "Burner",
        "Gas pipe, flue and first fire are work for a licensed gas fitter. Fit a carbon monoxide "
        "alarm. Never run it without water.",
    ),
}
_FIRST = ("power_w", "input_w", "efficiency", "fuel")
_CAUTIONS = {
    "store": "A closed store heated without a way to expand bursts: relief valve led outside, "
    "nothing between store and relief that can shut, and a thermal cut-out of its own.",
    "thermostatic_mixer": "Both legs need a check valve, or hot and cold cross when the head is "
    "shut. Feel the water at the head before anyone steps under it.",
    "fresh_tank": "A full tank is heavy: strap it down, and mind the axle and the payload.",
}
_MORE = {
    "fresh_tank": ("name", "note"),
    "store": (
        "name", "height_m", "layers", "insulation_w_per_m_k", "film_w_per_m2_k", "fittings_share",
        "loss_w_per_k", "body_j_per_k", "wall_w_m_per_k", "jet_share", "unreachable", "note",
    ),
    "run": ("name", "wall_m", "insulation_w_per_m_k", "loss_k"),
    "thermostatic_mixer": (
        "name", "place", "lag_s", "flow_factor_si", "min_flow_m3_per_s", "note",
    ),
}  # fmt: skip
INSERTS = (
    ("shut_off", "Shut-off"),
    ("strainer", "Strainer"),
    ("accumulator", "Accumulator"),
    ("check_valve", "Check valve"),
)


def _source_forms(
    store: Store, scope: str, habit: Habit, typed: Typed | None
) -> tuple[SourceForm, ...]:
    forms = []
    for key, (title, caution) in _SOURCES.items():
        source = getattr(store, key)
        form = window = None
        if source is not None:
            form = make_form(source, f"{scope}.{key}", habit, typed, first=_FIRST)
            window = make_form(source.window, f"{scope}.{key}.window", habit, typed)
        forms.append(SourceForm(key, title, source is not None, form, window, caution))
    return tuple(forms)


def parts_page(
    opened: Opened,
    variant_id: str,
    habit: Habit,
    computing: Computing,
    typed: Typed | None = None,
    notice: str = "",
) -> PartsPage:
    """Put the parts page together."""
    frame, _ = make_frame(opened, variant_id, "parts", habit, computing, notice, typed)
    system = find_variant(opened.project, variant_id).system
    pieces = []
    for item in reading_order(system):
        if isinstance(item, Run):
            scope = f"variants.{variant_id}.system.runs.{item.id}"
            more = _MORE["run"]
            bore = with_unit(item.bore_m, "bore", habit)
            pieces.append(
                Piece(
                    id=item.id,
                    anchor=f"run-{item.id}",
                    is_run=True,
                    title=item.name or item.id,
                    kind="run",
                    summary=f"{with_unit(item.length_m, 'length', habit)} of {bore}",
                    main=make_form(item, scope, habit, typed, leave_out=more),
                    more=make_form(item, scope, habit, typed, only=more),
                    sources=(),
                    offers=INSERTS,
                    removable=False,
                    caution="",
                )
            )
            continue
        scope = f"variants.{variant_id}.system.parts.{item.id}"
        more = _MORE.get(item.kind, ("name", "place", "note"))
        sources = _source_forms(item, scope, habit, typed) if isinstance(item, Store) else ()
        pieces.append(
            Piece(
                id=item.id,
                anchor=f"part-{item.id}",
                is_run=False,
                title=item.label,
                kind=item.kind,
                summary=item.title if item.name else "",
                main=make_form(item, scope, habit, typed, leave_out=more),
                more=make_form(item, scope, habit, typed, only=more),
                sources=sources,
                offers=(),
                removable=isinstance(item, IN_LINE),
                caution=_CAUTIONS.get(item.kind, ""),
            )
        )
    return PartsPage(frame=frame, pieces=tuple(pieces))


@dataclass(frozen=True, slots=True)
class Card:
    """One draw as a card."""

    index: int
    name: str
    who: str
    clock: str
    met: bool
    words: str
    chosen: bool
    figures: tuple[tuple[str, str], ...]
    glance: Glance | None


@dataclass(frozen=True, slots=True)
class ShowerPage:
    """What comes out of the head."""

    template: ClassVar[str] = "shower.html"
    frame: Frame
    cards: tuple[Card, ...]
    chosen: int
    by: str
    chart: Chart | None
    narrow: Chart | None
    at: int
    layers: tuple[Layer, ...]
    traces: tuple[tuple[str, str, str], ...]
    name: str
    readouts_json: str


def _readouts_json(chart: Chart | None, narrow: Chart | None) -> str:
    """Give the readouts to the script as data; nothing a person typed is in it."""
    rows = [
        {
            "x": r.x, "n": n.x, "y": r.y, "litres": r.litres, "seconds": r.seconds, "head": r.head,
            "hot": r.hot, "share": r.share, "flow": r.flow, "power": r.power,
            "layers": [[layer.fill, layer.ink, layer.text] for layer in r.layers],
        }
        for r, n in zip(
            chart.readouts if chart else (), narrow.readouts if narrow else (), strict=True
        )
    ]  # fmt: skip
    return json.dumps(rows, ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")


def _card(outcome: Outcome, index: int, draw: DrawResult, chosen: int, habit: Habit) -> Card:
    def degrees(value: float | None) -> str:
        return with_unit(value, "temperature", habit) if value is not None else "–"

    wait = duration_words(draw.wait_s) if draw.wait_s is not None else "never warm"
    figures = (
        ("wait", wait),
        ("cold first", with_unit(draw.cold_m3, "volume", habit, 2)),
        ("good", f"{with_unit(draw.comfort_m3, 'volume', habit)}, "
                 f"{duration_words(draw.comfort_s)}"),
        ("mean", degrees(draw.mean_c)),
        ("peak", degrees(draw.peak_c)),
        ("end", degrees(draw.final_c)),
        ("flow", with_unit(draw.flow_m3_per_s, "flow", habit)),
        ("hot used", with_unit(draw.hot_m3, "volume", habit)),
        ("fresh used", with_unit(draw.used_m3, "volume", habit)),
        ("hot again", ready_words(draw)),
    )  # fmt: skip
    limit_s = outcome.brief.budgets.longest_wait_s
    return Card(
        index=index,
        name=draw.draw.name,
        who=draw.draw.who,
        clock=with_unit(draw.start_s, "clock"),
        met=draw.met,
        words=reason_words(draw, limit_s, habit) or "as asked",
        chosen=index == chosen,
        figures=figures,
        glance=make_glance(outcome, habit, index),
    )


def shower_page(
    opened: Opened,
    variant_id: str,
    habit: Habit,
    computing: Computing,
    chosen: int = 0,
    by: str = "litres",
    at: int | None = None,
    notice: str = "",
    typed: Typed | None = None,
) -> ShowerPage:
    """Put the shower page together."""
    frame, outcome = make_frame(opened, variant_id, "shower", habit, computing, notice, typed)
    cards: tuple[Card, ...] = ()
    chart = narrow = None
    traces: tuple[tuple[str, str, str], ...] = ()
    name = ""
    if outcome is not None and outcome.draws:
        chosen = min(max(0, chosen), len(outcome.draws) - 1)
        chart = make_chart(outcome, chosen, by, habit)
        narrow = make_chart(outcome, chosen, by, habit, NARROW)
        name = outcome.draws[chosen].draw.name
        cards = tuple(
            _card(outcome, index, draw, chosen, habit) for index, draw in enumerate(outcome.draws)
        )
    if outcome is not None:
        traces = tuple(
            (trace.id, trace.title, trace_value(trace, habit)) for trace in outcome.traces
        )
    last = len(chart.readouts) - 1 if chart else 0
    place = last // 2 if at is None else min(max(0, at), last)
    return ShowerPage(
        frame=frame,
        cards=cards,
        chosen=chosen,
        by=by,
        chart=chart,
        narrow=narrow,
        at=place,
        layers=chart.readouts[place].layers if chart else (),
        traces=traces,
        name=name,
        readouts_json=_readouts_json(chart, narrow),
    )


def trace_value(trace: Trace, habit: Habit) -> str:
    """Write the value of a trace; "never" where there is none."""
    return "never" if trace.value is None else with_unit(trace.value, trace.style, habit)


@dataclass(frozen=True, slots=True)
class TracePage:
    """A number, opened."""

    template: ClassVar[str] = "trace.html"
    frame: Frame
    id: str
    title: str
    value: str
    formula: str
    text: str
    inputs: tuple[tuple[str, str, str, str], ...]
    valid: str
    source: str


def trace_page(
    opened: Opened, variant_id: str, habit: Habit, computing: Computing, trace_id: str
) -> TracePage | None:
    """Open a number; None when this design has no such number."""
    frame, outcome = make_frame(opened, variant_id, "shower", habit, computing)
    if outcome is None:
        return None
    try:
        trace = outcome.trace(trace_id)
    except KeyError:
        return None
    inputs = tuple(
        (
            item.symbol,
            item.words,
            with_unit(item.value, item.style, habit, 6 if item.style == "seconds" else 4),
            item.path,
        )
        for item in trace.inputs
    )
    assert all(item.style in STYLES for item in trace.inputs)
    return TracePage(
        frame=frame,
        id=trace.id,
        title=trace.title,
        value=trace_value(trace, habit),
        formula=trace.formula,
        text=trace.words,
        inputs=inputs,
        valid=trace.valid,
        source=trace.source,
    )


def project_words(project: Project) -> str:
    """Say in a few words how a project is: "3 variants, 4 draws a day"."""
    variants, draws = len(project.variants), len(project.brief.draws)
    return (
        f"{variants} variant{'s' if variants != 1 else ''}, "
        f"{draws} draw{'s' if draws != 1 else ''} a day"
    )
