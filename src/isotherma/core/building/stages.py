"""Tests in stages: one closer opened at a time, with what to expect before it is looked at."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final, Literal

from isotherma.core.building.air import air_of
from isotherma.core.building.expectations import Band3, Computed, Expect
from isotherma.core.building.sections import Section, closes
from isotherma.core.building.tasks import Who
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import gas, gauges, heat, temperature, use, waste, water
from isotherma.core.system.needs import GAS_FUELS
from isotherma.core.system.runs import FuelPipe, Pipe
from isotherma.core.water.dosing import dose_m3

TIGHTNESS: Final = "gas_tightness"  # without its record nothing that burns gas is lit
Kind = Literal[
    "fill", "pump", "hold", "hold_pressure", "flow", "heat_electric", "gas_tightness",
    "first_fire", "mix", "waste", "gauge", "sanitise", "drain_down", "recheck",
]  # fmt: skip
HOLD_S: Final = 1800.0
LITRE, MILLILITRE, HOUR_S = 1e-3, 1e-6, 3600.0
CUT_OUT_SHARE: Final = 0.1
SET_K: Final = 3.0
DRAINED: Final = (0.8, 1.0, 1.2)  # how far what leaves a drain may lie off; judgement
TRAY_M3: Final = 5e-3


@dataclass(frozen=True, slots=True)
class Stage:
    """One test. `litres_m3` without what earlier stages filled; `works_min` of hands.

    `watch_min` go by after them without hands. `air_left` are the places of `air_at` that nothing
    stands over; `stays_m3` is what a drain-down leaves, `stands_m` what stands in a tray.
    """

    id: str
    kind: Kind
    who: Who
    about: str
    part: str | None = None
    opens: tuple[str, ...] = ()
    shuts: tuple[str, ...] = ()
    runs: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    litres_m3: float | None = None
    minutes: float | None = None
    works_min: float | None = 10.0
    purge_at: tuple[str, ...] = ()
    air_at: tuple[str, ...] = ()
    look_at: tuple[str, ...] = ()
    dose_ml: float | None = None
    expect: tuple[Expect, ...] = ()
    after: tuple[str, ...] = ()
    phase: str | None = None
    not_computed: str | None = None
    watch_min: float = 0.0
    air_left: tuple[str, ...] = ()
    stays_m3: float | None = None
    stands_m: float | None = None


def stages_of(
    system: System, sections: Sequence[Section], computed: Computed
) -> tuple[Stage, ...]:  # fmt: skip
    """Write the stages in which a design is filled and tested.

    Parameters
    ----------
    system : System
        The design. [-]
    sections : sequence of Section
        In the order they are filled. [m³]
    computed : Computed
        What the engine says of it. [SI]

    Returns
    -------
    tuple of Stage
        Water first, then heat, mixing, waste, gauges; again after the first drive. [SI]
    """
    parts = {part.id: part for part in system.parts}
    fills = list(_fills(system, sections, computed, parts))
    wet = [stage.id for stage in fills]
    pumps = list(_pumped(system, fills, computed))
    last = tuple(stage.id for stage in (pumps or fills)[-1:])
    flows = [
        _flow(part, computed, last) for part in system.parts
        if isinstance(part, use.Outlet) and _fed(part.id, sections)
    ]  # fmt: skip
    flows += [_pair(pair, both, last) for pair, both in computed.pairs.items()]
    heats = list(_heats(system, sections, fills, flows, computed))
    mixes = [
        Stage(f"mix.{part.id}", "mix", "builder", part.id, parts=(part.id,), works_min=15.0,
              expect=tuple(_mixed(part, computed)),
              after=tuple(stage.id for stage in heats[-1:]) or last, phase=part.phase)
        for part in system.parts if isinstance(part, temperature.ThermostaticMixer)
    ]  # fmt: skip
    rest = list(_rest(system, sections, tuple(wet), last, computed))
    return (*fills, *pumps, *flows, *heats, *mixes, *rest)


def _mixed(part: temperature.ThermostaticMixer, computed: Computed) -> Iterator[Expect]:
    """Expect the warmth of one outlet behind a valve, and the wait; as set where none is solved."""
    outlet = next(iter(computed.behind.get(part.id, ())), None)
    if outlet is None or outlet not in computed.warmth:
        yield Expect(f"temp.{part.id}", part.set_c - SET_K, part.set_c, part.set_c + SET_K, "C",
                     "as_set")  # fmt: skip
        return
    yield Expect(f"temp.{outlet}", *computed.warmth[outlet], "C", "as_set")
    if outlet in computed.wait_s:
        yield Expect(f"wait.{outlet}", *computed.wait_s[outlet], "s", "cold_first")


def _fed(part_id: str, sections: Sequence[Section]) -> bool:
    return any(part_id in section.borders for section in sections)


def _fills(
    system: System, sections: Sequence[Section], computed: Computed, parts: Mapping[str, AnyKind]
) -> Iterator[Stage]:
    """One stage a section: what is opened, what stays shut, where air leaves."""
    before: tuple[str, ...] = ()
    runs = {run.id: run for run in system.runs}
    pipes = {run.id: run for run in system.runs if isinstance(run, Pipe)}
    opened = frozenset(one.opened for one in sections if one.opened is not None)
    tanks: set[str] = set()
    used: set[str] = set()
    for section in sections:
        first = section.source is not None and section.source not in tanks
        if section.source is not None:
            tanks.add(section.source)
        name = section.opened or section.source or (section.runs[0] if section.runs else "section")
        key_of = f"fill.{name}" if f"fill.{name}" not in used else f"fill.{name}.{section.runs[0]}"
        used.add(key_of)
        air = air_of(section, pipes, parts, computed.heights, said=computed.heights_said,
                     opened=opened)  # fmt: skip
        minutes = _fills_min(section, air.leaves_by, computed, first=first)
        lacks = None
        if section.primary:
            lacks = "primary"
        elif section.litres_m3 is None:
            lacks = "litres"
        elif minutes is None:
            lacks = "flow" if air.leaves_by else "no_outlet"
        elif air.leaves_by and not computed.heights_said:
            lacks = "heights"
        phases = {runs[key].phase for key in section.runs}
        yield Stage(
            key_of, "fill", "builder", name, section.source if first else None,
            () if section.opened is None else (section.opened,),
            tuple(key for key in section.borders if not isinstance(parts[key], use.Outlet)),
            section.runs, section.parts, section.litres_m3, minutes,
            10.0 if minutes is None else 5.0 + minutes, air.leaves_by, air.gathers,
            section.runs, after=before, phase=phases.pop() if len(phases) == 1 else None,
            not_computed=lacks, air_left=air.left,
        )  # fmt: skip
        before = (key_of,)


def _fills_min(
    section: Section, leaves_by: Sequence[str], computed: Computed, *, first: bool
) -> float | None:  # fmt: skip
    """Give the minutes of a fill: by what lets air out, else as long as its tank takes."""
    if section.litres_m3 is None:
        return None
    flow = next((computed.flows[key][1] for key in leaves_by if key in computed.flows), None)
    if flow:
        return section.litres_m3 / flow / 60.0
    seconds = computed.fills_s.get(section.source or "") if first else None
    return None if seconds is None else seconds / 60.0


def _levels(gauge: str, computed: Computed) -> tuple[Expect, ...]:
    """Expect what a gauge shows at each tenth of its tank."""
    return tuple(
        Expect(f"level.{gauge}", low, 0.5 * (low + high), high, "%", "metered", at_m3=held)
        for held, low, high in computed.levels.get(gauge, ())
    )


def _pumped(system: System, fills: Sequence[Stage], computed: Computed) -> Iterator[Stage]:
    """Pump against everything shut, then half an hour without a kick."""
    filled = tuple(stage.id for stage in fills[-1:])
    for part in system.parts:
        if part.kind not in ("pump", "submersible"):
            continue
        expect = []
        if part.id in computed.run_on_s:
            took = computed.run_on_s[part.id]
            expect.append(Expect(f"run_on.{part.id}", *took, "s", "run_on"))
        out = computed.cut_out_pa.get(part.id)
        if out is not None:
            bar = out / 1e5
            expect.append(Expect(f"cut_out.{part.id}", bar * (1.0 - CUT_OUT_SHARE), bar,
                                 bar * (1.0 + CUT_OUT_SHARE), "bar", "printed"))  # fmt: skip
        yield Stage(
            f"pump.{part.id}", "pump", "builder", part.id, parts=(part.id,), works_min=10.0,
            expect=tuple(expect), after=filled, phase=part.phase,
            not_computed=None if expect else "pump",
        )  # fmt: skip
        kept = computed.kept_m3.get(part.id)
        finds = None if kept is None else kept[1] / LITRE / (HOLD_S / HOUR_S)
        hold = () if kept is None else (
            Expect(f"kick_every.{part.id}", HOLD_S / 60.0, None, None, "min", "tight",
                   finds),)  # fmt: skip
        yield Stage(
            f"hold.{part.id}", "hold", "builder", part.id, parts=(part.id,), works_min=5.0,
            minutes=HOLD_S / 60.0, expect=hold, after=(f"pump.{part.id}",), phase=part.phase,
            watch_min=HOLD_S / 60.0, not_computed=None if hold else "kept",
        )  # fmt: skip
        filled = (f"hold.{part.id}",)
        rests = computed.rests_pa.get(part.id)
        if rests is not None:  # only where the air that is shut in is known
            yield Stage(
                f"hold_pressure.{part.id}", "hold_pressure", "builder", part.id, parts=(part.id,),
                works_min=5.0, minutes=HOLD_S / 60.0, watch_min=HOLD_S / 60.0, after=filled,
                phase=part.phase,
                expect=(Expect(f"shut_pressure.{part.id}", *_scaled(rests, 1e-5), "bar",
                               "rests"),),
            )  # fmt: skip


def _scaled(band: Band3, by: float) -> Band3:
    return band[0] * by, band[1] * by, band[2] * by


def _pair(
    pair: tuple[str, str], both: Mapping[str, Band3], after: tuple[str, ...]
) -> Stage:  # fmt: skip
    """Two outlets that run at once on some day of the brief."""
    expect = tuple(
        Expect(f"flow.{key}", *_scaled(flow, 60.0 / LITRE), "L/min", "at_once")
        for key, flow in both.items()
    )
    return Stage(f"flow.{pair[0]}.{pair[1]}", "flow", "builder", pair[0], opens=pair, parts=pair,
                 works_min=5.0, expect=expect, after=after)  # fmt: skip


def _flow(part: use.Outlet, computed: Computed, after: tuple[str, ...]) -> Stage:
    flow = computed.flows.get(part.id)
    expect: tuple[Expect, ...] = ()
    if flow is not None:
        low, likely, high = (one / LITRE * 60.0 for one in flow)
        expect = (Expect(f"flow.{part.id}", low, likely, high, "L/min", "alone"),)
    return Stage(
        f"flow.{part.id}", "flow", "builder", part.id, opens=(part.id,), parts=(part.id,),
        works_min=5.0, expect=expect, after=after, phase=part.phase,
        not_computed=None if expect else "flow",
    )  # fmt: skip


def _heats(
    system: System, sections: Sequence[Section], fills: Sequence[Stage], flows: Sequence[Stage],
    computed: Computed,
) -> Iterator[Stage]:  # fmt: skip
    """Heat after water: elements once their store is full, gas once it is tight."""
    filled = {key: stage.id for stage in fills for key in stage.parts}
    flowing = tuple(stage.id for stage in flows[:1])
    for part in system.parts:
        if isinstance(part, heat.Element) and part.fitted_in is not None:
            amps = computed.amps.get(part.id)
            expect: list[Expect] = []
            if amps is not None:
                expect.append(Expect(f"amps.{part.id}", *amps, "A", "by_watts"))
            heats = computed.heats_s.get(part.id)
            if heats is not None:
                low, likely, high = (one / 60.0 for one in heats)
                expect.append(
                    Expect(f"heat_up.{part.fitted_in}", low, likely, high, "min", "to_set")
                )
            host = filled.get(part.fitted_in)
            yield Stage(
                f"heat_electric.{part.id}", "heat_electric", "builder", part.id,
                parts=(part.id, part.fitted_in), works_min=15.0, expect=tuple(expect),
                after=flowing if host is None else (host, *flowing), phase=part.phase,
                not_computed=None if expect else "amps",
            )  # fmt: skip
    pipes = [run for run in system.runs if isinstance(run, FuelPipe)]
    parts = {part.id: part for part in system.parts}
    piped = tuple(
        run.id for run in pipes
        if any(parts[end.part].side == "gas" for end in (run.start, run.end))
    )  # fmt: skip
    tight: tuple[str, ...] = ()
    if piped or any(isinstance(part, gas.GasBottle) or _burns_gas(part) for part in system.parts):
        tight = ("gas_tightness",)
        yield Stage("gas_tightness", "gas_tightness", "licensed", "gas", runs=piped,
                    works_min=30.0)  # fmt: skip
    burners = (heat.Burner, heat.ThroughFlowGas, heat.Combi, heat.LiquidHeater)
    for part in system.parts:
        if not isinstance(part, burners):
            continue
        host = filled.get(part.fitted_in or part.id)
        needs = tight if _burns_gas(part) else ()
        yield Stage(
            f"first_fire.{part.id}", "first_fire", "licensed" if needs else "builder", part.id,
            parts=(part.id,), works_min=30.0, phase=part.phase,
            after=tuple(dict.fromkeys((*flowing, *((host,) if host else ()), *needs))),
        )  # fmt: skip


def _burns_gas(part: AnyKind) -> bool:
    lit = heat.Burner | heat.ThroughFlowGas | heat.Combi
    return isinstance(part, lit) and part.fuel in GAS_FUELS


def _rest(
    system: System, sections: Sequence[Section], wet: tuple[str, ...], last: tuple[str, ...],
    computed: Computed,
) -> Iterator[Stage]:  # fmt: skip
    """Waste, gauges, sanitising, draining, and the same again later."""
    for part in system.parts:
        if isinstance(part, waste.Tray):
            runs_s, stands_m = computed.trays.get(part.id, (None, None))
            yield Stage(f"waste.{part.id}", "waste", "builder", part.id, parts=(part.id,),
                        litres_m3=TRAY_M3, works_min=15.0, phase=part.phase,
                        minutes=None if runs_s is None else runs_s / 60.0, stands_m=stands_m,
                        not_computed="tray" if runs_s is None else None)  # fmt: skip
        elif isinstance(part, gauges.FloatSender | gauges.SightTube):
            yield Stage(f"gauge.{part.id}", "gauge", "builder", part.id, parts=(part.id,),
                        works_min=40.0, after=wet[:1], phase=part.phase,
                        expect=_levels(part.id, computed),
                        not_computed=None if part.id in computed.levels else "gauge")  # fmt: skip
    litres = treated_m3(system, sections)
    if wet:
        yield Stage("sanitise", "sanitise", "builder", "water", litres_m3=litres, works_min=60.0,
                    dose_ml=None if litres is None else dose_m3(water_m3=litres) / MILLILITRE,
                    after=last, not_computed=None if litres is not None else "litres")  # fmt: skip
        drains = computed.drains or tuple(part.id for part in system.parts if part.kind == "drain")
        leaves = tuple(
            Expect(f"litres.{key}", *_scaled(DRAINED, m3 / LITRE), "L", "drained")
            for key, m3 in computed.drained_m3.items())  # fmt: skip
        yield Stage("drain_down", "drain_down", "builder", "water", opens=drains,
                    works_min=30.0, after=("sanitise",), expect=leaves,
                    stays_m3=computed.stays_m3,
                    not_computed=None if leaves else "drains")  # fmt: skip
        yield Stage("recheck", "recheck", "builder", "all", works_min=45.0, after=("drain_down",),
                    look_at=tuple(part.id for part in system.parts if closes(part)))  # fmt: skip


def treated_m3(system: System, sections: Sequence[Section]) -> float | None:
    """Give all water that is sanitised: what the sections hold, and what is filled by hand.

    Parameters
    ----------
    system : System
        The design. [-]
    sections : sequence of Section
        Of its water. [m³]

    Returns
    -------
    float or None
        None where a run or vessel has no size. [m³]
    """
    known = [section.litres_m3 for section in sections if not section.primary]
    # what is filled by hand or hose; a river or a pitch's water is not dosed
    sources = {section.source for section in sections}
    tanks = [
        part.volume_m3 if part.nominal_m3 is None else part.nominal_m3
        for part in system.parts
        if isinstance(part, water.FreshTank) or (
            isinstance(part, water.LooseContainer | water.GravityBag) and part.id in sources)
    ]  # fmt: skip
    if not known or None in known or None in tanks:
        return None
    return sum(one for one in (*known, *tanks) if one is not None)
