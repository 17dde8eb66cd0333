"""How far the results may lie off: one uncertain figure at a time, low and high."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.errors import CoreError
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat, use
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.understood import understand

MOST: Final = 5  # 2 × 5 + 1 runs; the least of what is left out moves little
COLD_BAND_K: Final = 3.0  # a tank nobody measured
# how strongly a figure moves the day for its relative spread; judgement, only to choose by
WEIGHTS: Final[Mapping[str, float]] = {
    "volume_m3": 2.0, "power_w": 1.5, "input_w": 1.2, "efficiency": 1.2, "heat_w": 1.2,
    "heats_in_s": 1.0, "conductance_w_per_k": 0.5, "loss_w_per_k": 0.4, "on_flow_m3_per_s": 0.7,
    "flow_factor_si": 2.0, "open_flow_m3_per_s": 0.6, "usable_j": 1.0, "coolant_c": 1.0,
    "rated_w": 0.5, "body_j_per_k": 0.2, "jet_share": 0.1, "sensor_share": 0.15,
    "unreachable": 0.3, "least_w": 0.3, "hysteresis_k": 0.1,
}  # fmt: skip
_NOT_WATER: Final = {"gauges", "vehicle"}
_HOLDS: Final = (
    heat.Store, heat.Combi, heat.Canister, heat.SunContainer, moved.FreshTank, moved.GravityBag,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Doubt:
    """One uncertain figure: where it is, what it may be, why."""

    path: str
    part_id: str
    label: str
    title: str
    name: str
    style: str
    low: float
    likely: float
    high: float
    because: str

    @property
    def words(self) -> str:
        """Its part and its name; the name alone where they are the same."""
        if self.label == self.title:
            return self.title.lower()
        return f"{self.label}: {self.title.lower()}"


@dataclass(frozen=True, slots=True)
class Reach:
    """A result with how low and high it may be; None where there is none.

    `moved_by` names the doubts that moved it most, the strongest first.
    """

    id: str
    title: str
    style: str
    low: float | None
    likely: float | None
    high: float | None
    moved_by: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Range:
    """The band of a day: the doubts that were tried, and what they did."""

    doubts: tuple[Doubt, ...]
    reaches: tuple[Reach, ...]
    runs: int
    decides: tuple[str, ...]

    def reach(self, reach_id: str) -> Reach | None:
        """Find the reach of a result by its id."""
        return next((item for item in self.reaches if item.id == reach_id), None)


def doubts_of(brief: Brief, system: System, fresh_c: float) -> tuple[Doubt, ...]:
    """Choose the uncertain figures that matter most.

    Parameters
    ----------
    brief, system : Brief, System
        The documents. [-]
    fresh_c : float
        Cold water as estimated. [°C]

    Returns
    -------
    tuple of Doubt
        At most five, the weightiest first; given figures are certain. [-]
    """
    found: list[tuple[float, Doubt]] = []
    if brief.cold_water_c is None and brief.draws:
        cold = Doubt("brief.cold_water_c", "", "Cold water", "Cold water", "cold_water_c",
                     "temperature", max(1.0, fresh_c - COLD_BAND_K), fresh_c,
                     fresh_c + COLD_BAND_K, "estimated, not measured")  # fmt: skip
        found.append((2 * COLD_BAND_K / 25.0, cold))
    for part in system.parts:
        if part.side in _NOT_WATER:
            continue
        for figure in understand(part, system.around(part)):
            weight = _weight(part, figure.name)
            low, likely, high = figure.low, figure.likely, figure.high
            if not weight or figure.origin == "given" or None in (low, likely, high):
                continue
            if figure.name not in type(part).model_fields or not likely:
                continue
            assert low is not None and high is not None
            spread = (high - low) / abs(likely)
            if spread < 1e-6:
                continue
            found.append((
                weight * spread,
                Doubt(f"parts.{part.id}.{figure.name}", part.id, part.label, figure.title,
                      figure.name, figure.style, low, likely, high, figure.because),
            ))  # fmt: skip
    found.sort(key=lambda item: (-item[0], item[1].path))
    return tuple(doubt for _, doubt in found[:MOST])


def _weight(part: AnyKind, name: str) -> float:
    """Say how much a figure counts: bores of the way hardly, heads and vessels much."""
    if name == "flow_factor_si" and not isinstance(part, use.Outlet):
        return 0.2
    if name == "volume_m3" and not isinstance(part, _HOLDS):
        return 0.0
    return WEIGHTS.get(name, 0.0)


def _with(brief: Brief, system: System, doubt: Doubt, value: float) -> tuple[Brief, System]:
    """Give the documents with one figure changed."""
    if not doubt.part_id:
        return brief.model_copy(update={"cold_water_c": value}), system
    parts = tuple(
        part.model_copy(update={doubt.name: value}) if part.id == doubt.part_id else part
        for part in system.parts
    )
    return brief, system.model_copy(update={"parts": parts})


def _figures(outcome: Outcome) -> dict[str, tuple[str, str, float | None]]:
    """Take the results a band is made of, by id: title, style, value."""
    found: dict[str, tuple[str, str, float | None]] = {}
    for draw in outcome.draws:
        key, name = draw.draw.id, draw.draw.name
        found[f"wait.{key}"] = (f"{name}: wait", "seconds", draw.wait_s)
        found[f"warm.{key}"] = (f"{name}: warm for", "seconds", draw.comfort_s)
        found[f"peak.{key}"] = (f"{name}: hottest", "temperature", draw.peak_c)
        found[f"flow.{key}"] = (f"{name}: flow", "flow", draw.flow_m3_per_s)
    for entry in outcome.ledger:
        found[f"used.{entry.budget}"] = (f"{TITLES[entry.budget]} used", entry.style, entry.used)
        if entry.limit is not None:
            found[f"limit.{entry.budget}"] = (
                f"{TITLES[entry.budget]} there is", entry.style, entry.limit,
            )  # fmt: skip
    return found


def _turns(likely: Outcome, other: Outcome) -> set[str]:
    """Say which answers differ: draws as asked or not, budgets that hold or not."""
    found = set()
    for one, two in zip(likely.draws, other.draws, strict=True):
        if one.met != two.met:
            found.add(f"draw.{one.draw.id}")
    for first, second in zip(likely.ledger, other.ledger, strict=True):
        if (first.ends_on_day is None) != (second.ends_on_day is None):
            found.add(f"budget.{first.budget}")
    return found


def make_band(
    brief: Brief,
    system: System,
    likely: Outcome,
    run: Callable[[Brief, System], Outcome],
) -> Range:
    """Run a day again with each uncertain figure low and high.

    Parameters
    ----------
    brief, system : Brief, System
        The documents. [-]
    likely : Outcome
        What they give as they are. [-]
    run : callable
        Simulates changed documents. [-]

    Returns
    -------
    Range
        Reaches of waits, warm seconds, peaks, flows and budgets; `decides` names what one of
        the doubts alone would turn. [-]

    Notes
    -----
    2k + 1 runs. The band of a result is its likely value with the sum of what each doubt
    lowers it by, and of what each raises it by: the worst together, if they act alone.

    References
    ----------
    JCGM 100 (GUM), one-at-a-time sensitivities; summed without sign luck.
    """
    doubts = doubts_of(brief, system, likely.fresh_c)
    base = _figures(likely)
    falls = dict.fromkeys(base, 0.0)
    rises = dict.fromkeys(base, 0.0)
    moved: dict[str, list[tuple[float, str]]] = {key: [] for key in base}
    lost: set[str] = set()
    decides: set[str] = set()
    runs = 1
    for doubt in doubts:
        changes: dict[str, list[float]] = {}
        for value in (doubt.low, doubt.high):
            if value == doubt.likely:
                continue
            runs += 1
            try:
                other = run(*_with(brief, system, doubt, value))
            except CoreError:
                continue  # at this end there is no answer; the other end still counts
            decides |= _turns(likely, other)
            for key, (_, _, after) in _figures(other).items():
                before = base[key][2] if key in base else None
                if after is not None and before is not None:
                    changes.setdefault(key, []).append(after - before)
                elif after != before:
                    lost.add(key)
        for key, ways in changes.items():
            falls[key] += min(0.0, *ways, 0.0)
            rises[key] += max(0.0, *ways, 0.0)
            most = max(abs(change) for change in ways)
            if most > 1e-9:
                moved[key].append((most, doubt.words))
    reaches = []
    for key, (title, style, here) in base.items():
        names = tuple(dict.fromkeys(name for _, name in sorted(moved[key], reverse=True)))
        low = high = None
        if here is not None:
            low, high = here + falls[key], here + rises[key]
            if style != "temperature":
                low = max(0.0, low)
            if key in lost:
                high = None  # it may never come
        reaches.append(Reach(key, title, style, low, here, high, names[:3]))
    return Range(doubts, tuple(reaches), runs, tuple(sorted(decides)))
