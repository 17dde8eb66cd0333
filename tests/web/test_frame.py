"""The strip of budgets: use, limit, margin, and what the last change did."""

from __future__ import annotations

from types import SimpleNamespace
from typing import cast

import pytest
from starlette.datastructures import QueryParams

from isotherma.catalogue.demo import drover, folio
from isotherma.core import editing
from isotherma.core.cache import Caches
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import System
from isotherma.core.system.layouts import usual_route
from isotherma.services.checking import CheckService
from isotherma.services.computing import ResultService
from isotherma.services.vehicles import NotFound, Opened
from isotherma.web.frame.context import PageContext, Services
from isotherma.web.frame.frame import make_frame
from isotherma.web.rooms import ROOMS

COMPUTING = ResultService(Caches(10**8))
CHECKING = CheckService(Caches(1_000_000), COMPUTING)
STORE = "variants.ten-litres.system.parts.store.volume_m3"
TANK = "variants.ten-litres.system.parts.tank.volume_m3"


def frame(project, previous=None, units=UnitSystem.METRIC, variant="ten-litres"):
    opened = Opened(1, 7, project, previous, "x", None)
    services = cast("Services", SimpleNamespace(computing=COMPUTING, checking=CHECKING))
    context = PageContext(services, ROOMS, opened, variant, units, QueryParams())
    return make_frame(context, "parts")[0]


def cell(made, budget):
    return next(item for item in made.cells if item.budget == budget)


def test_a_change_of_use_is_shown_before_and_after():
    after = editing.set_values(drover(), {STORE: 0.014})
    made = frame(after, drover())
    before = frame(drover())
    change = cell(made, "warmth").change
    assert change == f"{cell(before, 'warmth').used} → {cell(made, 'warmth').used}"
    assert all(item.change == "" for item in before.cells)


def test_a_change_of_a_limit_is_shown_as_one():
    made = frame(editing.set_values(drover(), {TANK: 0.150}), drover())
    assert cell(made, "fresh").change == "limit 114\xa0L → 142\xa0L"
    assert cell(made, "gas").change == ""


def test_undo_shows_the_way_back():
    bigger = editing.set_values(drover(), {STORE: 0.014})
    there, back = frame(bigger, drover()), frame(drover(), bigger)
    old, new = cell(there, "warmth").change.split(" → ")
    assert cell(back, "warmth").change == f"{new} → {old}"


@pytest.mark.parametrize("units", list(UnitSystem))
def test_short_budgets_say_by_how_much_and_when(units):
    made = frame(drover(), units=units)
    grey = cell(made, "grey")
    assert grey.short and grey.binds and grey.over
    assert "short · day 2" in grey.margin
    assert grey.fill == "100.0"
    assert 50 < float(grey.limit_at) < 65  # 100 of 175 litres
    gas = cell(made, "gas")
    assert not gas.short and "spare" in gas.margin
    assert 0 < float(gas.fill) < 20


def test_a_budget_without_a_limit_says_so():
    free = editing.set_values(
        drover(), {"brief.budgets.grey_m3": None, "brief.budgets.mains_energy_j": None}
    )
    made = frame(free)
    assert cell(made, "grey").of == "no limit set"
    assert cell(made, "grey").margin == ""
    assert cell(made, "fresh").binds


def test_what_is_not_computed_has_a_sentence_and_no_strip():
    project = Project(name="N", variants=(Variant(id="a", name="A", system=usual_route()),))
    made = frame(project, variant="a")
    assert made.cells == () and not made.computed
    assert made.mend.field == "next-f-variants-a-system-parts-tank-volume-m3"
    assert made.next is not None and made.next.form is not None
    assert [view.name for view in made.next.form.fields] == ["volume_m3"]
    assert made.verdict.startswith("Not computed yet: Fresh tank")
    # from nothing to something: no before to compare with
    known = Project(
        name="N",
        variants=(Variant(id="a", name="A", system=drover().variants[0].system),),
    )
    assert all(item.change == "" for item in frame(known, project, variant="a").cells)


def test_an_unknown_region_is_told_with_the_page_to_mend_it():
    lost = editing.set_values(drover(), {"brief.region": "atlantis"})
    assert "“atlantis” is not in this catalogue" in frame(lost).verdict


def test_a_variant_that_is_not_there():
    with pytest.raises(NotFound):
        frame(drover(), variant="ghost")


def marks(project, variant="ten-litres"):
    return {
        step.key: (step.mark.sign, step.mark.words)
        for stage in frame(project, variant=variant).stages for step in stage.steps
    }  # fmt: skip


def test_pages_stand_in_their_stages_in_the_order_of_work():
    stages = frame(drover()).stages
    assert [stage.title for stage in stages] == [
        "Ask", "Heat", "Lay out", "Try", "Check", "Buy", "Build", "Use", "Decide",
    ]  # fmt: skip
    assert [step.key for stage in stages for step in stage.steps] == [room.key for room in ROOMS]
    assert [step.key for stage in stages for step in stage.steps if step.current] == ["parts"]


def test_a_mark_says_what_is_done_missing_and_wrong():
    made = marks(drover())
    assert made["brief"] == ("done", "enough for a first answer")
    result = COMPUTING.result(drover(), drover().variants[0])
    assert isinstance(result, Outcome)
    unmet = sum(not draw.met for draw in result.draws)
    assert made["shower"] == ("wrong", f"{unmet} draws not as asked") and unmet > 1
    alone = drover().model_copy(update={"brief": drover().brief.model_copy(update={"draws": ()})})
    assert marks(alone)["brief"] == ("missing", "missing: who washes")
    assert marks(alone)["shower"][0] == "missing"


def test_marks_of_a_vehicle_that_was_only_begun():
    new = Project(name="New", variants=(Variant(id="first", name="a", system=usual_route()),))
    made = marks(new, "first")
    assert made["shower"] == ("missing", "missing: a verdict")
    assert made["flow"][0] == "missing" and made["layout"][0] == "done"
    assert made["parts"][0] == "missing" and "figure" in made["parts"][1]
    empty = Project(name="New", variants=(Variant(id="first", name="a", system=System()),))
    made = marks(empty, "first")
    assert made["layout"] == ("missing", "missing: a route")
    assert made["parts"] == ("missing", "missing: parts")


def test_the_binding_budget_stands_beside_the_verdict():
    made = frame(drover())
    assert made.binding is not None and made.binding.binds
    assert made.binding == next(item for item in made.cells if item.binds)


def test_a_verdict_names_the_state_when_it_is_not_the_usual_one():
    project = folio()
    first, other = project.variants[0].system.states[:2]
    key = project.variants[0].id
    usual = frame(project, variant=key)
    assert "In “" not in usual.verdict
    path = f"variants.{key}.state"
    there = editing.set_values(project, {path: other.id})
    assert frame(there, variant=key).verdict.startswith(f"In “{other.name}”: ")
    assert "In “" not in frame(editing.set_values(project, {path: first.id}), variant=key).verdict


def test_checks_are_running_until_somebody_looked_and_then_count():
    made = marks(drover())
    assert made["checks"] == ("missing", "checks running")
    shown = frame(drover())
    assert not shown.found.known and "0" not in shown.found.words
