"""Draws as they ended, and what of them is kept: data, without the network they ran in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.brief import Draw
from isotherma.core.engine.columns import (
    AIR_C,
    ASIDE_J,
    B_KIND,
    B_WATTS,
    COUNT,
    FIRST,
    HELD,
    LAYER_J,
    LAYER_KG,
    LAYERED,
    PLAIN_BODY,
    PLATE,
    POOL_OUT,
    S_AT,
    S_HYSTERESIS,
    S_SENSOR,
    S_SET,
    S_VESSEL,
    S_WATTS,
    SPECIFIC,
    STILL_KG_PER_S,
    STIRRED,
    ThermalState,
)  # fmt: skip
from isotherma.core.engine.thermal_elements import Named
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import Point
from isotherma.core.flows.report import profile, standing_m3
from isotherma.core.system.kinds import heat
from isotherma.core.system.kinds.water import Pump, Submersible
from isotherma.core.timeline.record import DrawRecord, Filled, Heater, InventoryKind, Source, Vessel

_HOT: Final = frozenset({LAYERED, STIRRED, HELD, PLATE, POOL_OUT})


@dataclass(frozen=True, slots=True)
class Shut:
    """One draw as it ended, with the flows it began with; see `DrawRecord`."""

    index: int
    draw: Draw
    outlet: str
    opened_s: float
    warm_s: float | None
    hot_s: float | None
    closed_s: float
    flow_m3_per_s: float
    point: Point
    out: frozenset[InventoryKind]
    stopped: frozenset[str]
    round_m3: float | None
    empty: str
    took_kg: Mapping[str, float]
    returned_kg: float = 0.0


def recorded(shut: Shut, named: Named) -> DrawRecord:
    """Keep of a draw what results are computed from.

    Parameters
    ----------
    shut : Shut
        As it ended. [-]
    named : Named
        The thermal elements of its network. [-]

    Returns
    -------
    DrawRecord
        Data alone. [-]
    """
    solved = shut.point.solved
    network = solved.network
    way = profile(solved, shut.outlet) if shut.outlet in network.ends else ()
    hot = {
        network.links[index].item for index, act in enumerate(named.thermal.act) if int(act) in _HOT
    }
    return DrawRecord(
        draw=shut.draw, outlet=shut.outlet, opened_s=shut.opened_s, warm_s=shut.warm_s,
        closed_s=shut.closed_s, dry=bool(shut.empty), flow_m3_per_s=shut.flow_m3_per_s,
        index=shut.index, opening=solved.opens.get(shut.outlet, 1.0), way=way,
        standing_m3=standing_m3(network, way, hot),
        pulsing=any(how.cycle is not None for how in shut.point.running),
        pumping=frozenset(
            key for key, link in network.pumps.items()
            if abs(solved.mass[link]) > STILL_KG_PER_S
        ),
        off=frozenset(
            key for key, part in network.parts.items()
            if isinstance(part, Pump | Submersible) and network.at.get(key) == "off"
        ),
        through_m3_per_s={
            key: max(abs(float(solved.flow_m3_per_s[link])) for link in links)
            for key, links in network.part_links.items()
            if links and isinstance(network.parts.get(key), heat.ThroughFlow)
        },
        out=shut.out, stopped=shut.stopped, round_m3=shut.round_m3, empty=shut.empty,
        took_kg=shut.took_kg, hot_s=shut.hot_s, returned_kg=shut.returned_kg,
    )  # fmt: skip


def vessels_of(named: Named, state: ThermalState) -> tuple[Vessel, ...]:
    """Describe what is stored, as it stands.

    Parameters
    ----------
    named : Named
        The thermal elements. [-]
    state : ThermalState
        As it stands. [see columns]

    Returns
    -------
    tuple of Vessel
        In the kernel's order. [-]
    """
    found = []
    for part_id, row in zip(named.vessels, named.thermal.vessel, strict=True):
        layers = slice(int(row[FIRST]), int(row[FIRST]) + int(row[COUNT]))
        found.append(Vessel(
            part_id, float(row[LAYER_KG]), float(row[LAYER_J]), float(row[ASIDE_J]),
            float(row[SPECIFIC]), float(row[AIR_C]), tuple(named.thermal.loss_w[layers].tolist()),
            tuple(state.layers[layers].tolist()),
        ))  # fmt: skip
    return tuple(found)


def pipes_of(named: Named, network: CompiledNetwork) -> tuple[Filled, ...]:
    """Describe the runs that hold fresh water.

    Parameters
    ----------
    named : Named
        The thermal elements. [-]
    network : CompiledNetwork
        The network they are of. [-]

    Returns
    -------
    tuple of Filled
        In the kernel's order; what holds antifreeze is left out. [-]
    """
    found = []
    for row in named.thermal.pipe:
        at = int(row[7])
        if network.heat.fluid[at] == 0:
            link, water_kg = network.links[at], row[1] * row[2]
            found.append(Filled(
                link.item, link.label, float(water_kg),
                float(water_kg * named.thermal.specific[at] + row[1] * row[3]),
                float(row[1] * row[5]),
            ))  # fmt: skip
    return tuple(found)


def sources_of(named: Named) -> tuple[Source, ...]:
    """Describe what heats a vessel from within.

    Parameters
    ----------
    named : Named
        The thermal elements. [-]

    Returns
    -------
    tuple of Source
        In the kernel's order. [-]
    """
    found = []
    for part_id, row in zip(named.sources, named.thermal.source, strict=True):
        vessel = int(row[S_VESSEL])
        first = int(named.thermal.vessel[vessel, FIRST]) if vessel >= 0 else 0
        found.append(Source(
            part_id, vessel, int(row[S_AT]) - first, int(row[S_SENSOR]), float(row[S_WATTS]),
            float(row[S_SET]), float(row[S_HYSTERESIS]),
        ))  # fmt: skip
    return tuple(found)


def heaters_of(named: Named) -> tuple[Heater, ...]:
    """Describe what heats water as it passes, or a loop.

    Parameters
    ----------
    named : Named
        The thermal elements. [-]

    Returns
    -------
    tuple of Heater
        In the kernel's order, plain ones left out. [-]
    """
    return tuple(
        Heater(part_id, float(row[B_WATTS]))
        for part_id, row in zip(named.stirred, named.thermal.stirred, strict=True)
        if int(row[B_KIND]) != PLAIN_BODY
    )
