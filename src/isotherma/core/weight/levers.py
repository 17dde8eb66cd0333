"""What a mass puts on each axle, by the law of the lever."""

from __future__ import annotations

from isotherma.core.errors import CannotBe


def on_axles(*, mass_kg: float, behind_front_m: float, wheelbase_m: float) -> tuple[float, float]:
    """Give what a mass adds to the front and to the rear axle.

    Parameters
    ----------
    mass_kg : float
        What is carried. [kg]
    behind_front_m : float
        How far it stands behind the front axle; more than the wheelbase: behind the rear one. [m]
    wheelbase_m : float
        Between the axles, > 0. [m]

    Returns
    -------
    tuple of float
        Front and rear; below 0 where it lifts an axle. [kg]

    Raises
    ------
    CannotBe
        Without a wheelbase.

    References
    ----------
    Statics: moments about the front axle.

    Examples
    --------
    >>> on_axles(mass_kg=100.0, behind_front_m=3.0, wheelbase_m=4.0)
    (25.0, 75.0)
    >>> on_axles(mass_kg=100.0, behind_front_m=5.0, wheelbase_m=4.0)
    (-25.0, 125.0)
    """
    if wheelbase_m <= 0.0:
        raise CannotBe(reason="no_wheelbase")
    rear = mass_kg * behind_front_m / wheelbase_m
    return mass_kg - rear, rear
