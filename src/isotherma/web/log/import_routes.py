"""Files of readings: ours at once, a logger's after somebody said what its columns hold."""

from __future__ import annotations

import json
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import chain
from typing import Annotated, Final
from urllib.parse import urlencode

from fastapi import APIRouter, File, Form, Header, Path, UploadFile
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response, StreamingResponse
from starlette.datastructures import QueryParams

from isotherma.files.readings_csv import (
    SESSION_KINDS,
    BadRow,
    ReadingsUnreadable,
    is_readings,
)
from isotherma.services.importing import MOST_BYTES, MOST_FILES, Step, text_of
from isotherma.services.vehicles import NotFound
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.log.columns import VIEW, ColumnsForm, columns_part, meant
from isotherma.web.log.page import NoteForm, log_page
from isotherma.web.rendering import attached, go_to, render

router = APIRouter(prefix=DESIGN)
BAD_SHOWN: Final = 20
STREAMED: Final = "application/x-ndjson"
Accept = Annotated[str, Header(alias="accept")]
Number = Annotated[int, Path(ge=1, le=2**62)]


@router.post("/log/import", name="design.log.import")
def take_file(
    design: DesignDep, file: Annotated[UploadFile | None, File()] = None,
    by: Annotated[str, Form(max_length=80)] = "", accept: Accept = "",
) -> Response:  # fmt: skip
    """Keep the readings of a file of ours; of any other, ask what its columns hold."""
    data = b"" if file is None else file.file.read(MOST_BYTES + 1)
    if not data:
        return _refused(design, "Choose a file of readings first.")
    if len(data) > MOST_BYTES:
        return _refused(design, f"A file of readings has at most {MOST_BYTES // 1_000_000} MB.")
    place = (design.vehicle_id, design.variant_id)
    name = (file.filename if file is not None else None) or "log.csv"
    importing = design.services.importing
    if len(importing.kept(*place)) >= MOST_FILES:
        return _refused(design, f"{MOST_FILES} files are kept whole; forget one of them first.")
    try:
        if not is_readings(text_of(data)):
            number = importing.hold(*place, name, data)
            return _went(design, accept, {"view": VIEW, "file": str(number)})
        steps = importing.read_own(*place, name, data, _parts(design), by=" ".join(by.split()))
        first = next(steps)
    except ReadingsUnreadable as error:
        return _refused(design, error.why)
    return _followed(design, accept, chain([first], steps), lambda bad: _bad(design, bad))


@router.post("/log/columns", name="design.log.columns")
async def take_columns(design: DesignDep, accept: Accept = "") -> Response:
    """Keep the readings of a file that is held, as its columns are said to mean."""
    async with design.request.form() as sent:
        form = ColumnsForm({key: value for key, value in sent.items() if isinstance(value, str)})
    return await run_in_threadpool(lambda: _columns(design, form, accept))


def _columns(design: DesignRequest, form: ColumnsForm, accept: str) -> Response:
    place = (design.vehicle_id, design.variant_id)
    importing = design.services.importing
    said = form.get("file", "0")
    number = int(said) if said.isdigit() and len(said) < 19 else 0
    table = importing.table(*place, number)
    if table is None:
        return _refused(design, "That file is not held any more; choose it again.")

    def again(error: str, bad: tuple[BadRow, ...] = ()) -> Response:
        context = design.context()
        part = columns_part(context, number, table, form, error=error, bad=bad[:BAD_SHOWN])
        page = replace(log_page(context, view=VIEW), columns=part)
        return render(design.request, page, 422)

    kind = form.get("kind", "draw")
    if kind not in SESSION_KINDS:
        return again("There is no such kind of session.")
    try:
        meaning = meant(form, table)
        steps = importing.read_logger(
            *place, number, table, meaning, session=form.get("session")[:80] or "logger", kind=kind,
            parts=_parts(design), by=form.get("by")[:80],
        )  # fmt: skip
        first = next(steps)
    except ReadingsUnreadable as error:
        return again(error.why)
    except ValueError as error:
        return again(str(error))
    if meaning.zone and not design.services.archives.zone(design.vehicle_id):
        design.services.archives.set_zone(design.vehicle_id, meaning.zone)
    return _followed(design, accept, chain([first], steps),
                     lambda bad: again("Nothing was kept: mend these lines.", bad))  # fmt: skip


@router.get("/log/files/{number}", name="design.log.file")
def whole_file(design: DesignDep, number: Number) -> Response:
    """Give a file back that was thinned."""
    found = design.services.importing.body(design.vehicle_id, design.variant_id, number)
    if found is None:
        raise NotFound
    name = "".join(sign if sign.isascii() and (sign.isalnum() or sign in "._-") else "-"
                   for sign in found[0])  # fmt: skip
    return attached(found[1], "text/csv", name)


@router.post("/log/files/{number}/forget", name="design.log.file.forget")
def forget_file(design: DesignDep, number: Number) -> Response:
    """Forget a file; what was read of it stays."""
    design.services.importing.forget(design.vehicle_id, design.variant_id, number)
    return go_to(design.request, design.path("design.log") + "?view=note")


def _parts(design: DesignRequest) -> set[str]:
    return {part.id for part in design.context().variant.system.parts}


Again = Callable[[tuple[BadRow, ...]], Response]


def _followed(
    design: DesignRequest, accept: str, steps: Iterator[Step], refused: Again
) -> Response:  # fmt: skip
    """Read to the end; told line by line how far it is where that is asked for."""
    if STREAMED in accept:
        return StreamingResponse(_told(design, steps), media_type=STREAMED)
    last = deque(steps, maxlen=1)[0]
    if last.bad or last.kept is None:
        return refused(last.bad)
    return _went(design, accept, _done(last))


def _told(design: DesignRequest, steps: Iterator[Step]) -> Iterator[str]:
    for one in steps:
        if one.kept is not None:
            yield json.dumps({"go": _address(design, _done(one))}) + "\n"
        elif one.bad:
            yield json.dumps({"refused": True}) + "\n"
        else:
            yield json.dumps({"done": one.done, "whole": one.whole}) + "\n"


def _done(step: Step) -> dict[str, str]:
    return {"view": "sessions", "kept": str(step.kept), "of": str(step.read)}


def _address(design: DesignRequest, asked: dict[str, str]) -> str:
    return f"{design.path('design.log')}?{urlencode(asked)}"


def _went(design: DesignRequest, accept: str, asked: dict[str, str]) -> Response:
    where = _address(design, asked)
    if STREAMED in accept:
        return Response(json.dumps({"go": where}) + "\n", media_type=STREAMED)
    return go_to(design.request, where)


def _bad(design: DesignRequest, bad: tuple[BadRow, ...]) -> Response:
    told = [f"Row {one.number}: {one.why}." for one in bad[:BAD_SHOWN]]
    told += [f"and {len(bad) - BAD_SHOWN} more rows."] if len(bad) > BAD_SHOWN else []
    form = NoteForm(error="Nothing was kept: mend these rows.")
    return render(design.request, log_page(design.context(), form, bad=told, view="note"), 422)


def _refused(design: DesignRequest, words: str) -> Response:
    """Say what is wrong of a file."""
    context = replace(design.context(), query=QueryParams({}))
    return render(design.request, log_page(context, NoteForm(error=words), view="note"), 422)
