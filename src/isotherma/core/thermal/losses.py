"""What tanks and stores lose to the air, by shape and insulation, and how many layers they take."""

from __future__ import annotations

from math import pi, sqrt
from typing import Final

TANK_W_PER_M2_K: Final = 6.0  # a bare plastic tank in still air; judgement


def tank_loss_w_per_k(volume_m3: float) -> float:
    """Give what a bare plastic tank loses: the faces of a cube of its volume in still air.

    Parameters
    ----------
    volume_m3 : float
        Of the tank, > 0. [m³]

    Returns
    -------
    float
        Loss. [W/K]

    References
    ----------
    Judgement: 6 W/m²K.

    Examples
    --------
    >>> round(tank_loss_w_per_k(0.125), 2)
    9.0
    """
    return float(TANK_W_PER_M2_K * 6.0 * volume_m3 ** (2 / 3))


def cylinder_loss_w_per_k(
    *,
    volume_m3: float,
    height_m: float,
    insulation_m: float,
    insulation_w_per_m_k: float,
    film_w_per_m2_k: float,
    fittings_share: float,
) -> tuple[float, float]:
    """Standing loss of an upright cylinder in insulation.

    Parameters
    ----------
    volume_m3 : float
        Water volume, > 0. [m³]
    height_m : float
        Inside height, > 0. [m]
    insulation_m : float
        Thickness of the insulation, >= 0. [m]
    insulation_w_per_m_k : float
        Its conductivity, > 0. [W/mK]
    film_w_per_m2_k : float
        Convection and radiation at its surface, > 0. [W/m²K]
    fittings_share : float
        What pipes and straps through the insulation add. [-]

    Returns
    -------
    tuple of float
        Loss of the side, and of one end. [W/K]

    References
    ----------
    Two resistances t/k and 1/h on the mid-plane area of the insulation.

    Examples
    --------
    >>> side, end = cylinder_loss_w_per_k(
    ...     volume_m3=pi / 4 * 0.2**2 * 0.3,
    ...     height_m=0.3,
    ...     insulation_m=0.0,
    ...     insulation_w_per_m_k=0.04,
    ...     film_w_per_m2_k=10.0,
    ...     fittings_share=0.0,
    ... )
    >>> abs(side / (10.0 * pi * 0.2 * 0.3) - 1) < 1e-9
    True
    """
    diameter_m = sqrt(4 * volume_m3 / (pi * height_m))
    u = (1 + fittings_share) / (insulation_m / insulation_w_per_m_k + 1 / film_w_per_m2_k)
    middle_m = diameter_m + insulation_m
    return (
        u * pi * middle_m * (height_m + insulation_m),
        u * pi * middle_m**2 / 4,
    )


def box_loss_w_per_k(
    *,
    length_m: float,
    width_m: float,
    height_m: float,
    insulation_m: float,
    insulation_w_per_m_k: float,
    film_w_per_m2_k: float,
) -> float:
    """Standing loss of a box in insulation board, all six faces.

    Parameters
    ----------
    length_m, width_m, height_m : float
        Of the box inside the insulation, > 0. [m]
    insulation_m : float
        Thickness of the board, >= 0. [m]
    insulation_w_per_m_k : float
        Its conductivity, > 0. [W/mK]
    film_w_per_m2_k : float
        Convection and radiation at its surface, > 0. [W/m²K]

    Returns
    -------
    float
        Loss. [W/K]

    References
    ----------
    Two resistances t/k and 1/h on the mid-plane area of the insulation.

    Examples
    --------
    >>> bare = box_loss_w_per_k(
    ...     length_m=1.0,
    ...     width_m=1.0,
    ...     height_m=1.0,
    ...     insulation_m=0.0,
    ...     insulation_w_per_m_k=0.04,
    ...     film_w_per_m2_k=10.0,
    ... )
    >>> round(bare, 6)
    60.0
    """
    a, b, c = (side + insulation_m for side in (length_m, width_m, height_m))
    area_m2 = 2 * (a * b + b * c + a * c)
    return area_m2 / (insulation_m / insulation_w_per_m_k + 1 / film_w_per_m2_k)


def as_wide_as_tall_m(volume_m3: float) -> float:
    """Height of an upright cylinder that is as wide as it is tall.

    Parameters
    ----------
    volume_m3 : float
        Inside, > 0. [m³]

    Returns
    -------
    float
        Height, which is the diameter too. [m]

    References
    ----------
    Geometry of a cylinder.

    Examples
    --------
    >>> round(as_wide_as_tall_m(pi / 4 * 0.3**3), 6)
    0.3
    """
    return float((4 * volume_m3 / pi) ** (1 / 3))


def default_layers(*, volume_m3: float, height_m: float) -> int:
    """Choose how many layers a store keeps apart.

    Parameters
    ----------
    volume_m3, height_m : float
        Water volume and inside height, > 0. [m³, m]

    Returns
    -------
    int
        1 below two litres, where everything mixes; else eight per height equal to
        the diameter, 4 to 12. [-]

    References
    ----------
    Judgement: layers thin enough for the mixing of a draw to be that of the inlet.

    Examples
    --------
    >>> default_layers(volume_m3=0.001, height_m=0.1)
    1
    >>> default_layers(volume_m3=0.01, height_m=as_wide_as_tall_m(0.01))
    8
    """
    if volume_m3 < 0.002:
        return 1
    diameter_m = sqrt(4 * volume_m3 / (pi * height_m))
    return min(12, max(4, round(8 * height_m / diameter_m)))
