"""What the reader of a day must know, each finding in a sentence or two."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final

from isotherma.core.fields import DAY_S
from isotherma.core.findings import Finding
from isotherma.core.quantity import UnitSystem, shown
from isotherma.core.results.outcome import Outcome
from isotherma.wording.reader import Reader, few, number

RULE_SET: Final = "strictest of all"
AFTER: Final = {
    "stop": "Do not use it like this: mix it down or turn it down first.",
    "fix": "Mend this before anyone washes.",
}
FEEL: Final = "Feel the water before anyone steps under it."


def _quoted(finding: Finding, key: str) -> str:
    names = finding.values[key]
    assert isinstance(names, tuple)
    return few(f"“{name}”" for name in names)


def _when(seconds: float, reader: Reader) -> str:
    clock = shown(seconds % DAY_S, "clock", reader.units)
    return f"at {clock} on day {int(seconds // DAY_S) + 1}"


def _hot(finding: Finding, reader: Reader) -> str:
    when = (
        "before the water settles" if finding.code == "hot_before_it_settles"
        else "with someone under it"
    )  # fmt: skip
    hot, draws = (int(number(finding, key)) for key in ("hot_draws", "draws"))
    others = f", in {hot} of {draws} draws" if hot > 1 else ""
    who = "a child’s limit" if finding.values["childs_limit"] else "the limit"
    words = (
        f"Up to {reader.value(finding, 'peak_c')} at {reader.name(finding.part_id)} {when} "
        f"(“{finding.values['draw']}”{others}), for {reader.value(finding, 'over_s')} over {who} "
        f"of {reader.value(finding, 'limit_c')} ({RULE_SET}). "
    )
    if "burns_s" in finding.values:
        skin = "a child’s skin" if finding.values["child"] else "skin"
        words += f"At its hottest it burns {skin} within {reader.value(finding, 'burns_s')}. "
    return words + AFTER.get(str(finding.values["severity"]), FEEL)


def _mixer_starved(finding: Finding, reader: Reader) -> str:
    return (
        f"Below {reader.value(finding, 'least_m3_per_s')} the mixer may not hold its setting: "
        f"“{finding.values['draw']}” runs at {reader.value(finding, 'flow_m3_per_s')}. The figures "
        "assume it does."
    )


def _pump_switches(finding: Finding, reader: Reader) -> str:
    return (
        "The pump switches on and off at this flow. The figures use its mean; expect the shower "
        "to pulse."
    )


# what is refused, as a sentence says it
REFUSED: Final[Mapping[str, str]] = {
    "gas": "gas",
    "diesel": "diesel",
    "any flame": "any flame",
    "mains": "mains",
    "battery heating": "heating from the battery",
    "coolant": "coolant",
    "through-wall flue": "a flue through the wall",
    "pressurised system": "water under pressure",
    "mixing valve": "a mixing valve",
    "compressed-air draining": "draining by compressed air",
    "licensed work": "work for licensed people",
}


def _will_not_have(finding: Finding, reader: Reader) -> str:
    what = str(finding.values["what"])
    there = reader.names(finding.parts)
    return f"The brief will not have {REFUSED[what]}, and this needs it: {there}."


def _outlet_lacking(finding: Finding, reader: Reader) -> str:
    return (
        f"This variant lacks the outlet of {_quoted(finding, 'draws')}; taken at "
        f"{reader.name(finding.part_id)}."
    )


def _state_lacking(finding: Finding, reader: Reader) -> str:
    return f"This variant lacks the state of {_quoted(finding, 'draws')}; taken as it stands here."


def _goes_round(finding: Finding, reader: Reader) -> str:
    return (
        f"“{finding.values['draw']}” washes with water that goes round: for one shower only, never "
        "to drink and never joined to the fresh side. Drain and rinse the loop the same day."
    )


def _use_not_heated(finding: Finding, reader: Reader) -> str:
    return (
        f"The water of {_quoted(finding, 'uses')} is counted, the heat for it is not computed yet."
    )


def _not_known(finding: Finding, reader: Reader) -> str:
    titles = finding.values["titles"]
    assert isinstance(titles, tuple)
    lacking = few(
        f"{reader.name(key)}: {title.lower()}"
        for key, title in zip(finding.parts, titles, strict=True)
    )
    return f"Not known, so in no figure: {lacking}."


def _fused(finding: Finding, reader: Reader) -> str:
    return f"{reader.name(finding.part_id)} is fused at {reader.value(finding, 'bears_a', 2)}"


def _fuse_alone(finding: Finding, reader: Reader) -> str:
    return (
        f"{reader.name(finding.parts[1])} takes {reader.value(finding, 'takes_a', 2)}; "
        f"{_fused(finding, reader)} and blows. The figures are those of a blown fuse. Never fit a "
        "larger fuse than the cable carries."
    )


def _together(finding: Finding, reader: Reader) -> str:
    *others, last = (reader.name(key) for key in finding.parts[1:])
    return f"{', '.join(others)} and {last}"


def _fuse_waits(finding: Finding, reader: Reader) -> str:
    return (
        f"{_together(finding, reader)} would take {reader.value(finding, 'takes_a', 2)} together; "
        f"{_fused(finding, reader)}. They are set not to run together: the figures let one wait "
        "for the other. Make sure a switch or relay does so too."
    )


def _fuse_blows(finding: Finding, reader: Reader) -> str:
    did = "as it does" if finding.code == "fuse_blows" else "which does not happen"
    return (
        f"{_together(finding, reader)} take {reader.value(finding, 'takes_a', 2)} together; "
        f"{_fused(finding, reader)} and blows when they run at once, {did} in the figures. Let one "
        "wait for the other, or give it a fuse of its own."
    )


def _pitch_trips(finding: Finding, reader: Reader) -> str:
    return (
        f"Elements on the pitch take {reader.value(finding, 'takes_w')} together; it gives "
        f"{reader.value(finding, 'gives_w')} and trips. The figures let the later ones of the list "
        "wait until the earlier are done."
    )


def _cut_out_waits(finding: Finding, reader: Reader) -> str:
    return (
        f"{reader.name(finding.part_id)} opens at {reader.value(finding, 'opens_c')} and waits for "
        f"a hand: {reader.name(finding.parts[1])} gives nothing after that, and so it is in the "
        "figures. Find out why it grew so hot before it is pressed."
    )


def _never_drives(finding: Finding, reader: Reader) -> str:
    return (
        f"{reader.name(finding.part_id)} runs while driving, and nothing says when the vehicle "
        "drives: it never runs here. Enter it at the alternator or the engine's coolant."
    )


def _no_panel(finding: Finding, reader: Reader) -> str:
    return (
        f"{reader.name(finding.part_id)} runs on surplus sun, and there is no panel: it never runs "
        "here."
    )


def _wires_keep(finding: Finding, reader: Reader) -> str:
    return (
        f"The wires to {reader.name(finding.part_id)} keep {reader.value(finding, 'keeps_v')} of "
        f"{reader.value(finding, 'of_v')}: {reader.value(finding, 'reaches_w')} reach it and "
        f"{reader.value(finding, 'lost_w')} warm the wires. Thicker or shorter cable loses less."
    )


def _wires_unmeasured(finding: Finding, reader: Reader) -> str:
    named = few((reader.name(key) for key in finding.parts), 2)
    return (
        f"Nobody says how long and how thick {named} {'is' if len(finding.parts) == 1 else 'are'}: "
        "taken to lose nothing."
    )


def _cells_unmeasured(finding: Finding, reader: Reader) -> str:
    cells, heater = (reader.name(key) for key in finding.parts)
    return (
        f"Nobody measured {cells} while {heater} sparks: taken to light it. Weak cells are the "
        "commonest reason why a heater does not."
    )


def _bottle_swapped(finding: Finding, reader: Reader) -> str:
    return (
        f"The joined gas bottle is empty {_when(number(finding, 'at_s'), reader)}; a spare takes "
        f"its place, {reader.value(finding, 'takes_s')} without a flame."
    )


def _bottle_ends(finding: Finding, reader: Reader) -> str:
    last = "The last" if finding.values["swaps"] else "The joined"
    return f"{last} gas bottle is empty {_when(number(finding, 'at_s'), reader)}."


def _bottle_cold(finding: Finding, reader: Reader) -> str:
    return (
        f"The gas bottle cools as it boils: {_when(number(finding, 'at_s'), reader)} its pressure "
        f"falls under {reader.value(finding, 'needs_pa')}, which its regulator needs, at "
        f"{reader.value(finding, 'load_kg_per_s', 2)}. Without end it gives "
        f"{reader.value(finding, 'lasting_kg_per_s', 2)} where it stands. The flame goes out until "
        "the bottle has warmed; a larger bottle, or one of propane, holds longer."
    )


def _battery_ends(finding: Finding, reader: Reader) -> str:
    at_s = number(finding, "at_s")
    shown_day = (
        "The day shown goes on without it." if at_s < DAY_S
        else "The figures of the day are those before."
    )  # fmt: skip
    return f"The battery is empty {_when(at_s, reader)}; what hangs on it stops then. {shown_day}"


def _dry_fire(finding: Finding, reader: Reader) -> str:
    names = " and ".join(reader.name(key).lower() for key in finding.parts[1:3])
    return (
        f"Nothing drawn stops {names} when {reader.name(finding.part_id).lower()} is empty: its "
        f"metal passes {reader.value(finding, 'passes_c')} after "
        f"{reader.value(finding, 'after_s')} and goes on. Fit a thermal cut-out that does not hang "
        "on the thermostat, and heat only what is full."
    )


def _grows(finding: Finding, reader: Reader) -> str:
    return (
        f"Heated with every tap shut, the water of {reader.name(finding.part_id)} grows by "
        f"{reader.value(finding, 'grows_m3', 2)}"
    )


def _grows_nowhere(finding: Finding, reader: Reader) -> str:
    return (
        f"{_grows(finding, reader)} and nothing takes it up: no way back to the tank, no room in "
        "an accumulator, no relief valve. The pressure rises until something gives. Fit a relief "
        "valve led outside and below, with nothing between that can shut."
    )


def _grows_unguarded(finding: Finding, reader: Reader) -> str:
    return (
        f"{_grows(finding, reader)}; the accumulator takes it up at "
        f"{reader.value(finding, 'reaches_pa')}, and no relief valve guards it. Fit one, led "
        "outside and below, with nothing between that can shut."
    )


def _relief_lets_out(finding: Finding, reader: Reader) -> str:
    return (
        f"{_grows(finding, reader)}; the relief valve lets out up to "
        f"{reader.value(finding, 'let_out_m3', 2)} a day. Lead it outside and below, where nobody "
        "stands; an accumulator beside the store, behind the check valve, keeps it."
    )


CAUTIONS: Final[Mapping[str, Callable[[Finding, Reader], str]]] = {
    "hot_on_skin": _hot,
    "hot_before_it_settles": _hot,
    "mixer_starved": _mixer_starved,
    "pump_switches": _pump_switches,
    "will_not_have": _will_not_have,
    "outlet_lacking": _outlet_lacking,
    "state_lacking": _state_lacking,
    "goes_round": _goes_round,
    "fuse_alone": _fuse_alone,
    "fuse_waits": _fuse_waits,
    "fuse_blows": _fuse_blows,
    "fuse_would_blow": _fuse_blows,
    "pitch_trips": _pitch_trips,
    "cut_out_waits": _cut_out_waits,
    "never_drives": _never_drives,
    "no_panel": _no_panel,
    "wires_keep": _wires_keep,
    "wires_unmeasured": _wires_unmeasured,
    "cells_unmeasured": _cells_unmeasured,
    "bottle_swapped": _bottle_swapped,
    "bottle_ends": _bottle_ends,
    "bottle_cold": _bottle_cold,
    "battery_ends": _battery_ends,
    "dry_fire": _dry_fire,
    "grows_nowhere": _grows_nowhere,
    "grows_unguarded": _grows_unguarded,
    "relief_lets_out": _relief_lets_out,
    "use_not_heated": _use_not_heated,
    "not_known": _not_known,
}


def caution(finding: Finding, reader: Reader) -> str:
    """Write one finding of a day; KeyError for a code without words, which a test finds."""
    return CAUTIONS[finding.code](finding, reader)


def cautions(outcome: Outcome, units: UnitSystem) -> tuple[str, ...]:
    """Write what the reader of a day must know, what can hurt first."""
    reader = Reader.of(outcome.system, units)
    return tuple(caution(finding, reader) for finding in outcome.findings)
