"""The Heat page, and what a start would do on this brief."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from isotherma.services.turns import Stopped
from isotherma.services.vehicles import NotFound
from isotherma.web.cancellation import while_waited_for
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.heat.found import found_way
from isotherma.web.heat.offers import offer_page
from isotherma.web.heat.own import own_page
from isotherma.web.heat.page import heat_page
from isotherma.web.heat.sizes import sizes_page
from isotherma.web.rendering import render

router = APIRouter(prefix=DESIGN)


@router.get("/heat", name="design.heat")
def heat(design: DesignDep) -> Response:
    """Ways of heating the water to begin with."""
    known: list[bool] = []

    def make() -> Response:
        page = heat_page(design.context())
        known.append(all(card.verdict for card in page.cards))
        return render(design.request, page)

    # a card that is not known yet fills itself in, and the page is made again until all are
    return design.services.unchanged.answer(
        design.request, design.vehicle_id, make, lambda: known[-1]
    )


@router.get("/offer/{start}", name="design.offer")
async def offer(
    request: Request, design: DesignDep, start: str,
    own: Annotated[str, Query(max_length=60)] = "",
) -> Response:  # fmt: skip
    """What a start would do on this brief; not begun when its reader has left meanwhile."""

    def make(stopped: Stopped) -> Response:
        page = offer_page(design.context(stopped=stopped), start, own)
        if page is None:
            raise NotFound
        return render(design.request, page)

    return await while_waited_for(request, make)


@router.get("/sizes", name="design.sizes")
def sizes(design: DesignDep) -> Response:
    """Every way of heating, sized on this brief; a part of the Heat page, or a page of its own."""
    return render(design.request, sizes_page(design.context()))


@router.get("/sizes/found", name="design.sizes.found")
def found(
    design: DesignDep,
    family: Annotated[str, Query(max_length=60)],
    sizes: Annotated[str, Query(max_length=200)] = "",
) -> Response:
    """What the checks find in a way of heating in its sizes."""
    page = found_way(design.context(), family, sizes)
    if page is None:
        raise NotFound
    return render(design.request, page)


@router.get("/own", name="design.own")
def own(design: DesignDep) -> Response:
    """What is there already can do so much; a part of the Heat page, or a page of its own."""
    return render(design.request, own_page(design.context()))
