"""What ends and tubes bear: pressure by temperature, nothing above the last point."""

from __future__ import annotations

from typing import Final

from isotherma.core.ends import End

BAR_PA: Final = 1e5
# bar at °C, straight between, nothing above the last
SEMI_RIGID: Final = ((20.0, 12.0), (65.0, 6.0), (82.0, 3.0))
INCH_PLASTIC: Final = ((23.0, 11.0), (82.0, 6.9), (93.0, 5.5))
METAL: Final = ((30.0, 16.0), (65.0, 10.0), (110.0, 6.0))
MULTILAYER: Final = ((95.0, 10.0),)
HOSE: Final = ((20.0, 10.0), (60.0, 2.5))
COOLANT_HOSE: Final = ((110.0, 2.0),)
WASTE: Final = ((60.0, 0.1),)
Points = tuple[tuple[float, float], ...]


def points_of(end: End, *, coolant: bool = False) -> Points:
    """Give what the fitting or tube of an end bears.

    Parameters
    ----------
    end : End
        Any. [-]
    coolant : bool
        Whether a hose is made for coolant, SAE J20. [-]

    Returns
    -------
    tuple of tuple of float
        Temperature and pressure. [°C, bar]

    References
    ----------
    ISO 15875 class and ASTM F876 by points, EN 1254-2, ISO 21003; hoses and waste are judgement.
    """
    if end.of_waste:
        return WASTE
    if end.word in ("barb", "hose"):
        return COOLANT_HOSE if coolant else HOSE
    if end.word in ("tube", "crimp"):
        by_family = {"plastic": SEMI_RIGID, "inch plastic": INCH_PLASTIC, "multilayer": MULTILAYER}
        return by_family.get(end.family, METAL)
    if end.word == "push-in":
        return INCH_PLASTIC if end.basis == "nominal" else SEMI_RIGID
    if end.word == "stem" or end.family == "click":
        return SEMI_RIGID
    return METAL


def bears_to_c(end: End, *, coolant: bool = False) -> float:
    """Give the hottest an end bears at all.

    Parameters
    ----------
    end : End
        Any. [-]
    coolant : bool
        Whether a hose is made for coolant, SAE J20. [-]

    Returns
    -------
    float
        Of its last point. [°C]
    """
    return points_of(end, coolant=coolant)[-1][0]


def bears_pa(end: End, celsius: float, *, coolant: bool = False) -> float:
    """Give the pressure an end bears at a temperature.

    Parameters
    ----------
    end : End
        Any. [-]
    celsius : float
        Of what is in it. [°C]
    coolant : bool
        Whether a hose is made for coolant, SAE J20. [-]

    Returns
    -------
    float
        0 above its last point. [Pa]

    References
    ----------
    Straight between the points of `points_of`.
    """
    points = points_of(end, coolant=coolant)
    if celsius > points[-1][0]:
        return 0.0
    before = points[0]
    for point in points:
        if celsius <= point[0]:
            if point is points[0]:
                return point[1] * BAR_PA
            share = (celsius - before[0]) / (point[0] - before[0])
            return (before[1] + share * (point[1] - before[1])) * BAR_PA
        before = point
    return points[-1][1] * BAR_PA
