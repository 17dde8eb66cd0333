"""Every browser gets a name with the first page it is given, before it asks for anything twice.

Where a page asks for two parts at once, both are asked under one name: work that one began, the
other can cancel.
"""

from __future__ import annotations

import re
import secrets
from typing import Final

from starlette.datastructures import MutableHeaders
from starlette.requests import Request

from isotherma.web.security import App, Message, Receive, Scope, Send

PERSON: Final = "person"
YEAR_S: Final = 365 * 86400


class PersonMiddleware:
    """ASGI middleware; names a browser that has no name yet."""

    def __init__(self, app: App) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, and its name with the answer."""
        if scope["type"] != "http" or scope["path"].startswith("/static/"):
            await self._app(scope, receive, send)
            return
        request = Request(scope)
        if named(request):
            await self._app(scope, receive, send)
            return
        name = request.state.new_person = secrets.token_hex(8)

        async def sending(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).append(
                    "set-cookie",
                    f"{PERSON}={name}; HttpOnly; Max-Age={YEAR_S}; Path=/; SameSite=lax",
                )
            await send(message)

        await self._app(scope, receive, sending)


def named(request: Request) -> str:
    """Give the name a browser has; "" for none that we gave."""
    known = request.cookies.get(PERSON, "")
    return known if re.fullmatch(r"[0-9a-f]{16}", known) else ""


def person_of(request: Request) -> str:
    """Name the browser that asks: as it is called, or as its answer will call it."""
    known = named(request)
    return known or str(request.state.new_person)
