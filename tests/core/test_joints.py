"""Threads measured with error, tubes cut and bent, pieces on bars."""

from __future__ import annotations

from itertools import permutations
from math import pi, radians, tan

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma.catalogue.joints import threads
from isotherma.core.joints.cuts import Ends, bars_for, cut, take_up_mm
from isotherma.core.joints.threads import Measured, identify

THREADS = {one.name: one for one in threads()}
LEG = st.floats(400.0, 1500.0)
TURN = st.floats(5.0, 120.0)


def best(**measured):
    return identify(Measured(**measured), threads())


def test_every_thread_has_a_name_of_its_own_and_figures_that_belong_together():
    assert len(THREADS) == len(threads())
    for one in threads():
        assert one.low_mm < one.high_mm and 0.8 < one.pitch_mm < 2.4 and one.source
        bore = one.span_mm(inside=True)
        assert bore[0] < bore[1] < one.high_mm


@pytest.mark.parametrize("name", [one for one in THREADS if not one.startswith("5/8 in")])
def test_a_thread_measured_rightly_is_among_the_first_and_never_excluded(name):
    one = THREADS[name]
    found = best(across_mm=(one.low_mm + one.high_mm) / 2, pitch_mm=one.pitch_mm,
                 taper=one.tapers, left=one.left, flank_deg=one.flank_deg)  # fmt: skip
    first = found.candidates[0]
    same = [other for other in found.candidates if other.score > 0.5 * first.score]
    assert name in {other.thread.name for other in same}
    assert first.score > 0.4 and found.none < 0.1


@given(st.sampled_from(sorted(THREADS)), st.floats(-0.1, 0.1), st.floats(-0.01, 0.01))
def test_scores_are_shares_whatever_was_measured(name, off, share):
    one = THREADS[name]
    found = best(across_mm=one.high_mm + off, pitch_mm=one.pitch_mm * (1 + share))
    scores = [other.score for other in found.candidates]
    assert scores == sorted(scores, reverse=True) and len(scores) == 4
    assert 0.0 < sum(scores) + found.none <= 1.0 + 1e-12


def test_half_inch_of_both_worlds_is_told_apart_by_flank_and_taper():
    found = best(across_mm=20.9, pitch_mm=25.4 / 14)
    assert {one.thread.name for one in found.candidates} == {
        "1/2 in parallel", "1/2 in taper", "1/2 in us parallel", "1/2 in us taper"}  # fmt: skip
    assert found.decide == "taper"
    straight = best(across_mm=20.9, pitch_mm=25.4 / 14, taper=False)
    assert straight.decide == "flank"
    plain = best(across_mm=20.9, pitch_mm=25.4 / 14, taper=False, flank_deg=60)
    assert plain.candidates[0].thread.name == "1/2 in us parallel"
    assert plain.decide is None  # nothing is left to ask


def test_three_quarters_need_their_threads_counted():
    found = best(across_mm=26.6)
    assert found.decide in ("taper", "pitch")
    counted = best(across_mm=26.9, pitch_mm=25.4 / 11.5, threads=6.0)
    assert counted.candidates[0].thread.name == "3/4 in garden"


def test_a_left_hand_thread_is_unlikely_until_it_is_said():
    unsaid = best(across_mm=22.9, pitch_mm=25.4 / 14)
    assert unsaid.candidates[0].thread.name == "5/8 in parallel"
    assert unsaid.decide == "hand"
    said = best(across_mm=22.9, pitch_mm=25.4 / 14, left=True)
    assert said.candidates[0].thread.name == "5/8 in gas left"
    assert all(one.score == 0.0 or one.thread.left for one in said.candidates)


def test_a_ruler_is_less_sure_and_a_count_of_few_threads_too():
    sharp, blunt = (best(across_mm=20.6, pitch_mm=25.4 / 14, flank_deg=55, taper=False, ruler=by)
                    for by in (False, True))  # fmt: skip
    assert sharp.none > blunt.none
    wide = best(across_mm=13.15, pitch_mm=25.4 / 18.5, threads=3.0)
    assert {"1/4 in parallel", "1/4 in us parallel"} <= {
        one.thread.name for one in wide.candidates}  # fmt: skip


def test_a_female_thread_is_known_by_its_bore():
    one = THREADS["1/2 in parallel"]
    found = best(across_mm=one.high_mm + 0.2 - 1.28 * one.pitch_mm, inside=True,
                 pitch_mm=one.pitch_mm, flank_deg=55, taper=False)  # fmt: skip
    assert found.candidates[0].thread.name == "1/2 in parallel"


def test_what_is_no_thread_is_said_to_be_none():
    assert best(across_mm=60.0, pitch_mm=5.0).none == pytest.approx(1.0)


# --- cutting ---


@given(st.lists(st.tuples(LEG, TURN), min_size=0, max_size=4), LEG, st.floats(20.0, 80.0))
def test_straight_stretches_and_arcs_add_up_to_what_is_cut(bends, last, radius):
    legs, turns = [leg for leg, _ in bends] + [last], [turn for _, turn in bends]
    made = cut(legs, turns, radius_mm=radius)
    at, straight, arcs = 0.0, [], []
    for bend in made.bends:
        straight.append(bend.start_mm - at)
        arcs.append(bend.end_mm - bend.start_mm)
        at = bend.end_mm
    straight.append(made.cut_mm - at)
    tangents = [radius * tan(radians(turn) / 2) for turn in turns]
    for place, length in enumerate(straight):
        taken = sum(tangents[max(0, place - 1) : place + 1])
        assert length == pytest.approx(legs[place] - taken)
    assert arcs == pytest.approx([radius * radians(turn) for turn in turns])
    assert made.short is None


def test_a_right_angle_gains_what_the_trade_says():
    made = cut([300.0, 450.0], [90.0], radius_mm=60.0)
    assert made.bends[0].gain_mm == pytest.approx(0.4292 * 60.0, abs=0.01)
    assert made.cut_mm == pytest.approx(750.0 - 0.4292 * 60.0, abs=0.01)
    assert made.bends[0].start_mm == pytest.approx(240.0)
    assert take_up_mm(60.0, 15.0) == 67.5


def test_the_four_ways_of_measuring_come_to_the_same_tube():
    ends = Ends((29.0, 33.0), (21.0, 23.0))
    centres = cut([500.0], [], "centres", ends)
    faces = cut([500.0 - 29.0 - 33.0], [], "faces", ends)
    tube = cut([centres.cut_mm], [], "tube", ends)
    assert centres.cut_mm == 500.0 - 62.0 + 44.0 == faces.cut_mm == tube.cut_mm
    bent = cut([300.0, 450.0], [90.0], radius_mm=60.0)
    half = 7.5 * tan(pi / 4)
    backs = cut([300.0 + half, 450.0 + half], [90.0], "backs", radius_mm=60.0, outside_mm=15.0)
    assert backs.cut_mm == pytest.approx(bent.cut_mm)
    assert backs.bends[0].start_mm == pytest.approx(bent.bends[0].start_mm)


def test_a_leg_shorter_than_its_bends_is_named():
    assert cut([30.0, 450.0], [90.0], radius_mm=60.0).short == 1
    assert cut([300.0, 100.0, 300.0], [90.0, 90.0], radius_mm=60.0).short == 2
    assert cut([300.0, 120.0, 300.0], [90.0, 90.0], radius_mm=60.0).short is None


def _brute(pieces, bar, kerf):
    """Every order of the pieces, laid one after the other: the fewest bars."""
    least = len(pieces)
    for order in set(permutations(pieces)):
        bars, room = 1, bar + kerf
        for piece in order:
            if room < piece + kerf - 1e-9:
                bars, room = bars + 1, bar + kerf
            room -= piece + kerf
        least = min(least, bars)
    return least


@settings(deadline=None, max_examples=40)
@given(st.lists(st.integers(3, 10), min_size=1, max_size=7), st.sampled_from([0.0, 0.2]))
def test_no_fewer_bars_would_do(tenths, kerf):
    pieces = [float(one) for one in tenths]
    stock = bars_for(pieces, 10.0, kerf)
    assert stock.exact and len(stock.bars) == _brute(pieces, 10.0, kerf)
    assert sorted(place for bar in stock.bars for place in bar) == list(range(len(pieces)))
    for bar in stock.bars:
        assert sum(pieces[place] for place in bar) + kerf * (len(bar) - 1) <= 10.0 + 1e-6


def test_many_pieces_have_a_bound():
    stock = bars_for([700.0] * 20 + [310.0] * 20, 1000.0)
    assert not stock.exact and stock.at_least <= len(stock.bars)
    assert bars_for([], 1000.0).bars == ()
