"""Versions: kept states are named, compared with now in words, and brought back."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover, folio
from isotherma.core import editing
from isotherma.core.editing.difference import differences
from isotherma.services.vehicles import Moved, NotFound
from tests.web.test_pages import soup, text

VOLUME = "variants.ten-litres.system.parts.store.volume_m3"


@pytest.fixture
def vehicles(client):
    return client.app.state.services.vehicles


@pytest.fixture
def number(demo):
    return int(demo.split("/")[2])


def enlarge(vehicles, number, litres):
    opened = vehicles.open(number)
    return vehicles.set_values(number, opened.head_id, {VOLUME: litres / 1000}, f"{litres} litres")


# --- what differs ---


def test_a_changed_value_is_one_difference():
    before = drover()
    after = editing.set_values(before, {VOLUME: 0.012, "brief.days": 3})
    found = {item.path: item for item in differences(before, after)}
    assert set(found) == {VOLUME, "brief.days"}
    assert found[VOLUME].style == "volume" and found[VOLUME].after == 0.012
    assert "Gas-and-mains store" in found[VOLUME].where
    assert found["brief.days"].title == "Days between fills"
    assert differences(before, before) == ()


def test_pieces_that_come_and_go_are_named():
    before = drover()
    after = editing.remove_draw(before, "child-shower")
    (gone,) = differences(before, after)
    assert gone.title == "Child’s shower" and gone.after is None
    (back,) = differences(after, before)
    assert back.before is None and back.after == "there"


def test_another_kind_in_its_place_is_said():
    from isotherma.catalogue.classes import classes

    before = folio()
    fine = classes()["shower-head-fine"].part
    after = editing.replace_part(before, "button", "head", fine)
    titles = {item.title for item in differences(before, after)}
    assert "Name" in titles
    assert len(differences(before, folio())) == 0


# --- the service ---


def test_history_names_and_brings_back(vehicles, number):
    enlarge(vehicles, number, 12)
    enlarge(vehicles, number, 14)
    history = vehicles.history(number)
    assert [item.label for item in history] == ["14 litres", "12 litres", "Demo vehicle"]
    vehicles.name_revision(number, history[-1].id, "As bought")
    assert vehicles.history(number)[-1].name == "As bought"
    opened = vehicles.bring_back(number, history[0].id, history[-1].id)
    assert opened.undo_label == "Back to As bought"
    assert opened.project == drover()
    assert vehicles.undo(number, opened.head_id).project.variants[0] != drover().variants[0]
    vehicles.name_revision(number, history[-1].id, "")
    assert vehicles.history(number)[-1].name is None


def test_only_its_own_states_and_only_from_what_is_shown(vehicles, number):
    other = vehicles.create(folio(), "Other")
    theirs = vehicles.open(other).head_id
    mine = vehicles.open(number).head_id
    for wrong in (theirs, 0, 2**40):
        with pytest.raises(NotFound):
            vehicles.name_revision(number, wrong, "x")
        with pytest.raises(NotFound):
            vehicles.bring_back(number, mine, wrong)
    with pytest.raises(NotFound):
        vehicles.history(10**9)
    enlarge(vehicles, number, 12)
    with pytest.raises(Moved):
        vehicles.bring_back(number, mine, mine)


def test_a_name_outlives_a_hundred_changes(vehicles, number):
    vehicles.name_revision(number, vehicles.open(number).head_id, "The first")
    for litres in range(5, 120):
        enlarge(vehicles, number, litres)
    history = vehicles.history(number)
    assert history[-1].name == "The first" and len(history) == 101


# --- the page ---


def test_the_page_names_compares_and_brings_back(client, demo, vehicles, number):
    enlarge(vehicles, number, 14)
    page = soup(client.get(f"{demo}/versions"))
    assert "14 litres" in text(page) and "now" in text(page)
    first = vehicles.history(number)[-1].id
    named = client.post(
        f"{demo}/versions/name", data={"revision": first, "text": "  Wie   gekauft ✓ "}
    )
    assert named.status_code == 303
    only = soup(client.get(f"{demo}/versions?named=true"))
    assert "Wie gekauft ✓" in text(only) and "14 litres" not in text(only.find("ol"))
    against = soup(client.get(f"{demo}/versions?against={first}"))
    row = text(against.select_one("table tbody tr"))
    assert "Gas-and-mains store" in row and "10" in row and "14" in row
    back = client.post(f"{demo}/versions/back", data={
        "revision": first, "_base": vehicles.open(number).head_id,
    })  # fmt: skip
    assert back.status_code == 303
    assert vehicles.open(number).project == drover()
    assert "Nothing differs" in client.get(f"{demo}/versions?against={first}").text
    client.cookies.set("units", "us")
    middle = vehicles.history(number)[1].id
    assert "gal" in client.get(f"{demo}/versions?against={middle}").text


def test_what_cannot_be_is_explained(client, demo, vehicles, number):
    head = vehicles.open(number).head_id
    long = client.post(f"{demo}/versions/name", data={"revision": head, "text": "x" * 99})
    assert long.status_code == 422 and "at most 80" in text(soup(long))
    tag = client.post(f"{demo}/versions/name", data={"revision": head, "text": "<b>"})
    assert tag.status_code == 422
    assert client.get(f"{demo}/versions?against=999999").status_code == 404
    assert client.post(f"{demo}/versions/name", data={"revision": 0}).status_code == 404
    enlarge(vehicles, number, 12)
    late = client.post(f"{demo}/versions/back", data={"revision": head, "_base": head})
    assert late.status_code == 409 and "Another window" in text(soup(late))
    assert client.get(f"{demo.rsplit('/', 1)[0]}/nothing/versions").status_code == 404
