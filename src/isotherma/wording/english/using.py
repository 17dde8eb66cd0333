"""Using a vehicle in words: acts of a card, what to shut first."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.using.now import Now
from isotherma.core.using.tap import Opening

TROUBLE_WORDS: Final[Mapping[str, str]] = {
    "gas_smell": "It smells of gas",
    "alarm": "The gas or carbon monoxide alarm sounds",
    "water_under_floor": "Water under the floor, or the pump runs by itself",
    "too_hot": "Water is far too hot, or steam comes",
    "electric": "Something electric smells, sparks or is hot",
    "no_water": "No water comes",
    "no_heat": "It stays cold",
}
TROUBLE_FIRST: Final[Mapping[str, str]] = {
    "gas_smell": "Everybody out. No switch, no flame, no telephone inside. Doors open. Shut the "
    "gas only if you can reach it without staying in it.",
    "alarm": "Everybody out into the air, at once. Call help from outside. Shut what burns only "
    "if you can reach it from outside.",
    "water_under_floor": "Pump off first, then the water that comes from outside.",
    "too_hot": "Shut the tap, stand back, let nobody touch it. Switch off what heats.",
    "electric": "Touch nothing that is wet. Unplug at the pitch first.",
    "no_water": "Pump off before it runs dry.",
    "no_heat": "Switch off what heats before you look: it may be empty.",
}
TROUBLE_SYMPTOM: Final[Mapping[str, str]] = {
    "gas_smell": "gas", "alarm": "alarm", "water_under_floor": "water", "too_hot": "hot",
    "electric": "hot", "no_water": "nothing comes", "no_heat": "hot",
}  # fmt: skip
SHUT_WORDS: Final[Mapping[str, str]] = {
    "shut": "Shut", "off": "Switch off", "unplugged": "Unplug",
}  # fmt: skip


def opening_words(opening: float) -> str:
    """Say how far a tap is opened.

    Parameters
    ----------
    opening : float
        Share of fully open. [-]

    Returns
    -------
    str
        As a hand does it. [-]
    """
    for most, words in ((0.17, "just"), (0.29, "to about a quarter"), (0.4, "to about a third"),
                        (0.6, "to about half"), (0.8, "to about three quarters")):  # fmt: skip
        if opening < most:
            return words
    return "fully"


def tap_sentence(one: Opening, units: UnitSystem) -> str:
    """Say what a tap does that is open so far.

    Parameters
    ----------
    one : Opening
        As it was tried. [SI]
    units : UnitSystem
        The reader's. [-]

    Returns
    -------
    str
        A few words. [-]
    """
    if one.unlit:
        return "too little for the flame, or never warm"
    if not one.warm:
        return "not warm as it is asked"
    words = "warm for longer than half an hour" if one.good_s is None else (
        f"warm for {duration_words(one.good_s)}")  # fmt: skip
    return words + (", and the pump pulses" if one.pulses else "")


def now_acts(
    now: Now, names: Mapping[str, str], units: UnitSystem
) -> tuple[tuple[float, str], ...]:  # fmt: skip
    """Write the acts of one warm shower, each with seconds from when the water is hot.

    Parameters
    ----------
    now : Now
        The answer. [SI]
    names : mapping of str to str
        Labels by id. [-]
    units : UnitSystem
        The reader's. [-]

    Returns
    -------
    tuple
        Seconds from hot, before it below 0, and a sentence. [s]
    """
    takes = now.lead.takes_s or 0.0
    rows: list[tuple[float, str]] = []
    on = ", ".join(names.get(key, key) for key in now.lead.sources)
    if takes > 0.0 and on:
        rows.append((-takes, f"Switch on {on}."))
    flow = with_unit(now.flow_m3_per_s, "flow", units, 2)
    valve = ""
    if now.valve is not None and now.set_c is not None:
        set_to = with_unit(now.set_c, "temperature", units)
        valve = f"Set {names.get(now.valve, now.valve)} to {set_to}. "
    rows.append((0.0, f"{valve}Open {names.get(now.outlet, now.outlet)} "
                      f"{opening_words(now.opening)}, {flow}."))  # fmt: skip
    wait = 0.0 if now.wait_s is None else now.wait_s
    if now.wait_s is not None:
        caught = with_unit(now.cold_m3, "volume", units, 2)
        rows.append((wait, f"Warm after {duration_words(wait)}; catch the {caught} before it."))
    if now.good_s is not None:
        rows.append((now.good_s, "It runs cool now."))
    return tuple(rows)


def now_sentences(now: Now, units: UnitSystem) -> tuple[str, ...]:
    """Write what a warm shower leaves.

    Parameters
    ----------
    now : Now
        The answer. [SI]
    units : UnitSystem
        The reader's. [-]

    Returns
    -------
    tuple of str
        Sentences. [-]
    """
    rows = []
    takes = now.lead.takes_s
    target = now.lead.target_c
    if now.lead.by_clock and takes:
        rows.append("Nothing is switched on: the sun or the engine warms it, at its own hour.")
    elif takes is not None and target is not None and takes > 0.0:
        words = f"Hot {duration_words(takes)} after switching on, from "
        words += f"{with_unit(now.lead.cold_c, 'temperature', units)} to "
        words += with_unit(target, "temperature", units)
        rows.append(words + (", which is all these give." if now.lead.short else "."))
    if now.wait_s is None:
        rows.append("It does not get warm at the outlet.")
    elif now.good_s is None:
        rows.append("It stays warm for longer than half an hour.")
    else:
        rows.append(f"Good for {duration_words(max(0.0, now.good_s - now.wait_s))}.")
    if now.next_s is None:
        rows.append("It is not hot again for the next one on that day.")
    else:
        rows.append(f"Hot again for the next one {duration_words(now.next_s)} after this one.")
    used = with_unit(now.used_m3, "volume", units, 2)
    left = "" if now.fresh_left_m3 is None else (
        f", which leaves {with_unit(max(0.0, now.fresh_left_m3), 'volume', units, 2)}"
        if now.fresh_left_m3 >= 0.0 else ", more than there is")  # fmt: skip
    rows.append(f"It takes {used} of fresh water{left}; grey water then stands at "
                f"{with_unit(now.grey_then_m3, 'volume', units, 2)}.")  # fmt: skip
    return tuple(rows)
