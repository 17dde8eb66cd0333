"""A network's parts as thermal elements: pipes, vessels, heaters, coils, as plain arrays."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import ceil, pi
from typing import Final

import numpy as np

from isotherma.core import water
from isotherma.core.engine.columns import (
    AIR_COIL,
    COIL,
    COUNT,
    FIRST,
    HELD,
    LAYERED,
    LOOP_HEATER,
    NOWHERE,
    PASS,
    PIPE,
    PLATE,
    POOL_IN,
    POOL_OUT,
    REUSE,
    SOURCES_TO,
    STIRRED,
    THROUGH_FLOW,
    X_COLD,
    X_HOT,
    Floats,
    ThermalElements,
)  # fmt: skip
from isotherma.core.fields import known_or
from isotherma.core.flows import kernel as flow_kernel
from isotherma.core.flows.fittings import coil_layers, layers_of, limit_of
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.hydraulics.friction import inner_film_w_per_m2_k
from isotherma.core.setup.level_switches import low_cuts
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat, use, waste
from isotherma.core.system.nominal import figure
from isotherma.core.thermal.drops import fall_share
from isotherma.core.thermal.losses import cylinder_loss_w_per_k
from isotherma.core.thermal.pipe import (
    loss_w_per_m_k,
    wall_heat_j_per_m_k,
    water_to_wall_w_per_m_k,
)
from isotherma.core.water import fluids

CELL_M: Final = 0.12  # 14 mL in 12 mm pipe, 0.15 s at 5 L/min
PRIMARY_CELL_M: Final = 0.2  # a front in a primary is felt by nobody
UNSURE_WALL: Final = 0.14  # of its bore, of a run no water passes: plastic
MOST_CELLS: Final = 60
PRIMARY_C: Final = 60.0  # what a primary is about at while it carries heat
COMBI_LAYERS: Final = 4
LEVEL_TRIP: Final = 0.3  # of the height, where an interlock does not say; above most elements
ELECTRIC_SENSES_S: Final = 0.5  # a flow switch closes; judgement
ELECTRIC_HEATS_S: Final = 0.2  # a relay and a bare wire; judgement
ELECTRIC_RAMPS_S: Final = 1.0
# a coiled store without a thermostat of its own: °C, K, height and lag of its sensor [s]
CALLS_ITSELF: Final = (60.0, 5.0, 0.5, 30.0)
LEAST_BODY_J: Final = 1.0  # a heater said to have no body; nothing is nothing but in a divisor
LOOP_BODY_J_PER_K: Final = 3500.0  # a small liquid heater with its coolant; judgement
LOOP_LOSS_W_PER_K: Final = 3.0
# what drops lose between head and drain, of their excess over the air at 38 °C: the middle of
# 3 to 6 K for ordinary drops, of 8 to 12 K for fine ones
ROUND_KG_PER_M3: Final = water.WARM_KG_PER_M3


@dataclass(frozen=True, slots=True)
class Named:
    """Who is who in the arrays."""

    thermal: ThermalElements
    vessels: tuple[str, ...]
    sources: tuple[str, ...]
    calls: Mapping[int, str]
    stirred: tuple[str, ...]
    pools: tuple[str, ...]
    plates: tuple[str, ...]
    rounds: tuple[str, ...]
    cells: int
    layers: int


@dataclass(slots=True)
class _Rows:
    pipe: list[list[float]] = field(default_factory=list)
    vessel: list[list[float]] = field(default_factory=list)
    loss: list[float] = field(default_factory=list)
    source: list[list[float]] = field(default_factory=list)
    stirred: list[list[float]] = field(default_factory=list)
    coil: list[list[float]] = field(default_factory=list)
    plate: list[list[float]] = field(default_factory=list)
    air: list[list[float]] = field(default_factory=list)
    pool: list[list[float]] = field(default_factory=list)
    reuse: list[list[float]] = field(default_factory=list)
    rounds: dict[str, int] = field(default_factory=dict)
    vessels: dict[str, int] = field(default_factory=dict)
    pools: dict[str, int] = field(default_factory=dict)
    plates: dict[str, int] = field(default_factory=dict)
    sources: list[str] = field(default_factory=list)
    calls: dict[int, str] = field(default_factory=dict)
    thermal: list[str] = field(default_factory=list)
    cells: int = 0


def make_thermal_elements(
    network: CompiledNetwork, *, air_c: Mapping[str, float], usual_c: float, hot_c: float
) -> Named:
    """Turn a network's parts into thermal elements.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    air_c : mapping of str to float
        Temperature around parts and runs, by id. [°C]
    usual_c : float
        Where nothing is said. [°C]
    hot_c : float
        What hot water is about at, for its properties. [°C]

    Returns
    -------
    Named
        Arrays, and the names of their rows. [-]
    """
    make = _Maker(network, air_c, usual_c, hot_c)
    return make.build()


class _Maker:
    def __init__(
        self, network: CompiledNetwork, air_c: Mapping[str, float], usual_c: float, hot_c: float
    ) -> None:
        self.network, self.air_c, self.usual_c, self.hot_c = network, air_c, usual_c, hot_c
        self.rows = _Rows()
        self.inside: dict[str, list[AnyKind]] = {}
        for part in network.parts.values():
            if part.fitted_in is not None:
                self.inside.setdefault(part.fitted_in, []).append(part)
        cold = network.conditions.fresh_c
        self.water_j = water.mean_specific_heat_j_per_kg_k(cold, max(hot_c, cold + 1.0))

    def around(self, item_id: str) -> float:
        return self.air_c.get(item_id, self.usual_c)

    def specific(self, link: int) -> float:
        kind = int(self.network.heat.fluid[link])
        if kind == 0:
            return self.water_j
        return fluids.look_up(self.network.heat.tables[kind], fluids.SPECIFIC, PRIMARY_C)

    def build(self) -> Named:
        network, rows = self.network, self.rows
        count = len(network.links)
        act, slot = np.zeros(count, np.int64), np.zeros(count, np.int64)
        for part in network.parts.values():
            if part.id not in network.dry:
                self._vessel(part)
        for index, link in enumerate(network.links):
            act[index], slot[index] = (
                self._run(index) if link.is_run else self._way(index, network.parts[link.item])
            )
        thermal = ThermalElements(
            act=act, slot=slot,
            specific=np.array([self.specific(index) for index in range(count)]),
            pipe=_table(rows.pipe, 8), vessel=_table(rows.vessel, 14),
            loss_w=np.array(rows.loss, dtype=np.float64), source=_table(rows.source, 16),
            stirred=_table(rows.stirred, 14), coil=_table(rows.coil, 4),
            plate=_table(rows.plate, 3), air=_table(rows.air, 2), pool=_table(rows.pool, 6),
            shared=np.full(1, np.inf), fuse=np.empty((0, 5)), wired=np.empty((0, 3)),
            feed=np.zeros((len(rows.source), 4)),
            ohm=np.zeros((len(rows.source), len(rows.source))),
            reuse=_table(rows.reuse, 6),
        )  # fmt: skip
        return Named(
            thermal=thermal, vessels=tuple(rows.vessels), sources=tuple(rows.sources),
            calls=rows.calls, stirred=tuple(rows.thermal), pools=tuple(rows.pools),
            plates=tuple(rows.plates), rounds=tuple(rows.rounds), cells=rows.cells,
            layers=len(rows.loss),
        )  # fmt: skip

    def _run(self, index: int) -> tuple[int, int]:
        link = self.network.links[index]
        run = self.network.runs[link.item]
        length, bore = float(link.element.figures[0]), link.bore_m  # as laid, should it be unsure
        wall = known_or(run.wall_m, UNSURE_WALL * bore)
        fine = CELL_M if self.network.heat.fluid[index] == 0 else PRIMARY_CELL_M
        cells = int(min(MOST_CELLS, max(2, ceil(length / fine))))
        step = length / cells
        warm = 0.5 * (self.network.conditions.fresh_c + self.hot_c)
        film = inner_film_w_per_m2_k(flow_m3_per_s=4 / 6e4, bore_m=bore, celsius=warm)
        size = {"bore_m": bore, "wall_m": wall}
        inner = water_to_wall_w_per_m_k(**size, material=run.material, film_w_per_m2_k=film)
        outer = loss_w_per_m_k(
            **size, material=run.material, insulation_m=figure(run, "insulation_m"),
            insulation_w_per_m_k=figure(run, "insulation_w_per_m_k"),
        )  # fmt: skip
        kind = int(self.network.heat.fluid[index])
        density = water.density_kg_per_m3(warm) if kind == 0 else fluids.look_up(
            self.network.heat.tables[kind], fluids.DENSITY, PRIMARY_C
        )  # fmt: skip
        row = [self.rows.cells, cells, pi / 4 * bore**2 * step * density,
               wall_heat_j_per_m_k(**size, material=run.material) * step, inner * step,
               outer * step, self.around(run.id), index]  # fmt: skip
        self.rows.pipe.append([float(value) for value in row])
        self.rows.cells += cells
        return PIPE, len(self.rows.pipe) - 1

    def _way(self, index: int, part: AnyKind) -> tuple[int, int]:
        rows, link = self.rows, self.network.links[index]
        element = link.element
        if part.id in rows.vessels and {element.start, element.end} == {"inlet", "outlet"}:
            return LAYERED, rows.vessels[part.id]
        if part.id in rows.pools:
            if element.start == "inlet":
                return POOL_IN, rows.pools[part.id]
            return (POOL_OUT, rows.pools[part.id]) if element.end == "outlet" else (PASS, 0)
        if isinstance(part, heat.ThroughFlow):
            return STIRRED, self._through_flow(part, index)
        if isinstance(part, heat.LiquidHeater):
            return STIRRED, self._loop_heater(part)
        if isinstance(part, heat.Coil) and part.fitted_in in rows.vessels:
            return COIL, self._coil(part, rows.vessels[part.fitted_in or ""])
        if isinstance(part, waste.ReuseLoop):
            return REUSE, self._reuse(part)
        if isinstance(part, heat.PlateExchanger):
            return PLATE, self._plate(part, index, element.role)
        if element.heat in (flow_kernel.BODY, flow_kernel.IN_STORE):
            rows.air.append([element.warmth[0], element.warmth[1]])
            return AIR_COIL, len(rows.air) - 1
        if element.heat == flow_kernel.HELD_AT:
            rows.air.append([element.warmth[0], 0.0])  # no cap, unless somebody entered one
            return HELD, len(rows.air) - 1
        return PASS, 0

    def _vessel(self, part: AnyKind) -> None:
        rows = self.rows
        if not isinstance(part, heat.Store | heat.Combi | heat.Canister | heat.SunContainer):
            return
        volume = part.volume_m3
        if volume is None:
            return
        if (part.id, "inlet") not in self.network.node and (part.id, "outlet") not in (
            self.network.node
        ):
            return
        mass = volume * water.density_kg_per_m3(self.network.conditions.fresh_c)
        body = 0.0 if isinstance(part, heat.SunContainer) else figure(part, "body_j_per_k")
        if isinstance(part, heat.Store) and part.nature == "open vented":
            loss = sum(self._store_loss(part, volume, 1))
            rows.pools[part.id] = len(rows.pool)
            refills = 1.0 if part.refill == "while drawing" else 0.0
            rows.pool.append([mass, body, loss, self.around(part.id), self.water_j, refills])
            self._sources(part, NOWHERE, 1, pool=len(rows.pool) - 1)
            return
        if isinstance(part, heat.Store):
            height = figure(part, "height_m")
            count = layers_of(part, volume)
            unreached = figure(part, "unreachable")
            area = volume / height
            conduction = water.conductivity_w_per_m_k(40.0) * area + figure(part, "wall_w_m_per_k")
            link_w = conduction / (height / count) if count > 1 else 0.0
            losses = self._store_loss(part, volume, count)
            jet = figure(part, "jet_share")
            enters, leaves = _port_layers(part, count)
        else:
            count = COMBI_LAYERS if isinstance(part, heat.Combi) else 1
            unreached, jet = 0.0, 0.1 if count > 1 else 0.0
            enters, leaves = 0, count - 1
            link_w = 1.0 if count > 1 else 0.0
            losses = [figure(part, "loss_w_per_k") / count] * count
        layer_kg = mass * (1 - unreached) / count
        layer_j = layer_kg * self.water_j + body / count
        aside_j = mass * unreached * self.water_j / count
        rows.vessels[part.id] = len(rows.vessel)
        first = len(rows.loss)
        rows.loss += losses
        before = len(rows.source)
        rows.vessel.append([first, count, layer_kg, layer_j, link_w, self.around(part.id), jet,
                            self.water_j, before, before, enters, leaves,
                            aside_j, 0.0])  # fmt: skip
        self._sources(part, len(rows.vessel) - 1, count)
        rows.vessel[-1][SOURCES_TO] = len(rows.source)

    def _store_loss(self, part: heat.Store, volume: float, count: int) -> list[float]:
        height = figure(part, "height_m")
        side, end = cylinder_loss_w_per_k(
            volume_m3=volume, height_m=height, insulation_m=figure(part, "insulation_m"),
            insulation_w_per_m_k=part.conductivity().likely,
            film_w_per_m2_k=figure(part, "film_w_per_m2_k"),
            fittings_share=figure(part, "fittings_share"),
        )  # fmt: skip
        scale = 1.0
        if part.loss_w_per_k is not None:
            scale = part.loss_w_per_k / (side + 2 * end)
        losses = [scale * side / count] * count
        losses[0] += scale * end
        losses[-1] += scale * end
        return losses

    def _sources(self, host: AnyKind, vessel: int, count: int, pool: int = NOWHERE) -> None:
        rows, network = self.rows, self.network
        first = len(rows.loss) - count if pool == NOWHERE else 0
        inside = self.inside.get(host.id, [])
        limits = {item.guards: figure(item, "opens_c") for item in inside
                  if isinstance(item, heat.HighLimit)}  # fmt: skip
        by_hand = {item.guards for item in inside
                   if isinstance(item, heat.HighLimit) and item.resets != "by itself"}  # fmt: skip
        levels = {item.guards: figure(item, "trips_at_share") for item in inside
                  if isinstance(item, heat.Interlock) and item.senses == "level"}  # fmt: skip
        for key, share in low_cuts(network.parts, host.id).items():
            levels[key] = max(levels.get(key, 0.0), share)
        coiled = any(isinstance(item, heat.Coil) for item in inside) or any(
            heat.calls_a_pump(item, network.parts) for item in inside
        )

        def add(
            part_id: str, watts: float, set_c: float, hysteresis: float, sensor: float, lag: float,
            window: tuple[float, float], allowed: bool, at: int,
        ) -> None:  # fmt: skip
            layer = min(count - 1, int(sensor * count))
            rows.source.append([
                float(vessel), watts, set_c, hysteresis, float(layer),
                lag, *window, float(allowed), float(first + at), limits.get(part_id, 99.0),
                levels.get(part_id, 0.0), -1.0, float(part_id in by_hand), 1.0,
                float(pool),
            ])  # fmt: skip
            rows.sources.append(part_id)

        for item in inside:
            if not isinstance(item, heat.Element | heat.Burner):
                continue
            watts = (
                figure(item, "power_w") if isinstance(item, heat.Element)
                else figure(item, "input_w") * figure(item, "efficiency")
            )  # fmt: skip
            share = figure(item, "height_share") if isinstance(item, heat.Element) else 0.0
            add(item.id, watts, item.set_c, figure(item, "hysteresis_k"),
                figure(item, "sensor_share"), figure(item, "sensor_lag_s"),
                (item.window_start_s, item.window_end_s), network.at.get(item.id) != "off",
                min(count - 1, int(share * count)))  # fmt: skip
        if isinstance(host, heat.Combi):
            capacity = figure(host, "volume_m3") * 4.14e6 + figure(host, "body_j_per_k")
            rise = figure(host, "to_c") - figure(host, "from_c")
            watts = capacity * rise / figure(host, "heats_in_s")
            add(host.id, watts, host.set_c, 6.0, 0.4, 20.0, (0.0, 0.0),
                network.at.get(host.id) != "off", 0)  # fmt: skip
        if isinstance(host, heat.SunContainer):  # the sun's watts come with the hours
            add(host.id, 1e-9, 99.0, 1.0, 0.5, 1.0, (0.0, 0.0), False, 0)
        if coiled and pool == NOWHERE:
            own = next((item for item in inside if isinstance(item, heat.Thermostat)), None)
            set_c, hysteresis, sensor, lag = CALLS_ITSELF if own is None else (
                own.set_c, figure(own, "hysteresis_k"), figure(own, "sensor_share"),
                figure(own, "sensor_lag_s"),
            )  # fmt: skip
            rows.calls[len(rows.source)] = host.id
            add(f"{host.id}", 0.0, set_c, hysteresis, sensor, lag, (0.0, 0.0), True, 0)

    def _through_flow(self, part: heat.ThroughFlow, index: int) -> int:
        element = self.network.links[index].element
        figures, off = element.warmth, element.heat != flow_kernel.THROUGH
        set_c, watts, least, on, out = figures[:5] if not off else (40.0, 0.0, 0.0, 1.0, 1.0)
        if isinstance(part, heat.ThroughFlowGas):
            sense, light, ramp = (figure(part, name) for name in ("sense_s", "light_s", "ramp_s"))
        else:
            sense, light, ramp = ELECTRIC_SENSES_S, ELECTRIC_HEATS_S, ELECTRIC_RAMPS_S
        self.rows.stirred.append([
            max(LEAST_BODY_J, figure(part, "body_j_per_k")),
            figure(part, "loss_w_per_k"), self.around(part.id), set_c, watts, least, on, out,
            sense, light, ramp, THROUGH_FLOW, limit_of(part),
            float(part.control_by == "outlet sensor"),
        ])  # fmt: skip
        self.rows.thermal.append(part.id)
        return len(self.rows.stirred) - 1

    def _loop_heater(self, part: heat.LiquidHeater) -> int:
        least = figure(part, "least_share") * figure(part, "heat_w")
        off = self.network.at.get(part.id) == "off"
        self.rows.stirred.append([
            LOOP_BODY_J_PER_K, LOOP_LOSS_W_PER_K, self.around(part.id), part.set_c,
            0.0 if off else figure(part, "heat_w"), least, 0.0, 0.0, 0.0,
            figure(part, "flame_s"), 10.0, LOOP_HEATER, part.set_c + 8.0, 0.0,
        ])  # fmt: skip
        self.rows.thermal.append(part.id)
        return len(self.rows.stirred) - 1

    def _coil(self, part: heat.Coil, vessel: int) -> int:
        first, count = (int(value) for value in self.rows.vessel[vessel][FIRST : COUNT + 1])
        high, low = coil_layers(part, count)
        conductance = figure(part, "conductance_w_per_k")
        self.rows.coil.append([vessel, first + high, first + low, conductance])
        return len(self.rows.coil) - 1

    def _reuse(self, part: waste.ReuseLoop) -> int:
        """Describe water that goes round; without litres nothing does."""
        rows = self.rows
        heads = [item for item in self.network.parts.values() if isinstance(item, use.ShowerHead)]
        fine = any(item.fine_drops() for item in heads)
        air_c = self.around(part.id)
        fall = fall_share(air_c, fine_holes=fine)
        stream = figure(part, "flow_m3_per_s") * ROUND_KG_PER_M3
        rows.rounds[part.id] = len(rows.reuse)
        rows.reuse.append([
            figure(part, "holds_m3") * ROUND_KG_PER_M3 * self.water_j, stream,
            stream * self.water_j, figure(part, "conductance_w_per_k"), fall, air_c,
        ])  # fmt: skip
        return rows.rounds[part.id]

    def _plate(self, part: heat.PlateExchanger, index: int, role: str) -> int:
        rows = self.rows
        if part.id not in rows.plates:
            rows.plates[part.id] = len(rows.plate)
            rows.plate.append([0.0, 0.0, figure(part, "conductance_w_per_k")])
        rows.plate[rows.plates[part.id]][X_HOT if role == "hot" else X_COLD] = index
        return rows.plates[part.id]


def _port_layers(part: heat.Store, count: int) -> tuple[int, int]:
    """Say in which layer water enters a store and from which it leaves."""
    enters, leaves = figure(part, "inlet_share"), figure(part, "outlet_share")
    return min(count - 1, int(enters * count)), min(count - 1, int(leaves * count))


def _table(rows: list[list[float]], columns: int) -> Floats:
    return np.array(rows, dtype=np.float64).reshape(len(rows), columns)
