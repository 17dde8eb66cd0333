"""A pasted run table goes in whole, or says why not and changes nothing."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.quantity import UnitSystem
from isotherma.files.run_table import write_runs
from isotherma.services.run_table_saving import save_runs
from isotherma.services.vehicles import NotFound

METRIC = UnitSystem.METRIC
VARIANT = "ten-litres"


@pytest.fixture
def number(vehicles):
    return vehicles.create(drover(), "x")


def table(vehicles, number, units=METRIC):
    return write_runs(vehicles.open(number).project.variant(VARIANT).system, units)


def test_the_table_as_it_stands_changes_nothing(vehicles, number):
    head = vehicles.open(number).head_id
    for units in UnitSystem:
        saving = save_runs(vehicles, number, VARIANT, head, table(vehicles, number, units), units)
        assert saving.problems == ()
    assert vehicles.open(number).project.variants == drover().variants


@pytest.mark.parametrize("text", ["", "nonsense", "Run\tFrom\n???\t???"])
def test_what_is_no_table_is_told(vehicles, number, text):
    saving = save_runs(vehicles, number, VARIANT, 0, text, METRIC)
    assert saving.problems and not saving.conflict
    assert vehicles.open(number).project == drover()


def test_a_row_changed_in_another_window_meanwhile_is_not_put_back(vehicles, number):
    seen, shown = vehicles.open(number).head_id, table(vehicles, number)
    run = next(item for item in drover().variant(VARIANT).system.pipes if item.length_m)
    path = f"variants.{VARIANT}.system.runs.{run.id}.length_m"
    vehicles.set_values(number, seen, {path: 7.5}, "longer")
    late = save_runs(vehicles, number, VARIANT, seen, shown, METRIC)
    assert late.conflict and run.id in late.problems[0]
    now = vehicles.open(number).project.variant(VARIANT).system
    assert next(item for item in now.pipes if item.id == run.id).length_m == 7.5


def test_a_variant_that_is_gone_is_not_found(vehicles, number):
    with pytest.raises(NotFound):
        save_runs(vehicles, number, "ghost", 0, table(vehicles, number), METRIC)
