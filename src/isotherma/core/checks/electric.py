"""Electricity: cables, fuses, volts, mains, and wires near water."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.found import ELECTRICAL, Found, Severity, check, worst
from isotherma.core.checks.look import Lacks, Look, counted
from isotherma.core.checks.rules import (
    ENGINE_BAY,
    MAINS,
    bears_a,
    copper_from,
    fuse_for,
    thinnest_m2,
)
from isotherma.core.findings import Quantity
from isotherma.core.setup.power import PowerLoad, PowerReport, power_report
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat, water
from isotherma.core.system.nominal import known_figure
from isotherma.core.system.runs import Cable

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
PUMPS: Final = (water.Pump, water.Submersible)
ARCS_V: Final = 24.0  # direct current above it keeps an arc; ours
SOURCES: Final = (electric.Battery, electric.Alternator)


def _bears(look: Look, run: Cable) -> float | None:
    """Give what a cable bears where it lies."""
    bears = bears_a(area_m2=run.area_m2, gauge=run.gauge)
    if bears is None:
        return None
    space = look.spaces.get(run.space or "")
    hot = space is not None and space.warmth == "engine bay"
    mains = any(
        isinstance(end := look.parts[ref.part], electric.HookUp | electric.Inverter)
        or (isinstance(end, electric.Circuit) and look.on_mains(end.id))
        for ref in (run.start, run.end)
    )
    return bears * (ENGINE_BAY if hot else 1.0) * (MAINS if mains else 1.0)


def _behind(look: Look, circuit: str) -> Iterator[Cable]:
    """List the cables a fuse guards: from its load side to the next fuse."""
    waiting, seen = [circuit], {circuit}
    while waiting:
        here = waiting.pop()
        for run in look.cables:
            for mine, other in ((run.start, run.end), (run.end, run.start)):
                if mine.part != here or mine.port in ("feed", "signal") or run.id in seen:
                    continue
                if here == circuit and mine.port != "load":
                    continue
                seen.add(run.id)
                yield run
                far = look.parts[other.part]
                passes = isinstance(far, electric.Switch | electric.Relay | electric.Remote
                                    | electric.EitherOr | heat.Thermostat)  # fmt: skip
                if passes and far.id not in seen:
                    seen.add(far.id)
                    waiting.append(far.id)


@check("electric.fuse-cable")
def _fuse_cable(look: Look) -> Iterator[Found]:
    """Fuses against the cables behind them; cable before the first fuse."""
    lacks = Lacks(look, "electric.fuse-cable", ELECTRICAL)
    for part in look.system.parts:
        if not isinstance(part, electric.Circuit):
            continue
        behind = list(_behind(look, part.id))
        if part.fuse_a is None:
            if behind:
                lacks.add("parts", part.id, "fuse_a")
            continue
        for run in behind:
            bears = _bears(look, run)
            if bears is None:
                lacks.add("runs", run.id, "area_m2", run.id)
                continue
            for severity in worst(((part.fuse_a > 1.1 * bears * (1 + 1e-9), S),
                                   (part.fuse_a > bears * (1 + 1e-9), F))):  # fmt: skip
                area, fuse = thinnest_m2(part.fuse_a), fuse_for(bears, at_most=True)
                yield look.found(
                    "electric.fuse-cable", severity, ELECTRICAL, part.id, runs=(run.id,),
                    figure=Quantity(part.fuse_a, "current"), limit=Quantity(bears, "current"),
                    source="ISO 10133" if run.gauge is None else "NEC 551, 310",
                    p=run.label, q=part.label,
                    x=Quantity(0.0 if fuse is None else fuse, "current"),
                    y=Quantity(0.0 if area is None else area, "cable_area"),
                )  # fmt: skip
    yield from lacks.found()
    near, far = look.rules.pair("cable_before_fuse_m")
    for part in look.system.parts:
        if not isinstance(part, electric.Battery):
            continue
        for run in look.cables:
            ends = {run.start.part, run.end.part}
            if part.id not in ends or run.length_m is None:
                continue
            for severity in worst(((run.length_m > far, F), (run.length_m > near * 1.0001, W))):
                other = next(iter(ends - {part.id}), part.id)
                charges = isinstance(look.parts[other], electric.Charger
                                     | electric.PanelController)  # fmt: skip
                if charges:
                    continue
                yield look.found(
                    "electric.fuse-cable", severity, ELECTRICAL, part.id, runs=(run.id,),
                    figure=Quantity(run.length_m, "length"),
                    limit=Quantity(far if severity is F else near, "length"), source="ISO 10133",
                    variant="before", p=run.label, q=part.label,
                )  # fmt: skip


def consumers(look: Look) -> Iterator[AnyKind]:
    """List what takes current: no fuse, switch or source.

    Parameters
    ----------
    look : Look
        The design. [-]

    Returns
    -------
    iterator of parts
        In the document's order. [-]
    """
    passes = (electric.Battery, electric.HookUp, electric.Panel, electric.Alternator,
              electric.Inverter, electric.Charger, electric.PanelController, electric.Circuit,
              electric.Switch, electric.Relay, electric.Remote, electric.EitherOr,
              heat.Thermostat)  # fmt: skip
    for part in look.system.parts:
        wired = any(part.id in (run.start.part, run.end.part) for run in look.cables)
        if wired and not isinstance(part, passes):
            yield part


@check("electric.no-fuse")
def _no_fuse(look: Look) -> Iterator[Found]:
    """Ways from battery or alternator to a load without a fuse; cables of panels."""
    wired = [*consumers(look), *(part for part in look.system.parts
                              if isinstance(part, electric.Inverter))]  # fmt: skip
    for part in wired:
        for way, cables in look.wire_ways(part.id, closed_only=False):
            source = look.parts[way[-1]]
            fused = any(isinstance(look.parts[key], electric.Circuit) for key in way)
            if isinstance(source, SOURCES) and not fused:
                amps = _amps_of(look, part.id)
                size = None if amps is None else fuse_for(1.25 * amps)
                yield look.found(
                    "electric.no-fuse", F, ELECTRICAL, part.id, source.id,
                    runs=tuple(run.id for run in cables), q=source.label,
                    more={} if size is None else {"x": Quantity(size, "current")},
                )  # fmt: skip
                break
    lacks = Lacks(look, "electric.no-fuse", ELECTRICAL)
    for part in look.system.parts:
        if not isinstance(part, electric.Panel):
            continue
        for run in look.cables:
            if part.id not in (run.start.part, run.end.part):
                continue
            bears, short = _bears(look, run), part.short_a
            if bears is None or short is None:
                if short is None:
                    lacks.add("parts", part.id, "short_a")
                if bears is None:
                    lacks.add("runs", run.id, "area_m2")
            elif bears < 1.25 * part.count * short:
                yield look.found(
                    "electric.no-fuse", F, ELECTRICAL, part.id, runs=(run.id,), variant="panel",
                    figure=Quantity(1.25 * part.count * short, "current"),
                    limit=Quantity(bears, "current"), q=run.label,
                )  # fmt: skip
    yield from lacks.found()


def _amps_of(look: Look, key: str) -> float | None:
    report = power_of(look)
    return next((load.amps or load.starts_a for load in report.loads if load.id == key), None)


def power_of(look: Look) -> PowerReport:
    """Give all loads that are not off, all at once.

    Parameters
    ----------
    look : Look
        The design in a state. [-]

    Returns
    -------
    PowerReport
        Worked out once. [A, V, W]
    """
    return look.once("power", lambda: power_report(look.known, look.at))


def _alone(look: Look, key: str) -> PowerLoad | None:
    """Give a load that runs alone, worked out once; None of what takes nothing."""

    def alone() -> PowerLoad | None:
        report = power_report(look.known, look.at, (key,))
        return next((load for load in report.loads if load.id == key and load.starts_a > 0.0), None)

    return look.once(f"alone.{key}", alone)


def _alone_a(look: Look, key: str) -> float | None:
    """Give the amps of a load that runs alone, or starts [A]."""
    load = _alone(look, key)
    return None if load is None else max(load.amps, load.starts_a)


def _runs_a(look: Look, key: str) -> float:
    """Give the amps of a load once it has started, alone [A]."""
    load = _alone(look, key)
    return 0.0 if load is None else load.amps


@check("electric.load-fuse", "electric.shared")
def _load_fuse(look: Look) -> Iterator[Found]:
    """Loads against their fuse, alone and together."""
    hangs: dict[str, list[str]] = {}
    for part in consumers(look):
        for key in {
            key
            for way, _ in look.wire_ways(part.id)
            for key in way
            if isinstance(look.parts[key], electric.Circuit)
        }:
            hangs.setdefault(key, []).append(part.id)
    for key, loads in hangs.items():
        circuit = look.parts[key]
        assert isinstance(circuit, electric.Circuit)
        if circuit.fuse_a is None or circuit.fuse_a <= 0.0:
            continue
        amps = {load: amp for load in loads if (amp := _alone_a(look, load)) is not None
                and look.at.get(load) != "off"}  # fmt: skip
        over = False
        for load, amp in amps.items():
            lasting = not isinstance(look.parts[load], PUMPS)
            for severity in worst(
                (
                    (amp > circuit.fuse_a * (1 + 1e-9), F),
                    (lasting and _runs_a(look, load) > 0.8 * circuit.fuse_a * (1 + 1e-9), W),
                )
            ):
                over = over or severity is F
                size = fuse_for(1.25 * amp)
                yield look.found(
                    "electric.load-fuse", severity, ELECTRICAL, load, key,
                    figure=Quantity(amp, "current"), limit=Quantity(circuit.fuse_a, "current"),
                    more={} if size is None else {"x": Quantity(size, "current")},
                )  # fmt: skip
        total = sum(amps.values())
        apart = circuit.not_together or _either(look, loads)
        if not over and len(amps) > 1 and total > circuit.fuse_a * (1 + 1e-9) and not apart:
            yield look.found(
                "electric.shared", F, ELECTRICAL, key, *amps, figure=Quantity(total, "current"),
                limit=Quantity(circuit.fuse_a, "current"),
                a=" and ".join(look.label(load) for load in amps),
            )  # fmt: skip


def _either(look: Look, loads: list[str]) -> bool:
    """Say whether an either/or switch keeps two loads apart."""
    switches = [
        {key for way, _ in look.wire_ways(load, closed_only=False) for key in way
         if isinstance(look.parts[key], electric.EitherOr)} for load in loads
    ]  # fmt: skip
    return bool(switches) and all(switches) and bool(set.intersection(*switches))


@check("electric.volts", "electric.drop")
def _volts(look: Look) -> Iterator[Found]:
    """What reaches a load against what it is made for, and what wires take."""
    lacks = Lacks(look, "electric.drop", ELECTRICAL)
    for load in power_of(look).loads:
        part = look.parts[load.id]
        rated = next((value for name in ("rated_v", "volts_v")
                      if isinstance(value := getattr(part, name, None), float | int)),
                     None)  # fmt: skip
        ways = list(look.wire_ways(load.id))
        if not ways:
            continue
        source = look.parts[ways[0][0][-1]]
        gives = load.source_v
        if rated and not isinstance(source, electric.Panel) and gives > 0.0:
            for severity in worst(((gives > 1.25 * rated, F), (gives < 0.8 * rated, W))):
                yield look.found(
                    "electric.volts", severity, ELECTRICAL, load.id,
                    figure=Quantity(gives, "voltage"), limit=Quantity(rated, "voltage"),
                )  # fmt: skip
        for run in ways[0][1]:
            if run.area_m2 is None and run.gauge is None and run.loop_ohm is None:
                lacks.add("runs", run.id, "area_m2")
            elif run.length_m is None and run.loop_ohm is None:
                lacks.add("runs", run.id, "length_m")
        if load.runs:
            drop = load.drop_share
        elif load.most_w is not None:
            drop = 0.5
        else:
            continue
        for severity in worst(((drop > 0.10, F), (drop > 0.05, W))):
            limit = 0.10 if severity is F else 0.05
            area = max((counted(known_figure(run, "area_m2")) for run in ways[0][1]), default=0.0)
            wanted = copper_from(area * drop / 0.05)
            yield look.found(
                "electric.drop", severity, ELECTRICAL, load.id,
                runs=tuple(run.id for run in ways[0][1]), figure=Quantity(drop, "share"),
                limit=Quantity(limit, "share"), x=Quantity(wanted, "cable_area"),
            )  # fmt: skip
    yield from lacks.found()


@check("electric.two-sources")
def _two_sources(look: Look) -> Iterator[Found]:
    """A hook-up and an inverter that can feed one wire."""
    for part in look.system.parts:
        ends = {
            way[-1] for way, _ in look.wire_ways(part.id)
            if isinstance(look.parts[way[-1]], electric.HookUp | electric.Inverter)
        }  # fmt: skip
        kinds = {type(look.parts[key]) for key in ends}
        if kinds >= {electric.HookUp, electric.Inverter} and not isinstance(
            part, electric.EitherOr
        ):
            first = sorted(ends, key=lambda key: look.parts[key].kind)
            yield look.found(
                "electric.two-sources", S, ELECTRICAL, *first, q=look.label(first[1]),
                a=part.label,
            )  # fmt: skip
            return


@check("electric.switch-rating")
def _switch_rating(look: Look) -> Iterator[Found]:
    """What switches and relays carry against what they are made for."""
    lacks = Lacks(look, "electric.switch-rating", ELECTRICAL)
    for part in look.system.parts:
        if not isinstance(part, electric.Switch | electric.Relay | electric.EitherOr):
            continue
        loads = [
            load.id
            for load in consumers(look)
            if any(part.id in way for way, _ in look.wire_ways(load.id, closed_only=False))
        ]
        amps = [amp for load in loads if (amp := _alone_a(look, load)) is not None]
        if not amps:
            continue
        most = max(amps) if isinstance(part, electric.EitherOr) else sum(amps)
        volts = _direct_v(look, part.id)
        if volts > ARCS_V and isinstance(part, electric.Switch | electric.Relay):
            if part.direct_current is False:
                yield look.found("electric.switch-rating", F, ELECTRICAL, part.id, variant="arc",
                                 figure=Quantity(volts, "voltage"),
                                 limit=Quantity(ARCS_V, "voltage"))  # fmt: skip
                continue
            if part.direct_current is None:
                lacks.add("parts", part.id, "direct_current")
        if part.amps_a is None:
            lacks.add("parts", part.id, "amps_a")
        elif most > part.amps_a * (1 + 1e-9):
            yield look.found("electric.switch-rating", F, ELECTRICAL, part.id,
                             figure=Quantity(most, "current"),
                             limit=Quantity(part.amps_a, "current"))  # fmt: skip
    yield from lacks.found()


def _direct_v(look: Look, key: str) -> float:
    """Give the highest direct voltage that comes to a switch; 0 where only mains does [V]."""
    found = [0.0]
    for way, _ in look.wire_ways(key, closed_only=False):
        source = look.likely[way[-1]]
        tamed = any(isinstance(look.parts[one], electric.PanelController) for one in way)
        if isinstance(source, electric.Panel) and not tamed:
            open_v = known_figure(source, "open_v")
            found.append(0.0 if open_v is None else open_v)
        elif isinstance(source, electric.Battery | electric.Alternator):
            found.append(look.system.nominal_v)
    return max(found)
