"""Starting, sharing, killing and starting again: what a person's machine does to a program."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from http.client import HTTPConnection
from pathlib import Path
from urllib.parse import urlencode

import pytest
from bs4 import BeautifulSoup

from isotherma.ops.cluster import Cluster, ClusterError, free_port, project_cluster
from isotherma.ops.ground import database
from isotherma.ops.launch import choose_port

ROOT = Path(__file__).parents[2]


@pytest.fixture
def project():
    """An empty project folder that the database's own user can reach."""
    folder = Path(tempfile.mkdtemp(prefix="isotherma-ground-"))
    folder.chmod(0o755)
    yield folder
    cluster = project_cluster(folder)
    if cluster.running():
        cluster.stop()
    shutil.rmtree(folder)


def quiet(_):
    """Say nothing."""


def test_copies_share_a_cluster_and_the_last_stops_it(project):
    said: list[str] = []
    with database(project, None, said.append) as first:
        with database(project, None, said.append) as second:
            assert first == second
        assert project_cluster(project).running()
    assert not project_cluster(project).running()
    assert "made a new database cluster" in said
    assert "PostgreSQL runs already" in said
    assert said.count("stopping PostgreSQL") == 1


def test_a_cluster_killed_outright_starts_again_with_its_data(project):
    with database(project, None, quiet):
        pass
    cluster = project_cluster(project)
    with database(project, None, quiet) as url:
        import psycopg

        with psycopg.connect(url) as connection:
            connection.execute("INSERT INTO note VALUES ('kept', 'yes')")
        pid = int((cluster.data / "postmaster.pid").read_text().splitlines()[0])
        os.kill(pid, signal.SIGKILL)
    with database(project, None, quiet) as url, psycopg.connect(url) as connection:
        row = connection.execute("SELECT value FROM note WHERE key = 'kept'").fetchone()
    assert row == ("yes",)


def test_a_start_cut_off_half_way_is_made_again(project):
    folder = project / ".run" / "postgres"
    (folder / "data").mkdir(parents=True)
    (folder / "data" / "half").write_text("made")
    with database(project, None, quiet) as url:
        assert "127.0.0.1" in url


def test_a_taken_database_port_is_replaced(project):
    with database(project, None, quiet):
        pass
    cluster = project_cluster(project)
    with socket.socket() as taken:
        taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)  # its own was just closed
        taken.bind(("127.0.0.1", int((cluster.folder / "port").read_text())))
        taken.listen()
        with database(project, None, quiet) as url:
            assert f":{taken.getsockname()[1]}/" not in url


def test_a_missing_postgresql_is_said_plainly(monkeypatch, tmp_path):
    monkeypatch.setattr(shutil, "which", lambda _: None)
    monkeypatch.setattr(Path, "glob", lambda *_: iter(()))
    with pytest.raises(ClusterError, match="Debian package"):
        Cluster(tmp_path / "x").start()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root starts the server as another user")
def test_root_finds_a_place_the_database_user_can_reach(tmp_path):
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    (closed / "project").mkdir()
    assert str(project_cluster(closed / "project").folder).startswith("/var/lib/isotherma/")


def test_a_taken_port_is_replaced():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert choose_port(port) != port
    assert choose_port(free_port()) > 0


def test_an_unreachable_server_is_said_plainly(project):
    with (
        pytest.raises(ClusterError, match="cannot be reached"),
        database(project, "postgresql://x:y@127.0.0.1:1/z", quiet),
    ):
        pass


# --- the whole program, in processes of its own ---


class Running:
    """The start command in a process, on a database of the test's."""

    def __init__(self, url: str, *options: str, helpers: int = 0) -> None:
        options = (*options, "--helpers", str(helpers))
        self.process = subprocess.Popen(
            [sys.executable, "-m", "isotherma.ops.launch", "--port", str(free_port()), *options],
            env={**os.environ, "DATABASE_URL": url, "PYTHONPATH": str(ROOT / "src")},
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        )  # fmt: skip
        self.said = ""
        assert self.process.stdout is not None
        while "ready:" not in self.said:
            line = self.process.stdout.readline()
            assert line, self.said
            self.said += line
        self.base = self.said.split("ready: ")[1].split("/   ")[0]
        try:
            self.wait_until_alive()
        except AssertionError:
            self.end()
            raise

    def wait_until_alive(self) -> None:
        until = time.monotonic() + 120
        while time.monotonic() < until:
            try:
                with urllib.request.urlopen(f"{self.base}/alive", timeout=5) as answer:
                    assert answer.read() == b"alive"
                return
            except OSError:
                time.sleep(0.05)
        raise AssertionError("the server never answered")

    def request(self, method, path, data=None):
        connection = HTTPConnection(self.base.removeprefix("http://"), timeout=20)
        headers = {"content-type": "application/x-www-form-urlencoded"} if data else {}
        connection.request(method, path, urlencode(data) if data else None, headers)
        answer = connection.getresponse()
        text = answer.read().decode()
        connection.close()
        return answer.status, text

    def end(self, how=signal.SIGINT):
        self.process.send_signal(how)
        self.process.wait(20)
        assert self.process.stdout is not None
        self.process.stdout.close()
        return self.process.returncode


def bare_vehicle(running):
    """A vehicle with nothing in it: its pages need no simulation, so a start is quick."""
    status, _ = running.request("POST", "/vehicles", {"name": "Bare", "start": "empty"})
    assert status == 303
    _, home = running.request("GET", "/")
    assert "Bare" in home
    link = BeautifulSoup(home, "html.parser").select_one("a[href^='/vehicles/'][href$='/shower']")
    assert link is not None  # the newest stands first
    return str(link["href"]).rpartition("/")[0]


def days_form(running, design):
    """The days of a brief, with all its form sends."""
    _, text = running.request("GET", f"{design}/brief")
    field = BeautifulSoup(text, "html.parser").select_one("#f-brief-days")
    assert field is not None, text[:2000]
    form = field.find_parent("form")
    assert form is not None
    data = {str(i["name"]): i.get("value", "") for i in form.select("input")}
    for chosen in form.select("option[selected]"):
        assert chosen.parent is not None
        data[str(chosen.parent["name"])] = chosen["value"]
    return data, field["value"]


def test_every_acknowledged_edit_survives_a_kill_five_times(database_url):
    """Kill the web process with signal 9 right after the answer to an edit."""
    expected, design = None, ""
    for round_number in range(5):
        running = Running(database_url)
        try:
            design = design or bare_vehicle(running)
            data, shown = days_form(running, design)
            assert expected is None or shown == expected, f"lost in round {round_number}"
            expected = str(3 + round_number)
            status, _ = running.request("POST", f"{design}/edit", data | {"days": expected})
            assert status == 303
        finally:
            running.end(signal.SIGKILL)
    running = Running(database_url)
    assert days_form(running, design)[1] == expected
    assert running.end() == 0


def test_two_workers_serve_one_database(database_url):
    running = Running(database_url, "--workers", "2")
    try:
        design = bare_vehicle(running)
        for number in range(6):
            data, _ = days_form(running, design)
            status, _ = running.request("POST", f"{design}/edit", data | {"days": str(10 + number)})
            assert status == 303
            assert {days_form(running, design)[1] for _ in range(6)} == {str(10 + number)}
    finally:
        running.end()


def test_a_start_without_a_database_says_why():
    done = subprocess.run(
        [sys.executable, "-m", "isotherma.ops.launch"], capture_output=True, text=True, timeout=60,
        env={**os.environ, "DATABASE_URL": "postgresql://x:y@127.0.0.1:1/z",
             "PYTHONPATH": str(ROOT / "src")},
    )  # fmt: skip
    assert done.returncode == 1
    assert "cannot be reached" in done.stderr and "Traceback" not in done.stderr
