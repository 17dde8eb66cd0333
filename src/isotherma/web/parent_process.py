"""A server process among several ends with the one that looks after them, and when told to."""

from __future__ import annotations

import os
import signal
import threading
import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Final

LOOKS_EVERY_S: Final = 1.0
GRACE_S: Final = 4.0  # for answers under way, once its parent is gone
ENDS_S: Final = 0.5  # after the last answer


def follow_parent(parent: int) -> None:
    """End this process soon after its parent, by its number, though that ended long ago."""

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(LOOKS_EVERY_S)
        os.kill(os.getpid(), signal.SIGTERM)
        time.sleep(GRACE_S)
        os._exit(0)

    threading.Thread(target=watch, name="follows its parent", daemon=True).start()


@asynccontextmanager
async def ends_with_its_thread(_: object) -> AsyncIterator[None]:
    """Once told to end, end though a long computation still holds a thread."""
    yield
    timer = threading.Timer(ENDS_S, os._exit, (0,))
    timer.daemon = True
    timer.start()
