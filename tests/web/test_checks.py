"""Checks on their page: what is found, whose rules count, who answers for what."""

from __future__ import annotations

import csv
import io

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.editing import set_values
from tests.web.test_pages import act, soup, text


def kept(client, name, **values):
    project = layouts()[name].project()
    made = set_values(project, {f"variants.{name}.system.{key}": value
                                for key, value in values.items()})  # fmt: skip
    number = client.app.state.services.vehicles.create(made, "x")
    return number, f"/vehicles/{number}/{name}"


@pytest.fixture
def open_flue(client):
    return kept(client, "gas-combi", **{"parts.combi.sealed": "open flue"})


def test_the_worst_stands_first_with_number_remedy_and_who(client, open_flue):
    page = soup(client.get(f"{open_flue[1]}/checks"))
    assert text(page.select_one("#checks-title")).startswith("2 to stop for")
    first = page.select_one(".checks-stop .finding")
    assert text(first.summary).endswith(
        "In Gas and mains: Gas combi burns with the air of “Living space”."
    )
    assert "room-sealed appliance" in text(first) and "a licensed flue fitter" in text(first)
    assert "EN 1949" in text(first)
    assert first.select_one("a")["href"].endswith("/parts?piece=part-combi#piece")
    looked = [[text(cell) for cell in row.select("td")] for row in page.select("#looked tbody tr")]
    assert len(looked) == 17 and all(int(row[2]) > 0 for row in looked)


def test_whose_rules_count_is_asked_and_kept(client, open_flue):
    number, at = open_flue
    page = soup(client.get(f"{at}/checks"))
    assert page.select_one("#rule-set option[selected]")["value"] == "strictest"
    assert "Whose rules apply" in text(page)
    answer = soup(act(client, at, "check.rules", rules="uk-eu", _page="checks"))
    assert answer.select_one("#rule-set option[selected]")["value"] == "uk-eu"
    assert "Whose rules apply" not in text(answer)
    project = client.app.state.services.vehicles.open(number).project
    assert project.vehicle.rule_set == "uk-eu"
    assert act(client, at, "check.rules", rules="mine", _page="checks").status_code == 422


def test_who_answers_for_a_finding_stays_until_it_grows_worse(client):
    number, at = kept(client, "gas-combi", **{"parts.tank.vent_bore_m": 0.004})
    said = {"finding": "pressure.vent", "parts": "tank", "severity": "watch", "figure": "0.004"}
    none = act(client, at, "check.acknowledge", **said, reason="", by="", _page="checks")
    assert none.status_code == 422
    page = soup(act(client, at, "check.acknowledge", **said, reason="Filled slowly, seen to work",
                    by="R. Moss", _page="checks"))  # fmt: skip
    assert "R. Moss: Filled slowly, seen to work." in text(page.select_one("#checks-kept").parent)
    assert "pressure.vent" not in text(page.select_one(".checks-watch"))
    # a figure that moved asks again
    act(client, at, "edit", **{"_scope": "x"})
    services = client.app.state.services
    opened = services.vehicles.open(number)
    thinner = set_values(
        opened.project, {"variants.gas-combi.system.parts.tank.vent_bore_m": 0.003}
    )
    other = services.vehicles.create(thinner, "y")
    again = soup(client.get(f"/vehicles/{other}/gas-combi/checks"))
    assert again.select_one("#checks-kept") is None
    back = soup(act(client, at, "check.take_back", finding="pressure.vent", parts="tank",
                    _page="checks"))  # fmt: skip
    assert back.select_one("#checks-kept") is None
    gone = act(client, at, "check.take_back", finding="pressure.vent", parts="tank", _page="checks")
    assert gone.status_code in (409, 422)


def test_every_finding_comes_as_a_table(client, open_flue):
    answer = client.get(f"{open_flue[1]}/checks.csv")
    rows = list(csv.DictReader(io.StringIO(answer.text)))
    assert rows[0]["id"] == "air.open-flue" and rows[0]["severity"] == "stop"
    assert {row["severity"] for row in rows} <= {"stop", "fix", "watch", "unknown"}


def test_nothing_to_check_says_where_to_begin(client):
    path = client.post("/vehicles", data={"name": "Empty", "start": "empty"})
    base = path.headers["location"].removesuffix("/brief").removesuffix("/heat")
    page = soup(client.get(f"{base}/checks"))
    assert "Nothing to check yet" in text(page)


def test_figures_are_in_the_persons_units(client, open_flue):
    client.cookies.set("units", "us")
    page = text(soup(client.get(f"{open_flue[1]}/checks")).select_one(".checks"))
    assert "°F" in page and "°C" not in page


@pytest.mark.parametrize("name", ["seat-store", "coolant-coil", "two-knob-selector"])
def test_no_starting_layout_has_a_stop(client, name):
    _, at = kept(client, name)
    page = soup(client.get(f"{at}/checks"))
    assert page.select_one(".checks-stop") is None
