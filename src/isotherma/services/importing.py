"""Files of readings: kept until their columns are understood, read row by row, thinned, kept."""

from __future__ import annotations

import zlib
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from typing import Final

from pydantic import ValidationError
from sqlalchemy.orm import Session, sessionmaker

from isotherma.core.learning.rows import Row
from isotherma.files.logger_csv import (
    LoggerTable,
    TableMeaning,
    guessed,
    logger_rows,
    read_logger,
)
from isotherma.files.readings_csv import BadRow, ReadingsUnreadable, is_readings, readings_in
from isotherma.services.logbook import KEPT_MOST, Logbook, thinned
from isotherma.store import log_files
from isotherma.store.models import LogFile

MOST_BYTES: Final = 20_000_000
MOST_FILES: Final = 20  # of a variant; each of up to 20 MB
TOLD_EVERY: Final = 2000
BAD_KEPT: Final = 200
COLUMNS: Final = "columns"


@dataclass(frozen=True, slots=True)
class KeptFile:
    """A file that was thinned, kept whole: rows it has, bytes it takes here."""

    number: int
    name: str
    rows: int
    size: int


@dataclass(frozen=True, slots=True)
class Step:
    """How far reading is: rows of all; `kept` readings once it is done, or `bad` rows of it."""

    done: int
    whole: int
    kept: int | None = None
    read: int = 0
    bad: tuple[BadRow, ...] = ()


def text_of(data: bytes) -> str:
    """Give the text of a file; ReadingsUnreadable where it is none.

    Loggers write UTF-8, UTF-16 with its mark, or the code page of an older box.
    """
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        try:
            return data.decode("utf-16")
        except UnicodeDecodeError:
            raise ReadingsUnreadable("That is no text; export it as CSV in UTF-8.") from None
    if b"\x00" in data:
        raise ReadingsUnreadable("That is no text; export it as CSV in UTF-8.")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        if is_readings(data[:2000].decode("latin-1")):
            raise ReadingsUnreadable(
                "That is no text in UTF-8; export it as CSV in UTF-8."
            ) from None
        return data.decode("cp1252", errors="replace")


class Importing:
    """Takes files of readings in.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    logbook : Logbook
        Where readings are kept. [-]
    """

    def __init__(self, sessions: sessionmaker[Session], logbook: Logbook) -> None:
        self._sessions, self._logbook = sessions, logbook

    def hold(self, vehicle_id: int, variant_id: str, name: str, data: bytes) -> int:
        """Hold a file until it is said what its columns mean; the one held before is dropped."""
        table = read_logger(text_of(data))  # refused before anything is kept
        with self._sessions.begin() as session:
            for row in log_files.listed(session, vehicle_id, variant_id, imported=False):
                log_files.drop(session, vehicle_id, variant_id, row[0])
            return log_files.add(session, LogFile(
                vehicle_id=vehicle_id, variant_id=variant_id, name=name[:120],
                body=zlib.compress(data), rows=len(table.rows), imported=False,
            ))  # fmt: skip

    def body(self, vehicle_id: int, variant_id: str, number: int) -> tuple[str, bytes] | None:
        """Give a file's name and content; None where there is none."""
        with self._sessions() as session:
            found = log_files.one(session, vehicle_id, variant_id, number)
            return None if found is None else (found.name, zlib.decompress(found.body))

    def table(self, vehicle_id: int, variant_id: str, number: int) -> LoggerTable | None:
        """Give the table of a file that is held; None where there is none."""
        found = self.body(vehicle_id, variant_id, number)
        return None if found is None else read_logger(text_of(found[1]))

    def kept(self, vehicle_id: int, variant_id: str) -> tuple[KeptFile, ...]:
        """List files that were thinned, the latest first."""
        with self._sessions() as session:
            rows = log_files.listed(session, vehicle_id, variant_id, imported=True)
            return tuple(KeptFile(row[0], row[1], row[2], row[3]) for row in rows)

    def forget(self, vehicle_id: int, variant_id: str, number: int) -> None:
        """Forget a file; what was read of it stays."""
        with self._sessions.begin() as session:
            log_files.drop(session, vehicle_id, variant_id, number)

    def meaning(self, vehicle_id: int, variant_id: str, table: LoggerTable) -> TableMeaning:
        """Give what a table means: as it was said of such a heading before, else guessed."""
        said = self._logbook.mapping(vehicle_id, variant_id, COLUMNS, table.name)
        try:
            return TableMeaning.model_validate(said) if said else guessed(table)
        except ValidationError:
            return guessed(table)

    def read_own(
        self, vehicle_id: int, variant_id: str, name: str, data: bytes, parts: Collection[str], *,
        by: str,
    ) -> Iterator[Step]:  # fmt: skip
        """Read a file of our own columns, step by step; nothing is kept where a row is bad."""
        text = text_of(data)
        whole = text.count("\n") + 1
        rows: list[Row] = []
        bad: list[BadRow] = []
        for done, one in enumerate(readings_in(text, parts), start=1):
            _sorted(one, rows, bad)
            if done % TOLD_EVERY == 0:
                yield Step(done, whole)
        if bad:
            yield Step(whole, whole, bad=tuple(bad))
            return
        whole_file = (name, data) if len(rows) > KEPT_MOST else None
        yield Step(whole, whole, kept=self._keep(vehicle_id, variant_id, rows, by, whole_file),
                   read=len(rows))  # fmt: skip

    def read_logger(
        self, vehicle_id: int, variant_id: str, number: int, table: LoggerTable,
        meaning: TableMeaning, *, session: str, kind: str, parts: Collection[str], by: str,
    ) -> Iterator[Step]:  # fmt: skip
        """Read a file that is held as it is said to mean, step by step; the meaning is kept."""
        whole, done = len(table.rows), 0
        rows: list[Row] = []
        bad: list[BadRow] = []
        for one in logger_rows(table, meaning, session=session, kind=kind, parts=parts):
            if one is not None:
                _sorted(one, rows, bad)
                continue
            done += 1
            if done % TOLD_EVERY == 0:
                yield Step(done, whole)
        if bad or not rows:
            yield Step(whole, whole, bad=tuple(bad) or (BadRow(table.first, "nothing to read"),))
            return
        self._logbook.keep_mapping(vehicle_id, variant_id, COLUMNS, table.name,
                                   meaning.model_dump(mode="json"))  # fmt: skip
        kept = self._keep(vehicle_id, variant_id, rows, by, None)
        with self._sessions.begin() as session_:
            if kept < len(rows):
                log_files.keep(session_, number, whole)
            else:
                log_files.drop(session_, vehicle_id, variant_id, number)
        yield Step(whole, whole, kept=kept, read=len(rows))

    def _keep(
        self, vehicle_id: int, variant_id: str, rows: Sequence[Row], by: str,
        whole_file: tuple[str, bytes] | None,
    ) -> int:  # fmt: skip
        """Keep readings, evenly where there are too many; then the file is kept whole."""
        kept = thinned(rows)
        if whole_file is not None:
            name, data = whole_file
            with self._sessions.begin() as session:
                log_files.add(session, LogFile(
                    vehicle_id=vehicle_id, variant_id=variant_id, name=name[:120],
                    body=zlib.compress(data), rows=len(rows), imported=True,
                ))  # fmt: skip
        self._logbook.note(vehicle_id, variant_id, kept, person=by)
        return len(kept)


def _sorted(one: Row | BadRow, rows: list[Row], bad: list[BadRow]) -> None:
    if isinstance(one, Row):
        rows.append(one)
    elif len(bad) < BAD_KEPT:
        bad.append(one)
