"""What the hours bring: driving, sun, hook-up, warm air; and what sources may do with it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from math import atan, cos, exp, inf, pi, sqrt
from typing import Any, Final, TypeVar, cast

from isotherma.core.brief import Brief
from isotherma.core.brief.days import DayKind
from isotherma.core.climate import COLDEST_S, DAY_S, WARMEST_S, Climate, within_hours
from isotherma.core.errors import CannotBe
from isotherma.core.fields import known_or
from isotherma.core.supply.feeds import direct_panel, feeds_of, on_battery
from isotherma.core.supply.panel import Curve, best_point, cells_over_k, on_element, usual_curve
from isotherma.core.supply.steps import step_edges_s
from isotherma.core.supply.wires import element_ohm, source_volts, way_ohm
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds.water import FreshTank
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.system.pieces import MAINS_V, SYSTEM_V
from isotherma.core.system.vehicle import Space
from isotherma.core.thermal.losses import tank_loss_w_per_k
from isotherma.core.water import HEAT_J_PER_M3_K

P = TypeVar("P")
SLOT_S: Final = 1800.0  # sun and air move slowly; driving and hours end where they end
FULL_SUN: Final = 1000.0
HALF_FULL: Final = 0.6  # of an average day between fills
ENGINE_S_PER_TAIL: Final = 2.0  # a block falls to 0.6 of its excess by the end of its tail
BUCK_V: Final = 13.4  # a battery while it is charged, for each 12 V
PAD_W_PER_K: Final = 5.0  # what a tank on a pad loses


NO_BATTERY_J = 0.0


@dataclass(frozen=True, slots=True)
class Allowed:
    """What a source may do in a slot: whether it may run, with how many watts at most that reach
    the water, and what it draws for each of them.
    """

    may: bool
    watts: float | None = None
    draws: float = 1.0


@dataclass(slots=True)
class Schedule:
    """The clock's side of a system in a state.

    `positions` says how switchable parts stand; `drives` when the engine runs, in seconds of
    the day; `battery_j` is carried on by whoever runs the days.
    """

    brief: Brief
    system: ComputedSystem
    climate: Climate
    positions: Mapping[str, str]
    drives: tuple[tuple[float, float], ...] = ()
    usable_j: float | None = None
    battery_j: float = 0.0
    spaces: Mapping[str, Space] = field(default_factory=dict)
    _kept: dict[tuple[str, float], float] = field(default_factory=dict)
    _kinds: dict[type, list[Any]] = field(default_factory=dict)
    _allowed: dict[tuple[str, float], Allowed] = field(default_factory=dict)

    def _of(self, kind: type[P]) -> list[P]:
        """Give the parts of a kind; looked for once."""
        if kind not in self._kinds:
            self._kinds[kind] = [part for part in self.system.parts if isinstance(part, kind)]
        return cast(list[P], self._kinds[kind])

    def _once(self, name: str, clock_s: float, find: Callable[[float], float]) -> float:
        """Keep what depends on the time of day alone: days repeat it."""
        key = (name, round(clock_s % DAY_S, 3))
        if key not in self._kept:
            self._kept[key] = find(clock_s)
        return self._kept[key]

    @property
    def full_j(self) -> float:
        """What the battery gives when full: none without one, or of one nobody knows [J]."""
        return NO_BATTERY_J if self.usable_j is None else self.usable_j

    @classmethod
    def of(
        cls, brief: Brief, system: ComputedSystem, climate: Climate, positions: Mapping[str, str]
    ) -> Schedule:
        """Read driving hours and the battery from a system.

        Parameters
        ----------
        brief, system, climate : Brief, System, Climate
            The documents. [-]
        positions : mapping of str to str
            How switchable parts stand. [-]

        Returns
        -------
        Schedule
            With a full battery, where there is one. [-]
        """
        drives = _drives(brief.today, system)
        held = [
            part.usable_j for part in system.parts
            if isinstance(part, electric.Battery) and part.serves == "living space"
            and part.usable_j
        ]  # fmt: skip
        full = sum(held) * (1.0 - brief.reserve_of("battery"))
        usable = full if held else None
        return cls(
            brief, system, climate, positions, tuple(drives), usable, full,
            {space.id: space for space in system.spaces},
        )  # fmt: skip

    def driving(self, clock_s: float) -> bool:
        """Say whether the engine runs at a time of day."""
        now = clock_s % DAY_S
        return any(start <= now < end or start <= now + DAY_S < end for start, end in self.drives)

    def since_driving_s(self, clock_s: float) -> float:
        """Give how long ago the engine stopped; 0 while it runs, a day if it never does [s]."""
        if self.driving(clock_s):
            return 0.0
        return min(((clock_s - end) % DAY_S for _, end in self.drives), default=DAY_S)

    def plugged_at(self, clock_s: float) -> bool:
        """Say whether a hook-up is there and plugged in at a time of day."""
        return self.plugged and self._has_pitch(clock_s)

    def _has_pitch(self, clock_s: float) -> bool:
        """Say whether the kind of day has a pitch now; always where it does not say."""
        if self.brief.today is not None and self.brief.today.hook_up == "none":
            return False
        hours = self._hook_up_hours
        return hours is None or within_hours(clock_s, *hours)

    @property
    def _hook_up_hours(self) -> tuple[float, float] | None:
        today = self.brief.today
        return None if today is None else today.plugged

    def next_edge_s(self, clock_s: float) -> float:
        """Give when something changes next: a slot ends, driving, a tail, a pitch's hours [s]."""
        nearest = SLOT_S * (int(clock_s / SLOT_S + 1e-9) + 1)
        tails = [figure(part, "tail_s") for part in self._of(heat.EngineCoolant)]
        edges = [
            at for start, end in self.drives
            for at in (start, end, *(end + tail for tail in tails))
        ]  # fmt: skip
        steps = step_edges_s(self.system.parts, self.brief.draws)
        for at in (*edges, *steps, *(self._hook_up_hours or ())):
            ahead = (at - clock_s) % DAY_S
            if ahead > 1e-6:
                nearest = min(nearest, clock_s + ahead)
        return nearest

    # --- surroundings ---

    def mean_c(self, space_id: str | None) -> float:
        """Give a space's mean temperature over a day; outside without one [°C]."""
        if space_id is None:
            return self.climate.air_c
        return 0.5 * (self.space_c(space_id, WARMEST_S) + self.space_c(space_id, COLDEST_S))

    def space_c(self, space_id: str | None, clock_s: float) -> float:
        """Give a space's temperature now; without one, the living space's [°C]."""
        space = self.spaces.get(space_id or "")
        if space is None:
            return max(self.brief.inside_c, self.climate.air_at_c(clock_s))
        if space.kept_c is not None:
            return space.kept_c
        return self.climate.space_at_c(space.warmth, self.brief.inside_c, clock_s)

    def tank_shift_k(self, tank: FreshTank, space_id: str | None, clock_s: float) -> float:
        """Give how far a fresh tank is from its mean by day and night.

        Parameters
        ----------
        tank : FreshTank
            The tank. [-]
        space_id : str or None
            Where it lives in this state. [-]
        clock_s : float
            Since midnight. [s]

        Returns
        -------
        float
            0 where the brief gives the water's temperature or the space is kept. [K]

        Notes
        -----
        The tank is one body behind its loss (where nobody says: 6 W/m²K on the faces of a cube
        of its volume), six tenths full; its swing is the space's over √(1 + (ωτ)²), late by
        atan(ωτ)/ω.

        References
        ----------
        Incropera et al., ch. 5; the periodic solution of a first-order lag.
        """
        if self.brief.cold_water_c is not None or not tank.volume_m3:
            return 0.0
        swing = self.space_c(space_id, WARMEST_S) - self.space_c(space_id, COLDEST_S)
        if swing <= 0.0:
            return 0.0
        capacity = HALF_FULL * tank.volume_m3 * HEAT_J_PER_M3_K
        tau = capacity / known_or(tank.loss_w_per_k, tank_loss_w_per_k(tank.volume_m3))
        turn = 2 * pi / DAY_S
        late = atan(turn * tau) / turn
        shrunk = 0.5 * swing / sqrt(1.0 + (turn * tau) ** 2)
        return shrunk * cos(turn * (clock_s - WARMEST_S - late))

    def engine_c(self, part: heat.EngineCoolant, clock_s: float) -> float | None:
        """Give an engine's coolant now; None when it is too cold to count [°C].

        References
        ----------
        Newton's law of cooling; Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 5.
        """
        hot = figure(part, "coolant_c")
        since, tail = self.since_driving_s(clock_s), figure(part, "tail_s")
        if since <= 0.0:
            return hot
        if since >= tail - 1e-6:
            return None
        air = self.climate.air_at_c(clock_s)
        return air + (hot - air) * exp(-since / (ENGINE_S_PER_TAIL * tail))

    def ever_warms(self, pad: heat.HeatPad) -> bool:
        """Say whether a heat pad is called for at all: at the coldest of the night."""
        return self.space_c(pad.space, WARMEST_S + DAY_S / 2) < figure(pad, "on_c")

    # --- electricity ---

    @property
    def charging_v(self) -> float:
        """Give the volts of the battery while it is charged [V].

        References
        ----------
        Judgement: absorption voltage of a battery of twelve volts, in proportion.
        """
        return BUCK_V * self.system.nominal_v / SYSTEM_V

    def curve(self, part: electric.Panel) -> Curve | None:
        """Give a panel's curve from what is printed, all of its count side by side.

        CannotBe where the four figures contradict each other.
        """
        if part.short_a and part.open_v and part.best_a and part.best_v:
            if part.best_a >= part.short_a or part.best_v >= part.open_v:
                raise CannotBe(reason="panel_figures", part=part.label)
            n = part.count
            return Curve(part.short_a * n, part.open_v, part.best_a * n, part.best_v)
        return usual_curve(part.rated_w, part.count) if part.rated_w else None

    def sun_share(self, clock_s: float) -> float:
        """Give the sun on the roof as a share of full sun [-]."""
        return self.climate.sun_w_per_m2(clock_s) / FULL_SUN

    def panel_w(self, clock_s: float) -> float:
        """Give what all panels give through their controllers now [W]."""
        return self._once("panel", clock_s, self._panel_w)

    def _panel_w(self, clock_s: float) -> float:
        sun = self.sun_share(clock_s)
        if sun <= 0.0:
            return 0.0
        over = cells_over_k(self.climate.air_at_c(clock_s), sun)
        total = 0.0
        controllers = self._of(electric.PanelController)
        for part in self._of(electric.Panel):
            if self._taken_directly(part):
                continue
            curve = self.curve(part)
            if curve is None:
                continue
            control = controllers[0] if controllers else None
            if control is None:
                continue  # a panel without controller charges nothing
            lit = min(1.0, sun * self.climate.tilted(figure(part, "tilt_deg"), clock_s))
            watts, _ = best_point(curve, lit, over_k=over)
            if not control.tracks:  # a plain controller holds the panel at the battery's volts
                watts = min(watts, self.charging_v * lit * curve.short_a)
            share = figure(control, "efficiency")
            most_a = inf if control.amps_a is None else control.amps_a  # no label, no limit
            total += min(watts * share, most_a * self.charging_v)
        return total

    def _taken_directly(self, panel: electric.Panel) -> bool:
        """Say whether a panel only feeds an element straight, with no controller on it."""
        return not feeds_of_panel(self.system, panel.id)

    def charge_w(self, clock_s: float) -> float:
        """Give what may go into the battery now: panels, alternator, charger on a pitch [W]."""
        return self._once("charge", clock_s, self._charge_w)

    def _charge_w(self, clock_s: float) -> float:
        total = self.panel_w(clock_s)
        volts = self.charging_v
        spare = [figure(part, "spare_a") for part in self._of(electric.Alternator)]
        if spare and self.driving(clock_s):
            chargers = [
                part.amps_a for part in self.system.parts
                if isinstance(part, electric.Charger) and part.source in ("alternator", "both")
                and part.amps_a is not None
            ]  # fmt: skip
            total += volts * min(sum(spare), sum(chargers) if chargers else sum(spare))
        return total + self.pitch_charge_w(clock_s)

    def pitch_charge_w(self, clock_s: float) -> float:
        """Give what a charger on the pitch's mains puts into the battery [W]."""
        if not self.plugged_at(clock_s):
            return 0.0
        volts = self.charging_v
        return sum(
            volts * part.amps_a for part in self.system.parts
            if isinstance(part, electric.Charger) and part.source in ("mains", "both")
            and part.amps_a and self._hooked(part.id)
        )  # fmt: skip

    def _hooked(self, part_id: str) -> bool:
        kinds = {part.id: part.kind for part in self.system.parts}
        near = {
            end for run in self.system.runs if run.kind == "cable"
            for one, end in ((run.start.part, run.end.part), (run.end.part, run.start.part))
            if one == part_id
        }  # fmt: skip
        reached = {kinds.get(key) for key in near}
        reached |= {kinds[key] for key in feeds_of(self.system, part_id).sources if key in kinds}
        return "hook_up" in reached

    @property
    def plugged(self) -> bool:
        """Say whether a hook-up is there and plugged in."""
        return any(self.positions.get(part.id) != "unplugged" for part in self._of(electric.HookUp))

    def pitch_limit_w(self) -> float | None:
        """Give what the pitch gives at most; None unplugged or where nobody knows [W]."""
        today = self.brief.today
        if not self._of(electric.HookUp):
            given = today is not None and today.hook_up == "plugged in" and today.hook_up_a
            return given * MAINS_V if given else None
        if not self.plugged:
            return None
        known = [part.limit_w for part in self._of(electric.HookUp) if part.limit_w]
        return sum(known) if known else None

    def on_pitch(self, part: AnyKind) -> bool:
        """Say whether a source of heat takes from the pitch.

        Parameters
        ----------
        part : a kind of part
            Elements do; a combi's mains side is an element of its own. [-]

        Returns
        -------
        bool
            By its cables; through an inverter only by its rule. [-]
        """
        if not isinstance(part, heat.Element) or battery_side(self.system, part):
            return False
        kinds = {item.id: item.kind for item in self.system.parts}
        reached = {kinds[key] for key in feeds_of(self.system, part.id).sources}
        if "inverter" in reached and part.rule != "on hook-up":
            return False
        if not self._of(electric.HookUp):  # nobody drew one: it takes from the mains all the same
            return direct_panel(self.system, part) is None
        return "hook_up" in reached

    def off_pitch(self, part: heat.ThroughFlowElectric, clock_s: float) -> bool:
        """Say whether a heater stands because the day has no pitch now."""
        if self._has_pitch(clock_s):
            return False
        drawn = {item.id for item in self._of(electric.HookUp)}
        return not drawn or bool(drawn & set(feeds_of(self.system, part.id).sources))

    def pitch_carries_w(self, clock_s: float) -> float:
        """Give what the charger on the pitch takes to carry what stands by [W]."""
        putting = min(self.pitch_charge_w(clock_s), self.standing_w(clock_s))
        shares = [figure(part, "efficiency") for part in self._of(electric.Charger)]
        return putting / shares[0] if shares else 0.0

    def standing_w(self, clock_s: float) -> float:
        """Give what the battery gives whatever the water does [W].

        Other loads are spread evenly over the day; idle inverters, controllers and remotes
        all day; heat pads by the cold around them.
        """
        return self._once("standing", clock_s, self._standing_w)

    def _standing_w(self, clock_s: float) -> float:
        total = 0.0
        for load in self._of(electric.Load):
            if load.day_j is not None:  # else it is told, not counted
                total += load.day_j / DAY_S
        for inverter in self._of(electric.Inverter):
            on = self.positions.get(inverter.id) != "off"
            total += figure(inverter, "idle_w") if on else 0.0
        total += sum(figure(part, "idle_w") for part in self._of(electric.PanelController))
        total += sum(figure(part, "standby_w") for part in self._of(electric.Remote))
        for pad in self._of(heat.HeatPad):
            if self.positions.get(pad.id) == "off":
                continue
            around = self.space_c(pad.space, clock_s)
            held = 0.5 * (figure(pad, "on_c") + figure(pad, "off_c"))
            if around < figure(pad, "on_c"):
                total += min(figure(pad, "power_w"), PAD_W_PER_K * (held - around))
        return total

    def allowed(self, part: heat.Element | heat.Burner, clock_s: float) -> Allowed:
        """Say what a source may do now by its rule, its wires and the sun.

        Parameters
        ----------
        part : Element or Burner
            The source. [-]
        clock_s : float
            Since midnight. [s]

        Returns
        -------
        Allowed
            Watts only where something holds them under the source's own. [W]
        """
        if part.rule == "surplus sun" and not self._direct(part):
            return self._surplus(part, clock_s)  # by the battery too, not by the clock alone
        key = (part.id, round(clock_s % DAY_S, 3))
        if key not in self._allowed:
            self._allowed[key] = self._by_the_clock(part, clock_s)
        return self._allowed[key]

    def _direct(self, part: heat.Element | heat.Burner) -> electric.Panel | None:
        """Give the panel an element hangs on by itself."""
        return direct_panel(self.system, part) if isinstance(part, heat.Element) else None

    def _by_the_clock(self, part: heat.Element | heat.Burner, clock_s: float) -> Allowed:
        panel = self._direct(part)
        if panel is not None and isinstance(part, heat.Element):
            return self._straight(part, panel, clock_s)
        if part.rule == "while driving":
            return Allowed(self.driving(clock_s))
        if not self._has_pitch(clock_s) and self.on_pitch(part):
            return Allowed(False)
        hooked = any(isinstance(item, electric.HookUp) for item in self.system.parts)
        if part.rule == "on hook-up":
            if hooked and not self.plugged:
                return Allowed(False)
            return Allowed(True)
        return Allowed(True)

    def _straight(self, part: heat.Element, panel: electric.Panel, clock_s: float) -> Allowed:
        curve = self.curve(panel)
        sun = self.sun_share(clock_s)
        sun = min(1.0, sun * self.climate.tilted(figure(panel, "tilt_deg"), clock_s))
        ohm = part.resistance_ohm
        volts = part.rated_v
        if ohm is None and volts and part.power_w:
            ohm = volts * volts / part.power_w
        if curve is None or sun <= 0.0 or not ohm:
            return Allowed(False)
        over = cells_over_k(self.climate.air_at_c(clock_s), sun)
        wires = self._way_ohm(part.id, panel.id)
        watts, _ = on_element(curve, ohm + wires, sun, over_k=over)
        return Allowed(watts > 0.5, watts * ohm / (ohm + wires))

    def _way_ohm(self, load: str, source: str) -> float:
        """Give the resistance of the wires between a load and a source, there and back [Ω]."""
        key = (f"ohm {load} {source}", 0.0)
        if key not in self._kept:
            self._kept[key] = way_ohm(self.system, self.positions, load, source)
        return self._kept[key]

    def _surplus(self, part: heat.Element | heat.Burner, clock_s: float) -> Allowed:
        spare = self.panel_w(clock_s) - self.standing_w(clock_s)
        above = next(
            (
                item.surplus_above_share for item in self.system.parts
                if isinstance(item, electric.PanelController)
                and item.surplus_above_share is not None
            ),
            0.95,
        )  # fmt: skip
        full = self.usable_j is None or self.battery_j >= above * self.usable_j - 1e-6
        own = part.power_w if isinstance(part, heat.Element) else None
        watts = min(spare, known_or(own, spare))
        reaches = self._reaches(part)
        return Allowed(full and watts > 0.5, max(watts * reaches, 0.0), 1.0 / reaches)

    def _reaches(self, part: heat.Element | heat.Burner) -> float:
        """Give the share of an element's watts that its wires let through."""
        if not isinstance(part, heat.Element):
            return 1.0
        sources = feeds_of(self.system, part.id).sources
        found = next(
            (
                (item.id, volts) for item in self.system.parts
                if item.id in sources and (volts := source_volts(item, self.system)) is not None
            ),
            None,
        )  # fmt: skip
        if found is None:
            return 1.0
        ohm = element_ohm(part, found[1])
        return ohm / (ohm + self._way_ohm(part.id, found[0]))


def _drives(today: DayKind | None, system: ComputedSystem) -> list[tuple[float, float]]:
    """Give when the engine runs: as the kind of day says, else as the parts do [s]."""
    legs: tuple[tuple[float, float], ...]
    if today is not None and today.drive_s is not None:
        legs = ((today.drive_start_s, today.drive_s), (today.again_start_s, today.again_s))
    else:
        legs = tuple(
            (part.drive_start_s, part.drive_s) for part in system.parts
            if isinstance(part, electric.Alternator | heat.EngineCoolant)
        )  # fmt: skip
    return sorted({(start, start + span) for start, span in legs if span > 0})


def feeds_of_panel(system: System, panel_id: str) -> bool:
    """Say whether a controller hangs on a panel.

    Parameters
    ----------
    system : System
        The network. [-]
    panel_id : str
        The panel. [-]

    Returns
    -------
    bool
        By its cables. [-]
    """
    kinds = {part.id: part.kind for part in system.parts}
    return any(
        kinds.get(other) == "panel_controller"
        for run in system.runs if run.kind == "cable"
        for one, other in ((run.start.part, run.end.part), (run.end.part, run.start.part))
        if one == panel_id
    )  # fmt: skip


def battery_side(system: System, part: heat.Element) -> bool:
    """Say whether an element's heat comes out of the battery, not straight from panels.

    Parameters
    ----------
    system : System
        Its system. [-]
    part : Element
        The element. [-]

    Returns
    -------
    bool
        Low volts, and not wired straight to a panel. [-]
    """
    return on_battery(system, part) and direct_panel(system, part) is None
