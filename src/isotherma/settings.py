"""What the environment may set; everything has a default that runs."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

PROJECT = Path(__file__).parents[2]


@dataclass(frozen=True, slots=True)
class Settings:
    """Settings of one process.

    DATABASE_URL: a PostgreSQL server to use instead of the private cluster.
    ISOTHERMA_HOSTS: host names the server answers to, separated by commas.
    ISOTHERMA_ADDRESS: where phones and other people reach it, as http://192.0.2.7:8000; links and
    codes to scan carry it.
    """

    database_url: str | None
    hosts: tuple[str, ...]
    address: str = ""

    @classmethod
    def from_environment(cls) -> Settings:
        """Read the environment."""
        hosts = os.environ.get("ISOTHERMA_HOSTS", "127.0.0.1,localhost,[::1]")
        return cls(
            database_url=os.environ.get("DATABASE_URL") or None,
            hosts=tuple(host.strip() for host in hosts.split(",") if host.strip()),
            address=os.environ.get("ISOTHERMA_ADDRESS", "").rstrip("/"),
        )
