"""What a second tap does to the first: at once, and when valves and heaters have followed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from isotherma.core.errors import CoreError
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import Point, operate
from isotherma.core.flows.solving import Solved, solve
from isotherma.core.system.kinds.water import Drain


@dataclass(frozen=True, slots=True)
class Felt:
    """Flow and temperature at one outlet."""

    flow_m3_per_s: float
    temperature_c: float


@dataclass(frozen=True, slots=True)
class Shock:
    """What somebody at `watched` feels when `moved` is opened, or shut.

    `at_once` is before any mixing valve has moved, `after` when all has settled.
    """

    watched: str
    moved: str
    opens: bool
    before: Felt
    at_once: Felt
    after: Felt


def _felt(solved: Solved, outlet: str) -> Felt:
    link = solved.network.ends[outlet]
    flow = float(solved.flow_m3_per_s[link])
    return Felt(max(0.0, flow), float(solved.out_c[link]))


def shocks(network: CompiledNetwork, point: Point) -> tuple[Shock, ...]:
    """Open every other outlet in turn, shut every second one, and tell what is felt.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    point : Point
        The operating point before. [-]

    Returns
    -------
    tuple of Shock
        For each open outlet that runs, in the order of the document. Changes that cannot be
        solved or need a value nobody knows are left out. [SI]
    """
    opens = point.solved.opens
    running = [key for key in opens if _felt(point.solved, key).flow_m3_per_s > 1e-8]
    running = [key for key in running if not isinstance(network.parts[key], Drain)]
    found = []
    for other in network.ends:
        if isinstance(network.parts[other], Drain):
            continue
        watched = [key for key in running if key != other]
        if not watched:
            continue
        if other in opens:
            changed: Mapping[str, float] = {k: v for k, v in opens.items() if k != other}
        else:
            changed = {**opens, other: 1.0}
        try:
            at_once = solve(
                network, changed, near=point.solved, held_pa=point.held_pa, at_once=True
            )
            after = operate(network, changed, near=point.solved).solved
        except CoreError:
            continue
        found += [
            Shock(
                watched=key,
                moved=other,
                opens=other not in opens,
                before=_felt(point.solved, key),
                at_once=_felt(at_once, key),
                after=_felt(after, key),
            )
            for key in watched
        ]
    return tuple(found)
