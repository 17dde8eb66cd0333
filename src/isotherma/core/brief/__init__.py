"""The brief: who washes, when, where, for how long, and what may not run out."""

from __future__ import annotations

from math import inf
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from isotherma.core.brief.days import MAX_DAYS, DayKind
from isotherma.core.fields import (
    Air,
    Altitude,
    Bodied,
    Clock,
    Count,
    DayKindRef,
    Document,
    Energy,
    Flow,
    GivenName,
    InOrder,
    Mass,
    Minutes,
    Money,
    Name,
    Note,
    PartRef,
    RiseOf,
    Seconds,
    Setting,
    Share,
    ShownList,
    Size,
    Slug,
    StateRef,
    VolumeOrNone,
    Water,
    known,
    refusal,
)

Refusal = Literal[
    "gas", "diesel", "any flame", "mains", "battery heating", "coolant", "through-wall flue",
    "pressurised system", "mixing valve", "compressed-air draining", "licensed work",
]  # fmt: skip
Hurt = Literal["room", "money", "waiting", "flames", "holes", "complexity"]
Aim = Literal["window", "at least", "above the tank", "not freezing", "any"]
Purpose = Literal[
    "drinking", "cooking", "dishes", "hands and face", "wipe-down", "pets", "toilet flush",
    "laundry", "sanitising", "drain and test", "other",
]  # fmt: skip
Ignorable = Literal["fresh", "grey", "gas", "diesel", "mains", "battery", "waiting"]
Reserved = Literal["fresh", "grey", "gas", "diesel", "battery"]
MAX_OPEN_S = 4 * 3600.0
NOT_FREEZING_C = 5.0  # cold water people still bear on hands for a minute
BEARABLE_C = 45.0  # above it bare skin draws back


class Draw(Document):
    """One use of the outlet: when, how long, how warm, with which stops."""

    id: Slug
    name: GivenName = Field(title="What for")
    who: Name = Field(default="", title="Who")
    child: bool = Field(default=False, title="A child")
    start_s: Clock = Field(title="Starts at")
    duration_s: Minutes = Field(
        title="Water runs for", description="Running time, stops not counted."
    )
    clock: Literal["warm", "open"] = Field(
        default="warm",
        title="Counted from",
        description="The running time begins when the water is warm, or when the tap opens.",
    )
    outlet: PartRef | None = known("At which outlet", "Empty: the first shower head.")
    state: StateRef | None = known(
        "In which state", "Hands make the moves first and back after. Empty: as the day is seen."
    )
    aim: Aim = Field(
        default="window",
        title="Wanted",
        description="A window of your own, a lower edge, so much above the tank, or just not ice.",
    )
    low_c: Setting = Field(default=37.0, title="Warm enough from")
    high_c: Setting = Field(default=43.0, title="Too hot above")
    rise_k: RiseOf | None = known("Above the tank by", "For “above the tank”.")
    nudged: bool = Field(
        default=False, title="Nudged by hand", description="The mixer is turned up as it sags."
    )
    flow_m3_per_s: Flow | None = Field(
        default=None, title="Throttled to", description="Empty: the head fully open."
    )
    stops: Annotated[int, Field(ge=0, le=20)] = Field(
        default=0, title="Stops", description="How often the water is shut while soaping."
    )
    stop_s: Seconds = Field(default=60.0, title="Each stop")
    gives_up_c: Setting | None = known(
        "Gives up below", "Ends the wash when it stays colder for ten seconds; empty: never."
    )
    waits_hot: bool = Field(
        default=False,
        title="Waits for hot again",
        description="Begins only when the store is hot again, three hours later at most.",
    )

    @model_validator(mode="after")
    def _window_is_open(self) -> Self:
        if self.aim == "window" and self.high_c < self.low_c + 1.0:
            raise refusal("window_shut")
        if self.aim == "above the tank" and self.rise_k is None:
            raise refusal("rise_missing")
        return self

    def window_c(self, fresh_c: float) -> tuple[float, float]:
        """Give the edges this draw is judged by.

        Parameters
        ----------
        fresh_c : float
            Temperature of the fresh tank. [°C]

        Returns
        -------
        tuple of float
            Lower and upper edge, at least 1 K apart. [°C]
        """
        top = max(self.high_c, BEARABLE_C)
        match self.aim:
            case "window":
                return self.low_c, self.high_c
            case "at least":
                return self.low_c, max(top, self.low_c + 1.0)
            case "above the tank":
                assert self.rise_k is not None  # asked for with this aim
                low = fresh_c + self.rise_k
                return low, max(top, low + 1.0)
            case "not freezing":
                return NOT_FREEZING_C, top
            case "any":
                return 0.0, top

    def settled(self, fresh_c: float) -> Draw:
        """Write the edges it is judged by into a copy."""
        low_c, high_c = self.window_c(fresh_c)
        return self.model_copy(update={"low_c": low_c, "high_c": high_c})


class Use(Document):
    """Water by the litre that is no draw of its own: drinking, cooking, flushing."""

    id: Slug
    name: GivenName = Field(title="What for")
    purpose: Purpose = Field(default="other", title="Kind")
    who: Name = Field(default="", title="Who")
    volume_m3: VolumeOrNone = Field(default=0.0, title="Each time")
    times: Annotated[float, Field(ge=0, le=200)] = Field(default=1.0, title="Times")
    every_days: Annotated[int, Field(ge=1, le=60)] = Field(
        default=1, title="Every so many days", description="1: each day."
    )
    grey_share: Share = Field(default=1.0, title="Of it to the grey tank")
    warm_c: Setting | None = known("Warmed to", "Empty: as it is in the tank.")
    outlet: PartRef | None = known("At which outlet")
    source: PartRef | None = known("From", "A tank, can or outside source; empty: the main tank.")

    @property
    def day_m3(self) -> float:
        """Litres of an average day [m³]."""
        return self.volume_m3 * self.times / self.every_days


class Budgets(Document):
    """Hard limits besides the fresh tank; empty means nobody set one."""

    grey_m3: VolumeOrNone | None = Field(default=None, title="Grey water room")
    gas_kg: Mass | None = Field(default=None, title="Gas carried")
    mains_energy_j: Energy | None = Field(default=None, title="Mains energy")
    longest_wait_s: Seconds = Field(
        default=60.0, title="Longest wait for warm", description="At the head, before each draw."
    )
    setup_s: Seconds | None = known(
        "Set up and pack", "Seconds of each use, from the farthest state into the first and back."
    )
    headroom_m: Size | None = known("Headroom to wash in", "At least; the vehicle says its own.")
    holes: Count | None = known("Holes", "Through the body and partitions, at most.")
    money: Money | None = known("Money", "At most, in your own.")
    mass_kg: Bodied | None = known("Mass with tanks full", "Of all parts and their water, at most.")
    room_m3: VolumeOrNone | None = known(
        "Room", "Of what stands in cupboards and lockers, by outer sizes, at most."
    )
    fresh_reserve: Share | None = known("Of the fresh water", "Empty: the share for all.")
    gas_reserve: Share | None = known("Of the gas", "Empty: the share for all.")
    grey_reserve: Share | None = known("Of the grey water room", "Empty: all of it is filled.")
    diesel_reserve: Share | None = known("Of the fuel", "Empty: all of it is burnt.")
    battery_reserve: Share | None = known("Of the battery", "Of its usable part; empty: none.")
    ignored: Annotated[tuple[Ignorable, ...], Field(max_length=7)] = Field(
        default=(),
        title="Does not matter",
        description="Neither limits nor ends the trip, whatever is carried of it.",
    )

    @model_validator(mode="after")
    def _named_once(self) -> Self:
        if len(set(self.ignored)) != len(self.ignored):
            raise refusal("named_twice")
        return self

    def matters(self, budget: str) -> bool:
        """Say whether a budget limits the trip."""
        return budget not in self.ignored

    @property
    def wait_limit_s(self) -> float:
        """The longest wait a draw may have; without end where waiting does not matter [s]."""
        return self.longest_wait_s if self.matters("waiting") else inf


class Brief(Document):
    """What the water is for, on one trip: of equal days, or of kinds of day in an order."""

    days: Annotated[int, Field(ge=1, le=60)] = Field(
        default=1, title="Days between fills", description="Each day is like the one described."
    )
    day_kinds: Annotated[tuple[DayKind, ...], Field(max_length=12)] = Field(
        default=(), title="Kinds of day"
    )
    order: Annotated[tuple[DayKindRef, ...], InOrder(), Field(max_length=MAX_DAYS)] = Field(
        default=(),
        title="Day after day",
        description="Kinds of day, as in “drive, stay × 3, hook-up”. Empty: all days are alike.",
    )
    region: Slug = Field(default="river-plain", title="Region")
    month: Annotated[int, Field(ge=1, le=12)] = Field(default=6, title="Month")
    air_c: (
        Annotated[
            tuple[Annotated[float, Field(ge=-40, le=55)], ...],
            ShownList("temperature"),
            Field(min_length=12, max_length=12),
        ]
        | None
    ) = known("Your own twelve months", "Mean air, January first; they win over the region.")
    coldest_c: Air | None = known(
        "Coldest month, on average", "Your own place; the other months follow the region's shape."
    )
    warmest_c: Air | None = known("Warmest month, on average")
    altitude_m: Altitude | None = known("Highest place", "Above the sea.")
    cold_water_c: Water | None = Field(
        default=None,
        title="Cold water",
        description="Empty: estimated from the region, the month and where the tank lives.",
    )
    inside_c: Air = Field(default=18.0, title="Living space kept at")
    day_start: Literal["standing", "cold"] = Field(
        default="standing",
        title="The store at midnight",
        description="As the day before left it, or just filled and cold.",
    )
    draws: Annotated[tuple[Draw, ...], Field(max_length=24)] = ()
    people: Annotated[int, Field(ge=1, le=20)] | None = known("People")
    washes: Literal["inside", "outside"] | None = known("Where people wash")
    uses: Annotated[tuple[Use, ...], Field(max_length=40)] = ()
    gives_up_s: Seconds = Field(
        default=180.0,
        title="Gives up waiting after",
        description="Then the person washes anyway.",
    )
    budgets: Budgets = Budgets()
    reserve: Share = Field(
        default=0.0, title="Kept in reserve", description="Share of fresh water and gas left over."
    )
    will_not_have: Annotated[tuple[Refusal, ...], Field(max_length=11)] = Field(
        default=(), title="Will not have"
    )
    struck: Annotated[tuple[Slug, ...], Field(max_length=60)] = Field(
        default=(),
        title="Ways of heating struck by hand",
        description="They are not sized; all else is.",
    )
    kept: Annotated[tuple[Slug, ...], Field(max_length=60)] = Field(
        default=(),
        title="Ways of heating brought back",
        description="They are sized though they have no place for what is there already.",
    )
    hurts: Annotated[tuple[Hurt, ...], Field(max_length=6)] = Field(
        default=(),
        title="What hurts most",
        description="Flames, holes and complexity decide which ways of heating come first; "
        "room, money and waiting are kept for sizing.",
    )
    examples: Annotated[
        tuple[Annotated[str, Field(pattern=r"^[a-z][a-z_0-9]{0,39}$")], ...], Field(max_length=40)
    ] = Field(
        default=(),
        title="Still an example",
        description="Names of what stands here as an example and nobody has touched yet.",
    )
    note: Note = Field(default="", title="Note")

    @model_validator(mode="after")
    def _draws_fit(self) -> Self:
        seen: set[str] = set()
        for draw in self.draws:
            if draw.id in seen:
                raise refusal("same_id", what="draws", id=draw.id)
            seen.add(draw.id)
        total_s = sum(
            draw.duration_s + draw.stops * draw.stop_s + self.gives_up_s for draw in self.draws
        )
        if total_s > MAX_OPEN_S:
            raise refusal("draws_too_long")
        uses = [use.id for use in self.uses]
        twice = next((key for key in uses if uses.count(key) > 1), None)
        if twice is not None:
            raise refusal("same_id", what="uses", id=twice)
        for named in (self.will_not_have, self.struck, self.kept, self.hurts, self.examples):
            if len(set(named)) != len(named):
                raise refusal("named_twice")
        self._days_fit()
        if (
            self.coldest_c is not None and self.warmest_c is not None
            and self.warmest_c < self.coldest_c
        ):  # fmt: skip
            raise refusal("warmest_is_colder")
        return self

    def _days_fit(self) -> None:
        kinds = [kind.id for kind in self.day_kinds]
        twice = next((key for key in kinds if kinds.count(key) > 1), None)
        if twice is not None:
            raise refusal("same_id", what="day_kinds", id=twice)
        there = {"draw": {draw.id for draw in self.draws}, "use": {use.id for use in self.uses},
                 "day kind": set(kinds)}  # fmt: skip
        named = [("day kind", key) for key in self.order]
        for kind in self.day_kinds:
            named += [("draw", key) for key in kind.without_draws]
            named += [("use", key) for key in kind.without_uses]
        for what, key in named:
            if key not in there[what]:
                known_ids = ", ".join(sorted(there[what])) or "none"
                raise refusal("not_in_brief", what=what, id=key, known=known_ids)

    def reserve_of(self, budget: Reserved) -> float:
        """Give the share of a budget that is kept in reserve [-]."""
        own: float | None = getattr(self.budgets, f"{budget}_reserve")
        if own is not None:
            return own
        return self.reserve if budget in ("fresh", "gas") else 0.0

    @property
    def trip_days(self) -> int:
        """How many days the trip has [-]."""
        return len(self.order) if self.order else self.days

    @property
    def unlike(self) -> bool:
        """Say whether the trip has days of several kinds."""
        return len(set(self.order)) > 1

    @property
    def today(self) -> DayKind | None:
        """The kind all days of the trip are of; None where they say nothing, or differ."""
        if len(set(self.order)) != 1:
            return None
        return self.kind(self.order[0])

    def kind(self, kind_id: str) -> DayKind:
        """Find a kind of day by id; KeyError if it is not there."""
        for kind in self.day_kinds:
            if kind.id == kind_id:
                return kind
        raise KeyError(kind_id)

    @property
    def other_fresh_m3(self) -> float:
        """Fresh water of an average day beside the draws [m³]."""
        return sum(use.day_m3 for use in self.uses if use.source is None)

    @property
    def other_grey_m3(self) -> float:
        """What of it ends in the grey tank [m³]."""
        return sum(use.day_m3 * use.grey_share for use in self.uses)
