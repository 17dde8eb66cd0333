"""What broke the day is said first; what is dangerous half way; what a heater needs to light."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.causes import Broke
from isotherma.core.simulate import simulate
from isotherma.core.supply.ignition import WEAK_V, cells_of, sparkless
from isotherma.core.system import System
from isotherma.core.system.dangers import dangers
from isotherma.core.system.kinds.heat import ThroughFlowGas
from isotherma.core.system.moves import ordered_moves
from isotherma.wording import cause_words, verdict
from isotherma.wording.reader import Reader
from tests.networks import network, part, pipe, tank, tap
from tests.support import MILD, brief, changed, run, shower, system

GAS = "cupboard-through-flow"


def with_part(built: System, piece: dict[str, object]) -> System:
    """The same system with one part more, in the place of one of its id."""
    data = built.model_dump()
    kept = [item for item in data["parts"] if item["id"] != piece["id"]]
    runs = [run for run in data["runs"]
            if piece["id"] not in (run["start"]["part"], run["end"]["part"])]  # fmt: skip
    return System.model_validate({**data, "parts": [*kept, piece], "runs": runs})


# --- causes ---


def test_a_day_as_asked_has_no_cause():
    outcome = run(brief(shower(duration_s=60.0)), system(store_l=30.0))
    assert outcome.draws[0].met
    assert outcome.causes == ()


@pytest.mark.parametrize("name", layouts())
def test_what_is_said_first_stands_in_the_design(name):
    """Every cause of every layout names a part that is there, in words in both unit systems."""
    layout = layouts()[name]
    for state in layout.system.states or (None,):
        outcome = simulate(layout.brief, layout.system, MILD, state=state)
        ids = {item.id for item in layout.system.parts}
        for cause in outcome.causes:
            assert cause.part_id in ids
            for units in (UnitSystem.METRIC, UnitSystem.US):
                words = cause_words(cause, Reader.of(outcome.system, units))
                assert words and not words.endswith(".")
        if outcome.causes:
            first = cause_words(outcome.causes[0], Reader.of(outcome.system, UnitSystem.METRIC))
            assert verdict(outcome, UnitSystem.METRIC).startswith(first)


def test_a_blown_fuse_comes_before_the_cold_shower():
    project = folio()
    built = project.variants[0].system
    fuse = next(item for item in built.parts if item.id == "heater-circuit")
    outcome = run(project.brief, changed(built, fuse.id, fuse_a=1.0))
    assert outcome.causes[0].broke is Broke.FUSE and outcome.causes[0].part_id == fuse.id
    words = verdict(outcome, UnitSystem.METRIC)
    assert words.startswith("The fuse of") and "blows" in words
    assert outcome.causes[0].figures["takes_a"] > outcome.causes[0].figures["bears_a"]


def test_too_little_flow_to_light_is_named():
    layout = layouts()[GAS]
    heater = next(item for item in layout.system.parts if isinstance(item, ThroughFlowGas))
    built = changed(layout.system, heater.id, on_flow_m3_per_s=25e-3 / 60)
    outcome = simulate(layout.brief, built, MILD)
    causes = [cause for cause in outcome.causes if cause.broke is Broke.NO_FLOW]
    assert causes and causes[0].part_id == heater.id
    words = cause_words(causes[0], Reader.of(outcome.system, UnitSystem.US))
    assert "does not light" in words and "gal/min" in words


# --- ignition ---


def test_measured_weak_cells_do_not_light():
    layout = layouts()[GAS]
    heater = next(item for item in layout.system.parts if isinstance(item, ThroughFlowGas))
    for each, lights in ((1.5, True), (0.9, False)):
        built = with_part(
            changed(layout.system, heater.id, ignition="cells"),
            part("cells", "ignition_cells", fitted_in=heater.id, cells=2, volts_v=2 * each),
        )
        weak = sparkless(built)
        assert (heater.id not in weak) == lights
        outcome = simulate(layout.brief, built, MILD)
        sparks = [cause for cause in outcome.causes if cause.broke is Broke.NO_SPARK]
        assert bool(sparks) == (not lights)
        if sparks:
            assert sparks[0].figures["volts_v"] == pytest.approx(each)
            assert "sparks want" in cause_words(
                sparks[0], Reader.of(outcome.system, UnitSystem.METRIC)
            )
            assert max(draw.peak_c or 0.0 for draw in outcome.draws) < 25.0
    assert 1.0 < WEAK_V < 1.5


def test_cells_nobody_measured_are_taken_to_spark():
    layout = layouts()[GAS]
    heater = next(item for item in layout.system.parts if isinstance(item, ThroughFlowGas))
    built = with_part(
        changed(layout.system, heater.id, ignition="cells"),
        part("cells", "ignition_cells", fitted_in=heater.id, cells=2),
    )
    assert sparkless(built) == {}
    known = next(item for item in built.parts if isinstance(item, ThroughFlowGas))
    found = cells_of(built, known)
    assert found is not None and found.id == "cells"


def test_a_heater_on_the_supply_has_no_cells():
    layout = layouts()[GAS]
    heater = next(item for item in layout.system.parts if isinstance(item, ThroughFlowGas))
    built = with_part(
        changed(layout.system, heater.id, ignition="vehicle supply"),
        part("cells", "ignition_cells", cells=2, volts_v=0.5),
    )
    known = next(item for item in built.parts if isinstance(item, ThroughFlowGas))
    assert cells_of(built, known) is None and sparkless(built) == {}


# --- dangers and moves ---


def drained_by_pump() -> System:
    """A pump with a drain behind it: open and on, it empties the tank onto the floor."""
    return network(
        [tank(), part("pump", "pump", control="tap switch", open_flow_m3_per_s=1e-4,
                      shut_pressure_pa=2e5),
         part("tee", "split"), part("drain", "drain"), tap()],
        [pipe("tank", "pump"), pipe("pump", "tee.inlet"), pipe("tee.outlet", "tap"),
         pipe("tee.branch", "drain")],
        states=[
            {"id": "run", "name": "Running", "positions": []},
            {"id": "winter", "name": "Drained", "positions": [
                {"part": "drain", "at": "open"}, {"part": "pump", "at": "off"}]},
            {"id": "wrong", "name": "Wrong", "positions": [{"part": "drain", "at": "open"}]},
        ],
    )  # fmt: skip


def test_a_pump_on_with_its_drain_open_is_a_danger():
    built = drained_by_pump()
    codes = {state.id: {remark.code for remark in dangers(built, state)} for state in built.states}
    assert "pump_on_open_end" in codes["wrong"]
    assert "pump_on_open_end" not in codes["winter"] | codes["run"]


def test_the_pump_goes_off_before_the_drain_opens_and_back():
    built = drained_by_pump()
    running, winter, _ = built.states
    down = ordered_moves(built, running, winter)
    assert down.clean and [move.part_id for move in down.moves] == ["pump", "drain"]
    up = ordered_moves(built, winter, running)
    assert up.clean and [move.part_id for move in up.moves] == ["drain", "pump"]
    assert not any(move.wrong for move in (*down.moves, *up.moves))


def test_what_was_wrong_before_is_not_a_move_s_fault():
    built = drained_by_pump()
    _, winter, wrong = built.states
    found = ordered_moves(built, winter, wrong)
    assert not any(move.wrong for move in found.moves)


@pytest.mark.parametrize("name", layouts())
def test_every_layout_can_be_moved_between_its_states(name):
    """An order is found, holds every move once, and none of it is dangerous on the way."""
    built = layouts()[name].system
    for first in (None, *built.states):
        for second in (None, *built.states):
            found = ordered_moves(built, first, second)
            moved = [(move.part_id, move.before, move.after) for move in found.moves]
            assert len(set(moved)) == len(moved)
            assert found.clean is not False, (name, first and first.id, second and second.id)
            if first is second:
                assert found.moves == ()


@pytest.mark.parametrize("name", layouts())
def test_no_layout_is_dangerous_in_its_states(name):
    built = layouts()[name].system
    for state in built.states:
        codes = [remark.code for remark in dangers(built, state)]
        assert codes == []
