"""Tubes and holes: bends, clips, what hangs below, what passes through."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.found import BUILDER, FLUE, Found, Severity, check
from isotherma.core.checks.hot_pipes import hot_runs
from isotherma.core.checks.look import INSIDE, Lacks, Look
from isotherma.core.findings import Quantity
from isotherma.core.joints.clips import EVERY_M, THIN_M, clips_between
from isotherma.core.system.kinds import gas, heat
from isotherma.core.system.nominal import known_figure
from isotherma.core.system.runs import FuelPipe, Pipe

F, W = Severity.FIX, Severity.WATCH
# least radius by hand and with a support or spring, in outside diameters; None: never by hand
BENDS: Final = {
    "semi-rigid plastic": (8.0, 6.0),
    "inch plastic": (8.0, 5.0),
    "copper": (None, 5.0),
    "multilayer": (5.0, 4.0),
    "soft hose": (6.0, 6.0),
}
PASSES_M: Final = 0.002


def _outside(look: Look, run: Pipe) -> float | None:
    bore = known_figure(look_run := next(one for one in look.known.pipes if one.id == run.id),
                        "bore_m")  # fmt: skip
    wall = known_figure(look_run, "wall_m")
    return None if bore is None or wall is None else bore + 2.0 * wall


@check("tubes.bend", "tubes.clips", "tubes.below")
def _tubes(look: Look) -> Iterator[Found]:
    """How pipes are bent, held and hung."""
    lacks = Lacks(look, "tubes.clips", BUILDER)
    hot = hot_runs(look)
    for run in look.pipes:
        outside = _outside(look, run)
        if run.bend_m is not None and run.family in BENDS and outside is not None:
            by_hand, supported = BENDS[run.family]
            helped = supported * outside
            hand = helped if by_hand is None else by_hand * outside
            severity = F if run.bend_m < helped else W if run.bend_m < hand else None
            if severity is not None:
                yield look.found(
                    "tubes.bend", severity, BUILDER, runs=(run.id,),
                    figure=Quantity(run.bend_m, "bore"),
                    limit=Quantity(helped if severity is F else hand, "bore"),
                )  # fmt: skip
        space = look.spaces.get(run.space or "")
        if space is not None and space.warmth == "slung":
            bare = run.material != "copper" and not run.covering_m
            if run.family == "soft hose" or bare or run.joint == "welded":
                yield look.found("tubes.below", W, BUILDER, runs=(run.id,))
        if run.length_m is None or run.family is None:
            continue
        every = EVERY_M[run.family][0 if outside is None or outside <= THIN_M else 1]
        wanted = clips_between(run.length_m, every)
        if not wanted:
            continue
        if run.clips is None:
            lacks.add("runs", run.id, "clips")
        elif run.clips < wanted:
            half = run.clips < 0.5 * wanted and run.id in hot
            yield look.found(
                "tubes.clips", F if half else W, BUILDER, runs=(run.id,),
                figure=Quantity(run.length_m / (run.clips + 1), "length"),
                limit=Quantity(every, "length"), x=wanted,
            )  # fmt: skip
    yield from lacks.found()


@check("holes.edge", "holes.seal", "holes.behind", "holes.size", "holes.count")
def _holes(look: Look) -> Iterator[Found]:
    """Holes through the body."""
    for hole in look.system.holes:
        named = f"{hole.name}"
        for of, name, lack in (
            ("holes.edge", "edge_treated", "its edge is bare"),
            ("holes.seal", "sealed", "it is not sealed"),
        ):
            value = getattr(hole, name)
            if value is None:
                yield look.unknown(of, BUILDER, (f"holes.{hole.id}.{name}",),
                                   subject=f"Hole “{named}”")  # fmt: skip
            elif not value:
                open_to = of == "holes.seal" and _risky(look, hole.first, hole.second)
                yield look.found(of, F if open_to else W, BUILDER, p=named, a=lack,
                                 needs=(hole.id,)  )  # fmt: skip
        if not hole.behind:
            yield look.unknown("holes.behind", BUILDER, (f"holes.{hole.id}.behind",),
                               subject=f"What is behind hole “{named}”")  # fmt: skip
        wanted = _passes_m(look, hole.for_part)
        if hole.bore_m is not None and wanted is not None and hole.bore_m < wanted - 1e-9:
            assert hole.for_part is not None
            yield look.found(
                "holes.size", F, FLUE, hole.for_part, figure=Quantity(hole.bore_m, "bore"),
                limit=Quantity(wanted, "bore"), p=named, q=look.label(hole.for_part),
                x=Quantity(wanted, "bore"), needs=(hole.id,),
            )  # fmt: skip
    most = look.project.vehicle.holes_at_most
    if most is not None and len(look.system.holes) > most:
        yield look.found("holes.count", W, BUILDER, limit=Quantity(float(most), "number"),
                         figure=Quantity(float(len(look.system.holes)), "number"))  # fmt: skip


def _risky(look: Look, first: str | None, second: str | None) -> bool:
    """Say whether a hole joins a bottle's or burner's space with where people are."""
    spaces = [look.spaces.get(key or "") for key in (first, second)]
    if None in spaces:
        return False
    one, other = spaces
    assert one is not None and other is not None
    for here, there in ((one, other), (other, one)):
        risk = any(
            look.space_id(part) == here.id and (isinstance(part, gas.GasBottle) or look.burns(part))
            for part in look.system.parts
        )
        if risk and here.warmth in INSIDE and look.lived_in(there):
            return True
    return False


def _passes_m(look: Look, part_id: str | None) -> float | None:
    """Give the hole a part or its pipe needs [m]."""
    part = look.parts.get(part_id or "")
    if part is None:
        return None
    if isinstance(part, heat.Flue):
        return part.bore_m
    outsides = []
    for run in look.system.runs:
        if part.id not in (run.start.part, run.end.part):
            continue
        if isinstance(run, FuelPipe) and run.outside_m is not None:
            outsides.append(run.outside_m)
        elif isinstance(run, Pipe) and (outside := _outside(look, run)) is not None:
            outsides.append(outside)
    return max(outsides) + PASSES_M if outsides else None
