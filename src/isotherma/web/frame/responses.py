"""What a design answers with: one of its pages, whole or in part."""

from __future__ import annotations

import re

from fastapi.responses import Response

from isotherma.services.vehicles import Opened
from isotherma.web.frame.context import DesignRequest, Room
from isotherma.web.frame.forms import Typed
from isotherma.web.rendering import go_to, is_htmx, render

VIEWS = frozenset({"list", "runs"})  # views of the parts page that stand in for a piece


def show(
    design: DesignRequest, page: str, opened: Opened | None = None, *, typed: Typed | None = None,
    status: int = 200, notice: str = "", piece: str = "",
) -> Response:  # fmt: skip
    """Show one of the design's pages as it stands."""
    room = next(room for room in design.rooms if room.key == page)
    context = design.context(opened, typed=typed, notice=notice, piece=piece)
    return render(design.request, room.make(context), status)


def known_page(rooms: tuple[Room, ...], page: str) -> str:
    """Keep the name of a page a form came from to those there are."""
    return page if page in {room.key for room in rooms} else rooms[0].key


def known_piece(piece: str) -> str:
    """Keep the key of the opened piece to what a key can be."""
    return piece if piece in VIEWS or re.fullmatch(r"(part|run)-[a-z0-9-]{1,40}", piece) else ""


def after_change(
    design: DesignRequest, page: str, opened: Opened, *, notice: str = "", piece: str = ""
) -> Response:
    """Answer a change: the new page for htmx, a redirect for a plain form."""
    if is_htmx(design.request):
        return show(design, page, opened, notice=notice, piece=piece)
    path = design.path(f"design.{page}")
    if page in ("parts", "layout") and piece:
        path += f"?view={piece}" if piece in VIEWS else f"?piece={piece}#piece"
    return go_to(design.request, path)
