"""Queries on what is done of a plan; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from isotherma.store.models import TaskDone, now


def of_variant(session: Session, vehicle_id: int, variant_id: str) -> Sequence[TaskDone]:
    """List what was done or left out of a variant's plan."""
    return session.scalars(
        select(TaskDone).where(TaskDone.vehicle_id == vehicle_id, TaskDone.variant_id == variant_id)
    ).all()


def of_vehicle(session: Session, vehicle_id: int) -> Sequence[TaskDone]:
    """List what was done or left out of the plans of all variants."""
    return session.scalars(
        select(TaskDone).where(TaskDone.vehicle_id == vehicle_id).order_by(TaskDone.id)
    ).all()


def put(
    session: Session, vehicle_id: int, variant_id: str, task_id: str, *, state: str, note: str,
    person: str, source: str, record: str | None = None, as_found: str = "", as_left: str = "",
) -> None:  # fmt: skip
    """Keep how a task stands; what was kept of it before is written over."""
    values = {"state": state, "note": note, "person": person, "source": source,
              "record": record, "as_found": as_found, "as_left": as_left,
              "done_at": now()}  # fmt: skip
    key = {"vehicle_id": vehicle_id, "variant_id": variant_id, "task_id": task_id}
    kept = insert(TaskDone).values({**key, **values})
    session.execute(kept.on_conflict_do_update(index_elements=list(key), set_=values))


def forget(session: Session, vehicle_id: int, variant_id: str, task_id: str) -> None:
    """Forget that a task was done or left out."""
    session.execute(delete(TaskDone).where(
        TaskDone.vehicle_id == vehicle_id, TaskDone.variant_id == variant_id,
        TaskDone.task_id == task_id))  # fmt: skip
