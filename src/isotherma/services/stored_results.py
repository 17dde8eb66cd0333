"""What was computed is kept in the database too, for other workers and the next start.

Everything kept is named after the content it was computed from and the code that computed it;
bytes are arrays and JSON, never anything that could be executed. Storing is done beside: a page
never waits for it, and a database that is away only means that it is computed again.
"""

from __future__ import annotations

import hashlib
import json
import queue
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path
from threading import Event, Lock, Thread
from typing import Any, Final

from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from isotherma.store import stored_results as queries

MOST_BYTES: Final = 256_000_000  # a thousand days of Folio
WAITING_AT_MOST: Final = 64  # what waits to be written; more is not kept
PRUNED_EVERY: Final = 50
RESTS_AFTER_S: Final = 2.0
KINDS_OF_CODE: Final = frozenset({".py", ".toml", ".csv", ".html", ".svg"})


@cache
def code_digest() -> str:
    """Name the code, as it lies on the disk now: what other code computed is not used."""
    home = Path(__file__).parents[1]
    found = hashlib.sha256()
    for path in sorted(home.rglob("*")):
        if path.suffix in KINDS_OF_CODE:
            found.update(path.relative_to(home).as_posix().encode())
            found.update(path.read_bytes())
    return found.hexdigest()[:16]


class StoredResults:
    """Keeps bytes by name in the database, and small JSON.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database; None keeps nothing. [-]
    """

    def __init__(self, sessions: sessionmaker[Session] | None) -> None:
        self._sessions = sessions
        self._waiting: queue.Queue[tuple[str, Callable[[], bytes]] | Event] = queue.Queue(
            WAITING_AT_MOST
        )
        self._writer: Thread | None = None
        self._lock = Lock()
        self._written = 0

    def find(self, kind: str, key: str) -> bytes | None:
        """Give what is kept under a name; None where nothing is, or the database is away."""
        return self.find_all(kind, [key]).get(key)

    def find_all(self, kind: str, keys: Sequence[str]) -> dict[str, bytes]:
        """Give what is kept under several names."""
        if self._sessions is None or not keys:
            return {}
        names = {kept_name(kind, key): key for key in keys}
        try:
            with self._sessions.begin() as session:
                found = queries.find(session, list(names))
                if found:
                    queries.touch(session, list(found))
        except SQLAlchemyError:
            return {}
        return {names[name]: body for name, body in found.items()}

    def keep(self, kind: str, key: str, make: Callable[[], bytes]) -> None:
        """Keep what `make` gives, beside; nothing waits for it."""
        if self._sessions is None:
            return
        with self._lock:
            try:
                self._waiting.put_nowait((kept_name(kind, key), make))
            except queue.Full:
                return
            if self._writer is None:
                self._writer = Thread(target=self._write, name="keeps results", daemon=True)
                self._writer.start()

    def keep_json(self, kind: str, key: str, value: dict[str, Any]) -> None:
        """Keep a small value as JSON."""
        self.keep(kind, key, lambda: json.dumps(value, separators=(",", ":")).encode())

    def settle(self, timeout_s: float = 10.0) -> bool:
        """Wait until what was to be kept by now is; False if that takes too long."""
        with self._lock:
            if self._writer is None:
                return True
            done = Event()
            self._waiting.put(done)
        return done.wait(timeout_s)

    def _write(self) -> None:
        assert self._sessions is not None
        while True:
            try:
                item = self._waiting.get(timeout=RESTS_AFTER_S)
            except queue.Empty:
                with self._lock:
                    if self._waiting.empty():
                        self._writer = None
                        return
                continue
            if isinstance(item, Event):
                item.set()
                continue
            name, make = item
            try:
                with self._sessions.begin() as session:
                    queries.put(session, name, make())
                    self._written += 1
                    if self._written % PRUNED_EVERY == 0:
                        queries.prune(session, MOST_BYTES)
            except SQLAlchemyError:
                continue  # it will be computed again


def kept_name(kind: str, key: str) -> str:
    """Name what is kept: what it is, of which code, of what."""
    return f"{kind}:{code_digest()}:{key}"
