"""What relief valves, mains and open vessels are set to and lead to."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.circuits import coolant_parts
from isotherma.core.checks.found import BUILDER, PRESSURE, Found, Severity, check, worst
from isotherma.core.checks.look import Lacks, Look, counted
from isotherma.core.checks.pressure import kept_pa, weakest_of
from isotherma.core.findings import Quantity
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import heat, water
from isotherma.core.system.nominal import known_figure

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
MAINS_PA: Final = 1e6  # of an inlet nobody measured
OVER_PUMP: Final = 1.1
VENT_M: Final = 0.008


@check("pressure.relief-setting", "pressure.relief-outlet")
def _relief_setting(look: Look) -> Iterator[Found]:
    """What a relief opens at, and where it leads."""
    lacks = {
        of: Lacks(look, of, who)
        for of, who in (("pressure.relief-setting", PRESSURE), ("pressure.relief-outlet", BUILDER))
    }
    highest = kept_pa(look)
    bare = [part for part in look.system.parts if isinstance(part, water.PressurisedInlet)
            and not _reduced(look, part)]  # fmt: skip
    for inlet in bare:
        highest = max(highest, MAINS_PA if inlet.pressure_pa is None else inlet.pressure_pa)
    for part in look.system.parts:
        if not isinstance(part, water.Relief):
            continue
        if part.outside is None:
            lacks["pressure.relief-outlet"].add("parts", part.id, "outside")
        elif not part.outside:
            yield look.found("pressure.relief-outlet", F, BUILDER, part.id)
        if part.set_pa is None:
            lacks["pressure.relief-setting"].add("parts", part.id, "set_pa")
            continue
        keys = {key for key, _ in look.usually(part.id, "inlet", frozenset({"pump"}))}
        wet = part.id not in coolant_parts(look)
        weakest, key = weakest_of(look, keys)
        over = weakest is not None and part.set_pa > weakest * (1 + 1e-9)
        low = wet and highest > 0.0 and part.set_pa <= OVER_PUMP * highest * (1 + 1e-9)
        for severity in worst(((over, S), (low, F))):
            parts = (part.id, key) if key in look.parts and severity is S else (part.id,)
            yield look.found(
                "pressure.relief-setting", severity, PRESSURE, *parts,
                figure=Quantity(part.set_pa, "pressure"),
                limit=Quantity(weakest if over and weakest is not None else OVER_PUMP * highest,
                               "pressure"),
                a=Quantity(highest, "pressure"), b=look.label(key) if key else "a part",
                x=Quantity(min(value for value in (weakest, 1.25 * highest) if value is not None),
                           "pressure"), variant="weak" if over else "",
            )  # fmt: skip
    for gathered in lacks.values():
        yield from gathered.found()


def _reduced(look: Look, inlet: AnyKind) -> bool:
    """Say whether a reducer stands between an inlet and everything else."""
    keys = {key for key, _ in look.usually(inlet.id, "outlet", frozenset({"reducer"}))}
    tubes = {key for key in keys if not isinstance(
        look.parts[key], water.PressurisedInlet | water.Reducer | water.CheckValve | water.ShutOff
        | water.Filter | water.Strainer | water.Coupling | water.LooseHose)}  # fmt: skip
    return any(isinstance(look.parts[key], water.Reducer) for key in keys) and not tubes


@check("pressure.mains")
def _mains(look: Look) -> Iterator[Found]:
    """Water of a pitch against the weakest part."""
    for part in look.system.parts:
        if not isinstance(part, water.PressurisedInlet):
            continue
        keys = {key for key, _ in look.usually(part.id, "outlet")}
        weakest, weak = weakest_of(look, keys)
        reducers = [one for key in keys if isinstance(one := look.parts[key], water.Reducer)]
        brings = MAINS_PA if part.pressure_pa is None else part.pressure_pa
        if not _reduced(look, part):
            over = weakest is not None and brings > weakest
            yield look.found(
                "pressure.mains", S if over else W, PRESSURE, part.id,
                *((weak,) if weak in look.parts and over else ()),
                figure=Quantity(brings, "pressure"),
                limit=None if weakest is None else Quantity(weakest, "pressure"),
                q=look.label(weak) if over else "the weakest part",
                x=Quantity(1.5e5 if weakest is None else min(1.5e5, weakest), "pressure"),
                variant="" if over else "bare",
            )  # fmt: skip
        reliefs = [
            one.set_pa
            for key in keys
            if isinstance(one := look.parts[key], water.Relief) and one.set_pa is not None
        ]
        for reducer in reducers:
            if reducer.set_pa is None:
                continue
            over = weakest is not None and reducer.set_pa > weakest
            near = bool(reliefs) and reducer.set_pa > min(reliefs) / OVER_PUMP * (1 + 1e-9)
            for severity in worst(((over, S), (near, F))):
                limit = weakest if over and weakest is not None else min(reliefs) / OVER_PUMP
                yield look.found(
                    "pressure.mains", severity, PRESSURE, reducer.id,
                    figure=Quantity(reducer.set_pa, "pressure"),
                    limit=Quantity(limit, "pressure"),
                    q=look.label(weak) if over else "the relief valve",
                    x=Quantity(limit, "pressure"),
                )  # fmt: skip


@check("pressure.vent", "pressure.boiling")
def _open_vented(look: Look) -> Iterator[Found]:
    """Open vessels: a free vent, and no boiling."""
    altitude = counted(look.project.brief.altitude_m)
    for part in look.system.parts:
        vented = isinstance(part, heat.Store) and part.nature == "open vented"
        if vented or isinstance(part, water.FreshTank):
            bore = getattr(part, "vent_bore_m", None)
            joined = any(end.port == "vent" for _, end, _ in look.system.joined(part.id))
            if bore is None and not joined:
                yield look.unknown("pressure.vent", BUILDER, (f"parts.{part.id}.vent_bore_m",),
                                   part.id)  # fmt: skip
            elif bore is not None and bore < VENT_M:
                yield look.found(
                    "pressure.vent",
                    W,
                    BUILDER,
                    part.id,
                    figure=Quantity(bore, "bore"),
                    limit=Quantity(VENT_M, "bore"),
                )
        if not vented:
            continue
        limit = 100.0 - altitude / 300.0 - 3.0
        for one in look.system.fitted(part.id):
            at = known_figure(one, "opens_c") if isinstance(one, heat.HighLimit) else (
                known_figure(one, "set_c") if isinstance(one, heat.Element | heat.Burner) else None
            )  # fmt: skip
            if at is not None and at >= limit:
                yield look.found(
                    "pressure.boiling", W, BUILDER, one.id, part.id,
                    figure=Quantity(at, "temperature"), limit=Quantity(limit + 3.0, "temperature"),
                    x=Quantity(limit - 5.0, "temperature"),
                )  # fmt: skip
