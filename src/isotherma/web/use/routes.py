"""Using it: the page to look at, and the card that goes on counting by itself."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from hashlib import sha256
from importlib.resources import files
from typing import ClassVar

from fastapi import APIRouter
from fastapi.responses import Response
from markupsafe import Markup

from isotherma.web.frame.context import DESIGN, DesignDep
from isotherma.web.frame.responses import show
from isotherma.web.rendering import render
from isotherma.web.use.page import NowCard, now_card, read_now

router = APIRouter(prefix=DESIGN)


def _kept(name: str) -> str:
    return files("isotherma.web.use").joinpath(name).read_text(encoding="utf-8")


STYLE, SCRIPT = _kept("card.css"), _kept("card.js")


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
