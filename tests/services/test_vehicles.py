"""Revisions: every edit kept, undone, redone, merged or refused; nothing silently lost."""

from __future__ import annotations

import json
import threading
from pathlib import Path

import pytest
from pydantic import ValidationError

from isotherma.catalogue.demo import drover
from isotherma.core import editing
from isotherma.core.cache import Caches
from isotherma.core.errors import MissingValue
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.layouts import usual_route
from isotherma.files.project_file import read_project
from isotherma.services.computing import ResultService
from isotherma.services.vehicles import Moved, NewerElsewhere, NotFound, Vehicles
from isotherma.store import vehicles as queries
from isotherma.store.engine import open_engine, open_sessions
from isotherma.store.models import Vehicle

STORE = "variants.ten-litres.system.parts.store"


@pytest.fixture
def number(vehicles):
    return vehicles.create(drover(), "Demo")


def litres(project):
    found = editing.value_at(project, f"{STORE}.volume_m3")
    assert isinstance(found, float)
    return found * 1000


def set_litres(vehicles, number, base, value):
    return vehicles.set_values(number, base, {f"{STORE}.volume_m3": value / 1000}, f"→ {value}")


def test_edits_undo_and_redo_survive_another_process(vehicles, number, database_url):
    opened = vehicles.open(number)
    assert opened.undo_label is None and opened.redo_label is None
    for value in (11, 12, 13):
        opened = set_litres(vehicles, number, opened.head_id, value)
    opened = vehicles.undo(number, opened.head_id)
    opened = vehicles.undo(number, opened.head_id)
    assert litres(opened.project) == 11
    assert litres(opened.previous) == 12
    engine = open_engine(database_url)
    other = Vehicles(open_sessions(engine))
    opened = other.open(number)
    assert (opened.undo_label, opened.redo_label) == ("→ 11", "→ 12")
    opened = other.redo(number, opened.head_id)
    opened = other.redo(number, opened.head_id)
    assert litres(opened.project) == 13
    assert opened.redo_label is None
    engine.dispose()


def test_undo_stops_at_the_first_state(vehicles, number):
    opened = vehicles.open(number)
    again = vehicles.undo(number, opened.head_id)
    assert again.head_id == opened.head_id
    assert vehicles.redo(number, opened.head_id).head_id == opened.head_id


def test_a_change_after_undo_ends_redo_but_keeps_the_old_state(vehicles, number):
    first = vehicles.open(number)
    second = set_litres(vehicles, number, first.head_id, 12)
    back = vehicles.undo(number, second.head_id)
    opened = set_litres(vehicles, number, back.head_id, 15)
    assert opened.redo_label is None
    assert litres(vehicles.at(number, second.head_id)) == 12


def test_edits_of_different_values_in_two_windows_both_stay(vehicles, number):
    base = vehicles.open(number).head_id
    set_litres(vehicles, number, base, 12)
    opened = vehicles.set_values(number, base, {"brief.days": 5}, "days")
    assert litres(opened.project) == 12
    assert opened.project.brief.days == 5


def test_edits_of_one_value_in_two_windows_are_told(vehicles, number):
    base = vehicles.open(number).head_id
    first = set_litres(vehicles, number, base, 12)
    with pytest.raises(NewerElsewhere) as caught:
        set_litres(vehicles, number, base, 14)
    assert caught.value.conflicts == {f"{STORE}.volume_m3": 0.012}
    assert caught.value.head_id == first.head_id
    assert litres(vehicles.open(number).project) == 12
    assert set_litres(vehicles, number, base, 12).head_id == first.head_id  # both meant the same
    assert litres(set_litres(vehicles, number, first.head_id, 14).project) == 14


def test_undo_from_an_old_window_is_refused(vehicles, number):
    base = vehicles.open(number).head_id
    set_litres(vehicles, number, base, 12)
    with pytest.raises(Moved):
        vehicles.undo(number, base)
    assert litres(vehicles.open(number).project) == 12


def test_many_writers_lose_nothing(vehicles, number):
    base = vehicles.open(number).head_id
    paths = [f"brief.draws.{draw.id}.duration_s" for draw in drover().brief.draws]
    failures = []

    def write(path, value):
        try:
            vehicles.set_values(number, base, {path: value}, path)
        except Exception as error:
            failures.append(error)

    threads = [
        threading.Thread(target=write, args=(path, 100.0 + i)) for i, path in enumerate(paths)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert failures == []
    project = vehicles.open(number).project
    assert [editing.value_at(project, path) for path in paths] == [100.0, 101.0, 102.0, 103.0]


def test_a_wrong_value_changes_nothing(vehicles, number):
    base = vehicles.open(number).head_id
    with pytest.raises(ValidationError):
        set_litres(vehicles, number, base, -1)
    assert vehicles.open(number).head_id == base


def test_an_edit_without_a_change_is_no_revision(vehicles, number):
    base = vehicles.open(number).head_id
    assert set_litres(vehicles, number, base, 10).head_id == base
    assert vehicles.change(number, lambda project: project, "nothing").head_id == base


def test_deleting_hides_and_restoring_brings_back(vehicles, number):
    assert vehicles.delete(number) == "Drover"
    assert vehicles.overview() == []
    with pytest.raises(NotFound):
        vehicles.open(number)
    vehicles.restore(number)
    assert [row.project.name for row in vehicles.overview()] == ["Drover"]
    for call in (vehicles.delete, vehicles.restore, vehicles.open):
        with pytest.raises(NotFound):
            call(9999)


def test_revisions_of_other_vehicles_are_out_of_reach(vehicles, number):
    other = vehicles.create(drover(), "Demo")
    with pytest.raises(NotFound):
        vehicles.at(number, vehicles.open(other).head_id)
    with pytest.raises(NotFound):
        vehicles.set_values(number, vehicles.open(other).head_id, {"brief.days": 3}, "x")


def test_the_demo_is_loaded_once_even_after_it_was_deleted(vehicles):
    assert vehicles.load_demo_once()
    names = [listed.project.name for listed in vehicles.overview()]
    assert names == ["Drover", "Folio, winter", "Folio, summer", "Curlew"]
    vehicles.delete(vehicles.overview()[0].vehicle_id)
    assert not vehicles.load_demo_once()
    assert len(vehicles.overview()) == 3


def test_what_an_older_version_stored_is_opened_edited_and_undone(vehicles):
    """A database of format 1 stays readable, revision by revision."""
    kept = Path(__file__).parents[1] / "files" / "kept" / "format-1-drover.isotherma.json"
    content = json.loads(kept.read_text())
    old = {key: value for key, value in content.items() if not key.startswith("format")}
    with vehicles._sessions.begin() as session:
        vehicle = Vehicle()
        session.add(vehicle)
        session.flush()
        queries.append(session, vehicle, label="Old", format_version=1, document=json.dumps(old))
        number = vehicle.id
    opened = vehicles.open(number)
    assert opened.project == read_project(kept.read_bytes())
    vehicles.set_values(number, opened.head_id, {"brief.days": 5}, "Days")
    again = vehicles.open(number)
    assert again.previous == opened.project
    assert vehicles.undo(number, again.head_id).project == opened.project


def test_results_are_kept_and_errors_too():
    computing = ResultService(Caches(10**8))
    project = drover()
    first = computing.result(project, project.variants[0])
    assert isinstance(first, Outcome)
    assert computing.result(project, project.variants[0]) is first
    unknown = Project(name="x", variants=(Variant(id="a", name="a", system=usual_route()),))
    error = computing.result(unknown, unknown.variants[0])
    assert isinstance(error, MissingValue)
