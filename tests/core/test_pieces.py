"""Pieces: cut lengths by how a run was measured, elbows, bends, bars."""

from __future__ import annotations

import random
from math import pi

import pytest

from isotherma.catalogue.joints import adapters, assumed_ends
from isotherma.core.joints.bearing import Bears
from isotherma.core.joints.pieces import lengths_mm, on_bars, pieces_of
from isotherma.core.joints.piping import joints_of
from isotherma.core.joints.sockets import growth_mm, insertion_mm, least_radius_mm
from isotherma.core.system import System
from isotherma.core.system.runs import Pipe
from isotherma.services.shopping import sizes_of_runs
from tests.core.checks.designs import doc, part, pipe

TUBE = {"family": "semi-rigid plastic", "nominal": "15 mm", "joint": "push-in"}
TEES = (part("one", "split"), part("other", "split"))


def cut_of(bears=None, tube=None, **values):
    document = doc(*TEES, pipe("one.outlet", "other.inlet", **{**TUBE, **(tube or {}), **values}))
    system = System.model_validate(document)
    runs = joints_of(system, adapters(), assumed_ends("metric"), bears or {})
    return pieces_of(system, runs, bears or {}, sizes_of_runs(system))


def test_how_it_was_measured_decides_the_cut():
    """By hand: tees of 15 mm push-in have z 38 mm and take the tube 25 mm deep."""
    [centres] = cut_of(length_m=1.0, measured="between centres")
    assert centres.cut_mm == pytest.approx(1000.0 - 2 * 38.0 + 2 * 25.0)
    [faces] = cut_of(length_m=1.0, measured="between faces")
    assert faces.cut_mm == pytest.approx(1050.0) and faces.goes_in_mm == (25.0, 25.0)
    [itself] = cut_of(length_m=1.0, measured="the tube itself")
    assert itself.cut_mm == pytest.approx(1000.0)
    [unsaid] = cut_of(length_m=1.0)
    assert unsaid.cut_mm is None and unsaid.unknown == ("how measured",)


def test_a_bend_gains_and_an_elbow_ends_two_pieces():
    legs = [{"length_m": 0.3, "turn_deg": 90}, {"length_m": 0.45}]
    [bent] = cut_of(legs=legs, length_m=0.75, measured="between centres")
    radius = 6 * 15.0
    gain = 2 * radius - pi / 2 * radius
    assert bent.cut_mm == pytest.approx(750.0 - gain - 76.0 + 50.0)
    assert [one.turn_deg for one in bent.bends] == [90.0] and bent.radius_mm == radius
    turned = [{**legs[0], "by": "elbow"}, legs[1]]
    first, second = cut_of(legs=turned, length_m=0.75, measured="between centres")
    assert (first.label, second.label) == ("one-other-1", "one-other-2")
    assert first.cut_mm == pytest.approx(300.0 - 76.0 + 50.0)
    assert second.cut_mm == pytest.approx(450.0 - 76.0 + 50.0)


def test_between_faces_an_elbow_still_counts_from_its_centre():
    legs = [{"length_m": 0.3, "turn_deg": 90, "by": "elbow"}, {"length_m": 0.45}]
    first, _ = cut_of(legs=legs, length_m=0.75, measured="between faces")
    assert first.cut_mm == pytest.approx(300.0 - 38.0 + 50.0)


def test_turns_may_stand_before_their_legs_and_straight_on_is_one_piece():
    before = [{"length_m": 0.3}, {"length_m": 0.45, "turn_deg": 90}]
    after = [{"length_m": 0.3, "turn_deg": 90}, {"length_m": 0.45}]
    said = {"length_m": 0.75, "measured": "the tube itself"}
    assert cut_of(legs=before, **said)[0].cut_mm == cut_of(legs=after, **said)[0].cut_mm
    straight = [{"length_m": 0.3}, {"length_m": 0.45}]
    assert cut_of(legs=straight, **said)[0].cut_mm == pytest.approx(750.0)


@pytest.mark.parametrize(("values", "unknown"), [
    ({"length_m": 1.0, "elbows": 1, "measured": "between faces"}, "legs"),
    ({"length_m": 1.0, "formed_bends": 1, "measured": "between faces"}, "legs"),
    ({"length_m": None, "measured": "between faces"}, "length_m"),
    ({"length_m": 1.0, "joiners": 1, "measured": "between faces"}, "where its joiners are"),
    ({"length_m": 1.0, "joint": None, "measured": "between faces"}, "joint"),
    ({"length_m": 1.0, "joint": "crimp", "measured": "between faces"}, "insertion of crimp"),
])  # fmt: skip
def test_what_is_not_known_is_named_and_nothing_is_cut(values, unknown):
    [piece] = cut_of(**values)
    assert piece.cut_mm is None and unknown in piece.unknown


def test_a_part_has_no_take_out_but_a_mouth():
    document = doc(part("one", "split"), part("valve", "check_valve"),
                   pipe("one.outlet", "valve.inlet", length_m=1.0, measured="between centres",
                        **TUBE))  # fmt: skip
    system = System.model_validate(document)
    runs = joints_of(system, adapters(), assumed_ends("metric"), {})
    [piece] = pieces_of(system, runs, {}, sizes_of_runs(system))
    assert piece.unknown == ("take-out of valve",)


def test_too_short_and_too_tight_are_refused():
    short = [{"length_m": 0.05, "turn_deg": 90}, {"length_m": 0.45}]
    [piece] = cut_of(legs=short, length_m=0.5, measured="between faces")
    assert piece.refused == "leg_too_short" and piece.short == 1 and piece.cut_mm is None
    legs = [{"length_m": 0.3, "turn_deg": 90}, {"length_m": 0.45}]
    [tight] = cut_of(legs=legs, length_m=0.75, measured="between faces", bend_m=0.05)
    assert tight.refused == "too_tight"
    [wide] = cut_of(legs=legs, length_m=0.75, measured="between faces", bend_m=0.12)
    assert wide.radius_mm == pytest.approx(120.0) and wide.cut_mm is not None


def test_long_hot_plastic_is_left_room_to_grow():
    hot = {"one-other": Bears(hot=True, hot_c=70.0)}
    [long] = cut_of(bears=hot, length_m=2.0, measured="the tube itself")
    assert long.leaves_mm == pytest.approx(0.15e-3 * 2000.0 * 50.0)
    [short] = cut_of(bears=hot, length_m=0.9, measured="the tube itself")
    assert short.leaves_mm == 0.0


def run_of(**values):
    return Pipe.model_validate(pipe("one.outlet", "other.inlet", **values))


def test_tables_of_sockets_and_bends():
    copper = run_of(family="copper", nominal="15 mm")
    assert least_radius_mm(copper) == pytest.approx(52.5)
    assert insertion_mm("solder", copper) == 10.6 and insertion_mm("compression", copper) == 16.0
    hose = run_of(family="soft hose", nominal="13 mm")
    assert insertion_mm("barb", hose) == 22.0 and least_radius_mm(hose) == 78.0
    assert insertion_mm("barb", run_of(family="soft hose", nominal="16 mm")) == 28.0
    assert growth_mm(hose, 1000.0, 50.0) == 0.0
    assert least_radius_mm(run_of()) is None


def many(lengths):
    parts = [part(f"t{place}", "split") for place in range(len(lengths) + 1)]
    pipes = [pipe(f"t{place}.outlet", f"t{place + 1}.inlet", length_m=length,
                  measured="the tube itself", **TUBE)
             for place, length in enumerate(lengths)]  # fmt: skip
    system = System.model_validate(doc(*parts, *pipes))
    runs = joints_of(system, adapters(), assumed_ends("metric"), {})
    by_id = {run.id: run for run in system.runs if isinstance(run, Pipe)}
    return pieces_of(system, runs, {}, sizes_of_runs(system)), by_id


def test_pieces_go_on_the_fewest_bars_longest_first():
    pieces, runs = many([1.2, 0.9, 1.8, 2.1])
    placed, bars = on_bars(pieces, runs, {"semi-rigid plastic 15 mm": 3.0})
    assert bars == {"semi-rigid plastic 15 mm": 2}
    assert [piece.order for piece in placed] == [3, 4, 2, 1]
    by_bar: dict[int, float] = {}
    for piece in placed:
        assert piece.bar is not None and piece.cut_mm is not None
        by_bar[piece.bar] = by_bar.get(piece.bar, 0.0) + piece.cut_mm
    assert all(length <= 3000.0 + 1e-6 for length in by_bar.values())


@pytest.mark.parametrize("seed", range(6))
def test_no_bar_is_over_full_and_every_piece_is_on_one(seed):
    random.seed(seed)
    pieces, runs = many([round(random.uniform(0.1, 2.9), 3) for _ in range(12)])
    placed, bars = on_bars(pieces, runs, {"semi-rigid plastic 15 mm": 3.0})
    assert {piece.bar for piece in placed} == set(range(1, bars["semi-rigid plastic 15 mm"] + 1))
    for number in {piece.bar for piece in placed}:
        assert sum(piece.cut_mm or 0.0 for piece in placed if piece.bar == number) <= 3000.0 + 1e-6


def test_what_is_longer_than_a_bar_is_on_none():
    pieces, runs = many([3.5])
    placed, bars = on_bars(pieces, runs, {"semi-rigid plastic 15 mm": 3.0})
    assert bars == {} and placed[0].bar is None and placed[0].order == 1


def test_an_uncut_run_counts_with_its_length_once():
    legs = [{"length_m": 0.3, "turn_deg": 90, "by": "elbow"}, {"length_m": 0.45}]
    pieces = cut_of(legs=legs, length_m=0.75, measured="between faces", tube={"joint": "crimp"})
    system = System.model_validate(doc(*TEES, pipe("one.outlet", "other.inlet", legs=legs,
                                                   length_m=0.75, **TUBE)))  # fmt: skip
    runs = {run.id: run for run in system.runs if isinstance(run, Pipe)}
    assert lengths_mm(pieces, runs) == [pytest.approx(750.0), None]
