"""The list of a design: joints counted, fittings and seals, what is bought over."""

from __future__ import annotations

from collections import Counter
from typing import cast

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.joints import adapters, assumed_ends
from isotherma.catalogue.layouts import layouts
from isotherma.core.editing import set_values
from isotherma.core.ends import read_end
from isotherma.core.joints.bearing import Bears
from isotherma.core.joints.clips import clips_between
from isotherma.core.joints.listing import list_of
from isotherma.core.joints.masses import laid_kg
from isotherma.core.joints.piping import end_of, joints_of, tube_end
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.runs import FuelPipe
from isotherma.services.shopping import TRADITIONS, joints_in, listed, savings
from tests.core.checks.designs import cable, doc, gas_pipe, part, pipe

TUBE = {"family": "semi-rigid plastic", "nominal": "15 mm", "joint": "push-in"}
SMALL = doc(
    part("tank", "fresh_tank", volume_m3=0.05), part("shut", "shut_off"), part("pump", "pump"),
    part("tap", "tap", reach="behind another part", behind="pump", owned="owned"),
    part("battery", "battery"), part("fuse", "circuit", fuse_a=10.0, guard="fuse"),
    pipe("tank.outlet", "shut.inlet", length_m=0.5, elbows=1, **TUBE),
    pipe("shut.outlet", "pump.inlet", length_m=0.1, **TUBE),
    pipe("pump.outlet", "tap.inlet", length_m=2.0, joiners=1, **TUBE),
    cable("battery.power", "fuse.feed", area_m2=2.5e-6, length_m=1.0),
    cable("fuse.load", "pump.power", area_m2=2.5e-6, length_m=2.0),
)  # fmt: skip


def small(bears=None, tradition="metric", **changes):
    system = System.model_validate({**SMALL, **changes})
    bearing = bears or {}
    runs = joints_of(system, adapters(), assumed_ends(tradition), bearing)
    return list_of(system, runs, bearing)


def line(found, item, size=None, *, spare=False):
    [one] = [row for row in found.lines if row.item == item and row.spare is spare
             and (size is None or row.size == size)]  # fmt: skip
    return one


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("tradition", TRADITIONS)
def test_every_port_of_every_kind_has_an_end_that_exists(kind, tradition):
    table = assumed_ends(tradition)
    made = cast("AnyKind", KINDS[kind].model_validate({"id": "it", "kind": kind}))
    for port in made.ports:
        end = end_of(made, port.name, table)
        assert end == "run" or read_end(end) is not None, (kind, port.name, end)


@pytest.mark.parametrize("name", layouts())
def test_every_end_of_every_starting_layout_resolves(name):
    project = layouts()[name].project()
    found = listed(project, project.variants[0])
    assert [(end.end, end.tube) for end, _ in found.not_resolved] == []
    assert found.joints == sum(run.joints for run in found.runs) == sum(found.by_space.values())


@pytest.mark.parametrize("make", [folio, curlew, drover])
def test_demos_resolve_too(make):
    project = make()
    for variant in project.variants:
        assert listed(project, variant).not_resolved == ()


def test_joints_are_counted_as_they_are_made():
    found = small()
    by_run = {run.run_id: run.joints for run in found.runs}
    # female thread, an adapter, the tube; bought in the run; an elbow is two
    assert by_run == {"tank-shut": 2 + 1 + 2, "shut-pump": 1 + 2, "pump-tap": 2 + 2 + 2}
    assert found.joints == 14 and found.out_of_reach == 2


def test_tube_is_bought_off_a_coil_and_what_is_owned_is_not_bought():
    found = small()
    tube = line(found, "tube", "semi-rigid plastic 15 mm")
    assert tube.net == pytest.approx(2.6) and tube.quantity == pytest.approx((2.6 + 0.03) * 1.05)
    kinds = Counter(row.item for row in found.lines)
    assert kinds["tap"] == 0 and kinds["pump"] == kinds["fresh_tank"] == 1
    assert line(found, "elbow").quantity == 1.0 == line(found, "joiner").quantity
    assert line(found, "elbow", spare=True).why == "one_short"


def test_seals_follow_from_the_joints():
    found = small()
    assert line(found, "washer", "1/2 in").quantity == 4.0  # tank, both of the pump, tap
    # from 15 mm of every run: two ends each, and two more at the elbow and at the joiner
    assert line(found, "insert").quantity == 3 * 2 + 2 + 2
    assert not [row for row in found.lines if row.item == "locking_clip"]
    warm = small({"pump-tap": Bears(hot=True, hot_c=65.0)})
    assert line(warm, "locking_clip").quantity == 2.0 + 2.0
    assert line(warm, "washer", spare=True).quantity == 2.0


def test_wires_have_both_ways_lugs_and_a_fuse_with_two_more():
    found = small()
    wire = line(found, "cable")
    assert wire.net == pytest.approx(6.0) and wire.quantity == pytest.approx(6.3)
    assert line(found, "lug").quantity == 8.0
    assert line(found, "fuse", "10 A").quantity == 3.0
    assert line(found, "label").quantity == 2 * (3 + 2) + 2  # an elbow, a joiner: a piece more each


def test_clips_are_counted_by_length_and_size():
    assert [clips_between(length, 0.3) for length in (0.15, 0.3, 0.5, 2.0)] == [0, 1, 2, 7]
    assert line(small(), "clip").quantity == 2.0 + 0.0 + 7.0


def test_the_us_tradition_needs_other_fittings():
    metric, american = small(), small(tradition="US")
    ids = {row.size for row in american.lines if row.item == "adapter" and not row.spare}
    assert any(one.startswith("us-") for one in ids)
    assert ids != {row.size for row in metric.lines if row.item == "adapter" and not row.spare}
    assert american.joints >= metric.joints
    assert [end for *_, end in american.assumed if "us taper" in end]


def test_what_is_not_known_is_named_not_guessed():
    vague = small(runs=[{**SMALL["runs"][0], "family": None, "length_m": None}])
    [(end, run)] = [(end, run) for end, run in vague.not_resolved]
    assert end.unknown and run == "tank-shut"
    tube = line(vague, "tube", "")
    assert tube.net == 0.0 and "runs.tank-shut.length_m" in tube.unknown


def test_gas_is_joined_by_gas_fittings_and_hose_by_its_own_ends():
    gas = doc(
        part("bottle", "gas_bottle"), part("reg", "regulator"), part("hob", "gas_load"),
        gas_pipe("bottle.outlet", "reg.inlet", way="hose"), gas_pipe("reg.outlet", "hob.gas"),
    )  # fmt: skip
    system = System.model_validate(gas)
    runs = joints_of(system, adapters(), assumed_ends("metric"), {})
    assert [run.joints for run in runs] == [2, 2]
    assert all(end.chain is None for end in runs[0].ends)
    assert tube_end(cast("FuelPipe", system.runs[1]), "gas") == "copper tube 8 mm"
    found = list_of(system, runs, {})
    assert found.not_resolved == () and line(found, "tube").approval == "gas"


def test_owning_a_part_never_changes_joints():
    every = small(parts=[{**one, "owned": "owned"} for one in SMALL["parts"]])
    assert every.joints == small().joints
    assert not {row.item for row in every.lines} & set(KINDS)


def test_pipes_and_fittings_weigh_by_their_section_and_size():
    """By hand: 15 mm plastic of 1.65 mm wall, 940 kg/m³, is 65 g a metre."""
    found = small()
    tube = line(found, "tube", "semi-rigid plastic 15 mm")
    assert tube.mass_kg == pytest.approx(
        2.6 * 940 * 3.14159 * 0.00165 * (0.0117 + 0.00165), rel=1e-3
    )
    adapter = line(found, "adapter", "push-in-male-15-to-1/2")
    assert adapter.mass_kg is not None and 0.02 < adapter.mass_kg / adapter.quantity < 0.06
    system = System.model_validate(SMALL)
    dry = laid_kg(system, found.runs)
    lines = ("tube", "adapter", "elbow", "joiner")
    listed_kg = sum(row.mass_kg for row in found.lines
                    if row.item in lines and not row.spare and row.mass_kg is not None)  # fmt: skip
    assert dry == pytest.approx(listed_kg)


def test_stated_ends_win_and_are_not_assumed():
    stated = small(parts=[
        {**one, "ends": [{"port": "inlet", "end": "push-in 15 mm"}]} if one["id"] == "pump" else one
        for one in SMALL["parts"]
    ])  # fmt: skip
    assert stated.joints == small().joints - 1
    assert not [one for one in stated.assumed if one[:2] == ("pump", "inlet")]


def test_remarks_say_what_does_not_add_up():
    runs = [dict(one) for one in SMALL["runs"]]
    runs[0] |= {"legs": [{"length_m": 0.3, "turn_deg": 90}, {"length_m": 0.3}], "tails": 3}
    runs[1] |= {"nominal": "12 mm"}
    said = {remark.code: remark for remark in small(runs=runs).remarks}
    assert said["legs_differ"].figures == (pytest.approx(0.1),)
    assert said["tails_differ"].figures == (3.0, 1.0)
    assert said["unlike_runs"].about[0] == "shut"
    gas = doc(
        part("bottle", "gas_bottle"), part("reg", "regulator"), part("hob", "gas_load"),
        gas_pipe("bottle.outlet", "reg.inlet"), gas_pipe("reg.outlet", "hob.gas"),
    )  # fmt: skip
    system = System.model_validate(gas)
    found = list_of(system, joints_of(system, adapters(), assumed_ends("metric"), {}), {})
    assert [one.code for one in found.remarks] == ["tube_before_regulator"]


@given(st.sampled_from(sorted(layouts())), st.sampled_from(TRADITIONS))
@settings(max_examples=12)
def test_every_saving_saves_what_it_says_and_owning_changes_no_joint(name, tradition):
    """Taken by the edit a person takes it with, on every layout."""
    project = layouts()[name].project()
    variant = project.variants[0]
    for saving in savings(variant)[:3]:
        values = {f"variants.{variant.id}.system.{one.path}": one.after for one in saving.changes}
        if not values:
            continue
        changed = set_values(project, values).variants[0]
        assert joints_in(variant.system) - joints_in(changed.system) == saving.joints > 0
    owned = set_values(project, {
        f"variants.{variant.id}.system.parts.{part.id}.owned": "owned"
        for part in variant.system.parts
    }).variants[0]  # fmt: skip
    one, other = (listed(project, each, tradition=tradition) for each in (variant, owned))
    assert one.joints == other.joints
