"""What a design answers with: one of its pages, whole or in part."""

from __future__ import annotations

import re
from typing import Any
from urllib.parse import urlsplit

from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import QueryParams

from isotherma.services.vehicles import Opened
from isotherma.web.context import Have
from isotherma.web.pages import design as pages
from isotherma.web.pages.flow import FlowAsked, flow_page
from isotherma.web.pages.forms import Typed
from isotherma.web.pages.layout import layout_page
from isotherma.web.pages.parts import Asked, parts_page
from isotherma.web.pages.standing import spaces_page
from isotherma.web.pages.words import PAGES
from isotherma.web.rendering import go_to, is_htmx, render, units_of

VIEWS = frozenset({"list", "runs"})  # views of the parts page that stand in for a piece


def show(
    request: Request,
    have: Have,
    opened: Opened,
    variant_id: str,
    page: str,
    typed: Typed | None = None,
    status: int = 200,
    notice: str = "",
    piece: str = "",
) -> Response:
    """Show one of the design's pages as it stands."""
    units = units_of(request)
    made: Any
    if page == "brief":
        made = pages.brief_page(opened, variant_id, units, have.computing, typed, notice)
    elif page == "parts":
        asked = Asked(view=piece) if piece in VIEWS else Asked(piece=piece)
        made = parts_page(opened, variant_id, units, have.computing, typed, notice, asked)
    elif page == "spaces":
        made = spaces_page(opened, variant_id, units, have.computing, typed, notice)
    elif page == "layout":
        made = layout_page(
            opened, variant_id, units, have.computing, have.flowing,
            flow_asked(query_of(request)), piece=piece, typed=typed, notice=notice,
        )  # fmt: skip
    elif page == "flow":
        asked_flow = flow_asked(query_of(request))
        made = flow_page(
            opened, variant_id, units, have.computing, have.flowing, asked_flow, notice
        )
    else:
        made = pages.shower_page(
            opened, variant_id, units, have.computing, notice=notice, typed=typed,
            comparing=have.comparing,
        )  # fmt: skip
    return render(request, made, status)


def known_page(page: str) -> str:
    """Keep the name of a page a form came from to those there are."""
    return page if page in {key for key, _, _ in PAGES} else "brief"


def known_piece(piece: str) -> str:
    """Keep the key of the opened piece to what a key can be."""
    return piece if piece in VIEWS or re.fullmatch(r"(part|run)-[a-z0-9-]{1,40}", piece) else ""


def after_change(
    request: Request,
    have: Have,
    opened: Opened,
    variant_id: str,
    page: str,
    notice: str = "",
    piece: str = "",
) -> Response:
    """Answer a change: the new page for htmx, a redirect for a plain form."""
    if is_htmx(request):
        return show(request, have, opened, variant_id, page, notice=notice, piece=piece)
    path = request.url_for(
        f"design.{page}", vehicle_id=str(opened.vehicle_id), variant_id=variant_id
    ).path
    if page in ("parts", "layout") and piece:
        path += f"?view={piece}" if piece in VIEWS else f"?piece={piece}#piece"
    return go_to(request, path)


def query_of(request: Request) -> QueryParams:
    """Give what the address asks for; after a change, what the page it came from showed."""
    if request.method == "GET":
        return request.query_params
    try:
        query = urlsplit(request.headers.get("hx-current-url", "")).query
    except ValueError:  # no address at all: as if nothing had been asked for
        query = ""
    return QueryParams(query)


def flow_asked(query: QueryParams) -> FlowAsked:
    """Read the address of the flow page; texts are cut to what a field takes."""
    text = {key: value[:60] for key, value in query.multi_items()}
    opens = {key[2:]: value for key, value in text.items() if key.startswith("o.") and key[2:]}
    chosen = any(key.startswith("o.") for key in text)
    return FlowAsked(
        view=text.get("view", "flow"),
        state=text.get("state", ""),
        opens=opens if chosen else None,
        way=text.get("way", ""),
        dirty=text.get("dirty", "") == "1",
        every=text.get("every", ""),
        cooled=text.get("cooled", ""),
        pitch=text.get("pitch", ""),
        roll=text.get("roll", ""),
    )
