"""Where water comes from and goes to: tanks, cans, bags, rivers, grey tanks and open ground."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.demo import curlew, drover
from isotherma.catalogue.layouts import layouts
from isotherma.core.brief import Brief, Use
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.waters import Share, fresh_shares, grey_shares, nearest
from isotherma.core.setup.reservoirs import (
    ENDLESS,
    FRESH_KG_PER_M3,
    Reservoir,
    feeding,
    fresh_reservoirs,
    home_of,
    reservoirs_of,
)
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.services.runs import compute
from tests.networks import network, part, pipe, tank, tap
from tests.support import MILD, brief, changed, run, shower, system, use

KG = FRESH_KG_PER_M3


def outcome_of(project):
    found = compute(project, project.variants[0])
    assert isinstance(found, Outcome)
    return found


def entry(outcome, budget):
    return next(item for item in outcome.ledger if item.budget == budget)


def on_a_can(litres: float, spares: int = 0, swap_s: float = 60.0) -> System:
    """A pump that hangs in a can, spares beside it, and a tap."""
    return network(
        [part("can", "loose_container", volume_m3=litres / 1000, spare_count=spares, swap_s=swap_s),
         part("pump", "submersible", fitted_in="can", open_flow_m3_per_s=10e-3 / 60,
              shut_pressure_pa=6e4),
         tap()],
        [pipe("pump", "tap")],
    )  # fmt: skip


# --- what is carried ---


def test_a_spare_is_joined_when_a_can_is_empty():
    """A wash of 30 L on cans of ten: two are swapped, each with a pause, and all arrives."""
    draw = shower(outlet="tap", duration_s=900.0, low_c=5.0, high_c=60.0)
    one = run(brief(draw, cold_water_c=20.0), on_a_can(10.0))
    more = run(brief(draw, cold_water_c=20.0), on_a_can(10.0, spares=9, swap_s=45.0))
    assert one.draws[0].empty == "can" and one.draws[0].took_m3["can"] == pytest.approx(
        10e-3, rel=2e-2
    )
    assert not more.draws[0].empty
    assert more.draws[0].took_m3["can"] > 2.2 * one.draws[0].took_m3["can"]
    swaps = [clock for clock, reservoir in more.timeline.swaps if reservoir == "can"]
    assert len(swaps) >= 2 and swaps == sorted(swaps)
    assert np.diff(swaps).min() > 45.0


@given(st.floats(1.0, 40.0), st.integers(0, 5), st.floats(0.0, 250.0))
def test_what_is_left_is_never_more_than_there_was(litres, spares, taken):
    reservoir = Reservoir("can", "Can", litres, spares, litres, 60.0)
    reservoirs = fresh_reservoirs((reservoir,), Brief(), 0, {"can": taken})
    assert reservoirs.left_kg[0] == pytest.approx(max(0.0, litres * (1 + spares) - taken))
    joined = reservoirs.now_kg()[0]
    assert -1e-9 <= joined <= litres + 1e-6
    assert joined <= reservoirs.left_kg[0] + 1e-9


@given(st.floats(2.0, 30.0), st.integers(0, 6))
def test_swapping_goes_through_all_and_then_ends(litres, spares):
    reservoirs = fresh_reservoirs(
        (Reservoir("can", "Can", litres, spares, litres, 30.0),), Brief(), 0
    )
    swapped = 0
    for _ in range(spares + 3):
        reservoirs.ran(reservoirs.now_kg(), np.zeros(1), 0.0)
        if reservoirs.swap(0, 0.0) is None:
            break
        swapped += 1
    assert swapped == spares
    assert reservoirs.left_kg[0] == 0.0


def test_loose_cans_are_poured_into_the_first_tank():
    built = System.model_validate({"parts": [
        tank("main"), part("jerry", "loose_container", volume_m3=0.02, spare_count=2),
    ]})  # fmt: skip
    (reservoir,) = reservoirs_of(built.parts, set(), 0.0)
    assert reservoir.id == "main"
    assert reservoir.full_kg == pytest.approx((100 + 60) * KG / 1000)


def test_a_can_that_is_joined_is_a_well_of_its_own():
    built = on_a_can(10.0, spares=1)
    (reservoir,) = reservoirs_of(built.parts, {"can"}, 0.0)
    assert reservoir.id == "can" and reservoir.full_kg == pytest.approx(20 * KG / 1000)


def test_a_reserve_is_left_in_every_one():
    built = System.model_validate({"parts": [tank("main")]})
    whole, kept = reservoirs_of(built.parts, set(), 0.0), reservoirs_of(built.parts, set(), 0.2)
    assert kept[0].full_kg == pytest.approx(0.8 * whole[0].full_kg)


def test_other_water_comes_evenly_from_its_own_source():
    uses = (Use(id="wash", name="Wash", volume_m3=8.64e-3, source="two"),)
    reservoirs = fresh_reservoirs(
        (Reservoir("one", "One", 50.0, 0, 0.0, 0.0), Reservoir("two", "Two", 50.0, 0, 0.0, 0.0)),
        Brief(uses=uses), 0,
    )  # fmt: skip
    reservoirs.pass_time(43200.0)
    assert reservoirs.left_kg[0] == 50.0
    assert reservoirs.left_kg[1] == pytest.approx(50.0 - 8.64e-3 * KG / 2)
    reservoirs.pass_time(43200.0)  # the same moment takes nothing twice
    assert reservoirs.left_kg[1] == pytest.approx(50.0 - 8.64e-3 * KG / 2)


def test_a_river_has_no_end():
    assert ENDLESS == -1
    reservoirs = fresh_reservoirs((), Brief(), ENDLESS)
    reservoirs.take(ENDLESS, 1e6)
    assert reservoirs.washed_kg() == {}


# --- from which ---


def test_the_nearest_source_feeds_an_outlet():
    layout = layouts()["two-tank-storage"]
    outcome = simulate(layout.brief, layout.system, MILD)
    compiled = outcome.setup.network
    for outlet in compiled.ends:
        sources = feeding(compiled, outlet)
        assert sources and all(source in compiled.parts for source in sources)
    assert feeding(compiled, "no-such-outlet") == ()
    reservoirs = outcome.setup.reservoirs.reservoirs
    assert 0 <= home_of(compiled, next(iter(compiled.ends)), reservoirs) < len(reservoirs)


def test_a_pitch_takes_nothing_from_the_tank():
    layout = layouts()["pitch-store"]
    states = {state.id: state for state in layout.system.states}
    used = {}
    for key, state in states.items():
        outcome = simulate(layout.brief, layout.system, MILD, state=state)
        used[key] = sum(outcome.timeline.washed_kg.values())
    assert min(used.values()) == 0.0 and max(used.values()) > 5.0


def test_what_draws_took_is_what_the_wells_lost():
    outcome = outcome_of(drover())
    shares = {share.id: share for share in fresh_shares(
        outcome.setup, outcome.timeline, outcome.draws
    )}  # fmt: skip
    taken = sum(sum(draw.took_m3.values()) for draw in outcome.draws)
    others = sum(item.day_m3 for item in outcome.brief.uses)
    assert sum(share.per_day_m3 for share in shares.values()) == pytest.approx(
        taken + others, rel=1e-2
    )
    assert entry(outcome, "fresh").used_per_day == pytest.approx(taken + others, rel=1e-2)


# --- where to ---


def test_outside_water_fills_no_grey_tank():
    layout = layouts()["hung-outside"]
    outcome = simulate(layout.brief, layout.system, MILD)
    assert outcome.draws and sum(draw.used_m3 for draw in outcome.draws) > 1e-3
    assert entry(outcome, "grey").used_per_day == 0.0


def test_typed_room_for_grey_water_wins():
    outcome = outcome_of(drover())
    (typed,) = grey_shares(outcome.setup, outcome.draws, 0.005)
    assert typed.limit_m3 == 0.005
    found = grey_shares(outcome.setup, outcome.draws, None)
    assert sum(share.per_day_m3 for share in found) == pytest.approx(typed.per_day_m3, rel=1e-6)


def test_the_tank_that_ends_first_is_named():
    one, two = Share("a", "Bow", 0.02, 0.1), Share("b", "Stern", 0.03, 0.1)
    assert nearest((one, two)).label == "Stern" and nearest((one, two)).id == "b"
    assert nearest((one,)).label == ""
    idle = Share("c", "Idle", 0.0, 0.1)
    assert nearest((idle, one)).id == "a"
    assert nearest((idle, Share("d", "x", 0.0, 0.2))).limit_m3 == pytest.approx(0.3)
    assert nearest(()).limit_m3 is None
    assert idle.days == float("inf") and one.days == pytest.approx(5.0)
    assert Share("e", "x", 1.0, None).days == float("inf")


def test_a_bag_is_counted_beside_the_store():
    outcome = outcome_of(curlew())
    fresh = {share.id for share in fresh_shares(
        outcome.setup, outcome.timeline, outcome.draws
    )}  # fmt: skip
    assert fresh == {reservoir.id for reservoir in outcome.setup.reservoirs.reservoirs} != set()


def test_more_than_there_is_ends_the_trip_sooner():
    days = []
    for litres in (60.0, 20.0):
        outcome = run(brief(shower(), days=6).model_copy(update={"uses": (use(0.003),)}),
                      system(tank_l=litres))  # fmt: skip
        days.append(entry(outcome, "fresh").ends_on_day or 99)
    assert days[1] < days[0]


def test_a_zero_tank_is_empty_and_not_unknown():
    outcome = run(brief(shower()), changed(system(), "tank", volume_m3=1e-6))
    assert outcome.draws[0].why_not is not None
    assert outcome.draws[0].comfort_s == 0.0
