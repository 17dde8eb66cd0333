"""The network as it stands: in one state, at one phase of the building."""

from __future__ import annotations

from collections.abc import Iterator

from isotherma.core.graph import both_ways, reach
from isotherma.core.system import AnyKind, AnyRun, System, part_refs
from isotherma.core.system.kinds.water import BlankingCap
from isotherma.core.system.runs import Pipe, PortRef
from isotherma.core.system.states import State


def positions(system: System, state: State | None) -> dict[str, str]:
    """Say how every part that can be moved stands.

    Parameters
    ----------
    system : System
        The network. [-]
    state : State or None
        None: everything as usual, the first position of its kind. [-]

    Returns
    -------
    dict of str to str
        Position by part id. [-]
    """
    found = {part.id: part.positions[0] for part in system.parts if part.positions}
    if state is not None:
        found |= {position.part: position.at for position in state.positions}
    return found


def fitted_by(system: System, phase_id: str | None) -> System:
    """Give the system as built at the end of a phase; open ends are capped.

    Parameters
    ----------
    system : System
        The whole plan. [-]
    phase_id : str or None
        The last phase that is done; None for everything. [-]

    Returns
    -------
    System
        Parts and runs of that phase and those before it. A pipe whose far part is not
        there yet keeps its run and ends in a cap; other runs go with their part. [-]

    Raises
    ------
    KeyError
        If the system has no such phase.
    """
    if phase_id is None:
        return system
    order = {phase.id: index for index, phase in enumerate(system.phases)}
    last = order[phase_id]

    def there(phase: str | None) -> bool:
        return phase is None or order[phase] <= last

    kept = {part.id: part for part in system.parts if there(part.phase)}
    hosted = {
        part.id: part for part in kept.values() if part.fitted_in is None or part.fitted_in in kept
    }
    parts: list[AnyKind] = [_without_refs(part, set(hosted)) for part in hosted.values()]
    runs: list[AnyRun] = []
    for run in system.runs:
        ends = (run.start.part in hosted, run.end.part in hosted)
        if not there(run.phase) or not any(ends):
            continue
        if all(ends):
            runs.append(run)
        elif isinstance(run, Pipe):
            cap = BlankingCap(id=f"cap-{run.id}"[:40], name=f"Cap on {run.label}"[:80])
            parts.append(cap)
            side = "end" if ends[0] else "start"
            runs.append(run.model_copy(update={side: PortRef(part=cap.id, port="inlet")}))
    ids = {part.id for part in parts}
    states = tuple(_only(state, ids) for state in system.states)
    holes = tuple(
        hole.model_copy(update={"for_part": None}) if hole.for_part not in ids else hole
        for hole in system.holes
    )
    return System.model_validate(
        system.model_copy(
            update={"parts": tuple(parts), "runs": tuple(runs), "states": states, "holes": holes}
        ).model_dump()
    )


def _without_refs(part: AnyKind, there: set[str]) -> AnyKind:
    gone = {name: None for name in part_refs(type(part)) if getattr(part, name) not in there}
    return part.model_copy(update=gone)


def _only(state: State, there: set[str]) -> State:
    return state.model_copy(
        update={
            "positions": tuple(item for item in state.positions if item.part in there),
            "dry": tuple(item for item in state.dry if item in there),
            "placed": tuple(item for item in state.placed if item.part in there),
        }
    )


Node = tuple[str, str]


def ports_reached(
    system: System, state: State | None, start: Node, *, stop_at: frozenset[str] = frozenset()
) -> set[Node]:
    """Walk everything a medium can get to from one port.

    Parameters
    ----------
    system : System
        The network. [-]
    state : State or None
        How it stands. [-]
    start : tuple of str
        Part id and port name. [-]
    stop_at : frozenset of str
        Kinds of part the walk enters but does not pass, such as pumps. [-]

    Returns
    -------
    set of tuple of str
        Ports reached, the start included. [-]
    """
    at = positions(system, state)
    parts = {part.id: part for part in system.parts}
    joined = both_ways(
        ((run.start.part, run.start.port), (run.end.part, run.end.port)) for run in system.runs
    )

    def beside(node: Node) -> Iterator[Node]:
        yield from joined.get(node, ())
        part = parts[node[0]]
        if part.kind in stop_at:
            return
        for one, other in part.ways(at.get(part.id, "")):
            if node[1] in (one, other):
                yield part.id, other if node[1] == one else one

    return set(reach([start], beside))
