"""Vehicles: open, change, undo, redo, delete, import. Every change is a revision."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256

from sqlalchemy.orm import Session, sessionmaker

from isotherma.catalogue.demo import folio_summer
from isotherma.catalogue.demo_trips import curlew_on_trip, drover_on_trip, folio_on_trip
from isotherma.core.cache import Cache, Caches
from isotherma.core.editing import set_values, touched, value_at
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import FORMAT_VERSION, Project, Variant, canonical_json
from isotherma.files.migrations import migrated
from isotherma.services.edit import Edit
from isotherma.services.visitors import May, reaches, visitor
from isotherma.store import vehicles as queries
from isotherma.store.models import Revision, Vehicle
from isotherma.wording import edit_label

Operation = Callable[[Project], Project]


class NotFound(Exception):
    """There is no such vehicle, variant or revision."""


class NewerElsewhere(Exception):
    """The same value was changed in another window since this one was shown."""

    def __init__(self, conflicts: Mapping[str, object], head_id: int) -> None:
        super().__init__("changed elsewhere")
        self.conflicts = dict(conflicts)
        self.head_id = head_id


class Moved(Exception):
    """Undo or redo was asked for a state that is no longer the shown one."""


@dataclass(frozen=True, slots=True)
class Version:
    """One kept state: its number, what was done, what it was called, when, by whom."""

    id: int
    label: str
    name: str | None
    at: datetime
    by: str = ""


MOST_VERSIONS = 100
MOST_LISTED = 40


@dataclass(frozen=True, slots=True)
class Opened:
    """A vehicle as it stands: its project, what was before, what can be undone or redone."""

    vehicle_id: int
    head_id: int
    project: Project
    previous: Project | None
    undo_label: str | None
    redo_label: str | None


@dataclass(frozen=True, slots=True)
class Done:
    """What an edit was made on, and the vehicle after it."""

    before: Project
    after: Opened


@dataclass(frozen=True, slots=True)
class Listed:
    """A vehicle on the home page."""

    vehicle_id: int
    head_id: int
    project: Project


@dataclass(frozen=True, slots=True)
class Overview:
    """One page of the vehicles there are: how many fit the search, which page of how many."""

    listed: tuple[Listed, ...]
    total: int
    page: int
    pages: int
    search: str


DOCUMENT_BYTES = 700_000  # a project of forty parts in two variants; measured on Folio


def _stored_key(document: str, version: int) -> tuple[str, int]:
    """Name what is stored by its content."""
    return sha256(document.encode()).hexdigest(), version


def _parsed(document: str, version: int) -> Project:
    """Read a stored document.

    What an operation made is read back when it is saved: one that cannot be read must not be
    kept. What was validated as a whole just before need not be.
    """
    if version == FORMAT_VERSION:
        return Project.model_validate_json(document)
    return Project.model_validate(migrated(json.loads(document), version))


class Vehicles:
    """The use cases on vehicles, each in a transaction of its own."""

    def __init__(self, sessions: sessionmaker[Session], caches: Caches | None = None) -> None:
        self._sessions = sessions
        # documents are frozen and revisions never change
        owner = caches or Caches(DOCUMENT_BYTES * 64)
        self._read: Cache[Project] = Cache(owner, "document", lambda _: DOCUMENT_BYTES)

    def _project_of(self, revision: Revision) -> Project:
        """Read what a revision holds, in whatever format it was stored."""
        document, version = revision.document, revision.format_version
        return self._read.once(_stored_key(document, version), lambda: _parsed(document, version))

    def overview(self) -> list[Listed]:
        """List the newest living vehicles, the last changed first."""
        return list(self.listing(size=MOST_LISTED).listed)

    def named(self, wanted: str) -> Listed | None:
        """Find a living vehicle by its number or its whole name."""
        with self._sessions() as session:
            found = queries.named(session, wanted, _whose())
            return Listed(found[0].id, found[1].id, self._project_of(found[1])) if found else None

    def listing(self, search: str = "", page: int = 1, size: int = 20) -> Overview:
        """List living vehicles, the last changed first: one page of those whose name fits."""
        with self._sessions() as session:
            total = queries.count_living(session, search, _whose())
            pages = max(1, -(-total // size))
            at = min(max(1, page), pages)
            rows = queries.living(session, search, size, (at - 1) * size, _whose())
            listed = tuple(
                Listed(vehicle.id, revision.id, self._project_of(revision))
                for vehicle, revision in rows
            )
        return Overview(listed, total, at, pages, search)

    def marks(self, search: str = "", page: int = 1, size: int = 20) -> tuple[object, ...]:
        """Name what `listing` would list: how many, and which revisions, without reading them."""
        with self._sessions() as session:
            total = queries.count_living(session, search, _whose())
            at = min(max(1, page), max(1, -(-total // size)))
            return total, queries.living_marks(session, search, size, (at - 1) * size, _whose())

    def ping(self) -> None:
        """Ask the database something; raises what it raises."""
        with self._sessions() as session:
            queries.ping(session)

    def open(self, vehicle_id: int) -> Opened:
        """Open a vehicle; NotFound if there is none."""
        with self._sessions() as session:
            vehicle = _find(session, vehicle_id)
            if vehicle is None:
                raise NotFound
            return self._opened(session, vehicle)

    def mark(self, vehicle_id: int) -> tuple[int | None, ...]:
        """Give the numbers of the revisions that decide what is shown; NotFound if none are."""
        with self._sessions() as session:
            found = queries.mark(session, vehicle_id) if _may(session, vehicle_id, "look") else None
        if found is None:
            raise NotFound
        return found

    def _opened(self, session: Session, vehicle: Vehicle) -> Opened:
        head = self._head(session, vehicle)
        previous = queries.revision(session, vehicle.previous_id)
        assert vehicle.tip_id is not None
        redo = queries.child_towards(session, head.id, vehicle.tip_id)
        return Opened(
            vehicle_id=vehicle.id,
            head_id=head.id,
            project=self._project_of(head),
            previous=self._project_of(previous) if previous else None,
            undo_label=head.label if head.parent_id is not None and _own(head) else None,
            redo_label=redo.label if redo and _own(redo) else None,
        )

    def _head(self, session: Session, vehicle: Vehicle) -> Revision:
        head = queries.revision(session, vehicle.head_id)
        assert head is not None, f"vehicle {vehicle.id} has no head"
        return head

    def create(
        self, project: Project, label: str, beside: Callable[[Session, int], None] | None = None
    ) -> int:
        """Keep a new vehicle; give its id. `beside` keeps what goes with it, in one transaction."""
        with self._sessions.begin() as session:
            vehicle = Vehicle(owner_id=visitor().account_id)
            session.add(vehicle)
            session.flush()
            self._append(session, vehicle, project, label)
            if beside is not None:
                beside(session, vehicle.id)
            return vehicle.id

    def _append(self, session: Session, vehicle: Vehicle, project: Project, label: str) -> str:
        document = canonical_json(project)
        queries.append(
            session,
            vehicle,
            label=label[:200],
            format_version=FORMAT_VERSION,
            document=document,
            account_id=visitor().account_id,
            person=visitor().name,
        )
        vehicle.name = project.name
        return document

    def change(self, vehicle_id: int, operation: Operation, label: str) -> Opened:
        """Apply an operation to the newest state and keep what comes out."""
        with self._sessions.begin() as session:
            vehicle = _find(session, vehicle_id, lock=True)
            if vehicle is None:
                raise NotFound
            before = self._project_of(self._head(session, vehicle))
            after = touched(before, operation(before))
            if after != before:
                self._append(session, vehicle, after, label)
            return self._opened(session, vehicle)

    def do(self, vehicle_id: int, variant_id: str, edit: Edit) -> Done:
        """Make one edit on the newest state and keep it; what it raises leaves all as it was."""
        with self._sessions.begin() as session:
            vehicle = _find(session, vehicle_id, lock=True)
            if vehicle is None:
                raise NotFound
            before = self._project_of(self._head(session, vehicle))
            after = touched(before, edit.apply(before, variant_id))
            if after != before:
                self._append(session, vehicle, after, edit_label(edit.name, edit.subject))
            return Done(before, self._opened(session, vehicle))

    def set_values(
        self, vehicle_id: int, base_id: int, values: Mapping[str, object], label: str
    ) -> Opened:
        """Set values seen at a base revision; NewerElsewhere if another window set them since.

        Values that others changed elsewhere stay: only what was typed here is written.
        """
        with self._sessions.begin() as session:
            vehicle = _find(session, vehicle_id, lock=True)
            base = queries.revision(session, base_id)
            if vehicle is None or base is None or base.vehicle_id != vehicle.id:
                raise NotFound
            head = self._head(session, vehicle)
            now, then = self._project_of(head), self._project_of(base)
            wanted: dict[str, object] = {}
            conflicts: dict[str, object] = {}
            for path, value in values.items():
                current = value_at(now, path)
                if current == value:
                    continue
                if current != _value_or_none(then, path):
                    conflicts[path] = current
                wanted[path] = value
            if conflicts:
                raise NewerElsewhere(conflicts, head.id)
            if wanted:
                after = touched(now, set_values(now, wanted))  # validated as a whole
                document = self._append(session, vehicle, after, label)
                self._read.put(_stored_key(document, FORMAT_VERSION), after)
            return self._opened(session, vehicle)

    def undo(self, vehicle_id: int, base_id: int) -> Opened:
        """Show the state before the last change; Moved if the shown state is not the base."""
        return self._step(vehicle_id, base_id, back=True)

    def redo(self, vehicle_id: int, base_id: int) -> Opened:
        """Show again what undo took back; Moved if the shown state is not the base."""
        return self._step(vehicle_id, base_id, back=False)

    def _step(self, vehicle_id: int, base_id: int, *, back: bool) -> Opened:
        with self._sessions.begin() as session:
            vehicle = _find(session, vehicle_id, lock=True)
            if vehicle is None:
                raise NotFound
            if vehicle.head_id != base_id:
                raise Moved
            head = self._head(session, vehicle)
            if back:
                target = queries.revision(session, head.parent_id)
            else:
                assert vehicle.tip_id is not None
                target = queries.child_towards(session, head.id, vehicle.tip_id)
            if target is not None:
                if not _own(head if back else target):
                    raise Moved  # somebody else's: only they take it back
                vehicle.previous_id, vehicle.head_id = head.id, target.id
                queries.tell(session, vehicle.id, target.id)
                vehicle.name = self._project_of(target).name
            return self._opened(session, vehicle)

    def at(self, vehicle_id: int, revision_id: int) -> Project:
        """Read one revision of a vehicle; NotFound if it is not one of its."""
        with self._sessions() as session:
            revision = queries.revision(session, revision_id)
            living = _find(session, vehicle_id)
            if living is None or revision is None or revision.vehicle_id != vehicle_id:
                raise NotFound
            return self._project_of(revision)

    def last_change(self, vehicle_id: int) -> Version:
        """Say what was changed last, and by whom."""
        with self._sessions() as session:
            vehicle = _find(session, vehicle_id)
            if vehicle is None:
                raise NotFound
            head = self._head(session, vehicle)
            return Version(head.id, head.label, head.name, head.created_at, head.person)

    def replace(self, vehicle_id: int, base_id: int, project: Project, label: str) -> Opened:
        """Put a whole document in the place of the one seen at a base; Moved if it is not that."""
        with self._sessions.begin() as session:
            vehicle = _find(session, vehicle_id, lock=True)
            if vehicle is None:
                raise NotFound
            if vehicle.head_id != base_id:
                raise Moved
            if project != self._project_of(self._head(session, vehicle)):
                self._append(session, vehicle, project, label)
            return self._opened(session, vehicle)

    def history(self, vehicle_id: int) -> list[Version]:
        """List kept states, the newest first: the last hundred, and all that have a name."""
        with self._sessions() as session:
            if _find(session, vehicle_id) is None:
                raise NotFound
            return [
                Version(row.id, row.label, row.name, row.created_at, row.person)
                for row in queries.history(session, vehicle_id, MOST_VERSIONS)
            ]

    def name_revision(self, vehicle_id: int, revision_id: int, name: str) -> None:
        """Give a kept state a name; an empty one takes it away."""
        with self._sessions.begin() as session:
            revision = queries.revision(session, revision_id)
            vehicle = _find(session, vehicle_id, need="edit")
            if vehicle is None or revision is None or revision.vehicle_id != vehicle_id:
                raise NotFound
            revision.name = name or None

    def bring_back(self, vehicle_id: int, base_id: int, revision_id: int) -> Opened:
        """Put an earlier state on top; Moved if the shown state is not the base."""
        with self._sessions.begin() as session:
            vehicle = _find(session, vehicle_id, lock=True)
            revision = queries.revision(session, revision_id)
            if vehicle is None or revision is None or revision.vehicle_id != vehicle_id:
                raise NotFound
            if vehicle.head_id != base_id:
                raise Moved
            then = self._project_of(revision)
            if then != self._project_of(self._head(session, vehicle)):
                self._append(session, vehicle, then, f"Back to {revision.name or revision.label}")
            return self._opened(session, vehicle)

    def delete(self, vehicle_id: int) -> str:
        """Hide a vehicle and give its name; `restore` brings it back."""
        with self._sessions.begin() as session:
            vehicle = _find(session, vehicle_id, lock=True, need="own")
            if vehicle is None:
                raise NotFound
            queries.mark_deleted(vehicle)
            return self._project_of(self._head(session, vehicle)).name

    def restore(self, vehicle_id: int) -> None:
        """Bring a deleted vehicle back."""
        with self._sessions.begin() as session:
            vehicle = queries.find_any(session, vehicle_id)
            if vehicle is None or not _may(session, vehicle_id, "own"):
                raise NotFound
            vehicle.deleted_at = None

    def load_demo_once(self) -> bool:
        """Put the demo vehicles in, each unless this database had it before."""
        loaded = False
        with self._sessions.begin() as session:
            # the last made is listed first; Drover was "demo" when it was the only one
            for key, make in (
                ("demo-curlew", curlew_on_trip),
                ("demo-folio-summer", folio_summer),
                ("demo-folio", folio_on_trip),
                ("demo", drover_on_trip),
            ):
                if not queries.note_once(session, key, "loaded"):
                    continue
                vehicle = Vehicle()
                session.add(vehicle)
                session.flush()
                self._append(session, vehicle, make(), "Demo vehicle")
                loaded = True
        return loaded


def _whose() -> queries.Whose:
    """Say whose vehicles are looked for: those of who asks."""
    who = visitor()
    return queries.Whose(who.all, who.account_id)


def _may(session: Session, vehicle_id: int, need: May) -> bool:
    """Say whether who asks may do that much with a vehicle."""
    who = visitor()
    return who.all or reaches(queries.may(session, vehicle_id, who.account_id), need)


def _find(
    session: Session, vehicle_id: int, *, lock: bool = False, need: May | None = None
) -> Vehicle | None:
    """Find a vehicle of who asks; what is locked is to be changed."""
    wanted: May = need or ("edit" if lock else "look")
    if not _may(session, vehicle_id, wanted):
        return None
    return queries.find(session, vehicle_id, lock=lock)


def _own(revision: Revision) -> bool:
    """Say whether a change was made by who asks."""
    who = visitor()
    return who.all or revision.account_id == who.account_id


def _value_or_none(project: Project, path: str) -> object:
    try:
        return value_at(project, path)
    except ChangeRefused:
        return None


def find_variant(project: Project, variant_id: str) -> Variant:
    """Find a variant of a project; NotFound if it has none such.

    Parameters
    ----------
    project : Project
        As it is. [-]
    variant_id : str
        Its id. [-]

    Returns
    -------
    Variant
        The one of that id. [-]
    """
    try:
        return project.variant(variant_id)
    except KeyError:
        raise NotFound from None
