"""The fault finder: the table, what is played, how evidence is weighed, what comes next."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations
from math import exp, inf, isclose, log, pi, sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.fault_table import fault_table
from isotherma.core.errors import NotInTable, QuantityError
from isotherma.core.faults.board import Board, at_random, by_cost, cheapest_telling, greedy
from isotherma.core.faults.diagnosis import diagnose, litres_left
from isotherma.core.faults.evidence import Evidence, Tried, outcome_chances, outcomes_of
from isotherma.core.faults.hypotheses import Hypotheses
from isotherma.core.faults.instances import instances_of
from isotherma.core.faults.next_tests import (
    HYPOTHESES,
    LEAST_BITS,
    WHOLE,
    candidates,
    cost_of,
    gain_of,
    told_of,
)
from isotherma.core.faults.player import Asked
from isotherma.core.faults.plays import LEAK, Edit, is_read, severities
from isotherma.core.faults.posterior import posterior
from isotherma.core.faults.practice import Hidden, all_answers, hide, reported
from isotherma.core.faults.readings import (
    FLAT_SHARE,
    KINDS,
    Expected,
    Reading,
    density,
    judged,
    likelihood,
    on_scale,
    span_of,
)
from isotherma.core.faults.stops import FIRES, HEATS, LOADS, stops_of
from isotherma.core.faults.typed import evidence_of, read_reading, read_tried
from isotherma.core.quantity import UnitSystem
from isotherma.core.system.kinds import KINDS as PART_KINDS
from isotherma.services.diagnosing import player_of

TABLE = fault_table()


def _made(make):
    project = make()
    variant = project.variants[0]
    return project, variant, variant.standing, Evidence()


@pytest.fixture(scope="module")
def small():
    """Play faults on the smallest of the demo vehicles; what is played is kept for all tests."""
    return player_of(*_made(drover))


@pytest.fixture(scope="module")
def large():
    return player_of(*_made(folio))


@pytest.fixture(scope="module")
def board(small):
    return Board(Hypotheses(small), TABLE)


class TestTheTable:
    def test_it_has_what_the_handbook_counts(self):
        assert (len(TABLE.symptoms), len(TABLE.faults), len(TABLE.tests)) == (62, 103, 65)

    def test_its_kinds_symptoms_and_faults_are_there(self):
        kinds = {*PART_KINDS, "run", "cable", "fuel_pipe"}
        for fault in TABLE.faults.values():
            assert set(fault.kinds) <= kinds, fault.id
        for test in TABLE.tests.values():
            assert set(test.kinds) <= kinds, test.id
        for fault in TABLE.faults.values():
            assert set(fault.seen) <= set(TABLE.symptoms), fault.id
        for test in TABLE.tests.values():
            for outcome, row in test.outcomes.items():
                assert set(row) - {"*"} <= set(TABLE.faults), (test.id, outcome)

    def test_its_chances_are_chances(self):
        for symptom in TABLE.symptoms.values():
            assert 0.0 < symptom.chance <= 1.0
        for fault in TABLE.faults.values():
            assert fault.weight > 0.0
            assert all(0.0 < chance <= 1.0 for chance in fault.seen.values()), fault.id
            assert all(low <= high for low, high in fault.shifts.values()), fault.id
        for test in TABLE.tests.values():
            for row in test.outcomes.values():
                assert all(0.0 < chance <= 1.0 for chance in row.values()), test.id

    def test_every_test_reads_a_known_quantity_or_has_outcomes(self):
        for test in TABLE.tests.values():
            assert (test.reads in KINDS) != bool(test.outcomes), test.id

    def test_every_play_is_understood(self):
        for fault in TABLE.faults.values():
            assert is_read(fault.play), (fault.id, fault.play)
        assert not is_read("wishful thinking")

    def test_what_stops_forbid_is_in_the_table(self):
        assert set(TABLE.tests) >= FIRES | HEATS | LOADS | WHOLE


class TestReadings:
    def test_a_reading_where_it_is_expected_is_likelier_than_anywhere_else(self):
        expected = (Expected(4.0, 5.0, 6.0),)
        near = likelihood(Reading("flow", "head", 5.0), expected)
        assert near > likelihood(Reading("flow", "head", 3.0), expected)
        assert near > likelihood(Reading("flow", "head", 8.0), expected)

    def test_a_flow_of_nothing_is_on_the_scale(self):
        chance = likelihood(Reading("flow", "head", 0.0), (Expected(0.0, 0.0, 0.0),))
        assert chance > 0.5
        assert likelihood(Reading("flow", "head", 0.0), (Expected(4.0, 5.0, 6.0),)) == (
            pytest.approx(FLAT_SHARE / span_of(KINDS["flow"]), rel=1e-6)
        )

    def test_the_split_normal_by_hand(self):
        # 11 °C where 10 is expected, 8 to 16: above, half of 6 K and 1 K of doubt
        above, below = sqrt(3.0**2 + 1.0), sqrt(1.0**2 + 1.0)
        wanted = 0.98 * sqrt(2 / pi) / (above + below) * exp(-0.5 / above**2) + 0.02 / 100.0
        found = likelihood(Reading("temp", "head", 11.0), (Expected(8.0, 10.0, 16.0),))
        assert found == pytest.approx(wanted, rel=1e-9)

    @pytest.mark.parametrize("kind", sorted(KINDS))
    @pytest.mark.parametrize(
        "expected",
        [Expected(4.0, 6.0, 12.0), Expected(3.0, None, 30.0), Expected(5.0, 5.0, 5.0)],
        ids=["about", "between", "sure"],
    )
    def test_chances_of_all_readings_add_up_to_one(self, kind, expected):
        scale = KINDS[kind]
        places = np.linspace(on_scale(scale, 1e-9) - 150, on_scale(scale, 1e3) + 150, 400_001)
        doubts = np.full_like(places, 0.2)
        step = float(places[1] - places[0])
        told = density(scale, (expected,), places, doubts) - FLAT_SHARE / span_of(scale)
        assert float(told.sum()) * step == pytest.approx(1 - FLAT_SHARE, rel=1e-3)

    @pytest.mark.parametrize(
        ("value", "says"),
        [(5.0, "pass"), (4.3, "pass"), (3.9, "near"), (2.0, "miss"), (6.15, "pass"), (9.0, "miss")],
    )
    def test_a_reading_is_judged_by_band_and_doubt(self, value, says):
        reading = Reading("flow", "head", value, unsure=0.2)
        assert judged(reading, Expected(4.5, 5.0, 6.0)) == says

    def test_without_a_band_it_is_recorded(self):
        assert judged(Reading("amp_hours", None, 40.0), None) == "recorded"

    def test_no_reading_is_surer_than_half_the_floor(self):
        assert Reading("flow", "head", 4.0, unsure=0.0).doubt == 0.05
        assert Reading("flow", "head", 0.0).doubt == 0.05


class TestWhatIsTyped:
    def test_bare_figures_and_units(self):
        system = folio().variants[0].system
        assert read_reading("flow.head=4.2", system).value == pytest.approx(4.2)
        assert read_reading("flow.head=1 gal/min", system).value == pytest.approx(3.785, rel=1e-3)
        found = read_reading("flow.head=1", system, UnitSystem.US)
        assert found.value == pytest.approx(3.785, rel=1e-3)
        assert read_reading("temp.store=60F", system).value == pytest.approx(15.56, rel=1e-3)
        assert read_reading("pressure.pump=2 ± 0.1", system).unsure == pytest.approx(0.1)
        assert read_reading("kick_every.pump=2 h", system).value == pytest.approx(120.0)

    def test_a_time_has_its_ends(self):
        system = folio().variants[0].system
        found = read_reading("heat_up.store=45:12:60", system)
        assert (found.value, found.from_c, found.to_c) == (45.0, 12.0, 60.0)
        with pytest.raises(QuantityError):
            read_reading("heat_up.store=45:12", system)
        with pytest.raises(QuantityError):
            read_reading("flow.head=4:1:2", system)

    @pytest.mark.parametrize(
        ("text", "what", "nearest"),
        [("flw.head=4", "quantity", "flow"), ("flow.haed=4", "part", "head"),
         ("flow=4", "part", None)],
    )  # fmt: skip
    def test_an_unknown_name_gives_the_nearest(self, text, what, nearest):
        with pytest.raises(NotInTable) as caught:
            read_reading(text, folio().variants[0].system)
        assert caught.value.what == what
        assert nearest is None or nearest in caught.value.nearest

    @pytest.mark.parametrize(
        "text", ["flow.head", "flow.head=", "flow.head=much", "flow.head=1e999"]
    )
    def test_a_figure_that_is_none_is_refused(self, text):
        with pytest.raises(QuantityError):
            read_reading(text, folio().variants[0].system)

    def test_tests_and_outcomes(self):
        system = folio().variants[0].system
        assert read_tried("strainer_look=dirty", TABLE, system).outcome == "dirty"
        told = read_tried("strainer_look@strainer=clean", TABLE, system)
        assert told.part == "strainer"
        assert told.outcome == outcomes_of(TABLE.tests["strainer_look"])[-1]
        for text in ("strainer_lok=dirty", "strainer_look", "strainer_look@nowhere=dirty",
                     "flow_bucket=4"):  # fmt: skip
            with pytest.raises(NotInTable):
                read_tried(text, TABLE, system)

    def test_a_symptom_by_its_id(self):
        system = folio().variants[0].system
        with pytest.raises(NotInTable) as caught:
            evidence_of(TABLE, system, seen=["flow_lo"])
        assert "flow_low" in caught.value.nearest
        assert evidence_of(TABLE, system).empty


class TestPlays:
    def test_a_range_is_played_at_its_ends_and_its_middle(self, small):
        pump = small.known.part("pump")
        (way,) = severities(small.known, pump, TABLE.faults["pump_weak"].play, "on")
        assert len(way.plays) == 3
        first = {edit.name: edit.value for edit in way.plays[0]}
        assert first["open_flow_m3_per_s"] == pytest.approx(0.4 * pump.open_flow_m3_per_s)
        assert first["shut_pressure_pa"] == pytest.approx(0.5 * pump.shut_pressure_pa)

    def test_both_ways_of_a_setting(self, small):
        mixer = small.known.part("mixer")
        ways = severities(small.known, mixer, TABLE.faults["mixer_set_wrong"].play, "")
        assert [way.plays[0][0].value for way in ways] == [mixer.set_c - 3, mixer.set_c + 3]

    def test_what_nothing_plays_has_the_tables_own_figures(self, small):
        assert severities(small.known, small.known.part("tank"), "taper of the tank", "") == ()

    def test_a_leak_goes_by_powers_of_ten(self, small):
        run = small.known.pipes[0]
        (way,) = severities(small.known, run, "leak 0.1..20 L/h", "")
        assert [edit.name for play in way.plays for edit in play] == [LEAK] * 3
        assert way.plays[1][0].value == pytest.approx(sqrt(0.1 * 20.0))


class TestWhatIsPlayed:
    def test_sound_figures_are_those_of_the_flow_page(self, small):
        found = small.expected((), Asked("flow", "head"))
        band = small.band("head")
        assert found.likely * 1e-3 / 60 == pytest.approx(band.flow[1])
        assert found.low <= found.likely <= found.high

    @pytest.mark.parametrize("name", ["flow", "pressure"])
    def test_a_weak_pump_gives_less(self, small, name):
        weak = (Edit("parts.pump.open_flow_m3_per_s", 3e-5),
                Edit("parts.pump.shut_pressure_pa", 1.5e5))  # fmt: skip
        sound, found = (small.expected(play, Asked(name, "head")) for play in ((), weak))
        assert found.likely < 0.8 * sound.likely

    def test_a_shut_valve_lets_nothing_pass(self, small):
        run = next(run.id for run in small.known.pipes if small.carries(run.id, "head"))
        assert small.expected(
            (Edit(f"runs.{run}.shut", "shut"),), Asked("flow", "head")
        ).likely == (pytest.approx(0.0, abs=1e-3))

    def test_a_kinked_hose_costs_more_the_more_it_is_kinked(self, small):
        run = next(run.id for run in small.known.pipes if small.carries(run.id, "head"))
        flows = [small.expected((Edit(f"runs.{run}.loss_k", k),), Asked("flow", "head")).likely
                 for k in (0.0, 150.0, 600.0)]  # fmt: skip
        assert flows[0] > flows[1] > flows[2]

    def test_a_mixer_that_sticks_gives_what_its_place_gives(self, small):
        asked = Asked("temp", "head")
        cold, hot = (small.expected((Edit("parts.mixer.stuck_share", share),), asked).likely
                     for share in (0.05, 0.95))  # fmt: skip
        assert cold < small.expected((), asked).likely < hot

    def test_swapped_legs_turn_the_mixer_round(self, small):
        asked = Asked("temp", "head")
        found = small.expected((Edit("parts.mixer.legs", "swapped"),), asked)
        assert abs(found.likely - small.expected((), asked).likely) > 2.0

    def test_a_check_the_wrong_way_stops_its_water(self, small):
        check = next(part.id for part in small.known.parts if part.kind == "check_valve")
        assert small.carries(check, "head")
        sound, found = (small.expected(play, Asked("flow", "head")).likely
                        for play in ((), (Edit(f"parts.{check}.ends", "swapped"),)))  # fmt: skip
        assert found < 0.9 * sound

    def test_a_dead_pump_stands_and_its_gauge_too(self, small):
        off = (Edit("parts.pump.at", "off"),)
        assert small.expected(off, Asked("flow", "head")).likely < 0.2
        assert small.expected(off, Asked("shut_pressure", "pump")).likely == 0.0

    def test_a_leak_kicks_the_pump_by_what_is_kept(self, small):
        slow, fast = (small.expected((Edit("parts.drain.leak_l_per_h", litres),),
                                     Asked("kick_every", "pump")).likely
                      for litres in (1.0, 10.0))  # fmt: skip
        assert slow == pytest.approx(10.0 * fast)
        assert small.expected((), Asked("kick_every", "pump")).likely is None

    def test_half_an_element_takes_about_twice_as_long(self, small):
        element = next(part for part in small.known.parts if part.kind == "element")
        asked = Asked("heat_up", element.fitted_in, 15.0, 55.0)
        off = (Edit("parts.burner.at", "off"),) if any(
            part.id == "burner" for part in small.known.parts) else ()  # fmt: skip
        whole = small.expected(off, asked).likely
        half = (*off, Edit(f"parts.{element.id}.power_w", 0.5 * element.power_w))
        assert small.expected(half, asked).likely > 1.7 * whole

    def test_more_loss_cools_faster_by_the_closed_form(self, small):
        store = next(part for part in small.known.parts if part.kind == "store")
        asked = Asked("cool_down", store.id, 60.0, 50.0)
        sound = small.expected((), asked).likely
        worse = small.expected((Edit(f"parts.{store.id}.loss_w_per_k", 2 * store.loss_w_per_k),),
                               asked).likely  # fmt: skip
        assert worse == pytest.approx(0.5 * sound)

    def test_thin_cable_and_low_battery_cost_volts(self, large):
        asked = Asked("volts", "pump")
        sound = large.expected((), asked).likely
        cable = next(run for run in large.known.runs if run.kind == "cable" and "pump" in run.id)
        thin = large.expected((Edit(f"runs.{cable.id}.loop_ohm", 8 * cable.loop_ohm),), asked)
        low = large.expected((Edit("parts.battery.volts_v", 10.5),), asked)
        assert thin.likely < sound
        assert low.likely < 10.6

    def test_no_pump_sucks_more_than_water_stands(self, large):
        run = next(run.id for run in large.known.pipes if run.end.part == "strainer")
        found = large.expected((Edit(f"runs.{run}.loss_k", 4e4),), Asked("flow", "head"))
        sound = large.expected((), Asked("flow", "head"))
        assert 0.0 <= found.likely < 0.5 * sound.likely


class TestWeighing:
    def test_chances_add_up_to_one(self, small):
        for evidence in (Evidence(("flow_low",)), Evidence((), ("no_hot",)),
                         Evidence(readings=(Reading("flow", "head", 2.0),)),
                         Evidence(tried=(Tried("open_cap", "tank", "recovers"),))):  # fmt: skip
            found = diagnose(small, TABLE, evidence).found
            total = found.other + sum(one.chance for one in found.suspects)
            assert total == pytest.approx(1.0)

    def test_by_hand_with_one_symptom(self, small):
        found = diagnose(small, TABLE, Evidence(("pump_hums",))).found
        weights = {
            one.key: one.weight
            * one.fault.seen.get("pump_hums", TABLE.symptoms["pump_hums"].chance)
            for one in instances_of(small, TABLE)
        }
        total = sum(weights.values()) + 3.0 * 0.3
        for suspect in found.suspects:
            assert suspect.chance == pytest.approx(weights[suspect.key] / total, rel=1e-6)
        assert found.other == pytest.approx(0.9 / total)

    def test_the_order_of_evidence_is_of_no_matter(self, small):
        readings = (Reading("flow", "head", 2.5), Reading("pressure", "pump", 2.6))
        one = diagnose(small, TABLE, Evidence(("flow_low", "pump_loud"), (), readings))
        other = diagnose(small, TABLE, Evidence(("pump_loud", "flow_low"), (), readings[::-1]))
        assert [row.key for row in one.listed] == [row.key for row in other.listed]
        assert one.found.other == pytest.approx(other.found.other)

    def test_a_reading_drops_the_symptom_that_says_the_same(self, small):
        found = diagnose(small, TABLE, Evidence(("flow_low",), (), (Reading("flow", "head", 3.0),)))
        assert found.found.dropped == {"flow_low": "flow.head"}
        assert all("+flow_low" not in one.says for one in found.found.suspects)

    def test_sound_readings_speak_for_nothing_off(self, small):
        sound = [
            Reading(kind, part, small.expected((), Asked(kind, part)).likely)
            for kind, part in (("flow", "head"), ("pressure", "pump"), ("temp", "head"))
        ]
        found = diagnose(small, TABLE, Evidence(readings=tuple(sound)))
        assert found.listed[0].instances[0].fault.id == "no_fault"
        assert all(one.judged == "pass" for one in found.read)

    def test_a_scaled_head_is_told_from_a_weak_pump_by_the_gauge(self, small):
        head = next(one for one in instances_of(small, TABLE) if one.key == "head_scaled@head")
        play = head.ways[0].plays[1]
        readings = tuple(Reading(kind, part, small.expected(play, Asked(kind, part)).likely)
                         for kind, part in (("flow", "head"), ("pressure", "pump")))  # fmt: skip
        found = diagnose(small, TABLE, Evidence(("flow_low",), (), readings))
        keys = [one.key for one in found.listed]
        assert "head_scaled@head" in keys[:3]
        assert "pump_weak@pump" not in keys[:3]

    def test_two_faults_only_where_one_explains_nothing(self, small):
        pump = (Edit("parts.pump.cut_out_pa", 0.7 * small.known.part("pump").cut_out_pa),)
        stop = small.expected(pump, Asked("shut_pressure", "pump")).likely
        both = (Reading("shut_pressure", "pump", stop), Reading("precharge", "accumulator", 0.0))
        known = [one for one in both if one.part in {part.id for part in small.known.parts}]
        found = posterior(Hypotheses(small), instances_of(small, TABLE), TABLE,
                          Evidence(readings=tuple(known)))  # fmt: skip
        single = [one for one in found.suspects if len(one.instances) == 1]
        assert single
        assert isclose(sum(one.chance for one in found.suspects) + found.other, 1.0)

    def test_reasons_name_what_parts_the_first_from_the_second(self, small):
        found = diagnose(small, TABLE, Evidence(
            ("flow_low",), (), (), (Tried("strainer_look", None, "dirty"),)))  # fmt: skip
        if found.listed[0].instances[0].fault.id == "strainer_clogged":
            assert found.reasons[0][0].says == "strainer_look"
            assert found.reasons[0][0].speaks_for


class TestNextTests:
    def test_gain_is_what_a_coin_tells(self):
        prior = np.array([0.5, 0.5, 0.0])
        gain, chances = gain_of(prior, np.array([[1.0, 0.0], [0.0, 1.0], [0.5, 0.5]]))
        assert gain == pytest.approx(1.0)
        assert chances == pytest.approx([0.5, 0.5])

    @given(st.lists(st.floats(0.01, 1.0), min_size=3, max_size=6), st.integers(0, 10**6))
    @settings(max_examples=60, deadline=None)
    def test_no_test_takes_knowledge_away(self, weights, seed):
        prior = np.array(weights) / sum(weights)
        rows = np.random.default_rng(seed).dirichlet(np.ones(4), len(weights))
        gain, chances = gain_of(prior, rows)
        assert gain >= -1e-9
        assert gain <= -float(np.sum(prior * np.log2(prior))) + 1e-9
        assert float(chances.sum()) == pytest.approx(1.0)

    def test_cost_is_minutes_litres_money_and_danger(self):
        test = TABLE.tests["head_thermometer"]
        assert cost_of(test, None) == 3 + 2 * 6 + 15 * 1
        assert cost_of(test, 60.0) == 3 + 60 * 6 / 60 + 15
        assert cost_of(test, inf) == 3 + 15
        assert cost_of(test, 5.0) is None
        assert cost_of(TABLE.tests["cells_swap"], None) == 3 + 2 + 3 / 2

    def test_outcomes_add_up_and_are_scaled_where_they_are_too_many(self, small):
        for one in instances_of(small, TABLE)[:40]:
            for test in TABLE.tests.values():
                if test.reads is None:
                    total = sum(outcome_chances(test, None, "", one).values())
                    assert total == pytest.approx(1.0, abs=1e-3), test.id

    def test_another_strainer_tells_nothing_of_this_one(self, small):
        one = next(row for row in instances_of(small, TABLE) if row.part == "strainer")
        look = TABLE.tests["strainer_look"]
        here = outcome_chances(look, one.part, "strainer", one)
        there = outcome_chances(look, "second", "strainer", one)
        assert here["dirty"] > 0.9 > 0.1 > there["dirty"]

    def test_only_builders_tests_that_tell_and_were_not_done(self, small):
        evidence = Evidence(("no_hot",), (), (Reading("flow", "head", 4.0),),
                            (Tried("check_arrow", None, "none of these"),))  # fmt: skip
        found = diagnose(small, TABLE, evidence)
        for one in found.next_tests:
            assert one.test.who == "builder"
            assert one.gain_bits >= LEAST_BITS
            assert one.test.id != "check_arrow"
            assert f"{one.test.reads}.{one.part}" != "flow.head"
        assert len(found.next_tests) <= 3
        scores = [one.score for one in found.next_tests]
        assert scores == sorted(scores, reverse=True)
        assert HYPOTHESES > 3

    def test_what_is_sure_needs_no_further_test(self, small):
        sure = Evidence(("spark_no_flame",), (), (), (Tried("strainer_look", None, "dirty"),))
        found = diagnose(small, TABLE, Evidence(
            ("flow_low", "pump_loud"), (), (), sure.tried))  # fmt: skip
        if found.sure:
            assert found.next_tests == ()

    def test_licensed_tests_stand_apart(self, small):
        found = diagnose(small, TABLE, Evidence(("no_hot", "breaker_trips")))
        assert all(one.test.who == "licensed" for one in found.refer)
        assert all(one.test.who == "builder" for one in found.next_tests)

    def test_litres_left_are_those_that_were_read(self, small):
        assert litres_left(small, Evidence()) is None
        assert litres_left(small, Evidence(readings=(Reading("litres", "tank", 12.0),))) == 12.0
        tight = diagnose(small, TABLE, Evidence(
            ("warm_not_hot",), (), (Reading("litres", "tank", 1.0),)))  # fmt: skip
        assert all(one.test.litres <= 1.0 for one in tight.next_tests)


class TestTwins:
    def test_a_dead_element_and_its_tripped_cut_out_look_the_same(self, small):
        found = diagnose(small, TABLE, Evidence(("no_hot",)))
        assert found.twins["element_dead@element"] == ("cutout_tripped@element-cut-out",)
        assert found.twins["cutout_tripped@element-cut-out"] == ("element_dead@element",)
        assert "cutout_tripped@burner-cut-out" not in found.twins

    @pytest.mark.parametrize("symptom", ["flow_low", "pump_kicks", "cools_fast", "no_hot"])
    def test_what_a_test_parts_is_no_twin(self, small, symptom):
        """Whoever is named a twin: every builder's test tells less than is worth its cost."""
        found = diagnose(small, TABLE, Evidence((symptom,)))
        hypotheses = Hypotheses(small)
        by_key = {one.key: replace(one, chance=0.5) for one in found.listed[:5]}
        tests = list(candidates(small, TABLE, Evidence(), whole=True))
        for one, other in combinations(by_key, 2):
            even = (by_key[one], by_key[other])
            told = [told_of(hypotheses, test, part, even, 0.0) for test, part in tests]
            gains = [row.gain_bits for row in told if row is not None]
            assert (max(gains) < LEAST_BITS) == (other in found.twins.get(one, ()))
        assert all(one in found.twins[other] for one, keys in found.twins.items() for other in keys)


class TestStops:
    @pytest.mark.parametrize("symptom", ["gas_smell", "co_alarm"])
    def test_with_these_nobody_tries_anything(self, large, symptom):
        found = diagnose(large, TABLE, Evidence((symptom, "no_hot")))
        assert found.stops[0].leave
        assert found.next_tests == ()

    @pytest.mark.parametrize(
        ("symptom", "never"),
        [("flame_yellow", FIRES), ("gas_screw_touched", FIRES), ("wire_hot", LOADS)],
    )
    @pytest.mark.parametrize("also", ["no_hot", "flow_low", "spark_no_flame", "warm_not_hot"])
    def test_what_a_stop_forbids_is_never_next(self, small, symptom, never, also):
        found = diagnose(small, TABLE, Evidence((symptom, also)))
        assert found.stops
        assert not {one.test.id for one in found.next_tests} & never

    def test_scalding_water_stops_whoever_stands_under_it(self, small):
        found = diagnose(small, TABLE, Evidence(readings=(Reading("temp", "head", 52.0),)))
        assert [stop.what for stop in found.stops] == ["outlet"]
        assert not {one.test.id for one in found.next_tests} & {"head_thermometer", "mixer_turn"}
        warm = diagnose(small, TABLE, Evidence(readings=(Reading("temp", "head", 40.0),)))
        assert warm.stops == ()


class TestWholeSearches:
    @pytest.mark.parametrize(("make", "every"), [(drover, 1), (curlew, 1)])
    def test_with_all_that_can_be_known_the_fault_is_first(self, make, every):
        """Every fault on noiseless evidence; its twins, which nothing parts, count as it."""
        player = player_of(*_made(make))
        hypotheses, instances = Hypotheses(player), instances_of(player, TABLE)
        first, three, by_symptoms, count = 0, 0, 0, 0
        seen: set[str] = set()
        for instance in instances:
            if instance.part is None or instance.fault.id in seen:
                continue
            seen.add(instance.fault.id)
            if len(seen) % every:
                continue
            hidden = Hidden(instance)
            names = _by_fault(posterior(hypotheses, instances, TABLE,
                                        all_answers(hypotheses, hidden, TABLE)))  # fmt: skip
            alone = _by_fault(posterior(
                hypotheses, instances, TABLE,
                all_answers(hypotheses, hidden, TABLE, readings=False)))  # fmt: skip
            first += instance.fault.id == names[0]
            three += instance.fault.id in names[:3]
            by_symptoms += instance.fault.id == alone[0]
            count += 1
        assert first / count >= 0.9
        assert three / count >= 0.95
        assert by_symptoms < first  # readings count

    def test_the_order_of_tests_saves_and_never_offers_what_it_must_not(self, board):
        draw = np.random.default_rng(7)
        orders = {"ours": greedy, "random": at_random(draw), "list": by_cost,
                  "cheapest": cheapest_telling}  # fmt: skip
        costs: dict[str, list[float]] = {name: [] for name in orders}
        for number in range(30):
            hidden = hide(board.instances, draw)
            seen, denied = reported(hidden, TABLE, draw)
            stops = stops_of(TABLE, Evidence(seen), board.hypotheses.player)
            for name, choose in orders.items():
                found = board.search(hidden, board.start(seen, denied), choose,
                                     np.random.default_rng(number), stops)  # fmt: skip
                costs[name].append(found.cost_min)
                assert all(step.test.who == "builder" for step in found.steps)
        ours = float(np.mean(costs["ours"]))
        assert ours <= 0.7 * float(np.mean(costs["random"]))
        assert ours <= 0.7 * float(np.mean(costs["list"]))

    def test_a_search_is_the_same_with_the_same_seed(self, board):
        runs = []
        for _ in range(2):
            draw = np.random.default_rng(3)
            hidden = hide(board.instances, draw)
            seen, denied = reported(hidden, TABLE, draw)
            found = board.search(hidden, board.start(seen, denied), greedy, draw)
            runs.append((hidden.instance.key, [step.test.id for step in found.steps], found.fault))
        assert runs[0] == runs[1]


def _by_fault(found) -> list[str]:
    sums: dict[str, float] = {}
    for one in found.suspects:
        key = one.instances[0].fault.id
        sums[key] = sums.get(key, 0.0) + one.chance
    return sorted(sums, key=lambda key: -sums[key])


def test_weights_are_logarithms_of_the_table(board):
    weights = board.start((), ())
    assert weights[-1] == pytest.approx(log(3.0))
    assert board.chances(weights).sum() == pytest.approx(1.0)


class TestElements:
    """An element's label and resistance are one thing: half its watts are half its amps."""

    def expected(self, player, key, quantity):
        hypotheses = Hypotheses(player)
        instance = next(one for one in instances_of(player, TABLE) if one.key == key)
        return hypotheses.expected(instance, quantity)

    def test_an_open_leg_halves_amps_and_doubles_time(self, small):
        sound = small.expected((), Asked("amps", "element"))
        assert sound.likely == pytest.approx(800.0 / 230.0, rel=0.03)
        half = self.expected(small, "element_half@element", Asked("amps", "element"))
        shares = [one.likely / sound.likely for one in half]
        assert min(shares) == pytest.approx(0.4, rel=1e-6)
        assert max(shares) == pytest.approx(0.6, rel=1e-6)

    @pytest.mark.parametrize("make", [drover, folio])
    def test_half_its_amps_name_it_whether_it_is_on_in_the_state_or_off(self, make):
        """Amps are read under load: whoever reads them has switched it on."""
        project = make()
        variant = project.variants[0]
        part = next(one for one in variant.system.parts if one.kind == "element")
        player = player_of(project, variant, variant.standing, Evidence())
        sound = player.expected((), Asked("amps", part.id))
        assert sound is not None and sound.likely is not None and sound.likely > 1.0
        found = diagnose(player, TABLE, Evidence(
            readings=(Reading("amps", part.id, 0.5 * sound.likely),)))  # fmt: skip
        assert found.listed[0].key == f"element_half@{part.id}"
        dead = diagnose(player, TABLE, Evidence(readings=(Reading("amps", part.id, 0.0),)))
        assert dead.listed[0].instances[0].fault.id in (
            "element_dead", "cutout_tripped", "rule_never", "fuse_blown")  # fmt: skip
