"""What may be tried on a design that fails: small, at its paths, what suits the failure first."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.options.changes import What, changes_of, failing, shortfall
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.causes import Broke
from isotherma.core.results.outcome import Outcome
from isotherma.services.runs import compute
from isotherma.wording import change_words
from isotherma.wording.reader import Reader

L_PER_MIN = 1e-3 / 60
SIZES = [v * 1e-6 for v in (1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0)]  # cables as shops keep them


def day(project):
    outcome = compute(project, project.variants[0])
    assert isinstance(outcome, Outcome)
    return outcome


PROJECTS = {name: layout.project() for name, layout in layouts().items()}


@pytest.mark.parametrize("name", PROJECTS)
def test_every_change_can_be_made_and_said(name):
    project = PROJECTS[name]
    outcome = day(project)
    changes = changes_of(project, project.variants[0], outcome)
    assert bool(changes) == failing(outcome).any
    assert (shortfall(outcome) == 0.0) == (not failing(outcome).any)
    for change in changes:
        changed = editing.set_values(project, change.values)
        assert changed != project
        for units in UnitSystem:
            words = change_words(change, Reader.of(outcome.system, units))
            assert words and "None" not in words and "not said" not in words
    keys = [(tuple(change.values), change.after) for change in changes]
    assert len(keys) == len(set(keys))


def test_a_store_that_ends_too_soon_is_offered_less_flow_hotter_and_larger():
    outcome = day(drover())
    found = changes_of(drover(), drover().variants[0], outcome)
    whats = {change.what for change in found}
    assert {What.FLOW, What.MINUTES, What.SET_POINT, What.STORE, What.FOAM, What.DAYS} <= whats
    flows = [change for change in found if change.what is What.FLOW]
    now = max(draw.flow_m3_per_s for draw in outcome.draws)
    # half a litre a minute each: 3.88 L/min now, so 3.5, 3, 2.5 and 2
    assert [round(float(change.after) / L_PER_MIN, 3) for change in flows] == [3.5, 3.0, 2.5, 2.0]
    assert all(float(change.after) < now for change in flows)
    stores = [change.after for change in found if change.what is What.STORE]
    assert stores == pytest.approx([0.014, 0.020, 0.028])  # the next sizes over ten litres


def test_water_that_is_too_hot_is_turned_down():
    project = PROJECTS["two-knob-bucket"]
    path = "variants.two-knob-bucket.system.parts.heater.gas_share"
    hot = editing.set_values(project, {path: 0.9})
    outcome = day(hot)
    assert failing(outcome).hot and not failing(outcome).cold
    first, *_ = changes_of(hot, hot.variants[0], outcome)
    assert first.what is What.GAS_KNOB and first.after == pytest.approx(0.8)
    season = [item for item in changes_of(hot, hot.variants[0], outcome)
              if item.what is What.SEASON]  # fmt: skip
    assert [item.after for item in season] == ["summer"]


def test_a_fuse_that_blows_is_changed_with_its_cable():
    project = PROJECTS["seat-store"]
    fuse = "variants.seat-store.system.parts.heat-circuit.fuse_a"
    blown = editing.set_values(project, {fuse: 15.0})
    outcome = day(blown)
    assert failing(outcome).broke == (Broke.FUSE,)
    first, *_ = changes_of(blown, blown.variants[0], outcome)
    assert first.what is What.FUSE and first.after == 20.0
    cables = [path for path in first.values if path.endswith(".area_m2")]
    assert cables and all(first.values[path] in SIZES for path in cables)


def test_a_budget_that_ends_is_met_by_a_fill_or_a_tank():
    outcome = day(folio())
    found = changes_of(folio(), folio().variants[0], outcome)
    days = next(change for change in found if change.what is What.DAYS)
    ends = min(entry.ends_on_day for entry in outcome.ledger if entry.ends_on_day is not None)
    assert days.after == max(1, ends - 1) and days.before == 10.0
    assert failing(outcome).grey and not failing(outcome).cold


def test_knobs_reach_less_far_than_habits_and_habits_than_parts():
    outcome = day(drover())
    weights = {
        change.what: change.weight
        for change in changes_of(drover(), drover().variants[0], outcome) if change.step == 1
    }  # fmt: skip
    assert weights[What.SET_POINT] < weights[What.FLOW] < weights[What.MINUTES]
    assert weights[What.MINUTES] < weights[What.FOAM] < weights[What.STORE]
