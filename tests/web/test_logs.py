"""What the log holds of a fault: its number and where, never what a person typed."""

from __future__ import annotations

import json

import pytest
from fastapi.testclient import TestClient
from sqlalchemy.exc import OperationalError

from isotherma.services.vehicles import Vehicles
from isotherma.web.app import make_app
from tests.web.test_pages import soup, text

SECRET = "Ruth’s own words"


@pytest.fixture
def broken(database_url, capsys):
    """A client that sees answers to faults instead of the faults."""
    app = make_app(database_url, ("testserver",))
    with TestClient(app, follow_redirects=False, raise_server_exceptions=False) as made:
        yield made
    app.state.engine.dispose()


class FromServer(Exception):
    """What the driver raises, with PostgreSQL's code."""

    def __init__(self, sqlstate: str) -> None:
        super().__init__(SECRET)
        self.sqlstate = sqlstate


def lines_of(capsys) -> list[dict[str, object]]:
    err = capsys.readouterr().err
    assert SECRET not in err
    return [json.loads(line) for line in err.splitlines() if line.startswith("{")]


def test_a_fault_is_logged_with_its_place_and_without_texts(broken, monkeypatch, capsys):
    def fails(*_):
        typed = SECRET
        raise RuntimeError(f"cannot do {typed}")

    monkeypatch.setattr(Vehicles, "create", fails)
    answer = broken.post("/vehicles", data={"name": SECRET, "start": "empty"})
    assert answer.status_code == 500
    lines = lines_of(capsys)
    fault = next(line for line in lines if line["event"] == "unexpected")
    assert str(fault["number"]) in text(soup(answer).find("main")) and SECRET not in answer.text
    where = fault["where"]
    assert isinstance(where, list) and where[0] == "builtins.RuntimeError"
    assert any("test_logs.py" in line and line.endswith(" fails") for line in where)
    request = next(line for line in lines if line["event"] == "request")
    assert request["number"] == fault["number"]
    assert request["route"] == "/vehicles" and request["status"] == 500
    assert isinstance(request["took_s"], float)


@pytest.mark.parametrize(
    ("state", "title"),
    [("53100", "The disk is full"), ("25006", "The database cannot write"),
     ("42501", "The database cannot write"), ("57P03", "The database does not answer")],
)  # fmt: skip
def test_what_is_wrong_with_the_database_has_words_of_its_own(
    broken, monkeypatch, capsys, state, title
):
    def fails(*_):
        raise OperationalError("INSERT", {"name": SECRET}, FromServer(state))

    monkeypatch.setattr(Vehicles, "create", fails)
    answer = broken.post("/vehicles", data={"name": SECRET, "start": "empty"})
    assert answer.status_code == 503 and answer.headers["retry-after"] == "2"
    said = text(soup(answer).find("main"))
    assert title in said and "Nothing was changed" in said and "load it again" in said
    assert any(line.get("what") == title for line in lines_of(capsys))
