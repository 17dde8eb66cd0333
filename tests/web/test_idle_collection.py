"""Garbage is swept when nobody waits."""

from __future__ import annotations

import asyncio
import gc
import weakref
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest

from isotherma.web import idle_collection
from isotherma.web.idle_collection import IdleCollection


class Ring:
    """Something only a sweep can find."""

    def __init__(self) -> None:
        self.me = self


@pytest.fixture(autouse=True)
def unswept():
    gc.disable()
    yield
    gc.enable()


def in_a_loop(walk):
    """Run a coroutine in a thread of its own: the browser's driver has a loop in this one."""
    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, walk).result()


async def answer(scope, receive, send):
    """An application that leaves a ring behind in the scope's list."""
    ring = Ring()
    scope["left"].append(weakref.ref(ring))
    await asyncio.sleep(scope.get("takes_s", 0.0))


async def ask(app, left, **more):
    await app({"type": "http", "left": left, **more}, None, None)


def test_it_is_swept_a_moment_after_the_answer(monkeypatch):
    monkeypatch.setattr(idle_collection, "IDLE_S", 0.01)
    left: list[Any] = []

    async def walk():
        app = IdleCollection(answer)
        await ask(app, left)
        assert left[0]() is not None  # not while somebody waited for it
        await asyncio.sleep(0.05)

    in_a_loop(walk())
    assert left[0]() is None


def test_nothing_is_swept_while_another_waits(monkeypatch):
    monkeypatch.setattr(idle_collection, "IDLE_S", 0.01)
    left: list[Any] = []

    async def walk():
        app = IdleCollection(answer)
        slow = asyncio.ensure_future(ask(app, left, takes_s=0.2))
        await ask(app, left)
        await asyncio.sleep(0.05)
        assert left[1]() is not None
        await slow
        await asyncio.sleep(0.05)

    in_a_loop(walk())
    assert all(ring() is None for ring in left)


def test_the_end_of_an_answer_that_fails_is_one_too(monkeypatch):
    monkeypatch.setattr(idle_collection, "IDLE_S", 0.01)
    left: list[Any] = []

    async def fails(scope, receive, send):
        await answer(scope, receive, send)
        raise ValueError("no")

    async def walk():
        app = IdleCollection(fails)
        with pytest.raises(ValueError, match="no"):
            await ask(app, left)
        await asyncio.sleep(0.05)

    in_a_loop(walk())
    assert left[0]() is None


def test_what_is_no_request_passes_by():
    seen = []

    async def other(scope, receive, send):
        seen.append(scope["type"])

    nobody: Any = None
    in_a_loop(IdleCollection(other)({"type": "lifespan"}, nobody, nobody))
    assert seen == ["lifespan"]
