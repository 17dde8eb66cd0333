"""Sweeps and their inverse: each run is a run of its own, pieces add up, the smallest holds."""

from __future__ import annotations

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import drover_on_trip
from isotherma.core import editing
from isotherma.core.cache import Caches
from isotherma.core.errors import QuantityError
from isotherma.core.options.measures import Of, measure
from isotherma.core.options.sizing import struck_by
from isotherma.core.options.sweep import MOST_ACROSS, Sweep, Swept, Vary
from isotherma.core.quantity import UnitSystem
from isotherma.files.plain import read_plain, write_plain
from isotherma.files.sweep_csv import write_sweep
from isotherma.services import sweeps
from isotherma.services.inverse import (
    Bound,
    Inverse,
    InverseService,
    inverse,
    inverse_asked,
    inverse_payload,
)
from isotherma.services.long_work import Asker
from isotherma.services.sweep_asking import (
    parameters,
    read_values,
    read_varies,
    read_vary,
    spread,
)
from isotherma.services.sweeps import SweepService, sweep_asked, sweep_payload, swept
from tests.support import computed
from tests.support import known as there

HERE = "ten-litres"
STORE = f"variants.{HERE}.system.parts.store.volume_m3"
FLOW = "brief.draws.early-shower.flow_m3_per_s"
METRIC = UnitSystem.METRIC


@pytest.fixture(scope="module")
def box():
    return drover()


@pytest.fixture(scope="module")
def known(box):
    return parameters(box, box.variants[0], computed(box, HERE))


# --- what may be varied ---


def test_figures_are_found_by_path_and_by_name_and_say_what_they_are_today(known):
    store = known.find(STORE)
    assert store is known.find("gas-and-mains store: volume") is known.find(f" {STORE} ")
    assert store.today == store.entered == pytest.approx(0.010)
    throttled = known.find(FLOW)  # nobody entered it: what flows
    assert throttled.entered is None and 5e-5 < throttled.today < 8e-5
    assert known.find("brief.days").whole and known.find("brief.month").whole
    assert [row.turned for row in known.rows] == sorted((row.turned for row in known.rows),
                                                         reverse=True)  # fmt: skip


def test_names_prices_and_sizes_of_boxes_are_not_varied(known):
    ends = {row.path.rpartition(".")[2] for row in known.rows}
    assert not ends & {"name", "note", "price", "width_m", "dry_mass_kg", "x_m", "clips"}
    assert {"volume_m3", "set_c", "insulation_m", "duration_s", "length_m", "bore_m"} <= ends


def test_every_figure_that_may_be_varied_can_be_set(box, known):
    for row in known.rows:
        if row.today is not None:
            value = int(row.today) if row.whole else row.today
            editing.set_values(box, {row.path: value})


# --- reading what is asked ---


def test_a_figure_without_ends_goes_from_half_to_double(box, known):
    read = read_vary("x", {"x": STORE}, known, box, METRIC)
    assert not read.errors and (read.low, read.high, read.count) == ("5", "20", "7")
    assert there(read.vary).values[0] == pytest.approx(0.005)
    assert there(read.vary).values[-1] == pytest.approx(0.020) and len(there(read.vary).values) == 7


@pytest.mark.parametrize(
    ("texts", "field", "said"),
    [
        ({"x": "Stove: volume"}, "x", "no figure “Stove: volume”"),
        ({"x": "Gas-and-mains store: Volum"}, "x", "“Gas-and-mains store: Volume”"),
        ({"x": STORE, "x_from": "lots"}, "x_from", "“lots”"),
        ({"x": STORE, "x_from": "-3"}, "x_from", "more than 0\u00a0L"),
        ({"x": STORE, "x_to": "1e9"}, "x_to", "at most"),
        ({"x": STORE, "x_n": "900"}, "x_n", "1 to 25"),
        ({"x": STORE, "x_n": "²"}, "x_n", "1 to 25"),
        ({"x": "brief.draws.early-shower.gives_up_c"}, "x_from", "nobody knows"),
    ],
)
def test_what_cannot_be_read_says_so_beside_its_field(box, known, texts, field, said):
    read = read_vary("x", texts, known, box, METRIC)
    assert read.vary is None and said in read.errors[field]


def test_us_ends_are_read_in_gallons_and_degrees_fahrenheit(box, known):
    us = UnitSystem.US
    read = read_vary("x", {"x": STORE, "x_from": "2", "x_to": "1 1/2 gal"}, known, box, us)
    assert there(read.vary).values[0] == pytest.approx(2 * 3.785e-3, rel=1e-3)
    assert there(read.vary).values[-1] == pytest.approx(1.5 * 3.785e-3, rel=1e-3)
    warm = read_vary("x", {"x": "brief.inside_c", "x_from": "50F", "x_to": "68"}, known, box, us)
    assert there(warm.vary).values[0] == pytest.approx(10.0) and there(warm.vary).values[
        -1
    ] == pytest.approx(20)


def test_the_same_figure_twice_is_wrong_at_the_second(box, known):
    one, two = read_varies(("x", "y"), {"x": STORE, "y": STORE}, known, box, METRIC)
    assert one.vary is not None and two.vary is None and "already" in two.errors["y"]


def test_counts_stay_whole_and_none_is_there_twice(box, known):
    assert spread(1.0, 3.0, 7, whole=True) == (1.0, 2.0, 3.0)
    days = read_vary("x", {"x": "brief.days", "x_from": "0", "x_to": "4"}, known, box, METRIC)
    assert "at least 1" in days.errors["x_from"]


def test_values_of_a_line_may_hold_commas_where_semicolons_part_them(known):
    row = known.find(STORE)
    assert read_values("5L, 10L", row, METRIC) == pytest.approx((0.005, 0.010))
    assert read_values("7,5; 10", row, METRIC) == pytest.approx((0.0075, 0.010))
    with pytest.raises(QuantityError):
        read_values(",".join(["5"] * (MOST_ACROSS + 1)), row, METRIC)
    with pytest.raises(QuantityError):
        read_values("5,,6", row, METRIC)


@given(st.floats(0, 1e4), st.floats(0, 1e4), st.integers(1, 25))
def test_a_spread_begins_and_ends_where_it_is_told(low, high, count):
    values = spread(low, high, count, whole=False)
    assert len(values) <= count and values[0] == pytest.approx(low, rel=1e-8)
    if count > 1:
        assert values[-1] == pytest.approx(high, rel=1e-8)


# --- runs ---


def test_every_cell_is_a_run_of_its_own(box):
    sweep = Sweep(Vary(STORE, (0.008, 0.014)), Vary("brief.inside_c", (10.0, 20.0)))
    found = swept(box, HERE, sweep)
    assert [(cell.x, cell.y) for cell in found.cells] == [
        (0.008, 10.0), (0.014, 10.0), (0.008, 20.0), (0.014, 20.0),
    ]  # fmt: skip
    for cell in found.cells:
        alone = editing.set_values(box, {STORE: cell.x, "brief.inside_c": cell.y})
        expected = measure(computed(alone, HERE))
        assert (cell.met, found.measures, cell.values) == (
            expected.met, expected.measures, expected.values,
        )  # fmt: skip
    assert len({cell.values for cell in found.cells}) == 4


def test_pieces_of_a_sweep_are_the_sweep(box):
    flat = Sweep(Vary(STORE, tuple(0.006 + 0.002 * step for step in range(7))))
    assert [piece.runs for piece in flat.pieces] == [5, 2] and flat.runs == 7
    cells = [cell for piece in flat.pieces for cell in swept(box, HERE, piece).cells]
    assert tuple(cells) == swept(box, HERE, flat).cells
    both = Sweep(Vary(STORE, (0.01, 0.02)), Vary("brief.inside_c", (5.0, 10.0, 15.0)))
    assert [there(piece.up).values for piece in both.pieces] == [(5.0,), (10.0,), (15.0,)]


def test_what_cannot_be_run_is_said_of_its_cell_alone(box):
    bare = editing.set_values(box, {f"variants.{HERE}.system.parts.tank.volume_m3": None})
    path = f"variants.{HERE}.system.parts.element.power_w"
    found = swept(box, HERE, Sweep(Vary(path, (500.0, -1.0))))
    assert [cell.error for cell in found.cells] == ["", "cannot_be"] and found.measures
    lost = swept(bare, HERE, Sweep(Vary(path, (500.0,))))
    assert lost.cells[0].error == "missing_value" and not lost.cells[0].values


def test_a_sweep_is_written_asked_and_read_back(box):
    sweep = Sweep(Vary(STORE, (0.008, 0.014)), Vary("brief.inside_c", (10.0,)))
    assert sweep_asked(sweep_payload(sweep)) == sweep
    found = swept(box, HERE, sweep)
    assert read_plain(write_plain(found), sweeps.WRITTEN) == found


def test_a_sweep_is_run_once(box, monkeypatch):
    service, variant = SweepService(Caches(1_000_000)), box.variants[0]
    sweep = Sweep(Vary(STORE, (0.01, 0.014)))
    first = service.pieces(box, variant, sweep, Asker())
    monkeypatch.setattr(sweeps, "swept", lambda *_: pytest.fail("run again"))
    assert service.pieces(box, variant, sweep, Asker()) == first


def test_measures_are_of_the_worst_day_of_a_trip():
    show = drover_on_trip()
    outcome = computed(show, show.variants[0].id)
    found = measure(outcome)
    for draw in show.brief.draws:
        warm = [
            one.comfort_s for leg in outcome.course.legs for one in leg.draws
            if one.draw.id == draw.id
        ]  # fmt: skip
        assert found.value(f"{Of.WARM}.{draw.id}") == min(warm)
    failure = outcome.trip.failure
    assert found.value("carries") == (len(outcome.trip.days) if failure is None
                                      else failure.day - 1)  # fmt: skip
    assert found.met == (failure is None) and found.value("warm.nobody") is None


def test_a_table_has_a_row_for_each_run_and_reads_as_figures(box, known):
    sweep = Sweep(Vary(STORE, (0.008, 0.014)))
    text = write_sweep([known.find(STORE)], [swept(box, HERE, sweep)], METRIC)
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [row["Gas-and-mains store: Volume [L]"] for row in rows] == ["8", "14"]
    assert {row["all as asked"] for row in rows} <= {"yes", "no"}
    assert 2.0 < float(rows[1]["Early shower: warm for [min]"]) <= 5.1


# --- the inverse ---

AXIS = tuple(value * 1e-3 for value in (6, 8, 10, 12, 14, 16))


def easy(box):
    """Drover with as much water as it likes: only heat is the question."""
    return editing.set_values(
        box, {f"variants.{HERE}.system.parts.tank.volume_m3": 0.4, "brief.budgets.grey_m3": 0.4}
    )


def test_the_smallest_that_does_it_is_what_trying_all_finds(box):
    made = easy(box)
    found = inverse(made, HERE, Inverse((Vary(STORE, AXIS),)))
    does = [
        value
        for value in AXIS
        if not struck_by(computed(editing.set_values(made, {STORE: value}), HERE))
    ]
    assert found.values == (does[0],)
    assert found.smaller == (AXIS[AXIS.index(does[0]) - 1],) and found.smaller_struck
    assert found.runs <= len(AXIS)


def test_a_bound_of_ones_own_is_held_and_the_next_smaller_does_not(box):
    made = easy(box)
    bound = Bound("warm.second-shower", at_most=False, limit=200.0)
    found = inverse(made, HERE, Inverse((Vary(STORE, AXIS),), bound))
    warm = {
        value: there(
            measure(computed(editing.set_values(made, {STORE: value}), HERE)).value(
                bound.measure_id
            )
        )
        for value in AXIS
    }
    assert found.values is not None and warm[found.values[0]] >= 200.0
    if found.smaller is not None:
        assert warm[found.smaller[0]] < 200.0
        assert found.smaller_struck[0].code == "below"
    at_once = Bound("wait.early-shower", at_most=True, limit=0.0)
    never = inverse(made, HERE, Inverse((Vary(STORE, AXIS),), at_once))
    assert never.values is None and never.struck[0].code == "above"
    assert there(never.struck[0].figure) > 0.0 == never.struck[0].limit


def test_values_that_cannot_be_are_an_answer(box):
    found = inverse(box, HERE, Inverse((Vary(STORE, (-1.0, -2.0)),)))
    assert found.values is None and found.error == "change_refused"


def test_an_inverse_is_asked_read_back_and_kept(box):
    asked = Inverse((Vary(STORE, AXIS[:2]),), Bound("carries", False, 1.0))
    assert inverse_asked(inverse_payload(asked)) == asked
    assert inverse_asked(inverse_payload(Inverse(asked.vary))) == Inverse(asked.vary)
    service = InverseService(Caches(1_000_000))
    first = service.find(box, box.variants[0], asked, Asker())
    assert service.find(box, box.variants[0], asked, Asker()) is first


def test_two_runs_of_the_same_sweep_are_the_same_bit_for_bit(box):
    sweep = Sweep(Vary(STORE, (0.009,)))
    one, two = swept(box, HERE, sweep), swept(box, HERE, sweep)
    assert isinstance(one, Swept) and write_plain(one) == write_plain(two)
