"""Water that grows as it is heated: by how much, where it can go, what a relief valve lets out."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import inf
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from isotherma.core import water
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.graph import reach
from isotherma.core.hydraulics.network import OPEN
from isotherma.core.setup import Setup
from isotherma.core.system.kinds import heat
from isotherma.core.system.kinds.water import Accumulator, Pump, Relief
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.record import Day, Vessel
from isotherma.core.water.arrays import densities_kg_per_m3

Floats = NDArray[np.float64]

AIR_PA: Final = 101_325.0
LEAST_M3: Final = 1e-6  # a millilitre: less is a drip nobody sees


@dataclass(frozen=True, slots=True)
class Expansion:
    """What the water of a store that can be shut in does when it is heated.

    `grows_m3` at most between two draws, `room_m3` that takes it up before a relief valve
    opens (infinite where it gets back to a free surface), `reaches_pa` the pressure then,
    over the air's (infinite where nothing gives), `relief_pa` what the relief valve is set to,
    `let_out_m3` what it lets out a day.
    """

    part_id: str
    label: str
    grows_m3: float
    room_m3: float
    reaches_pa: float
    relief_pa: float | None
    let_out_m3: float

    @property
    def goes(self) -> Literal["back", "accumulator", "relief", "nowhere"]:
        """Where it goes."""
        if self.room_m3 == inf:
            return "back"
        if self.grows_m3 <= self.room_m3 and self.reaches_pa < inf:
            return "accumulator"
        return "nowhere" if self.relief_pa is None else "relief"


def expansions(setup: Setup, day: Day) -> tuple[Expansion, ...]:
    """Find what grows and where it can go, for every closed store, combi and canister.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]

    Returns
    -------
    tuple of Expansion
        In the order of the parts; none open to a spout. [-]

    Notes
    -----
    The store the day shows is followed row by row: with every outlet shut it may grow, what
    it lost by cooling the pump has filled up. Others are taken from the fresh water's
    temperature to their setting, once a day. Pipes and hoses give way a little; that is left
    out, to be on the large side.

    References
    ----------
    Mass of the water by the density of Wagner and Pruss (table); gas of the accumulator
    isothermal: p (V_g − ΔV) = p_out V_g.
    """
    found = []
    network = setup.network
    for place, vessel in enumerate(day.vessels):
        part_id = vessel.id
        part = network.parts[part_id]
        opens = isinstance(part, heat.Store | heat.Canister) and part.nature != "closed"
        if opens or isinstance(part, heat.SunContainer):
            continue
        back, accumulators, reliefs = _reached(network, part_id)
        kept_pa = _kept_pa(network)
        gas_m3 = sum(_gas_m3(item, kept_pa) for item in accumulators)
        # one of unknown setting is taken to open at the pressure the pump leaves
        set_pa = min(
            (kept_pa if item.set_pa is None else item.set_pa for item in reliefs), default=None
        )
        room = inf if back else _room_m3(gas_m3, kept_pa, set_pa)
        if part_id == day.vessel:
            grows, out = followed(
                day.rows.layers_c, day.rows.mass_kg, _layer_kg(vessel),
                room if set_pa is not None else inf,
            )  # fmt: skip
        else:
            hot_c = max(
                (source.set_c for source in day.sources if source.vessel == place),
                default=setup.conditions.fresh_c,
            )
            mass = _layer_kg(vessel) * vessel.layers
            cold = water.density_kg_per_m3(setup.conditions.fresh_c)
            grows = max(0.0, mass / water.density_kg_per_m3(min(hot_c, 99.0)) - mass / cold)
            out = max(0.0, grows - room) if set_pa is not None else 0.0
        found.append(
            Expansion(part_id, part.label, grows, room, _reaches_pa(grows, gas_m3, kept_pa, back),
                   set_pa, out)
        )  # fmt: skip
    return tuple(found)


def _layer_kg(vessel: Vessel) -> float:
    """Give the water of a layer with what the flow passes by [kg]."""
    return vessel.layer_kg + vessel.aside_j_per_k / vessel.specific_j_per_kg_k


def followed(
    layers_c: Floats, drawn_kg: Floats, layer_kg: float, room_m3: float
) -> tuple[float, float]:
    """Follow a shut store through a day.

    Parameters
    ----------
    layers_c : array of float, shape (rows, layers)
        Its layers at the end of every row. [°C]
    drawn_kg : array of float, shape (rows,)
        What left the head in a row. [kg]
    layer_kg : float
        Water of a layer. [kg]
    room_m3 : float
        What takes growth up before the relief valve opens. [m³]

    Returns
    -------
    tuple of float
        The most it grew between two draws, and what the relief valve let out. [m³, m³]
    """
    if not len(layers_c) or layers_c.shape[1] == 0:
        return 0.0, 0.0
    volumes = (layer_kg / densities_kg_per_m3(layers_c)).sum(axis=1)
    base, most, out = volumes[0], 0.0, 0.0
    for volume, drawn in zip(volumes.tolist(), drawn_kg.tolist(), strict=True):
        if drawn > 0.0 or volume < base:  # an open outlet, or the pump filled up what shrank
            base = volume
            continue
        most = max(most, volume - base)
        if volume - base > room_m3:
            out += volume - base - room_m3
            base = volume - room_m3
    return float(most), float(out)


def _reached(
    network: CompiledNetwork, part_id: str
) -> tuple[bool, tuple[Accumulator, ...], tuple[Relief, ...]]:
    """Walk from a store to where its water can push, with every outlet shut."""
    own = {node for (key, _), node in network.node.items() if key == part_id}
    reliefs, back = {}, False

    def beside(at: int) -> Iterator[int]:
        nonlocal back
        for index, link in enumerate(network.links):
            if at not in (link.start, link.end) or link.element.role == "end":
                continue
            if network.shut[index] != OPEN:
                continue
            if link.element.role == "relief":
                part = network.parts[link.item]
                if isinstance(part, Relief):
                    reliefs[part.id] = part
                continue
            one_way = link.element.one_way or bool(network.net.one_way[index])
            if at == link.end and one_way:
                continue
            other = link.end if at == link.start else link.start
            if network.net.given[other]:
                back = True
            else:
                yield other

    nodes = reach(own, beside)
    kept = tuple(
        part for part in network.parts.values()
        if isinstance(part, Accumulator) and part.volume_m3
        and network.node.get((part.id, "inlet")) in nodes
    )  # fmt: skip
    return back, kept, tuple(reliefs.values())


def _kept_pa(network: CompiledNetwork) -> float:
    """Give the pressure pumps leave when they stop, over the air's [Pa]."""
    return max(
        (
            part.cut_out_pa or figure(part, "shut_pressure_pa")
            for part in network.parts.values()
            if isinstance(part, Pump) and network.at.get(part.id) != "off"
        ),
        default=0.0,
    )


def _gas_m3(part: Accumulator, kept_pa: float) -> float:
    """Give the gas left in an accumulator at the pressure the pump leaves."""
    pre = figure(part, "precharge_pa") + AIR_PA
    return figure(part, "volume_m3") * min(1.0, pre / (kept_pa + AIR_PA))


def _room_m3(gas_m3: float, kept_pa: float, set_pa: float | None) -> float:
    if set_pa is None:
        return gas_m3
    return gas_m3 * max(0.0, 1.0 - (kept_pa + AIR_PA) / (set_pa + AIR_PA))


def _reaches_pa(grows_m3: float, gas_m3: float, kept_pa: float, back: bool) -> float:
    if back or grows_m3 <= 0.0:
        return kept_pa
    if grows_m3 >= gas_m3:
        return inf
    return (kept_pa + AIR_PA) * gas_m3 / (gas_m3 - grows_m3) - AIR_PA


def expansion_rows(setup: Setup, day: Day) -> list[Mapping[str, object]]:
    """Give the same as plain values, for a file.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]

    Returns
    -------
    list of mappings
        `part`, `grows_l`, `room_l`, `goes`, `reaches_bar`, `relief_bar`, `let_out_l_per_day`;
        null for what has no bound. [L, bar]
    """
    return [
        {
            "part": item.part_id,
            "grows_l": item.grows_m3 * 1e3,
            "room_l": item.room_m3 * 1e3 if item.room_m3 < inf else None,
            "goes": item.goes,
            "reaches_bar": item.reaches_pa / 1e5 if item.reaches_pa < inf else None,
            "relief_bar": item.relief_pa / 1e5 if item.relief_pa is not None else None,
            "let_out_l_per_day": item.let_out_m3 * 1e3,
        }
        for item in expansions(setup, day)
    ]
