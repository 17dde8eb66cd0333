"""Fuses as the kernels have them: rows of what they bear, what is on them, what has blown."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np
from numpy.typing import NDArray

from isotherma.core.engine.columns import U_BLOWN, U_OTHERS
from isotherma.core.setup.fuses import FANNED, Fuses, burning_a, volts_of
from isotherma.core.supply.feeds import direct_panel
from isotherma.core.supply.ohms import F_LOST, F_OHM, F_VOLTS
from isotherma.core.supply.wires import element_ohm
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat

Floats = NDArray[np.float64]


class FuseRows:
    """The fuses of a system that could blow, as rows of a table that the kernels write to.

    Parameters
    ----------
    fuses : Fuses
        What hangs on which. [-]
    """

    def __init__(self, fuses: Fuses) -> None:
        self.fuses = fuses
        self.ids, self.loads, self.bears = fuses.ids, fuses.loads, fuses.bears
        self.alone, self.others, self.unable = fuses.alone, fuses.others, fuses.unable
        self.takes, self.standing_a = fuses.takes, fuses.standing_a
        self.wires, self.system = fuses.wires, fuses.system

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
                for key, alone in zip(self.ids, self.alone, strict=True)
            ]
        ).reshape(-1, 5)

    def sharing(self, sources: Iterable[str], pumps: Iterable[str]) -> frozenset[str]:
        """Name elements that share wires with a pump: while they are on it is slower.

        Parameters
        ----------
        sources : iterable of str
            Ids of elements and burners. [-]
        pumps : iterable of str
            Ids of the network's pumps. [-]

        Returns
        -------
        frozenset of str
            Those of the sources. [-]
        """
        rows = [row for key in pumps if (row := self.wires.row(key)) is not None]
        return frozenset(
            key for key in sources
            if (row := self.wires.row(key)) is not None and rows and self.wires.ohm[row, rows].any()
        )  # fmt: skip

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
            if part_id in self.loads[key] and isinstance(parts[part_id], FANNED)
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
            if isinstance(part, heat.LiquidHeater) and key not in self.unable:
                volts = volts_of(part, self.system, self.wires)
                running[key] = burning_a(part, volts) if burns else self.takes.get(key, 0.0)
        for row, part in self.others:
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
            if self.alone[row] and pumping & set(self.loads[key]):
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
            return self.unable
        behind = [
            part.id for row, part in self.others if rows[row, U_BLOWN] > 0.0
        ]  # fmt: skip
        return self.unable.union(behind)
