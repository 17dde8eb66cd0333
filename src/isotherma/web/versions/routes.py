"""Versions of a vehicle: named, compared, brought back."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Query
from fastapi.responses import Response
from pydantic import TypeAdapter, ValidationError

from isotherma.core.fields import Name
from isotherma.services.vehicles import Moved
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.rendering import go_to, render
from isotherma.web.versions.page import versions_page
from isotherma.wording import problem_words

_NAME: TypeAdapter[str] = TypeAdapter(Name)
router = APIRouter(prefix=f"{DESIGN}/versions")


def _refused(design: DesignRequest, notice: str, status: int) -> Response:
    return render(design.request, versions_page(design.context(notice=notice)), status)


@router.get("", name="versions.show")
def show(
    design: DesignDep,
    against: Annotated[int, Query(ge=0)] = 0,
    named: Annotated[bool, Query()] = False,
) -> Response:
    """List what was kept; against one of them, what differs now."""
    return render(design.request, versions_page(design.context(), against, only_named=named))


@router.post("/name", name="versions.name")
def name(
    design: DesignDep,
    revision: Annotated[int, Form()],
    text: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Give a kept state a name, or take it away."""
    try:
        wanted = _NAME.validate_python(text)
    except ValidationError as error:
        words = problem_words(error.errors()[0], None, design.units)
        return _refused(design, f"That name was not kept: it {words}. Nothing was changed.", 422)
    design.services.vehicles.name_revision(design.vehicle_id, revision, wanted)
    return go_to(design.request, design.path("versions.show"))


@router.post("/back", name="versions.back")
def back(
    design: DesignDep,
    revision: Annotated[int, Form()],
    base: Annotated[int, Form(alias="_base")],
) -> Response:
    """Bring a kept state back; what there is now stays among the versions."""
    try:
        opened = design.services.vehicles.bring_back(design.vehicle_id, base, revision)
    except Moved:
        words = "Another window has changed this vehicle meanwhile; nothing was brought back."
        return _refused(design, words, 409)
    ids = [variant.id for variant in opened.project.variants]
    shown = design.variant_id if design.variant_id in ids else ids[0]
    return go_to(design.request, design.path("design.brief", shown))
