"""Fuses: what hangs on each, what is too much for it, and what stands once it has blown."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final

from isotherma.core.fields import known_or
from isotherma.core.flows.loads import running_w
from isotherma.core.supply.feeds import element_volts, feeds_of
from isotherma.core.supply.ohms import FUSE_BEARS
from isotherma.core.supply.wires import Wires, element_ohm
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat, waste
from isotherma.core.system.nominal import ComputedSystem, figure


def most_a(part: AnyKind, system: ComputedSystem, wires: Wires) -> float:
    """Give the most a part takes from its fuse while it runs.

    Parameters
    ----------
    part : a kind of part
        With what was understood of it. [-]
    system : ComputedSystem
        Its system. [-]
    wires : Wires
        What feeds it in a state. [-]

    Returns
    -------
    float
        An element by the volts that reach it alone, a pump at a shower's pressure, a liquid
        heater as it lights, a combi's or air heater's fan, a reuse loop's pump, other loads by
        their label; 0 for what takes nothing. [A]
    """
    volts = volts_of(part, system, wires)
    if isinstance(part, heat.Element):
        ohm = element_ohm(part, volts)
        fed = wires.settled({part.id: ohm}).get(part.id)
        return fed.amps if fed is not None else figure(part, "power_w") / volts
    if isinstance(part, heat.LiquidHeater):
        return max(figure(part, "glow_a"), burning_a(part, volts))
    if isinstance(part, electric.Load):
        known = part.rated_w is not None and part.hours_s > 0.0  # else it is told, not counted
        return figure(part, "rated_w") / volts if known else 0.0
    if isinstance(part, heat.HeatPad):
        return figure(part, "power_w") / volts
    if isinstance(part, heat.Combi | heat.AirHeater | waste.ReuseLoop):
        return figure(part, "running_w") / volts
    return running_w(part, volts) / volts


def volts_of(part: AnyKind, system: ComputedSystem, wires: Wires) -> float:
    """Give the volts at the source of a part.

    Parameters
    ----------
    part : a kind of part
        That takes electricity. [-]
    system : ComputedSystem
        Its system. [-]
    wires : Wires
        What feeds it in a state. [-]

    Returns
    -------
    float
        By its wires; an element's or load's own, else the system's, else 12. [V]
    """
    row = wires.row(part.id)
    if isinstance(part, heat.Element) and (part.supply_v is not None or row is None):
        return element_volts(system, part)
    if row is not None:
        return float(wires.source_v[row])
    own = part.volts_v if isinstance(part, electric.Load) else None
    return known_or(own, system.nominal_v)


def burning_a(part: heat.LiquidHeater, volts_v: float) -> float:
    """Give what a liquid heater takes once it burns.

    Parameters
    ----------
    part : LiquidHeater
        With what was understood of it. [-]
    volts_v : float
        At its source, > 0. [V]

    Returns
    -------
    float
        Fan, fuel pump and its own water pump. [A]
    """
    return figure(part, "running_w") / volts_v


# what takes current whatever the water does; when in the day nobody says, so always
STANDING: Final = (electric.Load, heat.HeatPad)
FANNED: Final = (heat.Combi, heat.Element)  # rows of the kernel's own sources


class Fuses:
    """What hangs on which fuse.

    Only fuses that could blow are kept: with an element on them, or with more in all than they
    bear. `ids` are theirs; `loads` what hangs on each fuse of the system by what it takes [A];
    `unable` what takes more than its fuse bears alone, is cut off by an open switch or gets too
    few volts to light, and so never runs; `faint` are the last, by the volts that reach them [V].

    Parameters
    ----------
    known : ComputedSystem
        With what was understood of its parts. [-]
    wires : Wires
        What feeds them in this state. [-]
    whole : Wires
        What feeds them with every switch shut: fuses are the same in all states. [-]
    at : mapping of str to str
        How switchable parts stand in this state. [-]
    cold : callable
        Whether a heat pad is ever called for. [-]
    """

    def __init__(
        self, known: ComputedSystem, wires: Wires, whole: Wires, at: Mapping[str, str],
        cold: Callable[[heat.HeatPad], bool],
    ) -> None:  # fmt: skip
        self.system, self.wires, self.whole = known, wires, whole
        self.bears = {
            part.id: float(amps)
            for part in known.parts
            if (amps := getattr(part, "fuse_a", None)) is not None
        }  # fmt: skip
        self.loads: dict[str, dict[str, float]] = {key: {} for key in self.bears}
        parts = {part.id: part for part in known.parts}
        self.takes: dict[str, float] = {}
        for part in known.parts:
            if isinstance(part, heat.HeatPad) and not cold(part):
                continue
            if not self.bears and whole.row(part.id) is None:
                continue
            amps = most_a(part, known, whole)
            if amps > 0.0:
                self.takes[part.id] = amps
                for key in feeds_of(known, part.id).circuits:
                    if key in self.loads:
                        self.loads[key][part.id] = amps
        self.standing_a = {
            key: amps for key, amps in self.takes.items()
            if isinstance(parts[key], STANDING) and at.get(key) != "off"
            and key not in wires.dead
        }  # fmt: skip
        self.faint = self._faint(parts)
        self.unable = (
            frozenset(
                load
                for key, loads in self.loads.items()
                for load, amps in loads.items()
                if amps > self.bears[key] * FUSE_BEARS and not isinstance(parts[load], FANNED)
            )
            | frozenset(key for key in wires.dead if not isinstance(parts[key], heat.Element))
            | frozenset(self.faint)
        )
        self.ids = tuple(
            key
            for key, loads in self.loads.items()
            if sum(loads.values()) > self.bears[key] * FUSE_BEARS
            or any(isinstance(parts[load], FANNED) for load in loads)
        )
        self.alone = [bool(getattr(parts[key], "not_together", False)) for key in self.ids]
        self.others = [
            (row, parts[load])
            for row, key in enumerate(self.ids)
            for load in self.loads[key]
            if load not in self.unable and not isinstance(parts[load], (*FANNED, *STANDING))
        ]

    def _faint(self, parts: Mapping[str, AnyKind]) -> dict[str, float]:
        """Find heaters whose volts fall too low while they glow."""
        found: dict[str, float] = {}
        for part in parts.values():
            if not isinstance(part, heat.LiquidHeater) or self.wires.row(part.id) is None:
                continue
            amps = {**self.standing_a, part.id: figure(part, "glow_a")}
            fed = self.wires.settled({}, amps)[part.id]
            if part.trip_v is not None and fed.volts < part.trip_v:
                found[part.id] = fed.volts
        return found
