"""The timeline of a day as CSV: one row per step, SI-edge units in the headings."""

from __future__ import annotations

import csv
import io

from isotherma.core import water
from isotherma.core.engine import columns
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
    log = outcome.timeline.log
    layers = log.shape[1] - columns.LOG_COLUMNS
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    headings = [*_HEADINGS, *(name for name, _ in _SERIES.values())]
    writer.writerow([*headings, *(f"store_layer_{i}_c" for i in range(layers))])
    series = day_series(outcome.course, outcome.timeline)
    budgets = [
        [f"{value / unit:.4f}" for value in series[key].tolist()] or [""] * len(log)
        for key, (_, unit) in _SERIES.items()
    ]
    names = [draw.draw.id for draw in outcome.draws]
    for at, row in enumerate(log.tolist()):
        index, mass, step = int(row[columns.DRAW]), row[columns.MASS], row[columns.STEP]
        flowing = mass > 0
        flow = mass / step / water.density_kg_per_m3(row[columns.HEAD]) * 6e4 if flowing else 0.0
        temps = [row[c] for c in (columns.HEAD, columns.MIXED, columns.HOT, columns.COLD_SIDE)]
        writer.writerow(
            [
                f"{row[columns.END]:.3f}",
                f"{step:.3f}",
                names[index] if index >= 0 else "",
                PHASES[int(row[columns.PHASE_OF])],
                f"{flow:.4f}",
                *(f"{celsius:.3f}" if flowing else "" for celsius in temps),
                f"{row[columns.SHARE]:.4f}" if flowing else "",
                f"{row[columns.ELEMENT]:.1f}",
                f"{row[columns.BURNER]:.1f}",
                *(column[at] for column in budgets),
                *(f"{celsius:.3f}" for celsius in row[columns.LOG_COLUMNS :]),
            ]
        )
    return text.getvalue()
