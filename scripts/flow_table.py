"""Write docs/flows.md: every starting layout, every state, every sensible set of open outlets.

Usage: PYTHONPATH=src .venv/bin/python scripts/flow_table.py
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations
from pathlib import Path

from isotherma.catalogue.layouts import Layout, layouts
from isotherma.core.flows.report import FlowReport
from isotherma.core.system.kinds.water import Drain
from isotherma.core.system.states import State
from isotherma.services.flows import Asked, solve_flows

TARGET = Path(__file__).parents[1] / "docs/flows.md"
HEAD = """# Flows of the starting layouts

Made by `scripts/flow_table.py` and held true by a test. Every state, each outlet alone, each pair,
and all together, wide open, under the layout's own brief. Flow in L/min, gauge pressure before the
outlet in bar, temperature as it runs for good in °C with stores at what they are set to.

Looked at: where nothing comes, the state is one with its pump off, its line plugged elsewhere, or
drained. Two knobs and through-flow heaters go cold where a second tap takes the flow they need to
light (`two-knob-selector`, cold and head). The hand-set box of `open-sun-box` runs cold while it is
refilled, since one pump then feeds both. `two-tank-storage` in `slug` sends the shower's water back
to the tank on purpose.

| layout, state | open | each gives | pumps |
|---|---|---|---|
"""


def _sets(taps: list[str]) -> Iterator[tuple[str, ...]]:
    yield from ((tap,) for tap in taps)
    yield from combinations(taps, 2)
    if len(taps) > 2:
        yield tuple(taps)


def _gives(report: FlowReport) -> str:
    words = []
    for outlet in report.outlets:
        if outlet.flow_m3_per_s == 0.0:
            words.append("nothing")
            continue
        litres, bar = outlet.flow_m3_per_s * 6e4, outlet.pressure_pa / 1e5
        words.append(f"{litres:.1f} · {bar:.2f} · {outlet.temperature_c:.0f}")
    return "; ".join(words)


def _pumps(report: FlowReport) -> str:
    words = []
    for pump in report.pumps:
        if pump.doing == "rests":
            continue
        kept = f" every {pump.cycle.period_s:.1f} s" if pump.cycle is not None else ""
        words.append(f"{pump.id} {pump.doing}{kept}")
    return ", ".join(words) or "none runs"


def rows(layout: Layout) -> Iterator[str]:
    """Give the rows of one layout."""
    project = layout.project()
    states: tuple[State | None, ...] = layout.system.states or (None,)
    for state in states:
        network = solve_flows(project, project.variants[0], state, Asked()).network
        taps = [key for key in network.ends if not isinstance(network.parts[key], Drain)]
        for chosen in _sets(taps):
            asked = Asked(opens=dict.fromkeys(chosen, 1.0))
            report = solve_flows(project, project.variants[0], state, asked).report
            where = f"{layout.id}, {state.id}" if state is not None else layout.id
            yield f"| {where} | {', '.join(chosen)} | {_gives(report)} | {_pumps(report)} |"


def document() -> str:
    """Give the whole document."""
    lines = [row for layout in layouts().values() for row in rows(layout)]
    return HEAD + "\n".join(lines) + "\n"


if __name__ == "__main__":
    TARGET.write_text(document(), encoding="utf-8")
