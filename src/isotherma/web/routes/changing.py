"""Every change made on the pages of a design."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData

from isotherma.core import editing
from isotherma.core.errors import ChangeRefused, QuantityError
from isotherma.core.fields import Document
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem, parse
from isotherma.core.setup.completeness import main_outlet
from isotherma.core.system import AnyRun, System
from isotherma.files.run_table import TableRefused, read_runs
from isotherma.services.comparisons import knobs_of, with_strategy
from isotherma.services.form_saving import save_form
from isotherma.services.forms import read_form
from isotherma.services.vehicles import Moved, NewerElsewhere, NotFound, Opened
from isotherma.web.context import Have
from isotherma.web.pages.forms import Typed
from isotherma.web.pages.frame import find_variant
from isotherma.web.pages.parts import Asked, parts_page
from isotherma.web.rendering import go_to, render, units_of
from isotherma.web.routes.answers import (
    after_change,
    known_page,
    known_piece,
    show,
)
from isotherma.wording import error_words, validation_sentences

router = APIRouter(prefix="/vehicles/{vehicle_id}/{variant_id}")


@router.post("/runs", name="design.runs")
def runs(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    text: Annotated[str, Form(max_length=400_000)] = "",
    shown_in: Annotated[str, Form(alias="_units")] = "metric",
    base: Annotated[int, Form(alias="_base")] = 0,
) -> Response:
    """Read a pasted run table in, or show it again with what is wrong."""
    units = UnitSystem.named(shown_in)
    opened = have.vehicles.open(vehicle_id)
    problems: tuple[str, ...] = ()
    status = 422
    shown = have.vehicles.at(vehicle_id, base) if base else opened.project

    def read_in(project: Project) -> Project:
        now = find_variant(project, variant_id).system
        wanted = read_runs(text, now, units)
        _refuse_stale(now, find_variant(shown, variant_id).system, wanted)
        return editing.with_runs(project, variant_id=variant_id, runs=wanted)

    try:
        opened = have.vehicles.change(vehicle_id, read_in, "Run table read in")
    except NewerElsewhere as error:
        status = 409
        names = ", ".join(f"“{key}”" for key in list(error.conflicts)[:4])
        problems = (
            f"Another window has meanwhile changed {names}. Nothing was read in; read the table in "
            "again to put yours in their place.",
        )
    except TableRefused as error:
        problems = error.problems
    except ValidationError as error:
        problems = tuple(validation_sentences(error))
    if not problems:
        path = request.url_for(
            "design.parts", vehicle_id=str(vehicle_id), variant_id=variant_id
        ).path
        return go_to(request, f"{path}?view=runs")
    asked = Asked(view="runs", table_text=text, table_problems=problems)
    page = parts_page(opened, variant_id, units_of(request), have.computing, asked=asked)
    return render(request, page, status)


def _refuse_stale(now: System, then: System, wanted: tuple[AnyRun, ...]) -> None:
    """Refuse a table that would put back what another window has changed since it was shown."""
    was, stands = ({run.id: run for run in system.runs} for system in (then, now))
    stale = {
        run.id: stands.get(run.id)
        for run in wanted
        if run != stands.get(run.id) and stands.get(run.id) != was.get(run.id)
    }
    if stale:
        raise NewerElsewhere(stale, 0)


@router.post("/whatif", name="design.whatif")
async def whatif(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Keep what was tried on the Shower page."""
    form = await request.form(max_files=0, max_fields=40)
    return await run_in_threadpool(_keep, request, have, vehicle_id, variant_id, form)


def _keep(
    request: Request, have: Have, vehicle_id: int, variant_id: str, form: FormData
) -> Response:
    opened = have.vehicles.open(vehicle_id)
    variant = find_variant(opened.project, variant_id)
    draw_id = str(form.get("draw_id", ""))
    draw = next((item for item in opened.project.brief.draws if item.id == draw_id), None)
    if draw is None:
        raise NotFound
    units = UnitSystem.named(form.get("_units"))
    paths: dict[str, object] = {}
    notice, status = "", 200
    try:
        for knob in knobs_of(opened.project.brief, variant, draw):
            text = str(form.get(f"w.{knob.key}", ""))[:60].strip()
            if text:
                paths[knob.path] = parse(text, knob.style, units)
        if paths:
            opened = have.vehicles.set_values(
                vehicle_id, _number(form, "_base"), paths, "Kept what was tried"
            )
        strategy = str(form.get("school", ""))[:40]
        if strategy:
            outlet = draw.outlet or main_outlet(variant.system)
            placed = draw.model_copy(update={"outlet": outlet})
            opened = have.vehicles.change(
                vehicle_id,
                partial(with_strategy, variant_id=variant_id, draw=placed, strategy=strategy),
                "Temperature made in another way",
            )
    except (QuantityError, ChangeRefused, ValidationError, NewerElsewhere) as error:
        status = 422
        if isinstance(error, QuantityError | ChangeRefused):
            notice = error_words(error, units)
        elif isinstance(error, ValidationError):
            notice = "That was not kept: " + "; ".join(validation_sentences(error))
        else:
            status = 409
            notice = (
                "Another window has meanwhile changed one of these; its value is shown. "
                "Try yours again."
            )
        opened = have.vehicles.open(vehicle_id)
    if status != 200:
        return show(request, have, opened, variant_id, "shower", status=status, notice=notice)
    return after_change(request, have, opened, variant_id, "shower")


@router.post("/edit", name="design.edit")
async def edit(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Save the fields of one form that were changed, or show it again with what is wrong."""
    form = await request.form(max_files=0, max_fields=200)
    return await run_in_threadpool(_edit, request, have, vehicle_id, variant_id, form)


def _texts(form: FormData, names: list[str]) -> dict[str, list[str]]:
    return {name: [str(value) for value in form.getlist(name)] for name in names}


def _number(form: FormData, name: str) -> int:
    text = str(form.get(name, ""))
    return int(text) if text.isascii() and text.isdecimal() and len(text) < 10 else -1


def _edit(
    request: Request, have: Have, vehicle_id: int, variant_id: str, form: FormData
) -> Response:
    scope, page = str(form.get("_scope", "")), known_page(str(form.get("_page", "")))
    piece = known_piece(str(form.get("_piece", "")))
    names = [name for name in str(form.get("_fields", "")).split(",") if name]
    units = UnitSystem.named(form.get("_units"))
    base_id = _number(form, "_base")
    then = editing.value_at(have.vehicles.at(vehicle_id, base_id), scope)
    if not isinstance(then, Document):
        raise NotFound
    texts = _texts(form, names)
    read = read_form(then, names, texts, units)
    saving = save_form(have.vehicles, vehicle_id, base_id, scope, then, read, units)
    opened = saving.opened or have.vehicles.open(vehicle_id)
    if not saving.errors:
        return after_change(request, have, opened, variant_id, page, piece=piece)
    kept = set(read.values) | set(read.errors) if "" in saving.errors else set(saving.errors)
    typed = Typed(scope, {name: texts[name] for name in names if name in kept}, saving.errors)
    status = 409 if saving.conflict else 422
    return show(request, have, opened, variant_id, page, typed, status, piece=piece)


@router.post("/undo", name="design.undo")
def undo(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    base: Annotated[int, Form(alias="_base")],
    page: Annotated[str, Form(alias="_page")] = "brief",
    piece: Annotated[str, Form(alias="_piece")] = "",
) -> Response:
    """Take the last change back."""
    return _step(request, have, vehicle_id, variant_id, base, (page, piece), have.vehicles.undo)


@router.post("/redo", name="design.redo")
def redo(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    base: Annotated[int, Form(alias="_base")],
    page: Annotated[str, Form(alias="_page")] = "brief",
    piece: Annotated[str, Form(alias="_piece")] = "",
) -> Response:
    """Bring back what undo took."""
    return _step(request, have, vehicle_id, variant_id, base, (page, piece), have.vehicles.redo)


def _step(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    base: int,
    place: tuple[str, str],
    step: Callable[[int, int], Opened],
) -> Response:
    page, piece = known_page(place[0]), known_piece(place[1])
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
        return show(
            request, have, opened, variant_id, page, status=status, notice=notice, piece=piece
        )
    return after_change(request, have, opened, variant_id, page, piece=piece)
