"""What is done of a plan: ticks with a note and a name; they outlive edits of the design."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from typing import Literal

from sqlalchemy.orm import Session, sessionmaker

from isotherma.core.building.tasks import Task
from isotherma.core.system import System
from isotherma.files.archive import LicensedRecord
from isotherma.store import tasks_done

State = Literal["done", "left out"]
DIGEST_LETTERS = 16


@dataclass(frozen=True, slots=True)
class Ticked:
    """How a task stands; `source` is what it was about when it was ticked.

    `as_found` and `as_left` are settings with their units, in words.
    """

    state: State
    note: str
    by: str
    at: datetime
    source: str
    record: LicensedRecord | None = None
    as_found: str = ""
    as_left: str = ""


def source_of(task: Task, system: System) -> str:
    """Digest what a task is about, as it is now: another digest later means it was changed."""
    about = set(task.about)
    pieces = [one.model_dump_json() for one in (*system.parts, *system.runs, *system.holes)
              if one.id in about]  # fmt: skip
    return sha256("\n".join(pieces).encode()).hexdigest()[:DIGEST_LETTERS]


class PlanKeeping:
    """Keeps what is done of plans in the database.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    """

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def ticked(self, vehicle_id: int, variant_id: str) -> dict[str, Ticked]:
        """Give how tasks stand, by id; what nobody ticked is not there."""
        with self._sessions() as session:
            return {
                row.task_id: Ticked(
                    "done" if row.state == "done" else "left out", row.note, row.person,
                    row.done_at, row.source,
                    None if row.record is None
                    else LicensedRecord.model_validate_json(row.record),
                    row.as_found, row.as_left,
                )
                for row in tasks_done.of_variant(session, vehicle_id, variant_id)
            }  # fmt: skip

    def tick(
        self, vehicle_id: int, variant_id: str, task_id: str, *, state: State, note: str, by: str,
        source: str, record: LicensedRecord | None = None, as_found: str = "", as_left: str = "",
    ) -> None:  # fmt: skip
        """Keep that a task is done or left out."""
        with self._sessions.begin() as session:
            tasks_done.put(session, vehicle_id, variant_id, task_id, state=state, note=note,
                           person=by, source=source,
                           record=None if record is None else record.model_dump_json(),
                           as_found=as_found, as_left=as_left)  # fmt: skip

    def open_again(self, vehicle_id: int, variant_id: str, task_id: str) -> None:
        """Take back that a task is done or left out."""
        with self._sessions.begin() as session:
            tasks_done.forget(session, vehicle_id, variant_id, task_id)
