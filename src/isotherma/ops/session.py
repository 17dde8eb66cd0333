"""The vehicles service for a command that comes and goes."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NoReturn

from isotherma.ops.backup import backup, restore
from isotherma.ops.cluster import ClusterError
from isotherma.ops.ground import database
from isotherma.services.vehicles import Vehicles
from isotherma.settings import PROJECT, Settings
from isotherma.store.engine import open_engine, open_sessions


@contextmanager
def vehicles(fail: Callable[[str], NoReturn]) -> Iterator[Vehicles]:
    """Open the database for one command; starts the cluster if nobody has."""
    try:
        with database(PROJECT, Settings.from_environment().database_url, lambda _: None) as url:
            engine = open_engine(url)
            try:
                yield Vehicles(open_sessions(engine))
            finally:
                engine.dispose()
    except ClusterError as error:
        fail(str(error))


def backed_up(out: Path, fail: Callable[[str], NoReturn]) -> int:
    """Write the database into a file; gives its bytes."""
    try:
        with database(PROJECT, Settings.from_environment().database_url, lambda _: None) as url:
            return backup(url, out)
    except ClusterError as error:
        fail(str(error))


def restored(source: Path, fail: Callable[[str], NoReturn]) -> None:
    """Put a backup in the place of the database."""
    try:
        with database(PROJECT, Settings.from_environment().database_url, lambda _: None) as url:
            restore(url, source)
    except ClusterError as error:
        fail(str(error))
