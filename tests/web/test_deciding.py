"""The Sweep and Compare pages as people read them: asked, refused, run, kept, printed as tables."""

from __future__ import annotations

import csv
import io
import re
from urllib.parse import urlencode

import pytest

from isotherma.catalogue.demo import drover
from isotherma.core import editing
from tests.web.test_pages import HTMX, act, fields_of, finished, project, soup, text

STORE = "variants.ten-litres.system.parts.store.volume_m3"


def address(base, page="sweep", **asked):
    return f"{base}/{page}?{urlencode(asked)}"


@pytest.mark.usefixtures("worker")
class TestASweep:
    def test_one_figure_makes_a_line_and_a_table(self, client, demo):
        asked = {"x": STORE, "x_from": "8", "x_to": "16", "x_n": "3", "show": "warm.second-shower"}
        part = soup(finished(client, address(demo, "swept", **asked), HTMX))
        assert re.fullmatch(r"All is as asked in \d of 3 runs\.", text(part.select_one(".said")))
        assert len(part.select(".chart-wide circle")) == 3
        rows = [text(row.th) for row in part.select(".sweep-table tbody tr")]
        assert rows == ["8 L", "12 L", "16 L"]
        page = soup(client.get(address(demo, **asked)))
        assert page.find("input", id="v-x")["value"] == "Gas-and-mains store: Volume"
        assert "today 10 L" in text(page.select_one("label[for=v-x]"))
        assert page.find("option", value="warm.second-shower").has_attr("selected")

    def test_two_figures_make_a_map_with_an_edge_where_all_is_as_asked(self, client, demo):
        act(client, demo, "stop.plan", day="2", what="fill fresh", _page="budgets")
        act(client, demo, "stop.plan", day="2", what="empty grey", _page="budgets")
        asked = {"x": STORE, "x_from": "8", "x_to": "20", "x_n": "4", "y": "brief.inside_c",
                 "y_from": "5", "y_to": "25", "y_n": "3"}  # fmt: skip
        part = soup(finished(client, address(demo, "swept", **asked), HTMX))
        wide = part.select_one(".chart-wide")
        assert len(wide.select(".map-cell")) == 12
        met = len(wide.select("a")) - len(wide.select("rect[fill^=url]"))
        assert f"in {met} of 12 runs" in text(part) and 0 < met < 12
        assert wide.select_one(".met-edge")["d"] and wide.select_one(".today")
        marks = [text(cell)[-1] for cell in part.select(".sweep-table td")]
        assert marks.count("✓") == met and marks.count("✗") == 12 - met

    def test_a_run_is_looked_at_and_kept_and_undone(self, client, demo):
        asked = {"x": STORE, "x_from": "8", "x_to": "16", "x_n": "2", "at": "1"}
        part = soup(finished(client, address(demo, "swept", **asked), HTMX))
        chosen = part.select_one("#chosen")
        assert "Gas-and-mains store: Volume 16 L" in text(chosen.h3)
        form = fields_of(chosen.form)
        answer = client.post(f"{demo}/changes/make", data=form, headers=HTMX)
        assert answer.status_code == 200
        assert editing.value_at(project(client), STORE) == pytest.approx(0.016)
        again = client.post(f"{demo}/changes/make", data=form, headers=HTMX)
        assert again.status_code == 422  # the design has changed since

    def test_every_result_is_given_as_a_table(self, client, demo):
        asked = {"x": STORE, "x_from": "8", "x_to": "16", "x_n": "2"}
        early = client.get(address(demo, "sweep.csv", **asked))
        assert early.status_code in (200, 409)
        finished(client, address(demo, "swept", **asked))
        client.cookies.set("units", "us")
        answer = client.get(address(demo, "sweep.csv", **asked | {"x_from": "8 L", "x_to": "16 L"}))
        rows = list(csv.DictReader(io.StringIO(answer.text)))
        assert [float(row["Gas-and-mains store: Volume [gal]"]) for row in rows] == pytest.approx(
            [2.11338, 4.22675], rel=1e-4
        )

    def test_the_smallest_that_does_it_is_found_with_its_button(self, client, demo):
        act(client, demo, "stop.plan", day="2", what="fill fresh", _page="budgets")
        act(client, demo, "stop.plan", day="2", what="empty grey", _page="budgets")
        asked = {"a": STORE, "a_from": "6", "a_to": "20", "a_n": "8"}
        part = soup(finished(client, address(demo, "smallest", **asked), HTMX))
        words = text(part.select_one(".said"))
        assert re.match(r"Gas-and-mains store: Volume [\d.]+ L", words)
        assert "The next smaller – Gas-and-mains store: Volume" in text(part)
        assert part.find("button", attrs={"aria-label": re.compile("^Set it so: Gas-and-mains")})
        none = {**asked, "must": "most:wait.early-shower", "limit": "0 s"}
        page = soup(finished(client, address(demo, "smallest", **none), HTMX))
        assert "None of them does it" in text(page) and "more than 0 s" in text(page)


def test_what_is_asked_wrongly_is_said_beside_its_field_and_stays(client, demo):
    page = soup(client.get(address(demo, x="Stove", y=STORE, y_from="lots", y_n="0")))
    assert page.find("input", id="v-x")["value"] == "Stove"
    assert "no figure “Stove”" in text(page.find(id="v-x-error"))
    assert "lots" in text(page.find(id="v-y_from-error"))
    assert "1 to 20" in text(page.find(id="v-y_n-error"))
    assert page.select_one("#swept") is None
    smallest = soup(client.get(address(demo, a=STORE, must="most:wait.early-shower", limit="soon")))
    assert "soon" in text(smallest.find(id="v-limit-error"))
    assert smallest.find("details", id="smallest").has_attr("open")


@pytest.mark.parametrize("page", ["swept", "smallest", "sweep.csv"])
def test_parts_of_nothing_are_not_found(client, demo, page):
    assert client.get(f"{demo}/{page}").status_code == 404
    assert client.get(address(demo, page, x="Stove", a="Stove")).status_code == 404


def test_without_a_computed_design_there_is_nothing_to_vary_or_compare(client):
    path = client.post("/vehicles", data={"name": "Bare", "start": "empty"}).headers["location"]
    base = path.removesuffix("/brief")
    assert "nothing to vary" in text(soup(client.get(f"{base}/sweep")))
    page = soup(client.get(f"{base}/compare"))
    assert page.select_one(".compare-table") and "Not computed yet" in text(page)
    assert client.get(f"{base}/swept?x={STORE}").status_code == 404


# --- side by side ---


def heads(page):
    return [text(head) for head in page.select("section .compare-table thead")[0].select("strong")]


def test_all_variants_stand_side_by_side_until_others_are_asked_for(client, demo):
    page = soup(client.get(f"{demo}/compare"))
    assert heads(page) == ["A Ten litres", "B Fourteen litres", "C Fourteen, well foamed"]
    rows = {text(row.th): [text(cell) for cell in row.select("td")]
            for row in page.select(".compare-table tr") if row.th}  # fmt: skip
    assert rows["Draws as asked on the trip"][0] == "2"
    assert rows["Draws as asked on the trip"][1].endswith("better")
    assert rows["Parts"] == ["15", "15 =", "15 ="]
    assert "not known" in rows["Mass with tanks full"][0]
    assert len(page.select(".curve-figure")) == 4
    assert {p["class"][1] for p in page.select(".curve-figure path")} == {
        "curve-a", "curve-b", "curve-c",
    }  # fmt: skip
    two = soup(client.get(address(demo, "compare", **{"with": "variant:foamed"})))
    assert heads(two) == ["A Ten litres", "B Fourteen, well foamed"]
    alone = soup(client.get(address(demo, "compare", **{"with": ""})))
    assert heads(alone) == ["A Ten litres"] and "nothing beside it yet" in text(alone)


def test_a_version_and_a_way_of_heating_are_put_beside(client, demo):
    vehicles = client.app.state.services.vehicles
    vehicle_id = int(demo.split("/")[2])
    first = vehicles.open(vehicle_id).head_id
    act(client, demo, "variant.copy", _page="brief")
    asked = [("with", f"version:{first}:fourteen"), ("with", "family:gas-and-mains"),
             ("with", "variant:gone"), ("with", "version:99999:fourteen")]  # fmt: skip
    page = soup(client.get(f"{demo}/compare?{urlencode(asked)}"))
    assert [head[0] for head in heads(page)] == ["A", "B", "C"]
    assert "Fourteen litres, Demo vehicle" in heads(page)[1]
    assert "not there any more" in text(page.find(attrs={"role": "alert"}))
    begin = page.find("button", attrs={"aria-label": re.compile("^Begin with Gas-and-mains")})
    answer = client.post(f"{demo}/system/family", data=fields_of(begin.find_parent("form")))
    assert answer.status_code == 303
    assert any(one.name == "Gas-and-mains store" for one in project(client).variants)


def test_four_are_the_most(client, demo):
    for _ in range(3):
        act(client, demo, "variant.copy", _page="brief")
    assert len(heads(soup(client.get(f"{demo}/compare")))) == 4


def test_the_one_that_is_kept_stands_first(client, demo):
    page = soup(client.get(f"{demo}/compare"))
    keep = page.find("button", attrs={"aria-label": "Keep this one: Fourteen litres"})
    answer = client.post(f"{demo}/variant/first", data=fields_of(keep.find_parent("form")))
    assert answer.headers["location"].endswith("/fourteen/compare")
    assert [one.id for one in project(client).variants] == ["fourteen", "ten-litres", "foamed"]


def test_wishes_are_written_judged_and_taken_out(client, demo):
    page = soup(act(client, demo, "wish.add", text="Nothing lost from the cupboard", hard="yes",
                    _page="compare"))  # fmt: skip
    forms = page.select(".judging")
    assert [form["aria-label"] for form in forms] == [
        f"Nothing lost from the cupboard: {name}"
        for name in ("Ten litres", "Fourteen litres", "Fourteen, well foamed")
    ]
    data = fields_of(forms[1]) | {"says": "no", "why": "it stands in it"}
    judged = soup(client.post(f"{demo}/wish/judge", data=data, headers=HTMX))
    chosen = judged.select(".judging")[1]
    assert chosen.find("option", selected=True)["value"] == "no"
    assert chosen.find("input", attrs={"name": "why"})["value"] == "it stands in it"
    bad = client.post(f"{demo}/wish/judge", data=data | {"says": "perhaps"}, headers=HTMX)
    assert bad.status_code == 422
    empty = client.post(f"{demo}/wish/add", data={"text": "", "_page": "compare"}, headers=HTMX)
    assert empty.status_code == 422
    gone = soup(act(client, demo, "wish.remove", wish="nothing-lost-from-the-cupboard",
                    _page="compare"))  # fmt: skip
    assert not gone.select(".judging") and project(client).wishes == ()


def test_the_comparison_is_given_as_a_table(client, demo):
    answer = client.get(f"{demo}/compare.csv")
    rows = list(csv.DictReader(io.StringIO(answer.text)))
    named = {row["figure"]: row for row in rows}
    assert float(named["Parts"]["Fourteen litres"]) == 15
    assert named["Dry mass"]["Ten litres"] == ""  # nobody knows any
    assert "attachment" in answer.headers["content-disposition"]


def test_what_a_person_wrote_is_shown_as_text(client, vehicles):
    odd = editing.set_values(drover(), {"variants.fourteen.name": 'A & B ’x’ "y" 水'})
    base = f"/vehicles/{vehicles.create(odd, 'x')}/ten-litres"
    page = soup(client.get(f"{base}/compare"))
    assert 'B A & B ’x’ "y" 水' in heads(page)
    assert "水" in client.get(f"{base}/compare.csv").text
