"""Held hot, switched on in time, held low with a boost: run, not estimated."""

from __future__ import annotations

import pytest

from isotherma.core.results.holding import LEADS_H, holding
from isotherma.core.simulate import simulate
from isotherma.core.system.nominal import computed
from tests.support import MILD, brief, changed, shower, system


def compared(asked, built):
    found = holding(asked, built, computed(built), lambda b, s: simulate(b, s, MILD))
    return {one.id: one for one in found}


def test_in_time_takes_less_than_held_and_gives_as_much():
    asked = brief(shower(duration_s=180.0, flow_m3_per_s=3.5 / 6e4))
    found = compared(asked, system(store_l=12.0, power_w=1500.0))
    held, late = found["held"], found["in-time"]
    assert late.met == held.met == 1
    assert late.electric_j < held.electric_j
    assert late.warm_m3 == pytest.approx(held.warm_m3, rel=0.1)
    assert late.lead_s is not None and late.lead_s / 3600.0 in LEADS_H
    assert held.lead_s is None


def test_the_lead_is_the_shortest_that_does():
    asked = brief(shower(duration_s=180.0, flow_m3_per_s=3.5 / 6e4))
    quick = compared(asked, system(store_l=6.0, power_w=2000.0))["in-time"]
    slow = compared(asked, system(store_l=20.0, power_w=500.0))["in-time"]
    assert quick.lead_s is not None and slow.lead_s is not None
    assert quick.lead_s < slow.lead_s


def test_half_the_watts_and_a_boost_are_tried_for_elements_that_have_them():
    asked = brief(shower(duration_s=180.0, flow_m3_per_s=3.5 / 6e4))
    assert "stepped" in compared(asked, system(power_w=1200.0))
    assert "stepped" not in compared(asked, system(power_w=200.0))


def test_nothing_is_compared_where_no_hand_switches():
    assert compared(brief(), system()) == {}
    assert compared(brief(shower()), changed(system(), "element", rule="surplus sun")) == {}
