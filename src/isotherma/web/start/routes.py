"""Start: ask the few things, make the vehicle, show what could heat its water."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData

from isotherma.core.quantity import UnitSystem
from isotherma.services.starting import start_with_answers
from isotherma.services.whole_vehicles import start_vehicle
from isotherma.web.frame.context import ServicesDep
from isotherma.web.rendering import go_to, path_for, render, units_of
from isotherma.web.start.page import FIELDS, start_page
from isotherma.wording import problem_words

router = APIRouter()


@router.get("/start", name="start.show")
def show(request: Request) -> Response:
    """Ask the few things a person knows."""
    return render(request, start_page(units_of(request)))


@router.post("/start", name="start.create")
async def create(request: Request, services: ServicesDep) -> Response:
    """Make a vehicle of the answers, or show them again with what is wrong."""
    form = await request.form(max_files=0, max_fields=60)
    return await run_in_threadpool(_create, request, services, form)


def _create(request: Request, services: ServicesDep, form: FormData) -> Response:
    texts = {name: [str(value) for value in form.getlist(name)] for name in FIELDS}
    units = UnitSystem.named(form.get("_units"))
    number, errors = start_with_answers(services.vehicles, texts, units)
    if number is None:
        return render(request, start_page(units, texts, errors), 422)
    return go_to(request, path_for(request, "design.heat", vehicle_id=number, variant_id="first"))


@router.post("/vehicles", name="vehicle.create")
def begin(
    request: Request,
    services: ServicesDep,
    name: Annotated[str, Form()] = "",
    start: Annotated[str, Form()] = "usual",
) -> Response:
    """Start a vehicle on a layout, on the usual route with its sizes unknown, or on nothing."""
    try:
        number = start_vehicle(services.vehicles, name, start)
    except ValidationError as error:
        words = problem_words(error.errors()[0], None, units_of(request))
        page = start_page(
            units_of(request), start=start, known_name=name, known_error=f"The name {words}."
        )
        return render(request, page, 422)
    path = path_for(request, "design.brief", vehicle_id=str(number), variant_id="first")
    return go_to(request, path)
