"""The vehicles service for a command that comes and goes."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import NoReturn

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
