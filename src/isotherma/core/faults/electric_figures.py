"""Volts and amps that would be read on a design, sound or with a fault played."""

from __future__ import annotations

from collections.abc import Mapping
from math import isfinite
from typing import Final

from isotherma.core.faults.altered import Altered
from isotherma.core.faults.player import Asked, Player
from isotherma.core.faults.plays import Play
from isotherma.core.faults.readings import Expected
from isotherma.core.flows.loads import PUSHES_PA, pump_current_a
from isotherma.core.supply.feeds import on_battery
from isotherma.core.supply.wires import element_ohm
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat, water
from isotherma.core.system.nominal import known_figure
from isotherma.core.system.pieces import MAINS_V

# batteries at rest and under load, of 12 V; charging is more
SUPPLY: Final[Mapping[str, tuple[float, float, float]]] = {
    "lithium": (12.8, 13.1, 13.4), "lead": (12.0, 12.4, 12.8), "": (12.0, 12.6, 13.4),
}  # fmt: skip
MAINS_SHARE: Final = (0.94, 1.0, 1.1)  # EN 60038
WARM_OHM: Final = 1.02  # a hot element's resistance against a cold one's
CELL_V: Final = (1.3, 1.45, 1.6)


def _supply(made: Altered) -> tuple[float, float, float] | None:
    """Give low, likely and high volts of the battery, over its nominal volts."""
    known = made.known
    batteries = [one for one in known.parts
                 if isinstance(one, electric.Battery) and one.serves == "living space"]  # fmt: skip
    battery = next(iter(batteries), None)
    if battery is None:
        return None
    nominal = known.nominal_v
    chemistry = battery.chemistry or ""
    low, likely, high = SUPPLY.get(chemistry, SUPPLY["lead" if chemistry else ""])
    volts = None if battery.volts_v is None else battery.volts_v / nominal
    if volts is not None and not low <= 12.0 * volts <= high:
        return volts, volts, volts  # as a fault has it
    return low / 12.0, likely / 12.0, high / 12.0


def electric_figure(player: Player, play: Play, made: Altered, asked: Asked) -> Expected | None:
    """Volts at a part under load, or its amps.

    Parameters
    ----------
    player : Player
        Of the design. [-]
    play : tuple of Edit
        What is played. [-]
    made : Altered
        The design with it. [-]
    asked : Asked
        Volts or amps, and of what. [-]

    Returns
    -------
    Expected or None
        None where nothing computes it. [V, A]

    References
    ----------
    Ohm's law; see `wires.Wires.settled`.
    """
    part = player.part(made, asked.part)
    if part is None:
        return None
    volts = asked.kind == "volts"
    stood = made.stood
    if isinstance(part, electric.IgnitionCells):
        return Expected(*(part.cells * one for one in CELL_V)) if volts else None
    if isinstance(part, electric.HookUp):
        return _hook_up(made, stood, volts)
    shares = _supply(made)
    if isinstance(part, electric.Battery):
        if shares is None or not volts:
            return None
        return Expected(*(share * made.known.nominal_v for share in shares))
    takes = _load(made, part)
    if takes is None:
        return None
    if isinstance(part, heat.Element) and not on_battery(made.known, part):
        shares = MAINS_SHARE
    wires = made.wires
    if part.id in wires.dead:
        return Expected(0.0, 0.0, 0.0)
    if not volts and stood.get(part.id) == "off":
        return Expected(0.0, 0.0, 0.0)
    if shares is None:
        return None
    found = [_under(made, stood, part, share, takes, mains=shares is MAINS_SHARE)
             for share in shares]  # fmt: skip
    read = [one[0] if volts else one[1] for one in found]
    return Expected(min(read), read[1], max(read))


def _under(
    made: Altered, stood: Mapping[str, str], part: AnyKind, share: float,
    takes: tuple[float | None, float | None], *, mains: bool,
) -> tuple[float, float]:  # fmt: skip
    """Give volts at a load and its amps where the source gives a share of its nominal volts."""
    ohms, amps = takes
    wires = made.wires
    row = wires.row(part.id)
    if row is None:
        at_part = share * (_label(part) if mains else made.known.nominal_v)
        if ohms is not None:
            return at_part, at_part / ohms
        assert amps is not None  # a load has one or the other
        return at_part, amps
    source = float(wires.source_v[row])
    gives = share * (MAINS_V if mains else made.known.nominal_v)
    fed = wires.settled({part.id: ohms} if ohms is not None else {},
                        {part.id: amps} if amps is not None else {})[part.id]  # fmt: skip
    if ohms is not None:  # all follow the volts of the source
        return fed.volts * gives / source, fed.amps * gives / source
    return max(0.0, gives - (fed.source_v - fed.volts)), fed.amps


def _label(part: AnyKind) -> float:
    volts = getattr(part, "rated_v", None)
    return MAINS_V if volts is None else float(volts)


def _load(made: Altered, part: AnyKind) -> tuple[float | None, float | None] | None:
    """Give a load's ohms, or its amps whatever the volts; None of what takes none."""
    if isinstance(part, heat.Element):
        volts = _label(part) if not on_battery(made.known, part) else made.known.nominal_v
        ohms = WARM_OHM * element_ohm(part, volts)
        if part.power_w == 0.0 or not isfinite(ohms):
            return None
        return ohms, None
    if isinstance(part, water.Pump | water.Submersible):
        current = pump_current_a(part, PUSHES_PA)
        return None if current is None else (None, current)
    if isinstance(part, heat.LiquidHeater) and part.glow_a is not None:
        return None, part.glow_a
    watts = known_figure(part, "running_w")
    return None if not watts else (None, watts / made.known.nominal_v)


def _hook_up(made: Altered, stood: Mapping[str, str], volts: bool) -> Expected | None:
    """Volts at the pitch, or the amps of all mains elements that are on."""
    if volts:
        return Expected(*(MAINS_V * share for share in MAINS_SHARE))
    known = [
        known_figure(part, "power_w") for part in made.known.parts
        if isinstance(part, heat.Element) and not on_battery(made.known, part)
        and stood.get(part.id) != "off"
    ]  # fmt: skip
    if None in known:
        return None  # somebody's watts are not known
    watts = sum(one for one in known if one is not None)
    return Expected(*(watts / MAINS_V * share for share in MAINS_SHARE))


def element_w(made: Altered, part: heat.Element, stood: Mapping[str, str]) -> float:
    """Give the watts of an element at the volts its wires leave it.

    Parameters
    ----------
    made : Altered
        The design. [-]
    part : Element
        One of its elements. [-]
    stood : mapping of str to str
        How circuits and switches stand. [-]

    Returns
    -------
    float
        0 where nothing feeds it or its watts are unknown. [W]

    References
    ----------
    P = V²/R.
    """
    wires = made.wires
    watts = known_figure(part, "power_w")
    if watts is None or part.id in wires.dead:
        return 0.0
    row = wires.row(part.id)
    if row is None:
        return watts
    source = float(wires.source_v[row])
    fed = wires.settled({part.id: element_ohm(part, source)}).get(part.id)
    # what wires take is another share of a fault's watts than of the document's
    return watts if fed is None else watts * (fed.volts / fed.source_v) ** 2
