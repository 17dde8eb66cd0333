"""What the environment may set; everything has a default that runs."""

from __future__ import annotations

import os
from contextlib import suppress
from dataclasses import dataclass
from ipaddress import ip_address
from pathlib import Path

MODES = ("alone", "lan", "accounts")
PROJECT = Path(__file__).parents[2]
LOOPBACK = ("127.0.0.1", "localhost", "::1")


def is_loopback(host: str) -> bool:
    """Say whether an address, by number or name, is this machine's own."""
    with suppress(ValueError):
        return ip_address(host).is_loopback
    return host in LOOPBACK


@dataclass(frozen=True, slots=True)
class Settings:
    """Settings of one process.

    DATABASE_URL: a PostgreSQL server to use instead of the private cluster.
    ISOTHERMA_HOSTS: host names the server answers to, separated by commas.
    ISOTHERMA_ADDRESS: where phones and other people reach it, as http://192.0.2.7:8000; links and
    codes to scan carry it.
    ISOTHERMA_MODE: alone, lan or accounts; bin/start sets it by --lan and --accounts.
    ISOTHERMA_PLAIN_HTTP: 1 lets passwords travel without TLS beyond this machine.
    ISOTHERMA_PROXIES: addresses of proxies whose forwarded headers are believed, by commas.
    """

    database_url: str | None
    hosts: tuple[str, ...]
    address: str = ""
    mode: str = "alone"
    plain_http: bool = False
    proxies: str = ""

    @classmethod
    def from_environment(cls) -> Settings:
        """Read the environment."""
        mode = os.environ.get("ISOTHERMA_MODE", "alone")
        hosts = os.environ.get("ISOTHERMA_HOSTS", "127.0.0.1,localhost,[::1]")
        return cls(
            database_url=os.environ.get("DATABASE_URL") or None,
            hosts=tuple(host.strip() for host in hosts.split(",") if host.strip()),
            address=os.environ.get("ISOTHERMA_ADDRESS", "").rstrip("/"),
            mode=mode if mode in MODES else "accounts",  # the narrowest, for a word nobody knows
            plain_http=os.environ.get("ISOTHERMA_PLAIN_HTTP", "") == "1",
            proxies=os.environ.get("ISOTHERMA_PROXIES", ""),
        )
