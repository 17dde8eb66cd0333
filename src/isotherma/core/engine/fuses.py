"""Fuses: what hangs on each, what is too much for it, and what stands once it has blown."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from isotherma.core.engine.columns import FUSE_BEARS
from isotherma.core.flows.loads import running_w
from isotherma.core.supply.feeds import element_volts, feeds_of
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat

Floats = NDArray[np.float64]


def most_a(part: AnyKind, system: System) -> float:
    """Give the most a part takes from its fuse while it runs.

    Parameters
    ----------
    part : a kind of part
        With what was understood of it. [-]
    system : System
        Its system. [-]

    Returns
    -------
    float
        An element on full, a pump at a shower's pressure, a liquid heater as it lights; 0 for
        what is not computed. [A]
    """
    if isinstance(part, heat.Element):
        return (part.power_w or 0.0) / element_volts(system, part)
    if isinstance(part, heat.LiquidHeater):
        return max(part.glow_a or 0.0, burning_a(part, system))
    return running_w(part, system.volts_v) / (system.volts_v or 12.0)


def burning_a(part: heat.LiquidHeater, system: System) -> float:
    """Give what a liquid heater takes once it burns.

    Parameters
    ----------
    part : LiquidHeater
        With what was understood of it. [-]
    system : System
        Its system. [-]

    Returns
    -------
    float
        Fan, fuel pump and its own water pump. [A]
    """
    return (part.running_w or 0.0) / (system.volts_v or 12.0)


class Fuses:
    """What hangs on which fuse.

    Only fuses that could blow are kept: with an element on them, or with more in all than they
    bear. `ids` are theirs; `loads` what hangs on each fuse of the system by what it takes [A];
    `stands` what takes more than its fuse bears alone and so never runs.

    Parameters
    ----------
    known : System
        With what was understood of its parts. [-]
    """

    def __init__(self, known: System) -> None:
        self.system = known
        self.bears = {
            part.id: float(amps)
            for part in known.parts
            if (amps := getattr(part, "fuse_a", None))
        }  # fmt: skip
        self.loads: dict[str, dict[str, float]] = {key: {} for key in self.bears}
        for part in known.parts if self.bears else ():
            amps = most_a(part, known)
            if amps > 0.0:
                for key in feeds_of(known, part.id).circuits:
                    if key in self.loads:
                        self.loads[key][part.id] = amps
        parts = {part.id: part for part in known.parts}
        self.stands = frozenset(
            load
            for key, loads in self.loads.items()
            for load, amps in loads.items()
            if amps > self.bears[key] * FUSE_BEARS and not isinstance(parts[load], heat.Element)
        )
        self.ids = tuple(
            key
            for key, loads in self.loads.items()
            if sum(loads.values()) > self.bears[key] * FUSE_BEARS
            or any(isinstance(parts[load], heat.Element) for load in loads)
        )
        self._others = [
            (row, parts[load])
            for row, key in enumerate(self.ids)
            for load in self.loads[key]
            if load not in self.stands and not isinstance(parts[load], heat.Element)
        ]

    def rows(self) -> Floats:
        """Give the kernel's rows of fuses, none blown.

        Returns
        -------
        array of float
            What each bears, whether it has blown, what runs on it beside elements.
            [A, -, A], shape (n_fuses, 3)
        """
        return np.array([[self.bears[key], 0.0, 0.0] for key in self.ids]).reshape(-1, 3)

    def wired(self, sources: tuple[str, ...], parts: Mapping[str, AnyKind]) -> Floats:
        """Say which elements hang on which fuse.

        Parameters
        ----------
        sources : tuple of str
            Sources of heat in the kernel's order. [-]
        parts : mapping of str to part
            By id. [-]

        Returns
        -------
        array of float
            Fuse, source, amps by the source's watts. [-, -, A/W], shape (n_wires, 3)
        """
        found = [
            [float(row), float(source), 1.0 / element_volts(self.system, part)]
            for row, key in enumerate(self.ids)
            for source, part_id in enumerate(sources)
            if part_id in self.loads[key] and isinstance(part := parts[part_id], heat.Element)
        ]
        return np.array(found, dtype=np.float64).reshape(-1, 3)

    def carry(self, rows: Floats, pumping: frozenset[str], lit: Mapping[str, bool]) -> None:
        """Write down what runs on the fuses now beside elements; the kernel adds those.

        Parameters
        ----------
        rows : array of float
            The kernel's rows, written to. [A, -, A], shape (n_fuses, 3)
        pumping : frozenset of str
            Pumps that run. [-]
        lit : mapping of str to bool
            Liquid heaters that are called, and whether they burn already. [-]
        """
        rows[:, 2] = 0.0
        for row, part in self._others:
            if isinstance(part, heat.LiquidHeater) and lit.get(part.id):
                rows[row, 2] += burning_a(part, self.system)
            elif part.id in (lit if isinstance(part, heat.LiquidHeater) else pumping):
                rows[row, 2] += self.loads[self.ids[row]][part.id]

    def blown(self, rows: Floats) -> tuple[str, ...]:
        """Name the fuses that have blown.

        Parameters
        ----------
        rows : array of float
            The kernel's. [A, -, A], shape (n_fuses, 3)

        Returns
        -------
        tuple of str
            Ids of circuits. [-]
        """
        return tuple(key for key, row in zip(self.ids, rows, strict=True) if row[1] > 0.0)

    def stopped(self, rows: Floats) -> frozenset[str]:
        """Name pumps and heaters that stand for a fuse.

        Parameters
        ----------
        rows : array of float
            The kernel's. [A, -, A], shape (n_fuses, 3)

        Returns
        -------
        frozenset of str
            What takes too much alone, and what hangs on a fuse that has blown. [-]
        """
        if not self.ids:
            return self.stands
        behind = [
            part.id for row, part in self._others if rows[row, 1] > 0.0
        ]  # fmt: skip
        return self.stands.union(behind)
