"""Ending long work that one asked for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response

from isotherma.services.long_work import UnderWay
from isotherma.services.vehicles import NotFound
from isotherma.web.frame.context import ServicesDep
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.web.persons import person_of
from isotherma.web.rendering import render

router = APIRouter()


@dataclass(frozen=True, slots=True)
class CancelledPage:
    """That it was ended, and a way to begin it again."""

    template: ClassVar[str] = "cancelled.html"
    work: UnderWayView


@router.post("/work/cancel", name="work.cancel")
def cancel(
    request: Request,
    services: ServicesDep,
    job: Annotated[int, Form(ge=1, le=2**62)],
    back: Annotated[str, Form(max_length=2000)] = "/",
    part: Annotated[str, Form(max_length=40, pattern=r"^(#[a-z-]+)?$")] = "",
) -> Response:
    """End work of one's own; it stops within a second."""
    if not services.working.cancel(job, person_of(request)):
        raise NotFound
    here = back if back.startswith("/") and not back.startswith("//") else "/"
    work = under_way_view(UnderWay(job, "cancelled", 0, 0, 0, 1), "band", here, part)
    return render(request, CancelledPage(work))
