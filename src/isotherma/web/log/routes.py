"""The log: readings are noted, imported, forgotten; learned figures are taken by an edit."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Form
from fastapi.responses import Response

from isotherma.core.errors import NotInTable, QuantityError
from isotherma.core.faults.typed import read_reading
from isotherma.core.learning.rows import Row
from isotherma.core.quantity import parse
from isotherma.files.readings_csv import SESSION_KINDS
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.log.page import NoteForm, log_page
from isotherma.web.rendering import go_to, is_htmx, render
from isotherma.wording import error_words

router = APIRouter(prefix=DESIGN)
Words = Annotated[str, Form(max_length=400)]
Name = Annotated[str, Form(max_length=80)]


@router.get("/log", name="design.log")
def log(design: DesignDep) -> Response:
    """Show the log in one of its views."""
    return render(design.request, log_page(design.context()))


@router.post("/log/note", name="design.log.note")
def note(
    design: DesignDep, quantity: Name, session: Name = "", kind: Name = "flow", value: Name = "",
    time: Name = "", from_c: Name = "", to_c: Name = "", method: Name = "", note: Words = "",
    by: Name = "", sent: Annotated[str, Form(max_length=60)] = "",
) -> Response:  # fmt: skip
    """Keep one reading; with `sent`, what arrives twice is kept once."""
    form = NoteForm(session, kind, quantity, value, time, from_c, to_c, method, note, by)
    context = design.context()
    figures = ":".join([value, *(one for one in (from_c, to_c) if one.strip())])
    try:
        read = read_reading(f"{quantity}={figures}", context.variant.system, context.units)
        time_s = parse(time, "minutes") if time.strip() else 0.0
    except (NotInTable, QuantityError) as error:
        return _refused(design, form, error_words(error, context.units))
    if read.value < 0.0 and read.kind not in ("temp", "air"):
        return _refused(design, form, "No such figure is below nothing.")
    if kind not in SESSION_KINDS:
        return _refused(design, form, "There is no such kind of session.")
    named = " ".join(session.split()) or "first"
    row = Row(0, named, kind, max(0.0, time_s), read, " ".join(method.split()),
              " ".join(note.split()))  # fmt: skip
    design.services.logbook.note(
        design.vehicle_id, design.variant_id, [row], person=" ".join(by.split()),
        sent=[sent or None],
    )  # fmt: skip
    if is_htmx(design.request):
        kept = NoteForm(named, kind, quantity, method=method, by=by)
        return render(design.request, log_page(design.context(), kept, view="note"))
    return go_to(design.request, design.path("design.log"))


@router.post("/log/forget", name="design.log.forget")
def forget(
    design: DesignDep, session: Name = "", number: Annotated[int, Form(ge=0)] = 0
) -> Response:
    """Forget a session, or one reading by its number."""
    if number:
        design.services.logbook.forget(design.vehicle_id, design.variant_id, number)
    elif session:
        design.services.logbook.forget_session(design.vehicle_id, design.variant_id, session)
    if is_htmx(design.request):
        return render(design.request, log_page(design.context(), view="sessions"))
    return go_to(design.request, design.path("design.log") + "?view=sessions")


def _refused(design: DesignRequest, form: NoteForm, words: str) -> Response:
    """Say what is wrong, with what was typed."""
    page = log_page(design.context(), replace(form, error=words), view="note")
    return render(design.request, page, 422)
