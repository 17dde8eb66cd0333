"""Home: list, start, import, export, delete, restore; units and light."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import IO, Annotated, Final

from fastapi import APIRouter, File, Form, Query, Request, UploadFile
from fastapi.responses import Response, StreamingResponse
from pydantic import ValidationError

from isotherma.files.archive import EXTENSION as ARCHIVE_EXTENSION
from isotherma.files.archive import is_archive
from isotherma.files.project_file import EXTENSION, MAX_BYTES, FileRefused, write_project
from isotherma.services.turns import Stopped
from isotherma.services.vehicles import NewerElsewhere
from isotherma.services.whole_vehicles import (
    copy_vehicle,
    import_vehicle,
    rename_vehicle,
)
from isotherma.web.cancellation import while_waited_for
from isotherma.web.frame.context import DesignDep, ServicesDep
from isotherma.web.home.page import home_page, variant_page
from isotherma.web.rendering import attached, file_name, go_to, path_for, render, units_of
from isotherma.wording import problem_words

router = APIRouter()
PIECE_BYTES: Final = 65_536


def _show(
    request: Request,
    services: ServicesDep,
    status: int = 200,
    *,
    notice: str = "",
    error: str = "",
    error_for: str = "",
    typed_name: str = "",
    undo_delete: int | None = None,
    search: str = "",
    number: int = 1,
) -> Response:
    page = home_page(
        services.vehicles.listing(search, number),
        units_of(request),
        services.computing,
        notice=notice,
        error=error,
        error_for=error_for,
        typed_name=typed_name,
        undo_delete=undo_delete,
    )
    return render(request, page, status)


@router.get("/", name="home.show")
def show(
    request: Request,
    services: ServicesDep,
    deleted: Annotated[int | None, Query()] = None,
    q: Annotated[str, Query(max_length=80)] = "",
    page: Annotated[int, Query(ge=1, le=100_000)] = 1,
) -> Response:
    """List the vehicles, a page of those whose name fits; after a deletion, offer it back."""
    notice = "The vehicle was deleted." if deleted is not None else ""
    search = "".join(letter for letter in q if letter.isprintable()).strip()
    known: list[bool] = []

    def make() -> Response:
        found = home_page(
            services.vehicles.listing(search, page), units_of(request), services.computing,
            notice=notice, undo_delete=deleted,
        )  # fmt: skip
        known.append(all(row.verdict for vehicle in found.vehicles for row in vehicle.variants))
        return render(request, found)

    # a row that is not known yet fills itself in, and the list is made again until all are
    return services.unchanged.answer_of(
        request, lambda: services.vehicles.marks(search, page), make, lambda: known[-1]
    )


@router.get("/vehicles/{vehicle_id}/{variant_id}/verdict", name="home.variant")
def variant(design: DesignDep) -> Response:
    """What one variant of the list does; loaded by itself when it comes into sight."""
    return render(design.request, variant_page(design.context()))


@router.post("/vehicles/import", name="vehicle.import")
async def import_file(
    request: Request, services: ServicesDep, file: Annotated[UploadFile | None, File()] = None
) -> Response:
    """Keep an uploaded project file as a new vehicle, or say why not."""
    start = await file.read(4) if file is not None else b""

    def make(stopped: Stopped) -> Response:
        if file is None or not start:
            return _show(
                request, services, 422, error="Choose a project file first.", error_for="file"
            )
        try:
            if is_archive(start):
                project = services.archives.take(file.file, stopped)
            else:
                data = start + file.file.read(MAX_BYTES)
                project = import_vehicle(services.vehicles, data, stopped)
        except FileRefused as error:
            return _show(request, services, 422, error=error.message, error_for="file")
        return _show(request, services, notice=f"“{project.name}” was imported.")

    return await while_waited_for(request, make)


@router.get("/vehicles/{vehicle_id}/export", name="vehicle.export")
def export(
    services: ServicesDep, vehicle_id: int, revision: Annotated[int, Query(ge=0)] = 0
) -> Response:
    """Give a vehicle as a project file, as it is now or as it was at a kept state."""
    project = (services.vehicles.at(vehicle_id, revision) if revision
               else services.vehicles.open(vehicle_id).project)  # fmt: skip
    name = file_name(project.name) + (f"-{revision}" if revision else "")
    return attached(write_project(project), "application/json", f"{name}{EXTENSION}")


@router.get("/vehicles/{vehicle_id}/archive", name="vehicle.archive")
def archive(request: Request, services: ServicesDep, vehicle_id: int) -> Response:
    """Give the vehicle with its log, plan, cases and photographs as one file."""
    opened = services.vehicles.open(vehicle_id)
    try:
        out = services.archives.write(vehicle_id)
    except FileRefused as error:
        return _show(request, services, 422, error=error.message, error_for="file")
    name = file_name(opened.project.name) + ARCHIVE_EXTENSION
    head = {"content-disposition": f'attachment; filename="{name}"'}
    return StreamingResponse(_pieces(out), media_type="application/zip", headers=head)


def _pieces(source: IO[bytes]) -> Iterator[bytes]:
    """Give a file in pieces, and end it."""
    with source:
        while piece := source.read(PIECE_BYTES):
            yield piece


@router.post("/vehicles/{vehicle_id}/delete", name="vehicle.delete")
def delete(request: Request, services: ServicesDep, vehicle_id: int) -> Response:
    """Hide the vehicle; home offers to bring it back."""
    services.vehicles.delete(vehicle_id)
    return go_to(request, f"{path_for(request, 'home.show')}?deleted={vehicle_id}")


@router.post("/vehicles/{vehicle_id}/restore", name="vehicle.restore")
def restore(request: Request, services: ServicesDep, vehicle_id: int) -> Response:
    """Bring a deleted vehicle back."""
    services.vehicles.restore(vehicle_id)
    return go_to(request, path_for(request, "home.show"))


@router.post("/vehicles/{vehicle_id}/rename", name="vehicle.rename")
def rename(
    request: Request, services: ServicesDep, vehicle_id: int, name: Annotated[str, Form()] = "",
    base: Annotated[int, Form(alias="_base")] = 0,
) -> Response:  # fmt: skip
    """Give the vehicle another name, or show home again with what is wrong with it."""
    try:
        rename_vehicle(services.vehicles, vehicle_id, base, name)
    except NewerElsewhere as error:
        return _show(
            request, services, 409, error_for=f"rename-{vehicle_id}", typed_name=name,
            error=f"Another window has meanwhile named it “{error.conflicts['name']}”. Rename it "
            "again to put yours in its place.",
        )  # fmt: skip
    except ValidationError as error:
        words = problem_words(error.errors()[0], None, units_of(request))
        return _show(
            request,
            services,
            422,
            error=f"The name {words}.",
            error_for=f"rename-{vehicle_id}",
            typed_name=name,
        )
    return go_to(request, path_for(request, "home.show"))


@router.post("/vehicles/{vehicle_id}/duplicate", name="vehicle.duplicate")
def duplicate(request: Request, services: ServicesDep, vehicle_id: int) -> Response:
    """Copy a whole vehicle."""
    copy_vehicle(services.vehicles, vehicle_id)
    return go_to(request, path_for(request, "home.show"))


def _local_path(path: str) -> str:
    """Keep a return path on this server."""
    return path if re.fullmatch(r"/(?!/)[^\\\s]*", path) else "/"


@router.post("/settings", name="settings.save")
def settings(
    request: Request,
    units: Annotated[str, Form()] = "",
    scheme: Annotated[str, Form()] = "",
    back: Annotated[str, Form()] = "/",
) -> Response:
    """Keep the person's units or light in a cookie."""
    answer = go_to(request, _local_path(back))
    year = 365 * 86400
    if units in {"metric", "us"}:
        answer.set_cookie("units", units, max_age=year, httponly=True, samesite="lax")
    if scheme in {"auto", "light", "dark"}:
        answer.set_cookie("scheme", scheme, max_age=year, httponly=True, samesite="lax")
    return answer


@router.get("/alive", name="alive")
def alive(services: ServicesDep) -> Response:
    """Answer when the database answers; for scripts and tests."""
    services.vehicles.ping()
    return Response("alive", media_type="text/plain")
