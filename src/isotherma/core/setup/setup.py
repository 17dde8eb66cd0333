"""A system in one of its states under a brief and a climate."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.setup.completeness import main_outlet, refuse_missing
from isotherma.core.setup.consumption import Consumers
from isotherma.core.setup.fuses import Fuses
from isotherma.core.setup.inventory import (
    Levels,
    charge_share_of,
    full_levels,
    joined_bottle_id,
    least_bottle_pa,
    swap_s_of,
)
from isotherma.core.setup.networks import Mode, networks_of
from isotherma.core.setup.reservoirs import (
    Reservoir,
    Reservoirs,
    fresh_reservoirs,
    home_of,
    reservoirs_of,
)
from isotherma.core.supply.schedule import Schedule
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.joined_tanks import tanks_as_one
from isotherma.core.system.kinds import heat
from isotherma.core.system.nominal import Missing, figure
from isotherma.core.system.states import State
from isotherma.core.water import FRESH_KG_PER_M3


class Setup:
    """All that follows from the documents alone; each piece is worked out when first asked for.

    `system` is as it was entered, `computed` with its nominal values written in; `parts` are
    those by id, `at` how they stand while nobody washes, `network` that network. Only what has no
    doubt of its own is here: it is the same for the same documents.

    Parameters
    ----------
    brief, system : Brief, System
        The documents. [-]
    standing : State or None
        How everything stands; None: as usual. [-]
    climate : Climate
        Air and sun. [-]

    Raises
    ------
    MissingValue
        If the day hangs on a figure nobody knows.
    """

    def __init__(
        self, brief: Brief, system: System, standing: State | None, climate: Climate
    ) -> None:
        self.brief, self.system, self.standing, self.climate = brief, system, standing, climate
        self.networks = networks_of(brief, system, standing, climate)
        self.conditions, self.computed = self.networks.conditions, self.networks.computed
        self.wires = self.networks.wires
        stands = positions(self.computed, standing)
        clock = Schedule.of(brief, self.computed, climate, stands)
        self.fuses = Fuses(self.computed, self.wires, self.networks.whole, stands, clock.ever_warms)
        self.network = self.networks.of(Mode(stopped=self.fuses.unable))
        refuse_missing(self.network)
        self.parts, self.at = self.network.parts, self.network.at

    @cached_property
    def not_known(self) -> tuple[Missing, ...]:
        """What the day needs, nobody entered and nobody can assume: it is in no figure [-]."""
        pieces = {item.id: item for item in (*self.computed.parts, *self.computed.runs)}
        return tuple(
            item for item in self.computed.missing if item.name in pieces[item.piece_id].needs
        )

    @cached_property
    def hours(self) -> Schedule:
        """Air, sun, driving, mains and loads by the time of day [-]."""
        return Schedule.of(self.brief, self.computed, self.climate, self.at)

    @cached_property
    def consumers(self) -> Consumers:
        """What takes from gas, fuel, mains and battery [-]."""
        return Consumers(self.parts, self.computed)

    @cached_property
    def space_of(self) -> dict[str, str | None]:
        """Where every part and run is in this state [-]."""
        moved_to = {}
        if self.standing is not None:
            moved_to = {item.part: item.space for item in self.standing.placed}
        return {
            piece.id: moved_to.get(piece.id, piece.space)
            for piece in (*self.system.parts, *self.system.pipes)
        }

    @cached_property
    def full(self) -> Levels:
        """What is carried at the start of a trip [-]."""
        full = full_levels(self.parts.values(), self._bottle_c(), self.hours.usable_j)
        if full.diesel_m3 is None:
            return full
        kept = 1.0 - self.brief.reserve_of("diesel")
        return replace(full, diesel_m3=full.diesel_m3 * kept)

    def _bottle_c(self) -> float:
        """Give the mean air around the joined bottle."""
        return self.hours.mean_c(self.space_of.get(joined_bottle_id(self.parts.values()) or ""))

    @cached_property
    def charge_share(self) -> float:
        """How much of what goes into the batteries comes out again [-]."""
        return charge_share_of(self.computed.parts)

    @cached_property
    def least_pa(self) -> float:
        """The least pressure at which bottles still carry their load, absolute [Pa]."""
        return least_bottle_pa(self.computed.parts)

    @cached_property
    def swap_s(self) -> float:
        """How long it takes to join a spare bottle [s]."""
        return swap_s_of(self.computed.parts)

    @cached_property
    def reservoirs(self) -> Reservoirs:
        """What is carried to draw water from, full; only read [kg]."""
        return fresh_reservoirs(self._wells, self.brief, self.home)

    @cached_property
    def home(self) -> int:
        """The row of the wells from which this state's water comes; -1: from none [-]."""
        return home_of(self.network, main_outlet(self.system), self._wells)

    @cached_property
    def _wells(self) -> tuple[Reservoir, ...]:
        """What is carried, without what fills an empty store at the start of a trip."""
        wells = self._all_wells
        first = self.first_fill_kg
        home = home_of(self.network, main_outlet(self.system), wells)
        if first <= 0.0 or home < 0:
            return wells
        filled = replace(wells[home], first_fill_kg=min(first, wells[home].full_kg))
        return (*wells[:home], filled, *wells[home + 1 :])

    @property
    def first_fill_kg(self) -> float:
        """What goes into stores that are filled at the start of a trip: of those just filled [kg].

        A store that stands filled took its water before the trip.
        """
        if self.brief.day_start != "cold":
            return 0.0
        return sum(
            figure(part, "volume_m3") * FRESH_KG_PER_M3 for part in self.parts.values()
            if isinstance(part, heat.Store | heat.Combi | heat.Canister | heat.SunContainer)
            and part.volume_m3 is not None and part.id not in self.network.dry
        )  # fmt: skip

    @cached_property
    def _all_wells(self) -> tuple[Reservoir, ...]:
        joined = {end.part for run in self.system.pipes for end in (run.start, run.end)}
        shut = frozenset(key for key, at in self.at.items() if at in ("shut", "apart"))
        levels = tanks_as_one(self.system, shut)
        return reservoirs_of(self.computed.parts, joined, self.brief.reserve_of("fresh"), levels)

    def label(self, part_id: str) -> str:
        """Give a part's name."""
        part = self.parts.get(part_id)
        return part.label if part is not None else "An outlet"
