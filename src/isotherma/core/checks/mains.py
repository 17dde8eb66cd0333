"""Mains, wires near water, pumps left on, sparks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.electric import PUMPS, consumers, power_of
from isotherma.core.checks.found import BUILDER, ELECTRICAL, Found, Severity, check, worst
from isotherma.core.checks.look import LIVE, Lacks, Look, counted
from isotherma.core.findings import Quantity
from isotherma.core.setup.power import PowerReport
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat, use
from isotherma.core.system.nominal import known_figure

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
NEAR_M: Final = 0.3
SHOWER_M: Final = 0.6
PUSH_IN: Final = "push-in"


@check("electric.hook-up", "electric.inverter")
def _mains_sources(look: Look) -> Iterator[Found]:
    """What hangs on a hook-up or an inverter, all at once and alone."""
    report = power_of(look)
    for part in look.system.parts:
        if not isinstance(part, electric.HookUp | electric.Inverter):
            continue
        of = "electric.hook-up" if isinstance(part, electric.HookUp) else "electric.inverter"
        if look.at.get(part.id) in ("unplugged", "off"):
            continue
        loads = [load.id for load in consumers(look)
                 if any(way[-1] == part.id for way, _ in look.wire_ways(load.id))]  # fmt: skip
        watts = {
            key: w
            for key in loads
            if look.at.get(key) != "off" and (w := _watts_of(look, report, key)) is not None
        }
        if not watts:
            continue
        gives = known_figure(look.likely[part.id], "rated_w")
        if isinstance(part, electric.HookUp):
            likely = look.likely[part.id]
            amps, volts = known_figure(likely, "amps_a"), known_figure(likely, "volts_v")
            gives = None if amps is None or volts is None else amps * volts
            limit = getattr(part, "limit_w", None)
            gives = limit if limit is not None and (gives is None or limit < gives) else gives
        entered = part.amps_a if isinstance(part, electric.HookUp) else part.rated_w
        if entered is None or gives is None:
            name = "amps_a" if isinstance(part, electric.HookUp) else "rated_w"
            yield look.unknown(of, ELECTRICAL, (f"parts.{part.id}.{name}",), part.id)
            continue
        total, most = sum(watts.values()), max(watts.values())
        alone = most > gives * (1 + 1e-9)
        for severity in worst(((alone, F), (total > gives * (1 + 1e-9), W))):
            names = [max(watts, key=lambda key: watts[key])] if alone else list(watts)
            serious = F if of == "electric.inverter" else severity
            yield look.found(
                of, serious, ELECTRICAL, part.id, *names,
                figure=Quantity(most if alone else total, "power"), limit=Quantity(gives, "power"),
                a=" and ".join(look.label(key) for key in names),
                variant="one" if len(names) == 1 else "",
            )  # fmt: skip


def _watts_of(look: Look, report: PowerReport, key: str) -> float | None:
    part = look.likely[key]
    if isinstance(part, heat.Combi):
        return known_figure(part, "mains_w")
    for name in ("rated_w", "power_w", "running_w", "mains_w", "heat_w"):
        value = known_figure(part, name)
        if value is not None:
            return float(value)
    load = next((load for load in report.loads if load.id == key), None)
    return None if load is None else load.watts or load.starts_a * load.source_v


@check("electric.rcd", "electric.earth", "electric.isolator")
def _mains(look: Look) -> Iterator[Found]:
    """Residual-current protection, earth, and a switch near mains elements."""
    severity = Severity(look.rules.word("residual_current"))
    lacks = {of: Lacks(look, of, ELECTRICAL) for of in ("electric.rcd", "electric.earth")}
    for part in look.system.parts:
        if isinstance(part, electric.Circuit) and look.on_mains(part.id):
            if part.guard is None:
                lacks["electric.rcd"].add("parts", part.id, "guard")
            elif part.guard != "breaker with residual current":
                upstream = any(
                    isinstance(one := look.parts[key], electric.Circuit)
                    and one.guard == "breaker with residual current"
                    for way, _ in look.wire_ways(part.id, closed_only=False)
                    for key in way[1:]
                )
                if not upstream:
                    yield look.found("electric.rcd", severity, ELECTRICAL, part.id,
                                     source=look.rules.source("residual_current"))  # fmt: skip
            if part.earthed is None:
                lacks["electric.earth"].add("parts", part.id, "earthed")
            elif part.earthed is False:
                yield look.found("electric.earth", S, ELECTRICAL, part.id)
        elif look.mains(part) and part in list(consumers(look)):
            ways = list(look.wire_ways(part.id, closed_only=False))
            circuits = any(isinstance(look.parts[key], electric.Circuit)
                           for way, _ in ways for key in way)  # fmt: skip
            if not circuits:
                yield look.found("electric.rcd", severity, ELECTRICAL, part.id,
                                 source=look.rules.source("residual_current"))  # fmt: skip
            switched = any(isinstance(look.parts[key], electric.Switch | electric.EitherOr)
                           for way, _ in ways for key in way)  # fmt: skip
            hot = isinstance(part, heat.Element | heat.ThroughFlowElectric)
            if hot and circuits and not switched:
                yield look.found("electric.isolator", W, ELECTRICAL, part.id)
    for gathered in lacks.values():
        yield from gathered.found()


@check("electric.near-water")
def _near_water(look: Look) -> Iterator[Found]:
    """Live parts below or beside water."""
    wet = [part for part in look.system.parts
           if any(port.medium in ("water", "fluid") for port in part.ports)]  # fmt: skip
    for part in look.system.parts:
        if not isinstance(part, LIVE) or None in (part.x_m, part.y_m, part.z_m):
            continue
        mains = look.on_mains(part.id)
        for other in wet:
            if other.x_m is None or other.y_m is None or other.z_m is None or other is part:
                continue
            assert part.x_m is not None and part.y_m is not None and part.z_m is not None
            aside = max(
                _gap(part.x_m, part.depth_m, other.x_m, other.depth_m),
                _gap(part.y_m, part.width_m, other.y_m, other.width_m),
            )
            own = part.z_m + counted(part.tall_m)
            under = 0.0 <= other.z_m - own <= NEAR_M and aside <= NEAR_M
            shower = isinstance(other, use.ShowerHead) and mains and look.inside(other) and (
                max(aside, abs(other.z_m - part.z_m)) <= SHOWER_M
            )  # fmt: skip
            if under or shower:
                yield look.found(
                    "electric.near-water", F if mains else W, ELECTRICAL, part.id, other.id,
                    figure=Quantity(max(aside, other.z_m - own, 0.0), "length"),
                    limit=Quantity(SHOWER_M if shower else NEAR_M, "length"), q=other.label,
                )  # fmt: skip
                break


def _gap(one: float, own: float | None, other: float, its: float | None) -> float:
    return max(0.0, abs(one - other) - 0.5 * counted(own, its))


@check("electric.pump-live")
def _pump_live(look: Look) -> Iterator[Found]:
    """A state in which nothing pumps."""
    pumps = [part for part in look.system.parts if isinstance(part, PUMPS)]
    if not pumps:
        return
    if not look.system.states:
        yield look.unknown("electric.pump-live", BUILDER, ("states",),
                           *(part.id for part in pumps), subject="pumps_off")  # fmt: skip
        return
    at = [dict(look.at)] + [
        {**{part.id: part.positions[0] for part in look.system.parts if part.positions},
         **{item.part: item.at for item in state.positions}} for state in look.system.states
    ]  # fmt: skip

    def off(pump: AnyKind, how: dict[str, str]) -> bool:
        if how.get(pump.id) in ("off", "apart"):
            return True
        ways = list(look.wire_ways(pump.id, closed_only=False))
        return bool(ways) and all(
            any(how.get(key) in ("off", "unplugged") for key in way) for way, _ in ways
        )

    if any(all(off(pump, how) for pump in pumps) for how in at):
        return
    push_in = any(run.joint == PUSH_IN for run in look.pipes)
    for pump in pumps:
        if not any(off(pump, how) for how in at):
            yield look.found("electric.pump-live", F if push_in else W, BUILDER, pump.id)


@check("electric.ignition")
def _ignition(look: Look) -> Iterator[Found]:
    """Volts that take the place of ignition cells."""
    for part in look.system.parts:
        if not isinstance(part, electric.IgnitionCells) or not part.replaced:
            continue
        if part.volts_v is None:
            yield look.unknown("electric.ignition", ELECTRICAL, (f"parts.{part.id}.volts_v",),
                               part.id)  # fmt: skip
            continue
        volts, made = part.volts_v, 1.5 * part.cells
        for severity in worst(((volts > 3.0 * part.cells, S), (volts > 1.65 * part.cells, F),
                               (volts < 1.1 * part.cells, W))):  # fmt: skip
            yield look.found(
                "electric.ignition", severity, ELECTRICAL, part.id,
                figure=Quantity(volts, "voltage"), limit=Quantity(made, "voltage"),
                x=Quantity(made, "voltage"),
            )  # fmt: skip
