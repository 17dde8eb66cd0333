"""Diesel and hot surfaces: exhausts, tanks, coolant, after-run."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.circuits import circuit_of
from isotherma.core.checks.found import (
    BUILDER,
    ELECTRICAL,
    FLUE,
    PRESSURE,
    Found,
    Severity,
    check,
)
from isotherma.core.checks.look import Lacks, Look, counted
from isotherma.core.checks.nights import lowest_c
from isotherma.core.checks.rules import copper_from
from isotherma.core.findings import Quantity, Value
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat, primary, water
from isotherma.core.system.nominal import known_figure
from isotherma.core.water.fluids import DENSITY, fluid_table, look_up

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
CLEAR_M, LEAST_CLEAR_M = 0.1, 0.05
KEPT_SHARE: Final = 0.1
GLOW_V, DOUBLE_V = 12.2, 24.4
GLOW_A: Final = 10.0
COLD_C, OVER_K = 5.0, 5.0
UNSET_C: Final = 85.0  # of coolant nothing sets
PASSES: Final = frozenset({"liquid_heater"})


def _heaters(look: Look) -> Iterator[AnyKind]:
    yield from (part for part in look.system.parts if look.burns_liquid(part))


@check("diesel.lagging", "diesel.exhaust")
def _exhaust(look: Look) -> Iterator[Found]:
    """Exhausts: lagged, clear, and ended outside."""
    lacks = Lacks(look, "diesel.lagging", FLUE)
    for heater in _heaters(look):
        flues = [one for one in look.system.fitted(heater.id) if isinstance(one, heat.Flue)]
        for flue in flues:
            inside = look.inside(flue)
            if flue.clear_m is not None and flue.clear_m < LEAST_CLEAR_M:
                yield _close(look, flue, LEAST_CLEAR_M)
            elif flue.lagged is False and (
                inside or (flue.clear_m is not None and flue.clear_m < CLEAR_M)
            ):
                yield _close(look, flue, CLEAR_M)
            else:
                names = [name for name in ("lagged", "clear_m") if getattr(flue, name) is None]
                if flue.lagged is True and flue.clear_m is not None:
                    names = []
                for name in names:
                    lacks.add("parts", flue.id, name)
        hosts = {heater.id, *(flue.id for flue in flues)}
        ends = [one for one in look.system.parts
                if isinstance(one, heat.Terminal) and one.fitted_in in hosts]  # fmt: skip
        if not ends:
            yield look.unknown("diesel.exhaust", FLUE, (f"parts.{heater.id}.terminal",), heater.id,
                               subject=f"Where the exhaust of {heater.label} ends")  # fmt: skip
        for end in ends:
            space = look.space(end)
            walled = end.wall is not None
            if space is not None and space.warmth not in ("slung", "outside") and not walled:
                yield look.found("diesel.exhaust", S, FLUE, end.id, q=f"“{space.name}”",
                                 needs=(space.id,))  # fmt: skip
    yield from lacks.found()


def _close(look: Look, flue: heat.Flue, limit: float) -> Found:
    far = None if flue.clear_m is None else Quantity(flue.clear_m, "length")
    return look.found(
        "diesel.lagging", F, FLUE, flue.id, figure=far, limit=Quantity(limit, "length"),
        variant="" if far is not None else "bare",
        a={True: "lagged", False: "not lagged", None: "perhaps bare"}[flue.lagged],
    )  # fmt: skip


@check("diesel.pickup", "diesel.fuel-inside")
def _tank(look: Look) -> Iterator[Found]:
    """What is kept for driving, and fuel where people are."""
    for part in look.system.parts:
        if not isinstance(part, heat.FuelTank):
            continue
        if part.kept_m3 is None or part.volume_m3 is None:
            names = [name for name in ("kept_m3", "volume_m3") if getattr(part, name) is None]
            yield look.unknown("diesel.pickup", BUILDER,
                               tuple(f"parts.{part.id}.{name}" for name in names), part.id)  # fmt: skip  # noqa: E501
        elif part.kept_m3 < KEPT_SHARE * part.volume_m3 * (1 - 1e-9):
            yield look.found(
                "diesel.pickup", W, BUILDER, part.id,
                figure=Quantity(part.kept_m3 / part.volume_m3, "share"),
                limit=Quantity(KEPT_SHARE, "share"),
                x=Quantity(KEPT_SHARE * part.volume_m3, "volume"),
            )  # fmt: skip
        space = look.space(part)
        if space is None:
            yield look.unknown("diesel.fuel-inside", FLUE, (f"parts.{part.id}.space",), part.id)
        elif look.lived_in(space):
            yield look.found("diesel.fuel-inside", S if part.fuel == "petrol" else F, FLUE, part.id,
                             a=part.fuel, needs=(space.id,))  # fmt: skip


@check("diesel.expansion")
def _expansion(look: Look) -> Iterator[Found]:
    """Room for the coolant to grow."""
    for fluid in look.system.parts:
        if not isinstance(fluid, primary.PrimaryFluid):
            continue
        circuit = circuit_of(look, fluid)
        parts = [look.parts[key] for key in circuit]
        heaters = [part for part in parts
                   if isinstance(part, heat.LiquidHeater | heat.Store | heat.EngineCoolant)]  # fmt: skip  # noqa: E501
        if not heaters:
            continue
        if any(isinstance(part, heat.EngineCoolant) for part in parts):
            continue  # the engine's own header
        vessels = [part for part in parts if isinstance(part, primary.ExpansionVessel)]
        if any(vessel.open_header for vessel in vessels):
            continue
        gives = [part for part in parts if isinstance(part, water.Relief)]
        caps = [vessel.cap_pa for vessel in vessels if vessel.cap_pa is not None]
        volume = known_figure(look.likely[fluid.id], "volume_m3")
        stores = sum(part.volume_m3 for part in heaters
                     if isinstance(part, heat.Store) and part.volume_m3 is not None)  # fmt: skip
        holds = max(counted(volume), stores)
        grows = holds * _grows_share(look, fluid, parts)
        subject = heaters[0]
        if not vessels or not (gives or caps):
            yield look.found(
                "diesel.expansion", S, PRESSURE, subject.id, *(one.id for one in vessels),
                figure=Quantity(grows, "volume"), limit=Quantity(0.0, "volume"),
                x=Quantity(2.0 * grows, "volume"), p=subject.label,
            )  # fmt: skip
            continue
        takes = 0.0
        opens = [one.set_pa for one in gives if one.set_pa is not None] + caps
        lacking = [f"parts.{one.id}.{name}" for one in vessels
                   for name in ("volume_m3", "precharge_pa") if getattr(one, name) is None]  # fmt: skip  # noqa: E501
        if lacking or not opens:
            needs = lacking or [f"parts.{one.id}.set_pa" for one in gives]
            yield look.unknown("diesel.expansion", PRESSURE, tuple(needs), vessels[0].id)
            continue
        air = 101_325.0
        for vessel in vessels:
            assert vessel.volume_m3 is not None and vessel.precharge_pa is not None
            low, high = vessel.precharge_pa + air, min(opens) + air
            takes += max(0.0, vessel.volume_m3 * (1.0 - low / high))
        if takes < grows * (1 - 1e-9):
            yield look.found(
                "diesel.expansion", F, PRESSURE, vessels[0].id, figure=Quantity(grows, "volume"),
                limit=Quantity(takes, "volume"),
                x=Quantity(grows / max(1e-3, takes) * counted(*(v.volume_m3 for v in vessels)),
                           "volume"),
            )  # fmt: skip


def _grows_share(look: Look, fluid: primary.PrimaryFluid, parts: list[AnyKind]) -> float:
    """Give by how much a coolant grows from cold to as hot as its heaters make it."""
    sets = [part.set_c + OVER_K for part in parts if isinstance(part, heat.LiquidHeater)]
    sets += [one.set_c + OVER_K for part in parts for one in look.system.fitted(part.id)
             if isinstance(one, heat.Element | heat.Burner)]  # fmt: skip
    mix = look.likely[fluid.id]
    share = known_figure(mix, "antifreeze_share")
    what = primary.USUAL_FLUID if fluid.fluid is None else fluid.fluid
    table = fluid_table(what, 0.0 if what == "water" else counted(share))
    cold, hot = (look_up(table, DENSITY, celsius)
                 for celsius in (COLD_C, min(99.0, max(sets, default=UNSET_C))))  # fmt: skip
    return cold / hot - 1.0


@check("diesel.coolant-stopped")
def _stopped(look: Look) -> Iterator[Found]:
    """A heater that burns while its coolant stands."""
    for heater in look.system.parts:
        if not isinstance(heater, heat.LiquidHeater) or not look.lit(heater):
            continue
        if not any(end.port == "outlet" for _, end, _ in look.system.joined(heater.id)):
            continue
        nodes = look.reached(heater.id, "outlet", PASSES)
        keys = {key for key, _ in nodes}
        pumps = [look.parts[key] for key in keys
                 if isinstance(look.parts[key], primary.CirculationPump)]  # fmt: skip
        idle = [part for part in pumps if look.at.get(part.id) == "off"]
        if (heater.id, "inlet") in nodes and not idle:
            continue
        vents = any(
            isinstance(look.parts[key], water.Relief)
            or (isinstance(one := look.parts[key], primary.ExpansionVessel)
                and (one.open_header or one.cap_pa is not None)) for key in keys
        )  # fmt: skip
        yield look.found("diesel.coolant-stopped", F if vents else S, BUILDER, heater.id,
                         *(part.id for part in idle[:1]))  # fmt: skip


@check("diesel.after-run")
def _after_run(look: Look) -> Iterator[Found]:
    """Switches that can take the supply before a heater has cooled itself."""
    kinds = (heat.LiquidHeater, heat.AirHeater, primary.CirculationPump)
    for part in look.system.parts:
        if not isinstance(part, kinds):
            continue
        if _cut_while_hot(look, part):
            yield look.found("diesel.after-run", F, ELECTRICAL, part.id, variant="state")
            continue
        for way, _ in look.wire_ways(part.id, closed_only=False):
            cuts = [key for key in way if isinstance(
                look.parts[key], electric.Switch | electric.Relay | electric.Remote)]  # fmt: skip
            if cuts:
                after = known_figure(look.likely[part.id], "after_run_s")
                values: dict[str, Value] = (
                    {} if after is None else {"t": Quantity(after, "seconds")}
                )
                yield look.found(
                    "diesel.after-run", W, ELECTRICAL, part.id, cuts[0], q=look.label(cuts[0]),
                    variant="" if values else "bare", more=values,
                )  # fmt: skip
                break


def _cut_while_hot(look: Look, part: AnyKind) -> bool:
    """Say whether its feed is off here, where it is not off itself, and on in another state."""
    wired = any(True for _ in look.wire_ways(part.id, closed_only=False))
    if not wired or look.at.get(part.id) == "off" or look.powered(part.id):
        return False
    return any(
        look.in_state(state).powered(part.id) and look.in_state(state).at.get(part.id) != "off"
        for state in look.system.states
    )  # fmt: skip


@check("diesel.trip")
def _trip(look: Look) -> Iterator[Found]:
    """Volts at the glow pin against those at which it gives up."""
    for part in look.system.parts:
        if not isinstance(part, heat.LiquidHeater):
            continue
        way = next(iter(look.wire_ways(part.id, closed_only=False)), None)
        trip = known_figure(look.likely[part.id], "trip_v")
        if way is None or trip is None:
            continue
        loops = [known_figure(run, "loop_ohm") for run in look.known.runs
                 if run.id in {one.id for one in way[1]}]  # fmt: skip
        if any(loop is None for loop in loops):
            lacking = [run.id for run in way[1] if run.area_m2 is None and run.gauge is None]
            needs = tuple(f"runs.{key}.area_m2" for key in lacking)
            yield look.unknown("diesel.trip", ELECTRICAL, needs, part.id)
            continue
        amps = GLOW_A if part.glow_a is None else part.glow_a
        starts = DOUBLE_V if look.system.nominal_v > 18.0 else GLOW_V
        volts = starts - amps * sum(loop for loop in loops if loop is not None)
        if volts < trip:
            areas = [run.area_m2 for run in way[1] if run.area_m2 is not None]
            wanted = min(areas, default=2.5e-6) * (starts - volts) / max(0.2, starts - trip)
            yield look.found(
                "diesel.trip", F, ELECTRICAL, part.id, runs=tuple(run.id for run in way[1]),
                figure=Quantity(volts, "voltage"), limit=Quantity(trip, "voltage"),
                x=Quantity(copper_from(1.1 * wanted), "cable_area"),
            )  # fmt: skip


@check("frost.primary")
def _primary_frost(look: Look) -> Iterator[Found]:
    """Coolant against the lowest night."""
    night = lowest_c(look)
    for fluid in look.system.parts:
        if not isinstance(fluid, primary.PrimaryFluid):
            continue
        frozen = 0.0 if fluid.fluid == "water" else fluid.freezes_c
        share = fluid.antifreeze_share
        if frozen is None and share is not None:
            frozen = known_figure(look.likely[fluid.id], "freezes_c")
        if frozen is None:
            if night < 3.0:
                yield look.unknown(
                    "frost.primary", BUILDER,
                    (f"parts.{fluid.id}.freezes_c", f"parts.{fluid.id}.antifreeze_share"), fluid.id,
                )  # fmt: skip
            continue
        if frozen > night - 3.0:
            wanted = next((x for x in range(0, 61) if -(0.12 * x + 0.0092 * x * x) <= night - 3.0),
                          60)  # fmt: skip
            yield look.found(
                "frost.primary", F, BUILDER, fluid.id, figure=Quantity(frozen, "temperature"),
                limit=Quantity(night, "temperature"), x=wanted,
            )  # fmt: skip
