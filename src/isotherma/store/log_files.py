"""Queries on files of loggers; none of them commits, and a list never reads their bodies."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Row, delete, func, select, update
from sqlalchemy.orm import Session

from isotherma.store.models import LogFile


def add(session: Session, file: LogFile) -> int:
    """Keep one, and give its number."""
    session.add(file)
    session.flush()
    return file.id


def listed(
    session: Session, vehicle_id: int, variant_id: str, *, imported: bool
) -> Sequence[Row[int, str, int, int]]:
    """List those of a variant: id, name, rows, bytes as kept; the latest first."""
    return session.execute(
        select(LogFile.id, LogFile.name, LogFile.rows, func.length(LogFile.body))
        .where(LogFile.vehicle_id == vehicle_id, LogFile.variant_id == variant_id,
               LogFile.imported == imported)
        .order_by(LogFile.id.desc())
    ).all()  # fmt: skip


def one(session: Session, vehicle_id: int, variant_id: str, number: int) -> LogFile | None:
    """Find one of a variant by its number."""
    return session.scalars(select(LogFile).where(
        LogFile.vehicle_id == vehicle_id, LogFile.variant_id == variant_id,
        LogFile.id == number)).one_or_none()  # fmt: skip


def drop(session: Session, vehicle_id: int, variant_id: str, number: int) -> None:
    """Forget one."""
    session.execute(delete(LogFile).where(
        LogFile.vehicle_id == vehicle_id, LogFile.variant_id == variant_id,
        LogFile.id == number))  # fmt: skip


def keep(session: Session, number: int, rows: int) -> None:
    """Note that one was imported, and is kept whole."""
    session.execute(update(LogFile).where(LogFile.id == number).values(imported=True, rows=rows))
