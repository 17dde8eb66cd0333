"""What a document says of itself: what is missing, what contradicts, what to know.

None of it stops anything: an unfinished drain never hides the shower. Each remark is a code with
the parts it is about; what, why it matters and how to mend it are written by `wording`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import ports_reached, positions
from isotherma.core.system.kinds.water import Pump
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.runs import RunBase
from isotherma.core.system.states import State

Weight = Literal["contradiction", "missing", "note"]
SOURCES = frozenset(
    {"fresh_tank", "loose_container", "outside_source", "pressurised_inlet", "gravity_bag"}
)
PUMPS = frozenset({"pump", "submersible", "foot_pump", "hand_pump"})
HEATED_BY_WATER = frozenset(
    {"store", "combi", "canister", "through_flow_gas", "through_flow_electric", "sun_container"}
)


@dataclass(frozen=True, slots=True)
class Remark:
    """One thing found in a document: its code, where, and the parts it is about.

    `parts` are ids, the one it is about first; `values` what else its words need: names of spaces,
    a port, a title. `state` is the id of the state it was found in, `state_name` its name; "" for
    as it usually stands.
    """

    code: str
    weight: Weight
    path: str
    parts: tuple[str, ...]
    values: Mapping[str, str] = field(default_factory=dict)
    state: str = ""
    state_name: str = ""

    @property
    def part_id(self) -> str:
        """The part or run it is about."""
        return self.parts[0]

    @property
    def key(self) -> tuple[str, str]:
        """Tell remarks apart wherever they were found."""
        return self.code, self.part_id


def remarks(system: System) -> tuple[Remark, ...]:
    """Look a system over, as entered and in every state.

    Parameters
    ----------
    system : System
        Any valid document. [-]

    Returns
    -------
    tuple of Remark
        Contradictions first, then what is missing, then notes. [-]
    """
    found = list(_open_ports(system))
    found += _unknown(system)
    found += _reliefs(system)
    found += _phases(system)
    found += _mounted(system)
    states: list[State | None] = list(system.states) or [None]
    for state in states:
        found += standing_remarks(system, state)
    order = {"contradiction": 0, "missing": 1, "note": 2}
    return tuple(sorted(found, key=lambda remark: order[remark.weight]))


def _open_ports(system: System) -> list[Remark]:
    joined = {(end.part, end.port) for run in system.runs for end in (run.start, run.end)}
    found = []
    for part in system.parts:
        if getattr(part, "spare", False):
            continue
        for port in part.ports:
            if not port.needed or (part.id, port.name) in joined or port.medium == "power":
                continue
            found.append(
                Remark("port_open", "missing", f"parts.{part.id}", (part.id,), {"port": port.name})
            )
    return found


def _unknown(system: System) -> list[Remark]:
    found = []
    pieces: list[tuple[str, PartBase | RunBase]] = [("parts", part) for part in system.parts]
    pieces += [("runs", run) for run in system.runs]
    for group, piece in pieces:
        around = system.around(piece) if isinstance(piece, PartBase) else system.between(piece)
        for figure in understand(piece, around):
            if figure.name in piece.needs and figure.likely is None:
                path = f"{group}.{piece.id}.{figure.name}"
                values = {"title": figure.title, "because": figure.because}
                found.append(Remark("unknown", "missing", path, (piece.id,), values))
    return found


def _reliefs(system: System) -> list[Remark]:
    """Find reliefs that a valve can part from what they guard: valid, but noted."""
    found = []
    shuts = [part.id for part in system.parts if "shut" in part.positions]
    for relief in (part for part in system.parts if part.kind == "relief"):
        everything = ports_reached(system, None, (relief.id, "inlet"))
        guarded = {node[0] for node in everything} & _heated(system)
        for valve_id in shuts:
            closed = _with_shut(valve_id)
            left = {node[0] for node in ports_reached(system, closed, (relief.id, "inlet"))}
            for lost in sorted(guarded - left):
                parts = (relief.id, lost, valve_id)
                found.append(Remark("relief_behind_valve", "note", f"parts.{relief.id}", parts))
    return found


def _mounted(system: System) -> list[Remark]:
    """Find pumps that are mounted as their sheet forbids."""
    may = {"motor above": ("motor above",), "motor above or level": ("motor above", "level")}
    return [
        Remark("pump_way_up", "contradiction", f"parts.{part.id}.sits", (part.id,),
               {"sits": part.sits, "may_sit": part.may_sit or ""})
        for part in system.parts
        if isinstance(part, Pump) and part.sits is not None
        and part.sits not in may.get(part.may_sit or "", (part.sits,))
    ]  # fmt: skip


def _heated(system: System) -> set[str]:
    return {part.id for part in system.parts if part.kind in {"store", "combi", "canister"}}


def _with_shut(valve_id: str) -> State:
    return State.model_validate(
        {"id": "shut", "name": "Shut", "positions": [{"part": valve_id, "at": "shut"}]}
    )


def _phases(system: System) -> list[Remark]:
    order = {phase.id: index for index, phase in enumerate(system.phases)}
    found = []
    for part in system.parts:
        host = next((other for other in system.parts if other.id == part.fitted_in), None)
        if host is None or host.phase is None:
            continue
        if order[host.phase] > (order[part.phase] if part.phase is not None else 0):
            path = f"parts.{part.id}.phase"
            found.append(Remark("phase_order", "contradiction", path, (part.id, host.id)))
    return found


def standing_remarks(system: System, state: State | None) -> tuple[Remark, ...]:
    """Find what contradicts itself in one state.

    Parameters
    ----------
    system : System
        The network. [-]
    state : State or None
        How it stands; None: as usual. [-]

    Returns
    -------
    tuple of Remark
        Two suctions on one pump, halves joined twice, parts in two places, heat on a
        dry or shut-off heater. [-]
    """
    found = [*_suctions(system, state), *_halves(system, state), *_two_places(system, state)]
    found += [*_dry(system, state), *_cut_off(system, state)]
    return tuple(found)


def contradiction(
    code: str, state: State | None, *parts: str, values: Mapping[str, str] | None = None
) -> Remark:
    """Make a remark on a contradiction in a state.

    Parameters
    ----------
    code : str
        What kind it is. [-]
    state : State or None
        In which state; None: as it usually stands. [-]
    parts : str
        Ids, the part it is about first. [-]
    values : mapping of str to str or None
        What else its words need. [-]

    Returns
    -------
    Remark
        At the first of the parts. [-]
    """
    return Remark(
        code, "contradiction", f"parts.{parts[0]}", parts, values or {},
        state.id if state is not None else "", state.name if state is not None else "",
    )  # fmt: skip


def _suctions(system: System, state: State | None) -> list[Remark]:
    found = []
    parts = {part.id: part for part in system.parts}
    for pump in (part for part in system.parts if part.kind in PUMPS):
        nodes = ports_reached(system, state, (pump.id, "inlet"), stop_at=PUMPS)
        open_to = sorted({node[0] for node in nodes if parts[node[0]].kind in SOURCES})
        drawn = [part_id for part_id in open_to if parts[part_id].kind != "pressurised_inlet"]
        if len(drawn) > 1:
            found.append(contradiction("two_suctions", state, pump.id, *drawn))
    return found


def _halves(system: System, state: State | None) -> list[Remark]:
    at = positions(system, state)
    found = []
    for part in system.parts:
        other_id = getattr(part, "shares_half_with", None)
        if other_id is None or at.get(part.id) != "joined" or at.get(other_id) != "joined":
            continue
        found.append(contradiction("half_joined_twice", state, part.id, other_id))
    return found


def _two_places(system: System, state: State | None) -> list[Remark]:
    if state is None:
        return []
    names = {space.id: space.name for space in system.spaces}
    places: dict[str, list[str]] = {}
    for item in state.placed:
        places.setdefault(item.part, []).append(names[item.space])
    return [
        contradiction("two_places", state, part_id, values={"spaces": " and ".join(spaces)})
        for part_id, spaces in places.items()
        if len(spaces) > 1
    ]


def _runs_hot(part: AnyKind, at: dict[str, str]) -> bool:
    return at.get(part.id) == "ready"


def _dry(system: System, state: State | None) -> list[Remark]:
    if state is None:
        return []
    at = positions(system, state)
    found = []
    for part_id in state.dry:
        vessel = system.part(part_id)
        heaters = [part for part in (vessel, *system.fitted(part_id)) if _runs_hot(part, at)]
        if getattr(vessel, "may_stand_empty", False) is not False:
            continue
        found += [contradiction("heated_dry", state, heater.id, part_id) for heater in heaters]
    return found


def _cut_off(system: System, state: State | None) -> list[Remark]:
    """Find through-flow heaters that may light with no open way from any water."""
    at = positions(system, state)
    parts = {part.id: part for part in system.parts}
    found = []
    for heater in system.parts:
        if heater.kind not in {"through_flow_gas", "through_flow_electric"}:
            continue
        joined = any(end.port == "inlet" for _, end, _ in system.joined(heater.id))
        if not joined or not _runs_hot(heater, at):
            continue
        nodes = ports_reached(system, state, (heater.id, "inlet"))
        nodes |= ports_reached(system, state, (heater.id, "outlet"))
        reached = [parts[key] for key in dict.fromkeys(node[0] for node in nodes)]
        hosts = {part.fitted_in for part in reached if part.kind in PUMPS}  # of pumps in a bucket
        kinds = {part.kind for part in (*reached, *(parts[key] for key in hosts if key in parts))}
        if not kinds & SOURCES:
            found.append(contradiction("lit_but_shut", state, heater.id))
    return found
