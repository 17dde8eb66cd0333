"""Gas that grows old, is held, laid and tested."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final

from isotherma.core.checks.found import BUILDER, GAS, Found, Severity, check, worst
from isotherma.core.checks.gas import appliances
from isotherma.core.checks.look import Lacks, Look
from isotherma.core.findings import Quantity
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import gas
from isotherma.core.system.runs import FuelPipe

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
YEAR_DAYS: Final = 365.25
MANY_JOINTS: Final = 6


def _day(dated: str) -> float | None:
    """Read 2024, 2024-03 or 2024-03-31 as years; None where it is no date."""
    pieces = dated.split("-")
    if not 1 <= len(pieces) <= 3 or not all(piece.isdigit() for piece in pieces):
        return None
    year, month, day = (*(int(piece) for piece in pieces), 1, 1)[:3]
    if not (1900 < year < 2200 and 1 <= month <= 12 and 1 <= day <= 31):
        return None
    return year + (month - 1) / 12.0 + (day - 1) / YEAR_DAYS


def _age_years(dated: str, on: str) -> float | None:
    made, now = _day(dated), _day(on)
    return None if made is None or now is None else now - made


@check("gas.hose-date")
def _hose_date(look: Look) -> Iterator[Found]:
    """How old hoses and regulators are."""
    lacks = Lacks(look, "gas.hose-date", BUILDER)
    dated = [
        ("runs", run.id, run.dated) for run in look.fuel_pipes
        if run.way == "hose" and look.joins_gas(run)
    ] + [
        ("parts", part.id, part.dated) for part in look.system.parts
        if isinstance(part, gas.Regulator)
    ]  # fmt: skip
    for group, key, said in dated:
        years = None if not said else _age_years(said, look.on_date)
        if years is None:
            lacks.add(group, key, "dated")
            continue
        for severity in worst(((years > 10.0, F), (years > 5.0, W))):
            limit = 10.0 if severity is F else 5.0
            parts, runs = ((key,), ()) if group == "parts" else ((), (key,))
            yield look.found(
                "gas.hose-date", severity, BUILDER, *parts, runs=runs,
                figure=Quantity(years, "number"), limit=Quantity(limit, "number"),
            )  # fmt: skip
    yield from lacks.found()


@check("gas.clips", "gas.joints")
def _laid(look: Look) -> Iterator[Found]:
    """Clips of gas pipes; joints where people are or out of reach."""
    lacks = Lacks(look, "gas.clips", GAS)
    for run in look.fuel_pipes:
        if not look.joins_gas(run) or run.way == "hose":
            continue
        if run.clips is None or run.length_m is None:
            for name in ("clips", "length_m"):
                if getattr(run, name) is None:
                    lacks.add("runs", run.id, name)
            continue
        limit = look.rules.number(f"clips_{run.way}_m")
        every = run.length_m / (run.clips + 1)
        for severity in worst(((run.clips == 0 and run.length_m > 1.0, F), (every > limit, W))):
            yield look.found(
                "gas.clips", severity, GAS, runs=(run.id,), figure=Quantity(every, "length"),
                limit=Quantity(limit, "length"), source=look.rules.source(f"clips_{run.way}_m"),
                x=int(-(-run.length_m // limit)) - 1,
            )  # fmt: skip
    yield from lacks.found()
    yield from _joints(look)


def _joints(look: Look) -> Iterator[Found]:
    """Find many joints where people are, and joints nobody can get at."""
    piped = [run for run in look.fuel_pipes if look.joins_gas(run)]
    where = _joints_in(look, piped)
    for space in look.system.spaces:
        there = where.get(space.id, {})
        count = sum(there.values())
        if look.lived_in(space) and count > MANY_JOINTS:
            yield look.found(
                "gas.joints", W, GAS, runs=tuple(there),
                figure=Quantity(count, "number"), limit=Quantity(MANY_JOINTS, "number"),
                q=f"“{space.name}”", needs=(space.id,),
            )  # fmt: skip
    for run in piped:
        for end in (run.start, run.end):
            if look.parts[end.part].reach == "behind another part":
                yield look.found("gas.joints", W, GAS, end.part, runs=(run.id,), variant="behind",
                                 q=look.label(end.part))  # fmt: skip


def _joints_in(look: Look, piped: Sequence[FuelPipe]) -> dict[str | None, dict[str, int]]:
    """Count joints by space and run: at each end where its part is, those along where it runs."""
    found: dict[str | None, dict[str, int]] = {}

    def add(space: str | None, run: str, count: int) -> None:
        if count:
            by_run = found.setdefault(space, {})
            by_run[run] = by_run.get(run, 0) + count

    made = {one.run_id: one for one in look.joints or ()}
    for run in piped:
        one = made.get(run.id)
        if one is None:
            add(run.space, run.id, run.joints)
            continue
        for end in one.ends:
            add(look.parts[end.part_id].space or run.space, run.id, end.joints)
        add(run.space, run.id, one.joints - sum(end.joints for end in one.ends))
    return found


@check("gas.bottle-held", "gas.coupling")
def _held(look: Look) -> Iterator[Found]:
    """Bottles that can fall, couplings that let gas out."""
    lacks = Lacks(look, "gas.bottle-held", BUILDER)
    for part in look.system.parts:
        if isinstance(part, gas.GasBottle):
            if part.held == "loose" or part.stands == "lying":
                how = "stands_loose" if part.held == "loose" else "lies"
                yield look.found("gas.bottle-held", F, BUILDER, part.id, a=how)
                continue
            for name in ("held", "stands"):
                if getattr(part, name) is None:
                    lacks.add("parts", part.id, name)
    yield from lacks.found()
    lacks = Lacks(look, "gas.coupling", GAS)
    for part in look.system.parts:
        if not isinstance(part, gas.GasCoupling):
            continue
        if part.sealing == "neither":
            yield look.found("gas.coupling", S, GAS, part.id, a="seals_neither")
        elif part.own_valve is False:
            yield look.found("gas.coupling", F, GAS, part.id, a="no_own_valve")
        elif _turned_round(look, part):
            yield look.found("gas.coupling", F, GAS, part.id,
                             a="turned_round")  # fmt: skip
        else:
            for name in ("sealing", "own_valve"):
                if getattr(part, name) is None:
                    lacks.add("parts", part.id, name)
    yield from lacks.found()


def _turned_round(look: Look, part: AnyKind) -> bool:
    """Say whether the bottle's side comes to the outlet of a coupling."""
    _, runs = look.gas_way(part.id)
    if not runs:
        return False
    first = runs[0]
    end = first.start if first.start.part == part.id else first.end
    return end.port == "outlet"


@check("gas.tested", "settings.gas-screw")
def _tested(look: Look) -> Iterator[Found]:
    """Whether somebody tested it, and whether nobody touched the screw."""
    carried = any(isinstance(part, gas.GasBottle) for part in look.system.parts)
    if carried and look.system.gas_tested_on is None:
        yield look.unknown("gas.tested", GAS, ("system.gas_tested_on",), subject="Gas test")
    lacks = Lacks(look, "settings.gas-screw", GAS)
    for part in look.system.parts:
        if not (look.burns_gas(part) or isinstance(part, gas.Regulator)):
            continue
        setting = getattr(part, "gas_setting", None)
        if setting == "changed":
            yield look.found("settings.gas-screw", S, GAS, part.id)
        elif setting is None:
            lacks.add("parts", part.id, "gas_setting")
    yield from lacks.found()


@check("gas.offtake")
def _offtake(look: Look) -> Iterator[Found]:
    """A bottle that grows too cold before a wash is over."""
    if not any(look.can_light(part) for part in appliances(look)):
        return
    bottles = [part for part in look.system.parts if isinstance(part, gas.GasBottle)]
    if not bottles:
        return
    if look.outcome is None:
        yield look.unknown("gas.offtake", GAS, ("brief.draws",), bottles[0].id)
        return
    for finding in look.outcome.findings:
        if finding.code in ("bottle_too_cold", "bottle_cold"):
            failed = any(not draw.met for draw in look.outcome.draws)
            yield look.found("gas.offtake", F if failed else W, GAS, *finding.parts)
