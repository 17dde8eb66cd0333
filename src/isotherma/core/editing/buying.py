"""Ends, measures, prices and what is there: what the list, the pieces and the holes are asked."""

from __future__ import annotations

from typing import Any

from isotherma.core.editing.values import fresh_id, set_values, variant_of, with_lists
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Price, Project
from isotherma.core.system.runs import FuelPipe, Pipe
from isotherma.core.system.vehicle import Hole


def set_end(project: Project, variant_id: str, part_id: str, port: str, end: str) -> Project:
    """State what a part has at a port; nothing takes it back.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        The variant. [-]
    part_id, port : str
        Which port of which part. [-]
    end : str
        An end in words, "run", or "" for nobody's word. [-]

    Returns
    -------
    Project
        With that end. [-]

    Raises
    ------
    ChangeRefused
        If the part is gone.
    pydantic.ValidationError
        If it is no end, or the part has no such port.
    """
    system = variant_of(project, variant_id).system
    part = next((one for one in system.parts if one.id == part_id), None)
    path = f"variants.{variant_id}.system.parts.{part_id}"
    if part is None:
        raise ChangeRefused(path=path, reason="gone")
    others = [one.model_dump() for one in part.ends if one.port != port]
    said = [{"port": port, "end": end}] if end.strip() else []
    return set_values(project, {f"{path}.ends": [*others, *said]})


def measure_run(
    project: Project, variant_id: str, run_id: str, measured: str, legs: list[dict[str, Any]]
) -> Project:
    """Say between what a run was measured, and its legs; its length follows from them.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        The variant. [-]
    run_id : str
        Which run. [-]
    measured : str
        Between what; "" is nobody's word. [-]
    legs : list of dict
        As a file has them; none leaves its length as it is. [m, °]

    Returns
    -------
    Project
        With these. [-]

    Raises
    ------
    ChangeRefused
        If the run is gone or is not cut from tube.
    pydantic.ValidationError
        If a leg or the way does not fit.
    """
    system = variant_of(project, variant_id).system
    run = next((one for one in system.runs if one.id == run_id), None)
    path = f"variants.{variant_id}.system.runs.{run_id}"
    if not isinstance(run, Pipe | FuelPipe):
        raise ChangeRefused(path=path, reason="gone")
    values: dict[str, object] = {f"{path}.measured": measured or None, f"{path}.legs": legs}
    if legs:
        values[f"{path}.length_m"] = sum(float(leg["length_m"]) for leg in legs)
    return set_values(project, values)


def keep_price(project: Project, values: dict[str, Any]) -> Project:
    """Keep a price, pack and stock of an item of a size; what is not named stays as it was.

    Parameters
    ----------
    project : Project
        The document. [-]
    values : dict
        Item and size, and what is said of it. [as in the document]

    Returns
    -------
    Project
        With it; an entry that says nothing more is taken out. [-]

    Raises
    ------
    pydantic.ValidationError
        If a value does not fit.
    """
    key = (values["item"], values.get("size", ""))
    before = price_kept(project, *key)
    data = {**({} if before is None else before.model_dump()), **values}
    made = Price.model_validate(data)
    empty = made == Price(item=made.item, size=made.size)
    kept: list[Price] = []
    for one in project.prices:
        if (one.item, one.size) != key:
            kept.append(one)
        elif not empty:
            kept.append(made)
    if before is None and not empty:
        kept.append(made)
    return set_values(project, {"prices": [one.model_dump() for one in kept]})


def price_kept(project: Project, item: str, size: str) -> Price | None:
    """Find what is kept of an item of a size; None where nothing is.

    Parameters
    ----------
    project : Project
        The document. [-]
    item, size : str
        As on the list. [-]

    Returns
    -------
    Price or None
        Of every variant. [-]
    """
    return next((one for one in project.prices if (one.item, one.size) == (item, size)), None)


def plan_hole(project: Project, variant_id: str, run_id: str) -> Project:
    """Plan the hole a run between two spaces goes through.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        The variant. [-]
    run_id : str
        Whose parts lie in two spaces. [-]

    Returns
    -------
    Project
        With one hole more, between these spaces; the rest of it is not known. [-]

    Raises
    ------
    ChangeRefused
        If the run is gone or its parts do not lie in two spaces.
    """
    system = variant_of(project, variant_id).system
    run = next((one for one in system.runs if one.id == run_id), None)
    path = f"variants.{variant_id}.system.runs.{run_id}"
    if run is None:
        raise ChangeRefused(path=path, reason="gone")
    first, second = (system.part(end.part).space for end in (run.start, run.end))
    if first is None or second is None or first == second:
        raise ChangeRefused(path=path, reason="one_space")
    key = fresh_id(f"hole-{run_id}"[:30], [hole.id for hole in system.holes])
    hole = Hole(id=key, name=f"For {run.label}"[:80], first=first, second=second,
                for_part=run.start.part)  # fmt: skip
    return with_lists(project, variant_id, holes=[*system.holes, hole])
