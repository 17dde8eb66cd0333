"""Water that burns: by temperature and seconds, by the outlet and who stands there."""

from __future__ import annotations

from math import inf

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.layouts import layouts
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.scald import (
    CHILD_SHARE,
    FIX_DOSE,
    Severity,
    burns_after_s,
    limit_of,
    scald_of,
)
from isotherma.core.simulate import simulate
from isotherma.core.system.kinds.use import BottleFill, ShowerHead, Tap
from isotherma.wording import cautions, verdict
from tests.support import MILD, brief, changed, run, shower, system

HEAD = ShowerHead(id="head")
KITCHEN = Tap(id="kitchen", room="kitchen")
BASIN = Tap(id="basin", room="basin")


def held(celsius, seconds, outlet=HEAD, *, child=False):
    """A stream of one temperature for so long, in steps of a quarter second."""
    count = round(seconds * 4)
    steps = np.full(count, 0.25)
    return scald_of(outlet, np.full(count, celsius), steps, np.cumsum(steps), child=child)


# --- seconds to a burn ---


def test_burns_are_those_of_the_tables():
    """1 s at 70 °C is past it, 3 s at 60, half a minute at 55; below 43 never."""
    for celsius, seconds in ((60.0, 3.0), (55.0, 17.0), (51.1, 120.0), (48.9, 480.0)):
        assert burns_after_s(celsius) == pytest.approx(seconds, rel=1e-6)
    assert burns_after_s(43.0) == inf and burns_after_s(20.0) == inf
    assert burns_after_s(95.0) == pytest.approx(0.7)


@given(st.floats(43.1, 90.0), st.floats(0.01, 5.0))
def test_hotter_burns_sooner_and_children_sooner_still(celsius, more):
    assert burns_after_s(celsius + more) <= burns_after_s(celsius)
    assert burns_after_s(celsius, child=True) == pytest.approx(CHILD_SHARE * burns_after_s(celsius))


# --- by outlet and who ---


@pytest.mark.parametrize(
    ("outlet", "child", "limit"),
    [(HEAD, False, 43.0), (HEAD, True, 41.0), (BASIN, False, 48.0), (BASIN, True, 41.0),
     (KITCHEN, False, 60.0), (KITCHEN, True, 60.0), (BottleFill(id="b"), False, 60.0),
     (None, False, 43.0)],
)  # fmt: skip
def test_limits_stand_by_the_outlet(outlet, child, limit):
    assert limit_of(outlet, child=child) == limit


def test_no_water_burns_nobody():
    empty = np.zeros(0)
    found = scald_of(HEAD, empty, empty, empty, child=True)
    assert found.severity is Severity.NONE and found.over_s == 0.0 and found.burns_s == inf


@pytest.mark.parametrize(
    ("celsius", "seconds", "severity"),
    [
        (42.0, 300.0, Severity.NONE),
        (44.0, 0.5, Severity.NONE),
        (44.0, 30.0, Severity.WATCH),
        (46.5, 60.0, Severity.FIX),
        (47.0, 60.0, Severity.FIX),
        (57.0, 30.0, Severity.STOP),
        (65.0, 5.0, Severity.STOP),
    ],
)
def test_how_serious_a_shower_is(celsius, seconds, severity):
    assert held(celsius, seconds).severity is severity


def test_a_child_is_hurt_by_what_an_adult_bears():
    for celsius, seconds in ((42.0, 60.0), (45.0, 60.0), (52.0, 20.0)):
        adult, child = held(celsius, seconds), held(celsius, seconds, child=True)
        assert child.severity >= adult.severity
        assert child.dose >= adult.dose
    assert held(42.0, 60.0, child=True).severity is Severity.WATCH
    assert held(52.0, 60.0).severity is Severity.FIX
    assert held(52.0, 60.0, child=True).severity is Severity.STOP


def test_a_kitchen_tap_may_be_hot_but_not_boiling():
    assert held(58.0, 60.0, KITCHEN).severity is Severity.NONE
    assert held(61.0, 60.0, KITCHEN).severity is Severity.WATCH
    assert held(64.0, 60.0, KITCHEN).severity is Severity.FIX
    assert held(68.0, 60.0, KITCHEN).severity is Severity.STOP


@given(st.floats(43.5, 70.0), st.floats(0.25, 40.0), st.booleans())
def test_the_dose_is_time_over_time_to_burn(celsius, seconds, child):
    found = held(celsius, seconds, child=child)
    bears = 30.0 if child else 10.0
    expected = min(seconds, bears) / burns_after_s(celsius, child=child)
    assert found.dose == pytest.approx(expected, rel=0.05, abs=0.3 / burns_after_s(
        celsius, child=child
    ))  # fmt: skip
    if found.dose >= 1.0:
        assert found.severity is Severity.STOP
    elif found.dose >= FIX_DOSE:
        assert found.severity is Severity.FIX


def test_a_stop_for_soaping_is_no_exposure():
    """Two bursts of six seconds with a minute between are not twelve seconds."""
    steps = np.full(48, 0.25)
    ends = np.cumsum(steps)
    whole = scald_of(HEAD, np.full(48, 55.0), steps, ends, child=False)
    ends[24:] += 60.0
    parted = scald_of(HEAD, np.full(48, 55.0), steps, ends, child=False)
    assert parted.dose == pytest.approx(6.0 / 17.0, rel=0.05)
    assert whole.dose == pytest.approx(10.0 / 17.0, rel=0.05)
    assert parted.over_s == whole.over_s


@given(st.lists(st.floats(10.0, 80.0), min_size=1, max_size=60), st.booleans())
def test_a_scald_is_of_its_stream(temperatures, child):
    steps = np.full(len(temperatures), 0.5)
    stream = np.array(temperatures)
    found = scald_of(HEAD, stream, steps, np.cumsum(steps), child=child)
    assert found.peak_c == stream.max()
    assert 0.0 <= found.over_s <= steps.sum() + 1e-9
    assert found.dose >= 0.0
    if stream.max() <= found.limit_c:
        assert found.severity is Severity.NONE and found.over_s == 0.0


# --- in a day ---


def test_too_hot_is_not_called_cold():
    """A gas heater throttled to little flow runs hot: it is not said that it never gets warm."""
    layout = layouts()["two-knob-selector"]
    draws = tuple(
        draw.model_copy(update={"flow_m3_per_s": 2.6e-3 / 60}) for draw in layout.brief.draws
    )
    full = changed(layout.system, "heater", gas_share=1.0)
    outcome = simulate(layout.brief.model_copy(update={"draws": draws}), full, MILD)
    hot = [draw for draw in outcome.draws if (draw.peak_c or 0.0) > 50.0]
    assert hot
    for draw in hot:
        assert draw.why_not is not WhyNot.NEVER_WARM
        assert draw.over_m3 > 0.0
    words = verdict(outcome, UnitSystem.METRIC)
    assert "never gets warm" not in words


def test_a_manual_mixer_at_seventy_is_a_caution_at_its_outlet():
    built = changed(system(power_w=1200.0), "element", set_c=70.0)
    mixer = next(part for part in built.parts if "mixer" in part.kind)
    hotter = changed(built, mixer.id, set_c=60.0)
    outcome = run(brief(shower(high_c=70.0, low_c=35.0)), hotter)
    worst = max(outcome.draws, key=lambda draw: draw.scald.severity)
    assert worst.scald.severity >= Severity.FIX
    words = " ".join(cautions(outcome, UnitSystem.METRIC))
    assert "at Shower head with someone under it" in words and "over the limit of 43" in words
    assert "Mend this" in words or "Do not use it" in words


def test_a_cool_shower_has_no_scald_words():
    outcome = run(brief(shower()), changed(system(), "element", set_c=42.0))
    assert all(draw.scald.severity is Severity.NONE for draw in outcome.draws)
    assert "over the limit" not in " ".join(cautions(outcome, UnitSystem.METRIC))
