"""Queries on cases of the fault finder; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from isotherma.store.models import FaultCase, now


def open_one(session: Session, vehicle_id: int, variant_id: str, *, lock: bool = False) -> (
    FaultCase | None
):  # fmt: skip
    """Give the case that is open; None where there is none."""
    query = select(FaultCase).where(
        FaultCase.vehicle_id == vehicle_id, FaultCase.variant_id == variant_id,
        FaultCase.ended_at.is_(None),
    ).order_by(FaultCase.id).limit(1)  # fmt: skip
    return session.scalars(query.with_for_update() if lock else query).first()


def ended(session: Session, vehicle_id: int, variant_id: str, most: int) -> Sequence[FaultCase]:
    """List cases that have ended, the latest first."""
    return session.scalars(
        select(FaultCase)
        .where(FaultCase.vehicle_id == vehicle_id, FaultCase.variant_id == variant_id,
               FaultCase.ended_at.is_not(None))
        .order_by(FaultCase.ended_at.desc()).limit(most)
    ).all()  # fmt: skip


def of_vehicle(session: Session, vehicle_id: int) -> Sequence[FaultCase]:
    """List all cases of a vehicle."""
    return session.scalars(
        select(FaultCase).where(FaultCase.vehicle_id == vehicle_id).order_by(FaultCase.id)
    ).all()


def begin(session: Session, vehicle_id: int, variant_id: str, document: str) -> FaultCase:
    """Open a case."""
    made = FaultCase(vehicle_id=vehicle_id, variant_id=variant_id, document=document)
    session.add(made)
    return made


def end(case: FaultCase, outcome: str) -> None:
    """End a case with what it was."""
    case.outcome, case.ended_at = outcome, now()
