"""Bring a database to the current schema."""

from __future__ import annotations

from importlib.resources import files

from alembic import command
from alembic.config import Config


def alembic_config(url: str) -> Config:
    """Configure Alembic for one database, without a file."""
    config = Config()
    config.set_main_option("script_location", str(files("isotherma.store") / "migrations"))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config


def migrate(url: str) -> None:
    """Run every migration the database has not had."""
    command.upgrade(alembic_config(url), "head")
