"""Queries on classes of one's own; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from isotherma.store.models import OwnClass, now


def every(session: Session) -> Sequence[OwnClass]:
    """List all of them, by kind and name."""
    return session.scalars(select(OwnClass).order_by(OwnClass.kind, OwnClass.name)).all()


def mark(session: Session) -> tuple[object, ...]:
    """Say in few values which there are: another where one came, went or was kept anew."""
    row = session.execute(select(func.count(OwnClass.id), func.max(OwnClass.created_at))).one()
    return tuple(row)


def put(session: Session, kind: str, name: str, document: str, format_version: int) -> None:
    """Keep one; what has this kind and name is kept anew."""
    values = {"kind": kind, "name": name, "document": document,
              "format_version": format_version, "created_at": now()}  # fmt: skip
    kept = insert(OwnClass).values(values)
    session.execute(
        kept.on_conflict_do_update(
            index_elements=["kind", "name"],
            set_={key: values[key] for key in ("document", "format_version", "created_at")},
        )
    )


def remove(session: Session, class_id: int) -> None:
    """Take one out; parts that were made of it stay."""
    session.execute(delete(OwnClass).where(OwnClass.id == class_id))
