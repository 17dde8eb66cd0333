"""Carbon monoxide and air: flues, bottles, lockers, alarms."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.found import BUILDER, FLUE, GAS, Found, Severity, check, worst
from isotherma.core.checks.look import INSIDE, Lacks, Look
from isotherma.core.findings import Quantity
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import gas, heat
from isotherma.core.system.vehicle import Space

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
HIGH_M: Final = 1000.0
NEAR_M: Final = 1.5
STOP_M, FIX_M = 0.3, 0.5  # of a terminal; ours


def _is_hob(part: AnyKind) -> bool | None:
    if isinstance(part, gas.GasLoad):
        return None if part.use is None else part.use == "hob"
    return isinstance(part, heat.Kettle)


def _sealed(part: AnyKind) -> str | None:
    value = getattr(part, "sealed", None)
    return value if isinstance(value, str) else None


def _lives(look: Look) -> list[Space]:
    return [space for space in look.system.spaces if look.lived_in(space)]


@check("air.open-flue")
def _open_flue(look: Look) -> Iterator[Found]:
    """Burners inside that take the air people breathe."""
    lacks = Lacks(look, "air.open-flue", FLUE)
    for part in look.system.parts:
        if not look.burns(part) or not hasattr(part, "sealed") or not look.lit(part):
            continue
        hob, inside = _is_hob(part), look.inside(part)
        if hob or inside is False or _sealed(part) == "room sealed":
            continue
        if inside is None:
            lacks.add("parts", part.id, "space")
        elif _sealed(part) is None:
            lacks.add("parts", part.id, "sealed")
            if hob is None:
                lacks.add("parts", part.id, "use")
        elif hob is None:
            lacks.add("parts", part.id, "use")
        else:
            space = look.space(part)
            assert space is not None
            yield look.found("air.open-flue", S, FLUE, part.id, q=f"“{space.name}”",
                             source=look.rules.source("open_flue"), needs=(space.id,))  # fmt: skip
    yield from lacks.found()


@check("air.label-outdoors")
def _label_outdoors(look: Look) -> Iterator[Found]:
    """What is made for outdoors, lit inside."""
    for part in look.system.parts:
        if "outdoors only" not in part.limits or not look.burns(part) or not look.lit(part):
            continue
        inside = look.inside(part)
        if inside is None:
            yield look.unknown("air.label-outdoors", FLUE, (f"parts.{part.id}.space",), part.id)
        elif inside:
            space = look.space(part)
            assert space is not None
            yield look.found("air.label-outdoors", S, FLUE, part.id, q=f"“{space.name}”",
                             needs=(space.id,))  # fmt: skip


def _flue_of(look: Look, part: AnyKind) -> heat.Flue | None:
    return next((one for one in look.system.fitted(part.id) if isinstance(one, heat.Flue)), None)


def _terminal_of(look: Look, part: AnyKind) -> heat.Terminal | None:
    flue = _flue_of(look, part)
    hosts = {part.id} | ({flue.id} if flue is not None else set())
    return next(
        (one for one in look.system.parts
         if isinstance(one, heat.Terminal) and one.fitted_in in hosts), None,
    )  # fmt: skip


@check("air.near-opening")
def _near_opening(look: Look) -> Iterator[Found]:
    """Open flues outside, close to where people are."""
    lacks = Lacks(look, "air.near-opening", FLUE)
    for part in look.system.parts:
        if not look.burns(part) or not hasattr(part, "sealed") or not look.lit(part):
            continue
        space = look.space(part)
        if space is None or space.warmth in INSIDE or _sealed(part) == "room sealed":
            continue
        beside = [key for key in look.neighbours(space.id) if look.lived_in(look.spaces[key])]
        if not beside:
            continue
        if _sealed(part) is None:
            lacks.add("parts", part.id, "sealed")
            continue
        terminal = _terminal_of(look, part)
        if terminal is None or terminal.to_opening_m is None:
            lacks.add("parts", part.id if terminal is None else terminal.id, "to_opening_m",
                      part.id)  # fmt: skip
        elif terminal.to_opening_m < NEAR_M:
            yield look.found(
                "air.near-opening", W, FLUE, part.id, terminal.id,
                figure=Quantity(terminal.to_opening_m, "length"), limit=Quantity(NEAR_M, "length"),
            )  # fmt: skip
    yield from lacks.found()


@check("air.flue-missing", "air.terminal-opening", "air.terminal-filler")
def _flues(look: Look) -> Iterator[Found]:
    """Flue and terminal drawn, and where the terminal ends."""
    for part in look.system.parts:
        if not look.burns(part) or look.inside(part) is not True or _is_hob(part):
            continue
        if not look.lit(part):
            continue  # stowed
        if isinstance(part, gas.GasLoad) and _is_hob(part) is None:
            yield look.unknown("air.flue-missing", FLUE, (f"parts.{part.id}.use",), part.id)
        elif _flue_of(look, part) is None or _terminal_of(look, part) is None:
            yield look.found("air.flue-missing", F, FLUE, part.id)
    for name, of, bands in (
        ("to_opening_m", "air.terminal-opening", ((STOP_M, S), (FIX_M, F))),
        ("to_filler_m", "air.terminal-filler", ((FIX_M, F),)),
    ):
        lacks = Lacks(look, of, FLUE)
        for part in look.system.parts:
            if not isinstance(part, heat.Terminal):
                continue
            far = getattr(part, name)
            if far is None:
                lacks.add("parts", part.id, name)
                continue
            for severity in worst((far < limit, severity) for limit, severity in bands):
                yield look.found(
                    of, severity, FLUE, part.id, figure=Quantity(far, "length"),
                    limit=Quantity(FIX_M, "length"),
                    q="an opening" if name == "to_opening_m" else "the fuel filler",
                )  # fmt: skip
        yield from lacks.found()


@check("air.bottle-inside")
def _bottle_inside(look: Look) -> Iterator[Found]:
    """Bottles where people are, or beside a flame that takes their air."""
    lacks = Lacks(look, "air.bottle-inside", GAS)
    for part in look.system.parts:
        if not isinstance(part, gas.GasBottle):
            continue
        space = look.space(part)
        if space is None:
            lacks.add("parts", part.id, "space")
            continue
        lives = look.lived_in(space)
        named = f"“{space.name}”"
        if lives or space.warmth == "engine bay":
            yield look.found("air.bottle-inside", S, GAS, part.id, q=named, needs=(space.id,))
        elif lives is None:
            lacks.add("spaces", space.id, "lived_in", part.id)
        elif space.warmth in INSIDE:
            flames = [
                one for one in look.system.parts
                if look.burns(one) and look.space_id(one) == space.id
                and _sealed(one) in ("open flue", "flueless")
            ]  # fmt: skip
            if flames:
                yield look.found("air.bottle-inside", F, GAS, part.id, flames[0].id,
                                 q=f"{named} with {flames[0].label}",
                                 needs=(space.id,))  # fmt: skip
    yield from lacks.found()


@check("air.locker-seal")
def _locker_seal(look: Look) -> Iterator[Found]:
    """A bottle's space, open to where people or flames are."""
    for space in look.system.spaces:
        bottles = [
            part.id for part in look.system.parts
            if isinstance(part, gas.GasBottle) and look.space_id(part) == space.id
        ]  # fmt: skip
        if not bottles or space.warmth not in INSIDE or look.lived_in(space):
            continue
        burners = {look.space_id(part) for part in look.system.parts if look.burns(part)}
        beside = look.neighbours(space.id)
        for other in beside:
            risky = look.lived_in(look.spaces[other]) or other in burners
            if risky and not look.sealed(space.id, other):
                yield look.found(
                    "air.locker-seal", F, GAS, *bottles, p=f"“{space.name}”",
                    q=f"“{look.spaces[other].name}”", needs=(space.id, other),
                )  # fmt: skip
        lives = [one.id for one in _lives(look)]
        if not beside and not (lives and all(look.sealed(space.id, key) for key in lives)):
            yield look.unknown("air.locker-seal", GAS, (f"spaces.{space.id}.neighbours",), *bottles,
                               subject=f"What is next to “{space.name}”")  # fmt: skip


@check("air.alarm")
def _alarm(look: Look) -> Iterator[Found]:
    """Alarms where people are."""
    fuel = [
        part for part in look.system.parts
        if look.burns(part) and (look.inside(part) or _flue_of(look, part) is not None)
    ]  # fmt: skip
    gases = [part for part in look.system.parts
             if isinstance(part, gas.GasBottle) or look.burns_gas(part)]  # fmt: skip
    lives = {space.id for space in _lives(look)}
    if look.system.spaces and not lives:
        return  # nobody to wake
    alarms = [part for part in look.system.parts if isinstance(part, gas.GasAlarm)]
    here = [part for part in alarms if look.space_id(part) in lives or not lives]
    lacks = Lacks(look, "air.alarm", BUILDER)
    for reason, what, severity in (
        (fuel, "carbon monoxide", F),
        (gases, "gas", Severity(look.rules.word("gas_alarm"))),
    ):
        if not reason:
            continue
        if any(part.warns_of in (what, "both") for part in here):
            continue
        silent = [part for part in here if part.warns_of is None]
        if silent:
            for part in silent:
                lacks.add("parts", part.id, "warns_of")
            continue
        source = look.rules.source("gas_alarm") if what == "gas" else "EN 50291-2"
        yield look.found("air.alarm", severity, BUILDER, reason[0].id, a=what, source=source)
    if fuel or gases:
        for part in alarms:
            if part.dated is None:
                lacks.add("parts", part.id, "dated")
            elif part.dated < look.on_date:
                yield look.found("air.alarm", F, BUILDER, part.id, variant="dated", a=part.dated)
    yield from lacks.found()


@check("air.altitude")
def _altitude(look: Look) -> Iterator[Found]:
    """Burners high up, of which only the maker knows."""
    burners = [part for part in look.system.parts if look.burns_gas(part)]
    high = look.project.brief.altitude_m
    if not burners or (high is not None and high <= HIGH_M):
        return
    if high is None:
        yield look.unknown("air.altitude", GAS, ("brief.altitude_m",),
                           *(part.id for part in burners), subject="Highest place")  # fmt: skip
        return
    for part in burners:
        yield look.found("air.altitude", Severity.UNKNOWN, GAS, part.id, variant="high",
                         figure=Quantity(high, "length"),
                         needs=(f"parts.{part.id}.maker_altitude",))  # fmt: skip
