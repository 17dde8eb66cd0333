"""What must be true of any network: mass, energy, and laws that never turn round."""

from __future__ import annotations

import json
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from isotherma.catalogue.layouts import layouts
from isotherma.core.errors import CoreError, FlowNotSolved
from isotherma.core.flows.draining import drain_down
from isotherma.core.flows.leak import pump_starts
from isotherma.core.flows.network_compiler import compile_network
from isotherma.core.flows.pulse import operate
from isotherma.core.flows.report import flow_report
from isotherma.core.flows.shock import shocks
from isotherma.core.flows.solving import solve
from isotherma.core.flows.waste import waste_of
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import GRAVITY_M_PER_S2, OPEN
from isotherma.core.quantity import UnitSystem
from isotherma.core.system.vehicle import Vehicle
from isotherma.core.water import fluids
from isotherma.files.flow_json import drain_object, flow_object, leak_object, waste_object
from tests.documents import system as any_system
from tests.networks import Grown


def check(found):
    """Mass at every junction by another sum than the solver's; the energy of every open link."""
    network, net = found.network, found.network.net
    for node in range(len(network.fixed)):
        if net.given[node]:
            continue
        into = sum(found.mass[i] for i in range(len(network.links)) if net.end[i] == node)
        out = sum(found.mass[i] for i in range(len(network.links)) if net.start[i] == node)
        passing = max((abs(found.mass[i]) for i in range(len(network.links))
                       if node in (net.start[i], net.end[i])), default=0.0)  # fmt: skip
        away = found.state.outflow[node]
        assert abs(into - out - away) <= 1e-9 * max(passing, 1e-9)
    for index in range(len(network.links)):
        if found.shut[index] != OPEN or not np.isfinite(found.pressure_pa[net.start[index]]):
            continue
        table = network.heat.tables[network.heat.fluid[index]]
        ahead = found.mass[index] >= 0
        at = net.start[index] if ahead else net.end[index]
        middle = 0.5 * (found.node_c[at] + found.out_c[index])
        rho = fluids.look_up(table, fluids.DENSITY, middle)
        mu = fluids.look_up(table, fluids.VISCOSITY, middle)
        taken, _ = laws.drop(
            int(net.law[index]), float(found.mass[index] / rho), found.state.parameters[index],
            net.curves, rho, mu, bool(net.one_way[index]),
        )  # fmt: skip
        taken += rho * GRAVITY_M_PER_S2 * net.rise[index]
        drop = found.pressure_pa[net.start[index]] - found.pressure_pa[net.end[index]]
        assert drop == pytest.approx(taken, abs=0.1 + 2e-5 * abs(taken)), network.links[index]


@given(st.integers(0, 10_000), st.sampled_from([6, 15, 40]), st.data())
@hypothesis_settings(max_examples=60)
def test_mass_and_energy_hold_in_networks_that_grew(seed, size, data):
    network = compile_network(Grown(seed, size).system(), None)
    opens = {key: data.draw(st.sampled_from([1.0, 0.5, 0.1])) for key in network.ends}
    if opens:
        check(solve(network, opens))


@given(st.integers(0, 10_000), st.sampled_from([8, 20, 40]), st.randoms(use_true_random=False))
@hypothesis_settings(max_examples=50)
def test_opening_another_outlet_never_raises_the_flow_at_the_others(seed, size, random):
    network = compile_network(Grown(seed, size, loops=False, plain=True).system(), None)
    taps = list(network.ends)
    random.shuffle(taps)
    before: dict[str, float] = {}
    for count in range(1, min(len(taps), 5) + 1):
        found = solve(network, dict.fromkeys(taps[:count], 1.0))
        now = {key: found.flow_m3_per_s[network.ends[key]] for key in taps[:count]}
        for key, flow in before.items():
            assert now[key] <= flow * (1 + 1e-7) + 1e-12
        before = now


@given(st.integers(0, 10_000), st.sampled_from([6, 15, 30]), st.floats(1.05, 1.8))
@hypothesis_settings(max_examples=50)
def test_a_wider_bore_on_the_only_way_never_lowers_the_flow(seed, size, wider):
    grown = Grown(seed, size, loops=False, plain=True)
    network = compile_network(grown.system(), None)
    if not network.ends:
        return
    tap = sorted(network.ends)[0]
    before = solve(network, {tap: 1.0})
    carrying = [key for key, index in network.run.items() if before.flow_m3_per_s[index] > 1e-7]
    for key in carrying[:2]:
        for run in grown.runs:
            if run["id"] == key:
                run["bore_m"] *= wider
        after = solve(compile_network(grown.system(), None), {tap: 1.0})
        assert after.flow_m3_per_s[network.ends[tap]] >= before.flow_m3_per_s[network.ends[tap]] * (
            1 - 1e-7
        )


@pytest.mark.parametrize("seed", range(60))
def test_grown_networks_of_up_to_two_hundred_parts_are_solved_or_refused(seed):
    random = Random(seed)
    network = compile_network(Grown(seed, random.choice([20, 60, 200])).system(), None)
    opens = {key: random.choice([1.0, 0.5, 0.1]) for key in network.ends if random.random() < 0.6}
    try:
        point = operate(network, opens)
    except FlowNotSolved as error:
        assert error.part_id and error.rounds > 0
        return
    report = flow_report(point)
    assert point.solved.balance <= 1e-9 and point.solved.residual_pa <= 0.1
    json.dumps(flow_object(report, ()), allow_nan=False)
    sources = {"gravity_bag", "pressurised_inlet", "pump", "foot_pump"}
    assert sources & {part.kind for part in report.parts}


@pytest.mark.parametrize("seed", range(40))
def test_any_document_is_answered_or_refused(seed):
    built = any_system(seed, most=8 + 12 * (seed % 5))
    state = built.states[0] if built.states else None
    network = compile_network(built, state)
    try:
        point = operate(network, dict.fromkeys(network.ends, 1.0))
        json.dumps(flow_object(flow_report(point), shocks(network, point)), allow_nan=False)
    except CoreError as error:
        assert error.code
    stands = Vehicle(pitch_deg=2.0, roll_deg=-3.0)
    json.dumps(drain_object(drain_down(network, stands)), allow_nan=False)
    json.dumps(waste_object(waste_of(built, state, stands), {}, UnitSystem.US), allow_nan=False)
    json.dumps(leak_object(pump_starts(built, network), 600.0, 5.0), allow_nan=False)


@pytest.mark.parametrize("name", layouts())
def test_every_layout_in_every_state_is_solved_and_sane(name):
    system = layouts()[name].system
    flowing = 0
    for state in system.states or (None,):
        network = compile_network(system, state)
        taps = [key for key in network.ends if network.parts[key].kind != "drain"]
        for opens in [*([key] for key in taps), taps]:
            point = operate(network, dict.fromkeys(opens, 1.0))
            check(point.solved)
            for outlet in flow_report(point).outlets:
                litres = outlet.flow_m3_per_s * 6e4
                flowing += litres > 0.3
                assert 0.0 <= litres < 15.0
                assert 0.0 <= outlet.temperature_c <= 90.0
    assert flowing


def test_the_same_input_gives_the_same_output_and_a_warm_start_the_same_point():
    system = layouts()["coolant-coil"].system
    network = compile_network(system, None)
    first, again = (solve(network, {"head": 1.0}) for _ in range(2))
    assert np.array_equal(first.mass, again.mass)
    assert np.array_equal(first.pressure_pa, again.pressure_pa, equal_nan=True)
    both = solve(network, {"head": 1.0, "kitchen": 0.5})
    warm = solve(network, {"head": 1.0, "kitchen": 0.5}, near=first)
    assert warm.flow_m3_per_s == pytest.approx(both.flow_m3_per_s, rel=1e-4, abs=1e-9)
