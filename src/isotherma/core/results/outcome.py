"""The one road: brief, system and climate in, everything a page or a file shows out."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.quantity import Habit, duration_words, with_unit
from isotherma.core.results.causes import Cause, cause_words, causes_of
from isotherma.core.results.draws import DrawResult, draw_results
from isotherma.core.results.expansion import expansion_words
from isotherma.core.results.ledger import Entry, make_ledger
from isotherma.core.results.scald import CHILD_C, Severity
from isotherma.core.results.supply_words import supply_words
from isotherma.core.results.trace import make_traces
from isotherma.core.results.traced import Trace
from isotherma.core.results.verdict import verdict
from isotherma.core.setup import Setup
from isotherma.core.system import System
from isotherma.core.system.kinds import temperature
from isotherma.core.system.nominal import figure
from isotherma.core.system.states import State
from isotherma.core.timeline.record import Day

RULE_SET = "strictest of all"
_GAS: Final = {"burner", "through_flow_gas"}
_MAINS: Final = {"element", "through_flow_electric"}


@dataclass(frozen=True)
class Outcome:
    """A simulated day as data: the documents, what came of them, what was measured in it.

    It can be kept, pickled and read on another machine: what follows from the documents alone is
    worked out again there, and the timeline is arrays and figures.
    """

    brief: Brief
    system: System
    standing: State | None
    climate: Climate
    timeline: Day
    draws: tuple[DrawResult, ...]
    ledger: tuple[Entry, ...]

    @classmethod
    def of(cls, setup: Setup, timeline: Day) -> Outcome:
        """Measure a day that was run.

        Parameters
        ----------
        setup : Setup
            The documents and what follows from them; kept beside, for it is at hand. [-]
        timeline : Day
            What came of it. [-]

        Returns
        -------
        Outcome
            With draws and ledger. [-]
        """
        draws = draw_results(setup, timeline, setup.brief.budgets.longest_wait_s)
        made = cls(
            setup.brief, setup.system, setup.standing, setup.climate, timeline, draws,
            make_ledger(setup, timeline, draws),
        )  # fmt: skip
        made.__dict__["setup"] = setup
        return made

    @cached_property
    def setup(self) -> Setup:
        """What follows from the documents alone."""
        return Setup(self.brief, self.system, self.standing, self.climate)

    def __getstate__(self) -> dict[str, object]:
        """Leave behind what can be worked out again."""
        return {item.name: getattr(self, item.name) for item in fields(self)}

    @property
    def fresh_c(self) -> float:
        """Temperature of the fresh water [°C]."""
        return self.setup.conditions.fresh_c

    @cached_property
    def traces(self) -> tuple[Trace, ...]:
        """The steps behind every figure; made when the first is opened."""
        return make_traces(self.setup, self.timeline, self.draws, self.ledger)

    def verdict(self, habit: Habit) -> str:
        """Make the sentence in a person's units; what broke the day comes first."""
        cause = cause_words(self.causes[0], self.setup, habit) if self.causes else ""
        return verdict(self.brief, self.draws, self.ledger, habit, cause)

    @cached_property
    def causes(self) -> tuple[Cause, ...]:
        """What broke the day, the gravest first."""
        return causes_of(self.setup, self.timeline, self.draws)

    def trace(self, trace_id: str) -> Trace:
        """Find a trace by id; KeyError if there is none."""
        for trace in self.traces:
            if trace.id == trace_id:
                return trace
        raise KeyError(trace_id)

    def cautions(self, habit: Habit) -> tuple[str, ...]:
        """List what the reader must know: heat that can hurt, flow that is not steady."""
        found = self._hot(habit)
        mixers = [
            part for part in self.setup.parts.values()
            if isinstance(part, temperature.ThermostaticMixer)
        ]  # fmt: skip
        least = max((figure(part, "min_flow_m3_per_s") for part in mixers), default=0.0)
        low = [draw for draw in self.draws if 0 < draw.flow_m3_per_s < least * 0.999]
        if low:
            found.append(
                f"Below {with_unit(least, 'flow', habit)} the mixer may not hold "
                f"its setting: “{low[0].draw.name}” runs at "
                f"{with_unit(low[0].flow_m3_per_s, 'flow', habit)}. The figures assume it does."
            )
        if any(draw.pulsing for draw in self.draws):
            found.append(
                "The pump switches on and off at this flow. The figures use its mean; "
                "expect the shower to pulse."
            )
        kinds = {part.kind for part in self.setup.system.parts}
        gas = kinds & _GAS or any(
            getattr(part, "fuel", None) in {"propane", "butane"} and part.kind == "combi"
            for part in self.setup.system.parts
        )
        if "gas" in self.brief.will_not_have and gas:
            found.append("The brief will not have gas, and the water is heated with it.")
        if "mains" in self.brief.will_not_have and kinds & _MAINS:
            found.append("The brief will not have mains, and the water is heated with it.")
        if "mixing valve" in self.brief.will_not_have and mixers:
            found.append("The brief will not have a mixing valve, and there is one.")
        lacking = [
            draw.draw.name for draw in self.draws
            if draw.draw.outlet not in (None, draw.outlet)
        ]  # fmt: skip
        if lacking:
            found.append(
                f"This variant lacks the outlet of {_listed(lacking)}; taken at "
                f"{self.setup.parts[self.draws[0].outlet].label}."
            )
        states = {state.id for state in self.setup.system.states}
        strange = [
            draw.draw.name for draw in self.draws
            if draw.draw.state is not None and draw.draw.state not in states
        ]  # fmt: skip
        if strange:
            found.append(
                f"This variant lacks the state of {_listed(strange)}; taken as it stands here."
            )
        found += self._round()
        found += supply_words(self.setup, self.timeline, habit)
        found += expansion_words(self.setup, self.timeline, habit)
        warmed = [use.name for use in self.brief.uses if use.warm_c is not None and use.day_m3]
        if warmed:
            found.append(
                f"The water of {_listed(warmed)} is counted, the heat for it is not computed yet."
            )
        return (*found, *self._not_known())

    def _not_known(self) -> list[str]:
        """Say what is in no figure, since nobody entered it."""
        setup = self.setup
        labels = {piece.id: piece.label for piece in (*setup.system.parts, *setup.system.runs)}
        lacking = [f"{labels[item.piece_id]}: {item.title.lower()}" for item in setup.not_known]
        return [f"Not known, so in no figure: {_few(lacking)}."] if lacking else []

    def _round(self) -> list[str]:
        """Say what water that goes round is not, where somebody washes with it."""
        return [
            f"“{drawn.draw.name}” washes with water that goes round: for one shower only, never to "
            "drink and never joined to the fresh side. Drain and rinse the loop the same day."
            for drawn in self.timeline.drawn if drawn.round_m3 is not None
        ][:1]  # fmt: skip

    def _hot(self, habit: Habit) -> list[str]:
        """Say where water came hotter than skin bears, by outlet, exposure and who stands there."""
        found = []
        for early in (False, True):
            hot = [
                draw for draw in self.draws
                if draw.scald.severity is not Severity.NONE and early == _early(draw)
            ]  # fmt: skip
            if hot:
                worst = max(hot, key=lambda draw: (draw.scald.severity, draw.scald.peak_c))
                found.append(_hot_words(worst, len(hot), self, habit, early=early))
        return found


def _early(draw: DrawResult) -> bool:
    """Say whether it was hot only before the outlet had settled."""
    return draw.hot_before_s > draw.hot_over_s


def _hot_words(
    worst: DrawResult, count: int, outcome: Outcome, habit: Habit, *, early: bool
) -> str:
    scald = worst.scald
    outlet = outcome.setup.label(worst.outlet)
    when = "before the water settles" if early else "with someone under it"
    others = f", in {count} of {len(outcome.draws)} draws" if count > 1 else ""
    who = "a child’s limit" if worst.draw.child and scald.limit_c == CHILD_C else "the limit"
    words = (
        f"Up to {with_unit(scald.peak_c, 'temperature', habit)} at {outlet} {when} "
        f"(“{worst.draw.name}”{others}), for {duration_words(scald.over_s)} over {who} of "
        f"{with_unit(scald.limit_c, 'temperature', habit)} ({RULE_SET}). "
    )
    if scald.burns_s < 3600.0:
        skin = "a child’s skin" if worst.draw.child else "skin"
        words += f"At its hottest it burns {skin} within {duration_words(scald.burns_s)}. "
    return words + {
        Severity.STOP: "Do not use it like this: mix it down or turn it down first.",
        Severity.FIX: "Mend this before anyone washes.",
    }.get(scald.severity, "Feel the water before anyone steps under it.")


def _listed(names: list[str]) -> str:
    """Join names in quotes, three at most."""
    return _few([f"“{name}”" for name in names])


def _few(words: list[str]) -> str:
    """Join words, three at most."""
    shown = ", ".join(words[:3])
    return f"{shown} and {len(words) - 3} more" if len(words) > 3 else shown


def ready_words(draw: DrawResult) -> str:
    """Say when the store is hot again after a draw.

    Parameters
    ----------
    draw : DrawResult
        A draw. [-]

    Returns
    -------
    str
        A duration, "at once" or "not before the next". [-]
    """
    if draw.ready_again_s is None:
        return "not before the next"
    return duration_words(draw.ready_again_s) if draw.ready_again_s >= 1 else "at once"
