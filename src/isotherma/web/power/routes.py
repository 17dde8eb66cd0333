"""Wires and gas pipes, to look at."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import Response

from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show

router = APIRouter(prefix=DESIGN)


@router.get("/power", name="design.power")
def power(design: DesignDep) -> Response:
    """What every wire, fuse and gas pipe carries, in any state with any loads on."""
    return design.services.unchanged.answer(
        design.request, design.vehicle_id, lambda: show(design, "power")
    )
