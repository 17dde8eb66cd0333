"""What was typed into a form is saved as far as it can be; an edit is all or nothing."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core.editing import value_at
from isotherma.core.errors import ChangeRefused
from isotherma.core.fields import Document
from isotherma.core.quantity import UnitSystem
from isotherma.services.edits import read_edit
from isotherma.services.form_saving import save_form
from isotherma.services.form_words import value_words, values_label
from isotherma.services.forms import read_form
from isotherma.services.vehicles import NotFound

SCOPE = "variants.ten-litres.system.parts.store"


@pytest.fixture
def number(vehicles):
    return vehicles.create(drover(), "Demo vehicle")


def document(project, path):
    found = value_at(project, path)
    assert isinstance(found, Document)
    return found


def save(vehicles, number, base_id, units=UnitSystem.METRIC, **texts):
    then = document(vehicles.at(number, base_id), SCOPE)
    read = read_form(then, list(texts), {name: [text] for name, text in texts.items()}, units)
    return save_form(vehicles, number, base_id, SCOPE, then, read, units)


def test_what_is_right_is_saved_beside_what_is_wrong(vehicles, number):
    base = vehicles.open(number).head_id
    saving = save(vehicles, number, base, volume_m3="12 L", height_m="soup", set_c="x")
    assert saving.opened is not None and not saving.conflict
    assert set(saving.errors) >= {"height_m"} and "volume_m3" not in saving.errors
    assert value_at(saving.opened.project, f"{SCOPE}.volume_m3") == pytest.approx(0.012)
    assert saving.opened.undo_label is not None and "12 L" in saving.opened.undo_label.replace(
        "\u00a0", " "
    )


def test_another_window_s_value_is_told_and_not_overwritten(vehicles, number):
    base = vehicles.open(number).head_id
    save(vehicles, number, base, volume_m3="12 L")
    saving = save(vehicles, number, base, volume_m3="14 L", note="mine")
    assert saving.conflict and "12" in saving.errors["volume_m3"]
    assert saving.opened is not None
    assert value_at(saving.opened.project, f"{SCOPE}.volume_m3") == pytest.approx(0.012)
    assert value_at(saving.opened.project, f"{SCOPE}.note") == "mine"


def test_nothing_right_saves_nothing(vehicles, number):
    base = vehicles.open(number).head_id
    saving = save(vehicles, number, base, volume_m3="-4 L")
    assert saving.opened is None and "volume_m3" in saving.errors
    assert vehicles.open(number).head_id == base


def test_values_are_called_as_they_are_read():
    store = document(drover(), SCOPE)
    assert value_words(store, "volume_m3", None, UnitSystem.METRIC) == "nothing"
    assert value_words(store, "volume_m3", 0.01, UnitSystem.US).endswith("gal")
    assert value_words(store, "layers", 4, UnitSystem.METRIC) == "4"
    assert value_words(store, "form", "box", UnitSystem.METRIC) == "“box”"
    assert (
        values_label(store, {"volume_m3": 0.01, "form": "box"}, UnitSystem.METRIC)
        == "Volume, Shape"
    )
    mixer = document(drover(), "variants.ten-litres.system.parts.mixer")
    assert value_words(mixer, "limits", (), UnitSystem.METRIC) == "nothing"


def test_an_edit_is_kept_with_its_words_and_undone(vehicles, number):
    done = vehicles.do(number, "ten-litres", read_edit("part.remove", {"part": "strainer"}))
    assert done.after.undo_label == "Part removed" and done.before == drover()
    back = vehicles.undo(number, done.after.head_id)
    assert back.project == drover() and back.redo_label == "Part removed"


def test_an_edit_that_changes_nothing_is_no_state(vehicles, number):
    base = vehicles.open(number).head_id
    edit = read_edit("state.day", {"state": ""})
    assert vehicles.do(number, "ten-litres", edit).after.head_id == base


def test_a_refused_edit_leaves_all_as_it_was(vehicles, number):
    base = vehicles.open(number).head_id
    with pytest.raises(ChangeRefused):
        vehicles.do(number, "ten-litres", read_edit("part.remove", {"part": "castle"}))
    with pytest.raises(ChangeRefused):
        vehicles.do(number, "castle", read_edit("part.remove", {"part": "strainer"}))
    with pytest.raises(NotFound):
        vehicles.do(number + 1, "ten-litres", read_edit("part.remove", {"part": "strainer"}))
    assert vehicles.open(number).head_id == base
    assert vehicles.open(number).project == drover()


def test_marks_name_what_decides_a_page(vehicles, number):
    first = vehicles.mark(number)
    done = vehicles.do(number, "ten-litres", read_edit("part.remove", {"part": "strainer"}))
    second = vehicles.mark(number)
    vehicles.undo(number, done.after.head_id)
    third = vehicles.mark(number)
    assert len({first, second, third}) == 3
    assert vehicles.marks() != vehicles.marks("nothing called so")
    with pytest.raises(NotFound):
        vehicles.mark(number + 1)
