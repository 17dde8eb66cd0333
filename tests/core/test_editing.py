"""Edits of a project: what changes, what stays, what is refused."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from isotherma.catalogue import PRESETS
from isotherma.catalogue.demo import drover
from isotherma.core import editing
from isotherma.core.errors import ChangeRefused
from isotherma.core.system.parts import Strainer
from isotherma.core.system.route import find_route

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
    ["brief.nothing", "variants.ghost.name", f"{STORE}.element.ghost", "brief.draws.ghost.start_s"],
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


@pytest.mark.parametrize("kind", editing.IN_LINE_KINDS)
def test_a_part_goes_into_a_run_and_out_again(kind):
    before = drover()
    after = editing.insert_part(before, "ten-litres", "hot-run", kind)
    system = after.variant("ten-litres").system
    added = {part.id for part in system.parts} - {
        part.id for part in before.variant("ten-litres").system.parts
    }
    assert len(added) == 1
    route = find_route(system)
    assert [type(step).__name__ for step in route.hot].count("Run") == 2
    back = editing.remove_part(after, "ten-litres", added.pop())
    assert back == before


def test_removing_joins_what_was_on_both_sides():
    after = editing.remove_part(drover(), "ten-litres", "strainer")
    route = find_route(after.variant("ten-litres").system)
    assert not any(isinstance(step, Strainer) for step in route.feed)
    assert route.feed[-1].id == "main"
    lengths = [run.length_m for run in after.variant("ten-litres").system.runs]
    assert 0.45 in [pytest.approx(length) for length in lengths]


def test_what_the_route_needs_stays():
    for part_id in ("pump", "store", "mixer", "head", "split", "tank", "ghost"):
        with pytest.raises(ChangeRefused):
            editing.remove_part(drover(), "ten-litres", part_id)
    with pytest.raises(ChangeRefused):
        editing.insert_part(drover(), "ten-litres", "ghost", "strainer")
    with pytest.raises(ChangeRefused):
        editing.insert_part(drover(), "ten-litres", "main", "store")
    with pytest.raises(ChangeRefused):
        editing.insert_part(drover(), "ghost", "main", "strainer")


def test_sources_are_fitted_and_taken_out():
    bare = editing.fit_source(drover(), "ten-litres", "burner", fitted=False)
    assert editing.value_at(bare, f"{STORE}.burner") is None
    fitted = editing.fit_source(bare, "ten-litres", "burner", fitted=True)
    assert editing.value_at(fitted, f"{STORE}.burner.input_w") is None
    with pytest.raises(ChangeRefused):
        editing.fit_source(drover(), "ten-litres", "kettle", fitted=True)


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
        editing.lay_usual_route(drover(), "ten-litres")


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
