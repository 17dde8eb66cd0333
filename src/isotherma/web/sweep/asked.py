"""What of the Sweep page is asked: texts as they stand in its fields, read together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from isotherma.core.errors import QuantityError
from isotherma.core.options.measures import Measure, measure
from isotherma.core.options.sweep import Sweep
from isotherma.core.quantity import parse
from isotherma.core.results.outcome import Outcome
from isotherma.services.inverse import MOST_FIGURES, Bound, Inverse
from isotherma.services.sweep_asking import Parameters, Read, parameters, read_varies
from isotherma.web.frame.context import PageContext
from isotherma.wording import error_words

AXES: Final = ("x", "y")
FIGURES: Final = ("a", "b", "c")[:MOST_FIGURES]
FIRST_SHOWN: Final = "longest_wait"


@dataclass(frozen=True)
class SweepAsked:
    """What is asked of the page, with what is wrong beside each field.

    `sweep` and `inverse` are None where nothing is asked, or something is wrong.
    """

    texts: Mapping[str, str]
    known: Parameters
    measures: tuple[Measure, ...]
    axes: tuple[Read, ...]
    figures: tuple[Read, ...]
    shown: Measure
    at: int | None
    sweep: Sweep | None
    inverse: Inverse | None
    must: str
    bound: str
    errors: Mapping[str, str] = field(default_factory=dict)


def read_asked(context: PageContext, outcome: Outcome) -> SweepAsked:
    """Read what the address asks."""
    texts = {key: value[:100] for key, value in context.query.items()}
    known = parameters(context.project, context.variant, outcome)
    measures = measure(outcome).measures
    project, units = context.project, context.units
    axes = read_varies(AXES, texts, known, project, units)
    figures = read_varies(FIGURES, texts, known, project, units)
    shown = next(
        (one for one in measures if one.id == texts.get("show")),
        next(one for one in measures if one.id == FIRST_SHOWN),
    )
    sweep = None
    if axes[0].vary is not None and not any(axis.errors for axis in axes):
        sweep = Sweep(axes[0].vary, axes[1].vary)
    at = int(texts["at"]) if texts.get("at", "").isdigit() else None
    inverse, errors = None, {}
    varied = tuple(one.vary for one in figures if one.vary is not None)
    bound, wrong = _bound(context, texts, measures)
    if wrong:
        errors["limit"] = wrong
    elif varied and not any(one.errors for one in figures):
        inverse = Inverse(varied, bound)
    return SweepAsked(
        texts, known, measures, axes, figures, shown, at, sweep, inverse,
        texts.get("must", ""), texts.get("limit", ""), errors,
    )  # fmt: skip


def _bound(
    context: PageContext, texts: Mapping[str, str], measures: tuple[Measure, ...]
) -> tuple[Bound | None, str]:
    """Read what must hold; the first part of it is an address, as "most:wait.a"."""
    side, _, measure_id = texts.get("must", "").partition(":")
    named = next((one for one in measures if one.id == measure_id), None)
    if named is None or side not in ("most", "least"):
        return None, ""
    try:
        limit = parse(texts.get("limit", ""), named.style, context.units)
    except QuantityError as error:
        return None, error_words(error, context.units)
    return Bound(named.id, side == "most", limit), ""
