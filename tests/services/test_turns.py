"""Turns, results that are found once, and work that ends when nobody waits."""

from __future__ import annotations

import threading
import time
from functools import partial
from typing import Any

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.cache import SMALL_BYTES, Cache, Caches
from isotherma.core.results.outcome import Outcome
from isotherma.services import turns
from isotherma.services.comparisons import ComparisonService
from isotherma.services.computing import ResultService
from isotherma.services.long_work import Asker
from isotherma.services.runs import compute_band
from isotherma.services.turns import Busy, Cancelled, turn


def in_threads(count, work):
    """Run the same in so many threads at once; give what they gave or raised."""
    gate = threading.Barrier(count)
    found: list[Any] = [None] * count

    def one(place):
        gate.wait()
        try:
            found[place] = work()
        except Exception as error:
            found[place] = error

    threads = [threading.Thread(target=one, args=(place,)) for place in range(count)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(timeout=30)
    return found


def when_all_ask(kept, count, find):
    """Ask the same from so many threads; who finds waits until all are about to ask."""
    about = threading.Semaphore(0)
    all_here = threading.Event()

    def found():
        all_here.wait(10)
        return find()

    def ask():
        about.release()
        return kept.once("key", found)

    def watch():
        for _ in range(count):
            about.acquire(timeout=10)
        all_here.set()

    watcher = threading.Thread(target=watch)
    watcher.start()
    answers = in_threads(count, ask)
    watcher.join(timeout=10)
    return answers


def test_equal_questions_are_answered_once():
    kept: Cache[object] = Cache(Caches(5 * SMALL_BYTES), "things")
    asked = []

    def find():
        asked.append(1)
        return object()

    found = when_all_ask(kept, 8, find)
    assert len(asked) == 1 and len({id(item) for item in found}) == 1


def test_when_the_first_gives_up_the_next_goes_on():
    kept: Cache[int] = Cache(Caches(5 * SMALL_BYTES), "things")
    asked = []

    def find():
        asked.append(1)
        if len(asked) == 1:
            raise Cancelled
        return 7

    found = when_all_ask(kept, 3, find)
    assert sum(isinstance(item, Cancelled) for item in found) == 1
    assert found.count(7) == 2 and len(asked) == 2


def test_what_fails_is_not_kept():
    kept: Cache[int] = Cache(Caches(5 * SMALL_BYTES), "things")

    def fails():
        raise ValueError("no")

    with pytest.raises(ValueError, match="no"):
        kept.once("key", fails)
    assert kept.peek("key") is None
    assert kept.once("key", lambda: 3) == 3


def test_the_oldest_goes_when_there_is_no_room():
    kept: Cache[int] = Cache(Caches(3 * SMALL_BYTES), "things")
    for number in range(5):
        kept.once(number, partial(int, number))
    assert [kept.peek(number) for number in range(5)] == [None, None, 2, 3, 4]
    kept.peek(2)
    kept.put(9, 9)
    assert kept.peek(2) == 2 and kept.peek(3) is None


def test_another_question_does_not_wait():
    kept: Cache[str] = Cache(Caches(5 * SMALL_BYTES), "things")
    begun, go_on = threading.Event(), threading.Event()

    def slow():
        begun.set()
        go_on.wait(10)
        return "slow"

    thread = threading.Thread(target=lambda: kept.once("slow", slow))
    thread.start()
    begun.wait(10)
    assert kept.once("quick", lambda: "quick") == "quick"
    go_on.set()
    thread.join(timeout=10)
    assert kept.peek("slow") == "slow"


@pytest.fixture
def one_turn(monkeypatch):
    monkeypatch.setattr(turns, "_turns", threading.BoundedSemaphore(1))
    monkeypatch.setattr(turns, "LOOKS_EVERY_S", 0.02)
    monkeypatch.setattr(turns, "WAITS_S", 0.1)


def test_a_turn_within_a_turn_is_the_same(one_turn):
    with turn(), turn(), turn():
        pass
    with turn():
        pass


def held_elsewhere(work):
    """Do something while another thread holds the only turn."""
    begun, go_on = threading.Event(), threading.Event()

    def hold():
        with turn():
            begun.set()
            go_on.wait(10)

    thread = threading.Thread(target=hold)
    thread.start()
    begun.wait(10)
    try:
        return work()
    finally:
        go_on.set()
        thread.join(timeout=10)


def test_who_finds_no_turn_is_told_so(one_turn):
    def wait():
        with turn():
            pytest.fail("there was none")

    with pytest.raises(Busy):
        held_elsewhere(wait)
    with turn():  # given back: there is one again
        pass


def test_who_has_left_waits_no_longer(one_turn, monkeypatch):
    monkeypatch.setattr(turns, "WAITS_S", 30.0)

    def wait():
        with turn(lambda: True):
            pytest.fail("there was none")

    began = time.monotonic()
    with pytest.raises(Cancelled):
        held_elsewhere(wait)
    assert time.monotonic() - began < 10.0


def test_a_turn_is_given_back_after_a_fault(one_turn):
    for _ in range(3):
        with pytest.raises(ZeroDivisionError), turn():
            _ = 1 / 0
    with turn():
        pass


# --- long work ---


def test_a_band_ends_when_its_reader_has_left():
    project = drover()
    computing = ResultService(Caches(10**8))
    outcome = computing.result(project, project.variants[0])
    assert isinstance(outcome, Outcome)
    looked = []

    def stopped():
        looked.append(1)
        return len(looked) > 4

    with pytest.raises(Cancelled):
        compute_band(project, project.variants[0], outcome, stopped=stopped)
    assert len(looked) < 12


def test_progress_is_told_from_the_first_to_the_last():
    project = drover()
    variant = project.variants[0]
    outcome = ResultService(Caches(10**8)).result(project, variant)
    assert isinstance(outcome, Outcome)
    seen: list[tuple[int, int]] = []
    band = compute_band(project, variant, outcome, progress=lambda *far: seen.append(far))
    assert seen and all(0 <= done <= of == band.tried for done, of in seen)
    assert [done for done, _ in seen] == sorted(done for done, _ in seen)
    comparing = ComparisonService(Caches(10**7))
    kept = comparing.band(project, variant, outcome, Asker())
    assert kept == band and comparing.band(project, variant, outcome, Asker()) is kept


def test_a_stopped_comparison_ends():
    project = drover()
    draw = project.brief.draws[0]
    with pytest.raises(Cancelled):
        ComparisonService.compute_dead_leg(project, project.variants[0], draw, 900.0, lambda: True)
    assert ComparisonService.compute_dead_leg(project, project.variants[0], draw, 900.0)


# --- long comparisons ---


def test_one_long_comparison_at_a_time():
    going, most = [], []

    def compare():
        with turns.long_turn():
            going.append(1)
            most.append(len(going))
            with turn():
                pass
            going.pop()

    in_threads(4, compare)
    assert most and max(most) == 1


def test_a_long_one_lets_pages_go_first(monkeypatch):
    monkeypatch.setattr(turns, "GIVES_WAY_S", 30.0)
    page_runs, page_may_end = threading.Event(), threading.Event()
    order = []

    def page():
        with turn():
            page_runs.set()
            page_may_end.wait(10)
            order.append("page")

    def long():
        page_runs.wait(10)
        with turns.long_turn(), turn():
            order.append("long")

    threads = [threading.Thread(target=work) for work in (page, long)]
    for thread in threads:
        thread.start()
    page_runs.wait(10)
    turned = threading.Event()
    turned.wait(0.2)  # in which the long one would have run, had it not waited
    page_may_end.set()
    for thread in threads:
        thread.join(10)
    assert order == ["page", "long"]


def test_a_long_one_gives_way_but_not_for_ever(monkeypatch):
    monkeypatch.setattr(turns, "GIVES_WAY_S", 0.1)
    monkeypatch.setattr(turns, "_turns", threading.BoundedSemaphore(2))
    runs, ends = threading.Event(), threading.Event()

    def page():
        with turn():
            runs.set()
            ends.wait(10)

    thread = threading.Thread(target=page)
    thread.start()
    runs.wait(10)
    with turns.long_turn(), turn():
        pass
    ends.set()
    thread.join(10)


def test_who_stops_waiting_for_a_long_one_is_let_go(monkeypatch):
    monkeypatch.setattr(turns, "LOOKS_EVERY_S", 0.01)
    holds, ends = threading.Event(), threading.Event()

    def other():
        with turns.long_turn():
            holds.set()
            ends.wait(10)

    thread = threading.Thread(target=other)
    thread.start()
    holds.wait(10)
    with pytest.raises(Cancelled), turns.long_turn(lambda: True):
        pass
    monkeypatch.setattr(turns, "LONG_WAITS_S", 0.05)
    with pytest.raises(Busy), turns.long_turn():
        pass
    ends.set()
    thread.join(10)
    with turns.long_turn(), turns.long_turn():  # within its own it needs no second one
        pass
