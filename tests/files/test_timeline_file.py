"""A timeline as bytes: the same to the bit after, and nothing else is taken for one."""

from __future__ import annotations

import io
import json
import pickle

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.layouts import layouts
from isotherma.core.results.outcome import Outcome
from isotherma.files.timeline_file import TimelineRefused, read_timeline, write_timeline
from isotherma.services.runs import compute


def days_of(name):
    project = layouts()[name].project()
    found = compute(project, project.variants[0])
    assert isinstance(found, Outcome)
    return found.days_run


def packed(rest, **arrays):
    out = io.BytesIO()
    np.savez(out, rest=np.frombuffer(json.dumps(rest).encode(), np.uint8), **arrays)
    return out.getvalue()


@pytest.mark.parametrize("name", layouts())
def test_it_comes_back_to_the_bit(name):
    days = days_of(name)
    read = read_timeline(write_timeline(days))
    assert [(row.kind, row.first, row.last) for row in read] == [
        (row.kind, row.first, row.last) for row in days
    ]
    day, again = days[0].day, read[0].day
    assert again.log.dtype == day.log.dtype and np.array_equal(again.log, day.log, equal_nan=True)
    for field in ("drawn", "balance", "stretches", "ended", "vessels", "pipes", "sources",
                  "heaters", "blown", "tripped", "swaps", "washed_kg", "fired_s"):  # fmt: skip
        assert getattr(again, field) == getattr(day, field), field
    for one, other in ((day.morning, again.morning), (day.evening, again.evening)):
        assert one is not None and other is not None
        assert list(one.states) == list(other.states)
        for state, (arrays, bears) in one.states.items():
            assert np.array_equal(bears, other.states[state][1], equal_nan=True)
            for left, right in zip(arrays, other.states[state][0], strict=True):
                assert left.dtype == right.dtype
                assert np.array_equal(left, right, equal_nan=True)
    assert write_timeline(read) == write_timeline(days)


@given(st.binary(max_size=300))
def test_anything_else_is_refused(data):
    with pytest.raises(TimelineRefused):
        read_timeline(data)


@pytest.mark.parametrize(
    "rest",
    [
        {},
        [],
        "x",
        {"class": "Popen", "values": {"args": ["true"]}},
        {"class": "Day", "values": {}},
        {"tuple": []},
        {"tuple": [1]},
        {
            "tuple": [
                {"class": "AlikeDays", "values": {"kind": "", "first": 1, "last": 1, "day": 1}}
            ]
        },
        {"class": "Day", "values": {"log": {"array": "gone"}}},
        {"class": "Ended", "values": {"carried": "gas", "clock_s": 1.0, "how": "empty"}},
        {"draw": {"id": "x", "nonsense": 1}},
        {"strange": 1},
    ],
)
def test_what_names_no_class_of_ours_is_refused(rest):
    with pytest.raises(TimelineRefused):
        read_timeline(packed(rest))


def test_nothing_that_could_be_executed_is_read():
    out = io.BytesIO()
    np.savez(out, rest=np.array([print], dtype=object), allow_pickle=True)
    with pytest.raises(TimelineRefused):
        read_timeline(out.getvalue())
    with pytest.raises(TimelineRefused):
        read_timeline(pickle.dumps(days_of("tap-canister")))


def test_a_cut_file_is_refused():
    whole = write_timeline(days_of("tap-canister"))
    for length in (0, 10, len(whole) // 2, len(whole) - 1):
        with pytest.raises(TimelineRefused):
            read_timeline(whole[:length])
