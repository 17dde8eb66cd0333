"""How far the results may lie off: one uncertain figure at a time, low and high."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.errors import CoreError
from isotherma.core.results.heating import heat_ups
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import AnyKind, AnyRun, System
from isotherma.core.system.kinds import temperature, use
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import Around, Figure

COLD_BAND_K: Final = 3.0  # a tank nobody measured
LEAST_COLD_C: Final = 1.0
MOVES: Final = 0.01  # of a published figure: what moves less is not carried
# what often matters is tried by itself, the rest in sets first; this only saves runs
OFTEN: Final = frozenset({
    "cold_water_c", "volume_m3", "power_w", "input_w", "heat_w", "heats_in_s", "efficiency",
    "conductance_w_per_k", "loss_w_per_k", "usable_j", "coolant_c", "hysteresis_k", "sensor_share",
    "sensor_lag_s", "lag_s", "low_share", "high_share", "height_share", "unreachable",
    "shut_pressure_pa", "open_flow_m3_per_s", "flame_s", "on_flow_m3_per_s", "jet_share",
    "wall_w_m_per_k", "body_j_per_k", "band_k", "firing_j", "running_w", "on_c", "off_c",
})  # fmt: skip
PASSED: Final = (use.Outlet, temperature.ThermostaticMixer)
SET: Final = 12
# what a reader can tell apart, so that a wait of 0.02 s more is not "moved by 10 %"
_LEAST: Final[Mapping[str, float]] = {
    "seconds": 0.5, "minutes": 30.0, "temperature": 0.2, "flow": 0.05e-3 / 60, "volume": 0.1e-3,
    "mass": 2e-3, "energy": 3.6e3,
}  # fmt: skip


Progress = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class UncertainInput:
    """One uncertain figure: where it is, what it may be, why.

    `each` are the runs that share it, each with its own low and high.
    """

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
    each: tuple[tuple[str, float, float], ...] = ()

    @property
    def words(self) -> str:
        """Its part and its name; the name alone where they are the same."""
        if self.label == self.title:
            return self.title.lower()
        return f"{self.label}: {self.title.lower()}"

    @property
    def first(self) -> float:
        """Give the end that is tried first: the farther one from what is likely."""
        return self.low if self.likely - self.low > self.high - self.likely else self.high

    @property
    def other(self) -> float:
        """Give the end that is tried only if the first moves something."""
        return self.high if self.first == self.low else self.low

    @property
    def two_sided(self) -> bool:
        """Whether it may lie on either side of what is likely."""
        return self.other != self.likely


@dataclass(frozen=True, slots=True)
class Sensitivity:
    """A result with how low and high it may be; None where there is none.

    `moved_by` names the inputs that moved it most, the strongest first.
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
    """The band of a day: the inputs that matter of those that were tried, and what they did."""

    inputs: tuple[UncertainInput, ...]
    sensitivities: tuple[Sensitivity, ...]
    runs: int
    decides: tuple[str, ...]
    tried: int = 0

    def sensitivity(self, reach_id: str) -> Sensitivity | None:
        """Find the reach of a result by its id."""
        return next((item for item in self.sensitivities if item.id == reach_id), None)


def uncertain_inputs(brief: Brief, system: System, fresh_c: float) -> tuple[UncertainInput, ...]:
    """List every figure of a design that nobody gave and that is not sure.

    Parameters
    ----------
    brief, system : Brief, System
        The documents. [-]
    fresh_c : float
        Cold water as estimated. [°C]

    Returns
    -------
    tuple of UncertainInput
        Of the brief, then part by part and run by run; given figures are certain. [-]
    """
    found: list[UncertainInput] = []
    if brief.cold_water_c is None and brief.draws:
        low = max(min(LEAST_COLD_C, fresh_c), fresh_c - COLD_BAND_K)
        found.append(UncertainInput(
            "brief.cold_water_c", "", "Cold water", "Cold water", "cold_water_c", "temperature",
            low, fresh_c, fresh_c + COLD_BAND_K, "estimated, not measured",
        ))  # fmt: skip
    for part in system.parts:
        found += _uncertain(part, "parts", part.label, system.around(part))
    runs: list[UncertainInput] = []
    for run in system.runs:
        runs += _uncertain(run, "runs", run.label, system.between(run))
    found += _alike(runs)
    return tuple(found)


def _uncertain(
    piece: AnyKind | AnyRun, group: str, label: str, around: Around
) -> Iterator[UncertainInput]:
    figures = understand(piece, around)
    derived = {item.name: item.likely for item in figures if item.origin == "derived"}
    for figure in figures:
        if figure.origin == "given" or figure.name not in type(piece).model_fields:
            continue
        ends = _ends(figure)
        if ends is not None and not _counted(piece, around, figure.name, ends[0], derived):
            low, likely, high = ends
            yield UncertainInput(
                f"{group}.{piece.id}.{figure.name}",
                piece.id,
                label,
                figure.title,
                figure.name,
                figure.style,
                low,
                likely,
                high,
                figure.because,
            )


def _counted(
    piece: AnyKind | AnyRun, around: Around, name: str, value: float,
    derived: Mapping[str, object],
) -> bool:  # fmt: skip
    """Say whether another figure of the piece is derived from this one: its band has it."""
    other = piece.model_copy(update={name: value})
    return any(
        item.name != name and item.name in derived and item.likely != derived[item.name]
        for item in understand(other, around)
    )


def _alike(inputs: list[UncertainInput]) -> Iterator[UncertainInput]:
    """Join the same input of several runs: tubes of a family err together, so do lugs."""
    sets: dict[tuple[str, float, float], list[UncertainInput]] = {}
    for uncertain in inputs:
        scale = abs(uncertain.likely) if uncertain.likely else 1.0
        key = (uncertain.name, round(uncertain.low / scale, 2), round(uncertain.high / scale, 2))
        sets.setdefault(key, []).append(uncertain)
    for first, *more in sets.values():
        each = tuple((item.part_id, item.low, item.high) for item in (first, *more))
        label = f"{first.label} and {len(more)} more" if more else first.label
        yield replace(first, label=label, each=each)


def _ends(figure: Figure) -> tuple[float, float, float] | None:
    """Give low, likely and high where they differ and are numbers."""
    low, likely, high = figure.low, figure.likely, figure.high
    if low is None or likely is None or high is None or isinstance(likely, str | bool):
        return None
    if high - low <= 1e-6 * abs(likely):
        return None
    return low, likely, high


def _with(
    brief: Brief, system: System, uncertain: UncertainInput, value: float
) -> tuple[Brief, System]:
    """Give the documents with one figure changed."""
    if not uncertain.part_id:
        return brief.model_copy(update={"cold_water_c": value}), system
    if uncertain.each:
        at = {run: low if value == uncertain.low else high for run, low, high in uncertain.each}
        runs = tuple(
            run.model_copy(update={uncertain.name: at[run.id]}) if run.id in at else run
            for run in system.runs
        )
        return brief, system.model_copy(update={"runs": runs})
    parts = tuple(
        part.model_copy(update={uncertain.name: value}) if part.id == uncertain.part_id else part
        for part in system.parts
    )
    return brief, system.model_copy(update={"parts": parts})


def _piece(system: System, uncertain: UncertainInput) -> AnyKind | None:
    return next((part for part in system.parts if part.id == uncertain.part_id), None)


def _figures(outcome: Outcome) -> dict[str, tuple[str, str, float | None]]:
    """Take the results a band is made of, by id: title, style, value."""
    found: dict[str, tuple[str, str, float | None]] = {}
    for draw in outcome.draws:
        key, name = draw.draw.id, draw.draw.name
        found[f"wait.{key}"] = (f"{name}: wait", "seconds", draw.wait_s)
        found[f"warm.{key}"] = (f"{name}: warm for", "seconds", draw.comfort_s)
        found[f"inside.{key}"] = (f"{name}: warm water", "volume", draw.comfort_m3)
        found[f"peak.{key}"] = (f"{name}: hottest", "temperature", draw.peak_c)
        found[f"flow.{key}"] = (f"{name}: flow", "flow", draw.flow_m3_per_s)
        found[f"ready.{key}"] = (f"{name}: ready again after", "minutes", draw.ready_again_s)
    for item in heat_ups(outcome.setup, outcome.timeline):
        found[f"hot.{item.source}"] = (
            f"{item.words}: cold to hot", "minutes", item.takes_s,
        )  # fmt: skip
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


@dataclass(frozen=True, slots=True)
class _After:
    """What a changed day publishes, by id, and which answers it turns."""

    values: Mapping[str, float | None]
    turned: set[str]


class _Moved:
    """What uncertain inputs did to each figure, and which answers one alone turned."""

    def __init__(self, likely: Outcome, again: Outcome) -> None:
        self.again = again
        self.base = _figures(likely)
        self.before = {key: value for key, (_, _, value) in _figures(again).items()}
        self.falls = dict.fromkeys(self.base, 0.0)
        self.rises = dict.fromkeys(self.base, 0.0)
        self.by: dict[str, list[tuple[float, str]]] = {key: [] for key in self.base}
        self.lost: set[str] = set()
        self.decides: set[str] = set()

    def after(self, other: Outcome) -> _After:
        """Read a changed day against the likely one, once."""
        found = _figures(other)
        now = {key: found[key][2] if key in found else None for key in self.base}
        return _After(now, _turns(self.again, other))

    def does(self, after: _After, share: float) -> bool:
        """Say whether a changed day differs in what is published by enough to be carried."""
        if after.turned:
            return True
        for key, (_, style, _) in self.base.items():
            before, now = self.before.get(key), after.values[key]
            if (now is None) != (before is None):
                return True
            if now is not None and before is not None:
                least = max(share * abs(before), _LEAST.get(style, 0.0))
                if style == "temperature":
                    least = _LEAST["temperature"] * share / MOVES
                if abs(now - before) > least:
                    return True
        return False

    def take(self, uncertain: UncertainInput, ends: list[_After]) -> None:
        """Add what one input does at its ends."""
        changes: dict[str, list[float]] = {}
        for after in ends:
            self.decides |= after.turned
            for key in self.base:
                before, now = self.before.get(key), after.values[key]
                if now is not None and before is not None:
                    changes.setdefault(key, []).append(now - before)
                elif now is None and before is not None:
                    self.lost.add(key)
                    self.by[key].append((float("inf"), uncertain.words))
        for key, ways in changes.items():
            self.falls[key] += min(0.0, *ways, 0.0)
            self.rises[key] += max(0.0, *ways, 0.0)
            most = max(abs(change) for change in ways)
            if most > 1e-9:
                self.by[key].append((most, uncertain.words))

    def sensitivity(self, key: str) -> Sensitivity:
        title, style, here = self.base[key]
        by = sorted(self.by[key], key=lambda item: -item[0])
        names = tuple(dict.fromkeys(name for _, name in by))
        low = high = None
        if here is not None:
            low, high = here + self.falls[key], here + self.rises[key]
            if style != "temperature":
                low = max(0.0, low)
            if key in self.lost:
                high = None  # it may never come
        return Sensitivity(key, title, style, low, here, high, names[:3])


def make_band(
    brief: Brief,
    system: System,
    likely: Outcome,
    run: Callable[[Brief, System], Outcome],
    progress: Progress | None = None,
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
    progress : callable or None
        Told how many inputs of how many were tried. [-]

    Returns
    -------
    Range
        Reaches of waits, warm seconds and litres, peaks, flows, times to hot and budgets;
        `decides` names what one of the uncertain inputs alone would turn. [-]

    Notes
    -----
    First every input once, at the end farther from what is likely, those that seldom matter in
    sets that are halved where they move something. Only one that turns an answer or moves a
    published figure by 1 % is carried, and tried at its other end too: this design says what
    matters in it, not a list. The band of a result is its likely value with
    the sum of what each input lowers it by, and of what each raises it by: the worst together,
    if they act alone.

    References
    ----------
    JCGM 100 (GUM), one-at-a-time sensitivities; summed without sign luck. Saltelli et al.
    (2008), Global Sensitivity Analysis, ch. 2; sequential bifurcation after Bettonvil and
    Kleijnen (1997).
    """
    inputs = uncertain_inputs(brief, system, likely.fresh_c)
    # the likely day as `run` makes it, so that nothing counts but what an input changes
    moved = _Moved(likely, run(brief, system))
    carried: list[UncertainInput] = []
    runs, done = 2, 0

    def changed(those: Sequence[tuple[UncertainInput, float]]) -> _After | None:
        nonlocal runs
        runs += 1
        asked, built = brief, system
        for uncertain, value in those:
            asked, built = _with(asked, built, uncertain, value)
        try:
            other = run(asked, built)
        except CoreError:
            return None  # at this end there is no answer; the other end still counts
        return moved.after(other)

    def screen(those: Sequence[UncertainInput]) -> None:
        nonlocal done
        if progress is not None:
            progress(done, len(inputs))
        first = changed([(uncertain, uncertain.first) for uncertain in those])
        share = MOVES if len(those) == 1 else MOVES / 2  # two that work against each other
        if first is not None and not moved.does(first, share):
            done += len(those)
        elif len(those) > 1:
            screen(those[: len(those) // 2])
            screen(those[len(those) // 2 :])
        else:
            uncertain = those[0]
            others = [
                first,
                changed([(uncertain, uncertain.other)]) if uncertain.two_sided else None,
            ]
            moved.take(uncertain, [item for item in others if item is not None])
            carried.append(uncertain)
            done += 1

    rest = []
    for uncertain in inputs:
        passed = uncertain.name == "flow_factor_si" and isinstance(
            _piece(system, uncertain), PASSED
        )
        if uncertain.name in OFTEN or passed:
            screen([uncertain])
        else:
            rest.append(uncertain)
    for start in range(0, len(rest), SET):
        screen(rest[start : start + SET])
    if progress is not None:
        progress(len(inputs), len(inputs))
    sensitivities = tuple(moved.sensitivity(key) for key in moved.base)
    strongest = sorted(carried, key=lambda uncertain: (-_weight(moved, uncertain), uncertain.path))
    return Range(
        tuple(strongest), sensitivities, runs, tuple(sorted(moved.decides)), tried=len(inputs)
    )


def _weight(moved: _Moved, uncertain: UncertainInput) -> float:
    """Say how strongly an input moved what it moved most, as a share of the figure."""
    found = 0.0
    for key, (_, _, before) in moved.base.items():
        for change, words in moved.by[key]:
            if words == uncertain.words and before is not None:
                found = max(found, min(change / max(abs(before), 1e-12), 10.0))
    return found
