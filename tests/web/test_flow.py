"""The Flow page: states and outlets in the address, figures in tables, what is wrong in words."""

from __future__ import annotations

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.project import Project, Variant
from tests.networks import network, part, pipe, pump, tank, tap
from tests.web.test_pages import HTMX, act, soup, text


def keep(client, made):
    number = client.app.state.services.vehicles.create(made, "x")
    return f"/vehicles/{number}/{made.variants[0].id}"


@pytest.fixture
def seats(client):
    return keep(client, layouts()["seat-store"].project())


def flow(client, base, query="", **options):
    return soup(client.get(f"{base}/flow{query}", **options))


def table(page, title):
    rows = page.select(f'[aria-label="{title}"] tbody tr')
    return {text(row.th): [text(cell) for cell in row.select("td")] for row in rows}


def test_the_main_outlet_is_open_at_first_and_says_what_comes(client, seats):
    page = flow(client, seats)
    said = text(page.select_one(".sentences"))
    assert "Outside shower gives 4.6 L/min at 40 °C" in said
    assert "Below 2.6 L/min it switches on and off" in said
    assert "When Basin tap opens, Outside shower falls from 4.6 L/min to 3.1 L/min" in said
    runs = table(page, "Flows of every run")
    assert runs["Small pressure pump, 12 V to small accumulator"][0] == "4.61"
    still = table(page, "Runs that stand still")
    assert still["Split of mixed water to basin tap"][-1] == "stands"
    assert not set(still) & set(runs)
    parts = table(page, "Pressures of every part")
    assert parts["Central mixing valve"][-1] == "holds"
    assert "Pressure from source to outlet" in page.select_one("svg.chart-wide")["aria-label"]
    assert text(page.select(".eaten li")[0]).startswith("Outside shower")


def test_state_openings_and_way_live_in_the_address(client, seats):
    both = flow(client, seats, "?state=tank&o.head=1&o.basin=0.5&way=basin")
    assert both.select_one("#open-basin option[selected]")["value"] == "0.5"
    assert both.select_one(".switcher a[aria-current]") is not None
    assert "Basin tap" in text(
        both.select_one('[aria-label="The way to which outlet"] [aria-current]')
    )
    bucket = flow(client, seats, "?state=bucket&o.head=1")
    assert "at 10" in text(bucket.select_one(".sentences")) or "Outside shower gives" in text(
        bucket
    )
    none = flow(client, seats, "?o.=")
    assert "Nothing is open" in text(none)
    odd = flow(client, seats, "?o.head=0.33")
    assert odd.select_one("#open-head option[selected]")["value"] == "0.33"


@pytest.mark.parametrize(
    "query",
    [
        "?o.gone=1",
        "?o.head=9",
        "?o.head=nan",
        "?o.head=%C2%BD",
        "?o.pump=1",
        "?o.head=" + "9" * 500,
    ],
)
def test_openings_that_are_none_are_told_and_the_page_stays(client, seats, query):
    answer = client.get(f"{seats}/flow{query}")
    assert answer.status_code == 200
    assert "is no outlet here" in text(soup(answer).select_one(".notice"))


def test_unknown_states_and_views_fall_back(client, seats):
    page = flow(client, seats, "?state=moon&view=stars")
    assert page.select_one("#flow-state option[selected]")["value"] == "tank"
    assert page.select_one("#profile-title")


def test_us_units_everywhere(client, seats):
    client.cookies.set("units", "us")
    page = flow(client, seats)
    assert "gal/min" in text(page.select_one(".sentences"))
    assert "psi" in text(page.select_one(".eaten"))
    assert "ft/s" in text(page.select_one(".flow-table thead"))
    leak = flow(client, seats, "?view=leak&every=12")
    assert "gal/h" in text(leak) and "fl oz" in text(leak)


def test_leaks_by_the_time_between_starts(client, seats):
    page = flow(client, seats, "?view=leak&every=12&cooled=")
    assert "A start every 12 min is a leak of about 0.61 L/h" in text(page)
    cooled = flow(client, seats, "?view=leak&every=60&cooled=60")
    assert "the cooling explains it" in text(cooled)
    for wrong, words in (("soon", "Type for example"), ("0", "more than nothing"),
                         ("-5", ""), ("3 kg", "Type for example")):  # fmt: skip
        page = flow(client, seats, f"?view=leak&every={wrong}")
        field = page.select_one("#leak-every")
        assert field["value"] == wrong and field["aria-invalid"] == "true"
        assert words in text(page.select_one("#leak-every-error"))


def test_no_switch_no_starts(client):
    base = keep(client, layouts()["kettle-and-bag"].project())
    assert "none starts for a leak" in text(flow(client, base, "?view=leak"))


def test_waste_with_a_lean_that_is_not_kept(client):
    base = keep(client, layouts()["cupboard-through-flow"].project())
    level = text(flow(client, base, "?view=waste"))
    assert "drains to Grey tank" in level and "is full after about" in level
    leaning = flow(client, base, "?view=waste&pitch=4&roll=-3")
    assert "stay in it" in text(leaning)
    assert leaning.select_one("#waste-pitch")["value"] == "4"
    wrong = flow(client, base, "?view=waste&pitch=80")
    assert "between −20° and 20°" in text(wrong.select_one("#waste-pitch-error"))
    assert "stay in it" not in text(flow(client, base, "?view=waste"))


def test_drain_down_in_order_with_what_stays(client, seats):
    page = flow(client, seats, "?view=drain")
    assert "stay behind" in text(page.select_one("main .verdict"))
    steps = [text(item) for item in page.select("ol.moves li")]
    assert steps[0].startswith("Off or shut") and "Drain cock" in steps[-2]
    assert "Store behind the seats keeps 10 L" in text(page.select_one("ul.sentences"))
    assert "scalds" in text(page.select_one(".caution"))


def test_what_is_missing_leads_to_where_it_is_mended(client):
    parts = [tank(), pump(), part("limit", "flow_limiter", name="Disc"), tap()]
    runs = [pipe("tank", "pump"), pipe("pump", "limit"), pipe("limit", "tap")]
    gap = Project(name="Gap", variants=(Variant(id="v", name="V", system=network(parts, runs)),))
    page = flow(client, keep(client, gap))
    assert "Disc has no lets through" in text(page.select_one(".panel.empty"))
    assert page.select_one(".panel.empty a")["href"].endswith("piece=part-limit#piece")


def test_nothing_yet_and_names_from_everywhere(client):
    bare = Project(name="Bare", variants=(Variant(id="v", name="V"),))
    assert "There is nothing to flow yet" in text(flow(client, keep(client, bare)))
    parts = [tank(name="水箱 ½"), pump(name="P" * 80), tap(name="Ann’s “tap”")]
    runs = [pipe("tank", "pump"), pipe("pump", "tap")]
    odd = Project(name="Odd", variants=(Variant(id="v", name="V", system=network(parts, runs)),))
    page = flow(client, keep(client, odd))
    assert "Ann’s “tap” gives" in text(page) and "水箱 ½" in text(page)


def test_two_hundred_parts_still_make_a_page(client):
    from tests.networks import Grown

    built = Grown(4, 200).system()
    big = Project(name="Big", variants=(Variant(id="v", name="V", system=built),))
    answer = client.get(f"{keep(client, big)}/flow")
    assert answer.status_code == 200


def test_a_change_made_on_the_page_keeps_what_it_shows(client, seats):
    act(client, seats, "state.position", state="tank", part="shut", at="shut", _page="spaces")
    number = soup(client.get(f"{seats}/flow")).select_one("#design")["data-head"]
    headers = {**HTMX, "hx-current-url": f"http://testserver{seats}/flow?view=drain&state=bucket"}
    answer = client.post(
        f"{seats}/undo", data={"_base": number, "_page": "flow"}, headers=headers
    )  # fmt: skip
    page = soup(answer)
    assert page.select_one("#flow-state option[selected]")["value"] == "bucket"
    assert page.select_one("#order-title")


def test_the_network_as_text_is_what_is_shown(client, demo):
    answer = client.get(f"{demo}/flow/network", params={"o.head": "0.5"})
    assert answer.status_code == 200 and answer.headers["content-type"].startswith("text/plain")
    assert "drover-ten-litres.inp" in answer.headers["content-disposition"]
    assert "; open: head" in answer.text and answer.text.endswith("[END]\n")
    other = client.get(f"{demo}/flow/network", params={"o.head": "1"})
    assert other.text != answer.text
