"""Air in a section while it is filled: where it gathers, and by what it leaves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.building.sections import SOURCES, VESSELS, Section, joined_ports
from isotherma.core.graph import both_ways, reach
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import use
from isotherma.core.system.runs import Pipe

PRESSES: Final = ("air_vent", "bleed")
LEVEL_M: Final = 1e-3  # what lies within a millimetre lies level
Port = tuple[str, str]


@dataclass(frozen=True, slots=True)
class Air:
    """Where air gathers in a section, what lets it out, and where nothing does.

    `gathers` are parts, `leaves_by` outlets from the highest down, then vents; `left` those of
    `gathers` that no outlet stands over.
    """

    gathers: tuple[str, ...]
    leaves_by: tuple[str, ...]
    left: tuple[str, ...]


def air_of(
    section: Section, pipes: Mapping[str, Pipe], parts: Mapping[str, AnyKind],
    heights: Mapping[Port, float], *, said: bool, opened: frozenset[str] = frozenset(),
) -> Air:  # fmt: skip
    """Find the places of a section that air cannot rise from.

    Parameters
    ----------
    section : Section
        What is filled. [-]
    pipes, parts : mapping of str to Pipe, AnyKind
        All of the design, by id. [-]
    heights : mapping of (str, str) to float
        Of ports, as the vehicle stands. [m]
    said : bool
        Whether anybody said how anything rises. [-]
    opened : frozenset of str
        What some stage opens: air at it goes on with the water. [-]

    Returns
    -------
    Air
        Where no heights are said, vessels alone, and every outlet lets air out. [-]

    References
    ----------
    A place with no higher neighbour holds air; one that lies level with its neighbours does so
    with them.
    """
    outlets = [key for key in section.borders if isinstance(parts[key], use.Outlet)]
    outlets.sort(key=lambda key: -heights.get((key, "inlet"), 0.0))
    vents = tuple(key for key in (*section.borders, *section.parts)
                  if parts[key].kind in PRESSES)  # fmt: skip
    vessels = tuple(key for key in section.parts if isinstance(parts[key], VESSELS))
    if not said:
        return Air(vessels, (*outlets, *vents), () if outlets or vents else vessels)
    tops = _tops(section, pipes, parts, heights)
    for key in vessels:
        top = max((high for (part, _), high in heights.items() if part == key), default=None)
        if top is not None and not any(key in place for _, place in tops):
            tops.append((top, (key,)))
    gathers: list[str] = []
    by: list[str] = []
    left: list[str] = []
    for high, place in tops:
        if any(key in opened or parts[key].kind in SOURCES for key in place):
            continue
        lets = [key for key in place if key in outlets or key in vents]
        over = [key for key in outlets if heights.get((key, "inlet"), high) >= high - LEVEL_M]
        by += lets or over
        if not lets:
            name = next((key for key in place if key in vessels), place[0])
            gathers.append(name)
            left += [] if over else [name]
    leaves = [key for key in outlets if key in by] or outlets
    return Air(tuple(dict.fromkeys(gathers)), (*leaves, *vents), tuple(dict.fromkeys(left)))


def _tops(
    section: Section, pipes: Mapping[str, Pipe], parts: Mapping[str, AnyKind],
    heights: Mapping[Port, float],
) -> list[tuple[float, tuple[str, ...]]]:  # fmt: skip
    """List the heights that have no higher neighbour, with the parts that lie level there."""
    ends = [((run.start.part, run.start.port), (run.end.part, run.end.port))
            for run in (pipes[key] for key in section.runs)]  # fmt: skip
    ports: dict[str, list[str]] = {}
    for part, port in (one for pair in ends for one in pair):
        ports.setdefault(part, []).append(port)
    inside: list[tuple[Port, Port]] = []
    for key, names in ports.items():
        joined = joined_ports(parts[key]) if key in section.parts else set()
        inside += [((key, one), (key, other)) for one in names for other in names
                   if one < other and frozenset((one, other)) in joined]  # fmt: skip
    near = both_ways([pair for pair in (*ends, *inside) if all(one in heights for one in pair)])
    found: list[tuple[float, tuple[str, ...]]] = []
    seen: set[Port] = set()
    for node in near:
        if node in seen:
            continue
        high = heights[node]
        level = _level(node, near, heights)
        seen |= level.keys()
        if not any(heights[other] > high + LEVEL_M for one in level for other in near[one]):
            found.append((high, tuple(dict.fromkeys(part for part, _ in level))))
    return found


def _level(
    node: Port, near: Mapping[Port, Sequence[Port]], heights: Mapping[Port, float]
) -> dict[Port, None]:
    """Find what lies level with a place and hangs together with it."""
    high = heights[node]
    return reach([node], lambda one: [other for other in near[one]
                                      if abs(heights[other] - high) <= LEVEL_M])  # fmt: skip
