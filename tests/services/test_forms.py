"""Forms: what was typed becomes a change, or stays beside its error."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from isotherma.catalogue.demo import drover
from isotherma.core.brief import Brief, Budgets, Draw, Use
from isotherma.core.editing import set_values
from isotherma.core.quantity import UnitSystem
from isotherma.core.system.kinds import KINDS as PARTS
from isotherma.core.system.runs import RUNS
from isotherma.core.system.states import Phase, State
from isotherma.core.system.vehicle import Hole, Space, Vehicle
from isotherma.services.forms import as_typed, field_errors, properties, read_form
from tests.support import shower

KINDS = [
    Brief,
    Budgets,
    Draw,
    Use,
    Space,
    Hole,
    Vehicle,
    State,
    Phase,
    *PARTS.values(),
    *RUNS.values(),
]


@pytest.mark.parametrize("kind", KINDS)
def test_every_property_has_a_title_of_its_own(kind):
    items = properties(kind)
    titles = [item.title for item in items]
    assert len(set(titles)) == len(titles)
    assert all(title and "_" not in title for title in titles)


def shown_form(document, units):
    items = properties(type(document))
    typed = {item.name: as_typed(item, getattr(document, item.name), units) for item in items}
    return [item.name for item in items], typed


@given(st.floats(5, 3600), st.floats(1e-5, 2e-3), st.sampled_from(list(UnitSystem)))
def test_a_form_sent_back_unchanged_changes_nothing(duration, flow, units):
    draw = shower(duration_s=duration, flow_m3_per_s=flow)
    names, typed = shown_form(draw, units)
    read = read_form(draw, names, typed, units)
    assert read.values == {} and read.errors == {}


@pytest.mark.parametrize("units", list(UnitSystem))
def test_whole_documents_sent_back_change_nothing(units):
    project = drover()
    system = project.variants[0].system
    for document in (project, project.brief, project.brief.budgets, *system.parts, *system.runs):
        names, typed = shown_form(document, units)
        read = read_form(document, names, typed, units)
        assert read.values == {} and read.errors == {}


def test_typed_values_become_si():
    draw = shower()
    names, typed = shown_form(draw, UnitSystem.US)
    typed |= {"start_s": ["7:45 pm"], "flow_m3_per_s": ["1 1/2"], "low_c": ["100"],
              "child": ["yes"], "stops": ["2"], "who": ["Ana"]}  # fmt: skip
    read = read_form(draw, names, typed, UnitSystem.US)
    assert read.errors == {}
    assert read.values["start_s"] == 71100.0
    assert read.values["flow_m3_per_s"] == pytest.approx(1.5 * 0.003785411784 / 60)
    assert read.values["low_c"] == pytest.approx(37.78, abs=0.01)
    assert read.values["child"] is True
    assert read.values["stops"] == 2
    assert read.values["who"] == "Ana"


def test_what_cannot_be_read_is_said_beside_its_field():
    draw = shower(flow_m3_per_s=1e-4)
    names, typed = shown_form(draw, UnitSystem.METRIC)
    typed |= {"duration_s": ["five bars"], "stops": ["1.5"], "flow_m3_per_s": [""]}
    read = read_form(draw, names, typed, UnitSystem.METRIC)
    assert set(read.errors) == {"duration_s", "stops"}
    assert "five bars" in read.errors["duration_s"]
    assert "Type for example" in read.errors["duration_s"]
    assert read.values == {"flow_m3_per_s": None}


def test_fields_outside_the_form_are_left_alone():
    read = read_form(shower(), ["name"], {"name": ["New"], "start_s": ["1"]}, UnitSystem.METRIC)
    assert read.values == {"name": "New"}


@pytest.mark.parametrize(
    ("path", "value", "name", "words"),
    [
        ("brief.draws.early-shower.duration_s", 1.0, "duration_s", "at least 5 s"),
        ("brief.days", 0, "days", "at least 1"),
        ("brief.draws.early-shower.low_c", 42.9, "", "at least 1 K"),
    ],
)
def test_a_refused_value_is_told_in_the_units_of_the_form(path, value, name, words):
    project = drover()
    scope = project.brief.draws[0] if "draws" in path else project.brief
    with pytest.raises(ValidationError) as caught:
        set_values(project, {path: value})
    errors = field_errors(caught.value, scope, UnitSystem.METRIC)
    assert words in errors[name]
