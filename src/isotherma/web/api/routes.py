"""Routes for programs under /api/v1: vehicles, projects, results, readings, a dossier as work."""

from __future__ import annotations

import json
from collections import deque
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, ClassVar, Final

from fastapi import APIRouter, Header, Path, Query, Request
from fastapi.openapi.utils import get_openapi
from fastapi.responses import JSONResponse, Response
from starlette.concurrency import run_in_threadpool

from isotherma.core.errors import CoreError, PlanCircle
from isotherma.core.project import Project, Variant
from isotherma.files.check_json import check_object
from isotherma.files.parts_json import parts_object
from isotherma.files.plan_json import plan_object
from isotherma.files.project_file import MAX_BYTES, FileRefused, read_project, write_project
from isotherma.files.readings_csv import ReadingsUnreadable
from isotherma.files.report_json import report
from isotherma.services.building import labels_of, planned
from isotherma.services.checking import check_variant, titles
from isotherma.services.long_work import Asker, UnderWay
from isotherma.services.shopping import shopping
from isotherma.services.vehicles import Moved, find_variant
from isotherma.services.visitors import visitor
from isotherma.web.dossier.asked import SETS
from isotherma.web.frame.context import ServicesDep
from isotherma.web.rendering import render, units_of, whole_number
from isotherma.wording import (
    LINE_WHY,
    check_remedy,
    check_sentence,
    error_words,
    remark_sentence,
)

ROOT: Final = "/api/v1"
router = APIRouter(prefix=ROOT)
VehicleId = Annotated[int, Path(ge=1, lt=2**31)]
VariantId = Annotated[str, Path(max_length=60)]


class ApiAnswer(JSONResponse):
    """JSON as the command line writes it: letters as they are, no figure that is none."""

    def render(self, content: Any) -> bytes:  # noqa: ANN401 - whatever is to be written
        """Write it."""
        return json.dumps(content, ensure_ascii=False, allow_nan=False).encode()


def _problem(status: int, code: str, message: str) -> Response:
    return ApiAnswer({"error": {"code": code, "message": message}}, status_code=status)


def _cannot(error: CoreError, request: Request) -> Response:
    return _problem(422, error.code, error_words(error, units_of(request)))


def _found(services: ServicesDep, vehicle_id: int, variant_id: str) -> tuple[Project, Variant, int]:
    opened = services.vehicles.open(vehicle_id)
    return opened.project, find_variant(opened.project, variant_id), opened.head_id


@dataclass(frozen=True, slots=True)
class ApiRoute:
    """A route as its page shows it."""

    method: str
    path: str
    words: str
    asks: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class ApiPage:
    """What programs may ask, and how."""

    template: ClassVar[str] = "api.html"
    routes: tuple[ApiRoute, ...]


def _schema() -> dict[str, Any]:
    return get_openapi(title="Isotherma", version="1", routes=list(router.routes))


@router.get("", name="api.docs")
def docs(request: Request) -> Response:
    """Show what programs may ask."""
    rows = []
    for path, ways in _schema()["paths"].items():
        for method, said in ways.items():
            asks = tuple((one["name"], one["in"]) for one in said.get("parameters", ()))
            rows.append(ApiRoute(method.upper(), path, said.get("description", ""), asks))
    return render(request, ApiPage(tuple(rows)))


@router.get("/openapi.json", name="api.schema")
def schema() -> Response:
    """Give the description of all this for other programs (OpenAPI)."""
    return ApiAnswer(_schema())


@router.get("/vehicles", name="api.vehicles")
def vehicles(
    services: ServicesDep, q: Annotated[str, Query(max_length=80)] = "",
    page: Annotated[int, Query(ge=1, le=100_000)] = 1,
) -> Response:  # fmt: skip
    """List vehicles, the last changed first: number, revision, name, variants."""
    found = services.vehicles.listing(q, page)
    return ApiAnswer({
        "vehicles": [
            {"id": one.vehicle_id, "revision": one.head_id, "name": one.project.name,
             "variants": [{"id": each.id, "name": each.name} for each in one.project.variants]}
            for one in found.listed
        ],
        "page": found.page, "pages": found.pages, "total": found.total,
    })  # fmt: skip


@router.post("/vehicles", name="api.vehicle.create")
async def create(request: Request, services: ServicesDep) -> Response:
    """Keep a project file as a new vehicle."""
    data = await request.body()

    def keep() -> Response:
        try:
            project = read_project(data[: MAX_BYTES + 1])
        except FileRefused as error:
            return _problem(422, error.code, error.message)
        number = services.vehicles.create(project, "Imported")
        head = services.vehicles.open(number).head_id
        return ApiAnswer({"id": number, "revision": head}, status_code=201)

    return await run_in_threadpool(keep)


@router.get("/vehicles/{vehicle_id}/project", name="api.project")
def project(services: ServicesDep, vehicle_id: VehicleId) -> Response:
    """Give the project file; its revision is the ETag, which a change must name."""
    opened = services.vehicles.open(vehicle_id)
    return Response(write_project(opened.project), media_type="application/json",
                    headers={"etag": f'"{opened.head_id}"'})  # fmt: skip


@router.put("/vehicles/{vehicle_id}/project", name="api.project.put")
async def put_project(
    request: Request, services: ServicesDep, vehicle_id: VehicleId,
    if_match: Annotated[str, Header(max_length=40)] = "",
    base: Annotated[int, Query(ge=0, lt=2**31)] = 0,
) -> Response:  # fmt: skip
    """Put a project file in the place of the revision named by If-Match or base."""
    data = await request.body()
    named = whole_number(if_match.strip().strip('"'))
    seen = base if named < 0 else named

    def keep() -> Response:
        if not seen:
            return _problem(428, "base_missing", "Name the revision it was made from: If-Match.")
        try:
            given = read_project(data[: MAX_BYTES + 1])
            opened = services.vehicles.replace(vehicle_id, seen, given, "Put by a program")
        except FileRefused as error:
            return _problem(422, error.code, error.message)
        except Moved:
            return _problem(409, "newer_elsewhere", "It was changed since: read it again, and put "
                            "yours into that.")  # fmt: skip
        return ApiAnswer({"id": vehicle_id, "revision": opened.head_id})

    return await run_in_threadpool(keep)


@router.get("/vehicles/{vehicle_id}/{variant_id}/simulate", name="api.simulate")
def simulate(
    request: Request, services: ServicesDep, vehicle_id: VehicleId, variant_id: VariantId
) -> Response:
    """Give the day of a variant, as `simulate --json` prints it."""
    whole, variant, _ = _found(services, vehicle_id, variant_id)
    result = services.computing.result(whole, variant)
    if isinstance(result, CoreError):
        return _cannot(result, request)
    last = services.computing.last_day(whole, variant, result)
    return ApiAnswer(report(result, last, name=whole.name, variant=variant.id,
                            units=units_of(request)))  # fmt: skip


@router.get("/vehicles/{vehicle_id}/{variant_id}/check", name="api.check")
def check(
    request: Request, services: ServicesDep, vehicle_id: VehicleId, variant_id: VariantId
) -> Response:
    """Give what the checks find, as `check --json` prints it."""
    whole, variant, _ = _found(services, vehicle_id, variant_id)
    if not variant.built.system.parts:
        return _problem(422, "no_parts", "Nothing to check: this variant has no parts yet.")
    result = check_variant(whole, variant, date.today().isoformat())
    labels, units = titles(whole, variant, result.found), units_of(request)
    names = {state.id: state.name for state in variant.system.states}
    return ApiAnswer(check_object(
        result.found, result.acknowledged, result.rules.name,
        lambda one: check_sentence(one, units, names.get(one.state or "", ""), labels, every=True),
        lambda one: check_remedy(one, units),
    ))  # fmt: skip


@router.get("/vehicles/{vehicle_id}/{variant_id}/parts", name="api.parts")
def parts(
    request: Request, services: ServicesDep, vehicle_id: VehicleId, variant_id: VariantId
) -> Response:
    """Give what is to be bought, as `parts --json` prints it."""
    whole, variant, _ = _found(services, vehicle_id, variant_id)
    made = shopping(whole, variant)
    remarks = [remark_sentence(one, one.about[0], units_of(request))
               for one in made.listed.remarks]  # fmt: skip
    return ApiAnswer(parts_object(made, dict(LINE_WHY), remarks))


@router.get("/vehicles/{vehicle_id}/{variant_id}/plan", name="api.plan")
def plan(
    request: Request, services: ServicesDep, vehicle_id: VehicleId, variant_id: VariantId
) -> Response:
    """Give the plan of building, as `plan --json` prints it."""
    whole, variant, _ = _found(services, vehicle_id, variant_id)
    try:
        made = planned(whole, variant, players=services.fault_finding.player)
    except PlanCircle as error:
        return _cannot(error, request)
    state = variant.standing
    return ApiAnswer(plan_object(
        made, vehicle=whole.name, variant=variant.id, state=None if state is None else state.id,
        phase=None, names=labels_of(variant.system),
    ))  # fmt: skip


@router.post("/vehicles/{vehicle_id}/{variant_id}/readings", name="api.readings")
async def readings(
    request: Request, services: ServicesDep, vehicle_id: VehicleId, variant_id: VariantId
) -> Response:
    """Keep readings of a table in our own columns, all of them or none."""
    data = await request.body()

    def keep() -> Response:
        _, variant, _ = _found(services, vehicle_id, variant_id)
        known = {part.id for part in variant.system.parts}
        by = visitor().name or "a program"
        try:
            last = deque(
                services.importing.read_own(
                    vehicle_id, variant_id, "by a program", data, known, by=by
                ),
                maxlen=1,
            )[0]
        except ReadingsUnreadable as error:
            return _problem(422, "unreadable", error.why)
        if last.bad or last.kept is None:
            rows = [{"line": one.number, "why": one.why} for one in last.bad[:50]]
            problem = {"code": "bad_rows", "message": "Nothing was kept: mend these lines."}
            return ApiAnswer({"error": {**problem, "rows": rows}}, status_code=422)
        return ApiAnswer({"kept": last.kept, "read": last.read}, status_code=201)

    return await run_in_threadpool(keep)


@router.post("/vehicles/{vehicle_id}/{variant_id}/dossier", name="api.dossier")
def dossier(
    request: Request, services: ServicesDep, vehicle_id: VehicleId, variant_id: VariantId,
    again: Annotated[bool, Query()] = False,
) -> Response:  # fmt: skip
    """Give the dossier as PDF; while it is written, 202 with the job that does."""
    _, _, head = _found(services, vehicle_id, variant_id)
    asked = {"chapters": SETS["whole"], "paper": "a4", "revision": head, "terms": {}}
    asker = Asker(_person(), f"{vehicle_id}/{variant_id}", head, again)
    made = services.dossiers.ask(vehicle_id, variant_id, asked, units_of(request).value, asker)
    if isinstance(made, UnderWay):
        return ApiAnswer(_job(made), status_code=202,
                         headers={"location": f"{ROOT}/jobs/{made.id}"})  # fmt: skip
    return Response(made, media_type="application/pdf")


@router.get("/jobs/{job_id}", name="api.job")
def job(services: ServicesDep, job_id: Annotated[int, Path(ge=1, lt=2**62)]) -> Response:
    """Say how far a job of one's own is: ask for its result again once it is done."""
    found = services.working.of(job_id, _person())
    if found is None:
        return _problem(404, "not_found", "There is no such job of yours.")
    return ApiAnswer(_job(found))


def _person() -> str:
    who = visitor()
    return "program" if who.account_id is None else f"program {who.account_id}"


def _job(work: UnderWay) -> dict[str, Any]:
    return {"job": work.id, "state": work.state, "done": work.done, "whole": work.whole,
            "before": work.before, "workers": work.workers, "error": work.error}  # fmt: skip
