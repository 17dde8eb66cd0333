"""From one state to another: an ordered list of moves with tools and seconds."""

from __future__ import annotations

from dataclasses import dataclass, replace

from isotherma.core.system import AnyKind, System
from isotherma.core.system.pieces import Switchable
from isotherma.core.system.remarks import Remark, standing_remarks
from isotherma.core.system.stands import positions
from isotherma.core.system.states import Position, State

SWITCH_S = 3.0  # a hand on a switch within reach
CARRY_S = 60.0  # fetch a thing and put it elsewhere
EMPTY_S = 300.0  # open, let it run out, shut again

# Heat stops before water does, gas before it is uncoupled; all comes back the other way round.
# Lower goes first; each pair is (what it is, going to).
_ORDER: dict[str, int] = {
    "heat off": 0,
    "pump off": 1,
    "gas shut": 2,
    "water shut": 3,
    "apart": 4,
    "emptied": 5,
    "carried": 6,
    "joined": 7,
    "filled": 8,
    "turned": 9,
    "water open": 10,
    "gas open": 11,
    "pump on": 12,
    "heat on": 13,
}


@dataclass(frozen=True, slots=True)
class Move:
    """One thing a person does, and what is wrong right after it, if anything."""

    part_id: str
    label: str
    before: str
    after: str
    tool: str
    seconds_s: float
    wrong: tuple[Remark, ...] = ()


def _group(part: AnyKind, after: str) -> str:
    """Name the group of a change of position, which decides its turn."""
    if after in {"joined", "plugged"}:
        return "joined"
    if after in {"apart", "unplugged"}:
        return "apart"
    if part.kind in {"pump", "submersible", "loop_pump", "circulation_pump", "dump_pump"}:
        return "pump off" if after == "off" else "pump on"
    if part.side == "gas":
        return "gas shut" if after in {"shut", "off"} else "gas open"
    if part.side in {"heat", "electric"} and after in {"off", "ready", "on"}:
        return "heat off" if after == "off" else "heat on"
    if after == "shut":
        return "water shut"
    return "water open" if after == "open" else "turned"


def _state_after(state: State, part: AnyKind, after: str) -> State:
    kept = tuple(item for item in state.positions if item.part != part.id)
    return state.model_copy(update={"positions": (*kept, Position(part=part.id, at=after))})


def moves(system: System, first: State | None, second: State | None) -> tuple[Move, ...]:
    """List what has to be done to get from one state to another, in order.

    Parameters
    ----------
    system : System
        The network. [-]
    first, second : State or None
        From and to; None is everything as usual. [-]

    Returns
    -------
    tuple of Move
        Heat and pumps off first, then valves shut, couplings, selectors, valves open,
        pumps and heat on. A move after which the system stands wrongly carries what is
        wrong, unless it was so before the first move. [s]
    """
    start, end = positions(system, first), positions(system, second)
    here = first or State(id="usual", name="As usual")
    then = second or State(id="usual", name="As usual")
    parts = {part.id: part for part in system.parts}
    names = {space.id: space.name for space in system.spaces}
    planned: list[tuple[int, str, Move]] = []

    def plan(group: str, move: Move) -> None:
        planned.append((_ORDER[group], move.part_id, move))

    for part in system.parts:
        if part.positions and start[part.id] != end[part.id]:
            after = end[part.id]
            tool, seconds = "hand", SWITCH_S
            if isinstance(part, Switchable):
                tool, seconds = part.tool, part.move_s
            plan(
                _group(part, after),
                Move(part.id, part.label, start[part.id], after, tool, seconds),
            )
    for part_id in then.dry:
        if part_id not in here.dry:
            label = parts[part_id].label
            plan("emptied", Move(part_id, label, "full", "empty", "its drain", EMPTY_S))
    for part_id in here.dry:
        if part_id not in then.dry:
            label = parts[part_id].label
            plan("filled", Move(part_id, label, "empty", "full", "pump or hose", EMPTY_S))
    was = {item.part: item.space for item in here.placed}
    will = {item.part: item.space for item in then.placed}
    for part_id in sorted({*was, *will}):
        home = parts[part_id].space
        left, reached = was.get(part_id, home), will.get(part_id, home)
        if left != reached:
            words = [names.get(space or "", "its place") for space in (left, reached)]
            plan(
                "carried", Move(part_id, parts[part_id].label, words[0], words[1], "hand", CARRY_S)
            )
    planned.sort(key=lambda item: item[:2])
    known = {remark.key for remark in standing_remarks(system, first)}
    found = []
    state = here
    for order, part_id, move in planned:
        part = parts[part_id]
        if move.after in part.positions:
            state = _state_after(state, part, move.after)
        elif order == _ORDER["emptied"]:
            state = state.model_copy(update={"dry": (*state.dry, part_id)})
        elif order == _ORDER["filled"]:
            left_dry = tuple(item for item in state.dry if item != part_id)
            state = state.model_copy(update={"dry": left_dry})
        wrong = tuple(
            remark for remark in standing_remarks(system, state) if remark.key not in known
        )
        found.append(replace(move, wrong=wrong))
    return tuple(found)


def seconds_of(steps: tuple[Move, ...]) -> float:
    """Add up the time of moves.

    Parameters
    ----------
    steps : tuple of Move
        What is done. [-]

    Returns
    -------
    float
        Time it takes. [s]
    """
    return sum(step.seconds_s for step in steps)
