"""The Layout page: the route, what a part would do, the drawing as a file."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import ValidationError

from isotherma.core.errors import ChangeRefused
from isotherma.services.edits import tried_edit
from isotherma.services.vehicles import NotFound
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import known_piece
from isotherma.web.layout.effect import effect_page, refused_page
from isotherma.web.layout.page import layout_page
from isotherma.web.rendering import attached, file_name, render, svg_file

router = APIRouter(prefix=DESIGN)


@router.get("/layout", name="design.layout")
def layout(design: DesignDep, piece: Annotated[str, Query(max_length=60)] = "") -> Response:
    """The route, drawn; one of its pieces chosen."""
    return design.services.unchanged.answer(
        design.request,
        design.vehicle_id,
        lambda: render(design.request, layout_page(design.context(piece=known_piece(piece)))),
    )


@router.get("/effect", name="design.effect")
def effect(
    design: DesignDep,
    edit: Annotated[str, Query(pattern=r"^(part\.(insert|replace)|changes\.make)$")],
) -> Response:
    """What a part put in, or in another's place, would change; nothing is kept."""
    context = design.context()
    try:
        changed = tried_edit(edit, context.query, context.project, design.variant_id)
    except (ChangeRefused, ValidationError) as error:
        return render(design.request, refused_page(context, error))
    return render(design.request, effect_page(context, changed))


@router.get("/route.svg", name="design.route_svg")
def route_svg(design: DesignDep) -> Response:
    """Give the drawing as a file."""
    page = layout_page(design.context())
    if page.wide is None:
        raise NotFound
    name = f"{file_name(page.frame.vehicle)}-{design.variant_id}-route.svg"
    return attached(svg_file(page.wide, page.frame.vehicle), "image/svg+xml", name)
