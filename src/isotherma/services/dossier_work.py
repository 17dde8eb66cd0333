"""A dossier as long work: asked for here, made by a worker, kept under what it was made from."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import sha256
from typing import Any, Final

from sqlalchemy.orm import Session, sessionmaker

from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.vehicles import NotFound, Opened, Vehicles
from isotherma.store import photos, readings, sharing, tasks_done
from isotherma.store import vehicles as queries

DOSSIER_WORK: Final = "dossier"


@dataclass(frozen=True, slots=True)
class Version:
    """A kept state a dossier is of: its number, what it is called on paper."""

    revision_id: int
    words: str


class DossierService:
    """Asks workers for dossiers.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    vehicles : Vehicles
        Whose states they are of. [-]
    work : LongWork
        Who makes them. [-]
    """

    def __init__(self, sessions: sessionmaker[Session], vehicles: Vehicles, work: LongWork) -> None:
        self._sessions, self._vehicles, self._work = sessions, vehicles, work

    def version(self, vehicle_id: int, revision_id: int) -> Version:
        """Name a kept state; 0 is the one that is shown. NotFound if it is not one of its."""
        with self._sessions() as session:
            vehicle = queries.find(session, vehicle_id)
            wanted = revision_id or (None if vehicle is None else vehicle.head_id)
            row = queries.revision(session, wanted)
            if vehicle is None or row is None or row.vehicle_id != vehicle_id:
                raise NotFound
            named = row.name or row.label
            return Version(row.id, f"Version {row.id}, {named}, {row.created_at:%Y-%m-%d %H:%M}")

    def opened(self, vehicle_id: int, revision_id: int) -> Opened:
        """Open a vehicle as it was at a kept state."""
        project = self._vehicles.at(vehicle_id, revision_id)
        return Opened(vehicle_id, revision_id, project, None, None, None)

    def ask(
        self, vehicle_id: int, variant_id: str, asked: Mapping[str, Any], units: str,
        asker: Asker,
    ) -> bytes | UnderWay:  # fmt: skip
        """Give a dossier, or how far it is."""
        version = self.version(vehicle_id, int(asked["revision"]))
        payload = {
            **asked, "vehicle": vehicle_id, "variant": variant_id, "units": units,
            "revision": version.revision_id, "version": version.words,
            "made": datetime.now(UTC).date().isoformat(),
        }  # fmt: skip
        said = json.dumps([payload, self._record(vehicle_id, variant_id)], sort_keys=True)
        key = sha256(said.encode()).hexdigest()
        found = self._work.find(DOSSIER_WORK, key)
        if found is not None:
            return found
        going = self._work.look(DOSSIER_WORK, key)
        if going is not None and going.goes_on:
            return going
        return self._work.ask(DOSSIER_WORK, key, payload, asker)

    def _record(self, vehicle_id: int, variant_id: str) -> list[str]:
        """Name what happened beside the design: ticks, readings, photographs."""
        with self._sessions() as session:
            ticks = [f"{row.task_id}{row.state}{row.done_at}{row.person}{row.note}"
                     for row in tasks_done.of_variant(session, vehicle_id, variant_id)]  # fmt: skip
            read = [f"{row.id}{row.value}" for row in readings.of_vehicle(session, vehicle_id)]
            seen = [str(row.id) for row in photos.of_vehicle(session, vehicle_id)]
            signed = [f"{row.id}{row.answer}{row.closed_at}"
                      for row in sharing.reviews(session, vehicle_id, variant_id)]  # fmt: skip
        return [sha256("\n".join(rows).encode()).hexdigest()
                for rows in (ticks, read, seen, signed)]  # fmt: skip
