"""Suspects, tests and stops of the fault finder in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from isotherma.core.faults.diagnosis import Diagnosis, Read, Reason
from isotherma.core.faults.next_tests import NextTest
from isotherma.core.faults.posterior import Suspect
from isotherma.core.faults.readings import KINDS
from isotherma.core.faults.stops import Stop
from isotherma.core.faults.table import FaultTable, FaultTest
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.wording.reader import in_units

# names that their ids do not give
FAULT_WORDS: Final[Mapping[str, str]] = {
    "no_fault": "Nothing is off",
    "suction_air": "Air is drawn in before it",
    "air_lock": "An air lock in it",
    "frozen": "It is frozen",
    "pump_backflow": "Water runs back through it",
    "pump_switch_low": "Its switch stops too low",
    "switch_stuck_on": "Its switch sticks on",
    "switch_stuck_off": "Its switch sticks off",
    "pump_volts_low": "It gets too few volts",
    "polarity_swapped": "Plus and minus are swapped",
    "joint_bad": "A bad joint in it",
    "cable_thin": "It is too thin or too long",
    "remote_dead": "It does not answer",
    "precharge_lost": "Its air has gone",
    "precharge_high": "Too much air in it",
    "accumulator_waterlogged": "Its bladder has gone",
    "leak_joint": "A joint of it leaks",
    "cooling_shrink": "Its water only shrinks as it cools",
    "crossflow": "Hot and cold meet in it",
    "inlet_weak": "The pitch gives little pressure",
    "element_wrong": "It is another element than entered",
    "element_half": "Half of it is dead",
    "element_earth_leak": "It leaks to earth",
    "hookup_limit": "All together is too much for it",
    "interlock_holds": "It holds the heat back",
    "rule_never": "Its rule never lets it run",
    "jet_high": "Its inlet stirs the hot water",
    "bottle_cold": "It is too cold for this fire",
    "gas_air": "Air is still in it",
    "regulator_wrong": "It gives another pressure than wanted",
    "regulator_locked": "It has locked itself",
    "gas_leak": "It leaks gas",
    "gas_screw": "Its gas-pressure screw was turned",
    "gas_pipe_thin": "It is too thin for the gas",
    "spark_gap": "Its electrode is out of place",
    "flame_sense_dirty": "Its flame sensor is dirty",
    "flow_sense_lost": "It does not sense the flow",
    "flow_under_light": "Too little flows to light it",
    "season_summer": "It stands on summer",
    "gas_knob_low": "Its gas knob is turned down",
    "fuel_dry": "No fuel at its pickup",
    "fuel_air": "Air is in its fuel",
    "glow_weak": "Its glow plug is weak",
    "circ_pump_dead": "It does not turn",
    "primary_airlock": "Air in the circuit stops it",
    "primary_low": "Too little of it in the circuit",
    "engine_not_hot": "It is not hot enough",
    "loop_pump_dead": "It does not turn",
    "loop_check_stuck": "The loop’s check sticks",
    "tray_slope": "It slopes away from its drain",
    "gauge_taper": "Its tank tapers; the needle cannot know",
    "sender_offset": "It sits higher or lower than entered",
    "stale_water": "Its water is stale",
}
QUANTITY_WORDS: Final[Mapping[str, str]] = {
    "flow": "flow", "pressure": "pressure", "cut_in": "cut-in", "cut_out": "cut-out",
    "shut_pressure": "pressure, all shut", "precharge": "pre-charge",
    "gas_pressure": "gas pressure", "run_on": "run-on", "wait": "wait",
    "kick_every": "time between kicks", "heat_up": "time to heat", "cool_down": "time to cool",
    "volts": "volts", "amps": "amps", "temp": "temperature", "air": "air around it",
    "level": "level", "litres": "litres", "bottle_kg": "weight of the bottle",
    "wh_to_empty": "energy to empty", "amp_hours": "amp hours of a day",
}  # fmt: skip
JUDGED_WORDS: Final[Mapping[str, str]] = {
    "pass": "as it should be", "near": "near", "miss": "off", "recorded": "recorded",
}  # fmt: skip
_STOPS: Final[Mapping[str, tuple[str, str]]] = {
    "gas": ("Gas stays shut. No test here opens or lights it.",
            "a licensed gas fitter has found why and tested it"),
    "burner": ("Nothing that burns is lit.", "a licensed person has looked at flame and flue"),
    "mains": ("Mains stays unplugged, whatever hangs on it.",
              "a licensed electrician has tested it, dead and proved dead"),
    "circuit": ("Switch that circuit off: what is warm may burn.",
                "cable, joint and fuse have been looked at and none gets warm"),
    "outlet": ("Nobody stands under it: it is hot enough to scald.",
               "a thermometer has read it below 43 °C for two minutes"),
}  # fmt: skip
_LEAVE: Final[Mapping[str, str]] = {
    "gas_smell": "Smell of gas: shut the bottle if you pass it, no flame, no switch, open doors, "
                 "get everybody out, and call from outside.",
    "co_alarm": "Carbon monoxide alarm: everybody out into the air now, doors open, call for help. "
                "It has no smell.",
}  # fmt: skip


def fault_title(fault: str) -> str:
    """Give the name of a fault."""
    return FAULT_WORDS.get(fault, fault.replace("_", " ").capitalize())


def suspect_title(suspect: Suspect, names: Mapping[str, str]) -> str:
    """Give a suspect's name with its part."""
    rows = []
    for one in suspect.instances:
        title = fault_title(one.fault.id)
        rows.append(title if one.part is None else f"{names.get(one.part, one.part)}: {title}")
    return ", and ".join(rows)


def somewhere_title(alike: Sequence[Suspect], names: Mapping[str, str]) -> str:
    """Give one name to a fault that may sit on any of several runs, the likeliest first."""
    where = [names.get(one.instances[0].part or "", "") for one in alike]
    shown = ", ".join(where[:3]) + (f" and {len(where) - 3} more" if len(where) > 3 else "")
    return f"{fault_title(alike[0].instances[0].fault.id)}, on one of {len(where)} runs: {shown}"


def twins_sentence(
    suspect: Suspect, found: Diagnosis, names: Mapping[str, str]
) -> str | None:  # fmt: skip
    """Name what no test of a builder's parts a suspect from; None where nothing is like that."""
    by_key = {one.key: one for one in found.listed}
    twins = [suspect_title(by_key[key], names) for key in found.twins.get(suspect.key, ())]
    if not twins:
        return None
    return f"No test of yours tells it from: {'; '.join(twins)}. Mend them together."


def title_of_test(test: FaultTest, part: str | None, names: Mapping[str, str]) -> str:
    """Give a test's words with its part."""
    return test.words if part is None else f"{test.words} – {names.get(part, part)}"


def quantity_title(quantity: str, names: Mapping[str, str]) -> str:
    """Give a quantity's words with its part."""
    kind, _, part = quantity.partition(".")
    words = QUANTITY_WORDS[kind]
    return words if not part else f"{words}, {names.get(part, part)}"


def figure_words(kind: str, value: float, units: UnitSystem) -> str:
    """Write a figure of a quantity in the person's units."""
    one = KINDS[kind]
    return with_unit(value * one.si, one.style, units, 3)


def range_words(kind: str, low: float, high: float, units: UnitSystem) -> str:
    """Write a range of a quantity; one figure where both are the same."""
    first, last = figure_words(kind, low, units), figure_words(kind, high, units)
    return first if first == last else f"{first} to {last}"


def reason_sentence(
    reason: Reason, diagnosis: Diagnosis, table: FaultTable, names: Mapping[str, str],
    units: UnitSystem,
) -> str:  # fmt: skip
    """Say what speaks for or against a suspect."""
    lead = "For it: " if reason.speaks_for else "Against it: "
    says = reason.says
    if says[0] in "+-":
        words = table.symptoms[says[1:]].words
        return f"{lead}{words if says[0] == '+' else f'not so: {words}'}."
    read = next((one for one in diagnosis.read if one.quantity == says), None)
    if read is not None:
        kind = read.reading.kind
        shown = f"{quantity_title(says, names)} is {figure_words(kind, read.reading.value, units)}"
        if reason.expected is not None:
            shown += f"; with this it would be {range_words(kind, *reason.expected, units)}"
        return f"{lead}{shown}."
    key, _, part = says.partition("@")
    outcome = next((one.outcome for one in diagnosis.tried
                    if one.test == key and (one.part or "") == part), "")  # fmt: skip
    return f"{lead}{title_of_test(table.tests[key], part or None, names)}: {outcome}."


def read_words(read: Read, names: Mapping[str, str], units: UnitSystem) -> str:
    """Say how a reading lies to what a sound design gives."""
    kind = read.reading.kind
    shown = (
        f"{quantity_title(read.quantity, names)}: {figure_words(kind, read.reading.value, units)}"
    )
    if read.expected is None:
        return f"{shown}. Nothing computes what it should be."
    sound = range_words(kind, read.expected.low, read.expected.high, units)
    return f"{shown}, {JUDGED_WORDS[read.judged]}; a sound system gives {sound}."


def stop_words(stop: Stop, units: UnitSystem = UnitSystem.METRIC) -> tuple[str, str]:
    """Say what must stop, and until when."""
    what, until = _STOPS[stop.what]
    return (_LEAVE[stop.because] if stop.leave else what), in_units(until, units)


def why_test(test: NextTest, names: Mapping[str, str]) -> str:
    """Say why a test is worth its while."""
    gain = f"{test.gain_bits:.2f} bits for {test.test.minutes:g} min"
    if test.parts is None:
        return f"It tells {gain}."
    one, other = (_short(key, names) for key in test.parts)
    return f"It parts “{one}” from “{other}”: {gain}."


def _short(key: str, names: Mapping[str, str]) -> str:
    rows = []
    for one in key.split(" + "):
        fault, _, part = one.partition("@")
        rows.append(fault_title(fault) if not part else
                    f"{names.get(part, part)}: {fault_title(fault)}")  # fmt: skip
    return " and ".join(rows)


def tell_words(test: NextTest, diagnosis: Diagnosis, table: FaultTable) -> str:
    """Say what to tell the licensed person who does a test."""
    seen = "; ".join(table.symptoms[key].words for key in diagnosis.seen)
    said = f" Tell them: {seen}." if seen else ""
    return f"{test.test.words}, by a licensed person.{said}"
