"""What flows where the drawing is opened, or why nothing does, with warnings by part."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from isotherma.core.errors import CoreError
from isotherma.core.flows.findings import flow_findings
from isotherma.core.flows.report import FlowReport
from isotherma.core.system.states import State
from isotherma.services.flows import Asked, SolvedFlows
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import mend_piece
from isotherma.wording import (
    error_words,
    flow_warning,
    outlet_sentence,
    pump_sentences,
)
from isotherma.wording.reader import Reader


@dataclass(frozen=True, slots=True)
class Warned:
    """A warning with the parts and runs it is about."""

    parts: tuple[str, ...]
    words: str


@dataclass(frozen=True, slots=True)
class Ran:
    """What runs where it is open: flows or why there are none, in words, warnings by part."""

    flows: SolvedFlows | None = None
    error: str = ""
    mend: str = ""
    said: tuple[str, ...] = ()
    warnings: tuple[Warned, ...] = ()

    @property
    def report(self) -> FlowReport | None:
        """What was solved."""
        return self.flows.report if self.flows is not None else None

    @property
    def warned(self) -> dict[str, str]:
        """The first warning of each part, by its id."""
        found: dict[str, str] = {}
        for item in self.warnings:
            for key in item.parts:
                found.setdefault(key, item.words)
        return found

    @property
    def running(self) -> str:
        """The first outlet that runs; "" where none does."""
        outlets = self.flows.report.outlets if self.flows is not None else ()
        return next((item.id for item in outlets if item.flow_m3_per_s > 0.0), "")


def solve_open(context: PageContext, state: State | None, opens: Mapping[str, float]) -> Ran:
    """Solve the flows of what is open and say what they are."""
    variant, units = context.built, context.units
    asked = Asked(opens=opens)
    found = context.services.flowing.result(context.project, variant, state, asked)
    if isinstance(found, CoreError):
        return Ran(error=error_words(found, units), mend=mend_piece(found))
    said = [outlet_sentence(outlet, units) for outlet in found.report.outlets]
    for pump in found.report.pumps:
        if pump.doing != "rests":
            said += pump_sentences(pump, units)
    reader = Reader.of(variant.system, units)
    warnings = tuple(
        Warned(item.parts, flow_warning(item, reader))
        for item in flow_findings(found.report, found.network)
    )
    return Ran(flows=found, said=tuple(said), warnings=warnings)
