"""Brief + route + climate → the arrays one day's run works on."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, pi
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core import water
from isotherma.core.brief import Brief, Draw
from isotherma.core.climate import Climate
from isotherma.core.hydraulics.friction import inner_film_w_per_m2_k
from isotherma.core.simulate.operating_point import (
    OperatingPoint,
    operating_point,
    pulses_when_throttled,
)
from isotherma.core.system import Pipe
from isotherma.core.system.kinds.heat import Burner, Element, Store
from isotherma.core.system.route import Route
from isotherma.core.thermal.pipe import (
    loss_w_per_m_k,
    wall_heat_j_per_m_k,
    water_to_wall_w_per_m_k,
)
from isotherma.core.thermal.store import cylinder_loss_w_per_k, default_layers

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

CELL_M: Final = 0.05  # a twentieth of a metre: 5 mL in 12 mm pipe, 0.06 s at 5 L/min
NET_HEAT_J_PER_KG: Final = {"propane": 46.34e6, "butane": 45.72e6}
GROUPS: Final = ("feed", "to_store", "hot", "cold", "mixed")


@dataclass(frozen=True, slots=True)
class Plan:
    """Everything a day's run needs, as plain numbers and arrays.

    `pipe` has a row per run with columns group, first cell, cells, cell mass [kg],
    cell wall heat [J/K], water-to-wall [W/K], wall-to-air [W/K], air [°C].
    `draws` has a row per draw with columns start [s], running time [s], flow [kg/s],
    low [°C], high [°C], stops, stop [s], 1 if counted from warm.
    `source` has a row for element and burner with columns heat to the water [W], set [°C],
    hysteresis [K], sensor layer, sensor lag [s], window start and end [s], present.
    """

    specific_j: float
    fresh_c: float
    fresh_kg: float
    other_kg_per_s: float
    gives_up_s: float
    store_air_c: float
    layer_kg: float
    layer_j: float
    link_w: float
    jet_share: float
    loss_w: Floats
    heat_share: Floats
    source: Floats
    pipe: Floats
    cells: int
    mixer: Floats
    draws: Floats
    point: OperatingPoint
    burner_efficiency: float
    fuel_j_per_kg: float
    loss_w_per_k: float
    store_height_m: float
    pulsing: tuple[bool, ...]
    order: tuple[Draw, ...]


def draws_at(brief: Brief, route: Route) -> tuple[Draw, ...]:
    """List the draws that are computed: those at the head the route ends in.

    Parameters
    ----------
    brief, route : Brief, Route
        The documents. [-]

    Returns
    -------
    tuple of Draw
        Draws that name this head, or no outlet. [-]
    """
    return tuple(draw for draw in brief.draws if draw.outlet in (None, route.head.id))


def fresh_water_c(brief: Brief, route: Route, climate: Climate) -> float:
    """Give the fresh water's temperature: as the brief says, else estimated.

    Parameters
    ----------
    brief, route, climate : Brief, Route, Climate
        The documents. [-]

    Returns
    -------
    float
        Temperature. [°C]
    """
    if brief.cold_water_c is not None:
        return brief.cold_water_c
    kept_c = route.kept.get(route.tank.space or "")
    if kept_c is not None:
        return max(2.0, kept_c)
    return climate.fresh_water_c(route.warmth(route.tank.space), brief.inside_c)


def _space_c(space: str | None, route: Route, brief: Brief, climate: Climate) -> float:
    """Give the temperature around a piece: as its space is kept, else by its warmth."""
    kept_c = route.kept.get(space or "")
    if kept_c is not None:
        return kept_c
    return climate.space_c(route.warmth(space), brief.inside_c)


def _store_height_m(store: Store, volume_m3: float) -> float:
    return store.height_m or (4 * volume_m3 / pi) ** (1 / 3)


def _source_row(source: Element | Burner | None, layers: int) -> list[float]:
    if source is None:
        return [0.0] * 8
    if isinstance(source, Element):
        heat_w = source.power_w or 0.0
    else:
        heat_w = (source.input_w or 0.0) * (source.efficiency or 0.0)
    sensor = min(layers - 1, int((source.sensor_share or 0.0) * layers))
    return [
        heat_w,
        source.set_c,
        source.hysteresis_k or 4.0,
        float(sensor),
        source.sensor_lag_s or 0.0,
        source.window_start_s,
        source.window_end_s,
        1.0,
    ]


def _pipe_rows(
    route: Route, point: OperatingPoint, brief: Brief, climate: Climate, temps: dict[str, float]
) -> tuple[Floats, int]:
    rows: list[list[float]] = []
    first = 0
    shares = {"feed": 1.0, "to_store": point.hot_share, "hot": point.hot_share}
    shares |= {"cold": 1.0 - point.hot_share, "mixed": 1.0}
    for group, (name, steps) in enumerate(route.branches):
        celsius = temps[name]
        for run in (step for step in steps if isinstance(step, Pipe)):
            assert run.length_m is not None and run.bore_m is not None
            assert run.wall_m is not None and run.insulation_w_per_m_k is not None
            count = int(min(120, max(3, ceil(run.length_m / CELL_M))))
            step_m = run.length_m / count
            wall = {"bore_m": run.bore_m, "wall_m": run.wall_m}
            film = inner_film_w_per_m2_k(
                flow_m3_per_s=max(point.flow_m3_per_s * shares[name], 1e-7),
                bore_m=run.bore_m,
                celsius=celsius,
            )
            inner = water_to_wall_w_per_m_k(**wall, material=run.material, film_w_per_m2_k=film)
            outer = loss_w_per_m_k(
                **wall,
                material=run.material,
                insulation_m=run.covering_m,
                insulation_w_per_m_k=run.insulation_w_per_m_k,
            )
            cell_kg = pi / 4 * run.bore_m**2 * step_m * water.density_kg_per_m3(celsius)
            wall_j = wall_heat_j_per_m_k(**wall, material=run.material) * step_m
            air_c = _space_c(run.space, route, brief, climate)
            row = [group, first, count, cell_kg, wall_j, inner * step_m, outer * step_m, air_c]
            rows.append([float(value) for value in row])
            first += count
    return np.array(rows), first


def _store_figures(store: Store) -> dict[str, float]:
    """Gather what every store is settled to have."""
    names = (
        "unreachable", "body_j_per_k", "insulation_m", "film_w_per_m2_k", "fittings_share",
        "wall_w_m_per_k", "jet_share",
    )  # fmt: skip
    figures = {name: float(getattr(store, name)) for name in names}
    return figures | {"insulation_w_per_m_k": store.conductivity().likely}


def make_plan(brief: Brief, route: Route, climate: Climate) -> Plan:
    """Work out operating point, masses, conductances and schedules.

    Parameters
    ----------
    brief : Brief
        Draws, place and budgets. [-]
    route : Route
        The recognised shape, with all values known. [-]
    climate : Climate
        The month's surroundings. [-]

    Returns
    -------
    Plan
        The arrays of one day. [-]
    """
    store = route.store
    assert store.volume_m3 is not None and route.tank.volume_m3 is not None
    cold_c = fresh_water_c(brief, route, climate)
    sources = [source for source in (route.element, route.burner) if source is not None]
    hot_c = max([source.set_c for source in sources], default=cold_c)
    set_c = route.mixer.set_c
    point = operating_point(route, cold_c=cold_c, hot_c=hot_c)
    height_m = _store_height_m(store, store.volume_m3)
    figures = _store_figures(store)
    count = store.layers or default_layers(volume_m3=store.volume_m3, height_m=height_m)
    mass_kg = store.volume_m3 * water.density_kg_per_m3(cold_c)
    specific_j = water.mean_specific_heat_j_per_kg_k(cold_c, max(hot_c, set_c))
    layer_kg = mass_kg * (1 - figures["unreachable"]) / count
    body_j = figures["body_j_per_k"] + mass_kg * figures["unreachable"] * specific_j
    layer_j = layer_kg * specific_j + body_j / count
    side_w, end_w = cylinder_loss_w_per_k(
        volume_m3=store.volume_m3,
        height_m=height_m,
        insulation_m=figures["insulation_m"],
        insulation_w_per_m_k=figures["insulation_w_per_m_k"],
        film_w_per_m2_k=figures["film_w_per_m2_k"],
        fittings_share=figures["fittings_share"],
    )
    scale = 1.0
    if store.loss_w_per_k is not None:
        scale = store.loss_w_per_k / (side_w + 2 * end_w)
    loss_w = np.full(count, scale * side_w / count)
    loss_w[0] += scale * end_w
    loss_w[-1] += scale * end_w
    area_m2 = store.volume_m3 / height_m
    conduction = water.conductivity_w_per_m_k(40.0) * area_m2 + figures["wall_w_m_per_k"]
    heat_share = np.zeros((2, count))
    at = min(count - 1, int((route.element.height_share or 0.0 if route.element else 0.0) * count))
    heat_share[0, at] = 1.0
    heat_share[1, 0] = 1.0
    temps = {"feed": cold_c, "to_store": cold_c, "hot": hot_c, "cold": cold_c, "mixed": set_c}
    pipe, cells = _pipe_rows(route, point, brief, climate, temps)
    order = tuple(
        draw.settled(cold_c)
        for draw in sorted(draws_at(brief, route), key=lambda draw: draw.start_s)
    )
    mixed_density = water.density_kg_per_m3(set_c)
    flows = [min(point.flow_m3_per_s, draw.flow_m3_per_s or 1.0) for draw in order]
    draws = np.array(
        [
            [
                draw.start_s,
                draw.duration_s,
                flow * mixed_density,
                draw.low_c,
                draw.high_c,
                float(draw.stops),
                draw.stop_s,
                1.0 if draw.clock == "warm" else 0.0,
            ]
            for draw, flow in zip(order, flows, strict=True)
        ]
    ).reshape(len(order), 8)
    kept = 1 - brief.reserve
    cold_density = water.density_kg_per_m3(cold_c)
    return Plan(
        specific_j=specific_j,
        fresh_c=cold_c,
        fresh_kg=route.tank.volume_m3 * kept * cold_density,
        other_kg_per_s=brief.other_fresh_m3 * cold_density / 86400,
        gives_up_s=brief.gives_up_s,
        store_air_c=_space_c(store.space, route, brief, climate),
        layer_kg=layer_kg,
        layer_j=layer_j,
        link_w=conduction / (height_m / count) if count > 1 else 0.0,
        jet_share=figures["jet_share"],
        loss_w=loss_w,
        heat_share=heat_share,
        source=np.array([_source_row(route.element, count), _source_row(route.burner, count)]),
        pipe=pipe,
        cells=cells,
        mixer=np.array([set_c, route.mixer.difference_k, route.mixer.lag_s]),
        draws=draws,
        point=point,
        burner_efficiency=(route.burner.efficiency or 1.0) if route.burner else 1.0,
        fuel_j_per_kg=NET_HEAT_J_PER_KG[route.burner.fuel if route.burner else "propane"],
        loss_w_per_k=float(loss_w.sum()),
        store_height_m=height_m,
        pulsing=tuple(pulses_when_throttled(route, flow) for flow in flows),
        order=order,
    )
