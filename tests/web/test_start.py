"""Start, Heat and what is next: pages as a person reads them, with and without scripts."""

from __future__ import annotations

import json

import pytest

from isotherma.catalogue.demo import curlew, drover
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.web.rooms import ROOMS
from tests.support import few_ways
from tests.web.test_flow import keep
from tests.web.test_pages import HTMX, act, finished, project, soup, text


def begin(client, **answers):
    response = client.post("/start", data={"_units": "metric", "name": "My vehicle", **answers})
    assert response.status_code == 303, response.text
    return response.headers["location"].removesuffix("/heat")


def test_home_says_what_this_gives_and_marks_examples(client):
    keep(client, drover())
    page = soup(client.get("/"))
    assert "before it is built" in text(page.h1) and "tape" in text(page.select_one(".lead"))
    assert page.select_one('a.button-large[href="/start"]') is not None
    assert text(page.select_one(".vehicle .example")) == "example"
    number = keep(client, drover()).split("/")[2]
    client.post(f"/vehicles/{number}/duplicate")
    copy = next(card for card in soup(client.get("/")).select(".vehicle")
                if "(copy)" in text(card.h2))  # fmt: skip
    assert copy.select_one(".example") is None


def test_six_questions_each_with_dont_know_yet(client):
    page = soup(client.get("/start"))
    assert len(page.select("fieldset.question-box")) == 6
    selects = page.select("fieldset.question-box select")
    assert all(text(select.option) == "don’t know yet" for select in selects)
    region = next(text(option) for option in page.select("#f-start-region option")
                  if option.get("value") == "northern-hills")  # fmt: skip
    assert region == "Northern hills, 0.5 to 14 °C"  # its January and July, in the catalogue
    client.cookies.set("units", "us")
    us = soup(client.get("/start"))
    assert "33 to 58 °F" in text(us.select_one("#f-start-region"))


@pytest.mark.parametrize("headers", [{}, HTMX])
def test_cards_say_what_they_are_what_they_would_do_and_what_they_need(client, headers):
    base = begin(client, people="2", gas="refused", hook_up_a="6")
    page = soup(client.get(f"{base}/heat", headers=headers))
    cards = page.select(".start-card")
    assert len(cards) == len(layouts()) + 1
    for card in cards:
        assert card.select_one("svg.mini use") is not None
        assert len(text(card.h2)) > 10 and text(card.select_one(".muted")).endswith(".")
    against = [card for card in cards if "You will not have gas" in text(card)]
    assert against == cards[-len(against) :] and against
    unused = [card for card in cards if "Leaves unused: Hook-up" in text(card)]
    assert unused  # those that have no mains
    no_flame = soup(client.get(f"{base}/heat?flame=1&pump=1"))
    assert 0 < len(no_flame.select(".start-card")) < len(cards)
    none = client.get(f"{base}/heat?own=castle&flame=2")
    assert len(soup(none).select(".start-card")) == len(cards)


def test_where_people_wash_decides_what_is_shown_first(client):
    for washes in ("outside", "inside"):
        base = begin(client, washes=washes)
        said = [f"Washes {washes}." in text(card)
                for card in soup(client.get(f"{base}/heat")).select(".start-card")]  # fmt: skip
        assert said == sorted(said, reverse=True) and 0 < sum(said) < len(said)


def test_what_hurts_decides_what_is_shown_first(client):
    plain = begin(client)
    least = begin(client, hurts="complexity")
    first = [text(card.h2) for card in soup(client.get(f"{least}/heat")).select(".start-card")]
    sizes = {layout.name: len(layout.system.parts) for layout in layouts().values()}
    counts = [sizes[name] for name in first if name in sizes]
    assert counts == sorted(counts)
    flames = begin(client, hurts="flames")
    cards = soup(client.get(f"{flames}/heat")).select(".start-card")
    burns = ["No flame" not in text(card) for card in cards]
    assert burns == sorted(burns)
    usual = [text(card.h2) for card in soup(client.get(f"{plain}/heat")).select(".start-card")]
    assert usual[0].startswith("The usual route") and usual != first


def test_an_offer_is_a_sentence_on_the_answers(client):
    base = begin(client, people="1", month="7")
    part = client.get(f"{base}/offer/drive-plate", headers=HTMX)
    assert "One wash of 5 min in July" in part.text and "<" not in part.text.replace("&#", "")
    whole = soup(client.get(f"{base}/offer/drive-plate"))
    assert "go back to begin with it" in text(whole)
    assert client.get(f"{base}/offer/castle").status_code == 404
    assert client.get(f"{base}/offer/usual", headers=HTMX).status_code == 200


def test_what_is_there_is_noted_and_forgotten(client):
    base = begin(client, fresh_m3="60")
    assert [part.kind for part in project(client).owned] == ["fresh_tank"]
    act(client, base, "owned.add", part_class="store-usual", _page="heat")
    assert [part.kind for part in project(client).owned] == ["fresh_tank", "store"]
    page = soup(client.get(f"{base}/heat"))
    assert "not in this route" in text(page.find(id="otherwise"))
    act(client, base, "owned.remove", part="fresh-tank", _page="heat")
    assert [part.kind for part in project(client).owned] == ["store"]
    assert act(client, base, "owned.remove", part="castle", _page="heat").status_code == 422


def test_beginning_leads_to_the_verdict(client):
    base = begin(client, people="1")
    plain = client.post(f"{base}/system/layout", data={"layout": "gas-combi", "_page": "heat",
                                                       "_to": "shower"})  # fmt: skip
    assert plain.status_code == 303 and plain.headers["location"] == f"{base}/shower"
    strange = act(client, base, "system.layout", layout="mini-store", instead="1", _to="nowhere")
    assert strange.headers["hx-redirect"] == f"{base}/brief"


# --- what is next ---


@pytest.mark.parametrize("room", [room.key for room in ROOMS])
def test_every_page_ends_with_what_is_next(client, room):
    failing = keep(client, drover())
    said = text(soup(client.get(f"{failing}/{room}")).find(id="next"))
    assert said.startswith("What would make it" if room == "shower" else "Not all is as asked")
    fine = editing.set_values(
        drover(), {"brief.days": 1, "variants.ten-litres.system.parts.store.volume_m3": 0.028}
    )
    good = text(soup(client.get(f"{keep(client, fine)}/{room}")).find(id="next"))
    assert good.startswith("Enough for a first answer. Next:")
    empty = begin(client)
    nothing = soup(client.get(f"{empty}/{room}")).find(id="next")
    assert nothing is None if room == "heat" else "choose what heats the water" in text(nothing)


def test_nobody_washing_is_what_is_missing(client):
    alone = editing.set_values(curlew(), {"brief.draws": ()})
    said = text(soup(client.get(f"{keep(client, alone)}/flow")).find(id="next"))
    assert "Missing for a verdict: who washes" in said


def test_the_missing_field_stands_on_every_page_and_is_saved_there(client):
    base = begin(client, people="1")
    act(client, base, "system.usual", _page="heat")
    for page in ("brief", "parts", "shower"):
        view = soup(client.get(f"{base}/{page}"))
        field = view.select_one("#next input[name=volume_m3]")
        assert field is not None, page
        assert view.select_one("a.verdict-mend")["href"] == f"#{field['id']}"
    form = field.find_parent("form")
    data = {str(i["name"]): str(i.get("value", "")) for i in form.select("input")}
    answer = client.post(form["action"], headers=HTMX, data=data | {"volume_m3": "50 L"})
    assert answer.status_code == 200
    assert "Store has no volume" in text(soup(answer).find(id="verdict"))
    wrong = client.post(form["action"], headers=HTMX, data=data | {"volume_m3": "much"})
    assert wrong.status_code == 422


# --- mends ---


def test_mends_are_offered_kept_and_undone(client, demo, worker):
    page = soup(finished(client, f"{demo}/mends", HTMX))
    rows = page.select(".mend")
    assert 1 <= len(rows) <= 3
    form = rows[0].form
    data = {str(i["name"]): str(i.get("value", "")) for i in form.select("input")}
    paths = [path for path, _, _ in json.loads(data["changes"])]
    assert all(path.startswith(("brief.", "variants.ten-litres.")) for path in paths)
    kept = client.post(form["action"], headers=HTMX, data=data)
    assert kept.status_code == 200
    assert "Enough for a first answer" in text(soup(kept).find(id="next"))
    again = client.post(form["action"], headers=HTMX, data=data)
    assert again.status_code == 422 and "has changed since this was tried" in again.text
    whole = soup(finished(client, f"{demo}/mends"))
    assert "Back to the shower" in text(whole)


def test_mends_of_what_cannot_be_computed_say_why(client):
    base = begin(client)
    assert "it has no parts yet" in client.get(f"{base}/mends", headers=HTMX).text


def test_a_cause_is_mended_where_its_control_is(client):
    seat = layouts()["seat-store"].project()
    blown = editing.set_values(seat, {"variants.seat-store.system.parts.heat-circuit.fuse_a": 15.0})
    base = keep(client, blown)
    href = soup(client.get(f"{base}/shower")).select_one("a.verdict-mend")["href"]
    assert href.endswith("/parts?piece=part-heat-circuit#"
                         "f-variants-seat-store-system-parts-heat-circuit-fuse-a")  # fmt: skip
    target = soup(client.get(href.partition("#")[0])).find(id=href.partition("#")[2])
    assert target is not None and target["name"] == "fuse_a"


# --- words and methods ---


def test_words_and_methods_are_pages_and_are_found(client):
    words = soup(client.get("/words"))
    assert len(words.select(".word")) > 60 and words.find(id="dead-leg") is not None
    method = soup(client.get("/method"))
    assert method.find(id="friction") is not None and method.find(id="drain-down") is not None
    found = client.get("/jump").json()
    assert ["dead leg", "/words#dead-leg"] in found
    anchors = {f"/words#{item['id']}" for item in words.select(".word")}
    anchors |= {f"/method#{row['id']}" for row in method.select("tr[id]")}
    assert {href for _, href in found} <= anchors


def test_every_number_links_to_how_it_is_computed(client, demo):
    method = soup(client.get("/method"))
    for stem in ("flow", "wait", "warm", "hot", "energy", "used.fresh"):
        page = soup(client.get(f"{demo}/trace/{stem}"))
        href = next(link["href"] for link in page.select("a")
                    if "How this is computed" in text(link))  # fmt: skip
        assert method.find(id=href.partition("#")[2]) is not None, stem


def test_a_help_line_links_to_the_word_it_uses(client, demo):
    page = soup(client.get(f"{demo}/parts?piece=part-store"))
    links = page.select(".help a[href^='/words#']")
    words = soup(client.get("/words"))
    assert links
    assert all(words.find(id=link["href"].partition("#")[2]) is not None for link in links)


# --- what a field would be ---


def test_an_empty_field_shows_what_it_would_be(client, demo):
    page = soup(client.get(f"{demo}/parts?piece=part-store"))
    field = page.select_one("[name=jet_share]")
    assert field["placeholder"] == "10 if empty"  # what is usual for the kind, in per cent
    assert field["value"] == ""


def test_a_wait_that_never_ends_is_not_so_many_seconds(client):
    cold = editing.set_values(
        drover(), {f"brief.draws.{drover().brief.draws[0].id}.low_c": 70.0,
                   f"brief.draws.{drover().brief.draws[0].id}.high_c": 80.0}
    )  # fmt: skip
    strip = soup(client.get(f"{keep(client, cold)}/brief")).select_one(
        '.cell[data-budget="waiting"]'
    )
    assert "never warm" in text(strip) and "180" not in text(strip)


# --- sized ---


def test_ways_of_heating_are_sized_by_workers_and_one_is_begun_with(client, worker):
    demo = keep(
        client,
        few_ways(drover(), "gas-and-mains", "canister", "kettle-and-bag", "mains-through-flow"),
    )
    first = client.get(f"{demo}/sizes", headers=HTMX)
    assert "ways of heating are sized" in first.text
    page = soup(finished(client, f"{demo}/sizes", HTMX, 120.0))
    rows = {text(row.h3): row for row in page.select(".size-row")}
    store = rows["Gas-and-mains store"]
    assert "Large store" in text(store) and "Store, 28 L:" in text(store)
    struck = " ".join(text(row) for row in page.select(".struck-list li"))
    assert "Canister at the tap At its largest" in struck and "It would do it so" in struck
    gone = store.find("button", attrs={"aria-label": "Strike Gas-and-mains store"}).find_parent(
        "form"
    )
    hidden = {str(i["name"]): str(i["value"]) for i in gone.select("input")}
    assert client.post(gone["action"], data=hidden).headers["location"].endswith("/heat")
    page = soup(client.get(f"{demo}/sizes"))  # nothing of the others is sized again
    assert "Gas-and-mains store" not in {text(row.h3) for row in page.select(".size-row")}
    row = page.select_one(".struck-list #sized-gas-and-mains")
    assert "You struck it" in text(row) and not page.select("[data-under-way]")
    back = {str(i["name"]): str(i["value"]) for i in row.form.select("input")}
    client.post(row.form["action"], data=back)
    page = soup(client.get(f"{demo}/sizes"))
    assert "You struck it" not in text(page.find(id="sized-gas-and-mains"))
    assert not page.select("[data-under-way]")
    form = store.form
    data = {str(i["name"]): str(i.get("value", "")) for i in form.select("input")}
    begun = client.post(form["action"], data=data)
    assert begun.status_code == 303 and "gas-and-mains-store/shower" in begun.headers["location"]
    client.cookies.set("units", "us")
    whole = client.get(f"{demo}/sizes").text
    assert "<html" in whole and "gal" in whole


def test_what_one_has_says_what_it_can_do_and_strikes_what_leaves_it_unused(client, worker):
    base = keep(client, few_ways(drover(), "gas-combi", "kettle-and-bag"))
    page = soup(client.get(f"{base}/heat"))
    assert page.find(id="own-panel") is None
    added = soup(act(client, base, "owned.add", part_class="combi-gas", _page="heat"))
    assert text(added.find(id="own-panel").h2) == "What can yours do?"
    own = soup(finished(client, f"{base}/own", HTMX, 120.0))
    way = own.select_one(".own-way")
    assert "as gas combi" in text(way.h3) and "Longest warm draw" in text(way.table)
    assert "Nobody washes" in text(way) and "It would suit one person" in text(way)
    sizes = soup(finished(client, f"{base}/sizes", HTMX, 120.0))
    kettle = sizes.find(id="sized-kettle-and-bag")
    assert "Leaves your Gas combi unused." in text(kettle)
    button = kettle.find("button", string="Bring back")
    form = button.find_parent("form")
    data = {str(one["name"]): str(one["value"]) for one in form.select("input")}
    assert client.post(form["action"], data=data, headers=HTMX).status_code == 200
    back = soup(finished(client, f"{base}/sizes", HTMX, 120.0))
    assert "Leaves your" not in text(back.find(id="sized-kettle-and-bag"))
    whole = client.get(f"{base}/own").text
    assert "<html" in whole and "What yours can do" in whole
    client.cookies.set("units", "us")
    assert "gal/min" in client.get(f"{base}/own").text


def test_nothing_that_heats_can_do_nothing(client):
    base = keep(client, drover())
    assert "Nothing that heats or stores is noted" in client.get(f"{base}/own", headers=HTMX).text
    refused = act(client, base, "owned.add", part_class="castle", _page="heat")
    assert refused.status_code == 422


def test_rows_are_put_in_order_by_their_columns(client, worker):
    base = keep(client, few_ways(drover(), "gas-and-mains", "closed-primary"))
    finished(client, f"{base}/sizes", HTMX, 120.0)
    page = soup(client.get(f"{base}/sizes"))
    heads = {text(head): head for head in page.select(".size-table thead th")}
    assert list(heads)[:6] == [
        "Way of heating", "Longest wait", "Between people", "Takes a day", "Room", "About",
    ]  # fmt: skip
    room = soup(client.get(heads["Room"].a["href"], headers=HTMX))
    assert room.select_one("th[aria-sort=ascending]").a["aria-label"] == "Room, least first"
    names = [text(row.h3) for row in room.select(".size-row")]
    litres = [text(row.select_one('td[data-of="Room"]')) for row in room.select(".size-row")]
    assert len(names) == 2 and [float(one.split()[0]) for one in litres] == sorted(
        float(one.split()[0]) for one in litres
    )
    more = text(room.select_one(".size-more dl"))
    for title in ("At 2 L/min", "At -5 °C", "With a foot pump", "Heat lost standing by"):
        assert title in more.replace("−", "-"), title
