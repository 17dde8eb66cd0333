"""What panels, alternators and chargers send to the battery, by hand."""

from __future__ import annotations

import pytest

from isotherma.core.setup.charging import charges_of
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.nominal import computed
from tests.core.checks.designs import cable, doc, part

RHO = 1.78e-8  # of copper as cables are computed


def charges(*pieces, **more):
    system = System.model_validate(doc(*pieces, **more))
    return charges_of(computed(system), positions(system, None))


BATTERY = part("battery", "battery", charge_as=3.6e5, volts_v=12.8)


def test_panels_lose_in_both_their_cables_and_gain_amps_at_the_controller():
    [one] = charges(
        BATTERY, part("panel", "panel", count=2, best_a=10.0, best_v=20.0),
        part("box", "panel_controller", efficiency=0.95, tracks=True),
        cable("panel.load", "box.feed", length_m=4.0, area_m2=6e-6),
        cable("box.load", "battery.power", length_m=1.0, area_m2=10e-6),
    )  # fmt: skip
    first, second = 2 * 4.0 * RHO / 6e-6, 2 * 1.0 * RHO / 10e-6
    at_box = 20.0 - 20.0 * first
    into = 20.0 * at_box * 0.95 / 12.8
    assert (one.amps, one.volts) == (20.0, 20.0)
    assert one.into_a == pytest.approx(into, rel=0.02)
    assert one.lost_w == pytest.approx(400.0 * first + into**2 * second, rel=0.03)
    assert dict(one.cables)["panel-box"] == 20.0


def test_a_controller_that_does_not_track_passes_amps_and_none_gives_more_than_its_label():
    pieces = (
        BATTERY, part("panel", "panel", best_a=10.0, best_v=30.0),
        cable("panel.load", "box.feed"), cable("box.load", "battery.power"),
    )  # fmt: skip
    [plain] = charges(*pieces, part("box", "panel_controller", tracks=False))
    assert plain.into_a == 10.0
    [small] = charges(*pieces, part("box", "panel_controller", amps_a=15.0))
    assert small.into_a == 15.0


def test_an_alternator_sends_what_it_spares_and_a_charger_what_is_on_it():
    found = charges(
        BATTERY, part("engine", "alternator", spare_a=40.0),
        part("charger", "charger", amps_a=20.0, source="mains"),
        cable("engine.load", "battery.power", area_m2=16e-6, length_m=5.0),
        cable("charger.load", "battery.power"),
    )  # fmt: skip
    engine, charger = found
    assert engine.into_a == 40.0 and engine.volts == pytest.approx(14.2)
    assert charger.into_a == 20.0
    assert engine.lost_w == pytest.approx(1600.0 * 10.0 * RHO / 16e-6, rel=0.03)


def test_what_no_wire_joins_sends_nothing_and_an_unmeasured_cable_is_not_known():
    [alone] = charges(BATTERY, part("panel", "panel", best_a=10.0, best_v=20.0))
    assert alone.into_a is None and alone.cables == ()
    [vague] = charges(
        BATTERY, part("engine", "alternator", spare_a=40.0),
        cable("engine.load", "battery.power", area_m2=None),
    )  # fmt: skip
    assert vague.lost_w is None and vague.into_a == 40.0
