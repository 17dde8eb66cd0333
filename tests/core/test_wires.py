"""Wires: what reaches a load, what it loses for others, and what the figures on pages say."""

from __future__ import annotations

from math import inf

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.demo import curlew, folio
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.core.supply.ohms import F_AMPS, F_LOST, F_OHM, F_VOLTS, settle_amps
from isotherma.core.supply.wires import element_ohm, source_volts, way_ohm, wires_of
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds.heat import Element
from isotherma.core.system.nominal import computed
from isotherma.services.runs import compute
from isotherma.wording import verdict
from tests.support import piece, run
from tests.wiring import cable, tree, wired

MM2 = 1e-6
RHO = 0.0175e-6  # copper [Ω m], as the handbook has it


def battery(**values):
    return {"kind": "battery", "id": "battery", "volts_v": 12.0, "usable_j": 1e8, **values}


def element(key, watts, volts=12.0, **values):
    return {"kind": "element", "id": key, "rated_w": watts, "rated_v": volts, **values}


def test_an_element_on_a_thin_cable_gets_less():
    """30 m of 1 mm² there and back under 200 W at 12 V leaves it a third of an ohm more."""
    fed = wired(200.0, 12.0, 30.0, MM2, 0.0, 12.0)
    own = 144.0 / 200.0
    assert fed.volts * fed.amps == pytest.approx(fed.amps**2 * own)
    assert 5.0 < fed.volts * fed.amps < 80.0  # not 200: most of it never arrives
    assert fed.lost_w + fed.volts * fed.amps == pytest.approx(12.0 * fed.amps)


@given(
    st.floats(5.0, 2000.0), st.floats(0.5, 30.0), st.floats(0.5, 50.0), st.floats(0.0, 0.05),
    st.floats(10.0, 48.0),
)  # fmt: skip
def test_watts_are_those_of_one_circuit(watts, length, area, contacts, source):
    fed = wired(watts, 12.0, length, area * MM2, contacts, source)
    own = 144.0 / watts
    around = source / fed.amps - own
    assert around >= contacts - 1e-9
    assert fed.amps * (own + around) == pytest.approx(source)
    assert 0.0 <= fed.volts <= source


def test_no_cable_no_loss():
    known, wires = tree([battery(), element("one", 100.0)], [])
    assert wires.ids == () and wires.settled({"one": 1.0}) == {}
    assert wires.row("one") is None and wires.lost_v("one", {"one": 5.0}) == 0.0
    assert way_ohm(known, positions(known, None), "one", "battery") == 0.0


def test_two_on_one_cable_pull_each_other_down():
    """Behind one shared lead each loses what both draw; alone, only its own."""
    known, wires = tree(
        [battery(), {"kind": "circuit", "id": "c", "fuse_a": 40.0}, element("one", 60.0),
         element("two", 60.0)],
        [cable("lead", "battery.power", "c.feed", length_m=5.0, area_m2=1.5 * MM2),
         cable("a", "c.load", "one.power", length_m=1.0, area_m2=1.5 * MM2),
         cable("b", "c.load", "two.power", length_m=1.0, area_m2=1.5 * MM2)],
    )  # fmt: skip
    ohms = {}
    for key in ("one", "two"):
        part = known.part(key)
        assert isinstance(part, Element)
        ohms[key] = element_ohm(part, 12.0)
    both = wires.settled(ohms)
    alone = wires.settled({"one": ohms["one"]})
    assert both["one"].volts < alone["one"].volts < 12.0
    assert both["one"].volts == pytest.approx(both["two"].volts)
    lead = wires.ohm[0, 1]
    assert lead > 0.0
    lost = wires.ohm @ np.array([both["one"].amps, both["two"].amps])
    assert both["one"].volts == pytest.approx(12.0 - lost[0], abs=1e-5)


def test_an_open_switch_leaves_a_load_dead():
    parts = [battery(), {"kind": "switch", "id": "s"}, element("one", 60.0)]
    runs = [cable("a", "battery.power", "s.feed", length_m=1.0, area_m2=MM2),
            cable("b", "s.load", "one.power", length_m=1.0, area_m2=MM2)]  # fmt: skip
    known, wires = tree(parts, runs)
    assert wires.dead == frozenset() and wires.ids == ("one",)
    off = wires_of(known, {"s": "off"})
    assert off.dead == {"one"} and off.ids == ()


def test_a_cable_nobody_measured_is_told():
    _, wires = tree(
        [battery(), element("one", 60.0)], [cable("mystery", "battery.power", "one.power")]
    )
    assert wires.unmeasured == ("mystery",)


def test_a_ring_of_two_cables_is_half_the_ohms():
    def ohm(runs):
        _, wires = tree([battery(), element("one", 60.0)], runs)
        return float(wires.ohm[0, 0])

    one = [cable("a", "battery.power", "one.power", length_m=4.0, area_m2=MM2, contacts_ohm=0.0)]
    two = [*one, cable("b", "battery.power", "one.power", length_m=4.0, area_m2=MM2,
                       contacts_ohm=0.0)]  # fmt: skip
    assert ohm(two) == pytest.approx(ohm(one) / 2)
    assert ohm(one) == pytest.approx(2 * RHO * 4.0 / MM2, rel=0.12)


def test_contacts_count_beside_the_copper():
    def ohm(contacts):
        _, wires = tree(
            [battery(), element("one", 60.0)],
            [cable("a", "battery.power", "one.power", length_m=4.0, area_m2=MM2,
                   contacts_ohm=contacts)],
        )  # fmt: skip
        return float(wires.ohm[0, 0])

    assert ohm(0.02) - ohm(0.0) == pytest.approx(0.02)
    assert ohm(None) > ohm(0.0)  # usual lugs are not nothing


@pytest.mark.parametrize(
    ("values", "ohms"),
    [
        ({"rated_w": 200.0, "rated_v": 12.0}, 0.72),
        ({"rated_w": 200.0, "rated_v": 24.0}, 2.88),
        ({"resistance_ohm": 0.9, "rated_w": 200.0, "rated_v": 12.0}, 0.9),
        ({}, inf),
    ],
)
def test_an_element_s_resistance(values, ohms):
    part = Element(id="e", power_w=None, **values)
    assert element_ohm(part, 12.0) == pytest.approx(ohms)


def test_what_keeps_up_volts():
    known, _ = tree(
        [battery(volts_v=25.6), {"kind": "hook_up", "id": "pitch"},
         {"kind": "inverter", "id": "inverter"}, element("one", 10.0)], [],
    )  # fmt: skip
    volts = [source_volts(part, known) for part in known.parts]
    assert volts == [25.6, 230.0, 230.0, None]


@given(st.lists(st.floats(0.05, 20.0), min_size=1, max_size=6), st.floats(0.0, 0.3))
def test_amps_settle_on_kirchhoff(ohms, shared):
    """Every load on one shared lead: the sum of amps through it leaves each the same volts."""
    loads = np.zeros((len(ohms), 4))
    loads[:, F_VOLTS], loads[:, F_OHM], loads[:, F_LOST] = 12.0, ohms, 0.0
    grid = np.full((len(ohms), len(ohms)), shared)
    assert settle_amps(loads, grid, np.ones(len(ohms)))
    left = 12.0 - shared * loads[:, F_AMPS].sum()
    total = 1.0 / np.sum(1.0 / np.array(ohms))
    assert left == pytest.approx(12.0 * total / (total + shared), rel=1e-3)
    assert loads[:, F_AMPS] == pytest.approx(left / np.array(ohms), rel=1e-3)


def test_what_is_off_takes_no_amps():
    loads = np.array([[12.0, 1.0, 0.0, 5.0], [12.0, 1.0, 0.0, 5.0]])
    assert settle_amps(loads, np.zeros((2, 2)), np.array([1.0, 0.0]))
    assert loads[:, F_AMPS].tolist() == [12.0, 0.0]
    assert not settle_amps(np.zeros((2, 4)), np.zeros((2, 2)), np.ones(2))


# --- in a day ---


def test_a_longer_cable_makes_a_colder_shower():
    project = curlew()
    variant = project.variants[0]
    cables = [run for run in variant.system.runs if run.kind == "cable" and run.end.part
              in ("element", "heat-switch", "heat-circuit")]  # fmt: skip
    assert cables
    given = {}
    for factor in (1.0, 12.0):
        runs = tuple(
            item.model_copy(update={"length_m": factor * (item.length_m or 1.0)})
            if item in cables else item
            for item in variant.system.runs
        )  # fmt: skip
        built = variant.model_copy(
            update={"system": variant.system.model_copy(update={"runs": runs})}
        )
        outcome = compute(project, built)
        assert isinstance(outcome, Outcome)
        day = outcome.timeline
        taken = sum(sum(row.drawn_j.values()) for row in day.stretches)
        given[factor] = (sum(day.balance.sources_j.values()), taken)
    near, far = given[1.0], given[12.0]
    assert far[0] / max(far[1], 1.0) < near[0] / max(near[1], 1.0) <= 1.0 + 1e-9


def test_a_heater_that_gets_too_few_volts_stays_out():
    """The trip voltage is looked at while it glows, behind its own cable."""
    project = folio()
    system = project.variants[0].system
    known = computed(system)
    feed = next(run for run in system.runs if run.kind == "cable" and run.end.part == "heater")
    thin = tuple(
        item.model_copy(update={"length_m": 14.0, "area_m2": 0.75 * MM2})
        if item.id == feed.id else item for item in system.runs
    )  # fmt: skip
    asked = project.brief
    outcome = run(asked, system.model_copy(update={"runs": thin}))
    assert "heater" in outcome.setup.fuses.faint
    volts, least = outcome.setup.fuses.faint["heater"], piece(known, "heater").trip_v
    assert volts < least
    assert outcome.causes and outcome.causes[0].part_id == "heater"
    assert "V while it glows" in verdict(outcome, UnitSystem.METRIC)
    usual = run(asked, system)
    assert usual.setup.fuses.faint == {}


@pytest.mark.parametrize(
    ("watts", "cables", "gets_w"), [(200.0, 1, 33.0), (400.0, 1, 26.0), (200.0, 3, 7.0)]
)
def test_little_reaches_an_element_behind_thirty_metres_of_one_square_millimetre(
    watts, cables, gets_w
):
    """There and back 1.05 Ω a cable, three in a row as in the canister's layout."""
    ends = ["battery.power", "c.feed", "c.load", "s.feed", "s.load", "element.power"]
    pairs = list(zip(ends[::2], ends[1::2], strict=True))[-cables:]
    pairs[0] = ("battery.power", pairs[0][1])
    parts = [battery(), {"kind": "circuit", "id": "c", "fuse_a": 40.0},
             {"kind": "switch", "id": "s"}, element("element", watts)]  # fmt: skip
    known, wires = tree(parts, [
        cable(f"cable{at}", one, other, length_m=30.0, area_m2=MM2)
        for at, (one, other) in enumerate(pairs)
    ])  # fmt: skip
    part = known.part("element")
    assert isinstance(part, Element)
    fed = wires.settled({"element": element_ohm(part, 12.0)})["element"]
    assert fed.volts * fed.amps == pytest.approx(gets_w, abs=1.0)
    assert fed.lost_w > 1.4 * fed.volts * fed.amps
