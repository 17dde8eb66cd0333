"""Kinds of day, their order and the stops on the way: added, repeated, taken away."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from isotherma.core.brief.days import DayKind, Service, ServiceStop
from isotherma.core.editing.values import fresh_id
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project


def set_trip(project: Project, kinds: Sequence[DayKind], order: Sequence[str]) -> Project:
    """Give the brief other kinds of day and another order.

    Parameters
    ----------
    project : Project
        The document. [-]
    kinds : sequence of DayKind
        In the place of those there are. [-]
    order : sequence of str
        The kind of every day; empty: all days are alike. [-]

    Returns
    -------
    Project
        With that trip. [-]
    """
    data = project.model_dump()
    data["brief"] |= {"day_kinds": [kind.model_dump() for kind in kinds], "order": list(order)}
    return Project.model_validate(data)


def add_day_kind(project: Project, like: str = "") -> Project:
    """Add a kind of day, and a day of it at the end of the trip.

    Parameters
    ----------
    project : Project
        The document. [-]
    like : str
        The kind it is a copy of; "": one that says nothing. [-]

    Returns
    -------
    Project
        With one more kind. The first kind of a trip of equal days is of all its days. [-]

    Raises
    ------
    ChangeRefused
        If there is no such kind.
    """
    brief = project.brief
    ids = [kind.id for kind in brief.day_kinds]
    source = _kind(project, like) if like else DayKind(id="day", name="Day")
    name = f"{source.name}, other"[:80] if like else f"Day {len(ids) + 1}"
    new = source.model_copy(update={"id": fresh_id(name, ids), "name": name})
    order = (*brief.order, new.id) if brief.order else (new.id,) * brief.days
    return set_trip(project, (*brief.day_kinds, new), order)


def remove_day_kind(project: Project, kind_id: str) -> Project:
    """Take a kind of day out, and its days with it.

    Parameters
    ----------
    project : Project
        The document. [-]
    kind_id : str
        Which; ChangeRefused if it is not there. [-]

    Returns
    -------
    Project
        With one kind less; without any, days are alike again. [-]
    """
    _kind(project, kind_id)
    return set_trip(
        project,
        [kind for kind in project.brief.day_kinds if kind.id != kind_id],
        [key for key in project.brief.order if key != kind_id],
    )


def add_stop(project: Project, kind_id: str, what: Service) -> Project:
    """Add a stop to a kind of day.

    Parameters
    ----------
    project : Project
        The document. [-]
    kind_id : str
        Which; ChangeRefused if it is not there. [-]
    what : str
        What is done there. [-]

    Returns
    -------
    Project
        With one more stop, before the first draw. [-]
    """
    kind = _kind(project, kind_id)
    return _with_kind(project, _with_stop(kind, what))


def remove_stop(project: Project, kind_id: str, stop_id: str) -> Project:
    """Take a stop out of a kind of day.

    Parameters
    ----------
    project : Project
        The document. [-]
    kind_id, stop_id : str
        Which; ChangeRefused if one is not there. [-]

    Returns
    -------
    Project
        With one stop less. [-]
    """
    kind = _kind(project, kind_id)
    left = tuple(stop for stop in kind.stops if stop.id != stop_id)
    if len(left) == len(kind.stops):
        raise ChangeRefused(path=f"brief.day_kinds.{kind_id}.stops.{stop_id}", reason="gone")
    return _with_kind(project, kind.model_copy(update={"stops": left}))


def plan_stop(project: Project, number: int, what: Service) -> Project:
    """Plan a stop on one day of the trip.

    Parameters
    ----------
    project : Project
        The document. [-]
    number : int
        Of the day, from 1. [-]
    what : str
        What is done there. [-]

    Returns
    -------
    Project
        With a stop before the first draw of that day; where other days are of its kind, the day
        gets a kind of its own, or one that is there already and the same. [-]

    Raises
    ------
    ChangeRefused
        If the trip has no such day.
    """
    brief = project.brief
    if not 1 <= number <= brief.trip_days:
        raise ChangeRefused(path="brief.order", reason="gone")
    kinds = list(brief.day_kinds)
    order = list(brief.order)
    if not order:
        plain = DayKind(id=fresh_id("day", [kind.id for kind in kinds]), name="Day")
        kinds.append(plain)
        order = [plain.id] * brief.days
    kind = next(item for item in kinds if item.id == order[number - 1])
    wanted = _with_stop(kind, what)
    if order.count(kind.id) == 1:
        return set_trip(project, [wanted if item.id == kind.id else item for item in kinds], order)
    same = next((item for item in kinds if _says(item) == _says(wanted)), None)
    if same is None:
        name = f"{kind.name}, {what}"[:80]
        ids = [item.id for item in kinds]
        same = wanted.model_copy(update={"id": fresh_id(name, ids), "name": name})
        kinds.append(same)
    order[number - 1] = same.id
    return set_trip(project, kinds, order)


def forgotten(data: dict[str, Any], name: str, key: str) -> None:
    """Take a draw or use that goes out of what kinds of day leave out.

    Parameters
    ----------
    data : dict
        A dumped brief; it is changed. [-]
    name, key : str
        The list it may stand in, and its id. [-]

    Returns
    -------
    None
        The dumped brief has changed. [-]
    """
    for kind in data["day_kinds"]:
        kind[name] = [other for other in kind[name] if other != key]


def _says(kind: DayKind) -> DayKind:
    """Give what a kind says, whatever it is called."""
    return kind.model_copy(update={"id": "x", "name": "x"})


def _kind(project: Project, kind_id: str) -> DayKind:
    try:
        return project.brief.kind(kind_id)
    except KeyError:
        raise ChangeRefused(path=f"brief.day_kinds.{kind_id}", reason="gone") from None


def _with_stop(kind: DayKind, what: Service) -> DayKind:
    stop = ServiceStop(id=fresh_id(what, [stop.id for stop in kind.stops]), what=what)
    return kind.model_copy(update={"stops": (*kind.stops, stop)})


def _with_kind(project: Project, changed: DayKind) -> Project:
    kinds = [changed if kind.id == changed.id else kind for kind in project.brief.day_kinds]
    return set_trip(project, kinds, project.brief.order)
