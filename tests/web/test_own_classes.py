"""Classes of one's own: kept from a part, used in every vehicle, carried in a file."""

from __future__ import annotations

import json

import pytest

from isotherma.catalogue.demo import curlew, drover
from isotherma.files.classes_file import class_values, part_of_class, read_classes, write_classes
from isotherma.files.project_file import FileRefused
from tests.web.test_pages import soup, text


@pytest.fixture
def other(client) -> str:
    project = curlew()
    number = client.app.state.services.vehicles.create(project, "Demo vehicle")
    return f"/vehicles/{number}/{project.variants[0].id}"


def keep(client, path, part):
    return client.post(f"{path}/own-classes/keep", data={"part": part})


def own_names(client, path):
    page = soup(client.get(f"{path}/parts"))
    return [text(one) for one in page.select("#own-classes .offers strong")]


def test_a_pump_is_entered_once_and_offered_in_every_vehicle(client, demo, other):
    client.post(f"{demo}/end/set", data={"part": "pump", "port": "inlet",
                                         "end": "male 3/8 in parallel"})  # fmt: skip
    kept = soup(keep(client, demo, "pump"))
    assert "is kept: it is offered in every vehicle now" in text(kept)
    page = soup(client.get(f"{other}/parts"))
    [offer] = page.select("#own-classes .offers li")
    value = offer.select_one("input[name=part_class]")["value"]
    client.post(f"{other}/part/add", data={"part_class": value})
    opened = client.app.state.services.vehicles.open(int(other.split("/")[2]))
    added = opened.project.variants[0].system.parts[-1]
    assert added.kind == "pump" and added.end_at("inlet") == "male 3/8 in parallel"
    assert added.space is None or added.space in {
        space.id for space in opened.project.variants[0].system.spaces}  # fmt: skip
    layout = soup(client.get(f"{other}/layout", params={"piece": "part-pump"}))
    choices = [one["value"] for one in layout.select("#replace-kind option")]
    assert value in choices
    effect = client.get(f"{other}/effect", params={
        "edit": "part.replace", "part": "pump", "part_class": value})  # fmt: skip
    assert effect.status_code == 200


def test_a_heater_of_ones_own_is_what_is_there_already(client, demo):
    keep(client, demo, "store")
    heat = soup(client.get(f"{demo}/heat"))
    option = next(one for one in heat.select("#owned-class option")
                  if one["value"].startswith("own:"))  # fmt: skip
    client.post(f"{demo}/owned/add", data={"part_class": option["value"]})
    opened = client.app.state.services.vehicles.open(int(demo.split("/")[2]))
    assert [part.kind for part in opened.project.owned] == ["store"]


def test_the_same_name_is_kept_anew_and_one_is_taken_out(client, demo):
    for _ in range(2):
        keep(client, demo, "pump")
    keep(client, demo, "mixer")
    assert len(own_names(client, demo)) == 2
    row = soup(client.get(f"{demo}/parts")).select_one("#own-classes input[name=own]")
    client.post(f"{demo}/own-classes/remove", data={"own": row["value"]})
    assert len(own_names(client, demo)) == 1
    gone = keep(client, demo, "castle")
    assert gone.status_code == 422 and "not there any more" in text(soup(gone))


def test_classes_travel_in_a_file(client, demo):
    keep(client, demo, "pump")
    keep(client, demo, "store")
    answer = client.get(f"{demo}/own-classes")
    assert "own-parts.isotherma-classes.json" in answer.headers["content-disposition"]
    for row in soup(client.get(f"{demo}/parts")).select("#own-classes input[name=own]"):
        client.post(f"{demo}/own-classes/remove", data={"own": row["value"]})
    assert own_names(client, demo) == []
    read = client.post(f"{demo}/own-classes", files={"file": ("a.json", answer.content)})
    assert "2 classes are kept" in text(soup(read)) and len(own_names(client, demo)) == 2


BAD = [
    (b"", "Choose a file"),
    (b"{", "broken at line 1"),
    (b'{"format": "letter"}', "no file of classes"),
    (json.dumps({"format": "isotherma-classes", "format_version": 99, "classes": []}).encode(),
     "newer Isotherma"),
    (json.dumps({"format": "isotherma-classes", "format_version": 8, "classes": 3}).encode(),
     "no list of"),
    (json.dumps({"format": "isotherma-classes", "format_version": 8,
                 "classes": [{"kind": "rocket"}]}).encode(), "no kind “rocket”"),
    (json.dumps({"format": "isotherma-classes", "format_version": 8,
                 "classes": [{"kind": "pump", "space": "x"}]}).encode(), "of one vehicle only"),
    (json.dumps({"format": "isotherma-classes", "format_version": 8,
                 "classes": [{"kind": "pump"}, {"kind": "pump", "price": "5"}]}).encode(),
     "Class 2 of the file was not read"),
]  # fmt: skip


@pytest.mark.parametrize(("data", "words"), BAD, ids=range(len(BAD)))
def test_a_bad_file_is_refused_and_nothing_of_it_is_kept(client, demo, data, words):
    answer = client.post(f"{demo}/own-classes", files={"file": ("a.json", data)})
    assert answer.status_code == 422 and words in text(soup(answer))
    assert own_names(client, demo) == []


def test_every_part_of_a_demo_comes_back_the_same_but_for_its_place():
    for part in drover().variants[0].system.parts:
        values = class_values(part)
        again = part_of_class(values)
        assert class_values(again) == values and again.space is None
        [read] = read_classes(write_classes([values]))
        assert read == again


def test_a_made_up_class_of_ones_own_is_none(client, demo):
    for value in ("own:", "own:[]", 'own:{"kind":"rocket"}', 'own:{"kind":"pump","x":1}'):
        answer = client.post(f"{demo}/part/add", data={"part_class": value})
        assert answer.status_code == 422 and "no class of part" in text(soup(answer))


def test_too_many_are_refused(client, demo, monkeypatch):
    monkeypatch.setattr("isotherma.services.own_classes.MOST", 1)
    keep(client, demo, "pump")
    full = keep(client, demo, "mixer")
    assert full.status_code == 422 and "remove some first" in text(soup(full))
    with pytest.raises(FileRefused):
        client.app.state.services.own_classes.read(write_classes([{"kind": "pump"}]))
