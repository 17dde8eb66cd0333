"""Accounts: who may come in, and with what they show that it is them.

Passwords are hashed by argon2id; what a browser, phone or program shows is random and kept as its
digest alone. Wrong guesses are counted in the database, so that every process knows of them.
"""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cache
from hashlib import sha256
from typing import Final, Literal

from pwdlib import PasswordHash
from sqlalchemy.orm import Session, sessionmaker

from isotherma.services.visitors import NOBODY, Visitor
from isotherma.store import accounts as queries
from isotherma.store.models import now

Invited = Literal["admin", "account", "phone"]
TOKEN_BYTES: Final = 32
LEAST_LETTERS, MOST_LETTERS, MOST_NAME = 10, 200, 60
BROWSER_FOR, PHONE_FOR = timedelta(days=30), timedelta(days=365)
PROGRAM_FOR: Final = timedelta(days=365)
CODE_FOR: Final[dict[str, timedelta]] = {
    "admin": timedelta(days=1), "account": timedelta(days=7), "phone": timedelta(minutes=15),
}  # fmt: skip
WITHIN: Final = timedelta(minutes=15)
MOST_OF_NAME, MOST_OF_ADDRESS = 5, 20  # wrong guesses within that time
MODE: Final = "accounts"
TOO_MANY: Final = "Too many wrong tries. Wait a quarter of an hour."


class Refused(Exception):
    """What was asked for is not done; `why` says so in words, `field` where it belongs."""

    def __init__(self, why: str, field: str = "", status: int = 422) -> None:
        super().__init__(why)
        self.why, self.field, self.status = why, field, status


@cache
def _hasher() -> PasswordHash:
    return PasswordHash.recommended()


@cache
def _no_hash() -> str:
    """Give the hash of nobody's password: a name there is none of takes as long to refuse."""
    return _hasher().hash(secrets.token_urlsafe(16))


def digest(token: str) -> str:
    """Give what is kept of a token."""
    return sha256(token.encode()).hexdigest()


@dataclass(frozen=True, slots=True)
class Known:
    """An account as it is listed: its vehicles counted."""

    id: int
    name: str
    admin: bool
    vehicles: int
    since: datetime


@dataclass(frozen=True, slots=True)
class SignedIn:
    """A browser, phone or program that may come in: what it is called, when it last did."""

    id: int
    kind: str
    label: str
    since: datetime
    used: datetime


class Accounts:
    """Keeps accounts and all that comes in by them.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    """

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    # -- who is there

    def visitor(self, token: str, *, phones: bool = False) -> Visitor:
        """Say who shows a token; a paired phone counts where `phones` come in, as its owner."""
        if not token or len(token) > MOST_LETTERS:
            return NOBODY
        with self._sessions.begin() as session:
            found = queries.seen(session, digest(token))
            if found is None:
                return NOBODY
            sign_in, account = found
            if account is None:
                alone = phones and sign_in.account_id is None
                return Visitor("alone", sign_in=sign_in.id) if alone else NOBODY
            if phones:
                return NOBODY  # accounts are not in use now
            return Visitor("account", account.id, account.name, account.admin, sign_in.id)

    def listed(self) -> tuple[Known, ...]:
        """List all accounts."""
        with self._sessions() as session:
            return tuple(
                Known(one.id, one.name, one.admin, queries.owned(session, one.id), one.created_at)
                for one in queries.every(session)
            )  # fmt: skip

    # -- codes that work once

    def invite(self, kind: Invited) -> str:
        """Make a code that works once; of an administrator only the newest does."""
        token = secrets.token_urlsafe(TOKEN_BYTES)
        with self._sessions.begin() as session:
            if kind == "admin":
                queries.forget_codes(session, kind)
            queries.invite(session, kind, digest(token), now() + CODE_FOR[kind])
        return token

    def invited(self, token: str) -> str:
        """Say what a code is for; "" where it works no more."""
        with self._sessions() as session:
            found = queries.invited(session, digest(token))
            return "" if found is None else found.kind

    def accept(self, token: str, name: str, password: str, *, label: str = "") -> str:
        """Make an account by a code and sign it in; gives the browser's token."""
        plain = " ".join(name.split())
        _check_name(plain)
        _check_password(password)
        hashed = _hasher().hash(password)
        with self._sessions.begin() as session:
            found = queries.invited(session, digest(token))
            if found is None or found.kind not in ("admin", "account"):
                raise Refused("This invitation was used or is too old. Ask for another.", "", 404)
            if queries.by_name(session, plain) is not None:
                raise Refused("Somebody has that name already; take another.", "name")
            made = queries.add(session, plain, hashed, admin=found.kind == "admin")
            if found.kind == "admin":
                queries.adopt(session, made.id)
            session.delete(found)
            return self._begin(session, "browser", made.id, label, BROWSER_FOR)

    def pair(self, token: str, label: str) -> str:
        """Pair a phone by a code; gives its token."""
        with self._sessions.begin() as session:
            found = queries.invited(session, digest(token))
            if found is None or found.kind != "phone":
                raise Refused("This code was used or is older than a quarter of an hour.", "", 404)
            session.delete(found)
            return self._begin(session, "phone", None, label, PHONE_FOR)

    # -- coming in and going

    def sign_in(self, name: str, password: str, address: str, *, label: str = "") -> str:
        """Sign a browser in; gives its token. Refused says why not, and when to try again."""
        what, where = digest(f"name {name.casefold()}"), digest(f"at {address}")
        with self._sessions() as session:
            of_name, of_address = queries.guesses(
                session, what=what, address=where, within=WITHIN)  # fmt: skip
        if of_name >= MOST_OF_NAME or of_address >= MOST_OF_ADDRESS:
            raise Refused(TOO_MANY, "", 429)
        with self._sessions() as session:
            account = queries.by_name(session, name)
            kept = _no_hash() if account is None else account.password
        right, newer = _hasher().verify_and_update(password[:MOST_LETTERS], kept)
        with self._sessions.begin() as session:
            account = queries.by_name(session, name)
            if not right or account is None:
                queries.guessed(session, what, where)
            else:
                if newer is not None:
                    account.password = newer
                queries.forgive(session, what)
                return self._begin(session, "browser", account.id, label, BROWSER_FOR)
        raise Refused("That name and password do not belong together.", "password", 403)

    def guess(self, address: str) -> None:
        """Note a wrong link or code; Refused where there were too many from there."""
        where = digest(f"at {address}")
        with self._sessions.begin() as session:
            _, count = queries.guesses(session, what="link", address=where, within=WITHIN)
            if count < MOST_OF_ADDRESS:
                queries.guessed(session, "link", where)
        if count >= MOST_OF_ADDRESS:
            raise Refused(TOO_MANY, "", 429)

    def program(self, who: Visitor, label: str) -> str:
        """Make a token for a program of somebody's; it is shown once."""
        plain = " ".join(label.split())[:MOST_NAME]
        if not plain:
            raise Refused("Say what it is for, so that you know it again.", "label")
        with self._sessions.begin() as session:
            return self._begin(session, "program", who.account_id, plain, PROGRAM_FOR)

    def _begin(
        self, session: Session, kind: str, account_id: int | None, label: str, lasts: timedelta
    ) -> str:
        token = secrets.token_urlsafe(TOKEN_BYTES)
        queries.begin(session, kind=kind, token=digest(token), account_id=account_id,
                      label=label[:MOST_NAME], ends_at=now() + lasts)  # fmt: skip
        return token

    def signed_in(self, who: Visitor) -> tuple[SignedIn, ...]:
        """List what may come in as somebody."""
        kinds = ("phone", "program") if who.account_id is None else ("browser", "program")
        with self._sessions() as session:
            return tuple(SignedIn(one.id, one.kind, one.label, one.created_at, one.used_at)
                         for one in queries.sign_ins(session, who.account_id, kinds))  # fmt: skip

    def end(self, who: Visitor, sign_in: int) -> bool:
        """End a sign-in of one's own; False where there is none such."""
        with self._sessions.begin() as session:
            return queries.end(session, who.account_id, sign_in)

    def change_password(self, who: Visitor, old: str, new: str) -> None:
        """Change one's own password; every other sign-in ends. Refused says why not."""
        _check_password(new)
        with self._sessions.begin() as session:
            account = queries.by_id(session, who.account_id or 0)
            if account is None or not _hasher().verify(old[:MOST_LETTERS], account.password):
                raise Refused("That is not your password.", "old", 403)
            account.password = _hasher().hash(new)
            queries.end_others(session, account.id, who.sign_in)

    # -- what an administrator does

    def delete(self, who: Visitor, account_id: int, *, hand_to: str) -> None:
        """Take an account away; its vehicles go to `hand_to`, or are deleted where that is empty.

        Refused says why not.
        """
        with self._sessions.begin() as session:
            gone = queries.by_id(session, account_id)
            if gone is None:
                raise Refused("That account is not there any more.", "", 404)
            if gone.admin and sum(one.admin for one in queries.every(session)) == 1:
                raise Refused("The only administrator stays.")
            if hand_to:
                heir = queries.by_name(session, " ".join(hand_to.split()))
                if heir is None or heir.id == gone.id:
                    raise Refused("There is no other account of that name.", "hand_to")
                queries.hand_over(session, gone.id, heir.id)
            else:
                keeper = who.account_id
                if keeper == gone.id or keeper is None:
                    keeper = next(one.id for one in queries.every(session)
                                  if one.admin and one.id != gone.id)  # fmt: skip
                queries.bury(session, gone.id, keeper)
            queries.remove(session, gone)

    # -- how it is started

    def use_accounts(self) -> str | None:
        """Note that accounts are in use; gives a code for the first administrator's, if needed."""
        with self._sessions.begin() as session:
            queries.set_note(session, MODE, "on")
            empty = not any(one.admin for one in queries.every(session))
        return self.invite("admin") if empty else None

    def in_use(self) -> bool:
        """Say whether people sign in."""
        with self._sessions() as session:
            return queries.note(session, MODE) is not None

    def use_none(self) -> None:
        """Note that nobody signs in; Refused where others own vehicles."""
        with self._sessions.begin() as session:
            others = queries.others_own(session)
            if others:
                raise Refused(
                    f"Vehicles here belong to {', '.join(others)}. Without accounts everybody who "
                    "reaches this server would see them: start it with --accounts, or hand their "
                    "vehicles over first.")  # fmt: skip
            queries.set_note(session, MODE, None)


def _check_name(name: str) -> None:
    if not 1 <= len(name) <= MOST_NAME or not name.isprintable() or set(name) & set("<>"):
        raise Refused(f"A name has 1 to {MOST_NAME} letters.", "name")


def _check_password(password: str) -> None:
    if not LEAST_LETTERS <= len(password) <= MOST_LETTERS:
        raise Refused(
            f"A password has {LEAST_LETTERS} letters or more, {MOST_LETTERS} at most; a sentence "
            "is a good one.", "password")  # fmt: skip
