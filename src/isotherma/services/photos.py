"""Photographs of a variant in the database, so that every process and the backup have them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from sqlalchemy.orm import Session, sessionmaker

from isotherma.files.photo import PhotoRefused, PlainPhoto, read_photo
from isotherma.store import photos
from isotherma.store.models import Photo

MOST_OF_A_VEHICLE: Final = 400
MOST_AT_ONCE: Final = 4


@dataclass(frozen=True, slots=True)
class Pictured:
    """A photograph's number, what it is about, its sides in pixels, what was said of it."""

    number: int
    about: str
    width_px: int
    height_px: int
    note: str
    by: str


def about_session(name: str) -> str:
    """Name what photographs of a session of the log are about."""
    return f"session {name}"


def plain_of(kept: Photo) -> PlainPhoto:
    """Give a photograph as it was kept."""
    return PlainPhoto(kept.media_type, kept.body, kept.width_px, kept.height_px)


class Photos:
    """Keeps photographs.

    Parameters
    ----------
    sessions : sessionmaker
        Of the database. [-]
    """

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def listed(self, vehicle_id: int, variant_id: str) -> tuple[Pictured, ...]:
        """List those of a variant, the oldest first."""
        with self._sessions() as session:
            rows = photos.listed(session, vehicle_id, variant_id)
            return tuple(Pictured(row[0], row[1], row[2], row[3], row[4], row[5]) for row in rows)

    def body(self, vehicle_id: int, variant_id: str, number: int) -> PlainPhoto | None:
        """Give one whole; None where there is none."""
        with self._sessions() as session:
            row = photos.one(session, vehicle_id, variant_id, number)
            return None if row is None else plain_of(row)

    def add(
        self, vehicle_id: int, variant_id: str, files: Sequence[bytes], *, about: str,
        note: str = "", by: str = "",
    ) -> tuple[int, ...]:  # fmt: skip
        """Keep photographs, all or none; gives their numbers. PhotoRefused says why not."""
        if not files:
            raise PhotoRefused("Choose a photograph first.")
        if len(files) > MOST_AT_ONCE:
            raise PhotoRefused(f"{MOST_AT_ONCE} photographs at once; send the others after them.")
        plain = [read_photo(data) for data in files]
        with self._sessions.begin() as session:
            if photos.count(session, vehicle_id) + len(plain) > MOST_OF_A_VEHICLE:
                raise PhotoRefused(
                    f"A vehicle keeps {MOST_OF_A_VEHICLE} photographs; take some away first."
                )
            kept = [Photo(
                vehicle_id=vehicle_id, variant_id=variant_id, about=about[:200],
                media_type=one.media_type, body=one.body, width_px=one.width_px,
                height_px=one.height_px, note=note[:400], person=by[:80],
            ) for one in plain]  # fmt: skip
            for each in kept:
                photos.add(session, each)
            session.flush()
            return tuple(each.id for each in kept)

    def forget(self, vehicle_id: int, variant_id: str, number: int) -> None:
        """Forget one."""
        with self._sessions.begin() as session:
            photos.drop(session, vehicle_id, variant_id, number)
