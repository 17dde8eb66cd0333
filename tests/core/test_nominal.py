"""As entered and as computed: two kinds of document, and what stays unknown has a name."""

from __future__ import annotations

from math import pi, sqrt

import pytest

from isotherma.catalogue import climate
from isotherma.catalogue.demo import drover
from isotherma.core.errors import MissingValue
from isotherma.core.quantity import UnitSystem
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.kinds import KINDS, heat
from isotherma.core.system.nominal import computed, figure, known_figure
from isotherma.core.system.runs import LEAST_RUN_M, ROUNDABOUT, RUNS
from isotherma.files.report_json import report
from isotherma.wording import cautions


def part(kind, **values):
    return {"kind": kind, "id": kind.replace("_", "-"), **values}


def built(*parts, runs=(), **values):
    return System.model_validate({"parts": list(parts), "runs": list(runs), **values})


def pipe(start, end, **values):
    ends = [dict(zip(("part", "port"), end.split("."), strict=True)) for end in (start, end)]
    return {"kind": "pipe", "id": "run", "start": ends[0], "end": ends[1], **values}


def test_what_is_entered_stays_as_it_was():
    system = built(part("store", volume_m3=0.014))
    before = system.model_dump_json()
    known = computed(system)
    assert system.model_dump_json() == before
    assert known_figure(known.part("store"), "loss_w_per_k") is not None
    assert known_figure(system.part("store"), "loss_w_per_k") is None
    assert computed(known) is known  # nothing is worked out twice


def test_every_figure_has_its_band_and_origin():
    known = computed(built(part("store", volume_m3=0.014)))
    figures = {item.name: item for item in known.figures("store")}
    assert figures["volume_m3"].origin == "given"
    assert figures["loss_w_per_k"].origin == "derived"
    assert figures["jet_share"].origin == "assumed"
    assert known.figures("nobody") == ()
    for item in figures.values():
        assert item.low is not None and item.likely is not None and item.high is not None
        assert item.low <= item.likely <= item.high, item


def test_what_cannot_be_assumed_is_a_named_list():
    known = computed(built(part("store"), part("element", fitted_in="store"), part("load")))
    paths = {item.path: item.because for item in known.missing}
    assert paths["parts.store.volume_m3"].startswith("enter litres")
    assert "parts.element.power_w" in paths and "parts.load.rated_w" in paths
    with pytest.raises(MissingValue) as raised:
        figure(known.part("load"), "rated_w")
    assert raised.value.path == "parts.load.rated_w"
    assert raised.value.part_name == "Other load"


def test_a_limit_that_is_not_there_is_none():
    known = computed(built(part("store", volume_m3=0.01), part("panel_controller")))
    assert known_figure(known.part("panel-controller"), "amps_a") is None
    assert known_figure(known.part("store"), "amps_a") is None  # its kind has none


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_usual_for_a_kind_is_in_order_and_says_why(kind):
    for name, band in KINDS[kind].usual.items():
        assert name in KINDS[kind].model_fields
        assert band.low <= band.likely <= band.high, f"{kind}.{name}"
        assert band.because


@pytest.mark.parametrize("kind", RUNS)
def test_what_is_usual_for_a_run_is_in_order_and_says_why(kind):
    for name, band in RUNS[kind].usual.items():
        assert name in RUNS[kind].model_fields and band.low <= band.likely <= band.high
        assert band.because


def test_a_run_nobody_measured_is_as_long_as_its_ends_are_apart():
    tank = part("fresh_tank", volume_m3=0.05, x_m=0.0, y_m=0.0, z_m=0.0)
    pump = part("pump", x_m=1.0, y_m=1.0, z_m=0.5)
    system = built(tank, pump, runs=[pipe("fresh-tank.outlet", "pump.inlet")])
    known = computed(system)
    length = next(item for item in known.figures("run") if item.name == "length_m")
    apart = sqrt(2.25)
    assert (length.low, length.high) == pytest.approx((apart, 2 * apart))
    assert length.likely == pytest.approx(ROUNDABOUT * apart)
    assert length.origin == "derived"
    assert "runs.run.bore_m" in {item.path for item in known.missing}


def test_a_run_between_ends_nobody_placed_stays_unknown():
    tank, pump = part("fresh_tank", volume_m3=0.05), part("pump", x_m=1.0, y_m=0.0, z_m=0.0)
    known = computed(built(tank, pump, runs=[pipe("fresh-tank.outlet", "pump.inlet")]))
    assert known.pipes[0].length_m is None
    assert "runs.run.length_m" in {item.path for item in known.missing}


def test_ends_at_one_place_are_a_joint_apart():
    at = {"x_m": 0.0, "y_m": 0.0, "z_m": 0.0}
    tank, pump = part("fresh_tank", volume_m3=0.05, **at), part("pump", **at)
    known = computed(built(tank, pump, runs=[pipe("fresh-tank.outlet", "pump.inlet")]))
    assert known.pipes[0].length_m == pytest.approx(ROUNDABOUT * LEAST_RUN_M)


def test_an_entered_length_wins_over_places():
    tank = part("fresh_tank", volume_m3=0.05, x_m=0.0, y_m=0.0, z_m=0.0)
    pump = part("pump", x_m=4.0, y_m=0.0, z_m=0.0)
    run = pipe("fresh-tank.outlet", "pump.inlet", length_m=0.4)
    assert computed(built(tank, pump, runs=[run])).pipes[0].length_m == 0.4


def test_a_cable_between_placed_ends_resists():
    at = {"x_m": 0.0, "y_m": 0.0, "z_m": 0.0}
    battery = part("battery", usable_j=1e6, **at)
    load = part("load", rated_w=20.0, **{**at, "x_m": 2.0})
    cable = {"kind": "cable", "id": "run", "area_m2": 2.5e-6,
             "start": {"part": "battery", "port": "power"},
             "end": {"part": "load", "port": "power"}}  # fmt: skip
    known = computed(built(battery, load, runs=[cable]))
    # hand: copper 1.78e-8 Ωm, there and back, 2 m apart by a way round of 1.4
    loop = next(item.likely for item in known.figures("run") if item.name == "loop_ohm")
    assert loop == pytest.approx(1.78e-8 * 2 * 2.8 / 2.5e-6)


def test_a_store_is_taken_as_tall_as_it_is_wide():
    store = computed(built(part("store", volume_m3=pi / 4 * 0.3**3))).part("store")
    assert figure(store, "height_m") == pytest.approx(0.3)


def test_the_burner_of_a_combi_follows_from_the_time_its_maker_gives():
    timed = part("combi", volume_m3=0.01, heats_in_s=1800.0, fuel="propane")
    known = computed(built(timed))
    watts = figure(known.part("combi"), "rated_w")
    back = computed(built(part("combi", volume_m3=0.01, rated_w=watts, fuel="propane")))
    assert figure(back.part("combi"), "heats_in_s") == pytest.approx(1800.0)


def test_a_mix_of_unknown_share_has_no_freezing_point():
    fluid = computed(built(part("primary_fluid"))).part("primary-fluid")
    assert figure(fluid, "antifreeze_share") == pytest.approx(0.4)
    assert known_figure(fluid, "freezes_c") is None


def test_an_entered_zero_is_zero():
    known = computed(built(part("store", volume_m3=0.01, fittings_share=0.0, jet_share=0.0)))
    assert figure(known.part("store"), "fittings_share") == 0.0
    assert figure(known.part("store"), "jet_share") == 0.0


def test_an_element_in_a_tank_without_a_body_is_not_given_one():
    tank = part("sun_container", volume_m3=0.02)
    known = computed(built(tank))
    assert isinstance(known.part("sun-container"), heat.SunContainer)
    assert figure(known.part("sun-container"), "face_m2") == pytest.approx(0.02 ** (2 / 3))


def test_what_nobody_knows_is_told_beside_the_figures():
    project = drover()
    variant = project.variants[0]
    fridge = KINDS["load"].model_validate({"id": "fridge", "name": "Fridge"})
    system = variant.system.model_copy(update={"parts": (*variant.system.parts, fridge)})
    air = climate(project.brief)
    outcome = simulate(project.brief, system, air)
    told = [line for line in cautions(outcome, UnitSystem.METRIC) if line.startswith("Not known")]
    assert told == ["Not known, so in no figure: Fridge: watts on the label."]
    data = report(outcome, None, name="n", variant="v", units=UnitSystem.METRIC)
    assert data["not_known"] == ["parts.fridge.rated_w"]
    without = simulate(project.brief, variant.system, air)
    assert outcome.ledger == without.ledger  # in no figure
    assert not [line for line in cautions(without, UnitSystem.US) if line.startswith("Not known")]
