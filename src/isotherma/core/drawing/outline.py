"""The outline of a route: where water comes from, what moves and heats it, where it goes."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.drawing.plan import Line
from isotherma.core.graph import reach
from isotherma.core.system import System
from isotherma.core.system.kinds import use

# kinds an outline shows; valves, tees, filters and the like are passed over
MAIN: Final = frozenset({
    "fresh_tank", "loose_container", "outside_source", "pressurised_inlet", "gravity_bag", "pump",
    "submersible", "foot_pump", "hand_pump", "circulation_pump", "store", "combi", "canister",
    "through_flow_gas", "through_flow_electric", "liquid_heater", "engine_coolant", "coil",
    "air_coil", "plate_exchanger", "sun_container", "kettle", "thermostatic_mixer",
    "manual_mixer", "shower_head", "tap", "outside_outlet",
})  # fmt: skip


def outline_of(system: System) -> tuple[list[str], list[Line]]:
    """Shorten a route to what is told of it first.

    Parameters
    ----------
    system : System
        The network. [-]

    Returns
    -------
    tuple
        Ids of the parts shown, and lines between those that meet with nothing shown between. [-]
    """
    main = [part.id for part in system.parts if part.kind in MAIN and system.joined(part.id)]
    shown = set(main)
    leads: dict[str, list[str]] = {}
    for run in system.pipes:
        leads.setdefault(run.start.part, []).append(run.end.part)
    lines: list[Line] = []
    for start in main:

        def ahead(node: str, start: str = start) -> Iterator[str]:
            if node == start or node not in shown:
                yield from leads.get(node, ())

        for end in reach([start], ahead):
            if end != start and end in shown:
                lines.append(Line(f"{start}>{end}", start, end))
    for part in system.parts:
        if part.kind == "submersible" and part.id in shown and part.fitted_in is not None:
            lines.append(Line(f"{part.fitted_in}>{part.id}", part.fitted_in, part.id))
            main.append(part.fitted_in)
    on = {end for line in lines for end in (line.start, line.end)}
    outlets = {part.id for part in system.parts if isinstance(part, use.Outlet)}
    return [key for key in main if key in on or key in outlets], lines
