"""The Brief page, to look at."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import Response

from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show

router = APIRouter(prefix=DESIGN)


@router.get("/brief", name="design.brief")
def brief(design: DesignDep) -> Response:
    """Who washes, when and where."""
    return design.services.unchanged.answer(
        design.request, design.vehicle_id, lambda: show(design, "brief")
    )
