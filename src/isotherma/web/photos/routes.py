"""Photographs: kept, shown, taken away; the page they were sent from is shown again."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, File, Form, HTTPException, Path, UploadFile
from fastapi.responses import Response
from starlette.datastructures import QueryParams

from isotherma.files.photo import MOST_BYTES, PhotoRefused
from isotherma.services.photos import MOST_AT_ONCE, about_session
from isotherma.web.build.page import build_page
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.log.page import NoteForm, log_page
from isotherma.web.rendering import go_to, render

router = APIRouter(prefix=DESIGN)
About = Annotated[str, Form(max_length=160)]
Number = Annotated[int, Path(ge=1, lt=2**63)]
Page = Annotated[Literal["build", "log"], Form(alias="_page")]


@router.post("/photos", name="design.photos.add")
def add(
    design: DesignDep, about: About, page: Page = "build",
    files: Annotated[list[UploadFile] | None, File()] = None,
    note: Annotated[str, Form(max_length=400)] = "", by: Annotated[str, Form(max_length=80)] = "",
) -> Response:  # fmt: skip
    """Keep photographs of a task or a session of the log."""
    sent = [one.file.read(MOST_BYTES + 1) for one in (files or [])[: MOST_AT_ONCE + 1]]
    try:
        design.services.photos.add(
            design.vehicle_id, design.variant_id, sent, note=" ".join(note.split()),
            about=about_session(about) if page == "log" else about, by=" ".join(by.split()),
        )  # fmt: skip
    except PhotoRefused as error:
        return _refused(design, page, about, error.why)
    return _back(design, page, about)


@router.get("/photos/{number}", name="design.photos.show")
def show_one(design: DesignDep, number: Number) -> Response:
    """Give one photograph."""
    found = design.services.photos.body(design.vehicle_id, design.variant_id, number)
    if found is None:
        raise HTTPException(404)
    # its number never means another picture; only this browser keeps it
    head = {"cache-control": "private, max-age=86400, immutable"}
    return Response(found.body, media_type=found.media_type, headers=head)


@router.post("/photos/{number}/forget", name="design.photos.forget")
def forget(design: DesignDep, number: Number, about: About = "", page: Page = "build") -> Response:
    """Take a photograph away."""
    design.services.photos.forget(design.vehicle_id, design.variant_id, number)
    return _back(design, page, about)


def _back(design: DesignRequest, page: str, about: str) -> Response:
    """Go back to where it was sent from, at the pictures."""
    named = quote(about, safe="")
    asked = f"?view=sessions&session={named}" if page == "log" else f"?task={named}"
    return go_to(design.request, design.path(f"design.{page}") + asked + "#photos")


def _refused(design: DesignRequest, page: str, about: str, why: str) -> Response:
    """Say why not, on the page it was sent from."""
    if page == "log":
        context = replace(design.context(), query=QueryParams({"session": about}))
        shown = log_page(context, NoteForm(error=why), view="sessions")
        return render(design.request, shown, 422)
    context = replace(design.context(), query=QueryParams({"task": about}))
    return render(design.request, build_page(context, why), 422)
