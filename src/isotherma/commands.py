"""What the longer commands do: read what was asked, solve, print words or JSON."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, NoReturn

from isotherma.core.errors import CoreError, QuantityError
from isotherma.core.flows.findings import flow_findings
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem, duration_words, parse, with_unit
from isotherma.core.results.uncertainty import Range
from isotherma.core.system.configuration import fitted_by
from isotherma.core.system.states import State
from isotherma.files.flow_json import (
    FLOW_FORMAT,
    drain_object,
    flow_object,
    leak_object,
    waste_object,
)
from isotherma.services import flows
from isotherma.services.flows import Asked
from isotherma.wording import (
    drain_sentence,
    error_words,
    flow_warning,
    outlet_sentence,
    pump_sentences,
    pump_start_sentences,
    shock_sentence,
    trapped_sentence,
    waste_sentences,
)
from isotherma.wording.reader import Reader

Fail = Callable[[str, int], NoReturn]


def band_lines(band: Range, units: UnitSystem) -> list[str]:
    """Write a band for a person: what moves, how far, by what."""
    lines = [f"How far it may lie off ({band.runs} runs, one uncertain figure at a time):"]
    for uncertain in band.inputs:
        low, high = (
            with_unit(value, uncertain.style, units) for value in (uncertain.low, uncertain.high)
        )
        lines.append(
            f"  {uncertain.label}: {uncertain.title.lower()} {low} to {high}, {uncertain.because}"
        )
    for sensitivity in band.sensitivities:
        if sensitivity.likely is None or not sensitivity.moved_by:
            continue
        low = with_unit(sensitivity.low or 0.0, sensitivity.style, units)
        high = (
            "never"
            if sensitivity.high is None
            else with_unit(sensitivity.high, sensitivity.style, units)
        )
        lines.append(f"  {sensitivity.title}: {low} to {high}; most by {sensitivity.moved_by[0]}")
    if band.decides:
        lines.append(f"  It may turn: {', '.join(band.decides)}.")
    return lines


def with_trip(project: Project, days: int | None, month: int | None) -> Project:
    """Give a project with other days between fills or in another month."""
    changed: dict[str, Any] = {}
    if days is not None:
        changed |= {"days": days, "order": ()}  # as many days as that, all alike
    if month is not None:
        changed["month"] = month
    brief = project.brief.model_copy(update=changed)
    return project.model_copy(update={"brief": brief})


def standing_as(
    variant: Variant, state: str | None, phase: str | None, fail: Fail
) -> tuple[Variant, State | None]:
    """Give a variant as built at the end of a phase, and the state that is meant."""
    if phase is not None:
        phases = {item.name: item.id for item in variant.system.phases}
        key = phases.get(phase, phase)
        if key not in phases.values():
            names = ", ".join(phases.values()) or "none"
            fail(f"There is no phase “{phase}”. The variant has: {names}.", 2)
        variant = variant.model_copy(update={"system": fitted_by(variant.system, key)})
    return variant, find_state(variant, state, fail)


def find_state(variant: Variant, wanted: str | None, fail: Fail) -> State | None:
    """Find a state by id or name, that of the day if none is named; end with what there is."""
    states = variant.system.states
    if wanted is None:
        return variant.standing
    found = next((state for state in states if wanted in (state.id, state.name)), None)
    if found is None:
        names = ", ".join(state.id for state in states) or "none"
        fail(f"There is no state “{wanted}”. The variant has: {names}.", 2)
    return found


@dataclass(slots=True)
class Solving:
    """One call of the command: where, how it stands, what is open."""

    project: Project
    variant: Variant
    units: UnitSystem
    fail: Fail
    state: State | None = None
    asked: Asked = field(default_factory=Asked)

    def choose(
        self,
        state: str | None,
        opens: Sequence[str],
        fresh: str | None,
        at: Sequence[str],
        level: Sequence[str],
        dirty: bool,
    ) -> None:
        """Read the options, or end with what is wrong and what there is."""
        self.state = find_state(self.variant, state, self.fail)
        system = self.variant.system
        shares: dict[str, float] = {}
        for item in opens:
            name, _, share = item.rpartition("=") if "=" in item else (item, "", "1")
            try:
                shares[flows.find_outlet(system, name)] = float(share.replace(",", "."))
            except ValueError:
                self.fail(f"--open {item}: “{share}” is no share; give one as kitchen=0.5.", 2)
            except CoreError as error:
                self.fail(f"--open {item}: {error_words(error, self.units)}", 2)
        self.asked = Asked(
            opens=shares,
            fresh_c=self._quantity("--fresh", fresh, "temperature") if fresh else None,
            at_c=self._pairs("--at", at, "temperature"),
            level_m=self._pairs("--level", level, "length"),
            dirty=dirty,
        )

    def _quantity(self, option: str, text: str, style: str) -> float:
        try:
            return parse(text, style, self.units)
        except QuantityError as error:
            self.fail(f"{option} {error_words(error, self.units)}", 2)

    def _pairs(self, option: str, items: Sequence[str], style: str) -> dict[str, float]:
        known = {part.id for part in self.variant.system.parts}
        found = {}
        for item in items:
            part_id, _, text = item.partition("=")
            if part_id not in known:
                names = ", ".join(sorted(known)) or "none"
                self.fail(f"{option} {item}: there is no part “{part_id}”. There are: {names}.", 2)
            found[part_id] = self._quantity(f"{option} {item}:", text, style)
        return found

    def show(
        self,
        as_json: bool,
        *,
        drain: bool,
        leak: bool,
        waste: bool,
        every: str | None,
        cooled: str | None,
    ) -> None:
        """Solve what was asked and print it; ends with 3 when there is no answer."""
        interval_s = self._quantity("--every", every, "minutes") if every else None
        cooled_k = self._quantity("--cooled", cooled, "difference") if cooled else 0.0
        data: dict[str, Any] = {
            "format": FLOW_FORMAT,
            "vehicle": self.project.name,
            "variant": self.variant.id,
            "state": self.state.id if self.state is not None else None,
        }
        try:
            words: list[str] = []
            if drain:
                data |= {"drain": self._drain(words)}
            if leak:
                data |= {"leak": self._leak(words, interval_s, cooled_k)}
            if waste:
                data |= {"waste": self._waste(words)}
            if not (drain or leak or waste):
                data |= self._flows(words)
        except CoreError as error:
            said = error_words(error, self.units)
            if as_json:
                problem = {
                    "code": error.code, "message": said, "part": getattr(error, "part_id", None),
                }  # fmt: skip
                print(json.dumps({"format": FLOW_FORMAT, "error": problem}, ensure_ascii=False))
            self.fail(said, 3)
        if as_json:
            print(json.dumps(data, ensure_ascii=False, indent=2, allow_nan=False))
        else:
            print("\n".join(words))

    def network(self) -> str:
        """Write what was asked as text for other solvers; ends with 3 where it has no answer."""
        from isotherma.files.network_text import network_text

        try:
            found = flows.solve_flows(self.project, self.variant, self.state, self.asked)
        except CoreError as error:
            self.fail(error_words(error, self.units), 3)
        return network_text(found.point.solved, title=self.project.name)

    def _labels(self) -> dict[str, str]:
        return {part.id: part.label for part in self.variant.system.parts}

    def _flows(self, words: list[str]) -> dict[str, Any]:
        found = flows.solve_flows(self.project, self.variant, self.state, self.asked)
        labels = self._labels()
        report, units = found.report, self.units
        words += [outlet_sentence(outlet, units) for outlet in report.outlets]
        for pump in report.pumps:
            words += pump_sentences(pump, units)
        for outlet in report.outlets:
            eaten = report.eaten(outlet.id)[:5]
            taken = "; ".join(
                f"{step.label} {with_unit(step.drop_pa, 'pressure', units)}" for step in eaten
            )
            if taken:
                words.append(f"What eats the pressure to {outlet.label}: {taken}.")
        words += [shock_sentence(shock, labels.__getitem__, units) for shock in found.shocks]
        reader = Reader.of(self.variant.system, units)
        wrong = flow_findings(report, found.network)
        words += [f"! {flow_warning(item, reader)}" for item in wrong]
        if not self.asked.opens:
            words.append("Nothing is open; add --open NAME.")
        return flow_object(report, found.shocks)

    def _drain(self, words: list[str]) -> dict[str, Any]:
        down = flows.drained(self.project, self.variant, self.state)
        labels = self._labels()
        words.append(drain_sentence(down, labels, self.units))
        if down.off:
            words.append(f"Off or shut first: {', '.join(labels[key] for key in down.off)}.")
        words += [
            f"{number}. Open {item.label}: {with_unit(item.volume_m3, 'volume', self.units, 2)}"
            for number, item in enumerate(down.openings, 1)
        ]
        words += [trapped_sentence(item, labels, self.units) for item in down.trapped]
        return drain_object(down)

    def _leak(
        self, words: list[str], interval_s: float | None, cooled_k: float
    ) -> list[dict[str, Any]]:
        found = flows.leaks(self.project, self.variant, self.state)
        if not found:
            words.append("No pump here runs by a pressure switch, so none starts for a leak.")
        for start in found:
            words += pump_start_sentences(start, self.units)
            if interval_s is not None:
                band = start.leak(interval_s, cooled_k)
                words.append(
                    f"One start every {duration_words(interval_s)}: {band.likely * 3.6e6:.2g} L/h "
                    f"({band.low * 3.6e6:.2g} to {band.high * 3.6e6:.2g})."
                )
        return leak_object(found, interval_s, cooled_k)

    def _waste(self, words: list[str]) -> dict[str, Any]:
        found = flows.wasted(self.project, self.variant, self.state)
        words += waste_sentences(found, {}, self._labels(), self.units)
        return waste_object(found, self._labels(), self.units)
