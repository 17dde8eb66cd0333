"""The Compare page, and its table as CSV."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import Response

from isotherma.core.options.compared import figures
from isotherma.files.compare_table import write_comparison
from isotherma.web.compare.found import found_sides
from isotherma.web.compare.page import sides_of
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show
from isotherma.web.rendering import attached, file_name, render

router = APIRouter(prefix=DESIGN)


@router.get("/compare", name="design.compare")
def compare(design: DesignDep) -> Response:
    """Designs side by side on one trip."""
    return show(design, "compare")


@router.get("/compare/found", name="design.compare.found")
def compare_found(design: DesignDep) -> Response:
    """What the checks find in each; a part of the table, or a page of its own."""
    return render(design.request, found_sides(design.context()))


@router.get("/compare.csv", name="design.compare.csv")
def compare_csv(design: DesignDep) -> Response:
    """Give every figure of what is compared as CSV."""
    context = design.context()
    sides, _ = sides_of(context)
    names = [side.side.name for side in sides]
    name = f"{file_name(context.project.name)}-compare.csv"
    table = write_comparison(names, figures([side.result for side in sides]), context.units)
    return attached(table, "text/csv; charset=utf-8", name)
