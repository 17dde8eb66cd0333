"""Leaks, waste, filling and drain-down in sentences."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.findings import Finding
from isotherma.core.flows.draining import DrainDown, HeldWater, Why
from isotherma.core.flows.leak import PumpStarts
from isotherma.core.flows.waste import FLAT_M_PER_M, TankEmpties, TankFills, TrayDrains, Waste
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.wording.english.flows import flow_words, pressure_words
from isotherma.wording.reader import Reader

WHY: Final[Mapping[Why, str]] = {
    Why.NO_WAY_OUT: "it has no way out",
    Why.NO_AIR: "no air can follow the water",
    Why.LOWER: "it lies lower than the way out",
    Why.LEVEL: "it lies level",
    Why.END_LOW: "its end lies a little low",
}


def waste_words(finding: Finding, labels: Mapping[str, str], units: UnitSystem) -> str:
    """Say in a clause what is lacking, or what was taken instead."""
    reader = Reader(labels, units)
    name = reader.name(finding.part_id)
    match finding.code:
        case "sides_unknown":
            return "its length, breadth, rim"
        case "length_unknown":
            return f"the length of {name}"
        case "bore_unknown":
            return f"the inside diameter of {name}"
        case "depth_assumed":
            return (
                f"a tank {reader.value(finding, 'depth_m')} deep, since its inside height is "
                "unknown"
            )
        case "hose_hung_on":
            return (
                f"a hose of {reader.value(finding, 'length_m')} of the same bore hung on, its end "
                f"{reader.value(finding, 'below_m')} below"
            )
        case "through_its_lid":
            return "filled through its lid, since no filler is joined"
        case "vent_shares_overflow":
            return "vent and overflow are one hose: once water runs over, no air gets out"
        case "vent_open":
            return f"its vent: {reader.value(finding, 'bore_m')}, open, since none is drawn"
    assert finding.code == "no_vent", finding.code
    return "no vent"


def pump_start_sentences(starts: PumpStarts, units: UnitSystem) -> tuple[str, ...]:
    """Say what starts of a pump with everything shut tell of a leak.

    Parameters
    ----------
    starts : PumpStarts
        The pump with everything shut. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    tuple of str
        Whole sentences. [-]
    """
    kept = starts.kept
    low, likely, high = (
        with_unit(v, "millilitres", units, 2) for v in (kept.low, kept.likely, kept.high)
    )
    high_pa, low_pa = (pressure_words(v, units) for v in (starts.cut_out_pa, starts.cut_in_pa))
    said = [
        f"Between {high_pa} and {low_pa} "
        f"{starts.label} can lose about {likely} ({low} to {high}) before it starts again."
    ]
    if starts.accumulators:
        said.append(
            "If it does not start for hours, nothing leaks that matters. Check the "
            "pre-charge of the accumulator with the pressure off: one that lost its air starts as "
            "if water leaked."
        )
    else:
        said.append(
            "Without an accumulator only the give of the tubes holds that water: starts tell that "
            "something leaks, and hardly how much. One bubble of air more halves them."
        )
    if starts.shrinks_m3_per_k > 0.0:
        per_ten = with_unit(10.0 * starts.shrinks_m3_per_k, "millilitres", units, 2)
        ten = with_unit(10.0, "difference", units)
        said.append(
            f"Hot water that cools by {ten} shrinks by about {per_ten} here and makes the pump "
            "start without any leak: test cold, or take it off."
        )
    said.append(
        "A leak before the pump, or past a check valve that holds, shows in no start; neither does "
        "one that only opens while water runs."
    )
    return tuple(said)


def tray_sentences(
    tray: TrayDrains, comes_m3_per_s: float, labels: Mapping[str, str], units: UnitSystem
) -> tuple[str, ...]:
    """Say how a tray drains.

    Parameters
    ----------
    tray : TrayDrains
        As computed. [-]
    comes_m3_per_s : float
        What the outlets above it let fall. [m³/s]
    labels : mapping of str to str
        Names of parts by id. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    tuple of str
        Whole sentences. [-]
    """
    said = []
    if tray.blocked:
        said.append(f"{tray.label} does not drain: its way ends at {labels[tray.blocked]}.")
    elif tray.rate_m3_per_s is None:
        lacking = ", ".join(waste_words(item, labels, units) for item in tray.lacking)
        said.append(f"{tray.label}: not computed without {lacking}.")
    elif tray.rate_m3_per_s <= 0.0:
        said.append(
            f"{tray.label} does not drain: its pipe rises by "
            f"{with_unit(-tray.fall_m, 'length', units)} on the way to {labels[tray.ends_in]}."
        )
    else:
        said.append(_drains(tray, comes_m3_per_s, labels, units))
    stands = tray.stands
    if stands is not None and stands.standing_m3 > 5e-5:
        share = f"; {1 - stands.to_drain:.0%} of its floor runs over the rim instead" if (
            stands.to_drain < 0.995) else ""  # fmt: skip
        said.append(
            f"As the vehicle stands about {with_unit(stands.standing_m3, 'volume', units, 2)} stay "
            f"in it, {with_unit(stands.deepest_m, 'bore', units, 2)} deep at most{share}."
        )
    for run in tray.runs:
        if run.keeps_m3 is None:
            said.append(f"{run.label} rises: what stands in it is not known.")
        elif run.keeps_m3 > 0.0:
            said.append(
                f"{run.label} rises: {with_unit(run.keeps_m3, 'volume', units, 2)} stand in it for "
                "good, to smell and to freeze."
            )
        elif run.length_m and run.fall_m / run.length_m < FLAT_M_PER_M:
            said.append(f"{run.label} has hardly any fall: hair and soap stay in it.")
    said += _trap_words(tray, labels, units)
    if tray.unvented and tray.drains:
        said.append(
            f"No vent is drawn at {labels[tray.ends_in]}: without one air must come back up the "
            "pipe, and about a third of this flow is left."
        )
    if tray.unplaced_m > 0.005:
        said.append(
            "Which way its pipes run is not said: by the lean of the vehicle they may gain or lose "
            f"{with_unit(tray.unplaced_m, 'bore', units, 2)} of fall. Give the places of the parts."
        )
    return tuple(said)


def _trap_words(tray: TrayDrains, labels: Mapping[str, str], units: UnitSystem) -> list[str]:
    """Say what the traps of a tray want."""
    said = []
    if tray.hair_trap and tray.clogged_m3_per_s is not None:
        said.append(
            f"{labels[tray.hair_trap]} full of hair leaves "
            f"{flow_words(tray.clogged_m3_per_s, units)}: empty it every "
            f"{tray.showers} showers."
        )
    if tray.rise_needed_m:
        said.append(
            f"{labels[tray.trapped_by]} does not fit under it: raise {tray.label} by "
            f"{with_unit(tray.rise_needed_m, 'bore', units, 2)} more, or take a lower trap."
        )
    if tray.seal_m3 > 0.0:
        said.append(
            f"{labels[tray.trapped_by]} holds {with_unit(tray.seal_m3, 'millilitres', units, 2)} "
            "as its seal; it dries out, and freezes, when nobody is there."
        )
    return said


def _drains(tray: TrayDrains, comes: float, labels: Mapping[str, str], units: UnitSystem) -> str:
    assert tray.rate_m3_per_s is not None
    rate = flow_words(tray.rate_m3_per_s, units)
    start = f"{tray.label} drains to {labels[tray.ends_in]} at up to {rate}"
    if comes <= 0.0:
        return f"{start}."
    if comes <= tray.rate_m3_per_s:
        return f"{start}, more than the {flow_words(comes, units)} that come."
    held = tray.stands.holds_m3 if tray.stands is not None else None
    if held is None:
        return f"{start}, less than the {flow_words(comes, units)} that come: it fills."
    seconds = held / (comes - tray.rate_m3_per_s)
    return (
        f"{start}, less than the {flow_words(comes, units)} that come: it spills after about "
        f"{duration_words(seconds)}."
    )


def empties_sentence(tank: TankEmpties, labels: Mapping[str, str], units: UnitSystem) -> str:
    """Say how long a grey tank takes to empty.

    Parameters
    ----------
    tank : TankEmpties
        As computed. [-]
    labels : mapping of str to str
        Names of parts by id. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        One sentence or two. [-]
    """
    if tank.volume_m3 is None:
        return f"{tank.label}: not computed without its litres."
    if tank.unmeasured:
        return f"{tank.label}: not computed without the length and bore of {tank.unmeasured}."
    if not tank.by:
        return f"{tank.label} has no outlet joined: it is carried, or pumped out from above."
    gate = f"With {labels[tank.blocked]} open " if tank.blocked else ""
    if tank.seconds is None:
        why = "its outlet ends above its floor" if tank.by == "height" else "it is lifted too high"
        return f"{gate}{tank.label} does not run empty: {why}."
    by = "by its own height" if tank.by == "height" else f"through {labels[tank.by]}"
    words = f"{gate}{tank.label}, full, empties {by} in about {duration_words(tank.seconds)}."
    if tank.free_until_m3 is not None:
        free = with_unit(tank.free_until_m3, "volume", units, 2)
        words += f" From {free} on its water stands at the inlet and comes back up the drain."
    taken = "; ".join(waste_words(item, labels, units) for item in tank.assumed)
    return words + (f" Taken: {taken}." if taken else "")


def fills_sentence(tank: TankFills, labels: Mapping[str, str], units: UnitSystem) -> str:
    """Say how long a fresh tank takes to fill.

    Parameters
    ----------
    tank : TankFills
        As computed. [-]
    labels : mapping of str to str
        Names of parts by id. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        One sentence or two. [-]
    """
    if tank.volume_m3 is None:
        return f"{tank.label}: not computed without its litres."
    if tank.unmeasured:
        return f"{tank.label}: not computed without the length and bore of {tank.unmeasured}."
    if tank.seconds is None:
        return (
            f"{tank.label} cannot be filled by height: its filler lies no higher than the tank. "
            "Raise the filling point."
        )
    words = (
        f"{tank.label} is full after about {duration_words(tank.seconds)} with a hose of "
        f"{flow_words(tank.hose_m3_per_s, units)}"
    )
    if tank.backs_up and tank.takes_m3_per_s is not None:
        words += (
            f", turned down: filler and vent take only {flow_words(tank.takes_m3_per_s, units)}"
        )
        words += ", the rest comes back out of the filler"
    words += "."
    taken = "; ".join(waste_words(item, labels, units) for item in tank.assumed)
    return words + (f" Taken: {taken}." if taken else "")


def waste_sentences(
    waste: Waste, coming: Mapping[str, float], labels: Mapping[str, str], units: UnitSystem
) -> tuple[str, ...]:
    """Say how everything drains and fills.

    Parameters
    ----------
    waste : Waste
        As computed. [-]
    coming : mapping of str to float
        Flow of outlets that are open, by part id. [m³/s]
    labels : mapping of str to str
        Names of parts by id. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    tuple of str
        Whole sentences. [-]
    """
    said: list[str] = []
    for tray in waste.trays:
        comes = sum(coming.get(key, 0.0) for key in waste.falls_to.get(tray.id, ()))
        said += tray_sentences(tray, comes, labels, units)
    said += [empties_sentence(tank, labels, units) for tank in waste.empties]
    said += [fills_sentence(tank, labels, units) for tank in waste.fills]
    return tuple(said)


def trapped_sentence(kept: HeldWater, labels: Mapping[str, str], units: UnitSystem) -> str:
    """Say what stays in one run or part, and how to get it out.

    Parameters
    ----------
    kept : HeldWater
        As computed. [-]
    labels : mapping of str to str
        Names of parts by id. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        One sentence. [-]
    """
    style = "volume" if kept.stays_m3 >= 1e-3 else "millilitres"
    assert kept.why is not None  # what keeps water has a reason
    words = f"{kept.label} keeps {with_unit(kept.stays_m3, style, units, 2)}: {WHY[kept.why]}"
    if kept.in_the_way:
        words += f"; {labels[kept.in_the_way]} is in the way"
    return f"{words}."


def drain_sentence(down: DrainDown, labels: Mapping[str, str], units: UnitSystem) -> str:
    """Say in one sentence what a drain-down leaves.

    Parameters
    ----------
    down : DrainDown
        As computed. [-]
    labels : mapping of str to str
        Names of parts and runs by id. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        The sentence, and what nobody can know yet. [-]
    """
    unknown = ", ".join(labels[key] for key in down.unknown)
    lacking = f" What {unknown} holds is not known: it is in no sum." if unknown else ""
    return _stays(down, units) + lacking


def _stays(down: DrainDown, units: UnitSystem) -> str:
    holds = with_unit(down.holds_m3, "volume", units, 2)
    if down.holds_m3 <= 0.0:
        return "Nothing holds water in this state."
    if down.stays_m3 < 1e-5:
        return f"Of {holds} in pipes and heaters nothing stays."
    stays = with_unit(down.stays_m3, "volume", units, 2)
    return f"Of {holds} in pipes and heaters {stays} stay behind."
