"""Learning from readings: recovered figures, bands, what cannot be told apart, rows that lie."""

from __future__ import annotations

import json
from dataclasses import replace
from itertools import pairwise
from math import exp

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bench.learning import held, simulated
from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.core.bench_sums.base import capacity_j_per_k
from isotherma.core.faults.readings import Reading
from isotherma.core.learning.gauge import gauges_of, rising
from isotherma.core.learning.parameters import TENTH, cold_water, parameter
from isotherma.core.learning.rows import Row, sessions_of
from isotherma.core.system.kinds.heat import Store
from isotherma.core.system.nominal import computed, known_figure
from isotherma.files.learned_json import learned_object
from isotherma.files.readings_csv import HEADING, ReadingsUnreadable, read_readings
from isotherma.services.learning import learn

READ = ((10, 5), (30, 25), (50, 50), (70, 80), (90, 105))


def row(number, session, kind, time_s, quantity, part, value, unsure=None) -> Row:
    return Row(number, session, kind, time_s, Reading(quantity, part, value, unsure))


def cooling(loss, *, session="night", count=9, air=10.0, start=60.0, part="store", system=None):
    """Give a cool-down without noise."""
    known = computed(system or drover().variants[0].system).part(part)
    assert isinstance(known, Store) and known.volume_m3 is not None
    capacity = capacity_j_per_k(known.volume_m3, 15.0, 60.0)
    capacity += known_figure(known, "body_j_per_k") or 0.0
    rows = [row(1, session, "cool_down", 0.0, "air", None, air)]
    for hour in range(count):
        celsius = air + (start - air) * exp(-loss * hour * 3600.0 / capacity)
        rows.append(row(2 + hour, session, "cool_down", hour * 3600.0, "temp", part, celsius, 0.3))
    return rows


def found(rows, make=drover):
    project = make()
    learned = learn(project, project.variants[0], rows).figures
    return {one.parameter.path: one for one in learned.learned}, learned


class TestRecovery:
    def test_a_loss_from_one_cool_down(self):
        learned, _ = found(cooling(0.9))
        one = learned["parts.store.loss_w_per_k"]
        assert one.identified and one.offered
        assert one.low <= 0.9 <= one.high
        assert one.likely == pytest.approx(0.9, rel=0.05)

    def test_of_ten_simulated_vehicles_most_bands_hold(self):
        """The 200 of bench/learning.py hold 74 to 92 %; ten may lie a little beside."""
        inside = offered = 0
        for seed in range(10):
            made = simulated(seed)
            one, all_of = held(made, learn(made.project, made.variant, made.rows))
            inside, offered = inside + one, offered + all_of
        assert offered >= 60
        assert 0.65 <= inside / offered <= 0.97

    def test_the_order_of_rows_is_of_no_matter(self):
        made = simulated(1)
        mixed = list(made.rows)
        np.random.default_rng(5).shuffle(mixed)
        one, other = (learn(made.project, made.variant, rows) for rows in (made.rows, mixed))
        for first, second in zip(one.figures.learned, other.figures.learned, strict=True):
            assert first.likely == second.likely
            assert first.why == second.why

    def test_more_readings_make_it_surer(self):
        few, _ = found(cooling(0.9, count=6))
        many, _ = found(cooling(0.9, count=13))
        path = "parts.store.loss_w_per_k"
        assert many[path].high - many[path].low < few[path].high - few[path].low

    @pytest.mark.parametrize("make", [folio, curlew], ids=["folio", "curlew"])
    def test_other_vehicles_too(self, make):
        system = make().variants[0].system
        store = next(part for part in system.parts if part.kind == "store")
        learned, _ = found(cooling(1.1, part=store.id, system=system), make)
        one = learned[f"parts.{store.id}.loss_w_per_k"]
        assert one.low <= 1.1 <= one.high

    def test_a_heaters_watts_from_rise_and_flow(self):
        from isotherma.catalogue.layouts import layouts

        project = layouts()["cupboard-through-flow"].project()
        system = project.variants[0].system
        heater = next(part for part in system.parts if part.kind == "through_flow_gas")
        head = next(part for part in system.parts if part.kind == "shower_head")
        mass = 999.1 * 4186.0
        rows: list[Row] = []
        number = 0
        for session in ("one", "two"):
            for at, flow in enumerate((5.5, 6.5)):
                number += 2
                hot = 15.0 + 9000.0 / (mass * flow * 1e-3 / 60)
                rows.append(row(number, session, "draw", at * 120.0, "flow", head.id, flow))
                rows.append(row(number + 1, session, "draw", at * 120.0, "temp", heater.id, hot))
        tank = next(part.id for part in system.parts if part.kind == "fresh_tank")
        rows.append(row(99, "one", "draw", 0.0, "temp", tank, 15.0))
        rows.append(row(98, "two", "draw", 0.0, "temp", tank, 15.0))
        learned = learn(project, project.variants[0], rows).figures
        paths = {one.parameter.path: one for one in learned.learned}
        if heater.set_c is None or hot < heater.set_c - 2 or heater.control == "two knobs":
            assert f"parts.{heater.id}.heat_w" in paths

    def test_fresh_water_is_learned_on_its_own_scale(self):
        rows = [row(n, f"s{n // 2}", "draw", n * 60.0, "temp", "tank", 8.0 + 0.1 * n)
                for n in range(4)]  # fmt: skip
        learned, _ = found(rows)
        one = learned["brief.cold_water_c"]
        assert one.low < 8.15 < one.high

    def test_litres_between_overflow_and_air_are_the_tank(self):
        rows = [row(n, f"fill {n}", "fill", 0.0, "litres", "tank", 100.0 + n) for n in range(3)]
        learned, _ = found(rows)
        one = learned["parts.tank.volume_m3"]
        assert one.offered
        assert one.low * 1e3 < 101.0 < one.high * 1e3

    def test_volts_and_amps_are_ohms(self):
        rows: list[Row] = []
        for session in ("one", "two"):
            for at in range(3):
                number = 10 * len(rows) + at
                volts = 228.0 + at
                rows.append(row(number, session, "electric", at * 60.0, "volts", "element", volts))
                rows.append(row(number + 1, session, "electric", at * 60.0, "amps", "element",
                                volts / 70.0))  # fmt: skip
        learned, _ = found(rows)
        one = learned["parts.element.resistance_ohm"]
        assert one.low < 70.0 < one.high
        watts = learned["parts.element.power_w"]  # which is what people know it by
        assert watts.low < 229.0**2 / 70.0 < watts.high
        assert watts.offered == one.offered

    def test_a_lag_from_readings_each_half_second(self):
        rows = [row(n, "step", "draw", 0.5 * n, "temp", "head", 41 - 9 * exp(-n / 6.0), 0.3)
                for n in range(30)]  # fmt: skip
        learned, _ = found(rows)
        one = learned["parts.mixer.lag_s"]
        assert one.likely == pytest.approx(3.0, rel=0.15)
        slow = [replace(one, time_s=one.time_s * 10) for one in rows]
        assert "parts.mixer.lag_s" not in found(slow)[0]


class TestRefusals:
    def test_litres_and_watts_move_together_without_amps(self):
        made = simulated(2)
        heating = [one for one in made.rows if one.kind == "heat_up" and one.reading.kind != "amps"]
        learned = learn(made.project, made.variant, heating).figures.learned
        offered = {one.parameter.path for one in learned if one.offered}
        assert not {"parts.store.volume_m3", "parts.element.power_w"} <= offered

    def test_one_reading_is_never_enough(self):
        learned, _ = found([row(1, "one", "fill", 0.0, "litres", "tank", 90.0)])
        one = learned["parts.tank.volume_m3"]
        assert not one.offered
        assert one.why in ("too_few", "not_identified")

    def test_two_rows_of_a_curve_are_no_curve(self):
        learned, _ = found(cooling(0.9, count=2))
        assert not learned["parts.store.loss_w_per_k"].offered

    @pytest.mark.parametrize("seed", range(4))
    def test_a_row_that_lies_is_listed_and_never_decides(self, seed):
        sound, lying = simulated(seed), simulated(seed, lies=1)
        wrong = [one.number for one, other in zip(lying.rows, sound.rows, strict=True)
                 if one.value != other.value]  # fmt: skip
        learned = learn(lying.project, lying.variant, lying.rows).figures
        told = {one.row.number for one in learned.doubtful}
        used = {one.row.number for one in learned.residuals}
        if set(wrong) <= used:
            assert set(wrong) <= told
        for one in learned.learned:
            truth = lying.truth.get(one.parameter.path)
            if one.offered and truth is not None:
                assert one.likely == pytest.approx(truth, rel=0.4)

    def test_a_fifth_of_lies_offers_nothing_that_hangs_on_them(self):
        made = simulated(6, lies=30)
        learned = learn(made.project, made.variant, made.rows).figures
        if len(learned.doubtful) > 0.2 * len(learned.residuals):
            assert not any(one.offered for one in learned.learned)

    def test_far_from_what_was_thought_says_look_twice(self):
        learned, _ = found(cooling(4.0))
        one = learned["parts.store.loss_w_per_k"]
        assert one.far

    def test_nothing_that_can_be_foretold_teaches_nothing(self):
        _, learned = found([row(1, "one", "day", 0.0, "gas_pressure", "bottle", 30.0)])
        assert learned.learned == ()
        assert learned.held_out.rows == 0


class TestBefore:
    def test_a_given_figure_is_as_sure_as_where_it_is_from(self):
        system = drover().variants[0].system
        tank = system.part("tank")
        sigmas = {}
        for evidence in ("measured", "maker's sheet", None):
            part = tank.model_copy(update={"evidence": evidence, "volume_m3": 0.12})
            known = parameter(system, part, "volume_m3", None)
            assert known is not None
            sigmas[evidence] = known.sigma
        assert (sigmas["measured"], sigmas["maker's sheet"], sigmas[None]) == (0.02, 0.05, 0.15)

    def test_a_band_is_its_tenth_and_its_ninetieth(self):
        system = drover().variants[0].system
        known = parameter(system, system.part("store"), "loss_w_per_k", None)
        assert known is not None and known.low is not None and known.high is not None
        assert known.sigma == pytest.approx(np.log(known.high / known.low) / 2.56)
        assert pytest.approx(1.2816, abs=1e-4) == TENTH

    def test_what_nobody_knows_is_flat_within_its_bounds(self):
        system = drover().variants[0].system
        part = system.part("element").model_copy(update={"rated_v": None})
        known = parameter(system, part, "resistance_ohm", 60.0)
        assert known is not None and known.flat and known.likely is None
        assert parameter(system, part, "resistance_ohm", None) is None

    def test_an_entered_cold_is_surer_than_a_guessed_one(self):
        brief = drover().brief
        guessed = cold_water(brief.model_copy(update={"cold_water_c": None}), 10.0)
        told = cold_water(brief.model_copy(update={"cold_water_c": 0.5}), 10.0)
        assert told.sigma < guessed.sigma
        assert told.likely == 0.5


class TestGauge:
    @given(st.lists(st.floats(-100, 100), min_size=1, max_size=20))
    def test_it_never_falls_and_keeps_its_mean(self, values):
        made = rising(values, [1] * len(values))
        assert all(one <= other + 1e-9 for one, other in pairwise(made))
        assert sum(made) == pytest.approx(sum(values), abs=1e-6)

    def test_what_rises_already_stays(self):
        assert rising([1.0, 2.0, 4.0], [1, 1, 1]) == [1.0, 2.0, 4.0]

    def test_a_table_is_straight_between_and_nothing_beyond(self):
        rows: list[Row] = []
        for number, (level, litres) in enumerate(
            [(10, 5), (30, 25), (50, 50), (70, 80), (90, 105)]
        ):
            rows += [row(2 * number, "in", "gauge", number * 60.0, "level", "sender", float(level)),
                     row(2 * number + 1, "in", "gauge", number * 60.0, "litres", "tank",
                         float(litres))]  # fmt: skip
        (gauge,) = gauges_of(sessions_of(rows))
        at = dict(gauge.at)
        assert gauge.offered
        assert at[0] is None and at[100] is None
        assert at[30] == pytest.approx(0.025)
        assert at[40] == pytest.approx(0.0375)
        fewer = next(iter(gauges_of(sessions_of(rows[:6]))))
        assert not fewer.offered


class TestTheFile:
    PARTS = frozenset(part.id for part in drover().variants[0].system.parts)

    def test_a_table_is_read_in_its_units(self):
        text = "\n".join([",".join(HEADING), "a,flow,0,flow.head,1,gal/min,0.1,bucket,x",
                          "a,flow,60,temp.head,100,°F,2,,"])  # fmt: skip
        rows, bad = read_readings(text, self.PARTS)
        assert bad == ()
        assert rows[0].value == pytest.approx(3.785, rel=1e-3)
        assert rows[0].reading.unsure == pytest.approx(0.3785, rel=1e-3)
        assert rows[1].value == pytest.approx(37.78, rel=1e-3)
        assert rows[1].reading.unsure == pytest.approx(1.11, rel=1e-2)

    @pytest.mark.parametrize("separator", [",", ";", "\t"])
    def test_separators_are_seen(self, separator):
        text = separator.join(HEADING) + "\n" + separator.join(
            ["a", "fill", "0", "litres.tank", "100", "L", "", "", ""])  # fmt: skip
        rows, bad = read_readings(text, self.PARTS)
        assert (len(rows), bad) == (1, ())

    @pytest.mark.parametrize(
        ("line", "words"),
        [
            ("a,fill,0,litres.tnk,100,L,,,", "no part"),
            ("a,fill,0,liters.tank,100,L,,,", "no quantity"),
            ("a,filled,0,litres.tank,100,L,,,", "kind of session"),
            ("a,fill,soon,litres.tank,100,L,,,", "time_s"),
            ("a,fill,0,litres.tank,much,L,,,", "volume"),
            ("a,fill,0,litres.tank,100,bar,,,", "volume"),
            (",fill,0,litres.tank,100,L,,,", "no session"),
        ],
    )
    def test_every_bad_row_is_named(self, line, words):
        text = "\n".join([",".join(HEADING), "a,fill,0,litres.tank,100,L,,,", line])
        rows, bad = read_readings(text, self.PARTS)
        assert len(rows) == 1
        assert bad[0].number == 2
        assert words in bad[0].why

    @pytest.mark.parametrize("text", ["", "\n", "a,b,c\n1,2,3", "session;kind\n"])
    def test_what_is_no_table_is_refused(self, text):
        with pytest.raises(ReadingsUnreadable):
            read_readings(text, self.PARTS)

    def test_a_time_between_two_temperatures(self):
        text = ",".join(HEADING) + "\na,heat_up,0,heat_up.store,45:15:55,min,,,"
        rows, bad = read_readings(text, self.PARTS)
        assert bad == ()
        assert (rows[0].reading.from_c, rows[0].reading.to_c) == (15.0, 55.0)

    def test_json_has_every_key_and_no_nan(self):
        made = simulated(3)
        both = learn(made.project, made.variant, made.rows)
        shown = learned_object(both.figures, both.gauges)
        text = json.dumps(shown, allow_nan=False)
        assert set(shown) == {"format", "parameters", "residuals", "doubtful", "held_out",
                              "converged", "iterations"}  # fmt: skip
        assert shown["format"] == "isotherma-learned-1"
        assert {"path", "title", "unit", "before", "after", "identified", "offered", "sessions",
                "confused_with", "because"} == set(shown["parameters"][0])  # fmt: skip
        assert "parts.store.loss_w_per_k" in text
