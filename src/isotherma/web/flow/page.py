"""The Flow page: one state with some outlets open; leaks, waste and drain-down beside it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite
from typing import Any, ClassVar, Final

from isotherma.core.errors import CoreError, QuantityError
from isotherma.core.flows.findings import flow_findings
from isotherma.core.flows.leak import PumpStarts
from isotherma.core.flows.report import FlowReport, PartFlow, RunFlow
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem, duration_words, parse, shown, with_unit
from isotherma.core.system.states import State
from isotherma.files.flow_json import INTERVALS_S
from isotherma.services.flows import (
    Asked,
    SolvedFlows,
    drained,
    leaks,
    outlets_of,
    wasted,
)
from isotherma.web.flow.asked import (
    FlowAsked,
    OpenChoice,
    choice_of,
    flow_asked,
    opens_of,
    query_of,
    state_of,
)
from isotherma.web.flow.profile import (
    NARROW,
    WIDE,
    Eaten,
    Profile,
    draw_profile,
    eaten_rows,
)
from isotherma.web.flow.tanks import GaugePanel, beside
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.draining import DrainPanel, drain_panel
from isotherma.web.frame.frame import Frame, make_frame, mend_piece
from isotherma.wording import (
    doing_words,
    empties_sentence,
    error_words,
    fills_sentence,
    flow_warning,
    outlet_sentence,
    pump_sentences,
    pump_start_sentences,
    shock_sentence,
    tray_sentences,
)
from isotherma.wording.reader import Reader

VIEWS: Final = (
    ("flow", "Flow and pressure"),
    ("leak", "Leaks"),
    ("waste", "Waste and filling"),
    ("drain", "Drain-down"),
    ("tanks", "Gauges and tanks"),
    ("air", "Hot air"),
)


@dataclass(frozen=True, slots=True)
class RunLine:
    """One run in the table."""

    key: str
    label: str
    flow: str
    speed: str
    drop: str
    lift: str
    warm: str
    still: bool


@dataclass(frozen=True, slots=True)
class PartLine:
    """One part in the table."""

    key: str
    label: str
    flow: str
    pressure: str
    drop: str
    warm: str
    words: str
    still: bool


@dataclass(frozen=True, slots=True)
class SolvedView:
    """A solved point, ready to show."""

    said: tuple[str, ...]
    warnings: tuple[str, ...]
    ways: tuple[tuple[str, str, bool], ...]
    wide: Profile | None
    narrow: Profile | None
    eaten: tuple[Eaten, ...]
    runs: tuple[RunLine, ...]
    parts: tuple[PartLine, ...]
    worked: str


@dataclass(frozen=True, slots=True)
class Typed:
    """One field of a what-if: as typed, and what is wrong with it."""

    text: str
    unit: str
    error: str


@dataclass(frozen=True, slots=True)
class PumpStartPanel:
    """One pump's leak arithmetic."""

    label: str
    said: tuple[str, ...]
    answer: str
    rows: tuple[tuple[str, str, str, str], ...]
    unit: str


@dataclass(frozen=True, slots=True)
class FlowPage:
    """Flows of a variant, or why there are none."""

    template: ClassVar[str] = "flow.html"
    frame: Frame
    views: tuple[tuple[str, str, bool], ...]
    view: str
    states: tuple[tuple[str, str, bool], ...]
    outlets: tuple[OpenChoice, ...]
    dirty: bool
    query: str
    notice: str
    error: str
    mend: str
    every: Typed
    cooled: Typed
    pitch: Typed
    roll: Typed
    empty: bool
    solved: SolvedView | None = None
    starts: tuple[PumpStartPanel, ...] = ()
    trays: tuple[str, ...] = ()
    tanks: tuple[str, ...] = ()
    drain: DrainPanel | None = None
    gauges: tuple[GaugePanel, ...] = ()
    tank_said: tuple[str, ...] = ()
    air: tuple[tuple[str, ...], ...] = ()


def _bar(pressure_pa: float, units: UnitSystem) -> str:
    """Write a pressure of a table to a millibar: less is not felt by anybody."""
    if not isfinite(pressure_pa):
        return "not known"
    return shown(round(pressure_pa / 100.0) * 100.0, "pressure", units, 3)


def _run_line(run: RunFlow, units: UnitSystem) -> RunLine:
    still = run.flow_m3_per_s == 0.0
    return RunLine(
        key=f"run-{run.id}",
        label=run.label,
        flow=shown(abs(run.flow_m3_per_s), "flow", units, 3)
        + (" ←" if run.flow_m3_per_s < 0 else ""),
        speed=shown(run.velocity_m_per_s, "speed", units, 2),
        drop=_bar(run.drop_pa, units),
        lift=_bar(run.static_head_pa, units),
        warm="" if still else with_unit(run.temperature_c, "temperature", units, 3),
        still=still,
    )


def _part_line(part: PartFlow, units: UnitSystem) -> PartLine:
    still = part.flow_m3_per_s == 0.0
    return PartLine(
        key=f"part-{part.id}",
        label=part.label,
        flow=shown(part.flow_m3_per_s, "flow", units, 3),
        pressure=_bar(part.pressure_pa, units),
        drop=_bar(part.drop_pa, units),
        warm="" if still else with_unit(part.temperature_c, "temperature", units, 3),
        words=doing_words(part.doing),
        still=still,
    )


def _solved(
    found: SolvedFlows, way: str, labels: Mapping[str, str], units: UnitSystem
) -> SolvedView:
    report: FlowReport = found.report
    running = [outlet.id for outlet in report.outlets if outlet.flow_m3_per_s > 0.0]
    chosen = way if way in running else (running[0] if running else "")
    reader = Reader(labels, units)
    said = [outlet_sentence(outlet, units) for outlet in report.outlets]
    for pump in report.pumps:
        if pump.doing != "rests" or len(report.pumps) == 1:
            said += pump_sentences(pump, units)
    said += [shock_sentence(shock, labels.__getitem__, units) for shock in found.shocks]
    worked = (
        f"Solved in {report.rounds} rounds and {report.steps} steps. What is left of the pressure "
        f"equations is {report.residual_pa:.1e} Pa at most; flows add up at every joint within "
        f"{report.balance:.0e}."
    )
    return SolvedView(
        said=tuple(said),
        warnings=tuple(flow_warning(item, reader) for item in flow_findings(report, found.network)),
        ways=tuple((key, labels[key], key == chosen) for key in running),
        wide=draw_profile(report, chosen, units, WIDE) if chosen else None,
        narrow=draw_profile(report, chosen, units, NARROW) if chosen else None,
        eaten=eaten_rows(report, chosen, units) if chosen else (),
        runs=tuple(_run_line(run, units) for run in report.runs),
        parts=tuple(_part_line(part, units) for part in report.parts),
        worked=worked,
    )


def _typed(text: str, style: str, units: UnitSystem, unit: str) -> tuple[Typed, float | None]:
    """Read a what-if; empty is none."""
    if not text.strip():
        return Typed("", unit, ""), None
    try:
        return Typed(text, unit, ""), parse(text, style, units)
    except QuantityError as error:
        return Typed(text[:60], unit, error_words(error, units)), None


def _pump_starts(
    starts: PumpStarts, interval_s: float | None, cooled_k: float, units: UnitSystem
) -> PumpStartPanel:
    style, per = ("volume", 3600.0)
    unit = with_unit(0.0, style, units).split("\u00a0")[1] + "/h"

    def rate(value: float) -> str:
        return shown(value * per, style, units, 2)

    answer = ""
    if interval_s is not None and interval_s > 0:
        band = starts.leak(interval_s, cooled_k)
        every = duration_words(interval_s)
        if band.high <= 0.0:
            answer = f"A start every {every}: the cooling explains it; nothing needs to leak."
        else:
            answer = (
                f"A start every {every} is a leak of about {rate(band.likely)} {unit} "
                f"({rate(band.low)} to {rate(band.high)})."
            )
    rows = []
    for each in INTERVALS_S:
        band = starts.leak(each)
        rows.append((duration_words(each), rate(band.low), rate(band.likely), rate(band.high)))
    return PumpStartPanel(
        starts.label, pump_start_sentences(starts, units), answer, tuple(rows), unit
    )


def _waste(
    project: Project,
    variant: Variant,
    state: State | None,
    found: SolvedFlows | None,
    units: UnitSystem,
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    waste = wasted(project, variant, state)
    labels = {part.id: part.label for part in variant.system.parts}
    coming: dict[str, float] = {}
    if found is not None:
        coming = {outlet.id: outlet.flow_m3_per_s for outlet in found.report.outlets}
    trays: list[str] = []
    for tray in waste.trays:
        comes = sum(coming.get(key, 0.0) for key in waste.falls_to.get(tray.id, ()))
        trays += tray_sentences(tray, comes, labels, units)
    tanks = [empties_sentence(tank, labels, units) for tank in waste.empties]
    tanks += [fills_sentence(tank, labels, units) for tank in waste.fills]
    return tuple(trays), tuple(tanks)


def _leaning(project: Project, asked: FlowAsked, units: UnitSystem) -> tuple[Project, Typed, Typed]:
    """Lean the vehicle as asked; as it is said to stand where nothing is."""
    vehicle = project.vehicle
    typed, values = [], []
    for text, now in ((asked.pitch, vehicle.pitch_deg), (asked.roll, vehicle.roll_deg)):
        given = text if text.strip() else shown(now or 0.0, "angle", units)
        field, value = _typed(given, "angle", units, "°")
        if value is not None and not -20.0 <= value <= 20.0:
            field, value = Typed(text[:60], "°", "between −20° and 20°."), None
        typed.append(field)
        values.append(now if value is None else value)
    leaning = vehicle.model_copy(update={"pitch_deg": values[0], "roll_deg": values[1]})
    return project.model_copy(update={"vehicle": leaning}), typed[0], typed[1]


def flow_page(context: PageContext) -> FlowPage:
    """Put the Flow page together for what the address asks."""
    frame, _ = make_frame(context, "flow")
    project, variant, units = context.project, context.built, context.units
    asked, flowing, system = flow_asked(context.query), context.services.flowing, variant.system
    state = state_of(variant, asked.state)
    opens, unknown = opens_of(system, asked)
    labels = {part.id: part.label for part in system.parts}
    view = asked.view if asked.view in {key for key, _ in VIEWS} else "flow"
    every, interval_s = _typed(asked.every, "minutes", units, "min")
    cooled, cooled_k = _typed(
        asked.cooled, "difference", units, "°F" if units is UnitSystem.US else "K"
    )
    if interval_s is not None and interval_s <= 0.0:
        every = Typed(every.text, "min", "A time between two starts is more than nothing.")
    leaning, pitch, roll = _leaning(project, asked, units)
    views: dict[str, Any] = {}
    error, mend = "", ""
    try:
        found = flowing.result(project, variant, state, Asked(opens=opens, dirty=asked.dirty))
        if view == "flow":
            if isinstance(found, CoreError):
                raise found
            views["solved"] = _solved(found, asked.way, labels, units)
        elif view == "leak":
            views["starts"] = tuple(
                _pump_starts(start, interval_s, cooled_k or 0.0, units)
                for start in leaks(project, variant, state)
            )
        elif view == "waste":
            point = found if isinstance(found, SolvedFlows) else None
            views["trays"], views["tanks"] = _waste(leaning, variant, state, point, units)
        elif view in ("tanks", "air"):
            views |= beside(view, leaning, variant, state, units)
        else:
            views["drain"] = drain_panel(drained(project, variant, state), labels, units)
    except CoreError as problem:
        error, mend = error_words(problem, units), mend_piece(problem)
    told = f"Not opened: {', '.join(unknown)} is no outlet here." if unknown else ""
    return FlowPage(
        frame=frame,
        views=tuple((key, words, key == view) for key, words in VIEWS),
        view=view,
        states=tuple((item.id, item.name, item is state) for item in system.states),
        outlets=tuple(
            choice_of(part_id, label, system, opens)
            for part_id, label in outlets_of(system).items()
        ),
        dirty=asked.dirty,
        query=query_of(state, opens, asked.dirty),
        notice=told,
        error=error,
        mend=mend,
        every=every,
        cooled=cooled,
        pitch=pitch,
        roll=roll,
        empty=not system.parts,
        **views,
    )
