"""Limits of one rule set, and tables that are the same in each."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final

KILOGRAMS_OF_VENT: Final = 3.2  # of gas, for each 1290 mm²; NFPA 1192, unsure
# copper, single, 30 °C air, 70 °C sheath (ISO 10133) [mm²], [A]
_AREAS_MM2: Final = (0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0)
_BEARS_A: Final = (10.0, 14.0, 18.0, 25.0, 35.0, 45.0, 65.0, 90.0, 120.0, 160.0, 210.0, 265.0, 310.0)  # fmt: skip  # noqa: E501
# gauge and the largest fuse on it (NEC 551 to 10, NEC 310 at 60 °C beyond) [-], [A]
_GAUGES: Final = {18: 6.0, 16: 8.0, 14: 15.0, 12: 20.0, 10: 30.0, 8: 40.0, 6: 55.0, 4: 70.0,
                  2: 95.0, 0: 125.0, -1: 145.0}  # fmt: skip
THIN_A: Final = 3.0  # thinner than any table; ours
ENGINE_BAY: Final = 0.75
MAINS: Final = 0.8  # ours
FUSES_A: Final = (1.0, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 80.0,
                  100.0, 125.0, 150.0, 200.0, 250.0, 300.0)  # fmt: skip
# living space: floor up to [m²], low and high vent [m²]; EN 721
_LIVING: Final = ((5.0, 1e-3, 7.5e-3), (10.0, 1.5e-3, 1e-2), (15.0, 2e-3, 1.25e-2),
                  (20.0, 3e-3, 1.5e-2), (1e9, 5e-3, 2e-2))  # fmt: skip
OTHER_LOW_M2: Final = 1e-3  # any other space with a gas joint; ours


@dataclass(frozen=True, slots=True)
class Limit:
    """One limit and the standard it comes from, as known to us."""

    value: Any
    source: str


@dataclass(frozen=True, slots=True)
class Rules:
    """A rule set by its name."""

    name: str
    title: str
    limits: Mapping[str, Limit]

    def number(self, name: str) -> float:
        """Give a limit that is a figure [SI]."""
        return float(self.limits[name].value)

    def word(self, name: str) -> str:
        """Give a limit that is a way of counting, or a severity."""
        return str(self.limits[name].value)

    def plates(self) -> tuple[tuple[float, float, float], ...]:
        """Give what plates of gas permit: plate, from, to [Pa]."""
        return tuple((plate, low, high) for plate, low, high in self.limits["gas_plates"].value)

    def pair(self, name: str) -> tuple[float, float]:
        """Give a limit of two figures [SI]."""
        low, high = self.limits[name].value
        return float(low), float(high)

    def source(self, name: str) -> str:
        """Name the standard of a limit; "ours" where it is our own figure."""
        return self.limits[name].source


def bears_a(*, area_m2: float | None, gauge: int | None) -> float | None:
    """Give the amps a copper cable bears; None where nobody knows its copper.

    Parameters
    ----------
    area_m2 : float or None
        Copper area. [m²]
    gauge : int or None
        American gauge; wins where it is said, for its table is of fuses. [-]

    Returns
    -------
    float or None
        Of the next thinner size that is in a table; 3 A below any. [A]

    References
    ----------
    ISO 10133; NEC 551 and 310, as known to us.
    """
    if gauge is not None:
        thinner = [size for size in _GAUGES if size >= gauge]
        return _GAUGES[min(thinner)] if thinner else THIN_A
    if area_m2 is None:
        return None
    place = bisect_right(_AREAS_MM2, area_m2 * 1e6 * (1.0 + 1e-9))
    return _BEARS_A[place - 1] if place else THIN_A


def thinnest_m2(amps: float) -> float | None:
    """Give the thinnest copper that bears so many amps; None beyond the table.

    Parameters
    ----------
    amps : float
        To be borne. [A]

    Returns
    -------
    float or None
        A size of the table. [m²]

    References
    ----------
    ISO 10133, as known to us.
    """
    found = (area for area, bears in zip(_AREAS_MM2, _BEARS_A, strict=True) if bears >= amps)
    area = next(found, None)
    return None if area is None else area * 1e-6


def copper_from(area_m2: float) -> float:
    """Give the copper as sold next above an area, the thickest beyond the table.

    Parameters
    ----------
    area_m2 : float
        Wanted. [m²]

    Returns
    -------
    float
        A size of the table. [m²]

    References
    ----------
    ISO 10133, as known to us.
    """
    wanted = area_m2 * 1e6 * (1 - 1e-9)
    return next((size for size in _AREAS_MM2 if size >= wanted), _AREAS_MM2[-1]) * 1e-6


def fuse_for(amps: float, *, at_most: bool = False) -> float | None:
    """Give the standard fuse next to a current: above it, or the largest at most of it.

    Parameters
    ----------
    amps : float
        The current. [A]
    at_most : bool
        The largest that is not over it. [-]

    Returns
    -------
    float or None
        None where there is none. [A]

    References
    ----------
    Standard ratings of blade and strip fuses.
    """
    if at_most:
        return next((size for size in reversed(FUSES_A) if size <= amps), None)
    return next((size for size in FUSES_A if size >= amps), None)


def living_vents_m2(floor_m2: float) -> tuple[float, float]:
    """Give the free vents a lived-in space with gas needs: low, high.

    Parameters
    ----------
    floor_m2 : float
        Its floor. [m²]

    Returns
    -------
    tuple of float
        Low and high. [m²]

    References
    ----------
    EN 721, as known to us.
    """
    return next((low, high) for upto, low, high in _LIVING if floor_m2 <= upto)


def bottle_vents_m2(
    way: str, *, floor_m2: float | None, gas_kg: float | None, high: bool
) -> tuple[float, float] | None:
    """Give the free vents a space with bottles needs: low, high; None where it cannot be known.

    Parameters
    ----------
    way : str
        "floor", "kilograms" or "fixed". [-]
    floor_m2 : float or None
        Its floor. [m²]
    gas_kg : float or None
        Of all bottles in it. [kg]
    high : bool
        Whether it has a high vent too. [-]

    Returns
    -------
    tuple of float or None
        Low and high. [m²]

    References
    ----------
    EN 1949; NFPA 1192; ours.
    """
    if way == "fixed":
        return 1e-2, 0.0
    if way == "kilograms":
        if gas_kg is None:
            return None
        half = 0.5 * 1.29e-3 * gas_kg / KILOGRAMS_OF_VENT
        return half, half
    if floor_m2 is None:
        return None
    if high:
        return max(0.01 * floor_m2, 5e-3), max(0.01 * floor_m2, 5e-3)
    return max(0.02 * floor_m2, 1e-2), 0.0
