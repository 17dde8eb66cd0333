"""Pictures as numbers: what is drawn is what was computed."""

from __future__ import annotations

import re
from itertools import pairwise

import pytest

from isotherma.core.engine import columns
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.draws import draw_rows
from isotherma.core.results.outcome import Outcome
from isotherma.web.ramp import colour
from isotherma.web.shower.chart import BOTTOM, LEFT, NARROW, WIDE, Chart, make_chart, store_layers
from isotherma.web.shower.glance import Glance, make_glance
from tests.support import brief, changed, run, shower, system


def drawn(outcome: Outcome, index: int, by: str, units: UnitSystem, width: int = WIDE) -> Chart:
    """Draw a chart that must be there."""
    chart = make_chart(outcome, index, by, units, width)
    assert chart is not None
    return chart


def glanced(outcome: Outcome, units: UnitSystem, only: int | None = None) -> Glance:
    """Draw a small picture that must be there."""
    glance = make_glance(outcome, units, only)
    assert glance is not None
    return glance


OUTCOME = run(brief(shower(stops=1), shower(2, start_s=40000.0, duration_s=420.0)), system())


@pytest.mark.parametrize("by", ["litres", "time"])
@pytest.mark.parametrize("width", [WIDE, NARROW])
@pytest.mark.parametrize("units", list(UnitSystem))
def test_everything_stands_inside_its_frame(by, width, units):
    chart = drawn(OUTCOME, 0, by, units, width)
    right = width - 12
    for column in chart.columns:
        x, w, y, h = (float(v) for v in (column.x, column.width, column.y, column.height))
        assert x >= LEFT - 0.1 and x + w <= right + 1.5
        assert y + h == pytest.approx(BOTTOM, abs=0.2)
    for x, y in re.findall(r"[ML]([\d.]+),([\d.]+)", chart.line):
        assert LEFT <= float(x) <= right and 0 < float(y) <= BOTTOM
    for tick in chart.x_ticks:
        assert LEFT - 0.1 <= float(tick.at) <= right + 0.1
    assert 2 <= len(chart.x_ticks) <= 9
    assert len(chart.y_ticks) >= 4


def test_areas_by_litres_are_as_wide_as_their_litres():
    chart = drawn(OUTCOME, 1, "litres", UnitSystem.METRIC)
    draw = OUTCOME.draws[1]
    per_m3 = (WIDE - 12 - LEFT) / draw.used_m3
    widths = dict.fromkeys(("good", "sag", "cold", "hot"), 0.0)
    for area in chart.areas:
        widths[area.kind] += float(area.width)
    assert widths["good"] == pytest.approx(draw.comfort_m3 * per_m3, rel=0.03)
    assert widths["sag"] == pytest.approx(draw.cool_m3 * per_m3, rel=0.03)
    assert widths["cold"] == pytest.approx(draw.cold_m3 * per_m3, rel=0.05)
    first, *rest = chart.areas  # a burst is too narrow for words
    labels = [first.label, *(area.label for area in rest if float(area.width) > 66.0)]
    assert all(labels) and len(labels) > 1, "a part without its litres written in"
    assert all(area.words for area in chart.areas)
    assert "too cool" in chart.description


def test_a_stop_is_a_gap_in_time_and_none_in_litres():
    timed = drawn(OUTCOME, 0, "time", UnitSystem.METRIC)
    assert timed.line.count("M") == 2
    assert drawn(OUTCOME, 0, "litres", UnitSystem.METRIC).line.count("M") == 1


def test_a_short_peak_stands_at_its_height():
    chart = drawn(OUTCOME, 0, "litres", UnitSystem.METRIC)
    highest = min(float(y) for _, y in re.findall(r"[ML]([\d.]+),([\d.]+)", chart.line))
    top_c = float(chart.y_ticks[-1].text)
    scale = (BOTTOM - float(chart.y_ticks[-1].at)) / top_c
    assert (BOTTOM - highest) / scale == pytest.approx(OUTCOME.draws[0].peak_c, abs=0.2)


def test_readouts_say_what_the_log_says():
    chart = drawn(OUTCOME, 1, "litres", UnitSystem.METRIC)
    rows = draw_rows(OUTCOME.timeline, 1)
    assert int(chart.readouts[-1].at) == len(rows) - 1
    for readout in chart.readouts[:: len(chart.readouts) // 7]:
        at = int(readout.at)
        assert float(readout.head.split("\xa0")[0]) == pytest.approx(rows.head_c[at], abs=0.06)
        top = float(readout.layers[0].text)
        assert top == pytest.approx(rows.layers_c[at, -1], abs=0.6)
        assert readout.layers[0].fill == colour(rows.layers_c[at, -1])


@pytest.mark.parametrize("index", [0, 1])
def test_moments_are_spread_over_the_draw_and_none_is_crowded(index):
    """A front takes a hundred steps in a second; a reader passes it in a few, and sees its top."""
    chart = drawn(OUTCOME, index, "time", UnitSystem.METRIC)
    rows = draw_rows(OUTCOME.timeline, index)
    at = [int(readout.at) for readout in chart.readouts]
    assert at == sorted(set(at)) and at[0] <= 1 and at[-1] == len(rows) - 1
    clocks = rows.end_s[at] - OUTCOME.draws[index].start_s
    first = int((clocks < 6.0).sum())
    assert 3 <= first < 0.2 * len(at), "the first six seconds take too many moments"
    assert max(clocks[1:] - clocks[:-1]) < 0.1 * clocks[-1] + OUTCOME.draws[index].draw.stop_s
    hottest = f"{OUTCOME.draws[index].peak_c:.1f}"
    assert any(readout.head.startswith(hottest) for readout in chart.readouts)


def test_a_line_says_no_place_twice():
    line = drawn(OUTCOME, 0, "time", UnitSystem.METRIC).line
    places = re.findall(r"[\d.]+,[\d.]+", line)
    assert len(places) > 100
    assert all(one != other for one, other in pairwise(places))


def test_layers_fill_the_vessel_from_the_top():
    temps = OUTCOME.timeline.log[-1, columns.LOG_COLUMNS :]
    layers = store_layers(temps, UnitSystem.US)
    assert len(layers) == len(temps)
    assert sum(float(layer.height) for layer in layers) == pytest.approx(
        260 + 0.3 * len(temps), 0.01
    )
    assert float(layers[0].text) == pytest.approx(temps[-1] * 9 / 5 + 32, abs=0.6)


def test_a_glance_shows_every_draw_by_its_litres():
    glance = glanced(OUTCOME, UnitSystem.METRIC)
    total = sum(draw.used_m3 for draw in OUTCOME.draws)
    first_end = float(glance.gaps[0])
    assert first_end == pytest.approx(237 * OUTCOME.draws[0].used_m3 / total, rel=0.01)
    assert max(float(c.x) + float(c.width) for c in glance.columns) <= 241
    one = glanced(OUTCOME, UnitSystem.METRIC, only=1)
    assert len(one.gaps) == 1


def test_no_water_is_no_picture():
    dry = run(brief(shower()), changed(system(), "pump", shut_pressure_pa=5e3))
    assert make_chart(dry, 0, "litres", UnitSystem.METRIC) is None
    assert make_glance(dry, UnitSystem.METRIC) is None
    assert make_glance(run(brief(), system()), UnitSystem.METRIC) is None
