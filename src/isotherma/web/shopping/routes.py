"""The list, the pieces, the holes and the ends: to look at, to print, as files."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import Response

from isotherma.files.parts_table import parts_table
from isotherma.services.shopping import shopping as listed
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show
from isotherma.web.rendering import attached, file_name

router = APIRouter(prefix=DESIGN)


@router.get("/shopping", name="design.shopping")
def shopping(design: DesignDep) -> Response:
    """What to buy; with `view` the pieces, the holes or the ends."""
    return design.services.unchanged.answer(
        design.request, design.vehicle_id, lambda: show(design, "shopping")
    )


@router.get("/parts-list", name="design.parts_file")
def parts_file(
    design: DesignDep, to: Annotated[Literal["csv", "tsv"], Query()] = "csv"
) -> Response:
    """Give the list as a table for a spreadsheet."""
    context = design.context()
    made = listed(context.project, context.variant)
    name = f"{file_name(context.project.name)}-{context.variant.id}-parts.{to}"
    kind = "text/csv" if to == "csv" else "text/tab-separated-values"
    return attached(parts_table(made, to, design.units), f"{kind}; charset=utf-8", name)
