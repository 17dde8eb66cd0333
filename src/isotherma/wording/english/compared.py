"""Designs side by side in words: what they are made of, what fails with what."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from isotherma.core.options.built import Change, Fails, Failure, Leans
from isotherma.core.options.limits import Limit, Limited
from isotherma.core.quantity import UnitSystem, duration_words, with_unit

MADE_OF_WORDS: Final[Mapping[str, str]] = {
    "parts": "Parts",
    "joints": "Joints",
    "holes": "Holes",
    "dry_kg": "Dry mass",
    "full_kg": "Mass with tanks full",
    "room_m3": "Room",
    "price": "Prices entered",
    "findings": "Cautions",
}
FAILS_WORDS: Final[Mapping[Fails, str]] = {
    Fails.HEAT: "What heats",
    Fails.STORE: "A store",
    Fails.PUMP: "A pump",
    Fails.MIXER: "A mixer",
}


LIMITED_WORDS: Final[Mapping[Limited, str]] = {
    Limited.SETUP: "Set up and pack",
    Limited.HEADROOM: "Headroom to wash in",
    Limited.HOLES: "Holes",
    Limited.MONEY: "Money",
    Limited.MASS: "Mass with tanks full",
    Limited.ROOM: "Room",
}


def limit_words(item: Limit, units: UnitSystem) -> str:
    """Say how a design stands against a limit.

    Parameters
    ----------
    item : Limit
        With what there is. [SI]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause without a full stop. [-]
    """

    def shown(value: float) -> str:
        if item.style == "seconds":
            return duration_words(value)
        return with_unit(value, item.style, units, 3)

    side = "at least" if item.at_least else "at most"
    if item.used is None:
        return f"not known; {side} {shown(item.limit)}"
    parts = "part" if item.unknown == 1 else "parts"
    unknown = f", and of {item.unknown} {parts} not known" if item.unknown else ""
    beyond = "too little" if item.at_least else "too much"
    said = f"{beyond}, " if item.over else ""
    return f"{said}{shown(item.used)}{unknown}; {side} {shown(item.limit)}"


_WITHOUT: Final[Mapping[Leans, str]] = {
    Leans.SUN: "sun", Leans.HOOK_UP: "a hook-up", Leans.DRIVING: "driving", Leans.FUEL: "fuel",
    Leans.BATTERY: "a full battery",
}  # fmt: skip


def works_without_words(leans: Sequence[Leans]) -> str:
    """Say without what there is still heat: where some source does not lean on it.

    Parameters
    ----------
    leans : sequence of Leans
        What each source cannot do without. [-]

    Returns
    -------
    str
        A list; "nothing of these" where every source needs one. [-]
    """
    asked = (Leans.SUN, Leans.HOOK_UP, Leans.DRIVING, Leans.FUEL)
    free = [_WITHOUT[one] for one in asked if any(other is not one for other in leans)]
    return ", ".join(free) or "none of these"


def failure_words(item: Failure, units: UnitSystem) -> str:
    """Say what is left when a part has failed.

    Parameters
    ----------
    item : Failure
        The worst of its kind. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause without a full stop. [-]
    """
    of = f"of {item.outlets} outlet{'' if item.outlets == 1 else 's'}"
    if item.warm:
        left = f"{item.warm} {of} still warm"
    elif item.water:
        left = f"{item.water} {of} with cold water"
    else:
        left = "no water"
    spilt = ""
    if item.spilt_m3 >= 5e-5:  # less is wiped up
        spilt = f", {with_unit(item.spilt_m3, 'volume', units, 2)} may run out"
    return f"{item.label}: {left}{spilt}"


def state_change_words(item: Change) -> str:
    """Say what it takes to get into a state from the first.

    Parameters
    ----------
    item : Change
        Moves and seconds. [s]

    Returns
    -------
    str
        A clause without a full stop. [-]
    """
    moves = "nothing to move" if not item.moves else (
        f"{item.moves} move{'' if item.moves == 1 else 's'}, {duration_words(item.seconds_s)}"
    )  # fmt: skip
    return f"{item.state}: {moves}"
