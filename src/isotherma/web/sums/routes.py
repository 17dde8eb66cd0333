"""Bench sums: worked out from the address, put into a design when asked."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData

from isotherma.core.bench_sums import SUMS, answer
from isotherma.core.errors import CoreError
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem
from isotherma.services.vehicles import NewerElsewhere, NotFound
from isotherma.web.frame.context import ServicesDep
from isotherma.web.rendering import go_to, path_for, render, units_of
from isotherma.web.sums.joints import meet_page, thread_page
from isotherma.web.sums.page import SumAsked, read_values, sums_page, targets_of
from isotherma.wording import error_words, validation_sentences

router = APIRouter()


def _vehicles(services: ServicesDep) -> list[tuple[int, Project]]:
    return [(item.vehicle_id, item.project) for item in services.vehicles.overview()]


@router.get("/sums", name="sums.show")
def show(request: Request, services: ServicesDep) -> Response:
    """Show every sum; the one the address asks for with its answer."""
    query = request.query_params
    texts = {key: value[:40] for key, value in query.items() if key != "sum"}
    asked = SumAsked(query.get("sum", "")[:40], texts)
    return render(request, sums_page(units_of(request), asked, _vehicles(services)))


@router.get("/sums/thread", name="joints.thread")
def thread(request: Request) -> Response:
    """Which thread was measured."""
    return render(request, thread_page(_texts(request), units_of(request)))


@router.get("/sums/meet", name="joints.meet")
def meet(request: Request) -> Response:
    """Whether two ends meet, and by which fittings."""
    return render(request, meet_page(_texts(request), units_of(request)))


def _texts(request: Request) -> dict[str, str]:
    return {key: value[:60] for key, value in request.query_params.items()}


@router.post("/sums/put", name="sums.put")
async def put(request: Request, services: ServicesDep) -> Response:
    """Put the answer of a sum into a part of a design."""
    form = await request.form(max_files=0, max_fields=40)
    return await run_in_threadpool(_put, request, services, form)


def _put(request: Request, services: ServicesDep, form: FormData) -> Response:
    texts = {key: str(value)[:40] for key, value in form.items()}
    asked = SumAsked(texts.get("sum", ""), texts)
    item = next((each for each in SUMS if each.id == asked.id), None)
    if item is None:
        raise NotFound
    units = UnitSystem.named(texts.get("_units"))
    values, wrong = read_values(item, asked, units)
    vehicles = _vehicles(services)
    words = ""
    try:
        found = answer(item.id, values) if not wrong else None
        target = str(form.get("target", ""))[:160]
        if found is None or found.put is None:
            words = "There is nothing to put yet: mend the fields first."
        elif target not in {key for key, _ in targets_of(found.put, vehicles)}:
            words = "That part is not there any more. Nothing was changed."
        else:
            number, variant_id, part_id = target.split(".")
            opened = services.vehicles.open(int(number))
            path = f"variants.{variant_id}.system.parts.{part_id}.{found.put.name}"
            services.vehicles.set_values(
                int(number), opened.head_id, {path: found.put.value}, "From a bench sum"
            )
            there = path_for(request, "design.parts", vehicle_id=number, variant_id=variant_id)
            return go_to(request, f"{there}?piece=part-{part_id}#piece")
    except CoreError as error:
        words = error_words(error, units)
    except ValidationError as error:
        words = "That was not put in: " + "; ".join(validation_sentences(error))
    except NewerElsewhere:
        words = "Another window has just changed that part. Nothing was changed; try again."
    return render(request, sums_page(units, asked, vehicles, words), 422)
