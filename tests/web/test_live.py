"""Changes as they happen: fifty streams, one connection to the database; they end with a right."""

from __future__ import annotations

import json
import socket
import time
from contextlib import ExitStack

import psycopg
import pytest

from isotherma.catalogue.demo import drover
from isotherma.services.visitors import ALONE, visiting
from isotherma.web.doors import COOKIE

MANY = 50


@pytest.fixture
def app(unfurnished, server):
    del server
    yield unfurnished
    unfurnished.state.mode = "alone"
    visiting(ALONE)


def opened(server: str, path: str, stack: ExitStack, cookie: str = "") -> socket.socket:
    """A stream over a socket of its own."""
    host, port = server.removeprefix("http://").split(":")
    made = stack.enter_context(socket.create_connection((host, int(port)), timeout=20))
    head = f"Cookie: {COOKIE}={cookie}\r\n" if cookie else ""
    made.sendall(f"GET {path}/events HTTP/1.1\r\nHost: {host}:{port}\r\n{head}\r\n".encode())
    return made


def until(what, within_s: float = 10.0) -> None:
    end = time.monotonic() + within_s
    while not what():
        assert time.monotonic() < end
        time.sleep(0.02)


def heard(stream: socket.socket) -> str:
    """What a stream says, up to the next event."""
    said = b""
    while b"event: head" not in said or not said.endswith((b"\r\n\r\n", b"\n\n")):
        piece = stream.recv(4096)
        if not piece:
            break
        said += piece
    return said.decode()


def listeners(url: str) -> int:
    with psycopg.connect(url) as connection:
        row = connection.execute(
            "SELECT count(*) FROM pg_stat_activity WHERE query LIKE 'LISTEN isotherma%' "
            "AND datname = current_database()"
        ).fetchone()
    return int(row[0]) if row is not None else 0


def test_fifty_streams_hold_one_connection_and_all_hear(server, app, database_url):
    vehicles = app.state.services.vehicles
    number = vehicles.create(drover(), "Started")
    path = f"/vehicles/{number}/ten-litres"
    with ExitStack() as stack:
        streams = [opened(server, path, stack) for _ in range(MANY)]
        until(lambda: app.state.live.streams == MANY and listeners(database_url) == 1)
        began = time.monotonic()
        head = vehicles.open(number).head_id
        vehicles.set_values(number, head, {"name": "Drover two"}, "Vehicle renamed")
        for stream in streams:
            said = heard(stream)
            data = json.loads(said[said.rindex("data: ") + 6 :].splitlines()[0])
            assert data["what"] == "Vehicle renamed" and data["head"] > head
        assert time.monotonic() - began < 20.0
        assert listeners(database_url) == 1
    until(lambda: app.state.live.streams == 0)
    until(lambda: listeners(database_url) == 0)


def ended(stream: socket.socket) -> bool:
    stream.settimeout(10)
    while True:
        piece = stream.recv(4096)
        if not piece or piece.endswith(b"0\r\n\r\n"):
            return True


def test_a_stream_ends_when_a_share_or_a_sign_in_does(server, app):
    services = app.state.services
    accounts = services.accounts
    app.state.mode = "accounts"
    owner = accounts.accept(accounts.invite("account"), "owner", "a long enough sentence")
    guest = accounts.accept(accounts.invite("account"), "guest", "a long enough sentence")
    visiting(accounts.visitor(owner))
    number = services.vehicles.create(drover(), "Started")
    services.sharing.share(number, "guest", "look")
    path = f"/vehicles/{number}/ten-litres"
    with ExitStack() as stack:
        mine, theirs = (opened(server, path, stack, token) for token in (owner, guest))
        until(lambda: app.state.live.streams == 2)
        services.sharing.unshare(number, accounts.visitor(guest).account_id)
        assert ended(theirs)
        until(lambda: app.state.live.streams == 1)
        who = accounts.visitor(owner)
        accounts.end(who, who.sign_in)
        assert ended(mine)
        until(lambda: app.state.live.streams == 0)


def test_nobody_hears_of_what_is_not_theirs(server, app):
    services = app.state.services
    number = services.vehicles.create(drover(), "Started")
    app.state.mode = "accounts"
    with ExitStack() as stack:
        stream = opened(server, f"/vehicles/{number}/ten-litres", stack)
        assert b" 303 " in stream.recv(4096).split(b"\r\n")[0]
    app.state.mode = "alone"
    with ExitStack() as stack:
        stream = opened(server, f"/vehicles/{number + 7}/ten-litres", stack)
        assert b" 404 " in stream.recv(4096).split(b"\r\n")[0]
