"""The Shower page: what comes out of the head, and what stands beside it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import ClassVar, Final

from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.damp import arrives
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.last_day import LastDay
from isotherma.core.results.outcome import Outcome
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.shower.alternatives import Alternatives, DrawShown, WhatIfAsked, alternatives
from isotherma.web.shower.chart import NARROW, Chart, Layer, make_chart
from isotherma.web.shower.glance import Glance, make_glance
from isotherma.web.shower.heat import HeatView, heat_view
from isotherma.web.shower.panels import ChartPanel, make_panels
from isotherma.web.shower.trace import trace_value
from isotherma.wording import last_day_words, ready_words, reason_words, trace_title


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
    last_moment: int
    layers: tuple[Layer, ...]
    traces: tuple[tuple[str, tuple[tuple[str, str, str], ...]], ...]
    name: str
    readouts_json: str
    panels: tuple[ChartPanel, ...] = ()
    narrow_panels: tuple[ChartPanel, ...] = ()
    alternatives: Alternatives | None = None
    last_day: LastDayView | None = None
    heat: HeatView | None = None
    days: tuple[DayLink, ...] = ()
    day: int = 1


@dataclass(frozen=True, slots=True)
class DayLink:
    """A day of the trip that can be looked at, or several that are alike."""

    number: int
    words: str
    chosen: bool
    met: bool


def _on_day(outcome: Outcome | None, number: int | None) -> Outcome | None:
    """Give the day that is asked for; the worst where the trip has no such day."""
    if outcome is None or number is None:
        return outcome
    return outcome.on_day(min(max(1, number), outcome.course.days))


def _day_links(outcome: Outcome | None) -> tuple[DayLink, ...]:
    """List the days of a trip that differ; none where all are alike."""
    if outcome is None or not outcome.legs:
        return ()
    names = {kind.id: kind.name for leg in outcome.legs for kind in leg.brief.day_kinds}
    return tuple(
        DayLink(
            number=leg.first,
            words=f"{leg.first if leg.days == 1 else f'{leg.first}–{leg.last}'} "
            f"{names.get(leg.kind, '')}",
            chosen=leg.first <= outcome.number <= leg.last,
            met=all(draw.met for draw in leg.draws),
        )
        for leg in outcome.legs
    )


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


QUESTIONS: Final[Mapping[str, str]] = {
    "flow": "What comes out of the head?",
    "wait": "How long does it take?",
    "warm": "What comes out of the head?",
    "hot": "How much heat is in it?",
    "energy": "How much heat is in it?",
    "used": "What is used on the trip?",
}


def _numbers(
    outcome: Outcome, units: UnitSystem
) -> tuple[tuple[str, tuple[tuple[str, str, str], ...]], ...]:
    """Group the figures that open by the question they answer."""
    found: dict[str, list[tuple[str, str, str]]] = {title: [] for title in QUESTIONS.values()}
    nothing = {
        f"used.{entry.budget}" for entry in outcome.ledger
        if entry.used == 0.0 and entry.limit is None
    }  # fmt: skip
    for trace in outcome.traces:
        if trace.id not in nothing:
            row = (trace.id, trace_title(trace), trace_value(trace, units))
            found[QUESTIONS[trace.id.partition(".")[0]]].append(row)
    return tuple((title, tuple(rows)) for title, rows in found.items() if rows)


@dataclass(frozen=True, slots=True)
class ShowerAsked:
    """What of the page is asked for: the draw, along what, at which moment, what is tried."""

    draw: int = 0
    by: str = "litres"
    at: int | None = None
    day: int | None = None
    what_if: WhatIfAsked = field(default_factory=WhatIfAsked)


def shower_page(context: PageContext, asked: ShowerAsked | None = None) -> ShowerPage:
    """Put the shower page together."""
    asked = asked or ShowerAsked()
    frame, worst = make_frame(context, "shower")
    outcome = _on_day(worst, asked.day)
    units, chosen, by, at = context.units, asked.draw, asked.by, asked.at
    cards: tuple[Card, ...] = ()
    chart = narrow = None
    panels: tuple[ChartPanel, ...] = ()
    narrow_panels: tuple[ChartPanel, ...] = ()
    side: Alternatives | None = None
    traces: tuple[tuple[str, tuple[tuple[str, str, str], ...]], ...] = ()
    name = ""
    if outcome is not None and outcome.draws:
        chosen = min(max(0, chosen), len(outcome.draws) - 1)
        chart = make_chart(outcome, chosen, by, units)
        narrow = make_chart(outcome, chosen, by, units, NARROW, beside=chart)
        name = outcome.draws[chosen].draw.name
        panels = make_panels(outcome, chosen, by, units)
        narrow_panels = make_panels(outcome, chosen, by, units, NARROW, beside=panels)
        side = alternatives(context, outcome, DrawShown(chosen, by), asked.what_if)
        cards = tuple(
            _card(outcome, index, draw, chosen, units) for index, draw in enumerate(outcome.draws)
        )
    ends = None
    if outcome is not None:
        assert worst is not None  # there is a day, so there is the worst
        last_day = context.services.computing.last_day(context.project, context.variant, worst)
        ends = _last_day(outcome, last_day, units)
        traces = _numbers(outcome, units)
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
        last_moment=last,
        layers=chart.readouts[place].layers if chart else (),
        traces=traces,
        name=name,
        readouts_json=_readouts_json(chart, narrow, panels),
        panels=panels,
        narrow_panels=narrow_panels,
        alternatives=side,
        last_day=ends,
        heat=heat_view(outcome, units) if outcome is not None else None,
        days=_day_links(outcome),
        day=outcome.number if outcome is not None else 1,
    )
