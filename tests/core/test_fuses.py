"""Fuses: what is too much for one alone, what only together, and what stands afterwards."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma.catalogue.layouts import layouts
from isotherma.core.engine.columns import U_BLOWN, U_OTHERS
from isotherma.core.engine.fuse_rows import FuseRows
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.draws import WhyNot
from isotherma.core.setup.fuses import Fuses, burning_a, most_a
from isotherma.core.simulate import simulate
from isotherma.core.supply.wires import wires_of
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.nominal import computed
from isotherma.wording import cautions, verdict
from tests.support import MILD, again, brief, changed, piece, run, shower, system

UNITS = UnitSystem.METRIC


def on_one_fuse(base: System, amps: float, *loads: str) -> System:
    """The same system with parts behind one fuse of a battery, and nothing else on it."""
    data = base.model_dump()
    data["parts"] = [
        *(part for part in data["parts"] if part["id"] != "battery"),
        {"kind": "circuit", "id": "fuse", "name": "The fuse", "fuse_a": amps},
        {"kind": "battery", "id": "battery", "usable_j": 1e9},
    ]
    ends = [("fuse", "feed", "battery"), *((load, "power", "fuse") for load in loads)]
    cables = [
        {"kind": "cable", "id": f"cable{at}", "start": {"part": part, "port": port},
         "end": {"part": to, "port": "power" if to == "battery" else "load"}}
        for at, (part, port, to) in enumerate(ends)
    ]  # fmt: skip
    data["runs"] = [
        run for run in data["runs"]
        if run["kind"] != "cable" or not {run["start"]["part"], run["end"]["part"]} & {*loads}
    ] + cables  # fmt: skip
    return System.model_validate(data)


def fused(amps: float, *, watts: float = 1200.0, second: float = 0.0) -> System:
    """The usual route; its element, or two of them, behind one breaker on a pitch."""
    base = changed(system(), "element", power_w=watts, rated_v=230.0)
    parts = [
        {"kind": "circuit", "id": "breaker", "fuse_a": amps},
        {"kind": "hook_up", "id": "pitch"},
    ]
    ends = [("breaker", "feed", "pitch", "load"), ("element", "power", "breaker", "load")]
    if second:
        host = piece(base, "element").fitted_in
        parts.append({"kind": "element", "id": "second", "power_w": second, "rated_v": 230.0,
                      "fitted_in": host})  # fmt: skip
        ends.append(("second", "power", "breaker", "load"))
    runs = [
        {"kind": "cable", "id": f"c{n}", "start": {"part": a, "port": p},
         "end": {"part": b, "port": q}}
        for n, (a, p, b, q) in enumerate(ends)
    ]  # fmt: skip
    data = base.model_dump()
    data["parts"], data["runs"] = [*data["parts"], *parts], [*data["runs"], *runs]
    return System.model_validate(data)


def fuses_of(built: System) -> Fuses:
    """Its fuses as it usually stands, on a day too warm for heat pads."""
    known = computed(built)
    at = positions(known, None)
    return Fuses(known, wires_of(known, at), wires_of(known, {}), at, lambda pad: False)


def given_j(built: System) -> dict[str, float]:
    outcome = run(brief(shower()), built)
    assert outcome.timeline.balance.energy_error_share < 1e-9
    return dict(outcome.timeline.balance.sources_j)


def test_a_fuse_smaller_than_its_element_blows_and_nothing_is_heated():
    """1200 W at 230 V are 5.2 A."""
    assert given_j(fused(6.0))["element"] > 1e6
    outcome = run(brief(shower()), fused(5.0))
    assert outcome.timeline.balance.sources_j["element"] == 0.0
    assert outcome.timeline.blown == ("breaker",)
    assert outcome.draws[0].why_not is WhyNot.NEVER_WARM
    assert "The figures are those of a blown fuse" in " ".join(cautions(outcome, UNITS))


def test_two_elements_blow_one_fuse_only_together():
    """Each takes 5.2 A: together 10.4 A."""
    together = given_j(fused(8.0, second=1200.0))
    assert together == {"element": 0.0, "second": 0.0}
    both = given_j(fused(11.0, second=1200.0))
    assert both["element"] > 0.0 and both["second"] > 0.0


def test_a_pump_that_takes_more_than_its_fuse_bears_gives_no_water():
    ample, weak = (
        run(brief(shower()), on_one_fuse(system(), 15.0, "pump")),
        run(brief(shower()), on_one_fuse(system(), 1.0, "pump")),
    )
    assert ample.draws[0].met or ample.draws[0].used_m3 > 0.01
    assert weak.setup.fuses.unable == {"pump"} and weak.draws[0].why_not is WhyNot.BLOWN
    assert weak.draws[0].used_m3 == 0.0 and not weak.timeline.pumped_s
    assert "The fuse is fused at 1\u00a0A and blows" in " ".join(cautions(weak, UNITS))
    assert "the fuse of the pump blows" in verdict(weak, UNITS)


# --- an element and a pump on one fuse ---


def shared(amps: float, watts: float = 120.0) -> System:
    """The usual route with a 12 V element of `watts`, it and the pump behind one fuse."""
    low = changed(system(), "element", power_w=watts, rated_v=12.0)
    return on_one_fuse(low, amps, "element", "pump")


def test_what_each_takes():
    """120 W at 12 V are 10 A; the pump is taken at a shower's pressure."""
    loads = fuses_of(shared(13.0)).loads["fuse"]
    assert loads["element"] == pytest.approx(10.0)
    assert 3.0 < loads["pump"] < 6.0


def test_the_fuse_blows_when_the_element_comes_on_while_the_pump_runs():
    """Heated from midnight, the store is content at seven; it calls in the middle of the wash."""
    asked = brief(shower(), shower(2, start_s=64800.0), day_start="cold")
    outcome = run(asked, shared(16.0, watts=170.0))
    first, second = outcome.draws
    assert outcome.timeline.blown == ("fuse",)
    assert first.used_m3 > 0.0 and first.why_not is WhyNot.BLOWN
    assert second.used_m3 == 0.0 and second.why_not is WhyNot.BLOWN
    assert outcome.timeline.balance.energy_error_share < 1e-9
    assert "loses its water" in verdict(outcome, UNITS)
    words = " ".join(cautions(outcome, UNITS))
    assert "and blows when they run at once, as it does in the figures" in words


def test_it_holds_where_it_bears_both():
    ample = run(brief(shower()), shared(16.0))
    assert ample.timeline.blown == () and ample.draws[0].why_not is not WhyNot.BLOWN
    assert "run at once" not in " ".join(cautions(ample, UNITS))
    alone = run(brief(shower()), changed(system(), "element", power_w=120.0, rated_v=12.0))
    assert ample.draws[0].comfort_s == pytest.approx(alone.draws[0].comfort_s, abs=1e-9)


def test_it_holds_while_they_take_turns():
    """An element that may not run at the hour of the wash leaves the fuse to the pump."""
    night = changed(shared(11.0), "element", window_end_s=5 * 3600.0)
    outcome = run(brief(shower()), night)
    assert outcome.timeline.blown == () and outcome.draws[0].used_m3 > 0.0
    words = " ".join(cautions(outcome, UNITS))
    assert "run at once, which does not happen in the figures" in words


@settings(max_examples=12, deadline=None)
@given(st.floats(60.0, 220.0), st.floats(2.0, 25.0))
def test_what_runs_at_once_is_never_more_than_the_fuse_bears(watts, amps):
    """Whatever blew and when: no step has both at work over the fuse, and the day adds up."""
    built = shared(amps, watts)
    outcome = run(brief(shower(), shower(2, start_s=64800.0)), built)
    assert outcome.timeline.balance.energy_error_share < 1e-6
    loads = outcome.setup.fuses.loads["fuse"]
    log = outcome.timeline.log
    flows, heats = log[:, 2] > 0.0, log[:, 8] > 0.0
    if loads["element"] > amps * 1.001:
        assert not heats.any()
    if loads["pump"] > amps * 1.001:
        assert not flows.any()
    if sum(loads.values()) > amps * 1.001:
        assert not (flows & heats).any()


def test_two_pumps_on_one_fuse():
    """The coolant's pump and the water's take more than the fuse bears once a tap opens."""
    layout = layouts()["coolant-coil"]
    pumps = [
        part.id for part in layout.system.parts
        if part.kind in ("pump", "circulation_pump", "submersible")
    ]  # fmt: skip
    assert len(pumps) == 2
    loads = fuses_of(on_one_fuse(layout.system, 50.0, *pumps)).loads["fuse"]
    little = on_one_fuse(layout.system, max(loads.values()) * 1.05, *pumps)
    asked = layout.brief
    driving = simulate(asked, little, MILD)
    ample = simulate(asked, on_one_fuse(layout.system, 50.0, *pumps), MILD)
    assert ample.timeline.blown == ()
    assert driving.timeline.balance.energy_error_share < 1e-6
    together = any(
        min(stretch.pumped_s.get(pump, 0.0) for pump in pumps) > 0.0
        for stretch in ample.timeline.stretches
    )
    assert (driving.timeline.blown == ("fuse",)) == together


# --- a heater that glows ---


def test_a_liquid_heater_takes_most_as_it_lights():
    layout = layouts()["coolant-coil"]
    known = computed(layout.system)
    heater = next(part for part in known.parts if part.kind == "liquid_heater")
    wires = wires_of(known, positions(known, None))
    assert most_a(heater, known, wires) == pytest.approx(9.0)  # glow pin, middle of 8 to 10 A
    assert burning_a(heater, 12.0) == pytest.approx(40.0 / 12.0)  # fan, fuel and water pump


def test_a_liquid_heater_on_too_small_a_fuse_never_lights():
    layout = layouts()["coolant-coil"]
    heater = next(part.id for part in layout.system.parts if part.kind == "liquid_heater")
    weak = simulate(layout.brief, on_one_fuse(layout.system, 5.0, heater), MILD)
    ample = simulate(layout.brief, on_one_fuse(layout.system, 20.0, heater), MILD)
    assert ample.timeline.balance.bodies_j[heater] > 1e5
    assert weak.timeline.balance.bodies_j[heater] == 0.0
    assert weak.setup.fuses.unable == {heater}
    assert "is fused at 5\u00a0A and blows" in " ".join(cautions(weak, UNITS))
    assert weak.timeline.balance.energy_error_share < 1e-6


def test_what_runs_on_a_fuse_is_written_down():
    """A heater by whether it burns, a pump by whether it runs; elements are the kernel's."""
    layout = layouts()["coolant-coil"]
    heater = next(part.id for part in layout.system.parts if part.kind == "liquid_heater")
    pump = next(part.id for part in layout.system.parts if part.kind == "pump")
    fuses = FuseRows(fuses_of(on_one_fuse(layout.system, 10.0, heater, pump)))
    rows, at = fuses.rows(), fuses.ids.index("fuse")
    draws = fuses.loads["fuse"][pump]
    for pumping, lit, amps in [
        (frozenset(), {}, 0.0),
        (frozenset({pump}), {}, draws),
        (frozenset(), {heater: False}, 9.0),
        (frozenset(), {heater: True}, 40.0 / 12.0),
        (frozenset({pump}), {heater: False}, 9.0 + draws),
    ]:
        fuses.carry(rows, np.zeros((0, 4)), (), pumping, lit, blowing=False)
        assert rows[at, U_OTHERS] == pytest.approx(amps)
    assert fuses.blown(rows) == () and fuses.stopped(rows) == frozenset()
    rows[at, U_BLOWN] = 1.0
    assert fuses.blown(rows) == ("fuse",) and fuses.stopped(rows) == {heater, pump}


def test_a_fuse_that_can_never_blow_is_not_followed():
    fuses = fuses_of(on_one_fuse(system(), 40.0, "pump"))
    assert fuses.ids == () and FuseRows(fuses).rows().shape == (0, 5)
    assert fuses_of(system()).loads == {}


def test_a_blown_fuse_stays_blown_in_another_state_and_on_the_next_day():
    built = shared(11.0)
    outcome = run(brief(shower()), built)
    assert outcome.timeline.blown == ("fuse",)
    after = again(outcome, next_day=True)
    assert after.drawn[0].flow_m3_per_s == 0.0 and not after.pumped_s
    morning = again(outcome, next_day=False)
    assert np.allclose(morning.log, outcome.timeline.log, atol=1e-9)


def test_what_a_fuse_cannot_bear_together_is_said_with_its_amps():
    """37 A on 20 A: 400 W and a pump at 12 V; each alone would go."""
    built = shared(20.0, watts=400.0)
    outcome = run(brief(shower()), built)
    loads = outcome.setup.fuses.loads["fuse"]
    words = " ".join(cautions(outcome, UNITS))
    over = [key for key, taken in loads.items() if taken > 20.0]
    assert over == ["element"]
    assert f"takes {loads['element']:.0f}\u00a0A; The fuse is fused at 20\u00a0A and blows" in words


def test_lights_and_fans_count_beside_the_element():
    """What runs all day leaves the element less of the fuse."""
    base = shared(14.0)
    assert run(brief(shower()), base).timeline.blown == ()
    data = base.model_dump()
    light = {"kind": "load", "id": "light", "name": "Light", "rated_w": 72.0, "hours_s": 86400.0}
    lead = {"kind": "cable", "id": "to-light", "start": {"part": "light", "port": "power"},
            "end": {"part": "fuse", "port": "load"}}  # fmt: skip
    data["parts"], data["runs"] = [*data["parts"], light], [*data["runs"], lead]
    outcome = run(brief(shower()), System.model_validate(data))
    assert "light" in outcome.setup.fuses.loads["fuse"]
    assert outcome.timeline.blown == ("fuse",)


def test_loads_that_must_not_run_together_wait_for_each_other():
    """The same fuse blows or bears them by what its circuit says."""
    for alone in (False, True):
        built = changed(shared(12.0), "fuse", not_together=alone)
        outcome = run(brief(shower(), shower(2, start_s=25300.0)), built)
        assert (outcome.timeline.blown == ()) == alone
        words = " ".join(cautions(outcome, UNITS))
        assert ("set not to run together" in words) == alone
