"""A named route for every edit: its form is the command itself."""

from __future__ import annotations

from collections.abc import Awaitable, Callable

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData

from isotherma.core.errors import ChangeRefused
from isotherma.services.edit import Edit
from isotherma.services.edits import EDITS
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.frame.responses import after_change, known_page, known_piece, show
from isotherma.web.rendering import go_to
from isotherma.wording import error_words, validation_sentences

MOST_FIELDS = 12
router = APIRouter(prefix=DESIGN)


def _endpoint(kind: type[Edit]) -> Callable[..., Awaitable[Response]]:
    async def edit(request: Request, design: DesignDep) -> Response:
        form = await request.form(max_files=0, max_fields=MOST_FIELDS)
        return await run_in_threadpool(_do, design, kind, form)

    edit.__doc__ = kind.__doc__
    return edit


def _do(design: DesignRequest, kind: type[Edit], form: FormData) -> Response:
    variant_id = design.variant_id
    page = known_page(design.rooms, str(form.get("_page", "")))
    piece = known_piece(str(form.get("_piece", "")))
    values = {key: value for key, value in form.items() if not key.startswith("_")}
    try:
        edit = kind.model_validate(values)
        done = design.services.vehicles.do(design.vehicle_id, variant_id, edit)
    except (ChangeRefused, ValidationError) as error:
        words = (
            error_words(error, design.units) if isinstance(error, ChangeRefused)
            else "That was not done: " + " ".join(validation_sentences(error))
        )  # fmt: skip
        return show(design, page, status=422, notice=words, piece=piece)
    shown = edit.shows(done.after.project, variant_id)
    if shown != variant_id:
        return go_to(design.request, design.path(f"design.{page}", shown))
    to = str(form.get("_to", ""))
    if to:
        return go_to(design.request, design.path(f"design.{known_page(design.rooms, to)}"))
    if page in ("parts", "layout"):
        piece = edit.opens(done.before, done.after.project, variant_id, piece)
    return after_change(design, page, done.after, piece=piece)


for _name, _kind in EDITS.items():
    router.add_api_route(
        f"/{_name.replace('.', '/')}", _endpoint(_kind), methods=["POST"], name=f"design.{_name}"
    )
