"""Copies, stopping, and a database that goes away: what is said, how soon, and what recovers."""

from __future__ import annotations

import os
import shutil
import signal
import tempfile
import time
from collections.abc import Callable
from http.client import HTTPConnection, HTTPException
from pathlib import Path

import pytest

from isotherma.catalogue.demo import folio
from isotherma.ops.cluster import project_cluster
from isotherma.ops.ground import database
from tests.ops.test_ground import Running, quiet


@pytest.fixture
def place():
    """A folder for projects that the database's own user can reach; what runs in it is stopped."""
    folder = Path(tempfile.mkdtemp(prefix="isotherma-endings-"))
    folder.chmod(0o755)
    yield folder
    for project in folder.iterdir():
        cluster = project_cluster(project)
        if cluster.running():
            cluster.stop()
    shutil.rmtree(folder)


def test_a_copied_folder_leaves_the_original_s_cluster_alone(place):
    original, copy = place / "original", place / "copy"
    original.mkdir()
    with database(original, None, quiet) as first:
        shutil.copytree(original, copy, symlinks=True)
        if os.geteuid() == 0:
            owner = project_cluster(original).data.stat()
            for item in (copy / ".run").rglob("*"):
                os.chown(item, owner.st_uid, owner.st_gid, follow_symlinks=False)
        with database(copy, None, quiet) as second:
            assert first != second
            assert project_cluster(copy).running() and project_cluster(original).running()
        assert not project_cluster(copy).running()
        assert project_cluster(original).running()


def children_of(pid: int) -> list[int]:
    """Processes a process started, and those they started."""
    found = []
    for stat in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = stat.read_text().rpartition(")")[2].split()
        except OSError:
            continue  # it ended meanwhile
        if int(fields[1]) == pid:
            child = int(stat.parent.name)
            found += [child, *children_of(child)]
    return found


def spent_s(pid: int) -> float:
    """Seconds of processor a process has taken."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def until(done: Callable[[], bool], seconds: float = 60.0) -> None:
    """Wait until something is so."""
    deadline = time.monotonic() + seconds
    while not done():
        assert time.monotonic() < deadline
        time.sleep(0.05)


def alive(port: int) -> int:
    connection = HTTPConnection("127.0.0.1", port, timeout=10)
    try:
        connection.request("GET", "/alive")
        return connection.getresponse().status
    finally:
        connection.close()


def test_ready_means_answering_and_workers_end_when_their_parent_is_killed(database_url):
    """The line is printed once a worker answers: the first request after it is never refused."""
    running = Running(database_url, "--workers", "2", helpers=1)
    port = int(running.base.rpartition(":")[2])
    assert [alive(port) for _ in range(4)] == [200] * 4
    workers = children_of(running.process.pid)
    assert len(workers) >= 3
    running.end(signal.SIGKILL)
    until(lambda: not any(Path(f"/proc/{pid}").exists() for pid in workers), 20.0)


def test_it_ends_soon_though_a_long_computation_runs(database_url, vehicles):
    """A band of many days is under way; it is not waited for."""
    made = folio()
    number = vehicles.create(made, "Folio")
    where = f"/vehicles/{number}/{made.variants[0].id}"
    running = Running(database_url, helpers=1)
    port = int(running.base.rpartition(":")[2])
    until(lambda: "Ready to compute" in _ask(port, "/kernels"), 200.0)
    until(lambda: "figures tried" in _ask(port, f"{where}/certainty"), 100.0)
    began = time.monotonic()
    running.end(signal.SIGTERM)  # by the keyboard's signal the other tests end it
    assert time.monotonic() - began < 20.0


def _ask(port: int, path: str) -> str:
    """Ask for a part of a page; nothing where the server ends meanwhile."""
    connection = HTTPConnection("127.0.0.1", port, timeout=60)
    answer = None
    try:
        connection.request("GET", path, headers={"hx-request": "true"})
        answer = connection.getresponse()
        return answer.read().decode()
    except (OSError, HTTPException):
        return ""  # it ended, which is what the test is about
    finally:
        if answer is not None:
            answer.close()
        connection.close()


def test_the_database_goes_and_comes_back(place):
    """Pages say so at once and name the way out; when it is there again they answer again."""
    project = place / "one"
    project.mkdir()
    with database(project, None, quiet) as url:
        running = Running(url)
        try:
            port = int(running.base.rpartition(":")[2])
            cluster = project_cluster(project)
            assert alive(port) == 200
            cluster.stop()
            began = time.monotonic()
            assert alive(port) == 503
            status, text = running.request("GET", "/")
            assert time.monotonic() - began < 10.0
            assert status == 503
            assert "The database does not answer" in text and "bin/start" in text
            cluster.start()
            until(lambda: alive(port) == 200, 20.0)
            assert running.request("GET", "/")[0] == 200
        finally:
            running.end()
