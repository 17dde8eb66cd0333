"""The Layout page: the route, what a start or a part would do, the drawing as a file."""

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
from isotherma.web.layout.starts import offer_page
from isotherma.web.rendering import attached, file_name, render, svg_file

router = APIRouter(prefix=DESIGN)


@router.get("/layout", name="design.layout")
def layout(
    design: DesignDep,
    piece: Annotated[str, Query(max_length=60)] = "",
    choose: Annotated[bool, Query()] = False,
    own: Annotated[str, Query(max_length=60)] = "",
) -> Response:
    """The route, drawn; one of its pieces chosen."""
    known: list[bool] = []

    def make() -> Response:
        context = design.context(piece=known_piece(piece))
        page = layout_page(context, choose=choose, own=own)
        known.append(all(offer.verdict for offer in page.offers))
        return render(design.request, page)

    # an offer that is not known yet fills itself in, and the page is made again until all are
    return design.services.unchanged.answer(
        design.request, design.vehicle_id, make, lambda: known[-1]
    )


@router.get("/offer/{layout_id}", name="design.offer")
def offer(
    design: DesignDep, layout_id: str, own: Annotated[str, Query(max_length=60)] = ""
) -> Response:
    """What a starting layout would do on this brief."""
    page = offer_page(design.context(), layout_id, own)
    if page is None:
        raise NotFound
    return render(design.request, page)


@router.get("/effect", name="design.effect")
def effect(
    design: DesignDep, edit: Annotated[str, Query(pattern=r"^part\.(insert|replace)$")]
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
