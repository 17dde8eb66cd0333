"""Queries on what columns and channels mean; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from isotherma.store.models import Mapping


def find(session: Session, vehicle_id: int, variant_id: str, kind: str, name: str) -> str | None:
    """Give one; None where nobody said."""
    return session.scalar(
        select(Mapping.document).where(
            Mapping.vehicle_id == vehicle_id, Mapping.variant_id == variant_id,
            Mapping.kind == kind, Mapping.name == name)
    )  # fmt: skip


def names(session: Session, vehicle_id: int, variant_id: str, kind: str) -> Sequence[str]:
    """Name those of a kind, the latest first."""
    return session.scalars(
        select(Mapping.name)
        .where(Mapping.vehicle_id == vehicle_id, Mapping.variant_id == variant_id,
               Mapping.kind == kind)
        .order_by(Mapping.id.desc())
    ).all()  # fmt: skip


def of_vehicle(session: Session, vehicle_id: int) -> Sequence[Mapping]:
    """Give all of a vehicle."""
    return session.scalars(
        select(Mapping).where(Mapping.vehicle_id == vehicle_id).order_by(Mapping.id)
    ).all()


def put(
    session: Session, vehicle_id: int, variant_id: str, kind: str, name: str, document: str
) -> None:
    """Keep one; what was kept under its name is written over."""
    key = {"vehicle_id": vehicle_id, "variant_id": variant_id, "kind": kind, "name": name}
    kept = insert(Mapping).values({**key, "document": document})
    session.execute(
        kept.on_conflict_do_update(index_elements=list(key), set_={"document": document})
    )
