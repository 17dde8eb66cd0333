"""A worker: takes long work from the queue, tells how far it is, keeps what is done."""

from __future__ import annotations

import asyncio
import gc
import json
import os
import signal
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from importlib import import_module
from typing import Any, Final

import procrastinate
from sqlalchemy.orm import Session, sessionmaker

from isotherma.core.errors import CoreError
from isotherma.jobs.kinds import KINDS, WITH_DATABASE
from isotherma.services.long_work import QUEUE, TASK, put_in_queue
from isotherma.services.stored_results import StoredResults, code_digest
from isotherma.services.turns import Cancelled
from isotherma.store import jobs as queries
from isotherma.store.engine import open_engine, open_sessions

LOW_PRIORITY: Final = 10  # pages come first
TELLS_EVERY_S: Final = 0.25
LOOKS_EVERY_S: Final = 1.0
BEATS_EVERY_S: Final = 2.0
DEAD_AFTER_S: Final = 8.0
TAKEN_UP: Final = 2  # times in all: what ends two workers would end a third
ENDS_WITHIN_S: Final = 3.0


class Worker:
    """Does the work of one database.

    Parameters
    ----------
    url : str
        Of the database. [-]
    """

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine = open_engine(url)
        self.sessions: sessionmaker[Session] = open_sessions(self.engine)
        self.keeping = StoredResults(self.sessions)
        self.app = procrastinate.App(
            connector=procrastinate.PsycopgConnector(conninfo=url, min_size=1, max_size=4)
        )
        self.ending = False
        self._stop: Callable[[], object] = lambda: None
        self.app.task(name=TASK, queue=QUEUE)(self.work)

    def work(self, job_id: int) -> None:
        """Do one piece of work; whatever comes of it is noted."""
        with self.sessions.begin() as session:
            job = queries.begin(session, job_id)
            if job is None:
                return  # cancelled before anybody took it up
            kind, payload, attempts = job.kind, json.loads(job.payload), job.attempts
        if attempts > TAKEN_UP:
            self._end(job_id, "failed", "lost_its_workers")
        elif payload["code"] != code_digest():
            self._end(job_id, "failed", "other_code")
        else:
            self._do(job_id, kind, payload)

    def _do(self, job_id: int, kind: str, payload: dict[str, Any]) -> None:
        tells = _Teller(self.sessions, job_id, lambda: self.ending)
        try:
            if kind in WITH_DATABASE:
                made = WITH_DATABASE[kind](
                    self.sessions, self.keeping, payload, tells.told, tells.stopped
                )
            else:
                made = KINDS[kind](payload, tells.told, tells.stopped)
        except Cancelled:
            if self.ending:
                self._wait_again(job_id)
            return
        except CoreError as error:
            self._end(job_id, "failed", error.code)
            return
        except Exception:
            self._end(job_id, "failed", "mistake")
            raise  # the queue's log has the rest
        self.keeping.keep(kind, payload["key"], lambda: made)
        kept = self.keeping.settle() and self.keeping.find(kind, payload["key"]) is not None
        self._end(job_id, "done" if kept else "failed", "" if kept else "not_kept")

    def _end(self, job_id: int, state: str, error: str) -> None:
        gc.collect()
        with self.sessions.begin() as session:
            queries.end(session, job_id, state, error)

    def _wait_again(self, job_id: int) -> None:
        """Leave work to another worker, since this one is told to end."""
        with self.sessions.begin() as session:
            job = queries.put_back(session, job_id)
            if job is not None:
                put_in_queue(session, job)

    async def run(self, *, name: str = "worker") -> None:
        """Take work until told to end; what a dead worker held is taken up again."""
        loop = asyncio.get_running_loop()
        async with self.app.open_async():
            keeper = asyncio.create_task(self._take_up())
            taking = asyncio.create_task(self.app.run_worker_async(
                queues=[QUEUE], name=name, concurrency=1, install_signal_handlers=False,
                fetch_job_polling_interval=LOOKS_EVERY_S,
                abort_job_polling_interval=LOOKS_EVERY_S,
                shutdown_graceful_timeout=ENDS_WITHIN_S, delete_jobs="always",
                update_heartbeat_interval=BEATS_EVERY_S, stalled_worker_timeout=DEAD_AFTER_S,
            ))  # fmt: skip

            self._stop = partial(loop.call_soon_threadsafe, taking.cancel)
            if threading.current_thread() is threading.main_thread():
                for number in (signal.SIGTERM, signal.SIGINT):
                    loop.add_signal_handler(number, self.end)
            if self.ending:  # it was told before there was anything to stop
                taking.cancel()
            with suppress(asyncio.CancelledError):
                await taking
            keeper.cancel()

    def end(self) -> None:
        """Tell it to end, from any thread, also before it has begun; `run` returns soon."""
        self.ending = True
        self._stop()

    async def _take_up(self) -> None:
        """Put work back whose worker has died."""
        manager = self.app.job_manager
        while True:
            for job in await manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER_S):
                await manager.retry_job(job)
            await asyncio.sleep(BEATS_EVERY_S)

    def close(self) -> None:
        """Let go of the database."""
        self.keeping.settle()
        self.engine.dispose()


class _Teller:
    """Tells how far work is and hears whether it is still wanted, seldom enough not to matter."""

    def __init__(
        self, sessions: sessionmaker[Session], job_id: int, ending: Callable[[], bool]
    ) -> None:
        self.sessions, self.job_id, self.ending = sessions, job_id, ending
        self._at = 0.0
        self._wanted = True
        self._last = (0, 0)

    def told(self, done: int, whole: int) -> None:
        self._last = (done, whole)
        self._look()

    def stopped(self) -> bool:
        self._look()
        return self.ending() or not self._wanted

    def _look(self) -> None:
        now = time.monotonic()
        if now - self._at < TELLS_EVERY_S:
            return
        self._at = now
        with self.sessions.begin() as session:
            self._wanted = queries.told(session, self.job_id, *self._last)


def run_worker(url: str, *, name: str = "worker") -> None:
    """Be a worker of low priority until told to end."""
    os.nice(LOW_PRIORITY)
    # a run makes a few hundred thousand small objects: they are swept after it, not in its middle
    gc.freeze()
    gc.disable()
    # what a dossier is set with takes a second to import: nobody shall wait for it
    threading.Thread(target=import_module, args=("weasyprint",), daemon=True).start()
    worker = Worker(url)
    try:
        asyncio.run(worker.run(name=name))
    finally:
        worker.close()
