"""What a document says of itself: what, why it matters, how to mend it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.system.remarks import Remark
from isotherma.wording.reader import Reader


@dataclass(frozen=True, slots=True)
class RemarkWords:
    """A remark in words, with where it leads."""

    code: str
    weight: str
    path: str
    part_id: str
    what: str
    why: str
    mend: str


def _two_suctions(remark: Remark, name: Callable[[str], str]) -> str:
    pump, *drawn = (name(key) for key in remark.parts)
    return f"{pump} draws from {' and '.join(drawn)} at once"


def _burns(remark: Remark, name: Callable[[str], str]) -> str:
    heater, *off = (name(key) for key in remark.parts)
    return f"{heater} may burn while {f'{off[0]} is off' if off else 'its circuit is shut'}"


def _plain(port: str) -> str:
    return port.replace("_", " ")


# what is found, from the remark and names by id; why it matters; how to mend it
REMARKS: Final[Mapping[str, tuple[Callable[[Remark, Callable[[str], str]], str], str, str]]] = {
    "port_open": (
        lambda r, name: (
            f"{name(r.part_id)}: its {r.values['port'].replace('_', ' ')} joins nothing"
        ),
        "what should pass there cannot be computed",
        "join it by a run, or cap it",
    ),
    "unknown": (
        lambda r, name: f"{name(r.part_id)}: {r.values['title'].lower()} is unknown",
        "figures that need it stay open",
        "{because}",
    ),
    "relief_behind_valve": (
        lambda r, name: "{} can be parted from {} by {}".format(*(name(key) for key in r.parts)),
        "shut and heated, the vessel has no way to expand",
        "put the relief between the vessel and the first valve",
    ),
    "pump_way_up": (
        lambda r, name: (
            f"{name(r.part_id)} is mounted {r.values['sits']}; its sheet says {r.values['may_sit']}"
        ),
        "water that leaks from its seal runs into the motor",
        "turn it, or take one that may be mounted so",
    ),
    "phase_order": (
        lambda r, name: f"{name(r.part_id)} is fitted before {name(r.parts[1])}, in which it sits",
        "until then there is nothing to fit it to",
        "give it the same phase or a later one",
    ),
    "two_suctions": (
        _two_suctions,
        "one runs into the other, or the pump draws air from the empty one",
        "shut one, or put a selector before the pump",
    ),
    "half_joined_twice": (
        lambda r, name: "{} and {} are both joined to one half".format(
            *(name(key) for key in r.parts)
        ),
        "only one of them can be",
        "part one of them in this state",
    ),
    "two_places": (
        lambda r, name: f"{name(r.part_id)} is in {r.values['spaces']} at once",
        "a thing has one place",
        "keep one of them",
    ),
    "heated_dry": (
        lambda r, name: f"{name(r.part_id)} may heat while {name(r.parts[1])} stands empty",
        "a vessel heated dry burns its element, its seals or worse",
        "switch it off in this state",
    ),
    "lit_but_shut": (
        lambda r, name: f"{name(r.part_id)} may light, but no water reaches it",
        "shut in and heated it boils or bursts",
        "switch it off before its water is shut",
    ),
    "heated_shut_in": (
        lambda r, name: f"{name(r.part_id)} may heat while it is shut in",
        "its water grows and nothing takes it up",
        "leave a relief valve or a way back open",
    ),
    "gas_open_apart": (
        lambda r, name: f"gas is open to {name(r.part_id)}, apart",
        "it does not seal by itself",
        "shut the bottle before it is parted",
    ),
    "pump_on_open_end": (
        lambda r, name: f"{name(r.parts[1])} is on with {name(r.part_id)} {r.values['end']}",
        "it pumps onto the floor",
        "switch the pump off first",
    ),
    "burns_without_circuit": (
        _burns,
        "its coolant boils where it stands",
        "switch it off first",
    ),
    "outdoors_only_inside": (
        lambda r, name: f"{name(r.part_id)} may light inside",
        "its label says outdoors only: its fumes kill",
        "shut its gas before it comes in",
    ),
}


def remark_words(remark: Remark, reader: Reader) -> RemarkWords:
    """Write one remark; of a contradiction in a state it says in which."""
    what_of, why, mend = REMARKS[remark.code]
    what = what_of(remark, reader.name)
    if remark.weight == "contradiction" and remark.code != "phase_order":
        where = f"in “{remark.state_name}”" if remark.state else "as it usually stands"
        what = f"{what}, {where}"
    return RemarkWords(
        remark.code, remark.weight, remark.path, remark.part_id, what, why,
        mend.format(because=remark.values.get("because", "")),
    )  # fmt: skip


# of what a part does, what the engine leaves out
LEFT_OUT: Final[Mapping[str, str]] = {
    "gas_bottle": "what a flame does when it is too cold; that it gets so is told",
    "regulator": "its pressure drop",
    "gas_coupling": "its pressure drop",
    "circuit": "its voltage drop; a fuse too small is told",
    "reuse_loop": "how its filter clogs",
    "air_heater": "its start; its hot air is taken as there",
    "grey_tank": "that it is full; the day it is full is told",
    "level_switch": "when it acts",
    "heat_pad": "what it keeps from freezing; its watts are counted",
    "kettle": "when it boils; a bag beside it counts as filled at 40 °C",
    "gauges": "what it shows (gauges)",
    "when_switched_on": "its rule “when switched on” is taken as always",
}
