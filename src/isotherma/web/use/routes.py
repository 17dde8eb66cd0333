"""Using it: the page to look at, and the card that goes on counting by itself."""

from __future__ import annotations

import base64
from dataclasses import dataclass, replace
from hashlib import sha256
from importlib.resources import files
from typing import Annotated, ClassVar

from fastapi import APIRouter, Form
from fastapi.responses import Response
from markupsafe import Markup

from isotherma.files.calendar import EXTENSION
from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show
from isotherma.web.rendering import attached, file_name, render
from isotherma.web.use.cards import cards_page
from isotherma.web.use.diary import DiaryForm, diary_file
from isotherma.web.use.page import use_page
from isotherma.web.use.views import NowCard, now_card, read_now

router = APIRouter(prefix=DESIGN)


def _kept(name: str) -> str:
    return files("isotherma.web.use").joinpath(name).read_text(encoding="utf-8")


STYLE, SCRIPT, CARDS = _kept("card.css"), _kept("card.js"), _kept("cards.css")
Typed = Annotated[str, Form(max_length=60)]


def _hash(text: str) -> str:
    return base64.b64encode(sha256(text.encode()).digest()).decode()


# the card is one file: it may be kept on a phone and counts with the server gone
POLICY = (
    f"default-src 'none'; style-src 'sha256-{_hash(STYLE)}'; script-src 'sha256-{_hash(SCRIPT)}'; "
    "base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)


@dataclass(frozen=True, slots=True)
class CardPage:
    """A card that stands alone: style and script are in it."""

    template: ClassVar[str] = "card.html"
    title: str
    card: NowCard | None
    error: str
    style: Markup
    script: Markup


@router.get("/use", name="design.use")
def use(design: DesignDep) -> Response:
    """Show the page in one of its views."""
    return show(design, "use")


@router.get("/use/card", name="design.use.card")
def card(design: DesignDep) -> Response:
    """Give the card for one warm shower as a page of its own, with all it needs in it."""
    context = design.context()
    form = read_now(context)
    answer = None if form.error else now_card(context, form)
    error = form.error or (answer.error if answer is not None else "")
    page = CardPage(context.project.name, answer, error, Markup(STYLE), Markup(SCRIPT))
    response = render(design.request, page, 422 if error else 200)
    response.headers["content-security-policy"] = POLICY
    return response


@router.get("/use/cards", name="design.use.cards")
def cards(design: DesignDep) -> Response:
    """Give cards to print as a page of its own, cut for its paper."""
    page = cards_page(design.context(), CARDS)
    response = render(design.request, page)
    response.headers["content-security-policy"] = (
        f"default-src 'none'; style-src 'sha256-{_hash(str(page.style))}'; base-uri 'none'; "
        "form-action 'none'; frame-ancestors 'none'"
    )
    return response


@router.post("/use/calendar", name="design.use.calendar")
def calendar(design: DesignDep, begin: Typed = "", zone: Typed = "") -> Response:
    """Give the calendar of using it; the zone is kept with the vehicle."""
    context = design.context()
    form = DiaryForm(begin.strip(), zone.strip())
    try:
        body, named = diary_file(context, form)
    except ValueError as error:
        page = use_page(context, replace(form, error=str(error)))
        return render(design.request, page, 422)
    design.services.archives.set_zone(design.vehicle_id, named)
    name = f"{file_name(context.project.name)}-using{EXTENSION}"
    return attached(body, "text/calendar", name)
