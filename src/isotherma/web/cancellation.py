"""Long work for somebody who may leave: it is told when they have."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from threading import Event
from typing import Final

from fastapi import Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from isotherma.services.turns import Cancelled, Stopped

LOOKS_EVERY_S: Final = 0.25


async def while_waited_for(request: Request, make: Callable[[Stopped], Response]) -> Response:
    """Do long work in a thread of its own and tell it when its reader has left."""
    stopped = Event()
    work = asyncio.ensure_future(run_in_threadpool(make, stopped.is_set))
    try:
        while not (await asyncio.wait({work}, timeout=LOOKS_EVERY_S))[0]:
            if await request.is_disconnected():
                stopped.set()
        return work.result()
    except Cancelled:
        return Response(status_code=204)
    finally:
        stopped.set()
