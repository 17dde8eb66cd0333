"""What a design is made of: parts, joints, mass, room, money, moves, what fails."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from math import ceil
from typing import Final

from isotherma.core.results.failure_modes import HEATERS, Outage, if_fails
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.fit import cupboard_m3
from isotherma.core.setup.networks import BAG_C
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat, primary, temperature, use
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.moves import moves
from isotherma.core.system.needs import LOW_V
from isotherma.core.system.nominal import computed, figure

_HOLD_WATER: Final = (
    moved.FreshTank, moved.GravityBag, moved.LooseContainer, heat.Store, heat.Combi, heat.Canister,
    heat.SunContainer,
)  # fmt: skip
COLD_C, BOILS_C = 10.0, 100.0  # water a kettle begins with, and ends at
WATER_KG_PER_M3: Final = 1000.0  # of a load: its temperature does not matter here


@dataclass(frozen=True, slots=True)
class Tally:
    """A sum of what is known, and of how many parts nobody knows it [SI]; None: of any."""

    value: float | None
    unknown: int


class Fails(StrEnum):
    """A kind of part whose failure is looked at."""

    HEAT = "heat"
    STORE = "store"
    PUMP = "pump"
    MIXER = "mixer"


_KINDS_OF: Final[dict[Fails, tuple[type, ...]]] = {
    Fails.HEAT: HEATERS,
    Fails.STORE: (heat.Store, heat.Canister),
    Fails.PUMP: (
        moved.Pump, moved.Submersible, moved.HandPump, primary.CirculationPump,
        temperature.LoopPump,
    ),
    Fails.MIXER: (temperature.ThermostaticMixer, temperature.ManualMixer),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Failure:
    """The worst that the failure of one part of a kind does.

    `outlets` there are; of them `water` still have some and `warm` warm water. `spilt_m3` may run
    out, without what is not known.
    """

    kind: Fails
    part_id: str
    label: str
    outlets: int
    water: int
    warm: int
    spilt_m3: float


@dataclass(frozen=True, slots=True)
class Change:
    """What has to be done to get into a state from the first one."""

    state: str
    moves: int
    seconds_s: float


@dataclass(frozen=True, slots=True)
class Built:
    """What a design is made of [SI].

    `joints` counts those of its list, with every fitting; `full_kg` is its mass with tanks
    and stores full; `price` that of its list, in the person's own money.
    """

    parts: int
    joints: int
    holes: int
    dry_kg: Tally
    full_kg: Tally
    room_m3: Tally
    price: Tally
    findings: int
    changes: tuple[Change, ...]
    failures: tuple[Failure, ...]


class Leans(StrEnum):
    """What a source of heat cannot do without."""

    SUN = "sun"
    HOOK_UP = "hook_up"
    DRIVING = "driving"
    FUEL = "fuel"
    BATTERY = "battery"


def leans_on(system: System) -> tuple[Leans, ...]:
    """Say what each source of heat of a design cannot do without.

    Parameters
    ----------
    system : System
        A design. [-]

    Returns
    -------
    tuple of Leans
        One for each source, in the document's order. [-]
    """
    straight = {
        run.end.part for run in system.runs
        for part in system.parts if part.id == run.start.part and part.kind == "panel"
    }  # fmt: skip
    found = (_leans(part, system, straight) for part in system.parts)
    return tuple(one for one in found if one is not None)


def _leans(part: AnyKind, system: System, straight: set[str]) -> Leans | None:
    match part:
        case heat.ThroughFlowElectric():
            return Leans.HOOK_UP
        case heat.Burner() | heat.Combi() | heat.ThroughFlow() | heat.LiquidHeater():
            return Leans.FUEL
        case heat.AirHeater() | heat.Kettle():
            return Leans.FUEL
        case heat.EngineCoolant():
            return Leans.DRIVING
        case heat.SunContainer():
            return Leans.SUN
        case heat.Element():
            return _element_leans(part, system, straight)
    return None


def _element_leans(part: heat.Element, system: System, straight: set[str]) -> Leans:
    by_rule = {"surplus sun": Leans.SUN, "while driving": Leans.DRIVING}
    if part.rule in by_rule:
        return by_rule[part.rule]
    feeders = {run.start.part for run in system.runs if run.end.part == part.id}
    if feeders & straight or part.id in straight:
        return Leans.SUN
    volts = part.supply_v if part.supply_v is not None else part.rated_v
    mains = volts is not None and volts > LOW_V
    return Leans.HOOK_UP if mains or part.rule == "on hook-up" else Leans.BATTERY


def setup_s(system: System) -> float:
    """Give the longest that it takes to get from another state into the first, and back.

    The shower place that is set up and packed away counts in, and kettles boiled for a bag.

    Parameters
    ----------
    system : System
        A design. [-]

    Returns
    -------
    float
        0 where there is one state. [s]
    """
    first = system.states[0] if system.states else None
    both = [
        sum(step.seconds_s for step in (*moves(system, state, first), *moves(system, first, state)))
        for state in system.states[1:]
    ]  # fmt: skip
    places = [
        figure(part, "setup_s") + figure(part, "pack_s")
        for part in computed(system).parts if isinstance(part, use.ShowerPlace)
    ]  # fmt: skip
    return max(both, default=0.0) + max(places, default=0.0) + _boiling_s(system)


def _boiling_s(system: System) -> float:
    """Give how long a stove boils what makes a bag warm, kettle after kettle [s]."""
    known = computed(system).parts
    kettle = next((part for part in known if isinstance(part, heat.Kettle)), None)
    bags = sum(
        part.volume_m3 for part in known
        if isinstance(part, moved.GravityBag) and part.volume_m3 is not None
    )  # fmt: skip
    if kettle is None or not kettle.volume_m3 or not bags or kettle.boils_in_s is None:
        return 0.0
    boiling = bags * (BAG_C - COLD_C) / (BOILS_C - COLD_C)
    return ceil(boiling / kettle.volume_m3 - 1e-9) * kettle.boils_in_s


def heat_failure(outcome: Outcome) -> Failure | None:
    """Say what is left when the source of heat fails that leaves least.

    Parameters
    ----------
    outcome : Outcome
        Of a design. [-]

    Returns
    -------
    Failure or None
        None where nothing heats. [-]
    """
    return _worst(outcome, Fails.HEAT)


def built(outcome: Outcome, joints: int, price: Tally) -> Built:
    """Say what a design is made of.

    Parameters
    ----------
    outcome : Outcome
        That was computed. [-]
    joints : int
        With every fitting its ends take. [-]
    price : Tally
        Of its list. [money]

    Returns
    -------
    Built
        Of the design as entered; water is what its tanks and stores hold. [SI]
    """
    system = outcome.system
    return Built(
        parts=len(system.parts),
        joints=joints,
        holes=len(system.holes),
        dry_kg=tally(part.dry_mass_kg for part in system.parts),
        full_kg=full_mass(system, outcome.setup.parts),
        room_m3=tally(cupboard_m3(system)),
        price=price,
        findings=len(outcome.findings),
        changes=_changes(system),
        failures=_failures(outcome),
    )


def tally(values: Iterable[float | None]) -> Tally:
    """Add up what is known, and count what is not.

    Parameters
    ----------
    values : iterable of float or None
        None for unknown. [SI]

    Returns
    -------
    Tally
        An entered 0 is known. [SI]
    """
    every = list(values)
    known = [value for value in every if value is not None]
    return Tally(sum(known) if known or not every else None, len(every) - len(known))


def full_mass(system: System, computed: Mapping[str, AnyKind]) -> Tally:
    """Add up a design's mass with tanks and stores full.

    Parameters
    ----------
    system : System
        The design as entered. [-]
    computed : mapping of str to part
        Its parts with likely figures, by id; what is not there is as entered. [-]

    Returns
    -------
    Tally
        Of parts, and of the water they hold. [kg]
    """
    dry = tally(part.dry_mass_kg for part in system.parts)
    water = tally(
        getattr(computed.get(part.id, part), "volume_m3", None)
        for part in system.parts
        if isinstance(part, _HOLD_WATER)
    )
    sums = (dry.value, None if water.value is None else water.value * WATER_KG_PER_M3)
    known = [one for one in sums if one is not None]
    return Tally(sum(known) if known else None, dry.unknown + water.unknown)


def _changes(system: System) -> tuple[Change, ...]:
    found = []
    for state in system.states[1:]:
        steps = moves(system, system.states[0], state)
        found.append(Change(state.name, len(steps), sum(step.seconds_s for step in steps)))
    return tuple(found)


def _failures(outcome: Outcome) -> tuple[Failure, ...]:
    """Find for every kind of part the one whose failure leaves least; of equals the first."""
    found = (_worst(outcome, kind) for kind in _KINDS_OF)
    return tuple(one for one in found if one is not None)


def _worst(outcome: Outcome, kind: Fails) -> Failure | None:
    setup = outcome.setup
    outages = [
        if_fails(setup.computed, setup.network, key)
        for key, part in setup.network.parts.items() if isinstance(part, _KINDS_OF[kind])
    ]  # fmt: skip
    return _failure(kind, min(outages, key=_left_over)) if outages else None


def _left_over(out: Outage) -> tuple[int, int]:
    return sum(left.warm for left in out.left), sum(left.water for left in out.left)


def _failure(kind: Fails, out: Outage) -> Failure:
    warm, water = _left_over(out)
    return Failure(kind, out.part_id, out.label, len(out.left), water, warm, out.spilt_m3)
