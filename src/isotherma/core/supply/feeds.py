"""Who feeds whom: from an element along its cables to battery, panel, hook-up or inverter."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from isotherma.core.fields import known_or
from isotherma.core.graph import both_ways, reach
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.nominal import known_figure
from isotherma.core.system.pieces import MAINS_V

LOW_VOLTS: Final = 60.0
# what must stand on, plugged or closed for anything on a wire to run
SWITCHED: Final = (electric.HookUp, electric.Circuit, electric.Switch, electric.Inverter)
_FEEDS: Final = {"battery", "panel", "hook_up", "inverter", "alternator"}


@dataclass(frozen=True, slots=True)
class Feeds:
    """What feeds a part: ids of sources, of controllers and circuits passed on the way."""

    sources: tuple[str, ...]
    controllers: tuple[str, ...]
    circuits: tuple[str, ...]


def feeds_of(system: System, part_id: str) -> Feeds:
    """Walk the cables from a part to what feeds it.

    Parameters
    ----------
    system : System
        The network. [-]
    part_id : str
        A part that takes electricity. [-]

    Returns
    -------
    Feeds
        Sources are where the walk ends; in the document's order. [-]
    """
    kinds = {part.id: part.kind for part in system.parts}
    near = both_ways((run.start.part, run.end.part) for run in system.runs if run.kind == "cable")

    def beside(at: str) -> Iterator[str]:
        if kinds[at] in _FEEDS and at != part_id:
            return
        for other in near.get(at, ()):
            if kinds.get(other) is None:
                continue
            takes = kinds[other] not in _FEEDS | {
                "circuit", "switch", "either_or", "relay", "remote", "panel_controller", "charger",
            }  # fmt: skip
            if takes and other != part_id:
                continue  # another load on the same fuse feeds nobody
            yield other

    seen = reach([part_id], beside)
    found = [part.id for part in system.parts if part.id in seen]
    return Feeds(
        sources=tuple(key for key in found if kinds[key] in _FEEDS),
        controllers=tuple(key for key in found if kinds[key] == "panel_controller"),
        circuits=tuple(key for key in found if kinds[key] == "circuit"),
    )


def on_battery(system: System, part: AnyKind) -> bool:
    """Say whether an element runs on the battery's volts.

    Parameters
    ----------
    system : System
        Its system. [-]
    part : a kind of part
        An element. [-]

    Returns
    -------
    bool
        By where its cables lead; by its volts where they lead to both, or nowhere. [-]
    """
    kinds = {item.id: item.kind for item in system.parts}
    reached = {kinds[key] for key in feeds_of(system, part.id).sources}
    low, mains = reached & {"battery", "panel"}, reached & {"hook_up", "inverter"}
    if low and not mains:
        return True
    volts = known_or(known_figure(part, "supply_v"), known_figure(part, "rated_v"))
    return volts is not None and not (mains and not low) and float(volts) <= LOW_VOLTS


def element_volts(system: System, part: heat.Element) -> float:
    """Give the volts an element is fed with.

    Parameters
    ----------
    system : System
        Its system. [-]
    part : Element
        The element. [-]

    Returns
    -------
    float
        Its own; else those of the battery, or of the mains. [V]
    """
    if part.supply_v is not None:
        return part.supply_v
    if part.rated_v is not None:
        return part.rated_v
    return system.nominal_v if on_battery(system, part) else MAINS_V


def direct_panel(system: System, part: heat.Element) -> electric.Panel | None:
    """Find the panel an element is wired straight to, past neither controller nor battery.

    Parameters
    ----------
    system : System
        Its system. [-]
    part : Element
        The element. [-]

    Returns
    -------
    Panel or None
        The first of them. [-]
    """
    feeds = feeds_of(system, part.id)
    if feeds.controllers:
        return None
    kinds = {item.id: item for item in system.parts}
    reached = [kinds[key] for key in feeds.sources]
    if any(not isinstance(item, electric.Panel) for item in reached):
        return None
    return next((item for item in reached if isinstance(item, electric.Panel)), None)
