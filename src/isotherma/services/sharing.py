"""Who else may see a vehicle: accounts, links without account, reviews by licensed people."""

from __future__ import annotations

import json
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from hashlib import sha256
from typing import Any, Final, Literal

from sqlalchemy.orm import Session, sessionmaker

from isotherma.core.project import Project, canonical_json
from isotherma.core.system import System
from isotherma.services.accounts import Refused, digest
from isotherma.services.vehicles import NotFound
from isotherma.services.visitors import May, Visitor, reaches
from isotherma.store import accounts, sharing
from isotherma.store import vehicles as queries
from isotherma.store.models import Link, Review, now

LinkKind = Literal["look", "review"]
Verdict = Literal["looked at", "must change", "not my trade"]
VERDICTS: Final[tuple[Verdict, ...]] = ("looked at", "must change", "not my trade")
TOKEN_BYTES: Final = 16  # 128 bits
LASTS: Final[Mapping[str, timedelta]] = {
    "day": timedelta(days=1), "week": timedelta(days=7), "month": timedelta(days=30),
    "year": timedelta(days=365),
}  # fmt: skip
MOST_LINKS: Final = 50
MOST_ITEMS: Final = 400
MOST_NOTE, MOST_NAME = 1000, 80


@dataclass(frozen=True, slots=True)
class Shared:
    """An account a vehicle is shared with."""

    account_id: int
    name: str
    may: str


@dataclass(frozen=True, slots=True)
class LinkRow:
    """A link as its owner sees it; its address is known to whoever was given it alone."""

    id: int
    kind: str
    label: str
    variant_id: str
    revision_id: int | None
    made: datetime
    ends: datetime
    lives: bool
    count: int
    uses: tuple[tuple[datetime, str], ...]


@dataclass(frozen=True, slots=True)
class Opened:
    """What a link opens: one variant, of one kept state where `revision_id` says so."""

    link_id: int
    kind: str
    vehicle_id: int
    variant_id: str
    revision_id: int | None
    label: str


@dataclass(frozen=True, slots=True)
class Item:
    """Something that is reviewed: a finding or a part, what is said of it.

    `about` are the parts and runs it is about; `source` a digest of them as they were looked at.
    """

    id: str
    title: str
    about: tuple[str, ...]
    verdict: Verdict
    note: str = ""
    photo: int | None = None
    source: str = ""


@dataclass(frozen=True, slots=True)
class Signed:
    """A review as it was signed, and how it stands now.

    `changed` names what was looked at and is another since.
    """

    id: int
    name: str
    trade: str
    licence: str
    on: str
    at: datetime
    revision_id: int
    digest: str
    items: tuple[Item, ...]
    note: str
    answer: str
    closed: datetime | None
    changed: tuple[str, ...]


def source_of(about: Sequence[str], system: System) -> str:
    """Digest what an item is about, as it is: another digest later means it was changed."""
    wanted = set(about)
    pieces = [one.model_dump_json() for one in (*system.parts, *system.runs)
              if one.id in wanted]  # fmt: skip
    return sha256("\n".join(pieces).encode()).hexdigest()[:16]


class Sharing:
    """Keeps shares, links and reviews.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    """

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def may(self, who: Visitor, vehicle_id: int) -> May | None:
        """Say what somebody may do with a vehicle; None: it is not there for them."""
        if who.all:
            return "own"
        with self._sessions() as session:
            found = queries.may(session, vehicle_id, who.account_id)
        return next((one for one in ("look", "edit", "own") if one == found), None)

    def allows(self, who: Visitor, vehicle_id: int, need: May) -> bool:
        """Say whether somebody may do so much with a vehicle."""
        return reaches(self.may(who, vehicle_id), need)

    # -- accounts

    def shares(self, vehicle_id: int) -> tuple[Shared, ...]:
        """List with whom a vehicle is shared."""
        with self._sessions() as session:
            return tuple(Shared(account.id, account.name, row.may)
                         for row, account in sharing.shares(session, vehicle_id))  # fmt: skip

    def share(self, vehicle_id: int, name: str, may: str) -> None:
        """Share a vehicle with an account by its name; Refused says why not."""
        if may not in ("look", "edit"):
            raise Refused("Choose whether they may look or change.", "may")
        with self._sessions.begin() as session:
            account = accounts.by_name(session, " ".join(name.split()))
            if account is None:
                raise Refused("There is no account of that name here.", "name")
            if queries.may(session, vehicle_id, account.id) == "own":
                raise Refused("It is theirs already.", "name")
            sharing.share(session, vehicle_id, account.id, may)

    def unshare(self, vehicle_id: int, account_id: int) -> None:
        """Share a vehicle no longer with an account."""
        with self._sessions.begin() as session:
            sharing.unshare(session, vehicle_id, account_id)

    # -- links

    def make_link(
        self, vehicle_id: int, variant_id: str, *, kind: str, lasts: str, label: str,
        newest: bool,
    ) -> str:  # fmt: skip
        """Make a link to the newest state or to this one; gives its token, which is shown once."""
        if kind not in ("look", "review") or lasts not in LASTS:
            raise Refused("Choose what it is for, and how long it opens.", "kind")
        token = secrets.token_urlsafe(TOKEN_BYTES)
        with self._sessions.begin() as session:
            vehicle = queries.find(session, vehicle_id)
            if vehicle is None:
                raise NotFound
            living = [one for one in sharing.links(session, vehicle_id) if _lives(one)]
            if len(living) >= MOST_LINKS:
                raise Refused(f"{MOST_LINKS} links open it already; revoke some first.")
            sharing.add_link(
                session, kind=kind, token=digest(token), vehicle_id=vehicle_id,
                variant_id=variant_id, revision_id=None if newest else vehicle.head_id,
                label=" ".join(label.split())[:MOST_NAME], ends_at=now() + LASTS[lasts],
            )  # fmt: skip
        return token

    def links(self, vehicle_id: int) -> tuple[LinkRow, ...]:
        """List the links of a vehicle, and who opened them when."""
        with self._sessions() as session:
            rows = []
            for one in sharing.links(session, vehicle_id):
                count, uses = sharing.uses(session, one.id)
                rows.append(LinkRow(
                    one.id, one.kind, one.label, one.variant_id, one.revision_id, one.created_at,
                    one.ends_at, _lives(one), count, tuple((use.at, use.browser) for use in uses),
                ))  # fmt: skip
            return tuple(rows)

    def revoke(self, vehicle_id: int, link_id: int) -> None:
        """Let a link open nothing any more."""
        with self._sessions.begin() as session:
            found = sharing.link(session, link_id, vehicle_id)
            if found is None:
                raise NotFound
            found.revoked_at = found.revoked_at or now()

    def open(self, token: str, kind: LinkKind, browser: str = "") -> Opened | None:
        """Say what a link opens, and note that it was; None where it opens nothing."""
        with self._sessions.begin() as session:
            found = sharing.living_link(session, digest(token), kind)
            if found is None or queries.find(session, found.vehicle_id) is None:
                return None
            if browser:
                sharing.used(session, found.id, browser[:120])
            return Opened(found.id, found.kind, found.vehicle_id, found.variant_id,
                          found.revision_id, found.label)  # fmt: skip

    # -- reviews

    @staticmethod
    def check(
        items: Sequence[Item], *, name: str, trade: str, licence: str, on: str
    ) -> dict[str, str]:
        """Read who signs; Refused says what is missing."""
        said = {"name": name, "trade": trade, "licence": licence, "on": on}
        plain = {key: " ".join(text.split())[:MOST_NAME] for key, text in said.items()}
        for key, words in (("name", "Say your name."), ("trade", "Choose your trade."),
                           ("licence", "Say your licence number.")):  # fmt: skip
            if not plain[key]:
                raise Refused(words, key)
        try:
            date.fromisoformat(plain["on"])
        except ValueError:
            raise Refused("Say the day as 2027-03-28.", "on") from None
        if not items:
            raise Refused("Say of one finding or part at least what you make of it.", "items")
        return plain

    def sign(
        self, opened: Opened, project: Project, revision_id: int, items: Sequence[Item], *,
        name: str, trade: str, licence: str, on: str, note: str,
    ) -> None:  # fmt: skip
        """Keep what somebody looked at and signed; Refused says what is missing."""
        plain = self.check(items, name=name, trade=trade, licence=licence, on=on)
        system = project.variant(opened.variant_id).system
        rows = [
            {"id": one.id, "title": one.title, "about": list(one.about), "verdict": one.verdict,
             "note": one.note[:MOST_NOTE], "photo": one.photo,
             "source": source_of(one.about, system)}
            for one in items[:MOST_ITEMS]
        ]  # fmt: skip
        document = json.dumps({"items": rows, "note": note.strip()[:MOST_NOTE]})
        with self._sessions.begin() as session:
            session.add(Review(
                link_id=opened.link_id, vehicle_id=opened.vehicle_id,
                variant_id=opened.variant_id, revision_id=revision_id,
                digest=sha256(canonical_json(project).encode()).hexdigest(), name=plain["name"],
                trade=plain["trade"], licence=plain["licence"], signed_on=plain["on"],
                document=document,
            ))  # fmt: skip

    def reviews(self, vehicle_id: int, variant_id: str, system: System) -> tuple[Signed, ...]:
        """List what was signed of a variant, and which of it is another now."""
        with self._sessions() as session:
            return tuple(_signed(one, system)
                         for one in sharing.reviews(session, vehicle_id, variant_id))  # fmt: skip

    def answer(self, vehicle_id: int, review_id: int, text: str, *, close: bool) -> None:
        """Answer a review, and be done with it or not."""
        with self._sessions.begin() as session:
            found = sharing.review(session, review_id, vehicle_id)
            if found is None:
                raise NotFound
            found.answer = " ".join(text.split())[:MOST_NOTE]
            found.closed_at = now() if close else None


def _lives(link: Link) -> bool:
    return link.revoked_at is None and link.ends_at > now()


def _signed(row: Review, system: System) -> Signed:
    said: dict[str, Any] = json.loads(row.document)
    items = tuple(
        Item(one["id"], one["title"], tuple(one["about"]), one["verdict"], one["note"],
             one["photo"], one["source"])
        for one in said["items"]
    )  # fmt: skip
    looked = [one for one in items if one.verdict != "not my trade"]
    changed = tuple(one.title for one in looked if source_of(one.about, system) != one.source)
    return Signed(row.id, row.name, row.trade, row.licence, row.signed_on, row.signed_at,
                  row.revision_id, row.digest, items, said["note"], row.answer, row.closed_at,
                  changed)  # fmt: skip
