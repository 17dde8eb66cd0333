"""What was learned as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final

from isotherma.core.learning.estimate import Learned, Learning, Residual
from isotherma.core.learning.gauge import GaugeLearned
from isotherma.wording import LEARNED_WHY, learned_why

LEARNED_FORMAT: Final = "isotherma-learned-1"


def learned_object(figures: Learning, gauges: Sequence[GaugeLearned]) -> dict[str, Any]:
    """Give what was learned as an object for JSON.

    Parameters
    ----------
    figures : Learning
        Figures of parts and of the brief. [SI]
    gauges : sequence of GaugeLearned
        Tables of gauges. [m³]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [SI, as in the document]
    """
    made = [_figure(one) for one in figures.learned]
    made += [row for gauge in gauges for row in _gauge(gauge)]
    return {
        "format": LEARNED_FORMAT,
        "parameters": made,
        "residuals": [
            {"row": one.row.number, "session": one.row.session, "quantity": one.row.quantity,
             "measured": one.row.value, "before": one.before, "after": one.after,
             "standard": one.standard}
            for one in sorted(figures.residuals, key=lambda one: one.row.number)
        ],
        "doubtful": [_doubtful(one) for one in figures.doubtful],
        "held_out": {"rows": figures.held_out.rows, "before_rms": figures.held_out.before_rms,
                     "after_rms": figures.held_out.after_rms},
        "converged": figures.converged, "iterations": figures.iterations,
    }  # fmt: skip


def _figure(one: Learned) -> dict[str, Any]:
    known = one.parameter
    return {
        "path": known.path, "title": known.title, "unit": known.style,
        "before": {"low": known.low, "likely": known.likely, "high": known.high},
        "after": {"low": one.low, "likely": one.likely, "high": one.high},
        "identified": one.identified, "offered": one.offered, "sessions": list(one.sessions),
        "confused_with": list(one.confused_with), "because": learned_why(one),
    }  # fmt: skip


def _gauge(gauge: GaugeLearned) -> list[dict[str, Any]]:
    none = {"low": None, "likely": None, "high": None}
    rows = []
    for share, value in gauge.at:
        after = none if value is None else {
            "low": max(0.0, value - gauge.doubt_m3), "likely": value,
            "high": value + gauge.doubt_m3}  # fmt: skip
        known = value is not None
        rows.append({
            "path": f"gauges.{gauge.sender}@{share}", "title": f"Litres at {share} %",
            "unit": "volume", "before": none, "after": after, "identified": known,
            "offered": known and gauge.offered, "sessions": list(gauge.sessions),
            "confused_with": [],
            "because": LEARNED_WHY["offered" if known and gauge.offered else
                                   "too_few" if known else "beyond"],
        })  # fmt: skip
    return rows


def _doubtful(one: Residual) -> dict[str, Any]:
    return {
        "row": one.row.number, "time_s": one.row.time_s, "session": one.row.session,
        "quantity": one.row.quantity, "standard": one.standard,
        "because": "it lies more than four times its doubt from all the others together",
    }  # fmt: skip
