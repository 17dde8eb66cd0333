"""Water that lives, water that freezes, water that floods, and what it weighs."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.cold import NIGHT_S, colder_freezes
from isotherma.core.checks.found import BUILDER, Found, Severity, check, worst
from isotherma.core.checks.hot_pipes import hot_runs
from isotherma.core.checks.look import Lacks, Look, counted, held_m3
from isotherma.core.checks.nights import lowest_c
from isotherma.core.findings import Quantity
from isotherma.core.joints.masses import laid_kg
from isotherma.core.setup.reach import reach_of
from isotherma.core.setup.weights import Filling, weights
from isotherma.core.system.kinds import heat, temperature, use, waste, water
from isotherma.core.system.nominal import known_figure
from isotherma.core.system.runs import Pipe

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
DAY_S: Final = 86_400.0
LITRE: Final = 1e-3
LIVING_C, LIVES_TO_C = 20.0, 45.0
SLOSH_W_M3, SLOSH_F_M3 = 0.06, 0.2
LOOSE_KG, LIFT_KG = 10.0, 20.0
LEG_M3, HOT_LEG_M3 = 1e-4, 3e-4
# a branch ends where water is kept or driven
MOVED: Final = (heat.Store, heat.Combi, heat.Canister, heat.SunContainer, water.FreshTank,
                water.Pump, heat.ThroughFlowGas, heat.ThroughFlowElectric,
                heat.PlateExchanger)  # fmt: skip


@check("bacteria.loop", "bacteria.reuse", "bacteria.tank")
def _lives(look: Look) -> Iterator[Found]:
    """Water that goes round or stands for days."""
    for part in look.system.parts:
        if isinstance(part, temperature.LoopPump) and part.rule in ("continuous", "timed"):
            mixers = [
                one for key, port in look.usually(part.id, "inlet")
                if isinstance(one := look.parts[key], temperature.ThermostaticMixer)
                and port == "outlet" and one.set_c <= LIVES_TO_C
            ]  # fmt: skip
            if mixers:
                hours = 24.0
                if part.rule == "timed" and part.every_s > 0.0:
                    hours = 24.0 * min(1.0, part.runs_s / part.every_s)
                yield look.found(
                    "bacteria.loop", F if hours > 8.0 else W, BUILDER, part.id,
                    figure=Quantity(mixers[0].set_c, "temperature"),
                    b=Quantity(hours, "number"),
                )  # fmt: skip
        if isinstance(part, waste.ReuseLoop):
            hours = part.longest_s / 3600.0
            fine = part.filter_step == "fine and ultraviolet"
            bands = ((hours > 4.0 or part.filter_step == "none", F),
                     (hours > 1.0 or not fine, W))  # fmt: skip
            for severity in worst(bands):
                holds = 0.0 if part.holds_m3 is None else part.holds_m3
                yield look.found(
                    "bacteria.reuse", severity, BUILDER, part.id, figure=Quantity(hours, "number"),
                    limit=Quantity(1.0, "number"), a=Quantity(holds, "volume"),
                    b=part.filter_step, x=1,
                )  # fmt: skip
    if look.outcome is None:
        return
    day_m3 = sum(draw.used_m3 for draw in look.outcome.draws) + look.outcome.brief.other_fresh_m3
    warm = look.outcome.setup.conditions.fresh_c
    for part in look.known.parts:
        volume = known_figure(part, "volume_m3")
        if not isinstance(part, water.FreshTank) or volume is None or day_m3 <= 0.0:
            continue
        days = min(volume / day_m3, float(look.project.brief.days))
        if warm > LIVING_C:
            for severity in worst(((days > 7.0, F), (days > 3.0, W))):
                yield look.found(
                    "bacteria.tank", severity, BUILDER, part.id, figure=Quantity(days, "number"),
                    limit=Quantity(7.0 if severity is F else 3.0, "number"),
                    a=Quantity(warm, "temperature"),
                )  # fmt: skip


@check("bacteria.dead-leg")
def _dead_legs(look: Look) -> Iterator[Found]:
    """Branches that are capped, and those to outlets nobody is said to use."""
    brief = look.project.brief
    meant = {draw.outlet for draw in brief.draws} | {each.outlet for each in brief.uses}
    anything = None in meant or not meant
    hot = hot_runs(look)
    for part in look.system.parts:
        idle = isinstance(part, use.Outlet) and part.id not in meant and not anything
        if not (isinstance(part, water.BlankingCap) or idle):
            continue
        branch = _branch(look, part.id)
        holds = sum(held_m3(run) for run in branch)
        warm = any(run.id in hot for run in branch)
        for severity in worst(((warm and holds > HOT_LEG_M3, F), (holds > LEG_M3, W))):
            limit = HOT_LEG_M3 if severity is F else LEG_M3
            yield look.found("bacteria.dead-leg", severity, BUILDER, part.id,
                             runs=tuple(run.id for run in branch), p=branch[0].label,
                             figure=Quantity(holds, "volume"),
                             limit=Quantity(limit, "volume"))  # fmt: skip


def _branch(look: Look, part_id: str) -> tuple[Pipe, ...]:
    """Give the runs from the last place where water goes by to the end of a branch."""
    runs: list[Pipe] = []
    here = part_id
    while True:
        near = [run for run in look.known.pipes
                if here in (run.start.part, run.end.part) and run not in runs]  # fmt: skip
        if len(near) != 1:
            return tuple(runs)
        runs.append(near[0])
        ends = {near[0].start.part, near[0].end.part} - {here}
        here = next(iter(ends), here)
        wet = sum(here in (run.start.part, run.end.part) for run in look.known.pipes)
        if wet != 2 or isinstance(look.parts[here], MOVED):
            return tuple(runs)


@check("frost.no-drain-state", "frost.drain-high")
def _frost(look: Look) -> Iterator[Found]:
    """A drained state where nights go below zero; drains at the low point."""
    night = lowest_c(look)
    soon = {one.id for one in colder_freezes(look)
            if not one.is_run and one.to_zero_s < NIGHT_S}  # fmt: skip
    exposed = sorted(soon) if look.outcome is not None else [
        part.id for part in look.system.parts
        if isinstance(part, water.FreshTank | heat.Store | heat.Combi | water.Pump
                      | heat.ThroughFlowGas | heat.Canister)
        and (space := look.space(part)) is not None and space.warmth != "heated"
    ]  # fmt: skip
    padded = {part.fitted_in for part in look.system.parts if isinstance(part, heat.HeatPad)}
    exposed = [key for key in exposed if key not in padded]
    if night < 0.0 and exposed and not any(state.dry for state in look.system.states):
        yield look.found("frost.no-drain-state", F, BUILDER, *exposed,
                         figure=Quantity(night, "temperature"),
                         limit=Quantity(0.0, "temperature"))  # fmt: skip
    for part in look.system.parts:
        if not isinstance(part, water.Drain) or part.z_m is None:
            continue
        lower = [
            one for key, _ in look.usually(part.id, "inlet", frozenset({"pump"}))
            if (one := look.parts[key]).z_m is not None and one.z_m < part.z_m - 0.02
            and isinstance(one, heat.Store | heat.Combi | heat.ThroughFlowGas | water.Strainer
                           | water.Filter)
        ]  # fmt: skip
        if lower:
            deep = min(lower, key=lambda one: one.z_m if one.z_m is not None else 0.0)
            assert deep.z_m is not None
            hot = isinstance(deep, heat.Store | heat.Combi | heat.ThroughFlowGas)
            yield look.found("frost.drain-high", F if hot else W, BUILDER, part.id, deep.id,
                             figure=Quantity(part.z_m - deep.z_m, "length"))  # fmt: skip


@check("flood.no-shutoff", "flood.hidden", "flood.no-tray", "flood.grey-first")
def _flood(look: Look) -> Iterator[Found]:
    """What runs out where nobody shuts it."""
    for part in look.system.parts:
        if isinstance(part, water.FreshTank | water.PressurisedInlet):
            nodes = look.usually(part.id, "outlet",
                                 frozenset({"pump", "shut_off", "selector"}))  # fmt: skip
            keys = {key for key, _ in nodes}
            pumps = [key for key in keys if isinstance(look.parts[key], water.Pump)]
            shuts = [key for key in keys
                     if isinstance(look.parts[key], water.ShutOff | water.Selector)]  # fmt: skip
            if not shuts and (pumps or isinstance(part, water.PressurisedInlet)):
                yield look.found("flood.no-shutoff", W, BUILDER, *(pumps[:1] or (part.id,)),
                                 *((part.id,) if pumps else ()), q=part.label)  # fmt: skip
        joined = any(run for run in look.pipes if part.id in (run.start.part, run.end.part))
        if joined and part.reach == "behind another part":
            order = reach_of(look.system, part.id).order
            yield look.found("flood.hidden", F if len(order) > 1 else W, BUILDER, part.id, *order,
                             q=", ".join(look.label(key) for key in order))  # fmt: skip
        if isinstance(part, use.ShowerHead | use.Tap) and (
            part.falls_to is None and look.inside(part)
        ):
            yield look.found("flood.no-tray", W, BUILDER, part.id)
        if isinstance(part, waste.GreyTank) and look.inside(part):
            yield look.found("flood.grey-first", F, BUILDER, part.id, variant="inside")
    yield from _grey_first(look)


def _grey_first(look: Look) -> Iterator[Found]:
    """Find grey water that is full before fresh water ends."""
    if look.outcome is None:
        return
    ends = {entry.budget: entry.ends_on_day for entry in look.outcome.ledger}
    grey, fresh = ends.get("grey"), ends.get("fresh")
    tanks = [part.id for part in look.system.parts if isinstance(part, waste.GreyTank)]
    if grey is None or not tanks or (fresh is not None and fresh <= grey):
        return
    yield look.found(
        "flood.grey-first", W, BUILDER, tanks[0], figure=Quantity(float(grey), "number"),
        limit=None if fresh is None else Quantity(float(fresh), "number"),
        variant="" if fresh is not None else "never",
    )  # fmt: skip


@check("weight.payload", "weight.axle", "weight.slosh", "weight.restraint", "weight.lift")
def _weight(look: Look) -> Iterator[Found]:
    """Payload, axles, slosh, what is loose, what is lifted."""
    vehicle = look.project.vehicle
    found = weights(look.known, vehicle, laid_kg(look.system, look.joints or ()))
    full = next(row for row in found.rows if row.filling is Filling.FULL)
    limits = (
        ("weight.payload", "payload_kg", full.total_kg, "the vehicle"),
        ("weight.axle", "front_axle_kg", full.front_kg, "the front axle"),
        ("weight.axle", "rear_axle_kg", full.rear_kg, "the rear axle"),
    )
    lacks = {of: Lacks(look, of, BUILDER) for of in ("weight.payload", "weight.axle")}
    for of, name, kilograms, what in limits:
        limit = getattr(vehicle, name)
        if limit is None:
            lacks[of].add("vehicle", "", name)
        elif kilograms is None:
            for axle in ("wheelbase_m", "rear_axle_x_m"):
                if getattr(vehicle, axle) is None:
                    lacks[of].add("vehicle", "", axle)
        else:
            for severity in worst(((kilograms > limit, S), (kilograms > 0.9 * limit, W))):
                yield look.found(
                    of,
                    severity,
                    BUILDER,
                    figure=Quantity(kilograms, "mass"),
                    limit=Quantity(limit, "mass"),
                    p=what,
                    q="what is heaviest",
                    x=Quantity(max(0.0, (limit - kilograms) * LITRE), "volume"),
                )
    for gathered in lacks.values():
        yield from gathered.found()
    yield from _moving(look)


def _moving(look: Look) -> Iterator[Found]:
    slosh, loose = Lacks(look, "weight.slosh", BUILDER), Lacks(look, "weight.restraint", BUILDER)
    for part in look.known.parts:
        volume = known_figure(part, "volume_m3") if hasattr(part, "volume_m3") else None
        if isinstance(part, water.FreshTank) and volume is not None and volume > SLOSH_W_M3:
            if part.baffled is None:
                slosh.add("parts", part.id, "baffled")
            elif not part.baffled:
                yield look.found("weight.slosh", F if volume > SLOSH_F_M3 else W, BUILDER, part.id,
                                 figure=Quantity(volume, "volume"),
                                 limit=Quantity(SLOSH_W_M3, "volume"))  # fmt: skip
        carried = isinstance(part, water.LooseContainer | waste.WasteContainer)
        held = isinstance(part, water.FreshTank | heat.Store | heat.Combi | waste.GreyTank)
        heavy = counted(known_figure(part, "dry_mass_kg")) + counted(volume) / LITRE
        asked = held or carried or part.kind in ("battery", "gas_bottle")
        if heavy >= LOOSE_KG:
            if look.parts[part.id].held == "loose":
                yield look.found("weight.restraint", F, BUILDER, part.id,
                                 figure=Quantity(heavy, "mass"),
                                 limit=Quantity(LOOSE_KG, "mass"))  # fmt: skip
            elif asked and look.parts[part.id].held is None:
                loose.add("parts", part.id, "held")
        if carried and heavy > LIFT_KG:
            yield look.found("weight.lift", W, BUILDER, part.id, figure=Quantity(heavy, "mass"),
                             limit=Quantity(LIFT_KG, "mass"))  # fmt: skip
    yield from slosh.found()
    yield from loose.found()
