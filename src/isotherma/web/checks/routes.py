"""Checks, to look at and to keep."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response

from isotherma.web.checks.finding import finding_page
from isotherma.web.checks.page import checks_table
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.found import found_mark
from isotherma.web.frame.responses import show
from isotherma.web.rendering import attached, go_to, is_htmx, render

router = APIRouter(prefix=DESIGN)


@router.get("/checks", name="design.checks")
def checks(design: DesignDep) -> Response:
    """What could hurt somebody in this design."""
    return show(design, "checks")


@router.get("/checks/mark", name="design.checks.mark")
def mark(design: DesignDep) -> Response:
    """What was found, in a word, for the frame of every page; looked for where nobody has."""
    if not is_htmx(design.request):
        return go_to(design.request, design.path("design.checks"))
    return render(design.request, found_mark(design.context(), look=True))


@router.get("/checks/finding", name="design.checks.finding")
def finding(
    design: DesignDep,
    finding: Annotated[str, Query(max_length=60)],
    parts: Annotated[str, Query(max_length=2500)] = "",
    runs: Annotated[str, Query(max_length=2500)] = "",
    state: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """How a finding is judged: formula, what it reads, every rule set, a picture."""
    place = (finding, _ids(parts), _ids(runs), state or None)
    return render(design.request, finding_page(design.context(), place))


def _ids(text: str) -> tuple[str, ...]:
    return tuple(filter(None, text.split(",")))


@router.get("/checks.csv", name="design.checks.table")
def table(design: DesignDep) -> Response:
    """Every finding as a table."""
    context = design.context()
    name = f"{context.project.name} checks.csv"
    return attached(checks_table(context), "text/csv; charset=utf-8", name)
