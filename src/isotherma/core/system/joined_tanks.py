"""Fresh tanks that a pipe joins, so that they level out or one is filled through the other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds.water import Coupling, Filter, FreshTank, ShutOff, Strainer
from isotherma.core.system.runs import Pipe

_BETWEEN: Final = (ShutOff, Coupling, Strainer, Filter)
LEVEL_JOINED: Final = ("outlet", "second_outlet", "fill", "overflow", "returns")


@dataclass(frozen=True, slots=True)
class TankJoint:
    """A pipe from a port of one tank to a port of another: its runs with whether each is walked as
    it was drawn, and the valves it passes.
    """

    first: str
    first_port: str
    second: str
    second_port: str
    runs: tuple[tuple[str, bool], ...]
    valves: tuple[str, ...]

    @property
    def run_ids(self) -> frozenset[str]:
        """Give the runs it is made of."""
        return frozenset(run_id for run_id, _ in self.runs)


def tank_joints(system: System) -> tuple[TankJoint, ...]:
    """Find the pipes that join two fresh tanks with nothing but valves and meshes between.

    Parameters
    ----------
    system : System
        Any document. [-]

    Returns
    -------
    tuple of TankJoint
        Each once, from the tank that is listed first. [-]
    """
    parts = {part.id: part for part in system.parts}
    if sum(isinstance(part, FreshTank) for part in system.parts) < 2:
        return ()
    at: dict[tuple[str, str], list[tuple[Pipe, tuple[str, str], bool]]] = {}
    for run in system.pipes:
        one, other = (run.start.part, run.start.port), (run.end.part, run.end.port)
        at.setdefault(one, []).append((run, other, True))
        at.setdefault(other, []).append((run, one, False))
    found: list[TankJoint] = []
    taken: set[frozenset[str]] = set()
    for tank in system.parts:
        if not isinstance(tank, FreshTank):
            continue
        for port in LEVEL_JOINED:
            for run, there, ahead in at.get((tank.id, port), ()):
                joint = _follow(parts, at, (tank.id, port), run, there, ahead)
                if joint is not None and joint.run_ids not in taken:
                    taken.add(joint.run_ids)
                    found.append(joint)
    return tuple(found)


def _follow(
    parts: dict[str, AnyKind],
    at: dict[tuple[str, str], list[tuple[Pipe, tuple[str, str], bool]]],
    start: tuple[str, str],
    run: Pipe,
    there: tuple[str, str],
    ahead: bool,
) -> TankJoint | None:
    """Walk on from a tank's port until a tank is reached; None where anything else comes."""
    runs, valves = [(run.id, ahead)], list[str]()
    while True:
        part = parts[there[0]]
        if isinstance(part, FreshTank):
            if part.id == start[0] or there[1] not in LEVEL_JOINED:
                return None
            return TankJoint(start[0], start[1], part.id, there[1], tuple(runs), tuple(valves))
        if not isinstance(part, _BETWEEN) or part.id in valves:
            return None
        valves.append(part.id)
        beyond = (part.id, "outlet" if there[1] == "inlet" else "inlet")
        follows = at.get(beyond, [])
        if len(follows) != 1:
            return None
        run, there, ahead = follows[0]
        runs.append((run.id, ahead))


def tanks_as_one(system: System, shut: frozenset[str] = frozenset()) -> tuple[tuple[str, ...], ...]:
    """Group the fresh tanks that level out with each other.

    Parameters
    ----------
    system : System
        Any document. [-]
    shut : frozenset of str
        Valves between them that are shut. [-]

    Returns
    -------
    tuple of tuple of str
        Groups of two and more, in the order of the document; joined low, not by an overflow or a
        return alone. [-]
    """
    groups: list[set[str]] = []
    for joint in tank_joints(system):
        low = {"outlet", "second_outlet", "fill"}
        if joint.first_port not in low or joint.second_port not in low or shut & {*joint.valves}:
            continue
        pair = {joint.first, joint.second}
        touching = [group for group in groups if group & pair]
        groups = [group for group in groups if not group & pair]
        groups.append(pair.union(*touching))
    order = [part.id for part in system.parts]
    return tuple(
        sorted((tuple(sorted(group, key=order.index)) for group in groups),
               key=lambda ids: order.index(ids[0]))
    )  # fmt: skip
