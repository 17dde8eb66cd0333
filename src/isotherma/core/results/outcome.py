"""The one road: brief, system and climate in, everything a page or a file shows out."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.engine.course import FINE_S, Course
from isotherma.core.engine.record import Day
from isotherma.core.engine.running import run_day
from isotherma.core.errors import NotComputedYet
from isotherma.core.quantity import Habit, duration_words, with_unit
from isotherma.core.results.causes import Cause, cause_words, causes_of
from isotherma.core.results.draws import DrawResult, draw_results
from isotherma.core.results.expansion import expansion_words
from isotherma.core.results.last_day import LastDay, first_day, last_day
from isotherma.core.results.ledger import Entry, make_ledger
from isotherma.core.results.scald import CHILD_C, Severity
from isotherma.core.results.supply_words import supply_words
from isotherma.core.results.trace import make_traces
from isotherma.core.results.traced import Trace
from isotherma.core.results.verdict import verdict
from isotherma.core.system import System
from isotherma.core.system.kinds import temperature
from isotherma.core.system.states import State

RULE_SET = "strictest of all"
_GAS: Final = {"burner", "through_flow_gas"}
_MAINS: Final = {"element", "through_flow_electric"}


@dataclass(frozen=True)
class Outcome:
    """A simulated day: draws, ledger, and what they were made from."""

    brief: Brief
    course: Course
    timeline: Day
    draws: tuple[DrawResult, ...]
    ledger: tuple[Entry, ...]

    @property
    def fresh_c(self) -> float:
        """Temperature of the fresh water [°C]."""
        return self.course.conditions.fresh_c

    @cached_property
    def traces(self) -> tuple[Trace, ...]:
        """The steps behind every figure; made when the first is opened."""
        return make_traces(self.course, self.timeline, self.draws, self.ledger)

    @cached_property
    def last_day(self) -> LastDay | None:
        """The first day of the trip unlike this one, since something ends; played when asked."""
        return last_day(self.course, self.timeline, self.ledger)

    def last_day_words(self, habit: Habit) -> str:
        """Say what ends on it and what comes of that; "" where all days are alike."""
        if self.last_day is None:
            return ""
        return self.last_day.words(self.brief, self.draws, habit)

    def verdict(self, habit: Habit) -> str:
        """Make the sentence in a person's units; what broke the day comes first."""
        cause = cause_words(self.causes[0], self.course, habit) if self.causes else ""
        return verdict(self.brief, self.draws, self.ledger, habit, cause)

    @cached_property
    def causes(self) -> tuple[Cause, ...]:
        """What broke the day, the gravest first."""
        return causes_of(self.course, self.timeline, self.draws)

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
            part for part in self.course.circuit.parts.values()
            if isinstance(part, temperature.ThermostaticMixer)
        ]  # fmt: skip
        least = max((part.min_flow_m3_per_s or 0.0 for part in mixers), default=0.0)
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
        kinds = {part.kind for part in self.course.system.parts}
        gas = kinds & _GAS or any(
            getattr(part, "fuel", None) in {"propane", "butane"} and part.kind == "combi"
            for part in self.course.system.parts
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
                f"{self.course.circuit.parts[self.draws[0].outlet].label}."
            )
        states = {state.id for state in self.course.system.states}
        strange = [
            draw.draw.name for draw in self.draws
            if draw.draw.state is not None and draw.draw.state not in states
        ]  # fmt: skip
        if strange:
            found.append(
                f"This variant lacks the state of {_listed(strange)}; taken as it stands here."
            )
        found += self._round()
        found += supply_words(self.course, self.timeline, habit)
        found += expansion_words(self.course, self.timeline, habit)
        warmed = [use.name for use in self.brief.uses if use.warm_c is not None and use.day_m3]
        if warmed:
            found.append(
                f"The water of {_listed(warmed)} is counted, the heat for it is not computed yet."
            )
        return tuple(found)

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
    outlet = outcome.course.label(worst.outlet)
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
    shown = ", ".join(f"“{name}”" for name in names[:3])
    return f"{shown} and {len(names) - 3} more" if len(names) > 3 else shown


def simulate(
    brief: Brief,
    system: System,
    climate: Climate,
    *,
    state: State | None = None,
    fine_s: float = FINE_S,
    near: Outcome | None = None,
) -> Outcome:
    """Simulate one day of a system under a brief.

    Parameters
    ----------
    brief : Brief
        What is asked. [-]
    system : System
        What is built; never changed. [-]
    climate : Climate
        Where and when. [-]
    state : State or None
        How it stands; None: its first state, or everything as usual. [-]
    fine_s : float
        Step while something moves, > 0. [s]
    near : Outcome or None
        Of documents that differ in little: it saves the days that only warm up. [-]

    Returns
    -------
    Outcome
        The same for the same input, bit for bit. [-]

    Raises
    ------
    NotComputedYet
        If there is nothing to be computed; it names a part.
    MissingValue
        If a value the engine needs is unknown.
    FlowNotSolved, BalanceBroken
        If flows cannot be found, or energy or water does not add up.
    """
    if not system.parts:
        raise NotComputedYet(part_id="", part_name="The design", reason="it has no parts yet")
    standing = state or (system.states[0] if system.states else None)
    course, day = run_day(
        brief, system, standing, climate, fine_s=fine_s, near=near.course if near else None
    )
    draws = draw_results(course, day, brief.budgets.longest_wait_s)
    ledger = make_ledger(course, day, draws)
    first = first_day(course, day, ledger)
    if first is not day:
        day, draws = first, draw_results(course, first, brief.budgets.longest_wait_s)
        ledger = make_ledger(course, day, draws)
    return Outcome(
        brief=brief,
        course=course,
        timeline=day,
        draws=draws,
        ledger=ledger,
    )


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
