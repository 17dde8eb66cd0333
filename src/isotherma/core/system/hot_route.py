"""The way hot water comes: the pipes between an outlet and the heat before it."""

from __future__ import annotations

from isotherma.core.system import Pipe, System
from isotherma.core.system.kinds import heat


def hot_route(system: System, outlet: str) -> tuple[Pipe, ...]:
    """Give the runs between an outlet and the heat before it, from the outlet back.

    Parameters
    ----------
    system : System
        The network. [-]
    outlet : str
        Part id. [-]

    Returns
    -------
    tuple of Pipe
        Through the hot leg of a mixer; up to a store, a heater or an exchanger. [-]
    """
    into: dict[str, list[Pipe]] = {}
    for run in system.pipes:
        into.setdefault(run.end.part, []).append(run)
    parts = {part.id: part for part in system.parts}
    found: list[Pipe] = []
    here, seen = outlet, {outlet}
    while True:
        runs = [run for run in into.get(here, ()) if run.start.part not in seen]
        hot = [run for run in runs if run.end.port == "hot"]
        chosen = next(iter(hot or runs), None)
        if chosen is None:
            return tuple(found)
        found.append(chosen)
        here = chosen.start.part
        seen.add(here)
        if isinstance(parts[here], heat.HeatPart):
            return tuple(found)
