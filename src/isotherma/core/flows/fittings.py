"""What each kind of part is to the flow: the ways through it, each with a law and a heat.

A way leads from port to port, or to or from a place of its own: ``@air`` is open to the
air at that height, ``@well`` water with a pressure of its own.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from math import inf, pi
from typing import Any, Final, TypedDict, Unpack

from isotherma.core.flows import kernel
from isotherma.core.hydraulics import laws
from isotherma.core.system.kinds import AnyKind, gauges, heat, primary, temperature, use, waste
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.nominal import figure, known_figure
from isotherma.core.system.pieces import BAR, FACTOR, LITRE_PER_MIN
from isotherma.core.thermal.losses import default_layers

AIR, RESERVOIR = "@air", "@well"
FIVE: Final = 5 * LITRE_PER_MIN
PUSHED_BY_FOOT_PA: Final = 1.0 * BAR  # about what a foot keeps up on a small bellows
LOOP_HEAD_PA: Final = 0.3 * BAR  # small circulators; their flow is what the document gives
IDLE_OPENING_PA: Final = 3e3  # two soft valves of a diaphragm pump that stands
IDLE_LOSS_PA: Final = 0.3 * BAR  # at its open flow
ENGINE_HEAD_PA: Final = 0.2 * BAR  # across a heater branch, idling; its flow is at two thirds
OWN_PUMP: Final = (10 * LITRE_PER_MIN, 0.15 * BAR)  # the pump inside a liquid heater
LIMITER_PA: Final = 0.1 * BAR  # what a limiter takes at the flow it lets through
RELIEF_FACTOR: Final = 10 * FACTOR  # a small relief, wide open
ELECTRIC_LIMIT_C: Final = 85.0  # a small electric cell's own cut-out; judgement
COILED: Final = 1.15  # bends of a coil on friction: Ito 1959, Re 10⁴, 12 mm on 0.3 m
COIL_WALL_M: Final = 0.8e-3  # of soft copper or corrugated tube; the document has its outside
BLOCKED: Final = 1e-4 * FACTOR  # what nothing passes: a tenth of a millilitre a minute at a bar
DIRTY_STRAINER: Final = 0.3  # share of flow a clogged mesh still passes, as a filter's


@dataclass(frozen=True, slots=True)
class Conditions:
    """What a network stands in: temperatures, levels, and whether filters are clean.

    `fresh_c` is the fresh water [°C]; `at_c` temperatures of stores and the like by part
    id, where they differ from what they are set to [°C]; `level_m` the water above the
    outlet of an open tank by part id, none unless said [m]; `air_w_per_k` what coils in hot air
    take of it, where ducts say [W/K].
    """

    fresh_c: float = 10.0
    at_c: Mapping[str, float] = field(default_factory=dict)
    level_m: Mapping[str, float] = field(default_factory=dict)
    dirty: bool = False
    air_w_per_k: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class NetworkElement:
    """One way through a part; `rise_m` above its start, `unknown` properties it needs."""

    start: str
    end: str
    law: int = laws.PIPE
    figures: tuple[float, ...] = (0.0, 0.01, 0.0, 1.5e-6, 1.0)
    one_way: bool = False
    heat: int = kernel.PLAIN
    warmth: tuple[float, ...] = ()
    rise_m: float = 0.0
    unknown: tuple[str, ...] = ()
    role: str = ""


class More(TypedDict, total=False):
    """What else a way may have."""

    one_way: bool
    heat: int
    warmth: tuple[float, ...]
    unknown: tuple[str, ...]
    role: str


@dataclass(frozen=True, slots=True)
class Place:
    """What a part stands among: bore of the run before it, position, what sits in it."""

    bore_m: float
    at: str
    fitted: tuple[AnyKind, ...]
    host: AnyKind | None
    conditions: Conditions
    speed: float = 1.0  # of a pump, by the volts that reach it
    sparks: bool = True  # whether what lights a gas heater still does
    moved: bool = False  # whether the state itself says how it stands
    trips_m3_per_s: float = 0.0  # of a flow interlock that guards it


def _by_factor(start: str, end: str, factor: float | None, **more: Unpack[More]) -> NetworkElement:
    if factor is None:
        return NetworkElement(start, end, **more)
    factor = max(factor, BLOCKED)
    return NetworkElement(start, end, laws.FACTOR, (laws.resistance(factor),), **more)


def _shared(factor: float | None, share: float) -> float | None:
    """Give what is left of a flow factor."""
    return None if factor is None else factor * share


def _by_loss(
    start: str, end: str, loss_k: float, bore_m: float, **more: Unpack[More]
) -> NetworkElement:
    return NetworkElement(start, end, laws.PIPE, (0.0, bore_m, loss_k, 1.5e-6, 1.0), **more)


def _at_five(start: str, end: str, loss_pa: float, **more: Unpack[More]) -> NetworkElement:
    return NetworkElement(start, end, laws.FACTOR, (loss_pa / FIVE**2,), **more)


def _well(port: str, head_m: float = 0.0, **more: Unpack[More]) -> NetworkElement:
    """Water standing in the air, its surface above the port."""
    return NetworkElement(RESERVOIR, port, rise_m=-head_m, **more)


def held_c(part: AnyKind, fitted: tuple[AnyKind, ...], conditions: Conditions) -> float:
    """Give the temperature a store or other body of water is taken to be at.

    Parameters
    ----------
    part : a kind of part
        Store, combi, canister, sun-warmed container, engine coolant. [-]
    fitted : tuple of parts
        What sits in it. [-]
    conditions : Conditions
        What is said of it. [-]

    Returns
    -------
    float
        As said, else what it or its source is set to; by a coil alone 60 °C or its
        thermostat's; a sun-warmed container 38 °C. [°C]
    """
    if part.id in conditions.at_c:
        return conditions.at_c[part.id]
    if isinstance(part, heat.EngineCoolant):
        return figure(part, "coolant_c")
    if isinstance(part, heat.SunContainer):
        return 38.0
    own = getattr(part, "set_c", None)
    if own is not None:
        return float(own)
    set_c = [item.set_c for item in fitted if isinstance(item, heat.Element | heat.Burner)]
    set_c += [item.set_c for item in fitted if isinstance(item, heat.Thermostat)]
    if set_c:
        return max(set_c)
    return 60.0 if any(isinstance(item, heat.Coil) for item in fitted) else conditions.fresh_c


def _pump(part: moved.Pump, place: Place) -> list[NetworkElement]:
    flow, head = part.open_flow_m3_per_s, part.shut_pressure_pa
    if not flow or not head:
        missing = [name for name in part.needs if not getattr(part, name)]
        return [
            NetworkElement("inlet", "outlet", one_way=True, unknown=tuple(missing), role="pump")
        ]
    if place.at == "off":
        figures = (IDLE_LOSS_PA / flow**2, IDLE_OPENING_PA)
        return [NetworkElement("inlet", "outlet", laws.CHECK, figures, True, role="idle")]
    return [NetworkElement("inlet", "outlet", laws.PUMP, (0.0, 0.0, inf), True, role="pump")]


def pump_points(part: moved.Pump, speed: float = 1.0) -> tuple[tuple[float, float], ...]:
    """Give the curve of a pump from no flow to open flow.

    Parameters
    ----------
    part : Pump
        With open flow and pressure at no flow settled, or points. [-]
    speed : float
        By the volts that reach it; its flow goes with them. [-]

    Returns
    -------
    tuple of pairs
        Flow rising, head falling; straight between. [m³/s, Pa]
    """
    flow, head = part.open_flow_m3_per_s, part.shut_pressure_pa
    assert flow and head
    given = sorted((q, p) for p, q in part.points or () if q > 0)
    points = [(0.0, head)]
    for q, p in given:
        if q > points[-1][0] and p < points[-1][1]:
            points.append((q, p))
    if points[-1][1] > 0 and points[-1][0] < flow:
        points.append((flow, 0.0))
    return tuple((q * speed, p) for q, p in points)


def _submersible(part: moved.Submersible, place: Place) -> list[NetworkElement]:
    flow, head = part.open_flow_m3_per_s, part.shut_pressure_pa
    level = place.conditions.level_m.get(place.host.id, 0.0) if place.host else 0.0
    ways = [_well("inlet", level)]
    if not flow or not head:
        return [
            *ways,
            NetworkElement("inlet", "outlet", unknown=("open_flow_m3_per_s",), role="pump"),
        ]
    if place.at == "off":
        return [
            *ways,
            NetworkElement("inlet", "outlet", laws.FACTOR, (0.1 * BAR / flow**2,), role="idle"),
        ]
    figures = (flow * place.speed, head)
    return [*ways, NetworkElement("inlet", "outlet", laws.ROUND, figures, role="pump")]


def _stroked(part: moved.FootPump | moved.HandPump, place: Place) -> list[NetworkElement]:
    if not part.flow_m3_per_s:
        return [
            NetworkElement("inlet", "outlet", one_way=True, unknown=("flow_m3_per_s",), role="pump")
        ]
    figures = (part.flow_m3_per_s, PUSHED_BY_FOOT_PA)
    return [NetworkElement("inlet", "outlet", laws.STROKE, figures, True, role="pump")]


def _fresh_tank(part: moved.FreshTank, place: Place) -> list[NetworkElement]:
    level = place.conditions.level_m.get(part.id, 0.0)
    falls = [NetworkElement(port, AIR, one_way=True) for port in ("fill", "returns")]
    return [_well("outlet", level), _well("second_outlet", level), *falls]


def _container(part: moved.LooseContainer, place: Place) -> list[NetworkElement]:
    return [_well("outlet", place.conditions.level_m.get(part.id, 0.0))]


def _outside(part: moved.OutsideSource, place: Place) -> list[NetworkElement]:
    return [_well("outlet", role="lift")]


def _bag(part: moved.GravityBag, place: Place) -> list[NetworkElement]:
    return [_well("outlet", role="hung")]


def _inlet(part: moved.PressurisedInlet, place: Place) -> list[NetworkElement]:
    rest, flow = figure(part, "pressure_pa"), figure(part, "flow_m3_per_s")
    return [
        NetworkElement(RESERVOIR, "outlet", laws.SUPPLY, (rest / flow**2, rest), True, role="mains")
    ]


def _check(part: moved.CheckValve, place: Place) -> list[NetworkElement]:
    factor = figure(part, "flow_factor_si")
    figures = (laws.resistance(factor), figure(part, "opening_pa"))
    return [NetworkElement("inlet", "outlet", laws.CHECK, figures, True)]


def _reducer(part: moved.Reducer, place: Place) -> list[NetworkElement]:
    factor = figure(part, "flow_factor_si")
    return [
        NetworkElement(
            "inlet", "outlet", laws.CHECK, (laws.resistance(factor), 0.0), True, role="wide"
        ),
        NetworkElement(RESERVOIR, "outlet", one_way=True, role="regulated"),
    ]


def _limiter(part: moved.FlowLimiter, place: Place) -> list[NetworkElement]:
    most = part.flow_m3_per_s
    if not most:
        return [NetworkElement("inlet", "outlet", unknown=("flow_m3_per_s",))]
    return [NetworkElement("inlet", "outlet", laws.LIMIT, (LIMITER_PA / most**2, most))]


def _strainer(part: moved.Strainer, place: Place) -> list[NetworkElement]:
    share = DIRTY_STRAINER if place.conditions.dirty else 1.0
    return [_by_factor("inlet", "outlet", _shared(part.flow_factor_si, share))]


def _filter(part: moved.Filter, place: Place) -> list[NetworkElement]:
    share = figure(part, "dirty_share") if place.conditions.dirty else 1.0
    return [_by_factor("inlet", "outlet", _shared(part.flow_factor_si, share))]


def _relief(part: moved.Relief, place: Place) -> list[NetworkElement]:
    figures = (laws.resistance(RELIEF_FACTOR), figure(part, "set_pa"))
    return [NetworkElement("inlet", AIR, laws.CHECK, figures, True, role="relief")]


def _drain(part: moved.Drain, place: Place) -> list[NetworkElement]:
    factor = laws.orifice_factor(figure(part, "bore_m"))
    return [NetworkElement("inlet", AIR, laws.FACTOR, (laws.resistance(factor),), True, role="end")]


def _outlet(part: use.Outlet, place: Place) -> list[NetworkElement]:
    if not part.flow_factor_si:
        return [NetworkElement("inlet", AIR, one_way=True, unknown=("flow_factor_si",), role="end")]
    figures = (laws.resistance(part.flow_factor_si),)
    if isinstance(part, use.Appliance) and part.flow_most_m3_per_s:
        most = part.flow_most_m3_per_s
        return [NetworkElement("inlet", AIR, laws.LIMIT, (*figures, most), True, role="end")]
    return [NetworkElement("inlet", AIR, laws.FACTOR, figures, True, role="end")]


def _mixer(
    part: temperature.ThermostaticMixer | temperature.ManualMixer, place: Place
) -> list[NetworkElement]:
    one_way = part.checks == "both legs"
    leg = (laws.resistance(figure(part, "flow_factor_si") / 2),)
    return [
        NetworkElement("hot", "outlet", laws.FACTOR, leg, one_way, role="hot"),
        NetworkElement("cold", "outlet", laws.FACTOR, leg, one_way, role="cold"),
    ]


def _loop_pump(part: temperature.LoopPump, place: Place) -> list[NetworkElement]:
    flow = part.flow_m3_per_s
    if not flow:
        return [NetworkElement("inlet", "outlet", unknown=("flow_m3_per_s",), role="pump")]
    if place.at == "off" or (part.rule != "continuous" and not place.moved):
        return [
            NetworkElement("inlet", "outlet", laws.FACTOR, (0.05 * BAR / flow**2,), role="idle")
        ]
    return [NetworkElement("inlet", "outlet", laws.STROKE, (flow, LOOP_HEAD_PA), True, role="pump")]


def _circulator(part: primary.CirculationPump, place: Place) -> list[NetworkElement]:
    flow, head = figure(part, "flow_m3_per_s"), figure(part, "shut_pressure_pa")
    if place.at == "off":
        return [NetworkElement("inlet", "outlet", laws.FACTOR, (head / flow**2,), role="idle")]
    return [NetworkElement("inlet", "outlet", laws.ROUND, (flow, head), role="pump")]


def _header(part: primary.ExpansionVessel, place: Place) -> list[NetworkElement]:
    return [_well("inlet")] if part.open_header else []


def _store(part: heat.Store, place: Place) -> list[NetworkElement]:
    at_c = held_c(part, place.fitted, place.conditions)
    if part.nature == "open vented":
        level = place.conditions.level_m.get(part.id, 0.0)
        out = _well("outlet", level, heat=kernel.HELD_AT, warmth=(at_c,))
        return [NetworkElement("inlet", AIR, one_way=True), out]
    return [NetworkElement("inlet", "outlet", heat=kernel.HELD_AT, warmth=(at_c,))]


def _body(
    part: heat.Combi | heat.Canister | heat.SunContainer, place: Place
) -> list[NetworkElement]:
    at_c = held_c(part, place.fitted, place.conditions)
    if place.at == "off" and part.id not in place.conditions.at_c:
        return [NetworkElement("inlet", "outlet")]
    return [NetworkElement("inlet", "outlet", heat=kernel.HELD_AT, warmth=(at_c,))]


def limit_of(part: heat.ThroughFlow) -> float:
    """Give the temperature at which a through-flow heater's own cut-out holds its fire.

    Parameters
    ----------
    part : ThroughFlow
        The heater. [-]

    Returns
    -------
    float
        As printed, else what is usual. [°C]
    """
    return figure(part, "limit_c") if isinstance(part, heat.ThroughFlowGas) else ELECTRIC_LIMIT_C


def _through_flow(part: heat.ThroughFlow, place: Place) -> list[NetworkElement]:
    unknown = () if place.at == "off" else ("heat_w",)
    loss_pa = figure(part, "pressure_loss_pa_at_5")
    if part.heat_w is None:
        return [_at_five("inlet", "outlet", loss_pa, unknown=unknown)]
    set_c, heat_w = known_figure(part, "set_c"), part.heat_w
    least = 0.0
    if isinstance(part, heat.ThroughFlowGas):
        least = figure(part, "least_w")
        scale = figure(part, "summer_share") if part.season == "summer" else 1.0
        heat_w, least = heat_w * scale, least * scale
        if part.control == "two knobs":
            heat_w, set_c = max(least, heat_w * part.gas_share), None
            least = heat_w
    if isinstance(part, heat.ThroughFlowElectric):
        least = 0.0 if set_c is not None else heat_w
    most_c = limit_of(part)
    figures = (
        set_c if set_c is not None else most_c, heat_w, least,
        max(figure(part, "on_flow_m3_per_s"), place.trips_m3_per_s),
        max(figure(part, "off_flow_m3_per_s"), place.trips_m3_per_s), most_c,
    )  # fmt: skip
    burns = place.at != "off" and place.sparks
    kind = kernel.THROUGH if burns else kernel.PLAIN
    return [_at_five("inlet", "outlet", loss_pa, heat=kind, warmth=figures)]


def _own_pump(flow: float, head: float, **more: Unpack[More]) -> NetworkElement:
    """A heater that moves its coolant itself, unless the circuit has a pump."""
    more["role"] = "own"
    return NetworkElement("inlet", "outlet", laws.ROUND, (flow, head), **more)


def passive(element: NetworkElement) -> NetworkElement:
    """Give a way with a pump of its own as it is once another pump drives the circuit.

    Parameters
    ----------
    element : NetworkElement
        Of role "own". [-]

    Returns
    -------
    NetworkElement
        A mere resistance: what its own pump could push, taken at the flow it could move. [-]

    References
    ----------
    White, Fluid Mechanics, ch. 11: a pump that stands still takes what it would have given.
    """
    flow, head = element.figures
    return replace(element, law=laws.FACTOR, figures=(head / flow**2,), role="idle")


def _liquid_heater(part: heat.LiquidHeater, place: Place) -> list[NetworkElement]:
    own = _own_pump(*OWN_PUMP)
    if place.at == "off":
        return [passive(own)]
    if part.heat_w is None:
        return [replace(own, unknown=("heat_w",))]
    return [replace(own, heat=kernel.POWER, warmth=(part.set_c, part.heat_w, 0.0, 0.0, 0.0))]


def _engine(part: heat.EngineCoolant, place: Place) -> list[NetworkElement]:
    flow = figure(part, "flow_m3_per_s")
    if place.at == "off":  # nobody drives, and its tail is over
        return [passive(_own_pump(1.5 * flow, ENGINE_HEAD_PA))]
    at_c = held_c(part, place.fitted, place.conditions)
    return [_own_pump(1.5 * flow, ENGINE_HEAD_PA, heat=kernel.HELD_AT, warmth=(at_c,))]


def _coil(part: heat.Coil, place: Place) -> list[NetworkElement]:
    outside = figure(part, "outside_m")
    bore = max(0.5 * outside, outside - 2 * COIL_WALL_M)
    at_c = place.conditions.fresh_c
    if place.host is not None:
        at_c = held_c(place.host, place.fitted, place.conditions)
    figures = (figure(part, "length_m"), bore, 1.5, 1.5e-6, COILED)
    pieces = 1
    if isinstance(place.host, heat.Store) and place.host.volume_m3:
        one, other = coil_layers(part, layers_of(place.host, place.host.volume_m3))
        pieces = abs(one - other) + 1
    warmth = (at_c, figure(part, "conductance_w_per_k"), float(pieces))
    return [
        NetworkElement("inlet", "outlet", laws.PIPE, figures, heat=kernel.IN_STORE, warmth=warmth)
    ]


def layers_of(part: heat.Store, volume_m3: float) -> int:
    """Give how many layers a store is taken in.

    Parameters
    ----------
    part : Store
        The store. [-]
    volume_m3 : float
        Its water, > 0. [m³]

    Returns
    -------
    int
        As entered, else by its volume and height. [-]
    """
    if part.layers is not None:
        return part.layers
    return default_layers(volume_m3=volume_m3, height_m=figure(part, "height_m"))


def coil_layers(part: heat.Coil, count: int) -> tuple[int, int]:
    """Give the layers a coil passes, from its upper end to its lower.

    Parameters
    ----------
    part : Coil
        The coil. [-]
    count : int
        Layers of its store, > 0. [-]

    Returns
    -------
    tuple of int
        Counted from the bottom, 0 first. [-]

    References
    ----------
    Geometry: how much of the height a coil spans.
    """
    high, low = figure(part, "high_share"), figure(part, "low_share")
    return min(count - 1, int(high * count)), min(count - 1, int(low * count))


def _plate(part: heat.PlateExchanger, place: Place) -> list[NetworkElement]:
    warmth = (0.0, figure(part, "conductance_w_per_k"))
    loss_pa = figure(part, "pressure_loss_pa_at_5")
    return [
        _at_five(f"{s}_in", f"{s}_out", loss_pa, heat=kernel.EXCHANGE, warmth=warmth, role=s)
        for s in ("hot", "cold")
    ]


def _air_coil(part: heat.AirCoil, place: Place) -> list[NetworkElement]:
    around, loss_pa = place.conditions, figure(part, "pressure_loss_pa_at_5")
    conductance = around.air_w_per_k.get(part.id, figure(part, "conductance_w_per_k"))
    warmth = (around.at_c.get(part.id, 80.0), conductance)
    return [_at_five("inlet", "outlet", loss_pa, heat=kernel.BODY, warmth=warmth)]


def _reuse(part: waste.ReuseLoop, place: Place) -> list[NetworkElement]:
    warmth = (38.0, figure(part, "conductance_w_per_k"))
    laid = _at_five("hot_in", "hot_out", 5e3, heat=kernel.BODY, warmth=warmth)
    return [laid] if place.at == "on" else []


def _hose(part: moved.LooseHose, place: Place) -> list[NetworkElement]:
    if not part.length_m:
        return [NetworkElement("inlet", "outlet", unknown=("length_m",))]
    figures = (part.length_m, figure(part, "bore_m"), 0.0, 1.5e-6, 1.0)
    return [NetworkElement("inlet", "outlet", laws.PIPE, figures)]


def _lossy(part: moved.ShutOff | moved.Selector, place: Place) -> list[NetworkElement]:
    """A valve whose loss counts on the bore of the run before it."""
    loss_k = figure(part, "loss_k")
    return [_by_loss(one, other, loss_k, place.bore_m) for one, other in part.ways(place.at)]


def _diverter(part: temperature.ReturnDiverter, place: Place) -> list[NetworkElement]:
    """Open to the outlet; what goes to the tank runs only while somebody opens an outlet."""
    role, loss_k = "divert" if place.at == "to the tank" else "", figure(part, "loss_k")
    ways = part.ways(place.at)
    return [_by_loss(one, other, loss_k, place.bore_m, role=role) for one, other in ways]


def _split(part: moved.Split, place: Place) -> list[NetworkElement]:
    loss_k = figure(part, "loss_k")
    return [_by_loss("inlet", "outlet", loss_k, place.bore_m), NetworkElement("outlet", "branch")]


def _factored(part: moved.Coupling | moved.Solenoid, place: Place) -> list[NetworkElement]:
    return [_by_factor(one, other, part.flow_factor_si) for one, other in part.ways(place.at)]


def _free(part: AnyKind, place: Place) -> list[NetworkElement]:
    return [NetworkElement(one, other) for one, other in part.ways(place.at)]


def _sink(part: AnyKind, place: Place) -> list[NetworkElement]:
    return [NetworkElement("inlet", AIR, one_way=True)]


ELEMENTS: Final[dict[type, Callable[[Any, Place], list[NetworkElement]]]] = {
    moved.FreshTank: _fresh_tank,
    moved.LooseContainer: _container,
    moved.OutsideSource: _outside,
    moved.GravityBag: _bag,
    moved.PressurisedInlet: _inlet,
    moved.Pump: _pump,
    moved.Submersible: _submersible,
    moved.FootPump: _stroked,
    moved.HandPump: _stroked,
    moved.Accumulator: _free,
    moved.Split: _split,
    moved.ShutOff: _lossy,
    moved.Selector: _lossy,
    moved.CheckValve: _check,
    moved.Reducer: _reducer,
    moved.FlowLimiter: _limiter,
    moved.Relief: _relief,
    moved.Drain: _drain,
    moved.Strainer: _strainer,
    moved.Filter: _filter,
    moved.Coupling: _factored,
    moved.LooseHose: _hose,
    moved.Solenoid: _factored,
    temperature.ThermostaticMixer: _mixer,
    temperature.ManualMixer: _mixer,
    temperature.ReturnDiverter: _diverter,
    temperature.LoopPump: _loop_pump,
    use.ShowerHead: _outlet,
    use.Tap: _outlet,
    use.OutsideOutlet: _outlet,
    use.BottleFill: _outlet,
    use.ToiletFlush: _outlet,
    use.Appliance: _outlet,
    primary.CirculationPump: _circulator,
    primary.ExpansionVessel: _header,
    heat.Store: _store,
    heat.Combi: _body,
    heat.Canister: _body,
    heat.SunContainer: _body,
    heat.ThroughFlowGas: _through_flow,
    heat.ThroughFlowElectric: _through_flow,
    heat.LiquidHeater: _liquid_heater,
    heat.EngineCoolant: _engine,
    heat.Coil: _coil,
    heat.PlateExchanger: _plate,
    heat.AirCoil: _air_coil,
    heat.Interlock: _free,
    gauges.FlowMeter: _free,
    waste.ReuseLoop: _reuse,
    waste.Trap: _free,
    waste.DumpPump: _free,
    waste.GreyTank: _sink,
    waste.WasteContainer: _sink,
    waste.OpenDrain: _sink,
}

# ports that are one with another of the same part: the same water at the same place
ALIASES: Final[Mapping[type, Mapping[str, str]]] = {
    heat.Store: {"drain": "inlet", "relief": "outlet"},
    heat.Combi: {"drain": "inlet"},
    heat.Canister: {"relief": "outlet"},
}


def elements_of(part: AnyKind, place: Place) -> list[NetworkElement]:
    """List the ways water can take through a part as it stands.

    Parameters
    ----------
    part : a kind of part
        With likely figures settled. [-]
    place : Place
        Its surroundings. [-]

    Returns
    -------
    list of NetworkElement
        None for caps, vents and whatever no water passes. [-]
    """
    make = ELEMENTS.get(type(part))
    return make(part, place) if make is not None else []


def area_m2(bore_m: float) -> float:
    """Give the area of a round bore.

    Parameters
    ----------
    bore_m : float
        Diameter. [m]

    Returns
    -------
    float
        Area. [m²]

    References
    ----------
    Geometry of a circle.

    Examples
    --------
    >>> round(area_m2(0.02) * 1e6, 2)
    314.16
    """
    return pi / 4 * bore_m**2
