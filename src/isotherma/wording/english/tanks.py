"""Gauges in litres, joined tanks, strokes of pumps and hot air in sentences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import inf
from typing import Final

from isotherma.core.flows.gauges import Doubt, GaugeTable, Reading
from isotherma.core.flows.levelling import Levelling
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.setup.level_switches import Stuck
from isotherma.core.supply.hot_air import HotAir
from isotherma.core.supply.strokes import Strokes
from isotherma.wording.english.flows import flow_words

READS_C: Final = 60.0  # for example
METERED_M3: Final = 0.01


def reading_words(table: GaugeTable, row: Reading, units: UnitSystem) -> tuple[str, str, str]:
    """Say what a gauge shows, what is in the tank then, and what the needle alone would say."""
    if table.is_tube:
        shows = with_unit(row.height_m, "bore", units, 3)
    elif table.steps is not None:
        shows = f"{round(row.shows * table.steps)} of {table.steps}"
    else:
        shows = with_unit(row.shows, "share", units)
    least, most = (with_unit(one, "volume", units, 2) for one in (row.least_m3, row.most_m3))
    litres = least if least == most else f"{least} to {most}"
    return shows, litres, with_unit(row.needle_m3, "volume", units, 2)


def gauge_sentence(table: GaugeTable, units: UnitSystem) -> str:
    """Say what a tank holds and what of it nobody can draw, or what to measure of it."""
    if table.lacking:
        return (
            f"{table.label}: measure the inside of {table.tank_label}, length, width and height, "
            "and its readings stand here in litres."
        )
    assert table.holds_m3 is not None
    words = f"{table.tank_label} holds {with_unit(table.holds_m3, 'volume', units, 2)} to the lid"
    if table.unused_m3 > 0.0:
        unused = with_unit(table.unused_m3, "volume", units, 2)
        words += f"; the last {unused} lie under its outlet"
    return f"{words}."


def joined_sentences(
    pair: Levelling, labels: Mapping[str, str], units: UnitSystem
) -> tuple[str, ...]:
    """Say how two joined tanks level out, fill and follow each other."""
    both = f"{pair.first} and {pair.second}"
    if pair.unmeasured:
        return (f"{both} are joined: not computed without what {pair.unmeasured} measures.",)
    if pair.shut:
        return (f"{both} stand apart: {labels[pair.shut]} is shut.",)
    said = []
    if pair.level_s is not None and pair.level_s < inf:
        said.append(
            f"With {pair.first} full and {pair.second} empty they are level after "
            f"{duration_words(pair.level_s)}."
        )
    else:
        said.append(f"{both} do not level out in hours: the pipe is too thin, or lies too high.")
    hose = flow_words(pair.hose_m3_per_s, units)
    if pair.full_s is not None and pair.over_s is not None:
        if pair.full_s == inf:
            said.append(f"Filled through {pair.first} at {hose}, {pair.second} does not get full.")
        elif pair.over_s < pair.full_s:
            said.append(
                f"Filled through {pair.first} at {hose} it runs over after "
                f"{duration_words(pair.over_s)}; both are full after "
                f"{duration_words(pair.full_s)}: fill slower towards the end."
            )
        else:
            said.append(
                f"Filled through {pair.first} at {hose} both are full after "
                f"{duration_words(pair.full_s)}, and nothing runs over."
            )
    drawn = flow_words(pair.drawn_m3_per_s, units)
    if pair.dry_s is None:
        said.append(f"At {drawn} drawn from {pair.first}, {pair.second} follows to the end.")
    else:
        said.append(
            f"At {drawn} drawn from {pair.first} it is empty after {duration_words(pair.dry_s)}, "
            f"with water left in {pair.second}: wait, or take a wider pipe."
        )
    return tuple(said)


def stroke_sentence(found: Strokes, labels: Mapping[str, str], units: UnitSystem) -> str:
    """Say what the strokes of a pump do to a heater that needs flow."""
    pump, heater = labels[found.pump], labels[found.heater]
    needs = flow_words(found.needs_m3_per_s, units)
    if found.stays_lit:
        return (
            f"{labels[found.smoothed_by]} carries the flow over between strokes of {pump}: "
            f"{heater}, which needs {needs}, stays lit."
        )
    if found.smoothed_by:
        mean = flow_words(found.mean_m3_per_s, units)
        return f"{pump} gives {mean} on average; {heater} needs {needs} and does not light."
    peak = flow_words(found.peak_m3_per_s, units)
    lights = "lights and goes out" if found.ever_lights else "does not light"
    return (
        f"{pump} gives {peak} for {duration_words(found.pressed_s)} of each stroke and nothing "
        f"between: {heater}, which needs {needs} for {duration_words(found.needs_s)}, {lights} at "
        "every stroke. An accumulator of two strokes between them would carry it over."
    )


def doubt_sentence(doubt: Doubt, units: UnitSystem) -> str:
    """Say how wrong a thermometer or a flow meter may be."""
    at = f" in {doubt.host}" if doubt.host else ""
    if doubt.error_k is not None:
        high = (
            ""
            if doubt.at_share is None
            else f", at {with_unit(doubt.at_share, 'share', units)} of its height"
        )
        low, top = (
            with_unit(READS_C + way * doubt.error_k, "temperature", units, 3) for way in (-1, 1)
        )
        shown = with_unit(READS_C, "temperature", units, 3)
        return f"{doubt.label}{at}{high}: {shown} may be {low} to {top}."
    assert doubt.error_share is not None
    low, top = (
        with_unit(METERED_M3 * (1.0 + way * doubt.error_share), "volume", units, 3)
        for way in (-1, 1)
    )
    return f"{doubt.label}: {with_unit(METERED_M3, 'volume', units, 3)} may be {low} to {top}."


_STUCK: Final[Mapping[Stuck, str]] = {
    Stuck.OVERFLOWS: "{} stays open and the box runs over: lead its overflow outside",
    Stuck.NEVER_FILLS: "{} stays shut and nothing is filled",
    Stuck.HEATS_DRY: "{} may heat without water: it wants a cut-out of its own",
    Stuck.NEVER_HEATS: "{} does not heat any more",
}


def stuck_sentences(
    found: Sequence[tuple[str, Stuck, str]], labels: Mapping[str, str]
) -> tuple[str, ...]:
    """Say what becomes of level switches that stay as they fail."""
    return tuple(
        f"If {labels[switch]} sticks: {_STUCK[what].format(labels[part])}."
        for switch, what, part in found
    )


def hot_air_words(
    air: HotAir, dries_kg_per_s: float, spaces: Mapping[str, str], units: UnitSystem
) -> tuple[str, str, str, str, str, str]:
    """Give a row on hot air: where it arrives, its share, heat and way, and what it dries."""
    where = air.label or "an open end"
    space = spaces.get(air.space or "")
    if space:
        where += f", {space}"
    return (
        where, with_unit(air.share, "share", units), with_unit(air.air_c, "temperature", units, 2),
        with_unit(air.heat_w, "heat_power", units, 2), with_unit(air.duct_m, "length", units, 2),
        with_unit(dries_kg_per_s, "mass_flow", units, 2),
    )  # fmt: skip
