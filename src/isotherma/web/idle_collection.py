"""Sweep up after an answer, while nobody waits, rather than in the middle of the next one.

An edit makes a few hundred thousand small objects. Left to itself the interpreter sweeps
when a count is full, which is mostly while somebody waits, and then takes a fifth of a second
now and then.
"""

from __future__ import annotations

import asyncio
import gc
from typing import Final

from starlette.types import ASGIApp, Receive, Scope, Send

IDLE_S: Final = 0.05  # after an answer, before anything is swept
WHOLE_EVERY: Final = 40  # sweeps of what is new between two of everything


class IdleCollection:
    """Collects garbage when no request has been under way for a moment."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app
        self._under_way = 0
        self._answered = 0
        self._swept = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on; look for garbage once it is answered and nothing follows."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        self._under_way += 1
        try:
            await self._app(scope, receive, send)
        finally:
            self._under_way -= 1
            self._answered += 1
            if not self._under_way:
                loop = asyncio.get_running_loop()
                loop.call_later(IDLE_S, self._sweep, self._answered)

    def _sweep(self, answered: int) -> None:
        if self._under_way or answered != self._answered:
            return  # somebody came in between; the sweep after them is as good
        self._swept += 1
        gc.collect(2 if self._swept % WHOLE_EVERY == 0 else 1)
