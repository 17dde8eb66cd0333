"""Changes as they happen: one listener of the database for a process, however many look on.

The listener lives while somebody does, in a thread of its own, on a connection of its own; streams
hold none.
"""

from __future__ import annotations

import asyncio
import threading
import time
from collections import defaultdict
from collections.abc import AsyncIterator
from contextlib import suppress
from typing import Final

import psycopg

VEHICLE: Final = "isotherma_vehicle"  # payload "vehicle:head"
SIGN_IN: Final = "isotherma_sign_in"  # payload: the number of one that has ended, 0 of many
LOOKS_EVERY_S: Final = 1.0
AGAIN_S: Final = 1.0
CHECKS_EVERY_S: Final = 20.0  # whether one may still look, where nobody said otherwise

Ears = tuple[asyncio.AbstractEventLoop, asyncio.Event]


class Live:
    """Tells streams when to look at their vehicles.

    Parameters
    ----------
    url : str
        Of the database. [-]
    """

    def __init__(self, url: str) -> None:
        self._url = url
        self._ears: dict[int, set[Ears]] = defaultdict(set)
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    async def looks(self, vehicle_id: int) -> AsyncIterator[None]:
        """Come by whenever one should look: what the head of a vehicle is, whether one may."""
        mine: Ears = (asyncio.get_running_loop(), asyncio.Event())
        with self._lock:
            self._ears[vehicle_id].add(mine)
            if self._thread is None:
                self._thread = threading.Thread(target=self._listen, daemon=True,
                                                name="listens for changes")  # fmt: skip
                self._thread.start()
        try:
            while True:
                with suppress(TimeoutError):
                    await asyncio.wait_for(mine[1].wait(), CHECKS_EVERY_S)
                mine[1].clear()
                yield
        finally:
            with self._lock:
                self._ears[vehicle_id].discard(mine)
                if not self._ears[vehicle_id]:
                    del self._ears[vehicle_id]

    @property
    def streams(self) -> int:
        """How many look on."""
        with self._lock:
            return sum(len(ears) for ears in self._ears.values())

    def _listen(self) -> None:
        while True:
            with suppress(psycopg.Error):
                self._hear()
            with self._lock:
                if not self._ears:
                    self._thread = None
                    return
            time.sleep(AGAIN_S)  # the database went: again once it is back

    def _hear(self) -> None:
        """Pass on what the database says, until nobody looks on."""
        with psycopg.connect(self._url, autocommit=True) as connection:
            for channel in (VEHICLE, SIGN_IN):
                connection.execute(f"LISTEN {channel}")
            self._tell(SIGN_IN, "0")  # look: what came before the listener is not said again
            while self.streams:
                for said in connection.notifies(timeout=LOOKS_EVERY_S):
                    self._tell(said.channel, said.payload)

    def _tell(self, channel: str, payload: str) -> None:
        vehicle = payload.partition(":")[0]
        with self._lock:
            if channel == SIGN_IN:
                told = [ears for every in self._ears.values() for ears in every]
            else:
                told = list(self._ears.get(int(vehicle), ()))
        for loop, should_look in told:
            with suppress(RuntimeError):  # its loop has just ended
                loop.call_soon_threadsafe(should_look.set)
