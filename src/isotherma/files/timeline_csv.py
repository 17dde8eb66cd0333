"""The timeline of a day as CSV: one row per step, SI-edge units in the headings."""

from __future__ import annotations

import csv
import io

from isotherma.core import water
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.series import day_series

PHASES = ("rest", "waiting", "running", "stopped", "moving")
_HEADINGS = (
    "time_s",
    "step_s",
    "draw",
    "phase",
    "flow_l_per_min",
    "head_c",
    "mixer_out_c",
    "mixer_hot_c",
    "mixer_cold_c",
    "hot_share",
    "stored_w",
    "passing_w",
)
# columns of the budgets, by series: heading and what one of the unit is
_SERIES = {
    "fresh_m3": ("fresh_used_l", 1e-3),
    "grey_m3": ("grey_made_l", 1e-3),
    "gas_kg": ("gas_used_kg", 1.0),
    "diesel_m3": ("diesel_used_l", 1e-3),
    "mains_j": ("mains_used_wh", 3600.0),
    "battery_left_j": ("battery_left_wh", 3600.0),
}


def write_timeline(outcome: Outcome) -> str:
    """Write every step of a simulated day.

    Parameters
    ----------
    outcome : Outcome
        The day. [-]

    Returns
    -------
    str
        CSV with a heading; temperatures are empty where no water flows, layer 0 is the
        bottom of the store. [see headings]
    """
    rows = outcome.timeline.rows
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    headings = [*_HEADINGS, *(name for name, _ in _SERIES.values())]
    layers = rows.layers_c.shape[1]
    writer.writerow([*headings, *(f"store_layer_{i}_c" for i in range(layers))])
    series = day_series(outcome.setup, outcome.timeline)
    budgets = [
        [f"{value / unit:.4f}" for value in series[key].tolist()] or [""] * len(rows)
        for key, (_, unit) in _SERIES.items()
    ]
    names = [draw.draw.id for draw in outcome.draws]
    steps = zip(
        rows.end_s.tolist(), rows.step_s.tolist(), rows.draw.tolist(), rows.phase.tolist(),
        rows.mass_kg.tolist(), rows.head_c.tolist(), rows.mixed_c.tolist(), rows.hot_c.tolist(),
        rows.cold_c.tolist(), rows.hot_share.tolist(), rows.element_w.tolist(),
        rows.burner_w.tolist(), rows.layers_c.tolist(), *budgets, strict=True,
    )  # fmt: skip
    for row in steps:
        end, step, of, phase, mass, head, mixed, hot, cold, share, element, burner, store, *used = (
            row
        )
        flowing = mass > 0
        flow = mass / step / water.density_kg_per_m3(head) * 6e4 if flowing else 0.0
        writer.writerow(
            [
                f"{end:.3f}",
                f"{step:.3f}",
                names[int(of)] if of >= 0 else "",
                PHASES[int(phase)],
                f"{flow:.4f}",
                *(f"{celsius:.3f}" if flowing else "" for celsius in (head, mixed, hot, cold)),
                f"{share:.4f}" if flowing else "",
                f"{element:.1f}",
                f"{burner:.1f}",
                *used,
                *(f"{celsius:.3f}" for celsius in store),
            ]
        )
    return text.getvalue()
