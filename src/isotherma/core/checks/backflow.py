"""Backflow and materials: what must never meet the water people drink."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.circuits import circuit_of
from isotherma.core.checks.found import BUILDER, Found, Severity, check
from isotherma.core.checks.look import Lacks, Look
from isotherma.core.ends import THREADED, read_end
from isotherma.core.findings import Quantity
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat, primary, temperature, use, waste, water

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
WASH_PORE_M, DRINK_PORE_M = 20e-6, 1e-6
SLACK: Final = 1.0 + 1e-9


def _drinks(part: AnyKind) -> bool | None:
    if isinstance(part, use.BottleFill):
        return True
    return part.drinks if isinstance(part, use.Tap) else False


@check("backflow.joined")
def _joined(look: Look) -> Iterator[Found]:
    """Coolant, grey or reused water that can get to fresh water."""
    tanks = [part for part in look.system.parts if isinstance(part, water.FreshTank)]
    for part in look.system.parts:
        bad = ""
        starts: list[tuple[str, str]] = []
        if isinstance(part, primary.PrimaryFluid) and part.fluid != "water":
            bad, circuit = "coolant", circuit_of(look, part)
            meets = [key for key in sorted(circuit) if isinstance(
                look.parts[key], water.FreshTank | use.Outlet | water.PressurisedInlet)]  # fmt: skip  # noqa: E501
            if meets:
                yield look.found("backflow.joined", S, BUILDER, meets[0], part.id, q=bad,
                                 source="EN 1717")  # fmt: skip
            continue
        if isinstance(part, waste.GreyTank):
            bad, starts = "grey water", [(part.id, "outlet")]
        elif isinstance(part, waste.ReuseLoop):
            bad, starts = "reused water", [(part.id, "outlet")]
        for key, port in starts:
            nodes = look.usually(key, port)
            for other, name in sorted(nodes):
                one = look.parts[other]
                if isinstance(one, water.FreshTank) or (
                    isinstance(one, water.Pump | use.Tap | use.BottleFill)
                    and name in ("inlet", "outlet") and _fresh_too(look, other, tanks)
                ):  # fmt: skip
                    yield look.found("backflow.joined", S, BUILDER, other, part.id, q=bad,
                                     source="EN 1717")  # fmt: skip
                    break


def _fresh_too(look: Look, key: str, tanks: list[water.FreshTank]) -> bool:
    return any(any(other == key for other, _ in look.usually(tank.id, "outlet")) for tank in tanks)


@check("backflow.coolant")
def _coolant(look: Look) -> Iterator[Found]:
    """One wall between coolant and drinking water."""
    lacks = Lacks(look, "backflow.coolant", BUILDER)
    for fluid in look.system.parts:
        if not isinstance(fluid, primary.PrimaryFluid) or fluid.fluid == "water":
            continue
        for key in sorted(circuit_of(look, fluid)):
            part = look.parts[key]
            if isinstance(part, heat.PlateExchanger):
                wet = any(end.port in ("cold_in", "cold_out")
                          for _, end, _ in look.system.joined(key))  # fmt: skip
                if not wet or part.double_wall is True:
                    continue
                if part.double_wall is None:
                    lacks.add("parts", key, "double_wall")
                    continue
            elif not (isinstance(part, heat.Coil) and part.fitted_in is not None):
                continue
            if fluid.fluid is None:
                lacks.add("parts", fluid.id, "fluid", key)
                continue
            ethylene = fluid.fluid == "ethylene glycol"
            yield look.found("backflow.coolant", F if ethylene else W, BUILDER, key, fluid.id,
                             q=fluid.fluid)  # fmt: skip
    yield from lacks.found()


@check("backflow.outside-drinks", "material.drinking")
def _outside(look: Look) -> Iterator[Found]:
    """Water from outside on its way to where it is drunk; parts that are not fit."""
    lacks = Lacks(look, "backflow.outside-drinks", BUILDER)
    for source in look.system.parts:
        if not isinstance(source, water.OutsideSource):
            continue
        nodes = look.reached(source.id, "outlet", frozenset({"fresh_tank"}))
        for hung in look.system.fitted(source.id):
            nodes |= look.reached(hung.id, "outlet", frozenset({"fresh_tank"}))
        for key in sorted({key for key, port in nodes if port == "inlet"}):
            part = look.parts[key]
            if not isinstance(part, use.Tap | use.BottleFill):
                continue
            drinks = _drinks(part)
            if drinks is None:
                lacks.add("parts", key, "drinks")
                continue
            yield look.found("backflow.outside-drinks", S if drinks else W, BUILDER, key, source.id,
                             p=part.label, q=source.label, variant="drunk" if drinks else "",
                             )  # fmt: skip
        yield from _shares(look, source, nodes)
        yield from _filtered(look, source, nodes)
    yield from lacks.found()
    yield from _unfit(look)


def _shares(look: Look, source: AnyKind, nodes: set[tuple[str, str]]) -> Iterator[Found]:
    """Find what is drunk in another state through a pump or store that outside water wets here."""
    wetted = [key for key in sorted({key for key, _ in nodes})
              if isinstance(look.parts[key], water.Pump | heat.Store | heat.Combi)]  # fmt: skip
    reached = {key for key, _ in nodes}
    for state in look.system.states:
        if look.state is not None and state.id == look.state.id:
            continue
        other = look.in_state(state)
        for key in wetted:
            drunk = [
                one for one, port in sorted(other.reached(key, "outlet"))
                if port == "inlet" and _drinks(look.parts[one]) and one not in reached
            ]  # fmt: skip
            if drunk:
                yield look.found(
                    "backflow.outside-drinks", F, BUILDER, drunk[0], source.id,
                    p=look.label(drunk[0]), q=source.label, variant="shares", a=look.label(key),
                )  # fmt: skip
                return


def _filtered(look: Look, source: AnyKind, nodes: set[tuple[str, str]]) -> Iterator[Found]:
    """Say whether a fine enough filter is on the way from outside."""
    kinds = (use.ShowerHead, use.OutsideOutlet, use.Tap, use.BottleFill)
    outlets = [key for key, port in sorted(nodes)
               if port == "inlet" and isinstance(look.parts[key], kinds)]  # fmt: skip
    pores = {key: part.pore_m for key, _ in nodes
             if isinstance(part := look.parts[key], water.Filter)}  # fmt: skip
    for key in dict.fromkeys(outlets):
        drinks = _drinks(look.parts[key]) is True
        limit = DRINK_PORE_M if drinks else WASH_PORE_M
        fine = [pore for pore in pores.values() if pore is not None]
        if pores and None in pores.values() and not any(pore <= limit * SLACK for pore in fine):
            blank = next(one for one, pore in pores.items() if pore is None)
            yield look.unknown("material.drinking", BUILDER, (f"parts.{blank}.pore_m",), blank)
            return
        if not any(pore <= limit * SLACK for pore in fine):
            coarse = min(fine, default=None)
            yield look.found(
                "material.drinking", S if drinks else W, BUILDER, key, source.id, p=source.label,
                figure=None if coarse is None else Quantity(coarse, "fine"),
                limit=Quantity(limit, "fine"), x=Quantity(limit, "fine"),
                variant="pores" if coarse is not None else "bare",
            )  # fmt: skip
            return


def _unfit(look: Look) -> Iterator[Found]:
    """Find what is not fit on a way to a tap or bottle fill."""
    way: set[str] = set()
    for part in look.system.parts:
        if isinstance(part, use.Tap | use.BottleFill):
            way |= {key for key, _ in look.usually(part.id, "inlet")}
    for key in sorted(way):
        if look.parts[key].drinking == "not fit":
            yield look.found("material.drinking", F, BUILDER, key)
    for run in look.pipes:
        if run.drinking == "not fit" and {run.start.part, run.end.part} <= way:
            yield look.found("material.drinking", F, BUILDER, runs=(run.id,))


@check("backflow.mains", "backflow.mixer-checks", "backflow.flush", "backflow.hose")
def _backward(look: Look) -> Iterator[Found]:
    """Where water can be sucked back."""
    lacks = {of: Lacks(look, of, BUILDER) for of in ("backflow.mixer-checks", "backflow.flush")}
    for part in look.system.parts:
        if isinstance(part, water.PressurisedInlet):
            before = look.usually(part.id, "outlet", frozenset({"split", "selector"}))
            if not any(isinstance(look.parts[key], water.CheckValve) for key, _ in before):
                yield look.found("backflow.mains", F, BUILDER, part.id, source="EN 1717")
        elif isinstance(part, temperature.ThermostaticMixer | temperature.ManualMixer):
            if part.checks is None:
                lacks["backflow.mixer-checks"].add("parts", part.id, "checks")
            elif part.checks == "none":
                shuts = _shut_after(look, part)
                yield look.found(
                    "backflow.mixer-checks", F if shuts else W, BUILDER, part.id,
                    q="its outlet" if shuts is None else shuts,
                )  # fmt: skip
        elif isinstance(part, use.ToiletFlush):
            if part.own_tank is None:
                lacks["backflow.flush"].add("parts", part.id, "own_tank")
            elif not part.own_tank:
                yield look.found("backflow.flush", F, BUILDER, part.id)
        elif isinstance(part, use.Appliance | use.OutsideOutlet):
            nodes = look.usually(part.id, "inlet", frozenset({"split", "check_valve"}))
            if not any(isinstance(look.parts[key], water.CheckValve) for key, _ in nodes):
                yield look.found("backflow.hose", W, BUILDER, part.id)
    for gathered in lacks.values():
        yield from gathered.found()


def _shut_after(look: Look, mixer: AnyKind) -> str | None:
    """Name what shuts after a mixer: a button, a valve or a tap."""
    stops = frozenset({"thermostatic_mixer", "manual_mixer"})
    for key, port in sorted(look.usually(mixer.id, "outlet", stops)):
        part = look.parts[key]
        if isinstance(part, use.ShowerHead) and part.button not in (None, "none"):
            return part.label
        if port == "inlet" and isinstance(part, use.Tap | water.ShutOff):
            return part.label
    return None


@check("material.metal-in-plastic")
def _threads(look: Look) -> Iterator[Found]:
    """Metal threads in plastic: a taper cracks it, the rest may when it is done up hard."""
    of = "material.metal-in-plastic"
    if look.joints is None:
        if look.pipes:
            yield look.unknown(of, BUILDER, ("runs.threads",), subject="Threads of the joints")
        return
    lacks = Lacks(look, of, BUILDER)
    for joined in look.joints:
        for end in joined.ends:
            own = read_end(end.end)
            if own is None or own.word not in THREADED or end.chain is None:
                continue
            first = end.chain.links[0].first if end.chain.links else None
            metal_in = first is not None and first.word == "male" and first.material == "metal"
            if (
                own.material == "plastic"
                and own.word == "female"
                and (metal_in or end.chain.refused == "no_chain")
            ):
                taper = own.family.endswith("taper") or end.chain.refused is not None
                yield look.found(of, F if taper else W, BUILDER, end.part_id,
                                 runs=(joined.run_id,))  # fmt: skip
            elif any(said.endswith(own.name) for said in end.chain.unknown):
                lacks.add("parts", end.part_id, "ends")
    yield from lacks.found()
