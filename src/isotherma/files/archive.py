"""A vehicle with what happened to it, `.isotherma.zip`: project, readings, record, photographs.

The project file inside stays the whole truth of the design; the rest goes beside it.
"""

from __future__ import annotations

import csv
import json
import re
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date
from io import StringIO
from typing import IO, Annotated, Any, Final, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from isotherma.core.learning.rows import Row
from isotherma.core.project import Project
from isotherma.files.photo import PhotoRefused, PlainPhoto, read_photo
from isotherma.files.project_file import MAX_BYTES, FileRefused, Stopped, never, read_project
from isotherma.files.readings_csv import (
    HEADING,
    ReadingsUnreadable,
    cells_of,
    read_readings,
    write_cells,
)

EXTENSION: Final = ".isotherma.zip"
RECORD_FORMAT: Final = "isotherma-record-1"
MOST_BYTES: Final = 200_000_000
MOST_FILES: Final = 500
READINGS_BYTES, RECORD_BYTES, PHOTO_BYTES = 30_000_000, 20_000_000, 8_000_000
PROJECT, READINGS, RECORD = "project.json", "readings.csv", "record.json"
PHOTO: Final = re.compile(r"photos/[0-9]{1,9}\.(?:jpg|png|webp)")
WHOSE: Final = ("variant", "by")
BAD_TOLD: Final = 3
Text = Annotated[str, Field(max_length=400)]
Short = Annotated[str, Field(max_length=200)]


class _Kept(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class LicensedRecord(_Kept):
    """What a licensed person says of a test: who, their number, when, how, what came of it."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    number: Annotated[str, Field(min_length=1, max_length=60)]
    on: date
    method: Annotated[str, Field(min_length=1, max_length=200)]
    result: Annotated[str, Field(min_length=1, max_length=200)]


class TaskRecord(_Kept):
    """How a task of a variant's plan stands."""

    variant: Short
    task: Short
    state: Literal["done", "left out"]
    note: Text = ""
    by: Short = ""
    on: AwareDatetime
    source: Short = ""
    record: LicensedRecord | None = None
    as_found: Text = ""
    as_left: Text = ""


class CaseRecord(_Kept):
    """A case of the fault finder; `said` is all that was said of it."""

    variant: Short
    said: dict[str, Any]
    outcome: Text = ""
    begun: AwareDatetime
    ended: AwareDatetime | None = None


class PhotoRecord(_Kept):
    """What a photograph in the archive is about."""

    variant: Short
    file: Short
    about: Short
    note: Text = ""
    by: Short = ""
    on: AwareDatetime


class MappingRecord(_Kept):
    """What the columns of a logger's file or the channels of a probe box mean."""

    variant: Short
    kind: Literal["columns", "probe"]
    name: Short
    meaning: dict[Short, Any] = Field(max_length=60)


class Record(_Kept):
    """What was done, said and photographed."""

    format: Literal["isotherma-record-1"] = RECORD_FORMAT
    time_zone: Short | None = None
    tasks: tuple[TaskRecord, ...] = Field(default=(), max_length=20_000)
    cases: tuple[CaseRecord, ...] = Field(default=(), max_length=2_000)
    photos: tuple[PhotoRecord, ...] = Field(default=(), max_length=400)
    mappings: tuple[MappingRecord, ...] = Field(default=(), max_length=400)


@dataclass(frozen=True, slots=True)
class OwnRow:
    """A reading of a variant, and who noted it."""

    variant: str
    row: Row
    by: str = ""


@dataclass(frozen=True, slots=True)
class Archive:
    """A vehicle with its record; `pictures` are by the names in `record.photos`."""

    project: Project
    readings: tuple[OwnRow, ...] = ()
    record: Record = field(default_factory=Record)
    pictures: Mapping[str, PlainPhoto] = field(default_factory=dict)


def write_archive(
    out: IO[bytes], project: bytes, readings: Iterable[OwnRow], record: Record,
    bodies: Iterable[tuple[str, bytes]],
) -> int:  # fmt: skip
    """Write an archive.

    Parameters
    ----------
    out : binary file
        Where to. [-]
    project : bytes
        The project file. [-]
    readings : iterable of OwnRow
        Of all variants. [see `KINDS`]
    record : Record
        Tasks, cases, what photographs are about. [-]
    bodies : iterable of pairs
        Names of photographs as in the record, and their bytes. [-]

    Returns
    -------
    int
        How many photographs are in it. [-]
    """
    count = 0
    rows = [(*cells_of(one.row), one.variant, one.by) for one in readings]
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr(PROJECT, project)
        made.writestr(READINGS, write_cells([(*HEADING, *WHOSE), *rows]))
        made.writestr(RECORD, record.model_dump_json(indent=1))
        for name, body in bodies:
            made.writestr(zipfile.ZipInfo(name), body)  # pictures are packed already
            count += 1
    return count


def read_archive(source: IO[bytes], stopped: Stopped = never) -> Archive:
    """Read an archive somebody gives us.

    Parameters
    ----------
    source : binary file
        That can be sought in. [-]
    stopped : callable
        Asked between its steps whether whoever waits has gone. [-]

    Returns
    -------
    Archive
        All of it judged; photographs are written anew. [-]

    Raises
    ------
    FileRefused
        If it is too large, no archive of ours, or anything in it cannot be read.
    """
    size = source.seek(0, 2)
    source.seek(0)
    if size > MOST_BYTES:
        raise FileRefused("too_large", f"An archive may have {MOST_BYTES // 1_000_000} MB.")
    try:
        with zipfile.ZipFile(source) as opened:
            _judged(opened)
            return _read(opened, stopped)
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError,
            OSError) as error:  # fmt: skip
        raise FileRefused("broken", "The archive is damaged, or locked; export it anew.") from error


def is_archive(start: bytes) -> bool:
    """Tell an archive from a project file by its first bytes.

    Parameters
    ----------
    start : bytes
        Four or more. [-]

    Returns
    -------
    bool
        Whether it is packed. [-]
    """
    return start[:4] == b"PK\x03\x04"


def _most(name: str) -> int | None:
    """Give the most bytes of a file in the archive; None for one that does not belong there."""
    known = {PROJECT: MAX_BYTES, READINGS: READINGS_BYTES, RECORD: RECORD_BYTES}
    return PHOTO_BYTES if PHOTO.fullmatch(name) else known.get(name)


def _judged(opened: zipfile.ZipFile) -> None:
    """Refuse what is too many, too large, or not ours, before anything is unpacked."""
    entries = opened.infolist()
    names = [entry.filename for entry in entries]
    if PROJECT not in names:
        raise FileRefused("other_format", f"There is no {PROJECT} in it: it is no archive of ours.")
    if len(names) > MOST_FILES or len(set(names)) < len(names):
        raise FileRefused("other_format", "It has too many files, or two of one name.")
    for entry in entries:
        most = _most(entry.filename)
        if most is None:
            raise FileRefused("other_format", f"“{entry.filename[:60]}” does not belong in it.")
        if entry.file_size > most:
            raise FileRefused(
                "too_large", f"“{entry.filename}” is over {most / 1e6:.0f} MB when unpacked."
            )
    if sum(entry.file_size for entry in entries) > MOST_BYTES:
        raise FileRefused("too_large", "Unpacked it is over 200 MB.")


def _bytes(opened: zipfile.ZipFile, name: str) -> bytes:
    with opened.open(name) as inside:
        most = _most(name)
        found = inside.read(-1 if most is None else most + 1)
    if most is not None and len(found) > most:
        raise FileRefused("too_large", f"“{name}” is larger than it says.")
    return found


def _text(opened: zipfile.ZipFile, name: str) -> str:
    try:
        return _bytes(opened, name).decode("utf-8")
    except UnicodeDecodeError as error:
        raise FileRefused("broken", f"“{name}” is no text in UTF-8.") from error


def _read(opened: zipfile.ZipFile, stopped: Stopped) -> Archive:
    project = read_project(_bytes(opened, PROJECT), stopped)
    names = set(opened.namelist())
    variants = {variant.id for variant in project.variants}
    record = _record(_text(opened, RECORD)) if RECORD in names else Record()
    rows = tuple(_readings(_text(opened, READINGS), project)) if READINGS in names else ()
    told = {one.variant for kept in (record.tasks, record.cases, record.photos, record.mappings)
            for one in kept}  # fmt: skip
    strange = (told | {one.variant for one in rows}) - variants
    if strange:
        raise FileRefused("invalid", f"It tells of a variant “{min(strange)}” that is not in it.")
    pictures = dict(_pictures(opened, record, names, stopped))
    return Archive(project, rows, record, pictures)


def _record(text: str) -> Record:
    try:
        return Record.model_validate(json.loads(text))
    except ValidationError as error:
        first = error.errors()[0]
        where = " → ".join(str(step) for step in first["loc"])
        raise FileRefused("invalid", f"{RECORD}, {where}: {first['msg']}.") from error
    except (ValueError, RecursionError) as error:
        raise FileRefused("broken", f"{RECORD} is no JSON.") from error


def _readings(text: str, project: Project) -> Iterator[OwnRow]:
    """Read the table of all variants; without that column all are of the first."""
    if not text.strip():
        return
    try:
        lines = list(csv.reader(StringIO(text)))
    except csv.Error as error:
        raise FileRefused("broken", f"{READINGS} is no table: {error}.") from error
    heading = [name.strip() for name in lines[0]]
    by_variant: dict[str, list[list[str]]] = {}
    places = [heading.index(name) if name in heading else None for name in WHOSE]
    for cells in lines[1:]:
        variant, _ = (_cell(cells, place) for place in places)
        by_variant.setdefault(variant or project.variants[0].id, []).append(cells)
    for variant, own in by_variant.items():
        try:
            rows, bad = read_readings(write_cells([heading, *own]), None)
        except ReadingsUnreadable as error:
            raise FileRefused("invalid", f"{READINGS}: {error.why}") from error
        if bad:
            told = "; ".join(f"row {one.number}: {one.why}" for one in bad[:BAD_TOLD])
            raise FileRefused("invalid", f"{READINGS}, of {variant}: {told}.")
        people = [_cell(cells, places[1]) for cells in own if any(cell.strip() for cell in cells)]
        yield from (OwnRow(variant, row, by) for row, by in zip(rows, people, strict=True))


def _cell(cells: list[str], place: int | None) -> str:
    return cells[place].strip() if place is not None and place < len(cells) else ""


def _pictures(
    opened: zipfile.ZipFile, record: Record, names: set[str], stopped: Callable[[], bool]
) -> Iterator[tuple[str, PlainPhoto]]:
    for one in record.photos:
        if one.file not in names or not PHOTO.fullmatch(one.file):
            raise FileRefused("invalid", f"{RECORD} names “{one.file[:60]}”, which is not there.")
        if stopped():
            return
        try:
            yield one.file, read_photo(_bytes(opened, one.file))
        except PhotoRefused as error:
            raise FileRefused("invalid", f"{one.file}: {error.why}") from error
