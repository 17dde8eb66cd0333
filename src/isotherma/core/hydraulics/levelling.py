"""Two tanks that a pipe joins: how they level out in time, and how one is filled by the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf, sqrt
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.hydraulics.gravity import FallingLeg, gravity_flow_m3_per_s
from isotherma.core.hydraulics.levels import TankShape

Floats = NDArray[np.float64]

HEADS: Final = 40
MOST_HEAD_M: Final = 4.0
LEAST_HEAD_M: Final = 1e-5
STEPS_OF_FULL: Final = 200.0  # a step moves no more than this part of the smaller tank
LEVEL_M: Final = 0.002  # closer than this they are level
LONGEST_S: Final = 6 * 3600.0
LONGEST_STEP_S: Final = 60.0
TABLE: Final = 60
NEARLY: Final = 0.98  # of full: the last litre comes ever slower


@dataclass(frozen=True, slots=True)
class Basin:
    """A tank by its levels: `heights_m` above its floor with the water below them, up to its
    overflow; `floor_m` above a common datum, `port_m` of the joining pipe above the floor.
    """

    heights_m: Floats
    volumes_m3: Floats
    floor_m: float
    port_m: float

    @property
    def full_m3(self) -> float:
        """Give what it holds to its overflow [m³]."""
        return float(self.volumes_m3[-1])

    def surface_m(self, volume_m3: float) -> float:
        """Give its surface above the datum with so much in it [m]."""
        return self.floor_m + float(np.interp(volume_m3, self.volumes_m3, self.heights_m))


def basin_of(
    shape: TankShape, *, volume_m3: float, outlet_m: float, overflow_m: float, floor_m: float,
    port_m: float,
) -> Basin:  # fmt: skip
    """Describe a tank by what can be used of it.

    Parameters
    ----------
    shape : TankShape
        Its sides. [m]
    volume_m3 : float
        Usable, between outlet and overflow, > 0; the sides are scaled to it. [m³]
    outlet_m, overflow_m : float
        Above its floor; the overflow above the outlet. [m]
    floor_m, port_m : float
        Of its floor above a common datum; of the joining pipe above the floor. [m]

    Returns
    -------
    Basin
        Empty at its outlet. [m³]

    References
    ----------
    Geometry of a tapered box: V(z) = ∫ l(z) w(z) dz.
    """
    z = np.linspace(outlet_m, overflow_m, TABLE)
    up = z / shape.height_m
    long, wide = shape.top_share - 1.0, shape.widens - 1.0
    below = up + 0.5 * (long + wide) * up**2 + long * wide * up**3 / 3.0
    below = (below - below[0]) / (below[-1] - below[0]) * volume_m3
    return Basin(z, below, floor_m, port_m)


class Joint:
    """The pipe between two basins: what flows through it at any difference of level.

    Parameters
    ----------
    first, second : Basin
        The tanks. [m³, m]
    legs : sequence of FallingLeg
        The pipe between them, one stretch behind the other. [m]
    """

    def __init__(self, first: Basin, second: Basin, legs: Sequence[FallingLeg]) -> None:
        self.first, self.second = first, second
        heads = np.geomspace(LEAST_HEAD_M, MOST_HEAD_M, HEADS)
        flows = [gravity_flow_m3_per_s(head_m=float(head), stretches=legs) for head in heads]
        # turbulent flow is nearly straight over the root of the head
        self._roots = np.sqrt(np.concatenate(([0.0], heads)))
        self._flows = np.array([0.0, *flows])

    def flow_m3_per_s(self, first_m3: float, second_m3: float) -> float:
        """Give what flows from the first to the second; back with a minus [m³/s]."""
        one, other = self.first.surface_m(first_m3), self.second.surface_m(second_m3)
        ports = self.first.floor_m + self.first.port_m, self.second.floor_m + self.second.port_m
        if one > other:
            head = one - max(other, *ports)
            given = first_m3
        else:
            head = other - max(one, *ports)
            given = second_m3
        if head <= 0.0 or given <= 0.0:
            return 0.0
        flow = float(np.interp(sqrt(head), self._roots, self._flows))
        return flow if one > other else -flow

    def after(
        self, first_m3: float, second_m3: float, span_s: float, *, into_first_m3_per_s: float = 0.0
    ) -> tuple[float, float, float]:
        """Let time pass.

        Parameters
        ----------
        first_m3, second_m3 : float
            What is in them. [m³]
        span_s : float
            How long. [s]
        into_first_m3_per_s : float
            What a hose puts into the first, or with a minus a pump takes. [m³/s]

        Returns
        -------
        tuple of float
            What is in them then, and what ran over. [m³]

        Notes
        -----
        Midpoint steps; the last one before both are level ends there.

        References
        ----------
        Torricelli's law with the pipe's losses; Hairer, Nørsett and Wanner, Solving Ordinary
        Differential Equations I, for the midpoint rule.
        """
        left, spilt = span_s, 0.0
        small = min(self.first.full_m3, self.second.full_m3)
        while left > 1e-9:
            flow = self.flow_m3_per_s(first_m3, second_m3)
            moving = max(abs(flow), abs(into_first_m3_per_s))
            if moving <= 0.0:
                break
            step = min(left, LONGEST_STEP_S, small / STEPS_OF_FULL / moving)
            half = 0.5 * step
            middle = self.flow_m3_per_s(
                first_m3 + half * (into_first_m3_per_s - flow), second_m3 + half * flow
            )
            moved = self._no_further(first_m3, second_m3, middle * step)
            first_m3 = max(0.0, first_m3 + into_first_m3_per_s * step - moved)
            second_m3 = max(0.0, second_m3 + moved)
            over = (
                max(0.0, first_m3 - self.first.full_m3),
                max(0.0, second_m3 - self.second.full_m3),
            )
            first_m3, second_m3, spilt = first_m3 - over[0], second_m3 - over[1], spilt + sum(over)
            left -= step
        return first_m3, second_m3, spilt

    def _no_further(self, first_m3: float, second_m3: float, moved_m3: float) -> float:
        """Hold what moves back to what makes both level."""
        before = self._apart_m(first_m3, second_m3)
        after = self._apart_m(first_m3 - moved_m3, second_m3 + moved_m3)
        if before * after >= 0.0 or before == after:
            return moved_m3
        return moved_m3 * before / (before - after)

    def _apart_m(self, first_m3: float, second_m3: float) -> float:
        return self.first.surface_m(first_m3) - self.second.surface_m(second_m3)

    def level_after_s(self, first_m3: float, second_m3: float) -> float:
        """Give how long until they are level, or no more can flow.

        Parameters
        ----------
        first_m3, second_m3 : float
            What is in them. [m³]

        Returns
        -------
        float
            Infinite where six hours do not do. [s]
        """
        clock, step = 0.0, 10.0
        while clock < LONGEST_S:
            apart = abs(self._apart_m(first_m3, second_m3))
            if apart < LEVEL_M or self.flow_m3_per_s(first_m3, second_m3) == 0.0:
                return clock
            first_m3, second_m3, _ = self.after(first_m3, second_m3, step)
            clock += step
        return inf

    def fills_in_s(self, into_m3_per_s: float) -> tuple[float, float]:
        """Say what becomes of filling both, empty, through the first.

        Parameters
        ----------
        into_m3_per_s : float
            What the hose gives, > 0. [m³/s]

        Returns
        -------
        tuple of float
            Until the first runs over, or both are full; and until both are full. Infinite where
            six hours do not do. [s]

        References
        ----------
        Continuity; Torricelli's law with the pipe's losses.
        """
        one, other, clock, step = 0.0, 0.0, 0.0, 10.0
        over = inf
        while clock < LONGEST_S:
            one, other, spilt = self.after(one, other, step, into_first_m3_per_s=into_m3_per_s)
            clock += step
            full = min(one / self.first.full_m3, other / self.second.full_m3) >= NEARLY
            if full:
                return min(over, clock), clock
            if spilt > 0.0:
                over = min(over, clock)
        return over, inf

    def dry_after_s(self, drawn_m3_per_s: float) -> float | None:
        """Say when the first runs dry, both full, while so much is drawn from it.

        Parameters
        ----------
        drawn_m3_per_s : float
            Flow, > 0. [m³/s]

        Returns
        -------
        float or None
            None if the second follows until both are empty. [s]

        References
        ----------
        Continuity; Torricelli's law with the pipe's losses.
        """
        one, other, clock, step = self.first.full_m3, self.second.full_m3, 0.0, 10.0
        while clock < LONGEST_S:
            if one <= drawn_m3_per_s * step:
                return clock if other > 0.02 * self.second.full_m3 else None
            one, other, _ = self.after(one, other, step, into_first_m3_per_s=-drawn_m3_per_s)
            clock += step
        return None
