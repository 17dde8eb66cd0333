"""Fuses: what hangs on each, what is too much for it, and what stands once it has blown."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.engine.columns import FUSE_BEARS, U_BLOWN, U_OTHERS
from isotherma.core.fields import known_or
from isotherma.core.flows.loads import running_w
from isotherma.core.supply.feeds import direct_panel, element_volts, feeds_of
from isotherma.core.supply.ohms import F_LOST, F_OHM, F_VOLTS
from isotherma.core.supply.wires import SYSTEM_V, Wires, element_ohm
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import electric, heat, waste

Floats = NDArray[np.float64]


def most_a(part: AnyKind, system: System, wires: Wires) -> float:
    """Give the most a part takes from its fuse while it runs.

    Parameters
    ----------
    part : a kind of part
        With what was understood of it. [-]
    system : System
        Its system. [-]
    wires : Wires
        What feeds it in a state. [-]

    Returns
    -------
    float
        An element by the volts that reach it alone, a pump at a shower's pressure, a liquid
        heater as it lights, a combi's or air heater's fan, a reuse loop's pump, other loads by
        their label; 0 for what takes nothing. [A]
    """
    volts = volts_of(part, system, wires)
    if isinstance(part, heat.Element):
        ohm = element_ohm(part, volts)
        fed = wires.settled({part.id: ohm}).get(part.id)
        return fed.amps if fed is not None else (part.power_w or 0.0) / volts
    if isinstance(part, heat.LiquidHeater):
        return max(part.glow_a or 0.0, burning_a(part, volts))
    if isinstance(part, electric.Load):
        return (part.rated_w or 0.0) / volts if part.hours_s > 0.0 else 0.0
    if isinstance(part, heat.HeatPad):
        return (part.power_w or 0.0) / volts
    if isinstance(part, heat.Combi | heat.AirHeater | waste.ReuseLoop):
        return (part.running_w or 0.0) / volts
    return running_w(part, volts) / volts


def volts_of(part: AnyKind, system: System, wires: Wires) -> float:
    """Give the volts at the source of a part.

    Parameters
    ----------
    part : a kind of part
        That takes electricity. [-]
    system : System
        Its system. [-]
    wires : Wires
        What feeds it in a state. [-]

    Returns
    -------
    float
        By its wires; an element's or load's own, else the system's, else 12. [V]
    """
    row = wires.row(part.id)
    if isinstance(part, heat.Element) and (part.supply_v is not None or row is None):
        return element_volts(system, part)
    if row is not None:
        return float(wires.source_v[row])
    own = part.volts_v if isinstance(part, electric.Load) else None
    return known_or(own, known_or(system.volts_v, SYSTEM_V))


def burning_a(part: heat.LiquidHeater, volts_v: float) -> float:
    """Give what a liquid heater takes once it burns.

    Parameters
    ----------
    part : LiquidHeater
        With what was understood of it. [-]
    volts_v : float
        At its source, > 0. [V]

    Returns
    -------
    float
        Fan, fuel pump and its own water pump. [A]
    """
    return (part.running_w or 0.0) / volts_v


# what takes current whatever the water does; when in the day nobody says, so always
_STANDING: Final = (electric.Load, heat.HeatPad)
_FANNED: Final = (heat.Combi, heat.Element)  # rows of the kernel's own sources


class Fuses:
    """What hangs on which fuse.

    Only fuses that could blow are kept: with an element on them, or with more in all than they
    bear. `ids` are theirs; `loads` what hangs on each fuse of the system by what it takes [A];
    `stands` what takes more than its fuse bears alone, is cut off by an open switch or gets too
    few volts to light, and so never runs; `faint` are the last, by the volts that reach them [V].

    Parameters
    ----------
    known : System
        With what was understood of its parts. [-]
    wires : Wires
        What feeds them in this state. [-]
    whole : Wires
        What feeds them with every switch shut: fuses are the same in all states. [-]
    at : mapping of str to str
        How switchable parts stand in this state. [-]
    cold : callable
        Whether a heat pad is ever called for. [-]
    """

    def __init__(
        self, known: System, wires: Wires, whole: Wires, at: Mapping[str, str],
        cold: Callable[[heat.HeatPad], bool],
    ) -> None:  # fmt: skip
        self.system, self.wires, self.whole = known, wires, whole
        self.bears = {
            part.id: float(amps)
            for part in known.parts
            if (amps := getattr(part, "fuse_a", None)) is not None
        }  # fmt: skip
        self.loads: dict[str, dict[str, float]] = {key: {} for key in self.bears}
        parts = {part.id: part for part in known.parts}
        self.takes: dict[str, float] = {}
        for part in known.parts:
            if isinstance(part, heat.HeatPad) and not cold(part):
                continue
            if not self.bears and whole.row(part.id) is None:
                continue
            amps = most_a(part, known, whole)
            if amps > 0.0:
                self.takes[part.id] = amps
                for key in feeds_of(known, part.id).circuits:
                    if key in self.loads:
                        self.loads[key][part.id] = amps
        self.standing_a = {
            key: amps for key, amps in self.takes.items()
            if isinstance(parts[key], _STANDING) and at.get(key) != "off"
            and key not in wires.dead
        }  # fmt: skip
        self.faint = self._faint(parts)
        self.stands = (
            frozenset(
                load
                for key, loads in self.loads.items()
                for load, amps in loads.items()
                if amps > self.bears[key] * FUSE_BEARS and not isinstance(parts[load], _FANNED)
            )
            | frozenset(key for key in wires.dead if not isinstance(parts[key], heat.Element))
            | frozenset(self.faint)
        )
        self.ids = tuple(
            key
            for key, loads in self.loads.items()
            if sum(loads.values()) > self.bears[key] * FUSE_BEARS
            or any(isinstance(parts[load], _FANNED) for load in loads)
        )
        self._alone = [bool(getattr(parts[key], "not_together", False)) for key in self.ids]
        self._others = [
            (row, parts[load])
            for row, key in enumerate(self.ids)
            for load in self.loads[key]
            if load not in self.stands and not isinstance(parts[load], (*_FANNED, *_STANDING))
        ]

    def _faint(self, parts: Mapping[str, AnyKind]) -> dict[str, float]:
        """Find heaters whose volts fall too low while they glow."""
        found: dict[str, float] = {}
        for part in parts.values():
            if not isinstance(part, heat.LiquidHeater) or self.wires.row(part.id) is None:
                continue
            amps = {**self.standing_a, part.id: part.glow_a or 0.0}
            fed = self.wires.settled({}, amps)[part.id]
            if part.trip_v is not None and fed.volts < part.trip_v:
                found[part.id] = fed.volts
        return found

    def rows(self) -> Floats:
        """Give the kernel's rows of fuses, none blown.

        Returns
        -------
        array of float
            As `columns` says. [A, -, A, A, -], shape (n_fuses, 5)
        """
        return np.array(
            [
                [self.bears[key], 0.0, 0.0, self._standing_on(key), float(alone)]
                for key, alone in zip(self.ids, self._alone, strict=True)
            ]
        ).reshape(-1, 5)

    def _standing_on(self, fuse_id: str) -> float:
        return sum(self.standing_a.get(key, 0.0) for key in self.loads[fuse_id])

    def wired(
        self, sources: tuple[str, ...], watts: Floats, parts: Mapping[str, AnyKind]
    ) -> Floats:
        """Say which sources of heat hang on which fuse.

        Parameters
        ----------
        sources : tuple of str
            Sources of heat in the kernel's order. [-]
        watts : array of float
            Of each. [W], shape (n_sources,)
        parts : mapping of str to part
            By id. [-]

        Returns
        -------
        array of float
            Fuse, source, amps by the source's watts. [-, -, A/W], shape (n_wires, 3)
        """
        found = [
            [float(row), float(source), self.loads[key][part_id] / max(1e-9, float(watts[source]))]
            for row, key in enumerate(self.ids)
            for source, part_id in enumerate(sources)
            if part_id in self.loads[key] and isinstance(parts[part_id], _FANNED)
        ]
        return np.array(found, dtype=np.float64).reshape(-1, 3)

    def feed(self, sources: tuple[str, ...], parts: Mapping[str, AnyKind]) -> tuple[Floats, Floats]:
        """Say what feeds the elements among sources of heat.

        Parameters
        ----------
        sources : tuple of str
            Sources of heat in the kernel's order. [-]
        parts : mapping of str to part
            By id. [-]

        Returns
        -------
        tuple of array of float
            Loads as `supply.ohms` has them, and the volts one loses for another's amps; no volts
            for what follows a panel, a surplus or volts measured at its own ends.
            [V, Ω, V, A], shape (n_sources, 4); [Ω], shape (n_sources, n_sources)
        """
        count = len(sources)
        rows, ohm = np.zeros((count, 4)), np.zeros((count, count))
        places = [self.wires.row(key) if self._follows(parts[key]) else None for key in sources]
        for source, at in enumerate(places):
            part = parts[sources[source]]
            if at is None or not isinstance(part, heat.Element):
                continue
            volts = float(self.wires.source_v[at])
            rows[source, F_VOLTS], rows[source, F_OHM] = volts, element_ohm(part, volts)
            for other, beside in enumerate(places):
                if beside is not None:
                    ohm[source, other] = self.wires.ohm[at, beside]
        return rows, ohm

    def _follows(self, part: AnyKind) -> bool:
        """Say whether an element's watts follow the volts at its ends."""
        if not isinstance(part, heat.Element) or part.power_w is None:
            return False
        if part.supply_v is not None or part.rule == "surplus sun":
            return False
        return direct_panel(self.system, part) is None

    def carry(
        self, rows: Floats, feed: Floats, sources: tuple[str, ...], pumping: frozenset[str],
        lit: Mapping[str, bool], *, blowing: bool,
    ) -> None:  # fmt: skip
        """Write down what runs on the fuses and wires now beside elements; the kernel adds those.

        Parameters
        ----------
        rows : array of float
            The kernel's rows of fuses, written to. [A, -, A, A, -], shape (n_fuses, 5)
        feed : array of float
            The kernel's loads, written to. [V, Ω, V, A], shape (n_sources, 4)
        sources : tuple of str
            Sources of heat in the kernel's order. [-]
        pumping : frozenset of str
            Pumps and reuse loops that run. [-]
        lit : mapping of str to bool
            Liquid heaters that are called, and whether they burn already. [-]
        blowing : bool
            Whether air heaters blow. [-]
        """
        running = dict(self.standing_a)
        rows[:, U_OTHERS] = 0.0
        for key, amps in self.takes.items():
            if key in pumping:
                running[key] = amps
        for key, burns in lit.items():
            part = next(item for item in self.system.parts if item.id == key)
            if isinstance(part, heat.LiquidHeater) and key not in self.stands:
                volts = volts_of(part, self.system, self.wires)
                running[key] = burning_a(part, volts) if burns else self.takes.get(key, 0.0)
        for row, part in self._others:
            if part.id in running:
                rows[row, U_OTHERS] += running[part.id]
            elif blowing and isinstance(part, heat.AirHeater):
                rows[row, U_OTHERS] += self.takes[part.id]
        for source, part_id in enumerate(sources):
            if feed[source, F_VOLTS] > 0.0:
                feed[source, F_LOST] = self.wires.lost_v(part_id, running)

    def waits(self, pumping: frozenset[str], lit: Mapping[str, bool]) -> frozenset[str]:
        """Name heaters that wait for a pump on a fuse whose loads must not run together.

        Parameters
        ----------
        pumping : frozenset of str
            Pumps that run. [-]
        lit : mapping of str to bool
            Liquid heaters that are called. [-]

        Returns
        -------
        frozenset of str
            Of those. [-]
        """
        found = set()
        for row, key in enumerate(self.ids):
            if self._alone[row] and pumping & set(self.loads[key]):
                found |= set(lit) & set(self.loads[key])
        return frozenset(found)

    def blown(self, rows: Floats) -> tuple[str, ...]:
        """Name the fuses that have blown.

        Parameters
        ----------
        rows : array of float
            The kernel's. [A, -, A, A, -], shape (n_fuses, 5)

        Returns
        -------
        tuple of str
            Ids of circuits. [-]
        """
        return tuple(key for key, row in zip(self.ids, rows, strict=True) if row[U_BLOWN] > 0.0)

    def stopped(self, rows: Floats) -> frozenset[str]:
        """Name pumps and heaters that stand for a fuse.

        Parameters
        ----------
        rows : array of float
            The kernel's. [A, -, A, A, -], shape (n_fuses, 5)

        Returns
        -------
        frozenset of str
            What takes too much alone, and what hangs on a fuse that has blown. [-]
        """
        if not self.ids:
            return self.stands
        behind = [
            part.id for row, part in self._others if rows[row, U_BLOWN] > 0.0
        ]  # fmt: skip
        return self.stands.union(behind)
