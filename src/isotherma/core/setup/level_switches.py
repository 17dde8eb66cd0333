"""What level switches do: where they let an element run, and when they fill an open box."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from isotherma.core.climate import within_hours
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds.gauges import LevelSwitch
from isotherma.core.system.kinds.heat import Burner, Element, Store
from isotherma.core.system.kinds.water import Pump, Solenoid, Submersible

_FILLS = (Solenoid, Pump, Submersible)


class Stuck(StrEnum):
    """What becomes of a level switch that stays as it fails."""

    OVERFLOWS = "overflows"
    NEVER_FILLS = "never_fills"
    HEATS_DRY = "heats_dry"
    NEVER_HEATS = "never_heats"


@dataclass(frozen=True, slots=True)
class BatchFill:
    """How an open box is filled by its switches: from a level on, up to a level, within hours.

    `from_share` and `to_share` of its height; `valve` what they open, "" none; equal hours: all
    day [s].
    """

    store: str
    valve: str
    from_share: float
    to_share: float
    from_s: float
    until_s: float

    def opens(self, level_share: float, clock_s: float) -> bool:
        """Say whether it fills at a level and a time of day."""
        all_day = self.from_s == self.until_s
        inside = all_day or within_hours(clock_s, self.from_s, self.until_s)
        return inside and level_share <= self.from_share


Parts = Mapping[str, AnyKind]


def _switches(parts: Parts, host: str) -> list[LevelSwitch]:
    return [part for part in parts.values()
            if isinstance(part, LevelSwitch) and part.fitted_in == host]  # fmt: skip


def low_cuts(parts: Parts, host: str) -> dict[str, float]:
    """Say below which level of a box its sources of heat are cut by level switches.

    Parameters
    ----------
    parts : mapping of str to part
        By id. [-]
    host : str
        The box. [-]

    Returns
    -------
    dict of str to float
        By element or burner the share of the box's height; of switches whose level is known. [-]
    """
    found: dict[str, float] = {}
    for switch in _switches(parts, host):
        heats = isinstance(parts.get(switch.acts_on or ""), Element | Burner)
        if heats and switch.closes == "when wet" and switch.at_share is not None:
            key = switch.acts_on or ""
            found[key] = max(found.get(key, 0.0), switch.at_share)
    return found


def batch_fills(parts: Parts) -> dict[str, BatchFill]:
    """Say how open boxes are filled by level switches.

    Parameters
    ----------
    parts : mapping of str to part
        By id. [-]

    Returns
    -------
    dict of str to BatchFill
        By open vented store that has a switch on a valve or pump; others are filled up after every
        draw. [-]

    Notes
    -----
    A switch that closes when dry calls for water below its level. One that closes when wet ends
    the filling, where the valve stands open without power; on a valve that rests shut it would
    fill when full, and is left out.
    """
    found: dict[str, BatchFill] = {}
    for store in parts.values():
        if not isinstance(store, Store) or store.nature != "open vented":
            continue
        calls: list[float] = []
        ends: list[float] = []
        valve: Solenoid | None = None
        filled_by = ""
        for switch in _switches(parts, store.id):
            acts_on = parts.get(switch.acts_on or "")
            if not isinstance(acts_on, _FILLS) or switch.at_share is None:
                continue
            filled_by = acts_on.id
            valve = acts_on if isinstance(acts_on, Solenoid) else valve
            rests_open = isinstance(acts_on, Solenoid) and acts_on.rests == "open"
            # dry contacts call water into what rests shut; wet ones end what rests open
            calls_water = (switch.closes == "when dry") is not rests_open
            (calls if calls_water else ends).append(switch.at_share)
        if not filled_by:
            continue
        top = max(calls + ends)
        low = min(calls + ends)
        start = 0.0 if valve is None or valve.from_s is None else valve.from_s
        end = start if valve is None or valve.until_s is None else valve.until_s
        found[store.id] = BatchFill(store.id, filled_by, low, top, start, end)
    return found


def stuck(system: System, part_id: str) -> tuple[tuple[Stuck, str], ...]:
    """Say what becomes of a level switch that fails.

    Parameters
    ----------
    system : System
        Any document. [-]
    part_id : str
        The switch. [-]

    Returns
    -------
    tuple of (Stuck, str)
        What may happen and to what; both ways where nobody says how it fails. [-]
    """
    switch = system.part(part_id)
    if not isinstance(switch, LevelSwitch) or switch.acts_on is None:
        return ()
    acts_on = system.part(switch.acts_on)
    ways = ("open", "closed") if switch.fails is None else (switch.fails,)
    found = []
    for way in ways:
        if isinstance(acts_on, Element | Burner):
            found.append((Stuck.HEATS_DRY if way == "closed" else Stuck.NEVER_HEATS, acts_on.id))
        elif isinstance(acts_on, _FILLS):
            # closed gives power, and power opens what rests shut
            rests_open = isinstance(acts_on, Solenoid) and acts_on.rests == "open"
            flows = (way == "closed") is not rests_open
            found.append((Stuck.OVERFLOWS if flows else Stuck.NEVER_FILLS, acts_on.id))
    return tuple(found)


def stuck_at(system: System, part_id: str) -> tuple[tuple[str, Stuck, str], ...]:
    """Say what becomes of every level switch in a part, or acting on it, that fails.

    Parameters
    ----------
    system : System
        Any document. [-]
    part_id : str
        A box, a valve, an element, or the switch itself. [-]

    Returns
    -------
    tuple of (str, Stuck, str)
        The switch, what may happen, to what. [-]
    """
    return tuple(
        (part.id, what, on)
        for part in system.parts
        if isinstance(part, LevelSwitch) and part_id in (part.id, part.fitted_in, part.acts_on)
        for what, on in stuck(system, part.id)
    )
