"""Beside the shower: what is tried and not kept, remedies of the dead leg, mixing strategies."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final
from urllib.parse import urlencode

from pydantic import ValidationError

from isotherma.core.brief import Draw
from isotherma.core.editing import value_at
from isotherma.core.errors import CoreError, QuantityError
from isotherma.core.project import Project
from isotherma.core.quantity import STYLES, UnitSystem, duration_words, parse, shown, with_unit
from isotherma.core.results.mixing_strategies import FlowWindow, MixingStrategy
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.remedies import Remedy
from isotherma.services.comparisons import (
    HOLDING_WORK,
    REMEDIES_WORK,
    STRATEGIES_WORK,
    Trial,
    read_trial,
    strategies_of,
    trials_of,
    tried,
    with_strategy,
)
from isotherma.services.long_work import UnderWay
from isotherma.services.vehicles import find_variant
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Cell, cell_of
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.web.shower.chart import NARROW, Chart, make_chart
from isotherma.web.shower.holding import HoldingRow, holding_row
from isotherma.wording import (
    KEPT,
    REMEDIES,
    STRATEGIES,
    error_words,
    needs_words,
    validation_sentences,
    verdict,
)

PAUSE_S: Final = 900.0
BOX: Final = (560.0, 190.0)


@dataclass(frozen=True, slots=True)
class WhatIfAsked:
    """What the address asks for: trials as typed, a comparison, the pause before the draw."""

    texts: Mapping[str, str] = field(default_factory=dict)
    compare: str = ""
    pause: str = ""
    strategy: str = ""


@dataclass(frozen=True, slots=True)
class TrialView:
    """One trial: as typed, what it is now, what is wrong with it."""

    key: str
    label: str
    unit: str
    text: str
    now: str
    error: str
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Tried:
    """What came of the trials."""

    verdict: str
    cells: tuple[Cell, ...]
    chart: Chart | None
    narrow: Chart | None
    kept: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class RemedyRow:
    """One remedy, ready to read."""

    title: str
    needs: str
    wait: str
    litres: str
    trip: str
    heat: str
    energy: str
    flow: str
    joints: str
    first: bool
    note: str


@dataclass(frozen=True, slots=True)
class StrategyRow:
    """One way to make the temperature, ready to read."""

    title: str
    warm: str
    wait: str
    sag: str
    peak: str
    scalds: bool
    met: bool
    first: bool


@dataclass(frozen=True, slots=True)
class WindowView:
    """The window of a through-flow heater, drawn."""

    label: str
    line: str
    dead_width: str
    good_x: str
    good_width: str
    set_y: str
    x_ticks: tuple[tuple[str, str], ...]
    y_ticks: tuple[tuple[str, str], ...]
    x_unit: str
    here_x: str
    sentences: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Alternatives:
    """Everything beside the chart."""

    trials: tuple[TrialView, ...]
    asks: bool
    ways: tuple[tuple[str, str], ...]
    strategy: str
    error: str
    tried: Tried | None
    compare: str
    pause: str
    pause_error: str
    remedies: tuple[RemedyRow, ...]
    strategies: tuple[StrategyRow, ...]
    windows: tuple[WindowView, ...]
    holding: tuple[HoldingRow, ...]
    holds: bool
    mixes: bool
    work: UnderWayView | None = None


def _trial_views(
    project: Project, trials: tuple[Trial, ...], asked: WhatIfAsked, units: UnitSystem,
    effective: Mapping[str, float],
) -> tuple[tuple[TrialView, ...], dict[str, object]]:  # fmt: skip
    views: list[TrialView] = []
    values: dict[str, object] = {}
    for trial in trials:
        text, error = asked.texts.get(trial.key, "").strip(), ""
        if text:
            try:
                values[trial.key] = read_trial(trial, text, units)
            except QuantityError as problem:
                error = error_words(problem, units)
        now = value_at(project, trial.path)
        if now is None:
            now = effective.get(trial.key)
        words = shown(now, trial.style, units) if isinstance(now, float | int) else "not said"
        unit = "" if trial.choices else STYLES[trial.style].symbol(units)
        views.append(
            TrialView(trial.key, trial.title, unit, text[:40], words, error, trial.choices)
        )
    return tuple(views), values


def _effective(outcome: Outcome, trials: tuple[Trial, ...], index: int) -> dict[str, float]:
    """Give what stands in the place of what nobody entered."""
    found = {"flow": outcome.draws[index].flow_m3_per_s, "cold": outcome.fresh_c}
    for trial in trials:
        *_, part_id, name = trial.path.split(".")
        part = outcome.setup.parts.get(part_id)
        value = getattr(part, name, None)
        if isinstance(value, float | int):
            found[trial.key] = float(value)
    return found


def _remedy_row(remedy: Remedy, place: int, times: float, units: UnitSystem) -> RemedyRow:
    energy = "–"
    if abs(remedy.day_j) > 1800.0:
        sign = "+" if remedy.day_j > 0 else "−"
        energy = sign + with_unit(abs(remedy.day_j), "energy", units, 2)
    return RemedyRow(
        title=REMEDIES[remedy.id],
        needs=needs_words(remedy, units),
        wait="never" if remedy.wait_s is None else duration_words(remedy.wait_s),
        litres=with_unit(remedy.lost_m3, "volume", units, 2),
        trip=with_unit(remedy.lost_m3 * times, "volume", units, 2),
        heat=with_unit(max(0.0, remedy.lost_j), "battery_energy", units, 2),
        energy=energy,
        flow=with_unit(remedy.flow_m3_per_s, "flow", units, 2),
        joints=str(remedy.joints) if remedy.joints else "–",
        first=place == 0,
        note=KEPT[remedy.kept],
    )


def _strategy_row(strategy: MixingStrategy, place: int, units: UnitSystem) -> StrategyRow:
    return StrategyRow(
        title=STRATEGIES[strategy.id],
        warm=f"{with_unit(strategy.warm_m3, 'volume', units, 3)}, "
        f"{duration_words(strategy.warm_s)}",
        wait="never" if strategy.wait_s is None else duration_words(strategy.wait_s),
        sag=with_unit(strategy.sag_k, "difference", units, 2),
        peak="–"
        if strategy.peak_c is None
        else with_unit(strategy.peak_c, "temperature", units, 3),
        scalds=strategy.scalds,
        met=strategy.met,
        first=place == 0,
    )


def _window_view(window: FlowWindow, here_m3_per_s: float, units: UnitSystem) -> WindowView:
    width, height = BOX
    left, right, top, bottom = 44.0, width - 8.0, 10.0, height - 28.0
    most = window.points[-1][0]

    def x_of(flow: float) -> float:
        return left + (right - left) * min(1.0, flow / most)

    def y_of(celsius: float) -> float:
        return bottom - (bottom - top) * min(1.0, max(0.0, celsius / 90.0))

    line, broken = "", True
    for flow, celsius, burns in window.points:
        if not burns:
            broken = True
            continue
        line += f"{'M' if broken else 'L'}{x_of(flow):.1f},{y_of(celsius):.1f}"
        broken = False
    unit = 6e4 if units is UnitSystem.METRIC else 6e4 / 3.785411784
    step = 2.0 if units is UnitSystem.METRIC else 0.5
    ticks = [k * step for k in range(1, int(most * unit / step) + 1)]
    marks = (20.0, 40.0, 60.0, 80.0)
    if units is UnitSystem.US:
        marks = (15.56, 37.78, 60.0, 82.22)  # 60, 100, 140, 180 °F

    def flow_words(value: float) -> str:
        return with_unit(value, "flow", units, 2)

    sentences = [
        f"{window.label} lights from {flow_words(window.lights)} and goes out below "
        f"{flow_words(window.goes_out)}."
    ]
    if window.set_c is not None and window.from_m3_per_s < window.to_m3_per_s:
        sentences.append(
            f"It holds {with_unit(window.set_c, 'temperature', units)} between "
            f"{flow_words(window.from_m3_per_s)} and {flow_words(window.to_m3_per_s)}; below it "
            "surges, above it falls short."
        )
    if window.hottest_c > 50.0:
        sentences.append(
            f"At little flow it reaches {with_unit(window.hottest_c, 'temperature', units, 3)}: "
            "feel the water before anyone steps under it."
        )
    return WindowView(
        label=window.label, line=line,
        dead_width=f"{x_of(window.goes_out) - left:.1f}",
        good_x=f"{x_of(window.from_m3_per_s):.1f}",
        good_width=f"{max(0.0, x_of(window.to_m3_per_s) - x_of(window.from_m3_per_s)):.1f}",
        set_y="" if window.set_c is None else f"{y_of(window.set_c):.1f}",
        x_ticks=tuple((f"{x_of(value / unit):.1f}", f"{value:g}") for value in ticks),
        y_ticks=tuple(
            (f"{y_of(value):.1f}", shown(value, "temperature", units, 3))
            for value in marks
        ),
        x_unit="L/min" if units is UnitSystem.METRIC else "gal/min",
        here_x=f"{x_of(here_m3_per_s):.1f}", sentences=tuple(sentences),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class DrawShown:
    """Which draw the chart shows, along litres or time."""

    index: int
    by: str


@dataclass(frozen=True, slots=True)
class _Compared:
    """What a comparison on the very draw has found, or how far it is."""

    remedies: tuple[RemedyRow, ...] = ()
    strategies: tuple[StrategyRow, ...] = ()
    holding: tuple[HoldingRow, ...] = ()
    work: UnderWayView | None = None


def _compared(
    context: PageContext, seen: Project, placed: Draw, compare: str, pause_s: float | None
) -> _Compared:
    """Ask for what is compared: remedies after a pause, ways of mixing, held or in time."""
    comparing, variant, units = context.services.comparing, context.variant, context.units
    asked_for = [(key, value) for key, value in context.query.multi_items() if key != "again"]
    path = f"{context.path_of('design.shower')}?{urlencode(asked_for)}"
    if compare == "slug" and pause_s is not None:
        found = comparing.dead_leg(seen, variant, placed, pause_s, context.asker)
        if isinstance(found, UnderWay):
            return _Compared(work=under_way_view(found, REMEDIES_WORK, path, "#slug-compared"))
        brief = context.project.brief
        times = float(brief.trip_days * max(1, len(brief.draws)))
        return _Compared(
            tuple(_remedy_row(remedy, place, times, units) for place, remedy in enumerate(found))
        )
    if compare == "mixing":
        ways = comparing.mixing(seen, variant, placed, context.asker)
        if isinstance(ways, UnderWay):
            return _Compared(work=under_way_view(ways, STRATEGIES_WORK, path, "#mix-compared"))
        return _Compared(
            strategies=tuple(_strategy_row(way, place, units) for place, way in enumerate(ways))
        )
    if compare == "holding":
        held = comparing.holding(seen, variant, context.asker)
        if isinstance(held, UnderWay):
            return _Compared(work=under_way_view(held, HOLDING_WORK, path, "#hold-compared"))
        return _Compared(
            holding=tuple(holding_row(one, place, units) for place, one in enumerate(held))
        )
    return _Compared()


def alternatives(
    context: PageContext, outcome: Outcome, at: DrawShown, asked: WhatIfAsked
) -> Alternatives:
    """Put together what stands beside the chart of a draw."""
    project, variant, units = context.project, context.variant, context.units
    computing, comparing = context.services.computing, context.services.comparing
    result = outcome.draws[at.index]
    draw: Draw = next(item for item in project.brief.draws if item.id == result.draw.id)
    # what is compared on the very draw is run on the day that is seen, not on the whole trip
    seen = project.model_copy(update={"brief": outcome.brief}) if outcome.legs else project
    trials = trials_of(project.brief, variant, draw)
    views, values = _trial_views(
        project, trials, asked, units, _effective(outcome, trials, at.index)
    )
    placed = draw.model_copy(update={"outlet": result.outlet})
    ways = strategies_of(project, variant, placed)
    strategy = asked.strategy if asked.strategy in {way.id for way in ways} else ""
    came, error = None, ""
    if (values or strategy) and not any(view.error for view in views):
        try:
            changed = tried(project, trials, values)
            if strategy:
                changed = with_strategy(changed, variant.id, placed, strategy)
            after = computing.result(changed, find_variant(changed, variant.id))
            if isinstance(after, CoreError):
                raise after
            came = _came(outcome, after.on_day(outcome.number), at, units, views, strategy)
        except ValidationError as problem:
            error = "That cannot be: " + "; ".join(validation_sentences(problem))
        except CoreError as problem:
            error = error_words(problem, units)
    pause = asked.pause.strip()
    pause_s, pause_error = _pause(pause, units)
    compared = _compared(context, seen, placed, asked.compare, None if pause_error else pause_s)
    return Alternatives(
        trials=views, asks=any(view.text for view in views),
        ways=tuple((way.id, STRATEGIES[way.id]) for way in ways), strategy=strategy,
        error=error, tried=came, compare=asked.compare,
        pause=pause or shown(PAUSE_S, "minutes", units), pause_error=pause_error,
        remedies=compared.remedies, strategies=compared.strategies, holding=compared.holding,
        work=compared.work,
        windows=tuple(
            _window_view(window, result.flow_m3_per_s, units)
            for window in comparing.windows(variant, outcome.fresh_c)
        ),
        mixes=any("mixer" in part.kind for part in variant.system.parts),
        holds=any(part.kind == "store" for part in variant.system.parts),
    )  # fmt: skip


def _pause(text: str, units: UnitSystem) -> tuple[float, str]:
    """Read the pause before a draw [s], and why it cannot be read; a quarter of an hour then."""
    if not text:
        return PAUSE_S, ""
    try:
        pause_s = parse(text, "minutes", units)
        if not 0.0 <= pause_s <= 12 * 3600.0:
            raise QuantityError(
                text=text, dimension="time", reason="over_twelve_hours", example="15 min"
            )
    except QuantityError as problem:
        return PAUSE_S, error_words(problem, units)
    return pause_s, ""


def _came(
    before: Outcome, after: Outcome, at: DrawShown, units: UnitSystem,
    views: tuple[TrialView, ...], strategy: str,
) -> Tried:  # fmt: skip
    was = {entry.budget: entry for entry in before.ledger}
    turned = [(view.key, view.text) for view in views if view.text]
    return Tried(
        verdict=verdict(after, units),
        cells=tuple(
            cell_of(entry, was.get(entry.budget), units)
            for entry in after.ledger
            if entry.used > 0.0
        ),
        chart=make_chart(after, at.index, at.by, units, before=before),
        narrow=make_chart(after, at.index, at.by, units, NARROW, before=before),
        kept=(
            *((f"w.{key}", text) for key, text in turned),
            *((("school", strategy),) if strategy else ()),
        ),
    )  # fmt: skip
