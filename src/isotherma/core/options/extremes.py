"""How a way of heating does at the edges: at two litres a minute, in frost, pumped by foot."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.errors import CoreError
from isotherma.core.options.sizing import Struck, struck_by
from isotherma.core.results.frost import freezes
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import System
from isotherma.core.system.kinds import heat
from isotherma.core.system.pieces import LITRE_PER_MIN
from isotherma.core.system.remarks import PUMPS

LITTLE_M3_PER_S: Final = 2.0 * LITRE_PER_MIN
FROST_C: Final = -5.0
NIGHT_S: Final = 8 * 3600.0

Run = Callable[[Brief], Outcome | CoreError]


class Foot(StrEnum):
    """Whether a foot pump would do instead of an electric one."""

    YES = "yes"
    NO_PUMP = "no_pump"
    LIGHTS = "lights"  # at every stroke anew


@dataclass(frozen=True, slots=True)
class Extreme:
    """How it does there: by what it is struck, what is at 0 °C first and after how long [s].

    `error` is the code of why it cannot be run, "" where it can.
    """

    struck: tuple[Struck, ...]
    freezes: str
    freezes_s: float | None
    error: str

    @property
    def does(self) -> bool:
        """Whether it does what the brief asks there, with nothing frozen after a night."""
        return not self.struck and not self.freezes and not self.error


@dataclass(frozen=True, slots=True)
class Extremes:
    """A way of heating at the edges; `lost_w` is the heat it loses as it stands by [W]."""

    little: Extreme
    frost: Extreme
    foot: Foot
    lost_w: float


def extremes_of(outcome: Outcome, brief: Brief, run: Run) -> Extremes:
    """Try a way of heating at the edges.

    Parameters
    ----------
    outcome : Outcome
        Of it in its sizes. [-]
    brief : Brief
        Of the vehicle. [-]
    run : callable
        Runs it with another brief. [-]

    Returns
    -------
    Extremes
        Every draw at 2 L/min, all twelve months at −5 °C, a foot in place of the pump. [SI]
    """
    little = tuple(
        draw.model_copy(update={"flow_m3_per_s": LITTLE_M3_PER_S}) for draw in brief.draws
    )
    cold = {"air_c": (FROST_C,) * 12, "coldest_c": None, "warmest_c": None}
    balance = outcome.timeline.balance
    return Extremes(
        _extreme(run(brief.model_copy(update={"draws": little})), frost=False),
        _extreme(run(brief.model_copy(update=cold)), frost=True),
        foot_pump(outcome.system),
        (balance.store_loss_j + balance.pipe_loss_j + balance.body_loss_j) / 86400.0,
    )


def _extreme(found: Outcome | CoreError, *, frost: bool) -> Extreme:
    if isinstance(found, CoreError):
        return Extreme((), "", None, found.code)
    first = next(iter(freezes(found.setup, found.timeline)), None) if frost else None
    ices = first is not None and first.to_zero_s <= NIGHT_S
    return Extreme(
        struck_by(found), first.label if first is not None and ices else "",
        first.to_zero_s if first is not None and ices else None, "",
    )  # fmt: skip


def foot_pump(system: System) -> Foot:
    """Say whether a foot pump would do: not where a flame or cell lights by flow.

    Parameters
    ----------
    system : System
        A design. [-]

    Returns
    -------
    Foot
        NO_PUMP where nothing is pumped. [-]
    """
    if not any(part.kind in PUMPS for part in system.parts):
        return Foot.NO_PUMP
    if any(isinstance(part, heat.ThroughFlow) for part in system.parts):
        return Foot.LIGHTS
    return Foot.YES
