"""States side by side: filled, copied, handed from one network of a system to another."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma import catalogue
from isotherma.catalogue.layouts import layouts
from isotherma.core.engine import columns, standing_step
from isotherma.core.engine.balance import balance
from isotherma.core.engine.state_simulation import StateSimulation
from isotherma.core.engine.state_transfer import (
    copied,
    filled,
    filled_up,
    hand_over,
    overwrite,
)
from isotherma.core.system.kinds.temperature import ManualMixer
from isotherma.core.thermal.mixer import HOT_STOP
from isotherma.core.timeline.record import merged
from tests.support import MILD, ample, brief, changed, days_of, run, shower, stands_of, system

STATED = [key for key, layout in layouts().items() if len(layout.system.states) > 1]


def courses(name: str) -> list[StateSimulation]:
    layout = layouts()[name]
    climate = catalogue.climate(layout.brief)
    return [
        stands_of(layout.brief, layout.system, state, climate) for state in layout.system.states
    ]


def warmed(stands: StateSimulation, celsius: float) -> None:
    """Fill everything with water of one temperature."""
    state = stands.state
    for array in (state.water, state.wall, state.layers, state.sensors):
        array[:] = celsius
    state.stirred[:, columns.TEMP] = celsius
    state.pool[:, columns.POOL_C] = celsius
    state.ring[:, 2] = celsius


@pytest.mark.parametrize("name", layouts())
def test_what_was_just_filled_is_fresh_everywhere(name):
    layout = layouts()[name]
    climate = catalogue.climate(layout.brief)
    stands = stands_of(layout.brief, layout.system, layout.system.states[0], climate)
    fresh = stands.conditions.fresh_c
    state = filled(stands.network, stands.named, fresh)
    for array in (state.water, state.layers, state.sensors, state.in_c, state.out_c):
        assert (array == fresh).all()
    for array in (state.relays, state.given, state.counted, state.taken, state.ring):
        assert not array.any()
    for at, row in enumerate(stands.named.thermal.pipe):
        walls = state.wall[int(row[0]) : int(row[0] + row[1])]
        assert (walls == row[6]).all(), stands.boundary.runs[at]
    for mixer, opening in zip(stands.network.mixers, state.opening, strict=True):
        part: Any = stands.network.parts[mixer]
        by_hand = isinstance(part, ManualMixer)
        assert opening == (pytest.approx(part.hot_share, abs=1e-3) if by_hand else HOT_STOP)


def test_a_copy_shares_nothing_and_overwriting_gives_it_back():
    stands = stands_of(brief(shower()), system(), None, MILD)
    kept = copied(stands.state)
    for one, other in zip(stands.state, kept, strict=True):
        assert one is not other and (one == other).all()
        one[:] = 7.0
    assert not any((array == 7.0).all() for array in kept if array.size)
    overwrite(stands.state, kept)
    assert all((one == other).all() for one, other in zip(stands.state, kept, strict=True))


@pytest.mark.parametrize("name", STATED)
def test_handed_to_another_state_and_back_nothing_is_lost(name):
    """What both states have keeps its heat; what only one has stands as it was left."""
    here, *others = courses(name)
    warmed(here, 55.0)
    held = standing_step.total_heat(here.named.thermal, here.state)
    before = copied(here.state)
    for there in others:
        hand_over(there.holder(), here.holder())
        for at, run_id in enumerate(there.boundary.runs):
            row = there.named.thermal.pipe[at]
            cells = slice(int(row[0]), int(row[0] + row[1]))
            if run_id in here.boundary.runs:
                assert (there.state.water[cells] == 55.0).all()
            else:
                assert (there.state.water[cells] == there.conditions.fresh_c).all()
        hand_over(here.holder(), there.holder())
        assert standing_step.total_heat(here.named.thermal, here.state) == pytest.approx(
            held, rel=1e-12
        )
    for name_of in ("water", "wall", "layers", "sensors", "relays", "ring"):
        assert (getattr(here.state, name_of) == getattr(before, name_of)).all()


@pytest.mark.parametrize("name", STATED)
def test_a_day_that_moves_through_every_state_adds_up(name):
    layout = layouts()[name]
    climate = catalogue.climate(layout.brief)
    days = days_of(layout.brief, layout.system, layout.system.states[0], climate)
    draws = []
    for at, state in enumerate(layout.system.states[1:], start=1):
        for draw in layout.brief.draws[:1]:
            more = {"id": f"d{at}", "state": state.id, "start_s": 7 * 3600.0 + 1800.0 * at}
            moved = draw.model_copy(update=more)
            there = days._in_state(state.id)
            if there.joined(moved.outlet or there.setup.label("")):
                draws.append(moved.settled(days.usual.conditions.fresh_c))
    day = days.day(tuple(draws), ample(days))
    assert day.balance.energy_error_share < 1e-6
    assert day.balance.water_error_share < 1e-6
    assert days.usual.clock == 86400.0


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 4), st.integers(0, 3)), min_size=1, max_size=8))
def test_pieces_of_a_log_are_filled_up_with_what_last_stood(pieces):
    """A state without the vessel shown leaves its layers as they were."""
    width = columns.LOG_COLUMNS + 3
    log: list[Any] = []
    for at, (rows, kind) in enumerate(pieces):
        wide = kind > 0
        log.append(np.full((rows, width if wide else columns.LOG_COLUMNS), float(at + 1)))
    whole = filled_up(log, width)
    assert [len(part) for part in whole] == [len(part) for part in log]
    last = 0.0
    for part, source in zip(whole, log, strict=True):
        assert part.shape[1] == width
        if source.shape[1] == width and len(source):
            last = source[-1, -1]
        elif len(source):
            assert (part[:, columns.LOG_COLUMNS :] == last).all()


# --- the books ---


def test_books_are_closed_by_what_was_counted():
    """Counted by hand: 1000 J in, 300 J out, 200 J lost, 500 J more held."""
    stands = stands_of(brief(shower()), system(), None, MILD)
    state, thermal = stands.state, stands.named.thermal
    started = standing_step.total_heat(thermal, state)
    layer_j = thermal.vessel[0][columns.LAYER_J]
    state.layers[0] += 500.0 / layer_j
    state.counted[columns.SOURCES] = 1000.0
    state.counted[columns.OUT] = 300.0
    state.counted[columns.LOST_STORE] = 150.0
    state.counted[columns.LOST_PIPE] = 50.0
    state.given[:] = 1000.0
    found = balance(stands.network, stands.named, state, started, standing_step.held_mass(state))
    assert found.energy_error_share < 1e-9
    assert found.stored_change_j == pytest.approx(500.0, rel=1e-6)
    assert found.sources_j == {"element": 1000.0}
    state.counted[columns.OUT] = 290.0
    wrong = balance(stands.network, stands.named, state, started, standing_step.held_mass(state))
    assert wrong.energy_error_share == pytest.approx(0.01, rel=1e-6)


def test_water_that_does_not_add_up_is_seen():
    stands = stands_of(brief(shower()), system(), None, MILD)
    stands.state.counted[columns.MASS_IN], stands.state.counted[columns.MASS_OUT] = 10.0, 9.9
    found = balance(stands.network, stands.named, stands.state, 0.0, 0.0)
    assert found.water_error_share == pytest.approx(0.01)


def test_balances_of_parts_of_a_day_add_up():
    one = run(brief(shower()), system()).timeline.balance
    two = run(brief(shower(start_s=64800.0)), system(power_w=800.0)).timeline.balance
    both = merged([one, two])
    assert both.sources_j["element"] == one.sources_j["element"] + two.sources_j["element"]
    assert both.heat_out_j == pytest.approx(one.heat_out_j + two.heat_out_j)
    assert both.energy_error_share <= one.energy_error_share + two.energy_error_share + 1e-15
    assert set(both.taken_kg) == set(one.taken_kg) | set(two.taken_kg)


def test_heat_let_out_at_a_move_is_in_the_books():
    """What is drained leaves as heat out, what is filled anew comes as heat in."""
    one = run(brief(shower()), changed(system(), "store", volume_m3=0.012)).timeline.balance
    let_out, filled_in = one.drained(2e5), one.drained(-3e4)
    assert let_out.heat_out_j == one.heat_out_j + 2e5
    assert let_out.stored_change_j == one.stored_change_j - 2e5
    assert filled_in.heat_in_j == one.heat_in_j + 3e4
    assert filled_in.stored_change_j == one.stored_change_j + 3e4
