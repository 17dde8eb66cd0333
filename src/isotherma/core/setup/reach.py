"""What must be taken out to get at a part, what that costs, and what bridges it on the road."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.system import System
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.runs import Pipe

PART_S: Final = 300.0  # to unscrew one and put it aside; judgement
JOINT_S: Final = 180.0  # to undo a joint and make it again; judgement
HATCH_S: Final = 120.0
USUAL_PART_M: Final = 0.2  # across, of one nobody measured: a small pump or filter; judgement
BYPASS_SPARE_M: Final = 0.2  # of tube over the part's own length, to reach both ends


@dataclass(frozen=True, slots=True)
class Bypass:
    """A tube that bridges a part: between which pipes, how long [m], of what size."""

    before: str
    after: str
    length_m: float
    family: str | None
    nominal: str | None


@dataclass(frozen=True, slots=True)
class Reach:
    """How a part is got at: what comes out before it, outermost first.

    `joints` are undone, of it and of what comes out; `seconds_s` in all, there and back.
    """

    order: tuple[str, ...]
    joints: int
    seconds_s: float
    hatch: bool
    bypass: Bypass | None


def reach_of(system: System, part_id: str) -> Reach:
    """Say what must be taken out to get at a part.

    Parameters
    ----------
    system : System
        Any document. [-]
    part_id : str
        The part. [-]

    Returns
    -------
    Reach
        By what stands before what; a part that says nothing stands open. [s]

    References
    ----------
    Judgement: five minutes a part, three a joint.
    """
    parts: dict[str, PartBase] = {part.id: part for part in system.parts}
    part = parts[part_id]
    order: list[str] = []
    here: PartBase | None = part
    while here is not None and here.reach == "behind another part" and here.behind is not None:
        if here.behind in order or here.behind == part_id:
            break  # two that stand before each other: said once
        order.append(here.behind)
        here = parts.get(here.behind)
    taken = {part_id, *order}
    joints = sum(
        end.part in taken for run in system.runs if run.kind in ("pipe", "fuel_pipe")
        for end in (run.start, run.end)
    )  # fmt: skip
    hatch = here is not None and here.reach == "hatch"
    seconds = PART_S * (1 + len(order)) + JOINT_S * joints + (HATCH_S if hatch else 0.0)
    return Reach(tuple(reversed(order)), joints, seconds, hatch, _bypass(system, part))


def _bypass(system: System, part: PartBase) -> Bypass | None:
    """Give the tube that joins what comes to a part with what leaves it; None off the way."""
    ways = part.ways(part.positions[0] if part.positions else "")
    if ("inlet", "outlet") not in ways:
        return None
    comes: Pipe | None = None
    leaves: Pipe | None = None
    for run in system.pipes:
        if (run.end.part, run.end.port) == (part.id, "inlet"):
            comes = run
        elif (run.start.part, run.start.port) == (part.id, "outlet"):
            leaves = run
    if comes is None or leaves is None:
        return None
    sides = [side for side in (part.width_m, part.depth_m) if side is not None]
    across = max(sides, default=USUAL_PART_M)
    return Bypass(
        comes.start.part, leaves.end.part, across + BYPASS_SPARE_M, comes.family, comes.nominal
    )
