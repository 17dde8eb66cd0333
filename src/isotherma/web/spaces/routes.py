"""Spaces and states, to look at."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response

from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.rendering import render
from isotherma.web.spaces.page import spaces_page
from isotherma.web.spaces.verdicts import verdicts_page

router = APIRouter(prefix=DESIGN)


@router.get("/spaces", name="design.spaces")
def spaces(
    design: DesignDep,
    start: Annotated[str, Query(max_length=40)] = "",
    end: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """Where everything lives, how it stands, and the moves between two states."""
    return design.services.unchanged.answer(
        design.request, design.vehicle_id,
        lambda: render(design.request, spaces_page(design.context(), start, end)),
    )  # fmt: skip


@router.get("/verdicts", name="design.verdicts")
def verdicts(design: DesignDep) -> Response:
    """The verdict of the day in every state, a part of the frame or a page of its own."""
    return render(design.request, verdicts_page(design.context()))
