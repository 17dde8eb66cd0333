"""Connections: where the database is, and one engine per process."""

from __future__ import annotations

from sqlalchemy import Engine, create_engine, make_url
from sqlalchemy.orm import Session, sessionmaker


def open_engine(url: str) -> Engine:
    """Open an engine on a PostgreSQL URL; a lost connection is noticed and replaced."""
    return create_engine(
        make_url(url).set(drivername="postgresql+psycopg"),
        pool_pre_ping=True,
        pool_size=8,
        max_overflow=8,
        pool_timeout=20,
        connect_args={"connect_timeout": 15},
    )


def open_sessions(engine: Engine) -> sessionmaker[Session]:
    """Make sessions on an engine; a service owns each transaction."""
    return sessionmaker(engine, expire_on_commit=False)
