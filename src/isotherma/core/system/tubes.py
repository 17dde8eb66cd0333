"""Tube by family and nominal size: what it measures, since nobody reads a bore off a box.

Outside diameter and wall of common classes; a row a reader can check with a caliper.
Metric semi-rigid plastic: EN ISO 15876 class dimensions; copper: EN 1057 and ASTM B88
type L; inch plastic: ASTM F876, SDR 9; multilayer: EN ISO 21003; hose: by its bore, with
a reinforced wall of about a quarter of it; corrugated steel: EN ISO 10380 by DN.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import pi
from typing import Final, Literal

from isotherma.core.system.pieces import Band, about, certain

Family = Literal[
    "semi-rigid plastic",
    "inch plastic",
    "copper",
    "multilayer",
    "soft hose",
    "corrugated steel",
    "waste pipe",
]
Material = Literal["plastic", "copper", "hose"]
Nominal = Literal[
    "6 mm", "8 mm", "10 mm", "12 mm", "13 mm", "15 mm", "16 mm", "18 mm", "19 mm", "20 mm",
    "22 mm", "25 mm", "28 mm", "32 mm", "40 mm",
    "1/4 in", "3/8 in", "1/2 in", "5/8 in", "3/4 in", "1 in", "1 1/4 in", "1 1/2 in",
]  # fmt: skip

INCH: Final = 0.0254
MM: Final = 1e-3

# outside diameter and wall of each nominal size [mm]
_SIZES: Final[Mapping[Family, Mapping[Nominal, tuple[float, float]]]] = {
    "semi-rigid plastic": {
        "10 mm": (10.0, 1.5), "12 mm": (12.0, 1.5), "15 mm": (15.0, 1.65), "16 mm": (16.0, 1.8),
        "18 mm": (18.0, 2.0), "20 mm": (20.0, 1.9), "22 mm": (22.0, 2.0), "28 mm": (28.0, 2.6),
        "1/2 in": (15.0, 1.65),
    },
    "inch plastic": {
        "3/8 in": (12.7, 1.78), "1/2 in": (15.88, 1.78), "5/8 in": (19.05, 2.12),
        "3/4 in": (22.22, 2.47), "1 in": (28.58, 3.18),
    },
    "copper": {
        "6 mm": (6.0, 0.6), "8 mm": (8.0, 0.6), "10 mm": (10.0, 0.6), "12 mm": (12.0, 0.6),
        "15 mm": (15.0, 0.7), "18 mm": (18.0, 0.8), "22 mm": (22.0, 0.9), "28 mm": (28.0, 0.9),
        "1/4 in": (9.53, 0.76), "3/8 in": (12.7, 0.89), "1/2 in": (15.88, 1.02),
        "3/4 in": (22.22, 1.14), "1 in": (28.58, 1.27),
    },
    "multilayer": {
        "16 mm": (16.0, 2.0), "20 mm": (20.0, 2.0), "25 mm": (25.0, 2.5), "32 mm": (32.0, 3.0),
    },
    "soft hose": {
        "8 mm": (12.0, 2.0), "10 mm": (15.0, 2.5), "12 mm": (17.0, 2.5), "13 mm": (18.6, 2.8),
        "16 mm": (22.0, 3.0), "19 mm": (26.0, 3.5), "25 mm": (33.0, 4.0), "32 mm": (40.0, 4.0),
        "40 mm": (48.0, 4.0),
        "1/4 in": (10.75, 2.2), "3/8 in": (14.5, 2.5), "1/2 in": (18.3, 2.8),
        "5/8 in": (22.0, 3.1), "3/4 in": (26.0, 3.5), "1 in": (33.4, 4.0),
        "1 1/4 in": (39.8, 4.0), "1 1/2 in": (46.1, 4.0),
    },
    "corrugated steel": {
        "12 mm": (16.5, 0.3), "16 mm": (21.0, 0.3), "20 mm": (26.0, 0.3), "25 mm": (32.0, 0.3),
    },
    "waste pipe": {
        "20 mm": (20.0, 1.5), "25 mm": (25.0, 1.6), "28 mm": (28.0, 1.6), "32 mm": (32.0, 1.8),
        "40 mm": (40.0, 1.9), "1 1/4 in": (36.0, 2.0), "1 1/2 in": (43.0, 2.0),
    },
}  # fmt: skip

_MATERIAL: Final[Mapping[Family, Material]] = {
    "semi-rigid plastic": "plastic",
    "inch plastic": "plastic",
    "copper": "copper",
    "multilayer": "plastic",
    "soft hose": "hose",
    "corrugated steel": "copper",
    "waste pipe": "plastic",
}
# a corrugated bore is that of its crests less twice the depth of a wave [mm]
_WAVE_MM: Final = 2.2

# sum of loss coefficients of one fitting on the run's bore: Idelchik, and makers' tables of
# push-fit elbows, whose square inside corner and insert cost more than a bend
FITTINGS: Final[Mapping[str, tuple[float, float, float]]] = {
    "elbows": (0.9, 1.5, 2.5),
    "formed_bends": (0.15, 0.3, 0.5),
    "joiners": (0.1, 0.3, 0.8),
    "tails": (0.3, 0.6, 1.2),
}


@dataclass(frozen=True, slots=True)
class Tube:
    """What a family and nominal size measure."""

    bore: Band
    wall: Band
    material: Material


def material_of(family: Family) -> Material:
    """Give the material class that decides heat in the wall.

    Parameters
    ----------
    family : str
        A family of tube. [-]

    Returns
    -------
    str
        "plastic", "copper" (any metal) or "hose". [-]

    Examples
    --------
    >>> material_of("copper")
    'copper'
    """
    return _MATERIAL[family]


def next_smaller(family: Family, nominal: Nominal) -> Nominal | None:
    """Give the next smaller size a family is sold in, of the same measure.

    Parameters
    ----------
    family : str
        A family of tube. [-]
    nominal : str
        A size of it. [-]

    Returns
    -------
    str or None
        By bore; None for the smallest. [-]

    Examples
    --------
    >>> next_smaller("semi-rigid plastic", "15 mm")
    '12 mm'
    """
    inches = nominal.endswith("in")
    sizes = _SIZES[family]
    now_mm = sizes[nominal][0] - 2 * sizes[nominal][1]
    smaller = [
        (outside - 2 * wall, size) for size, (outside, wall) in sizes.items()
        if size.endswith("in") == inches and outside - 2 * wall < now_mm
    ]  # fmt: skip
    return max(smaller)[1] if smaller else None


def sizes_of(family: Family) -> tuple[Nominal, ...]:
    """List the nominal sizes a family is sold in.

    Parameters
    ----------
    family : str
        A family of tube. [-]

    Returns
    -------
    tuple of str
        Names of sizes. [-]
    """
    return tuple(_SIZES[family])


def tube(family: Family, nominal: Nominal) -> Tube | None:
    """Look a tube up.

    Parameters
    ----------
    family, nominal : str
        As printed on the tube. [-]

    Returns
    -------
    Tube or None
        Bore and wall; None where the family has no such size. [m]
    """
    row = _SIZES[family].get(nominal)
    if row is None:
        return None
    outside, wall = row[0] * MM, row[1] * MM
    words = f"{family}, {nominal}: {row[0]:g} mm outside, {row[1]:g} mm wall"
    if family == "corrugated steel":
        bore = about(outside - 2 * _WAVE_MM * MM, 0.03, f"{family}, {nominal}: between its waves")
    elif family == "soft hose":
        bore = about(outside - 2 * wall, 0.03, f"{words}; hose is named by its bore")
    else:
        bore = about(outside - 2 * wall, 0.01, words)
    return Tube(bore, certain(wall, words), _MATERIAL[family])


def gauge_area_m2(gauge: int) -> float:
    """Copper area of a wire gauge.

    Parameters
    ----------
    gauge : int
        American wire gauge, −3 (0000) to 40. [-]

    Returns
    -------
    float
        Area of the conductor. [m²]

    References
    ----------
    ASTM B258: d = 0.127 mm · 92^((36 − n)/39).

    Examples
    --------
    >>> round(gauge_area_m2(10) * 1e6, 2)
    5.26
    """
    diameter_m: float = 0.127e-3 * 92 ** ((36 - gauge) / 39)
    return pi / 4 * diameter_m**2
