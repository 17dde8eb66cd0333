"""Shopping and cutting: the list, the pieces, the holes, the ends, and what is ticked."""

from __future__ import annotations

import csv
import io

import pytest

from isotherma.catalogue.demo import folio
from isotherma.catalogue.layouts import layouts
from tests.web.test_pages import soup, text


@pytest.fixture
def library(client) -> str:
    number = client.app.state.services.vehicles.create(folio(), "Demo vehicle")
    return f"/vehicles/{number}/button"


def view(client, path, name="", **asked):
    return soup(
        client.get(f"{path}/shopping", params={**({"view": name} if name else {}), **asked})
    )


def did(client, path, name, **values):
    return client.post(
        f"{path}/{name}", data={"_page": "shopping", **values}, headers={"HX-Request": "true"}
    )


def test_the_list_leads_with_a_sentence_and_goes_by_shop(client, library):
    page = view(client, library)
    said = text(page.select_one("#buy-title"))
    assert "lines to buy and" in said and "spares" in said and "EUR" in said
    shops = [text(one) for one in page.select("details.shop h2")]
    assert shops[0].startswith("Plumbing") and any(one.startswith("Electrical") for one in shops)
    assert "103 joints, none of them behind another part" in text(page)
    assert page.select_one("[aria-current=page]") is not None


def test_packs_bars_and_what_is_ordered_are_said(client, library):
    page = view(client, library)
    lines = {text(one.select_one(".shop-what")): text(one.select_one(".shop-buy"))
             for one in page.select(".shop-line")}  # fmt: skip
    tube = next(words for name, words in lines.items() if "semi-rigid plastic 15 mm off" in name)
    assert "bars of 3 m" in tube and "33.60 EUR" in tube
    washer = next(name for name in lines if name.startswith("Washer 1/2 in"))
    assert "20 ordered" in washer
    insert = next(name for name in lines if name.startswith("Insert semi-rigid plastic 15 mm"))
    assert "20 there" in insert


def test_a_line_is_bought_with_its_price_and_the_day_and_taken_back(client, library):
    size = "semi-rigid plastic 12 mm"
    done = did(client, library, "line/bought", item="elbow", size=size, quantity="2",
               price="2,90", priced_on="2026-11-28")  # fmt: skip
    assert done.status_code == 200
    page = view(client, library)
    there = [text(one) for one in page.select("details:not(.shop) .shop-line .shop-what")]
    assert any(one.startswith(f"Elbow {size} 2 there") for one in there)
    did(client, library, "line/open", item="elbow", size=size)
    again = view(client, library)
    line = next(one for one in again.select("details.shop .shop-line")
                if text(one.select_one(".shop-what")).startswith(f"Elbow {size}"))  # fmt: skip
    assert "5.80 EUR" in text(line)


def test_a_part_is_bought_and_leaves_the_list(client, library):
    before = text(view(client, library).select_one("#buy-title"))
    did(client, library, "part/bought", part="pump", price="85", priced_on="2026-11-28")
    page = view(client, library)
    assert text(page.select_one("#buy-title")) != before
    assert "Still to buy" in text(page)
    did(client, library, "part/bought", part="pump", owned="to buy")
    bought = [one for one in view(client, library).select(".shop-line")
              if "85.00 EUR" in text(one)]  # fmt: skip
    assert len(bought) == 1


@pytest.mark.parametrize(("name", "values", "words"), [
    ("price/set", {"item": "clip", "size": "x", "price": "dear"}, "no figure"),
    ("price/set", {"item": "clip", "size": "x", "priced_on": "soon"}, "Price of"),
    ("end/set", {"part": "pump", "port": "inlet", "end": "male 1/2 in paralel"},
     "perhaps “male 1/2 in parallel”"),
    ("end/set", {"part": "pump", "port": "inlet", "end": "push-in 17 mm"}, "no such size"),
    ("run/measure", {"run": "pump-accumulator", "legs": "a; b; c"}, "is no length"),
    ("run/measure", {"run": "pump-accumulator", "legs": "3 m; 90"}, "last leg is missing"),
    ("hole/set", {"hole": "none", "bore": "wide"}, "is no length"),
    ("hole/plan", {"run": "pump-accumulator"}, "two spaces"),
])  # fmt: skip
def test_what_cannot_be_done_says_why(client, library, name, values, words):
    done = did(client, library, name, **values)
    assert done.status_code == 422 and words in text(soup(done))


def test_pieces_are_drawn_longest_first_with_their_marks(client, library):
    page = view(client, library, "pieces")
    assert "15 pieces" in text(page.select_one("#size-1"))
    assert "off 4 bars of 3 m" in text(page.select_one("#size-1"))
    first = page.select_one(".cut-piece")
    assert text(first.select_one(".cut-length")) == "1874 mm"
    assert "goes in 25 mm" in text(first.select_one("svg.chart-wide"))
    lengths = [float(text(one).split()[0]) for one in page.select("#size-1 ~ ol .cut-length")]
    assert lengths == sorted(lengths, reverse=True)
    labels = [text(one) for one in page.select(".cut-labels li")]
    assert labels.count("split-mixer-2") == 2


def test_a_run_is_measured_with_a_bend_and_cut(client, library):
    did(client, library, "run/measure", run="store-relief", measured="between faces",
        legs="300 mm; 90; 400 mm")  # fmt: skip
    page = view(client, library, "pieces")
    piece = page.select_one("#piece-store-relief-1")
    assert "90° from" in text(piece.select_one("svg.chart-wide"))
    short = did(client, library, "run/measure", run="store-relief", measured="between faces",
                legs="30 mm; 90; 400 mm")  # fmt: skip
    assert "a leg is too short" in text(soup(short)) or short.status_code == 200
    assert "leg 1 is shorter" in text(view(client, library, "pieces"))


def test_holes_that_nobody_planned_are_planned_and_known(client, library):
    page = view(client, library, "holes")
    assert "8 of them not planned" in text(page.select_one("#holes-title"))
    assert "look first" in text(page.select_one("#hole-not-planned-tray-grey"))
    did(client, library, "hole/plan", run="tray-grey")
    after = view(client, library, "holes")
    hole = after.select_one("#hole-hole-tray-grey")
    assert "43 mm" in text(hole) and "planned" in text(hole)
    did(client, library, "hole/set", hole="hole-tray-grey", bore="44 mm", made_of="metal",
        behind="nothing, seen from below", drill_from="below")  # fmt: skip
    row = view(client, library, "holes").select_one("#hole-hole-tray-grey")
    assert "44 mm" in text(row) and "prime the bare metal" in text(row)
    assert "6, 44" in text(row) and "seen from below" in text(row)


def test_templates_are_circles_of_their_true_size(client, library):
    page = view(client, library, "holes")
    rule = page.select_one("svg.true-size")
    assert rule["width"] == "54mm" and "M2 3V9M52 3V9" in str(rule)  # 50 mm apart
    circles = page.select(".circles svg")
    assert circles and all(one["width"] == f"{one['viewbox'].split()[2]}mm" for one in circles)
    assert float(circles[0].select_one("circle")["r"]) * 2 == 9.0  # gas pipe of 6 mm


def test_ends_that_do_not_meet_come_first_with_what_would(client, library):
    did(client, library, "end/set", part="pump", port="inlet", end="male M22x1")
    page = view(client, library, "ends")
    assert "1 does not meet" in text(page.select_one("#ends-title"))
    row = page.select_one("#end-pump-inlet")
    assert "no chain known" in text(row) and row.select("button")
    near = row.select_one("input[name=end]:not([list])")["value"]
    did(client, library, "end/set", part="pump", port="inlet", end=near)
    assert "All meet" in text(view(client, library, "ends").select_one("#ends-title"))


def test_an_end_apart_is_marked_on_the_drawing_and_listed_first(client, library):
    did(client, library, "end/set", part="pump", port="inlet", end="male M22x1")
    drawing = soup(client.get(f"{library}/layout", params={"piece": "part-pump"}))
    gaps = drawing.select("svg.route-wide a.gap")
    assert len(gaps) == 1 and "does not meet" in gaps[0]["aria-label"]
    assert "do not meet" in text(drawing.select_one("#ends-part-pump"))
    panel = soup(client.get(f"{library}/parts", params={"piece": "part-pump"}))
    assert panel.select_one("#say-end-pump-inlet")["value"] == "male M22x1"
    assert "Still not known: 1" in text(view(client, library))


def test_savings_are_offered_tried_and_taken(client, library):
    page = view(client, library)
    row = page.select_one(".shop-savings li")
    changes = row.select_one("input[name=changes]")["value"]
    tried = client.get(f"{library}/effect", params={"edit": "changes.make", "changes": changes})
    assert tried.status_code == 200 and "Longest wait" in tried.text
    before = int(text(page).split(" joints, ")[0].split()[-1])
    did(client, library, "changes/make", changes=changes, words="Bend it")
    after = int(text(view(client, library)).split(" joints, ")[0].split()[-1])
    assert after == before - int(text(row).split()[0])


def test_the_tradition_and_the_money_are_chosen(client, library):
    did(client, library, "tradition/set", tradition="UK")
    did(client, library, "currency/set", currency="£")
    page = view(client, library)
    assert page.select_one("#shop-tradition option[selected]")["value"] == "UK"
    assert "£" in text(page.select_one("#buy-title"))
    assert "of the UK tradition" in text(view(client, library, "ends"))


def test_a_phase_shows_what_is_fitted_then(client, library):
    every = len(view(client, library).select(".shop-line"))
    second = view(client, library, phase="second")
    assert 0 < len(second.select(".shop-line")) < every
    assert len(view(client, library, phase="never").select(".shop-line")) == every


@pytest.mark.parametrize(("to", "by"), [("csv", ","), ("tsv", "\t")])
def test_the_list_is_a_table_for_a_spreadsheet(client, library, to, by):
    answer = client.get(f"{library}/parts-list", params={"to": to})
    assert f".{to}" in answer.headers["content-disposition"]
    rows = list(csv.DictReader(io.StringIO(answer.text), delimiter=by))
    tube = next(row for row in rows if row["size"] == "semi-rigid plastic 15 mm"
                and row["item"] == "tube")  # fmt: skip
    assert (tube["packs"], tube["to buy"], tube["unit"]) == ("4", "12", "m")
    assert tube["price"] == "33.60" and tube["currency"] == "EUR"


def test_a_vehicle_without_parts_says_where_to_begin(client):
    project = layouts()["gas-combi"].project()
    empty = project.variants[0].model_copy(update={"system": type(project.variants[0].system)()})
    number = client.app.state.services.vehicles.create(
        project.model_copy(update={"variants": (empty,)}), "x"
    )
    page = view(client, f"/vehicles/{number}/gas-combi")
    assert "Nothing is laid out yet" in text(page)


def test_us_units_are_inches_and_feet(client, library):
    client.cookies.set("units", "us")
    assert " in" in text(view(client, library, "pieces").select_one(".cut-length"))
    assert " ft" in text(view(client, library).select_one(".shop-list"))
