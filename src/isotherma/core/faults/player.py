"""Plays faults of one case and keeps what was solved: points, bands, figures."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from typing import Final

from isotherma.core.errors import CoreError
from isotherma.core.faults.altered import Alterations, Altered, Case
from isotherma.core.faults.plays import Edit, Play
from isotherma.core.faults.readings import Expected
from isotherma.core.flows.bands import OutletBand, outlet_band
from isotherma.core.flows.network_compiler import compile_network
from isotherma.core.flows.pulse import Point, operate
from isotherma.core.supply.feeds import SWITCHED
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat, use


@dataclass(frozen=True, slots=True)
class Asked:
    """A quantity: its kind, whose it is, and what a time is between [°C]."""

    kind: str
    part: str | None
    from_c: float | None = None
    to_c: float | None = None


HEATS_ITS_HOST: Final = (heat.Element, heat.Burner, heat.Combi)


class Player:
    """Plays faults of one case and reads quantities off them; answers are kept."""

    def __init__(
        self, case: Case, air_c: Callable[[str | None], float], reads: Mapping[str, Reads]
    ) -> None:
        self.case = case
        self.made = Alterations(case)
        self.known = self.made.known
        self._air_c, self._reads = air_c, reads
        self._points: dict[tuple[Play, str], Point | None] = {}
        self._bands: dict[str, OutletBand | None] = {}
        self._altered: dict[Play, Altered | None] = {}
        self._kept: dict[tuple[Play, Asked], Expected | None] = {}

    @property
    def outlets(self) -> tuple[str, ...]:
        """List the outlets that can be opened, shower heads first."""
        ends = self.made.healthy.network.ends
        there = [part for part in self.known.parts
                 if isinstance(part, use.Outlet) and part.id in ends]  # fmt: skip
        there.sort(key=lambda part: not isinstance(part, use.ShowerHead))
        return tuple(part.id for part in there)

    def carries(self, item: str, outlet: str) -> bool:
        """Say whether water of an outlet passes a part or run, on the sound design."""
        point = self.point((), outlet)
        if point is None:
            return False
        network = point.solved.network
        rows = [network.run[item]] if item in network.run else network.part_links.get(item, ())
        return any(abs(float(point.solved.flow_m3_per_s[row])) > 1e-8 for row in rows)

    def opened(self, part: str | None) -> str | None:
        """Give the outlet that is open while a part is read: itself, else the first."""
        outlets = self.outlets
        if part in outlets:
            return part
        return next(iter(outlets), None)

    def altered(self, play: Play) -> Altered | None:
        """Give the design with a play; None where the engine cannot lay it."""
        if play not in self._altered:
            try:
                self._altered[play] = self.made.altered(play)
            except CoreError:
                self._altered[play] = None
        return self._altered[play]

    def point(self, play: Play, outlet: str) -> Point | None:
        """Give the solved point of one open outlet; None where nothing solves it."""
        key = (play, outlet)
        if key not in self._points:
            made = self.altered(play)
            try:
                self._points[key] = None if made is None else operate(made.network, {outlet: 1.0})
            except CoreError:
                self._points[key] = None
        return self._points[key]

    def band(self, outlet: str) -> OutletBand | None:
        """Give the band of an outlet of the sound design."""
        if outlet not in self._bands:
            try:
                self._bands[outlet] = outlet_band(
                    self.known,
                    lambda known: compile_network(self.case.system, self.case.state,
                                                  self.made.stands, known=known),
                    outlet,
                )  # fmt: skip
            except CoreError:
                self._bands[outlet] = None
        return self._bands[outlet]

    def expected(self, play: Play, asked: Asked) -> Expected | None:
        """Give what would be read with a play; None where nothing computes it."""
        key = (play, asked)
        if key not in self._kept:
            whole = (*self._woken(asked), *play)
            made = self.altered(whole)
            read = self._reads.get(asked.kind)
            self._kept[key] = None
            if made is not None and read is not None:
                with suppress(CoreError):  # what hangs on an unknown figure is not computed
                    self._kept[key] = read(self, whole, made, asked)
        return self._kept[key]

    def _woken(self, asked: Asked) -> Play:
        """Switch on what is off in the state, where a reading says that it ran.

        Amps and volts are read under load, and what was timed while it heated was on.
        """
        stood = self.made.healthy.stood
        if asked.kind in ("amps", "volts"):
            off = [asked.part] if stood.get(asked.part or "") == "off" else []
        elif asked.kind == "heat_up":
            heats = [part.id for part in self.known.parts if isinstance(part, HEATS_ITS_HOST)
                     and asked.part in (part.fitted_in, part.id)
                     and "off" in part.positions]  # fmt: skip
            off = list(heats) if all(stood.get(key) == "off" for key in heats) else []
        else:
            return ()
        return self.switched_on(off) if off else ()

    def switched_on(self, parts: Iterable[str | None]) -> Play:
        """Give the edits that switch parts on, with all that may feed them."""
        wanted = set(parts)
        return tuple(
            Edit(f"parts.{part.id}.at", part.positions[0])
            for part in self.known.parts
            if part.positions and (part.id in wanted or isinstance(part, SWITCHED))
        )

    def part(self, made: Altered, part_id: str | None) -> AnyKind | None:
        """Give a part of a design; None where there is none such."""
        return next((part for part in made.known.parts if part.id == part_id), None)

    def air(self, part: AnyKind | None) -> float:
        """Give the air around a part, as read, else by its space [°C]."""
        return self._air_c(None if part is None else part.space)


# gives what would be read of a quantity; None where nothing computes it
Reads = Callable[[Player, Play, Altered, Asked], Expected | None]
