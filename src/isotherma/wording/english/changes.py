"""What a change that may be tried is called, on its button and in the history."""

from __future__ import annotations

from collections.abc import Sequence

from isotherma.core.options.changes import Change, What
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.wording.reader import Reader


def _value(value: float | str | None, style: str, units: UnitSystem) -> str:
    if value is None:
        return "not said"
    if isinstance(value, str):
        return value
    return f"{value:g}" if style in ("", "number") else with_unit(value, style, units, 3)


def change_words(change: Change, reader: Reader) -> str:
    """Say what would be changed, from what to what."""
    part = reader.name(change.part_id)
    before = _value(change.before, change.style, reader.units)
    after = _value(change.after, change.style, reader.units)
    match change.what:
        case What.GAS_KNOB:
            return f"{part}: gas knob from {before} to {after}"
        case What.SEASON:
            return f"{part}: seasonal switch to {after}"
        case What.SET_POINT:
            return f"{part}: set from {before} to {after}"
        case What.FLOW:
            return f"Throttle from {before} to {after}"
        case What.MINUTES:
            long = change.before if isinstance(change.before, float) else 0.0
            short = change.after if isinstance(change.after, float) else 0.0
            return f"{duration_words(long - short)} less: {duration_words(short)} at most"
        case What.TURNS:
            return "Whoever is next waits until the water is hot again"
        case What.STOPS:
            return "Let it run while soaping"
        case What.DAYS:
            day = "day" if change.after == 1.0 else "days"
            return f"Fill and empty every {after} {day} instead of {before}"
        case What.PLANNED:
            return f"Plan the stops the trip needs: {after} in all instead of {before}"
        case What.WAIT:
            return f"Allow a wait of {after} instead of {before}"
        case What.FOAM:
            return f"{part}: insulation from {before} to {after}"
        case What.FUSE:
            return f"{part}: fuse of {after} instead of {before}, and the next thicker cable"
        case What.FILL:
            return f"{after[:1].upper()}{after[1:]}"
        case What.PANEL:
            return f"{part}: {after} panels instead of {before}"
        case What.BOTTLE:
            return f"{part}: {after} of gas instead of {before}"
        case What.JUG:
            return f"Catch the cold water first in a jug, {after} a day, for what it is good for"
        case What.DIVERTER:
            return f"A return diverter before {part}: cold water goes back to the tank"
        case What.PIPE:
            return f"Thinner pipe from the heat to {part}: {after} instead of {before}"
        case What.HEAD:
            return f"{part}: a head that lets through {after} of what it does"
        case What.RUN:
            return f"{part}: {after} long instead of {before}"
        case What.LAGGED:
            return f"{after} of foam on the hot pipe to {part}"
        case What.ELEMENT | What.STORE | What.TANK | What.GREY:
            return f"{part}: {after} instead of {before}"


def changes_words(changes: Sequence[Change], reader: Reader) -> str:
    """Say several changes made together."""
    first, *others = [change_words(change, reader) for change in changes]
    return "; ".join([first, *(f"{words[:1].lower()}{words[1:]}" for words in others)])
