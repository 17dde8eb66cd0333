"""The ground a command stands on: a migrated database, shared by all copies that run.

Copies of the program share one cluster. Each holds a shared lock on a file while it
uses it; the last to leave stops the cluster, whoever started it.
"""

from __future__ import annotations

import fcntl
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from sqlalchemy.exc import OperationalError

from isotherma.ops.cluster import ClusterError, project_cluster
from isotherma.store.migrate import migrate

Say = Callable[[str], None]


def _open_lock(path: Path) -> int:
    try:
        path.parent.mkdir(exist_ok=True)
        return os.open(path, os.O_RDWR | os.O_CREAT, 0o600)
    except PermissionError as error:
        raise ClusterError(
            f"{error.filename} belongs to another user. Run as that user, or use a copy of the "
            "project of your own."
        ) from None


@contextmanager
def database(project: Path, url: str | None, say: Say) -> Iterator[str]:
    """Give the URL of a migrated database; stop the cluster again if nobody else uses it."""
    if url is not None:
        say("using the server DATABASE_URL names")
        migrate_or_explain(url)
        yield url
        return
    cluster = project_cluster(project)
    gate = _open_lock(project / ".run" / "gate.lock")  # one copy at a time starts or stops
    users = _open_lock(project / ".run" / "users.lock")
    try:
        fcntl.flock(gate, fcntl.LOCK_EX)
        fcntl.flock(users, fcntl.LOCK_SH)
        try:  # told to end at any point from here on, what was started is stopped again
            say("starting PostgreSQL")
            how = cluster.start()
            say({"new": "made a new database cluster", "started": "PostgreSQL is up"}.get(
                how, "PostgreSQL runs already"))  # fmt: skip
            cluster.create_database("isotherma")
            migrate_or_explain(cluster.url())
            fcntl.flock(gate, fcntl.LOCK_UN)
            yield cluster.url()
        finally:
            fcntl.flock(gate, fcntl.LOCK_EX)
            fcntl.flock(users, fcntl.LOCK_UN)
            with suppress(BlockingIOError):
                fcntl.flock(users, fcntl.LOCK_EX | fcntl.LOCK_NB)
                if cluster.running():
                    say("stopping PostgreSQL")
                    cluster.stop()
    finally:
        os.close(users)
        os.close(gate)


def migrate_or_explain(url: str) -> None:
    """Migrate, and say in words when the server cannot be reached."""
    try:
        migrate(url)
    except OperationalError as error:
        reason = str(error.orig).strip().splitlines()[0]
        raise ClusterError(f"The database cannot be reached: {reason}") from None
