"""What may be tried on a design that fails: one list of small changes, the smallest first.

Each is a few values at their paths in the project, so that keeping one is an edit like any other.
Knobs come before habits and habits before parts; what suits what failed comes first.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from isotherma.core.editing import plan_stop
from isotherma.core.project import Project, Variant
from isotherma.core.results.causes import Broke
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.kinds import electric, heat, temperature, water
from isotherma.core.system.pieces import LITRE, LITRE_PER_MIN, PartBase

TRIED_AT_MOST: Final = 20
SHOWN_AT_MOST: Final = 3
SINGLES: Final = 11  # of the runs, before changes are put together by two
PAIRS: Final = 17  # and by three

# sizes shops keep, ours
_STORES_M3: Final = tuple(v * LITRE for v in (3, 5, 8, 10, 14, 20, 28, 40, 60, 80))
_TANKS_M3: Final = tuple(v * LITRE for v in (20, 30, 40, 50, 60, 80, 100, 120, 150, 200, 300))
_FOAM_M: Final = (0.009, 0.019, 0.03, 0.04, 0.05, 0.08)
_WATTS: Final = (100.0, 200.0, 300.0, 400.0, 600.0, 800.0, 1000.0, 1500.0, 2000.0)
_FUSES_A: Final = (5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0)
_CABLES_M2: Final = tuple(v * 1e-6 for v in (1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0))
_LEAST_FLOW: Final = 1.5 * LITRE_PER_MIN  # under it nobody rinses
_HOTTEST_STORE_C: Final = 85.0
_HOTTEST_SKIN_C: Final = 43.0


class What(StrEnum):
    """What is changed."""

    GAS_KNOB = "gas_knob"
    SEASON = "season"
    SET_POINT = "set_point"
    FLOW = "flow"
    MINUTES = "minutes"
    STOPS = "stops"
    DAYS = "days"
    PLANNED = "planned"
    WAIT = "wait"
    TURNS = "turns"
    FOAM = "foam"
    FUSE = "fuse"
    ELEMENT = "element"
    STORE = "store"
    TANK = "tank"
    GREY = "grey"
    FILL = "fill"
    PANEL = "panel"
    BOTTLE = "bottle"
    JUG = "jug"
    DIVERTER = "diverter"
    PIPE = "pipe"
    HEAD = "head"
    RUN = "run"
    LAGGED = "lagged"


# how far a change reaches: a knob, a habit, a roll of foam, a part
_WEIGHT: Final[Mapping[What, int]] = {
    What.GAS_KNOB: 1, What.SEASON: 1, What.SET_POINT: 1, What.FLOW: 2, What.WAIT: 2, What.TURNS: 2,
    What.MINUTES: 3, What.STOPS: 3, What.DAYS: 3, What.PLANNED: 3, What.FOAM: 5, What.FUSE: 6,
    What.ELEMENT: 7, What.STORE: 8, What.TANK: 8, What.GREY: 8,
    What.FILL: 3, What.PANEL: 8, What.BOTTLE: 6,
    What.JUG: 3, What.DIVERTER: 7, What.PIPE: 6, What.HEAD: 4,
    What.RUN: 6, What.LAGGED: 4,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Change:
    """One change that may be tried: what, at which part, from what to what.

    `values` are its new values by path in the project; `step` how many sizes or notches it goes.
    What no value says is an `edit` of its own, by name, of the part `part_id`.
    """

    what: What
    part_id: str
    before: float | str | None
    after: float | str
    style: str
    values: Mapping[str, object]
    step: int = 1
    edit: str = ""

    @property
    def weight(self) -> int:
        """Say how far it reaches, for putting the smallest first."""
        return _WEIGHT[self.what] * 10 + self.step


@dataclass(frozen=True, slots=True)
class Failing:
    """What of a design is not as the brief asks."""

    cold: bool
    hot: bool
    waits: bool
    water: bool
    grey: bool
    supply: bool
    broke: tuple[Broke, ...]

    @property
    def any(self) -> bool:
        """Say whether anything is."""
        return bool(self.cold or self.hot or self.waits or self.water or self.grey
                    or self.supply or self.broke)  # fmt: skip


_COLD: Final = {
    WhyNot.NEVER_WARM, WhyNot.STAYS_COOL, WhyNot.RUNS_COOL, WhyNot.LONG_WAIT, WhyNot.NO_FLOW,
}  # fmt: skip
_SUPPLY: Final = {"gas", "diesel", "mains", "battery"}


def failing(outcome: Outcome) -> Failing:
    """Say what of a day and its trip is not as asked.

    Parameters
    ----------
    outcome : Outcome
        What was computed. [-]

    Returns
    -------
    Failing
        By kind. [-]
    """
    why = {draw.why_not for draw in outcome.draws if not draw.met}
    short = {entry.budget for entry in outcome.ledger if entry.ends_on_day is not None}
    return Failing(
        cold=bool(why & _COLD),
        hot=WhyNot.TOO_HOT in why,
        waits=WhyNot.LONG_WAIT in why,
        water="fresh" in short or WhyNot.DRY in why,
        grey="grey" in short,
        supply=bool(short & _SUPPLY) or bool(why & {WhyNot.NO_GAS, WhyNot.NO_FUEL,
                                                    WhyNot.NO_POWER}),
        broke=tuple(cause.broke for cause in outcome.causes),
    )  # fmt: skip


def shortfall(outcome: Outcome) -> float:
    """Measure how far a design is from what the brief asks.

    Parameters
    ----------
    outcome : Outcome
        What was computed. [-]

    Returns
    -------
    float
        0.0 where everything is as asked; else one for each draw, budget and cause that is not,
        and up to one more for how far. [-]
    """
    far = 2.0 * len(outcome.causes)
    for draw in outcome.draws:
        if not draw.met:
            given = draw.comfort_s / draw.asked_s if draw.asked_s > 0.0 else 0.0
            far += 1.0 + max(0.0, 1.0 - given)
    for entry in outcome.ledger:
        if entry.ends_on_day is not None and entry.limit is not None:
            over = entry.used / entry.limit - 1.0 if entry.limit > 0.0 else 1.0
            far += 1.0 + min(1.0, over)
    return far


def _next(sizes: tuple[float, ...], now: float, steps: int) -> float | None:
    """Give the size so many steps up; None where there is none."""
    larger = [size for size in sizes if size > now * 1.001]
    return larger[steps - 1] if len(larger) >= steps else None


class Tries:
    """The changes of one variant, kind by kind; `failed` says for what they are looked for."""

    def __init__(
        self, project: Project, variant: Variant, outcome: Outcome, failed: Failing | None = None
    ) -> None:
        self.project, self.variant, self.outcome = project, variant, outcome
        self.parts = f"variants.{variant.id}.system.parts"
        self.failed = failing(outcome) if failed is None else failed

    def _known(self, part: PartBase, name: str) -> float | None:
        """Give a figure as the engine used it."""
        value = getattr(self.outcome.setup.parts.get(part.id, part), name)
        return None if value is None else float(value)

    def part_change(self, what: What, part: PartBase, name: str, after: float | str, style: str,
              step: int = 1) -> Change:  # fmt: skip
        """Give a part another value of one of its figures."""
        before = getattr(part, name) if isinstance(after, str) else self._known(part, name)
        return Change(what, part.id, before, after, style,
                      {f"{self.parts}.{part.id}.{name}": after}, step)  # fmt: skip

    def knobs(self) -> Iterator[Change]:
        """What hands turn: gas and season, mixers, heaters and thermostats."""
        up = self.failed.cold and not self.failed.hot
        for part in self.variant.system.parts:
            if isinstance(part, heat.ThroughFlowGas) and part.control == "two knobs":
                for step in (1, 2, 3):
                    after = round(part.gas_share + (0.1 if up else -0.1) * step, 2)
                    if 0.0 < after <= 1.0:
                        yield self.part_change(
                            What.GAS_KNOB, part, "gas_share", after, "share", step
                        )
                season = "winter" if up else "summer"
                if part.season != season:
                    yield self.part_change(What.SEASON, part, "season", season, "")
            elif isinstance(part, temperature.ThermostaticMixer | heat.ThroughFlowGas):
                for step in (1, 2):
                    after_c = part.set_c + (2.0 if up else -2.0) * step
                    if 30.0 <= after_c <= _HOTTEST_SKIN_C + 2.0:
                        yield self.part_change(
                            What.SET_POINT, part, "set_c", after_c, "temperature", step
                        )

    def set_points(self) -> Iterator[Change]:
        """Stores kept hotter, or cooler where fuel runs short."""
        for part in self.variant.system.parts:
            if not isinstance(part, heat.Element | heat.Burner | heat.Combi | heat.Thermostat):
                continue
            for step in (1, 2, 3):
                after_c = part.set_c + (5.0 if self.failed.cold else -5.0) * step
                if 40.0 <= after_c <= _HOTTEST_STORE_C:
                    yield self.part_change(
                        What.SET_POINT, part, "set_c", after_c, "temperature", step
                    )

    def flows(self) -> Iterator[Change]:
        """Less water a minute, for everybody who is not served or who takes of what runs out."""
        all_of_them = self.failed.water or self.failed.grey or self.failed.supply
        served = [draw for draw in self.outcome.draws if all_of_them or not draw.met]
        now = max((draw.flow_m3_per_s for draw in served), default=0.0)
        for step in (1, 2, 3, 4):  # half a litre a minute each
            after = round((now / LITRE_PER_MIN - 0.5 * step) * 2.0) / 2.0 * LITRE_PER_MIN
            if _LEAST_FLOW <= after < now:
                values = {f"brief.draws.{draw.draw.id}.flow_m3_per_s": after for draw in served}
                yield Change(What.FLOW, "", now, after, "flow", values, step)

    def minutes(self) -> Iterator[Change]:
        """A minute or two less under the shower."""
        longest = max((draw.duration_s for draw in self.project.brief.draws), default=0.0)
        for step in (1, 2, 3):
            after = longest - 60.0 * step
            if after < 60.0:
                continue
            values = {
                f"brief.draws.{draw.id}.duration_s": after
                for draw in self.project.brief.draws if draw.duration_s > after
            }  # fmt: skip
            yield Change(What.MINUTES, "", longest, after, "minutes", values, step)

    def turns(self) -> Iterator[Change]:
        """Whoever is next waits until the store is hot again."""
        stores = any(isinstance(part, heat.Store | heat.Combi | heat.Canister)
                     for part in self.variant.system.parts)  # fmt: skip
        later = sorted(self.project.brief.draws, key=lambda draw: draw.start_s)[1:]
        values = {f"brief.draws.{draw.id}.waits_hot": True for draw in later if not draw.waits_hot}
        if stores and values:
            yield Change(What.TURNS, "", "at once", "hot again", "", values)

    def stops(self) -> Iterator[Change]:
        """Water shut while soaping where litres end; left running where a flame must light anew."""
        lights = any(isinstance(part, heat.ThroughFlow) for part in self.variant.system.parts)
        draws = self.project.brief.draws
        stopped = [draw for draw in draws if draw.stops > 0]
        if lights and self.failed.cold and stopped:
            values = {f"brief.draws.{draw.id}.stops": 0 for draw in stopped}
            yield Change(What.STOPS, "", float(stopped[0].stops), 0.0, "number", values)

    def days(self) -> Iterator[Change]:
        """Fill and empty before anything ends."""
        ends = [
            entry.ends_on_day for entry in self.outcome.ledger
            if entry.ends_on_day is not None and entry.budget not in ("warmth", "waiting")
        ]  # fmt: skip
        lasts = max(1, min(ends, default=0) - 1)
        brief = self.project.brief
        if brief.order:
            yield from self._stops()
        elif ends and lasts < brief.days:
            yield Change(What.DAYS, "", float(brief.days), float(lasts), "number",
                         {"brief.days": lasts})  # fmt: skip

    def _stops(self) -> Iterator[Change]:
        """Plan the stops that a trip of unlike days needs."""
        trip, project = self.outcome.trip, self.project
        if not trip.needed or trip.hopeless:
            return
        for stop in trip.needed:
            project = plan_stop(project, stop.day, stop.what)
        planned = sum(stop.planned for stop in trip.stops)
        brief = project.brief.model_dump(mode="json")
        yield Change(
            What.PLANNED, "", float(planned), float(planned + len(trip.needed)), "number",
            {"brief.day_kinds": brief["day_kinds"], "brief.order": brief["order"]},
        )  # fmt: skip

    def wait(self) -> Iterator[Change]:
        """Allow the wait there is, where it is all that is wrong."""
        waits = [draw.wait_s for draw in self.outcome.draws if draw.wait_s is not None]
        now = self.project.brief.budgets.longest_wait_s
        after = float(-(-max(waits, default=0.0) // 10) * 10)
        if self.failed.waits and now < after <= 300.0:
            yield Change(What.WAIT, "", now, after, "seconds",
                         {"brief.budgets.longest_wait_s": after})  # fmt: skip

    def sizes(self) -> Iterator[Change]:
        """Foam, element and store a size up."""
        for part in self.variant.system.parts:
            if isinstance(part, heat.Store):
                foam, litres = self._known(part, "insulation_m"), self._known(part, "volume_m3")
                for step in (1, 2, 3):
                    after = None if litres is None else _next(_STORES_M3, litres, step)
                    if after is not None:
                        yield self.part_change(What.STORE, part, "volume_m3", after, "volume", step)
                thicker = None if foam is None else _next(_FOAM_M, foam, 1)
                if thicker is not None:
                    yield self.part_change(What.FOAM, part, "insulation_m", thicker, "bore")
            elif isinstance(part, heat.Element):
                watts = self._known(part, "power_w")
                for step in (1, 2, 3):
                    after = None if watts is None else _next(_WATTS, watts, step)
                    if after is not None:
                        yield self._element(part, after, step)

    def _element(self, part: heat.Element, watts: float, step: int) -> Change:
        name = "rated_w" if part.rated_w is not None and part.power_w is None else "power_w"
        return self.part_change(What.ELEMENT, part, name, watts, "power", step)

    def tanks(self) -> Iterator[Change]:
        """Tanks large enough for what is used until they are filled or emptied."""
        used = {entry.budget: entry for entry in self.outcome.ledger}
        brief = self.project.brief
        fresh, grey = 1.0 - brief.reserve_of("fresh"), 1.0 - brief.reserve_of("grey")
        for part in self.variant.system.parts:
            if isinstance(part, water.FreshTank) and self.failed.water:
                yield from self._large_enough(What.TANK, part, used["fresh"].used / fresh)
            elif part.kind == "grey_tank" and self.failed.grey:
                yield from self._large_enough(What.GREY, part, used["grey"].used / grey)

    def next_tanks(self, what: What) -> Iterator[Change]:
        """The next larger tank, of fresh water or of grey."""
        for part in self.variant.system.parts:
            mine = part.kind == "grey_tank" if what is What.GREY else isinstance(
                part, water.FreshTank)  # fmt: skip
            now = self._known(part, "volume_m3") if mine else None
            after = None if now is None else _next(_TANKS_M3, now, 1)
            if after is not None:
                yield self.part_change(what, part, "volume_m3", after, "volume")

    def _large_enough(self, what: What, part: PartBase, wanted_m3: float) -> Iterator[Change]:
        now = self._known(part, "volume_m3")
        after = next((size for size in _TANKS_M3 if size >= wanted_m3), None)
        if now is not None and after is not None and after > now:
            step = sum(now < size <= after for size in _TANKS_M3)
            yield self.part_change(what, part, "volume_m3", after, "volume", step)

    def wires(self) -> Iterator[Change]:
        """A fuse that holds, with the cable it may protect."""
        for cause in self.outcome.causes:
            part = next((item for item in self.variant.system.parts if item.id == cause.part_id),
                        None)  # fmt: skip
            if cause.broke is not Broke.FUSE or not isinstance(part, electric.Circuit):
                continue
            now = self._known(part, "fuse_a")
            after = None if now is None else _next(_FUSES_A, now, 1)
            if after is None:
                continue
            values: dict[str, object] = {f"{self.parts}.{part.id}.fuse_a": after}
            for run in self.variant.system.runs:
                thick = getattr(run, "area_m2", None)
                if part.id in (run.start.part, run.end.part) and thick is not None:
                    thicker = _next(_CABLES_M2, thick, 1)
                    if thicker is not None:
                        path = f"variants.{self.variant.id}.system.runs.{run.id}.area_m2"
                        values[path] = thicker
            yield Change(What.FUSE, part.id, now, after, "current", values)


def changes_of(project: Project, variant: Variant, outcome: Outcome) -> tuple[Change, ...]:
    """List what may be tried on a design that fails, what suits its failure first.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    outcome : Outcome
        What it does now. [-]

    Returns
    -------
    tuple of Change
        Empty where nothing fails; else the likeliest first, of equals the smallest. [-]
    """
    tries = Tries(project, variant, outcome)
    failed = tries.failed
    found: list[Iterator[Change]] = []
    if failed.broke:
        found.append(tries.wires())
    if failed.cold or failed.hot:
        found += [tries.knobs(), tries.wait()]
    if failed.water or failed.grey or failed.supply:
        found += [tries.days(), tries.tanks()]
    if failed.cold:
        found += [tries.turns(), tries.flows(), tries.stops(), tries.set_points(), tries.sizes()]
    if failed.water or failed.grey or failed.supply:
        found += [tries.flows(), tries.set_points()] if failed.supply else [tries.flows()]
    if failed.any:
        found.append(tries.minutes())
    unique: dict[tuple[str, ...], Change] = {}
    for change in (change for group in found for change in group):
        unique.setdefault((*change.values, str(change.after)), change)
    return tuple(unique.values())
