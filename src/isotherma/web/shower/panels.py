"""Narrow pictures under the chart of a draw, on its own axis: one figure each."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.draws import draw_rows
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.series import day_series
from isotherma.web.shower.chart import LEFT, WIDE, Floats, moments


@dataclass(frozen=True, slots=True)
class ChartPanel:
    """A narrow picture under the chart on the same axis: one figure through the draw."""

    key: str
    title: str
    line: str
    low: str
    high: str
    values: tuple[str, ...]
    straight: bool = False  # a line that says no more than its two ends


PANEL_TOP, PANEL_BOTTOM = 6.0, 46.0
LEAST_SPAN_K = 5.0  # a store that falls by less is drawn as nearly level
STRAIGHT = 0.04  # of its rise, from the line between its ends


def _straight(along: Floats, values: Floats) -> bool:
    """Say whether a line is as good as the two figures at its ends."""
    rise = float(values.max() - values.min())
    if rise <= 1e-6 * max(1.0, float(np.abs(values).max())):
        return True
    chord = np.interp(along, [along[0], along[-1]], [values[0], values[-1]])
    return bool(np.abs(values - chord).max() < STRAIGHT * rise)


def make_panels(
    outcome: Outcome, index: int, by: str, units: UnitSystem, width: int = WIDE,
    beside: tuple[ChartPanel, ...] = (),
) -> tuple[ChartPanel, ...]:  # fmt: skip
    """Follow store, heat, fuel, battery and water through a draw, on the chart's own axis.

    `beside` are the same in another width, whose figures are not written again.
    """
    rows = draw_rows(outcome.timeline, index)
    if len(rows) < 2:
        return ()
    right = width - 12.0
    ends = np.cumsum(rows.mass_kg) if by == "litres" else rows.end_s - outcome.draws[index].start_s
    at = LEFT + (right - LEFT) * ends / float(ends[-1])
    picked = np.searchsorted(outcome.timeline.rows.end_s, rows.end_s)
    series = day_series(outcome.setup, outcome.timeline)
    layers = rows.layers_c
    wanted: list[tuple[str, str, str, Floats]] = []
    if layers.shape[1]:
        wanted += [
            ("top", "Store, top", "temperature", layers[:, -1]),
            ("bottom", "Store, bottom", "temperature", layers[:, 0]),
        ]
    power = rows.element_w + rows.burner_w
    if power.max() > 0.0:
        wanted.append(("heat", "Heat given", "heat_power", power))
    for name, title, style in (
        ("gas_kg", "Gas, today", "mass"), ("diesel_m3", "Diesel, today", "volume"),
        ("mains_j", "Mains, today", "energy"), ("battery_left_j", "Battery", "battery_energy"),
        ("fresh_m3", "Fresh, today", "volume"), ("grey_m3", "Grey, today", "volume"),
    ):  # fmt: skip
        values = series[name]
        if len(values) and values.max() > 0.0:
            wanted.append((name.rpartition("_")[0], title, style, values[picked]))
    picks = moments(rows)
    found = []
    for place, (key, title, style, values) in enumerate(wanted):
        low, high = float(values.min()), float(values.max())
        span = max(high - low, 1e-9 * max(1.0, abs(high)))
        if style == "temperature" and span < LEAST_SPAN_K:
            low, span = (low + high - LEAST_SPAN_K) / 2, LEAST_SPAN_K
        places = PANEL_BOTTOM - (PANEL_BOTTOM - PANEL_TOP) * (values - low) / span
        line = "".join(
            f"{'L' if step else 'M'}{x:.1f},{y:.1f}"
            for step, (x, y) in enumerate(zip(at, places, strict=True))
        )
        if beside:
            found.append(replace(beside[place], line=line))
            continue
        found.append(ChartPanel(
            key=key, title=title, line=line,
            low=with_unit(float(values[0]), style, units, 3),
            high=with_unit(float(values[-1]), style, units, 3),
            values=tuple(with_unit(float(values[pick]), style, units, 3) for pick in picks),
            straight=_straight(ends, values),
        ))  # fmt: skip
    return tuple(found)
