"""What the clock does to a system: air around things, what sources may do, the engine's coolant."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.engine.columns import (
    A_C,
    A_W,
    AIR_C,
    B_AIR,
    B_WATTS,
    GONE_C,
    HELD,
    O_AIR_C,
    P_AIR_C,
    S_ALLOWED,
    S_DRAWS,
    S_SHARES,
    S_WATTS,
    ThermalElements,
)  # fmt: skip
from isotherma.core.engine.thermal_elements import Named
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.setup.consumption import NET_J_PER_KG
from isotherma.core.setup.inventory import joined_bottle_id
from isotherma.core.supply.ohms import F_OHM
from isotherma.core.supply.schedule import Schedule, battery_side
from isotherma.core.supply.steps import full_step
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat
from isotherma.core.system.nominal import ComputedSystem, figure, known_figure
from isotherma.core.timeline.record import InventoryKind

Floats = NDArray[np.float64]
Out = frozenset[InventoryKind]


@dataclass(frozen=True, slots=True)
class Slot:
    """What the clock says until its next edge: air around things [°C], charge and loads [W]."""

    edge_s: float
    vessel_c: Floats
    pool_c: Floats
    stirred_c: Floats
    pipe_c: Floats
    charge_w: float
    standing_w: float
    air_c: float
    bottle_c: float


NOT_HELD_BACK_W = 0.0  # of a body the kernel holds at its temperature


class BoundaryConditions:
    """What of a system heeds the clock.

    Parameters
    ----------
    brief, climate : Brief, Climate
        For the air inside and outside. [-]
    known : ComputedSystem
        With what was understood of its parts. [-]
    entered : System
        As it was entered. [-]
    network : CompiledNetwork
        The network at rest. [-]
    named : Named
        Its thermal elements, with their rows: pitch sources are joined here, engines held back. [-]
    space_of : mapping of str to str or None
        Where everything is. [-]
    hours : Schedule
        Mains, battery, panels and engine. [-]
    dead : frozenset of str
        What hangs on wires that are cut off in this state. [-]
    """

    def __init__(
        self, brief: Brief, climate: Climate, known: ComputedSystem, entered: System,
        network: CompiledNetwork, named: Named, space_of: Mapping[str, str | None], hours: Schedule,
        dead: frozenset[str],
    ) -> None:  # fmt: skip
        self.brief, self.climate = brief, climate
        self.network, self.named, self.space_of = network, named, space_of
        self._slots: dict[float, Slot] = {}
        self.dead = dead
        self._bottle = joined_bottle_id(network.parts.values())
        thermal, links = named.thermal, network.links
        self.runs = [links[int(row[7])].item for row in thermal.pipe]
        self.on_battery = frozenset(
            part.id
            for part in network.parts.values()
            if isinstance(part, heat.Element) and battery_side(known, part)
        )
        self.engines = [
            (int(thermal.slot[link]), part)
            for link in np.flatnonzero(thermal.act == HELD).tolist()
            if isinstance(part := network.parts.get(links[link].item), heat.EngineCoolant)
        ]
        given = {part.id: part for part in entered.parts}
        for slot, engine in self.engines:
            # what is usual is spared at cruising for hours; a block at 85 °C carries a wash
            # from its own heat, so only an entered figure holds it back
            entered_w = known_figure(given[engine.id], "heat_w")
            thermal.air[slot, A_W] = NOT_HELD_BACK_W if entered_w is None else entered_w
        self._gated = [
            (index, key) for index, key in enumerate(named.sources)
            if index not in named.calls and isinstance(
                network.parts[key], heat.SunContainer | heat.Combi | heat.Element | heat.Burner
            )
        ]  # fmt: skip
        self._pitch_w = limit_w = hours.pitch_limit_w()
        for row, part_id in zip(thermal.source, named.sources, strict=True):
            if limit_w is not None and hours.on_pitch(network.parts[part_id]):
                row[S_SHARES] = 0.0
        self._fire_w = thermal.stirred[:, B_WATTS].copy()
        self._full = {
            index: (float(thermal.source[index, S_WATTS]), float(thermal.feed[index, F_OHM]))
            for index, key in self._gated
            if isinstance(part := network.parts[key], heat.Element) and part.low_w is not None
        }
        self._combi_w = {
            key: float(row[S_WATTS])
            for key, row in zip(named.sources, thermal.source, strict=True)
        }  # fmt: skip

    def slot(self, hours: Schedule, now_s: float) -> Slot:
        """Give what the clock says from now to the next edge; days repeat it, so it is kept.

        Parameters
        ----------
        hours : Schedule
            Mains, battery, panels and engine. [-]
        now_s : float
            After midnight. [s]

        Returns
        -------
        Slot
            Until its edge. [-]
        """
        key = round(now_s, 3)
        if key not in self._slots:
            edge = hours.next_edge_s(now_s)
            middle = 0.5 * (now_s + edge)
            found = {at: hours.space_c(at, middle) for at in {*self.space_of.values(), None}}

            def around(names: Iterable[str]) -> Floats:
                return np.array([found[self.space_of.get(key)] for key in names], dtype=np.float64)

            named = self.named
            self._slots[key] = Slot(
                edge, around(named.vessels), around(named.pools), around(named.stirred),
                around(self.runs), hours.charge_w(middle), hours.standing_w(middle),
                self.climate.air_at_c(middle), self._bottle_c(hours, middle),
            )  # fmt: skip
        return self._slots[key]

    def _bottle_c(self, hours: Schedule, clock_s: float) -> float:
        """Give the air around the joined bottle: of its space, outside where nobody says."""
        at = self.space_of.get(self._bottle or "")
        return self.climate.air_at_c(clock_s) if at is None else hours.space_c(at, clock_s)

    def over(
        self, hours: Schedule, start_s: float, end_s: float
    ) -> tuple[float, float, float, float]:
        """Give charge, standing loads, the air and the bottle's air over a stretch.

        Parameters
        ----------
        hours : Schedule
            Mains, battery, panels and engine. [-]
        start_s, end_s : float
            After midnight. [s]

        Returns
        -------
        tuple of float
            From the slot where the stretch is one, else at its middle. [W, W, °C, °C]
        """
        slot = self._slots.get(round(start_s, 3))
        if slot is not None and abs(slot.edge_s - end_s) < 1e-6:
            return slot.charge_w, slot.standing_w, slot.air_c, slot.bottle_c
        middle = 0.5 * (start_s + end_s)
        return (
            hours.charge_w(middle), hours.standing_w(middle), self.climate.air_at_c(middle),
            self._bottle_c(hours, middle),
        )  # fmt: skip

    def act(
        self, hours: Schedule, thermal: ThermalElements, slot: Slot, middle_s: float, out: Out
    ) -> bool:
        """Write the hour into the thermal elements.

        Parameters
        ----------
        hours : Schedule
            Mains, battery, panels and engine. [-]
        thermal : ThermalElements
            Written to. [see columns]
        slot : Slot
            What the clock says. [-]
        middle_s : float
            The middle of the time it is for. [s]
        out : frozenset of str
            What carried has ended. [-]

        Returns
        -------
        bool
            Whether an engine is warm. [-]
        """
        thermal.vessel[:, AIR_C] = slot.vessel_c
        thermal.pool[:, O_AIR_C] = slot.pool_c
        thermal.stirred[:, B_AIR] = slot.stirred_c
        thermal.pipe[:, P_AIR_C] = slot.pipe_c
        for index, part_id in self._gated:
            self._gate(hours, thermal.source[index], part_id, middle_s, out)
            if index in self._full:
                self._step(thermal, index, part_id, middle_s)
        for at, part_id in enumerate(self.named.stirred):
            part = self.network.parts[part_id]
            if isinstance(part, heat.ThroughFlowGas):
                burns = _fuelled(part, out)
                thermal.stirred[at, B_WATTS] = self._fire_w[at] if burns else 0.0
            elif isinstance(part, heat.ThroughFlowElectric):
                off = hours.off_pitch(part, middle_s)
                thermal.stirred[at, B_WATTS] = 0.0 if off else self._fire_w[at]
        if self._pitch_w is not None:
            thermal.shared[0] = max(0.0, self._pitch_w - hours.pitch_carries_w(middle_s))
        hot = False
        for at, part in self.engines:
            warm = hours.engine_c(part, middle_s)
            thermal.air[at, A_C] = GONE_C if warm is None else warm
            hot = hot or warm is not None
        return hot

    def _gate(self, hours: Schedule, row: Floats, part_id: str, clock_s: float, out: Out) -> None:
        """Let a source run, or not, and with the watts it gets."""
        part, powered = self.network.parts[part_id], "battery" not in out
        off = self.network.at.get(part_id) == "off"
        if isinstance(part, heat.SunContainer):
            watts = self.climate.sun_w_per_m2(clock_s)
            watts *= figure(part, "face_m2") * figure(part, "absorbed")
            row[S_WATTS], row[S_ALLOWED] = max(watts, 1e-9), float(watts > 0.0)
        elif isinstance(part, heat.Combi):
            row[S_ALLOWED] = float(powered and _fuelled(part, out) and not off)
            if not part.water_first:
                cold = self.climate.air_at_c(clock_s) < self.brief.inside_c - 1.0
                row[S_WATTS] = self._combi_w[part_id] * (1.0 - figure(part, "cabin_share") * cold)
        elif off:
            row[S_ALLOWED] = 0.0
        elif isinstance(part, heat.Element | heat.Burner):
            may = hours.allowed(part, clock_s)
            runs = may.may and (powered or part_id not in self.on_battery)
            runs = runs and part_id not in self.dead
            row[S_ALLOWED] = float(runs and _fuelled(part, out))
            if may.watts is not None:
                row[S_WATTS], row[S_DRAWS] = max(may.watts, 1e-9), may.draws

    def _step(self, thermal: ThermalElements, index: int, part_id: str, clock_s: float) -> None:
        """Put an element with two steps on the one it stands on by the clock."""
        part = self.network.parts[part_id]
        assert isinstance(part, heat.Element) and part.low_w is not None
        watts, ohm = self._full[index]
        stands = self.network.at.get(part_id)
        full = full_step(part, stands, self.brief.draws, clock_s)
        share = 1.0 if full else min(1.0, part.low_w / max(watts, 1e-9))
        held = thermal.source[index, S_WATTS] if part.rule == "surplus sun" else watts
        thermal.source[index, S_WATTS] = max(1e-9, min(float(held), share * watts))
        if ohm > 0.0:  # fewer or longer wires glow: more ohms
            thermal.feed[index, F_OHM] = ohm / max(share, 1e-9)


def _fuelled(part: AnyKind, out: Out) -> bool:
    """Say whether a flame still has what it burns."""
    fuel = getattr(part, "fuel", None)
    if fuel in NET_J_PER_KG:
        return "gas" not in out
    return fuel not in ("diesel", "petrol") or "diesel" not in out
