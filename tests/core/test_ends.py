"""Ends that meet, the fewest adapters between two, and what refuses."""

from __future__ import annotations

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from isotherma.catalogue.joints import adapters, size_is_known, threads
from isotherma.core.ends import End, meets, read_end, seal_of, unsaid
from isotherma.core.joints.ratings import bears_pa, bears_to_c
from isotherma.core.joints.resolver import Asked, resolve

ALL = adapters()
ENDS = sorted({end.name for row in ALL for end in (row.a, row.b)})
WATER = sorted({end.name for row in ALL if not row.service for end in (row.a, row.b)})


def end(text: str) -> End:
    found = read_end(text)
    assert found is not None, text
    return found


def chain(one: str, other: str, **asked):
    return resolve(end(one), end(other), ALL, Asked(**asked))


@pytest.mark.parametrize("name", ENDS)
def test_every_end_of_a_table_is_read_back_as_it_is_written(name):
    assert end(name).name == name
    assert size_is_known(end(name))


@pytest.mark.parametrize("text", [
    "male", "male 1/2", "male half in parallel", "nut 12 mm", "push-in", "tube 12 mm",
    "flange 1 in", "crimp 16 mm", "socket left", "",
])  # fmt: skip
def test_what_is_no_end_is_none(text):
    assert read_end(text) is None


def test_ends_are_read_however_they_are_spaced_and_with_their_material():
    assert end("  Male   1/2 in   PARALLEL ").name == "male 1/2 in parallel"
    assert end("plastic female 1/2 in parallel").material == "plastic"
    assert end("metal male M22x1").name == "male M22x1"
    assert end("copper tube 3/8 in od").outside_mm == pytest.approx(9.525)
    assert end("inch plastic tube 1/2 in").outside_mm == pytest.approx(15.875)
    assert end("push-in 1/2 in nominal").outside_mm == pytest.approx(15.875)


MEET = [
    ("male 1/2 in parallel", "female 1/2 in parallel", True),
    ("male 1/2 in parallel", "nut 1/2 in parallel", True),
    ("male 1/2 in parallel", "male 1/2 in parallel", False),
    ("male 1/2 in taper", "female 1/2 in parallel", True),
    ("male 1/2 in parallel", "female 1/2 in taper", False),
    ("male 1/2 in taper", "nut 1/2 in parallel", False),
    ("male 1/2 in us taper", "nut 1/2 in us parallel", True),
    ("male 3/4 in us taper", "nut 3/4 in us parallel", False),
    ("male 1/2 in us taper", "female 1/2 in parallel", False),
    ("male 3/4 in garden", "nut 3/4 in parallel", False),
    ("metal male 1/2 in taper", "plastic female 1/2 in taper", False),
    ("plastic male 1/2 in taper", "plastic female 1/2 in taper", True),
    ("push-in 15 mm", "plastic tube 15 mm", True),
    ("push-in 15 mm", "stem 15 mm", True),
    ("push-in 16 mm", "multilayer tube 16 mm", False),
    ("push-in 15 mm", "inch plastic tube 1/2 in", False),
    ("push-in 1/2 in nominal", "inch plastic tube 1/2 in", True),
    ("push-in 1/2 in od", "copper tube 1/2 in od", True),
    ("compression 15 mm", "copper tube 15 mm", True),
    ("compression 15 mm", "stem 15 mm", False),
    ("cone 8 mm", "copper tube 8 mm", True), ("cone 8 mm", "plastic tube 8 mm", False),
    ("barb 13 mm", "hose 12 mm", True), ("barb 13 mm", "hose 13 mm", True),
    ("barb 12 mm", "hose 13 mm", False), ("barb 1/2 in", "hose 13 mm", True),
    ("barb 16 mm", "hose 13 mm", False),
    ("crimp 16 mm multilayer", "multilayer tube 16 mm", True),
    ("crimp 15 mm plastic", "multilayer tube 15 mm", False),
    ("male 3/8 in flare", "copper tube 3/8 in od", True),
    ("male 3/8 in flare", "nut 3/8 in flare", True),
    ("male W21.8 gas left", "nut W21.8 gas left", True),
    ("plug click", "socket click", True), ("plug click", "socket gas quick", False),
    ("waste spigot 40 mm", "waste push 40 mm", True),
    ("waste spigot 40 mm", "waste push 32 mm", False),
    ("open", "open", False), ("solder 15 mm", "copper tube 15 mm", True),
]  # fmt: skip


@pytest.mark.parametrize(("one", "other", "together"), MEET)
def test_what_meets_without_an_adapter(one, other, together):
    assert meets(end(one), end(other)) is together is meets(end(other), end(one))


def test_what_makes_a_joint_tight():
    for one, other, seal in (
        ("male 1/2 in parallel", "female 1/2 in parallel", "washer"),
        ("male 1/2 in taper", "female 1/2 in parallel", "tape"),
        ("male 1/2 in us taper", "nut 1/2 in us parallel", "washer"),
        ("barb 13 mm", "hose 13 mm", "clamp"),
        ("compression 15 mm", "plastic tube 15 mm", "insert"),
        ("compression 15 mm", "copper tube 15 mm", "own"),
        ("solder 15 mm", "copper tube 15 mm", "solder"),
        ("waste spigot 40 mm", "waste weld 40 mm", "solvent"),
        ("waste spigot 40 mm", "waste push 40 mm", "own"), ("cone 8 mm", "copper tube 8 mm", "own"),
    ):  # fmt: skip
        assert seal_of(end(one), end(other)) == seal == seal_of(end(other), end(one)), one
    assert unsaid(end("male 1/2 in taper"), end("female 1/2 in taper")) == (
        "material of male 1/2 in taper", "material of female 1/2 in taper")  # fmt: skip
    assert unsaid(end("metal male 1/2 in taper"), end("metal female 1/2 in taper")) == ()


@settings(deadline=None, max_examples=60)
@given(st.sampled_from(WATER), st.sampled_from(WATER))
def test_swapped_ends_give_the_mirrored_chain_of_ends_that_meet(one, other):
    assume(one != other)
    there, back = chain(one, other), chain(other, one)
    assert [link.adapter.id for link in there.links] == [
        link.adapter.id for link in reversed(back.links)]  # fmt: skip
    assert there.refused == back.refused and there.joints == back.joints
    here = end(one)
    for link in there.links:
        assert meets(here, link.first)
        here = link.second
    if there.refused is None:
        assert meets(here, end(other)) and len(there.seals) == there.joints <= 6
        assert (there.joints == 1) is meets(end(one), end(other))
    else:
        assert not there.links and not there.seals


@settings(deadline=None, max_examples=30)
@given(st.sampled_from(WATER), st.sampled_from(WATER))
def test_a_longer_list_never_needs_more_joints(one, other):
    everywhere = [row for row in ALL if row.everywhere]
    few = resolve(end(one), end(other), everywhere)
    many = chain(one, other)
    if few.refused is None:
        assert many.refused is None and many.joints <= few.joints


def test_a_chain_of_the_fewest_joints_is_named():
    found = chain("male 1/2 in parallel", "plastic tube 15 mm")
    assert [link.adapter.id for link in found.links] == ["push-in-female-15-to-1/2"]
    assert found.seals == ("washer", "own")
    world = chain("male 1/2 in us taper", "plastic tube 15 mm")
    assert world.joints == 3 and not all(link.adapter.everywhere for link in world.links)
    gas = chain("male W21.8 gas left", "copper tube 8 mm")
    assert [link.second.name for link in gas.links] == ["cone 8 mm"]
    assert chain("waste spigot 40 mm", "waste spigot 32 mm").joints == 2


REFUSED = [
    ("cone 8 mm", "push-in 12 mm", {}, "gas_only"),
    ("male 3/8 in flare", "male 1/2 in parallel", {"use": "drinking"}, "gas_only"),
    ("male W21.8 gas left", "hose 8 mm", {}, "gas_only"),
    ("waste spigot 40 mm", "hose 40 mm", {"use": "drinking"}, "not_drinking"),
    ("plastic tube 12 mm", "push-in 12 mm", {"at_c": 90.0}, "too_hot"),
    ("hose 13 mm", "barb 13 mm", {"at_c": 70.0}, "too_hot"),
    ("hose 13 mm", "barb 13 mm", {"at_c": 60.0, "pressure_pa": 3e5}, "too_much_pressure"),
    ("male 1/2 in parallel", "hose 13 mm", {"pressure_pa": 12e5}, "too_much_pressure"),
    ("male M22x1", "push-in 12 mm", {}, "no_chain"),
]


@pytest.mark.parametrize(("one", "other", "asked", "why"), REFUSED)
def test_what_refuses_is_named(one, other, asked, why):
    found = chain(one, other, **asked)
    assert found.refused == why and found.joints == 0


def test_where_no_chain_is_known_the_nearest_ends_do_reach():
    found = chain("male M22x1", "push-in 12 mm")
    assert 0 < len(found.nearest) <= 3 and found.nearest[0].startswith("male")
    for name in found.nearest:
        assert chain(name, "push-in 12 mm").refused is None


def test_hot_water_asks_how_hot():
    assert "temperature" in chain("male 1/2 in parallel", "copper tube 15 mm", use="hot").unknown
    assert chain("male 1/2 in parallel", "copper tube 15 mm", use="hot", at_c=60.0).unknown == ()


def test_ratings_fall_with_heat_and_end():
    pipe = end("plastic tube 15 mm")
    assert bears_pa(pipe, 20.0) == 12e5 and bears_pa(pipe, 65.0) == 6e5
    assert bears_pa(pipe, 42.5) == pytest.approx(9e5) and bears_pa(pipe, 83.0) == 0.0
    assert bears_to_c(end("multilayer tube 16 mm")) == 95.0
    for name in ENDS:
        values = [bears_pa(end(name), celsius) for celsius in range(0, 115, 5)]
        assert values == sorted(values, reverse=True) and values[0] > 0.0


def test_every_thread_of_an_adapter_is_in_the_table_of_threads():
    known = {one.name for one in threads()}
    for row in ALL:
        for one in (row.a, row.b):
            if one.word in ("male", "female", "nut") and one.family != "metric":
                assert f"{one.size} {one.family}" in known, one.name


def test_sizes_nobody_sells_are_not_known():
    assert not size_is_known(end("male 7/9 in parallel"))
    assert not size_is_known(end("plastic tube 13 mm"))
    assert size_is_known(end("hose 13 mm")) and size_is_known(end("plug click"))
