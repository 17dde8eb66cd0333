"""The timeline of a day as CSV: one row per step, SI-edge units in the headings."""

from __future__ import annotations

import csv
import io

from isotherma.core import water
from isotherma.core.engine import kernel
from isotherma.core.results.outcome import Outcome

PHASES = ("rest", "waiting", "running", "stopped")
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
    layers = log.shape[1] - kernel.LOG_COLUMNS
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow([*_HEADINGS, *(f"store_layer_{i}_c" for i in range(layers))])
    names = [draw.draw.id for draw in outcome.draws]
    for row in log.tolist():
        index, mass, step = int(row[kernel.DRAW]), row[kernel.MASS], row[kernel.STEP]
        flowing = mass > 0
        flow = mass / step / water.density_kg_per_m3(row[kernel.HEAD]) * 6e4 if flowing else 0.0
        temps = [row[c] for c in (kernel.HEAD, kernel.MIXED, kernel.HOT, kernel.COLD_SIDE)]
        writer.writerow(
            [
                f"{row[kernel.END]:.3f}",
                f"{step:.3f}",
                names[index] if index >= 0 else "",
                PHASES[int(row[kernel.PHASE_OF])],
                f"{flow:.4f}",
                *(f"{celsius:.3f}" if flowing else "" for celsius in temps),
                f"{row[kernel.SHARE]:.4f}" if flowing else "",
                f"{row[kernel.ELEMENT]:.1f}",
                f"{row[kernel.BURNER]:.1f}",
                *(f"{celsius:.3f}" for celsius in row[kernel.LOG_COLUMNS :]),
            ]
        )
    return text.getvalue()
