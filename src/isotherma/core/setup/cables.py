"""Copper: what it bears, the way from a load to its source, the size that would do."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from isotherma.core.supply.wires import PASSES, source_volts
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.system.runs import COPPER_OHM_M, Cable

# one copper conductor in air of 30 °C, sheath of 70 °C: ISO 10133, table A.1 [m² → A]
BEARS: Final[tuple[tuple[float, float], ...]] = tuple((area * 1e-6, amps) for area, amps in (
    (0.75, 10.0), (1.0, 14.0), (1.5, 18.0), (2.5, 25.0), (4.0, 35.0), (6.0, 45.0), (10.0, 65.0),
    (16.0, 90.0), (25.0, 120.0), (35.0, 160.0), (50.0, 210.0), (70.0, 265.0), (95.0, 310.0),
))  # fmt: skip
_MAINS_SHARE: Final = 0.8  # of it in a mains cable; ours
MAINS_OVER_V: Final = 60.0
LOST_AT_MOST: Final = 0.03  # of the volts: what boats and vans are wired for
_LEAST_A: Final = 3.0  # thinner than the table; ours


def cable_bears_a(area_m2: float, *, mains: bool) -> float:
    """Current a copper cable bears.

    Parameters
    ----------
    area_m2 : float
        Of one conductor, > 0. [m²]
    mains : bool
        Whether it is a mains cable. [-]

    Returns
    -------
    float
        Of the next size of the table that is no larger; 3 A for thinner ones. [A]

    References
    ----------
    ISO 10133:2012, table A.1, 30 °C around it, sheath of 70 °C; mains × 0.8: ours.

    Examples
    --------
    >>> cable_bears_a(6e-6, mains=False), cable_bears_a(0.5e-6, mains=False)
    (45.0, 3.0)
    """
    bears = max((amps for area, amps in BEARS if area <= area_m2 * 1.001), default=_LEAST_A)
    return bears * _MAINS_SHARE if mains else bears


def way_to(known: ComputedSystem, at: Mapping[str, str], part_id: str) -> tuple[str, ...]:
    """Find the cables between a load and its source, the load's own first.

    Parameters
    ----------
    known : ComputedSystem
        With what was understood of its parts. [-]
    at : mapping of str to str
        How switchable parts stand. [-]
    part_id : str
        A load. [-]

    Returns
    -------
    tuple of str
        Ids of runs; the fewest there are; empty where no source is reached. [-]
    """
    parts = {part.id: part for part in known.parts}
    near: dict[str, list[tuple[str, str]]] = {}
    for run in known.runs:
        if isinstance(run, Cable):
            near.setdefault(run.start.part, []).append((run.id, run.end.part))
            near.setdefault(run.end.part, []).append((run.id, run.start.part))
    ways: dict[str, tuple[str, ...]] = {part_id: ()}
    waiting = [part_id]
    while waiting:
        here = waiting.pop(0)
        for run_id, other in near.get(here, ()):
            part = parts.get(other)
            if other in ways or part is None:
                continue
            ways[other] = (*ways[here], run_id)
            stands = at.get(other)
            if source_volts(part, known) is not None and stands not in ("off", "unplugged"):
                return ways[other]
            if isinstance(part, PASSES) and stands != "off":
                waiting.append(other)
    return ()


def offered_areas(
    known: ComputedSystem, way: Sequence[str], *, drop_share: float, source_v: float,
    amps: Mapping[str, float], fuse_a: float, share: float = LOST_AT_MOST,
) -> Mapping[str, float]:  # fmt: skip
    """Find the thinnest cable with which a load loses no more than so much, and fuses protect it.

    Parameters
    ----------
    known : ComputedSystem
        With what was understood of its parts. [-]
    way : sequence of str
        Runs between the load and its source. [-]
    drop_share : float
        What of the volts is lost now. [-]
    source_v : float
        Volts at the source. [V]
    amps : mapping of str to float
        What each run carries. [A]
    fuse_a : float
        The largest fuse on the way; 0 without one. [A]
    share : float
        Of the volts, on the whole way, at most. [-]

    Returns
    -------
    mapping of str to float
        New copper area by run: one size for all thinner cables; empty where nothing need be
        thicker, nobody knows them, or no size is enough. [m²]

    References
    ----------
    Ohm's law with the amps as they are now; sizes of ISO 10133.
    """
    runs = [run for run in known.runs if isinstance(run, Cable) and run.id in way]
    now = {run.id: run.area_m2 for run in runs if run.area_m2 is not None}
    mains = source_v > MAINS_OVER_V
    if not runs or len(now) < len(runs):
        return {}
    weak = any(cable_bears_a(area, mains=mains) < fuse_a for area in now.values())
    if drop_share <= share and not weak:
        return {}
    for size, _ in BEARS:
        thicker = {key: max(size, area) for key, area in now.items()}
        lost = sum(
            amps.get(run.id, 0.0)
            * (
                COPPER_OHM_M * 2.0 * figure(run, "length_m") / thicker[run.id]
                + figure(run, "contacts_ohm")
            )
            for run in runs
        )
        holds = all(cable_bears_a(area, mains=mains) >= fuse_a for area in thicker.values())
        if holds and lost <= share * source_v:
            return {key: area for key, area in thicker.items() if area > now[key]}
    return {}
