"""A named route for every edit: its form is the command itself."""

from __future__ import annotations

from collections.abc import Awaitable, Callable

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData

from isotherma.core.errors import ChangeRefused
from isotherma.services.edits import EDITS, Edit
from isotherma.web.context import Have
from isotherma.web.rendering import go_to, units_of
from isotherma.web.routes.answers import after_change, known_page, known_piece, show
from isotherma.wording import error_words, validation_sentences

MOST_FIELDS = 12
router = APIRouter(prefix="/vehicles/{vehicle_id}/{variant_id}")


def _endpoint(kind: type[Edit]) -> Callable[..., Awaitable[Response]]:
    async def edit(request: Request, have: Have, vehicle_id: int, variant_id: str) -> Response:
        form = await request.form(max_files=0, max_fields=MOST_FIELDS)
        return await run_in_threadpool(_do, request, have, (vehicle_id, variant_id), kind, form)

    edit.__doc__ = kind.__doc__
    return edit


def _do(
    request: Request, have: Have, where: tuple[int, str], kind: type[Edit], form: FormData
) -> Response:
    vehicle_id, variant_id = where
    page = known_page(str(form.get("_page", "")))
    piece = known_piece(str(form.get("_piece", "")))
    values = {key: value for key, value in form.items() if not key.startswith("_")}
    try:
        edit = kind.model_validate(values)
        done = have.vehicles.do(vehicle_id, variant_id, edit)
    except (ChangeRefused, ValidationError) as error:
        opened = have.vehicles.open(vehicle_id)
        words = (
            error_words(error, units_of(request)) if isinstance(error, ChangeRefused)
            else "That was not done: " + " ".join(validation_sentences(error))
        )  # fmt: skip
        return show(request, have, opened, variant_id, page, status=422, notice=words, piece=piece)
    shown = edit.shows(done.after.project, variant_id)
    if shown != variant_id:
        path = request.url_for(f"design.{page}", vehicle_id=str(vehicle_id), variant_id=shown).path
        return go_to(request, path)
    if page in ("parts", "layout"):
        piece = edit.opens(done.before, done.after.project, variant_id, piece)
    return after_change(request, have, done.after, variant_id, page, piece=piece)


for _name, _kind in EDITS.items():
    router.add_api_route(
        f"/{_name.replace('.', '/')}", _endpoint(_kind), methods=["POST"], name=f"design.{_name}"
    )
