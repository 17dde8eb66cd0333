"""What tube and fittings weigh: by their section, and by their size."""

from __future__ import annotations

from collections.abc import Sequence
from math import pi
from typing import Final

from isotherma.core.ends import End, size_mm
from isotherma.core.joints.piping import RunJoints
from isotherma.core.joints.resolver import Adapter
from isotherma.core.system import System
from isotherma.core.system.runs import FuelPipe, Pipe
from isotherma.core.system.tubes import tube

# of the wall [kg/m³]
DENSITY: Final = {
    "semi-rigid plastic": 940.0, "inch plastic": 940.0, "copper": 8900.0, "multilayer": 1300.0,
    "soft hose": 1250.0, "corrugated steel": 7900.0, "waste pipe": 950.0,
    "steel": 7850.0, "hose": 1250.0,
}  # fmt: skip
# grams by the square of the greater size in mm: fittings on a kitchen scale; judgement
METAL_G_PER_MM2, PLASTIC_G_PER_MM2 = 0.12, 0.09
ELBOW_SHARE: Final = 1.3
THREAD_OVER_MM: Final = 8.0  # a half-inch thread is 21 mm outside
DEFAULT_WALL_M: Final = {"copper": 0.8e-3, "steel": 1.0e-3, "hose": 3.5e-3}


def tube_kg_per_m(run: Pipe | FuelPipe) -> float | None:
    """Give what a metre of a run's tube weighs, empty.

    Parameters
    ----------
    run : Pipe or FuelPipe
        Any. [-]

    Returns
    -------
    float or None
        None where its tube is not known. [kg/m]

    References
    ----------
    Section of the wall times the density of its material.
    """
    if isinstance(run, FuelPipe):
        if run.outside_m is None:
            return None
        wall = DEFAULT_WALL_M[run.way] if run.wall_m is None else run.wall_m
        return DENSITY[run.way] * pi * wall * (run.outside_m - wall)
    if run.family is None or run.nominal is None:
        return None
    sold = tube(run.family, run.nominal)
    if sold is None:
        return None
    wall, bore = sold.wall.likely, sold.bore.likely
    return DENSITY[run.family] * pi * wall * (bore + wall)


def fitting_kg(*sizes_mm: float, plastic: bool) -> float:
    """Give what a fitting weighs, by the greater of its sizes.

    Parameters
    ----------
    sizes_mm : float
        Outsides of what it joins. [mm]
    plastic : bool
        Else brass. [-]

    Returns
    -------
    float
        About. [kg]

    References
    ----------
    Judgement: a brass half-inch nipple weighs about 50 g, a plastic 15 mm coupling 20 g.

    Examples
    --------
    >>> round(fitting_kg(21.0, plastic=False), 3)
    0.053
    """
    share = PLASTIC_G_PER_MM2 if plastic else METAL_G_PER_MM2
    return share * max(sizes_mm) ** 2 * 1e-3


def adapter_kg(item: Adapter) -> float:
    """Give what an adapter weighs, by its ends.

    Parameters
    ----------
    item : Adapter
        Any of our tables. [-]

    Returns
    -------
    float
        About. [kg]
    """
    soft = any(end.word in ("push-in", "stem") or end.material == "plastic"
               for end in (item.a, item.b))  # fmt: skip
    return fitting_kg(_over_mm(item.a), _over_mm(item.b), plastic=soft)


def _over_mm(end: End) -> float:
    threaded = end.word in ("male", "female", "nut")
    if not threaded:
        return max(end.outside_mm, 1.0)
    if end.size.startswith("M"):
        return float(end.size[1:].partition("x")[0])
    return size_mm(end.size) + THREAD_OVER_MM


def elbow_kg(run: Pipe) -> float | None:
    """Give what an elbow or joiner on a run weighs.

    Parameters
    ----------
    run : Pipe
        Whose. [-]

    Returns
    -------
    float or None
        None where its size is not known. [kg]
    """
    if run.nominal is None:
        return None
    soft = run.joint == "push-in" or run.family in ("waste pipe", "soft hose")
    return ELBOW_SHARE * fitting_kg(size_mm(run.nominal), plastic=soft)


def laid_kg(system: System, runs: Sequence[RunJoints]) -> float:
    """Give what pipes and their fittings weigh together, empty; of what is known.

    Parameters
    ----------
    system : System
        The design. [-]
    runs : sequence of RunJoints
        Its runs, resolved. [-]

    Returns
    -------
    float
        Clips, clamps and seals are not in it. [kg]
    """
    pipes = {run.id: run for run in system.runs if isinstance(run, Pipe | FuelPipe)}
    total = 0.0
    for joined in runs:
        run = pipes.get(joined.run_id)
        if run is None:
            continue
        each, length = tube_kg_per_m(run), run.laid_m
        total += 0.0 if each is None or length is None else each * length
        for end in joined.ends:
            links = () if end.chain is None else end.chain.links
            total += sum(adapter_kg(link.adapter) for link in links)
        if isinstance(run, Pipe):
            fitting = elbow_kg(run)
            count = run.counted("elbows") + run.joiners
            total += 0.0 if fitting is None else count * fitting
    return total
