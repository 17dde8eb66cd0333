"""What panels, alternator and chargers send to the battery, and what their wires take of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.graph import beside
from isotherma.core.graph import ways as walked
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric
from isotherma.core.system.nominal import ComputedSystem, figure, known_figure
from isotherma.core.system.runs import Cable

CHARGES_SHARE: Final = 14.2 / 12.0  # of the nominal volts, with the engine running; judgement
_PASSES: Final = (electric.Circuit, electric.Switch, electric.Relay, electric.Remote,
           electric.PanelController, electric.Charger)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Charge:
    """What one source sends: at its own end, into the battery, lost between [A, V, W].

    `amps` are at most: panels in full sun, what an alternator spares, what a charger gives.
    `into_a` is None where no wire leads to a battery, `lost_w` where a cable on the way is not
    measured; `cables` are the amps in each.
    """

    id: str
    label: str
    amps: float
    volts: float
    into: str
    into_a: float | None
    lost_w: float | None
    cables: tuple[tuple[str, float], ...]


def charges_of(known: ComputedSystem, at: Mapping[str, str]) -> tuple[Charge, ...]:
    """List what charges the battery at its most.

    Parameters
    ----------
    known : ComputedSystem
        With what was understood of its parts. [-]
    at : mapping of str to str
        How switchable parts stand. [-]

    Returns
    -------
    tuple of Charge
        Panels, alternator and mains chargers in the document's order. [A, V, W]

    References
    ----------
    Ohm's law in every cable; a controller or charger gives its efficiency of what comes to it.
    """
    parts = {part.id: part for part in known.parts}
    cables = {run.id: run for run in known.runs if isinstance(run, Cable)}
    ends = {key: frozenset((run.start.part, run.end.part)) for key, run in cables.items()}
    near = beside((run.id, run.start.part, run.end.part) for run in cables.values())

    def onwards(here: str) -> Iterator[tuple[str, str]]:
        if here == start or (isinstance(parts[here], _PASSES) and at.get(here) != "off"):
            yield from near.get(here, ())

    found = []
    for part in known.parts:
        gives = _gives(part, known.nominal_v)
        if gives is None or at.get(part.id) in ("off", "unplugged"):
            continue
        start = part.id
        reached = walked([start], onwards)
        battery = next((key for key in reached if isinstance(parts[key], electric.Battery)), None)
        if battery is None:
            found.append(Charge(part.id, part.label, *gives, "", None, None, ()))
            continue
        found.append(_charge(part, gives, reached[battery], parts, cables, ends, battery))
    return tuple(found)


def _gives(part: AnyKind, nominal_v: float) -> tuple[float, float] | None:
    """Give the amps and volts a source sends at its most; None of what does not charge."""
    amps: float | None = None
    volts: float | None = None
    if isinstance(part, electric.Panel):
        amps, volts = known_figure(part, "best_a"), known_figure(part, "best_v")
        watts = known_figure(part, "rated_w")
        if amps is None and watts is not None and volts:
            amps = watts / volts
        amps = None if amps is None else amps * part.count
    elif isinstance(part, electric.Alternator):
        amps, volts = known_figure(part, "spare_a"), CHARGES_SHARE * nominal_v
    elif isinstance(part, electric.Charger) and part.source != "alternator":
        amps, volts = known_figure(part, "amps_a"), nominal_v
    return None if amps is None or volts is None else (amps, volts)


def _charge(
    part: AnyKind, gives: tuple[float, float], way: tuple[str, ...], parts: Mapping[str, AnyKind],
    cables: Mapping[str, Cable], ends: Mapping[str, frozenset[str]], battery: str,
) -> Charge:  # fmt: skip
    """Follow what a source sends, cable by cable, to the battery."""
    amps, volts = gives
    lost: float | None = 0.0
    carried = []
    here = part.id
    for run in way:
        carried.append((run, amps))
        loop = known_figure(cables[run], "loop_ohm")
        if loop is None:
            lost = None
        else:
            volts -= amps * loop
            lost = None if lost is None else lost + amps * amps * loop
        here = next(iter(ends[run] - {here}), here)
        through = parts[here]
        if isinstance(through, electric.PanelController | electric.Charger):
            out = figure(parts[battery], "volts_v")
            share = figure(through, "efficiency")
            most = known_figure(through, "amps_a")
            tracks = not isinstance(through, electric.PanelController) or through.tracks
            amps = amps * volts * share / out if tracks else amps
            amps = amps if most is None else min(amps, most)
            volts = out
    return Charge(part.id, part.label, *gives, parts[battery].label, amps, lost, tuple(carried))
