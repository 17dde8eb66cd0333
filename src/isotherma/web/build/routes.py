"""Building: the plan to look at, tasks to tick."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, time, timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Form
from fastapi.responses import Response
from starlette.datastructures import QueryParams

from isotherma.core.building.tasks import Task
from isotherma.core.errors import NotInTable, PlanCircle, QuantityError
from isotherma.core.faults.readings import Reading
from isotherma.core.faults.typed import read_reading
from isotherma.core.learning.rows import Row
from isotherma.core.quantity import UnitSystem
from isotherma.files.archive import LicensedRecord
from isotherma.files.calendar import EXTENSION, WorkDays, plan_calendar, zone_named
from isotherma.services.building import labels_of, planned
from isotherma.services.plan_keeping import source_of
from isotherma.web.build.page import TIGHTNESS_TASK, CalendarForm, LicensedForm, build_page
from isotherma.web.build.results import STEP_S, passed, session_of
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest, PageContext
from isotherma.web.frame.responses import show
from isotherma.web.rendering import attached, file_name, go_to, is_htmx, render
from isotherma.wording import error_words

router = APIRouter(prefix=DESIGN)
TaskId = Annotated[str, Form(min_length=1, max_length=120, pattern=r"^[a-z_]+\.[\w.-]+$")]

Typed = Annotated[str, Form(max_length=60)]
Said = Annotated[str, Form(max_length=200)]
FIRST_YEAR, LAST_YEAR = 1990, 2100


@router.get("/build", name="design.build")
def build(design: DesignDep) -> Response:
    """Tasks in order, tests in stages, licensed work; `task` shows one of them alone."""
    return show(design, "build")


@router.post("/build/tick", name="design.build.tick")
def tick(
    design: DesignDep, task: TaskId, state: Annotated[Literal["done", "left out"], Form()],
    note: Annotated[str, Form(max_length=400)] = "", by: Annotated[str, Form(max_length=80)] = "",
    number: Typed = "", on: Typed = "", method: Said = "", result: Said = "",
    as_found: Said = "", as_left: Said = "",
) -> Response:  # fmt: skip
    """Keep that a task is done or left out, with a note, a name, a licensed test's record."""
    context = design.context()
    try:
        plan = planned(context.project, context.variant,
                       players=design.services.fault_finding.player)  # fmt: skip
    except PlanCircle:
        return show(design, "build")
    found = next((one.task for one in plan.tasks if one.task.id == task), None)
    if found is None:
        words = "That task is not in the plan any more; nothing was kept."
        return show(design, "build", status=422, notice=words)
    said = LicensedForm(number, on, method, result, as_found, as_left)
    record, words = (None, "") if state != "done" else _licensed(found, said, by)
    words = words or (_shut(context, found) if state == "done" else "")
    if words:
        return _refused(design, words, task, note, by, said)
    stage = next((one for one in plan.stages if f"test.{one.id}" == task), None)
    by_hand = (state == "done" and stage is not None and record is None
               and not passed(context, stage))  # fmt: skip
    if by_hand and not (note.strip() and by.strip()):
        words = ("What it expects was not read as it should be. To pass it by hand, say why in the "
                 "note, and who says so.")  # fmt: skip
        return _refused(design, words, task, note, by, said)
    design.services.plan_keeping.tick(
        design.vehicle_id, design.variant_id, task, state=state, note=" ".join(note.split()),
        by=" ".join(by.split()), source=source_of(found, context.variant.system),
        record=record, as_found=" ".join(as_found.split()), as_left=" ".join(as_left.split()),
    )  # fmt: skip
    return _after(design)


def _refused(
    design: DesignRequest, words: str, task: str, note: str, by: str, said: LicensedForm
) -> Response:
    """Show the task with why it was not kept, and all that was typed."""
    asked = replace(design.context(), query=QueryParams({"task": task}))
    page = replace(build_page(asked, words), typed_note=note, typed_by=by, licensed=said)
    return render(design.request, page, 422)


def _licensed(task: Task, said: LicensedForm, by: str) -> tuple[LicensedRecord | None, str]:
    """Read what a licensed person says of gas tightness; else say what is missing of it."""
    if task.id != TIGHTNESS_TASK:
        return None, ""
    try:
        on = date.fromisoformat(said.on.strip())
    except ValueError:
        return None, "Say the day of the test as 2027-03-28."
    if on > datetime.now(UTC).date() + timedelta(days=1):
        return None, "That day is still to come. Say the day it was tested."
    texts = [" ".join(one.split()) for one in (by, said.number, said.method, said.result)]
    if not all(texts):
        return None, ("Say who tested it, their licence number, how, and what came of it; without "
                      "it nothing that burns gas is lit.")  # fmt: skip
    name, number, method, result = texts
    return LicensedRecord(name=name, number=number, on=on, method=method, result=result), ""


def _shut(context: PageContext, task: Task) -> str:
    """Say why a first fire of gas stays shut: nobody recorded that the gas is tight."""
    if not task.id.startswith("test.first_fire.") or TIGHTNESS_TASK not in task.after:
        return ""
    place = (context.opened.vehicle_id, context.variant_id)
    tick = context.services.plan_keeping.ticked(*place).get(TIGHTNESS_TASK)
    if tick is not None and tick.record is not None:
        return ""
    return "First fire stays shut: the gas tightness test of a licensed person is not recorded."


@router.post("/build/open", name="design.build.open")
def open_again(design: DesignDep, task: TaskId) -> Response:
    """Take back that a task is done or left out."""
    design.services.plan_keeping.open_again(design.vehicle_id, design.variant_id, task)
    return _after(design)


@router.post("/build/stage", name="design.build.stage")
def stage_read(
    design: DesignDep, stage: Annotated[str, Form(max_length=70)],
    quantity: Annotated[str, Form(max_length=80)], value: Annotated[str, Form(max_length=60)] = "",
    step: Annotated[int, Form(ge=0, le=100)] = 0,
    metered: Annotated[str, Form(max_length=20)] = "",
) -> Response:  # fmt: skip
    """Keep what was read in a stage; it stands in the log, in a session of its own."""
    context = design.context()
    try:
        reading = read_reading(f"{quantity}={value}", context.variant.system, context.units)
        beside = _metered(context, reading.part, metered)
    except (NotInTable, QuantityError) as error:
        page = build_page(context, error_words(error, context.units), view="stages")
        return render(design.request, page, 422)
    rows = [Row(0, session_of(stage), "stage", step * STEP_S, one)
            for one in (reading, *beside)]  # fmt: skip
    design.services.logbook.note(design.vehicle_id, design.variant_id, rows)
    if is_htmx(design.request):
        return show(design, "build")
    return go_to(design.request, design.path("design.build") + "?view=stages")


def _metered(context: PageContext, gauge: str | None, litres: str) -> list[Reading]:
    """Give the litres that were metered into the tank of a gauge, beside what it shows."""
    tank = next((part.fitted_in for part in context.variant.system.parts if part.id == gauge), None)
    if not litres or tank is None:
        return []
    return [read_reading(f"litres.{tank}={litres} L", context.variant.system, UnitSystem.METRIC)]


@router.post("/build/calendar", name="design.build.calendar")
def calendar(
    design: DesignDep, begin: Typed = "", at: Typed = "08:00", hours: Typed = "8", zone: Typed = ""
) -> Response:
    """Give the plan as a calendar; the zone is kept with the vehicle."""
    context = design.context()
    form = CalendarForm(begin.strip(), at.strip(), hours.strip(), zone.strip())
    try:
        days = _work_days(form)
        plan = planned(context.project, context.variant,
                       players=design.services.fault_finding.player)  # fmt: skip
    except PlanCircle:
        return show(design, "build")
    except ValueError as error:
        page = build_page(context, view="calendar", calendar=replace(form, error=str(error)))
        return render(design.request, page, 422)
    design.services.archives.set_zone(design.vehicle_id, days.zone.key)
    name = context.opened.project.name
    body = plan_calendar(plan, labels_of(context.variant.system), vehicle=name,
                         variant=context.variant.id, days=days,
                         stamp=datetime.now(UTC))  # fmt: skip
    return attached(body, "text/calendar", f"{file_name(name)}-building{EXTENSION}")


def _work_days(form: CalendarForm) -> WorkDays:
    """Read when work is done; ValueError says which of it cannot be read."""
    try:
        first = date.fromisoformat(form.begin)
    except ValueError:
        raise ValueError("Say the first day as 2027-03-28.") from None
    try:
        at = time.fromisoformat(form.at)
    except ValueError:
        raise ValueError("Say when a day begins as 08:00.") from None
    try:
        hours = float(form.hours.replace(",", "."))
    except ValueError:
        hours = 0.0
    minutes = at.hour * 60 + at.minute
    if not 0.5 <= hours <= 24.0 - minutes / 60.0:
        raise ValueError("A day of work has half an hour at least and ends before midnight.")
    zone = zone_named(form.zone)
    if zone is None:
        raise ValueError("Choose the time zone, as Europe/Lisbon; none is guessed.")
    if not FIRST_YEAR <= first.year <= LAST_YEAR:
        raise ValueError(f"Say a first day between {FIRST_YEAR} and {LAST_YEAR}.")
    return WorkDays(first, zone, at.replace(tzinfo=None, second=0, microsecond=0), hours)


def _after(design: DesignRequest) -> Response:
    if is_htmx(design.request):
        return show(design, "build")
    return go_to(design.request, design.path("design.build"))
