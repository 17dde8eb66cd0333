"""The pages of a design: brief, parts, shower, and the traces they open."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import ClassVar, get_args

from isotherma import catalogue
from isotherma.core.brief import Draw, Purpose
from isotherma.core.climate import MONTHS
from isotherma.core.project import Project
from isotherma.core.quantity import STYLES, UnitSystem, duration_words, with_unit
from isotherma.core.results.damp import arrives
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.last_day import LastDay
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.traced import Trace
from isotherma.services.comparisons import Comparing
from isotherma.services.computing import Computing
from isotherma.services.vehicles import Opened
from isotherma.web.pages.chart import (
    NARROW,
    Chart,
    ChartPanel,
    Glance,
    Layer,
    make_chart,
    make_glance,
    make_panels,
)
from isotherma.web.pages.forms import FormView, Typed, make_form
from isotherma.web.pages.frame import Frame, find_variant, make_frame
from isotherma.web.pages.heat import HeatView, heat_view
from isotherma.web.pages.whatif import Beside, WhatIfAsked, beside
from isotherma.wording import (
    TRACES,
    input_words,
    last_day_words,
    ready_words,
    reason_words,
    trace_title,
)

TRIP = ("people", "days", "region", "month", "cold_water_c", "inside_c", "day_start")
OTHER = ("reserve", "gives_up_s")

# what only some draws need: shown when the rest is opened
LATER_FIELDS = (
    "flow_m3_per_s", "stops", "stop_s", "clock", "outlet", "nudged", "child", "gives_up_c",
    "waits_hot", "state",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class DrawForm:
    """One draw of the brief."""

    id: str
    name: str
    summary: str
    main: FormView
    more: FormView


@dataclass(frozen=True, slots=True)
class UseForm:
    """Water by the litre: one line of the brief."""

    id: str
    name: str
    summary: str
    form: FormView


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
    uses: tuple[UseForm, ...]
    uses_words: str
    purposes: tuple[tuple[str, str], ...]
    presets: tuple[tuple[str, str], ...]
    water_words: str


def _edges(draw: Draw, typed: Typed | None) -> tuple[str, ...]:
    """Name the fields that say how warm, by what is wanted, or was just asked for."""
    aim: str = draw.aim
    if typed is not None and typed.scope == f"brief.draws.{draw.id}":
        aim = typed.texts.get("aim", [aim])[0]
    return {
        "window": ("low_c", "high_c"),
        "at least": ("low_c",),
        "above the tank": ("rise_k",),
    }.get(aim, ())


def brief_page(
    opened: Opened,
    variant_id: str,
    units: UnitSystem,
    computing: Computing,
    typed: Typed | None = None,
    notice: str = "",
) -> BriefPage:
    """Put the brief page together."""
    frame, outcome = make_frame(opened, variant_id, "brief", units, computing, notice, typed)
    brief = opened.project.brief
    words = ""
    if outcome is not None:
        given = "as given" if brief.cold_water_c is not None else "estimated"
        month = MONTHS[brief.month - 1]
        air = with_unit(catalogue.climate(brief.region, brief.month).air_c, "temperature", units, 3)
        water = with_unit(outcome.fresh_c, "temperature", units, 3)
        words = f"Fresh water {water}, {given}; the air in {month} is {air} on average."
    system = find_variant(opened.project, variant_id).system
    names = {
        "part": [
            (part.id, part.label) for part in system.parts
            if part.side == "use" or part.kind == "reuse_loop"
        ],
        "state": [(state.id, state.name) for state in system.states],
    }  # fmt: skip
    uses = tuple(
        UseForm(
            id=use.id,
            name=use.name,
            summary=f"{with_unit(use.day_m3, 'volume', units)} a day",
            form=make_form(
                use, f"brief.uses.{use.id}", units, typed, leave_out=("outlet", "source")
            ),
        )
        for use in brief.uses
    )
    draws = tuple(
        DrawForm(
            id=draw.id,
            name=draw.name,
            summary=f"{with_unit(draw.start_s, 'clock')}, {duration_words(draw.duration_s)}",
            main=make_form(
                draw, f"brief.draws.{draw.id}", units, typed,
                only=("name", "who", "start_s", "duration_s", "aim", *_edges(draw, typed)),
            ),
            more=make_form(
                draw, f"brief.draws.{draw.id}", units, typed,
                only=LATER_FIELDS,
                names=names,
            ),
        )
        for draw in sorted(brief.draws, key=lambda draw: draw.start_s)
    )  # fmt: skip
    return BriefPage(
        frame=frame,
        trip=make_form(brief, "brief", units, typed, only=TRIP),
        other=make_form(brief, "brief", units, typed, only=OTHER),
        budgets=make_form(brief.budgets, "brief.budgets", units, typed),
        refusals=make_form(brief, "brief", units, typed, only=("will_not_have",)),
        note=make_form(brief, "brief", units, typed, only=("note",)),
        draws=draws,
        uses=uses,
        uses_words=f"{with_unit(brief.other_fresh_m3, 'volume', units)} a day, "
        f"{with_unit(brief.other_grey_m3, 'volume', units)} of it to the grey tank.",
        purposes=tuple((purpose, purpose.capitalize()) for purpose in get_args(Purpose)),
        presets=tuple((key, draw.name) for key, draw in catalogue.PRESETS.items()),
        water_words=words,
    )


@dataclass(frozen=True, slots=True)
class Card:
    """One draw as a card."""

    index: int
    draw_id: str
    name: str
    who: str
    clock: str
    met: bool
    words: str
    chosen: bool
    figures: tuple[tuple[str, str], ...]
    glance: Glance | None


@dataclass(frozen=True, slots=True)
class LastDayView:
    """The first day of the trip unlike the day shown: its draws, a row each."""

    number: int
    words: str
    rows: tuple[tuple[str, str, str, str, bool, str], ...]


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
    panels: tuple[ChartPanel, ...] = ()
    narrow_panels: tuple[ChartPanel, ...] = ()
    beside: Beside | None = None
    last_day: LastDayView | None = None
    heat: HeatView | None = None


def _last_day(outcome: Outcome, last: LastDay | None, units: UnitSystem) -> LastDayView | None:
    if last is None:
        return None
    limit_s = outcome.brief.budgets.longest_wait_s
    rows = tuple(
        (
            with_unit(draw.start_s, "clock"),
            draw.draw.name,
            duration_words(draw.wait_s) if draw.wait_s is not None else "never warm",
            duration_words(draw.comfort_s),
            draw.met,
            reason_words(draw, limit_s, units) or "as asked",
        )
        for draw in last.draws
    )
    return LastDayView(last.number, last_day_words(last, outcome, units), rows)


def _readouts_json(
    chart: Chart | None, narrow: Chart | None, panels: tuple[ChartPanel, ...] = ()
) -> str:
    """Give the readouts to the script as data; nothing a person typed is in it."""
    rows = [
        {
            "x": r.x, "n": n.x, "y": r.y, "litres": r.litres, "seconds": r.seconds, "head": r.head,
            "hot": r.hot, "share": r.share, "flow": r.flow, "power": r.power,
            "layers": [[layer.fill, layer.ink, layer.text] for layer in r.layers],
            **{panel.key: panel.values[place] for panel in panels},
        }
        for place, (r, n) in enumerate(zip(
            chart.readouts if chart else (), narrow.readouts if narrow else (), strict=True
        ))
    ]  # fmt: skip
    return json.dumps(rows, ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")


def _card(outcome: Outcome, index: int, draw: DrawResult, chosen: int, units: UnitSystem) -> Card:
    def degrees(value: float | None) -> str:
        return with_unit(value, "temperature", units) if value is not None else "–"

    wait = duration_words(draw.wait_s) if draw.wait_s is not None else "never warm"
    figures: tuple[tuple[str, str], ...] = (
        ("wait", wait),
        ("cold first", with_unit(draw.cold_m3, "volume", units, 2)),
        ("good", f"{with_unit(draw.comfort_m3, 'volume', units)}, "
                 f"{duration_words(draw.comfort_s)}"),
        ("mean at the outlet", degrees(draw.mean_c)),
        ("peak", degrees(draw.peak_c)),
        ("end", degrees(draw.final_c)),
        ("flow", with_unit(draw.flow_m3_per_s, "flow", units)),
        ("hot used", with_unit(draw.hot_m3, "volume", units)),
        ("fresh used", with_unit(draw.used_m3, "volume", units)),
        ("hot again", ready_words(draw)),
    )  # fmt: skip
    limit_s = outcome.brief.budgets.longest_wait_s
    states = {state.id: state.name for state in outcome.setup.system.states}
    if draw.draw.state in states:
        figures = (("stands as", states[draw.draw.state]), *figures)
    falls = arrives(outcome, index)
    if falls is not None:
        drops = "fine drops" if falls.fine_holes else "ordinary drops"
        at = next(place for place, (name, _) in enumerate(figures) if name == "peak")
        figures = (
            *figures[:at],
            ("mean at the chest", f"{degrees(falls.chest_c)}, {drops}"),
            ("mean at the tray", degrees(falls.tray_c)),
            *figures[at:],
        )
    network = outcome.setup.network
    if draw.draw.state is None and network.diverted.get(draw.outlet):
        figures = (*figures, ("back to the tank", duration_words(draw.end_s - draw.start_s)))
    return Card(
        index=index,
        draw_id=draw.draw.id,
        name=draw.draw.name,
        who=draw.draw.who,
        clock=with_unit(draw.start_s, "clock"),
        met=draw.met,
        words=reason_words(draw, limit_s, units) or "as asked",
        chosen=index == chosen,
        figures=figures,
        glance=make_glance(outcome, units, index),
    )


def shower_page(
    opened: Opened,
    variant_id: str,
    units: UnitSystem,
    computing: Computing,
    comparing: Comparing,
    chosen: int = 0,
    by: str = "litres",
    at: int | None = None,
    notice: str = "",
    typed: Typed | None = None,
    asked: WhatIfAsked | None = None,
) -> ShowerPage:
    """Put the shower page together."""
    frame, outcome = make_frame(opened, variant_id, "shower", units, computing, notice, typed)
    cards: tuple[Card, ...] = ()
    chart = narrow = None
    panels: tuple[ChartPanel, ...] = ()
    narrow_panels: tuple[ChartPanel, ...] = ()
    side: Beside | None = None
    traces: tuple[tuple[str, str, str], ...] = ()
    name = ""
    if outcome is not None and outcome.draws:
        chosen = min(max(0, chosen), len(outcome.draws) - 1)
        chart = make_chart(outcome, chosen, by, units)
        narrow = make_chart(outcome, chosen, by, units, NARROW)
        name = outcome.draws[chosen].draw.name
        panels = make_panels(outcome, chosen, by, units)
        narrow_panels = make_panels(outcome, chosen, by, units, NARROW)
        side = beside(
            opened, variant_id, units, computing, comparing, outcome, chosen, by,
            asked or WhatIfAsked(),
        )  # fmt: skip
        cards = tuple(
            _card(outcome, index, draw, chosen, units) for index, draw in enumerate(outcome.draws)
        )
    ends = None
    if outcome is not None:
        variant = find_variant(opened.project, variant_id)
        ends = _last_day(outcome, computing.last_day(opened.project, variant, outcome), units)
        traces = tuple(
            (trace.id, trace_title(trace), trace_value(trace, units)) for trace in outcome.traces
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
        readouts_json=_readouts_json(chart, narrow, panels),
        panels=panels,
        narrow_panels=narrow_panels,
        beside=side,
        last_day=ends,
        heat=heat_view(outcome, units) if outcome is not None else None,
    )


def trace_value(trace: Trace, units: UnitSystem) -> str:
    """Write the value of a trace; "never" where there is none."""
    return "never" if trace.value is None else with_unit(trace.value, trace.style, units)


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
    opened: Opened, variant_id: str, units: UnitSystem, computing: Computing, trace_id: str
) -> TracePage | None:
    """Open a number; None when this design has no such number."""
    frame, outcome = make_frame(opened, variant_id, "shower", units, computing)
    if outcome is None:
        return None
    try:
        trace = outcome.trace(trace_id)
    except KeyError:
        return None
    inputs = tuple(
        (
            item.symbol,
            input_words(item),
            with_unit(item.value, item.style, units, 6 if item.style == "seconds" else 4),
            item.path,
        )
        for item in trace.inputs
    )
    assert all(item.style in STYLES for item in trace.inputs)
    words = TRACES[trace.code]
    return TracePage(
        frame=frame,
        id=trace.id,
        title=trace_title(trace),
        value=trace_value(trace, units),
        formula=words.formula,
        text=words.words,
        inputs=inputs,
        valid=words.valid,
        source=words.source,
    )


def project_words(project: Project) -> str:
    """Say in a few words how a project is: "3 variants, 4 draws a day"."""
    variants, draws = len(project.variants), len(project.brief.draws)
    return (
        f"{variants} variant{'s' if variants != 1 else ''}, "
        f"{draws} draw{'s' if draws != 1 else ''} a day"
    )
