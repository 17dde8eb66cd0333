"""The Parts page: to look at, and its run table as a file or pasted back."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, UploadFile
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from isotherma.core.quantity import UnitSystem
from isotherma.files.classes_file import EXTENSION
from isotherma.files.project_file import MAX_BYTES, FileRefused
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


@router.post("/own-classes/keep", name="design.own.keep")
def keep_class(design: DesignDep, part: Annotated[str, Form(max_length=60)]) -> Response:
    """Keep a part as entered as a class of the person's, for every vehicle."""
    context = design.context()
    found = next((one for one in context.variant.system.parts if one.id == part), None)
    if found is None:
        return _own(design, "That part is not there any more; nothing was kept.", 422)
    try:
        name = design.services.own_classes.keep(found)
    except FileRefused as error:
        return _own(design, error.message, 422, piece=f"part-{part}")
    return _own(design, f"“{name}” is kept: it is offered in every vehicle now.",
                piece=f"part-{part}")  # fmt: skip


@router.post("/own-classes/remove", name="design.own.remove")
def remove_class(design: DesignDep, own: Annotated[int, Form(ge=1, le=2**31 - 1)]) -> Response:
    """Take a class of one's own out; parts made of it stay."""
    design.services.own_classes.remove(own)
    return _own(design, "That class is no longer kept; parts made of it stay as they are.")


@router.get("/own-classes", name="design.own.file")
def class_file(design: DesignDep) -> Response:
    """Give the classes of one's own as a file."""
    return attached(
        design.services.own_classes.write(), "application/json", f"own-parts{EXTENSION}"
    )


@router.post("/own-classes", name="design.own.read")
async def read_classes(
    design: DesignDep, file: Annotated[UploadFile | None, File()] = None
) -> Response:
    """Keep the classes of a file; none of them where one does not fit."""
    data = await file.read(MAX_BYTES + 1) if file is not None else b""

    def read() -> Response:
        if not data:
            return _own(design, "Choose a file of classes first.", 422)
        try:
            count = design.services.own_classes.read(data)
        except FileRefused as error:
            return _own(design, error.message, 422)
        return _own(design, f"{count} classes are kept." if count != 1 else "1 class is kept.")

    return await run_in_threadpool(read)


def _own(design: DesignDep, notice: str, status: int = 200, piece: str = "") -> Response:
    """Show the parts page again with what came of it."""
    context = design.context(notice=notice, piece=piece)
    page = parts_page(context, PartsAsked(piece=known_piece(piece)))
    return render(design.request, page, status)
