"""At most as many computations at a time as there are cores; others wait for their turn."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore, local
from typing import Final

WAITS_S: Final = 20.0
LOOKS_EVERY_S: Final = 0.5
Stopped = Callable[[], bool]


class Busy(Exception):
    """All turns were taken for longer than anybody waits."""


class Cancelled(Exception):
    """Somebody stopped waiting."""


def never() -> bool:
    """Nobody stops it."""
    return False


_turns = BoundedSemaphore(max(1, os.cpu_count() or 1))
_mine = local()


@contextmanager
def turn(stopped: Stopped = never) -> Iterator[None]:
    """Hold one turn while computing; Busy after a while, Cancelled when nobody waits any more.

    A computation that asks for another within its own turn needs no second one.
    """
    if getattr(_mine, "held", False):
        yield
        return
    until = time.monotonic() + WAITS_S
    while not _turns.acquire(timeout=LOOKS_EVERY_S):
        if stopped():
            raise Cancelled
        if time.monotonic() > until:
            raise Busy
    _mine.held = True
    try:
        yield
    finally:
        _mine.held = False
        _turns.release()
