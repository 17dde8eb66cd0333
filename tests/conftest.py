"""What all tests share: a cluster per worker, a database per test, the application on it."""

from __future__ import annotations

import asyncio
import shutil
import tempfile
import threading
import time
from collections.abc import Iterator
from itertools import count
from pathlib import Path

import psycopg
import pytest
import uvicorn
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import settings

from isotherma.catalogue.demo import drover
from isotherma.core.cache import Caches
from isotherma.jobs.worker import Worker
from isotherma.ops.cluster import Cluster
from isotherma.services.vehicles import Vehicles
from isotherma.store.engine import open_engine, open_sessions
from isotherma.store.migrate import migrate
from isotherma.web.app import bare_app, furnish

NUMBERS = count(1)
# kernels compile inside the first example, so a deadline would time the compiler;
# the same examples every run, so that a red run can be run again
settings.register_profile("isotherma", deadline=None, derandomize=True)
settings.load_profile("isotherma")


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A cluster of this worker's own, stopped and removed at the end."""
    folder = Path(tempfile.mkdtemp(prefix="isotherma-test-"))
    folder.chmod(0o755)
    made = Cluster(folder / "postgres", for_tests=True)
    made.start()
    made.create_database("template_isotherma")
    migrate(made.url("template_isotherma"))
    yield made
    made.stop()
    shutil.rmtree(folder)


@pytest.fixture
def database_url(cluster) -> str:
    """The URL of an empty, migrated database."""
    name = f"test_{next(NUMBERS)}"
    with psycopg.connect(cluster.url("postgres"), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE template_isotherma STRATEGY file_copy")
    return str(cluster.url(name))


@pytest.fixture
def vehicles(database_url) -> Iterator[Vehicles]:
    """The vehicles service on an empty database."""
    engine = open_engine(database_url)
    yield Vehicles(open_sessions(engine))
    engine.dispose()


COMPUTED = Caches(400_000_000)


# where it is counted what is computed, nothing comes from other tests
COUNTING = {"test_page_cache", "test_stored_results", "test_kernels_page", "test_idle_collection",
            "test_busy_is_said_in_words_and_may_be_tried_again",
            "test_home_lists_vehicles_with_their_verdicts"}  # fmt: skip


@pytest.fixture
def computed(request) -> Caches | None:
    """What tests of this worker computed before, by its content."""
    names = {request.module.__name__.rpartition(".")[2], request.node.name}
    return None if names & COUNTING else COMPUTED


@pytest.fixture(scope="session")
def unfurnished() -> FastAPI:
    """The application without a database, once for the worker: its routes take a second."""
    return bare_app(("testserver", "127.0.0.1"))


def furnished(bare: FastAPI, database_url: str, computed: Caches | None) -> FastAPI:
    """Put the application on a test's own database."""
    before = getattr(bare.state, "engine", None)
    if before is not None:
        before.dispose()  # one test may have a client and a server
    furnish(bare, database_url, computed)
    return bare


@pytest.fixture
def client(unfurnished, database_url, computed) -> Iterator[TestClient]:
    """A client of the application on an empty database; redirects are not followed."""
    app = furnished(unfurnished, database_url, computed)
    with TestClient(app, follow_redirects=False) as made:
        yield made
    app.state.keeping.settle()  # what is being written still holds a connection
    app.state.engine.dispose()


@pytest.fixture
def demo(client) -> str:
    """The path of the demo vehicle's first variant in the client's database."""
    number = client.app.state.services.vehicles.create(drover(), "Demo vehicle")
    return f"/vehicles/{number}/ten-litres"


@pytest.fixture
def worker(database_url) -> Iterator[Worker]:
    """A worker that takes long work of the test's database, in a thread beside the test."""
    made = Worker(database_url)
    thread = threading.Thread(target=lambda: asyncio.run(made.run(name="test")), daemon=True)
    thread.start()
    yield made
    made.end()
    thread.join(10)
    made.close()


@pytest.fixture
def server(unfurnished, database_url, worker, computed) -> Iterator[str]:
    """The address of the application really served on loopback, with an empty database."""
    app = furnished(unfurnished, database_url, computed)
    running = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=0, log_level="error"))
    thread = threading.Thread(target=running.run, daemon=True)
    thread.start()
    while not running.started:
        time.sleep(0.01)
    port = running.servers[0].sockets[0].getsockname()[1]
    app.state.vehicles = app.state.services.vehicles
    yield f"http://127.0.0.1:{port}"
    running.should_exit = True
    thread.join(60)  # a page that computes holds its connection until it answers
    app.state.keeping.settle()  # what is being written still holds a connection
    app.state.engine.dispose()
