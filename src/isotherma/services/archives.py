"""Archives: a vehicle with its log, what was done of its plan, cases, photographs; out and in."""

from __future__ import annotations

import json
from tempfile import SpooledTemporaryFile
from typing import IO, Final

from pydantic import ValidationError
from sqlalchemy.orm import Session, sessionmaker

from isotherma.core.project import Project
from isotherma.files.archive import (
    MOST_BYTES,
    Archive,
    CaseRecord,
    LicensedRecord,
    MappingRecord,
    OwnRow,
    PhotoRecord,
    Record,
    TaskRecord,
    read_archive,
    write_archive,
)
from isotherma.files.project_file import FileRefused, write_project
from isotherma.services.fault_cases import CaseDocument
from isotherma.services.logbook import row_of, values_of
from isotherma.services.photos import plain_of
from isotherma.services.turns import Cancelled, Stopped
from isotherma.services.vehicles import Vehicles
from isotherma.store import fault_cases, mappings, photos, readings, tasks_done
from isotherma.store import vehicles as queries
from isotherma.store.models import FaultCase, Photo, TaskDone

IN_MEMORY: Final = 4_000_000  # bytes; a larger archive waits on the disk


class Archives:
    """Writes vehicles with what happened to them, and takes such archives in.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    vehicles : Vehicles
        Opens and makes vehicles. [-]
    """

    def __init__(self, sessions: sessionmaker[Session], vehicles: Vehicles) -> None:
        self._sessions, self._vehicles = sessions, vehicles

    def zone(self, vehicle_id: int) -> str | None:
        """Give the time zone a vehicle's calendar is written in; None until somebody said it."""
        with self._sessions() as session:
            found = queries.find(session, vehicle_id)
            return None if found is None else found.time_zone

    def set_zone(self, vehicle_id: int, zone: str) -> None:
        """Keep the time zone."""
        with self._sessions.begin() as session:
            found = queries.find(session, vehicle_id)
            if found is not None:
                found.time_zone = zone

    def write(self, vehicle_id: int) -> IO[bytes]:
        """Write a vehicle as an archive, at its beginning to be read.

        NotFound if there is none, FileRefused if it could not be read back.
        """
        project = self._vehicles.open(vehicle_id).project
        # the variants there are: what is kept of one that was taken away stays in the database
        living = {variant.id for variant in project.variants}
        out: IO[bytes] = SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115 - whoever reads it ends it
        with self._sessions() as session:
            found = queries.find(session, vehicle_id)
            pictures = [one for one in photos.of_vehicle(session, vehicle_id)
                        if one.variant_id in living]  # fmt: skip
            names = [f"photos/{place}.{plain_of(one).suffix}"
                     for place, one in enumerate(pictures, start=1)]  # fmt: skip
            record = Record(
                time_zone=None if found is None else found.time_zone,
                tasks=tuple(
                    TaskRecord(variant=one.variant_id, task=one.task_id,
                               state="done" if one.state == "done" else "left out", note=one.note,
                               by=one.person, on=one.done_at, source=one.source,
                               record=None if one.record is None
                               else LicensedRecord.model_validate_json(one.record),
                               as_found=one.as_found, as_left=one.as_left)
                    for one in tasks_done.of_vehicle(session, vehicle_id)
                    if one.variant_id in living),
                cases=tuple(
                    CaseRecord(variant=one.variant_id, said=json.loads(one.document),
                               outcome=one.outcome, begun=one.begun_at, ended=one.ended_at)
                    for one in fault_cases.of_vehicle(session, vehicle_id)
                    if one.variant_id in living),
                photos=tuple(
                    PhotoRecord(variant=one.variant_id, file=name, about=one.about, note=one.note,
                                by=one.person, on=one.added_at)
                    for one, name in zip(pictures, names, strict=True)),
                mappings=tuple(
                    MappingRecord(variant=one.variant_id,
                                  kind="probe" if one.kind == "probe" else "columns",
                                  name=one.name, meaning=json.loads(one.document))
                    for one in mappings.of_vehicle(session, vehicle_id)
                    if one.variant_id in living),
            )  # fmt: skip
            rows = [OwnRow(one.variant_id, row_of(place, one), one.person)
                    for place, one in enumerate(readings.of_vehicle(session, vehicle_id), start=1)
                    if one.variant_id in living]  # fmt: skip
            bodies = ((name, photos.body(session, one.id))
                      for name, one in zip(names, pictures, strict=True))  # fmt: skip
            write_archive(out, write_project(project), rows, record, bodies)
        size = out.tell()
        if size > MOST_BYTES:
            out.close()
            raise FileRefused(
                "too_large",
                f"The archive would have {size / 1e6:.0f} MB, and one of more than "
                f"{MOST_BYTES / 1e6:.0f} MB could not be read back. Take photographs away first.",
            )
        out.seek(0)
        return out

    def take(self, source: IO[bytes], stopped: Stopped) -> Project:
        """Keep an archive as a new vehicle, all of it or nothing; FileRefused says why not."""
        found = read_archive(source, stopped)
        said = [_said(one) for one in found.record.cases]
        if stopped():
            raise Cancelled
        self._vehicles.create(
            found.project, "Imported", lambda session, number: _keep(session, number, found, said)
        )
        return found.project


def _said(one: CaseRecord) -> str:
    """Judge what was said of a case, and give it as it is kept."""
    try:
        return CaseDocument.model_validate(one.said).model_dump_json()
    except ValidationError as error:
        first = error.errors()[0]
        where = " → ".join(str(step) for step in first["loc"])
        raise FileRefused("invalid", f"record.json, a case, {where}: {first['msg']}.") from error


def _keep(session: Session, vehicle_id: int, found: Archive, said: list[str]) -> None:
    """Keep all that goes beside the project, in the transaction that makes the vehicle."""
    vehicle = queries.find(session, vehicle_id)
    if vehicle is not None:
        vehicle.time_zone = found.record.time_zone
    for task in found.record.tasks:
        session.add(TaskDone(
            vehicle_id=vehicle_id, variant_id=task.variant, task_id=task.task, state=task.state,
            note=task.note, person=task.by, source=task.source, done_at=task.on,
            record=None if task.record is None else task.record.model_dump_json(),
            as_found=task.as_found, as_left=task.as_left,
        ))  # fmt: skip
    for case, document in zip(found.record.cases, said, strict=True):
        session.add(FaultCase(
            vehicle_id=vehicle_id, variant_id=case.variant, document=document,
            outcome=case.outcome, begun_at=case.begun, ended_at=case.ended,
        ))  # fmt: skip
    for variant in dict.fromkeys(one.variant for one in found.readings):
        readings.put(session, vehicle_id, variant, [
            {**values_of(one.row, one.by), "sent": None}
            for one in found.readings if one.variant == variant
        ])  # fmt: skip
    for one in found.record.mappings:
        mappings.put(session, vehicle_id, one.variant, one.kind, one.name, json.dumps(one.meaning))
    for photo in found.record.photos:
        plain = found.pictures[photo.file]
        session.add(Photo(
            vehicle_id=vehicle_id, variant_id=photo.variant, about=photo.about,
            media_type=plain.media_type, body=plain.body, width_px=plain.width_px,
            height_px=plain.height_px, note=photo.note, person=photo.by, added_at=photo.on,
        ))  # fmt: skip
