"""Spaces and states: where things live, how they stand, what to do in between."""

from __future__ import annotations

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.editing import set_values
from tests.web.test_pages import HTMX, act, form_of, project, soup, text


@pytest.fixture
def base(client):
    path = client.post("/vehicles", data={"name": "H", "start": "hung-outside"})
    return path.headers["location"].removesuffix("/brief")


def spaces(client, base, query=""):
    return soup(client.get(f"{base}/spaces{query}"))


def test_positions_stand_in_a_table_and_are_changed_there(client, base):
    page = spaces(client, base)
    heads = [text(cell) for cell in page.select("#table-water thead th")]
    assert heads[2:] == [
        "Heater hung and plugged", "Heater fed from a bucket", "Stowed, driving",
        "Cold spray plugged", "Wash bowl hose plugged",
    ]  # fmt: skip
    chosen = page.select_one("#at-hot-gas-plug option[selected]")
    assert chosen["value"] == "joined"
    answer = act(
        client, base, "state.position", state="hot", part="gas-plug", at="apart", _page="spaces"
    )
    assert soup(answer).select_one("#at-hot-gas-plug option[selected]")["value"] == "apart"
    wrong = act(
        client, base, "state.position", state="hot", part="gas-plug", at="ajar", _page="spaces"
    )
    assert wrong.status_code == 422


def test_moves_are_listed_in_an_order_with_seconds(client, base):
    page = spaces(client, base, "?start=stowed&end=hot")
    moves = [text(item) for item in page.select(".moves li")]
    assert [m.split(":")[0].strip() for m in moves] == [
        "Hung gas heater, 6 L/min", "Gas coupling",
        "Heater into the socket", "Bottle", "Isolation valve", "Hung gas heater, 6 L/min",
    ]  # fmt: skip
    assert "Living space → Outside" in moves[0]
    assert "off → ready" in moves[-1]
    back = spaces(client, base, "?start=hot&end=stowed")
    first = text(back.select(".moves li")[0])
    assert "ready → off" in first
    assert "Nothing has to be moved" in text(spaces(client, base, "?start=hot&end=hot"))


def test_a_contradiction_is_told_where_it_is_made(client, base):
    act(client, base, "state.position", state="hot", part="spray-plug", at="joined", _page="spaces")
    said = text(spaces(client, base).find(id="state-hot"))
    assert "both joined to one half" in said
    said = text(soup(client.get(f"{base}/parts")).select_one(".remarks"))
    assert "Contradiction" in said


def test_an_order_without_a_dangerous_half_state_is_found(client):
    """Parted first, the river's coupling would leave a lit heater without water."""
    made = client.post("/vehicles", data={"name": "R", "start": "two-knob-selector"})
    base = made.headers["location"].removesuffix("/brief")
    words = text(spaces(client, base, "?start=river&end=tank").find(id="moves"))
    assert "no water reaches it" not in words and "dangerous" not in words
    assert words.index("Tank or river") < words.index("River coupling")


def test_spaces_hold_parts_and_go(client, base):
    page = spaces(client, base)
    assert "Bottle" in text(page.find(id="space-locker"))
    scope = "variants.first.system.spaces.locker"
    data = form_of(client, f"{base}/spaces", scope, "low_vent_m2")
    answer = client.post(
        f"{base}/edit", data=data | {"low_vent_m2": "200", "warmth": "outside"}, headers=HTMX
    )
    assert answer.status_code == 200
    system = project(client).variants[0].system
    locker = next(space for space in system.spaces if space.id == "locker")
    assert locker.low_vent_m2 == pytest.approx(0.02)
    assert locker.sealed_from == ("living",)
    act(client, base, "piece.remove", group="spaces", piece="locker", _page="spaces")
    assert project(client).variants[0].system.part("bottle").space is None
    assert "In no space" in text(spaces(client, base))


def test_phases_say_what_is_built_and_capped(client):
    made = client.post("/vehicles", data={"name": "S", "start": "seat-store"})
    base = made.headers["location"].removesuffix("/brief")
    page = spaces(client, base)
    words = text(page.find(id="phase-first"))
    assert "30 of 34 parts" in words
    for group in ("states", "spaces", "phases", "holes"):
        answer = act(client, base, "piece.add", group=group, _page="spaces")
        assert answer.status_code == 200
    system = project(client).variants[0].system
    assert (system.states[-1].name, system.holes[-1].name) == ("New state", "New hole")
    act(client, base, "state.place", part="tank", space="rear", state="tank", _page="spaces")
    assert project(client).variants[0].system.states[0].placed[0].space == "rear"
    act(client, base, "state.put_back", state="tank", part="tank", _page="spaces")
    assert project(client).variants[0].system.states[0].placed == ()


def test_a_vehicle_with_nothing_movable_says_so(client):
    made = client.post("/vehicles", data={"name": "N", "start": "empty"})
    base = made.headers["location"].removesuffix("/brief")
    assert "One state so far" in text(spaces(client, base))
    act(client, base, "piece.add", group="states", _page="spaces")
    assert "No part of this variant can be moved" in text(spaces(client, base))
    data = form_of(client, f"{base}/spaces", "vehicle", "payload_kg")
    answer = client.post(f"{base}/edit", data=data | {"payload_kg": "420"}, headers=HTMX)
    assert answer.status_code == 200
    assert project(client).vehicle.payload_kg == 420


def test_the_day_in_every_state_is_a_table_of_verdicts(client, base):
    page = soup(client.get(f"{base}/verdicts"))
    rows = page.select(".verdicts tbody tr")
    names = [text(row.find("th")) for row in rows]
    assert [name.removesuffix("seen now").strip() for name in names] == [
        state.name for state in project(client).variants[0].system.states
    ]
    assert sum("seen now" in name for name in names) == 1
    assert len({text(row.find("td")) for row in rows}) > 1
    part = client.get(f"{base}/verdicts", headers=HTMX)
    assert "<main" not in part.text and "seen now" in part.text
    shown = soup(client.get(f"{base}/brief")).find(class_="in-states")
    assert shown["hx-get"] == f"{base}/verdicts" and shown.find("a")["href"] == f"{base}/verdicts"


def test_a_state_is_what_one_wants_to_say(client, base):
    page = spaces(client, base)
    offered = [text(option) for option in page.select("#say-source option")]
    assert len(offered) == 2
    answer = act(client, base, "state.say", outlet="spray", source="tank", _page="spaces")
    card = soup(answer).select(".state-card")[-1]
    assert text(card.h3).startswith("Cold spray") and "from" in text(card.h3)
    moved = {text(label) for label in card.select("label.field-label")}
    assert "Heater into the socket" in moved
    wrong = act(client, base, "state.say", outlet="spray", source="gas-plug", _page="spaces")
    assert wrong.status_code == 422
    assert "join them on the Layout page" in text(soup(wrong).select_one(".notice"))


def test_a_state_names_the_few_that_differ_and_keeps_heat_gas_and_power_apart(client, base):
    card = spaces(client, base).find(id="state-stowed")
    supply = card.find(id="supply-stowed")
    inside = {text(label) for label in supply.select("label.field-label")}
    outside = {text(label) for label in card.select("label.field-label")} - inside
    assert {"Bottle", "Isolation valve", "Hung gas heater, 6 L/min"} <= inside
    assert "Heater into the socket" in outside and not inside & {"Heater into the socket"}
    assert not supply.has_attr("open")  # seven differ: more than a glance takes in


def test_a_store_under_a_seat_that_is_too_low_is_said_by_how_much(client):
    number = client.app.state.services.vehicles.create(layouts()["seat-store"].project(), "x")
    at = f"/vehicles/{number}/seat-store"
    page = soup(client.get(f"{at}/spaces"))
    assert "Nothing is known that does not fit" in text(page.select_one("#fit"))
    assert "not known" in text(page.select_one("#weight"))  # no axles, no payload
    for path, value in (("spaces.living.height_m", "300 mm"), ("parts.store.tall_m", "400 mm")):
        group, piece, name = path.split(".")
        scope = f"variants.seat-store.system.{group}.{piece}"
        head = client.app.state.services.vehicles.open(number).head_id
        answer = client.post(f"{at}/edit", headers=HTMX, data={
            "_base": str(head), "_scope": scope, "_fields": name, name: value,
            "_units": "metric", "_page": "spaces",
        })  # fmt: skip
        assert answer.status_code == 200
    words = text(soup(client.get(f"{at}/spaces")).select_one("#fit"))
    assert "Store behind the seats is 100 mm too tall for" in words


def test_a_part_says_how_it_is_got_at(client):
    number = client.app.state.services.vehicles.create(layouts()["seat-store"].project(), "x")
    page = client.get(f"/vehicles/{number}/seat-store/layout?piece=part-pump")
    words = text(soup(page).select_one("#piece"))
    assert "To change it: it stands open; 2 joints, about 11 min" in words
    assert "On the road a tube bridges it" in words


def test_parts_are_placed_drawn_and_put_beside_each_other(client):
    project = layouts()["seat-store"].project()
    nowhere = {
        f"variants.seat-store.system.parts.{part.id}.{name}": None
        for part in project.variants[0].system.parts
        for name in ("x_m", "y_m", "z_m")
    }
    nowhere["variants.seat-store.system.parts.pump.depth_m"] = None
    number = client.app.state.services.vehicles.create(set_values(project, nowhere), "x")
    at = f"/vehicles/{number}/seat-store"
    page = soup(client.get(f"{at}/spaces"))
    assert page.select_one("#stand svg") is None and "nothing is drawn" in text(
        page.select_one("#stand")
    )
    moved = act(
        client, at, "part.move", part="store", along="20", across="0", up="0", _page="spaces"
    )
    page = soup(moved)
    assert len(page.select("#stand svg.chart-wide")) == 2
    assert page.select_one("#stand-above-store")["aria-label"].startswith(
        "1, Store behind the seats"
    )
    put = act(
        client, at, "part.put", part="pump", how="behind", other="store", gap="2 in", _page="spaces"
    )
    assert put.status_code == 422  # nobody measured the pump
    assert "has no outer size" in text(soup(put).select_one(".notice"))
    on = act(
        client, at, "part.put", part="pump", how="on", other="store", gap="50 mm", _page="spaces"
    )
    assert on.status_code == 200
    project = client.app.state.services.vehicles.open(number).project
    store, pump = (project.variants[0].system.part(key) for key in ("store", "pump"))
    assert store.x_m == 1.0 and pump.x_m == 1.0
    assert pump.z_m == pytest.approx(store.tall_m + 0.05)
    bad = act(
        client, at, "part.put", part="pump", how="on", other="store", gap="wide", _page="spaces"
    )
    assert bad.status_code == 422 and "no length" in text(soup(bad).select_one(".notice"))
