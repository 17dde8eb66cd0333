"""Dry and overheating: interlocks, cut-outs, contacts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.found import BUILDER, ELECTRICAL, Found, Severity, check
from isotherma.core.checks.look import Lacks, Look
from isotherma.core.findings import Quantity
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, gauges, heat, water
from isotherma.core.system.nominal import known_figure

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
CLEAR_SHARE: Final = 0.05
CUTOUT_C: Final = 95.0
OVER_SET_K: Final = 5.0
DIRECT_V: Final = 48.0
UNATTENDED: Final = ("surplus sun", "always")


def _guards(look: Look, source: AnyKind, kind: type[AnyKind]) -> list[AnyKind]:
    """List guards of a kind that stop a source: said of it, or sitting in its vessel."""
    return [
        part for part in look.system.parts if isinstance(part, kind) and (
            getattr(part, "guards", None) == source.id
            or (getattr(part, "guards", None) is None and part.fitted_in is not None
                and part.fitted_in in (source.id, source.fitted_in))
        )
    ]  # fmt: skip


def _open_host(look: Look, source: AnyKind) -> AnyKind | None:
    host = look.parts.get(source.fitted_in or "")
    if isinstance(host, heat.Store) and host.nature == "open vented":
        return host
    return host if isinstance(host, heat.SunContainer) else None


@check("dry.no-interlock", "dry.interlock-level", "dry.sensor-fail")
def _interlock(look: Look) -> Iterator[Found]:
    """Heat in open vessels that can run empty."""
    lacks = {of: Lacks(look, of, ELECTRICAL) for of in ("dry.interlock-level", "dry.sensor-fail")}
    for source in look.system.parts:
        if not isinstance(source, heat.Element | heat.Burner):
            continue
        host = _open_host(look, source)
        if host is None:
            continue
        locks = [one for one in _guards(look, source, heat.Interlock)
                 if isinstance(one, heat.Interlock) and one.senses in ("level", "flow")]  # fmt: skip  # noqa: E501
        switches = [
            one
            for one in look.system.parts
            if isinstance(one, gauges.LevelSwitch) and one.acts_on == source.id
        ]
        if not locks and not switches:
            severity = S if source.rule in UNATTENDED else F
            yield look.found("dry.no-interlock", severity, ELECTRICAL, source.id, host.id,
                             q=host.label)  # fmt: skip
        height = known_figure(source, "height_share")
        trips: list[tuple[heat.Interlock | gauges.LevelSwitch, float | None]] = [
            (one, one.trips_at_share) for one in locks if one.senses == "level"
        ]
        trips += [(one, one.at_share) for one in switches]
        for guard, at in trips:
            name = "trips_at_share" if isinstance(guard, heat.Interlock) else "at_share"
            if not isinstance(source, heat.Element):
                continue
            if at is None or height is None:
                if at is None:
                    lacks["dry.interlock-level"].add("parts", guard.id, name)
                if height is None:
                    lacks["dry.interlock-level"].add("parts", source.id, "height_share")
            elif at <= height + CLEAR_SHARE + 1e-9:
                yield look.found(
                    "dry.interlock-level", F, ELECTRICAL, source.id, guard.id, q=guard.label,
                    figure=Quantity(at, "share"), limit=Quantity(height, "share"),
                    x=Quantity(min(1.0, height + 0.10), "share"),
                )  # fmt: skip
    yield from _fails(look, lacks["dry.sensor-fail"])
    yield from lacks["dry.interlock-level"].found()
    yield from lacks["dry.sensor-fail"].found()


def _fails(look: Look, lacks: Lacks) -> Iterator[Found]:
    for part in look.system.parts:
        if isinstance(part, heat.Interlock):
            if part.fails == "lets it run":
                yield look.found("dry.sensor-fail", F, ELECTRICAL, part.id)
            elif part.fails is None:
                lacks.add("parts", part.id, "fails")
        elif isinstance(part, gauges.LevelSwitch) and part.acts_on is not None:
            target = look.parts[part.acts_on]
            if not isinstance(target, heat.Element | heat.Burner):
                continue
            # heat stays on where the contact fails as it stands when wet
            stays_on = {"when wet": "closed", "when dry": "open"}[part.closes]
            if part.fails is None:
                lacks.add("parts", part.id, "fails")
            elif part.fails == stays_on:
                yield look.found("dry.sensor-fail", F, ELECTRICAL, part.id)


@check("dry.state")
def _state(look: Look) -> Iterator[Found]:
    """What may heat while its vessel is empty."""
    for part in look.system.parts:
        if isinstance(part, heat.Combi):
            if part.id not in look.dry or part.may_stand_empty is True:
                continue
            if not look.can_light(part):
                continue
            if part.may_stand_empty is None:
                yield look.unknown("dry.state", BUILDER, (f"parts.{part.id}.may_stand_empty",),
                                   part.id)  # fmt: skip
            else:
                yield look.found("dry.state", S, BUILDER, part.id, q=part.label)
        elif isinstance(part, heat.Element | heat.Burner) and (
            part.fitted_in in look.dry and look.can_light(part)
        ):
            yield look.found("dry.state", S, BUILDER, part.id, part.fitted_in or "",
                                 q=look.label(part.fitted_in or ""))  # fmt: skip


@check("dry.no-cutout")
def _no_cutout(look: Look) -> Iterator[Found]:
    """Independent cut-outs."""
    for part in look.system.parts:
        if isinstance(part, heat.Element | heat.Burner):
            if _guards(look, part, heat.HighLimit):
                continue
            alone = isinstance(part, heat.Element) and (part.rule in UNATTENDED or look.mains(part))
            yield look.found("dry.no-cutout", S if alone else F, ELECTRICAL, part.id)
        elif isinstance(part, heat.ThroughFlowGas) and (
            part.limit_c is None and not _guards(look, part, heat.HighLimit)
        ):
            yield look.unknown("dry.no-cutout", ELECTRICAL, (f"parts.{part.id}.limit_c",),
                                   part.id)  # fmt: skip


@check("dry.cutout-setting", "dry.cutout-reset")
def _cutout(look: Look) -> Iterator[Found]:
    """Where cut-outs open, and how they come back."""
    lacks = {of: Lacks(look, of, ELECTRICAL) for of in ("dry.cutout-setting", "dry.cutout-reset")}
    for part in look.system.parts:
        if not isinstance(part, heat.HighLimit):
            continue
        hosts = {part.fitted_in if part.guards is None else part.guards} - {None}
        sources = [
            one for one in look.system.parts if isinstance(one, heat.Element | heat.Burner)
            and (one.id in hosts or one.fitted_in in hosts)
        ]  # fmt: skip
        reliefs = [one.opens_c for one in look.system.parts
                   if isinstance(one, water.Relief) and one.opens_c is not None]  # fmt: skip
        if part.opens_c is None:
            lacks["dry.cutout-setting"].add("parts", part.id, "opens_c")
        else:
            least = max((one.set_c for one in sources), default=0.0) + OVER_SET_K
            most = min([CUTOUT_C, *reliefs])
            over, under = part.opens_c > most + 1e-9, part.opens_c < least - 1e-9
            if over or (sources and under):
                yield look.found(
                    "dry.cutout-setting", F, ELECTRICAL, part.id,
                    figure=Quantity(part.opens_c, "temperature"),
                    limit=Quantity(most if over else least, "temperature"),
                    x=Quantity(min(most, max(85.0, least)), "temperature"),
                )  # fmt: skip
        mains = any(look.mains(one) for one in sources)
        if part.resets is None:
            lacks["dry.cutout-reset"].add("parts", part.id, "resets")
        elif part.resets == "by itself":
            yield look.found("dry.cutout-reset", F if mains else W, ELECTRICAL, part.id)
    for gathered in lacks.values():
        yield from gathered.found()


@check("dry.dc-contacts")
def _contacts(look: Look) -> Iterator[Found]:
    """Contacts that weld shut on direct current."""
    for part in look.system.parts:
        if not isinstance(part, heat.Element):
            continue
        for way, _ in look.wire_ways(part.id, closed_only=False):
            source = look.parts[way[-1]]
            panel = isinstance(source, electric.Panel)
            high = isinstance(source, electric.Battery) and look.system.nominal_v > DIRECT_V
            if not panel and not high:
                continue
            tamed = any(
                isinstance(one := look.parts[key], electric.PanelController)
                or (isinstance(one, electric.Relay) and one.direct_current is True) for key in way
            )  # fmt: skip
            stats = [one for one in look.system.parts if isinstance(one, heat.Thermostat)
                     and one.switches == part.id]  # fmt: skip
            switch = stats[0] if stats else part
            if tamed or switch.direct_current is True:
                continue
            volts = look.system.nominal_v
            if isinstance(source, electric.Panel):
                open_v = known_figure(look.likely[source.id], "open_v")
                volts = volts if open_v is None else open_v
            yield look.found("dry.dc-contacts", S, ELECTRICAL, switch.id,
                             *((part.id,) if switch is not part else ()),
                             figure=Quantity(volts, "voltage"))  # fmt: skip
            break
