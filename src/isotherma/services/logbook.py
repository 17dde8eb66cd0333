"""The log of a variant: readings in sessions, imported or noted, and what they teach."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from sqlalchemy.orm import Session as Database
from sqlalchemy.orm import sessionmaker

from isotherma.core.faults.readings import Reading
from isotherma.core.learning.rows import Row
from isotherma.store import mappings, readings
from isotherma.store.models import LogReading

KEPT_MOST: Final = 50_000  # of a file; more is thinned


@dataclass(frozen=True, slots=True)
class LogSession:
    """A session of the log: its name, its kind, how many readings."""

    name: str
    kind: str
    count: int


@dataclass(frozen=True, slots=True)
class Logged:
    """A reading of the log with its number."""

    number: int
    row: Row
    person: str


class Logbook:
    """Keeps readings.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    """

    def __init__(self, sessions: sessionmaker[Database]) -> None:
        self._sessions = sessions

    def sessions(self, vehicle_id: int, variant_id: str) -> tuple[LogSession, ...]:
        """List sessions, the latest first."""
        with self._sessions() as database:
            rows = readings.sessions(database, vehicle_id, variant_id)
            return tuple(LogSession(*row) for row in rows)

    def readings(
        self, vehicle_id: int, variant_id: str, only: str | None = None, *,
        kind: str | None = None,
    ) -> tuple[Logged, ...]:  # fmt: skip
        """Give readings by session and time; of one session, or of one kind of them, if asked."""
        with self._sessions() as database:
            kept = readings.of_variant(database, vehicle_id, variant_id, only, kind)
            return tuple(Logged(one.id, row_of(place, one), one.person)
                         for place, one in enumerate(kept, start=1))  # fmt: skip

    def note(
        self, vehicle_id: int, variant_id: str, rows: Sequence[Row], *, person: str = "",
        sent: Sequence[str | None] = (),
    ) -> None:  # fmt: skip
        """Keep readings; `sent` are marks of the device, so that none is kept twice."""
        marks = list(sent) or [None] * len(rows)
        values = [{**values_of(row, person), "sent": mark}
                  for row, mark in zip(rows, marks, strict=True)]  # fmt: skip
        with self._sessions.begin() as database:
            readings.put(database, vehicle_id, variant_id, values)

    def forget_session(self, vehicle_id: int, variant_id: str, name: str) -> None:
        """Forget a session."""
        with self._sessions.begin() as database:
            readings.drop_session(database, vehicle_id, variant_id, name)

    def forget(self, vehicle_id: int, variant_id: str, number: int) -> None:
        """Forget one reading."""
        with self._sessions.begin() as database:
            readings.drop_one(database, vehicle_id, variant_id, number)

    def mapping(self, vehicle_id: int, variant_id: str, kind: str, name: str) -> dict[str, Any]:
        """Give what columns or channels mean; nothing where nobody said."""
        with self._sessions() as database:
            found = mappings.find(database, vehicle_id, variant_id, kind, name)
            return {} if found is None else dict(json.loads(found))

    def mappings(self, vehicle_id: int, variant_id: str, kind: str) -> tuple[str, ...]:
        """Name the files or boxes somebody said the meaning of, the latest first."""
        with self._sessions() as database:
            return tuple(mappings.names(database, vehicle_id, variant_id, kind))

    def keep_mapping(
        self, vehicle_id: int, variant_id: str, kind: str, name: str, meaning: dict[str, Any]
    ) -> None:
        """Keep what columns or channels mean."""
        with self._sessions.begin() as database:
            mappings.put(database, vehicle_id, variant_id, kind, name, json.dumps(meaning))


def row_of(place: int, kept: LogReading) -> Row:
    """Give a reading as it is learned from; `place` counts from 1."""
    reading = Reading(kept.quantity, kept.part, kept.value, kept.unsure, kept.from_c, kept.to_c)
    return Row(place, kept.session, kept.kind, kept.time_s, reading, kept.method, kept.note)


def values_of(row: Row, person: str) -> dict[str, Any]:
    """Give what is kept of a reading, by column."""
    return {
        "session": row.session, "kind": row.kind, "time_s": row.time_s,
        "quantity": row.reading.kind, "part": row.reading.part, "value": row.value,
        "unsure": row.reading.unsure, "from_c": row.reading.from_c, "to_c": row.reading.to_c,
        "method": row.method[:80], "note": row.note[:400], "person": person[:80],
    }  # fmt: skip


def thinned(rows: Sequence[Row]) -> tuple[Row, ...]:
    """Give at most so many rows of a file, evenly; the first and the last stay."""
    if len(rows) <= KEPT_MOST:
        return tuple(rows)
    step = (len(rows) - 1) / (KEPT_MOST - 1)
    return tuple(rows[round(place * step)] for place in range(KEPT_MOST))
