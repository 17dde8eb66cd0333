"""Queries on photographs; none of them commits, and a list never reads their bodies."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Row, delete, func, select
from sqlalchemy.orm import Session, defer

from isotherma.store.models import Photo


def add(session: Session, photo: Photo) -> None:
    """Keep one."""
    session.add(photo)


def count(session: Session, vehicle_id: int) -> int:
    """Count those of a vehicle."""
    return session.scalar(
        select(func.count()).select_from(Photo).where(Photo.vehicle_id == vehicle_id)
    ) or 0  # fmt: skip


def listed(
    session: Session, vehicle_id: int, variant_id: str
) -> Sequence[Row[int, str, int, int, str, str]]:
    """List those of a variant: id, about, width, height, note, person; the oldest first."""
    return session.execute(
        select(Photo.id, Photo.about, Photo.width_px, Photo.height_px, Photo.note, Photo.person)
        .where(Photo.vehicle_id == vehicle_id, Photo.variant_id == variant_id)
        .order_by(Photo.id)
    ).all()


def of_vehicle(session: Session, vehicle_id: int) -> Sequence[Photo]:
    """Give all of a vehicle, each without its body until it is asked for."""
    return session.scalars(
        select(Photo).options(defer(Photo.body)).where(Photo.vehicle_id == vehicle_id)
        .order_by(Photo.id)
    ).all()  # fmt: skip


def body(session: Session, number: int) -> bytes:
    """Give the body of one."""
    return session.scalars(select(Photo.body).where(Photo.id == number)).one()


def one(session: Session, vehicle_id: int, variant_id: str, number: int) -> Photo | None:
    """Give one; None where this variant has none of that number."""
    return session.scalar(
        select(Photo).where(Photo.vehicle_id == vehicle_id, Photo.variant_id == variant_id,
                            Photo.id == number)
    )  # fmt: skip


def drop(session: Session, vehicle_id: int, variant_id: str, number: int) -> None:
    """Forget one."""
    session.execute(delete(Photo).where(
        Photo.vehicle_id == vehicle_id, Photo.variant_id == variant_id, Photo.id == number,
    ))  # fmt: skip
