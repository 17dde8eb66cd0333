"""Threads, ends and cuts in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

MEASURE_WORDS: Final[Mapping[str, str]] = {
    "hand": "turn it in: does it go in to the left, against the clock?",
    "taper": "hold a straight edge along it: does it taper?",
    "pitch": "count the threads over an inch, or hold a pitch gauge to it",
    "outside": "measure its outside again, with a caliper",
    "flank": "hold a flank gauge to it: 55 or 60 degrees?",
}
SEAL_WORDS: Final[Mapping[str, str]] = {
    "tape": "tape or paste on the taper", "washer": "a washer or O-ring", "clamp": "a clamp",
    "insert": "an insert in the tube, and its ring", "solder": "solder", "solvent": "solvent",
    "own": "its own seal",
}  # fmt: skip
REFUSED_JOINT_WORDS: Final[Mapping[str, str]] = {
    "unclear_end": "“{end}” is no end known here; write it as “male 1/2 in parallel”",
    "unknown_size": "no such size is known: {end}",
    "gas_only": "a gas end joins gas alone, by gas fittings",
    "not_drinking": "no chain that is fit for drinking water",
    "too_hot": "no chain that bears {at}",
    "too_much_pressure": "no chain that bears {pressure}",
    "no_chain": "no chain known",
    "leg_too_short": "leg {leg} is shorter than its bends take",
    "too_long": "a piece of {piece} is longer than the bar of {bar}",
}
LINE_WHY: Final[Mapping[str, str]] = {
    "coil": "off a coil: 10 mm more each piece, then 5 %",
    "not_everywhere": "not sold everywhere",
    "two_more": "two more than are in use",
    "labels": "cut ends, valves and circuits",
    "consumable": "used up while it is built",
    "one_short": "so that nothing waits for one that is short",
    "single_point": "without it no water comes",
    "bars": "off bars, the fewest that do",
}
