"""Thermal cut-outs: by themselves they come back, by hand they wait."""

from __future__ import annotations

from typing import Any

import pytest

from isotherma.core.engine import columns
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.draws import WhyNot
from isotherma.core.system import System
from isotherma.wording import cautions
from tests.support import MILD, again, brief, changed, days_of, run, shower, system

UNITS = UnitSystem.METRIC


def guarded(resets: str, opens_c: float = 55.0, **values: Any) -> System:
    """The usual route with its thermostat set beyond what its cut-out bears."""
    base = changed(system(**values), "element", set_c=70.0)
    return changed(base, "element-cut-out", opens_c=opens_c, resets=resets)


@pytest.mark.parametrize("resets", ["by hand", "once only"])
def test_a_cut_out_reset_by_hand_stays_open(resets):
    """It heats once, up to the limit, and never again: the second shower is cold."""
    asked = brief(shower(), shower(2, start_s=64800.0), day_start="cold")
    outcome = run(asked, guarded(resets))
    first, second = outcome.draws
    assert outcome.timeline.tripped == ("element",)
    # 10 L warmed from 10 to 55 °C once, with what was lost on the way: nothing for a second time
    given = outcome.timeline.balance.sources_j["element"]
    assert given == pytest.approx(9.97 * 4180.0 * 45.0, rel=0.15)
    assert first.comfort_s > 60.0
    assert second.why_not is WhyNot.NEVER_WARM
    assert outcome.timeline.log[:, columns.LOG_COLUMNS :].max() < 55.5
    assert outcome.timeline.balance.energy_error_share < 1e-9
    words = " ".join(cautions(outcome, UNITS))
    assert "opens at 55\u00a0°C and waits for a hand: Element gives nothing after that" in words


def test_one_that_resets_by_itself_comes_back_five_kelvin_below():
    asked = brief(shower(), shower(2, start_s=64800.0), day_start="cold")
    outcome = run(asked, guarded("by itself"))
    assert outcome.timeline.tripped == ()
    assert outcome.draws[1].comfort_s > 60.0
    top = outcome.timeline.log[:, columns.LOG_COLUMNS :]
    assert 54.0 < top.max() < 55.5
    assert "waits for a hand" not in " ".join(cautions(outcome, UNITS))


def test_one_that_never_opens_changes_nothing():
    asked = brief(shower(), shower(2, start_s=64800.0))
    by_hand = run(asked, changed(system(), "element-cut-out", resets="by hand"))
    by_itself = run(asked, changed(system(), "element-cut-out", resets="by itself"))
    assert (by_hand.timeline.log == by_itself.timeline.log).all()
    assert by_hand.timeline.tripped == ()


def test_it_opens_on_heat_from_elsewhere_too():
    """A cut-out feels the water, whoever warmed it: an element that rests trips as well."""
    built = guarded("by hand", opens_c=60.0)
    days = days_of(brief(day_start="cold"), changed(built, "element", set_c=40.0), None, MILD)
    days.usual.state.layers[:] = 62.0
    days.usual.state.sensors[:] = 62.0
    days.day(())
    assert days.usual.tripped == ("element",)
    assert days.usual.state.given.sum() == 0.0


def test_it_stays_open_on_the_next_day_and_in_another_run_of_the_day():
    asked = brief(shower(), day_start="cold")
    outcome = run(asked, guarded("by hand"))
    after = again(outcome, next_day=True)
    assert after.balance.sources_j["element"] == 0.0
    same = again(outcome, next_day=False)
    assert same.balance.sources_j == outcome.timeline.balance.sources_j


def test_a_source_that_tripped_is_not_looked_at_again_and_again():
    """Nothing chatters: the log of a day with it is no longer than one without."""
    asked = brief(day_start="cold")
    tripped = run(asked, guarded("by hand"))
    off = run(asked, changed(system(), "element", power_w=0.001))
    assert len(tripped.timeline.log) < len(off.timeline.log) + 60
