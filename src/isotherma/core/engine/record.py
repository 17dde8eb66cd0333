"""What a simulated day leaves behind: its log, its draws, its stretches, its balance."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Draw
from isotherma.core.flows.pulse import Point

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Drawn:
    """One draw as it ran."""

    draw: Draw
    outlet: str
    opened_s: float
    warm_s: float | None
    closed_s: float
    dry: bool
    flow_m3_per_s: float
    point: Point


@dataclass(frozen=True, slots=True)
class Balance:
    """What came in, went out and stayed, in a day [J, kg]."""

    heat_in_j: float
    sources_j: Mapping[str, float]
    bodies_j: Mapping[str, float]
    held_j: float
    air_j: float
    heat_out_j: float
    store_loss_j: float
    pipe_loss_j: float
    body_loss_j: float
    stored_change_j: float
    taken_kg: Mapping[str, float]
    energy_error_share: float
    water_error_share: float


@dataclass(frozen=True, slots=True)
class Stretch:
    """What a stretch of the day took, from one edge of the hours to the next.

    `sources_j` heat of elements and burners, `bodies_j` of heaters [J], `pumped_s` of pumps
    [s], `starts` of heaters; `charge_w` what might have charged the battery, `standing_w` what
    it gave whatever the water did, `air_c` outside.
    """

    start_s: float
    span_s: float
    sources_j: Mapping[str, float]
    bodies_j: Mapping[str, float]
    pumped_s: Mapping[str, float]
    starts: Mapping[str, float]
    charge_w: float
    standing_w: float
    air_c: float
    air_j: float = 0.0


@dataclass(frozen=True, slots=True)
class Day:
    """One simulated day: the log as its columns say, the draws, the balance.

    `pumped_s` is how long each pump ran [s], `starts` how often each heater lit, `stretches`
    what it took in order of time.
    """

    log: Floats
    drawn: tuple[Drawn, ...]
    balance: Balance
    pumped_s: Mapping[str, float]
    starts: Mapping[str, float]
    vessel: str
    layers: int
    stretches: tuple[Stretch, ...] = ()
