"""What people want to say of a state: this outlet from that source. The valves follow from it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Final

from isotherma.core.graph import both_ways, lightest
from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import Node
from isotherma.core.system.kinds import use, water
from isotherma.core.system.remarks import PUMPS, SOURCES, standing_remarks
from isotherma.core.system.states import Position, State

# what lets water through one way only; a way back through a mixer would be none
_ONE_WAY: Final = PUMPS | {"check_valve", "thermostatic_mixer", "manual_mixer", "loop_pump"}
_CLOSED: Final = ("shut", "apart", "neither", "off")
_WET: Final = frozenset({"water", "fluid"})
Step = tuple[Node, str | None]  # a port, and how its part stood as it was passed; None: not yet


@dataclass(frozen=True, slots=True)
class Saying:
    """An outlet and a source it can be fed from."""

    outlet: str
    source: str


def _joined(system: System) -> Mapping[Node, list[Node]]:
    return both_ways(
        ((run.start.part, run.start.port), (run.end.part, run.end.port)) for run in system.pipes
    )


def _wet(part: AnyKind, port: str) -> bool:
    found = part.port(port)
    return found is not None and found.medium in _WET


def _passages(part: AnyKind, port: str) -> Iterator[tuple[str, str]]:
    """Give the other ports water can leave by, with how the part must stand for it."""
    for at in part.positions or ("",):
        for one, other in part.ways(at):
            if port == one:
                yield other, at
            elif port == other and part.kind not in _ONE_WAY:
                yield one, at


def _near(
    joined: Mapping[Node, list[Node]], parts: Mapping[str, AnyKind], fixed: Mapping[str, str],
    step: Step,
) -> Iterator[tuple[Step, int]]:  # fmt: skip
    """Give what is next to a port, each with how many parts must be moved to get there."""
    (part_id, port), passed = step
    if passed is not None:  # a part is passed once, in one position, and left by a pipe
        for node in joined.get((part_id, port), ()):
            if _wet(parts[node[0]], node[1]):
                yield (node, None), 0
        return
    part = parts[part_id]
    for other, at in _passages(part, port):
        if part_id in fixed and at != fixed[part_id]:
            continue
        if _wet(part, other):
            usual = part.positions[0] if part.positions else ""
            yield ((part_id, other), at), int(at != usual)


def _way(
    system: System, source: str, outlet: str, fixed: Mapping[str, str]
) -> tuple[Step, ...] | None:
    """Find the way from a source to an outlet with the fewest parts to move; None if none is."""
    parts = {part.id: part for part in system.parts}
    # a pump that hangs in a bucket is its way out
    begun = [parts[source], *(part for part in system.fitted(source) if part.kind in PUMPS)]
    starts: list[Step] = [
        ((part.id, port.name), "")
        for part in begun for port in part.ports if port.medium in _WET
    ]  # fmt: skip
    return lightest(
        starts, partial(_near, _joined(system), parts, fixed), lambda step: step[0][0] == outlet
    )


def sayings(system: System) -> tuple[Saying, ...]:
    """List what can be said of a state of this system.

    Parameters
    ----------
    system : System
        The network. [-]

    Returns
    -------
    tuple of Saying
        Every outlet with every source there is a way from, in the document's order. [-]
    """
    outlets = [part.id for part in system.parts if isinstance(part, use.Outlet)]
    sources = [part.id for part in system.parts if part.kind in SOURCES]
    return tuple(
        Saying(outlet, source) for outlet in outlets for source in sources
        if _way(system, source, outlet, {}) is not None
    )  # fmt: skip


def positions_for(system: System, saying: Saying) -> dict[str, str] | None:
    """Set the valves so that an outlet is fed from a source, and from no other.

    Parameters
    ----------
    system : System
        The network. [-]
    saying : Saying
        What is wanted. [-]

    Returns
    -------
    dict of str to str or None
        Positions that differ from the usual ones, by part id; None where no way leads there. [-]

    Notes
    -----
    The way with the fewest moves. Another source that would still be open to it is shut at the
    first valve on its way that the wanted way does not pass; where it has none, it stays open,
    and the remarks on the state say so.
    """
    way = _way(system, saying.source, saying.outlet, {})
    if way is None:
        return None
    parts = {part.id: part for part in system.parts}
    stands = {part.id: part.positions[0] for part in system.parts if part.positions}
    wanted = {node[0]: at for node, at in way if at}
    stands |= wanted
    outlet = parts[saying.outlet]
    if outlet.positions and "open" in outlet.positions:
        stands[outlet.id] = wanted[outlet.id] = "open"
    passed = {node[0] for node, _ in way}
    for other in system.parts:
        if other.kind not in SOURCES or other.id == saying.source:
            continue
        open_way = _way(system, other.id, saying.outlet, stands)
        for (part_id, _), at in open_way or ():
            closed = next((key for key in parts[part_id].positions if key in _CLOSED), None)
            if at is None or closed is None or part_id in passed:
                continue
            stands[part_id] = closed
            break
    stands |= _apart(system, passed)
    stands |= _put_out(system, stands)
    return {key: at for key, at in stands.items() if at != parts[key].positions[0]}


def _put_out(system: System, stands: Mapping[str, str]) -> dict[str, str]:
    """Switch off what would be lit with its water shut."""
    at = tuple(Position(part=key, at=position) for key, position in stands.items())
    state = State(id="said", name="Said", positions=at)
    parts = {part.id: part for part in system.parts}
    return {
        key: "off" for remark in standing_remarks(system, state) if remark.code == "lit_but_shut"
        for key in remark.parts if "off" in parts[key].positions
    }  # fmt: skip


def _apart(system: System, passed: set[str]) -> dict[str, str]:
    """Take couplings apart that share a half with one that is passed, or with one before."""
    found, taken = {}, set()
    couplings = [part for part in system.parts if isinstance(part, water.Coupling)]
    for part in sorted(couplings, key=lambda part: part.id not in passed):
        half = part.shares_half_with or part.id
        if half in taken:
            found[part.id] = "apart"
        taken |= {half, part.id}
    return found
