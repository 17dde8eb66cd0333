"""Wires with any loads on, against a solution of its own; fuses, cables and gas pipes by hand."""

from __future__ import annotations

from math import log10, pi, sqrt
from random import Random

import numpy as np
import pytest

from isotherma.catalogue.demo import curlew, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.setup.cables import offered_areas, way_to
from isotherma.core.setup.gas_tree import gas_report
from isotherma.core.setup.power import WhyOff, loads_of, power_report
from isotherma.core.supply.copper import BEARS, cable_bears_a
from isotherma.core.supply.gas_pipe import gas_drop_pa, longest_pipe_m
from isotherma.core.supply.wires import BARE_OHM
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.nominal import computed, figure
from isotherma.core.system.runs import COPPER_OHM_M, Cable
from tests.support import known as given

VOLTS = 12.8


def grown(seed: int, watts_up_to: float = 60.0) -> System:
    """A battery, fuses and loads joined as a random tree; elements, pads and other loads."""
    random = Random(seed)
    parts: list[dict[str, object]] = [
        {"id": "battery", "kind": "battery", "volts_v": VOLTS, "usable_j": 3.6e6},
    ]
    runs: list[dict[str, object]] = []
    taps = [("battery", "power")]
    for at in range(random.randint(2, 9)):
        parent, port = random.choice(taps)
        length, area = random.uniform(0.3, 6.0), random.choice([1.5, 2.5, 4.0, 6.0, 10.0]) * 1e-6
        if random.random() < 0.35:
            key = f"circuit-{at}"
            parts.append({"id": key, "kind": "circuit", "fuse_a": 200.0})
            end = (key, "feed")
            taps.append((key, "load"))
        else:
            key, kind = f"load-{at}", random.choice(["element", "load", "heat_pad"])
            choices: dict[str, dict[str, object]] = {
                "element": {"rated_w": random.uniform(20.0, 200.0), "rated_v": 12.0},
                "load": {"rated_w": random.uniform(5.0, watts_up_to), "hours_s": 3600.0},
                "heat_pad": {"power_w": random.uniform(10.0, 60.0)},
            }
            parts.append({"id": key, "kind": kind, **choices[kind]})
            end = (key, "power")
        runs.append({
            "id": f"cable-{at}", "kind": "cable", "start": {"part": parent, "port": port},
            "end": {"part": end[0], "port": end[1]}, "length_m": length, "area_m2": area,
        })  # fmt: skip
    return System.model_validate({"parts": parts, "runs": runs})


def by_newton(
    system: System, takes: dict[str, tuple[str, float]]
) -> dict[str, tuple[float, float]]:
    """Amps and volts of loads: all node volts at once, by Newton, parts as nodes."""
    known = computed(system)
    ids = [part.id for part in known.parts]
    place = {key: at for at, key in enumerate(ids)}
    free = [at for at, key in enumerate(ids) if key != "battery"]
    grid = np.zeros((len(ids), len(ids)))
    for run in known.runs:
        assert isinstance(run, Cable) and run.loop_ohm is not None
        g = 1.0 / (run.loop_ohm + figure(run, "contacts_ohm"))
        a, b = place[run.start.part], place[run.end.part]
        grid[a, a] += g
        grid[b, b] += g
        grid[a, b] -= g
        grid[b, a] -= g
    volts = np.full(len(ids), VOLTS)
    for _ in range(100):
        amps, slope = np.zeros(len(ids)), np.zeros(len(ids))
        for key, (how, value) in takes.items():
            at = place[key]
            if how == "ohms":
                amps[at], slope[at] = volts[at] / value, 1.0 / value
            else:
                amps[at], slope[at] = value / volts[at], -value / volts[at] ** 2
        residual = (grid @ volts + amps)[free]
        jacobian = grid[np.ix_(free, free)] + np.diag(slope[free])
        step = np.linalg.solve(jacobian, -residual)
        volts[free] += step
        if np.abs(step).max(initial=0.0) < 1e-13:
            break
    found = {}
    for key, (how, value) in takes.items():
        v = float(volts[place[key]])
        found[key] = (v / value if how == "ohms" else value / v, v)
    return found


def takes_of(system: System) -> dict[str, tuple[str, float]]:
    found: dict[str, tuple[str, float]] = {}
    for part in system.parts:
        if part.kind == "element":
            found[part.id] = ("ohms", 12.0**2 / given(part.rated_w))
        elif part.kind == "heat_pad":
            found[part.id] = ("ohms", VOLTS**2 / given(part.power_w))
        elif part.kind == "load":
            found[part.id] = ("watts", given(part.rated_w))
    return found


@pytest.mark.parametrize("seed", range(200))
def test_a_random_tree_is_as_an_independent_solution_has_it(seed):
    """Two hundred trees with loads of constant power among them, to a thousandth and better."""
    system = grown(seed)
    report = power_report(computed(system), {})
    wanted = by_newton(system, takes_of(system))
    loads = {load.id: load for load in report.loads}
    assert set(loads) == set(wanted) == set(loads_of(computed(system)))
    for key, (amps, volts) in wanted.items():
        assert loads[key].runs
        assert loads[key].amps == pytest.approx(amps, rel=1e-6)
        assert loads[key].volts == pytest.approx(volts, rel=1e-6)
    gives = sum(source.volts * source.amps for source in report.sources)
    used = sum(load.watts for load in report.loads) + report.lost_w
    assert gives == pytest.approx(used, rel=1e-6, abs=1e-9)  # used, or lost


@pytest.mark.parametrize(("watts", "runs"), [(30.0, True), (34.0, True), (37.0, False),
                                             (5000.0, False)])  # fmt: skip
def test_what_a_cable_cannot_feed_is_said_with_the_most_it_could(watts, runs):
    """E²/4Z through 1.1 Ω is 37 W: beyond it there is no solution, and nothing is iterated."""
    ohm = 12.0**2 / (4.0 * 36.0)
    length = (ohm - 0.004) * 1e-6 / (COPPER_OHM_M * 2.0)
    system = System.model_validate({
        "parts": [
            {"id": "battery", "kind": "battery", "volts_v": 12.0, "usable_j": 1e6},
            {"id": "fan", "kind": "load", "rated_w": watts, "hours_s": 3600.0},
        ],
        "runs": [{
            "id": "wire", "kind": "cable", "start": {"part": "battery", "port": "power"},
            "end": {"part": "fan", "port": "power"}, "length_m": length, "area_m2": 1e-6,
            "contacts_ohm": 0.004,
        }],
    })  # fmt: skip
    load = power_report(computed(system), {}).loads[0]
    assert load.runs is runs
    if runs:
        assert load.volts > 6.0 and load.watts == pytest.approx(watts)
    else:
        assert load.why_not is WhyOff.CANNOT and load.most_w == pytest.approx(36.0, rel=1e-3)
        assert (load.amps, load.watts, load.drop_share) == (0.0, 0.0, 0.0)


def wired(fuse_a: float | None, *elements: float, apart: bool = False) -> System:
    parts: list[dict[str, object]] = [
        {"id": "battery", "kind": "battery", "volts_v": 12.0, "usable_j": 1e6},
        {"id": "fuse", "kind": "circuit", "fuse_a": fuse_a, "not_together": apart},
    ]
    runs: list[dict[str, object]] = [{
        "id": "feed", "kind": "cable", "start": {"part": "battery", "port": "power"},
        "end": {"part": "fuse", "port": "feed"}, "length_m": 0.5, "area_m2": 6e-6,
    }]  # fmt: skip
    for at, watts in enumerate(elements):
        parts.append({"id": f"e{at}", "kind": "element", "rated_w": watts, "rated_v": 12.0})
        runs.append({
            "id": f"w{at}", "kind": "cable", "start": {"part": "fuse", "port": "load"},
            "end": {"part": f"e{at}", "port": "power"}, "length_m": 2.0, "area_m2": 2.5e-6,
        })  # fmt: skip
    return System.model_validate({"parts": parts, "runs": runs})


def why(report) -> dict[str, WhyOff | None]:
    return {load.id: load.why_not for load in report.loads}


def test_a_fuse_blows_by_what_runs_through_it_and_nothing_behind_it_runs():
    known = computed(wired(15.0, 120.0, 120.0))
    both = power_report(known, {})
    assert why(both) == {"e0": WhyOff.BLOWS, "e1": WhyOff.BLOWS}
    assert both.circuits[0].blows and both.circuits[0].amps == 0.0
    pair = tuple(part.label for part in known.parts if part.kind == "element")
    assert both.circuits[0].apart == (pair,)
    one = power_report(known, {}, ["e0"])
    assert why(one) == {"e0": None, "e1": WhyOff.NOT_ON} and not one.circuits[0].blows
    assert one.circuits[0].share == pytest.approx(one.loads[0].amps / 15.0)
    assert why(power_report(known, {"e0": "off"})) == {"e0": WhyOff.OFF, "e1": None}


def test_more_than_its_fuse_bears_never_runs_and_together_waits():
    assert why(power_report(computed(wired(5.0, 120.0)), {})) == {"e0": WhyOff.FUSE_ALONE}
    apart = power_report(computed(wired(15.0, 120.0, 120.0, apart=True)), {})
    assert why(apart) == {"e0": None, "e1": WhyOff.WAITS}
    cut = power_report(computed(wired(15.0, 120.0)), {"fuse": "off"})
    assert why(cut) == {"e0": WhyOff.CUT_OFF}
    unknown = power_report(computed(wired(None, 120.0, 120.0)), {})
    assert why(unknown) == {"e0": None, "e1": None} and unknown.circuits[0].share is None


def test_a_fuse_is_held_against_the_thinnest_cable_behind_it():
    circuit = power_report(computed(wired(40.0, 60.0)), {}).circuits[0]
    assert (circuit.cable_a, circuit.cable) == (25.0, "w0")  # 2.5 mm², table A.1


@pytest.mark.parametrize(("area", "bears"), [
    (0.5e-6, 3.0), (0.75e-6, 10.0), (1.4e-6, 14.0), (2.5e-6, 25.0), (16e-6, 90.0), (95e-6, 310.0),
])  # fmt: skip
def test_what_copper_bears_is_the_tables_next_size_down(area, bears):
    assert cable_bears_a(area, mains=False) == bears
    assert cable_bears_a(area, mains=True) == pytest.approx(0.8 * bears)


def test_the_offered_cable_does_it_and_the_next_thinner_does_not():
    project = curlew()
    variant = project.variants[0]
    known, at = computed(variant.system), positions(variant.system, variant.standing)
    report = power_report(known, at)
    load = next(one for one in report.loads if one.id == "element")
    way = way_to(known, at, "element")
    assert set(way) == {"battery-heat-circuit", "heat-circuit-heat-switch", "heat-switch-element"}
    amps = {cable.run: cable.amps for cable in report.cables}
    offered = offered_areas(known, way, drop_share=load.drop_share, source_v=load.source_v,
                            amps=amps, fuse_a=20.0)  # fmt: skip
    assert offered and set(offered) <= set(way)

    def with_areas(areas):
        runs = [
            run.model_copy(update={"area_m2": areas[run.id], "loop_ohm": None})
            if run.id in areas else run
            for run in variant.system.runs
        ]  # fmt: skip
        again = power_report(computed(variant.system.model_copy(update={"runs": tuple(runs)})), at)
        return next(one for one in again.loads if one.id == "element").drop_share

    assert with_areas(offered) <= 0.031  # thicker wires let a little more through
    size = max(offered.values())
    thinner = max(area for area, _ in BEARS if area < size * 0.999)
    assert with_areas(dict.fromkeys(offered, thinner)) > 0.03
    enough = offered_areas(known, way, drop_share=0.01, source_v=12.8, amps=amps, fuse_a=20.0)
    assert enough == {}


def test_what_hangs_on_an_inverter_is_taken_from_the_battery_with_its_losses():
    system = System.model_validate({
        "parts": [
            {"id": "battery", "kind": "battery", "volts_v": 12.0, "usable_j": 1e6},
            {"id": "inverter", "kind": "inverter", "rated_w": 1000.0, "efficiency": 0.9,
             "idle_w": 10.0},
            {"id": "kettle", "kind": "load", "rated_w": 450.0, "hours_s": 600.0, "volts_v": 230.0},
        ],
        "runs": [
            {"id": "low", "kind": "cable", "start": {"part": "battery", "port": "power"},
             "end": {"part": "inverter", "port": "feed"}, "length_m": 1.0, "area_m2": 25e-6},
            {"id": "high", "kind": "cable", "start": {"part": "inverter", "port": "load"},
             "end": {"part": "kettle", "port": "power"}, "length_m": 3.0, "area_m2": 1.5e-6},
        ],
    })  # fmt: skip
    report = power_report(computed(system), {})
    loads = {load.id: load for load in report.loads}
    high = next(cable for cable in report.cables if cable.run == "high")
    assert high.lost_w is not None
    wanted = (loads["kettle"].watts + high.lost_w) / 0.9 + 10.0
    assert loads["inverter"].watts == pytest.approx(wanted, rel=1e-6)
    off = power_report(computed(system), {"inverter": "off"})
    assert {load.id: load.why_not for load in off.loads}["kettle"] is WhyOff.CUT_OFF


@pytest.mark.parametrize("key", layouts())
def test_every_layout_says_what_its_wires_and_pipes_carry(key):
    system = layouts()[key].system
    for state in (*system.states, None):
        at = positions(system, state)
        report = power_report(computed(system), at)
        assert all(one.amps >= -1e-6 for one in report.sources)
        for load in report.loads:
            assert load.amps >= 0.0 and (load.runs or load.amps == 0.0)
            assert 0.0 <= load.drop_share < 1.0
        gas = gas_report(computed(system), at, 10.0)
        assert gas.kg_per_s == pytest.approx(sum(
            one.kg_per_s for one in gas.appliances if one.burns and one.reached
        ))  # fmt: skip


def test_cables_nobody_measured_carry_and_lose_nothing():
    project = folio()
    system = project.variants[0].system
    bare = system.model_copy(update={"runs": tuple(
        run.model_copy(update={"area_m2": None, "gauge": None, "loop_ohm": None})
        if isinstance(run, Cable) else run for run in system.runs
    )})  # fmt: skip
    report = power_report(computed(bare), positions(bare, None))
    running = [load for load in report.loads if load.runs]
    assert running and all(load.drop_share < 1e-9 for load in running)
    assert all(cable.drop_v is None and cable.lost_w is None for cable in report.cables)
    assert sum(source.amps for source in report.sources) == pytest.approx(
        sum(load.amps for load in running), rel=1e-3
    )
    assert BARE_OHM < 1e-6


# --- gas ---


@pytest.mark.parametrize(("kg_per_h", "bore_mm"), [(0.1, 4.8), (0.5, 6.4), (1.0, 6.4), (2.0, 8.0)])
def test_what_a_gas_pipe_takes_is_the_textbook_law(kg_per_h, bore_mm):
    """Darcy with 64/Re, or with Prandtl and von Kármán's smooth pipe, solved here by repetition."""
    rate, bore = kg_per_h / 3600, bore_mm / 1000
    speed = rate / 1.9 / (pi / 4 * bore**2)
    reynolds = 1.9 * speed * bore / 8e-6
    friction = 64.0 / reynolds
    if reynolds > 4000.0:
        friction = 0.03
        for _ in range(60):
            friction = 1.0 / (2.0 * log10(reynolds * sqrt(friction) / 2.51)) ** 2
    wanted = friction * 5.0 / bore * 0.5 * 1.9 * speed**2
    found = gas_drop_pa(kg_per_s=rate, bore_m=bore, length_m=5.0)
    if not 2000.0 < reynolds < 4000.0:
        assert found == pytest.approx(wanted, rel=0.03)
    assert longest_pipe_m(kg_per_s=rate, bore_m=bore, drop_pa=found) == pytest.approx(5.0)
    assert gas_drop_pa(kg_per_s=0.0, bore_m=bore, length_m=5.0) == 0.0


def test_appliances_share_pipes_and_each_keeps_its_own_pressure():
    system = layouts()["gas-combi"].system
    known = computed(system)
    both = gas_report(known, {}, 15.0)
    alone = gas_report(known, {}, 15.0, ["hob"])
    hob = {one.id: one for one in both.appliances}["hob"]
    single = {one.id: one for one in alone.appliances}["hob"]
    assert hob.drop_pa is not None and single.drop_pa is not None
    assert hob.drop_pa > single.drop_pa > 0.0
    assert hob.pressure_pa == pytest.approx(given(both.set_pa) - hob.drop_pa)
    shared = {pipe.run: pipe for pipe in both.pipes}["changeover-manifold"]
    assert shared.kg_per_s == pytest.approx(both.kg_per_s)
    assert not {one.id: one for one in alone.appliances}["combi"].burns
    first = next(pipe for pipe in both.pipes if pipe.run == "bottle-changeover")
    assert not first.low and first.drop_pa is None  # before the regulator
    assert both.regulator_share == pytest.approx(both.kg_per_s / given(both.rated_kg_per_s))


def test_a_shut_valve_and_a_coupling_apart_cut_what_is_behind_them():
    system = layouts()["hung-outside"].system
    known = computed(system)
    apart = gas_report(known, {"gas-plug": "apart"}, 15.0)
    assert [one.reached for one in apart.appliances] == [False]
    assert apart.kg_per_s == 0.0 and apart.bottle_s is None
    shut = gas_report(known, {"bottle": "shut"}, 15.0)
    assert not any(one.reached for one in shut.appliances)


def test_the_bottle_gives_out_sooner_in_the_cold():
    known = computed(layouts()["hung-outside"].system)
    warm, cold = (gas_report(known, {}, air).bottle_s for air in (10.0, -5.0))
    assert cold is not None and (warm is None or cold < warm)


def test_a_pipe_of_no_bore_is_not_known_and_says_nothing():
    system = layouts()["gas-combi"].system
    bare = system.model_copy(update={"runs": tuple(
        run.model_copy(update={"outside_m": None, "bore_m": None})
        if run.id == "manifold-combi" else run for run in system.runs
    )})  # fmt: skip
    found = {one.id: one for one in gas_report(computed(bare), {}, 15.0).appliances}
    assert found["combi"].drop_pa is None and found["combi"].pressure_pa is None
    assert found["combi"].reached and found["hob"].drop_pa is not None


# --- one of two ---


def one_of_two(**values: object) -> System:
    return System.model_validate({
        "parts": [
            {"id": "battery", "kind": "battery", "volts_v": 12.0, "usable_j": 1e6},
            {"id": "fuse", "kind": "circuit", "fuse_a": 15.0},
            {"id": "which", "kind": "either_or"},
            {"id": "e0", "kind": "element", "rated_w": 120.0, "rated_v": 12.0},
            {"id": "e1", "kind": "element", "rated_w": 144.0, "rated_v": 12.0},
        ],
        "runs": [
            {"id": key, "kind": "cable", "start": {"part": one, "port": out},
             "end": {"part": other, "port": into}, "length_m": 1.0, "area_m2": 4e-6}
            for key, one, out, other, into in (
                ("a", "battery", "power", "fuse", "feed"), ("b", "fuse", "load", "which", "feed"),
                ("c", "which", "first", "e0", "power"), ("d", "which", "second", "e1", "power"),
            )
        ],
        **values,
    })  # fmt: skip


@pytest.mark.parametrize(("stands", "runs", "cut"), [
    ("first", "e0", "e1"), ("second", "e1", "e0"),
])  # fmt: skip
def test_an_either_or_switch_feeds_one_and_the_fuse_bears_it(stands, runs, cut):
    report = power_report(computed(one_of_two()), {"which": stands})
    assert why(report) == {runs: None, cut: WhyOff.CUT_OFF}
    assert not report.circuits[0].blows
    assert report.circuits[0].amps == pytest.approx(
        next(load.amps for load in report.loads if load.id == runs)
    )
    assert report.circuits[0].apart == ()  # the switch sees to it
    off = power_report(computed(one_of_two()), {"which": "off"})
    assert set(why(off).values()) == {WhyOff.CUT_OFF}


def test_the_layout_with_two_pumps_on_one_fuse_lets_one_run_in_each_state():
    system = layouts()["two-tank-storage"].system
    known_system = computed(system)
    for state in system.states:
        report = power_report(known_system, positions(system, state))
        running = {load.id for load in report.loads if load.runs}
        assert len(running & {"pump", "dump"}) <= 1
        assert ("dump" in running) is (state.id == "emptying")
        if state.id == "emptying":
            assert why(report)["pump"] is WhyOff.CUT_OFF
