"""Scald: what comes out, judged by exposure."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

import numpy as np

from isotherma.core.checks.circuits import coolant_c
from isotherma.core.checks.found import BUILDER, Found, Severity, check, worst
from isotherma.core.checks.hot_pipes import hot_runs
from isotherma.core.checks.look import Lacks, Look
from isotherma.core.errors import CoreError
from isotherma.core.findings import Quantity
from isotherma.core.flows.pulse import operate_once
from isotherma.core.flows.shock import shocks
from isotherma.core.results import scald as model
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat, temperature, use
from isotherma.core.system.nominal import known_figure

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
HELD_S: Final = 10.0  # an outlet no draw uses is opened for so long
JUMP_S: Final = 2.0  # until a mixing valve has followed
COLD_IN_C: Final = 10.0
JOULES: Final = 4.186e6  # of a cubic metre and kelvin of water
UNMIXED_C: Final = 48.0
UNSET_C: Final = 60.0  # of an electric heater that flows through, with all its power; judgement
MIXERS: Final = frozenset({"thermostatic_mixer", "manual_mixer"})
GUARDED_C: Final = 60.0
OUTLETS: Final = (use.ShowerHead, use.Tap, use.OutsideOutlet, use.BottleFill)
SEVERE: Final = {model.Severity.STOP: S, model.Severity.FIX: F, model.Severity.WATCH: W}


def _held(outlet: AnyKind, celsius: float, seconds: float, *, child: bool) -> model.Scald:
    """Judge a steady stream."""
    count = max(1, round(seconds))
    step = np.full(count, seconds / count)
    return model.scald_of(outlet, np.full(count, celsius), step, np.cumsum(step), child=child)


def mixer_before(look: Look, outlet: str) -> AnyKind | None:
    """Give the mixer whose water comes to an outlet, in whatever position.

    Parameters
    ----------
    look : Look
        The design. [-]
    outlet : str
        Id of an outlet. [-]

    Returns
    -------
    part or None
        A thermostatic one before a manual one; None where none is on the way. [-]
    """
    found = [
        look.parts[key] for key, port in look.usually(
            outlet, "inlet", MIXERS
        ) if port == "outlet"
    ]  # fmt: skip
    for kind in (temperature.ThermostaticMixer, temperature.ManualMixer):
        for part in found:
            if isinstance(part, kind):
                return part
    return None


@check("scald.outlet", "scald.child")
def _outlet(look: Look) -> Iterator[Found]:
    """What every draw gives whoever stands there; outlets no draw uses by their settings."""
    used: set[str] = set()
    if look.outcome is not None:
        for draw in look.outcome.draws:
            scald = draw.scald
            outlet = draw.draw.outlet or draw.outlet
            used.add(outlet)
            severity = SEVERE.get(scald.severity)
            if severity is None or outlet not in look.parts:
                continue
            child = draw.draw.child
            mixer = mixer_before(look, outlet)
            yield look.found(
                "scald.child" if child else "scald.outlet", severity, BUILDER, outlet,
                figure=Quantity(scald.peak_c, "temperature"),
                limit=Quantity(scald.limit_c, "temperature"),
                source="Moritz and Henriques 1947", t=Quantity(scald.over_s, "seconds"),
                t2=Quantity(min(scald.burns_s, 99_999.0), "seconds"),
                q="the heat" if mixer is None else mixer.label,
                x=Quantity(scald.limit_c, "temperature"),
            )  # fmt: skip
    for part in look.system.parts:
        if not isinstance(part, OUTLETS) or part.id in used:
            continue
        mixer = mixer_before(look, part.id)
        if isinstance(mixer, temperature.ThermostaticMixer):
            celsius: float | None = mixer.set_c
        elif mixer is not None:
            continue  # hands mix there; what may go wrong is said of lost cold
        else:
            celsius = _opened_c(look, part.id)
        if celsius is None:
            continue
        scald = _held(part, celsius, HELD_S, child=False)
        severity = SEVERE.get(scald.severity)
        if severity is not None:
            yield look.found(
                "scald.outlet", severity, BUILDER, part.id,
                figure=Quantity(celsius, "temperature"),
                limit=Quantity(scald.limit_c, "temperature"),
                t=Quantity(HELD_S, "seconds"), t2=Quantity(min(scald.burns_s, 99_999.0), "seconds"),
                q="the heat" if mixer is None else mixer.label,
                x=Quantity(scald.limit_c, "temperature"), source="Moritz and Henriques 1947",
            )  # fmt: skip


@check("scald.second-tap")
def _second_tap(look: Look) -> Iterator[Found]:
    """What comes when another outlet opens, and of a manual mixer when its cold is lost."""
    yield from _others_open(look)
    hot = hot_runs(look)
    for part in look.system.parts:
        if not isinstance(part, use.ShowerHead | use.OutsideOutlet):
            continue
        mixer = mixer_before(look, part.id)
        if not isinstance(mixer, temperature.ManualMixer):
            continue
        comes = max((hot[run.id] for run in look.pipes
                     if run.id in hot and (run.end.part, run.end.port) == (mixer.id, "hot")),
                    default=None)  # fmt: skip
        if comes is None:
            continue
        scald = _held(part, comes, HELD_S, child=False)
        severity = SEVERE.get(scald.severity)
        if severity is not None:
            yield look.found(
                "scald.second-tap", F if severity is S else severity, BUILDER, part.id, mixer.id,
                figure=Quantity(comes, "temperature"),
                limit=Quantity(scald.limit_c, "temperature"), a=Quantity(40.0, "temperature"),
                variant="cold",
            )  # fmt: skip


def _others_open(look: Look) -> Iterator[Found]:
    """Judge what somebody under an outlet feels when each other one opens."""
    if look.outcome is None:
        return
    network = look.outcome.setup.network
    for part in look.system.parts:
        if not isinstance(part, use.ShowerHead | use.OutsideOutlet) or part.id not in network.ends:
            continue
        try:
            point = operate_once(network, {part.id: 1.0})
        except CoreError:
            continue  # it gives nothing as things stand
        worst_of: dict[model.Severity, Found] = {}
        for shock in shocks(network, point):
            settled = _held(part, shock.after.temperature_c, HELD_S, child=False)
            jumped = _held(part, shock.at_once.temperature_c, JUMP_S, child=False)
            before = _held(part, shock.before.temperature_c, HELD_S, child=False)
            scald = max(settled, jumped, key=lambda one: one.severity)
            severity = SEVERE.get(scald.severity)
            if severity is None or scald.severity <= before.severity:
                continue  # hot before: said of the outlet itself
            worst_of.setdefault(scald.severity, look.found(
                "scald.second-tap", severity, BUILDER, part.id, shock.moved,
                figure=Quantity(scald.peak_c, "temperature"),
                limit=Quantity(scald.limit_c, "temperature"), q=look.label(shock.moved),
                a=Quantity(shock.before.temperature_c, "temperature"),
            ))  # fmt: skip
        if worst_of:
            yield worst_of[max(worst_of)]


@check("scald.low-flow")
def _low_flow(look: Look) -> Iterator[Found]:
    """Heaters that cannot turn their fire down far enough, throttled."""
    lacks = Lacks(look, "scald.low-flow", BUILDER)
    for part in look.known.parts:
        if not isinstance(part, heat.ThroughFlowGas) or not look.lit(look.parts[part.id]):
            continue
        outlets = [one for one in look.system.parts if isinstance(one, OUTLETS) and any(
            key == part.id for key, _ in look.usually(
                one.id, "inlet", frozenset({"store", "through_flow_gas"})))]  # fmt: skip
        off, fire = known_figure(part, "off_flow_m3_per_s"), known_figure(part, "least_w")
        if part.control == "two knobs":
            full = known_figure(part, "heat_w")
            fire = None if full is None else full * part.gas_share
        if not off or fire is None:
            continue
        comes = COLD_IN_C + fire / (JOULES * off)
        entered = look.parts[part.id]
        if known_figure(entered, "limit_c") is None:
            if comes > 43.0:
                lacks.add("parts", part.id, "limit_c")
            continue
        comes = min(comes, part.limit_c or comes)
        for outlet in outlets:
            mixer = mixer_before(look, outlet.id)
            if isinstance(mixer, temperature.ThermostaticMixer):
                comes = min(comes, mixer.set_c)
            scald = _held(outlet, comes, HELD_S, child=False)
            severity = SEVERE.get(scald.severity)
            if severity is not None:
                yield look.found(
                    "scald.low-flow", severity, BUILDER, outlet.id, part.id,
                    figure=Quantity(comes, "temperature"),
                    limit=Quantity(scald.limit_c, "temperature"), a=Quantity(off, "flow"),
                )  # fmt: skip
    yield from lacks.found()


SOURCES: Final = frozenset({"store", "combi", "canister", "sun_container",
                            "through_flow_electric"})  # fmt: skip


def _from(part: AnyKind) -> str:
    return "cold_out" if isinstance(part, heat.PlateExchanger) else "outlet"


def _opened_c(look: Look, outlet: str) -> float | None:
    """Give what comes to an outlet nobody draws from: solved where it can be, else by setting."""
    by_setting = _unmixed_c(look, outlet)
    if by_setting is None or look.outcome is None:
        return by_setting
    network = look.outcome.setup.network
    try:
        solved = operate_once(network, {outlet: 1.0}).solved
    except (CoreError, KeyError):
        return by_setting
    link = network.ends[outlet]
    if float(solved.flow_m3_per_s[link]) <= 0.0:
        return by_setting
    return float(solved.out_c[link])


def _unmixed_c(look: Look, outlet: str) -> float | None:
    """Give the hottest that comes to an outlet by its setting, with nothing to blend it [°C]."""
    found = []
    for part in look.system.parts:
        hot = _sets_c(look, part)
        if isinstance(part, heat.ThroughFlowGas) and part.control != "two knobs":
            hot = known_figure(look.likely[part.id], "set_c") if look.lit(part) else None
        if hot is not None:
            nodes = look.usually(part.id, _from(part), MIXERS | SOURCES)
            found += [hot] if (outlet, "inlet") in nodes else []
    return max(found, default=None)


@check("scald.no-mixer")
def _no_mixer(look: Look) -> Iterator[Found]:
    """Stored heat that comes to where people wash with nothing to blend it."""
    for part in look.system.parts:
        hot = _sets_c(look, part)
        if hot is None:
            continue
        nodes = look.usually(part.id, _from(part), frozenset({"thermostatic_mixer"}) | SOURCES)
        manual = {
            (key, "outlet") for key, name in nodes
            if isinstance(look.parts[key], temperature.ManualMixer) and name == "hot"
        }  # fmt: skip
        behind = {node for key, port in manual for node in look.usually(key, port, MIXERS)}
        limited = any(
            isinstance(one, heat.HighLimit) and one.opens_c is not None
            and one.opens_c <= GUARDED_C and one.fitted_in == part.id
            for one in look.system.parts
        )  # fmt: skip
        for one in look.system.parts:
            washes = isinstance(one, use.ShowerHead | use.OutsideOutlet) or (
                isinstance(one, use.Tap) and one.room not in (None, "kitchen")
            )
            if not washes or (one.id, "inlet") not in nodes:
                continue
            mixed = (one.id, "inlet") in behind
            for severity in worst(((hot > UNMIXED_C, W if mixed else F),
                                   (not mixed and not limited, W))):  # fmt: skip
                yield look.found(
                    "scald.no-mixer", severity, BUILDER, one.id, part.id,
                    figure=Quantity(hot, "temperature"), limit=Quantity(UNMIXED_C, "temperature"),
                    q=part.label, x=Quantity(42.0, "temperature"),
                )  # fmt: skip


def _sets_c(look: Look, part: AnyKind) -> float | None:
    """Give how hot a part's water is by its setting; None where it keeps none hot."""
    if isinstance(part, heat.Combi):
        return part.set_c if look.lit(part) else None
    if isinstance(part, heat.ThroughFlowElectric):
        if not look.lit(part):
            return None
        return UNSET_C if part.set_c is None else part.set_c
    if isinstance(part, heat.PlateExchanger):
        return coolant_c(look, part.id, ("hot_in", "hot_out"))
    if isinstance(part, heat.SunContainer) and part.id not in look.dry:
        return _peak_c(look, part.id)
    if not isinstance(part, heat.Store | heat.Canister) or part.id in look.dry:
        return None
    found = [known_figure(one, "set_c") for one in look.system.fitted(part.id)
             if isinstance(one, heat.Element | heat.Burner) and look.lit(one)]  # fmt: skip
    found += [coolant_c(look, one.id, ("inlet", "outlet"))
              for one in look.system.fitted(part.id) if isinstance(one, heat.Coil)]  # fmt: skip
    return max((value for value in found if value is not None), default=None)


def _peak_c(look: Look, part_id: str) -> float | None:
    """Give the hottest a vessel the day shows gets; None of others."""
    day = None if look.outcome is None else look.outcome.timeline
    if day is None or day.vessel != part_id:
        return None
    layers = np.asarray(day.rows.layers_c)
    return float(layers.max()) if layers.size else None


@check("scald.starved")
def _starved(look: Look) -> Iterator[Found]:
    """A mixing valve that leaves a heater too little flow."""
    if look.outcome is None:
        return
    for draw in look.outcome.draws:
        outlet = draw.draw.outlet or draw.outlet
        if outlet not in look.parts:
            continue
        mixer = mixer_before(look, outlet)
        if not isinstance(mixer, temperature.ThermostaticMixer):
            continue
        for part in look.known.parts:
            if not isinstance(part, heat.ThroughFlowGas | heat.ThroughFlowElectric):
                continue
            if not look.lit(look.parts[part.id]):
                continue
            nodes = look.usually(mixer.id, "hot", frozenset({part.kind}))
            set_c, off = known_figure(part, "set_c"), known_figure(part, "off_flow_m3_per_s")
            if not any(key == part.id for key, _ in nodes) or not set_c or not off:
                continue
            share = (mixer.set_c - COLD_IN_C) / max(1.0, set_c - COLD_IN_C)
            leg = share * draw.flow_m3_per_s
            if 0.0 < leg < off:
                yield look.found(
                    "scald.starved", W if draw.met else F, BUILDER, mixer.id, part.id, p=part.label,
                    figure=Quantity(leg, "flow"), limit=Quantity(off, "flow"),
                    x=Quantity(mixer.set_c + 2.0, "temperature"),
                )  # fmt: skip
