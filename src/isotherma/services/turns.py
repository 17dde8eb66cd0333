"""At most as many computations at a time as there are cores; long comparisons one at a time.

A long comparison is made of many short runs. It takes a turn for each, and lets every page that
waits for a run of its own go first.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore, Condition, local
from typing import Final

WAITS_S: Final = 20.0
LONG_WAITS_S: Final = 180.0  # for the long ones that were asked for before
GIVES_WAY_S: Final = 2.0  # at most at a time, so that it ends though pages never do
LOOKS_EVERY_S: Final = 0.5
Stopped = Callable[[], bool]


class Busy(Exception):
    """All turns were taken for longer than anybody waits."""


class Cancelled(Exception):
    """Somebody stopped waiting."""


def never() -> bool:
    """Nobody stops it."""
    return False


_turns = BoundedSemaphore(max(1, os.cpu_count() or 1))
_long = BoundedSemaphore(1)
_mine = local()
_short = 0  # runs of pages that are under way or wait
_none_short = Condition()


def _acquire(semaphore: BoundedSemaphore, stopped: Stopped, waits_s: float) -> None:
    until = time.monotonic() + waits_s
    while not semaphore.acquire(timeout=LOOKS_EVERY_S):
        if stopped():
            raise Cancelled
        if time.monotonic() > until:
            raise Busy


def _count(by: int) -> None:
    global _short
    with _none_short:
        _short += by
        if _short == 0:
            _none_short.notify_all()


def _give_way(stopped: Stopped) -> None:
    """Wait while pages have runs to make, but not for ever."""
    until = time.monotonic() + GIVES_WAY_S
    with _none_short:
        while _short and time.monotonic() < until:
            _none_short.wait(0.05)
    if stopped():
        raise Cancelled


@contextmanager
def turn(stopped: Stopped = never) -> Iterator[None]:
    """Hold one turn while computing; Busy after a while, Cancelled when nobody waits any more.

    A computation that asks for another within its own turn needs no second one.
    """
    if getattr(_mine, "held", False):
        yield
        return
    is_long = getattr(_mine, "long", False)
    if is_long:
        _give_way(stopped)
    else:
        _count(1)
    try:
        _acquire(_turns, stopped, WAITS_S)
        _mine.held = True
        try:
            yield
        finally:
            _mine.held = False
            _turns.release()
    finally:
        if not is_long:
            _count(-1)


@contextmanager
def long_turn(stopped: Stopped = never) -> Iterator[None]:
    """Be the only long comparison of this process; each of its runs takes a turn of its own."""
    if getattr(_mine, "long", False):
        yield
        return
    _acquire(_long, stopped, LONG_WAITS_S)
    _mine.long = True
    try:
        yield
    finally:
        _mine.long = False
        _long.release()
