"""The catalogue: generic classes and starting layouts, complete and within sane ranges."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path

import pytest

import isotherma.catalogue
from isotherma.catalogue.classes import classes
from isotherma.catalogue.demo import curlew, drover, folio, folio_summer
from isotherma.catalogue.layouts import layouts
from isotherma.catalogue.names import ORDER
from isotherma.core.editing import add_part, lay
from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.configuration import fitted_by
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.moves import moves, seconds_of
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import Around
from isotherma.core.system.remarks import remarks
from isotherma.files.project_file import read_project, write_project
from isotherma.services.runs import compute
from tests.support import piece

HERE = Path(isotherma.catalogue.__file__).parent


def test_every_kind_has_a_class_with_a_reason():
    rows = classes().values()
    assert {row.kind for row in rows} == set(KINDS)
    for row in rows:
        assert row.reason.endswith(".") and len(row.reason) > 12
        assert row.name[0].isupper()


@pytest.mark.parametrize("row", classes().values(), ids=lambda row: row.id)
def test_a_class_says_all_the_engine_needs_of_its_kind(row):
    """A part put in from the catalogue leaves no figure of its own open."""
    project = Project(name="x", variants=(Variant(id="a", name="A"),))
    system = add_part(project, "a", row.part).variants[0].system
    needed = [figure for figure in understand(system.parts[0], Around())
              if figure.name in row.part.needs]  # fmt: skip
    assert all(figure.likely is not None for figure in needed)


# sanity: no pump of a fire brigade, no kettle of a ship
RANGES = {
    ("pump", "open_flow_m3_per_s"): (5 / 6e4, 25 / 6e4),
    ("pump", "cut_out_pa"): (1.5e5, 4e5),
    ("store", "volume_m3"): (0.003, 0.08),
    ("fresh_tank", "volume_m3"): (0.02, 0.3),
    ("element", "power_w"): (100, 3500),
    ("through_flow_gas", "heat_w"): (6e3, 35e3),
    ("combi", "heats_in_s"): (900, 5400),
    ("battery", "usable_j"): (0.3 * 3.6e6, 6 * 3.6e6),
    ("gas_bottle", "gas_kg"): (1, 15),
    ("shower_head", "flow_factor_si"): (3e-7 * 0.3, 5e-7),
    ("canister", "volume_m3"): (3e-4, 3e-3),
}


@pytest.mark.parametrize(("kind", "name"), RANGES)
def test_figures_lie_in_sane_ranges(kind, name):
    low, high = RANGES[kind, name]
    for row in (row for row in classes().values() if row.kind == kind):
        figures = {figure.name: figure for figure in understand(row.part, Around())}
        value = figures[name].likely if name in figures else getattr(row.part, name)
        assert value is None or low <= value <= high, row.id


def test_sixteen_layouts_in_our_order_flameless_first():
    assert len(layouts()) >= 16
    flames = [
        any(part.kind in {"burner", "through_flow_gas", "air_heater", "liquid_heater"}
            or (getattr(part, "fuel", None) in {"propane", "diesel"} and part.kind == "combi")
            for part in layout.system.parts)
        for layout in layouts().values()
    ]  # fmt: skip
    assert not any(flames[:4])
    assert all(flames[-6:])
    assert len({layout.name for layout in layouts().values()}) == len(ORDER)


@pytest.mark.parametrize("key", ORDER)
def test_a_layout_is_a_good_first_design(key):
    layout = layouts()[key]
    system = layout.system
    assert system.spaces and system.phases
    assert layout.brief.draws and layout.brief.uses
    assert len(system.states) >= 2
    assert all(part.space is not None for part in system.parts)
    assert {part.side for part in system.parts} >= {"use", "waste"}
    assert [remark.code for remark in remarks(system) if remark.weight == "contradiction"] == []
    assert [remark.code for remark in remarks(system) if remark.weight == "missing"] == []
    for phase in system.phases:
        assert fitted_by(system, phase.id).parts
    first = fitted_by(system, system.phases[0].id)
    assert any(part.side == "use" for part in first.parts)
    for state in system.states[1:]:
        steps = moves(system, system.states[0], state)
        assert steps and seconds_of(steps) < 3600
        back = moves(system, state, system.states[0])
        assert {step.part_id for step in back} == {step.part_id for step in steps}


@pytest.mark.parametrize("key", ORDER)
def test_a_layout_goes_through_file_and_engine(key):
    project = layouts()[key].project()
    assert read_project(write_project(project)) == project
    outcome = compute(project, project.variants[0])
    assert not isinstance(outcome, CoreError) or outcome.code in {"not_computed_yet"}
    empty = Project(name="x", variants=(Variant(id="a", name="A", system=System()),))
    assert lay(empty, "a", layouts()[key].system).variants[0].system == layouts()[key].system


def test_the_layouts_cover_what_people_build():
    """Each line is one thing a layout must show somewhere."""
    kinds = [{part.kind for part in layout.system.parts} for layout in layouts().values()]
    together = [
        {"canister", "foot_pump"}, {"outside_source", "submersible", "thermostatic_mixer"},
        {"store", "filter", "bottle_fill"}, {"burner", "element", "panel"},
        {"solenoid", "level_switch", "air_coil", "air_diverter"}, {"reducer", "pressurised_inlet",
        "open_drain"}, {"combi", "hook_up", "relief", "drain", "air_vent"}, {"combi", "fuel_tank"},
        {"through_flow_gas", "manual_mixer", "thermostatic_mixer"},
        {"through_flow_gas", "loose_container", "remote"}, {"through_flow_gas", "selector"},
        {"through_flow_gas", "gas_coupling", "coupling"}, {"return_diverter", "dump_pump",
        "float_sender"}, {"liquid_heater", "engine_coolant", "coil", "loop_pump"},
        {"primary_fluid", "plate_exchanger", "reuse_loop", "panel"}, {"gravity_bag", "kettle"},
        {"engine_coolant", "plate_exchanger"},
    ]  # fmt: skip
    for wanted in together:
        assert any(wanted <= there for there in kinds), wanted
    two_knobs = piece(layouts()["two-knob-selector"].system, "heater")
    assert two_knobs.control == "two knobs"
    plugs = [part for part in layouts()["hung-outside"].system.parts if part.kind == "coupling"]
    assert len(plugs) == 4


@pytest.mark.parametrize("make", [drover, folio, folio_summer, curlew])
def test_demo_projects_are_whole(make):
    project = make()
    assert read_project(write_project(project)) == project
    for variant in project.variants:
        found = [r.code for r in remarks(variant.system) if r.weight == "contradiction"]
        assert found == []


def test_catalogue_files_hold_no_figure_without_a_row():
    for path in (HERE / "classes").glob("*.toml"):
        for kind, rows in tomllib.loads(path.read_text()).items():
            assert kind in KINDS
            assert KINDS[kind].side == path.stem
            for row in rows.values():
                own = {"name", "reason", "price_class"}
                assert set(row) - own <= set(KINDS[kind].model_fields)
    names = re.compile(r"®|™")
    assert not any(names.search(path.read_text()) for path in HERE.rglob("*.toml"))
