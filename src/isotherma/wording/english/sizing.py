"""Sizing in words: by what sizes are struck, how the next smaller fails."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Final

from isotherma.core.options.extremes import Extreme, Foot
from isotherma.core.options.limits import Limited
from isotherma.core.options.measures import Measure, Of
from isotherma.core.options.sizing import Struck
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.ledger import TITLES
from isotherma.wording.english.compared import LIMITED_WORDS
from isotherma.wording.english.sweeps import measure_words
from isotherma.wording.reader import in_units

_DRAW: Final[Mapping[WhyNot, str]] = {
    WhyNot.NEVER_WARM: "“{name}” never gets warm: {figure} at most",
    WhyNot.STAYS_COOL: "“{name}” stays cool: {figure} at most",
    WhyNot.TOO_HOT: "“{name}” is too hot: up to {figure}",
    WhyNot.RUNS_COOL: "“{name}” is warm for {figure} of {limit}",
    WhyNot.LONG_WAIT: "“{name}” is warm only after {figure}; {limit} is the limit",
    WhyNot.DRY: "“{name}” stops when the fresh water runs out",
    WhyNot.NO_FLOW: "“{name}” gets no water",
    WhyNot.PUMP_OFF: "“{name}” gets no water: the pump is off",
    WhyNot.BLOWN: "“{name}” loses its water: a fuse blows",
    WhyNot.NO_POWER: "“{name}” gets no water: the battery is empty",
    WhyNot.NO_GAS: "“{name}” loses its flame: the gas is empty or too cold",
    WhyNot.NO_FUEL: "“{name}” loses its flame: the fuel has come to its end",
}


def _shown(value: float | None, style: str, units: UnitSystem) -> str:
    if value is None:
        return "nothing"
    if style in ("minutes", "seconds"):
        return duration_words(value)
    return with_unit(value, style, units)


def struck_words(item: Struck, units: UnitSystem) -> str:
    """Say by what sizes are struck, with the number.

    Parameters
    ----------
    item : Struck
        A draw that is not as asked, or a budget that gives out. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause without a full stop. [-]
    """
    figure, limit = (_shown(value, item.style, units) for value in (item.figure, item.limit))
    if item.code == "gives_out":
        title = next(words for name, words in TITLES.items() if name == item.what)
        return f"{title} gives out: {figure} of {limit}"
    if item.code == "over_limit":
        one = Limited(item.what)
        least = one is Limited.HEADROOM
        side, beyond = ("at least", "too little") if least else ("at most", "too much")
        return f"{LIMITED_WORDS[one]}: {figure} is {beyond}, {side} {limit}"
    if item.code in ("above", "below"):
        what, _, about = item.what.partition(".")
        named = measure_words(Measure(Of(what), about, item.name, item.style))
        beyond = "more" if item.code == "above" else "less"
        return f"{named}: {figure}, {beyond} than {limit}"
    return _DRAW[WhyNot(item.code)].format(name=item.name, figure=figure, limit=limit)


FOOT_WORDS: Final[Mapping[Foot, str]] = {
    Foot.YES: "yes, by the stroke",
    Foot.NO_PUMP: "needs no pump",
    Foot.LIGHTS: "no: it would light anew at every stroke",
}


def extreme_words(item: Extreme, units: UnitSystem) -> str:
    """Say how a way of heating does at an edge.

    Parameters
    ----------
    item : Extreme
        That was tried. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause without a full stop. [-]
    """
    if item.error:
        return "cannot be run so"
    if item.struck:
        return f"no: {all_struck_words(item.struck[:1], units)}"
    if item.freezes_s is not None:
        at = in_units("0 °C", units)
        return f"does it, but {item.freezes} is at {at} after {duration_words(item.freezes_s)}"
    return "yes"


def all_struck_words(items: Sequence[Struck], units: UnitSystem) -> str:
    """Say the first two of what strikes, and how many more there are."""
    said = [struck_words(item, units) for item in items[:2]]
    if len(items) > 2:
        said.append(f"{len(items) - 2} more")
    return "; ".join(said)
