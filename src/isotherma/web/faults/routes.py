"""Faults: symptoms, readings and tests are noted, changes put back, cases ended."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, Literal

from fastapi import APIRouter, Form
from fastapi.responses import Response

from isotherma.core.errors import NotInTable, QuantityError
from isotherma.core.faults.typed import read_reading, read_tried
from isotherma.services import fault_cases
from isotherma.services.diagnosing import fault_table
from isotherma.services.fault_cases import CaseDocument
from isotherma.web.faults.page import FaultsPage, ReadingForm, faults_page
from isotherma.web.faults.practice import practice_page
from isotherma.web.frame.context import DESIGN, DesignDep, DesignRequest
from isotherma.web.rendering import go_to, is_htmx, render
from isotherma.wording import error_words, title_of_test

router = APIRouter(prefix=DESIGN)
Words = Annotated[str, Form(max_length=200)]
Key = Annotated[str, Form(max_length=60, pattern=r"^[a-z0-9_.@-]*$")]


@router.get("/faults", name="design.faults")
def faults(design: DesignDep) -> Response:
    """Show the case that is open, or begin one."""
    return render(design.request, faults_page(design.context()))


@router.get("/faults/suspects", name="design.faults.suspects")
def suspects(design: DesignDep) -> Response:
    """Play the faults of the design and show the page with its suspects."""
    return render(design.request, faults_page(design.context(), now=True))


@router.get("/faults/practice", name="design.faults.practice")
def practice(design: DesignDep) -> Response:
    """Look for a fault that is hidden in the design; `seed` says which."""
    return render(design.request, practice_page(design.context()))


@router.post("/faults/symptom", name="design.faults.symptom")
def symptom(
    design: DesignDep, key: Key, says: Annotated[Literal["seen", "denied", "nothing"], Form()]
) -> Response:
    """Note that a symptom is seen or not so, or take that back."""
    if key not in fault_table().symptoms:
        return _refused(design, ReadingForm(error="There is no such symptom any more."))
    return _after(design, lambda case: fault_cases.say(case, key, says))


@router.post("/faults/reading", name="design.faults.reading")
def reading(
    design: DesignDep, quantity: Key, value: Words = "", from_c: Words = "", to_c: Words = ""
) -> Response:
    """Note a figure that was read."""
    figures = ":".join([value, *(one for one in (from_c, to_c) if one.strip())])
    typed = ReadingForm(quantity, value, from_c, to_c)
    context = design.context()
    try:
        read = read_reading(f"{quantity}={figures}", context.variant.built.system, context.units)
    except (NotInTable, QuantityError) as error:
        return _refused(design, replace(typed, error=error_words(error, context.units)))
    if read.value < 0.0 and read.kind not in ("temp", "air"):
        return _refused(design, replace(typed, error="No such figure is below nothing."))
    return _after(design, lambda case: fault_cases.read(case, read))


@router.post("/faults/test", name="design.faults.test")
def test_done(
    design: DesignDep, test: Key, outcome: Words = "", part: Key = "", found: Words = "",
    left: Words = "",
) -> Response:  # fmt: skip
    """Note what came of a test; one that must be put back opens a change."""
    system = design.context().variant.built.system
    try:
        told = read_tried(f"{test}{'@' if part else ''}{part}={outcome}", fault_table(), system)
    except (NotInTable, QuantityError) as error:
        return _refused(design, ReadingForm(error=error_words(error, design.context().units)))
    row = fault_table().tests[test]
    names = {one.id: one.label for one in (*system.parts, *system.runs)}
    words = title_of_test(row, part or None, names)
    return _after(design, lambda case: fault_cases.tried(
        case, told, words=words[:200], undo=row.undo, found=_tidy(found), left=_tidy(left)
    ))  # fmt: skip


@router.post("/faults/unsay", name="design.faults.unsay")
def unsay(
    design: DesignDep, what: Annotated[Literal["reading", "test"], Form()],
    number: Annotated[int, Form(ge=0, le=100)],
) -> Response:  # fmt: skip
    """Take back a reading or a test."""
    return _after(design, lambda case: fault_cases.unsay(case, what, number))


@router.post("/faults/change", name="design.faults.change")
def change(
    design: DesignDep, number: Annotated[int, Form(ge=0, le=100)],
    act: Annotated[Literal["back", "keep"], Form()], because: Words = "",
) -> Response:  # fmt: skip
    """Note that a change was put back, or is kept for a reason."""
    if act == "keep" and not because.strip():
        return _refused(design, ReadingForm(error="Say why it stays changed, or put it back."))
    return _after(design, lambda case: fault_cases.settle(
        case, number, back=act == "back", because=_tidy(because)
    ))  # fmt: skip


@router.post("/faults/end", name="design.faults.end")
def end(design: DesignDep, outcome: Words = "", note: Words = "") -> Response:
    """End the case with what it was."""
    said = ": ".join(one for one in (_tidy(outcome), _tidy(note)) if one) or "ended"
    case = design.services.fault_cases.case(design.vehicle_id, design.variant_id)
    if case.open_change is not None:
        words = "Something still stands changed: put it back, or say why it is kept."
        return _refused(design, ReadingForm(error=words))
    design.services.fault_cases.end(design.vehicle_id, design.variant_id, said[:400])
    return _shown(design)


def _tidy(words: str) -> str:
    return " ".join(words.split())


def _after(design: DesignRequest, edit: Callable[[CaseDocument], None]) -> Response:
    design.services.fault_cases.change(design.vehicle_id, design.variant_id, edit)
    return _shown(design)


def _shown(design: DesignRequest) -> Response:
    if is_htmx(design.request):
        return render(design.request, faults_page(design.context()))
    return go_to(design.request, design.path("design.faults") + "?now=1")


def _refused(design: DesignRequest, form: ReadingForm) -> Response:
    """Say what is wrong, with what was typed."""
    page: FaultsPage = faults_page(design.context(), form, now=True)
    return render(design.request, page, 422)
