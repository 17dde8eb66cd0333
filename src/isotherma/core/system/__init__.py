"""The system: parts with ports, runs that join them, spaces, states, phases, holes."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from functools import cache
from math import dist
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from isotherma.core.fields import Date, Document, Name, Voltage, known, refers_to, refusal
from isotherma.core.system.kinds import AnyKind, Part
from isotherma.core.system.pieces import SYSTEM_V, Around, PartBase, Port, joins
from isotherma.core.system.runs import AnyRun, Pipe, PortRef, Run, RunBase
from isotherma.core.system.states import Phase, State
from isotherma.core.system.vehicle import Hole, Space

__all__ = ["AnyKind", "AnyRun", "Part", "Pipe", "PortRef", "Run", "System", "part_refs"]


def _unique(items: Iterable[object], words: str) -> set[str]:
    seen: set[str] = set()
    for item in items:
        key: str = getattr(item, "id")  # noqa: B009 - every piece has one
        if key in seen:
            raise refusal("same_id", what=words, id=key)
        seen.add(key)
    return seen


def _there(who: str, words: str, wanted: str | None, known_ids: Collection[str]) -> None:
    if wanted is not None and wanted not in known_ids:
        raise refusal("not_there", who=who, what=words, id=wanted)


class System(Document):
    """One way of building it: parts and runs in any order, and how they may stand."""

    volts_v: Voltage | None = known("System voltage", "Of the living space; usually 12.")
    parts: Annotated[tuple[Part, ...], Field(max_length=400)] = ()
    runs: Annotated[tuple[Run, ...], Field(max_length=800)] = ()
    spaces: Annotated[tuple[Space, ...], Field(max_length=40)] = ()
    states: Annotated[tuple[State, ...], Field(max_length=40)] = ()
    phases: Annotated[tuple[Phase, ...], Field(max_length=20)] = ()
    holes: Annotated[tuple[Hole, ...], Field(max_length=60)] = ()
    tradition: Literal["metric", "UK", "US", "Australia"] | None = known(
        "Fittings of", "Decides ends nobody states."
    )
    gas_tested_on: Date | None = known("Gas tested on", "Tightness test, as 2026-03-31.")
    gas_tested_by: Name = Field(default="", title="Gas tested by")

    @model_validator(mode="after")
    def _pieces_exist(self) -> Self:
        parts = _unique(self.parts, "parts")
        spaces = _unique(self.spaces, "spaces")
        phases = _unique(self.phases, "phases")
        _unique(self.runs, "runs")
        _unique(self.states, "states")
        _unique(self.holes, "holes")
        piece: PartBase | RunBase
        for piece in (*self.parts, *self.runs):
            who = f"{'part' if isinstance(piece, PartBase) else 'run'} “{piece.id}”"
            _there(who, "space", piece.space, spaces)
            _there(who, "phase", piece.phase, phases)
        for part in self.parts:
            for name in part_refs(type(part)):
                _there(f"part “{part.id}”", "part", getattr(part, name), parts)
        for space in self.spaces:
            for other in (*space.neighbours, *space.sealed_from):
                _there(f"space “{space.id}”", "space", other, spaces)
                if other == space.id:
                    raise refusal("own_neighbour", id=space.id)
        for hole in self.holes:
            _there(f"hole “{hole.id}”", "space", hole.first, spaces)
            _there(f"hole “{hole.id}”", "space", hole.second, spaces)
            _there(f"hole “{hole.id}”", "part", hole.for_part, parts)
        return self

    @model_validator(mode="after")
    def _nothing_sits_in_itself(self) -> Self:
        hosts = {part.id: part.fitted_in for part in self.parts}
        for start in hosts:
            at, steps = hosts[start], 0
            while at is not None:
                steps += 1
                if at == start or steps > len(hosts):
                    raise refusal("sits_in_itself", id=start)
                at = hosts[at]
        return self

    @model_validator(mode="after")
    def _joints_exist(self) -> Self:
        parts = {part.id: part for part in self.parts}
        used: dict[tuple[str, str], str] = {}
        for run in self.runs:
            ends: list[Port] = []
            for end in (run.start, run.end):
                if end.part not in parts:
                    raise refusal("no_such_part", run=run.id, part=end.part)
                part = parts[end.part]
                port = part.port(end.port)
                if port is None:
                    names = ", ".join(port.name for port in part.ports)
                    raise refusal(
                        "no_such_port", run=run.id, port=end.port, part=end.part, names=names
                    )
                ends.append(port)
                other = used.setdefault((end.part, end.port), run.id)
                if (other != run.id or run.start == run.end) and not port.many:
                    raise refusal("two_ends", port=end.port, part=end.part, other=other, run=run.id)
            if not joins(ends[0].medium, ends[1].medium) or not any(
                end.medium in run.carries for end in ends
            ):
                raise refusal(
                    "media_differ", run=run.id, kind=run.title, start=str(run.start),
                    first=ends[0].medium, end=str(run.end), second=ends[1].medium,
                )  # fmt: skip
        return self

    @model_validator(mode="after")
    def _states_fit(self) -> Self:
        parts = {part.id: part for part in self.parts}
        spaces = {space.id for space in self.spaces}
        for state in self.states:
            who = f"state “{state.id}”"
            for position in state.positions:
                _there(who, "part", position.part, parts)
                part = parts[position.part]
                if position.at not in part.positions:
                    may = ", ".join(part.positions)
                    raise refusal(
                        "no_such_position", who=who, part=position.part, at=position.at, may=may
                    )
            for placement in state.placed:
                _there(who, "part", placement.part, parts)
                _there(who, "space", placement.space, spaces)
            for dry in state.dry:
                _there(who, "part", dry, parts)
        return self

    def part(self, part_id: str) -> AnyKind:
        """Find a part by id; KeyError if it is not there."""
        for part in self.parts:
            if part.id == part_id:
                return part
        raise KeyError(part_id)

    def state(self, state_id: str) -> State:
        """Find a state by id; KeyError if it is not there."""
        for state in self.states:
            if state.id == state_id:
                return state
        raise KeyError(state_id)

    def state_or(self, state_id: str | None, otherwise: State | None) -> State | None:
        """Give the state of an id, or another where there is none such."""
        return next((state for state in self.states if state.id == state_id), otherwise)

    @property
    def pipes(self) -> tuple[Pipe, ...]:
        """Give the runs that carry liquids."""
        return tuple(run for run in self.runs if isinstance(run, Pipe))

    def fitted(self, host_id: str) -> tuple[AnyKind, ...]:
        """List the parts that sit in or on another."""
        return tuple(part for part in self.parts if part.fitted_in == host_id)

    def around(self, part: PartBase) -> Around:
        """Give what a part sees of the system."""
        host = next((other for other in self.parts if other.id == part.fitted_in), None)
        return Around(host=host, fitted=self.fitted(part.id), volts_v=self.volts_v)

    def between(self, run: RunBase) -> Around:
        """Give what a run sees of the system: how far apart its ends are, if they are placed."""
        ends = [self.part(end.part) for end in (run.start, run.end)]
        places = [(part.x_m, part.y_m, part.z_m) for part in ends]
        if any(None in place for place in places):
            return Around()
        one, other = ([value for value in place if value is not None] for place in places)
        return Around(span_m=dist(one, other))

    @property
    def nominal_v(self) -> float:
        """Volts of its battery side: as entered, else 12, as most are."""
        return SYSTEM_V if self.volts_v is None else self.volts_v

    def joined(self, part_id: str) -> Iterator[tuple[AnyRun, PortRef, PortRef]]:
        """Give every run at a part: the run, its end here, its end there."""
        for run in self.runs:
            if run.start.part == part_id:
                yield run, run.start, run.end
            if run.end.part == part_id:
                yield run, run.end, run.start


@cache
def part_refs(kind: type[PartBase]) -> tuple[str, ...]:
    """List the properties of a kind that name another part.

    Parameters
    ----------
    kind : type
        A class of part. [-]

    Returns
    -------
    tuple of str
        Names of properties. [-]
    """
    return tuple(name for name, info in kind.model_fields.items() if refers_to(info) == "part")
