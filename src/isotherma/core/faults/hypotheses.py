"""What each fault at each part expects of a quantity: played, or by the table's own figures."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from isotherma.core.faults.instances import Instance, feeds
from isotherma.core.faults.player import Asked, Player
from isotherma.core.faults.plays import SHUT, STUCK, Edit, Play, Severities
from isotherma.core.faults.readings import KINDS, Expected, off_scale, on_scale
from isotherma.core.system import Pipe
from isotherma.core.system.kinds import gas, heat

BETWEEN: Final = 9  # severities of a range that is played at three
# the table's keys that are called after another quantity
_SHIFTED: Final = {"kick_min": "kick_every", "cool_x": "cool_down", "bottle_x": "bottle_kg"}
# with these symptoms a heater does not burn: what it heats may stay cold
_NO_FIRE: Final = (
    "spark_no_flame", "no_spark", "heater_silent", "heater_no_flame", "flame_dies_seconds",
    "flame_dies_minutes",
)  # fmt: skip
_OFTEN: Final = 0.5


@dataclass(frozen=True, slots=True)
class Hypotheses:
    """Reads what the faults of a design expect, with one player."""

    player: Player

    def expected(self, instance: Instance, asked: Asked) -> tuple[Expected, ...]:
        """Give what a fault expects of a quantity, one for each severity.

        Parameters
        ----------
        instance : Instance
            A fault at a part. [-]
        asked : Asked
            The quantity. [-]

        Returns
        -------
        tuple of Expected
            As sound where the fault does not touch it; none where nothing computes it. [-]
        """
        healthy = self.player.expected((), asked)
        found: list[Expected] = []
        for way in instance.ways:
            found += self._of_way(way, asked, healthy)
        shifted = self._shifted(instance, asked, healthy)
        if shifted is not None:
            # where both are known, as often one as the other
            found += [shifted] * max(1, len(found))
        if asked.kind == "temp" and not instance.ways:
            found += self._unheated(instance, asked, healthy)
        if found:
            return tuple(found)
        return () if healthy is None else (healthy,)

    def _of_way(self, way: Severities, asked: Asked, healthy: Expected | None) -> list[Expected]:
        if all(self._far_from(play, asked) for play in way.plays):
            return [] if healthy is None else [healthy]
        points = [self.player.expected(play, asked) for play in way.plays]
        known = [point for point in points if point is not None]
        if len(known) < len(points):
            return []
        return known if len(known) == 1 else _between(asked.kind, known)

    def _far_from(self, play: Play, asked: Asked) -> bool:
        """Say that a play touches nothing of what is read, so that nothing need be solved."""
        if asked.kind in ("flow", "pressure", "temp", "wait"):
            outlet = self.player.opened(asked.part)
            return outlet is not None and all(
                _on_the_way_only(edit) and not self.player.carries(edit.piece, outlet)
                for edit in play
            )
        return asked.kind not in ("kick_every",) and all(_on_the_way_only(edit) for edit in play)

    def _shifted(
        self, instance: Instance, asked: Asked, healthy: Expected | None
    ) -> Expected | None:
        """Give the table's own figure of a quantity, if the fault touches that part."""
        for name, (low, high) in instance.fault.shifts.items():
            share = name.endswith("_x")
            kind = _SHIFTED.get(name, name.removesuffix("_x"))
            if kind != asked.kind or not self._touches(instance, asked):
                continue
            if not share:
                return Expected(low, None, high)
            return None if healthy is None else self._share(asked, healthy, low, high)
        return None

    def _share(self, asked: Asked, healthy: Expected, low: float, high: float) -> Expected:
        if asked.kind == "bottle_kg" and asked.part is not None:
            bottle = self.player.known.part(asked.part)
            if isinstance(bottle, gas.GasBottle) and bottle.gas_kg and bottle.empty_kg is not None:
                return Expected(bottle.empty_kg + low * bottle.gas_kg, None,
                                bottle.empty_kg + high * bottle.gas_kg)  # fmt: skip
        most = healthy.high if healthy.likely is None else healthy.likely
        return Expected(low * most, None, high * most)

    def _touches(self, instance: Instance, asked: Asked) -> bool:
        """Say whether a fault touches a quantity of a part: its own, its host's, what it feeds."""
        known, part = self.player.known, instance.part
        if part is None or asked.part is None or part == asked.part:
            return True
        if asked.kind in ("flow", "pressure"):
            outlet = self.player.opened(asked.part)
            return outlet is not None and self.player.carries(part, outlet)
        if asked.kind in ("kick_every", "cool_down"):
            # a leak anywhere behind it starts a pump; another pump's valves do not
            return known_kind(self.player, part) not in ("pump", "store", "combi")
        piece = next(one for one in (*known.parts, *known.runs) if one.id == part)
        if asked.kind in ("volts", "amps"):
            return asked.part in feeds(known, piece)
        host = getattr(piece, "fitted_in", None)
        other = next((one for one in known.parts if one.id == asked.part), None)
        return host is not None and host in (asked.part, getattr(other, "fitted_in", None))

    def _unheated(
        self, instance: Instance, asked: Asked, healthy: Expected | None
    ) -> list[Expected]:
        """Give a quantity as it is now and then: while its heater does not burn."""
        seen = instance.fault.seen
        if max((seen.get(key, 0.0) for key in _NO_FIRE), default=0.0) < _OFTEN:
            return []
        off = tuple(Edit(f"parts.{key}.at", "off") for key in self._burners(instance))
        cold = self.player.expected(off, asked) if off else None
        return [] if cold is None else [cold, *([] if healthy is None else [healthy])]

    def _burners(self, instance: Instance) -> list[str]:
        known = self.player.known
        burns = [part for part in known.parts if isinstance(
            part, heat.ThroughFlowGas | heat.Burner | heat.Combi | heat.LiquidHeater)]  # fmt: skip
        own = [part.id for part in burns if part.id == instance.part]
        return own or [part.id for part in burns]


def known_kind(player: Player, piece: str) -> str:
    """Give the kind of a part by id, "run" of a pipe or hose; empty where there is none such.

    Parameters
    ----------
    player : Player
        Of the design. [-]
    piece : str
        Id of a part or run. [-]

    Returns
    -------
    str
        As the table names it. [-]
    """
    known = player.known
    found = next((one for one in (*known.parts, *known.runs) if one.id == piece), None)
    if isinstance(found, Pipe):
        return "run"
    return "" if found is None else found.kind


def _on_the_way_only(edit: Edit) -> bool:
    """Say whether an edit changes nothing but what water takes that passes it."""
    return edit.name in (SHUT, STUCK) or (edit.path.startswith("runs.") and edit.name == "loss_k")


def _between(kind_name: str, points: list[Expected]) -> list[Expected]:
    """Fill in severities between those that were played, on the quantity's scale."""
    kind = KINDS[kind_name]
    at, wanted = np.linspace(0.0, 1.0, len(points)), np.linspace(0.0, 1.0, BETWEEN)
    if any(point.likely is None for point in points):
        return points

    def filled(name: str) -> list[float]:
        places = [on_scale(kind, getattr(point, name)) for point in points]
        return [off_scale(kind, float(place)) for place in np.interp(wanted, at, places)]

    rows = zip(filled("low"), filled("likely"), filled("high"), strict=True)
    return [Expected(low, likely, high) for low, likely, high in rows]
