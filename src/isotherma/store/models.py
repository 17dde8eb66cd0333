"""Tables. A vehicle is a chain of revisions; its head says which one is current."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import (
    BigInteger,
    DateTime,
    ForeignKey,
    Identity,
    Index,
    LargeBinary,
    MetaData,
    Text,
    UniqueConstraint,
    text,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

CONVENTION = {
    "ix": "ix_%(column_0_label)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


def now() -> datetime:
    """Give the time of a change, with its zone."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """Base of the tables, with named constraints."""

    metadata = MetaData(naming_convention=CONVENTION)


class Vehicle(Base):
    """One project; `name` is that of its head.

    `head` is shown, `previous` was shown before it, `tip` ends the redo chain; `time_zone` is the
    one its calendar is written in, none until somebody said it.
    """

    __tablename__ = "vehicle"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    deleted_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), default=None)
    name: Mapped[str] = mapped_column(Text, default="")
    head_id: Mapped[int | None] = mapped_column(
        ForeignKey("revision.id", use_alter=True), default=None
    )
    previous_id: Mapped[int | None] = mapped_column(
        ForeignKey("revision.id", use_alter=True), default=None
    )
    tip_id: Mapped[int | None] = mapped_column(
        ForeignKey("revision.id", use_alter=True), default=None
    )
    time_zone: Mapped[str | None] = mapped_column(Text, default=None)
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("account.id"), default=None, index=True)


class Revision(Base):
    """One state of a project, never changed once written but for its name.

    `document` is canonical JSON, `name` what a person called this state; `account_id` and `person`
    say who made it, where there are accounts.
    """

    __tablename__ = "revision"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id"), default=None)
    label: Mapped[str] = mapped_column(Text)
    format_version: Mapped[int]
    document: Mapped[str] = mapped_column(Text)
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    name: Mapped[str | None] = mapped_column(Text, default=None)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id"), default=None)
    person: Mapped[str] = mapped_column(Text, default="")


class Note(Base):
    """A fact about this database that is written once, such as that the demo was loaded."""

    __tablename__ = "note"

    key: Mapped[str] = mapped_column(Text, primary_key=True)
    value: Mapped[str] = mapped_column(Text)


class StoredResult(Base):
    """Something computed, under the name of what it was computed from; it can always be made again.

    `key` has the digest of the code in it: what other code computed is never found.
    """

    __tablename__ = "kept"

    key: Mapped[str] = mapped_column(Text, primary_key=True)
    body: Mapped[bytes] = mapped_column(LargeBinary)
    size_bytes: Mapped[int]
    used_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now, index=True)


ACTIVE = "state IN ('waiting', 'running')"


class Job(Base):
    """Long work that a worker does: what was asked, by whom, how far it is.

    `key` names what it is computed from and the code; of one key only one waits or runs. `place`
    names the design it was asked for, `payload` is JSON; `revision_id` what it was asked from.
    `state` is waiting, running, done, failed or cancelled; the result of what is done is kept
    under the key.
    """

    __tablename__ = "job"
    __table_args__ = (
        Index("ix_job_key", "key"),
        Index("uq_job_active", "key", unique=True, postgresql_where=text(ACTIVE)),
    )

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(Text)
    key: Mapped[str] = mapped_column(Text)
    payload: Mapped[str] = mapped_column(Text)
    person: Mapped[str] = mapped_column(Text)
    place: Mapped[str] = mapped_column(Text, default="")
    revision_id: Mapped[int | None] = mapped_column(default=None)
    state: Mapped[str] = mapped_column(Text, default="waiting")
    done: Mapped[int] = mapped_column(default=0)
    whole: Mapped[int] = mapped_column(default=0)
    attempts: Mapped[int] = mapped_column(default=0)
    error: Mapped[str] = mapped_column(Text, default="")
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), default=None)


class OwnClass(Base):
    """A class of part somebody keeps: `document` is JSON of its kind and properties."""

    __tablename__ = "own_class"
    __table_args__ = (
        UniqueConstraint("owner_id", "kind", "name", postgresql_nulls_not_distinct=True),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)
    format_version: Mapped[int]
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("account.id"), default=None)


class TaskDone(Base):
    """A task of a variant's plan that was done or left out, by whom.

    `source` is a digest of what it was about then: another now means it was before a change.
    `record` is JSON of what a licensed person said, where the task is theirs to test.
    """

    __tablename__ = "task_done"
    __table_args__ = (UniqueConstraint("vehicle_id", "variant_id", "task_id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"))
    variant_id: Mapped[str] = mapped_column(Text)
    task_id: Mapped[str] = mapped_column(Text)
    state: Mapped[str] = mapped_column(Text)
    note: Mapped[str] = mapped_column(Text, default="")
    person: Mapped[str] = mapped_column(Text, default="")
    source: Mapped[str] = mapped_column(Text, default="")
    record: Mapped[str | None] = mapped_column(Text, default=None)
    as_found: Mapped[str] = mapped_column(Text, default="")
    as_left: Mapped[str] = mapped_column(Text, default="")
    done_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class FaultCase(Base):
    """A case of the fault finder: `document` is JSON of all that was said of it.

    `outcome` is what it was, once it has ended.
    """

    __tablename__ = "fault_case"
    __table_args__ = (Index("ix_fault_case_vehicle_id", "vehicle_id", "variant_id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"))
    variant_id: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)
    outcome: Mapped[str] = mapped_column(Text, default="")
    begun_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), default=None)


class LogFile(Base):
    """A file of a logger: held until its columns are understood, or `imported` and kept whole.

    `body` is compressed as zlib does.
    """

    __tablename__ = "log_file"
    __table_args__ = (Index("ix_log_file_vehicle_id", "vehicle_id", "variant_id"),)

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"))
    variant_id: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    body: Mapped[bytes] = mapped_column(LargeBinary)
    rows: Mapped[int]
    imported: Mapped[bool] = mapped_column(default=False)
    added_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class LogReading(Base):
    """A reading of the log, in its quantity's unit.

    `session` and `kind` say what it belongs to, `time_s` when from the session's start. `sent` is
    a mark of the device that sent it, so that what is sent twice is kept once.
    """

    __tablename__ = "reading"
    __table_args__ = (
        UniqueConstraint("vehicle_id", "variant_id", "sent"),
        Index("ix_reading_vehicle_id", "vehicle_id", "variant_id", "session"),
    )

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"))
    variant_id: Mapped[str] = mapped_column(Text)
    session: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    time_s: Mapped[float]
    quantity: Mapped[str] = mapped_column(Text)
    part: Mapped[str | None] = mapped_column(Text, default=None)
    value: Mapped[float]
    unsure: Mapped[float | None] = mapped_column(default=None)
    from_c: Mapped[float | None] = mapped_column(default=None)
    to_c: Mapped[float | None] = mapped_column(default=None)
    method: Mapped[str] = mapped_column(Text, default="")
    note: Mapped[str] = mapped_column(Text, default="")
    person: Mapped[str] = mapped_column(Text, default="")
    sent: Mapped[str | None] = mapped_column(Text, default=None)
    noted_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class Photo(Base):
    """A photograph, written anew without what a camera adds to it.

    `about` is a task of the plan ("mount.pump") or a session of the log ("session first").
    """

    __tablename__ = "photo"
    __table_args__ = (Index("ix_photo_vehicle_id", "vehicle_id", "variant_id", "about"),)

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"))
    variant_id: Mapped[str] = mapped_column(Text)
    about: Mapped[str] = mapped_column(Text)
    media_type: Mapped[str] = mapped_column(Text)
    body: Mapped[bytes] = mapped_column(LargeBinary)
    width_px: Mapped[int]
    height_px: Mapped[int]
    note: Mapped[str] = mapped_column(Text, default="")
    person: Mapped[str] = mapped_column(Text, default="")
    added_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class Mapping(Base):
    """What the columns of a logger's file or the channels of a probe box mean, as JSON.

    `kind` is "columns" or "probe", `name` a digest of the heading or the box's address.
    """

    __tablename__ = "mapping"
    __table_args__ = (UniqueConstraint("vehicle_id", "variant_id", "kind", "name"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"))
    variant_id: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)


class Account(Base):
    """Somebody who signs in; `password` is a hash of argon2id. `key` is the name without case."""

    __tablename__ = "account"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    key: Mapped[str] = mapped_column(Text, unique=True)
    password: Mapped[str] = mapped_column(Text)
    admin: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class SignIn(Base):
    """A browser that is signed in, a paired phone, or a program with a token.

    `kind` is "browser", "phone" or "program"; `token` is the digest of what it shows.
    """

    __tablename__ = "sign_in"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(Text)
    token: Mapped[str] = mapped_column(Text, unique=True)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id"), index=True)
    label: Mapped[str] = mapped_column(Text, default="")
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    used_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    ends_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class Invitation(Base):
    """A code that works once: "admin" and "account" make an account, "phone" pairs a phone."""

    __tablename__ = "invitation"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(Text)
    token: Mapped[str] = mapped_column(Text, unique=True)
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    ends_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class Attempt(Base):
    """Something guessed wrongly: a password of a name, a token; digests of what and from where."""

    __tablename__ = "attempt"
    __table_args__ = (
        Index("ix_attempt_what", "what", "at"), Index("ix_attempt_address", "address", "at"),
    )  # fmt: skip

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    what: Mapped[str] = mapped_column(Text)
    address: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class Share(Base):
    """A vehicle that another account may see ("look") or change ("edit")."""

    __tablename__ = "share"
    __table_args__ = (UniqueConstraint("vehicle_id", "account_id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"))
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id"), index=True)
    may: Mapped[str] = mapped_column(Text)


class Link(Base):
    """A link without account, to look ("look") or to review ("review") one variant.

    `revision_id` is the kept state it shows, none for whatever is newest. `token` is the digest of
    what is in its address.
    """

    __tablename__ = "link"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(Text)
    token: Mapped[str] = mapped_column(Text, unique=True)
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"), index=True)
    variant_id: Mapped[str] = mapped_column(Text)
    revision_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id"), default=None)
    label: Mapped[str] = mapped_column(Text, default="")
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    ends_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    revoked_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), default=None)


class LinkUse(Base):
    """That a link was opened: when, by which kind of browser."""

    __tablename__ = "link_use"

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    link_id: Mapped[int] = mapped_column(ForeignKey("link.id"), index=True)
    browser: Mapped[str] = mapped_column(Text, default="")
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class Review(Base):
    """What a licensed person looked at and signed: `document` is JSON of every item with its note.

    `digest` names the content of the version; a later change of what was looked at is found by the
    digests in the document. `answer` is the owner's, `closed_at` when they were done with it.
    """

    __tablename__ = "review"

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    link_id: Mapped[int] = mapped_column(ForeignKey("link.id"))
    vehicle_id: Mapped[int] = mapped_column(ForeignKey("vehicle.id"), index=True)
    variant_id: Mapped[str] = mapped_column(Text)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revision.id"))
    digest: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    trade: Mapped[str] = mapped_column(Text)
    licence: Mapped[str] = mapped_column(Text)
    signed_on: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)
    answer: Mapped[str] = mapped_column(Text, default="")
    signed_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    closed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), default=None)
