"""As printed → as computed: what a box says becomes the engine's figure, with its doubt."""

from __future__ import annotations

from math import pi

import pytest

from isotherma.core.editing import new_part
from isotherma.core.system import System
from isotherma.core.system.layouts import join
from isotherma.core.system.nominal import computed, understand
from isotherma.core.system.pieces import FACTOR, LITRE_PER_MIN, Around
from isotherma.core.system.runs import Cable, FuelPipe, Pipe, PortRef
from isotherma.core.system.tubes import tube
from isotherma.services.reference import reference
from tests.support import piece

BTU_H = 1055.05585262 / 3600
ENDS = {"start": PortRef(part="a", port="outlet"), "end": PortRef(part="b", port="inlet")}


def figure(piece, name, around=None):
    return next(f for f in understand(piece, around or Around()) if f.name == name)


def part(kind, **values):
    return new_part(kind, values)


CASES = [
    # 14 L/min without a rise: 14/60 kg/s × 4185 J/kgK × 20, 25, 30 K
    pytest.param(part("through_flow_gas", rated_flow_m3_per_s=14 * LITRE_PER_MIN), "heat_w",
                 (19530, 24412, 29295), "25 K", id="litres per minute alone"),
    pytest.param(part("through_flow_gas", rated_flow_m3_per_s=10 * LITRE_PER_MIN, rated_rise_k=30),
                 "heat_w", (20297, 20925, 21553), "rise on the box", id="litres and rise"),
    # 37 500 BTU/h input, gross: 10 990 W /1.086 net, × 0.84 to the water
    pytest.param(part("through_flow_gas", rated_w=37_500 * BTU_H, rating="input", basis="gross"),
                 "heat_w", (7905, 8500, 8500), "84%", id="BTU/h input gross"),
    pytest.param(part("through_flow_gas", rated_w=37_500 * BTU_H), "input_w",
                 (10120, 10990, 13084), "may be gross", id="BTU/h, nothing said"),
    pytest.param(part("pump", open_flow_m3_per_s=11.3 * LITRE_PER_MIN, cut_out_pa=2.8e5),
                 "shut_pressure_pa", (3.36e5, 4.2e5, 5.04e5), "half as much", id="pump cut-out"),
    pytest.param(part("pump", open_flow_m3_per_s=11.3 * LITRE_PER_MIN, cut_out_pa=2.8e5),
                 "cut_in_pa", (1.68e5, 1.988e5, 2.24e5), "7/10", id="pump cut-in"),
    pytest.param(part("pump", points=[(0, 11 * LITRE_PER_MIN), (2e5, 6 * LITRE_PER_MIN),
                                      (3e5, 3 * LITRE_PER_MIN)]),
                 "shut_pressure_pa", (4e5, 4e5, 4e5), "two points", id="pump by points"),
    # 8 L in 100 s is 4.8 L/min; over √1.5 bar
    pytest.param(part("shower_head", filled_m3=0.008, filled_s=100), "flow_factor_si",
                 (3.098 * FACTOR, 3.919 * FACTOR, 5.737 * FACTOR), "bucket", id="head by bucket"),
    pytest.param(part("shower_head", flow_m3_per_s=9 * LITRE_PER_MIN, pressure_pa=3e5),
                 "flow_factor_si", (5.196 * FACTOR,) * 3, "pressure said", id="head by label"),
    pytest.param(part("shower_head", style="fine holes"), "flow_factor_si",
                 (2.25 * FACTOR, 3.0 * FACTOR, 3.9 * FACTOR), "fine holes", id="head by style"),
    pytest.param(part("fresh_tank", nominal_m3=0.060), "volume_m3", (0.0516, 0.0558, 0.0588),
                 "brim", id="60 L nominal"),
    # (0.8 + 0.5)/2 × 0.45 × 0.25 = 0.073125 m³
    pytest.param(part("grey_tank", inside_length_m=0.8, floor_length_m=0.5, inside_width_m=0.45,
                      inside_height_m=0.25), "volume_m3", (0.060694, 0.066544, 0.0702), "tapered",
                 id="tapered box"),
    # π/4 × 60² mm² × 500 mm = 1.4137 L
    pytest.param(part("canister", tube_length_m=0.5, tube_bore_m=0.06), "volume_m3",
                 (1.3148e-3, 1.3713e-3, 1.4137e-3), "less the element", id="canister by tube"),
    pytest.param(part("element", resistance_ohm=0.72, supply_v=12.0), "power_w", (186, 200, 214),
                 "ohms", id="element by ohms"),
    pytest.param(part("element", rated_w=200, rated_v=12, supply_v=11), "power_w",
                 (159.7, 168.1, 176.5), "squared", id="element at low voltage"),
    pytest.param(part("battery", charge_as=100 * 3600, chemistry="lithium"), "usable_j",
                 (3.917e6, 4.378e6, 4.608e6), "lithium", id="battery by amp hours"),
    pytest.param(part("hook_up", amps_a=6), "limit_w", (1242, 1380, 1380), "230 V", id="hook-up"),
    pytest.param(part("panel", best_v=33.1, best_a=6.06), "rated_w", (194.6, 200.6, 206.6),
                 "volts", id="panel"),
    pytest.param(part("foot_pump", stroke_m3=6e-5), "flow_m3_per_s",
                 (25e-6, 40e-6, 60e-6), "strokes", id="foot pump"),
    pytest.param(part("coil", length_m=6.0, outside_m=0.012), "conductance_w_per_k",
                 (100, 150, 250), "outside area", id="coil of the handbook"),
    pytest.param(part("liquid_heater", rated_w=5000), "heat_w", (4500, 5000, 5000), "coolant",
                 id="liquid heater by kW"),
    pytest.param(part("filter", flow_m3_per_s=2.5 * LITRE_PER_MIN), "flow_factor_si",
                 (1.25 * FACTOR, 1.7678 * FACTOR, 2.5 * FACTOR), "household", id="filter"),
    pytest.param(part("gas_bottle", gas_kg=2.0), "conductance_w_per_k", (0.72, 1.2, 1.68),
                 "still air", id="small bottle of the handbook"),
    pytest.param(part("kettle", volume_m3=0.0015, stove_w=1500.0, efficiency=0.5), "boils_in_s",
                 (710.6, 710.6, 710.6), "ring", id="kettle"),
    pytest.param(part("primary_fluid", antifreeze_share=0.5), "freezes_c", (-33, -29, -26),
                 "glycol", id="half antifreeze"),
    pytest.param(Pipe(id="r", **ENDS, family="copper", nominal="15 mm"), "bore_m",
                 (0.013464, 0.0136, 0.013736), "0.7 mm wall", id="15 mm copper"),
    pytest.param(Pipe(id="r", **ENDS, family="copper", nominal="15 mm", elbows=2, formed_bends=1),
                 "loss_k", (1.95, 3.3, 5.5), "counted", id="fittings"),
    pytest.param(Cable(id="r", **ENDS, gauge=10, length_m=3.0), "area_m2", (5.26e-6,) * 3,
                 "gauge 10", id="10 AWG"),
    # 1.78e-8 × 2 × 3 / 6e-6
    pytest.param(Cable(id="r", **ENDS, area_m2=6e-6, length_m=3.0), "loop_ohm",
                 (0.01691, 0.0178, 0.02225), "there and back", id="6 mm²"),
    pytest.param(FuelPipe(id="r", **ENDS, outside_m=0.008, way="copper"), "bore_m",
                 (0.006208, 0.0064, 0.006592), "two walls", id="8 mm gas copper"),
]  # fmt: skip


@pytest.mark.parametrize(("piece", "name", "expected", "words"), CASES)
def test_the_box_becomes_a_figure_with_its_doubt(piece, name, expected, words):
    found = figure(piece, name)
    assert found.origin == "derived"
    assert words in found.because
    assert (found.low, found.likely, found.high) == pytest.approx(expected, rel=2e-3)


@pytest.mark.parametrize(
    ("family", "nominal", "bore_mm"),
    [
        # three families of about the same name, three bores
        ("semi-rigid plastic", "1/2 in", 11.7), ("inch plastic", "1/2 in", 12.32),
        ("copper", "1/2 in", 13.84), ("soft hose", "1/2 in", 12.7),
        ("semi-rigid plastic", "12 mm", 9.0), ("copper", "12 mm", 10.8),
        ("soft hose", "12 mm", 12.0),
        ("semi-rigid plastic", "15 mm", 11.7), ("copper", "15 mm", 13.6),
        ("multilayer", "16 mm", 12.0),
    ],
)  # fmt: skip
def test_the_same_size_has_another_bore_in_another_family(family, nominal, bore_mm):
    found = tube(family, nominal)
    assert found is not None
    assert found.bore.likely == pytest.approx(bore_mm / 1000, rel=2e-3)


def test_a_size_a_family_is_not_sold_in_is_unknown_and_says_which_are():
    pipe = Pipe(id="r", **ENDS, family="multilayer", nominal="15 mm")
    found = figure(pipe, "bore_m")
    assert found.origin == "unknown" and found.likely is None
    assert "16 mm" in found.because


def test_an_element_of_unknown_watts_that_took_fifty_minutes_for_a_known_store():
    """Handbook A1 read backwards: 12 L, 8 → 65 °C; 1800 W takes 1589 s without loss."""
    store = part("store", volume_m3=0.012, body_j_per_k=0.0, loss_w_per_k=1e-6)
    timed = part("element", heats_in_s=1589.0, from_c=8.0, to_c=65.0)
    found = figure(timed, "power_w", Around(host=store))
    assert found.likely == pytest.approx(1800, rel=0.005)
    assert found.low < found.likely < found.high
    # 50 minutes: (12 kg·4.18 + 1.8 kJ/K)·57 K / 3000 s + 0.8·(36.5 − 18)
    lossy = part("store", volume_m3=0.012, body_j_per_k=1800.0, loss_w_per_k=0.8)
    slow = part("element", heats_in_s=3000.0, from_c=8.0, to_c=65.0)
    hand = (11.98 * 4181 + 1800) * 57 / 3000 + 0.8 * 18.5
    assert figure(slow, "power_w", Around(host=lossy)).likely == pytest.approx(hand, rel=0.005)
    assert figure(slow, "power_w").origin == "unknown"


def test_points_that_say_nothing_are_not_taken():
    for points in ([(0.0, 0.0), (2e5, 1e-4)], [(1e5, 1e-4)], []):
        assert figure(part("pump", points=points), "open_flow_m3_per_s").origin == "unknown"


def test_insulation_by_board_and_by_a_night_of_cooling():
    """Handbook A4: 0.544 W/K; A3: 29.418 kg from 65 to 51.93 °C in 12 h at 5 °C is 0.7 W/K."""
    box = part("store", form="box", length_m=0.32, breadth_m=0.32, height_m=0.30,
               insulation_m=0.025, insulation_w_per_m_k=0.022, film_w_per_m2_k=8.0,
               fittings_share=0.0)  # fmt: skip
    assert figure(box, "loss_w_per_k").likely == pytest.approx(0.544, rel=0.005)
    foam, wool = (
        figure(part("store", volume_m3=0.01, board=board, insulation_m=0.03), "loss_w_per_k")
        for board in ("rigid foam", "wool")
    )
    assert foam.likely < wool.likely
    assert foam.low < foam.likely < foam.high
    night = part("store", volume_m3=0.030, body_j_per_k=0.0, cooled_from_c=65.0, cooled_to_c=51.93,
                 cooled_in_s=43200.0, cooled_air_c=5.0)  # fmt: skip
    assert figure(night, "loss_w_per_k").likely == pytest.approx(0.7, rel=0.02)


def test_an_override_wins_and_is_marked_with_what_it_replaced():
    head = part("shower_head", style="trigger", flow_factor_si=6 * FACTOR)
    found = figure(head, "flow_factor_si")
    assert (found.origin, found.likely) == ("given", 6 * FACTOR)
    assert found.instead is not None
    assert found.instead.likely == pytest.approx(4.5 * FACTOR)
    plain = computed(System(parts=(head,)))
    assert piece(plain, "shower-head").flow_factor_si == 6 * FACTOR


def test_unknown_is_carried_and_never_filled_in():
    bare = System(parts=(part("store"), part("element", fitted_in="store"), part("pump")))
    plain = computed(bare)
    assert piece(plain, "store").volume_m3 is None
    assert piece(plain, "element").power_w is None
    assert piece(plain, "pump").open_flow_m3_per_s is None
    assert piece(bare, "element").hysteresis_k is None
    assert piece(plain, "element").hysteresis_k == 4.0  # assumed, as usual for the kind
    assert figure(piece(bare, "element"), "hysteresis_k").origin == "assumed"


def test_what_is_settled_keeps_what_was_entered():
    tank = part("fresh_tank", nominal_m3=0.06)
    pump = part("pump", open_flow_m3_per_s=1e-4, cut_out_pa=2e5)
    run = join("r", "R", "fresh-tank.outlet", "pump.inlet", family="copper", nominal="15 mm")
    plain = computed(System(parts=(tank, pump), runs=(run,)))
    assert piece(plain, "fresh-tank").volume_m3 == pytest.approx(0.0558)
    assert plain.pipes[0].bore_m == pytest.approx(0.0136)
    assert plain.pipes[0].length_m is None


def test_bores_and_walls_agree_with_the_handbook():
    """15 mm plastic 149 J/mK and 12 mm 107: walls of 1.65 and 1.5 mm of polyethylene."""
    sizes = (tube("semi-rigid plastic", "15 mm"), tube("semi-rigid plastic", "12 mm"))
    for size, expected in zip(sizes, (149, 107), strict=True):
        assert size is not None
        area = pi * size.wall.likely * (size.bore.likely + size.wall.likely)
        assert area * 2.16e6 == pytest.approx(expected, rel=0.02)


def test_every_kind_has_words_for_every_property():
    for side in reference():
        for kind in side.kinds:
            assert kind.words
            for item in kind.properties:
                assert item.title and item.holds and item.default
