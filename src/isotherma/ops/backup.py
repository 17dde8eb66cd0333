"""Backup and restore: the database's own tools, one file."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path
from typing import Final
from urllib.parse import unquote, urlsplit

from isotherma.ops.cluster import ClusterError, postgres_program
from isotherma.store.migrate import migrate

MAGIC: Final = b"PGDMP"
LONGEST_S: Final = 3600.0


def _connection(url: str) -> tuple[list[str], dict[str, str]]:
    """Give a URL as options of PostgreSQL's programs; the password by the environment alone."""
    parts = urlsplit(url)
    options = ["-h", parts.hostname or "127.0.0.1", "-p", str(parts.port or 5432),
               "-U", unquote(parts.username or "")]  # fmt: skip
    return options, {**os.environ, "PGPASSWORD": unquote(parts.password or ""), "LC_ALL": "C.UTF-8"}


def _run(command: list[str], environment: dict[str, str], what: str) -> None:
    done = subprocess.run(command, env=environment, capture_output=True, text=True,
                          timeout=LONGEST_S, stdin=subprocess.DEVNULL, check=False)  # fmt: skip
    if done.returncode != 0:
        last = (done.stderr.strip().splitlines() or ["no word"])[-1]
        raise ClusterError(f"{what}: {last}")


def backup(url: str, out: Path) -> int:
    """Write the whole database into one file; gives its bytes. ClusterError says why not."""
    if out.exists():
        raise ClusterError(f"{out} is there already; a backup never writes over another.")
    options, environment = _connection(url)
    part = out.with_name(f"{out.name}.part")
    database = urlsplit(url).path.lstrip("/")
    try:
        _run([postgres_program("pg_dump"), *options, "-Fc", "--no-owner", "-d", database, "-f",
              str(part)], environment, "The backup was not written")  # fmt: skip
        part.rename(out)
    except OSError as error:
        raise ClusterError(f"{out}: {error.strerror}.") from None
    finally:
        part.unlink(missing_ok=True)
    return out.stat().st_size


def restore(url: str, source: Path) -> None:
    """Put a backup in the place of all there is, and bring it up to date.

    ClusterError says why not; what was there stays until the backup is wholly read in.
    """
    import psycopg
    from psycopg import sql

    try:
        with source.open("rb") as file:
            start = file.read(len(MAGIC))
    except OSError as error:
        raise ClusterError(f"{source}: {error.strerror}.") from None
    if start != MAGIC:
        raise ClusterError(f"{source} is no backup of Isotherma's: it was not written by “backup”.")
    options, environment = _connection(url)
    database = urlsplit(url).path.lstrip("/")
    beside = f"{database}_restored"
    admin = url.rpartition("/")[0] + "/postgres"
    names = sql.Identifier(database), sql.Identifier(beside), sql.Identifier(f"{database}_before")

    def make(text: str, *which: sql.Identifier) -> None:
        with psycopg.connect(admin, autocommit=True) as connection:
            connection.execute(sql.SQL(text).format(*which))

    make("DROP DATABASE IF EXISTS {} WITH (FORCE)", names[1])
    make("CREATE DATABASE {}", names[1])
    try:
        _run([postgres_program("pg_restore"), *options, "--no-owner", "--exit-on-error", "-d",
              beside, str(source)], environment, "The backup could not be read in")  # fmt: skip
        migrate(url.rpartition("/")[0] + f"/{beside}")
    except ClusterError:
        make("DROP DATABASE IF EXISTS {} WITH (FORCE)", names[1])
        raise
    # now it is all there: the old one goes out of the way, then for good
    with psycopg.connect(admin, autocommit=True) as connection:
        connection.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s", (database,)
        )
    make("DROP DATABASE IF EXISTS {} WITH (FORCE)", names[2])
    make("ALTER DATABASE {} RENAME TO {}", names[0], names[2])
    make("ALTER DATABASE {} RENAME TO {}", names[1], names[0])
    make("DROP DATABASE IF EXISTS {} WITH (FORCE)", names[2])
