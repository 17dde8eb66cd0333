"""Which faults a design can have: each row of the table at each part it may sit on."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from isotherma.core.faults.altered import acts_on
from isotherma.core.faults.player import Player
from isotherma.core.faults.plays import Severities, severities
from isotherma.core.faults.table import Fault, FaultTable
from isotherma.core.supply.feeds import feeds_of, on_battery
from isotherma.core.system import AnyKind, AnyRun, Pipe
from isotherma.core.system.kinds import electric, heat, water
from isotherma.core.system.kinds.temperature import LoopPump
from isotherma.core.system.kinds.water import ShutOff
from isotherma.core.system.nominal import ComputedSystem, known_figure
from isotherma.core.system.runs import Cable, FuelPipe

SOFT: Final = "hose"
SHARED: Final = ("run", "cable", "fuel_pipe")  # a fault's weight is shared among all of them
_MAINS: Final = {"hook_up", "inverter"}
_GIVE: Final = _MAINS | {"battery", "panel", "charger", "alternator", "panel_controller"}


@dataclass(frozen=True, slots=True)
class Instance:
    """A fault at a part or run, None for the whole: how often it is so, and how it is played."""

    fault: Fault
    part: str | None
    weight: float
    ways: tuple[Severities, ...]

    @property
    def key(self) -> str:
        """Give its id, as people write it."""
        return self.fault.id if self.part is None else f"{self.fault.id}@{self.part}"


def instances_of(player: Player, table: FaultTable) -> tuple[Instance, ...]:
    """List every fault a design can have in its state.

    Parameters
    ----------
    player : Player
        Of the design. [-]
    table : FaultTable
        The rows. [-]

    Returns
    -------
    tuple of Instance
        In the table's order, then the document's. [-]
    """
    found = []
    for fault in table.faults.values():
        if not fault.kinds:
            found.append(Instance(fault, None, fault.weight, ()))
            continue
        for kind in fault.kinds:
            pieces = [piece for piece in pieces_of(player, kind, soft=fault.id == "hose_kinked")
                      if meets(player.known, piece, fault.needs)]  # fmt: skip
            share = len(pieces) if kind in SHARED else 1
            for piece in pieces:
                at = player.made.at.get(piece.id, "")
                found.append(Instance(
                    fault, piece.id, fault.weight / share,
                    severities(player.known, piece, fault.play, at) if fault.play else (),
                ))  # fmt: skip
    return tuple(found)


def pieces_of(player: Player, kind: str, *, soft: bool = False) -> list[AnyKind | AnyRun]:
    """List the parts or runs of a kind that stand wet, or as they usually do.

    Parameters
    ----------
    player : Player
        Of the design. [-]
    kind : str
        A kind of part; "run" for pipes and hoses of water, "cable", "fuel_pipe" for gas. [-]
    soft : bool
        Soft hoses only. [-]

    Returns
    -------
    list of part or run
        In the document's order. [-]
    """
    known, network = player.known, player.made.healthy.network
    if kind == "run":
        return [run for run in known.runs if isinstance(run, Pipe) and run.id in network.run
                and (not soft or run.material == SOFT)]  # fmt: skip
    if kind == "cable":
        return [run for run in known.runs if isinstance(run, Cable)]
    if kind == "fuel_pipe":
        sides = {part.id: part.side for part in known.parts}
        return [run for run in known.runs if isinstance(run, FuelPipe)
                and "gas" in (sides[run.start.part], sides[run.end.part])]  # fmt: skip
    dry = player.case.state.dry if player.case.state is not None else ()
    return [part for part in known.parts if part.kind == kind and part.id not in dry]


def meets(known: ComputedSystem, piece: AnyKind | AnyRun, needs: str | None) -> bool:
    """Say whether a part is what a row needs: fed by mains, on a loop, with a property given.

    Parameters
    ----------
    known : ComputedSystem
        The design. [-]
    piece : part or run
        On which the row would sit. [-]
    needs : str or None
        The table's word. [-]

    Returns
    -------
    bool
        True where nothing is needed. [-]
    """
    if needs is None:
        return True
    if needs == "mains":
        return not _low(known, piece)
    if needs == "low_voltage":
        return _low(known, piece)
    if needs == "loop":
        return any(isinstance(part, LoopPump) for part in known.parts)
    if needs == "isolator":
        return _isolates(known)
    return getattr(piece, needs, None) is not None


def _low(known: ComputedSystem, piece: AnyKind | AnyRun) -> bool:
    """Say whether a part, or what it guards, hangs on the battery's volts."""
    if isinstance(piece, Cable):
        ends = [known.part(end.part) for end in (piece.start, piece.end)]
        return all(part.kind not in _MAINS and _low(known, part) for part in ends)
    part = next((one for one in known.parts if one.id == piece.id), None)
    if part is None:
        return True
    for other in acts_on(known, part):
        return _low(known, known.part(other))
    if isinstance(part, heat.Element):
        return on_battery(known, part)
    sources = {known.part(key).kind for key in feeds_of(known, part.id).sources}
    return not sources & _MAINS or bool(sources & {"battery", "panel"})


def _isolates(known: ComputedSystem) -> bool:
    """Say whether a shut-off stands between a pump and a store."""
    parts = {part.id: part for part in known.parts}
    near: dict[str, list[str]] = {}
    for run in known.pipes:
        near.setdefault(run.start.part, []).append(run.end.part)
        near.setdefault(run.end.part, []).append(run.start.part)

    def met(at: str, seen: frozenset[str], valve: bool) -> Iterator[bool]:
        for other in near.get(at, ()):
            part = parts[other]
            if other in seen:
                continue
            if isinstance(part, heat.Store | heat.Combi | heat.Canister):
                yield valve
            elif len(seen) < 30:
                yield from met(other, seen | {other}, valve or isinstance(part, ShutOff))

    pumps = [part.id for part in known.parts if isinstance(part, water.Pump)]
    return any(any(met(pump, frozenset({pump}), valve=False)) for pump in pumps)


def feeds(known: ComputedSystem, piece: AnyKind | AnyRun) -> frozenset[str]:
    """Name the loads a circuit, cable, battery or switch feeds, and what it acts on.

    Parameters
    ----------
    known : ComputedSystem
        The design. [-]
    piece : part or run
        Any. [-]

    Returns
    -------
    frozenset of str
        Ids; the piece itself too. [-]
    """
    found = {piece.id}
    part = next((one for one in known.parts if one.id == piece.id), None)
    if part is not None:
        found |= set(acts_on(known, part))
        passed = isinstance(part, electric.Circuit | electric.Switch | electric.Battery)
        if passed or part.kind in ("remote", "relay"):
            for load in known.parts:
                if load.kind in _GIVE:
                    continue
                fed = feeds_of(known, load.id)
                if part.id in fed.circuits or part.id in fed.sources:
                    found.add(load.id)
        return frozenset(found)
    if isinstance(piece, Cable):
        for end in (piece.start, piece.end):
            other = known.part(end.part)
            if known_figure(other, "current_a") is not None or other.side != "electric":
                found.add(other.id)
            elif isinstance(other, electric.Circuit) and end == piece.start:
                found |= feeds(known, other)
    return frozenset(found)
