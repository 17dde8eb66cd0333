"""The Parts page: box labels in, what was understood beside them, the run table, layouts."""

from __future__ import annotations

from typing import Any

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.quantity import UnitSystem
from isotherma.files.run_table import TableRefused, read_runs, write_runs
from tests.support import system
from tests.web.test_pages import HTMX, act, fields_of, form_of, project, soup, text

STORE = "variants.ten-litres.system.parts.store"


def open_piece(client, base, key):
    return soup(client.get(f"{base}/parts?piece={key}"))


def figures(page):
    rows = page.select(".figures-table tbody tr")
    return {text(row.th): [text(cell) for cell in row.find_all("td")] for row in rows}


def test_what_was_understood_stands_beside_the_box(client, demo):
    rows = figures(open_piece(client, demo, "part-store"))
    assert rows["Volume"][1] == "10 L"
    assert "yours" in rows["Volume"][3]
    assert rows["Stirred by the inlet"][:3] == ["5 %", "10 %", "25 %"]
    assert "assumed: the inlet jet" in rows["Stirred by the inlet"][3]
    pump = figures(open_piece(client, demo, "part-pump"))
    assert pump["Pressure at no flow"][1] == "3.6 bar"
    assert "half as much again" in pump["Pressure at no flow"][3]


def test_an_override_is_marked_and_taken_back(client, demo):
    scope = "variants.ten-litres.system.parts.pump"
    data = form_of(client, f"{demo}/parts?piece=part-pump", scope, "shut_pressure_pa")
    answer = client.post(f"{demo}/edit", data=data | {"shut_pressure_pa": "4"}, headers=HTMX)
    row = figures(soup(answer))["Pressure at no flow"]
    assert row[1] == "4 bar" and "yours" in row[3] and "without it: 3.6 bar" in row[3]
    data = form_of(client, f"{demo}/parts?piece=part-pump", scope, "shut_pressure_pa")
    answer = client.post(f"{demo}/edit", data=data | {"shut_pressure_pa": ""}, headers=HTMX)
    assert figures(soup(answer))["Pressure at no flow"][1] == "3.6 bar"


def test_a_tapered_tank_from_us_labels(client, demo):
    client.cookies.set("units", "us")
    assert act(client, demo, "part.add", part_class="grey-tank-usual").status_code == 200
    scope = "variants.ten-litres.system.parts.grey-tank-usual"
    data = form_of(client, f"{demo}/parts?piece=part-grey-tank-usual", scope, "nominal_m3")
    typed = {"nominal_m3": "", "inside_length_m": "31 1/2 in", "floor_length_m": "19.7",
             "inside_width_m": "17.7", "inside_height_m": "9.84", "_units": "us"}  # fmt: skip
    answer = client.post(f"{demo}/edit", data=data | typed, headers=HTMX)
    assert answer.status_code == 200
    row = figures(soup(answer))["Usable volume"]
    assert row[1] == "17.6 gal" and "tapered" in row[3]


def test_not_computed_is_said_on_the_part_by_name(client, demo):
    act(client, demo, "part.add", part_class="kettle-usual")
    page = open_piece(client, demo, "part-kettle-usual")
    assert "Not computed yet" in text(page.select_one(".open-words"))
    assert page.select_one("#row-part-kettle-usual .on-open") is not None
    assert page.select_one("#row-part-store .on-open") is None


def test_unknown_says_what_to_enter(client):
    path = client.post("/vehicles", data={"name": "U", "start": "usual"}).headers["location"]
    base = path.removesuffix("/brief")
    page = open_piece(client, base, "part-tank")
    assert figures(page)["Usable volume"][1] == "unknown"
    assert "litres on the label" in figures(page)["Usable volume"][3]
    said = text(soup(client.get(f"{base}/parts")).select_one(".remarks"))
    assert "Fresh tank: usable volume is unknown" in said


def test_pieces_are_searched_on_the_server_too(client, demo):
    page = soup(client.get(f"{demo}/parts?q=mix"))
    titles = [text(item) for item in page.select(".on-title")]
    assert "Thermostatic mixer" in titles and "Pump" not in titles
    assert "not shown" in text(page.select_one(".bench-list"))
    nothing = soup(client.get(f"{demo}/parts?q=zeppelin"))
    assert "Nothing here is called that" in text(nothing.select_one(".bench-list"))


def test_the_catalogue_is_searched_and_a_class_added(client, demo):
    page = soup(client.get(f"{demo}/parts?side=gas&wanted=bottle"))
    offers = [text(item.strong) for item in page.select(".offers li")]
    assert "Small bottle" in offers and "Pump" not in offers
    form = page.select_one(".offers form")
    answer = client.post(str(form["action"]), data=fields_of(form), headers=HTMX)
    assert answer.status_code == 200
    assert project(client).variants[0].system.parts[-1].kind == "gas_bottle"


def test_owned_phase_and_price_are_kept_and_added_up(client, demo):
    page = soup(client.get(f"{demo}/parts?view=list"))
    assert "15 to buy" in text(page.select_one(".said"))
    data = form_of(client, f"{demo}/parts?view=list", STORE, "price")
    client.post(f"{demo}/edit", data=data | {"price": "180,50", "priced_on": "2026-11-01"})
    tank = "variants.ten-litres.system.parts.tank"
    data = form_of(client, f"{demo}/parts?view=list", tank, "owned")
    client.post(f"{demo}/edit", data=data | {"owned": "owned"})
    said = text(soup(client.get(f"{demo}/parts?view=list")).select_one(".said"))
    assert said == "1 owned, 14 to buy: 180.5 in all; 13 without a price."
    wrong = form_of(client, f"{demo}/parts?view=list", STORE, "price") | {"priced_on": "Monday"}
    answer = client.post(f"{demo}/edit", data=wrong, headers=HTMX)
    assert answer.status_code == 422 and "a day, written as 2026-03-31" in answer.text


def test_the_run_table_goes_out_and_back(client, demo):
    page = soup(client.get(f"{demo}/parts?view=runs"))
    table = page.find(id="run-text").text.strip("\n")
    assert table.splitlines()[0].startswith("Run\tKind\tFrom\tTo\tName")
    longer = table.replace("\t1.2\t", "\t2,5\t")
    answer = client.post(f"{demo}/runs", data={"text": longer, "_units": "metric"})
    assert answer.status_code == 303
    lengths = {run.id: run.length_m for run in project(client).variants[0].system.runs}
    assert lengths["hot-run"] == lengths["cold-run"] == 2.5
    got = client.get(f"{demo}/runs.tsv")
    assert got.headers["content-type"].startswith("text/tab-separated-values")
    assert "2.5" in got.text
    before = project(client)
    again = client.post(f"{demo}/runs", data={"text": got.text, "_units": "metric"})
    assert again.status_code == 303 and project(client) == before


def test_a_wrong_table_is_kept_and_every_row_is_named(client, demo):
    wrong = (
        "Run\tFrom\tTo\tLength [m]\tNominal size\nmain\t\t\tlong\t\nnew\ttank\tpump\t1\t\n"
        "x\ttank.second_outlet\tghost.inlet\t1\t15 mm\n"
    )
    answer = client.post(f"{demo}/runs", data={"text": wrong, "_units": "metric"})
    assert answer.status_code == 422
    page = soup(answer)
    assert page.find(id="run-text").text.strip() == wrong.strip()
    said = text(page.select_one(".error-list"))
    assert "Row 2, Length: “long”" in said
    assert "Row 3, From: “tank” names no port" in said
    only = "Run\tFrom\tTo\nx\ttank.second_outlet\tghost.inlet\n"
    answer = client.post(f"{demo}/runs", data={"text": only})
    assert "which is not there" in text(soup(answer).select_one(".error-list"))
    assert project(client).variants[0].system.runs[0].id == "tank-run"


def test_a_table_read_in_from_an_older_page_is_a_conflict(client, demo):
    """Another window has changed a run since: neither is lost, and a second time it goes through"""
    page = soup(client.get(f"{demo}/parts?view=runs"))
    table = page.find(id="run-text").text.strip("\n")
    base = page.select_one("form:has(#run-text) [name=_base]")["value"]
    newer = table.replace("\t1.2\t", "\t1.9\t")
    assert client.post(f"{demo}/runs", data={"text": newer}).status_code == 303
    mine = table.replace("\t1.2\t", "\t2.5\t")
    stale = client.post(f"{demo}/runs", data={"text": mine, "_base": base})
    assert stale.status_code == 409
    shown = soup(stale)
    assert "Another window has meanwhile changed" in text(shown.select_one(".error-list"))
    assert shown.find(id="run-text").text.strip() == mine.strip()
    lengths = {run.id: run.length_m for run in project(client).variants[0].system.runs}
    assert lengths["hot-run"] == 1.9
    base = shown.select_one("form:has(#run-text) [name=_base]")["value"]
    again = client.post(f"{demo}/runs", data={"text": mine, "_base": base})
    assert again.status_code == 303
    lengths = {run.id: run.length_m for run in project(client).variants[0].system.runs}
    assert lengths["hot-run"] == 2.5


REFUSED_TABLES = {
    "": "at least one run",
    "Run\tBoiler\na\tb": "“Boiler” is no column",
    "From\tTo\na\tb": "column “Run” is missing",
    "Run\tKind\nmain\trope": "none of pipe",
    "Run\tLength\nmain\t-1": "more than 0",
    "Run\tLength\nmain\t1\nmain\t2": "stands twice",
    "Run\tElbow fittings\nmain\t²": "whole number",
    "Run\tFamily\nmain\tbamboo": "must be one of",
    "Run\tInside diameter\nmain\t3 gallons": "no unit of length",
    "Run\tFrom\tTo\nBad Id!\ttank.second_outlet\tdrain.inlet": "small letters",
}


@pytest.mark.parametrize("table", REFUSED_TABLES)
def test_a_table_that_cannot_be_read_says_why(table):
    with pytest.raises(TableRefused) as caught:
        read_runs(table, system(), UnitSystem.METRIC)
    assert any(REFUSED_TABLES[table] in problem for problem in caught.value.problems)


def test_units_of_headings_and_of_cells_are_understood():
    table = "Run;Length [ft];Insulation\nmain;3 1/4;1/2 in\nhot-run;1,5 m;"
    runs: dict[str, Any] = {run.id: run for run in read_runs(table, system(), UnitSystem.METRIC)}
    assert runs["main"].length_m == pytest.approx(0.9906, rel=1e-3) or (
        runs["main"].length_m == pytest.approx(3.25)
    )
    assert runs["main"].insulation_m == pytest.approx(0.0127)
    assert runs["hot-run"].length_m == 1.5
    assert runs["hot-run"].insulation_m is None
    assert len(write_runs(system(), UnitSystem.US).splitlines()) == 12


def test_an_empty_variant_offers_every_layout(client):
    path = client.post("/vehicles", data={"name": "E", "start": "empty"}).headers["location"]
    base = path.removesuffix("/brief")
    page = soup(client.get(f"{base}/parts"))
    assert page.select_one('a[href$="/heat"].button-strong') is not None
    answer = act(client, base, "system.layout", layout="hung-outside")
    assert answer.status_code == 200
    assert project(client).variants[0].system == layouts()["hung-outside"].system
    again = act(client, base, "system.layout", layout="gas-combi")
    assert again.status_code == 422 and "has parts already" in again.text


@pytest.mark.parametrize("key", layouts())
def test_every_layout_stands_on_every_page(client, key):
    path = client.post("/vehicles", data={"name": "L", "start": key}).headers["location"]
    base = path.removesuffix("/brief")
    built = layouts()[key].system
    for page in ("brief", "parts", "parts?view=runs", "parts?view=list", "spaces", "shower"):
        assert client.get(f"{base}/{page}").status_code == 200, page
    for part in built.parts:
        assert client.get(f"{base}/parts?piece=part-{part.id}", headers=HTMX).status_code == 200


def test_the_reference_lists_every_kind(client):
    page = soup(client.get("/kinds"))
    assert len(page.select("details.kind")) > 100
    store = page.find(id="kind-store")
    assert "volume_m3" in text(store) and "over 0 L to 5000 L" in text(store)


def test_a_rise_above_the_tank_is_asked_for_when_it_is_wanted(client, demo):
    scope = "brief.draws.early-shower"
    data = form_of(client, f"{demo}/brief", scope, "aim") | {"aim": "above the tank"}
    answer = client.post(f"{demo}/edit", data=data, headers=HTMX)
    assert answer.status_code == 422 and "needs by how much" in answer.text
    field = soup(answer).find(id="f-brief-draws-early-shower-rise-k")
    form = fields_of(field.find_parent("form")) | {"rise_k": "20"}
    assert form["aim"] == "above the tank"
    answer = client.post(f"{demo}/edit", data=form, headers=HTMX)
    assert answer.status_code == 200
    draw = project(client).brief.draws[0]
    assert (draw.aim, draw.rise_k) == ("above the tank", 20.0)
    assert "Four washes" in text(soup(answer).find(id="verdict"))
