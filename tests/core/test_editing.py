"""Edits of a project: what changes, what stays, what is refused."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from isotherma.catalogue import PRESETS, climate_in
from isotherma.catalogue.classes import classes
from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.errors import ChangeRefused, MissingValue
from isotherma.core.simulate import simulate
from isotherma.core.system import PortRef
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.kinds.water import Strainer
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.route import reading_order
from isotherma.core.system.states import Phase, State
from isotherma.core.system.vehicle import Hole, Space

STORE = "variants.ten-litres.system.parts.store"


def test_one_value_changes_and_nothing_else():
    before = drover()
    after = editing.set_values(before, {f"{STORE}.volume_m3": 0.014})
    assert editing.value_at(after, f"{STORE}.volume_m3") == 0.014
    assert after.variants[1] == before.variants[1]
    assert after.brief == before.brief
    assert editing.value_at(before, f"{STORE}.volume_m3") == 0.010
    again = editing.set_values(after, {f"{STORE}.volume_m3": 0.010})
    assert again == before


def test_two_edges_of_a_window_move_together():
    path = "brief.draws.early-shower"
    moved = editing.set_values(drover(), {f"{path}.low_c": 44.0, f"{path}.high_c": 48.0})
    assert editing.value_at(moved, f"{path}.low_c") == 44.0
    with pytest.raises(ValidationError):
        editing.set_values(drover(), {f"{path}.low_c": 44.0})


@pytest.mark.parametrize(
    "path",
    ["brief.nothing", "variants.ghost.name", f"{STORE}.ghost", "brief.draws.ghost.start_s"],
)
def test_a_path_that_leads_nowhere_is_refused(path):
    with pytest.raises(ChangeRefused) as caught:
        editing.set_values(drover(), {path: 1.0})
    assert caught.value.path == path
    with pytest.raises(ChangeRefused):
        editing.value_at(drover(), path)


def test_draws_come_and_go_under_ids_of_their_own():
    project = drover()
    for _ in range(3):
        project = editing.add_draw(project, PRESETS["shower"])
    ids = [draw.id for draw in project.brief.draws]
    assert ids[-3:] == ["shower", "shower-2", "shower-3"]
    project = editing.remove_draw(project, "shower-2")
    assert "shower-2" not in [draw.id for draw in project.brief.draws]
    with pytest.raises(ChangeRefused):
        editing.remove_draw(project, "shower-2")


def test_a_draw_is_repeated_right_after_itself():
    project = editing.repeat_draw(drover(), "early-shower")
    project = editing.repeat_draw(project, "early-shower")
    first = drover().brief.draws[0]
    starts = sorted(d.start_s for d in project.brief.draws if d.name == first.name)
    assert starts == [first.start_s, first.start_s + 360.0, first.start_s + 720.0]
    late = editing.set_values(project, {"brief.draws.early-shower.start_s": 86_300.0})
    for draw_id in ("early-shower", "ghost"):
        with pytest.raises(ChangeRefused):
            editing.repeat_draw(late, draw_id)


@pytest.mark.parametrize("kind", ["shut_off", "strainer", "accumulator", "check_valve", "filter"])
def test_a_part_goes_into_a_run_and_out_again(kind):
    before = drover()
    after = editing.insert_part(before, "ten-litres", "hot-run", editing.new_part(kind))
    system = after.variant("ten-litres").system
    added = {part.id for part in system.parts} - {
        part.id for part in before.variant("ten-litres").system.parts
    }
    assert len(added) == 1
    names = [piece.id for piece in reading_order(system)]
    assert names.index("store") < names.index(next(iter(added))) < names.index("mixer")
    back = editing.remove_part(after, "ten-litres", added.pop())
    assert back == before


def test_removing_joins_what_was_on_both_sides():
    after = editing.remove_part(drover(), "ten-litres", "strainer")
    built = after.variant("ten-litres").system
    assert not any(isinstance(part, Strainer) for part in built.parts)
    assert (
        simulate(after.brief, built, climate_in(after.brief.region, 5)).draws[0].wait_s is not None
    )
    lengths = [run.length_m for run in after.variant("ten-litres").system.runs]
    assert 0.45 in [pytest.approx(length) for length in lengths]


def test_what_is_not_there_cannot_be_moved():
    strainer, store = editing.new_part("strainer"), editing.new_part("store")
    refused = [
        lambda: editing.remove_part(drover(), "ten-litres", "ghost"),
        lambda: editing.insert_part(drover(), "ten-litres", "ghost", strainer),
        lambda: editing.insert_part(drover(), "ten-litres", "main", editing.new_part("gas_valve")),
        lambda: editing.insert_part(drover(), "ghost", "main", strainer),
        lambda: editing.new_part("windmill"),
        lambda: editing.fit_part(
            drover(), "ten-litres", store.model_copy(update={"fitted_in": "tank"})
        ),
        lambda: editing.join(drover(), "ten-litres", "tank", "pump.inlet", "pipe"),
        lambda: editing.add_run(drover(), "ten-litres", "string", *TWO),
        lambda: editing.remove_piece(drover(), "ten-litres", "spaces", "ghost"),
        lambda: editing.remove_piece(drover(), "ten-litres", "parts", "tank"),
        lambda: editing.add_piece(drover(), "ten-litres", "parts", Space(id="a", name="A")),
        lambda: editing.set_position(drover(), "ten-litres", "ghost", "pump", "off"),
        lambda: editing.set_place(drover(), "ten-litres", "ghost", "pump", None),
        lambda: editing.remove_use(drover(), "ghost"),
    ]
    for number, change in enumerate(refused):
        with pytest.raises(ChangeRefused):
            change()
            pytest.fail(f"change {number} was not refused")


TWO = (PortRef(part="tank", port="outlet"), PortRef(part="pump", port="inlet"))


def variant(project):
    return project.variant("ten-litres").system


def test_a_part_is_removed_with_all_that_names_it():
    project = editing.add_piece(drover(), "ten-litres", "states", State(id="s", name="Away"))
    project = editing.set_position(project, "ten-litres", "away", "burner", "off")
    project = editing.set_place(project, "ten-litres", "away", "burner", "below")
    assert variant(project).states[0].positions[0].at == "off"
    project = editing.remove_part(project, "ten-litres", "burner")
    assert variant(project).states[0].positions == variant(project).states[0].placed == ()
    project = editing.remove_part(project, "ten-litres", "store")
    assert all(part.fitted_in is None for part in variant(project).parts)
    assert all("store" not in (r.start.part, r.end.part) for r in variant(project).runs)


def test_sources_are_fitted_and_joined():
    burner = editing.new_part("burner", {"fitted_in": "store"})
    project = editing.fit_part(editing.remove_part(drover(), "ten-litres", "burner"),
                               "ten-litres", burner)  # fmt: skip
    with pytest.raises(MissingValue) as caught:
        simulate(project.brief, variant(project), climate_in(project.brief.region, 5))
    assert caught.value.path == "parts.burner.input_w"
    project = editing.add_part(project, "ten-litres", editing.new_part("gas_bottle"))
    project = editing.join(project, "ten-litres", "burner.gas", "gas-bottle.outlet", "fuel_pipe")
    run = variant(project).runs[-1]
    assert (run.kind, str(run.start), str(run.end)) == (
        "fuel_pipe", "gas-bottle.outlet", "burner.gas",
    )  # fmt: skip
    with pytest.raises(ValidationError):
        editing.join(project, "ten-litres", "tank.outlet", "gas-bottle.outlet", "pipe")


def test_positions_back_to_usual_are_not_written_down():
    project = editing.add_piece(drover(), "ten-litres", "states", State(id="s", name="Away"))
    project = editing.set_position(project, "ten-litres", "away", "pump", "off")
    assert len(variant(project).states[0].positions) == 1
    project = editing.set_position(project, "ten-litres", "away", "pump", "on")
    assert variant(project).states[0].positions == ()
    with pytest.raises(ChangeRefused):
        editing.set_position(project, "ten-litres", "away", "pump", "open")
    project = editing.set_place(project, "ten-litres", "away", "tank", "living")
    project = editing.set_place(project, "ten-litres", "away", "tank", None)
    assert variant(project).states[0].placed == ()


@pytest.mark.parametrize("group", ["spaces", "phases", "holes", "states"])
def test_a_piece_round_the_system_comes_and_goes(group):
    made = {
        "spaces": Space(id="x", name="Locker", neighbours=("living",)),
        "phases": Phase(id="x", name="Later"),
        "holes": Hole(id="x", name="Flue hole", first="living"),
        "states": State(id="x", name="Away"),
    }[group]
    before = drover()
    project = editing.add_piece(before, "ten-litres", group, made)
    new_id = getattr(variant(project), group)[-1].id
    assert new_id != "x"
    assert editing.remove_piece(project, "ten-litres", group, new_id) == before


def test_a_space_is_removed_and_what_lived_there_lives_nowhere():
    project = editing.remove_piece(drover(), "ten-litres", "spaces", "below")
    assert editing.value_at(project, "variants.ten-litres.system.parts.tank.space") is None


def test_water_by_the_litre_comes_and_goes():
    project = editing.add_use(drover(), "laundry")
    assert project.brief.uses[-1].purpose == "laundry"
    assert project.brief.other_fresh_m3 == drover().brief.other_fresh_m3
    assert editing.remove_use(project, "laundry") == drover()


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_can_be_added_and_removed(kind):
    project = editing.add_part(drover(), "ten-litres", editing.new_part(kind))
    new_id = variant(project).parts[-1].id
    assert editing.remove_part(project, "ten-litres", new_id) == drover()


def test_variants_are_copied_and_removed_but_never_the_last():
    project = editing.duplicate_variant(drover(), "ten-litres")
    assert project.variants[-1].id == "ten-litres-2"
    assert project.variants[-1].system == project.variant("ten-litres").system
    for variant_id in ("ten-litres-2", "fourteen", "foamed"):
        project = editing.remove_variant(project, variant_id)
    with pytest.raises(ChangeRefused):
        editing.remove_variant(project, "ten-litres")


def test_the_usual_route_is_laid_only_on_nothing():
    with pytest.raises(ChangeRefused):
        editing.lay(drover(), "ten-litres", usual_route())


@pytest.mark.parametrize(
    ("stem", "taken", "expected"),
    [
        ("Hot Run", [], "hot-run"),
        ("Ünï", ["n"], "n-2"),
        ("---", [], "item"),
        ("a", ["a", "a-2"], "a-3"),
    ],
)
def test_ids_are_plain_and_new(stem, taken, expected):
    assert editing.fresh_id(stem, taken) == expected


# --- own starts and caps ---


def test_a_layout_is_laid_around_what_is_owned():
    own = classes()["store-large"].part.model_copy(update={"name": "My old store"})
    layout = layouts()["pitch-store"]
    done = editing.lay_with_own(drover(), "ten-litres", layout.system, own)
    system = done.variants[0].system
    store = next(part for part in system.parts if part.kind == "store")
    old = next(part for part in layout.system.parts if part.kind == "store")
    assert store.name == "My old store" and store.owned == "owned"
    assert (store.id, store.space) == (old.id, old.space)
    assert [part.id for part in system.fitted(store.id)] == [
        part.id for part in layout.system.fitted(old.id)
    ]
    kettle = classes()["kettle-usual"].part
    with pytest.raises(ChangeRefused, match="has_no"):
        editing.lay_with_own(drover(), "ten-litres", layout.system, kettle)


def test_a_variant_begins_as_another():
    done = editing.copy_system(drover(), "fourteen", "ten-litres")
    assert done.variants[1].system == done.variants[0].system
    assert done.variants[1].name == drover().variants[1].name
    for source in ("fourteen", "castle"):
        with pytest.raises((ChangeRefused, MissingValue)):
            editing.copy_system(drover(), "fourteen", source)


def test_a_port_is_capped_with_a_pipe_like_its_neighbours():
    base = drover()
    system = base.variants[0].system
    last = next(run for run in system.pipes if run.end.part == "head")
    cut = editing.remove_piece(base, "ten-litres", "runs", last.id)
    cap = classes()["blanking-cap-usual"].part
    end = f"{last.start.part}.{last.start.port}"
    done = editing.cap_port(cut, "ten-litres", end, cap)
    run = done.variants[0].system.pipes[-1]
    assert run.end.part.startswith("blanking-cap") and run.length_m == 0.05
    near = next(item for item in system.pipes if last.start.part in (item.start.part,
                                                                      item.end.part))  # fmt: skip
    assert run.family == near.family and run.nominal == near.nominal
    with pytest.raises(ValidationError):
        editing.cap_port(done, "ten-litres", end, cap)
    with pytest.raises(ChangeRefused):
        editing.cap_port(cut, "ten-litres", "castle.outlet", cap)
