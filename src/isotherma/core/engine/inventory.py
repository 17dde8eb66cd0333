"""What is carried, followed through the days: battery, joined gas bottle, fuel in the tank."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from isotherma.core.setup import Setup
from isotherma.core.setup.inventory import Levels
from isotherma.core.supply.battery import after_stretch
from isotherma.core.supply.bottle import Bottle, after_step
from isotherma.core.timeline.record import Ended, InventoryKind, Stretch

COMES_BACK: Final = 0.02  # of a battery, before a cut-off lets it give again
RELIGHTS_PA: Final = 0.2e5  # over what a flame needs, before somebody lights it again; judgement
BURNING_STEP_S, RESTING_STEP_S = 20.0, 600.0


class Inventory:
    """Levels as a day takes from them, and what has ended.

    Parameters
    ----------
    setup : Setup
        What there is at the start of a trip, and what takes from it. [-]
    """

    def __init__(self, setup: Setup) -> None:
        self.consumers, self.full, self.left = setup.consumers, setup.full, setup.full
        self.charge_share, self.least_pa = setup.charge_share, setup.least_pa
        self.swap_s = setup.swap_s
        self._joined_s = 0.0
        self.follows_fuel = False
        self.out: frozenset[InventoryKind] = frozenset()
        self.ended: list[Ended] = []

    def begin(self, left: Levels | None) -> None:
        """Begin a day: battery full and fuel not followed, or all from levels."""
        self.follows_fuel = left is not None
        self.left = left if left is not None else self.full
        self.out, self.ended, self._joined_s = frozenset(), [], 0.0

    def go_on(self, other: Inventory) -> None:
        """Go on from another state of the same system."""
        self.follows_fuel, self.left, self.out = other.follows_fuel, other.left, other.out
        self.ended, self._joined_s = other.ended, other._joined_s

    def carry(self, stretch: Stretch) -> None:
        """Take from the levels what a stretch of the day took; let go of what hangs on them."""
        took = self.consumers.taken_in(stretch)
        end_s = stretch.start_s + stretch.span_s
        if self.full.battery_j is not None and self.left.battery_j is not None:
            level, _, _ = after_stretch(
                self.left.battery_j, self.full.battery_j, span_s=stretch.span_s,
                load_w=stretch.standing_w + took.battery_j / stretch.span_s,
                charge_w=stretch.charge_w, charge_share=self.charge_share,
            )  # fmt: skip
            self.left = replace(self.left, battery_j=level)
            if level <= 0.0:
                self._end("battery", end_s, "empty")
            elif level >= COMES_BACK * self.full.battery_j:
                self.out -= {"battery"}
        if not self.follows_fuel:
            return
        if self.left.diesel_m3 is not None:
            left = max(0.0, self.left.diesel_m3 - took.diesel_m3)
            self.left = replace(self.left, diesel_m3=left)
            if left <= 0.0 and took.diesel_m3 > 0.0:
                self._end("diesel", end_s, "empty")
        if self.left.bottle is not None:
            self._boil(self.left.bottle, stretch)

    def _boil(self, bottle: Bottle, stretch: Stretch) -> None:
        """Let the bottle give what was burnt at full fire, then stand."""
        burnt, full = self.consumers.burning(stretch)
        burns_s = min(stretch.span_s, burnt / full) if full > 0.0 else 0.0
        clock = stretch.start_s
        for span, load, longest in (
            (burns_s, burnt / burns_s if burns_s > 0.0 else 0.0, BURNING_STEP_S),
            (stretch.span_s - burns_s, 0.0, RESTING_STEP_S),
        ):
            left = span
            while left > 1e-9:
                step = min(left, longest)
                bottle = after_step(bottle, kg_per_s=load, air_c=stretch.bottle_c, step_s=step)
                left -= step
                clock += step
                if load > 0.0 and bottle.gas_kg <= 1e-9:
                    if self.left.spares:  # somebody joins the next, and no flame burns meanwhile
                        first, *rest = self.left.spares
                        bottle = replace(first, celsius=stretch.bottle_c)
                        self.left = replace(self.left, spares=tuple(rest))
                        self._joined_s = clock + self.swap_s
                    self._end("gas", clock, "empty")
                elif load > 0.0 and bottle.pressure_pa < self.least_pa:
                    self._end("gas", clock, "too cold")
        self.left = replace(self.left, bottle=bottle)
        lights = bottle.pressure_pa > self.least_pa + RELIGHTS_PA
        if bottle.gas_kg > 1e-9 and lights and clock >= self._joined_s:
            self.out -= {"gas"}

    def _end(self, carried: InventoryKind, clock_s: float, how: str) -> None:
        if carried not in self.out:
            self.ended.append(Ended(carried, clock_s, how))
            self.out |= {carried}
