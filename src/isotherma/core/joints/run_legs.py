"""Legs as a document has them, from and to how they are written."""

from __future__ import annotations

from typing import Final

from isotherma.core.joints.leg_text import Written
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.system.runs import Leg

MM: Final = 1000.0


def legs_from(written: Written) -> tuple[Leg, ...]:
    """Give legs as a document has them.

    Parameters
    ----------
    written : Written
        As read. [mm, °]

    Returns
    -------
    tuple of Leg
        The last one without a turn. [m, °]
    """
    ends = [*zip(written.turns_deg, written.by, strict=True), (0.0, "formed")]
    return tuple(
        Leg.model_validate({"length_m": leg / MM, "turn_deg": turn, "by": by})
        for leg, (turn, by) in zip(written.legs_mm, ends, strict=True)
    )


def legs_text(legs: tuple[Leg, ...], units: UnitSystem = UnitSystem.METRIC) -> str:
    """Write legs as they are read.

    Parameters
    ----------
    legs : tuple of Leg
        Of a run. [m, °]
    units : UnitSystem
        Of the lengths. [-]

    Returns
    -------
    str
        "" of none. [-]
    """
    pieces = []
    for place, leg in enumerate(legs):
        pieces.append(with_unit(leg.length_m, "bore", units, 5).replace("\u00a0", " "))
        if place < len(legs) - 1:
            pieces.append(f"{leg.turn_deg:g}" + (" elbow" if leg.by == "elbow" else ""))
    return "; ".join(pieces)
