"""The page of wires and gas pipes: what each carries, what it loses, what cannot run."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.project import Variant
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.heating import heat_ups
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.cables import offered_areas, way_to
from isotherma.core.setup.charging import Charge
from isotherma.core.setup.gas_tree import GasAppliance
from isotherma.core.setup.power import PowerCircuit, PowerLoad
from isotherma.core.system.kinds import electric, gas, heat
from isotherma.core.system.runs import Cable, FuelPipe
from isotherma.services.power import Carried, carried, may_be_on
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.power.tree import TreePicture, branches, draw_tree
from isotherma.wording import circuit_words, gas_sentences, load_words, power_sentences

SOURCES = (electric.Battery, electric.HookUp, electric.Inverter, electric.Panel,
           electric.Alternator)  # fmt: skip


@dataclass(frozen=True, slots=True)
class OnChoice:
    """A load or appliance that may be on."""

    id: str
    label: str
    on: bool


@dataclass(frozen=True, slots=True)
class LoadRow:
    """A load in the table, with what eats its volts and the cable that would do."""

    id: str
    label: str
    amps: str
    volts: str
    watts: str
    lost: str
    said: str
    eaten: tuple[tuple[str, str, str], ...]
    heats: str
    offer: str
    changes: str


@dataclass(frozen=True, slots=True)
class CircuitRow:
    """A fuse in the table."""

    id: str
    label: str
    amps: str
    fuse: str
    share: str
    cable: str
    said: str


@dataclass(frozen=True, slots=True)
class GasRow:
    """An appliance in the table."""

    id: str
    label: str
    burns: str
    pressure: str
    lost: str
    plate: str
    flame: str


@dataclass(frozen=True, slots=True)
class ChargeRow:
    """What a source sends to the battery at its most."""

    id: str
    label: str
    sends: str
    into: str
    lost: str


@dataclass(frozen=True, slots=True)
class PowerPage:
    """What the wires and the gas pipe carry."""

    template: ClassVar[str] = "power.html"
    frame: Frame
    empty: bool
    states: tuple[tuple[str, str, bool], ...] = ()
    choices: tuple[OnChoice, ...] = ()
    said: tuple[str, ...] = ()
    wires: TreePicture | None = None
    loads: tuple[LoadRow, ...] = ()
    circuits: tuple[CircuitRow, ...] = ()
    lost: str = ""
    gas_said: tuple[str, ...] = ()
    pipes: TreePicture | None = None
    appliances: tuple[GasRow, ...] = ()
    unknown: str = ""
    charges: tuple[ChargeRow, ...] = ()


def _on(context: PageContext, known: Sequence[str]) -> list[str] | None:
    """Read which loads are on; None where the address does not say: all."""
    if context.query.get("chosen") != "1":
        return None
    asked = {key[3:] for key in context.query if key.startswith("on.")}
    return [key for key in known if key in asked]


def _eaten(
    found: Carried, way: Sequence[str], units: UnitSystem
) -> tuple[tuple[str, str, str], ...]:
    """Say what each cable on the way of a load takes of its volts."""
    cables = {cable.run: cable for cable in found.power.cables}
    runs = {run.id: run for run in found.known.runs}
    rows = []
    for key in way:
        cable = cables.get(key)
        if cable is None:
            continue
        lost = "not measured" if cable.drop_v is None else with_unit(
            cable.drop_v, "voltage", units, 2)  # fmt: skip
        rows.append((runs[key].label, with_unit(cable.amps, "current", units, 3), lost))
    return tuple(rows)


def _offer(
    found: Carried, load: PowerLoad, way: Sequence[str], variant: Variant, units: UnitSystem
) -> tuple[str, str]:
    """Offer the thinnest cable that would do, as words and as the changes it is."""
    fuses = [
        one.fuse_a for one in found.power.circuits
        if one.id in load.circuits and one.fuse_a is not None
    ]  # fmt: skip
    areas = offered_areas(
        found.known, way, drop_share=load.drop_share,
        source_v=load.source_v, amps={cable.run: cable.amps for cable in found.power.cables},
        fuse_a=max(fuses, default=0.0),
    )  # fmt: skip
    if not areas:
        return "", ""
    runs = {run.id: run for run in variant.system.runs}
    size = with_unit(max(areas.values()), "cable_area", units)
    labels = ", ".join(runs[key].label for key in areas)
    rows = []
    for key, area in areas.items():
        at = f"variants.{variant.id}.system.runs.{key}"
        run = runs[key]
        if isinstance(run, Cable) and run.gauge is not None:
            rows.append([f"{at}.gauge", run.gauge, None])
        rows.append([f"{at}.area_m2", getattr(run, "area_m2", None), area])
    return f"{size} for {labels}", json.dumps(rows)


def _load_row(
    found: Carried, load: PowerLoad, context: PageContext, heats: Mapping[str, str]
) -> LoadRow:
    units = context.units
    way = way_to(found.known, found.at, load.id) if load.runs else ()
    offer, changes = _offer(found, load, way, context.variant, units)
    lost = with_unit(load.source_v - load.volts, "voltage", units, 2) if load.runs else ""
    return LoadRow(
        load.id, load.label,
        with_unit(load.amps, "current", units, 3) if load.runs else "",
        with_unit(load.volts, "voltage", units, 3) if load.runs else "",
        _watts(found, load, units),
        f"{lost}, {load.drop_share:.1%}" if load.runs else "",
        load_words(load, units), _eaten(found, way, units),
        heats.get(load.id, ""), offer, changes,
    )  # fmt: skip


def _watts(found: Carried, load: PowerLoad, units: UnitSystem) -> str:
    """Say the watts of a load, and of an element with two steps those of the low one."""
    if not load.runs:
        return ""
    part = next((part for part in found.known.parts if part.id == load.id), None)
    low = part.low_w if isinstance(part, heat.Element) else None
    words = with_unit(load.watts, "power", units, 3)
    return words if low is None else f"{words}; low step {with_unit(low, 'power', units, 3)}"


def _circuit_row(one: PowerCircuit, units: UnitSystem) -> CircuitRow:
    return CircuitRow(
        one.id, one.label, with_unit(one.amps, "current", units, 3),
        "not known" if one.fuse_a is None else with_unit(one.fuse_a, "current", units),
        "" if one.share is None else f"{one.share:.0%}",
        "not known" if one.cable_a is None else with_unit(one.cable_a, "current", units),
        circuit_words(one, units),
    )  # fmt: skip


def _gas_row(one: GasAppliance, units: UnitSystem) -> GasRow:
    def pressure(value: float | None) -> str:
        return "not known" if value is None else with_unit(value, "gas_pressure", units, 3)

    return GasRow(
        one.id, one.label,
        with_unit(one.kg_per_s, "mass_flow", units, 2) if one.burns else "off",
        pressure(one.pressure_pa) if one.reached else "no gas reaches it",
        pressure(one.drop_pa) if one.reached else "",
        "" if one.plate_pa is None else pressure(one.plate_pa),
        "6 h and more" if one.alone_s is None else duration_words(one.alone_s),
    )  # fmt: skip


def _wire_tree(found: Carried, units: UnitSystem) -> TreePicture | None:
    parts = {part.id: part for part in found.known.parts}
    ends = {
        run.id: (run.start.part, run.end.part) for run in found.known.runs if isinstance(run, Cable)
    }
    if not ends:
        return None
    joined = {part for pair in ends.values() for part in pair}
    roots = [part.id for kind in SOURCES for part in found.known.parts
             if isinstance(part, kind) and part.id in joined]  # fmt: skip
    loads = {load.id: load for load in found.power.loads}
    sources = {one.id: one for one in found.power.sources}
    charging = {one.id: one for one in found.charges}
    circuits = {one.id: one for one in found.power.circuits}
    labels = {run.id: run.label for run in found.known.runs}
    cables = {one.run: one for one in found.power.cables}

    def words(key: str) -> str:
        if key in loads:
            load = loads[key]
            if not load.runs:
                return load_words(load, units)
            return (f"{with_unit(load.amps, 'current', units, 3)} at "
                    f"{with_unit(load.volts, 'voltage', units, 3)}")  # fmt: skip
        if key in charging:
            sent = charging[key]
            return (f"sends {with_unit(sent.amps, 'current', units, 3)} at "
                    f"{with_unit(sent.volts, 'voltage', units, 3)} at most")  # fmt: skip
        if key in sources:
            one = sources[key]
            return (f"gives {with_unit(one.amps, 'current', units, 3)} at "
                    f"{with_unit(one.volts, 'voltage', units, 3)}")  # fmt: skip
        if key in circuits and circuits[key].share is not None:
            return f"{circuits[key].share:.0%} of {circuits[key].fuse_a:g} A"
        return ""

    def run_words(key: str) -> str:
        cable = cables.get(key)
        label = labels[key]
        if cable is None:
            return f"{label}: no source reaches it"
        lost = (
            ""
            if cable.drop_v is None
            else f", loses {with_unit(cable.drop_v, 'voltage', units, 2)}"
        )
        return f"{label}: {with_unit(cable.amps, 'current', units, 3)}{lost}"

    def still(key: str) -> bool:
        return key in loads and not loads[key].runs

    carries = {key: cable.amps for key, cable in cables.items()}
    for sent in found.charges:  # what charges is drawn as wide, where nothing is drawn from it
        for run, amps in sent.cables:
            carries[run] = max(carries.get(run, 0.0), amps)
    return draw_tree(branches(roots, ends, carries), lambda key: parts[key].label, words, run_words,
                     still)  # fmt: skip


def _gas_tree(found: Carried, units: UnitSystem) -> TreePicture | None:
    parts = {part.id: part for part in found.known.parts}
    pipes = {pipe.run: pipe for pipe in found.gas.pipes}
    ends = {
        run.id: (run.start.part, run.end.part) for run in found.known.runs
        if isinstance(run, FuelPipe) and run.id in pipes
    }  # fmt: skip
    roots = [part.id for part in found.known.parts
             if isinstance(part, gas.GasBottle) and not part.spare]  # fmt: skip
    if not ends or not roots:
        return None
    appliances = {one.id: one for one in found.gas.appliances}
    labels = {run.id: run.label for run in found.known.runs}

    def words(key: str) -> str:
        one = appliances.get(key)
        if one is None:
            gives = found.gas.set_pa if isinstance(parts[key], gas.Regulator) else None
            return "" if gives is None else f"gives {with_unit(gives, 'gas_pressure', units, 3)}"
        if not one.burns:
            return "off"
        left = "" if one.pressure_pa is None else (
            f", {with_unit(one.pressure_pa, 'gas_pressure', units, 3)} left")  # fmt: skip
        return f"{with_unit(one.kg_per_s, 'mass_flow', units, 2)}{left}"

    def run_words(key: str) -> str:
        pipe = pipes[key]
        label = labels[key]
        lost = "" if pipe.drop_pa is None else (
            f", takes {with_unit(pipe.drop_pa, 'gas_pressure', units, 2)}")  # fmt: skip
        return f"{label}: {with_unit(pipe.kg_per_s, 'mass_flow', units, 2)}{lost}"

    carries = {key: pipe.kg_per_s for key, pipe in pipes.items()}
    return draw_tree(
        branches(roots, ends, carries), lambda key: parts[key].label, words, run_words,
        lambda key: key in appliances and not appliances[key].burns,
    )  # fmt: skip


def _charge_row(one: Charge, units: UnitSystem) -> ChargeRow:
    sends = (f"{with_unit(one.amps, 'current', units, 3)} at "
             f"{with_unit(one.volts, 'voltage', units, 3)}")  # fmt: skip
    into = "no wire leads to a battery"
    if one.into_a is not None:
        into = f"{with_unit(one.into_a, 'current', units, 3)} into {one.into}"
    lost = "not known" if one.lost_w is None else with_unit(one.lost_w, "power", units, 2)
    return ChargeRow(one.id, one.label, sends, into, lost)


def _heats(outcome: Outcome | None) -> dict[str, str]:
    """Say how long each source takes from cold to hot on the day."""
    if outcome is None:
        return {}
    return {
        item.source: duration_words(item.takes_s)
        for item in heat_ups(outcome.setup, outcome.timeline)
        if item.takes_s is not None
    }


def power_page(context: PageContext) -> PowerPage:
    """Put the page together."""
    frame, outcome = make_frame(context, "power")
    variant, units = context.built, context.units
    known = may_be_on(variant)
    if not known:
        return PowerPage(frame, empty=True)
    state = variant.system.state_or(context.query.get("state", "")[:60], variant.standing)
    on = _on(context, known)
    found = carried(context.project, variant, state, on)
    heats = _heats(outcome)
    unmeasured = [run.label for run in found.known.runs
                  if isinstance(run, Cable) and run.loop_ohm is None]  # fmt: skip
    many = "" if len(unmeasured) <= 3 else f" and {len(unmeasured) - 3} more"
    return PowerPage(
        frame=frame,
        empty=False,
        states=tuple(
            (one.id, one.name, state is not None and one.id == state.id)
            for one in variant.system.states
        ) if len(variant.system.states) > 1 else (),
        choices=tuple(
            OnChoice(key, variant.system.part(key).label, on is None or key in on) for key in known
        ),
        said=power_sentences(found.power, units),
        wires=_wire_tree(found, units),
        loads=tuple(_load_row(found, load, context, heats) for load in found.power.loads),
        circuits=tuple(_circuit_row(one, units) for one in found.power.circuits),
        lost=with_unit(found.power.lost_w, "power", units, 2),
        gas_said=gas_sentences(found.gas, units),
        pipes=_gas_tree(found, units),
        charges=tuple(_charge_row(one, units) for one in found.charges),
        appliances=tuple(_gas_row(one, units) for one in found.gas.appliances),
        unknown=f"Taken as without loss, for their copper or length is not known: "
        f"{', '.join(unmeasured[:3])}{many}." if unmeasured else "",
    )  # fmt: skip
