"""Results are kept by content, for other names, other workers and the next start."""

from __future__ import annotations

import subprocess
import sys
import threading
from pathlib import Path

import psycopg
import pytest
from sqlalchemy import text

from isotherma.catalogue.demo import drover
from isotherma.core.cache import Caches
from isotherma.core.physical import physical_digest
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.files.report_json import report
from isotherma.services import runs as module
from isotherma.services import stored_results as keeping_module
from isotherma.services.computing import ResultService, stands_key
from isotherma.services.stored_results import StoredResults, code_digest
from isotherma.store import stored_results as queries
from isotherma.store.engine import open_engine, open_sessions
from isotherma.wording import verdict

ROOT = Path(__file__).parents[2]
PROJECT = drover()
VARIANT = PROJECT.variants[0]


@pytest.fixture
def sessions(database_url, monkeypatch):
    monkeypatch.setattr(keeping_module, "RESTS_AFTER_S", 0.05)
    engine = open_engine(database_url)
    yield open_sessions(engine)
    for thread in threading.enumerate():
        if thread.name == "keeps results":
            thread.join(10)  # it still holds a connection
    engine.dispose()


def computing(sessions, **more):
    keeping = StoredResults(sessions)
    return ResultService(Caches(10**8), keeping, **more), keeping


def no_run(monkeypatch):
    def refuse(*_, **__):
        raise AssertionError("it ran again")

    monkeypatch.setattr(module, "simulate", refuse)


def renamed(project, **more):
    """The same vehicle under other names: its first part, its first draw, itself."""
    variant = project.variants[0]
    first, *parts = variant.system.parts
    first = first.model_copy(update={"name": "Barrel", "note": "blue", "price": 12.0})
    system = variant.system.model_copy(update={"parts": (first, *parts)})
    draw, *draws = project.brief.draws
    draw = draw.model_copy(update={"name": "Splash"})
    return project.model_copy(update={
        "name": "Other", "brief": project.brief.model_copy(update={"draws": (draw, *draws)}),
        "variants": (variant.model_copy(update={"system": system}), *project.variants[1:]), **more,
    })  # fmt: skip


def data(outcome):
    assert isinstance(outcome, Outcome)
    return report(outcome, None, name="n", variant="v", units=UnitSystem.METRIC)


def test_names_and_notes_are_not_read_by_the_engine():
    other = renamed(PROJECT)
    assert physical_digest(other.brief) == physical_digest(PROJECT.brief)
    assert physical_digest(other.variants[0].system) == physical_digest(VARIANT.system)
    assert other.variants[0].system.digest != VARIANT.system.digest
    hotter = VARIANT.system.model_copy(update={"volts_v": 24.0})
    assert physical_digest(hotter) != physical_digest(VARIANT.system)


def test_another_name_runs_nothing_again_and_stands_everywhere(monkeypatch):
    services = ResultService(Caches(10**8))
    first = services.result(PROJECT, VARIANT)
    other = renamed(PROJECT)
    with monkeypatch.context() as patch:
        no_run(patch)
        again = services.result(other, other.variants[0])
    fresh = ResultService(Caches(10**8)).result(other, other.variants[0])
    assert data(again) == data(fresh)  # to the last letter, as if it had run under these names
    assert isinstance(again, Outcome) and isinstance(first, Outcome)
    assert again.timeline.drawn[0].draw.name == "Splash"
    assert first.timeline.drawn[0].draw.name != "Splash"  # what was kept stays as it was
    assert "Barrel" in str(data(again)) and "Barrel" not in str(data(first))


def test_the_next_start_reads_what_this_one_computed(sessions, monkeypatch):
    one, keeping = computing(sessions)
    first = one.result(PROJECT, VARIANT)
    assert keeping.settle()
    other, _ = computing(sessions)
    no_run(monkeypatch)
    again = other.result(PROJECT, VARIANT)
    assert data(again) == data(first)


COMPUTES = """
import sys
from isotherma.catalogue.demo import drover
from isotherma.core.cache import Caches
from isotherma.services.computing import ResultService
from isotherma.services.stored_results import StoredResults
from isotherma.store.engine import open_engine, open_sessions
keeping = StoredResults(open_sessions(open_engine(sys.argv[1])))
project = drover()
ResultService(Caches(10**8), keeping).result(project, project.variants[0])
assert keeping.settle(60.0)
"""


def test_what_another_process_computed_makes_the_same_page(client, monkeypatch):
    """The proof for jobs: computed elsewhere, written to the database, read back, shown."""
    number = client.app.state.services.vehicles.create(PROJECT, "x")
    where = f"/vehicles/{number}/{VARIANT.id}/shower"
    url = client.app.state.engine.url.render_as_string(hide_password=False)
    done = subprocess.run(
        [sys.executable, "-c", COMPUTES, url], capture_output=True, timeout=300,
        env={"PYTHONPATH": str(ROOT / "src"), "PATH": ""},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr.decode()
    with monkeypatch.context() as patch:
        no_run(patch)
        read = client.get(where)
    assert read.status_code == 200
    services = client.app.state.services
    fresh = ResultService(Caches(10**8)).result(PROJECT, VARIANT)
    kept = services.computing.result(PROJECT, VARIANT)
    assert data(kept) == data(fresh)
    assert isinstance(fresh, Outcome)
    assert verdict(fresh, UnitSystem.METRIC) in read.text.replace("&#39;", "'")


def test_what_other_code_computed_is_not_used(sessions, monkeypatch):
    one, keeping = computing(sessions)
    one.result(PROJECT, VARIANT)
    assert keeping.settle()
    monkeypatch.setattr(keeping_module, "code_digest", lambda: "other")
    other, _ = computing(sessions)
    no_run(monkeypatch)
    with pytest.raises(AssertionError, match="ran again"):
        other.result(PROJECT, VARIANT)


def test_a_spoilt_row_is_computed_again(sessions):
    one, keeping = computing(sessions)
    first = one.result(PROJECT, VARIANT)
    assert keeping.settle()
    with sessions.begin() as session:
        session.execute(text("UPDATE kept SET body = 'nonsense' WHERE key LIKE 'day:%'"))
    other, _ = computing(sessions)
    assert data(other.result(PROJECT, VARIANT)) == data(first)


def test_summaries_are_known_without_computing(sessions, monkeypatch):
    one, keeping = computing(sessions, summarise=lambda _: {"said": "warm"})
    one.result(PROJECT, VARIANT)
    assert keeping.settle()
    other, _ = computing(sessions)
    no_run(monkeypatch)
    wanted = [(PROJECT, variant) for variant in PROJECT.variants]
    assert other.summaries(wanted) == {stands_key(PROJECT, VARIANT): {"said": "warm"}}
    assert other.summaries([]) == {}


def test_without_a_database_it_is_only_not_kept(sessions, database_url):
    nowhere = StoredResults(None)
    nowhere.keep("x", "y", lambda: b"z")
    assert nowhere.find("x", "y") is None and nowhere.settle()
    keeping = StoredResults(sessions)
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute("DROP TABLE kept")
    keeping.keep("x", "y", lambda: b"z")
    assert keeping.settle()
    assert keeping.find("x", "y") is None


def test_it_keeps_what_was_used_last(sessions):
    with sessions.begin() as session:
        for key in "abcd":
            queries.put(session, key, b"x" * 100)
            session.flush()
            session.execute(
                text("UPDATE kept SET used_at = used_at - make_interval(hours => :hours) "
                     "WHERE key = :key"),
                {"hours": 10 * (4 - "abcd".index(key)), "key": key},
            )  # fmt: skip
        queries.touch(session, ["a"])
    with sessions.begin() as session:
        queries.prune(session, 250)
        assert set(queries.find(session, list("abcd"))) == {"a", "d"}
        queries.put(session, "a", b"other")
        assert queries.find(session, ["a"]) == {"a": b"x" * 100}  # as good as it was


def test_the_code_has_one_name():
    assert code_digest() == code_digest() and len(code_digest()) == 16
