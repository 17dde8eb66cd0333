"""What the server writes of its requests: a number, the route, how long, a plain traceback.

Nothing a person typed is in it: no form, no query, no message of an error, which may quote them.
"""

from __future__ import annotations

import os
import secrets
import sys
import time
import traceback
from typing import Any, Final

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

SLOW_S: Final = 2.0  # longer is worth a line even when all went well
MOST_FRAMES: Final = 30


def configure() -> None:
    """Set the log up once for a process; ISOTHERMA_LOG=all writes a line for every request."""
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.JSONRenderer(ensure_ascii=False),
        ],
        logger_factory=lambda *_: structlog.PrintLogger(sys.stderr),  # as it is then
        cache_logger_on_first_use=False,
    )


def frames_of(error: BaseException) -> list[str]:
    """Give where an error came from, without what it says or what stood in variables.

    Parameters
    ----------
    error : BaseException
        Any. [-]

    Returns
    -------
    list of str
        Its type and those it came from, each with file, line and function; the innermost last. [-]
    """
    found: list[str] = []
    at: BaseException | None = error
    while at is not None and len(found) < MOST_FRAMES:
        found.append(f"{type(at).__module__}.{type(at).__qualname__}")
        stack = traceback.extract_tb(at.__traceback__)
        found += [
            f"  {os.path.relpath(frame.filename)}:{frame.lineno} {frame.name}"
            for frame in stack[-MOST_FRAMES:]
        ]
        at = at.__cause__ or at.__context__
    return found


class Logging:
    """ASGI middleware: gives every request a number and writes what went wrong or slowly."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._all = os.environ.get("ISOTHERMA_LOG") == "all"
        self._log = structlog.get_logger()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on and take its time."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        number, began = secrets.token_hex(4), time.monotonic()
        scope.setdefault("state", {})["number"] = number
        status: list[int] = []

        async def sending(message: Message) -> None:
            if message["type"] == "http.response.start":
                status.append(int(message["status"]))
                message.setdefault("headers", []).append((b"x-request-id", number.encode()))
            await send(message)

        try:
            await self._app(scope, receive, sending)
        except Exception:
            status.append(500)  # what is answered then is written outside of this
            raise
        finally:
            took = time.monotonic() - began
            code = status[-1] if status else 0
            if self._all or code >= 500 or took > SLOW_S:
                self._log.info(
                    "request", number=number, method=scope["method"], route=_route(scope),
                    status=code, took_s=round(took, 3),
                )  # fmt: skip


def _route(scope: Scope) -> str:
    """Give the pattern of the route, never the address itself."""
    route: Any = scope.get("route")
    return str(getattr(route, "path", "")) or "(none)"
