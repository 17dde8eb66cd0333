"""Gauges in litres, joined tanks and hot air on the Flow page; tables among the bench sums."""

from __future__ import annotations

import pytest

from isotherma.catalogue.layouts import layouts
from tests.web.test_pages import soup, text


def page_of(client, name, query):
    made = layouts()[name].project()
    number = client.app.state.services.vehicles.create(made, "x")
    answer = client.get(f"/vehicles/{number}/{name}/flow?{query}")
    assert answer.status_code == 200
    return soup(answer)


def test_a_sender_is_read_in_litres_and_leans_with_the_vehicle(client):
    page = page_of(client, "two-tank-storage", "view=tanks")
    rows = [[text(cell) for cell in row.select("th, td")] for row in page.select("tbody tr")]
    assert [row[0] for row in rows] == [f"{step} of 5" for step in range(6)]
    assert all(" to " in row[1] and row[1].endswith("L") for row in rows)
    leaning = page_of(client, "two-tank-storage", "view=tanks&pitch=9")
    assert text(leaning.select_one("tbody")) != text(page.select_one("tbody"))


def test_litres_are_gallons_for_who_reads_gallons(client):
    client.cookies.set("units", "us")
    page = page_of(client, "two-tank-storage", "view=tanks")
    assert "gal" in text(page.select_one("tbody td"))


def test_joined_tanks_say_how_they_level_fill_and_follow(client):
    words = text(page_of(client, "closed-primary", "view=tanks").select_one("main"))
    assert "they are level after" in words
    assert "Filled through Tank along a wall" in words
    assert "drawn from Tank along a wall" in words
    # no gauge: the page says what to add
    assert "No float sender or sight tube sits in a tank" in words


def test_hot_air_is_shown_as_the_flap_stands(client):
    coil = page_of(client, "open-sun-box", "view=air&state=air")
    rows = {text(row.th): [text(cell) for cell in row.select("td")]
            for row in coil.select("tbody tr")}  # fmt: skip
    [share, *_] = rows["Finned coil, small, Living space"]
    assert share == "92 %"
    off = page_of(client, "open-sun-box", "view=air&state=sun")
    assert "No air heater runs in this state" in text(off.select_one("main"))


@pytest.mark.parametrize("query", ["view=tanks&pitch=89", "view=tanks&roll=x", "view=nothing"])
def test_awkward_questions_are_answered(client, query):
    page_of(client, "two-tank-storage", query)


def test_two_knobs_stand_in_a_table(client):
    page = soup(client.get("/sums?sum=knobs&power=10 kW&want=38"))
    table = page.select_one("#knobs table")
    assert len(table.select("tbody tr")) == 5 and len(table.select("thead th")) == 7
    assert "no flame" in text(table) and "scalds" in text(table)
    refused = soup(client.get("/sums?sum=knobs&want=5"))
    assert refused.select_one("#knobs .sum-answer .error") is not None
    assert refused.select_one("#knobs table") is None
