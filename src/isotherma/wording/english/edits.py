"""What an edit is called in the history and on the undo button."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

# by the name of the edit; braces take what it is done to
EDIT_LABELS: Final[Mapping[str, str]] = {
    "brief.keep": "Examples kept",
    "owned.add": "{} is there already",
    "owned.remove": "Not there already",
    "changes.make": "{}",
    "draw.add": "{} added",
    "draw.repeat": "Draw repeated",
    "draw.remove": "Draw removed",
    "use.add": "{} added",
    "use.remove": "Use of water removed",
    "trip.lay": "Trip: {}",
    "day.add": "Kind of day added",
    "day.remove": "Kind of day removed",
    "stop.add": "{} added",
    "stop.remove": "Stop removed",
    "stop.plan": "{}",
    "variant.copy": "Variant copied",
    "variant.remove": "Variant removed",
    "variant.first": "Variant kept",
    "check.rules": "Rules: {}",
    "check.acknowledge": "{} acknowledged",
    "measured.take": "{} as measured",
    "measured.forget": "{} no longer as measured",
    "check.take_back": "{} no longer acknowledged",
    "wish.add": "Wish added: {}",
    "wish.remove": "Wish removed",
    "wish.judge": "{}",
    "system.usual": "Usual route laid",
    "system.family": "Begun with {}",
    "family.strike": "{} struck",
    "family.back": "{} brought back",
    "system.layout": "Begun with {}",
    "system.copy": "Begun as in another variant",
    "system.empty": "Begun with an empty route",
    "part.add": "{} added",
    "part.fit": "{} fitted",
    "part.insert": "{} put in",
    "diverter.place": "Return diverter put in",
    "part.replace": "{} put in its place",
    "part.move": "{} moved",
    "part.put": "{}",
    "part.remove": "Part removed",
    "port.cap": "{} capped",
    "run.join": "Run added",
    "run.remove": "Run removed",
    "piece.add": "{} added",
    "piece.remove": "{} removed",
    "state.say": "State added: {}",
    "state.day": "State of the day",
    "phase.day": "Built as far as",
    "state.position": "{}",
    "state.place": "Put elsewhere in a state",
    "state.put_back": "Put back in a state",
    "end.set": "End of {}",
    "run.measure": "Measured: {}",
    "price.set": "Price of {}",
    "line.ordered": "Ordered: {}",
    "line.bought": "There: {}",
    "line.open": "Not there: {}",
    "part.bought": "Bought or not: {}",
    "currency.set": "Money: {}",
    "tradition.set": "Fittings of: {}",
    "hole.plan": "Hole planned for {}",
    "hole.set": "Hole {}",
}


def edit_label(name: str, subject: str) -> str:
    """Name an edit for the history."""
    return EDIT_LABELS[name].format(subject)
