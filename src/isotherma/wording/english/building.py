"""Tasks and stages of building in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

TASK_WORDS: Final[Mapping[str, str]] = {
    "hole": "Drill for {name}: look behind, drill, edge, sleeve, seal",
    "mount": "Mount {name}",
    "fit": "Fit {name}",
    "lay": "Lay {name}",
    "insulate": "Insulate {name}",
    "waste": "Lay {name} to fall",
    "gas": "Gas: {name}",
    "fuel": "Fuel: {name}",
    "pull": "Pull and crimp {name}, fuse last",
    "duct": "Lay the duct {name}",
    "mains": "Mains: {name}",
    "flue": "Flue: {name}",
    "insulation": "Insulate {name}",
    "floor": "Floor of {name}",
    "lining": "Line {name}",
    "furniture": "Furniture of {name}",
    "test": "{name}",
}
STAGE_WORDS: Final[Mapping[str, str]] = {
    "fill": "Fill at {name}, look at every joint",
    "pump": "{name} on, everything shut",
    "hold": "{name}: half an hour without a kick",
    "hold_pressure": "{name} off: half an hour by a pressure gauge at an outlet",
    "flow": "Flow of {name} by bucket",
    "heat_electric": "{name} on, its store full",
    "gas_tightness": "Gas tightness",
    "first_fire": "First fire of {name}: flow, gas, light",
    "mix": "{name} at its setting",
    "waste": "Five litres into {name}",
    "gauge": "Litres by {name}",
    "sanitise": "Sanitise all of the water",
    "drain_down": "Drain down",
    "recheck": "Look again after the first drive",
}
TRADE_WORDS: Final[Mapping[str, str]] = {
    "body": "body", "insulation": "insulation", "floor": "floor", "lining": "lining",
    "furniture": "furniture", "water": "water", "waste": "waste", "low_voltage": "low voltage",
    "mains": "mains", "gas": "gas", "flue": "flue", "fuel": "fuel", "test": "test",
}  # fmt: skip
TASK_CAUTIONS: Final[Mapping[str, str]] = {
    "drilling": "Look behind and below before you drill: cables, fuel, brakes, gas.",
    "gas": "Gas work is for a licensed person; ask what local rules say.",
    "mains": "Mains kills. Work on it is for a licensed electrician.",
    "fuel": "No flame, no spark; wipe up, air the space.",
    "lifting": "Two people lift it; empty it first.",
    "solvent": "Solvent in a closed space stuns: air it, no flame.",
}
NOT_COMPUTED: Final[Mapping[str, str]] = {
    "primary": "a primary is filled and bled by its maker’s order",
    "litres": "a run or vessel in it has no size",
    "flow": "no flow could be solved",
    "no_outlet": "nothing in it lets water out by a known flow",
    "pump": "its cut-out or its curve is not known",
    "kept": "what its switch keeps between its pressures is not known",
    "amps": "its watts are not known",
    "heights": "no heights are known: let air out at every outlet",
    "tray": "its way out is not drawn or not measured",
    "gauge": "its tank is not measured",
    "drains": "no drain is drawn, or a run has no size",
}
EXPECT_WORDS: Final[Mapping[str, str]] = {
    "run_on": "what pipes and accumulator take up to its cut-out, by its curve",
    "printed": "printed on it",
    "tight": "nothing leaks",
    "alone": "alone, fully open",
    "to_set": "from cold to its setting, nothing drawn",
    "cold_first": "what stands in the pipe and what its wall takes",
    "by_watts": "by its watts and the volts there may be",
    "as_set": "as it is set",
    "at_once": "both open at once",
    "drained": "what can leave by it",
    "metered": "metered litres in the tank",
    "rests": "after half an hour, no warmer or colder than 1 K",
}
MISS_WORDS: Final[Mapping[str, tuple[str, ...]]] = {
    "fill": ("a joint drips", "an outlet stays open", "air is shut in"),
    "pump": ("a tap is open", "it draws air", "its switch is set otherwise"),
    "hold": ("a joint leaks", "a check valve leaks back", "the accumulator lost its air"),
    "flow": ("a filter or head is blocked", "a hose is kinked", "the battery is low"),
    "heat_electric": ("no power reaches it", "its cut-out has opened", "another element is fitted"),
    "mix": ("its legs are swapped", "its check valves leak", "the store is not hot"),
    "hold_pressure": ("a joint leaks", "a check valve leaks back", "it cooled by more than 1 K"),
    "waste": ("it lies without fall", "its trap is blocked"),
    "gauge": ("the tank stands on a slope", "the sender is bent", "its wires are swapped"),
    "drain_down": ("a drain is blocked", "no air follows: a tap is shut", "a run sags"),
}


def task_title(row: str, name: str) -> str:
    """Write what a task does.

    Parameters
    ----------
    row : str
        Which row of tasks. [-]
    name : str
        Of the part, run, hole, space or stage. [-]

    Returns
    -------
    str
        A few words. [-]
    """
    return TASK_WORDS[row].format(name=name)


def stage_title(kind: str, name: str) -> str:
    """Write what a stage tests.

    Parameters
    ----------
    kind : str
        Of stage. [-]
    name : str
        Of what it is about. [-]

    Returns
    -------
    str
        A few words. [-]
    """
    return STAGE_WORDS[kind].format(name=name)
