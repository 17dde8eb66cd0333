"""Queries on shares, links and reviews; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from isotherma.store.models import Account, Link, LinkUse, Review, Share, now
from isotherma.store.vehicles import tell

MOST_USES = 20  # of a link that are listed


def shares(session: Session, vehicle_id: int) -> Sequence[tuple[Share, Account]]:
    """List with whom a vehicle is shared, by name."""
    rows = session.execute(
        select(Share, Account).join(Account, Account.id == Share.account_id)
        .where(Share.vehicle_id == vehicle_id).order_by(Account.key)
    )  # fmt: skip
    return [(row[0], row[1]) for row in rows]


def share(session: Session, vehicle_id: int, account_id: int, may: str) -> None:
    """Share a vehicle with an account, or otherwise than before."""
    made = insert(Share).values(vehicle_id=vehicle_id, account_id=account_id, may=may)
    session.execute(made.on_conflict_do_update(
        index_elements=["vehicle_id", "account_id"], set_={"may": may}))  # fmt: skip


def unshare(session: Session, vehicle_id: int, account_id: int) -> None:
    """Share a vehicle no longer."""
    session.execute(
        delete(Share).where(Share.vehicle_id == vehicle_id, Share.account_id == account_id)
    )
    tell(session, vehicle_id, 0)  # who looks on right now looks whether they still may


def add_link(
    session: Session, *, kind: str, token: str, vehicle_id: int, variant_id: str,
    revision_id: int | None, label: str, ends_at: datetime,
) -> Link:  # fmt: skip
    """Make a link."""
    made = Link(kind=kind, token=token, vehicle_id=vehicle_id, variant_id=variant_id,
                revision_id=revision_id, label=label, ends_at=ends_at)  # fmt: skip
    session.add(made)
    session.flush()
    return made


def links(session: Session, vehicle_id: int) -> Sequence[Link]:
    """List the links of a vehicle, the newest first."""
    query = select(Link).where(Link.vehicle_id == vehicle_id).order_by(Link.id.desc())
    return session.scalars(query).all()


def link(session: Session, link_id: int, vehicle_id: int) -> Link | None:
    """Find a link of a vehicle by its number."""
    found = session.get(Link, link_id) if 0 < link_id < 2**31 else None
    return found if found is not None and found.vehicle_id == vehicle_id else None


def living_link(session: Session, token: str, kind: str) -> Link | None:
    """Find a link that opens: neither too old nor revoked."""
    return session.scalar(select(Link).where(
        Link.token == token, Link.kind == kind, Link.ends_at > now(),
        Link.revoked_at.is_(None)))  # fmt: skip


def used(session: Session, link_id: int, browser: str) -> None:
    """Note that a link was opened."""
    session.add(LinkUse(link_id=link_id, browser=browser))


def uses(session: Session, link_id: int) -> tuple[int, Sequence[LinkUse]]:
    """Count how often a link was opened, and list the last."""
    count = session.scalar(select(func.count()).where(LinkUse.link_id == link_id)) or 0
    query = select(LinkUse).where(LinkUse.link_id == link_id).order_by(LinkUse.id.desc())
    return int(count), session.scalars(query.limit(MOST_USES)).all()


def reviews(session: Session, vehicle_id: int, variant_id: str) -> Sequence[Review]:
    """List what was signed of a variant, the newest first."""
    return session.scalars(
        select(Review).where(Review.vehicle_id == vehicle_id, Review.variant_id == variant_id)
        .order_by(Review.id.desc())
    ).all()  # fmt: skip


def review(session: Session, review_id: int, vehicle_id: int) -> Review | None:
    """Find a review of a vehicle."""
    found = session.get(Review, review_id) if 0 < review_id < 2**31 else None
    return found if found is not None and found.vehicle_id == vehicle_id else None
