"""Several people at several outlets, moves within a day, water that goes round, supplies shared."""

from __future__ import annotations

from math import exp
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma import catalogue
from isotherma.catalogue.demo import folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.engine import columns, standing_step
from isotherma.core.engine.columns import R_EXCHANGER, R_FALL, R_HEAT_J, R_STREAM_W
from isotherma.core.errors import CoreError
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.series import day_series
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.kinds.electric import Battery, HookUp, Load
from isotherma.core.system.kinds.heat import Element
from isotherma.core.system.kinds.waste import ReuseLoop
from isotherma.core.system.moves import moves
from isotherma.core.timeline.columns import STOPPED
from isotherma.wording import cautions, error_words
from tests.support import brief, changed, days_of, piece, ran, run, shower, system

# the loop on a button runs a minute before the shower opens
SHOWER_S, TAP_S = 7 * 3600.0, 7 * 3600.0 + 150.0


def two_outlets(*, tap_at: float = TAP_S, **values: Any):
    """Folio's kitchen tap beside its shower."""
    project = folio()
    base = project.variants[0].system
    draws = (
        shower(start_s=SHOWER_S, duration_s=180.0, outlet="head", **values),
        shower(2, start_s=tap_at, duration_s=40.0, clock="open", aim="any", outlet="kitchen"),
    )
    asked = project.brief.model_copy(update={"draws": draws, "day_start": "standing"})
    climate = catalogue.climate(project.brief)
    return asked, base, climate


@pytest.fixture(scope="module")
def both():
    return simulate(*two_outlets())


# --- several outlets at once ---


def test_a_second_tap_runs_beside_the_shower(both):
    wash, tap = both.draws
    assert tap.start_s == pytest.approx(TAP_S) and tap.end_s == pytest.approx(TAP_S + 40.0)
    assert wash.start_s < tap.start_s < tap.end_s < wash.end_s
    balance = both.timeline.balance
    assert balance.energy_error_share < 1e-9 and balance.water_error_share < 1e-9


def test_the_shower_feels_the_second_tap(both):
    log = both.timeline.log
    rows = log[(log[:, columns.DRAW] == 0) & (log[:, columns.MASS] > 0)]
    flow = rows[:, columns.MASS] / rows[:, columns.STEP]
    during = (rows[:, columns.END] > TAP_S + 5) & (rows[:, columns.END] < TAP_S + 40)
    before = (rows[:, columns.END] > TAP_S - 20) & (rows[:, columns.END] <= TAP_S)
    after = rows[:, columns.END] > TAP_S + 60
    assert flow[during].mean() < 0.95 * flow[before].mean()
    assert flow[after].mean() == pytest.approx(flow[before].mean(), rel=0.05)


def test_all_water_of_both_is_counted_once(both):
    log, density = both.timeline.log, 999.0
    drawn = log[:, columns.MASS].sum()
    assert sum(draw.used_m3 for draw in both.draws) * density == pytest.approx(drawn, rel=2e-3)
    series = day_series(both.setup, both.timeline)
    other = both.brief.other_fresh_m3
    assert series["fresh_m3"][-1] - other == pytest.approx(drawn / density, rel=2e-3)


def test_who_comes_later_at_the_same_outlet_waits_and_another_does_not():
    project, base, climate = two_outlets()
    third = shower(3, start_s=TAP_S - 50.0, duration_s=30.0, outlet="head")
    asked = project.model_copy(update={"draws": (*project.draws, third)})
    found = {draw.draw.id: draw for draw in simulate(asked, base, climate).draws}
    assert found["d3"].start_s == pytest.approx(found["d1"].end_s + 60.0)  # its loop first
    assert found["d2"].start_s == pytest.approx(TAP_S)  # it overtook the one that waits


def test_soaping_leaves_the_other_outlet_running():
    outcome = simulate(*two_outlets(tap_at=SHOWER_S + 20.0, stops=1, stop_s=90.0, clock="open"))
    log = outcome.timeline.log
    tap = log[(log[:, columns.DRAW] == 1) & (log[:, columns.MASS] > 0)]
    assert tap[:, columns.STEP].sum() == pytest.approx(40.0, abs=0.01)
    stood = log[log[:, columns.PHASE_OF] == STOPPED]
    assert len(stood) and (stood[:, columns.MASS] == 0.0).all()
    assert outcome.draws[0].end_s - outcome.draws[0].start_s == pytest.approx(270.0, abs=0.5)


def test_a_draw_with_nobody_beside_it_is_as_it_was():
    """The tap at noon changes nothing of the shower at seven, to the bit."""
    alone, base, climate = two_outlets()
    asked = alone.model_copy(update={"draws": alone.draws[:1], "day_start": "cold"})
    apart = two_outlets(tap_at=12 * 3600.0)[0].model_copy(update={"day_start": "cold"})
    one, other = simulate(asked, base, climate), simulate(apart, base, climate)
    assert one.draws[0] == pytest.approx(other.draws[0]) or one.draws[0] == other.draws[0]


@given(
    starts=st.lists(st.integers(0, 400), min_size=2, max_size=4),
    stops=st.integers(0, 2), dry=st.booleans(),
)  # fmt: skip
@settings(max_examples=12)
def test_whatever_comes_together_nothing_is_lost(starts, stops, dry):
    project, base, climate = two_outlets()
    outlets = ("head", "kitchen", "head", "basin")
    draws = tuple(
        shower(at, start_s=SHOWER_S + start, duration_s=50.0, stops=stops, stop_s=20.0,
               outlet=outlets[at], clock=("open", "warm")[at % 2])
        for at, start in enumerate(starts) if outlets[at] in {part.id for part in base.parts}
    )  # fmt: skip
    asked = project.model_copy(update={"draws": draws, "day_start": "cold"})
    _, day = ran(asked, changed(base, "tank", volume_m3=0.012) if dry else base,
                          base.states[0], climate)  # fmt: skip
    assert day.balance.energy_error_share < 1e-6 and day.balance.water_error_share < 1e-9
    assert [one.index for one in day.drawn] == list(range(len(draws)))
    assert (np.diff(day.log[:, columns.END]) >= 0.0).all()
    assert day.log[-1, columns.END] == pytest.approx(86400.0)


# --- moves between states within a day ---


def moving(*draws):
    layout = layouts()["coolant-coil"]
    asked = layout.brief.model_copy(update={"draws": draws, "day_start": "cold"})
    climate = catalogue.climate(asked)
    return asked, layout.system, climate


def test_a_draw_in_another_state_is_moved_to_and_back():
    asked, base, climate = moving(
        shower(start_s=SHOWER_S, duration_s=60.0),
        shower(2, start_s=12 * 3600.0, duration_s=60.0, state="driving"),
        shower(3, start_s=18 * 3600.0, duration_s=60.0),
    )
    _, day = ran(asked, base, base.states[0], climate)
    there = next(state for state in base.states if state.id == "driving")
    seconds = sum(move.seconds_s for move in moves(base, base.states[0], there))
    assert seconds > 0
    pressed = day.drawn[0].opened_s - SHOWER_S  # its loop on a button
    assert day.drawn[1].opened_s == pytest.approx(12 * 3600.0 + seconds + pressed)
    assert day.drawn[2].opened_s == pytest.approx(18 * 3600.0 + pressed)
    assert day.balance.energy_error_share < 1e-9 and day.balance.water_error_share < 1e-9
    spans = sum(row.span_s for row in day.stretches)
    assert spans == pytest.approx(86400.0)
    starts = [row.start_s for row in day.stretches]
    assert starts == sorted(starts)


def test_the_store_keeps_its_heat_through_the_moves():
    asked, base, climate = moving(shower(start_s=SHOWER_S, duration_s=60.0, state="driving"))
    days = days_of(asked, base, base.states[0], climate)
    days.usual.state.layers[:] = np.linspace(30.0, 60.0, len(days.usual.state.layers))
    other = days._in_state("driving")
    other.begin()
    heat = standing_step.total_heat(days.usual.named.thermal, days.usual.state)
    gone = other.take_over(days.usual)
    assert (other.state.layers == days.usual.state.layers).all()
    left = standing_step.total_heat(other.named.thermal, other.state)
    assert heat - gone == pytest.approx(left, rel=1e-12)
    assert abs(gone) < 0.1 * heat


def test_a_draw_in_the_state_of_the_day_moves_nothing():
    plain, base, climate = moving(shower(start_s=SHOWER_S, duration_s=60.0))
    named = plain.model_copy(
        update={"draws": (plain.draws[0].model_copy(update={"state": base.states[0].id}),)}
    )
    one, other = (ran(asked, base, base.states[0], climate)[1] for asked in (plain, named))
    assert (one.log == other.log).all()


def test_a_state_this_variant_lacks_is_told():
    outcome = run(brief(shower(state="castle")), system())
    words = " ".join(cautions(outcome, UnitSystem.METRIC))
    assert "lacks the state" in words and outcome.draws[0].used_m3 > 0.01


# --- water that goes round ---


def round_and_round(**values: object):
    layout = layouts()["closed-primary"]
    base = changed(layout.system, "reuse", **values) if values else layout.system
    draws = (shower(start_s=SHOWER_S, duration_s=600.0, clock="open", outlet="reuse",
                    state="reuse", low_c=30.0, high_c=45.0),)  # fmt: skip
    asked = layout.brief.model_copy(update={"draws": draws})
    climate = catalogue.climate(asked)
    return asked, base, climate


def test_a_shower_that_goes_round_warms_and_takes_its_litres_once():
    asked, base, climate = round_and_round(holds_m3=0.012)
    outcome = simulate(asked, base, climate)
    draw = outcome.draws[0]
    assert draw.used_m3 == pytest.approx(0.012) and draw.hot_m3 == 0.0
    rows = outcome.timeline.log[outcome.timeline.log[:, columns.MASS] > 0]
    head = rows[:, columns.HEAD]
    assert head[-1] > head[0] + 5.0  # the primary warms it
    assert rows[:, columns.MASS].sum() > 3 * 12.0  # the same water several times
    assert outcome.timeline.balance.energy_error_share < 1e-9
    series = day_series(outcome.setup, outcome.timeline)
    assert series["fresh_m3"][-1] == pytest.approx(0.012 + asked.other_fresh_m3, rel=1e-6)
    said = cautions(outcome, UnitSystem.METRIC)
    assert any("never to drink" in words for words in said)


def test_without_litres_nothing_goes_round():
    asked, base, climate = round_and_round(holds_m3=None)
    with pytest.raises(Exception, match="holds_m3"):
        simulate(asked, base, climate)


def rows_of(exchanger: float):
    row = np.zeros((1, 6))
    row[0, R_HEAT_J], row[0, R_STREAM_W] = 12.0 * 4180.0, 0.1 * 4180.0
    row[0, R_EXCHANGER], row[0, R_FALL], row[0, 5] = exchanger, 0.25, 20.0
    return row


def test_water_going_round_cools_as_one_exponential_without_heat():
    rows, now, counted = rows_of(0.0), np.array([[38.0, 38.0, 0.0, 1.0, 1.0]]), np.zeros(11)
    for _ in range(2400):
        standing_step.go_round(rows, now, counted, 0.25)
    tau = rows[0, R_HEAT_J] / (rows[0, R_STREAM_W] * rows[0, R_FALL])
    assert now[0, 0] == pytest.approx(20.0 + 18.0 * exp(-600.0 / tau), abs=0.05)
    lost = rows[0, R_HEAT_J] * (38.0 - now[0, 0])
    assert counted.sum() == pytest.approx(lost, rel=1e-9)


def test_it_settles_where_the_exchanger_gives_what_the_drops_lose():
    """ε·C·(T_p − T) = C_s·fall·(T_head − T_air) at rest, T_head = T + Q/C_s."""
    rows, now, counted = rows_of(400.0), np.array([[20.0, 20.0, 0.0, 1.0, 1.0]]), np.zeros(11)
    rate, primary = 0.12 * 3700.0, 60.0
    given = 0.0
    for _ in range(40_000):
        out = standing_step.exchange_round(rows, now, 0, rate, primary)
        given += rate * (primary - out) * 0.25
        standing_step.go_round(rows, now, counted, 0.25)
    stream, ratio = rows[0, R_STREAM_W], min(rate, rows[0, R_STREAM_W]) / max(rate, rows[0, 2])
    ntu = 400.0 / min(rate, stream)
    fade = exp(-ntu * (1 - ratio))
    grip = (1 - fade) / (1 - ratio * fade) * min(rate, stream)
    drain = (grip * primary + stream * 0.25 * 20.0 - 0.25 * grip * primary) / (
        grip + stream * 0.25 - 0.25 * grip
    )
    assert now[0, 0] == pytest.approx(drain, abs=0.02)
    held = rows[0, R_HEAT_J] * (now[0, 0] - 20.0)
    assert given == pytest.approx(counted.sum() + held, rel=1e-9)
    assert isinstance(piece(layouts()["closed-primary"].system, "reuse"), ReuseLoop)


# --- an empty battery, a shared pitch, a cut-out ---


def with_parts(base: System, *parts: object) -> System:
    return System.model_validate(
        {**base.model_dump(), "parts": [*(part.model_dump() for part in base.parts),
                                        *(part.model_dump() for part in parts)]}  # type: ignore[attr-defined]
    )  # fmt: skip


def test_an_empty_battery_stops_the_pump():
    small = Battery(id="battery", usable_j=20 * 3600.0)
    load = Load(id="fridge", name="Box that cools", day_j=24 * 20 * 3600.0)
    built = with_parts(system(), small, load)
    late = shower(2, start_s=20 * 3600.0)
    outcome = run(brief(shower(start_s=600.0), late), built)
    first, second = outcome.draws
    assert first.used_m3 > 0.01 and first.comfort_s > 60.0
    assert second.why_not is WhyNot.NO_POWER and second.used_m3 == 0.0
    full = with_parts(system(), small.model_copy(update={"usable_j": 2000 * 3600.0}), load)
    assert all(draw.used_m3 > 0.01 for draw in run(brief(shower(start_s=600.0), late), full).draws)


def shared(limit_w: float | None):
    base = system(30.0, power_w=1500.0)
    second = Element(id="second", name="Second element", power_w=1500.0, fitted_in="store",
                     height_share=0.0, sensor_share=0.0, set_c=75.0)  # fmt: skip
    hook = HookUp(id="hook", amps_a=10.0, volts_v=230.0, limit_w=limit_w)
    cables = [
        {"id": f"c{key}", "kind": "cable", "start": {"part": "hook", "port": "load"},
         "end": {"part": key, "port": "power"}}
        for key in ("element", "second")
    ]  # fmt: skip
    built = with_parts(base, second, hook)
    data = built.model_dump()
    return System.model_validate({**data, "runs": [*data["runs"], *cables]})


def test_elements_share_what_the_pitch_gives():
    asked = brief(shower(), day_start="cold")
    one, free = run(asked, shared(2300.0)), run(asked, shared(6000.0))
    assert one.timeline.log[:, columns.ELEMENT].max() <= 1500.0 * 1.001
    assert free.timeline.log[:, columns.ELEMENT].max() > 2900.0
    heats = one.timeline.balance.sources_j
    assert heats["element"] > heats["second"] > 0.0  # the first is served, then the other
    alone = run(asked, shared(1000.0)).timeline.balance.sources_j
    assert alone["element"] == alone["second"] == 0.0


def test_a_cut_out_does_not_chatter():
    """Heat far above a sensor that never warms: the layer goes to the limit and rests below."""
    hot = Element(id="element", power_w=1200.0, set_c=57.0, height_share=0.66, sensor_share=0.0)
    built = System.model_validate({
        **(base := system(30.0)).model_dump(),
        "parts": [*(part.model_dump() for part in base.parts if part.id != "element"),
                  hot.model_copy(update={"fitted_in": "store"}).model_dump()],
    })  # fmt: skip
    outcome = run(brief(day_start="cold"), changed(built, "store", layers=13, wall_w_m_per_k=0.0))
    assert len(outcome.timeline.log) < 3000
    assert outcome.timeline.log[:, columns.LOG_COLUMNS :].max() < 100.5


# --- every layout, moved about and let down ---


def moved_into(name: str, state_id: str):
    layout = layouts()[name]
    first, *rest = layout.brief.draws
    draws = (first.model_copy(update={"state": state_id}), *rest)
    return layout.brief.model_copy(update={"draws": draws, "day_start": "cold"}), layout.system


@pytest.mark.parametrize(
    ("name", "state_id"),
    [(name, state.id) for name, layout in layouts().items() for state in layout.system.states[1:]],
)
def test_every_layout_is_moved_within_a_day_or_refuses_clearly(name, state_id):
    asked, built = moved_into(name, state_id)
    climate = catalogue.climate(asked)
    try:
        _, day = ran(asked, built, built.states[0], climate)
    except CoreError as error:
        assert error_words(error, UnitSystem.METRIC)
        return
    assert day.balance.energy_error_share < 1e-4 and day.balance.water_error_share < 1e-6
    assert np.isfinite(day.log).all()
    assert (np.diff(day.log[:, columns.END]) >= 0.0).all()
    assert day.log[-1, columns.END] == pytest.approx(86400.0)


@pytest.mark.parametrize(
    "name", [key for key, row in layouts().items()
             if any(isinstance(part, Battery) for part in row.system.parts)],
)  # fmt: skip
def test_every_layout_with_a_battery_stands_when_it_is_empty(name):
    layout = layouts()[name]
    built = layout.system
    for item in built.parts:
        if isinstance(item, Battery):
            built = changed(built, item.id, usable_j=3600.0)
    late = shower(1, start_s=22 * 3600.0, duration_s=60.0)
    asked = layout.brief.model_copy(update={"draws": (late,), "day_start": "cold"})
    drains = Load(id="box-that-cools", name="Box that cools", day_j=5e6)
    climate = catalogue.climate_in(asked.region, 1)
    _, day = ran(asked, with_parts(built, drains), built.states[0]
                          if built.states else None, climate)  # fmt: skip
    assert day.balance.energy_error_share < 1e-6
    if any(item.carried == "battery" for item in day.ended):  # nothing charges it at night
        assert "battery" in day.drawn[0].out
