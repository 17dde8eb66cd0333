"""Pressure: what can be shut in while it is heated, relief, mains, hot plastic."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core import water as fluids
from isotherma.core.checks.circuits import coolant_c
from isotherma.core.checks.found import PRESSURE, Found, Severity, check
from isotherma.core.checks.look import Look, held_m3
from isotherma.core.findings import Quantity
from isotherma.core.results.expansion import AIR_PA
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat, use, water
from isotherma.core.system.nominal import known_figure

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
VESSELS: Final = (heat.Store, heat.Combi, heat.Canister)
STOPPERS: Final = (water.ShutOff, water.CheckValve, water.Selector, water.Solenoid,
                   water.FlowLimiter, water.Strainer)  # fmt: skip
OVER_K: Final = 5.0  # thermostats go off at their setting; ours
COLD_C: Final = 5.0
LEAST_M3: Final = 5e-5
BEARS_AT_MOST_PA: Final = 25e5  # no part of such systems bears more; judgement
GIVES_PER_PA: Final = 1e-3 / 1e5  # of plastic pipe: a thousandth of its litres a bar; ours
PLATE_M3, PLATES = 5e-4, 20  # a small brazed exchanger's one side, and its plates; judgement
HEAT_RELIEF_C, HEAT_RELIEF_PA = 99.0, 10.3e5


def sources_of(look: Look, vessel: AnyKind) -> list[AnyKind]:
    """List what may heat a vessel as it stands.

    Parameters
    ----------
    look : Look
        The design in a state. [-]
    vessel : part
        A store, combi or canister. [-]

    Returns
    -------
    list of parts
        Elements, burners and coils in it, or itself. [-]
    """
    if isinstance(vessel, heat.Combi):
        return [vessel] if look.lit(vessel) and vessel.id not in look.dry else []
    found: list[AnyKind] = []
    for part in look.system.fitted(vessel.id):
        if isinstance(part, heat.Element | heat.Burner) and look.lit(part):
            found.append(part)
        if isinstance(part, heat.Coil) and vessel.id not in look.dry:
            found.append(part)
    return found


def hottest_c(look: Look, vessel: AnyKind) -> float | None:
    """Give the hottest a vessel may get by its settings; None where nothing heats it.

    Parameters
    ----------
    look : Look
        The design in a state. [-]
    vessel : part
        A store, combi or canister. [-]

    Returns
    -------
    float or None
        The highest setting of what may light, 5 K over; coolant as hot as it is. [°C]

    References
    ----------
    Ours: thermostats go off at their setting.
    """
    found = []
    for source in sources_of(look, vessel):
        if isinstance(source, heat.Coil):
            coolant = coolant_c(look, source.id, ("inlet", "outlet"), OVER_K)
            found += [] if coolant is None else [coolant]
        else:
            set_c = known_figure(source, "set_c")
            found += [] if set_c is None else [set_c + OVER_K]
    return max(found, default=None)


def _closed(vessel: AnyKind) -> bool:
    if isinstance(vessel, heat.Combi):
        return True
    return isinstance(vessel, heat.Store | heat.Canister) and vessel.nature == "closed"


def in_primary(look: Look, vessel: AnyKind) -> bool:
    """Say whether a vessel holds coolant, not water people use.

    Parameters
    ----------
    look : Look
        The design. [-]
    vessel : part
        A store, combi or canister. [-]

    Returns
    -------
    bool
        True where a coolant is said to fill its circuit. [-]
    """
    return any(
        part.kind == "primary_fluid" and getattr(part, "fills", None) is not None
        and _same_circuit(look, vessel.id, part.fills) for part in look.system.parts
        if part.kind == "primary_fluid"
    )  # fmt: skip


def _same_circuit(look: Look, vessel: str, other: str | None) -> bool:
    if other == vessel:
        return True
    if other is None:
        return False
    return any(
        key == other and port not in ("cold_in", "cold_out")
        for name in ("inlet", "outlet")
        for key, port in look.usually(vessel, name)
    ) and not isinstance(look.parts[other], heat.Coil)


def shut_in(look: Look, vessel: AnyKind) -> set[str]:
    """Give the parts water of a vessel can push into, as everything stands.

    Parameters
    ----------
    look : Look
        The design in a state. [-]
    vessel : part
        A store, combi or canister. [-]

    Returns
    -------
    set of str
        Up to check valves against it, reducers, pumps, shut valves and outlets. [-]
    """
    return _pushed(look, [
        (vessel.id, port.name) for port in vessel.ports if port.medium in ("water", "fluid")
    ])  # fmt: skip


def _pushed(look: Look, waiting: list[tuple[str, str]]) -> set[str]:
    """Walk from ports over all that water can push through."""
    found = {key for key, _ in waiting}
    ports = set(waiting)
    ends: dict[tuple[str, str], list[tuple[str, str]]] = {}
    for run in look.pipes:
        one, other = (run.start.part, run.start.port), (run.end.part, run.end.port)
        ends.setdefault(one, []).append(other)
        ends.setdefault(other, []).append(one)
    while waiting:
        node = waiting.pop()
        for key, name in ends.get(node, ()):
            if (key, name) in ports:
                continue
            ports.add((key, name))
            part = look.parts[key]
            found.add(key)
            for beyond in _passes(look, part, name):
                if (key, beyond) not in ports:
                    ports.add((key, beyond))
                    waiting.append((key, beyond))
    return found


def _passes(look: Look, part: AnyKind, port: str) -> Iterator[str]:
    """Give the ports water pushes on to from one of a part."""
    if isinstance(part, water.Pump):
        return
    if isinstance(part, water.Reducer):
        return
    if isinstance(part, water.CheckValve) and port == "outlet":
        return  # against it
    if isinstance(part, (use.Outlet, water.Relief)):
        return
    if part.kind in ("thermostatic_mixer", "manual_mixer"):
        if getattr(part, "checks", None) == "both legs" and port == "outlet":
            return
        if getattr(part, "checks", None) == "both legs":
            yield "outlet"
            return
    for one, other in part.ways(look.at.get(part.id, "")):
        if port in (one, other):
            yield other if port == one else one


def _frees(look: Look, keys: set[str]) -> bool:
    """Say whether water can get back to where nothing holds it."""
    for key in keys:
        part = look.parts[key]
        free = isinstance(
            part, water.FreshTank | water.LooseContainer | water.GravityBag | water.OutsideSource
        )
        opens = isinstance(part, heat.Store) and part.nature != "closed"
        header = part.kind == "expansion_vessel" and getattr(part, "open_header", False)
        drain = isinstance(part, water.Drain) and look.at.get(key) == "open"
        apart = (isinstance(part, water.Coupling) and look.at.get(key) == "apart"
                 and part.sealing == "neither")  # fmt: skip
        if free or opens or header or drain or apart or isinstance(part, heat.SunContainer):
            return True
    return False


def kept_pa(look: Look) -> float:
    """Give the pressure a pump or a reducer leaves.

    Parameters
    ----------
    look : Look
        The design. [-]

    Returns
    -------
    float
        The highest; 0 where nothing is known. [Pa]
    """
    found = []
    for part in look.known.parts:
        if isinstance(part, water.Pump):
            name = "shut_pressure_pa" if part.control == "constant pressure" else "cut_out_pa"
            value = known_figure(part, name)
            found += [] if value is None else [value]
        elif isinstance(part, water.Reducer) and part.set_pa is not None:
            found.append(part.set_pa)
    return max(found, default=0.0)


def weakest_of(look: Look, keys: set[str]) -> tuple[float | None, str]:
    """Find what bears least of some parts and the runs between them.

    Parameters
    ----------
    look : Look
        The design. [-]
    keys : set of str
        Ids of parts. [-]

    Returns
    -------
    tuple of float or None and str
        What it bears, and its id; None and "" where none is known. [Pa]
    """
    rated = [(value, key) for key in keys
             if (value := known_figure(look.parts[key], "max_pa")) is not None]  # fmt: skip
    for run in look.pipes:
        if run.max_pa is not None and {run.start.part, run.end.part} <= keys:
            rated.append((run.max_pa, run.id))
    return min(rated) if rated else (None, "")


@check("pressure.no-relief", "pressure.relief-shut", "pressure.heat-relief")
def _no_relief(look: Look) -> Iterator[Found]:
    """Vessels that can be shut in while they are heated."""
    for vessel in look.system.parts:
        if not isinstance(vessel, VESSELS) or not _closed(vessel) or in_primary(look, vessel):
            continue
        joined = {end.port for _, end, _ in look.system.joined(vessel.id)}
        if not joined & {"inlet", "outlet"}:
            continue
        keys = shut_in(look, vessel)
        reliefs = [part for key in keys
                   if isinstance(part := look.parts[key], water.Relief)]  # fmt: skip
        free = _frees(look, keys)
        if not free or reliefs:
            yield from _behind_valve(look, vessel, reliefs)
        yield from _by_heat(look, vessel, reliefs)
        if not free and not reliefs:
            yield from _grows(look, vessel, keys, _vessel_grows(look, vessel))
    yield from _plates_shut_in(look)


def _vessel_grows(look: Look, vessel: AnyKind) -> float | None:
    """Give by how much the water of a vessel grows up to its cut-out; None where nothing heats."""
    hot = hottest_c(look, vessel)
    volume = known_figure(look.likely[vessel.id], "volume_m3")
    if hot is None or volume is None or volume < LEAST_M3:
        return None
    cutouts = [known_figure(one, "opens_c") for one in look.known.parts
               if isinstance(one, heat.HighLimit)
               and (one.fitted_in == vessel.id or one.guards == vessel.id)]  # fmt: skip
    return grown(volume, max([hot, *(value for value in cutouts if value is not None)]))


def grown(volume_m3: float, hot_c: float) -> float:
    """Give by how much water grows from cold to hot.

    Parameters
    ----------
    volume_m3 : float
        Of cold water. [m³]
    hot_c : float
        As hot as it gets. [°C]

    Returns
    -------
    float
        From 5 °C. [m³]

    References
    ----------
    Densities of `water`: 10 to 60 °C 1.7 %, 10 to 80 °C 2.9 %.

    Examples
    --------
    >>> round(1e6 * grown(0.010, 60.0))
    171
    """
    cold = fluids.density_kg_per_m3(COLD_C)
    return volume_m3 * (cold / fluids.density_kg_per_m3(min(hot_c, 99.0)) - 1.0)


def _plates_shut_in(look: Look) -> Iterator[Found]:
    """Find the tap side of plates on hot coolant that is shut in."""
    for plate in look.system.parts:
        if not isinstance(plate, heat.PlateExchanger):
            continue
        wet = [end.port for _, end, _ in look.system.joined(plate.id)
               if end.port in ("cold_in", "cold_out")]  # fmt: skip
        hot = coolant_c(look, plate.id, ("hot_in", "hot_out"), OVER_K)
        if hot is None or not wet:
            continue
        keys = _pushed(look, [(plate.id, "cold_in"), (plate.id, "cold_out")])
        keys.discard(plate.id)
        if _frees(look, keys) or any(isinstance(look.parts[key], water.Relief) for key in keys):
            continue
        holds = PLATE_M3 if not plate.plates else PLATE_M3 / PLATES * plate.plates
        yield from _grows(look, plate, keys, grown(max(LEAST_M3, holds), hot))


def _grows(look: Look, part: AnyKind, keys: set[str], grows: float | None) -> Iterator[Found]:
    """Judge what grows with no relief and no way back."""
    if grows is None:
        return
    reaches = _reaches(look, keys, grows)
    weakest, _ = weakest_of(look, keys | {part.id})
    if weakest is None and reaches is not None and reaches <= BEARS_AT_MOST_PA:
        yield look.unknown("pressure.no-relief", PRESSURE, (f"parts.{part.id}.max_pa",), part.id)
        return
    bounded = reaches is not None and weakest is not None and reaches <= weakest
    yield look.found("pressure.no-relief", W if bounded else S, PRESSURE, part.id,
                     figure=Quantity(grows, "millilitres"))  # fmt: skip


def _reaches(look: Look, keys: set[str], grows: float) -> float | None:
    """Give the pressure a growing volume reaches against air and plastic; None without bound."""
    kept = kept_pa(look)
    gas_m3 = 0.0
    for key in keys:
        part = look.likely[key]
        if isinstance(part, water.Accumulator):
            size, before = known_figure(part, "volume_m3"), known_figure(part, "precharge_pa")
            if size is not None and before is not None:
                gas_m3 += size * (before + AIR_PA) / (max(kept, before) + AIR_PA)
    gives = GIVES_PER_PA * _plastic_m3(look, keys)
    if gas_m3 <= 0.0:
        return None if gives <= 0.0 else kept + grows / gives
    if gas_m3 <= grows:
        return None
    return (kept + AIR_PA) * gas_m3 / (gas_m3 - grows) - AIR_PA


def _plastic_m3(look: Look, keys: set[str]) -> float:
    """Give the water in plastic pipes and hoses between parts."""
    holds = 0.0
    for run in look.known.pipes:
        if run.start.part in keys and run.end.part in keys and run.material != "copper":
            holds += held_m3(run)
    return holds


def _behind_valve(look: Look, vessel: AnyKind, reliefs: list[water.Relief]) -> Iterator[Found]:
    """Find a relief that hangs behind something that can shut, with none nearer."""
    near = _unshut(look, vessel)
    if any(relief.id in near for relief in reliefs):
        return
    every = {
        part.id: part for part in look.system.parts if isinstance(part, water.Relief)
        and any(key == part.id for port in vessel.ports if port.medium in ("water", "fluid")
                for key, _ in look.usually(vessel.id, port.name, frozenset({"pump"})))
    }  # fmt: skip
    for relief in every.values():
        if relief.id in near:
            return
    for relief in list(every.values())[:1]:
        between = _between(look, vessel, relief)
        if between is not None:
            yield look.found("pressure.relief-shut", S, PRESSURE, vessel.id, between.id,
                             q=between.label)  # fmt: skip


def _unshut(look: Look, vessel: AnyKind) -> set[str]:
    """Walk from a vessel over pipes and tees, past nothing that can shut."""
    found, waiting = {vessel.id}, [vessel.id]
    while waiting:
        here = waiting.pop()
        for run in look.pipes:
            for mine, other in ((run.start, run.end), (run.end, run.start)):
                if mine.part != here or other.part in found:
                    continue
                part = look.parts[other.part]
                if here == vessel.id or isinstance(look.parts[here], water.Split):
                    if isinstance(part, water.Relief | water.Split):
                        found.add(other.part)
                        waiting.append(other.part)
                    elif isinstance(part, water.Accumulator | water.AirVent):
                        found.add(other.part)
    return found


def _between(look: Look, vessel: AnyKind, relief: AnyKind) -> AnyKind | None:
    """Give the first thing that can shut on the way from a vessel to a relief."""
    before: dict[str, str] = {vessel.id: ""}
    waiting = [vessel.id]
    while waiting:
        here = waiting.pop(0)
        if here == relief.id:
            way = []
            while here:
                way.append(here)
                here = before[here]
            return next((look.parts[key] for key in reversed(way)
                         if isinstance(look.parts[key], STOPPERS)), None)  # fmt: skip
        if here != vessel.id and isinstance(look.parts[here], (water.Pump, *VESSELS)):
            continue
        for run in look.pipes:
            for mine, other in ((run.start, run.end), (run.end, run.start)):
                if mine.part == here and other.part not in before:
                    before[other.part] = here
                    waiting.append(other.part)
    return None


def _by_heat(look: Look, vessel: AnyKind, reliefs: list[water.Relief]) -> Iterator[Found]:
    """Find closed vessels whose relief opens by pressure alone."""
    if not sources_of(look, vessel):
        return
    if any(relief.opens_c is not None and relief.opens_c <= HEAT_RELIEF_C
           and (relief.set_pa is None or relief.set_pa <= HEAT_RELIEF_PA)
           for relief in reliefs):  # fmt: skip
        return
    guarded = any(
        isinstance(part, heat.HighLimit) and (
            part.fitted_in == vessel.id or part.guards in
            {one.id for one in look.system.fitted(vessel.id)} | {vessel.id}
        ) for part in look.system.parts
    ) or isinstance(vessel, heat.Combi)  # fmt: skip
    if isinstance(vessel, heat.Combi | heat.Canister):
        severity = W
    elif guarded and look.rules.word("heat_relief") == "no cut-out":
        return
    else:
        severity = F
    subject = reliefs[0].id if reliefs else vessel.id
    yield look.found("pressure.heat-relief", severity, PRESSURE, vessel.id,
                     *([subject] if subject != vessel.id else ()), p=look.label(subject),
                     variant="" if reliefs else "none",
                     source=look.rules.source("heat_relief"))  # fmt: skip
