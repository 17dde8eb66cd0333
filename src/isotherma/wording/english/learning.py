"""What was learned from readings in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.learning.estimate import Learned

LEARNED_WHY: Final[Mapping[str, str]] = {
    "offered": "the readings settle it",
    "not_identified": "the readings say too little of it beside what was known",
    "confused": "it moves together with {others}",
    "too_few": "it wants three readings in two sessions, or a curve of six points",
    "doubtful": "rows that do not fit would decide it; look at them first",
    "bound": "it would lie at the edge of what it can be",
    "no_better": "its rows are foretold no better with it",
    "worse_ahead": "sessions it was not learned from are foretold worse with it",
    "beyond": "nothing was read there",
}
SESSION_WORDS: Final[Mapping[str, str]] = {
    "draw": "a shower or another draw", "heat_up": "heating up", "cool_down": "cooling down",
    "day": "a whole day", "fill": "filling a tank", "gauge": "a gauge against litres",
    "flow": "flow and pressure", "electric": "volts and amps", "stage": "a test in stages",
    "fault": "looking for a fault",
}  # fmt: skip
# what would part two figures that move together
_PARTS: Final[Mapping[frozenset[str], str]] = {
    frozenset(("volume_m3", "power_w")): "amps at the element part them",
    frozenset(("volume_m3", "resistance_ohm")): "volts and amps at the element part them",
    frozenset(("volume_m3", "loss_w_per_k")): "a timed heat-up with its amps parts them",
    frozenset(("power_w", "loss_w_per_k")): "a cool-down with nothing on parts them",
    frozenset(("open_flow_m3_per_s", "shut_pressure_pa")): "flow at a second pressure parts them",
}


def learned_why(one: Learned) -> str:
    """Say why a figure is offered, or is not."""
    others = " and ".join(path.split(".", 1)[1] for path in one.confused_with)
    words = LEARNED_WHY[one.why].format(others=others)
    own = one.parameter.path.rsplit(".", 1)[1]
    for path in one.confused_with:
        parted = _PARTS.get(frozenset((own, path.rsplit(".", 1)[1])))
        if parted is not None:
            words += f"; {parted}"
    if one.offered and one.far:
        words += "; far from what was thought, so look twice"
    return words
