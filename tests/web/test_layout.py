"""The Layout page, what is tried on the Shower page, and bench sums, as a person reads them."""

from __future__ import annotations

from urllib.parse import urlsplit
from xml.etree import ElementTree

import pytest

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from tests.web.test_flow import keep
from tests.web.test_pages import HTMX, finished, project, soup, text


@pytest.fixture
def library(client):
    return keep(client, folio())


def labels(page):
    return [node["aria-label"] for node in page.select("svg.route-wide a.node")]


def press(client, path, edit, piece="", **values):
    return client.post(f"{path}/{edit.replace('.', '/')}", headers=HTMX, data={
        **values, "_page": "layout", "_piece": piece,
    })  # fmt: skip


# --- the drawing ---


def test_every_part_of_the_route_is_on_the_drawing(client, library):
    page = soup(client.get(f"{library}/layout?o.head=1"))
    names = " ".join(labels(page))
    for part in (
        "Tank under the shelves",
        "Coil store, 28 L",
        "Mixing valve at the shower",
        "Hand set",
    ):
        assert part in names
    assert "39\u00a0°C" in names and "bar" in names
    lines = page.select("svg.route-wide a.line-link")
    assert len(lines) == len(folio().variants[0].system.pipes)
    assert any("L/min" in line["aria-label"] for line in lines)
    assert {"pipe-cold", "pipe-hot", "pipe-mixed", "pipe-primary", "pipe-return"} <= {
        name for path in page.select("svg.route-wide .pipe") for name in path["class"]
    }


def test_it_is_the_same_part_and_whole(client, library):
    whole = client.get(f"{library}/layout")
    part = client.get(f"{library}/layout", headers=HTMX)
    assert "<html" in whole.text and "<html" not in part.text
    assert len(labels(soup(whole))) == len(labels(soup(part)))


def test_an_outlet_is_turned_on_the_drawing(client, library):
    page = soup(client.get(f"{library}/layout?o.head=1"))
    toggle = next(a for a in page.select("svg.route-wide a.toggle") if "Kitchen" in a["aria-label"])
    assert "is shut: open it" in toggle["aria-label"]
    both = soup(client.get(toggle["href"]))
    assert "Kitchen tap gives" in text(both)
    again = next(a for a in both.select("svg.route-wide a.toggle") if "Kitchen" in a["aria-label"])
    assert "is open: halfway" in again["aria-label"]
    half = soup(client.get(again["href"]))
    last = next(a for a in half.select("svg.route-wide a.toggle") if "Kitchen" in a["aria-label"])
    assert "is 50%: shut it" in last["aria-label"]
    assert "Kitchen tap gives" not in text(soup(client.get(last["href"])))


def test_a_state_lists_the_moves_to_it(client, library):
    state = folio().variants[0].system.states[-1]
    page = soup(client.get(f"{library}/layout?state={state.id}"))
    assert page.find(id="moves-title") is not None
    assert page.select(".moves li")


def test_a_chosen_run_says_what_it_does_and_what_can_go_there(client, library):
    page = soup(client.get(f"{library}/layout?o.head=1&piece=run-split-check"))
    piece = page.find(id="piece")
    assert "flow" in text(piece) and "takes" in text(piece)
    offers = [option.get_text() for option in piece.select("#insert-kind option")]
    assert any("takes" in offer and "bar here" in offer for offer in offers)
    assert page.select_one("svg.route-wide a.line-link.chosen") is not None


def test_a_chosen_part_says_what_its_failure_means(client, library):
    page = soup(client.get(f"{library}/layout?piece=part-store"))
    words = text(page.find(id="piece"))
    assert "If it leaks: shut Ball valve" in words and "no water" in words


def test_putting_in_and_taking_away_stays_on_the_drawing(client, library):
    before = len(labels(soup(client.get(f"{library}/layout"))))
    page = soup(
        press(client, library, "part.insert", run="split-check", part_class="check-valve-usual")
    )
    assert len(labels(page)) == before + 1
    chosen = page.select_one("svg.route-wide a.node.chosen")
    assert chosen is not None
    key = dict(pair.split("=") for pair in urlsplit(chosen["href"]).query.split("&"))["piece"]
    page = soup(press(client, library, "part.remove", key, part=key.removeprefix("part-")))
    assert len(labels(page)) == before


def test_a_part_is_replaced_or_refused_in_words(client, library):
    page = soup(
        press(
            client, library, "part.replace", "part-head", part="head", part_class="shower-head-fine"
        )
    )
    assert any("Fine" in label for label in labels(page))
    refused = press(
        client, library, "part.replace", "part-mixer", part="mixer", part_class="shower-head-fine"
    )
    assert refused.status_code == 422 and "remove that run first" in text(soup(refused))


def test_runs_are_changed_where_they_are_drawn(client, library):
    page = soup(client.get(f"{library}/layout?piece=run-split-check"))
    form = page.find(id="piece").find("form", {"class": "sheet"})
    sent = {field["name"]: field.get("value", "") for field in form.find_all("input")}
    for select in form.find_all("select"):
        chosen = select.find("option", selected=True)
        sent[select["name"]] = chosen["value"] if chosen else ""
    sent["length_m"] = "2,5 m"
    answer = client.post(f"{library}/edit", headers=HTMX, data=sent)
    assert answer.status_code == 200 and 'value="2.5"' in answer.text
    wrong = client.post(f"{library}/edit", headers=HTMX, data={**sent, "length_m": "long"})
    assert wrong.status_code == 422 and 'value="long"' in wrong.text


def test_an_empty_route_offers_layouts_with_their_verdict(client):
    made = Project(name="Bare", brief=curlew().brief,
                   variants=(Variant(id="first", name="First", system=System()),))  # fmt: skip
    path = keep(client, made)
    page = soup(client.get(f"{path}/heat"))
    found = page.select(".starts .on-brief")
    assert len(found) == len(layouts()) + 1  # and the usual route
    first = found[1]
    said = " ".join(client.get(first["data-asks"], headers=HTMX).text.split())
    assert "in December" in said and "<" not in said
    assert said in text(soup(client.get(first["data-asks"])))  # a page of its own without scripts
    again = soup(client.get(f"{path}/heat")).select(".starts .on-brief")[1]
    assert text(again) == said  # known now, so it stands there at once
    assert client.get(f"{path}/offer/nothing").status_code == 404
    assert "Choose what heats the water" in text(soup(client.get(f"{path}/layout")))
    chooser = soup(client.get(f"{keep(client, curlew())}/heat"))
    assert "It takes the place of this variant’s parts" in text(chooser)


def test_one_begins_with_what_one_owns(client):
    path = keep(client, curlew())
    page = soup(client.get(f"{path}/heat"))
    owned = [option["value"] for option in page.select("#owned-class option") if option["value"]]
    assert "store-large" in owned and not any(key.startswith("shut-off") for key in owned)
    mine = soup(client.get(f"{path}/heat?own=combi-diesel"))
    offers = mine.select(".start-card")
    assert 0 < len(offers) < len(layouts())
    button = offers[0].select_one("button")
    assert button is not None
    form = button.find_parent("form")
    assert form is not None
    data = {str(i["name"]): str(i.get("value", "")) for i in form.select("input")}
    assert data["own"] == "combi-diesel"
    done = client.post(str(form["action"]), headers=HTMX, data=data)
    assert done.headers["hx-redirect"].endswith("/shower")
    parts = soup(client.get(f"{path}/parts?view=list"))
    assert "owned" in text(parts)
    strange = soup(client.get(f"{path}/heat?own=castle"))
    assert len(strange.select(".start-card")) == len(layouts()) + 1


def test_one_begins_as_in_another_variant_or_with_nothing(client, library):
    other = library.replace("/button", "/timed")
    assert press(client, other, "system.copy", source="button").status_code == 200
    one, two = (client.get(f"{path}/route.svg").text for path in (library, other))
    assert one == two
    assert "choose another" in press(client, other, "system.copy", source="timed").text
    assert press(client, other, "system.copy", source="castle").status_code in (404, 422)
    bare = soup(press(client, other, "system.empty"))
    assert bare.select_one("svg.route-wide") is None and "No route yet" in text(bare)
    back = soup(press(client, other, "system.layout", layout="mini-store", instead="1"))
    assert back.select_one("svg.route-wide") is not None
    again = soup(press(client, other, "system.layout", layout="pitch-store", instead="1"))
    assert "No route yet" not in text(again)


def test_an_open_end_is_capped_where_it_is(client, library):
    press(client, library, "run.remove", run="mixed-split-head")
    page = soup(client.get(f"{library}/layout?piece=part-mixed-split"))
    button = page.find("button", string=lambda words: bool(words and "Cap the" in words))
    assert button is not None
    form = button.find_parent("form")
    assert form is not None
    data = {str(i["name"]): str(i.get("value", "")) for i in form.select("input")}
    done = client.post(str(form["action"]), headers=HTMX, data=data)
    assert done.status_code == 200 and "Blanking cap" in text(soup(done))
    capped = soup(client.get(f"{library}/layout?piece=part-mixed-split"))
    assert capped.find("button", string=lambda words: bool(words and "Cap the" in words)) is None
    refused = press(client, library, "port.cap", end=data["end"])
    assert refused.status_code == 422 and "That was not done" in refused.text


def test_what_a_part_would_change_is_said_before(client, library):
    page = soup(client.get(f"{library}/layout?o.head=1&piece=run-mixed-split-head"))
    chooser = page.select_one("#insert-kind")
    assert chooser is not None
    path = f"{chooser['hx-get']}&edit=part.insert&run=mixed-split-head&part_class="
    said = client.get(f"{path}strainer-usual", headers=HTMX)
    assert "Hand set" in said.text and "→" in said.text and "joints more" in said.text
    assert "<html" in client.get(f"{path}strainer-usual").text
    assert "does not go in" in client.get(f"{path}tap-basin", headers=HTMX).text.lower()
    assert "no class of part" in client.get(f"{path}castle", headers=HTMX).text
    before = client.get(f"{library}/runs.tsv").text
    assert client.get(f"{library}/runs.tsv").text == before  # nothing was kept
    smaller = client.get(
        f"{library}/effect?o.head=1&edit=part.replace&part=pump&part_class=pump-small", headers=HTMX
    )
    assert "L/min" in smaller.text and "joints" not in smaller.text


def test_the_way_temperature_is_made_is_tried_and_kept(client):
    path = keep(client, drover())
    page = soup(client.get(f"{path}/shower?draw=1&school=left"))
    tried = page.select_one(".tried")
    assert tried is not None
    form = tried.select_one("form")
    assert form is not None
    data = {str(i["name"]): str(i.get("value", "")) for i in form.select("input")}
    assert data["school"] == "left"
    assert client.post(f"{path}/whatif", headers=HTMX, data=data).status_code == 200
    kinds = {part.kind for part in project(client).variants[0].system.parts}
    assert "manual_mixer" in kinds and "thermostatic_mixer" not in kinds
    none = soup(client.get(f"{path}/shower?draw=1&school=castle"))
    assert none.select_one(".tried") is None
    wrong = client.post(f"{path}/whatif", headers=HTMX, data={**data, "school": "castle"})
    assert wrong.status_code == 422 and "cannot be changed so" in wrong.text


def test_a_draw_in_another_state_is_asked_for_and_shown(client):
    path = keep(client, layouts()["coolant-coil"].project())
    page = soup(client.get(f"{path}/brief"))
    chooser = page.select_one("select[name=state]:not(#day-state)")
    assert chooser is not None
    assert {"driving", "pitch"} <= {option["value"] for option in chooser.select("option")}
    form = chooser.find_parent("form")
    assert form is not None
    data = {
        str(i["name"]): str(i.get("value", "")) for i in form.select("input")
        if i.get("type") != "checkbox" or i.has_attr("checked")
    }  # fmt: skip
    for option in form.select("option[selected]"):
        assert option.parent is not None
        data[str(option.parent["name"])] = str(option["value"])
    saved = client.post(f"{path}/edit", headers=HTMX, data={**data, "state": "driving"})
    assert saved.status_code == 200
    assert any(draw.state == "driving" for draw in project(client).brief.draws)
    shown = soup(client.get(f"{path}/shower"))
    assert "stands as" in text(shown) and "Driving, engine" in text(shown)
    newer = soup(saved).select_one("input[name=_base]")
    assert newer is not None
    data["_base"] = str(newer["value"])
    wrong = client.post(f"{path}/edit", headers=HTMX, data={**data, "state": "Not a state!"})
    assert wrong.status_code == 422
    # a variant that lacks the state says so and goes on
    moved = project(client)
    bare = Project(
        name="Bare", brief=moved.brief, variants=(Variant(
            id="first", name="First", system=layouts()["pitch-store"].system),),
    )  # fmt: skip
    assert "lacks the state" in text(soup(client.get(f"{keep(client, bare)}/shower")))


def test_water_that_goes_round_stands_on_every_page(client):
    made = layouts()["closed-primary"].project()
    draws = (
        *made.brief.draws[:1],
        made.brief.draws[0].model_copy(
            update={"id": "round", "name": "Once more", "outlet": "reuse", "state": "reuse",
                    "start_s": 20 * 3600.0}),
    )  # fmt: skip
    again = made.model_copy(
        update={"brief": made.brief.model_copy(update={"draws": draws, "people": None})}
    )
    path = keep(client, again)
    for page in ("brief", "layout", "parts", "spaces", "flow", "shower?draw=1",
                 "shower?draw=1&by=time", "certainty"):  # fmt: skip
        assert client.get(f"{path}/{page}").status_code == 200, page
    shower = text(soup(client.get(f"{path}/shower?draw=1")))
    assert "never to drink" in shower and "Reuse shower" in shower
    for trace in ("flow.round", "wait.round", "fresh", "battery"):
        assert client.get(f"{path}/trace/{trace}").status_code in (200, 404), trace
    rows = client.get(f"{path}/timeline.csv").text.splitlines()
    assert any(",round,running," in row or "round" in row for row in rows)
    assert any("moving" in row for row in rows)


def test_the_drawing_is_a_file_too(client, library):
    answer = client.get(f"{library}/route.svg?o.head=1")
    assert answer.headers["content-type"].startswith("image/svg+xml")
    assert "attachment" in answer.headers["content-disposition"]
    drawn = ElementTree.fromstring(answer.text.encode())
    assert drawn.tag.endswith("svg")
    assert sum(item.get("class") == "node" for item in drawn.iter()) > 20
    assert "<a " not in answer.text and "--ink" in answer.text
    bare = Project(name="Bare", brief=curlew().brief,
                   variants=(Variant(id="first", name="First", system=System()),))  # fmt: skip
    assert client.get(f"{keep(client, bare)}/route.svg").status_code == 404


@pytest.mark.parametrize("query", [
    "o.head=nan", "o.head=7", "o.nothing=1", "state=<b>", "piece=part-<x>", "piece=" + "a" * 59,
    "o.head=0.01", "choose=maybe",
])  # fmt: skip
def test_awkward_addresses_are_answered(client, library, query):
    assert client.get(f"{library}/layout?{query}").status_code in (200, 422)


@pytest.mark.parametrize("name", layouts())
def test_every_layout_is_drawn_on_its_page(client, name):
    page = soup(client.get(f"{keep(client, layouts()[name].project())}/layout"))
    assert labels(page)
    ids = [node["href"] for node in page.select("svg.route-wide a.node")]
    assert len(ids) == len(set(ids))


# --- what if ---


def test_a_knob_is_tried_and_kept_only_when_wanted(client, demo):
    page = soup(client.get(f"{demo}/shower?draw=1&w.volume=14"))
    tried = page.select_one(".tried")
    assert tried is not None and "warm" in text(tried)
    assert tried.select_one("path.ghost") is not None
    assert "→" in text(tried)
    assert 'placeholder="10"' in client.get(f"{demo}/shower?draw=1").text
    form = tried.find("form")
    data = {field["name"]: field["value"] for field in form.find_all("input")}
    kept = client.post(f"{demo}/whatif", headers=HTMX, data=data)
    assert kept.status_code == 200
    assert 'placeholder="14"' in client.get(f"{demo}/shower?draw=1").text
    assert "Kept what was tried" in kept.text


def test_stops_and_who_comes_next_are_tried(client, demo):
    page = soup(client.get(f"{demo}/shower?draw=0&w.stops=3&w.next=8:30"))
    assert page.select_one(".tried") is not None
    later = text(page.select_one(".tried"))
    assert "washes" in later
    assert "Second shower" in text(page.find("label", {"for": "w-next"}))
    half = soup(client.get(f"{demo}/shower?draw=0&w.stops=2.5"))
    assert "That cannot be" in text(half)
    last = soup(client.get(f"{demo}/shower?draw=3"))
    assert last.find(id="w-next") is None


def test_nonsense_on_a_knob_is_kept_and_explained(client, demo):
    page = soup(client.get(f"{demo}/shower?w.volume=lots&w.flow=4"))
    field = page.find(id="w-volume")
    assert field["value"] == "lots" and field["aria-invalid"] == "true"
    assert page.find(id="w-flow")["value"] == "4"
    assert page.select_one(".tried") is None
    upside = soup(client.get(f"{demo}/shower?w.low=45&w.high=40"))
    assert "That cannot be" in text(upside)
    wrong = client.post(f"{demo}/whatif", headers=HTMX, data={
        "_base": "1", "_units": "metric", "draw_id": "early-shower", "w.volume": "lots",
    })  # fmt: skip
    assert wrong.status_code == 422


def test_two_windows_are_told(client, demo):
    number = int(demo.split("/")[2])
    vehicles = client.app.state.services.vehicles
    opened = vehicles.open(number)
    path = "variants.ten-litres.system.parts.store.volume_m3"
    vehicles.set_values(number, opened.head_id, {path: 0.012}, "Elsewhere")
    late = client.post(f"{demo}/whatif", headers=HTMX, data={
        "_base": str(opened.head_id), "_units": "metric", "draw_id": "early-shower",
        "w.volume": "14",
    })  # fmt: skip
    assert late.status_code == 409 and "Another window" in text(soup(late))
    gone = client.post(f"{demo}/whatif", headers=HTMX, data={"draw_id": "nobody"})
    assert gone.status_code == 404


def test_remedies_are_compared_on_the_very_draw(client, demo, worker):
    page = soup(finished(client, f"{demo}/shower?draw=0&compare=slug&pause=20"))
    rows = page.select("table.remedies tbody tr")
    names = [text(row.find("th")) for row in rows]
    assert names[0].startswith("as it is") and any("jug" in name for name in names)
    assert {"loop on a timer", "loop that always runs"} <= set(names)
    assert len({text(row.find_all("td")[0]) for row in rows}) > 2  # remedies differ in their wait
    wrong = soup(client.get(f"{demo}/shower?draw=0&compare=slug&pause=ages"))
    assert wrong.find(id="pause")["aria-invalid"] == "true"
    late = finished(client, f"{demo}/shower?compare=slug&pause=900 h")
    assert "twelve hours" in text(soup(late))


def test_schools_are_compared_and_scalds_are_marked(client, demo, worker):
    page = text(soup(finished(client, f"{demo}/shower?draw=0&compare=mixing")))
    assert "manual, left alone" in page and "scalds" in page


def test_a_through_flow_heater_shows_its_window(client):
    path = keep(client, layouts()["cupboard-through-flow"].project())
    page = text(soup(client.get(f"{path}/shower")))
    assert "flows in which it works" in page and "lights from" in page
    client.cookies.set("units", "us")
    assert "gal/min" in text(soup(client.get(f"{path}/shower")))


def test_panels_follow_the_draw(client, library):
    page = soup(client.get(f"{library}/shower?draw=0"))
    titles = " ".join(text(row) for row in page.select(".chart-wide .panel-row figcaption"))
    for word in ("Store, top", "Heat given", "Diesel", "Battery", "Fresh", "Grey"):
        assert word in titles


# --- how sure ---


def test_how_sure_says_what_would_turn(client, demo, worker):
    whole = finished(client, f"{demo}/certainty")
    page = soup(whole)
    words = text(page)
    assert "may be as asked after all" in words or "may not be as asked" in words
    assert "standing loss" in words and "uncertain figures were tried in" in words
    assert "cold water" in words
    part = client.get(f"{demo}/certainty", headers=HTMX)
    assert "<html" in whole.text and "<html" not in part.text
    assert "How sure is this?" in client.get(f"{demo}/shower").text
    client.cookies.set("units", "us")
    assert "°F" in text(soup(client.get(f"{demo}/certainty")))


def test_how_sure_of_what_cannot_be_computed(client):
    made = Project(name="Bare", brief=curlew().brief,
                   variants=(Variant(id="first", name="First", system=System()),))  # fmt: skip
    assert "has no parts" in text(soup(client.get(f"{keep(client, made)}/certainty")))


# --- bench sums ---


def test_every_sum_has_an_answer_at_once(client):
    page = soup(client.get("/sums"))
    assert len(page.select(".sum")) == len(page.select(".sum-figure")) >= 12
    assert len(page.select(".sum-group")) == 6
    assert len(page.select(".sum[open]")) == 0
    chosen = soup(client.get("/sums?sum=mix")).select(".sum[open]")
    assert [item["id"] for item in chosen] == ["mix"]


def test_a_sum_in_the_units_of_the_person(client):
    page = soup(client.get("/sums?sum=mix&hot=65&cold=5&want=35"))
    assert "50 %" in text(page.find(id="mix"))
    client.cookies.set("units", "us")
    us = soup(client.get("/sums?sum=heat-up&volume=5 gal&power=1500"))
    assert us.find(id="heat-up-volume")["value"] == "5 gal"
    assert "min" in text(us.find(id="heat-up"))


def test_a_sum_says_what_is_wrong(client):
    page = soup(client.get("/sums?sum=mix&hot=abc"))
    assert page.find(id="mix-hot")["aria-invalid"] == "true"
    assert page.find(id="mix-hot")["value"] == "abc"
    cold = soup(client.get("/sums?sum=mix&hot=5&cold=40"))
    assert "hot must be warmer than cold" in text(cold.find(id="mix"))
    slow = soup(client.get("/sums?sum=heat-up&power=1&loss=9"))
    assert "never gets past" in text(slow.find(id="heat-up"))
    assert client.get("/sums?sum=nothing&x=1").status_code == 200


def test_an_answer_is_put_into_a_design(client, demo):
    asked = {"sum": "heated", "volume": "10", "time": "40", "_units": "metric"}
    page = soup(client.get("/sums?sum=heated&volume=10&time=40"))
    options = page.select("#heated-target option")
    target = next(option["value"] for option in options if "Ten litres" in option.get_text())
    answer = client.post("/sums/put", data={**asked, "target": target})
    assert answer.status_code == 303 and "piece=part-element" in answer.headers["location"]
    opened = client.app.state.services.vehicles.open(int(demo.split("/")[2]))
    element = next(p for p in opened.project.variants[0].system.parts if p.id == "element")
    assert element.power_w == pytest.approx(887.0, rel=0.02)
    gone = client.post("/sums/put", data={**asked, "target": "9.x.y"})
    assert gone.status_code == 422 and "not there any more" in text(soup(gone))
    odd = client.post("/sums/put", data={**asked, "time": "soon", "target": target})
    assert odd.status_code == 422
    assert client.post("/sums/put", data={"sum": "nothing"}).status_code == 404


def test_a_box_says_what_a_stuck_switch_does(client):
    made = layouts()["open-sun-box"].project()
    number = client.app.state.services.vehicles.create(made, "x")
    page = soup(client.get(f"/vehicles/{number}/open-sun-box/layout?piece=part-store"))
    words = text(page.select_one("#piece"))
    assert "If Low level switch sticks: Surplus element does not heat any more." in words
    assert "If Switch that starts filling sticks: Fill solenoid stays shut" in words


def test_holding_is_compared_with_waiting(client, demo, worker):
    page = soup(finished(client, f"{demo}/shower?draw=0&compare=holding"))
    rows = [text(row.th) for row in page.select("table.holding tbody tr")]
    assert rows[0] == "as it is" and "held hot all day" in rows
    assert any(row.startswith("switched on ") for row in rows)
    assert "Wh" in text(page.select_one("table.holding tbody"))
