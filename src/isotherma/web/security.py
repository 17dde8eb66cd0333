"""What every request passes: known host, own origin, bounded body; what every answer carries."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import HTMLResponse

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

MAX_BODY = 3_000_000
# what carries more: photographs, tables of a logger, vehicles with their photographs
LARGER = {
    "/photos": 40_000_000, "/sign": 40_000_000, "/log/import": 21_000_000,
    "/vehicles/import": 201_000_000,
}  # fmt: skip
MOST_DRAINED = 1_000_000_000
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; "
    "img-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "x-frame-options": "DENY",
}


class TooLarge(Exception):
    """The body passed the limit while it was read."""


def _host_name(address: str) -> str:
    """Give the host of an address; "" for what is none."""
    try:
        return (urlsplit(address).hostname or "").lower()
    except ValueError:
        return ""


async def _drain(receive: Receive) -> None:
    """Read what is left of a body, up to a bound, without keeping it."""
    seen = 0
    while seen < MOST_DRAINED:
        message = await receive()
        seen += len(message.get("body", b""))
        if message["type"] == "http.disconnect" or not message.get("more_body", False):
            return


def most_bytes(path: str) -> int:
    """Say how large a request for this path may be."""
    return next((most for end, most in LARGER.items() if path.endswith(end)), MAX_BODY)


def _plain(status: int, title: str, text: str) -> HTMLResponse:
    """Answer before any page class is reached; the look comes from the shipped style."""
    return HTMLResponse(
        "<!doctype html><html lang=en><head><meta charset=utf-8>"
        "<meta name=viewport content='width=device-width'>"
        f"<title>{title} · Isotherma</title><link rel=stylesheet href=/static/isotherma.css></head>"
        f"<body><main class='plain' id=main><h1>{title}</h1><p>{text}</p>"
        "<p><a href=/>To the vehicles</a></p></main></body></html>",
        status_code=status,
    )


class SecurityMiddleware:
    """ASGI middleware; knows nothing of routes."""

    def __init__(self, app: App, hosts: tuple[str, ...]) -> None:
        self._app = app
        self._hosts = {host.lower() for host in hosts}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Judge one request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=dict(scope))

        async def sending(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    out.setdefault(name, value)  # a page that stands alone has a policy of its own
                if "cache-control" not in out:
                    static = scope["path"].startswith("/static/")
                    out["cache-control"] = "public, max-age=3600" if static else "no-store"
            await send(message)

        refusal = self._refuse(scope, headers)
        if refusal is not None:
            # read on and forget: a browser that is still sending shows no answer at all
            await _drain(receive)
            await refusal(scope, receive, sending)
            return
        seen, most = 0, most_bytes(scope["path"])

        async def receiving() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > most:
                raise TooLarge
            return message

        try:
            await self._app(scope, receiving, sending)
        except TooLarge:
            await _drain(receive)
            await self._too_large(most)(scope, receive, sending)

    def _too_large(self, most: int) -> HTMLResponse:
        return _plain(
            413,
            "That is too large",
            f"This request may have {most // 1_000_000} MB; a project file has far less. "
            "Nothing was changed. Is it the right file?",
        )

    def _refuse(self, scope: Scope, headers: Headers) -> HTMLResponse | None:
        host = headers.get("host", "")
        name = _host_name(f"//{host}")
        if name not in self._hosts and f"[{name}]" not in self._hosts:
            return _plain(400, "Wrong address", "This server answers only to its own names.")
        length = headers.get("content-length", "0")
        most = most_bytes(scope["path"])
        if length.isdigit() and int(length) > most:
            return self._too_large(most)
        if scope["method"] in {"GET", "HEAD", "OPTIONS"}:
            return None
        origin = headers.get("origin")
        site = headers.get("sec-fetch-site", "none")
        # a page that tells nobody where it is sends no origin even to us; the browser says the site
        own = origin is None or origin.partition("://")[2] == host or (
            origin == "null" and site == "same-origin")  # fmt: skip
        if not own or site not in {"same-origin", "none"}:
            return _plain(
                403, "Not from here", "The change came from another site and was refused."
            )
        return None
