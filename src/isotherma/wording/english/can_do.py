"""What a heater or store can do, in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.options.can_do import CanDo
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.ledger import TITLES

ENDS: Final[Mapping[WhyNot, str]] = {
    WhyNot.NO_FLOW: "no water comes",
    WhyNot.PUMP_OFF: "the pump is off",
    WhyNot.NO_POWER: "the battery is empty",
    WhyNot.BLOWN: "a fuse blows",
    WhyNot.NO_GAS: "the gas is empty or too cold",
    WhyNot.NO_FUEL: "the fuel ends",
    WhyNot.DRY: "the fresh water ends",
    WhyNot.NEVER_WARM: "it never gets warm",
    WhyNot.STAYS_COOL: "it stays cool",
    WhyNot.TOO_HOT: "it is too hot",
    WhyNot.RUNS_COOL: "it runs cool",
    WhyNot.LONG_WAIT: "it is warm too late",
}


def _people(count: int) -> str:
    return "One person" if count == 1 else f"{count} people"


def row_words(found: CanDo) -> str:
    """Say how many wash one after the other, and why no more do.

    Parameters
    ----------
    found : CanDo
        What it can do. [SI]

    Returns
    -------
    str
        A sentence or two, with nothing of a unit but time. [-]
    """
    each = duration_words(found.each_s)
    if found.stopped is None:
        said = f"{_people(found.people)} and more wash one after the other, {each} each."
    elif not found.people:
        said = f"Nobody washes {each} as your brief asks: {ENDS[found.stopped]}."
    else:
        verb = "washes" if found.people == 1 else "wash one after the other,"
        said = f"{_people(found.people)} {verb} {each}{'' if found.people == 1 else ' each'}; "
        said += f"then {ENDS[found.stopped]}."
    if found.again_s is None:
        return f"{said} After one it is not hot again that day."
    if found.again_s < 1.0:
        return f"{said} The next need not wait for it."
    return f"{said} After one it is hot again in {duration_words(found.again_s)}."


def suits_words(found: CanDo, units: UnitSystem) -> str:
    """Say which brief a way of heating would suit.

    Parameters
    ----------
    found : CanDo
        What it can do. [SI]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A sentence. [-]
    """
    if found.suits is None:
        return "It suits no wash of a minute in your window as it stands."
    count, each_s, flow = found.suits
    said = (
        f"It would suit {_people(count).lower()}, {duration_words(each_s)}"
        f"{'' if count == 1 else ' each'} at {with_unit(flow, 'flow', units)}"
    )
    if found.days is None or found.ends_with is None:
        return f"{said}; nothing that is carried ends."
    title = TITLES[found.ends_with].lower()
    if found.days < 1:
        return f"{said}, but {title} does not last one such day."
    days = "a day" if found.days == 1 else f"{found.days} days"
    return f"{said}, for {days}; then {title} ends."
