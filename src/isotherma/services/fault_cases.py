"""Cases of the fault finder in the database: what was said of them, one change at a time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field
from sqlalchemy.orm import Session, sessionmaker

from isotherma.core.faults.evidence import Evidence, Tried
from isotherma.core.faults.readings import Reading
from isotherma.core.system import System
from isotherma.store import fault_cases

ENDED_SHOWN = 10
Words = Annotated[str, Field(max_length=200)]


class SaidReading(BaseModel):
    """A figure that was read; `change` numbers the change that was open then."""

    kind: str
    part: str | None = None
    value: float
    unsure: float | None = None
    from_c: float | None = None
    to_c: float | None = None
    change: int | None = None


class SaidTest(BaseModel):
    """A test that was done, and what came of it."""

    test: str
    part: str | None = None
    outcome: str


class Change(BaseModel):
    """Something that was changed to find out: as found, as left, and how it ended."""

    what: Words
    undo: Words = ""
    found: Words = ""
    left: Words = ""
    ended: Literal["back", "kept"] | None = None
    because: Words = ""


class CaseDocument(BaseModel):
    """All that was said of a case, in the order it was said."""

    seen: list[str] = Field(default_factory=list, max_length=70)
    denied: list[str] = Field(default_factory=list, max_length=70)
    readings: list[SaidReading] = Field(default_factory=list, max_length=80)
    tried: list[SaidTest] = Field(default_factory=list, max_length=80)
    changes: list[Change] = Field(default_factory=list, max_length=80)

    @property
    def open_change(self) -> int | None:
        """Number the change that is neither put back nor kept; None where there is none."""
        return next((row for row, one in enumerate(self.changes) if one.ended is None), None)

    def evidence(self, system: System) -> Evidence:
        """Give what counts for the system as it is; readings under a change do not.

        What is about parts that went is left out.
        """
        there = {one.id for one in (*system.parts, *system.runs)} | {None}
        return Evidence(
            tuple(self.seen), tuple(self.denied),
            tuple(Reading(one.kind, one.part, one.value, one.unsure, one.from_c, one.to_c)
                  for one in self.readings if one.part in there and one.change is None),
            tuple(Tried(one.test, one.part, one.outcome) for one in self.tried
                  if one.part in there),
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class EndedCase:
    """A case that has ended: when, and what it was."""

    at: datetime
    outcome: str


class FaultCases:
    """Keeps cases; one is open at a time for each variant.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    """

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def case(self, vehicle_id: int, variant_id: str) -> CaseDocument:
        """Give the open case; an empty one where nothing was said yet."""
        with self._sessions() as session:
            row = fault_cases.open_one(session, vehicle_id, variant_id)
            return CaseDocument() if row is None else CaseDocument.model_validate_json(row.document)

    def ended(self, vehicle_id: int, variant_id: str) -> tuple[EndedCase, ...]:
        """List the latest cases that have ended."""
        with self._sessions() as session:
            rows = fault_cases.ended(session, vehicle_id, variant_id, ENDED_SHOWN)
            return tuple(EndedCase(row.ended_at, row.outcome) for row in rows
                         if row.ended_at is not None)  # fmt: skip

    def change(
        self, vehicle_id: int, variant_id: str, edit: Callable[[CaseDocument], None]
    ) -> None:
        """Change the open case, or begin one; two windows wait for each other."""
        with self._sessions.begin() as session:
            row = fault_cases.open_one(session, vehicle_id, variant_id, lock=True)
            document = CaseDocument()
            if row is not None:
                document = CaseDocument.model_validate_json(row.document)
            edit(document)
            text = document.model_dump_json()
            if row is None:
                fault_cases.begin(session, vehicle_id, variant_id, text)
            else:
                row.document = text

    def end(self, vehicle_id: int, variant_id: str, outcome: str) -> None:
        """End the open case with what it was; nothing happens where none is open."""
        with self._sessions.begin() as session:
            row = fault_cases.open_one(session, vehicle_id, variant_id, lock=True)
            if row is not None:
                fault_cases.end(row, outcome)


def say(document: CaseDocument, symptom: str, says: str) -> None:
    """Note that a symptom is seen or denied, or take back what was said of it."""
    for rows in (document.seen, document.denied):
        if symptom in rows:
            rows.remove(symptom)
    if says == "seen":
        document.seen.append(symptom)
    elif says == "denied":
        document.denied.append(symptom)


def read(document: CaseDocument, reading: Reading) -> None:
    """Note a reading; of the same quantity the last one counts."""
    document.readings = [one for one in document.readings
                         if (one.kind, one.part) != (reading.kind, reading.part)]  # fmt: skip
    document.readings.append(SaidReading(
        kind=reading.kind, part=reading.part, value=reading.value, unsure=reading.unsure,
        from_c=reading.from_c, to_c=reading.to_c, change=document.open_change,
    ))  # fmt: skip


def tried(
    document: CaseDocument, told: Tried, *, words: str, undo: str | None, found: str, left: str
) -> None:
    """Note a test; one that must be put back opens a change."""
    document.tried = [
        one for one in document.tried if (one.test, one.part) != (told.test, told.part)
    ]
    document.tried.append(SaidTest(test=told.test, part=told.part, outcome=told.outcome))
    if undo is not None and document.open_change is None:
        document.changes.append(Change(what=words, undo=undo, found=found, left=left))


def settle(document: CaseDocument, number: int, *, back: bool, because: str) -> None:
    """Note that a change was put back, or is kept for a reason."""
    if number < len(document.changes):
        document.changes[number].ended = "back" if back else "kept"
        document.changes[number].because = because


def unsay(document: CaseDocument, what: str, number: int) -> None:
    """Take back a reading or a test."""
    rows: list[SaidReading] | list[SaidTest] = (
        document.readings if what == "reading" else document.tried
    )
    if number < len(rows):
        del rows[number]
