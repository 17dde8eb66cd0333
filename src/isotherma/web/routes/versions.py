"""Versions of a vehicle: named, compared, brought back."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import Response
from pydantic import TypeAdapter, ValidationError

from isotherma.core.fields import Name
from isotherma.services.vehicles import Moved
from isotherma.web.context import Have
from isotherma.web.pages.frame import find_variant
from isotherma.web.pages.versions import versions_page
from isotherma.web.rendering import go_to, render, units_of
from isotherma.wording import problem_words

_NAME: TypeAdapter[str] = TypeAdapter(Name)
router = APIRouter(prefix="/vehicles/{vehicle_id}/{variant_id}/versions")


def _show(
    request: Request, have: Have, vehicle_id: int, variant_id: str, against: int, named: bool,
    notice: str = "", status: int = 200,
) -> Response:  # fmt: skip
    opened = have.vehicles.open(vehicle_id)
    find_variant(opened.project, variant_id)
    then = (against, have.vehicles.at(vehicle_id, against)) if against else None
    page = versions_page(
        opened, variant_id, units_of(request), have.vehicles.history(vehicle_id), then,
        only_named=named, notice=notice,
    )  # fmt: skip
    return render(request, page, status)


@router.get("", name="versions.show")
def show(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    against: Annotated[int, Query(ge=0)] = 0,
    named: Annotated[bool, Query()] = False,
) -> Response:
    """List what was kept; against one of them, what differs now."""
    return _show(request, have, vehicle_id, variant_id, against, named)


@router.post("/name", name="versions.name")
def name(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    revision: Annotated[int, Form()],
    text: Annotated[str, Form(max_length=200)] = "",
) -> Response:
    """Give a kept state a name, or take it away."""
    try:
        wanted = _NAME.validate_python(text)
    except ValidationError as error:
        words = problem_words(error.errors()[0], None, units_of(request))
        return _show(
            request, have, vehicle_id, variant_id, 0, False, status=422,
            notice=f"That name was not kept: it {words}. Nothing was changed.",
        )  # fmt: skip
    have.vehicles.name_revision(vehicle_id, revision, wanted)
    path = request.url_for("versions.show", vehicle_id=str(vehicle_id), variant_id=variant_id).path
    return go_to(request, path)


@router.post("/back", name="versions.back")
def back(
    request: Request,
    have: Have,
    vehicle_id: int,
    variant_id: str,
    revision: Annotated[int, Form()],
    base: Annotated[int, Form(alias="_base")],
) -> Response:
    """Bring a kept state back; what there is now stays among the versions."""
    try:
        opened = have.vehicles.bring_back(vehicle_id, base, revision)
    except Moved:
        return _show(
            request, have, vehicle_id, variant_id, 0, False, status=409,
            notice="Another window has changed this vehicle meanwhile; nothing was brought back.",
        )  # fmt: skip
    ids = [variant.id for variant in opened.project.variants]
    shown = variant_id if variant_id in ids else ids[0]
    path = request.url_for("design.brief", vehicle_id=str(vehicle_id), variant_id=shown).path
    return go_to(request, path)
