"""What was tried beside the shower is kept as typed, or refused in words."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.quantity import UnitSystem
from isotherma.services.trial_saving import keep_tried
from isotherma.services.vehicles import NotFound

VARIANT = "ten-litres"


def kept(vehicles, number, units=UnitSystem.METRIC, draw="second-shower", strategy="", base=None,
         **texts):  # fmt: skip
    opened = vehicles.open(number)
    return keep_tried(
        vehicles, number, VARIANT, base_id=opened.head_id if base is None else base, draw_id=draw,
        texts=texts, strategy=strategy, units=units,
    )  # fmt: skip


def store_m3(saving):
    return saving.opened.project.variant(VARIANT).system.part("store").volume_m3


def test_values_go_in_as_they_are_typed_in_the_person_s_units(vehicles):
    number = vehicles.create(drover(), "x")
    assert store_m3(kept(vehicles, number, volume="14")) == pytest.approx(0.014)
    us = kept(vehicles, number, UnitSystem.US, volume="4 gal")
    assert store_m3(us) == pytest.approx(4 * 3.785411784e-3)  # the US gallon, exactly
    assert us.problem == "" and us.opened.undo_label == "Kept what was tried"


def test_nothing_typed_changes_nothing(vehicles):
    number = vehicles.create(drover(), "x")
    head = vehicles.open(number).head_id
    saving = kept(vehicles, number, volume="  ", flow="")
    assert saving.problem == "" and saving.opened.head_id == head


@pytest.mark.parametrize("text", ["lots", "-3", "1e9"])
def test_what_cannot_be_is_told_and_nothing_is_kept(vehicles, text):
    number = vehicles.create(drover(), "x")
    head = vehicles.open(number).head_id
    saving = kept(vehicles, number, volume=text)
    assert saving.problem and not saving.conflict
    assert saving.opened.head_id == head


def test_another_window_s_value_is_not_overwritten(vehicles):
    number = vehicles.create(drover(), "x")
    seen = vehicles.open(number).head_id
    kept(vehicles, number, volume="14")
    late = kept(vehicles, number, volume="9", base=seen)
    assert late.conflict and "Another window" in late.problem
    assert store_m3(late) == pytest.approx(0.014)


def test_a_draw_that_is_gone_is_not_found(vehicles):
    number = vehicles.create(drover(), "x")
    with pytest.raises(NotFound):
        kept(vehicles, number, draw="ghost", volume="14")
    told = kept(vehicles, number, strategy="castle")
    assert told.problem  # no such way to mix, said in words
