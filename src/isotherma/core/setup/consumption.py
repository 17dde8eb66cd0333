"""What heat, pump seconds and starts take from gas, fuel, mains and battery, term by term."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Literal, NamedTuple

from isotherma.core.flows.loads import running_w
from isotherma.core.supply.feeds import direct_panel, feeds_of
from isotherma.core.supply.schedule import battery_side
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.timeline.record import Balance, Stretch

BudgetName = Literal["fresh", "grey", "gas", "diesel", "mains", "battery", "warmth", "waiting"]
NET_J_PER_KG: Final = {"propane": 46.34e6, "butane": 45.72e6}
DIESEL_J_PER_M3: Final = 35.7e9  # net at 15 °C, middle of 35.2 to 36.2 MJ/L
PETROL_J_PER_M3: Final = 31.8e9
COMBI_SHARE: Final = 0.85  # of the net heat, middle of combi heaters
AIR_SHARE: Final = 0.8  # of the net heat into air heaters' air
THROUGH_FLOW_SHARE: Final = 0.84  # of the net heat, where nobody says


@dataclass(frozen=True, slots=True)
class Spent:
    """What heat and pumps took: gas [kg], liquid fuel [m³], energies [J]."""

    gas_kg: float
    diesel_m3: float
    mains_j: float
    battery_j: float
    from_coolant_j: float


@dataclass(frozen=True, slots=True)
class Term:
    """One thing that took from a budget: `value` is `amount` over `efficiency` and `worth`.

    `amount` is heat [J], or, with `times`, seconds or starts of what takes `worth` each.
    """

    budget: BudgetName
    part_id: str
    code: str
    amount: float
    efficiency: float
    worth: float
    times: bool = False

    @property
    def value(self) -> float:
        """What it took: gas [kg], liquid fuel [m³], energy [J]."""
        if self.times:
            return self.amount * self.worth / self.efficiency
        return self.amount / self.efficiency / self.worth


class _Source(NamedTuple):
    """A way a part takes from a budget: with its heat, with the seconds it runs, by the start."""

    by: Literal["heat", "seconds", "starts"]
    budget: BudgetName
    efficiency: float
    worth: float
    heat_w: float = 1.0


class Consumers:
    """The parts of a system that take something.

    Parameters
    ----------
    parts : mapping of str to part
        As they are computed with, by id. [-]
    system : ComputedSystem
        Of those parts. [-]
    """

    def __init__(self, parts: Mapping[str, AnyKind], system: ComputedSystem) -> None:
        self.parts, self.system = parts, system
        self._pump_w = {key: running_w(part, system.nominal_v) for key, part in parts.items()}
        self._ways: dict[str, tuple[_Source, ...]] = {}
        self._blower = next(
            (part.id for part in system.parts if isinstance(part, heat.AirHeater)), None
        )

    def heats_of(self, row: Stretch | Balance) -> dict[str, float]:
        """Give the heat of every source by part, hot air's by the heater that blew it.

        Parameters
        ----------
        row : Stretch or Balance
            A stretch of a day, or the whole. [-]

        Returns
        -------
        dict of str to float
            Heat to the water. [J]
        """
        heats = {**row.sources_j, **row.bodies_j}
        if self._blower is not None and row.air_j > 0.0:
            heats[self._blower] = heats.get(self._blower, 0.0) + row.air_j
        return heats

    def terms(
        self,
        heats: Mapping[str, float],
        pumped_s: Mapping[str, float],
        starts: Mapping[str, float],
        drawn_j: Mapping[str, float] | None = None,
    ) -> tuple[Term, ...]:
        """Turn heat, pump seconds and starts into what they burn and draw, one by one.

        Parameters
        ----------
        heats : mapping of str to float
            Heat by part. [J]
        pumped_s : mapping of str to float
            How long pumps ran. [s]
        starts : mapping of str to float
            How often heaters lit. [-]
        drawn_j : mapping of str to float or None
            What elements took for their heat, where their wires kept some. [J]

        Returns
        -------
        tuple of Term
            Without what stands by; the sun's heat costs nothing. [-]
        """
        found: list[Term] = []
        took = drawn_j or {}
        for part_id, joules in heats.items():
            if joules <= 0.0:
                continue
            for way in self._ways_of(part_id):
                if way.by == "heat":
                    reaches = joules / drawn if (drawn := took.get(part_id, 0.0)) > 0.0 else 1.0
                    found.append(Term(way.budget, part_id, "heat_from", joules,
                                      way.efficiency * reaches, way.worth))  # fmt: skip
                elif way.by == "seconds":
                    runs_s = joules / way.heat_w
                    found.append(Term(way.budget, part_id, "seconds_of", runs_s, 1.0,
                                      way.worth, times=True))  # fmt: skip
                elif (lit := starts.get(part_id, 0.0)) > 0.0:
                    found.append(
                        Term(way.budget, part_id, "starts_of", lit, 1.0, way.worth, times=True)
                    )
        for part_id, seconds in pumped_s.items():
            watts = self._pump_w.get(part_id, 0.0)
            if watts * seconds > 0.0:
                found.append(
                    Term("battery", part_id, "seconds_of", seconds, 1.0, watts, times=True)
                )
        return tuple(found)

    def take(
        self,
        heats: Mapping[str, float],
        pumped_s: Mapping[str, float],
        starts: Mapping[str, float],
        drawn_j: Mapping[str, float] | None = None,
    ) -> Spent:
        """Add up what heat, pump seconds and starts burn and draw.

        Parameters
        ----------
        heats : mapping of str to float
            Heat by part. [J]
        pumped_s : mapping of str to float
            How long pumps ran. [s]
        starts : mapping of str to float
            How often heaters lit. [-]
        drawn_j : mapping of str to float or None
            What elements took for their heat, where their wires kept some. [J]

        Returns
        -------
        Spent
            Without what stands by. [-]
        """
        total = {"gas": 0.0, "diesel": 0.0, "mains": 0.0, "battery": 0.0}
        for term in self.terms(heats, pumped_s, starts, drawn_j):
            total[term.budget] += term.value
        return Spent(total["gas"], total["diesel"], total["mains"], total["battery"], 0.0)

    def taken_in(self, stretch: Stretch) -> Spent:
        """Add up what a stretch of a day burnt and drew.

        Parameters
        ----------
        stretch : Stretch
            A stretch of a day. [-]

        Returns
        -------
        Spent
            Without what stands by. [-]
        """
        return self.take(self.heats_of(stretch), stretch.pumped_s, stretch.starts, stretch.drawn_j)

    def burning(self, stretch: Stretch) -> tuple[float, float]:
        """Give the gas a stretch burnt, and how fast while it burnt at full fire [kg, kg/s]."""
        heats = self.heats_of(stretch)
        burnt = self.take(heats, {}, {}).gas_kg
        full = sum(self.full_fire_kg_per_s(key) for key, joules in heats.items() if joules > 0.0)
        return burnt, full

    def full_fire_kg_per_s(self, part_id: str) -> float:
        """Give the gas a burner takes at full fire; none of other parts [kg/s]."""
        part = self.parts[part_id]
        if isinstance(part, heat.Burner):
            return figure(part, "input_w") / NET_J_PER_KG[part.fuel]
        if isinstance(part, heat.ThroughFlowGas):
            return figure(part, "input_w") / NET_J_PER_KG[part.fuel]
        if isinstance(part, heat.Combi) and part.fuel in NET_J_PER_KG:
            return figure(part, "rated_w") / COMBI_SHARE / NET_J_PER_KG[part.fuel]
        return 0.0

    def _ways_of(self, part_id: str) -> tuple[_Source, ...]:
        """Give how a part takes; its cables are followed once."""
        if part_id not in self._ways:
            self._ways[part_id] = self._find_ways(self.parts[part_id])
        return self._ways[part_id]

    def _find_ways(self, part: AnyKind) -> tuple[_Source, ...]:
        if isinstance(part, heat.Burner):
            return (_Source("heat", "gas", figure(part, "efficiency"), NET_J_PER_KG[part.fuel]),)
        if isinstance(part, heat.ThroughFlowGas):
            share = figure(part, "efficiency")
            return (_Source("heat", "gas", share, NET_J_PER_KG[part.fuel]),)
        if isinstance(part, heat.Combi):
            if part.fuel in NET_J_PER_KG:
                return (_Source("heat", "gas", COMBI_SHARE, NET_J_PER_KG[part.fuel]),)
            return (_Source("heat", "diesel", COMBI_SHARE, DIESEL_J_PER_M3),)
        if isinstance(part, heat.ThroughFlowElectric):
            return (_Source("heat", "mains", 1.0, 1.0),)
        if isinstance(part, heat.Element):
            return self._element(part)
        if isinstance(part, heat.AirHeater):
            running = _Source(
                "seconds", "battery", 1.0, figure(part, "running_w"), figure(part, "heat_w")
            )
            if part.fuel == "propane":
                return (_Source("heat", "gas", AIR_SHARE, NET_J_PER_KG["propane"]), running)
            return (_Source("heat", "diesel", AIR_SHARE, _worth_of(part.fuel)), running)
        if isinstance(part, heat.LiquidHeater):
            return (
                _Source("heat", "diesel", figure(part, "efficiency"), _worth_of(part.fuel)),
                _Source(
                    "seconds", "battery", 1.0, figure(part, "running_w"), figure(part, "heat_w")
                ),
                *((_Source("starts", "battery", 1.0, part.firing_j),) if part.firing_j else ()),
            )
        return ()

    def _element(self, part: heat.Element) -> tuple[_Source, ...]:
        if battery_side(self.system, part):
            return (_Source("heat", "battery", 1.0, 1.0),)
        if direct_panel(self.system, part) is not None:
            return ()
        fed = feeds_of(self.system, part.id).sources
        inverters = [
            figure(item, "efficiency") for item in self.system.parts
            if isinstance(item, electric.Inverter) and item.id in fed
        ]  # fmt: skip
        if inverters and part.rule != "on hook-up":
            return (_Source("heat", "battery", inverters[0], 1.0),)
        return (_Source("heat", "mains", 1.0, 1.0),)


def _worth_of(fuel: str) -> float:
    return PETROL_J_PER_M3 if fuel == "petrol" else DIESEL_J_PER_M3
