"""Pages of a design and every change made on them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from typing import Annotated, Any

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import PlainTextResponse, Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData

from isotherma import catalogue
from isotherma.core import editing
from isotherma.core.errors import ChangeRefused
from isotherma.core.fields import Document
from isotherma.core.project import Project
from isotherma.core.quantity import Habit, with_unit
from isotherma.files.timeline_csv import write_timeline
from isotherma.services.forms import Read, field_errors, properties, read_form
from isotherma.services.vehicles import Moved, NewerElsewhere, NotFound, Opened
from isotherma.services.wording import error_words
from isotherma.web.context import Have
from isotherma.web.pages import design as pages
from isotherma.web.pages.forms import Typed
from isotherma.web.pages.frame import find_variant
from isotherma.web.pages.words import PAGES
from isotherma.web.rendering import go_to, habit_of, is_htmx, render
from isotherma.web.routes.home import file_name

router = APIRouter(prefix="/vehicles/{vehicle_id}/{variant_id}")


def _page(
    request: Request,
    have: Have,
    opened: Opened,
    variant_id: str,
    page: str,
    typed: Typed | None = None,
    status: int = 200,
    notice: str = "",
) -> Response:
    """Show one of the design's pages as it stands."""
    habit = habit_of(request)
    made: Any
    if page == "brief":
        made = pages.brief_page(opened, variant_id, habit, have.computing, typed, notice)
    elif page == "parts":
        made = pages.parts_page(opened, variant_id, habit, have.computing, typed, notice)
    else:
        made = pages.shower_page(
            opened, variant_id, habit, have.computing, notice=notice, typed=typed
        )
    return render(request, made, status)


def _known_page(page: str) -> str:
    """Keep the name of a page a form came from to those there are."""
    return page if page in {key for key, _, _ in PAGES} else "brief"


def _after(
    request: Request, have: Have, opened: Opened, variant_id: str, page: str, notice: str = ""
) -> Response:
    """Answer a change: the new page for htmx, a redirect for a plain form."""
    if is_htmx(request):
        return _page(request, have, opened, variant_id, page, notice=notice)
    path = request.url_for(
        f"design.{page}", vehicle_id=str(opened.vehicle_id), variant_id=variant_id
    ).path
    return go_to(request, path)


@router.get("/brief", name="design.brief")
def brief(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Who washes, when and where."""
    return _page(request, have, have.vehicles.open(vehicle_id), variant_id, "brief")


@router.get("/parts", name="design.parts")
def parts(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """The pieces and runs of the route."""
    return _page(request, have, have.vehicles.open(vehicle_id), variant_id, "parts")


@router.get("/shower", name="design.shower")
def shower(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    draw: Annotated[int, Query(ge=0, le=99)] = 0,
    by: Annotated[str, Query(pattern="^(litres|time)$")] = "litres",
    at: Annotated[int | None, Query(ge=0, le=100_000)] = None,
) -> Response:
    """What comes out of the head."""
    opened = have.vehicles.open(vehicle_id)
    page = pages.shower_page(
        opened, variant_id, habit_of(request), have.computing, chosen=draw, by=by, at=at
    )
    return render(request, page)


@router.get("/trace/{trace_id}", name="design.trace")
def trace(
    request: Request, have: Have, vehicle_id: int, variant_id: str, trace_id: str
) -> Response:
    """Open a number."""
    opened = have.vehicles.open(vehicle_id)
    page = pages.trace_page(opened, variant_id, habit_of(request), have.computing, trace_id)
    if page is None:
        raise NotFound
    return render(request, page)


@router.get("/timeline.csv", name="design.timeline")
def timeline(have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Give every step of the day as CSV."""
    project = have.vehicles.open(vehicle_id).project
    variant = find_variant(project, variant_id)
    outcome = have.computing.result(project, variant)
    if isinstance(outcome, Exception):
        return PlainTextResponse(error_words(outcome, Habit.METRIC), status_code=409)
    name = f"{file_name(project.name)}-{variant.id}-timeline.csv"
    return Response(
        write_timeline(outcome),
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="{name}"'},
    )


@router.post("/edit", name="design.edit")
async def edit(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Save the fields of one form that were changed, or show it again with what is wrong."""
    form = await request.form(max_files=0, max_fields=200)
    return await run_in_threadpool(_edit, request, have, vehicle_id, variant_id, form)


def _texts(form: FormData, names: list[str]) -> dict[str, list[str]]:
    return {name: [str(value) for value in form.getlist(name)] for name in names}


def _number(form: FormData, name: str) -> int:
    text = str(form.get(name, ""))
    return int(text) if text.isdigit() and len(text) < 10 else -1


@dataclass(slots=True)
class _Saving:
    """What became of the values of one form: saved as far as possible, the rest explained."""

    opened: Opened | None = None
    errors: dict[str, str] = field(default_factory=dict)
    conflict: bool = False


def _save(
    have: Have, vehicle_id: int, base_id: int, scope: str, then: Document, read: Read, habit: Habit
) -> _Saving:
    """Save every value that can be saved; one wrong field must not hold back its neighbours."""
    prefix = f"{scope}." if scope else ""
    left = dict(read.values)
    saving = _Saving(errors=dict(read.errors))
    while left and saving.opened is None:
        values = {prefix + name: value for name, value in left.items()}
        try:
            saving.opened = have.vehicles.set_values(
                vehicle_id, base_id, values, _label(then, left, habit)
            )
        except ValidationError as error:
            wrong = field_errors(error, then, habit)
            saving.errors |= wrong
            if not set(wrong) <= set(left):  # a rule between values: none of them can go in
                break
            left = {name: value for name, value in left.items() if name not in wrong}
        except NewerElsewhere as error:
            saving.conflict = True
            for path, value in error.conflicts.items():
                name = path.removeprefix(prefix)
                left.pop(name)
                saving.errors[name] = (
                    f"Another window has meanwhile set this to {_words(then, name, value, habit)}. "
                    "Save again to put yours in its place."
                )
    return saving


def _edit(
    request: Request, have: Have, vehicle_id: int, variant_id: str, form: FormData
) -> Response:
    scope, page = str(form.get("_scope", "")), _known_page(str(form.get("_page", "")))
    names = [name for name in str(form.get("_fields", "")).split(",") if name]
    habit = Habit.US if form.get("_habit") == "us" else Habit.METRIC
    base_id = _number(form, "_base")
    then = editing.value_at(have.vehicles.at(vehicle_id, base_id), scope)
    if not isinstance(then, Document):
        raise NotFound
    texts = _texts(form, names)
    read = read_form(then, names, texts, habit)
    saving = _save(have, vehicle_id, base_id, scope, then, read, habit)
    opened = saving.opened or have.vehicles.open(vehicle_id)
    if not saving.errors:
        return _after(request, have, opened, variant_id, page)
    kept = set(read.values) | set(read.errors) if "" in saving.errors else set(saving.errors)
    typed = Typed(scope, {name: texts[name] for name in names if name in kept}, saving.errors)
    status = 409 if saving.conflict else 422
    return _page(request, have, opened, variant_id, page, typed, status)


def _words(document: Document, name: str, value: object, habit: Habit) -> str:
    """Write a value of a property for reading."""
    item = next(item for item in properties(type(document)) if item.name == name)
    if value is None:
        return "nothing"
    if item.style and isinstance(value, float | int):
        return with_unit(float(value), item.style, habit)
    if isinstance(value, tuple):
        return ", ".join(str(part) for part in value) or "nothing"
    return f"“{value}”"


def _label(document: Document, values: dict[str, object], habit: Habit) -> str:
    """Name a change for undo: what it was made to."""
    titles = {item.name: item.title for item in properties(type(document))}
    if len(values) == 1:
        name, value = next(iter(values.items()))
        return f"{titles[name]} → {_words(document, name, value, habit)}"
    return ", ".join(titles[name] for name in values) or "Nothing"


@router.post("/undo", name="design.undo")
def undo(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    base: Annotated[int, Form(alias="_base")],
    page: Annotated[str, Form(alias="_page")] = "brief",
) -> Response:
    """Take the last change back."""
    return _step(request, have, vehicle_id, variant_id, base, page, have.vehicles.undo)


@router.post("/redo", name="design.redo")
def redo(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    base: Annotated[int, Form(alias="_base")],
    page: Annotated[str, Form(alias="_page")] = "brief",
) -> Response:
    """Bring back what undo took."""
    return _step(request, have, vehicle_id, variant_id, base, page, have.vehicles.redo)


def _step(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    base: int,
    page: str,
    step: Callable[[int, int], Opened],
) -> Response:
    page = _known_page(page)
    notice, status = "", 200
    try:
        opened = step(vehicle_id, base)
    except Moved:
        opened = have.vehicles.open(vehicle_id)
        status = 409
        notice = (
            "Another window has changed this vehicle meanwhile. Its newest state is shown; "
            "nothing was undone."
        )
    if all(variant.id != variant_id for variant in opened.project.variants):
        variant_id = opened.project.variants[0].id
        path = request.url_for(
            f"design.{page}", vehicle_id=str(vehicle_id), variant_id=variant_id
        ).path
        return go_to(request, path)
    if status != 200:
        return _page(request, have, opened, variant_id, page, status=status, notice=notice)
    return _after(request, have, opened, variant_id, page)


@router.post("/act", name="design.act")
def act(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    action: Annotated[str, Form()],
    item: Annotated[str, Form()] = "",
    kind: Annotated[str, Form()] = "",
    page: Annotated[str, Form(alias="_page")] = "brief",
) -> Response:
    """Add, remove, fit or copy one piece of the design."""
    page = _known_page(page)
    found = _operation(action, item, kind, variant_id)
    if found is None:
        raise NotFound
    operation, label = found
    try:
        opened = have.vehicles.change(vehicle_id, operation, label)
    except (ChangeRefused, ValidationError) as error:
        opened = have.vehicles.open(vehicle_id)
        if isinstance(error, ChangeRefused):
            words = error_words(error, habit_of(request))
        else:
            words = "That was not done: " + "; ".join(
                field_errors(error, opened.project.brief, habit_of(request)).values()
            )
        return _page(request, have, opened, variant_id, page, status=422, notice=words)
    shown = variant_id
    if action == "duplicate":
        shown = opened.project.variants[-1].id
    elif action == "remove_variant":
        shown = opened.project.variants[0].id
    if shown != variant_id:
        path = request.url_for(f"design.{page}", vehicle_id=str(vehicle_id), variant_id=shown).path
        return go_to(request, path)
    return _after(request, have, opened, variant_id, page)


def _operation(
    action: str, item: str, kind: str, variant_id: str
) -> tuple[Callable[[Project], Project], str] | None:
    """Find the core's edit for a button, and its name for undo."""
    match action:
        case "add_draw" if item in catalogue.PRESETS:
            draw = catalogue.PRESETS[item]
            return partial(editing.add_draw, draw=draw), f"{draw.name} added"
        case "repeat_draw":
            return partial(editing.repeat_draw, draw_id=item), "Draw repeated"
        case "remove_draw":
            return partial(editing.remove_draw, draw_id=item), "Draw removed"
        case "insert":
            insert = partial(editing.insert_part, variant_id=variant_id, run_id=item, kind=kind)
            return insert, f"{kind.replace('_', ' ').capitalize()} inserted"
        case "remove_part":
            remove = partial(editing.remove_part, variant_id=variant_id, part_id=item)
            return remove, "Part removed"
        case "fit" | "unfit":
            fitted = action == "fit"
            fit = partial(editing.fit_source, variant_id=variant_id, source=item, fitted=fitted)
            return fit, f"{item.capitalize()} {'fitted' if fitted else 'taken out'}"
        case "usual_route":
            return partial(editing.lay_usual_route, variant_id=variant_id), "Usual route laid"
        case "duplicate":
            return partial(editing.duplicate_variant, variant_id=variant_id), "Variant copied"
        case "remove_variant":
            return partial(editing.remove_variant, variant_id=variant_id), "Variant removed"
    return None
