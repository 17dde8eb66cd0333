"""Vehicles as a whole: started on what was chosen, imported, renamed, copied."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from isotherma.catalogue.demo import curlew
from isotherma.catalogue.layouts import layouts
from isotherma.files.project_file import FileRefused, write_project
from isotherma.services.turns import Cancelled, never
from isotherma.services.vehicles import NewerElsewhere
from isotherma.services.whole_vehicles import (
    copy_vehicle,
    import_vehicle,
    rename_vehicle,
    start_vehicle,
)


def test_a_start_is_a_layout_the_usual_route_or_nothing(vehicles):
    key, layout = next(iter(layouts().items()))
    on_layout = vehicles.open(start_vehicle(vehicles, "One", key)).project
    assert (
        on_layout.variants[0].system == layout.system
        and on_layout.brief.draws == layout.brief.draws
    )
    assert "days" in on_layout.brief.examples  # nobody has answered it yet
    usual = vehicles.open(start_vehicle(vehicles, "Two", "usual")).project
    assert {"fresh_tank", "pump", "store"} <= {part.kind for part in usual.variants[0].system.parts}
    empty = vehicles.open(start_vehicle(vehicles, "Three", "empty")).project
    assert empty.variants[0].system.parts == ()
    unknown = vehicles.open(start_vehicle(vehicles, "Four", "no such layout")).project
    assert unknown.variants[0].system == usual.variants[0].system


@pytest.mark.parametrize("name", ["", "   ", "x" * 500])
def test_a_name_that_cannot_be_makes_nothing(vehicles, name):
    with pytest.raises(ValidationError):
        start_vehicle(vehicles, name, "usual")
    assert vehicles.overview() == []


def test_a_file_comes_in_whole_or_not_at_all(vehicles):
    assert import_vehicle(vehicles, write_project(curlew()), never) == curlew()
    with pytest.raises(FileRefused):
        import_vehicle(vehicles, b"{", never)
    data = write_project(curlew())
    asked: list[bool] = []

    def leaves_when_it_is_read():
        asked.append(True)
        return len(asked) > times

    with pytest.raises(FileRefused, match="stopped"):  # whoever sent it left while it was read
        times = 0
        import_vehicle(vehicles, data, leaves_when_it_is_read)
    times = 10**9
    asked.clear()
    import_vehicle(vehicles, data, leaves_when_it_is_read)
    times = len(asked) - 1  # or at the very end
    asked.clear()
    with pytest.raises(Cancelled):
        import_vehicle(vehicles, data, leaves_when_it_is_read)
    assert [row.project.name for row in vehicles.overview()] == ["Curlew"] * 2


def test_a_copy_is_apart_from_what_it_was_copied_from(vehicles):
    number = vehicles.create(curlew(), "x")
    copy = copy_vehicle(vehicles, number)
    assert vehicles.open(copy).project.name == "Curlew (copy)"
    rename_vehicle(vehicles, copy, 0, "Tern")
    assert vehicles.open(copy).project.name == "Tern"
    assert vehicles.open(number).project == curlew()


def test_a_name_given_in_two_windows_is_lost_in_neither(vehicles):
    number = vehicles.create(curlew(), "x")
    seen = vehicles.open(number).head_id
    rename_vehicle(vehicles, number, seen, "Tern")
    with pytest.raises(NewerElsewhere) as caught:
        rename_vehicle(vehicles, number, seen, "Gull")
    assert caught.value.conflicts == {"name": "Tern"}
    assert vehicles.open(number).project.name == "Tern"
