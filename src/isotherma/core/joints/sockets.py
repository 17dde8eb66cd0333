"""How deep a tube goes into a fitting, how far the centre lies behind the mouth, least bends."""

from __future__ import annotations

from typing import Final

from isotherma.core.ends import size_mm
from isotherma.core.joints.clips import sold_outside_m
from isotherma.core.system.runs import FuelPipe, Pipe

MM: Final = 1000.0
METRIC: Final = ("10 mm", "12 mm", "15 mm", "22 mm", "28 mm")
NOMINAL: Final = ("3/8 in", "1/2 in", "3/4 in")
# insertion, and from the centre of an elbow or tee to its mouth [mm]; judgement, print wins
INSERTION_MM: Final = {
    "push-in": {**dict(zip(METRIC, (21.0, 23.0, 25.0, 28.0, 32.0), strict=True)),
                **dict(zip(NOMINAL, (22.0, 24.0, 27.0), strict=True))},
    "compression": dict(zip(METRIC, (13.0, 14.0, 16.0, 20.0, 23.0), strict=True)),
    "solder": dict(zip(METRIC, (7.8, 8.6, 10.6, 15.4, 18.4), strict=True)),
}  # fmt: skip
CENTRE_MM: Final = {
    "push-in": {**dict(zip(METRIC, (29.0, 33.0, 38.0, 48.0, 58.0), strict=True)),
                **dict(zip(NOMINAL, (34.0, 38.0, 46.0), strict=True))},
    "compression": dict(zip(METRIC, (24.0, 26.0, 29.0, 36.0, 42.0), strict=True)),
}  # fmt: skip
BARB_TO_MM, THIN_BARB_MM, THICK_BARB_MM = 13.0, 22.0, 28.0
# centre line over outside: by former or with a support; hose and corrugated over their bore
LEAST_BEND: Final = {
    "semi-rigid plastic": 6.0, "inch plastic": 5.0, "copper": 3.5, "multilayer": 4.0,
    "soft hose": 6.0, "corrugated steel": 2.0,
}  # fmt: skip
# what a metre grows by a kelvin [1/K]
GROWS: Final = {
    "semi-rigid plastic": 0.15e-3, "inch plastic": 0.16e-3, "copper": 0.017e-3,
    "multilayer": 0.025e-3, "corrugated steel": 0.017e-3,
}  # fmt: skip


def insertion_mm(word: str, run: Pipe | FuelPipe) -> float | None:
    """Give how deep a run's tube goes into what takes it.

    Parameters
    ----------
    word : str
        "push-in", "compression", "solder", "barb" or another. [-]
    run : Pipe or FuelPipe
        Whose tube. [-]

    Returns
    -------
    float or None
        None where no table says: what is printed decides. [mm]

    References
    ----------
    Judgement, of fittings as sold.
    """
    if not isinstance(run, Pipe) or run.nominal is None:
        return None
    if word == "barb":
        return THIN_BARB_MM if size_mm(run.nominal) <= BARB_TO_MM else THICK_BARB_MM
    return INSERTION_MM.get(word, {}).get(run.nominal)


def centre_mm(word: str, run: Pipe | FuelPipe) -> float | None:
    """Give how far the centre of an elbow or tee lies behind the mouth a run goes into.

    Parameters
    ----------
    word : str
        "push-in" or "compression". [-]
    run : Pipe or FuelPipe
        Whose tube. [-]

    Returns
    -------
    float or None
        None where no table says. [mm]

    References
    ----------
    Judgement, of fittings as sold.
    """
    if not isinstance(run, Pipe) or run.nominal is None:
        return None
    return CENTRE_MM.get(word, {}).get(run.nominal)


def outside_mm(run: Pipe | FuelPipe) -> float | None:
    """Give the outside of a run's tube.

    Parameters
    ----------
    run : Pipe or FuelPipe
        Any. [-]

    Returns
    -------
    float or None
        As sold, else from what was measured. [mm]
    """
    if isinstance(run, FuelPipe):
        return None if run.outside_m is None else run.outside_m * MM
    sold = sold_outside_m(run)
    if sold is not None:
        return sold * MM
    if run.bore_m is None or run.wall_m is None:
        return None
    return (run.bore_m + 2.0 * run.wall_m) * MM


def least_radius_mm(run: Pipe | FuelPipe) -> float | None:
    """Give the tightest a run's tube may be bent, with a former or a support within.

    Parameters
    ----------
    run : Pipe or FuelPipe
        Any. [-]

    Returns
    -------
    float or None
        Of the middle line; None where its tube is not known or is not bent. [mm]

    References
    ----------
    Judgement: copper 3.5, plastic 6 and 5, multilayer 4 times the outside; hose 6 times the bore.
    """
    if isinstance(run, FuelPipe):
        over = outside_mm(run)
        return None if run.way != "copper" or over is None else LEAST_BEND["copper"] * over
    if run.family is None:
        return None
    share = LEAST_BEND.get(run.family)
    if share is None:
        return None
    if run.family in ("soft hose", "corrugated steel"):
        return None if run.nominal is None else share * size_mm(run.nominal)
    over = outside_mm(run)
    return None if over is None else share * over


def growth_mm(run: Pipe | FuelPipe, length_mm: float, rise_k: float) -> float:
    """Give what a tube grows when it gets hot.

    Parameters
    ----------
    run : Pipe or FuelPipe
        Any. [-]
    length_mm : float
        Of the piece. [mm]
    rise_k : float
        Over the day it was cut. [K]

    Returns
    -------
    float
        0 of what gives way, a hose. [mm]

    References
    ----------
    α L ΔT.
    """
    if not isinstance(run, Pipe) or run.family is None:
        return 0.0
    return GROWS.get(run.family, 0.0) * length_mm * rise_k
