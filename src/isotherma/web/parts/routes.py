"""The Parts page: to look at, and its run table as a file or pasted back."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Query
from fastapi.responses import Response

from isotherma.core.quantity import UnitSystem
from isotherma.files.run_table import write_runs
from isotherma.services.run_table_saving import save_runs
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import known_piece
from isotherma.web.parts.page import PartsAsked, parts_page
from isotherma.web.rendering import attached, file_name, go_to, render

router = APIRouter(prefix=DESIGN)


@router.get("/parts", name="design.parts")
def parts(
    design: DesignDep,
    view: Annotated[str, Query(max_length=20)] = "pieces",
    piece: Annotated[str, Query(max_length=60)] = "",
    q: Annotated[str, Query(max_length=60)] = "",
    side: Annotated[str, Query(max_length=20)] = "",
    wanted: Annotated[str, Query(max_length=60)] = "",
) -> Response:
    """The pieces of a variant, one of them opened."""
    asked = PartsAsked(view=view, piece=known_piece(piece), query=q, side=side, wanted=wanted)
    return design.services.unchanged.answer(
        design.request, design.vehicle_id,
        lambda: render(design.request, parts_page(design.context(), asked)),
    )  # fmt: skip


@router.get("/runs.tsv", name="design.runs_file")
def runs_file(design: DesignDep) -> Response:
    """Give the run table as a file for a spreadsheet."""
    context = design.context()
    name = f"{file_name(context.project.name)}-{context.variant.id}-runs.tsv"
    table = write_runs(context.variant.system, design.units)
    return attached(table, "text/tab-separated-values; charset=utf-8", name)


@router.post("/runs", name="design.runs")
def runs(
    design: DesignDep,
    text: Annotated[str, Form(max_length=400_000)] = "",
    shown_in: Annotated[str, Form(alias="_units")] = "metric",
    base: Annotated[int, Form(alias="_base")] = 0,
) -> Response:
    """Read a pasted run table in, or show it again with what is wrong."""
    saving = save_runs(
        design.services.vehicles, design.vehicle_id, design.variant_id, base, text,
        UnitSystem.named(shown_in),
    )  # fmt: skip
    if not saving.problems:
        return go_to(design.request, f"{design.path('design.parts')}?view=runs")
    asked = PartsAsked(view="runs", table_text=text, table_problems=saving.problems)
    status = 409 if saving.conflict else 422
    return render(design.request, parts_page(design.context(), asked), status)
