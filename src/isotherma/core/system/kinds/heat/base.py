"""What parts that make or keep heat have in common: fuels, boards, words of caution."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from isotherma.core.system.pieces import (
    PartBase,
)

Fuel = Literal["propane", "butane", "diesel", "petrol"]


Board = Literal["rigid foam", "polystyrene", "rubber foam", "wool", "cork", "vacuum panel"]


# conductivity low, likely, high [W/mK] of boards as sold: EN ISO 10456 table and makers' ranges
BOARDS: Mapping[Board, tuple[float, float, float]] = {
    "rigid foam": (0.022, 0.024, 0.028),
    "polystyrene": (0.030, 0.035, 0.040),
    "rubber foam": (0.034, 0.038, 0.042),
    "wool": (0.033, 0.038, 0.045),
    "cork": (0.038, 0.042, 0.050),
    "vacuum panel": (0.005, 0.007, 0.012),
}


ELECTRIC_CAUTION = (
    "Mains wiring, its earth, residual-current protection and isolator are work for a licensed "
    "electrician; check the current local rules."
)


GAS_CAUTION = (
    "Gas pipe, flue and first fire are work for a licensed gas fitter. Fit a carbon monoxide "
    "alarm. Never run it without water."
)


DIESEL_CAUTION = (
    "Exhaust, its lagging and first fire are work for the trade. Fit a carbon monoxide alarm; "
    "never cut its supply before its after-run, and never run it without water unless its maker "
    "allows it."
)


COOLANT_CAUTION = (
    "Coolant is under pressure and scalds when hot: open it cold, and never join it to drinking "
    "water."
)


class HeatPart(PartBase):
    """A part that makes, keeps or passes heat."""

    side = "heat"
