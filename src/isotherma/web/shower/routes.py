"""The Shower page: to look at, its figures opened, and what was tried kept."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import PlainTextResponse, Response
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData, QueryParams

from isotherma.core.quantity import UnitSystem
from isotherma.files.timeline_csv import write_timeline
from isotherma.services.trial_saving import keep_tried
from isotherma.services.vehicles import NotFound
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.frame.responses import after_change, show
from isotherma.web.rendering import attached, file_name, form_number, render
from isotherma.web.shower.alternatives import WhatIfAsked
from isotherma.web.shower.certainty import certainty_page
from isotherma.web.shower.mends import mends_page
from isotherma.web.shower.page import ShowerAsked, shower_page
from isotherma.web.shower.trace import trace_page
from isotherma.wording import error_words

router = APIRouter(prefix=DESIGN)


@router.get("/shower", name="design.shower")
def shower(
    request: Request,
    design: DesignDep,
    draw: Annotated[int, Query(ge=0, le=99)] = 0,
    by: Annotated[str, Query(pattern="^(litres|time)$")] = "litres",
    at: Annotated[int | None, Query(ge=0, le=100_000)] = None,
    day: Annotated[int | None, Query(ge=1, le=60)] = None,
) -> Response:
    """What comes out of the head, and what is compared on it."""
    asked = ShowerAsked(draw, by, at, day, _what_if(request.query_params))
    whole = True

    def page() -> Response:
        nonlocal whole
        made = shower_page(design.context(), asked)
        whole = made.alternatives is None or made.alternatives.work is None
        return render(request, made)

    return design.services.unchanged.answer(request, design.vehicle_id, page, lambda: whole)


def _what_if(query: QueryParams) -> WhatIfAsked:
    """Read what is tried and compared; texts are cut to what a field takes."""
    text = {key: value[:60] for key, value in query.multi_items()}
    return WhatIfAsked(
        texts={key[2:]: value for key, value in text.items() if key.startswith("w.")},
        compare=text.get("compare", ""),
        pause=text.get("pause", ""),
        strategy=text.get("school", ""),
    )


@router.post("/whatif", name="design.whatif")
async def whatif(request: Request, design: DesignDep) -> Response:
    """Keep what was tried on the Shower page."""
    form = await request.form(max_files=0, max_fields=40)
    return await run_in_threadpool(_keep, design, form)


def _keep(design: DesignRequest, form: FormData) -> Response:
    text = {key: str(value)[:60] for key, value in form.items()}
    saving = keep_tried(
        design.services.vehicles, design.vehicle_id, design.variant_id,
        base_id=form_number(form, "_base"), draw_id=text.get("draw_id", ""),
        texts={key[2:]: value for key, value in text.items() if key.startswith("w.")},
        strategy=text.get("school", "")[:40], units=UnitSystem.named(text.get("_units")),
    )  # fmt: skip
    if saving.problem:
        status = 409 if saving.conflict else 422
        return show(design, "shower", saving.opened, status=status, notice=saving.problem)
    return after_change(design, "shower", saving.opened)


@router.get("/certainty", name="design.certainty")
def certainty(design: DesignDep) -> Response:
    """How sure the figures are; a part of the Shower page, or a page of its own."""
    return render(design.request, certainty_page(design.context()))


@router.get("/mends", name="design.mends")
def mends(design: DesignDep) -> Response:
    """The smallest changes that would mend the design; a part of the page, or one of its own."""
    return render(design.request, mends_page(design.context()))


@router.get("/trace/{trace_id}", name="design.trace")
def trace(design: DesignDep, trace_id: str) -> Response:
    """Open a number."""
    page = trace_page(design.context(), trace_id)
    if page is None:
        raise NotFound
    return render(design.request, page)


@router.get("/timeline.csv", name="design.timeline")
def timeline(design: DesignDep) -> Response:
    """Give every step of the day as CSV."""
    context = design.context()
    outcome = design.services.computing.result(context.project, context.variant)
    if isinstance(outcome, Exception):
        return PlainTextResponse(error_words(outcome, UnitSystem.METRIC), status_code=409)
    name = f"{file_name(context.project.name)}-{context.variant.id}-timeline.csv"
    return attached(write_timeline(outcome), "text/csv; charset=utf-8", name)
