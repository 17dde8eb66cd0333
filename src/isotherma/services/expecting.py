"""What the engine expects of the stages of a plan."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from itertools import combinations, product
from typing import TYPE_CHECKING, Any

import numpy as np

from isotherma.core.building.expectations import Band3, Computed
from isotherma.core.building.sections import Section
from isotherma.core.building.stages import TRAY_M3
from isotherma.core.errors import CoreError
from isotherma.core.hydraulics.cushion import gas_m3, rested_pa
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.kinds import use
from isotherma.core.system.nominal import computed
from isotherma.core.system.states import State

if TYPE_CHECKING:
    from isotherma.core.faults.evidence import Evidence
    from isotherma.core.faults.player import Player
    from isotherma.core.flows.gauges import GaugeTable
    from isotherma.core.flows.network_compiler import CompiledNetwork
    from isotherma.core.system.kinds.water import Pump

L_PER_MIN = 1e-3 / 60.0
Players = Callable[["Project", "Variant", "State | None", "Evidence"], "Player"]
GAS_SHARES, WARMER_K = (0.5, 1.0, 1.5), (-1.0, 0.0, 1.0)
TENTHS, METERED = 10, 0.03


def expected(
    project: Project, variant: Variant, state: State | None, players: Players | None,
    sections: Sequence[Section],
) -> Computed:  # fmt: skip
    """Ask the engine for what stages expect; what it cannot say is left out.

    Parameters
    ----------
    project, variant : Project, Variant
        The design. [SI]
    state : State or None
        How it stands. [-]
    players : callable or None
        Gives what solves a design, where such are kept. [-]
    sections : sequence of Section
        Of its water. [m³]

    Returns
    -------
    Computed
        Nothing of it where no network can be laid. [SI]
    """
    from isotherma.core.faults.evidence import Evidence
    from isotherma.core.faults.player import Asked
    from isotherma.core.flows.leak import pump_starts
    from isotherma.core.flows.pulse import switch_pumps
    from isotherma.services.diagnosing import player_of

    system = variant.system
    try:
        player = (players or player_of)(project, variant, state, Evidence())
    except CoreError:
        return Computed()
    network = player.made.healthy.network

    def read(kind: str, part: str, scale: float) -> Band3 | None:
        found = player.expected((), Asked(kind, part))
        if found is None or found.likely is None:
            return None
        return found.low * scale, found.likely * scale, found.high * scale

    def all_of(kind: str, parts: Iterable[str], scale: float = 1.0) -> dict[str, Band3]:
        rows = {part: read(kind, part, scale) for part in parts}
        return {part: row for part, row in rows.items() if row is not None and row[1] > 0.0}

    outlets = [part.id for part in system.parts
               if isinstance(part, use.Outlet) and part.id in network.ends]  # fmt: skip
    amps, heats = _elements(player, system)
    pumps = dict(switch_pumps(network))
    cut_out = {key: pump.cut_out_pa for key, pump in pumps.items() if pump.cut_out_pa is not None}
    return Computed(
        flows=all_of("flow", outlets, L_PER_MIN), run_on_s=all_of("run_on", pumps),
        cut_out_pa=cut_out,
        kept_m3={one.pump: (one.kept.low, one.kept.likely, one.kept.high)
                 for one in pump_starts(system, network)},
        amps=amps, heats_s=heats,
        warmth=all_of("temp", outlets), wait_s=all_of("wait", outlets),
        behind={mixer: tuple(key for key in outlets if player.carries(mixer, key))
                for mixer in network.mixers},
        pairs={pair: both for pair in _pairs(project, player.outlets)
               if (both := _both(player, pair)) is not None},
        levels=_levels(variant, project),
        **_lying(project, variant, state, network),
        rests_pa=_rests(network, sections, pumps),
    )  # fmt: skip


def _elements(player: Player, system: System) -> tuple[dict[str, Band3], dict[str, Band3]]:
    """Give the amps of each element, and the time it takes alone from cold to its setting."""
    from isotherma.core.faults.player import Asked
    from isotherma.core.faults.plays import Edit

    amps, heats = {}, {}
    elements = [part for part in system.parts if part.kind == "element" and part.fitted_in]
    for part in elements:
        off = tuple(Edit(f"parts.{other.id}.at", "off") for other in system.parts
                    if other.id != part.id
                    and other.kind in ("element", "burner", "circulation_pump", "liquid_heater")
                    and "off" in other.positions)  # fmt: skip
        # for the test what feeds it is on, whatever the day is seen in
        on = player.switched_on([part.id])
        took = player.expected((*off, *on), Asked("amps", part.id))
        if took is not None and took.likely:
            amps[part.id] = (took.low, took.likely, took.high)
        took = player.expected((*off, *on), Asked("heat_up", part.fitted_in))
        if took is not None and took.likely is not None:
            heats[part.id] = (took.low * 60.0, took.likely * 60.0, took.high * 60.0)
    return amps, heats


def _pairs(project: Project, outlets: Sequence[str]) -> Iterator[tuple[str, str]]:
    """Give outlets that run at once on a day of the brief."""
    seen = set()
    for one, other in combinations(project.brief.draws, 2):
        ends = [draw.start_s + draw.duration_s for draw in (one, other)]
        if max(one.start_s, other.start_s) >= min(ends):
            continue
        at = [draw.outlet if draw.outlet is not None else next(iter(outlets), "")
              for draw in (one, other)]  # fmt: skip
        pair = (min(at), max(at))
        if pair[0] != pair[1] and set(pair) <= set(outlets) and pair not in seen:
            seen.add(pair)
            yield pair


def _both(player: Player, pair: tuple[str, str]) -> Mapping[str, Band3] | None:
    """Solve two outlets that are open at once; their bands are those each has alone."""
    from isotherma.core.flows.bands import read_outlet
    from isotherma.core.flows.pulse import operate

    try:
        point = operate(player.made.healthy.network, dict.fromkeys(pair, 1.0))
    except CoreError:
        return None
    found = {}
    for key in pair:
        flow, _ = read_outlet(point, key)
        band = player.band(key)
        if band is None or band.flow[1] <= 0.0:
            return None
        found[key] = (flow * band.flow[0] / band.flow[1], flow, flow * band.flow[2] / band.flow[1])
    return found


def _lying(
    project: Project, variant: Variant, state: State | None, network: CompiledNetwork
) -> dict[str, Any]:
    """Say what hangs on how things lie: air, drains, trays, how tanks fill."""
    from isotherma.core.flows.draining import drain_down, leaning_m
    from isotherma.core.flows.waste import waste_of

    vehicle = project.vehicle
    high = leaning_m(network, vehicle)
    said = any(abs(run.rise_m) > 0.0 for run in network.runs.values()) or len(set(high)) > 1
    found: dict[str, Any] = {
        "heights": {port: high[node] for port, node in network.node.items()}, "heights_said": said,
    }  # fmt: skip
    waste = waste_of(variant.system, state, vehicle)
    found["fills_s"] = {one.id: one.seconds for one in waste.fills if one.seconds is not None}
    trays = {}
    for tray in waste.trays:
        seconds = TRAY_M3 / tray.rate_m3_per_s if tray.rate_m3_per_s else None
        trays[tray.id] = (seconds, None if tray.stands is None else tray.stands.deepest_m)
    found["trays"] = trays
    drained = drain_down(network, vehicle)
    if any(one.is_drain for one in drained.openings):
        found["drains"] = tuple(one.id for one in drained.openings)
        found["stays_m3"] = drained.stays_m3
        if not drained.unknown:
            found["drained_m3"] = {one.id: one.volume_m3 for one in drained.openings
                                   if one.is_drain and one.volume_m3 > 0.0}  # fmt: skip
    return found


def _levels(variant: Variant, project: Project) -> dict[str, tuple[Band3, ...]]:
    """Give what each gauge shows at every tenth of its tank: litres, low and high percent."""
    from isotherma.core.flows.gauges import gauge_tables

    found = {}
    for table in gauge_tables(computed(variant.system), project.vehicle):
        if not table.rows or table.holds_m3 is None:
            continue
        held = [table.holds_m3 * tenth / TENTHS for tenth in range(TENTHS + 1)]
        shows = [100.0 * row.shows for row in table.rows]
        if table.steps:  # it shows one step until the next is reached
            found[table.id] = tuple(
                (one, _step(table, one * (1.0 - METERED)), _step(table, one * (1.0 + METERED)))
                for one in held
            )
            continue
        least = [row.least_m3 for row in table.rows]
        most = [row.most_m3 for row in table.rows]
        found[table.id] = tuple(
            (one, float(np.interp(one, most, shows)), float(np.interp(one, least, shows)))
            for one in held
        )
    return found


def _step(table: GaugeTable, held_m3: float) -> float:
    """Give the step a sender shows with so much in its tank [%]."""
    return 100.0 * max((row.shows for row in table.rows if row.least_m3 <= held_m3), default=0.0)


def _rests(
    network: CompiledNetwork, sections: Sequence[Section], pumps: Mapping[str, Pump]
) -> dict[str, Band3]:
    """Give the pressure a tight system keeps for half an hour; only where its air is known."""
    from isotherma.core.flows.pulse import accumulators_of

    behind = [one.litres_m3 for one in sections if one.opened is not None and not one.primary]
    if None in behind:
        return {}
    water = sum(one for one in behind if one is not None)
    at_c = network.conditions.fresh_c
    found = {}
    for key, pump in pumps.items():
        cushions = accumulators_of(network, key).values()
        if not cushions or pump.cut_out_pa is None:
            continue
        gas = sum(gas_m3(pump.cut_out_pa, volume, charge) for volume, charge in cushions)
        rests = [
            rested_pa(pump.cut_out_pa, gas_m3=share * gas, water_m3=water, from_c=at_c,
                      to_c=at_c + warmer)
            for share, warmer in product(GAS_SHARES, WARMER_K)
        ]  # fmt: skip
        known = [one for one in rests if one is not None]
        if known:
            found[key] = (min(known), pump.cut_out_pa, max(known))
    return found
