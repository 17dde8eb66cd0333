"""What a person types, read as SI and shown again."""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from isotherma.core.errors import QuantityError
from isotherma.core.quantity import (
    DIMENSIONS,
    STYLES,
    UnitSystem,
    duration_words,
    parse,
    shown,
    with_unit,
)
from isotherma.wording import error_words

# every expected value: exact definitions of the inch, pound, gallon and BTU
TYPED = [
    ("7,5", "volume", "metric", 0.0075),
    ("7.5", "volume", "metric", 0.0075),
    ("1 1/2 gal", "volume", "metric", 1.5 * 0.003785411784),
    ("1½ gal", "volume", "metric", 1.5 * 0.003785411784),
    ("1-1/2 gal", "volume", "metric", 1.5 * 0.003785411784),
    ("2", "volume", "us", 2 * 0.003785411784),
    ("60F", "temperature", "metric", (60 - 32) * 5 / 9),
    ("60 °F", "temperature", "metric", (60 - 32) * 5 / 9),
    ("104", "temperature", "us", 40.0),
    ("-5", "temperature", "metric", -5.0),
    ("−5 °C", "temperature", "us", -5.0),
    ("300 K", "temperature", "metric", 26.85),
    ("12 ft", "length", "metric", 3.6576),
    ("5 ft 6 in", "length", "us", 1.6764),
    ("5' 6\"", "length", "us", 1.6764),
    ("3/4 in", "bore", "metric", 0.01905),
    ('½"', "bore", "metric", 0.0127),
    ("12", "bore", "metric", 0.012),
    ("2 bar", "pressure", "us", 2e5),
    ("30 psi", "pressure", "metric", 206842.71879504),
    ("9000 BTU/h", "power", "metric", 2637.639631),
    ("1.5 kW", "power", "us", 1500.0),
    ("18 F", "difference", "metric", 10.0),
    ("7 min 30 s", "minutes", "metric", 450.0),
    ("1 h 20 min", "minutes", "metric", 4800.0),
    ("7min30s", "minutes", "metric", 450.0),
    ("90", "seconds", "metric", 90.0),
    ("7:30", "clock", "metric", 27000.0),
    ("7.30 pm", "clock", "us", 70200.0),
    ("12 am", "clock", "us", 0.0),
    ("1.6 gpm", "flow", "metric", 1.6 * 0.003785411784 / 60),
    ("5,2 L/min/√bar", "flow_factor", "us", 5.2e-3 / 60 / math.sqrt(1e5)),
    ("10 %", "share", "metric", 0.1),
    ("13 lb", "mass", "metric", 13 * 0.45359237),
    ("1 m3", "volume", "metric", 1.0),
    ("8 W/m2K", "film", "metric", 8.0),
    ("1,234.5", "power", "metric", 1234.5),
    ("1.234,5", "power", "metric", 1234.5),
    ("1,234,567 J", "energy", "metric", 1234567.0),
    ("1e3", "power", "metric", 1000.0),
    (".5", "volume", "metric", 0.0005),
]


@pytest.mark.parametrize(("text", "style", "units", "expected"), TYPED)
def test_what_people_type(text, style, units, expected):
    assert parse(text, style, UnitSystem(units)) == pytest.approx(expected, rel=1e-9, abs=1e-12)


@pytest.mark.parametrize(
    ("text", "style", "reason"),
    [
        ("", "volume", "nothing was typed"),
        ("   ", "volume", "nothing was typed"),
        ("abc", "volume", "not a number"),
        ("nan", "power", "not a number"),
        ("inf", "power", "not a number"),
        ("5 bar", "volume", "no unit of volume"),
        ("5 L 3", "volume", "two numbers"),
        ("5 6", "volume", "two numbers"),
        ("1/0", "volume", "divided by zero"),
        ("1,000", "volume", "thousands or a decimal"),
        ("1.2.3", "volume", "do not make one number"),
        ("1e999", "power", "too large"),
        ("25:00", "clock", "hours run from"),
        ("7:75", "clock", "hours run from"),
        ("13 pm", "clock", "from 1 to 12"),
        ("noon", "clock", "time of day"),
        ("9" * 61, "power", "longer than"),
        ("10 L; drop", "volume", "not a number"),
        ("--5", "power", "not a number"),
    ],
)
def test_what_cannot_be_read(text, style, reason):
    with pytest.raises(QuantityError) as caught:
        parse(text, style)
    assert reason in error_words(caught.value, UnitSystem.METRIC)
    assert caught.value.dimension == STYLES[style].dimension.name
    assert caught.value.example


def test_every_dimension_reads_its_own_example():
    for style, shape in STYLES.items():
        for piece in shape.dimension.example.split(" or ")[0].split(","):
            assert math.isfinite(parse(piece, style))


def test_no_word_names_two_units():
    for dimension in DIMENSIONS.values():
        for unit in dimension.units:
            for word in (unit.symbol, *unit.names):
                assert dimension.unit(word) is unit, f"{dimension.name}: {word}"


quantities = st.sampled_from([name for name in STYLES if name != "clock"])
unit_systems = st.sampled_from(list(UnitSystem))


@given(style=quantities, units=unit_systems, value=st.floats(1e-6, 1e6))
def test_showing_and_reading_loses_only_what_is_not_shown(style, units, value):
    text = shown(value, style, units, digits=12)
    assert parse(text, style, units) == pytest.approx(value, rel=1e-10, abs=1e-9)


@given(style=quantities, units=unit_systems, value=st.floats(1e-6, 1e6))
def test_what_is_shown_reads_as_itself(style, units, value):
    once = shown(value, style, units)
    assert shown(parse(once, style, units), style, units) == once


@given(style=quantities, units=unit_systems, value=st.floats(1e-3, 1e5))
def test_text_with_its_unit_reads_in_either_system_of_units(style, units, value):
    text = with_unit(value, style, units, digits=12)
    assume(not text.startswith("under"))
    for reading in UnitSystem:
        assert parse(text, style, reading) == pytest.approx(value, rel=1e-9, abs=1e-9)


@pytest.mark.parametrize(
    ("value", "style", "units", "expected"),
    [
        (3.23e-7, "mass", UnitSystem.METRIC, "under 0.001"),
        (4.9e-7, "volume", UnitSystem.METRIC, "under 0.001"),  # half a millilitre
        (6e-7, "volume", UnitSystem.METRIC, "0.0006"),
        (0.0, "mass", UnitSystem.METRIC, "0"),
        (3.23e-7, "mass", UnitSystem.US, "under 0.001"),
        (1e-6, "fine", UnitSystem.METRIC, "1"),  # a pore is meant to be small
    ],
)
def test_figures_are_written_for_people(value, style, units, expected):
    """Nobody weighs a thousandth of a gram: less than half of a thousandth of a unit is said so."""
    assert with_unit(value, style, units).split("\u00a0")[0] == expected


@given(st.integers(0, 1439))
def test_clock_round_trips(minutes):
    assert parse(shown(minutes * 60.0, "clock"), "clock") == minutes * 60.0


@given(st.text(max_size=70), st.sampled_from(list(STYLES)), unit_systems)
def test_any_text_is_read_or_refused(text, style, units):
    try:
        value = parse(text, style, units)
    except QuantityError:
        return
    assert math.isfinite(value)


@pytest.mark.parametrize(
    ("seconds", "words"),
    [(0, "0 s"), (59.4, "59 s"), (60, "1 min"), (200, "3 min 20 s"), (599.6, "10 min"),
     (1140, "19 min"), (3600, "1 h"), (7500, "2 h 5 min")],
)  # fmt: skip
def test_durations_in_words(seconds, words):
    assert duration_words(seconds) == words
