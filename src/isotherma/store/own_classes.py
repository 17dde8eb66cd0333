"""Queries on classes of one's own; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from isotherma.store.models import OwnClass, now


def every(session: Session, owner_id: int | None) -> Sequence[OwnClass]:
    """List those of an account, or of nobody's, by kind and name."""
    mine = OwnClass.owner_id.is_not_distinct_from(owner_id)
    query = select(OwnClass).where(mine).order_by(OwnClass.kind, OwnClass.name)
    return session.scalars(query).all()


def mark(session: Session, owner_id: int | None) -> tuple[object, ...]:
    """Say in few values which there are: another where one came, went or was kept anew."""
    mine = OwnClass.owner_id.is_not_distinct_from(owner_id)
    query = select(func.count(OwnClass.id), func.max(OwnClass.created_at)).where(mine)
    return (owner_id, *session.execute(query).one())


def put(
    session: Session, owner_id: int | None, kind: str, name: str, document: str,
    format_version: int,
) -> None:  # fmt: skip
    """Keep one; what has this kind and name is kept anew."""
    values = {"owner_id": owner_id, "kind": kind, "name": name, "document": document,
              "format_version": format_version, "created_at": now()}  # fmt: skip
    kept = insert(OwnClass).values(values)
    session.execute(
        kept.on_conflict_do_update(
            index_elements=["owner_id", "kind", "name"],
            set_={key: values[key] for key in ("document", "format_version", "created_at")},
        )
    )


def remove(session: Session, owner_id: int | None, class_id: int) -> None:
    """Take one out; parts that were made of it stay."""
    mine = OwnClass.owner_id.is_not_distinct_from(owner_id)
    session.execute(delete(OwnClass).where(OwnClass.id == class_id, mine))
