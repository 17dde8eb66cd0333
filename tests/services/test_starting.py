"""Answers become a brief, parts that are there already, and what nobody answered an example."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest

from isotherma.catalogue import climate, regions
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.brief.answers import Answers
from isotherma.core.climate import own_air
from isotherma.core.errors import ChangeRefused
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.services.edits import read_edit
from isotherma.services.runs import compute
from isotherma.services.starting import begun_with, brief_of, owned_of, start_with_answers

ALL = Answers(
    name="Möwe", people=3, wash="long-shower", washes="outside", days=5, region="high-plateau",
    month=1, hook_up_a=6.0, drive_s=7200.0, panels_w=200.0, gas="refused", diesel="refused",
    fresh_m3=0.08, heater="store-usual", hurts=("room", "holes"),
)  # fmt: skip


def test_every_answer_stands_somewhere():
    project = begun_with(ALL)
    brief = project.brief
    assert (brief.people, brief.days, brief.region, brief.month) == (3, 5, "high-plateau", 1)
    assert [draw.duration_s for draw in brief.draws] == [600.0] * 3
    starts = [draw.start_s for draw in brief.draws]
    # ten minutes each and one between: nobody waits for the one before
    assert [b - a for a, b in pairwise(starts)] == [660.0, 660.0]
    assert brief.washes == "outside" and brief.hurts == ("room", "holes")
    assert brief.will_not_have == ("gas", "diesel") and brief.examples == ()
    kinds: dict[str, Any] = {part.kind: part for part in project.owned}
    assert kinds["hook_up"].amps_a == 6.0 and kinds["alternator"].drive_s == 7200.0
    assert kinds["panel"].rated_w == 200.0 and kinds["fresh_tank"].volume_m3 == 0.08
    assert kinds["store"].volume_m3 is not None
    assert all(part.owned == "owned" for part in project.owned)


def test_nothing_answered_is_an_example_throughout():
    project = begun_with(Answers())
    assert set(project.brief.examples) == {"people", "uses", "draws", "days", "region", "month"}
    assert project.owned == () and project.brief.will_not_have == ()


@pytest.mark.parametrize(
    ("field", "value"),
    [("hook_up_a", 0.0), ("drive_s", 0.0), ("panels_w", 0.0)],
)
def test_an_answer_of_none_is_a_part_that_gives_nothing(field, value):
    (part,) = owned_of(Answers(**{field: value}))
    assert [getattr(part, name) for name in ("amps_a", "drive_s", "rated_w")
            if getattr(part, name, None) is not None][-1] == 0.0  # fmt: skip


def test_what_is_there_goes_into_a_start_that_has_a_place_for_it():
    project = begun_with(ALL)
    laid = read_edit("system.layout", {"layout": "pitch-store", "instead": "1"}).apply(
        project, "first"
    )
    parts: dict[str, Any] = {part.kind: part for part in laid.variants[0].system.parts}
    assert parts["hook_up"].amps_a == 6.0 and parts["fresh_tank"].volume_m3 == 0.08
    assert laid.owned == project.owned  # kept, though this start has no panels
    assert laid.variants[0].name == layouts()["pitch-store"].name
    assert laid.brief == project.brief


@pytest.mark.parametrize("key", layouts())
def test_every_start_can_be_begun_with_every_answer(key):
    laid = read_edit("system.layout", {"layout": key, "instead": "1"}).apply(
        begun_with(ALL), "first"
    )
    there = {type(part) for part in layouts()[key].system.parts}
    owned = [part for part in laid.variants[0].system.parts if part.owned == "owned"]
    assert len({part.kind for part in owned}) >= sum(type(part) in there for part in ALL_OWNED)


ALL_OWNED = owned_of(ALL)


def test_a_mark_goes_with_the_first_change_and_may_be_kept(vehicles):
    number, errors = start_with_answers(vehicles, {"people": ["2"]}, UnitSystem.METRIC)
    assert number is not None and errors == {}
    opened = vehicles.open(number)
    assert "days" in opened.project.brief.examples
    opened = vehicles.set_values(number, opened.head_id, {"brief.days": 4}, "x")
    assert "days" not in opened.project.brief.examples
    done = vehicles.do(number, "first", read_edit("draw.add", {"preset": "rinse"}))
    assert "draws" not in done.after.project.brief.examples
    kept = vehicles.do(number, "first", read_edit("brief.keep", {"names": "region,month"}))
    assert not {"region", "month"} & set(kept.after.project.brief.examples)
    assert kept.after.project.brief.region == "river-plain"


@pytest.mark.parametrize(
    ("texts", "field"),
    [
        ({"people": ["many"]}, "people"),
        ({"people": ["0"]}, "people"),
        ({"fresh_m3": ["80 kg"]}, "fresh_m3"),
        ({"name": ["<b>"]}, "name"),
        ({"days": ["61"]}, "days"),
    ],
)
def test_what_is_wrong_is_said_beside_its_field_and_nothing_is_kept(vehicles, texts, field):
    before = len(vehicles.overview())
    number, errors = start_with_answers(vehicles, texts, UnitSystem.METRIC)
    assert number is None and field in errors and len(errors[field]) > 5
    assert len(vehicles.overview()) == before


def test_figures_are_read_in_the_units_of_the_person(vehicles):
    number, _ = start_with_answers(vehicles, {"fresh_m3": ["20"]}, UnitSystem.US)
    tank: Any = vehicles.open(number).project.owned[0]
    assert tank.volume_m3 == pytest.approx(20 * 3.785411784e-3)  # US gallon, by definition


def test_a_start_on_answers_has_a_verdict():
    laid = read_edit("system.layout", {"layout": "diesel-combi", "instead": "1"}).apply(
        begun_with(Answers(people=2, fresh_m3=0.1)), "first"
    )
    assert isinstance(compute(laid, laid.variants[0]), Outcome)


# --- the air of a place of one's own ---


def test_two_months_stretch_the_year_of_the_region_and_one_shifts_it():
    plain = next(region for region in regions() if region.id == "river-plain")
    both = own_air(plain, months_c=None, coldest_c=-4.0, warmest_c=30.0)
    assert min(both.air_c) == -4.0 and max(both.air_c) == 30.0
    # by hand: March is 5.3 of the region's 18.7 K above its coldest month
    assert both.air_c[2] == pytest.approx(-4.0 + 5.3 / 18.7 * 34.0)
    cold = own_air(plain, months_c=None, coldest_c=-4.0, warmest_c=None)
    assert [b - a for a, b in zip(plain.air_c, cold.air_c, strict=True)] == pytest.approx(
        [-5.5] * 12
    )
    warm = own_air(plain, months_c=None, coldest_c=None, warmest_c=22.2)
    assert max(warm.air_c) == 22.2
    assert own_air(plain, months_c=None, coldest_c=None, warmest_c=None) is plain


def test_twelve_months_of_ones_own_win_and_reach_the_day():
    brief = brief_of(Answers(month=7))
    own = brief.model_copy(update={"air_c": tuple(float(month) for month in range(12)),
                                   "coldest_c": -20.0})  # fmt: skip
    assert climate(own).air_c == 6.0  # the seventh of them
    assert climate(brief).air_c == 20.2  # the region's July
    project = begun_with(Answers())
    with pytest.raises(ValueError, match="warmest_is_colder"):
        editing.set_values(project, {"brief.coldest_c": 9.0, "brief.warmest_c": 3.0})


# --- changes that are kept by a button ---


def test_changes_are_made_only_where_they_were_tried():
    project = begun_with(Answers(people=1))
    good = '[["brief.days", 3, 2]]'
    assert read_edit("changes.make", {"changes": good}).apply(project, "first").brief.days == 2
    for text, reason in (
        ('[["brief.days", 9, 2]]', "changed_since"),
        ('[["name", "My vehicle", "x"]]', "no_property"),
        ('[["variants.other.name", 1, 2]]', "no_property"),
        ("nonsense", "unreadable_changes"),
        ("[1, 2]", "unreadable_changes"),
        ("{}", ""),
    ):
        edit = read_edit("changes.make", {"changes": text})
        if not reason:
            assert edit.apply(project, "first") == project
            continue
        with pytest.raises(ChangeRefused) as refused:
            edit.apply(project, "first")
        assert refused.value.reason == reason
