"""The list, the pieces and the holes in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.joints.listing import Notice
from isotherma.core.quantity import UnitSystem, with_unit

ITEM_WORDS: Final[Mapping[str, str]] = {
    "tube": "Tube", "hose": "Hose", "adapter": "Adapter", "elbow": "Elbow", "joiner": "Joiner",
    "insert": "Insert", "locking_clip": "Locking clip", "clip": "Pipe clip", "clamp": "Hose clamp",
    "washer": "Washer", "tape": "Thread tape or paste", "sleeve": "Sleeve", "grommet": "Grommet",
    "edge_primer": "Primer for bare edges", "sealant": "Sealant", "gland": "Cable gland",
    "fuse": "Fuse", "cable": "Cable", "lug": "Cable lug", "label": "Label",
}  # fmt: skip
SHOP_WORDS: Final[Mapping[str, str]] = {
    "plumbing": "Plumbing",
    "vehicle": "Vehicle and camping",
    "gas": "Gas",
    "electrical": "Electrical",
    "fixings": "Fixings and sealing",
}
REMARK_WORDS: Final[Mapping[str, str]] = {
    "tails_differ": "{run}: {one:g} tails and adapters are counted, its ends take {two:g}.",
    "tube_before_regulator": "{run}: rigid tube before a regulator; hose as sold for the bottle is "
    "the usual way.",
    "relief_over_rating": "{run}: the relief opens at {one}, the tube before it bears {two}.",
    "legs_differ": "{run}: its legs come to {one} more than its length.",
    "legs_short": "{run}: its legs come to {one} less than its length.",
    "unlike_runs": "{run}: the runs that end here are of unlike tube; state its ends, or put "
    "adapters between.",
    "too_tight": "{run}: bent tighter than its tube may be.",
    "leg_too_short": "{run}: leg {one:g} is shorter than its bends take.",
}
UNKNOWN_WORDS: Final[Mapping[str, str]] = {
    "how measured": "how it was measured", "length_m": "its length", "legs": "its legs, bend by "
    "bend", "joint": "how it is joined", "radius": "how tight its tube bends",
    "where its joiners are": "where its joiners are", "leg_too_short": "a leg is too short",
    "too_tight": "bent too tight", "bore_m": "how wide", "made_of": "what it is drilled in",
    "drill_from": "from which side", "behind": "what is behind", "sleeve": "the sleeve’s outside",
    "price": "price", "dry_mass_kg": "mass", "fuse_a": "amps",
}  # fmt: skip
STEP_WORDS: Final[Mapping[str, str]] = {
    "empty": "Empty the tank", "measure inside": "Measure inside, mark",
    "pilot": "Pilot, from where the danger is seen", "look": "Look through it",
    "drill": "Drill from the outer skin, taped", "edge": "Treat the edge",
    "sleeve": "Put in the sleeve or grommet", "pipe": "Lead the pipe through", "seal": "Seal",
    "chips out": "Take every chip out", "washer inside": "Washer on the inside",
}  # fmt: skip
EDGE_WORDS: Final[Mapping[str, str]] = {
    "deburr, primer, cure": "deburr, prime the bare metal, let it cure",
    "end grain": "seal the end grain", "deburr": "deburr",
    "deburr, seal edge": "deburr, seal the cut fibres; mask and gloves",
    "chips out": "deburr, take every chip out",
}  # fmt: skip
WAY_WORDS: Final[Mapping[str, str]] = {
    "between centres": "from centre to centre of the fittings",
    "between faces": "from mouth to mouth of the fittings, adapters on",
    "the tube itself": "the tube itself, from end to end",
}


def remark_sentence(remark: Notice, label: str, units: UnitSystem) -> str:
    """Write a remark of a list.

    Parameters
    ----------
    remark : Notice
        Its code with figures. [SI]
    label : str
        Name of the run or part it is about. [-]
    units : UnitSystem
        Units to write in. [-]

    Returns
    -------
    str
        A sentence. [-]
    """
    figures: list[object] = list(remark.figures)
    code: str = remark.code
    if code == "relief_over_rating":
        figures = [with_unit(one, "pressure", units) for one in remark.figures]
    elif code == "legs_differ":
        code = "legs_differ" if remark.figures[0] > 0.0 else "legs_short"
        figures = [with_unit(abs(remark.figures[0]), "bore", units)]
    one, two = (*figures, "", "")[:2]
    return REMARK_WORDS[code].format(run=label, one=one, two=two)


def unknown_words(name: str) -> str:
    """Write what is not known of a piece, hole or line.

    Parameters
    ----------
    name : str
        Its name, or a path. [-]

    Returns
    -------
    str
        A few words. [-]
    """
    last = name.rpartition(".")[2]
    return UNKNOWN_WORDS.get(name) or UNKNOWN_WORDS.get(last) or name.replace("_", " ")
