"""Alembic's entry: migrate the database whose URL the caller put into the configuration."""

from __future__ import annotations

from alembic import context
from sqlalchemy import text

from isotherma.store.engine import open_engine
from isotherma.store.models import Base


def _ours(name: str | None, kind: str, _: object) -> bool:
    """Leave out the tables of the queue, whose schema is its own."""
    return not (kind == "table" and (name or "").startswith("procrastinate_"))


def migrate() -> None:
    """Run migrations under a lock, so that two starts at once do not race."""
    url = context.config.get_main_option("sqlalchemy.url")
    assert url is not None
    engine = open_engine(url)
    with engine.connect() as connection:
        connection.execute(text("SELECT pg_advisory_lock(7364521)"))
        connection.commit()
        try:
            context.configure(
                connection=connection, target_metadata=Base.metadata, include_name=_ours
            )
            with context.begin_transaction():
                context.run_migrations()
        finally:
            connection.execute(text("SELECT pg_advisory_unlock(7364521)"))
            connection.commit()
    engine.dispose()


migrate()
