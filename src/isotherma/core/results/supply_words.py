"""Sentences on what feeds a system: a bottle too cold, a fuse too small, nothing that stops it."""

from __future__ import annotations

from math import inf

from isotherma.core.quantity import Habit, duration_words, shown, with_unit
from isotherma.core.results.carried import battery_level, bottle, bottle_days
from isotherma.core.results.outages import dry_fires
from isotherma.core.setup import Setup
from isotherma.core.supply.bottle import ATMOSPHERE_PA, sustained_kg_per_s
from isotherma.core.supply.feeds import feeds_of
from isotherma.core.supply.ignition import cells_of
from isotherma.core.supply.ohms import FUSE_BEARS
from isotherma.core.supply.wires import element_ohm
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.nominal import figure
from isotherma.core.system.stands import positions
from isotherma.core.timeline.record import Day

LOST_SHARE = 0.05  # of the volts; below it nobody notices


def _when(seconds: float, habit: Habit) -> str:
    return f"at {shown(seconds % 86400.0, 'clock', habit)} on day {int(seconds // 86400) + 1}"


def _bottle_words(setup: Setup, day: Day, habit: Habit) -> list[str]:
    held = bottle_days(setup, day, setup.brief.days)
    start = bottle(setup)
    if held is None or start is None:
        return []
    hold, _, load = held
    failed_s, how = hold.held_s, hold.ended
    today = next((item for item in day.ended if item.carried == "gas"), None)
    if today is not None:
        failed_s, how = today.clock_s, today.how
    words = [
        f"The joined gas bottle is empty {_when(swap_s, habit)}; a spare takes its place, "
        f"{duration_words(setup.swap_s)} without a flame."
        for swap_s in hold.swaps[:1]
    ]
    if failed_s is None:
        return words
    when = _when(failed_s, habit)
    if how == "empty":
        last = "The last" if hold.swaps else "The joined"
        return [*words, f"{last} gas bottle is empty {when}."]
    least = setup.least_pa
    lasting = sustained_kg_per_s(start, air_c=start.celsius, limit_pa=least)
    return [
        *words,
        f"The gas bottle cools as it boils: {when} its pressure falls under "
        f"{with_unit(least - ATMOSPHERE_PA, 'pressure', habit)}, which its regulator needs, at "
        f"{with_unit(load, 'mass_flow', habit, 2)}. Without end it gives "
        f"{with_unit(lasting, 'mass_flow', habit, 2)} where it stands. The flame goes "
        "out until the bottle has warmed; a larger bottle, or one of propane, holds longer.",
    ]


def _battery_words(setup: Setup, day: Day, habit: Habit) -> list[str]:
    level = battery_level(setup, day, setup.brief.days)
    if level is None or level.empty_s is None:
        return []
    return [
        f"The battery is empty {_when(level.empty_s, habit)}; what hangs on it stops then. "
        + (
            "The day shown goes on without it."
            if level.empty_s < 86400.0
            else "The figures of the day are those before."
        )
    ]


def _fuse_words(setup: Setup, day: Day, habit: Habit) -> list[str]:
    """Say what is too much for a fuse, alone or together with what hangs on it."""
    found = []
    names = {part.id: part.label for part in setup.system.parts}
    stand = positions(setup.system, setup.standing)  # as it was set, not as it runs

    def amps(value: float) -> str:
        return with_unit(value, "current", habit, 2)

    for fuse_id, loads in setup.fuses.loads.items():
        bears = setup.fuses.bears[fuse_id]
        fused = f"{names[fuse_id]} is fused at {amps(bears)}"
        there = {key: taken for key, taken in loads.items() if stand.get(key) != "off"}
        alone = {key: taken for key, taken in there.items() if taken > bears * FUSE_BEARS}
        for key, taken in alone.items():
            found.append(
                f"{names[key]} takes {amps(taken)}; {fused} and blows. The figures are those of a "
                "blown fuse. Never fit a larger fuse than the cable carries."
            )
        rest = {key: taken for key, taken in there.items() if key not in alone}
        together = getattr(setup.computed.part(fuse_id), "not_together", False)
        if sum(rest.values()) > bears * FUSE_BEARS and together and fuse_id not in day.blown:
            *others, last = (names[key] for key in rest)
            found.append(
                f"{', '.join(others)} and {last} would take {amps(sum(rest.values()))} together; "
                f"{fused}. They are set not to run together: the figures let one wait for the "
                "other. Make sure a switch or relay does so too."
            )
        elif sum(rest.values()) > bears * FUSE_BEARS:
            *others, last = (names[key] for key in rest)
            did = "as it does" if fuse_id in day.blown else "which does not happen"
            found.append(
                f"{', '.join(others)} and {last} take {amps(sum(rest.values()))} together; {fused} "
                f"and blows when they run at once, {did} in the figures. Let one wait for the "
                "other, or give it a fuse of its own."
            )
    return found


def _circuit_words(setup: Setup, habit: Habit) -> list[str]:
    found = []
    system = setup.computed
    parts = {part.id: part for part in system.parts}
    pitch = [part for part in system.parts if isinstance(part, electric.HookUp) and part.limit_w]
    on_pitch = 0.0
    for part in system.parts:
        if not isinstance(part, heat.Element) or setup.at.get(part.id) == "off":
            continue
        watts = figure(part, "power_w")
        sources = feeds_of(system, part.id).sources
        if any(isinstance(parts.get(key), electric.HookUp) for key in sources):
            on_pitch += watts
    for item in pitch:
        limit_w = figure(item, "limit_w")
        if on_pitch > limit_w * 1.001:
            found.append(
                f"Elements on the pitch take {with_unit(on_pitch, 'power', habit)} together; it "
                f"gives {with_unit(limit_w, 'power', habit)} and trips. The figures "
                "let the later ones of the list wait until the earlier are done."
            )
    return found


def _wire_words(setup: Setup, habit: Habit) -> list[str]:
    """Say what wires keep of what an element takes, and which nobody measured."""
    found = []
    balance = setup.wires
    parts = setup.computed
    for key in balance.ids:
        part = parts.part(key)
        if not isinstance(part, heat.Element) or setup.at.get(key) == "off":
            continue
        row = balance.row(key)
        assert row is not None
        volts = float(balance.source_v[row])
        fed = balance.settled({key: element_ohm(part, volts)})[key]
        if volts - fed.volts > LOST_SHARE * volts:
            found.append(
                f"The wires to {part.label} keep {with_unit(volts - fed.volts, 'voltage', habit)} "
                f"of {with_unit(volts, 'voltage', habit)}: "
                f"{with_unit(fed.volts * fed.amps, 'power', habit)} reach it and "
                f"{with_unit(fed.lost_w, 'power', habit)} warm the wires. Thicker or shorter "
                "cable loses less."
            )
    unmeasured = [run.label for run in parts.runs if run.id in balance.unmeasured]
    if unmeasured and balance.ids:
        more = f" and {len(unmeasured) - 2} more" if len(unmeasured) > 2 else ""
        found.append(
            f"Nobody says how long and how thick {', '.join(unmeasured[:2])}{more} "
            f"{'is' if len(unmeasured) == 1 else 'are'}: taken to lose nothing."
        )
    return found


def _spark_words(setup: Setup) -> list[str]:
    """Say that cells nobody measured are taken to spark."""
    found = []
    for part in setup.system.parts:
        if not isinstance(part, heat.ThroughFlowGas):
            continue
        cells = cells_of(setup.system, part)
        if cells is not None and cells.volts_v is None:
            found.append(
                f"Nobody measured {cells.label} while {part.label} sparks: taken to light it. Weak "
                "cells are the commonest reason why a heater does not."
            )
    return found


def _trip_words(setup: Setup, day: Day, habit: Habit) -> list[str]:
    """Say which cut-outs wait for a hand."""
    found = []
    for key in day.tripped:
        limit = next(
            part
            for part in setup.parts.values()
            if isinstance(part, heat.HighLimit) and part.guards == key
        )
        opens = with_unit(figure(limit, "opens_c"), "temperature", habit)
        found.append(
            f"{limit.label} opens at {opens} and waits for a hand: {setup.label(key)} gives "
            "nothing after that, and so it is in the figures. Find out why it grew so hot before "
            "it is pressed."
        )
    return found


def _rule_words(setup: Setup) -> list[str]:
    found = []
    for part in setup.parts.values():
        if not isinstance(part, heat.Element | heat.Burner):
            continue
        if part.rule == "while driving" and not setup.hours.drives:
            found.append(
                f"{part.label} runs while driving, and nothing says when the vehicle drives: it "
                "never runs here. Enter it at the alternator or the engine's coolant."
            )
        panels = [item for item in setup.parts.values()
                  if isinstance(item, electric.Panel)]  # fmt: skip
        if part.rule == "surplus sun" and not panels:
            found.append(
                f"{part.label} runs on surplus sun, and there is no panel: it never runs here."
            )
    return found


def _dry_words(setup: Setup, habit: Habit) -> list[str]:
    bare = [fire for fire in dry_fires(setup.circuit, setup.brief.inside_c)
            if not fire.stopped_by]  # fmt: skip
    if not bare:
        return []
    worst = min(bare, key=lambda fire: fire.to_limit_s)
    if worst.to_limit_s == inf:
        return []
    boils = with_unit(100.0, "temperature", habit)
    names = " and ".join(fire.label.lower() for fire in bare[:2])
    return [
        f"Nothing drawn stops {names} when {worst.vessel.lower()} is empty: its metal passes "
        f"{boils} after {duration_words(worst.to_limit_s)} and goes on. Fit a thermal cut-out "
        "that does not hang on the thermostat, and heat only what is full."
    ]


def supply_words(setup: Setup, day: Day, habit: Habit) -> tuple[str, ...]:
    """Say what is wrong with what feeds a system.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    habit : Habit
        Units to speak in. [-]

    Returns
    -------
    tuple of str
        Sentences, the gravest first; none when nothing is wrong. [-]
    """
    return tuple(
        _fuse_words(setup, day, habit) + _circuit_words(setup, habit)
        + _trip_words(setup, day, habit)
        + _rule_words(setup) + _wire_words(setup, habit) + _spark_words(setup)
        + _bottle_words(setup, day, habit) + _battery_words(setup, day, habit)
        + _dry_words(setup, habit)
    )  # fmt: skip
