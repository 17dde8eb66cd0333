"""Designs side by side: each as it is alone, differences signed, wishes judged."""

from __future__ import annotations

import csv
import io
import json

import pytest
from pydantic import ValidationError

from isotherma.catalogue.demo import curlew, drover
from isotherma.catalogue.families import families
from isotherma.core import editing
from isotherma.core.errors import ChangeRefused
from isotherma.core.options.built import Fails, Tally, built, tally
from isotherma.core.options.compared import MADE_OF, figures
from isotherma.core.options.limits import Limited, limits_of
from isotherma.core.options.measures import measure
from isotherma.core.quantity import UnitSystem
from isotherma.files.compare_json import compare_object, difference_object, figure_object
from isotherma.files.compare_table import write_comparison
from isotherma.services.comparing import (
    Side,
    changed,
    compared,
    family_side,
    variant_side,
    version_side,
)
from isotherma.services.runs import compute
from isotherma.services.shopping import shopping
from isotherma.wording import limit_words
from tests.support import computed, known

METRIC = UnitSystem.METRIC


@pytest.fixture(scope="module")
def box():
    return drover()


def side_of(project, variant_id):
    return known(variant_side(project, variant_id))


@pytest.fixture(scope="module")
def sides(box):
    made = []
    for variant in box.variants:
        made.append(compared(side_of(box, variant.id), compute(box, variant)))
    return made


def test_every_side_is_as_it_is_alone(box, sides):
    rows = figures([side.result for side in sides])
    for place, variant in enumerate(box.variants):
        alone = measure(computed(box, variant.id))
        for row in rows:
            if row.measure is not None:
                assert row.values[place] == alone.value(row.measure.id)
    assert [row.made_of for row in rows if row.measure is None] == list(MADE_OF)


def test_what_could_not_be_run_has_no_figures_and_the_others_have(box, sides):
    bare = editing.set_values(box, {"variants.fourteen.system.parts.tank.volume_m3": None})
    lost = compared(side_of(bare, "fourteen"), compute(bare, bare.variant("fourteen")))
    assert lost.error is not None and lost.error.code == "missing_value"
    rows = figures([sides[0].result, lost.result])
    assert all(row.values[1] is None and row.unknown[1] == 0 for row in rows)
    assert any(row.values[0] is not None for row in rows)


def test_what_differs_is_what_was_changed(box):
    ten, fourteen = (side_of(box, key) for key in ("ten-litres", "fourteen"))
    rows = changed(ten, fourteen)
    assert [(row.title, row.before, row.after) for row in rows] == [("Volume", 0.010, 0.014)]
    assert changed(ten, ten) == ()


def test_a_version_is_run_under_the_brief_of_today(box):
    then = editing.set_values(box, {"brief.days": 1, "brief.inside_c": 25.0})
    side = known(version_side(box, then, 7, "as built", "fourteen"))
    assert side.key == "version:7:fourteen" and side.project.brief == box.brief
    assert side.name == "Fourteen litres, as built"
    assert version_side(box, then, 7, "as built", "gone") is None
    assert variant_side(box, "gone") is None


def test_a_way_of_heating_is_put_beside_in_its_sizes(box):
    family = families()["gas-and-mains"]
    sizes = [axis.steps[-1].id for axis in family.axes]
    side = known(family_side(box, family.id, sizes, "ten-litres"))
    assert side.kind == "family" and side.key == f"family:{family.id}:{','.join(sizes)}"
    result = compared(side, compute(side.project, side.variant)).result
    assert result is not None and result.built.parts == len(side.variant.system.parts)
    assert family_side(box, family.id, (), "ten-litres") is not None
    assert family_side(box, family.id, ["none-such"], "ten-litres") is None
    assert family_side(box, "steam", (), "ten-litres") is None


UNPRICED = Tally(None, 0)


def test_joints_and_money_are_those_of_the_list(box):
    """With every fitting, and prices of the project; what nobody priced is counted."""
    paid = editing.set_values(
        box, {"prices": [{"item": "clip", "size": "semi-rigid plastic 15 mm", "price": 0.5}]}
    )
    made = shopping(paid, paid.variants[0], spare=False)
    side = Side("variant:ten-litres", "variant", "A", paid, paid.variants[0])
    results = compared(side, computed(paid, "ten-litres")).result
    assert results is not None
    assert results.built.joints == made.listed.joints > 2 * len(paid.variants[0].system.pipes)
    assert results.built.price == Tally(made.money.sum, made.money.unknown)
    assert made.money.sum is not None and made.money.unknown > 0


def test_sums_say_of_how_many_nothing_is_known():
    assert tally([1.0, None, 0.0]) == Tally(1.0, 1)
    assert tally([None, None]) == Tally(None, 2)
    assert tally([0.0]) == Tally(0.0, 0) and tally([]) == Tally(0, 0)


def test_mass_with_tanks_full_adds_their_water(box):
    weighed = box
    for part in box.variants[0].system.parts:
        path = f"variants.ten-litres.system.parts.{part.id}.dry_mass_kg"
        weighed = editing.set_values(weighed, {path: 1.5})
    made = built(computed(weighed, "ten-litres"), 12, UNPRICED)
    assert made.dry_kg == Tally(1.5 * made.parts, 0)
    assert known(made.full_kg.value) == pytest.approx(
        1.5 * made.parts + 120.0 + 10.0
    )  # tank and store


def test_the_worst_of_each_kind_of_part_is_what_fails(box):
    one = built(computed(curlew(), curlew().variants[0].id), 12, UNPRICED)
    heat = next(item for item in one.failures if item.kind is Fails.HEAT)
    assert heat.part_id == "element" and (heat.water, heat.warm) == (2, 0)
    both = built(computed(box, "ten-litres"), 12, UNPRICED)  # gas and mains: one of them is enough
    heat = next(item for item in both.failures if item.kind is Fails.HEAT)
    assert heat.warm == heat.outlets == 1
    assert [change.state for change in one.changes] and one.changes[0].seconds_s > 0.0


def test_the_table_and_the_object_say_the_same(box, sides):
    rows = figures([side.result for side in sides])
    names = [variant.name for variant in box.variants]
    table = list(csv.reader(io.StringIO(write_comparison(names, rows, METRIC))))
    assert table[0] == ["figure", "unit", *names] and len(table) == len(rows) + 1
    made = json.loads(json.dumps(compare_object([], rows, name="x"), allow_nan=False))
    assert made["format"] == "isotherma-compare"
    for cells, row in zip(table[1:], made["figures"], strict=True):
        for text, value in zip(cells[2:], row["values"], strict=True):
            assert (text == "") == (value is None)
            assert text == "" or float(text) == pytest.approx(value, rel=1e-5)
        assert row["differences"][0] in (0.0, None)
    wait = figure_object(next(row for row in rows if row.id == "longest_wait"))
    assert wait["unit"] == "s" and wait["values"][0] == pytest.approx(9.33, abs=0.05)
    differs = changed(side_of(box, "ten-litres"), side_of(box, "fourteen"))
    assert difference_object(differs[0])["then"] == 0.014


# --- wishes and what is kept ---


def test_a_wish_is_judged_judged_anew_and_taken_back(box):
    made = editing.add_wish(box, "No flame while asleep", hard=False)
    key = made.wishes[0].id
    first = editing.judge(made, key, "gas-and-mains", "so-so", "only till midnight")
    again = editing.judge(first, key, "gas-and-mains", "yes", "")
    assert known(again.wishes[0].judgement("gas-and-mains")).says == "yes"
    assert len(again.wishes[0].judgements) == 1
    assert editing.judge(again, key, "gas-and-mains", "", "") == made
    assert editing.remove_wish(again, key) == box
    twin = editing.add_wish(made, "No flame while asleep", hard=True)
    assert [wish.id for wish in twin.wishes] == [key, f"{key}-2"]


def test_a_wish_that_cannot_be_is_refused(box):
    made = editing.add_wish(box, "Quiet", hard=False)
    with pytest.raises(ValidationError):
        editing.judge(made, "quiet", "canister", "perhaps", "")
    with pytest.raises(ChangeRefused):
        editing.judge(made, "loud", "canister", "yes", "")
    with pytest.raises(ChangeRefused):
        editing.remove_wish(made, "loud")
    with pytest.raises(ValidationError):
        editing.add_wish(box, "<b>", hard=False)
    twice = made.model_dump()
    twice["wishes"] = [twice["wishes"][0]] * 2
    with pytest.raises(ValidationError):
        type(made).model_validate(twice)


def test_a_wish_changes_no_figure(box):
    wished = editing.add_wish(box, "Quiet", hard=True)
    one, two = (computed(made, "ten-litres") for made in (box, wished))
    assert one.ledger == two.ledger and wished.brief.digest == box.brief.digest


def test_the_variant_that_is_kept_stands_first_and_the_others_stay(box):
    kept = editing.keep_first(box, "foamed")
    assert [one.id for one in kept.variants] == ["foamed", "ten-litres", "fourteen"]
    assert editing.keep_first(kept, "foamed") == kept
    with pytest.raises(ChangeRefused):
        editing.keep_first(box, "gone")


# --- limits of the brief ---


def limited(**limits):
    values = {f"brief.budgets.{name}": value for name, value in limits.items()}
    project = editing.set_values(drover(), values | {"vehicle.headroom_m": 2.1})
    return limits_of(computed(project, "ten-litres"), project.vehicle)


def test_without_limits_nothing_is_held_against_them():
    assert limited() == ()


def test_limits_say_what_is_known_and_what_is_over():
    rows = {row.what: row for row in limited(holes=0, room_m3=0.1, mass_kg=100.0, setup_s=0.0)}
    assert rows[Limited.HOLES].sure and not rows[Limited.HOLES].over  # an entered 0 is a limit
    assert rows[Limited.ROOM].used is None and not rows[Limited.ROOM].sure
    mass = rows[Limited.MASS]
    assert mass.over and mass.sure and mass.unknown == 15 and mass.used == pytest.approx(130.0)
    assert "too much, 130" in limit_words(mass, METRIC)
    assert not rows[Limited.SETUP].over  # one state: nothing to do
    assert limit_words(rows[Limited.ROOM], METRIC).startswith("not known; at most 100")


def test_headroom_is_at_least_what_is_asked_and_unknown_is_said():
    low = limited(headroom_m=2.2)[0]
    assert low.over and low.used == pytest.approx(2.1)
    assert limit_words(low, METRIC).startswith("too little, 2.1")
    assert not limited(headroom_m=2.0)[0].over
    project = editing.set_values(drover(), {"brief.budgets.headroom_m": 2.0,
                                            "vehicle.headroom_m": None})  # fmt: skip
    unknown = limits_of(computed(project, "ten-litres"), project.vehicle)[0]
    assert unknown.used is None and not unknown.sure and not unknown.over
