"""Laws that hold for any system, stated so that they are true."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from isotherma import catalogue
from isotherma.catalogue.demo import curlew, drover, folio, folio_summer
from isotherma.catalogue.layouts import layouts
from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.engine import columns, standing_step
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.vehicle import Space
from tests.networks import network, part, pipe, pump, tank, tap
from tests.support import ample, brief, days_of, ran, shower, stands_of

STILL = Climate(region="x", month=6, air_c=10.0, swing_k=0.0)


def stored(volume_m3=0.012, **store):
    """A store whose element never runs, in a space kept at 10 °C."""
    built = network(
        [tank(), pump(), part("store", "store", volume_m3=volume_m3, **store), tap(),
         part("element", "element", fitted_in="store", power_w=800.0, rule="while driving")],
        [pipe("tank", "pump", 0.05, 0.02), pipe("pump", "store", 0.3, 0.01),
         pipe("store", "tap", 1.0, 0.01)],
    )  # fmt: skip
    data = built.model_dump()
    data["spaces"] = [Space(id="here", name="Here", kept_c=10.0).model_dump()]
    for piece in (*data["parts"], *data["runs"]):
        piece["space"] = "here"
    return System.model_validate(data)


def wash(minutes=4.0, **values):
    return shower(duration_s=minutes * 60, clock="open", low_c=36.0, high_c=90.0, outlet="tap",
                  **values)  # fmt: skip


def test_with_all_differences_zero_nothing_moves():
    asked = brief(day_start="cold", inside_c=10.0)
    days = days_of(asked, stored(), None, STILL)
    before = [array.copy() for array in (days.usual.state.layers, days.usual.state.water,
                                         days.usual.state.wall)]  # fmt: skip
    day = days.day(())
    after = (days.usual.state.layers, days.usual.state.water, days.usual.state.wall)
    for one, two in zip(before, after, strict=True):
        assert np.abs(one - two).max() < 1e-9
    assert day.balance.store_loss_j == pytest.approx(0.0, abs=1e-3)
    assert day.balance.pipe_loss_j == pytest.approx(0.0, abs=1e-3)


def test_a_draw_at_one_temperature_keeps_it():
    asked = brief(wash(), day_start="cold", inside_c=10.0)
    _, day = ran(asked, stored(), None, STILL)
    rows = day.log[day.log[:, columns.MASS] > 0.0]
    assert len(rows) and np.abs(rows[:, columns.HEAD] - 10.0).max() < 1e-9


def warm_litres(volume_m3, hot_c, **store):
    """Litres over 36 °C from a store that begins uniform, nothing heating it."""
    asked = brief(wash(8.0, start_s=60.0), day_start="cold", inside_c=10.0)
    days = days_of(asked, stored(volume_m3, **store), None, STILL)
    days.usual.state.layers[:] = hot_c
    day = days.day(tuple(draw.settled(10.0) for draw in asked.draws), ample(days))
    rows = day.log[day.log[:, columns.HEAD] >= 36.0]
    return float(rows[:, columns.MASS].sum())


@given(st.floats(0.004, 0.04), st.floats(1.02, 2.5), st.floats(45.0, 80.0))
@hypothesis_settings(max_examples=25)
def test_the_larger_store_never_gives_fewer_warm_litres(volume, factor, hot):
    layers = {"layers": 8, "insulation_m": 0.03}
    small = warm_litres(volume, hot, **layers)
    large = warm_litres(volume * factor, hot, **layers)
    assert large >= small - 0.06  # a quarter of a second of flow


@given(st.floats(0.005, 0.05), st.floats(1.1, 4.0))
@hypothesis_settings(max_examples=20)
def test_more_insulation_never_costs_energy_net_of_what_is_stored(thick, factor):
    nets = []
    for insulation in (thick, thick * factor):
        built = stored(insulation_m=insulation)
        parts = [
            {**item.model_dump(), "rule": "always"} if item.id == "element" else item.model_dump()
            for item in built.parts
        ]
        built = System.model_validate({**built.model_dump(), "parts": parts})
        days = days_of(brief(wash(), day_start="cold"), built, None, STILL)
        held = float(standing_step.total_heat(days.usual.named.thermal, days.usual.state))
        day = days.day(tuple(draw.settled(10.0) for draw in days.setup.brief.draws), ample(days))
        kept = float(standing_step.total_heat(days.usual.named.thermal, days.usual.state)) - held
        out = day.balance.heat_out_j - day.balance.heat_in_j
        nets.append(sum(day.balance.sources_j.values()) - kept - out)
    assert nets[1] <= nets[0] + 500.0  # half a kilojoule of stopping and starting


@pytest.mark.parametrize("noon", [21600.0, 43200.0, 64800.0])
def test_a_day_in_two_parts_is_the_day(noon):
    """Stopped at an edge of the hours and taken up again: the same bits."""
    asked = brief(day_start="cold", inside_c=10.0)
    moving = Climate(region="x", month=6, air_c=5.0, swing_k=12.0)
    whole, parts = (stands_of(asked, stored(), None, moving) for _ in range(2))
    for stands in (whole, parts):
        stands.state.layers[:] = 60.0
    whole.pass_time(86400.0)
    parts.pass_time(noon)
    parts.pass_time(86400.0)
    assert (whole.state.layers == parts.state.layers).all()


def test_the_cost_grows_with_the_days_alone():
    """Ten days take ten times the steps of one, not more."""
    asked = brief(wash(), day_start="cold")
    days = days_of(asked, stored(), None, STILL)
    draws = tuple(draw.settled(10.0) for draw in asked.draws)
    rows = [len(days.day(draws, ample(days)).log) for _ in range(10)]
    assert max(rows[1:]) <= 1.2 * min(rows[1:])


def near(one: float | None, other: float | None, absolute: float) -> bool:
    """Within half a percent or so much, as the law has it."""
    if one is None or other is None:
        return one is other
    return abs(one - other) <= max(0.005 * abs(other), absolute)


PUBLISHED = {
    "wait_s": 1.0, "comfort_s": 1.0, "hot_over_s": 1.0, "cool_after_s": 1.0,
    "mean_c": 0.2, "final_c": 0.2, "peak_c": 0.2, "largest_drop_k": 0.2,
    "used_m3": 1e-4, "hot_m3": 1e-4, "cold_m3": 1e-4, "flow_m3_per_s": 0.0,
}  # fmt: skip


def every_case() -> dict[str, tuple[Brief, System]]:
    found = {key: (layout.brief, layout.system) for key, layout in layouts().items()}
    for make in (drover, folio, folio_summer, curlew):
        project = make()
        for variant in project.variants:
            found[f"{project.name}, {variant.id}"] = (project.brief, variant.system)
    return found


@pytest.mark.parametrize("name", every_case())
def test_halving_the_step_moves_no_published_figure(name):
    """At most max(0.5 %, 1 s, 0.2 K), spikes and all; from cold.

    After a standing day it also hangs on where a thermostat stands in its cycle, which a loop
    on a timer never lets settle.
    """
    asked, built = every_case()[name]
    climate = catalogue.climate(asked)
    asked = asked.model_copy(update={"day_start": "cold"})
    one, half = (simulate(asked, built, climate, fine_s=step) for step in (0.25, 0.125))
    for draw, other in zip(one.draws, half.draws, strict=True):
        for figure, absolute in PUBLISHED.items():
            before, after = getattr(draw, figure), getattr(other, figure)
            assert near(before, after, absolute), (draw.draw.name, figure, before, after)
    for entry, finer in zip(one.ledger, half.ledger, strict=True):
        # a battery that is charged by day is told by how far it falls: of what it gives in a day
        little = 1e-4 * entry.used_per_day if entry.budget == "battery" else 1e-6
        assert near(entry.used, finer.used, little if entry.style != "seconds" else 1.0), entry


@pytest.mark.parametrize("more_s", [0.0, 0.37, 0.9, 2.2])
def test_a_spike_does_not_hang_on_what_flowed_long_before(more_s):
    """Water that stood is shared out to whole cells: a next front meets the edge of one."""
    project = drover()
    draws = project.brief.draws
    built = project.variants[0].system
    climate = catalogue.climate_in(project.brief.region, 1)
    peaks = []
    for extra in (0.0, more_s):
        first = draws[0].model_copy(update={"duration_s": draws[0].duration_s + extra})
        asked = project.brief.model_copy(
            update={"draws": (first, draws[2]), "day_start": "cold", "month": 1}
        )
        peaks.append(simulate(asked, built, climate).draws[1].peak_c)
    assert peaks[0] == pytest.approx(peaks[1], abs=0.2)


@pytest.mark.parametrize("name", ["Drover, ten-litres", "seat-store", "drive-plate"])
def test_a_spike_is_that_of_steps_of_a_twentieth(name):
    """Handbook's aim: peaks near those of a run in 0.05 s steps; here halved twice more."""
    asked, built = every_case()[name]
    asked = asked.model_copy(update={"day_start": "cold"})
    climate = catalogue.climate(asked)
    usual, finest = (simulate(asked, built, climate, fine_s=step) for step in (0.25, 0.05))
    for draw, other in zip(usual.draws, finest.draws, strict=True):
        assert draw.peak_c == pytest.approx(other.peak_c, abs=0.4)
        assert draw.wait_s == pytest.approx(other.wait_s, abs=0.2)
