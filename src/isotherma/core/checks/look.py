"""A design looked at in one state: how everything stands, what is joined, what can burn."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from math import pi
from typing import Any, Final, TypeVar

from isotherma.core.checks.found import Found, Severity
from isotherma.core.checks.rules import Rules
from isotherma.core.climate import Climate
from isotherma.core.findings import Quantity, Value
from isotherma.core.joints.piping import RunJoints
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import Node, ports_reached, positions
from isotherma.core.system.kinds import electric, gas, heat
from isotherma.core.system.needs import GAS_FUELS
from isotherma.core.system.nominal import ComputedSystem, computed, known_figure
from isotherma.core.system.runs import Cable, FuelPipe, Pipe
from isotherma.core.system.states import State
from isotherma.core.system.vehicle import Space

Made = TypeVar("Made")
INSIDE: Final = ("heated", "unheated")
LIVE: Final = (
    electric.Battery, electric.Charger, electric.Inverter, electric.Circuit, electric.Switch,
    electric.EitherOr, electric.Relay, electric.Remote,
)  # fmt: skip


@dataclass(frozen=True)
class Look:
    """A design in one state.

    `outcome` is the day the engine computed, None where it could not or nobody asked; `lacking`
    is the path of what it lacked.
    """

    project: Project
    variant: Variant
    rules: Rules
    state: State | None
    on_date: str
    climate: Climate
    outcome: Outcome | None = None
    lacking: str = ""
    joints: tuple[RunJoints, ...] | None = None

    @cached_property
    def system(self) -> System:
        """What is built."""
        return self.variant.system

    @cached_property
    def known(self) -> ComputedSystem:
        """The same with what follows from it and what is usual."""
        return computed(self.system)

    @cached_property
    def parts(self) -> Mapping[str, AnyKind]:
        """Parts as entered, by id."""
        return {part.id: part for part in self.system.parts}

    @cached_property
    def likely(self) -> Mapping[str, AnyKind]:
        """Parts with likely figures, by id."""
        return {part.id: part for part in self.known.parts}

    @cached_property
    def spaces(self) -> Mapping[str, Space]:
        """Spaces by id."""
        return {space.id: space for space in self.system.spaces}

    @cached_property
    def at(self) -> Mapping[str, str]:
        """How every part stands."""
        return positions(self.system, self.state)

    @cached_property
    def dry(self) -> frozenset[str]:
        """What stands empty."""
        return frozenset(self.state.dry) if self.state is not None else frozenset()

    @cached_property
    def placed(self) -> Mapping[str, str]:
        """What is elsewhere in this state."""
        return {item.part: item.space for item in self.state.placed} if self.state else {}

    def label(self, part_id: str) -> str:
        """Name a part, a run or a space."""
        if part_id in self.parts:
            return self.parts[part_id].label
        if part_id in self.spaces:
            return self.spaces[part_id].name
        return next((run.label for run in self.system.runs if run.id == part_id), part_id)

    def once(self, name: str, make: Callable[[], Made]) -> Made:
        """Give what several checks ask of this look, worked out when first asked."""
        kept: dict[str, Any] = self.__dict__.setdefault("kept", {})
        if name not in kept:
            kept[name] = make()
        made: Made = kept[name]
        return made

    def in_state(self, state: State | None) -> Look:
        """Look at the same design in another state, without its day."""
        return Look(self.project, self.variant, self.rules, state, self.on_date, self.climate,
                    joints=self.joints)  # fmt: skip

    # --- where things are ---

    def space_id(self, part: AnyKind) -> str | None:
        """Give the space a part is in now; what is fitted in another goes with it."""
        here = self.placed.get(part.id, part.space)
        if here is None and part.fitted_in is not None:
            return self.space_id(self.parts[part.fitted_in])
        return here

    def space(self, part: AnyKind) -> Space | None:
        """Give the space a part is in now; None where nobody says."""
        return self.spaces.get(self.space_id(part) or "")

    def inside(self, part: AnyKind) -> bool | None:
        """Say whether a part is inside the body; None where nobody says."""
        space = self.space(part)
        return None if space is None else space.warmth in INSIDE

    def lived_in(self, space: Space) -> bool | None:
        """Say whether people sit or sleep in a space; None where nobody knows."""
        if space.lived_in is not None:
            return space.lived_in
        if space.warmth == "heated":
            return True
        if space.warmth != "unheated":
            return False
        if any(other.warmth == "heated" for other in self.spaces.values()):
            return False
        return None

    def neighbours(self, space_id: str) -> tuple[str, ...]:
        """Give what is next to a space, said on either side."""
        own = self.spaces[space_id]
        return tuple(
            other.id for other in self.spaces.values()
            if other.id != space_id
            and (other.id in own.neighbours or space_id in other.neighbours)
        )  # fmt: skip

    def sealed(self, one: str, other: str) -> bool:
        """Say whether two spaces are sealed from each other, said on either side."""
        first, second = self.spaces.get(one), self.spaces.get(other)
        return bool(
            (first and other in first.sealed_from) or (second and one in second.sealed_from)
        )

    # --- what burns and heats ---

    @cached_property
    def pipes(self) -> tuple[Pipe, ...]:
        """Water, primary and waste runs."""
        return tuple(run for run in self.system.runs if isinstance(run, Pipe))

    @cached_property
    def fuel_pipes(self) -> tuple[FuelPipe, ...]:
        """Gas and fuel runs."""
        return tuple(run for run in self.system.runs if isinstance(run, FuelPipe))

    @cached_property
    def cables(self) -> tuple[Cable, ...]:
        """Cables."""
        return tuple(run for run in self.system.runs if isinstance(run, Cable))

    def joins_gas(self, run: FuelPipe) -> bool:
        """Say whether a run carries gas."""
        port = self.parts[run.start.part].port(run.start.port)
        return port is not None and port.medium == "gas"

    @cached_property
    def _gas_near(self) -> Mapping[str, tuple[tuple[str, FuelPipe], ...]]:
        near: dict[str, list[tuple[str, FuelPipe]]] = {}
        for run in self.fuel_pipes:
            if self.joins_gas(run):
                near.setdefault(run.start.part, []).append((run.end.part, run))
                near.setdefault(run.end.part, []).append((run.start.part, run))
        return {key: tuple(found) for key, found in near.items()}

    def gas_way(
        self, start: str, *, open_only: bool = False
    ) -> tuple[tuple[str, ...], tuple[FuelPipe, ...]]:
        """Follow gas from an appliance to a bottle: parts and pipes, or none."""
        before: dict[str, tuple[str, FuelPipe] | None] = {start: None}
        waiting = [start]
        while waiting:
            here = waiting.pop(0)
            part = self.parts[here]
            if here != start and isinstance(part, gas.GasBottle):
                if open_only and self.at.get(here) == "shut":
                    continue
                return self._walked(before, here)
            blocked = open_only and self.at.get(here) in ("shut", "apart")
            through = isinstance(part, gas.Regulator | gas.GasValve | gas.GasCoupling
                                 | gas.Manifold)  # fmt: skip
            if here != start and (blocked or not through):
                continue
            for other, run in self._gas_near.get(here, ()):
                if other not in before:
                    before[other] = (here, run)
                    waiting.append(other)
        return (), ()

    @staticmethod
    def _walked(
        before: Mapping[str, tuple[str, FuelPipe] | None], end: str
    ) -> tuple[tuple[str, ...], tuple[FuelPipe, ...]]:
        parts, runs = [end], []
        step = before[end]
        while step is not None:
            runs.append(step[1])
            parts.append(step[0])
            step = before[step[0]]
        return tuple(reversed(parts)), tuple(reversed(runs))

    def burns_gas(self, part: AnyKind) -> bool:
        """Say whether a part burns gas."""
        if isinstance(part, gas.GasLoad):
            return True
        if isinstance(part, heat.Burner | heat.ThroughFlowGas | heat.Combi | heat.AirHeater):
            return part.fuel in GAS_FUELS
        return False

    def burns_liquid(self, part: AnyKind) -> bool:
        """Say whether a part burns diesel or petrol."""
        return isinstance(part, heat.LiquidHeater | heat.Combi | heat.AirHeater) and (
            part.fuel in ("diesel", "petrol")
        )

    def burns(self, part: AnyKind) -> bool:
        """Say whether a part has a flame that is fed by pipe."""
        return self.burns_gas(part) or self.burns_liquid(part)

    def can_light(self, part: AnyKind) -> bool:
        """Say whether a source of heat may light: not off, and its fuel or power comes to it."""
        if self.at.get(part.id) == "off":
            return False
        if self.burns_gas(part):
            return bool(self.gas_way(part.id, open_only=True)[0])
        if self.burns_liquid(part):
            return any(part.id in (run.start.part, run.end.part) for run in self.fuel_pipes)
        if isinstance(part, heat.Element | heat.ThroughFlowElectric):
            return self.powered(part.id)
        return True

    def lit(self, part: AnyKind) -> bool:
        """Say whether it may light, and is not meant to stand empty."""
        if isinstance(part, heat.Combi) and part.may_stand_empty is not False:
            return self.can_light(part)
        return self.can_light(part) and part.id not in self.dry and part.fitted_in not in self.dry

    # --- wires ---

    @cached_property
    def _wired(self) -> Mapping[str, tuple[tuple[str, Cable], ...]]:
        near: dict[str, list[tuple[str, Cable]]] = {}
        for run in self.cables:
            near.setdefault(run.start.part, []).append((run.end.part, run))
            near.setdefault(run.end.part, []).append((run.start.part, run))
        return {key: tuple(found) for key, found in near.items()}

    def wire_ways(
        self, load: str, *, closed_only: bool = True
    ) -> Iterator[tuple[tuple[str, ...], tuple[Cable, ...]]]:
        """Give every way from a load back to a source: parts from load to source, and cables."""
        sources = (electric.Battery, electric.HookUp, electric.Panel, electric.Alternator,
                   electric.Inverter)  # fmt: skip
        stack: list[tuple[tuple[str, ...], tuple[Cable, ...]]] = [((load,), ())]
        while stack:
            parts, cables = stack.pop()
            here = self.parts[parts[-1]]
            if len(parts) > 1:
                if isinstance(here, sources):
                    off = self.at.get(here.id) in ("unplugged", "off")
                    if not (closed_only and off):
                        yield parts, cables
                    continue
                passes = (electric.Circuit, electric.Switch, electric.Relay, electric.Remote,
                          electric.EitherOr, electric.PanelController, heat.Thermostat)  # fmt: skip
                if not isinstance(here, passes):
                    continue
                if closed_only and self.at.get(here.id) == "off":
                    continue
            for other, run in self._wired.get(here.id, ()):
                starts = run.start.part == here.id
                mine, theirs = (run.start, run.end) if starts else (run.end, run.start)
                if other in parts or (len(parts) > 1 and mine.port in ("load", "signal")):
                    continue
                if theirs.port in ("feed", "signal"):
                    continue  # current does not come out of there
                stack.append(((*parts, other), (*cables, run)))

    def powered(self, part_id: str) -> bool:
        """Say whether any source feeds a part as it stands."""
        return next(self.wire_ways(part_id), None) is not None

    def mains(self, part: AnyKind) -> bool:
        """Say whether a part hangs on mains: a hook-up or an inverter."""
        return isinstance(part, heat.ThroughFlowElectric) or self.on_mains(part.id)

    def on_mains(self, part_id: str) -> bool:
        """Say whether wires lead from a part to a hook-up or an inverter, whatever is switched."""
        return any(
            isinstance(self.parts[way[-1]], electric.HookUp | electric.Inverter)
            for way, _ in self.wire_ways(part_id, closed_only=False)
        )

    # --- water ---

    def reached(self, part_id: str, port: str, stop_at: frozenset[str] = frozenset()) -> set[Node]:
        """Walk everything water can get to from a port as it stands."""
        return ports_reached(self.system, self.state, (part_id, port), stop_at=stop_at)

    def usually(self, part_id: str, port: str, stop_at: frozenset[str] = frozenset()) -> set[Node]:
        """Walk what can be reached in any position of any valve."""
        found: set[Node] = set()
        for state in (None, *self.system.states):
            found |= ports_reached(self.system, state, (part_id, port), stop_at=stop_at)
        return found

    # --- findings ---

    def unknown(
        self, of: str, who: str, needs: tuple[str, ...], *parts: str, runs: tuple[str, ...] = (),
        subject: str | tuple[str, ...] = "",
    ) -> Found:  # fmt: skip
        """Make a finding of what is not known."""
        about = subject or self.label((*parts, *runs, "this")[0])
        return Found(of, Severity.UNKNOWN, who, parts, runs, needs=needs,
                     values={"subject": about})  # fmt: skip

    def found(
        self, of: str, severity: Severity, who: str, *parts: str, runs: tuple[str, ...] = (),
        figure: Quantity | None = None, limit: Quantity | None = None, source: str = "",
        variant: str = "", needs: tuple[str, ...] = (), more: Mapping[str, Value] | None = None,
        **values: Value,
    ) -> Found:  # fmt: skip
        """Make a finding; its sentence names the first part as p unless said otherwise."""
        first = (*parts, *runs, "")[0]
        said: dict[str, Value] = {"p": self.label(first)}
        if figure is not None:
            said["f"] = figure
        if limit is not None:
            said["l"] = limit
        return Found(
            of, severity, who, parts, runs, figure, limit, {**said, **(more or {}), **values},
            needs, source, variant=variant,
        )  # fmt: skip


def counted(*values: float | None) -> float:
    """Add up what is known of some figures: of a size nobody measured nothing is claimed.

    Parameters
    ----------
    values : float or None
        Of one dimension. [SI]

    Returns
    -------
    float
        0 where none is known. [SI]
    """
    return sum(value for value in values if value is not None)


def held_m3(run: Pipe) -> float:
    """Give the water a pipe holds; of one nobody measured nothing is claimed.

    Parameters
    ----------
    run : Pipe
        With what follows from its family and size. [-]

    Returns
    -------
    float
        0 where bore or length is not known. [m³]

    References
    ----------
    A cylinder: π d² l / 4.
    """
    bore, length = known_figure(run, "bore_m"), known_figure(run, "length_m")
    return 0.0 if bore is None or length is None else 0.25 * pi * bore * bore * length


class Lacks:
    """What nobody said, gathered: one finding for one property of many things."""

    def __init__(self, look: Look, of: str, who: str) -> None:
        self.look, self.of, self.who = look, of, who
        self.kept: dict[str, list[tuple[str, str, str]]] = {}

    def add(self, group: str, key: str, name: str, *about: str) -> None:
        """Note that a property of a part, run, space or hole is not known."""
        for one in about or (key,):
            self.kept.setdefault(name, []).append((group, key, one))

    def found(self) -> Iterator[Found]:
        """Give one finding for each property."""
        runs = {run.id for run in self.look.system.runs}
        for name, rows in self.kept.items():
            about = tuple(dict.fromkeys(one for _, _, one in rows))
            needs = tuple(dict.fromkeys(
                f"{group}.{key}.{name}" if key else f"{group}.{name}" for group, key, _ in rows
            ))  # fmt: skip
            parts = tuple(one for one in about if one in self.look.parts)
            labels = tuple(dict.fromkeys(
                self.look.label(key) if key else group for group, key, _ in rows
            ))  # fmt: skip
            yield self.look.unknown(
                self.of, self.who, needs, *parts,
                runs=tuple(one for one in about if one in runs), subject=labels,
            )  # fmt: skip
