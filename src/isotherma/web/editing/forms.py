"""Forms of values, undo and redo, from any page of a design."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData

from isotherma.core.quantity import UnitSystem
from isotherma.services.form_saving import save_typed
from isotherma.services.vehicles import Moved, Opened
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.frame.forms import Typed
from isotherma.web.frame.responses import after_change, known_page, known_piece, show
from isotherma.web.rendering import form_number, go_to

router = APIRouter(prefix=DESIGN)


@router.post("/edit", name="design.edit")
async def edit(request: Request, design: DesignDep) -> Response:
    """Save the fields of one form that were changed, or show it again with what is wrong."""
    form = await request.form(max_files=0, max_fields=200)
    return await run_in_threadpool(_edit, design, form)


def _edit(design: DesignRequest, form: FormData) -> Response:
    scope, page = str(form.get("_scope", "")), known_page(design.rooms, str(form.get("_page", "")))
    piece = known_piece(str(form.get("_piece", "")))
    names = [name for name in str(form.get("_fields", "")).split(",") if name]
    texts = {name: [str(value) for value in form.getlist(name)] for name in names}
    saving = save_typed(
        design.services.vehicles, design.vehicle_id, form_number(form, "_base"), scope, texts,
        UnitSystem.named(form.get("_units")),
    )  # fmt: skip
    opened = saving.opened or design.open()
    if not saving.errors:
        return after_change(design, page, opened, piece=piece)
    typed = Typed(scope, {name: texts[name] for name in saving.typed}, saving.errors)
    status = 409 if saving.conflict else 422
    return show(design, page, opened, typed=typed, status=status, piece=piece)


@router.post("/undo", name="design.undo")
def undo(
    design: DesignDep,
    base: Annotated[int, Form(alias="_base")],
    page: Annotated[str, Form(alias="_page")] = "brief",
    piece: Annotated[str, Form(alias="_piece")] = "",
) -> Response:
    """Take the last change back."""
    return _step(design, base, (page, piece), design.services.vehicles.undo)


@router.post("/redo", name="design.redo")
def redo(
    design: DesignDep,
    base: Annotated[int, Form(alias="_base")],
    page: Annotated[str, Form(alias="_page")] = "brief",
    piece: Annotated[str, Form(alias="_piece")] = "",
) -> Response:
    """Bring back what undo took."""
    return _step(design, base, (page, piece), design.services.vehicles.redo)


def _step(
    design: DesignRequest, base: int, place: tuple[str, str], step: Callable[[int, int], Opened]
) -> Response:
    page, piece = known_page(design.rooms, place[0]), known_piece(place[1])
    notice = ""
    try:
        opened = step(design.vehicle_id, base)
    except Moved:
        opened = design.open()
        notice = (
            "Another window has changed this vehicle meanwhile. Its newest state is shown; "
            "nothing was undone."
        )
    variants = opened.project.variants
    if all(variant.id != design.variant_id for variant in variants):
        return go_to(design.request, design.path(f"design.{page}", variants[0].id))
    if notice:
        return show(design, page, opened, status=409, notice=notice, piece=piece)
    return after_change(design, page, opened, piece=piece)
