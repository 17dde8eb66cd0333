"""The vehicles service for a command that comes and goes."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NoReturn

from isotherma.ops.backup import backup, restore
from isotherma.ops.cluster import ClusterError
from isotherma.ops.ground import database
from isotherma.services.accounts import Accounts
from isotherma.services.vehicles import Vehicles
from isotherma.services.visitors import ALONE, Visitor, visiting
from isotherma.settings import PROJECT, Settings
from isotherma.store.engine import open_engine, open_sessions


@contextmanager
def _database(fail: Callable[[str], NoReturn]) -> Iterator[str]:
    """Give the database's address for one command; starts the cluster if nobody has."""
    try:
        with database(PROJECT, Settings.from_environment().database_url, lambda _: None) as url:
            yield url
    except ClusterError as error:
        fail(str(error))


@contextmanager
def vehicles(
    fail: Callable[[str], NoReturn], *, owner: str | None = None, keeps: bool = False
) -> Iterator[Vehicles]:
    """Open the database for one command.

    Where people sign in, what a command `keeps` belongs to an account, which must be said.
    """
    with _database(fail) as url:
        engine = open_engine(url)
        try:
            sessions = open_sessions(engine)
            if keeps or owner:
                _ask_as(Accounts(sessions), owner, fail)
            yield Vehicles(sessions)
        finally:
            visiting(ALONE)
            engine.dispose()


def _ask_as(accounts: Accounts, owner: str | None, fail: Callable[[str], NoReturn]) -> None:
    """Ask as an account, where there are some."""
    listed = accounts.listed()
    names = ", ".join(one.name for one in listed) or "none"
    found = next((one for one in listed if one.name.casefold() == (owner or "").casefold()), None)
    if found is not None:
        visiting(Visitor("account", found.id, found.name, found.admin))
    elif owner:
        fail(f"There is no account “{owner}”. There are: {names}.")
    elif accounts.in_use():
        fail(f"People sign in here: say whose it is with --owner. Accounts: {names}.")


def backed_up(out: Path, fail: Callable[[str], NoReturn]) -> int:
    """Write the database into a file; gives its bytes."""
    with _database(fail) as url:
        return backup(url, out)


def restored(source: Path, fail: Callable[[str], NoReturn]) -> None:
    """Put a backup in the place of the database."""
    with _database(fail) as url:
        restore(url, source)
