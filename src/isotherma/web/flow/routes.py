"""The Flow page, to look at."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import Response

from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show

router = APIRouter(prefix=DESIGN)


@router.get("/flow", name="design.flow")
def flow(design: DesignDep) -> Response:
    """What every pipe and valve does, in any state with any outlets open."""
    return design.services.unchanged.answer(
        design.request, design.vehicle_id, lambda: show(design, "flow")
    )
