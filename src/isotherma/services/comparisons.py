"""What if: changes that are tried and not kept, and comparisons on the very draw."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import Any, Final, TypeVar

from isotherma import catalogue
from isotherma.core.brief import Brief, Draw
from isotherma.core.cache import Cache, Caches
from isotherma.core.editing import set_values, with_system
from isotherma.core.errors import ChangeRefused, QuantityError
from isotherma.core.flows.surroundings import surroundings
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem, parse
from isotherma.core.results.holding import Holding, holding
from isotherma.core.results.mixing_strategies import (
    FlowWindow,
    MixingStrategy,
    StrategyTrial,
    flow_windows,
    mixing_strategies,
    strategy_trials,
)
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.remedies import Remedy, dead_leg
from isotherma.core.results.uncertainty import Range, Sensitivity, UncertainInput
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.kinds import heat, temperature
from isotherma.core.system.nominal import computed
from isotherma.files.plain import PlainRefused, read_plain
from isotherma.services.computing import stands_key
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute_band
from isotherma.services.turns import Cancelled, Stopped, long_turn, never, turn

__all__ = [
    "Cancelled",
    "ComparisonService",
    "strategies_of",
    "trials_of",
    "tried",
    "with_strategy",
]


@dataclass(frozen=True, slots=True)
class Trial:
    """One thing that can be tried: its key, words, path in the project and style.

    `choices` are values with words where it is no figure.
    """

    key: str
    title: str
    path: str
    style: str
    choices: tuple[tuple[str, str], ...] = ()


def trials_of(brief: Brief, variant: Variant, draw: Draw) -> tuple[Trial, ...]:
    """List what can be tried on a draw of a variant: what is there, and who comes next."""
    at = f"brief.draws.{draw.id}"
    parts = f"variants.{variant.id}.system.parts"
    found = [
        Trial("flow", "Throttled to", f"{at}.flow_m3_per_s", "flow"),
        Trial("low", "Warm enough from", f"{at}.low_c", "temperature"),
        Trial("high", "Too hot above", f"{at}.high_c", "temperature"),
        Trial("long", "Water runs for", f"{at}.duration_s", "minutes"),
        Trial("stops", "Stops while soaping", f"{at}.stops", "number"),
        Trial("cold", "Cold water", "brief.cold_water_c", "temperature"),
    ]
    later = sorted((item for item in brief.draws if item.start_s > draw.start_s),
                   key=lambda item: item.start_s)  # fmt: skip
    if later:
        path = f"brief.draws.{later[0].id}.start_s"
        found.append(Trial("next", f"Next, {later[0].name}, at", path, "clock"))
    seen = set()
    for part in variant.system.parts:
        for key, kind, name, title, style in (
            ("set", temperature.ThermostaticMixer, "set_c", "Mixer set to", "temperature"),
            ("volume", heat.Store, "volume_m3", "Store", "volume"),
            ("foam", heat.Store, "insulation_m", "Its insulation", "bore"),
            ("hot", heat.Element, "set_c", "Store kept at", "temperature"),
            ("power", heat.Element, "power_w", "Element", "power"),
            ("heat", heat.ThroughFlowGas, "heat_w", "Heater", "heat_power"),
            ("knob", heat.ThroughFlowGas, "gas_share", "Gas knob", "share"),
            ("flame", heat.ThroughFlowGas, "set_c", "Heater set to", "temperature"),
            ("cell", heat.ThroughFlowElectric, "set_c", "Heater set to", "temperature"),
            ("burner", heat.Burner, "set_c", "Burner set to", "temperature"),
            ("combi", heat.Combi, "set_c", "Combi set to", "temperature"),
            ("coolant", heat.LiquidHeater, "set_c", "Coolant held at", "temperature"),
            ("thermostat", heat.Thermostat, "set_c", "Thermostat set to", "temperature"),
            ("lever", temperature.ManualMixer, "hot_share", "Mixer open to hot", "share"),
        ):
            turned = name not in part.turned or name in part.by_hand()
            if isinstance(part, kind) and turned and key not in seen:
                seen.add(key)
                found.append(Trial(key, title, f"{parts}.{part.id}.{name}", style))
        if "season" in part.by_hand() and "season" not in seen:
            seen.add("season")
            found.append(Trial("season", "Seasonal switch", f"{parts}.{part.id}.season", "",
                               (("winter", "winter"), ("summer", "summer"))))  # fmt: skip
    if len(variant.system.states) > 1:
        choices = tuple((state.id, state.name) for state in variant.system.states)
        found.append(Trial("state", "Seen in state", f"variants.{variant.id}.state", "", choices))
    return tuple(found)


def read_trial(trial: Trial, text: str, units: UnitSystem) -> object:
    """Read what was typed to be tried; QuantityError where it cannot be."""
    if not trial.choices:
        return parse(text, trial.style, units)
    if text not in {value for value, _ in trial.choices}:
        raise QuantityError(text=text[:60], dimension="choice", reason="no_choice",
                            example=trial.choices[0][1])  # fmt: skip
    return text


def tried(project: Project, trials: tuple[Trial, ...], values: Mapping[str, object]) -> Project:
    """Give the project with trial values in it; a ValidationError says which cannot be."""
    paths = {trial.key: trial.path for trial in trials}
    return set_values(project, {paths[key]: value for key, value in values.items()})


def strategies_of(project: Project, variant: Variant, draw: Draw) -> tuple[StrategyTrial, ...]:
    """List the mixing strategies that can be tried on a draw, as it is left out."""
    known = computed(variant.system)
    fresh_c = _fresh_c(project, variant)
    return strategy_trials(project.brief, variant.system, known, draw, fresh_c)[1:]


def _fresh_c(project: Project, variant: Variant) -> float:
    """Give the cold water of the day that is seen [°C]."""
    climate = catalogue.climate(project.brief)
    return surroundings(project.brief, variant.built.system, variant.standing, climate).fresh_c


def with_strategy(project: Project, variant_id: str, draw: Draw, strategy: str) -> Project:
    """Give the project with the temperature made in another way; ChangeRefused if it cannot."""
    variant = project.variant(variant_id)
    placed = next(item for item in project.brief.draws if item.id == draw.id).model_copy(
        update={"outlet": draw.outlet}
    )
    trial = next(
        (row for row in strategies_of(project, variant, placed) if row.id == strategy), None
    )
    if trial is None:
        raise ChangeRefused(path=f"variants.{variant_id}.system", reason="mixer_stays")
    changed = with_system(project, variant_id, trial.system)
    return Project.model_validate({**changed.model_dump(), "brief": trial.brief.model_dump()})


BAND_BYTES: Final = 40_000
BAND_WORK, REMEDIES_WORK, STRATEGIES_WORK = "band", "remedies", "strategies"
HOLDING_WORK = "holding"
WRITTEN: Final = (Range, UncertainInput, Sensitivity, Remedy, MixingStrategy, Holding)
Progress = Callable[[int, int], None]


class ComparisonService:
    """Compares remedies and strategies and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._remedies: Cache[tuple[Remedy, ...]] = Cache(caches, "remedies of the dead leg")
        self._strategies: Cache[tuple[MixingStrategy, ...]] = Cache(caches, "mixing strategies")
        self._holding: Cache[tuple[Holding, ...]] = Cache(caches, "held or in time")
        self._bands: Cache[Range] = Cache(caches, "band", lambda _: BAND_BYTES)

    def dead_leg(
        self, project: Project, variant: Variant, draw: Draw, pause_s: float, asker: Asker
    ) -> tuple[Remedy, ...] | UnderWay:
        """Give the remedies of the dead leg on a draw after a pause, or how far that is."""
        key = (*stands_key(project, variant), draw.digest, f"{pause_s:g}")
        payload = {"draw": draw.model_dump(mode="json"), "pause_s": pause_s}
        return found_or_asked(
            self._work, self._remedies, REMEDIES_WORK, key, (project, variant, payload), asker,
            lambda: self.compute_dead_leg(project, variant, draw, pause_s),
        )  # fmt: skip

    @staticmethod
    def compute_dead_leg(
        project: Project, variant: Variant, draw: Draw, pause_s: float, stopped: Stopped = never
    ) -> tuple[Remedy, ...]:
        """Compare remedies of the dead leg; Cancelled when stopped."""
        variant = variant.built  # what is there on the day
        run, known = _run(project, variant, stopped), computed(variant.system)
        with long_turn(stopped):
            return dead_leg(project.brief, variant.system, known, draw, pause_s, run)

    def mixing(
        self, project: Project, variant: Variant, draw: Draw, asker: Asker
    ) -> tuple[MixingStrategy, ...] | UnderWay:
        """Give the mixing strategies on a draw, or how far comparing them is."""
        key = (*stands_key(project, variant), draw.digest)
        payload = {"draw": draw.model_dump(mode="json")}
        return found_or_asked(
            self._work, self._strategies, STRATEGIES_WORK, key, (project, variant, payload), asker,
            lambda: self.compute_mixing(project, variant, draw),
        )  # fmt: skip

    @staticmethod
    def compute_mixing(
        project: Project, variant: Variant, draw: Draw, stopped: Stopped = never
    ) -> tuple[MixingStrategy, ...]:
        """Compare the mixing strategies on a draw; Cancelled when stopped."""
        variant = variant.built
        run = _run(project, variant, stopped)
        known, fresh_c = computed(variant.system), _fresh_c(project, variant)
        with long_turn(stopped):
            return mixing_strategies(project.brief, variant.system, known, draw, fresh_c, run)

    def holding(
        self, project: Project, variant: Variant, asker: Asker
    ) -> tuple[Holding, ...] | UnderWay:
        """Give the store held hot against switched on in time, or how far trying it is."""
        key = stands_key(project, variant)
        return found_or_asked(
            self._work, self._holding, HOLDING_WORK, key, (project, variant, {}), asker,
            lambda: self.compute_holding(project, variant),
        )  # fmt: skip

    @staticmethod
    def compute_holding(
        project: Project, variant: Variant, stopped: Stopped = never
    ) -> tuple[Holding, ...]:
        """Run the day with the store held and switched on in time; Cancelled when stopped."""
        variant = variant.built
        run, known = _run(project, variant, stopped), computed(variant.system)
        with long_turn(stopped):
            return holding(project.brief, variant.system, known, run)

    def band(
        self, project: Project, variant: Variant, outcome: Outcome, asker: Asker
    ) -> Range | UnderWay:
        """Give the day with each uncertain figure low and high, or how far running it is."""
        key = stands_key(project, variant)
        return found_or_asked(
            self._work, self._bands, BAND_WORK, key, (project, variant, {}), asker,
            lambda: compute_band(project, variant, outcome),
        )  # fmt: skip

    def known_band(self, project: Project, variant: Variant) -> Range | None:
        """Give the band where somebody has asked for it before; nobody is asked now."""
        key = stands_key(project, variant)
        return found_or_none(self._work, self._bands, BAND_WORK, key)

    @staticmethod
    def windows(variant: Variant, fresh_c: float) -> tuple[FlowWindow, ...]:
        """Give the windows in which through-flow heaters work."""
        return flow_windows(computed(variant.system), fresh_c)


Result = TypeVar("Result")
Asked = tuple[Project, Variant, Mapping[str, Any]]


def found_or_asked(
    work: LongWork | None, cache: Cache[Result], kind: str, key: tuple[object, ...], asked: Asked,
    asker: Asker, make: Callable[[], Result], written: Sequence[type] = WRITTEN,
) -> Result | UnderWay:  # fmt: skip
    """Give what a worker has computed, else how far it is; asked of one where nobody has yet.

    Without workers `make` computes it here, at once.
    """
    if work is None:
        return cache.once(key, make)
    name = "/".join(map(str, key))
    known = found_or_none(work, cache, kind, key, written)
    if known is not None:
        return known
    going = work.look(kind, name)
    if going is not None and going.goes_on:
        return going  # a page asks again and again: the design need not be written each time
    project, variant, more = asked
    payload = {"project": project.model_dump(mode="json"), "variant": variant.id, **more}
    return work.ask(kind, name, payload, asker)


def found_or_none(
    work: LongWork | None, cache: Cache[Result], kind: str, key: tuple[object, ...],
    written: Sequence[type] = WRITTEN,
) -> Result | None:  # fmt: skip
    """Give what was computed before, here or by a worker; None where nothing is kept."""
    if work is None:
        return cache.peek(key)
    name = "/".join(map(str, key))
    known = cache.peek(name)
    if known is not None:
        return known
    data = work.find(kind, name)
    if data is not None:
        with suppress(PlainRefused):
            found: Result = read_plain(data, written)
            cache.put(name, found)
            return found
    return None


def _run(
    project: Project, variant: Variant, stopped: Stopped
) -> Callable[[Brief, System], Outcome]:
    climate = catalogue.climate(project.brief)

    def run(brief: Brief, system: System) -> Outcome:
        if stopped():
            raise Cancelled
        with turn(stopped):
            return simulate(brief, system, climate, state=variant.standing)

    return run
