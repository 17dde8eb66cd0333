"""What a design with given figures makes of sessions: stores, heaters, pumps, outlets, tanks."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from math import exp, log
from typing import Final

import numpy as np

from isotherma.core import water as liquid
from isotherma.core.bench_sums.base import capacity_j_per_k
from isotherma.core.fields import known_or
from isotherma.core.learning.rows import Row, Session
from isotherma.core.supply.feeds import element_volts
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat, temperature, use, water
from isotherma.core.system.nominal import ComputedSystem, known_figure

LITRE, BAR, MINUTE = 1e-3, 1e5, 60.0
L_PER_MIN: Final = LITRE / MINUTE
CURVE: Final = 6  # rows of a curve that says something alone
FILLED_C, USED_C = 15.0, 60.0
FAST_S: Final = 1.0  # readings of a lag are no further apart
FULL_FIRE_K: Final = 1.5  # under its setting a heater is still at full fire
STORES: Final = (heat.Store, heat.Combi, heat.Canister)


@dataclass(frozen=True, slots=True)
class Piece:
    """Rows that one law foretells, the figures it needs, and figures of its session alone.

    `figures` are paths, by what the law calls them; `own` start values of temperatures that only
    this piece has [°C]. `law` gives the rows' values in their units.
    """

    rows: tuple[Row, ...]
    figures: Mapping[str, tuple[str, str]]
    own: tuple[float, ...]
    law: Callable[[Mapping[str, float], tuple[float, ...]], list[float]]
    starts: Mapping[str, float]


@dataclass(frozen=True, slots=True)
class Surroundings:
    """What a design stands in where nobody read it [°C]."""

    air_c: float
    cold_c: float


def pieces_of(
    known: ComputedSystem, sessions: tuple[Session, ...], around: Surroundings,
    flow_of: Callable[[str, float], float] | None,
) -> Iterator[Piece]:  # fmt: skip
    """Give what the sessions' rows are foretold by.

    Parameters
    ----------
    known : ComputedSystem
        The design with likely figures. [SI]
    sessions : tuple of Session
        By name. [see `KINDS`]
    around : Surroundings
        Where no air or water was read. [°C]
    flow_of : callable or None
        Solves an outlet alone with another flow factor. [SI]

    Returns
    -------
    iterator of Piece
        Rows that nothing foretells are in none. [see `KINDS`]
    """
    parts = {part.id: part for part in known.parts}
    for session in sessions:
        for part_id in session.parts("temp"):
            part = parts.get(part_id)
            if isinstance(part, STORES) and session.kind in ("cool_down", "heat_up"):
                yield from _store(known, session, part, around)
            elif isinstance(part, water.FreshTank):
                yield _cold(session, part_id, around)
            elif isinstance(part, heat.ThroughFlow):
                yield from _through_flow(session, part, around)
            elif isinstance(part, use.Outlet):
                yield from _lag(known, session, part_id)
        yield from _timed(known, session, around)
        yield from _electric(known, session)
        yield from _flows(known, session, flow_of)
        yield from _stored(known, session)


def _capacity(volume_m3: float, body_j_per_k: float) -> float:
    """Give a store's heat, filled cold and used hot: one figure, whatever was read of it."""
    return capacity_j_per_k(volume_m3, FILLED_C, USED_C) + body_j_per_k


def _store(
    known: ComputedSystem, session: Session, part: AnyKind, around: Surroundings
) -> Iterator[Piece]:
    """Follow one store as one temperature: it loses to the air, and is heated or not."""
    rows = session.of("temp", part.id)
    if len(rows) < 2:
        return
    times = np.array([row.time_s for row in rows])
    values = [row.value for row in rows]
    middles = 0.5 * (times[1:] + times[:-1])
    air = session.held("air", middles, around.air_c)
    body = known_figure(part, "body_j_per_k")
    if body is None:
        return  # its heat hangs on what nobody knows
    figures = {"loss": (part.id, "loss_w_per_k"), "volume": (part.id, "volume_m3")}
    heats = session.kind == "heat_up"
    source = _source(known, session, part) if heats else None
    if heats and source is None:
        return
    warm: np.ndarray[tuple[int], np.dtype[np.float64]] | None = None
    if source is not None:
        figures |= source.figures
        if source.primary is not None:
            warm = np.interp(middles, [row.time_s for row in source.primary],
                             [row.value for row in source.primary])  # fmt: skip

    def law(given: Mapping[str, float], own: tuple[float, ...]) -> list[float]:
        capacity = _capacity(given["volume"], body)
        celsius, found = own[0], [own[0]]
        for place, step in enumerate(np.diff(times)):
            gain, per_k = given["loss"] * air[place], given["loss"]
            if warm is not None:
                gain += given["conductance"] * warm[place]
                per_k += given["conductance"]
            elif source is not None:
                gain += source.watts(given, own)
            rests = gain / per_k
            celsius = rests + (celsius - rests) * exp(-min(700.0, per_k * float(step) / capacity))
            found.append(celsius)
        return found

    yield Piece(rows, figures, (values[0],), law, _store_starts(rows, air, heats=heats))


def _store_starts(
    rows: tuple[Row, ...], air: np.ndarray[tuple[int], np.dtype[np.float64]], *, heats: bool
) -> dict[str, float]:
    """Give start values where nobody knows a figure: slope of the logarithm, by ten litres."""
    span = rows[-1].time_s - rows[0].time_s
    first, last, mean = rows[0].value, rows[-1].value, float(np.mean(air)) if len(air) else 15.0
    if heats or span <= 0.0 or not first > last > mean:
        return {"loss": 0.5}
    return {"loss": capacity_j_per_k(0.01, last, first) / span * log(
        (first - mean) / (last - mean))}  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Source:
    """What heats a store in a session, and how many watts it gives."""

    figures: Mapping[str, tuple[str, str]]
    watts: Callable[[Mapping[str, float], tuple[float, ...]], float]
    primary: tuple[Row, ...] | None = None


def _source(known: ComputedSystem, session: Session, part: AnyKind) -> _Source | None:
    """Find what heats: what was read of it decides, else the only one there is."""
    inside = [one for one in known.parts if one.fitted_in == part.id]
    for primary in session.parts("temp"):
        one = next((item for item in known.parts if item.id == primary), None)
        coil = next((item for item in inside if isinstance(item, heat.Coil)), None)
        if coil is not None and isinstance(one, heat.LiquidHeater | heat.EngineCoolant):
            return _Source({"conductance": (coil.id, "conductance_w_per_k")}, lambda *_: 0.0,
                           session.of("temp", primary))  # fmt: skip
    elements = [one for one in inside if isinstance(one, heat.Element)]
    read = [one for one in elements if session.of("amps", one.id) or session.of("volts", one.id)]
    element = next(iter(read or elements), None)
    if element is not None:
        volts = session.mean("volts", element.id)
        if volts is not None and session.mean("amps", element.id) is not None:
            return _Source({"ohm": (element.id, "resistance_ohm")},
                           lambda given, _: volts**2 / given["ohm"])  # fmt: skip
        return _Source({"power": (element.id, "power_w")}, lambda given, _: given["power"])
    if isinstance(part, heat.Combi):
        return _combi(part)
    return None


def _combi(part: heat.Combi) -> _Source:
    from_c = FILLED_C if part.from_c is None else part.from_c
    to_c = known_or(part.to_c, part.set_c)

    def watts(given: Mapping[str, float], own: tuple[float, ...]) -> float:
        rise = max(1.0, to_c - from_c)
        return _capacity(given["volume"], 0.0) * rise / given["heats_in"]

    return _Source({"heats_in": (part.id, "heats_in_s")}, watts)


def _timed(known: ComputedSystem, session: Session, around: Surroundings) -> Iterator[Piece]:
    """Foretell minutes from one temperature to another."""
    for row in session.rows:
        if row.reading.kind not in ("heat_up", "cool_down") or row.reading.from_c is None:
            continue
        part = next((one for one in known.parts if one.id == row.reading.part), None)
        if not isinstance(part, STORES) or row.reading.to_c is None:
            continue
        heats = row.reading.kind == "heat_up"
        source = _source(known, session, part) if heats else None
        body = known_figure(part, "body_j_per_k")
        if (heats and source is None) or body is None:
            continue
        figures = {"loss": (part.id, "loss_w_per_k"), "volume": (part.id, "volume_m3"),
                   **({} if source is None else source.figures)}  # fmt: skip
        air = float(session.held("air", np.array([row.time_s]), around.air_c)[0])
        yield Piece((row,), figures, (), _minutes(row, body, source, air), {"loss": 0.5})


def _minutes(
    row: Row, body: float, source: _Source | None, air: float
) -> Callable[[Mapping[str, float], tuple[float, ...]], list[float]]:
    from_c, to_c = row.reading.from_c, row.reading.to_c
    assert from_c is not None and to_c is not None

    def law(given: Mapping[str, float], own: tuple[float, ...]) -> list[float]:
        capacity = _capacity(given["volume"], body)
        watts = 0.0 if source is None else source.watts(given, own)
        rests = air + watts / given["loss"]
        ahead, left = from_c - rests, to_c - rests
        if ahead * left <= 0.0:
            return [1e4]  # it never gets there
        return [capacity / given["loss"] * log(ahead / left) / MINUTE]

    return law


def _cold(session: Session, part_id: str, around: Surroundings) -> Piece:
    rows = session.of("temp", part_id)
    return Piece(rows, {"cold": ("brief", "cold_water_c")}, (),
                 lambda given, _: [given["cold"]] * len(rows), {})  # fmt: skip


def _through_flow(
    session: Session, part: heat.ThroughFlow, around: Surroundings
) -> Iterator[Piece]:
    """Rise by flow at full fire; rows at its setting say nothing of its heat."""
    flows = session.of("flow")
    cold = session.mean("temp", next((key for key in session.parts("temp") if "tank" in key), ""))
    cold_c = around.cold_c if cold is None else cold
    share = 1.0
    if isinstance(part, heat.ThroughFlowGas) and part.control == "two knobs":
        share = part.gas_share
    set_c = known_figure(part, "set_c")
    rows, flowing = [], []
    for row in session.of("temp", part.id):
        flow = next((one for one in flows if one.time_s == row.time_s), None)
        knobs = isinstance(part, heat.ThroughFlowGas) and part.control == "two knobs"
        full = knobs or set_c is None or row.value < set_c - FULL_FIRE_K
        if flow is not None and flow.value > 0.0 and full:
            rows.append(row)
            flowing.append(flow.value * L_PER_MIN)
    if not rows:
        return
    middle = 0.5 * (cold_c + max(row.value for row in rows))
    mass = liquid.density_kg_per_m3(cold_c) * liquid.mean_specific_heat_j_per_kg_k(
        cold_c, max(cold_c + 1.0, 2 * middle - cold_c))  # fmt: skip

    def law(given: Mapping[str, float], own: tuple[float, ...]) -> list[float]:
        return [cold_c + given["heat"] * share / (mass * flow) for flow in flowing]

    start = max(100.0, (rows[0].value - cold_c) * mass * flowing[0] / share)
    yield Piece(tuple(rows), {"heat": (part.id, "heat_w")}, (), law, {"heat": start})


def _lag(known: ComputedSystem, session: Session, outlet: str) -> Iterator[Piece]:
    """Follow a step at an outlet behind a mixing valve, read at least each second."""
    rows = session.of("temp", outlet)
    mixer = next((one for one in known.parts
                  if isinstance(one, temperature.ThermostaticMixer)), None)  # fmt: skip
    if mixer is None or session.kind != "draw" or len(rows) < CURVE:
        return
    times = np.array([row.time_s for row in rows])
    if float(np.max(np.diff(times))) > FAST_S:
        return
    since = times - times[0]

    def law(given: Mapping[str, float], own: tuple[float, ...]) -> list[float]:
        first, last = own
        return [last + (first - last) * exp(-float(one) / given["lag"]) for one in since]

    yield Piece(rows, {"lag": (mixer.id, "lag_s")}, (rows[0].value, rows[-1].value), law,
                {"lag": 2.0})  # fmt: skip


def _electric(known: ComputedSystem, session: Session) -> Iterator[Piece]:
    """Amps by volts over ohms, or by watts over volts; energy of batteries and of loads."""
    parts = {part.id: part for part in known.parts}
    for part_id in session.parts("amps"):
        part = parts.get(part_id)
        if not isinstance(part, heat.Element):
            continue
        rows = session.of("amps", part_id)
        times = np.array([row.time_s for row in rows])
        if session.of("volts", part_id):
            volts = session.held("volts", times, 0.0, part_id)
            yield Piece(rows, {"ohm": (part_id, "resistance_ohm")}, (),
                        _by_ohm(volts.tolist()), {"ohm": float(volts[0]) / max(
                            0.01, rows[0].value)})  # fmt: skip
        else:
            at_v = element_volts(known, part)
            yield Piece(rows, {"power": (part_id, "power_w")}, (),
                        _by_power(at_v, len(rows)), {"power": at_v * rows[0].value})  # fmt: skip
    for part_id in session.parts("wh_to_empty"):
        if isinstance(parts.get(part_id), electric.Battery):
            rows = session.of("wh_to_empty", part_id)
            yield Piece(rows, {"energy": (part_id, "usable_j")}, (), _scaled(
                "energy", 1.0 / 3600.0, len(rows)), {"energy": rows[0].value * 3600.0})  # fmt: skip
    loads = [part for part in known.parts if isinstance(part, electric.Load)]
    rows = session.of("amp_hours")
    if rows and len(loads) == 1:
        scale = 1.0 / (3600.0 * known.nominal_v)
        yield Piece(rows, {"energy": (loads[0].id, "day_j")}, (), _scaled(
            "energy", scale, len(rows)), {"energy": rows[0].value / scale})  # fmt: skip


def _by_ohm(volts: list[float]) -> Callable[[Mapping[str, float], tuple[float, ...]], list[float]]:
    return lambda given, _: [one / given["ohm"] for one in volts]


def _by_power(
    volts: float, count: int
) -> Callable[[Mapping[str, float], tuple[float, ...]], list[float]]:
    return lambda given, _: [given["power"] / volts] * count


def _scaled(
    name: str, scale: float, count: int
) -> Callable[[Mapping[str, float], tuple[float, ...]], list[float]]:
    return lambda given, _: [given[name] * scale] * count


def _flows(
    known: ComputedSystem, session: Session, flow_of: Callable[[str, float], float] | None
) -> Iterator[Piece]:
    """Flow with a pressure beside it: a pump's straight line, an outlet's root; else solved."""
    used: set[int] = set()
    for part in known.parts:
        pressures = session.of("pressure", part.id)
        if isinstance(part, water.Pump) and pressures and not part.points:
            pairs = [(flow, one.value * BAR) for one in pressures
                     for flow in _flow_beside(session, one, part.id)]  # fmt: skip
            if pairs:
                yield _pump(part.id, pairs)
                used |= {flow.number for flow, _ in pairs}
    for part in known.parts:
        if not isinstance(part, use.Outlet):
            continue
        pairs = [(flow, one.value * BAR) for one in session.of("pressure", part.id)
                 if (flow := session.at(one.time_s, "flow", part.id)) is not None
                 and one.value > 0.0]  # fmt: skip
        if pairs:
            yield _outlet(part.id, pairs)
            used |= {flow.number for flow, _ in pairs}
        # two flows of one step of a stage were read with both outlets open
        alone = tuple(row for row in session.of("flow", part.id) if row.number not in used
                      and not (session.kind == "stage" and _others(session, row)))  # fmt: skip
        if alone and flow_of is not None and session.kind in ("flow", "stage", "draw"):
            yield _solved(part.id, alone, flow_of)


def _others(session: Session, row: Row) -> bool:
    return any(other.time_s == row.time_s and other.reading.part != row.reading.part
               for other in session.of("flow"))  # fmt: skip


def _flow_beside(session: Session, pressure: Row, pump: str) -> Iterator[Row]:
    own = session.at(pressure.time_s, "flow", pump)
    others = [row for row in session.of("flow") if row.time_s == pressure.time_s]
    if own is not None:
        yield own
    elif len(others) == 1:
        yield others[0]


def _pump(part_id: str, pairs: list[tuple[Row, float]]) -> Piece:
    def law(given: Mapping[str, float], own: tuple[float, ...]) -> list[float]:
        return [max(0.0, given["open"] * (1.0 - pa / given["shut"])) / L_PER_MIN
                for _, pa in pairs]  # fmt: skip

    highest = max(pa for _, pa in pairs)
    most = max(row.value for row, _ in pairs) * L_PER_MIN
    figures = {"open": (part_id, "open_flow_m3_per_s"), "shut": (part_id, "shut_pressure_pa")}
    return Piece(tuple(row for row, _ in pairs), figures, (), law,
                 {"open": 1.5 * most, "shut": 1.5 * highest})  # fmt: skip


def _outlet(part_id: str, pairs: list[tuple[Row, float]]) -> Piece:
    def law(given: Mapping[str, float], own: tuple[float, ...]) -> list[float]:
        return [given["factor"] * pa**0.5 / L_PER_MIN for _, pa in pairs]

    row, pa = pairs[0]
    return Piece(tuple(one for one, _ in pairs), {"factor": (part_id, "flow_factor_si")}, (), law,
                 {"factor": row.value * L_PER_MIN / pa**0.5})  # fmt: skip


def _solved(part_id: str, rows: tuple[Row, ...], flow_of: Callable[[str, float], float]) -> Piece:
    def law(given: Mapping[str, float], own: tuple[float, ...]) -> list[float]:
        return [flow_of(part_id, given["factor"]) / L_PER_MIN] * len(rows)

    return Piece(rows, {"factor": (part_id, "flow_factor_si")}, (), law,
                 {"factor": rows[0].value * L_PER_MIN / (1.2 * BAR) ** 0.5})  # fmt: skip


def _stored(known: ComputedSystem, session: Session) -> Iterator[Piece]:
    """Litres between overflow and air are a tank's usable volume."""
    for part in known.parts:
        rows = session.of("litres", part.id)
        if isinstance(part, water.FreshTank) and session.kind == "fill" and rows:
            yield Piece(rows, {"volume": (part.id, "volume_m3")}, (),
                        _scaled("volume", 1.0 / LITRE, len(rows)),
                        {"volume": rows[0].value * LITRE})  # fmt: skip
