"""The Budgets page, to look at, and the trip as JSON."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import Response

from isotherma.web.budgets.levers import levers_page
from isotherma.web.budgets.page import budgets_page
from isotherma.web.budgets.year import year_page
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.rendering import render

router = APIRouter(prefix=DESIGN)


@router.get("/budgets", name="design.budgets")
def budgets(design: DesignDep) -> Response:
    """What runs out first, on which day, and the stops the trip needs."""
    known: list[bool] = []

    def make() -> Response:
        context = design.context()
        page = budgets_page(context)
        known.append(page.banded or not page.lines)
        return render(design.request, page)

    # a page without its bands is made again: somebody may have asked for them meanwhile
    return design.services.unchanged.answer(
        design.request, design.vehicle_id, make, lambda: known[-1]
    )


@router.get("/year", name="design.year")
def year(design: DesignDep) -> Response:
    """The trip in every month; a part of the Budgets page, or a page of its own."""
    return render(design.request, year_page(design.context()))


@router.get("/levers", name="design.levers")
def levers(design: DesignDep) -> Response:
    """What would make the trip last longer; a part of the Budgets page, or a page of its own."""
    return render(design.request, levers_page(design.context()))
