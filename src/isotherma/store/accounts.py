"""Queries on accounts, sign-ins, codes and guesses; none of them commits."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from isotherma.store.models import (
    Account,
    Attempt,
    Invitation,
    Note,
    OwnClass,
    Revision,
    Share,
    SignIn,
    Vehicle,
    now,
)

CHANNEL = "isotherma_sign_in"
SEEN_AGAIN = timedelta(minutes=1)  # how fine it is kept when a sign-in was used


def by_name(session: Session, name: str) -> Account | None:
    """Find an account by its name, whatever its case."""
    return session.scalar(select(Account).where(Account.key == name.casefold()))


def by_id(session: Session, account_id: int) -> Account | None:
    """Find an account."""
    return session.get(Account, account_id)


def every(session: Session) -> Sequence[Account]:
    """List all accounts by name."""
    return session.scalars(select(Account).order_by(Account.key)).all()


def add(session: Session, name: str, password: str, *, admin: bool) -> Account:
    """Make an account."""
    made = Account(name=name, key=name.casefold(), password=password, admin=admin)
    session.add(made)
    session.flush()
    return made


def adopt(session: Session, account_id: int) -> None:
    """Give an account all that belongs to nobody yet."""
    for table in (Vehicle, OwnClass):
        session.execute(update(table).where(table.owner_id.is_(None)).values(owner_id=account_id))


def owned(session: Session, account_id: int) -> int:
    """Count the vehicles of an account that are not deleted."""
    query = select(func.count(Vehicle.id)).where(
        Vehicle.owner_id == account_id, Vehicle.deleted_at.is_(None)
    )
    return int(session.scalar(query) or 0)


def others_own(session: Session) -> list[str]:
    """Name accounts, but the first, that own vehicles."""
    first = select(func.min(Account.id)).where(Account.admin).scalar_subquery()
    rows = session.scalars(
        select(Account.name).distinct().join(Vehicle, Vehicle.owner_id == Account.id)
        .where(Account.id != first, Vehicle.deleted_at.is_(None)).order_by(Account.name)
    )  # fmt: skip
    return list(rows)


def hand_over(session: Session, account_id: int, to: int) -> None:
    """Give all of an account's vehicles and classes to another, what is deleted with them."""
    session.execute(update(Vehicle).where(Vehicle.owner_id == account_id).values(owner_id=to))
    session.execute(delete(Share).where(
        Share.account_id == to,
        Share.vehicle_id.in_(select(Vehicle.id).where(Vehicle.owner_id == to))))  # fmt: skip
    session.execute(delete(OwnClass).where(OwnClass.owner_id == account_id))


def bury(session: Session, account_id: int, keeper: int) -> None:
    """Delete the vehicles of an account; their rows go to who keeps them, deleted."""
    session.execute(
        update(Vehicle).where(Vehicle.owner_id == account_id)
        .values(owner_id=keeper, deleted_at=func.coalesce(Vehicle.deleted_at, now()))
    )  # fmt: skip
    session.execute(delete(OwnClass).where(OwnClass.owner_id == account_id))


def remove(session: Session, account: Account) -> None:
    """Take an account away with its sign-ins and shares; what it did keeps its name."""
    session.execute(delete(SignIn).where(SignIn.account_id == account.id))
    session.execute(delete(Share).where(Share.account_id == account.id))
    session.execute(
        update(Revision).where(Revision.account_id == account.id).values(account_id=None)
    )
    session.delete(account)
    tell(session, 0)


def begin(
    session: Session, *, kind: str, token: str, account_id: int | None, label: str,
    ends_at: datetime,
) -> SignIn:  # fmt: skip
    """Sign a browser, phone or program in."""
    made = SignIn(kind=kind, token=token, account_id=account_id, label=label, ends_at=ends_at)
    session.add(made)
    session.flush()
    return made


def seen(session: Session, token: str) -> tuple[SignIn, Account | None] | None:
    """Find a sign-in that has not ended, and note that it was used."""
    row = session.execute(
        select(SignIn, Account).outerjoin(Account, Account.id == SignIn.account_id)
        .where(SignIn.token == token, SignIn.ends_at > now())
    ).first()  # fmt: skip
    if row is None:
        return None
    if now() - row[0].used_at > SEEN_AGAIN:
        row[0].used_at = now()
    return row[0], row[1]


def sign_ins(session: Session, account_id: int | None, kinds: Sequence[str]) -> Sequence[SignIn]:
    """List the sign-ins of an account that have not ended, the newest first."""
    return session.scalars(
        select(SignIn).where(
            SignIn.account_id.is_not_distinct_from(account_id), SignIn.kind.in_(kinds),
            SignIn.ends_at > now(),
        ).order_by(SignIn.id.desc())
    ).all()  # fmt: skip


def end(session: Session, account_id: int | None, sign_in: int) -> bool:
    """End a sign-in of an account; False where it has none such."""
    found = session.execute(
        delete(SignIn).where(SignIn.id == sign_in,
                             SignIn.account_id.is_not_distinct_from(account_id))
        .returning(SignIn.id)
    ).scalar_one_or_none()  # fmt: skip
    tell(session, sign_in)
    return found is not None


def tell(session: Session, sign_in: int) -> None:
    """Let open streams hear that a sign-in ended, once that is committed; 0 is many."""
    session.execute(select(func.pg_notify(CHANNEL, str(sign_in))))


def end_others(session: Session, account_id: int, but: int | None) -> None:
    """End all sign-ins of an account but one."""
    session.execute(delete(SignIn).where(SignIn.account_id == account_id,
                                         SignIn.id != (but or 0)))  # fmt: skip
    tell(session, 0)


def invite(session: Session, kind: str, token: str, ends_at: datetime) -> None:
    """Keep a code that works once."""
    session.add(Invitation(kind=kind, token=token, ends_at=ends_at))


def invited(session: Session, token: str) -> Invitation | None:
    """Find a code that still works, and keep others from using it meanwhile."""
    return session.scalar(
        select(Invitation).where(Invitation.token == token, Invitation.ends_at > now())
        .with_for_update()
    )  # fmt: skip


def forget_codes(session: Session, kind: str) -> None:
    """Let no code of a kind work any more."""
    session.execute(delete(Invitation).where(Invitation.kind == kind))


def guessed(session: Session, what: str, address: str) -> None:
    """Note a wrong guess; those of long ago go."""
    session.add(Attempt(what=what, address=address))
    session.execute(delete(Attempt).where(Attempt.at < now() - timedelta(days=1)))


def guesses(session: Session, *, what: str, address: str, within: timedelta) -> tuple[int, int]:
    """Count wrong guesses of a thing, and from an address, within a time."""
    since = now() - within
    rows = session.execute(
        select(func.count().filter(Attempt.what == what),
               func.count().filter(Attempt.address == address))
        .where(Attempt.at > since, (Attempt.what == what) | (Attempt.address == address))
    ).one()  # fmt: skip
    return int(rows[0]), int(rows[1])


def forgive(session: Session, what: str) -> None:
    """Forget wrong guesses of a thing that was then said rightly."""
    session.execute(delete(Attempt).where(Attempt.what == what))


def note(session: Session, key: str) -> str | None:
    """Read a fact about this database."""
    found = session.get(Note, key)
    return None if found is None else found.value


def set_note(session: Session, key: str, value: str | None) -> None:
    """Write a fact about this database, or take it away."""
    found = session.get(Note, key)
    if value is None:
        if found is not None:
            session.delete(found)
    elif found is None:
        session.add(Note(key=key, value=value))
    else:
        found.value = value
