"""Cables: the way from a load to its source, and the size that would do."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from isotherma.core.graph import beside, ways
from isotherma.core.supply.copper import BEARS, LOST_AT_MOST, cable_bears_a
from isotherma.core.supply.feeds import LOW_VOLTS
from isotherma.core.supply.wires import PASSES, source_volts
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.system.runs import COPPER_OHM_M, Cable


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
    near = beside(
        (run.id, run.start.part, run.end.part) for run in known.runs if isinstance(run, Cable)
    )

    def onwards(key: str) -> list[tuple[str, str]]:
        passes = isinstance(parts.get(key), PASSES) and at.get(key) != "off"
        return near.get(key, []) if passes or key == part_id else []

    found = ways([part_id], onwards)
    return next(
        (way for key, way in found.items()
         if key in parts and key != part_id and source_volts(parts[key], known) is not None
         and at.get(key) not in ("off", "unplugged")), ()
    )  # fmt: skip


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
    mains = source_v > LOW_VOLTS
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
