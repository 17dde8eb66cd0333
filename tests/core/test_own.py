"""What one has: it fixes sizes, strikes what leaves it unused, and says what it can do."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import cast

import pytest

from isotherma.catalogue.demo import drover
from isotherma.catalogue.families import OWN, families, fixed_to, has_place, leaves_unused
from isotherma.core import editing
from isotherma.core.errors import ChangeRefused, NotComputedYet
from isotherma.core.options.can_do import FLOWS, IN_A_ROW, can_do
from isotherma.core.options.columns import columns_of
from isotherma.core.options.extremes import Extreme, Foot, foot_pump
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.draws import WhyNot
from isotherma.core.system import AnyKind
from isotherma.files.plain import read_plain, write_plain
from isotherma.services import can_do as service
from isotherma.services.can_do import OwnWay, own_way, ways_of
from isotherma.services.edits import class_part, starting_system
from isotherma.services.family_edits import BringFamilyBack, LayFamily, StrikeFamily
from isotherma.services.sizing import SizingService, on_brief, sized_row
from isotherma.wording import extreme_words, row_words, suits_words
from tests.support import computed, few_ways

METRIC = UnitSystem.METRIC


def having(*classes: str):
    project = drover()
    for key in classes:
        project = editing.add_owned(project, cast("AnyKind", class_part(key)))
    return project


# --- its sizes are fixed ---


def test_a_family_takes_what_is_there_in_the_one_size_it_has():
    project = having("store-fourteen")
    family = fixed_to(families()["gas-and-mains"], project.owned)
    store, element = family.axes
    assert [step.id for step in store.steps] == [OWN] and store.steps[0].price == 0
    assert len(element.steps) == len(families()["gas-and-mains"].axes[1].steps)
    made = on_brief(project, family, [store.steps[0], element.steps[-1]])
    kept = next(part for part in made.variants[0].system.parts if part.kind == "store")
    assert kept.volume_m3 == pytest.approx(0.014) and kept.owned == "owned"


def test_what_follows_a_figure_follows_that_of_what_is_there():
    """A strong element of one's own gets the cable and the fuse of the class of its power."""
    project = having("element-strong")
    family = fixed_to(families()["canister"], project.owned)
    step = family.axes[1].steps[0]
    assert step.values["parts.circuit.fuse_a"] == pytest.approx(40.0)
    assert not any(path.startswith("parts.element.") for path in step.values)
    weak = cast("AnyKind", class_part("element-faint"))
    step = fixed_to(families()["canister"], [weak]).axes[1].steps[0]
    assert step.values["parts.circuit.fuse_a"] == pytest.approx(15.0)


def test_what_is_there_costs_nothing_and_is_no_unpriced_part():
    project = having(families()["closed-primary"].axes[0].steps[-1].id)
    row = sized_row(project, families()["closed-primary"])
    assert row.stands and row.sizes == (OWN,) and row.names == "" and row.smaller == ()
    assert row.columns is not None
    assert (row.columns.price, row.columns.unpriced) == ((), 0)


# --- what leaves it unused is struck, and may be brought back ---


def test_a_family_without_a_place_for_it_is_struck_and_brought_back():
    project = having("store-fourteen")
    canister, gas = families()["canister"], families()["gas-and-mains"]
    assert [part.label for part in leaves_unused(canister, project.owned)] == ["Store, 14 L"]
    assert leaves_unused(gas, project.owned) == () and has_place(gas, project.owned[0])
    row = sized_row(project, canister)
    assert (row.unused, row.stands, row.runs) == (("Store, 14 L",), False, 0)
    here = project.variants[0].id
    back = BringFamilyBack(family="canister").apply(project, here)
    assert back.brief.kept == ("canister",) and sized_row(back, canister).runs > 0
    again = StrikeFamily(family="canister").apply(back, here)
    assert again.brief.kept == () and again.brief.struck == ("canister",)


def test_two_heaters_of_which_one_has_a_place_strike_nothing():
    project = having("store-fourteen", "combi-gas")
    assert leaves_unused(families()["gas-combi"], project.owned) == ()
    assert leaves_unused(families()["gas-and-mains"], project.owned) == ()
    assert len(leaves_unused(families()["canister"], project.owned)) == 2


def test_a_tank_or_a_pump_strikes_nothing():
    project = drover()
    tank = next(part for part in project.variants[0].system.parts if part.kind == "fresh_tank")
    owned = editing.add_owned(project, tank).owned
    assert leaves_unused(families()["kettle-and-bag"], owned) == ()


def test_bringing_back_sizes_nothing_else_again(monkeypatch):
    from isotherma.core.cache import Caches
    from isotherma.services import sizing
    from isotherma.services.long_work import Asker

    project = having("store-fourteen")
    row = sized_row(project, families()["canister"])
    sized: list[str] = []

    def noted(given, family, *_more):
        sized.append(family.id)
        assert family.id in given.brief.kept  # whoever is asked sizes it, struck or not
        return replace(row, family=family.id, unused=())

    monkeypatch.setattr(sizing, "sized_row", noted)
    made = SizingService(Caches(1_000_000))
    made.rows(project, project.variants[0], Asker())
    first = len(sized)
    assert 0 < first < len(families())
    back = BringFamilyBack(family="canister").apply(project, project.variants[0].id)
    made.rows(back, back.variants[0], Asker())
    assert sized[first:] == ["canister"]


def test_it_is_begun_with_as_it_is():
    project = having("store-fourteen")
    made = LayFamily(family="gas-and-mains", sizes="own,element-usual").apply(project, "ten-litres")
    store = next(part for part in made.variants[-1].system.parts if part.kind == "store")
    assert store.volume_m3 == pytest.approx(0.014) and store.owned == "owned"
    with pytest.raises(ChangeRefused):
        LayFamily(family="gas-and-mains", sizes="own").apply(drover(), "ten-litres")


# --- what it can do ---


@pytest.fixture(scope="module")
def combi():
    project = having("combi-gas")
    return project, own_way(project, "gas-combi", "ten-litres")


def test_longer_warm_draws_at_less_flow_and_people_as_brief_asks(combi):
    _, way = combi
    found = way.found
    assert found is not None and way.error == ""
    assert [one.flow_m3_per_s for one in found.warm] == list(FLOWS)
    lasts = [one.warm_s for one in found.warm]
    assert lasts == sorted(lasts, reverse=True) and lasts[-1] > 30.0
    # it holds 10 L: what is drawn warm is that, mixed down, and no more than three times it
    litres = found.warm[0].warm_s * found.warm[0].gives_m3_per_s * 1e3
    assert 10.0 < litres < 30.0
    assert found.people == 0 and found.stopped is WhyNot.RUNS_COOL
    assert found.suits is not None and found.suits[0] == 1
    assert found.suits[1] <= max(lasts) and found.days is not None and found.days >= 1


def test_the_brief_it_would_suit_is_met_when_it_is_asked(combi):
    project, way = combi
    assert way.found is not None and way.found.suits is not None
    _, each_s, flow = way.found.suits
    family = fixed_to(families()["gas-combi"], project.owned)
    made = on_brief(project, family, [axis.steps[-1] for axis in family.axes])
    wash = made.brief.draws[0].model_copy(
        update={"duration_s": each_s, "flow_m3_per_s": flow, "start_s": 7 * 3600.0}
    )
    brief = made.brief.model_copy(update={"draws": (wash,), "days": 1})
    outcome = computed(made.model_copy(update={"brief": brief}), made.variants[0].id)
    assert outcome.draws[0].met


def test_what_is_found_is_kept_and_read_as_it_was(combi):
    _, way = combi
    assert read_plain(write_plain(way), service.WRITTEN) == way


def test_ways_are_of_what_heats_and_three_at_most():
    project = having("store-fourteen")
    own = project.owned[0].id
    assert 0 < len(ways_of(project, own)) <= 3 and ways_of(project, "nothing") == ()
    refused = editing.set_values(project, {"brief.will_not_have": ("battery heating",)})
    assert ways_of(refused, own)[0] != "small-store"


def test_what_cannot_be_run_says_so():
    error = NotComputedYet(part_id="head", part_name="Head", reason="not_joined")
    assert can_do(drover().brief, lambda _: error) is error


def test_words_of_what_it_can_do(combi):
    _, way = combi
    found = way.found
    assert found is not None
    nobody = row_words(found)
    assert nobody.startswith("Nobody washes 6") and "it runs cool" in nobody
    several = replace(found, people=2, stopped=WhyNot.DRY, again_s=0.0)
    assert row_words(several) == (
        "2 people wash one after the other, 6 min each; then the fresh water ends. "
        "The next need not wait for it."
    )  # fmt: skip
    all_of_them = replace(found, people=IN_A_ROW, stopped=None, again_s=None)
    assert "8 people and more" in row_words(all_of_them)
    assert "not hot again that day" in row_words(all_of_them)
    one = replace(found, people=1, suits=(1, 300.0, 5e-5), days=0, ends_with="grey")
    assert "One person washes 6 min" in row_words(one)
    assert suits_words(one, METRIC).endswith("but grey water does not last one such day.")
    assert "suits no wash" in suits_words(replace(one, suits=None), METRIC)
    assert "nothing that is carried ends" in suits_words(
        replace(one, days=None, ends_with=None), METRIC
    )
    assert "gal/min" in suits_words(one, UnitSystem.US)


# --- at the edges ---


@pytest.mark.parametrize(("layout", "foot"), [
    ("kettle-and-bag", Foot.NO_PUMP), ("hung-outside", Foot.LIGHTS), ("pitch-store", Foot.YES),
])  # fmt: skip
def test_a_foot_pump_does_where_nothing_lights_by_flow(layout, foot):
    assert foot_pump(starting_system(layout)) is foot


def test_a_sized_way_says_how_it_does_at_the_edges():
    row = sized_row(few_ways(drover(), "kettle-and-bag"), families()["kettle-and-bag"])
    assert row.extremes is not None and row.columns is not None
    assert row.extremes.foot is Foot.NO_PUMP and row.extremes.lost_w >= 0.0
    assert row.extremes.frost.freezes and math.isfinite(row.extremes.frost.freezes_s or math.inf)
    assert not row.extremes.frost.does
    words = extreme_words(row.extremes.frost, METRIC)
    assert "is at 0 °C after" in words
    assert extreme_words(Extreme((), "", None, ""), METRIC) == "yes"
    assert extreme_words(Extreme((), "", None, "x"), METRIC) == "cannot be run so"


def test_the_wait_between_people_is_of_those_who_had_time():
    project = drover()
    outcome = computed(project, project.variants[0].id)
    known = [draw.ready_again_s for draw in outcome.draws if draw.ready_again_s is not None]
    assert columns_of(outcome, (), 12).ready_again_s == (max(known) if known else None)


def test_the_object_has_no_words_of_a_way_that_failed():
    way = OwnWay("canister", "", None, "cannot_be")
    assert read_plain(write_plain(way), service.WRITTEN) == way
