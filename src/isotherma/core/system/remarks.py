"""What a document says of itself: what is missing, what contradicts, what to know.

None of it stops anything: an unfinished drain never hides the shower. Each remark has
what, where, why it matters and how to mend it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from isotherma.core.system import AnyKind, System
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.runs import RunBase
from isotherma.core.system.stands import ports_reached, positions
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
    """One thing found in a document."""

    code: str
    weight: Weight
    path: str
    part_id: str
    what: str
    why: str
    mend: str
    state: str = ""

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
            words = port.name.replace("_", " ")
            found.append(
                Remark(
                    code="port_open",
                    weight="missing",
                    path=f"parts.{part.id}",
                    part_id=part.id,
                    what=f"{part.label}: its {words} joins nothing",
                    why="what should pass there cannot be computed",
                    mend="join it by a run, or cap it",
                )
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
                found.append(
                    Remark(
                        code="unknown",
                        weight="missing",
                        path=f"{group}.{piece.id}.{figure.name}",
                        part_id=piece.id,
                        what=f"{piece.label}: {figure.title.lower()} is unknown",
                        why="figures that need it stay open",
                        mend=figure.because,
                    )
                )
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
                found.append(
                    Remark(
                        code="relief_behind_valve",
                        weight="note",
                        path=f"parts.{relief.id}",
                        part_id=relief.id,
                        what=f"{relief.label} can be parted from {system.part(lost).label} by "
                        f"{system.part(valve_id).label}",
                        why="shut and heated, the vessel has no way to expand",
                        mend="put the relief between the vessel and the first valve",
                    )
                )
    return found


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
            found.append(
                Remark(
                    code="phase_order",
                    weight="contradiction",
                    path=f"parts.{part.id}.phase",
                    part_id=part.id,
                    what=f"{part.label} is fitted before {host.label}, in which it sits",
                    why="until then there is nothing to fit it to",
                    mend="give it the same phase or a later one",
                )
            )
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
    where = f"in “{state.name}”" if state is not None else "as it usually stands"
    found = [*_suctions(system, state, where), *_halves(system, state, where)]
    found += [*_two_places(state, where, system), *_dry(system, state, where)]
    found += _cut_off(system, state, where)
    return tuple(found)


def made(code: str, part: AnyKind, state: State | None, what: str, why: str, mend: str) -> Remark:
    """Make a remark on a contradiction.

    Parameters
    ----------
    code : str
        What kind it is. [-]
    part : a kind of part
        Where. [-]
    state : State or None
        In which state. [-]
    what, why, mend : str
        What was found, why it matters, how to mend it. [-]

    Returns
    -------
    Remark
        At that part. [-]
    """
    return Remark(
        code=code, weight="contradiction", path=f"parts.{part.id}", part_id=part.id,
        what=what, why=why, mend=mend, state=state.id if state is not None else "",
    )  # fmt: skip


def _suctions(system: System, state: State | None, where: str) -> list[Remark]:
    found = []
    parts = {part.id: part for part in system.parts}
    for pump in (part for part in system.parts if part.kind in PUMPS):
        nodes = ports_reached(system, state, (pump.id, "inlet"), stop_at=PUMPS)
        open_to = sorted({node[0] for node in nodes if parts[node[0]].kind in SOURCES})
        drawn = [part_id for part_id in open_to if parts[part_id].kind != "pressurised_inlet"]
        if len(drawn) > 1:
            names = " and ".join(parts[part_id].label for part_id in drawn)
            found.append(
                made(
                    "two_suctions", pump, state,
                    f"{pump.label} draws from {names} at once, {where}",
                    "one runs into the other, or the pump draws air from the empty one",
                    "shut one, or put a selector before the pump",
                )
            )  # fmt: skip
    return found


def _halves(system: System, state: State | None, where: str) -> list[Remark]:
    at = positions(system, state)
    found = []
    for part in system.parts:
        other_id = getattr(part, "shares_half_with", None)
        if other_id is None or at.get(part.id) != "joined" or at.get(other_id) != "joined":
            continue
        other = system.part(other_id)
        found.append(
            made(
                "half_joined_twice", part, state,
                f"{part.label} and {other.label} are both joined to one half, {where}",
                "only one of them can be",
                "part one of them in this state",
            )
        )  # fmt: skip
    return found


def _two_places(state: State | None, where: str, system: System) -> list[Remark]:
    if state is None:
        return []
    names = {space.id: space.name for space in system.spaces}
    places: dict[str, list[str]] = {}
    for item in state.placed:
        places.setdefault(item.part, []).append(names[item.space])
    return [
        made(
            "two_places", system.part(part_id), state,
            f"{system.part(part_id).label} is in {' and '.join(spaces)} at once, {where}",
            "a thing has one place",
            "keep one of them",
        )
        for part_id, spaces in places.items()
        if len(spaces) > 1
    ]  # fmt: skip


def _runs_hot(part: AnyKind, at: dict[str, str]) -> bool:
    return at.get(part.id) == "ready"


def _dry(system: System, state: State | None, where: str) -> list[Remark]:
    if state is None:
        return []
    at = positions(system, state)
    found = []
    for part_id in state.dry:
        vessel = system.part(part_id)
        heaters = [part for part in (vessel, *system.fitted(part_id)) if _runs_hot(part, at)]
        if getattr(vessel, "may_stand_empty", False):
            continue
        found += [
            made(
                "heated_dry", heater, state,
                f"{heater.label} may heat while {vessel.label} stands empty, {where}",
                "a vessel heated dry burns its element, its seals or worse",
                "switch it off in this state",
            )
            for heater in heaters
        ]  # fmt: skip
    return found


def _cut_off(system: System, state: State | None, where: str) -> list[Remark]:
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
        reached = {parts[node[0]].kind for node in nodes}
        if not reached & SOURCES:
            found.append(
                made(
                    "lit_but_shut", heater, state,
                    f"{heater.label} may light, but no water reaches it, {where}",
                    "shut in and heated it boils or bursts",
                    "switch it off before its water is shut",
                )
            )  # fmt: skip
    return found
