"""Pages as people read them, with and without htmx, in both unit systems, and when things fail."""

from __future__ import annotations

import json
import time

import pytest
from bs4 import BeautifulSoup

from isotherma.catalogue.demo import drover
from isotherma.core import editing
from isotherma.files.project_file import read_project, write_project
from tests.support import piece

HTMX = {"HX-Request": "true"}
DEMO = write_project(drover())


def soup(response):
    return BeautifulSoup(response.text, "html.parser")


def text(node):
    return " ".join(node.get_text(" ").split())


def form_of(client, path, scope, holding):
    """The form on a page that edits a scope and holds a field, as a browser would send it."""
    page = soup(client.get(path))
    for form in page.find_all("form"):
        hidden = form.find("input", {"name": "_scope"})
        if hidden and hidden["value"] == scope and form.find(attrs={"name": holding}):
            return fields_of(form)
    raise AssertionError(f"no form for {scope} with {holding}")


def finished(client, path, headers=None, within_s=60.0):
    """The answer of a page once a worker has done what it asks for."""
    until = time.monotonic() + within_s
    while True:
        answer = client.get(path, headers=headers)
        if "data-under-way" not in answer.text:
            return answer
        assert time.monotonic() < until, text(soup(answer))[:200]
        time.sleep(0.05)


def fields_of(form):
    data = {}
    for item in form.find_all(["input", "select", "textarea"]):
        if item.name == "select":
            chosen = item.find("option", selected=True) or item.find("option")
            data[item["name"]] = chosen["value"]
        elif item.name == "textarea":
            data[item["name"]] = item.get_text()
        elif item.get("type") != "checkbox" or item.has_attr("checked"):
            data[item["name"]] = item.get("value", "")
    return data


def project(client):
    service = client.app.state.services.vehicles
    return service.open(service.overview()[0].vehicle_id).project


@pytest.mark.parametrize(
    "page", ["brief", "parts", "parts?view=runs", "spaces", "shower", "trace/flow", "trace/energy"]
)
@pytest.mark.parametrize("units", ["metric", "us"])
@pytest.mark.parametrize("headers", [{}, HTMX], ids=["full", "part"])
def test_every_page_shows_verdict_strip_and_question(client, demo, page, units, headers):
    client.cookies.set("units", units)
    response = client.get(f"{demo}/{page}", headers=headers)
    assert response.status_code == 200
    assert response.headers["vary"].startswith("HX-Request")
    page_soup = soup(response)
    assert (page_soup.find("html") is None) == bool(headers)
    assert len(page_soup.find_all("h1")) == 1
    assert "Four washes in May" in text(page_soup.find(id="verdict"))
    cells = page_soup.select(".strip .cell")
    assert [cell["data-budget"] for cell in cells] == [
        "fresh", "grey", "gas", "mains", "battery", "warmth", "waiting",
    ]  # fmt: skip
    assert len(page_soup.select(".cell-binds")) == 1
    unit = "gal" if units == "us" else "L"
    assert unit in text(cells[0]).split()
    ids = [tag["id"] for tag in page_soup.find_all(id=True)]
    assert len(ids) == len(set(ids))


def test_a_restored_page_is_whole(client, demo):
    headers = {**HTMX, "HX-History-Restore-Request": "true"}
    assert soup(client.get(f"{demo}/brief", headers=headers)).find("html") is not None


def test_home_lists_vehicles_with_their_verdicts(client, demo):
    page = soup(client.get("/"))
    rows = page.select(".variant-rows li")
    assert len(rows) == 3 and "Open it to see what it does" in text(rows[0])
    loads = client.get(rows[0].find("a")["hx-get"], headers=HTMX)  # comes into sight by itself
    assert "Ten litres" in loads.text and "washes in May" in loads.text
    assert "Ten litres" in text(soup(client.get(rows[0].find("a")["hx-get"])))
    rows = soup(client.get("/")).select(".variant-rows li")  # known now
    assert "Ten litres" in text(rows[0]) and "washes in May" in text(rows[0])
    assert rows[0].find("svg")["aria-label"].startswith("Temperature at the head")


def test_an_empty_home_says_how_to_begin(client):
    assert "No vehicle yet" in client.get("/").text


def test_every_input_has_a_label(client, demo):
    pages = ["brief", "parts", "parts?piece=part-store", "parts?piece=run-main", "parts?view=runs",
             "parts?view=list", "parts?side=heat", "spaces", "shower"]  # fmt: skip
    act(client, demo, "piece.add", group="states", _page="spaces")
    for path in ("/", "/elements", "/kinds", *(f"{demo}/{page}" for page in pages)):
        page = soup(client.get(path))
        labelled = {label.get("for") for label in page.find_all("label")}
        for item in page.find_all(["input", "select", "textarea"]):
            if item.get("type") != "hidden" and not item.get("aria-label"):
                assert item["id"] in labelled, (path, item)


# --- edits ---


def test_an_edit_is_saved_and_shown_in_the_strip(client, demo):
    scope = "variants.ten-litres.system.parts.store"
    data = form_of(client, f"{demo}/parts?piece=part-store", scope, "volume_m3") | {
        "volume_m3": "14"
    }
    response = client.post(f"{demo}/edit", data=data, headers=HTMX)
    assert response.status_code == 200
    warm = soup(response).select_one('[data-budget="warmth"] .cell-change')
    before, after = text(warm).removeprefix("changed from ").split(" → ")
    assert float(after.split()[0]) > float(before.split()[0])
    assert editing.value_at(project(client), f"{scope}.volume_m3") == pytest.approx(0.014)
    assert "Volume → 14 L" in text(soup(response).find(id="undo"))


def test_a_plain_form_is_answered_with_a_redirect(client, demo):
    data = form_of(client, f"{demo}/brief", "brief", "days") | {"days": "3"}
    response = client.post(f"{demo}/edit", data=data)
    assert response.status_code == 303
    assert response.headers["location"] == f"{demo}/brief"
    assert project(client).brief.days == 3


def test_an_edit_in_gallons_keeps_the_other_values_exact(client, demo):
    client.cookies.set("units", "us")
    data = form_of(client, f"{demo}/brief", "brief.budgets", "grey_m3") | {"gas_kg": "13 1/2"}
    assert client.post(f"{demo}/edit", data=data).status_code == 303
    budgets = project(client).brief.budgets
    assert budgets.gas_kg == pytest.approx(13.5 * 0.45359237)
    assert budgets.grey_m3 == drover().brief.budgets.grey_m3  # not rounded through gallons


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("abc", "not a number"), ("-5", "must be at least 5 s"), ("1e9", "must be at most 1 h"),
        ("0", "must be at least 5 s"), ("7 bar", "no unit of time"),
        ("1,000", "thousands or a decimal"),
        ("x" * 500, "longer than 60"), ("\u202e5", "not a number"), ("NaN", "not a number"),
    ],
)  # fmt: skip
def test_a_wrong_value_stays_in_the_form_with_the_reason(client, demo, typed, words):
    scope = "brief.draws.early-shower"
    data = form_of(client, f"{demo}/brief", scope, "duration_s") | {"duration_s": typed}
    response = client.post(f"{demo}/edit", data=data, headers=HTMX)
    assert response.status_code == 422
    field = soup(response).find(id="f-brief-draws-early-shower-duration-s")
    assert field["value"] == typed
    assert field["aria-invalid"] == "true"
    error = soup(response).find(id=field["aria-describedby"].split()[0])
    assert words in text(error).lower()
    assert project(client) == drover()


def test_a_rule_between_two_fields_is_told_above_the_form(client, demo):
    scope = "brief.draws.early-shower"
    data = form_of(client, f"{demo}/brief", scope, "low_c") | {"low_c": "42.9"}
    response = client.post(f"{demo}/edit", data=data, headers=HTMX)
    assert response.status_code == 422
    assert "at least 1 K over" in response.text


def test_unicode_and_quotes_come_back_as_typed(client, demo):
    scope = "brief.draws.early-shower"
    name = "Zoë’s “große” 🚿 & 'quick'"
    data = form_of(client, f"{demo}/brief", scope, "name") | {"name": name}
    page = soup(client.post(f"{demo}/edit", data=data, headers=HTMX))
    assert page.find(id="f-brief-draws-early-shower-name")["value"] == name
    refused = data | {
        "name": "<img src=x onerror=alert(1)>",
        "_base": page.find(id="design")["data-head"],
    }
    response = client.post(f"{demo}/edit", data=refused, headers=HTMX)
    assert response.status_code == 422
    assert "<img" not in response.text


def test_two_windows_are_told_of_each_other(client, demo):
    scope = "variants.ten-litres.system.parts.store"
    first = form_of(client, f"{demo}/parts?piece=part-store", scope, "volume_m3")
    client.post(f"{demo}/edit", data=first | {"volume_m3": "12"}, headers=HTMX)
    response = client.post(f"{demo}/edit", data=first | {"volume_m3": "14"}, headers=HTMX)
    assert response.status_code == 409
    page = soup(response)
    field = page.find(id="f-variants-ten-litres-system-parts-store-volume-m3")
    assert field["value"] == "14"
    assert "meanwhile set this to 12 L" in text(page)
    again = fields_of(field.find_parent("form"))
    assert client.post(f"{demo}/edit", data=again, headers=HTMX).status_code == 200
    assert editing.value_at(project(client), f"{scope}.volume_m3") == pytest.approx(0.014)


def act(client, demo, edit, **data):
    path = f"{demo}/{edit.replace('.', '/')}"
    return client.post(path, data={"_page": "parts", **data}, headers=HTMX)


def test_pieces_are_added_and_removed(client, demo):
    assert act(client, demo, "draw.add", preset="rinse", _page="brief").status_code == 200
    assert [draw.name for draw in project(client).brief.draws][-1] == "Quick rinse"
    assert act(client, demo, "draw.remove", draw="quick-rinse", _page="brief").status_code == 200
    answer = act(client, demo, "part.insert", run="hot-run", part_class="strainer-usual")
    assert answer.status_code == 200
    assert text(soup(answer).find(id="piece-title")) == "Strainer before the pump"
    assert act(client, demo, "part.remove", part="strainer-usual").status_code == 200
    assert act(client, demo, "part.remove", part="burner").status_code == 200
    assert act(client, demo, "part.fit", host="store", part_class="burner-usual").status_code == 200
    system = project(client).variants[0].system
    assert piece(system, "burner-usual").fitted_in == "store"
    answer = act(client, demo, "part.add", part_class="gas-bottle-usual")
    assert text(soup(answer).find(id="piece-title")) == "Bottle"
    joined = act(client, demo, "run.join", start="gas-bottle-usual.outlet",
                 _piece="part-gas-bottle-usual",
                 end="burner-usual.gas", kind="fuel_pipe")  # fmt: skip
    assert "Burner below a store (gas)" in text(soup(joined).select_one(".joints"))
    run = project(client).variants[0].system.runs[-1]
    assert run.kind == "fuel_pipe"
    assert act(client, demo, "run.remove", run=run.id).status_code == 200
    assert act(client, demo, "use.add", purpose="pets", _page="brief").status_code == 200
    assert act(client, demo, "use.remove", use="pets", _page="brief").status_code == 200


def test_what_cannot_be_done_is_said_on_the_page(client, demo):
    response = act(client, demo, "part.remove", part="ghost")
    assert response.status_code == 422
    assert "not there any more" in text(soup(response).select_one(".notice"))
    response = act(client, demo, "run.join", start="tank.second_outlet", end="mixer.hot",
                   kind="cable")  # fmt: skip
    assert response.status_code == 422
    response = act(client, demo, "part.fit", host="tank", part_class="burner-usual")
    assert "does not sit in it" in text(soup(response).select_one(".notice"))
    for edit, values in (
        ("part.add", {"part_class": "castle"}), ("piece.add", {"group": "castles"}),
        ("draw.add", {"preset": "sauna"}), ("part.add", {}),
        ("part.add", {"part_class": "pump-small", "more": "1"}),
    ):  # fmt: skip
        response = act(client, demo, edit, **values)
        assert response.status_code == 422, edit
        assert text(soup(response).select_one(".notice"))
    assert act(client, demo, "part.explode").status_code == 404


def test_variants_are_copied_removed_and_undone(client, demo):
    response = act(client, demo, "variant.copy")
    assert response.headers["hx-redirect"].endswith("/ten-litres-2/parts")
    copy = demo.replace("ten-litres", "ten-litres-2")
    assert act(client, copy, "variant.remove").headers["hx-redirect"] == f"{demo}/parts"
    assert len(project(client).variants) == 3


def test_undo_and_redo_from_the_page(client, demo):
    data = form_of(client, f"{demo}/brief", "brief", "days") | {"days": "7"}
    client.post(f"{demo}/edit", data=data)
    undo = fields_of(soup(client.get(f"{demo}/brief")).find(id="undo"))
    assert client.post(f"{demo}/undo", data=undo).status_code == 303
    assert project(client).brief.days == 2
    stale = client.post(f"{demo}/undo", data=undo, headers=HTMX)
    assert stale.status_code == 409
    assert "nothing was undone" in stale.text
    redo = fields_of(soup(client.get(f"{demo}/brief")).find(id="redo"))
    assert client.post(f"{demo}/redo", data=redo, headers=HTMX).status_code == 200
    assert project(client).brief.days == 7


# --- starting, importing, exporting ---


def test_a_new_vehicle_says_what_is_missing_and_where(client):
    response = client.post("/vehicles", data={"name": "Möwe", "start": "usual"})
    assert response.status_code == 303
    page = soup(client.get(response.headers["location"]))
    assert "Fresh tank has no usable volume" in text(page.find(id="verdict"))
    mend = page.select_one("a.verdict-mend")["href"]
    assert mend == "#next-f-variants-first-system-parts-tank-volume-m3"
    assert page.select_one(mend)["name"] == "volume_m3"  # the field itself stands there
    assert page.select(".strip") == []


def test_a_vehicle_from_nothing_can_lay_the_usual_route(client):
    path = client.post("/vehicles", data={"name": "Empty", "start": "empty"}).headers["location"]
    base = path.removesuffix("/brief")
    assert "no parts yet" in client.get(f"{base}/parts").text
    assert "it has no parts yet" in client.get(f"{base}/shower").text
    assert act(client, base, "system.usual").status_code == 200
    assert (
        len(project(client).variants[0].system.parts) == 13
    )  # an element and its cut-out among them


@pytest.mark.parametrize("name", ["", "   ", "x" * 81, "<b>", "a\x07b"])
def test_a_bad_name_is_refused_and_kept(client, name):
    response = client.post("/vehicles", data={"name": name})
    assert response.status_code == 422
    field = soup(response).find(id="new-name")
    assert field["value"] == name and field["aria-invalid"] == "true"
    assert "The name" in text(soup(response).find(id="new-error"))


def upload(client, data, name="x.isotherma.json"):
    return client.post("/vehicles/import", files={"file": (name, data, "application/json")})


def test_export_and_import_give_the_same_vehicle(client, demo):
    number = demo.split("/")[2]
    exported = client.get(f"/vehicles/{number}/export")
    assert 'filename="drover.isotherma.json"' in exported.headers["content-disposition"]
    assert read_project(exported.content) == drover()
    response = upload(client, exported.content)
    assert response.status_code == 200
    assert "“Drover” was imported" in response.text
    service = client.app.state.services.vehicles
    assert [row.project for row in service.overview()] == [drover(), drover()]


@pytest.mark.parametrize(
    ("data", "words", "status"),
    [
        (b"", "Choose a project file first", 422),
        (b"{", "broken at line 1", 422),
        (DEMO.replace(b'"format_version": 9', b'"format_version": 11'), "newer", 422),
        (DEMO.replace(b'"Drover"', b'"<script>alert(1)</script>"'), "not allowed", 422),
        (b" " * 2_500_000, "project file has at most 2 MB", 422),
        (b" " * 50_000_000, "project file has at most 2 MB", 422),
        (b"PK\x03\x04" + b" " * 201_000_000, "That is too large", 413),
    ],
    ids=["none", "broken", "newer", "hostile", "large", "50 MB", "201 MB"],
)  # fmt: skip
def test_a_bad_import_is_refused_and_changes_nothing(client, demo, data, words, status):
    response = upload(client, data)
    assert response.status_code == status
    assert words in response.text
    assert "<script>alert" not in response.text
    assert len(client.app.state.services.vehicles.overview()) == 1


def test_deleting_offers_the_way_back(client, demo):
    number = demo.split("/")[2]
    where = client.post(f"/vehicles/{number}/delete").headers["location"]
    page = soup(client.get(where))
    assert "was deleted" in text(page.select_one(".notice"))
    assert client.get(f"{demo}/brief").status_code == 404
    restore = page.select_one(".notice form")["action"]
    assert client.post(restore).status_code == 303
    assert client.get(f"{demo}/brief").status_code == 200


def test_a_vehicle_is_copied_and_renamed(client, demo):
    number = demo.split("/")[2]
    assert client.post(f"/vehicles/{number}/duplicate").status_code == 303
    names = {row.project.name for row in client.app.state.services.vehicles.overview()}
    assert names == {"Drover", "Drover (copy)"}
    rename = next(
        form for form in soup(client.get("/")).select(".rename") if f"/{number}/" in form["action"]
    )
    response = client.post(rename["action"], data=fields_of(rename) | {"name": "Dreadnought"})
    assert response.headers["location"] == "/"
    assert "Dreadnought" in client.get("/").text
    refused = client.post(rename["action"], data={"name": "<b>"})
    assert refused.status_code == 422
    field = soup(refused).find(id=f"name-{number}")
    assert field["value"] == "<b>" and field["aria-invalid"] == "true"
    assert field.find_parent("details").has_attr("open")
    assert "not allowed" in text(soup(refused).find(id="rename-error"))
    assert client.post("/vehicles/999/rename", data={"name": "x"}).status_code == 404


def test_renaming_what_another_window_has_renamed_is_a_conflict(client, demo):
    form = soup(client.get("/")).select_one(".rename")
    fields = fields_of(form)
    client.post(form["action"], data=fields | {"name": "First"})
    stale = client.post(form["action"], data=fields | {"name": "Second"})
    assert stale.status_code == 409
    assert "Another window has meanwhile named it “First”" in text(soup(stale).find("main"))
    assert next(iter(client.app.state.services.vehicles.overview())).project.name == "First"


# --- shower and its numbers ---


def test_the_shower_page_draws_the_chosen_draw(client, demo):
    page = soup(client.get(f"{demo}/shower?draw=1&by=time&at=5"))
    chart = page.select_one("svg.chart-wide")
    assert chart["aria-label"].startswith("Temperature at the head by time")
    assert "too cool" in chart["aria-label"]
    assert page.find(id="chart-title").get_text() == "Second shower"
    assert len(page.select(".card")) == 4
    assert page.find(id="moment")["value"] == "5"
    rows = json.loads(page.find(id="readouts").get_text())
    assert text(page.select_one('[data-key="head"]')) == rows[5]["head"].replace("\xa0", " ")
    assert len(rows[0]["layers"]) == len(page.select("[data-store] rect")) - 1


@pytest.mark.parametrize("query", ["draw=99", "draw=0&at=99999", "by=time", "draw=3&by=litres"])
def test_odd_addresses_of_the_shower_still_show_it(client, demo, query):
    assert client.get(f"{demo}/shower?{query}").status_code == 200


@pytest.mark.parametrize("query", ["draw=-1", "draw=x", "by=colour", "at=-2", "draw=1e9"])
def test_impossible_addresses_are_told(client, demo, query):
    response = client.get(f"{demo}/shower?{query}")
    assert response.status_code == 422
    assert "out of range" in response.text


def test_the_timeline_downloads(client, demo):
    response = client.get(f"{demo}/timeline.csv")
    assert response.headers["content-type"].startswith("text/csv")
    assert response.text.startswith("time_s,step_s,draw,phase")
    started = client.post("/vehicles", data={"name": "New"}).headers["location"]
    assert client.get(started.replace("/brief", "/timeline.csv")).status_code == 409


def test_a_trace_shows_formula_values_and_source(client, demo):
    page = text(soup(client.get(f"{demo}/trace/flow")))
    assert "q = K √Δp" in page and "parts.head.flow_factor_si" in page and "Source." in page
    assert client.get(f"{demo}/trace/nonsense").status_code == 404


# --- everything else ---


@pytest.mark.parametrize(
    "path",
    ["/nowhere", "/vehicles/999/a/brief", "/vehicles/1/ghost/brief", "/vehicles/999/export",
     "/static/ghost.css", "/vehicles/99999999999/a/brief", f"/vehicles/{10**30}/a/brief",
     "/vehicles/1/%00/brief", "/vehicles/0/ten-litres/brief", "/%ff%fe"],
)  # fmt: skip
def test_what_is_not_there_is_said_so(client, demo, path):
    response = client.get(path)
    assert response.status_code == 404
    assert "That is not here" in response.text


def test_edits_of_what_is_gone_are_refused(client, demo):
    data = form_of(client, f"{demo}/brief", "brief", "days")
    for change in ({"_scope": "brief.draws.ghost"}, {"_scope": "brief.days"}, {"_base": "999999"},
                   {"_base": "x"}, {"_scope": "__class__"}):  # fmt: skip
        assert client.post(f"{demo}/edit", data=data | change).status_code == 404
    assert client.post(f"{demo}/undo", data={"_base": "x"}).status_code == 422
    assert client.get(f"{demo}/undo").status_code == 405


def test_a_mistake_of_ours_shows_a_number_and_no_secret(client, demo, monkeypatch):
    def burst(*_):
        raise RuntimeError("secret detail")

    monkeypatch.setattr("isotherma.web.parts.page.reading_order", burst)
    client._transport.raise_server_exceptions = False
    response = client.get(f"{demo}/parts")
    assert response.status_code == 500
    assert "Isotherma made a mistake" in response.text
    assert "secret" not in response.text


def test_units_and_light_are_kept_in_cookies(client):
    response = client.post("/settings", data={"units": "us", "back": "/elements"})
    assert response.headers["location"] == "/elements"
    assert "units=us" in response.headers["set-cookie"]
    client.cookies.set("scheme", "dark")
    assert soup(client.get("/")).find("html")["data-scheme"] == "dark"
    for back in ("//evil.example", "https://evil.example", "/\\evil", "javascript:1"):
        response = client.post("/settings", data={"scheme": "x", "back": back})
        assert response.headers["location"] == "/"
        assert "set-cookie" not in response.headers


def test_alive(client):
    assert client.get("/alive").text == "alive"


def test_a_long_list_is_cut_and_counted(client):
    service = client.app.state.services.vehicles
    for number in range(42):
        service.create(drover().model_copy(update={"name": f"V{number}"}), "x")
    page = soup(client.get("/"))
    assert len(page.select(".vehicle")) == 20 and "Page 1 of 3, 42 vehicles" in text(page)
    last = soup(client.get("/?page=3"))
    assert [text(item) for item in last.select(".vehicle h2")] == ["V1", "V0"]
    found = soup(client.get("/?q=v4"))
    assert {text(item) for item in found.select(".vehicle h2")} == {"V4", "V40", "V41"}
    assert "No vehicle has “nothing”" in text(soup(client.get("/?q=nothing")))
    assert client.get("/?page=99").status_code == 200 and client.get("/?q=%00%").status_code == 200


def test_one_wrong_field_does_not_hold_back_its_neighbours(client, demo):
    scope = "brief.draws.early-shower"
    data = form_of(client, f"{demo}/brief", scope, "duration_s")
    data |= {"duration_s": "soon", "who": "Ana", "start_s": "6:15", "low_c": "200"}
    response = client.post(f"{demo}/edit", data=data, headers=HTMX)
    assert response.status_code == 422
    draw = project(client).brief.draws[0]
    assert (draw.who, draw.start_s, draw.duration_s) == ("Ana", 22500.0, 300.0)
    page = soup(response)
    assert page.find(id="f-brief-draws-early-shower-duration-s")["value"] == "soon"
    assert page.find(id="f-brief-draws-early-shower-low-c")["value"] == "200"
    assert page.find(id="f-brief-draws-early-shower-who")["value"] == "Ana"
    assert len(page.select("[aria-invalid]")) == 2
    again = fields_of(page.find(id="f-brief-draws-early-shower-who").find_parent("form"))
    again |= {"duration_s": "4", "low_c": "36"}
    assert client.post(f"{demo}/edit", data=again, headers=HTMX).status_code == 200
    draw = project(client).brief.draws[0]
    assert (draw.who, draw.duration_s, draw.low_c) == ("Ana", 240.0, 36.0)


def test_a_variant_is_renamed_or_the_name_refused(client, demo):
    form = soup(client.get(f"{demo}/shower")).select_one("#menu form.rename")
    data = fields_of(form) | {"name": "Ten, cheap"}
    assert client.post(form["action"], data=data, headers=HTMX).status_code == 200
    assert project(client).variants[0].name == "Ten, cheap"
    data = fields_of(soup(client.get(f"{demo}/shower")).select_one("#menu form.rename"))
    response = client.post(form["action"], data=data | {"name": "  "}, headers=HTMX)
    assert response.status_code == 422
    field = soup(response).find(id="variant-name")
    assert field["value"] == "  " and field["aria-invalid"] == "true"
    assert project(client).variants[0].name == "Ten, cheap"


NASTY = [
    "", "-1", "1e300", "0", "7,5", "½ gal", "60F", "\x00", "\ud7ff\u200f", "' OR 1=1 --",
    "{{7*7}}", "../../etc/passwd", "99999999999999999999", "None", "true", "1/3", "١٢", "a" * 300,
]  # fmt: skip


@pytest.mark.parametrize("page", ["brief", "parts", "spaces"])
def test_nothing_typed_anywhere_breaks_the_page(client, demo, page):
    """Every field of every form gets something nasty, one after the other; none may stumble."""
    forms = [
        form
        for form in soup(client.get(f"{demo}/{page}")).find_all("form")
        if form.find("input", {"name": "_scope"})
    ]
    tried = 0
    if page == "parts":
        for piece in ("part-store", "part-pump", "part-head", "run-main", "part-element"):
            got = soup(client.get(f"{demo}/parts?piece={piece}"))
            forms += [
                form for form in got.find_all("form") if form.find("input", {"name": "_scope"})
            ]
    for form in forms:
        for name in form.find("input", {"name": "_fields"})["value"].split(","):
            text = NASTY[tried % len(NASTY)]
            head = client.app.state.services.vehicles.open(1).head_id
            data = fields_of(form) | {name: text, "_base": str(head)}
            response = client.post(f"{demo}/edit", data=data, headers=HTMX)
            assert response.status_code in {200, 409, 422}, (name, text)
            tried += 1
    assert tried > (3 if page == "spaces" else 40)
    for other in ("brief", "parts", "spaces", "shower"):
        assert client.get(f"{demo}/{other}").status_code == 200


def test_form_fields_from_elsewhere_are_ignored(client, demo):
    data = form_of(client, f"{demo}/brief", "brief", "days")
    data |= {"_fields": "days,draws,note,__class__,model_config", "draws": "x", "note": "hello"}
    assert client.post(f"{demo}/edit", data=data).status_code == 303
    assert project(client).brief.note == "hello"
    assert project(client).brief.draws == drover().brief.draws


def test_units_chosen_before_the_cookie_was_renamed_still_hold(client):
    metric = client.get("/sums").text
    client.cookies.set("habit", "us")
    old = client.get("/sums").text
    assert old != metric
    client.cookies.set("units", "metric")
    assert client.get("/sums").text == metric
    client.cookies.set("units", "us")
    assert client.get("/sums").text == old
