"""Queries on what was computed and is kept; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from isotherma.store.models import StoredResult, now


def find(session: Session, keys: Sequence[str]) -> dict[str, bytes]:
    """Give what is kept under some keys, by key; those that are not there are left out."""
    rows = session.execute(
        select(StoredResult.key, StoredResult.body).where(StoredResult.key.in_(keys))
    )
    return {row.key: row.body for row in rows}


def touch(session: Session, keys: Sequence[str]) -> None:
    """Note that something kept was used; within an hour once is enough."""
    long_ago = now() - timedelta(hours=1)
    fits = StoredResult.key.in_(keys) & (StoredResult.used_at < long_ago)
    session.execute(update(StoredResult).where(fits).values(used_at=now()))


def put(session: Session, key: str, body: bytes) -> None:
    """Keep something; what is there under the key already is as good."""
    values = {"key": key, "body": body, "size_bytes": len(body), "used_at": now()}
    session.execute(insert(StoredResult).values(values).on_conflict_do_nothing())


def prune(session: Session, most_bytes: int) -> None:
    """Let go of what was used longest ago, until the rest has room."""
    total = func.sum(StoredResult.size_bytes).over(order_by=StoredResult.used_at.desc())
    ranked = select(StoredResult.key, total.label("total")).subquery()
    over = select(ranked.c.key).where(ranked.c.total > most_bytes)
    session.execute(delete(StoredResult).where(StoredResult.key.in_(over)))
