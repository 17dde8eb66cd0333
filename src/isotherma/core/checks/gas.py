"""Gas: vents, pressure, pipes, valves, hoses, bottles."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.found import GAS, Found, Severity, check, worst
from isotherma.core.checks.look import INSIDE, LIVE, Lacks, Look, counted
from isotherma.core.checks.rules import OTHER_LOW_M2, bottle_vents_m2, living_vents_m2
from isotherma.core.findings import Quantity
from isotherma.core.setup.gas_tree import appliances_of, gas_report
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import gas, water
from isotherma.core.system.nominal import known_figure
from isotherma.core.system.runs import FuelPipe
from isotherma.core.system.vehicle import Space

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
PUMPS: Final = (water.Pump, water.Submersible)
HOSE_M: Final = 0.75
AIR_C: Final = 15.0  # of pipes: density and viscosity of the gas there
OFF_PLATE: Final = 0.05
OUTDOORS: Final = "outdoors only"


def appliances(look: Look) -> Iterator[AnyKind]:
    """List what burns gas.

    Parameters
    ----------
    look : Look
        The design. [-]

    Returns
    -------
    iterator of parts
        In the document's order. [-]
    """
    yield from (part for part in look.system.parts if look.burns_gas(part))


def _outdoors(part: AnyKind) -> bool:
    return OUTDOORS in part.limits


def _gas_here(look: Look, space: Space) -> list[str]:
    """List the parts with gas in a space, and the ends of pipes there."""
    kinds = (gas.GasBottle, gas.Regulator, gas.GasValve, gas.GasCoupling, gas.Manifold)
    return [
        part.id for part in look.system.parts
        if look.space_id(part) == space.id and (isinstance(part, kinds) or look.burns_gas(part))
    ]  # fmt: skip


def _wanted_vents(
    look: Look, space: Space, here: list[str]
) -> tuple[tuple[float, float] | None, str, tuple[str, ...]]:
    """Give low and high vents a space needs, the standard, and what is lacking to know them."""
    floor = None
    if space.width_m is not None and space.depth_m is not None:
        floor = space.width_m * space.depth_m
    bottles = [part for key in here if isinstance(part := look.parts[key], gas.GasBottle)]
    sizes = ("width_m", "depth_m")
    if bottles:
        masses = [bottle.gas_kg for bottle in bottles]
        known = [mass for mass in masses if mass is not None]
        way = look.rules.word("bottle_vents")
        wanted = bottle_vents_m2(
            way, floor_m2=floor, gas_kg=sum(known) if len(known) == len(masses) else None,
            high=bool(space.high_vent_m2),
        )  # fmt: skip
        if wanted is None and way == "floor" and space.low_vent_m2 is not None:
            least = bottle_vents_m2(way, floor_m2=0.0, gas_kg=None, high=bool(space.high_vent_m2))
            if least is not None and space.low_vent_m2 < least[0]:
                wanted = least  # too little whatever the floor
        return wanted, look.rules.source("bottle_vents"), sizes
    if look.lived_in(space):
        return (None if floor is None else living_vents_m2(floor)), "EN 721", sizes
    return (OTHER_LOW_M2, 0.0), "ours", ()


@check("gas.drop-vent")
def _drop_vent(look: Look) -> Iterator[Found]:
    """Low vents, and high ones where they are asked."""
    lacks = Lacks(look, "gas.drop-vent", GAS)
    for space in look.system.spaces:
        here = _gas_here(look, space)
        if space.warmth not in INSIDE or not here:
            continue
        if space.lived_in is None and look.lived_in(space) is None:
            lacks.add("spaces", space.id, "lived_in", *here)
            continue
        wanted, source, sizes = _wanted_vents(look, space, here)
        if space.low_vent_m2 is None:
            lacks.add("spaces", space.id, "low_vent_m2", *here)
            continue
        if wanted is None:
            for name in sizes:
                if getattr(space, name) is None:
                    lacks.add("spaces", space.id, name, *here)
            continue
        low, high = wanted
        for severity in worst(((space.low_vent_m2 < 0.5 * low, S), (space.low_vent_m2 < low, F))):
            yield look.found(
                "gas.drop-vent", severity, GAS, *here,
                figure=Quantity(space.low_vent_m2, "area"), limit=Quantity(low, "area"),
                source=source, needs=(space.id,), p=f"“{space.name}”", a="floor",
                x=Quantity(2.0 * ((low - space.low_vent_m2) / 3.14159) ** 0.5, "bore"),
            )  # fmt: skip
            break
        else:
            if high and space.high_vent_m2 is None:
                lacks.add("spaces", space.id, "high_vent_m2", *here)
            elif high and space.high_vent_m2 is not None and space.high_vent_m2 < high:
                yield look.found(
                    "gas.drop-vent", F, GAS, *here, figure=Quantity(space.high_vent_m2, "area"),
                    limit=Quantity(high, "area"), source=source, needs=(space.id,),
                    p=f"“{space.name}”", a="top",
                    x=Quantity(2.0 * ((high - space.high_vent_m2) / 3.14159) ** 0.5, "bore"),
                )  # fmt: skip
    yield from lacks.found()


def permitted_pa(look: Look, plate_pa: float) -> tuple[float, float]:
    """Give what an appliance of a plate may get: from and to.

    Parameters
    ----------
    look : Look
        Its rules. [-]
    plate_pa : float
        On its plate. [Pa]

    Returns
    -------
    tuple of float
        By EN 437 where the plate is one of its; else 15 % either way. [Pa]

    References
    ----------
    EN 437, as known to us.
    """
    for plate, low, high in look.rules.plates():
        if abs(plate - plate_pa) <= 0.01 * plate:
            return low, high
    return 0.85 * plate_pa, 1.15 * plate_pa


@check("gas.pressure-match")
def _pressure_match(look: Look) -> Iterator[Found]:
    """What the regulator gives against what the plate asks for."""
    lacks = Lacks(look, "gas.pressure-match", GAS)
    for part in appliances(look):
        way, _ = look.gas_way(part.id)
        if not way:
            continue
        regulators = [one for key in way if isinstance(one := look.parts[key], gas.Regulator)]
        plate = known_figure(part, "gas_pa")
        if not regulators:
            limit = None if plate is None else Quantity(plate, "gas_pressure")
            yield look.found(
                "gas.pressure-match", S, GAS, part.id, variant="none", limit=limit,
                source=look.rules.source("gas_plates"),
            )  # fmt: skip
            continue
        regulator = regulators[0]
        if plate is None:
            lacks.add("parts", part.id, "gas_pa")
        if regulator.set_pa is None:
            lacks.add("parts", regulator.id, "set_pa", part.id, regulator.id)
        if plate is None or regulator.set_pa is None:
            continue
        low, high = permitted_pa(look, plate)
        gives = regulator.set_pa
        for severity in worst((
            (gives > high * (1 + 1e-9), S), (gives < low * (1 - 1e-9), F),
            (abs(gives - plate) > OFF_PLATE * plate, W),
        )):  # fmt: skip
            yield look.found(
                "gas.pressure-match", severity, GAS, part.id, regulator.id,
                figure=Quantity(gives, "gas_pressure"), limit=Quantity(plate, "gas_pressure"),
                source=look.rules.source("gas_plates"), q=regulator.label,
            )  # fmt: skip
    yield from lacks.found()


@check("gas.pipe-drop")
def _pipe_drop(look: Look) -> Iterator[Found]:
    """What pipes take with every gas load on."""
    if not any(appliances(look)):
        return
    lacks = Lacks(look, "gas.pipe-drop", GAS)
    limit = look.rules.number("gas_drop_pa")
    report = gas_report(look.known, look.at, AIR_C)
    for one in report.appliances:
        way, runs = look.gas_way(one.id)
        if not one.reached or not any(isinstance(look.parts[key], gas.Regulator) for key in way):
            continue
        if one.drop_pa is None:
            for run in runs:
                for name in ("length_m", "outside_m"):
                    if getattr(run, name) is None and not (name == "outside_m" and run.bore_m):
                        lacks.add("runs", run.id, name)
            continue
        plate = one.plate_pa
        left = one.pressure_pa
        starves = plate is not None and left is not None and left < permitted_pa(look, plate)[0]
        enough = report.set_pa is not None and plate is not None and (
            report.set_pa >= permitted_pa(look, plate)[0]
        )  # fmt: skip
        for severity in worst(((starves and enough, S), (one.drop_pa > limit, F))):
            bores = [run for run in runs if run.bore_m or run.outside_m]
            thin = min(
                (counted(known_figure(run, "outside_m")) for run in bores), default=0.0
            )  # fmt: skip
            ratio = (one.drop_pa / limit) ** 0.2
            yield look.found(
                "gas.pipe-drop", severity, GAS, one.id, runs=tuple(run.id for run in runs),
                figure=Quantity(one.drop_pa, "gas_pressure"),
                limit=Quantity(limit, "gas_pressure"), source=look.rules.source("gas_drop_pa"),
                x=Quantity(_next_pipe_m(thin * ratio), "bore"),
            )  # fmt: skip
    yield from lacks.found()


def _next_pipe_m(outside_m: float) -> float:
    """Give the gas pipe as sold next above a diameter."""
    sold = (0.006, 0.008, 0.01, 0.012, 0.015, 0.018, 0.022)
    return next((size for size in sold if size >= outside_m + 1e-4), sold[-1])


@check("gas.regulator-small")
def _regulator_small(look: Look) -> Iterator[Found]:
    """All loads together against what a regulator passes."""
    lacks = Lacks(look, "gas.regulator-small", GAS)
    takes = appliances_of(look.known)
    behind: dict[str, list[str]] = {}
    for key in takes:
        for other in look.gas_way(key)[0]:
            if isinstance(look.parts[other], gas.Regulator):
                behind.setdefault(other, []).append(key)
    for key, loads in behind.items():
        regulator = look.parts[key]
        assert isinstance(regulator, gas.Regulator)
        if regulator.rated_kg_per_s is None:
            lacks.add("parts", key, "rated_kg_per_s")
            continue
        asked = sum(takes[load] for load in loads)
        if asked > regulator.rated_kg_per_s * (1 + 1e-9):
            yield look.found(
                "gas.regulator-small", F, GAS, key, *loads, figure=Quantity(asked, "mass_flow"),
                limit=Quantity(regulator.rated_kg_per_s, "mass_flow"),
                q=look.label(loads[0]), x=Quantity(_next_regulator(asked), "mass_flow"),
            )  # fmt: skip
    yield from lacks.found()


def _next_regulator(kg_per_s: float) -> float:
    sold = (0.8, 1.2, 1.5, 2.0, 2.5, 4.0, 6.0, 8.0, 12.0)
    return next((size for size in sold if size / 3600 >= kg_per_s), 20.0) / 3600


@check("gas.isolation")
def _isolation(look: Look) -> Iterator[Found]:
    """Something that shuts the gas near each appliance."""
    lacks = Lacks(look, "gas.isolation", GAS)
    for part in appliances(look):
        way, _ = look.gas_way(part.id)
        if not way or _outdoors(part):
            continue
        home = look.space_id(part)
        near = {home, *(() if home is None else look.neighbours(home))}
        shuts, open_question = False, []
        for key in way:
            one = look.parts[key]
            if look.space_id(one) not in near:
                continue
            if isinstance(one, gas.GasValve):
                shuts = True
            elif isinstance(one, gas.Manifold):
                shuts = shuts or one.valves is True
                open_question += [(key, "valves")] if one.valves is None else []
            elif isinstance(one, gas.GasCoupling):
                shuts = shuts or one.own_valve is True
                open_question += [(key, "own_valve")] if one.own_valve is None else []
        if shuts:
            continue
        if open_question:
            for key, name in open_question:
                lacks.add("parts", key, name, part.id, key)
            continue
        yield look.found("gas.isolation", F, GAS, part.id, source="EN 1949")
    yield from lacks.found()


@check("gas.hose-fixed", "gas.high-pressure")
def _hoses(look: Look) -> Iterator[Found]:
    """Hose where pipe belongs, and the bottle's pressure where people are."""
    lacks = Lacks(look, "gas.hose-fixed", GAS)
    for part in appliances(look):
        way, runs = look.gas_way(part.id)
        length, indoors, before = 0.0, False, False
        hoses: list[FuelPipe] = []
        for run, key in zip(runs, way[1:], strict=False):
            if run.way == "hose" and not before:
                hoses.append(run)
                length += 0.0 if run.length_m is None else run.length_m
                space = look.spaces.get(run.space or "")
                indoors = indoors or (space is not None and bool(look.lived_in(space)))
            before = before or isinstance(look.parts[key], gas.Regulator)
        if hoses and not _outdoors(part) and (length > HOSE_M or indoors):
            yield look.found(
                "gas.hose-fixed", F, GAS, part.id, runs=tuple(run.id for run in hoses),
                figure=Quantity(length, "length"), limit=Quantity(HOSE_M, "length"),
            )  # fmt: skip
        elif not _outdoors(part):
            for run in hoses:
                if run.length_m is None:
                    lacks.add("runs", run.id, "length_m")
    yield from lacks.found()
    yield from _high_pressure(look)


def _high_pressure(look: Look) -> Iterator[Found]:
    for part in look.system.parts:
        if not isinstance(part, gas.Regulator):
            continue
        space = look.space(part)
        if space is not None and look.lived_in(space):
            yield look.found("gas.high-pressure", F, GAS, part.id, variant="space",
                             q=f"“{space.name}”", needs=(space.id,))  # fmt: skip
            continue
        _, runs = look.gas_way(part.id)
        hoses = [run for run in runs if run.way == "hose"]
        length = sum(run.length_m for run in hoses if run.length_m is not None)
        if length > HOSE_M:
            yield look.found(
                "gas.high-pressure", F, GAS, part.id, runs=tuple(run.id for run in hoses),
                figure=Quantity(length, "length"), limit=Quantity(HOSE_M, "length"),
            )  # fmt: skip


@check("gas.spark")
def _spark(look: Look) -> Iterator[Found]:
    """What can spark beside a bottle."""
    for space in look.system.spaces:
        if space.warmth not in INSIDE:
            continue
        here = [part for part in look.system.parts if look.space_id(part) == space.id]
        if not any(isinstance(part, gas.GasBottle) for part in here):
            continue
        for part in here:
            if isinstance(part, LIVE + PUMPS):
                yield look.found("gas.spark", F, GAS, part.id, source="EN 1949",
                                 q=f"“{space.name}”", needs=(space.id,))  # fmt: skip
