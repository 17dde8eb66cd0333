"""Classes of one's own: a part as entered, kept for every vehicle; they travel in a file."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any, Final

from pydantic import ValidationError
from sqlalchemy.orm import Session, sessionmaker

from isotherma.catalogue.classes import PartClass
from isotherma.core.project import FORMAT_VERSION
from isotherma.core.system.pieces import PartBase
from isotherma.files.classes_file import (
    MOST,
    class_values,
    part_of_class,
    read_classes,
    write_classes,
)
from isotherma.files.project_file import FileRefused
from isotherma.services.visitors import visitor
from isotherma.store import own_classes

OWN: Final = "own:"  # before the JSON of a class, where the id of a class of ours stands else
REASON: Final = "Kept by you."


@dataclass(frozen=True, slots=True)
class OwnClassRow:
    """One class as it is kept."""

    id: int
    kind: str
    name: str
    values: dict[str, Any]

    @property
    def offered(self) -> PartClass:
        """Give it as classes of the catalogue are; its id carries all of it."""
        part = part_of_class(self.values)
        text = json.dumps(self.values, ensure_ascii=False, separators=(",", ":"), sort_keys=True)
        return PartClass(f"{OWN}{text}", self.kind, self.name, REASON, part)


class OwnClasses:
    """Keeps classes of parts in the database.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    """

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def rows(self) -> tuple[OwnClassRow, ...]:
        """List what is kept; one a newer Isotherma wrote, or whose kind is gone, is left out."""
        with self._sessions() as session:
            found = [
                OwnClassRow(row.id, row.kind, row.name, json.loads(row.document))
                for row in own_classes.every(session, visitor().account_id)
                if row.format_version <= FORMAT_VERSION
            ]  # fmt: skip
        return tuple(row for row in found if _reads(row))

    def offered(self) -> tuple[PartClass, ...]:
        """List them as classes to choose from."""
        return tuple(row.offered for row in self.rows())

    def mark(self) -> object:
        """Say in few values which there are."""
        with self._sessions() as session:
            return own_classes.mark(session, visitor().account_id)

    def keep(self, part: PartBase) -> str:
        """Keep a part as a class, under its name; gives the name. FileRefused when full."""
        with self._sessions.begin() as session:
            if len(own_classes.every(session, visitor().account_id)) >= MOST:
                raise FileRefused("full", f"There are {MOST} classes already; remove some first.")
            self._put(session, part)
        return part.label

    def remove(self, class_id: int) -> None:
        """Take a class out; parts made of it stay."""
        with self._sessions.begin() as session:
            own_classes.remove(session, visitor().account_id, class_id)

    def write(self) -> bytes:
        """Write all of them as a file."""
        return write_classes([row.values for row in self.rows()])

    def read(self, data: bytes) -> int:
        """Keep every class of a file, or none; gives how many. FileRefused says why not."""
        parts = read_classes(data)
        with self._sessions.begin() as session:
            if len(own_classes.every(session, visitor().account_id)) + len(parts) > MOST:
                raise FileRefused("full", f"That would be more than {MOST} classes.")
            for part in parts:
                self._put(session, part)
        return len(parts)

    @staticmethod
    def _put(session: Session, part: PartBase) -> None:
        values = class_values(part)
        text = json.dumps(values, ensure_ascii=False, sort_keys=True)
        own_classes.put(session, visitor().account_id, str(values["kind"]), part.label, text,
                        FORMAT_VERSION)  # fmt: skip


def _reads(row: OwnClassRow) -> bool:
    try:
        part_of_class(row.values)
    except (KeyError, ValidationError):
        return False
    return True


def part_of_own(class_id: str) -> PartBase | None:
    """Make a part of a class of one's own, as its id carries it; None where it is none."""
    if not class_id.startswith(OWN):
        return None
    try:
        values = json.loads(class_id.removeprefix(OWN))
        return part_of_class(values) if isinstance(values, dict) else None
    except (ValueError, KeyError, ValidationError, RecursionError):
        return None
