"""Queries on long work: what was asked, how far it is; none of them commits."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import ColumnElement, delete, func, select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from isotherma.store.models import ACTIVE, Job, now

KEPT_FOR = timedelta(days=2)  # of what has ended
BEATS_WITHIN_S = 12.0  # of a worker that lives


def ask(
    session: Session, *, kind: str, key: str, payload: str, person: str, place: str,
    revision_id: int | None,
) -> tuple[Job, bool]:  # fmt: skip
    """Give the work under a key that waits or runs, else new work; say whether it is new."""
    values = {
        "kind": kind, "key": key, "payload": payload, "person": person, "place": place,
        "revision_id": revision_id, "state": "waiting", "done": 0, "whole": 0, "attempts": 0,
        "error": "", "created_at": now(),
    }  # fmt: skip
    made = session.execute(
        insert(Job).values(values)
        .on_conflict_do_nothing(index_elements=["key"], index_where=text(ACTIVE))
        .returning(Job.id)
    ).scalar_one_or_none()  # fmt: skip
    found = session.get(Job, made) if made is not None else active(session, key)
    if found is None:  # it ended just now: the newest says how
        found = newest(session, key)
    assert found is not None
    return found, made is not None


def active(session: Session, key: str) -> Job | None:
    """Give the work under a key that waits or runs."""
    query = select(Job).where(Job.key == key, Job.state.in_(("waiting", "running")))
    return session.scalars(query).first()


def newest(session: Session, key: str) -> Job | None:
    """Give the work under a key that was asked for last."""
    return session.scalars(select(Job).where(Job.key == key).order_by(Job.id.desc())).first()


def end_others(session: Session, job: Job) -> None:
    """Cancel what the same person asked of the same kind for the same design as it was before."""
    _cancel(session, job, Job.revision_id.is_distinct_from(job.revision_id))


def cancel(session: Session, job: Job) -> None:
    """Cancel work with what was asked together with it: of one kind, for one design as it is."""
    _cancel(session, job, Job.revision_id.is_not_distinct_from(job.revision_id))
    end(session, job.id, "cancelled")


def _cancel(session: Session, job: Job, which: ColumnElement[bool]) -> None:
    if not job.place:
        return
    session.execute(
        update(Job).where(
            Job.person == job.person, Job.place == job.place, Job.kind == job.kind, which,
            Job.id != job.id, Job.state.in_(("waiting", "running")),
        ).values(state="cancelled", ended_at=now())
    )  # fmt: skip


def before(session: Session, job: Job) -> int:
    """Count what waits before it: of every person the first comes before anybody's second."""
    turn = func.row_number().over(partition_by=Job.person, order_by=Job.id).label("turn")
    waiting = select(Job.id, turn).where(Job.state == "waiting").subquery()
    mine = select(waiting.c.turn).where(waiting.c.id == job.id).scalar_subquery()
    query = select(func.count()).select_from(waiting).where(
        (waiting.c.turn < mine) | ((waiting.c.turn == mine) & (waiting.c.id < job.id))
    )  # fmt: skip
    return int(session.scalar(query) or 0)


def waiting_of(session: Session, person: str) -> int:
    """Count what of a person waits."""
    query = select(func.count()).where(Job.person == person, Job.state == "waiting")
    return int(session.scalar(query) or 0)


def begin(session: Session, job_id: int) -> Job | None:
    """Take work up; None where it was cancelled meanwhile."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None or job.state not in ("waiting", "running"):
        return None
    job.state, job.attempts = "running", job.attempts + 1
    return job


def told(session: Session, job_id: int, done: int, whole: int) -> bool:
    """Note how far it is; say whether it shall go on."""
    changed = session.execute(
        update(Job).where(Job.id == job_id, Job.state == "running")
        .values(done=done, whole=whole).returning(Job.id)
    ).scalar_one_or_none()  # fmt: skip
    return changed is not None


def end(session: Session, job_id: int, state: str, error: str = "") -> None:
    """Note that it has ended, unless it has already."""
    session.execute(
        update(Job).where(Job.id == job_id, Job.state.in_(("waiting", "running")))
        .values(state=state, error=error, ended_at=now())
    )  # fmt: skip


def put_back(session: Session, job_id: int) -> Job | None:
    """Let work wait again that a worker had taken up and leaves; None where nobody wants it."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None or job.state != "running":
        return None
    job.state, job.attempts = "waiting", job.attempts - 1
    return job


def forget_old(session: Session) -> None:
    """Let go of what ended long ago."""
    old = now() - KEPT_FOR
    session.execute(delete(Job).where(Job.ended_at.is_not(None), Job.ended_at < old))


def workers(session: Session) -> int:
    """Count the workers that live."""
    query = text(
        "SELECT count(*) FROM procrastinate_workers "
        "WHERE last_heartbeat > now() - make_interval(secs => :secs)"
    )
    return int(session.scalar(query, {"secs": BEATS_WITHIN_S}) or 0)
