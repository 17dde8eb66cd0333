"""Operating points, troughs and tanks in words."""

from __future__ import annotations

import re

import pytest

from isotherma.core.findings import Finding, Quantity
from isotherma.core.flows.draining import DrainDown, HeldWater, Why
from isotherma.core.flows.waste import TankEmpties, TankFills
from isotherma.core.quantity import UnitSystem
from isotherma.wording import (
    DOES,
    WHY,
    doing_words,
    drain_sentence,
    empties_sentence,
    fills_sentence,
    flow_warning,
    trapped_sentence,
    waste_words,
)
from isotherma.wording.reader import Reader

LABELS = {"run": "Wide", "pump": "Pump", "other": "Second pump", "mixer": "Mixer", "tank": "Tank"}
READER = Reader(LABELS, UnitSystem.METRIC)


@pytest.mark.parametrize("code", DOES)
def test_what_a_part_does_is_a_clause(code):
    words = doing_words(Finding(code, ("mixer",)))
    assert words and not words.endswith(".")
    assert flow_warning(Finding(code, ("mixer",)), READER) == f"Mixer: {words}."


def test_a_part_that_does_nothing_says_nothing():
    assert doing_words(None) == ""


def test_pressures_that_differ_and_a_leg_that_runs_back_have_their_figures():
    ratio = Finding("unequal_pressures", ("mixer",), {"ratio": Quantity(3.14, "number")})
    assert "differ 3.1 to 1" in doing_words(ratio)
    assert "its cold leg" in doing_words(Finding("runs_back", ("mixer",), {"leg": "cold"}))


def test_a_name_never_decides_whose_warning_it_is():
    """A part called “Wide” is not the run that wants a wider bore: ids say whose it is."""
    fast = Finding("fast_run", ("other",), {"speed_m_per_s": Quantity(4.0, "speed")})
    said = flow_warning(fast, READER)
    assert "wider bore" in said and said.startswith("Second pump") and "run" not in fast.parts


@pytest.mark.parametrize(
    ("finding", "words"),
    [
        (Finding("pump_kept_shut", ("pump", "other")), "Pump is kept shut by Second pump"),
        (Finding("rises_do_not_add_up", (), {"miss_m": Quantity(0.4, "length")}), "0.4"),
    ],
)
def test_what_is_wrong_at_an_operating_point(finding, words):
    assert words in flow_warning(finding, READER)


@pytest.mark.parametrize(
    ("finding", "metric", "us"),
    [
        (Finding("sides_unknown", ("tank",)), "its length, breadth, rim", "rim"),
        (Finding("length_unknown", ("run",)), "the length of Wide", "Wide"),
        (Finding("bore_unknown", ("run",)), "the inside diameter of Wide", "Wide"),
        (Finding("depth_assumed", ("tank",), {"depth_m": Quantity(0.25, "bore")}), "250", "in"),
        (Finding("hose_hung_on", ("tank",), {"length_m": Quantity(1.0, "length"),
                                             "below_m": Quantity(0.2, "bore")}), "1", "ft"),
        (Finding("through_its_lid", ("tank",)), "through its lid", "lid"),
        (Finding("vent_open", ("tank",), {"bore_m": Quantity(0.012, "bore")}), "12", "in"),
        (Finding("no_vent", ("tank",)), "no vent", "vent"),
    ],
)  # fmt: skip
def test_what_is_lacking_or_taken_instead(finding, metric, us):
    assert metric in waste_words(finding, LABELS, UnitSystem.METRIC)
    assert us in waste_words(finding, LABELS, UnitSystem.US)


def kept(why, stays_m3=5e-4, **more):
    values = {"id": "run", "label": "Wide", "is_run": True, "holds_m3": 1e-3,
              "stays_m3": stays_m3, "drain": "", "why": why, "in_the_way": "",
              "height_m": 0.0} | more  # fmt: skip
    return HeldWater(**values)


@pytest.mark.parametrize("why", Why)
def test_why_water_stays(why):
    assert WHY[why] in trapped_sentence(kept(why), LABELS, UnitSystem.METRIC)


def test_what_is_in_the_way_is_named():
    said = trapped_sentence(kept(Why.NO_WAY_OUT, in_the_way="pump"), LABELS, UnitSystem.US)
    assert "Pump is in the way" in said and not re.search(r"\d mL", said)


def down(stays_m3=0.0, holds_m3=2e-3, unknown=()):
    return DrainDown((), (), (), holds_m3, stays_m3, True, unknown)


def test_what_nobody_knows_is_said_beside_the_sum():
    assert "nothing stays" in drain_sentence(down(), LABELS, UnitSystem.METRIC)
    said = drain_sentence(down(unknown=("run",)), LABELS, UnitSystem.METRIC)
    assert "What Wide holds is not known" in said
    assert "Nothing holds water" in drain_sentence(down(holds_m3=0.0), LABELS, UnitSystem.METRIC)
    assert "stay behind" in drain_sentence(down(stays_m3=1e-3), LABELS, UnitSystem.US)


def test_tanks_that_cannot_be_computed_say_what_is_wanted():
    grey = TankEmpties("tank", "Grey", 0.05, "", None, "", (), "Waste pipe")
    assert "without the length and bore of Waste pipe" in empties_sentence(
        grey, LABELS, UnitSystem.METRIC
    )
    fresh = TankFills("tank", "Fresh", 0.05, None, 2e-4, None, False, (), "Filler")
    assert "without the length and bore of Filler" in fills_sentence(
        fresh, LABELS, UnitSystem.METRIC
    )
    assert "litres" in fills_sentence(
        TankFills("tank", "Fresh", None, None, 2e-4, None, False, ()), LABELS, UnitSystem.METRIC
    )
