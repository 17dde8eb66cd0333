"""Tables of loggers: found below whatever stands over them, read as somebody says they mean."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.core.learning.rows import Row
from isotherma.files.logger_csv import (
    ColumnMeaning,
    TableMeaning,
    guessed,
    logger_rows,
    read_logger,
)
from isotherma.files.readings_csv import BadRow, ReadingsUnreadable

POINTS = "Box 7\nserial;1234\n\nDatum;Temp 1 (°C);Flow\n28.03.2027 01:30;21,5;4,25\n" \
    "28.03.2027 03:30;22,0;\n"  # fmt: skip
PARTS = {"store", "head", "tank"}


def read(text, columns, **more):
    table = read_logger(text)
    meaning = guessed(table).model_copy(update={
        "columns": {at: ColumnMeaning(**one) for at, one in columns.items()}, **more,
    })  # fmt: skip
    found = list(logger_rows(table, meaning, session="s", kind="draw", parts=PARTS))
    return ([one for one in found if isinstance(one, Row)],
            [one for one in found if isinstance(one, BadRow)])  # fmt: skip


def test_heading_separator_decimals_and_dates_are_found():
    table = read_logger(POINTS)
    assert table.heading == ("Datum", "Temp 1 (°C)", "Flow") and len(table.rows) == 2
    assert table.separator == ";" and table.first == 5
    meaning = guessed(table)
    assert (meaning.time, meaning.time_form, meaning.decimal) == (0, "day first", ",")


def test_an_hour_that_is_skipped_counts_by_its_zone():
    """On that night clocks go from 1 to 3: two hours by the clock are one."""
    columns = {1: {"quantity": "temp.store"}, 2: {"quantity": "flow.head"}}
    rows, bad = read(POINTS, columns, zone="Europe/Berlin")
    assert bad == []
    assert [(one.quantity, one.time_s, one.value) for one in rows] == [
        ("temp.store", 0.0, 21.5), ("flow.head", 0.0, 4.25), ("temp.store", 3600.0, 22.0),
    ]  # fmt: skip
    rows, _ = read(POINTS, columns, zone="UTC")
    assert rows[-1].time_s == 7200.0


@pytest.mark.parametrize(
    ("cells", "form", "seconds"),
    [
        (("0", "90"), "seconds", 90.0),
        (("0", "1.5"), "minutes", 90.0),
        (("0", "0.5"), "hours", 1800.0),
        (("10:00:00", "10:01:30"), "clock", 90.0),
        (("9:59", "10:00"), "clock", 60.0),
        (("2027-03-28T10:00:00", "2027-03-28T10:01:30"), "iso", 90.0),
        (("2027-03-28 10:00:00+00:00", "2027-03-28 13:00:00+02:00"), "iso", 3600.0),
        (("03/28/2027 11:59 PM", "03/29/2027 12:00 AM"), "month first", 60.0),
    ],
)
def test_times_are_read_however_they_are_written(cells, form, seconds):
    table = "time\tA\n" + "".join(f"{cell}\t1\n" for cell in cells)
    if form not in ("seconds", "minutes", "hours"):
        assert guessed(read_logger(table)).time_form == form
    rows, bad = read(table, {1: {"quantity": "temp.store"}}, time_form=form, zone="UTC")
    assert bad == [] and rows[-1].time_s == pytest.approx(seconds)


def test_figures_are_scaled_before_their_unit_is_read():
    """An element of 10 mV a degree Fahrenheit: 0.7 V times 100 is 70 °F, 21.1 °C."""
    table = "t,volts\n0,0.7\n1,0.75\n"
    rows, _ = read(table, {1: {"quantity": "temp.store", "unit": "°F", "factor": 100.0}})
    assert rows[0].value == pytest.approx((70.0 - 32.0) / 1.8)
    rows, _ = read(table, {1: {"quantity": "temp.store", "unit": "°F", "factor": 100.0,
                               "offset": -2.0}})  # fmt: skip
    assert rows[1].value == pytest.approx((73.0 - 32.0) / 1.8)


def test_every_bad_cell_is_named_by_its_line():
    table = "t;A;B\n0;1,5;2\n60;much;2\nlater;1;2\n180;1.234,5;1.5\n"
    rows, bad = read(table, {1: {"quantity": "temp.store"}, 2: {"quantity": "temp.tank"}},
                     decimal=",")  # fmt: skip
    assert [one.number for one in bad] == [3, 4, 5]
    assert "A: “much” is no number" in bad[0].why
    assert "later" in bad[1].why
    assert "B: “1.5” is no number" in bad[2].why  # a point is no decimal here
    assert rows[-1].value == 1234.5


@pytest.mark.parametrize(
    ("columns", "words"),
    [
        ({}, "one column at least"),
        ({1: {"quantity": "temp.gone"}}, "no part “gone”"),
        ({1: {"quantity": "speed.head"}}, "no quantity “speed”"),
        ({1: {"quantity": "heat_up.store"}}, "no quantity “heat_up”"),
        ({1: {"quantity": "temp.store", "unit": "stone"}}, "no unit"),
    ],
)
def test_what_columns_cannot_mean_is_refused(columns, words):
    with pytest.raises(ReadingsUnreadable) as caught:
        read("t,A\n0,1\n", columns)
    assert words in caught.value.why


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no table"), ("one two three", "no table"), ("1,2\n3,4\n", "no table"),
        ("t,A\n", "no table"), (",".join("abcdefgh" * 9) + "\n" + ",".join("1" * 72), "columns"),
    ],
)  # fmt: skip
def test_what_is_no_table_is_refused(text, words):
    with pytest.raises(ReadingsUnreadable) as caught:
        read_logger(text)
    assert words in caught.value.why


@given(st.text(alphabet='ab1 2.,;\t\n":-', max_size=200))
def test_no_text_breaks_it(text):
    try:
        table = read_logger(text)
    except ReadingsUnreadable:
        return
    meaning = TableMeaning(columns={1: ColumnMeaning(quantity="air")}, time=0)
    assert len(table.heading) >= 2
    list(logger_rows(table, meaning, session="s", kind="draw", parts=()))
