"""Pages of a design and every change made on them."""

from __future__ import annotations

import asyncio
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from threading import Event
from typing import Annotated, Any, get_args
from urllib.parse import urlsplit

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import PlainTextResponse, Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData, QueryParams

from isotherma import catalogue
from isotherma.catalogue.classes import classes
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.brief import Purpose
from isotherma.core.engine.needs import main_outlet
from isotherma.core.errors import ChangeRefused, QuantityError
from isotherma.core.fields import Document
from isotherma.core.project import Project
from isotherma.core.quantity import Habit, parse, with_unit
from isotherma.core.system import System
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.states import Phase, State
from isotherma.core.system.vehicle import Hole, Space
from isotherma.files.run_table import TableRefused, read_runs, write_runs
from isotherma.files.timeline_csv import write_timeline
from isotherma.files.wording import validation_sentences
from isotherma.services.comparing import Cancelled, in_school, knobs_of
from isotherma.services.forms import Read, field_errors, properties, read_form
from isotherma.services.vehicles import Moved, NewerElsewhere, NotFound, Opened
from isotherma.services.wording import error_words
from isotherma.web.context import Have
from isotherma.web.pages import design as pages
from isotherma.web.pages.certainty import certainty_page
from isotherma.web.pages.flow import FlowAsked, flow_page
from isotherma.web.pages.forms import Typed
from isotherma.web.pages.frame import find_variant
from isotherma.web.pages.layout import EffectPage, effect_page, layout_page, offer_page
from isotherma.web.pages.parts import Asked, parts_page
from isotherma.web.pages.standing import spaces_page
from isotherma.web.pages.whatif import WhatIfAsked
from isotherma.web.pages.words import PAGES
from isotherma.web.rendering import go_to, habit_of, is_htmx, render, svg_file
from isotherma.web.routes.home import file_name

LOOKS_EVERY_S = 0.25  # whether whoever asked is still there
router = APIRouter(prefix="/vehicles/{vehicle_id}/{variant_id}")
_VIEWS = frozenset({"list", "runs"})  # views of the parts page that stand in for a piece


def _page(
    request: Request,
    have: Have,
    opened: Opened,
    variant_id: str,
    page: str,
    typed: Typed | None = None,
    status: int = 200,
    notice: str = "",
    piece: str = "",
) -> Response:
    """Show one of the design's pages as it stands."""
    habit = habit_of(request)
    made: Any
    if page == "brief":
        made = pages.brief_page(opened, variant_id, habit, have.computing, typed, notice)
    elif page == "parts":
        asked = Asked(view=piece) if piece in _VIEWS else Asked(piece=piece)
        made = parts_page(opened, variant_id, habit, have.computing, typed, notice, asked)
    elif page == "spaces":
        made = spaces_page(opened, variant_id, habit, have.computing, typed, notice)
    elif page == "layout":
        made = layout_page(
            opened, variant_id, habit, have.computing, have.flowing,
            _flow_asked(_query_of(request)), piece=piece, typed=typed, notice=notice,
        )  # fmt: skip
    elif page == "flow":
        asked_flow = _flow_asked(_query_of(request))
        made = flow_page(
            opened, variant_id, habit, have.computing, have.flowing, asked_flow, notice
        )
    else:
        made = pages.shower_page(
            opened, variant_id, habit, have.computing, notice=notice, typed=typed,
            comparing=have.comparing,
        )  # fmt: skip
    return render(request, made, status)


def _known_page(page: str) -> str:
    """Keep the name of a page a form came from to those there are."""
    return page if page in {key for key, _, _ in PAGES} else "brief"


def _known_piece(piece: str) -> str:
    """Keep the key of the opened piece to what a key can be."""
    return piece if piece in _VIEWS or re.fullmatch(r"(part|run)-[a-z0-9-]{1,40}", piece) else ""


def _after(
    request: Request,
    have: Have,
    opened: Opened,
    variant_id: str,
    page: str,
    notice: str = "",
    piece: str = "",
) -> Response:
    """Answer a change: the new page for htmx, a redirect for a plain form."""
    if is_htmx(request):
        return _page(request, have, opened, variant_id, page, notice=notice, piece=piece)
    path = request.url_for(
        f"design.{page}", vehicle_id=str(opened.vehicle_id), variant_id=variant_id
    ).path
    if page in ("parts", "layout") and piece:
        path += f"?view={piece}" if piece in _VIEWS else f"?piece={piece}#piece"
    return go_to(request, path)


@router.get("/brief", name="design.brief")
def brief(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Who washes, when and where."""
    return _page(request, have, have.vehicles.open(vehicle_id), variant_id, "brief")


@router.get("/layout", name="design.layout")
def layout(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    piece: Annotated[str, Query(max_length=60)] = "",
    choose: Annotated[bool, Query()] = False,
    own: Annotated[str, Query(max_length=60)] = "",
) -> Response:
    """The route, drawn; one of its pieces chosen."""
    opened = have.vehicles.open(vehicle_id)
    page = layout_page(
        opened, variant_id, habit_of(request), have.computing, have.flowing,
        _flow_asked(request.query_params), piece=_known_piece(piece), choose=choose, own=own,
    )  # fmt: skip
    return render(request, page)


@router.get("/offer/{layout_id}", name="design.offer")
def offer(
    request: Request, have: Have, vehicle_id: int, variant_id: str, layout_id: str,
    own: Annotated[str, Query(max_length=60)] = "",
) -> Response:  # fmt: skip
    """What a starting layout would do on this brief."""
    opened = have.vehicles.open(vehicle_id)
    page = offer_page(opened, layout_id, habit_of(request), have.computing, own)
    if page is None:
        raise NotFound
    return render(request, page)


@router.get("/effect", name="design.effect")
def effect(
    request: Request, have: Have, vehicle_id: int, variant_id: str,
    action: Annotated[str, Query(pattern="^(insert|replace)$")],
    item: Annotated[str, Query(max_length=100)],
    kind: Annotated[str, Query(max_length=100)],
) -> Response:  # fmt: skip
    """What a part put in, or in another's place, would change; nothing is kept."""
    opened = have.vehicles.open(vehicle_id)
    found = _system_operation(Act(action, item, kind, "", variant_id))
    if found is None:
        raise NotFound
    try:
        changed = found[0](opened.project)
    except (ChangeRefused, ValidationError) as error:
        words = (
            error_words(error, habit_of(request)) if isinstance(error, ChangeRefused)
            else "; ".join(validation_sentences(error))
        )  # fmt: skip
        return render(request, EffectPage(opened.project.name, (f"It does not go in: {words}",)))
    page = effect_page(
        opened, changed, variant_id, habit_of(request), have.computing, have.flowing,
        _flow_asked(request.query_params),
    )  # fmt: skip
    return render(request, page)


@router.get("/route.svg", name="design.route_svg")
def route_svg(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Give the drawing as a file."""
    opened = have.vehicles.open(vehicle_id)
    page = layout_page(
        opened, variant_id, habit_of(request), have.computing, have.flowing,
        _flow_asked(request.query_params),
    )  # fmt: skip
    if page.wide is None:
        raise NotFound
    name = f"{file_name(opened.project.name)}-{variant_id}-route.svg"
    return Response(
        svg_file(page.wide, page.frame.vehicle),
        media_type="image/svg+xml",
        headers={"content-disposition": f'attachment; filename="{name}"'},
    )


@router.get("/parts", name="design.parts")
def parts(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    view: Annotated[str, Query(max_length=20)] = "pieces",
    piece: Annotated[str, Query(max_length=60)] = "",
    q: Annotated[str, Query(max_length=60)] = "",
    side: Annotated[str, Query(max_length=20)] = "",
    wanted: Annotated[str, Query(max_length=60)] = "",
) -> Response:
    """The pieces of a variant, one of them opened."""
    asked = Asked(view=view, piece=_known_piece(piece), query=q, side=side, wanted=wanted)
    opened = have.vehicles.open(vehicle_id)
    page = parts_page(opened, variant_id, habit_of(request), have.computing, asked=asked)
    return render(request, page)


@router.get("/runs.tsv", name="design.runs_file")
def runs_file(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Give the run table as a file for a spreadsheet."""
    project = have.vehicles.open(vehicle_id).project
    variant = find_variant(project, variant_id)
    name = f"{file_name(project.name)}-{variant.id}-runs.tsv"
    return Response(
        write_runs(variant.system, habit_of(request)),
        media_type="text/tab-separated-values; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="{name}"'},
    )


@router.post("/runs", name="design.runs")
def runs(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    text: Annotated[str, Form(max_length=400_000)] = "",
    habit: Annotated[str, Form(alias="_habit")] = "metric",
) -> Response:
    """Read a pasted run table in, or show it again with what is wrong."""
    units = Habit.US if habit == "us" else Habit.METRIC
    opened = have.vehicles.open(vehicle_id)
    problems: tuple[str, ...] = ()
    try:
        wanted = read_runs(text, find_variant(opened.project, variant_id).system, units)
        change = partial(editing.with_runs, variant_id=variant_id, runs=wanted)
        opened = have.vehicles.change(vehicle_id, change, "Run table read in")
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
    page = parts_page(opened, variant_id, habit_of(request), have.computing, asked=asked)
    return render(request, page, 422)


@router.get("/spaces", name="design.spaces")
def spaces(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    start: Annotated[str, Query(max_length=40)] = "",
    end: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """Where everything lives, how it stands, and the moves between two states."""
    opened = have.vehicles.open(vehicle_id)
    page = spaces_page(opened, variant_id, habit_of(request), have.computing, start=start, end=end)
    return render(request, page)


@router.get("/flow", name="design.flow")
def flow(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """What every pipe and valve does, in any state with any outlets open."""
    return _page(request, have, have.vehicles.open(vehicle_id), variant_id, "flow")


def _query_of(request: Request) -> QueryParams:
    """Give what the address asks for; after a change, what the page it came from showed."""
    if request.method == "GET":
        return request.query_params
    return QueryParams(urlsplit(request.headers.get("hx-current-url", "")).query)


def _flow_asked(query: QueryParams) -> FlowAsked:
    """Read the address of the flow page; texts are cut to what a field takes."""
    text = {key: value[:60] for key, value in query.multi_items()}
    opens = {key[2:]: value for key, value in text.items() if key.startswith("o.") and key[2:]}
    chosen = any(key.startswith("o.") for key in text)
    return FlowAsked(
        view=text.get("view", "flow"),
        state=text.get("state", ""),
        opens=opens if chosen else None,
        way=text.get("way", ""),
        dirty=text.get("dirty", "") == "1",
        every=text.get("every", ""),
        cooled=text.get("cooled", ""),
        pitch=text.get("pitch", ""),
        roll=text.get("roll", ""),
    )


@router.get("/shower", name="design.shower")
async def shower(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    draw: Annotated[int, Query(ge=0, le=99)] = 0,
    by: Annotated[str, Query(pattern="^(litres|time)$")] = "litres",
    at: Annotated[int | None, Query(ge=0, le=100_000)] = None,
) -> Response:
    """What comes out of the head; a long comparison ends when nobody waits for it any more."""
    stopped = Event()

    def make() -> Response:
        opened = have.vehicles.open(vehicle_id)
        asked = _whatif_asked(request.query_params, stopped.is_set)
        page = pages.shower_page(
            opened, variant_id, habit_of(request), have.computing, chosen=draw, by=by, at=at,
            comparing=have.comparing, asked=asked,
        )  # fmt: skip
        return render(request, page)

    work = asyncio.ensure_future(run_in_threadpool(make))
    try:
        while not (await asyncio.wait({work}, timeout=LOOKS_EVERY_S))[0]:
            if await request.is_disconnected():
                stopped.set()
        return work.result()
    except Cancelled:
        return Response(status_code=204)
    finally:
        stopped.set()


def _whatif_asked(query: QueryParams, stopped: Callable[[], bool]) -> WhatIfAsked:
    """Read what is tried and compared; texts are cut to what a field takes."""
    text = {key: value[:60] for key, value in query.multi_items()}
    return WhatIfAsked(
        texts={key[2:]: value for key, value in text.items() if key.startswith("w.")},
        compare=text.get("compare", ""),
        pause=text.get("pause", ""),
        school=text.get("school", ""),
        stopped=stopped,
    )


@router.get("/certainty", name="design.certainty")
def certainty(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """How sure the figures are; a part of the Shower page, or a page of its own."""
    opened = have.vehicles.open(vehicle_id)
    page = certainty_page(opened, variant_id, habit_of(request), have.computing, have.comparing)
    return render(request, page)


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
    habit = Habit.US if form.get("_habit") == "us" else Habit.METRIC
    paths: dict[str, object] = {}
    notice, status = "", 200
    try:
        for knob in knobs_of(opened.project.brief, variant, draw):
            text = str(form.get(f"w.{knob.key}", ""))[:60].strip()
            if text:
                paths[knob.path] = parse(text, knob.style, habit)
        if paths:
            opened = have.vehicles.set_values(
                vehicle_id, _number(form, "_base"), paths, "Kept what was tried"
            )
        school = str(form.get("school", ""))[:40]
        if school:
            outlet = draw.outlet or main_outlet(variant.system)
            placed = draw.model_copy(update={"outlet": outlet})
            opened = have.vehicles.change(
                vehicle_id,
                partial(in_school, variant_id=variant_id, draw=placed, school=school),
                "Temperature made in another way",
            )
    except (QuantityError, ChangeRefused, ValidationError, NewerElsewhere) as error:
        status = 422
        if isinstance(error, QuantityError | ChangeRefused):
            notice = error_words(error, habit)
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
        return _page(request, have, opened, variant_id, "shower", status=status, notice=notice)
    return _after(request, have, opened, variant_id, "shower")


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
    piece = _known_piece(str(form.get("_piece", "")))
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
        return _after(request, have, opened, variant_id, page, piece=piece)
    kept = set(read.values) | set(read.errors) if "" in saving.errors else set(saving.errors)
    typed = Typed(scope, {name: texts[name] for name in names if name in kept}, saving.errors)
    status = 409 if saving.conflict else 422
    return _page(request, have, opened, variant_id, page, typed, status, piece=piece)


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
    page, piece = _known_page(place[0]), _known_piece(place[1])
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
        return _page(
            request, have, opened, variant_id, page, status=status, notice=notice, piece=piece
        )
    return _after(request, have, opened, variant_id, page, piece=piece)


@dataclass(frozen=True, slots=True)
class Act:
    """What a button asks for."""

    action: str
    item: str
    kind: str
    run: str
    variant_id: str
    page: str = ""


@router.post("/act", name="design.act")
def act(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    action: Annotated[str, Form()],
    item: Annotated[str, Form(max_length=100)] = "",
    kind: Annotated[str, Form(max_length=100)] = "",
    run: Annotated[str, Form(max_length=100)] = "",
    page: Annotated[str, Form(alias="_page")] = "brief",
    piece: Annotated[str, Form(alias="_piece")] = "",
) -> Response:
    """Add, remove, fit, join or copy one piece of the design."""
    page, piece = _known_page(page), _known_piece(piece)
    wanted = Act(action, item, kind, run, variant_id, page)
    found = _brief_operation(wanted) or _system_operation(wanted) or _state_operation(wanted)
    if found is None:
        raise NotFound
    operation, label = found
    before = have.vehicles.open(vehicle_id).project
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
        return _page(request, have, opened, variant_id, page, status=422, notice=words, piece=piece)
    shown = variant_id
    if action == "duplicate":
        shown = opened.project.variants[-1].id
    elif action == "remove_variant":
        shown = opened.project.variants[0].id
    if shown != variant_id:
        path = request.url_for(f"design.{page}", vehicle_id=str(vehicle_id), variant_id=shown).path
        return go_to(request, path)
    if page in ("parts", "layout"):
        piece = _piece_after(before, opened.project, wanted, piece)
    return _after(request, have, opened, variant_id, page, piece=piece)


def _piece_after(before: Project, after: Project, wanted: Act, piece: str) -> str:
    """Open what was just added; close what was just removed."""
    if wanted.action in {"add_part", "fit", "insert", "cap"}:
        there = {part.id for part in find_variant(before, wanted.variant_id).system.parts}
        new = [
            part.id
            for part in find_variant(after, wanted.variant_id).system.parts
            if part.id not in there
        ]
        return f"part-{new[-1]}" if new else piece
    gone = {"remove_part", "remove_run", "empty", "layout", "copy_system"}
    return "" if wanted.action in gone else piece


Found = tuple[Callable[[Project], Project], str] | None


def _brief_operation(act: Act) -> Found:
    """Find the core's edit for a button of the brief or the variants, and its name."""
    item, here = act.item, act.variant_id
    match act.action:
        case "add_draw" if item in catalogue.PRESETS:
            draw = catalogue.PRESETS[item]
            return partial(editing.add_draw, draw=draw), f"{draw.name} added"
        case "repeat_draw":
            return partial(editing.repeat_draw, draw_id=item), "Draw repeated"
        case "remove_draw":
            return partial(editing.remove_draw, draw_id=item), "Draw removed"
        case "add_use" if item in get_args(Purpose):
            return partial(editing.add_use, purpose=item), f"{item.capitalize()} added"
        case "remove_use":
            return partial(editing.remove_use, use_id=item), "Use of water removed"
        case "duplicate":
            return partial(editing.duplicate_variant, variant_id=here), "Variant copied"
        case "remove_variant":
            return partial(editing.remove_variant, variant_id=here), "Variant removed"
    return None


def _class_part(class_id: str, **more: str | None) -> PartBase | None:
    """Make a part of a class of the catalogue; None when there is no such class."""
    found = classes().get(class_id)
    return found.part.model_copy(update=more) if found is not None else None


def _system_operation(act: Act) -> Found:
    """Find the core's edit for a button of the parts page, and its name."""
    here = act.variant_id
    match act.action:
        case "usual_route":
            return partial(editing.lay_usual_route, variant_id=here), "Usual route laid"
        case "layout" if act.item in layouts():
            layout = layouts()[act.item]
            own = _class_part(act.kind)
            words = f"Begun with “{layout.name}”"
            if own is None:
                lay = partial(
                    editing.lay, system=layout.system, variant_id=here,
                    instead=act.page == "layout",  # which says that it takes the place
                )  # fmt: skip
                return lay, words
            mine = partial(editing.lay_with_own, system=layout.system, variant_id=here, part=own)
            return mine, f"{words} around {own.label.lower()}"
        case "copy_system":
            copy = partial(editing.copy_system, source_id=act.item, variant_id=here)
            return copy, "Begun as in another variant"
        case "empty":
            lay = partial(editing.lay, system=System(), variant_id=here, instead=True)
            return lay, "Begun with an empty route"
        case "cap" if (part := _class_part("blanking-cap-usual")) is not None:
            cap = partial(editing.cap_port, end=act.item, cap=part, variant_id=here)
            return cap, f"{act.item.partition('.')[2].replace('_', ' ').capitalize()} capped"
        case "add_part" if (part := _class_part(act.item)) is not None:
            return partial(editing.add_part, part=part, variant_id=here), f"{part.label} added"
        case "fit" if (part := _class_part(act.kind, fitted_in=act.item)) is not None:
            return partial(editing.fit_part, part=part, variant_id=here), f"{part.label} fitted"
        case "insert" if (part := _class_part(act.kind)) is not None:
            put = partial(editing.insert_part, run_id=act.item, part=part, variant_id=here)
            return put, f"{part.label} put in"
        case "replace" if (part := _class_part(act.kind)) is not None:
            swap = partial(editing.replace_part, part_id=act.item, part=part, variant_id=here)
            return swap, f"{part.label} put in its place"
        case "remove_part":
            return partial(editing.remove_part, part_id=act.item, variant_id=here), "Part removed"
        case "remove_run":
            remove = partial(editing.remove_piece, group="runs", piece_id=act.item, variant_id=here)
            return remove, "Run removed"
        case "join":
            join = partial(
                editing.join, start=act.item, end=act.kind, kind=act.run, variant_id=here
            )
            return join, "Run added"
    return None


_NEW: dict[str, tuple[str, Document]] = {
    "spaces": ("Space", Space(id="space", name="New space", warmth="unheated")),
    "states": ("State", State(id="state", name="New state")),
    "phases": ("Phase", Phase(id="phase", name="New phase")),
    "holes": ("Hole", Hole(id="hole", name="New hole")),
}


def _state_operation(act: Act) -> Found:
    """Find the core's edit for a button of spaces and states, and its name."""
    first, _, second = act.item.partition(".")
    here = act.variant_id
    match act.action:
        case "add_piece" if act.item in _NEW:
            words, piece = _NEW[act.item]
            add = partial(editing.add_piece, group=act.item, piece=piece, variant_id=here)
            return add, f"{words} added"
        case "remove_piece" if first in _NEW:
            remove = partial(editing.remove_piece, group=first, piece_id=second, variant_id=here)
            return remove, f"{_NEW[first][0]} removed"
        case "position":
            put = partial(
                editing.set_position,
                state_id=first,
                part_id=second,
                at=act.kind,
                variant_id=here,
            )
            return put, f"{second} → {act.kind}"
        case "place":
            place = partial(
                editing.set_place,
                state_id=act.run,
                part_id=act.item,
                space_id=act.kind,
                variant_id=here,
            )
            return place, "Put elsewhere in a state"
        case "unplace":
            back = partial(
                editing.set_place,
                state_id=first,
                part_id=second,
                space_id=None,
                variant_id=here,
            )
            return back, "Put back in a state"
    return None
