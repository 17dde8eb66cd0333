"""From one state to another: an ordered list of moves with tools and seconds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import combinations

from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import positions
from isotherma.core.system.dangers import dangers
from isotherma.core.system.kinds.water import DustCap, ParkingPlace
from isotherma.core.system.pieces import Switchable
from isotherma.core.system.remarks import Remark
from isotherma.core.system.states import Placement, Position, State

SWITCH_S = 3.0  # a hand on a switch within reach
CARRY_S = 60.0  # fetch a thing and put it elsewhere
EMPTY_S = 300.0  # open, let it run out, shut again
MOST_SEARCHED = 10  # a thousand half-states; more moves are not looked through
WORST = frozenset({"heated_shut_in", "heated_dry", "gas_open_apart"})

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
    """One thing a person does, and what is wrong right after it, if anything.

    `beside` are caps and clips that are put on or taken off with it.
    """

    part_id: str
    label: str
    before: str
    after: str
    tool: str
    seconds_s: float
    wrong: tuple[Remark, ...] = ()
    beside: tuple[str, ...] = ()


def _beside(system: System, coupling: str) -> tuple[DustCap | ParkingPlace, ...]:
    """Give caps and parking places that a coupling's halves have while they are apart."""
    return tuple(
        part for part in system.parts
        if (isinstance(part, DustCap) and part.caps == coupling)
        or (isinstance(part, ParkingPlace) and part.holds == coupling)
    )  # fmt: skip


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
    if part.side in {"heat", "electric"} and after in {"off", "ready", "on", "full"}:
        return "heat off" if after == "off" else "heat on"
    if after == "shut":
        return "water shut"
    return "water open" if after == "open" else "turned"


def _state_after(state: State, part: AnyKind, after: str) -> State:
    kept = tuple(item for item in state.positions if item.part != part.id)
    return state.model_copy(update={"positions": (*kept, Position(part=part.id, at=after))})


@dataclass(frozen=True, slots=True)
class Ordered:
    """Moves in the order they were found in.

    `clean` says whether no half-state on the way is dangerous; None where there are too many
    moves to look through every order. `worst_kept` says that no order keeps clear of heat shut
    in or dry or open gas; `passes` is such a half-state that some other order passes through,
    and is only looked for where asked.
    """

    moves: tuple[Move, ...]
    clean: bool | None
    worst_kept: bool = False
    passes: Remark | None = None


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
        As `ordered_moves` finds them. [s]
    """
    return ordered_moves(system, first, second).moves


def ordered_moves(
    system: System, first: State | None, second: State | None, *, every_order: bool = False
) -> Ordered:
    """Find an order of moves with no dangerous half-state on the way.

    Parameters
    ----------
    system : System
        The network. [-]
    first, second : State or None
        From and to; None is everything as usual. [-]
    every_order : bool
        Also look for the dangerous half-states that other orders pass through: those after one
        or two of the moves, by hand in the wrong turn. [-]

    Returns
    -------
    Ordered
        Nearest to the usual order: heat and pumps off first, then valves shut, couplings,
        selectors, valves open, pumps and heat on. Where no order is clean it is the usual one,
        and a move after which the system stands wrongly carries what is wrong; what was so
        before the first move, or is so after the last, does not count. [s]

    Notes
    -----
    The half-state after some of the moves does not hang on their order, so each set of moves is
    looked at once, from the usual order outward.
    """
    planned = _planned(system, first, second)
    here = first or State(id="usual", name="As usual")
    parts = {part.id: part for part in system.parts}
    known = {remark.key for remark in dangers(system, first)}
    known |= {remark.key for remark in dangers(system, second)}
    seen: dict[frozenset[int], tuple[Remark, ...]] = {}

    def wrong_after(done: frozenset[int]) -> tuple[Remark, ...]:
        if done not in seen:
            state = here
            for row in sorted(done):
                state = _after(state, parts[planned[row].part_id], planned[row])
            found = dangers(system, state)
            seen[done] = tuple(remark for remark in found if remark.key not in known)
        return seen[done]

    count = len(planned)
    usual = tuple(range(count))
    order = usual
    clean: bool | None = None
    if count <= MOST_SEARCHED:
        found = _search(count, wrong_after)
        order, clean = (found, True) if found is not None else (usual, False)
    listed = []
    for place, row in enumerate(order):
        wrong = wrong_after(frozenset(order[: place + 1]))
        listed.append(replace(planned[row].move, wrong=wrong))
    if clean is None and not any(move.wrong for move in listed):
        clean = True
    worst_kept = clean is False and _search(count, lambda done: _worst(wrong_after(done))) is None
    passes = None
    if every_order and clean and count <= MOST_SEARCHED:
        tries = (frozenset(done) for many in (1, 2) for done in combinations(usual, many))
        passes = next((wrong[0] for done in tries if (wrong := _worst(wrong_after(done)))), None)
    return Ordered(tuple(listed), clean, worst_kept, passes)


def _worst(remarks: tuple[Remark, ...]) -> tuple[Remark, ...]:
    return tuple(remark for remark in remarks if remark.code in WORST)


def _search(
    count: int, wrong_after: Callable[[frozenset[int]], tuple[Remark, ...]]
) -> tuple[int, ...] | None:
    """Look for an order without a dangerous half-state, the usual one first."""
    dead: set[frozenset[int]] = set()

    def go_on(order: tuple[int, ...]) -> tuple[int, ...] | None:
        if len(order) == count:
            return order
        for row in range(count):
            done = frozenset((*order, row))
            if row in order or done in dead or wrong_after(done):
                continue
            found = go_on((*order, row))
            if found is not None:
                return found
            dead.add(done)
        return None

    return go_on(())


@dataclass(frozen=True, slots=True)
class _Planned:
    order: int
    part_id: str
    move: Move
    space: str | None = None


def _after(state: State, part: AnyKind, planned: _Planned) -> State:
    """Give a state after one more move."""
    if planned.order == _ORDER["emptied"]:
        return state.model_copy(update={"dry": (*state.dry, part.id)})
    if planned.order == _ORDER["filled"]:
        left = tuple(item for item in state.dry if item != part.id)
        return state.model_copy(update={"dry": left})
    if planned.order == _ORDER["carried"]:
        placed = tuple(item for item in state.placed if item.part != part.id)
        if planned.space is not None:
            placed = (*placed, Placement(part=part.id, space=planned.space))
        return state.model_copy(update={"placed": placed})
    return _state_after(state, part, planned.move.after)


def _planned(system: System, first: State | None, second: State | None) -> list[_Planned]:
    """List what has to be done, in the usual order."""
    start, end = positions(system, first), positions(system, second)
    here = first or State(id="usual", name="As usual")
    then = second or State(id="usual", name="As usual")
    parts = {part.id: part for part in system.parts}
    names = {space.id: space.name for space in system.spaces}
    planned: list[_Planned] = []

    def plan(group: str, move: Move, space: str | None = None) -> None:
        planned.append(_Planned(_ORDER[group], move.part_id, move, space))

    for part in system.parts:
        if part.positions and start[part.id] != end[part.id]:
            after = end[part.id]
            tool, seconds = "hand", SWITCH_S
            if isinstance(part, Switchable):
                tool, seconds = part.tool, part.move_s
            beside = _beside(system, part.id) if after in {"apart", "joined"} else ()
            seconds += sum(other.move_s for other in beside)
            move = Move(
                part.id, part.label, start[part.id], after, tool, seconds,
                beside=tuple(other.label for other in beside),
            )  # fmt: skip
            plan(_group(part, after), move)
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
            one, other = (names.get(space or "", "its place") for space in (left, reached))
            move = Move(part_id, parts[part_id].label, one, other, "hand", CARRY_S)
            plan("carried", move, will.get(part_id))
    return sorted(planned, key=lambda item: (item.order, item.part_id))


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
