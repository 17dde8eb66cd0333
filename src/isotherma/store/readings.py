"""Queries on the log; none of them commits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Final

from psycopg import sql
from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from isotherma.store.models import LogReading, now

AT_ONCE = 2000  # rows of one statement


def of_variant(
    session: Session, vehicle_id: int, variant_id: str, only: str | None = None,
    kind: str | None = None,
) -> Sequence[LogReading]:  # fmt: skip
    """List readings by session and time; of one session, or of one kind of them, if asked."""
    query = select(LogReading).where(
        LogReading.vehicle_id == vehicle_id, LogReading.variant_id == variant_id
    )
    if only is not None:
        query = query.where(LogReading.session == only)
    if kind is not None:
        query = query.where(LogReading.kind == kind)
    order = (LogReading.session, LogReading.time_s, LogReading.id)
    return session.scalars(query.order_by(*order)).all()


def of_vehicle(session: Session, vehicle_id: int) -> Sequence[LogReading]:
    """List all readings of a vehicle, as they were noted."""
    return session.scalars(
        select(LogReading).where(LogReading.vehicle_id == vehicle_id).order_by(LogReading.id)
    ).all()


def sessions(session: Session, vehicle_id: int, variant_id: str) -> Sequence[tuple[str, str, int]]:
    """List sessions with their kind and how many readings, the latest first."""
    rows = session.execute(
        select(LogReading.session, func.min(LogReading.kind), func.count(LogReading.id))
        .where(LogReading.vehicle_id == vehicle_id, LogReading.variant_id == variant_id)
        .group_by(LogReading.session).order_by(func.max(LogReading.id).desc())
    ).all()  # fmt: skip
    return [(row[0], row[1], row[2]) for row in rows]


def put(
    session: Session, vehicle_id: int, variant_id: str, rows: Sequence[Mapping[str, Any]]
) -> None:
    """Keep readings; one whose mark is there already is kept once."""
    common = {"vehicle_id": vehicle_id, "variant_id": variant_id, "noted_at": now()}
    if len(rows) > AT_ONCE and not any(row["sent"] for row in rows):
        _copy(session, [{**row, **common} for row in rows])
        return
    for start in range(0, len(rows), AT_ONCE):
        values = [{**row, **common} for row in rows[start : start + AT_ONCE]]
        session.execute(insert(LogReading).on_conflict_do_nothing(
            index_elements=["vehicle_id", "variant_id", "sent"]), values)  # fmt: skip


def _copy(session: Session, rows: Sequence[Mapping[str, Any]]) -> None:
    """Keep very many readings, by the database's own way of taking a table in."""
    names = list(rows[0])
    columns = sql.SQL(", ").join(sql.Identifier(name) for name in names)
    table = sql.Identifier(LogReading.__tablename__)
    command = sql.SQL("COPY {} ({}) FROM STDIN").format(table, columns)
    driver = session.connection().connection.driver_connection
    assert driver is not None  # the session's own, in its transaction
    with driver.cursor() as cursor, cursor.copy(command) as copy:
        for start in range(0, len(rows), AT_ONCE):
            copy.write("".join(_line([row[name] for name in names])
                               for row in rows[start : start + AT_ONCE]))  # fmt: skip


def _line(values: Sequence[Any]) -> str:
    """Write a row as the database's text format has it: three times as fast as value by value."""
    return "\t".join(map(_cell, values)) + "\n"


def _cell(value: Any) -> str:  # noqa: ANN401 - a column's own
    if value is None:
        return "\\N"
    if not isinstance(value, str):
        return str(value)
    return value.translate(_ESCAPED)


_ESCAPED: Final = str.maketrans({"\\": r"\\", "\t": r"\t", "\n": r"\n", "\r": r"\r"})


def drop_session(session: Session, vehicle_id: int, variant_id: str, name: str) -> None:
    """Forget a session with all its readings."""
    session.execute(delete(LogReading).where(
        LogReading.vehicle_id == vehicle_id, LogReading.variant_id == variant_id,
        LogReading.session == name))  # fmt: skip


def drop_one(session: Session, vehicle_id: int, variant_id: str, number: int) -> None:
    """Forget one reading."""
    session.execute(delete(LogReading).where(
        LogReading.vehicle_id == vehicle_id, LogReading.variant_id == variant_id,
        LogReading.id == number))  # fmt: skip
