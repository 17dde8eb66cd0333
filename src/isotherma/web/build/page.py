"""The page of building: tasks in order by day, one at a time on a phone, stages, visits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, replace
from typing import ClassVar, Final

from isotherma.core.building.order import Plan, Planned
from isotherma.core.building.stages import MILLILITRE, TIGHTNESS, Stage
from isotherma.core.errors import PlanCircle
from isotherma.core.quantity import duration_words, with_unit
from isotherma.core.system import System
from isotherma.files.calendar import zone_names
from isotherma.files.plan_json import title_of
from isotherma.services.building import labels_of, planned
from isotherma.services.logbook import Logged
from isotherma.services.photos import Pictured
from isotherma.services.plan_keeping import Ticked, source_of
from isotherma.web.build.results import ExpectRow, Read, expect_rows, read_in_stages
from isotherma.web.frame.context import Mark, PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.wording import (
    MISS_WORDS,
    NOT_COMPUTED,
    TASK_CAUTIONS,
    TRADE_WORDS,
    error_words,
    stage_title,
)
from isotherma.wording.reader import in_units

VIEWS: Final = (("tasks", "Tasks"), ("stages", "Tests in stages"), ("visits", "Licensed work"),
                ("calendar", "Calendar"))  # fmt: skip
DAY_MIN: Final = 480.0
TIGHTNESS_TASK: Final = f"test.{TIGHTNESS}"


@dataclass(frozen=True, slots=True)
class TaskRow:
    """A task, ready to read."""

    id: str
    title: str
    trade: str
    minutes: str
    licensed: bool
    critical: bool
    closing: bool
    state: str
    said: str
    changed: bool
    cautions: tuple[str, ...]
    things: str
    waits: tuple[str, ...]
    ready: bool
    waited: str = ""
    recorded: bool = False
    unpictured: bool = False


@dataclass(frozen=True, slots=True)
class DayRows:
    """Tasks that begin on one day of eight hours."""

    title: str
    rows: tuple[TaskRow, ...]
    open: bool


@dataclass(frozen=True, slots=True)
class StageRow:
    """A stage, ready to read."""

    id: str
    title: str
    licensed: bool
    facts: tuple[tuple[str, str], ...]
    expect: tuple[ExpectRow, ...]
    misses: str
    lacks: str


@dataclass(frozen=True, slots=True)
class VisitRow:
    """Licensed tasks that are done in one visit."""

    title: str
    tasks: tuple[str, ...]
    because: str


@dataclass(frozen=True, slots=True)
class LicensedForm:
    """What a licensed person says of a test, and settings, as they were typed."""

    number: str = ""
    on: str = ""
    method: str = ""
    result: str = ""
    as_found: str = ""
    as_left: str = ""


@dataclass(frozen=True, slots=True)
class CalendarForm:
    """When work is done, as it was typed; what is wrong with it."""

    begin: str = ""
    at: str = "08:00"
    hours: str = "8"
    zone: str = ""
    error: str = ""
    zones: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class BuildPage:
    """What is done next, and what waits for whom."""

    template: ClassVar[str] = "build.html"
    frame: Frame
    empty: bool
    view: str
    views: tuple[tuple[str, str, bool], ...]
    said: str = ""
    error: str = ""
    phases: tuple[tuple[str, str, bool], ...] = ()
    phase: str = ""
    now: TaskRow | None = None
    before: str = ""
    after: str = ""
    days: tuple[DayRows, ...] = ()
    stages: tuple[StageRow, ...] = ()
    visits: tuple[VisitRow, ...] = ()
    gone: tuple[str, ...] = ()
    refused: str = ""
    pictures: tuple[Pictured, ...] = ()
    calendar: CalendarForm = CalendarForm()
    while_open: tuple[str, ...] = ()
    typed_note: str = ""
    typed_by: str = ""
    licensed: LicensedForm = LicensedForm()


def build_page(
    context: PageContext, refused: str = "", *, view: str = "", calendar: CalendarForm | None = None
) -> BuildPage:
    """Make the page in the view and phase asked for; `refused` says what was not kept."""
    asked = view or context.query.get("view", "")
    view = asked if asked in {key for key, _ in VIEWS} else "tasks"
    views = tuple((key, words, key == view) for key, words in VIEWS)
    system = context.variant.system
    frame, _ = make_frame(context, "build")
    if not system.parts:
        return BuildPage(frame, True, view, views)
    phase = context.query.get("phase", "")
    phase = phase if phase in {one.id for one in system.phases} else ""
    phases = [("", "all phases", not phase)] if system.phases else []
    phases += [(one.id, one.name, one.id == phase) for one in system.phases]
    try:
        plan = planned(context.project, context.variant, phase=phase or None,
                       players=context.services.fault_finding.player)  # fmt: skip
    except PlanCircle as error:
        return BuildPage(frame, False, view, views, error=error_words(error, context.units),
                         phases=tuple(phases), phase=phase)  # fmt: skip
    ticked = context.services.plan_keeping.ticked(context.opened.vehicle_id, context.variant_id)
    names = labels_of(system)
    kept = context.services.photos.listed(context.opened.vehicle_id, context.variant_id)
    rows = task_rows(plan, names, ticked, system, {one.about for one in kept})
    logged = read_in_stages(context) if view == "stages" else {}
    hand = _at_hand(rows, context.query.get("task", ""))
    return BuildPage(
        frame, False, view, views, _said(plan, rows), "", tuple(phases), phase,
        *hand, _days(plan, rows),
        tuple(stage_row(context, stage, names, logged) for stage in plan.stages)
        if view == "stages" else (),
        _visits(plan, names),
        tuple(sorted(set(ticked) - {one.task.id for one in plan.tasks})) if not phase else (),
        refused,
        tuple(one for one in kept if hand[0] is not None and one.about == hand[0].id)
        if view == "tasks" else (),
        _calendar(context, calendar) if view == "calendar" else CalendarForm(),
        _while_open(plan, names),
    )  # fmt: skip


def _while_open(plan: Plan, names: Mapping[str, str]) -> tuple[str, ...]:
    """Name what is better done earlier, while walls are open."""
    return tuple(title_of(Planned(task, 0.0, 0.0), names, {}) for task in plan.while_open)


def _calendar(context: PageContext, typed: CalendarForm | None) -> CalendarForm:
    """Give the form of the calendar, with the zone the vehicle has and the zones there are."""
    form = typed or CalendarForm(
        zone=context.services.archives.zone(context.opened.vehicle_id) or ""
    )
    return replace(form, zones=zone_names())


def task_rows(
    plan: Plan, names: Mapping[str, str], ticked: Mapping[str, Ticked], system: System,
    pictured: Set[str],
) -> tuple[TaskRow, ...]:  # fmt: skip
    """Write every task of a plan, and how it stands."""
    stages = {stage.id: stage for stage in plan.stages}
    titles = {one.task.id: title_of(one, names, stages) for one in plan.tasks}
    over = {key for key, one in ticked.items() if one.state == "done"}
    return tuple(_row(one, titles, ticked.get(one.task.id), over, system, pictured)
                 for one in plan.tasks)  # fmt: skip


def _row(
    one: Planned, titles: Mapping[str, str], tick: Ticked | None, over: set[str], system: System,
    pictured: Set[str],
) -> TaskRow:  # fmt: skip
    task = one.task
    waits = tuple(titles[key] for key in sorted(task.after) if key in titles and key not in over)
    said = ""
    if tick is not None:
        said = f"{tick.state}, {tick.at:%Y-%m-%d}" + (f", {tick.by}" if tick.by else "")
        said += f": {tick.note}" if tick.note else ""
        said += f"; found: {tick.as_found}" if tick.as_found else ""
        said += f"; left: {tick.as_left}" if tick.as_left else ""
        if tick.record is not None:
            of = tick.record
            said += (f" – tested {of.on.isoformat()} by {of.name}, licence {of.number}: "
                     f"{of.method}; {of.result}")  # fmt: skip
    band = task.band
    minutes = "minutes not known" if band is None else (
        f"{band[0]:.0f} to {band[2]:.0f} min, likely {band[1]:.0f}")  # fmt: skip
    things = ", ".join((*task.tools, *task.consumables,
                        *(("a second person",) if task.two_people else ())))  # fmt: skip
    return TaskRow(
        task.id, titles[task.id], TRADE_WORDS[task.trade], minutes, task.who == "licensed",
        one.critical, task.before_closing, "" if tick is None else tick.state, said,
        tick is not None and tick.source != source_of(task, system),
        tuple(TASK_CAUTIONS[code] for code in task.cautions), things, waits, not waits,
        f", then {duration_words(task.waits_min * 60.0)} without hands" if task.waits_min else "",
        task.id == TIGHTNESS_TASK,
        (tick is not None and tick.state == "done" and task.before_closing
         and task.id not in pictured),
    )  # fmt: skip


def _said(plan: Plan, rows: Sequence[TaskRow]) -> str:
    done = sum(row.state == "done" for row in rows)
    left = sum(one.task.minutes or 0.0 for one, row in zip(plan.tasks, rows, strict=True)
               if row.state != "done" and one.task.who == "builder")  # fmt: skip
    return (f"{done} of {len(rows)} tasks done; about {duration_words(left * 60.0)} of your own "
            "hands are left.")  # fmt: skip


def _at_hand(rows: Sequence[TaskRow], wanted: str) -> tuple[TaskRow | None, str, str]:
    """Give the task that is shown alone, and those before and after it."""
    ids = [row.id for row in rows]
    if wanted in ids:
        at = ids.index(wanted)
    else:
        open_ones = [place for place, row in enumerate(rows)
                     if not row.state and row.ready and not row.licensed]  # fmt: skip
        if not open_ones:
            return None, "", ""
        at = open_ones[0]
    before = ids[at - 1] if at else ""
    return rows[at], before, ids[at + 1] if at + 1 < len(ids) else ""


def _days(plan: Plan, rows: Sequence[TaskRow]) -> tuple[DayRows, ...]:
    """Put tasks under the day they begin on; the first day with something open stands open."""
    by_day: dict[int, list[TaskRow]] = {}
    for one, row in zip(plan.tasks, rows, strict=True):
        by_day.setdefault(int(one.start_min // DAY_MIN), []).append(row)
    first = next((day for day in sorted(by_day) if any(not row.state for row in by_day[day])), -1)
    return tuple(DayRows(f"Day {day + 1}", tuple(by_day[day]), day == first)
                 for day in sorted(by_day))  # fmt: skip


def stage_row(
    context: PageContext, stage: Stage, names: Mapping[str, str],
    logged: Mapping[Read, Logged],
) -> StageRow:  # fmt: skip
    """Write a stage: what to do, what it expects, what was read."""
    units = context.units

    def named(keys: Sequence[str]) -> str:
        return ", ".join(names.get(key, key) for key in keys)

    facts = [("Open", named(stage.opens)), ("Keep shut", named(stage.shuts)),
             ("Air gathers at", named(stage.air_at)),
             ("Air leaves at", named(stage.purge_at)),
             ("▲ Nothing lets air out of", named(stage.air_left))]  # fmt: skip
    if stage.litres_m3 is not None:
        facts.append(("Takes", with_unit(stage.litres_m3, "volume", units, 2)))
    if stage.minutes is not None:
        facts.append(("Lasts", duration_words(stage.minutes * 60.0)))
    if stage.stands_m is not None:
        facts.append(("Stands", with_unit(stage.stands_m, "bore", units)))
    if stage.stays_m3 is not None:
        facts.append(("Stays in it", with_unit(stage.stays_m3, "volume", units, 2)))
    if stage.dose_ml is not None:
        dose = with_unit(stage.dose_ml * MILLILITRE, "millilitres", units)
        facts.append(("Dose", f"{dose} of a product of 50 g/L"))
    return StageRow(
        stage.id, stage_title(stage.kind, names.get(stage.about, stage.about)),
        stage.who == "licensed", tuple((title, words) for title, words in facts if words),
        expect_rows(context, stage, names, logged),
        in_units(", ".join(MISS_WORDS.get(stage.kind, ())), units),
        "" if stage.not_computed is None else NOT_COMPUTED[stage.not_computed],
    )  # fmt: skip


def _visits(plan: Plan, names: Mapping[str, str]) -> tuple[VisitRow, ...]:
    stages = {stage.id: stage for stage in plan.stages}
    titles = {one.task.id: title_of(one, names, stages) for one in plan.tasks}
    counts: dict[str, int] = {}
    found = []
    for visit in plan.visits:
        counts[visit.trade] = counts.get(visit.trade, 0) + 1
        found.append(VisitRow(
            f"{TRADE_WORDS[visit.trade].capitalize()}, visit {counts[visit.trade]}",
            tuple(titles[key] for key in visit.tasks),
            ", ".join(titles[key] for key in visit.because[:3]),
        ))  # fmt: skip
    return tuple(found)


def build_mark(context: PageContext, _: object) -> Mark:
    """What is left to do is nothing that is wrong."""
    if not context.variant.system.parts:
        return Mark("missing", "missing: parts")
    return Mark("done", "done")
