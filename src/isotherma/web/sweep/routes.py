"""The Sweep page, what has run of it, the smallest that does it, every run as CSV."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import PlainTextResponse, Response

from isotherma.core.errors import CoreError
from isotherma.core.options.sweep import Swept
from isotherma.files.sweep_csv import write_sweep
from isotherma.services.vehicles import NotFound
from isotherma.web.frame.context import DESIGN, DesignDep, PageContext
from isotherma.web.frame.responses import show
from isotherma.web.rendering import attached, file_name, render
from isotherma.web.sweep.asked import SweepAsked, read_asked
from isotherma.web.sweep.page import smallest_page, swept_page

router = APIRouter(prefix=DESIGN)


@router.get("/sweep", name="design.sweep")
def sweep(design: DesignDep) -> Response:
    """One or two figures varied, and what came of every run."""
    return show(design, "sweep")


def _asked(context: PageContext) -> SweepAsked:
    """Read what the address asks; NotFound where there is nothing to vary."""
    result = context.services.computing.result(context.project, context.variant)
    if isinstance(result, CoreError):
        raise NotFound
    return read_asked(context, result)


@router.get("/swept", name="design.swept")
def swept(design: DesignDep) -> Response:
    """What has run of a sweep by now; a part of the Sweep page, or a page of its own."""
    context = design.context()
    page = swept_page(context, _asked(context))
    if page is None:
        raise NotFound
    return render(design.request, page)


@router.get("/smallest", name="design.smallest")
def smallest(design: DesignDep) -> Response:
    """The smallest that does it, once it is found; a part of the page, or one of its own."""
    context = design.context()
    page = smallest_page(context, _asked(context))
    if page is None:
        raise NotFound
    return render(design.request, page)


@router.get("/sweep.csv", name="design.sweep.csv")
def sweep_csv(design: DesignDep) -> Response:
    """Give every run of a sweep as CSV, once all have run."""
    context = design.context()
    asked = _asked(context)
    if asked.sweep is None:
        raise NotFound
    pieces = context.services.sweeping.pieces(
        context.project, context.variant, asked.sweep, context.asker
    )
    done = [piece for piece in pieces if isinstance(piece, Swept)]
    if len(done) < len(pieces):
        return PlainTextResponse(
            "Not all runs are made yet: look at the Sweep page until they are, then take the table "
            "again.", status_code=409,
        )  # fmt: skip
    rows = [axis.row for axis in asked.axes if axis.row is not None]
    name = f"{file_name(context.project.name)}-{context.variant.id}-sweep.csv"
    return attached(write_sweep(rows, done, context.units), "text/csv; charset=utf-8", name)
