"""Routines in words: titles, steps, cautions, and what goes wrong without a step."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.using.damp import Damp
from isotherma.core.using.routines import Step

ROUTINES: Final[Mapping[str, str]] = {
    "arrive": "Arrive", "before_driving": "Before driving", "leave_week": "Leave for a week",
    "first_frost": "First frost", "lay_up": "Lay up", "river": "Draw from outside",
    "sanitise": "Sanitise", "descale": "Descale", "hoses": "Dates and lives",
    "alarms": "Test the alarms",
}  # fmt: skip
ROUTINE_CAUTIONS: Final[Mapping[str, str]] = {
    "arrive": "Feel the water with the back of your hand before anybody stands under it.",
    "before_driving": "No flame while driving or filling up with fuel.",
    "leave_week": "Off means off: what heats, what pumps, and gas at the bottle if there is one.",
    "first_frost": "Hot water scalds: let the store cool first.",
    "lay_up": "Hot water scalds: let the store cool first.",
    "river": "Not for drinking, unless what you fitted makes it so and you know how well.",
    "sanitise": "Gloves and glasses; never with anything acid: it gives off a gas that hurts. "
    "Times and strengths are the label’s; check the current text.",
    "descale": "Never after or with the sanitising product: together they give off a gas that "
    "hurts. Rinse one out wholly before the other.",
    "hoses": "Changing gas hoses and regulators is for a licensed person where local rules say so.",
    "alarms": "If one sounds by itself: everybody out first.",
}
# what a step says, what goes wrong when it is left out
_STEPS: Final[Mapping[str, tuple[str, str]]] = {
    "move": ("", ""), "move_back": ("", ""),  # by the position it is brought to
    "level": ("Stand as on “Where to park”", "water stands in the tray or out of the tank’s reach"),
    "set_up": ("Set up {name}", "the floor gets wet"),
    "run_air": ("Run {name} cold until it spits no more", "the first shower spits, the pump races"),
    "grey_room": ("Look how full {name} is", "grey water comes back up in the tray"),
    "hang_up": ("Hang {name} in its holder", "it swings, and may open"),
    "pack": ("Pack {name}", "it falls about"),
    "stow": ("Strap {name} down", "it flies when you brake"),
    "cap": ("Shut {name}", "water slops out, dirt comes in"),
    "empty_grey": ("Empty {name} where it is allowed", "it smells, slops and weighs"),
    "shut_off": ("Shut {name}", "one leak empties the tank under the floor"),
    "tank_stands": ("Empty {name}, or fill it anew before you drink again",
                    "water that stood warm for days"),
    "store_stands": ("Heat {name} through before the next shower, and run its first litres away",
                     "lukewarm water that stood"),
    "trap_dries": ("Pour a cup of water into {name}", "its seal dries and the tank’s air comes up"),
    "let_cool": ("Let {name} cool, or run it out mixed", "somebody is scalded at the drain"),
    "open_drain": ("Open {name}: {litres} leave", "they freeze where they are"),
    "open_for_air": ("Open {name}: it lets air in", "water hangs in the pipe behind it"),
    "empty_tank": ("Run {name} empty, or leave it warm", "it freezes to its walls"),
    "trapped": ("{name} keeps {litres}: blow or siphon it out", "it splits there"),
    "puddles": ("Blow through every outlet: {litres} stand in smaller puddles", "joints split"),
    "proof": ("Proof: {litres} caught, and nothing drips", "nobody knows what is still in it"),
    "filter_out": ("Take the cartridge out of {name}", "it is spoilt, or splits its housing"),
    "filter_in": ("Put a fresh cartridge into {name}", "you drink what it held back"),
    "filter_look": ("Look whether {name} is clogged", "the pump starves"),
    "clean": ("Rinse the sieve of {name}", "what it holds rots"),
    "precharge": ("Look at the air in {name}, pump off and a tap open", "the pump races in spring"),
    "half_open": ("Leave {name} half open", "a drop left in it splits the body"),
    "trap_frost": ("Dry {name} out, or fill it with what does not freeze and may go down there",
                   "it splits"),
    "bottle_off": ("Shut and uncouple {name}, cap on", "it leaks slowly all winter"),
    "battery": ("Switch {name} off or keep it charged", "it dies empty"),
    "suction": ("Hang {name} clear of mud, upstream of everybody", "sand wears the pump"),
    "not_drinking": ("Nothing to drink from {name} until it was flushed", "somebody is ill"),
    "flush_outlet": ("Run tank water from {name}", "outside water stands in the pipe"),
    "dose": ("{dose} of the product into a jug of water, then into {name}; {litres} in all",
             "nothing is killed, or it stays bitter"),
    "dose_unknown": ("Dose {name} by the label: how many litres there are is not known",
                     "nothing is killed, or it stays bitter"),
    "smells": ("Open {name} until it smells of it, cold then hot, and shut it",
               "what lives in that pipe lives on"),
    "contact": ("Leave it as long as the label says", "it had no time to act"),
    "flush": ("Drain it, and flush with {litres} through every outlet", "it tastes, and corrodes"),
    "flush_unknown": ("Drain it, and flush until nothing smells", "it tastes, and corrodes"),
    "cold_off": ("Switch {name} off and let it cool", "the acid boils over"),
    "acid": ("Fill {name} with descaler by its label: {litres}", "scale insulates and cracks"),
    "rinse": ("Rinse {name} three times: {litres}", "it eats the metal"),
    "soak_head": ("Lay {name} in a cup of it, then brush the holes", "it sprays sideways"),
    "hose": ("{name}: {dated}", "it cracks where nobody looks"),
    "cartridge": ("{name}: new cartridge after {litres}", "it lets through what it held"),
    "cartridge_days": ("{name}: new cartridge after {litres}, about {days} days like this one",
                       "it lets through what it held"),
    "cartridge_unknown": ("{name}: new cartridge by its label; how long it lasts is not said",
                          "it lets through what it held"),
    "alarm": ("Press the button of {name}: {dated}", "it is silent when it matters"),
    "no_alarm": ("No alarm is drawn, and something here burns: fit one", "nobody wakes"),
}  # fmt: skip
_MOVES: Final[Mapping[str, tuple[str, str]]] = {
    "on": ("Switch on {name}", "nothing runs"),
    "ready": ("Switch on {name}", "it stays cold"),
    "full": ("Switch {name} to its full power", "it warms for hours"),
    "off": ("Switch off {name}", "it runs or heats while nobody looks"),
    "open": ("Open {name}", "nothing comes"),
    "shut": ("Shut {name}", "it runs out, or leaks"),
    "joined": ("Couple {name}", "nothing comes"),
    "apart": ("Uncouple {name}", "it is torn off"),
    "plugged": ("Plug in {name}", "the battery empties"),
    "unplugged": ("Unplug {name}, at the post first", "you drive off with the cable"),
    "empty": ("Empty {name}", "it freezes or goes bad"),
}  # fmt: skip
_OTHER_MOVE: Final = ("Bring {name} to “{to}”", "water goes another way than you think")
_NOT_KNOWN: Final = "not known"


def routine_step(step: Step, names: Mapping[str, str], units: UnitSystem) -> tuple[str, str]:
    """Write a step of a routine, and what goes wrong when it is left out.

    Parameters
    ----------
    step : Step
        As it was found. [SI]
    names : mapping of str to str
        Labels of parts and runs by id. [-]
    units : UnitSystem
        The reader's. [-]

    Returns
    -------
    tuple of str
        Both, without a full stop. [-]
    """
    says, without = _STEPS[step.code]
    if step.code in ("move", "move_back"):
        says, without = _MOVES.get(step.to, _OTHER_MOVE)
        if step.code == "move_back":
            says = f"Then back: {says[0].lower()}{says[1:]}"
    values = {key: with_unit(value.value, value.style, units, 2)
              for key, value in step.values.items()}  # fmt: skip
    dated = step.dated or "its date is not known"
    if step.code == "hose" and step.dated:
        dated = f"dated {step.dated}; look for cracks, replace by its label"
    if step.code == "alarm" and step.dated:
        dated = f"replace by {step.dated}"
    filled = {"litres": _NOT_KNOWN, "dose": _NOT_KNOWN} | values
    return says.format(name=names.get(step.part, step.part), to=step.to, dated=dated, **filled), (
        without)  # fmt: skip


def step_time(step: Step) -> str:
    """Say how long a step takes and with what.

    Parameters
    ----------
    step : Step
        As it was found. [s]

    Returns
    -------
    str
        A few words; of a hand only the time. [-]
    """
    words = [] if step.seconds is None else [duration_words(step.seconds)]
    if step.tool != "hand":
        words.append(step.tool)
    return ", ".join(words)


_SWEATS: Final[Mapping[str, str]] = {
    "skin": "bare metal and single panes, at about {at}",
    "cold_pipe": "the cold pipe, at about {at}",
}


def sweat_words(found: tuple[str, ...], damp: Damp, units: UnitSystem) -> str:
    """Say where vapour condenses first.

    Parameters
    ----------
    found : tuple of str
        What lies below the dew point, the coldest first. [-]
    damp : Damp
        Of a shower. [SI]
    units : UnitSystem
        The reader's. [-]

    Returns
    -------
    str
        A few words. [-]
    """
    dew = with_unit(damp.dew_c, "temperature", units)
    if not found:
        return f"nothing below {dew} is near"
    at = {"skin": damp.skin_c, "cold_pipe": damp.cold_c}
    rows = [_SWEATS[key].format(at=with_unit(at[key], "temperature", units)) for key in found]
    return f"{'; then '.join(rows)}: all below {dew}"
