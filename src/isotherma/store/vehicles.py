"""Queries on vehicles and revisions; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session, aliased

from isotherma.store.models import Note, Revision, Share, Vehicle, now


def ping(session: Session) -> None:
    """Ask the database the least there is to ask."""
    session.execute(select(1))


@dataclass(frozen=True, slots=True)
class Whose:
    """Whose vehicles are looked for: everybody's, or those an account owns or is shared."""

    everybody: bool = True
    account_id: int | None = None

    def sees(self) -> tuple[ColumnElement[bool], ...]:
        """Give the condition on a vehicle; none where everybody's are looked for."""
        if self.everybody:
            return ()
        shared = select(Share.vehicle_id).where(Share.account_id == self.account_id)
        return ((Vehicle.owner_id == self.account_id) | Vehicle.id.in_(shared),)


EVERYBODY = Whose()
CHANNEL = "isotherma_vehicle"


def _fitting(search: str, whose: Whose) -> tuple[ColumnElement[bool], ...]:
    fits: tuple[ColumnElement[bool], ...] = (Vehicle.deleted_at.is_(None), *whose.sees())
    if search:
        fits = (*fits, Vehicle.name.icontains(search, autoescape=True))
    return fits


def count_living(session: Session, search: str, whose: Whose = EVERYBODY) -> int:
    """Count vehicles that are not deleted and whose name fits."""
    fits = _fitting(search, whose)
    return session.scalar(select(func.count()).select_from(Vehicle).where(*fits)) or 0


def living(
    session: Session, search: str, most: int, skipped: int, whose: Whose = EVERYBODY
) -> Sequence[tuple[Vehicle, Revision]]:
    """List some vehicles that are not deleted with their heads, the newest change first."""
    rows = session.execute(
        select(Vehicle, Revision)
        .join(Revision, Revision.id == Vehicle.head_id)
        .where(*_fitting(search, whose))
        .order_by(Revision.created_at.desc(), Vehicle.id.desc())
        .limit(most)
        .offset(skipped)
    )
    return [(vehicle, revision) for vehicle, revision in rows]


def living_marks(
    session: Session, search: str, most: int, skipped: int, whose: Whose = EVERYBODY
) -> tuple[tuple[int, int | None], ...]:
    """Give the numbers of some living vehicles and of their heads, in the order of `living`."""
    rows = session.execute(
        select(Vehicle.id, Vehicle.head_id)
        .join(Revision, Revision.id == Vehicle.head_id)
        .where(*_fitting(search, whose))
        .order_by(Revision.created_at.desc(), Vehicle.id.desc())
        .limit(most)
        .offset(skipped)
    )
    return tuple((row.id, row.head_id) for row in rows)


def named(
    session: Session, wanted: str, whose: Whose = EVERYBODY
) -> tuple[Vehicle, Revision] | None:
    """Find a vehicle by its number or its whole name, the last changed first."""
    fits = Vehicle.name == wanted
    if wanted.isascii() and wanted.isdecimal() and len(wanted) < 10:
        fits = (Vehicle.id == int(wanted)) | fits
    row = session.execute(
        select(Vehicle, Revision)
        .join(Revision, Revision.id == Vehicle.head_id)
        .where(Vehicle.deleted_at.is_(None), fits, *whose.sees())
        .order_by(Revision.created_at.desc(), Vehicle.id.desc())
        .limit(1)
    ).first()
    return (row[0], row[1]) if row is not None else None


def _possible(number: int) -> bool:
    """Say whether the database could have given this number; others are not asked for."""
    return 0 < number < 2**31


def find(session: Session, vehicle_id: int, *, lock: bool = False) -> Vehicle | None:
    """Find a vehicle that is not deleted; with `lock`, keep others from changing it."""
    if not _possible(vehicle_id):
        return None
    query = select(Vehicle).where(Vehicle.id == vehicle_id, Vehicle.deleted_at.is_(None))
    return session.scalar(query.with_for_update() if lock else query)


def mark(session: Session, vehicle_id: int) -> tuple[int | None, ...] | None:
    """Give the shown revision of a vehicle, the one shown before it, and the end of the chain."""
    if not _possible(vehicle_id):
        return None
    row = session.execute(
        select(Vehicle.head_id, Vehicle.previous_id, Vehicle.tip_id).where(
            Vehicle.id == vehicle_id, Vehicle.deleted_at.is_(None)
        )
    ).first()
    return None if row is None else tuple(row)


def find_any(session: Session, vehicle_id: int) -> Vehicle | None:
    """Find a vehicle, deleted or not, and lock it."""
    if not _possible(vehicle_id):
        return None
    return session.scalar(select(Vehicle).where(Vehicle.id == vehicle_id).with_for_update())


def revision(session: Session, revision_id: int | None) -> Revision | None:
    """Find a revision by id."""
    if revision_id is None or not _possible(revision_id):
        return None
    return session.get(Revision, revision_id)


def history(session: Session, vehicle_id: int, most: int) -> Sequence[Revision]:
    """List the named states of a vehicle and its newest others, the newest first."""
    newest = select(Revision.id).where(Revision.vehicle_id == vehicle_id)
    newest = newest.order_by(Revision.id.desc()).limit(most)
    found = session.scalars(
        select(Revision)
        .where(
            Revision.vehicle_id == vehicle_id,
            Revision.id.in_(newest) | Revision.name.is_not(None),
        )
        .order_by(Revision.id.desc())
    )
    return list(found)


def child_towards(session: Session, head_id: int, tip_id: int) -> Revision | None:
    """Find the child of head on the way to tip: what redo would bring back."""
    if head_id == tip_id:
        return None
    step = aliased(Revision)
    chain = select(Revision.id, Revision.parent_id).where(Revision.id == tip_id).cte(recursive=True)
    chain = chain.union_all(
        select(step.id, step.parent_id).where(step.id == chain.c.parent_id, step.id > head_id)
    )
    child_id = session.scalar(select(chain.c.id).where(chain.c.parent_id == head_id))
    return revision(session, child_id)


def append(
    session: Session, vehicle: Vehicle, *, label: str, format_version: int, document: str,
    account_id: int | None = None, person: str = "",
) -> Revision:  # fmt: skip
    """Write a revision after the head and make it head and tip."""
    added = Revision(
        vehicle_id=vehicle.id,
        parent_id=vehicle.head_id,
        label=label,
        format_version=format_version,
        document=document,
        account_id=account_id,
        person=person,
    )
    session.add(added)
    session.flush()
    tell(session, vehicle.id, added.id)
    vehicle.previous_id = vehicle.head_id
    vehicle.head_id = vehicle.tip_id = added.id
    return added


def tell(session: Session, vehicle_id: int, head_id: int) -> None:
    """Let whoever has a vehicle open hear of its new head, once that is committed."""
    session.execute(select(func.pg_notify(CHANNEL, f"{vehicle_id}:{head_id}")))


def mark_deleted(vehicle: Vehicle) -> None:
    """Hide a vehicle; its revisions stay."""
    vehicle.deleted_at = now()


def note_once(session: Session, key: str, value: str) -> bool:
    """Write a note; False if it was there."""
    if session.get(Note, key) is not None:
        return False
    session.add(Note(key=key, value=value))
    session.flush()
    return True


def may(session: Session, vehicle_id: int, account_id: int | None) -> str | None:
    """Say what an account may do with a vehicle, deleted or not: "look", "edit", "own", or None."""
    if not _possible(vehicle_id) or account_id is None:
        return None
    owner = session.execute(select(Vehicle.owner_id).where(Vehicle.id == vehicle_id)).first()
    if owner is None:
        return None
    if owner[0] == account_id:
        return "own"
    return session.scalar(
        select(Share.may).where(Share.vehicle_id == vehicle_id, Share.account_id == account_id)
    )
