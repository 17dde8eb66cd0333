"""Pages of a design, to look at."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import PlainTextResponse, Response
from pydantic import ValidationError
from starlette.datastructures import QueryParams

from isotherma.core.errors import ChangeRefused
from isotherma.core.quantity import UnitSystem
from isotherma.files.run_table import write_runs
from isotherma.files.timeline_csv import write_timeline
from isotherma.services.edits import EDITS, read_edit
from isotherma.services.turns import Stopped
from isotherma.services.vehicles import NotFound
from isotherma.web.cancellation import while_waited_for
from isotherma.web.context import Have
from isotherma.web.pages import design as pages
from isotherma.web.pages.begin import offer_page
from isotherma.web.pages.certainty import certainty_page
from isotherma.web.pages.effect import EffectPage, effect_page
from isotherma.web.pages.frame import find_variant
from isotherma.web.pages.layout import layout_page
from isotherma.web.pages.parts import Asked, parts_page
from isotherma.web.pages.standing import spaces_page
from isotherma.web.pages.whatif import WhatIfAsked
from isotherma.web.rendering import render, svg_file, units_of
from isotherma.web.routes.answers import (
    flow_asked,
    known_piece,
    show,
)
from isotherma.web.routes.home import file_name
from isotherma.wording import error_words, validation_sentences

router = APIRouter(prefix="/vehicles/{vehicle_id}/{variant_id}")


@router.get("/brief", name="design.brief")
def brief(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Who washes, when and where."""
    return have.unchanged.answer(
        request, vehicle_id,
        lambda: show(request, have, have.vehicles.open(vehicle_id), variant_id, "brief"),
    )  # fmt: skip


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
    known: list[bool] = []

    def make() -> Response:
        page = layout_page(
            have.vehicles.open(vehicle_id), variant_id, units_of(request), have.computing,
            have.flowing, flow_asked(request.query_params), piece=known_piece(piece),
            choose=choose, own=own,
        )  # fmt: skip
        known.append(all(offer.verdict for offer in page.offers))
        return render(request, page)

    # an offer that is not known yet fills itself in, and the page is made again until all are
    return have.unchanged.answer(request, vehicle_id, make, lambda: known[-1])


@router.get("/offer/{layout_id}", name="design.offer")
def offer(
    request: Request, have: Have, vehicle_id: int, variant_id: str, layout_id: str,
    own: Annotated[str, Query(max_length=60)] = "",
) -> Response:  # fmt: skip
    """What a starting layout would do on this brief."""
    opened = have.vehicles.open(vehicle_id)
    page = offer_page(opened, layout_id, units_of(request), have.computing, own)
    if page is None:
        raise NotFound
    return render(request, page)


@router.get("/effect", name="design.effect")
def effect(
    request: Request, have: Have, vehicle_id: int, variant_id: str,
    edit: Annotated[str, Query(pattern=r"^part\.(insert|replace)$")],
) -> Response:  # fmt: skip
    """What a part put in, or in another's place, would change; nothing is kept."""
    opened = have.vehicles.open(vehicle_id)
    query = request.query_params
    asked = {key: query[key] for key in EDITS[edit].model_fields if key in query}
    try:
        changed = read_edit(edit, asked).apply(opened.project, variant_id)
    except (ChangeRefused, ValidationError) as error:
        words = (
            error_words(error, units_of(request)) if isinstance(error, ChangeRefused)
            else "; ".join(validation_sentences(error))
        )  # fmt: skip
        return render(request, EffectPage(opened.project.name, (f"It does not go in: {words}",)))
    page = effect_page(
        opened, changed, variant_id, units_of(request), have.computing, have.flowing,
        flow_asked(request.query_params),
    )  # fmt: skip
    return render(request, page)


@router.get("/route.svg", name="design.route_svg")
def route_svg(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Give the drawing as a file."""
    opened = have.vehicles.open(vehicle_id)
    page = layout_page(
        opened, variant_id, units_of(request), have.computing, have.flowing,
        flow_asked(request.query_params),
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
    asked = Asked(view=view, piece=known_piece(piece), query=q, side=side, wanted=wanted)

    def make() -> Response:
        opened = have.vehicles.open(vehicle_id)
        page = parts_page(opened, variant_id, units_of(request), have.computing, asked=asked)
        return render(request, page)

    return have.unchanged.answer(request, vehicle_id, make)


@router.get("/runs.tsv", name="design.runs_file")
def runs_file(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """Give the run table as a file for a spreadsheet."""
    project = have.vehicles.open(vehicle_id).project
    variant = find_variant(project, variant_id)
    name = f"{file_name(project.name)}-{variant.id}-runs.tsv"
    return Response(
        write_runs(variant.system, units_of(request)),
        media_type="text/tab-separated-values; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="{name}"'},
    )


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

    def make() -> Response:
        page = spaces_page(
            have.vehicles.open(vehicle_id), variant_id, units_of(request), have.computing,
            start=start, end=end,
        )  # fmt: skip
        return render(request, page)

    return have.unchanged.answer(request, vehicle_id, make)


@router.get("/flow", name="design.flow")
def flow(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """What every pipe and valve does, in any state with any outlets open."""
    return have.unchanged.answer(
        request, vehicle_id,
        lambda: show(request, have, have.vehicles.open(vehicle_id), variant_id, "flow"),
    )  # fmt: skip


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

    def page(stopped: Stopped) -> Response:
        made = pages.shower_page(
            have.vehicles.open(vehicle_id), variant_id, units_of(request), have.computing,
            chosen=draw, by=by, at=at, comparing=have.comparing,
            asked=_whatif_asked(request.query_params, stopped),
        )  # fmt: skip
        return render(request, made)

    return await while_waited_for(
        request,
        lambda stopped: have.unchanged.answer(request, vehicle_id, lambda: page(stopped)),
    )


def _whatif_asked(query: QueryParams, stopped: Stopped) -> WhatIfAsked:
    """Read what is tried and compared; texts are cut to what a field takes."""
    text = {key: value[:60] for key, value in query.multi_items()}
    return WhatIfAsked(
        texts={key[2:]: value for key, value in text.items() if key.startswith("w.")},
        compare=text.get("compare", ""),
        pause=text.get("pause", ""),
        strategy=text.get("school", ""),
        stopped=stopped,
    )


@router.get("/certainty", name="design.certainty")
async def certainty(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
    """How sure the figures are; a part of the Shower page, or a page of its own."""

    def make(stopped: Stopped) -> Response:
        opened = have.vehicles.open(vehicle_id)
        page = certainty_page(
            opened, variant_id, units_of(request), have.computing, have.comparing, stopped
        )
        return render(request, page)

    return await while_waited_for(request, make)


@router.get("/certainty/progress", name="design.certainty_progress")
def certainty_progress(have: Have, vehicle_id: int, variant_id: str) -> Response:
    """How far the runs with uncertain figures are, in words; nothing while none run here."""
    project = have.vehicles.open(vehicle_id).project
    found = have.comparing.progress(project, find_variant(project, variant_id))
    words = f"{found[0]} of {found[1]} uncertain figures tried" if found is not None else ""
    return PlainTextResponse(words)


@router.get("/trace/{trace_id}", name="design.trace")
def trace(
    request: Request, have: Have, vehicle_id: int, variant_id: str, trace_id: str
) -> Response:
    """Open a number."""
    opened = have.vehicles.open(vehicle_id)
    page = pages.trace_page(opened, variant_id, units_of(request), have.computing, trace_id)
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
        return PlainTextResponse(error_words(outcome, UnitSystem.METRIC), status_code=409)
    name = f"{file_name(project.name)}-{variant.id}-timeline.csv"
    return Response(
        write_timeline(outcome),
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="{name}"'},
    )
