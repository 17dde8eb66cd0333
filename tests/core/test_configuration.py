"""States and phases: what contradicts, what is noted, what is moved, what is built by when."""

from __future__ import annotations

from typing import Any

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.editing import new_part
from isotherma.core.system import System
from isotherma.core.system.configuration import fitted_by, ports_reached, positions
from isotherma.core.system.layouts import join
from isotherma.core.system.moves import moves, seconds_of
from isotherma.core.system.remarks import remarks, standing_remarks
from isotherma.core.system.states import Phase, Placement, Position, State
from isotherma.core.system.vehicle import Space

TUBE: dict[str, Any] = {"family": "soft hose", "nominal": "13 mm", "length_m": 1.0}


def part(key, kind, **values):
    return new_part(kind, {"id": key, **values})


def two_sources(**selector):
    """Tank and bucket before one pump, each behind a valve of its own."""
    parts = (
        part("tank", "fresh_tank", volume_m3=0.05), part("bucket", "outside_source"),
        part("tank-valve", "shut_off"), part("bucket-valve", "shut_off"), part("tee", "split"),
        part("pump", "pump", open_flow_m3_per_s=1e-4, cut_out_pa=2e5),
        part("heater", "through_flow_gas", heat_w=9e3), part("head", "shower_head"),
    )  # fmt: skip
    lines = ("tank.outlet tank-valve.inlet", "tank-valve.outlet tee.inlet",
             "bucket.outlet bucket-valve.inlet", "bucket-valve.outlet tee.branch",
             "tee.outlet pump.inlet", "pump.outlet heater.inlet",
             "heater.outlet head.inlet")  # fmt: skip
    runs = tuple(join(f"r{number}", "", *line.split(), **TUBE) for number, line in enumerate(lines))
    spaces = (Space(id="in", name="Inside"), Space(id="out", name="Outside", warmth="outside"))
    return System(parts=parts, runs=runs, spaces=spaces)


def state(key="s", dry=(), placed=(), **at):
    listed = tuple(Position(part=name.replace("_", "-"), at=value) for name, value in at.items())
    return State(id=key, name=key.upper(), positions=listed, dry=dry, placed=placed)


def codes(system, stands):
    return {(remark.code, remark.part_id) for remark in standing_remarks(system, stands)}


CONTRADICTIONS = [
    pytest.param(state(), {("two_suctions", "pump")}, id="both valves open"),
    pytest.param(state(bucket_valve="shut"), set(), id="one shut"),
    pytest.param(state(tank_valve="shut"), set(), id="the other shut"),
    pytest.param(state(tank_valve="shut", bucket_valve="shut"), {("lit_but_shut", "heater")},
                 id="both shut and the heater ready"),
    pytest.param(state(tank_valve="shut", bucket_valve="shut", heater="off"), set(),
                 id="both shut, heater off"),
    pytest.param(state(bucket_valve="shut", dry=("heater",)), {("heated_dry", "heater")},
                 id="heated dry"),
    pytest.param(
        state(bucket_valve="shut", placed=(Placement(part="tank", space="in"),
                                           Placement(part="tank", space="out"))),
        {("two_places", "tank")}, id="in two spaces",
    ),
]  # fmt: skip


@pytest.mark.parametrize(("stands", "expected"), CONTRADICTIONS)
def test_contradictions_of_a_state_are_found(stands, expected):
    assert codes(two_sources(), stands) == expected


def test_a_combi_that_may_stand_empty_heats_the_cabin():
    combi = layouts()["diesel-combi"].system
    assert codes(combi, combi.state("cabin")) == set()
    fixed = System(parts=(part("c", "combi", may_stand_empty=False),), states=(state(dry=("c",)),))
    assert codes(fixed, fixed.states[0]) == {("heated_dry", "c")}


def guarded(*order):
    """A store, a relief and a valve, joined in an order."""
    parts = (part("store", "store", volume_m3=0.01), part("relief", "relief"),
             part("valve", "shut_off"))  # fmt: skip
    runs = tuple(join(f"r{number}", "", *line.split(), **TUBE) for number, line in enumerate(order))
    return System(parts=parts, runs=runs)


def test_a_relief_behind_a_valve_is_valid_but_noted():
    behind = guarded("store.outlet valve.inlet", "valve.outlet relief.inlet")
    noted = [remark for remark in remarks(behind) if remark.code == "relief_behind_valve"]
    assert [(remark.weight, remark.part_id) for remark in noted] == [("note", "relief")]
    before = guarded("store.relief relief.inlet", "store.outlet valve.inlet")
    assert not any(remark.code == "relief_behind_valve" for remark in remarks(before))


def test_what_is_fitted_before_its_host_is_a_contradiction():
    parts = (part("store", "store", phase="then"),
             part("element", "element", fitted_in="store", phase="now"))  # fmt: skip
    phases = (Phase(id="now", name="Now"), Phase(id="then", name="Then"))
    built = System(parts=parts, phases=phases)
    assert ("phase_order", "element") in {(r.code, r.part_id) for r in remarks(built)}
    assert fitted_by(built, "now").parts == ()


def test_moves_stop_heat_first_and_light_it_last():
    system = layouts()["hung-outside"].system
    away = [move.part_id for move in moves(system, system.state("hot"), system.state("stowed"))]
    assert away[0] == "heater" and away.index("bottle") < away.index("gas-plug")
    assert away[-1] == "heater"  # carried in, after it was uncoupled
    there = moves(system, system.state("stowed"), system.state("hot"))
    assert (there[-1].part_id, there[-1].after) == ("heater", "ready")
    order = [move.part_id for move in there]
    assert order.index("heater-plug") < order.index("bottle")
    assert seconds_of(there) == sum(move.seconds_s for move in there) > 60


def test_a_half_state_is_told_only_where_it_begins():
    system = two_sources()
    first = state("a", bucket_valve="shut")
    second = state("b", tank_valve="shut")
    steps = moves(system, first, second)
    assert [(step.part_id, step.after) for step in steps] == [
        ("tank-valve", "shut"), ("bucket-valve", "open"),
    ]  # fmt: skip
    assert [remark.code for remark in steps[0].wrong] == ["lit_but_shut"]
    assert steps[1].wrong == ()
    assert moves(system, None, None) == ()


def test_emptied_and_filled_take_their_time():
    system = layouts()["diesel-combi"].system
    steps = moves(system, system.state("both"), system.state("cabin"))
    order = [(step.part_id, step.after) for step in steps]
    assert order.index(("isolator", "shut")) < order.index(("combi", "empty"))
    assert next(step for step in steps if step.after == "empty").seconds_s >= 60
    back = moves(system, system.state("cabin"), system.state("both"))
    assert ("combi", "full") in [(step.part_id, step.after) for step in back]


def test_what_a_phase_leaves_open_is_capped():
    system = layouts()["coolant-coil"].system
    first = fitted_by(system, "first")
    caps = [part for part in first.parts if part.kind == "blanking_cap"]
    assert len(caps) == 2
    assert not any(part.kind == "loop_pump" for part in first.parts)
    assert len(fitted_by(system, "second").parts) == len(system.parts)
    with pytest.raises(KeyError):
        fitted_by(system, "never")


def test_water_reaches_only_through_what_is_open():
    system = two_sources()
    shut = state(tank_valve="shut")
    assert ("tank", "outlet") in ports_reached(system, None, ("pump", "inlet"))
    assert ("tank", "outlet") not in ports_reached(system, shut, ("pump", "inlet"))
    assert positions(system, shut)["tank-valve"] == "shut"
    assert positions(system, None)["tank-valve"] == "open"
