"""Long work: asked once, followed, cancelled, kept; taken up again when its worker dies."""

from __future__ import annotations

import asyncio
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import psycopg
import pytest

from isotherma.catalogue.demo import drover, folio
from isotherma.core.cache import Caches
from isotherma.core.options.changes import Change, What
from isotherma.core.options.sweep import Sweep, Swept, Vary
from isotherma.core.project import Project
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.uncertainty import Range
from isotherma.files.plain import PlainRefused, read_plain, write_plain
from isotherma.jobs.worker import Worker
from isotherma.services.comparisons import WRITTEN, ComparisonService
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.mending import WRITTEN as MENDING_WRITTEN
from isotherma.services.mending import Mending, MendingService
from isotherma.services.runs import compute, compute_band
from isotherma.services.stored_results import StoredResults
from isotherma.services.sweeps import SweepService, swept
from isotherma.store.engine import open_engine, open_sessions

ROOT = Path(__file__).parents[2]
ME, OTHER = Asker(person="a" * 16, place="1/first"), Asker(person="b" * 16, place="2/first")


@pytest.fixture
def working(database_url) -> Iterator[LongWork]:
    engine = open_engine(database_url)
    keeping = StoredResults(open_sessions(engine))
    yield LongWork(open_sessions(engine), keeping)
    keeping.settle()
    engine.dispose()


def until(done: Callable[[], bool], within_s: float = 180.0) -> float:
    began = time.monotonic()
    while not done():
        assert time.monotonic() - began < within_s
        time.sleep(0.05)
    return time.monotonic() - began


def payload(project: Project) -> dict[str, object]:
    return {"project": project.model_dump(mode="json"), "variant": project.variants[0].id}


def ask(working: LongWork, key: str = "k", asker: Asker = ME, project: Project | None = None):
    return working.ask("band", key, payload(project or folio()), asker)


def state_of(working: LongWork, key: str = "k") -> str:
    found = working.look("band", key)
    return found.state if found is not None else "never asked"


# --- asking ---


def test_what_is_asked_twice_waits_once_whoever_asks(working):
    first, again, other = ask(working), ask(working), ask(working, asker=OTHER)
    assert first.id == again.id == other.id
    assert (first.state, first.workers, first.before) == ("waiting", 0, 0)
    second = ask(working, "k2", OTHER)
    assert second.before == 1


def test_what_was_asked_for_the_design_as_it_was_is_not_done(working):
    ask(working, "before", replace(ME, revision_id=1))
    after = ask(working, "after", replace(ME, revision_id=2))
    assert state_of(working, "before") == "cancelled" and after.state == "waiting"
    ask(working, "elsewhere", replace(ME, place="9/first", revision_id=3))
    assert state_of(working, "after") == "waiting"


def test_what_is_asked_together_is_cancelled_together(working):
    seen = replace(ME, revision_id=7)
    jobs = [ask(working, f"k{place}", seen) for place in range(3)]
    ask(working, "other", replace(OTHER, revision_id=7))
    assert working.cancel(jobs[1].id, ME.person)
    assert {state_of(working, f"k{place}") for place in range(3)} == {"cancelled"}
    assert state_of(working, "other") == "waiting"


def test_only_who_asked_can_cancel_and_it_is_begun_anew_when_asked_again(working):
    job = ask(working)
    assert not working.cancel(job.id, OTHER.person) and not working.cancel(job.id + 99, ME.person)
    assert working.cancel(job.id, ME.person)
    assert ask(working).state == "cancelled"  # a page that looks again does not begin it
    anew = ask(working, asker=Asker(ME.person, ME.place, again=True))
    assert anew.state == "waiting" and anew.id != job.id


def test_a_key_that_is_not_known_was_never_asked(working):
    assert working.look("band", "nobody") is None and working.find("band", "nobody") is None


# --- working ---


def test_work_is_done_told_and_kept(working, worker):
    project = drover()
    variant = project.variants[0]
    comparing = ComparisonService(Caches(10**7), working)
    outcome = compute(project, variant)
    assert isinstance(outcome, Outcome)
    first = comparing.band(project, variant, outcome, ME)
    assert isinstance(first, UnderWay) and first.goes_on
    far: list[int] = []

    def done() -> bool:
        found = comparing.band(project, variant, outcome, ME)
        if isinstance(found, UnderWay):
            far.append(found.done)
        return isinstance(found, Range)

    until(done)
    found = comparing.band(project, variant, outcome, ME)
    assert found == compute_band(project, variant, outcome)  # the same as here, to the bit
    assert far == sorted(far) and max(far) > 0
    other = ComparisonService(Caches(10**7), working)  # another process reads what is kept
    assert other.band(project, variant, outcome, OTHER) == found


def test_mends_come_back_as_they_were_found(working, worker):
    project = drover()
    variant = project.variants[0]
    outcome = compute(project, variant)
    assert isinstance(outcome, Outcome)
    mending = MendingService(Caches(10**7), working)
    until(lambda: isinstance(mending.mends(project, variant, outcome, ME), Mending))
    found = mending.mends(project, variant, outcome, ME)
    assert found == MendingService.compute_mends(project, variant, outcome)


def test_cancelling_frees_the_worker_within_a_second(working, worker):
    job = ask(working)
    until(lambda: state_of(working) == "running")
    until(lambda: (working.look("band", "k") or job).done > 1)
    working.cancel(job.id, ME.person)
    next_one = ask(working, "next", OTHER, drover())
    took = until(lambda: state_of(working, "next") in ("running", "done"), 20.0)
    assert took < 10.0  # a run under way, and the queue's own second; a band takes longer
    assert next_one.before <= 1


def test_what_cannot_be_computed_fails_with_a_reason(working, worker):
    bare = Project.model_validate({
        "name": "B", "variants": [{"id": "first", "name": "First"}],
    })  # fmt: skip
    ask(working, project=bare)
    until(lambda: state_of(working) == "failed")
    found = working.look("band", "k")
    assert found is not None and found.error == "not_computed_yet" and not found.goes_on


def test_other_code_is_not_obeyed(working, worker, database_url):
    with psycopg.connect(database_url, autocommit=True) as connection:
        connection.execute(
            "CREATE FUNCTION age() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN "
            'NEW.payload := (NEW.payload::jsonb || \'{"code": "old"}\')::text; RETURN NEW; '
            "END $$"
        )
        connection.execute(
            "CREATE TRIGGER age BEFORE INSERT ON job FOR EACH ROW EXECUTE FUNCTION age()"
        )
    ask(working, project=drover())
    until(lambda: state_of(working) == "failed")
    found = working.look("band", "k")
    assert found is not None and found.error == "other_code"


def test_work_whose_worker_is_killed_is_taken_up_again_once(working, database_url, request):
    """A process of its own is killed in the middle; the next worker does all of it."""
    code = f"from isotherma.jobs.worker import run_worker; run_worker({database_url!r})"
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    victim = subprocess.Popen([sys.executable, "-c", code], env=env)
    ask(working, project=drover())
    until(lambda: (working.look("band", "k") or ask(working, project=drover())).done > 1, 90.0)
    victim.send_signal(signal.SIGKILL)
    victim.wait()
    request.getfixturevalue("worker")
    until(lambda: state_of(working) == "done", 90.0)
    assert working.find("band", "k") is not None
    with psycopg.connect(database_url) as connection:
        rows = connection.execute("SELECT attempts, state FROM job").fetchall()
        left = connection.execute("SELECT count(*) FROM procrastinate_jobs").fetchone()
    assert rows == [(2, "done")] and left == (0,)


STORE = "variants.ten-litres.system.parts.store.volume_m3"


def grid(columns: int, rows: int) -> Sweep:
    across = tuple(0.006 + 0.002 * step for step in range(columns))
    return Sweep(Vary(STORE, across), Vary("brief.inside_c", tuple(5.0 + at for at in range(rows))))


def test_a_sweep_goes_on_when_its_worker_is_killed_no_row_twice_and_none_lost(
    working, database_url, request
):
    code = f"from isotherma.jobs.worker import run_worker; run_worker({database_url!r})"
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    victim = subprocess.Popen([sys.executable, "-c", code], env=env)
    project, asked = drover(), grid(8, 5)
    variant = project.variants[0]

    def pieces() -> list[Swept]:
        found = SweepService(Caches(10**7), working).pieces(project, variant, asked, ME)
        return [piece for piece in found if isinstance(piece, Swept)]

    until(lambda: len(pieces()) >= 1, 90.0)
    victim.send_signal(signal.SIGKILL)
    victim.wait()
    done = len(pieces())
    assert done < 5, "it was killed too late to tell"
    with psycopg.connect(database_url) as connection:
        begun = connection.execute("SELECT count(*) FROM job WHERE state = 'running'").fetchone()
    cut = begun[0] if begun else 0
    request.getfixturevalue("worker")
    until(lambda: len(pieces()) == 5, 90.0)
    cells = [cell for piece in pieces() for cell in piece.cells]
    assert cells == list(swept(project, variant.id, asked).cells)
    with psycopg.connect(database_url) as connection:
        jobs = connection.execute("SELECT state, attempts FROM job").fetchall()
        left = connection.execute("SELECT count(*) FROM procrastinate_jobs").fetchone()
    # killed between two pieces, none had begun: whichever had is begun once more, and only that
    assert sorted(jobs) == [("done", 1)] * (5 - cut) + [("done", 2)] * cut and left == (0,)


def test_two_persons_sweeps_both_move(working, database_url, request):
    """The second asked when the first had all its rows in the queue, and does not wait for them."""
    project, asked = drover(), grid(3, 8)
    variant = project.variants[0]
    service = SweepService(Caches(10**7), working)
    first = service.pieces(project, variant, asked, ME)
    other = Sweep(Vary(STORE, (0.007, 0.009)), Vary("brief.inside_c", (3.0, 4.0)))
    found = service.pieces(project, variant, other, OTHER)
    assert [piece.before for piece in first if isinstance(piece, UnderWay)] == list(range(8))
    assert [piece.before for piece in found if isinstance(piece, UnderWay)] == [1, 3]
    request.getfixturevalue("worker")
    until(lambda: not any(isinstance(piece, UnderWay)
                          for piece in service.pieces(project, variant, asked, ME)))  # fmt: skip
    with psycopg.connect(database_url) as connection:
        ended = [row[0] for row in connection.execute(
            "SELECT person FROM job WHERE state = 'done' ORDER BY ended_at"
        ).fetchall()]  # fmt: skip
    assert ended[:4].count(OTHER.person) == 2 and len(ended) == 10


def test_a_worker_told_to_end_leaves_its_work_to_the_next(working, database_url, request):
    code = f"from isotherma.jobs.worker import run_worker; run_worker({database_url!r})"
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    leaving = subprocess.Popen([sys.executable, "-c", code], env=env)
    ask(working, project=drover())
    until(lambda: (working.look("band", "k") or ask(working, project=drover())).done > 1, 90.0)
    leaving.send_signal(signal.SIGTERM)
    leaving.wait(30)  # it does not finish what it is at; a busy machine is slow to end it
    assert state_of(working) == "waiting"
    request.getfixturevalue("worker")
    until(lambda: state_of(working) == "done", 60.0)


# --- written and read back ---


@pytest.mark.parametrize(
    "data", [b"", b"{", b'{"class": "Popen", "values": {}}', b'{"enum": ["What", "no"]}',
             b'{"class": "Range", "values": {"x": 1}}', b'{"strange": 1}', b'{"a": 1, "b": 2}'],
)  # fmt: skip
def test_what_is_none_of_ours_is_refused(data):
    with pytest.raises(PlainRefused):
        read_plain(data, WRITTEN)


def test_a_change_comes_back_with_its_values():
    change = Change(What.PLANNED, "", 1.0, 3.0, "number", {"brief.order": ["a", "b"]})
    assert read_plain(write_plain(change), MENDING_WRITTEN) == change


def test_a_worker_told_to_end_before_it_has_begun_does_not_begin(database_url):
    made = Worker(database_url)
    made.end()
    asyncio.run(asyncio.wait_for(made.run(name="late"), 30))
    made.close()
    assert made.ending
