"""A number of a design, opened: formula, values, source."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.core.quantity import STYLES, UnitSystem, with_unit
from isotherma.core.results.traced import Trace
from isotherma.services.documents import term_in
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.wording import TRACES, input_words, trace_title


def trace_value(trace: Trace, units: UnitSystem) -> str:
    """Write the value of a trace; "never" where there is none."""
    return "never" if trace.value is None else with_unit(trace.value, trace.style, units)


# the line of the page of methods a figure rests on first
METHODS: Final[Mapping[str, str]] = {
    "flow": "network", "wait": "pipe", "warm": "store", "hot": "mixer", "energy": "water",
    "used": "water-sources",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class TracePage:
    """A number, opened."""

    template: ClassVar[str] = "trace.html"
    frame: Frame
    id: str
    title: str
    value: str
    formula: str
    text: str
    inputs: tuple[tuple[str, str, str, str], ...]
    valid: str
    source: str
    method: str
    word: str


def trace_page(context: PageContext, trace_id: str) -> TracePage | None:
    """Open a number; None when this design has no such number."""
    frame, outcome = make_frame(context, "shower")
    units = context.units
    if outcome is None:
        return None
    try:
        trace = outcome.trace(trace_id)
    except KeyError:
        return None
    inputs = tuple(
        (
            item.symbol,
            input_words(item),
            with_unit(item.value, item.style, units, 6 if item.style == "seconds" else 4),
            item.path,
        )
        for item in trace.inputs
    )
    assert all(item.style in STYLES for item in trace.inputs)
    words = TRACES[trace.code]
    return TracePage(
        frame=frame,
        id=trace.id,
        title=trace_title(trace),
        value=trace_value(trace, units),
        formula=words.formula,
        text=words.words,
        inputs=inputs,
        valid=words.valid,
        source=words.source,
        method=METHODS.get(trace.id.partition(".")[0], "water"),
        word=term_in(trace_title(trace)),
    )
