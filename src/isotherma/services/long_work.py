"""Long work that is asked for here and done by a worker: looked for, asked, followed, cancelled.

What is done is kept under the name of what it was computed from, as every result is; here stands
only what was asked, by whom, and how far it is.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Any, Final

import procrastinate
from sqlalchemy.orm import Session, sessionmaker

from isotherma.services.stored_results import StoredResults, code_digest, kept_name
from isotherma.store import jobs as queries
from isotherma.store.models import Job

QUEUE: Final = "long"
TASK: Final = "isotherma.long_work"
AT_ONCE: Final = 2  # of one person; another's work is not held up by a third


@dataclass(frozen=True, slots=True)
class Asker:
    """Who asks, for which design, at which revision; `again` after it was cancelled or failed."""

    person: str = ""
    place: str = ""
    revision_id: int | None = None
    again: bool = False


@dataclass(frozen=True, slots=True)
class UnderWay:
    """Work that is not done: how it stands, how far it is, what waits before it.

    `state` is "waiting", "running", "cancelled" or "failed"; `whole` is 0 while nobody knows how
    much there is; `workers` are those that live.
    """

    id: int
    state: str
    done: int
    whole: int
    before: int
    workers: int
    error: str = ""

    @property
    def goes_on(self) -> bool:
        """Whether it waits or runs."""
        return self.state in ("waiting", "running")


class LongWork:
    """Asks workers for what takes long.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database the workers look at. [-]
    keeping : StoredResults
        Where they keep what is done. [-]
    """

    def __init__(self, sessions: sessionmaker[Session], keeping: StoredResults) -> None:
        self._sessions, self._keeping = sessions, keeping

    def find(self, kind: str, key: str) -> bytes | None:
        """Give what was computed; None where nothing is kept."""
        return self._keeping.find(kind, key)

    def ask(self, kind: str, key: str, payload: Mapping[str, Any], asker: Asker) -> UnderWay:
        """Give how far work is; where nobody has asked for it yet, ask a worker.

        Work that was cancelled or has failed is only begun anew when it is asked for again.
        """
        name = kept_name(kind, key)
        with self._sessions.begin() as session:
            last = queries.newest(session, name)
            ended = last is not None and last.state in ("cancelled", "failed")
            if last is not None and ended and not asker.again:
                return _view(session, last)
            job, new = queries.ask(
                session, kind=kind, key=name, person=asker.person, place=asker.place,
                revision_id=asker.revision_id,
                payload=json.dumps({**payload, "code": code_digest(), "key": key}),
            )  # fmt: skip
            if new:
                queries.end_others(session, job)  # what the design was is of no use any more
                put_in_queue(session, job)
                queries.forget_old(session)
            return _view(session, job)

    def look(self, kind: str, key: str) -> UnderWay | None:
        """Give how far work is that was asked for; None where nobody has."""
        with self._sessions.begin() as session:
            job = queries.newest(session, kept_name(kind, key))
            return _view(session, job) if job is not None else None

    def of(self, job_id: int, person: str) -> UnderWay | None:
        """Give how far a piece of work is that somebody asked for; None where it is not theirs."""
        with self._sessions() as session:
            job = session.get(Job, job_id)
            return None if job is None or job.person != person else _view(session, job)

    def cancel(self, job_id: int, person: str) -> bool:
        """End work of one's own, and what was asked with it; it stops within a second.

        False where it is not there.
        """
        with self._sessions.begin() as session:
            job = session.get(Job, job_id)
            if job is None or job.person != person:
                return False
            queries.cancel(session, job)
            return True


@cache
def _queue() -> procrastinate.App:
    """Give the queue; it works within our own transactions and opens no connection."""
    return procrastinate.App(connector=procrastinate.SyncPsycopgConnector())


def put_in_queue(session: Session, job: Job) -> None:
    """Put work into the queue, in the same transaction; of a person's only so many at once.

    Of every person the first comes before anybody's second, so that nobody's forty pieces of a
    sweep hold up another's one.
    """
    session.flush()
    before = queries.waiting_of(session, job.person) - 1 if job.person else 0
    lock = f"{job.person}/{job.id % AT_ONCE}" if job.person else None
    waiting = _queue().configure_task(
        TASK, queue=QUEUE, lock=lock, priority=-max(0, before),
        connection=session.connection().connection.driver_connection,
    )  # fmt: skip
    waiting.defer(job_id=job.id)


def _view(session: Session, job: Job) -> UnderWay:
    before = queries.before(session, job) if job.state == "waiting" else 0
    return UnderWay(
        job.id, job.state, job.done, job.whole, before, queries.workers(session), job.error
    )
