"""Trips on the pages: kinds of day and stops on the Brief page, levels and days on Budgets."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo_trips import drover_on_trip, folio_on_trip
from tests.web.test_pages import HTMX, act, finished, form_of, soup, text


@pytest.fixture
def base(client):
    path = client.post("/vehicles", data={"name": "T", "start": "coolant-coil"})
    return path.headers["location"].removesuffix("/brief")


@pytest.fixture
def show(vehicles):
    return f"/vehicles/{vehicles.create(drover_on_trip(), 'x')}/ten-litres"


def brief_of(client, base):
    return soup(client.get(f"{base}/brief"))


def order_form(page):
    return page.find("form", attrs={"aria-label": "Day after day"})


def test_equal_days_say_nothing_of_an_order_and_begin_with_a_trip(client, base):
    page = brief_of(client, base)
    assert order_form(page) is None and "Each day is as described" in text(page)
    after = soup(act(client, base, "trip.lay", preset="touring", _page="brief"))
    assert order_form(after).find("input", id="f-brief-order")["value"] == "tour × 7"
    assert "Days between fills" not in text(after)
    back = soup(act(client, base, "trip.lay", preset="", _page="brief"))
    assert order_form(back) is None


@pytest.mark.parametrize(
    ("typed", "kept"),
    [
        ("arrive, show x 3; home", "arrive, show × 3, home"),
        ("arrive, 2 show, home", "arrive, show × 2, home"),
        ("Arrive, SHOW*2", "arrive, show × 2"),
        ("", ""),
    ],
)
def test_an_order_is_typed_as_people_write_it(client, show, typed, kept):
    form = form_of(client, f"{show}/brief", "brief", "order")
    answer = client.post(f"{show}/edit", data={**form, "order": typed}, headers=HTMX)
    assert answer.status_code == 200
    assert soup(answer).find("input", id="f-brief-order")["value"] == kept


def test_a_day_nobody_described_is_refused_beside_its_field(client, show):
    form = form_of(client, f"{show}/brief", "brief", "order")
    answer = client.post(f"{show}/edit", data={**form, "order": "arrive, beach × 2"}, headers=HTMX)
    assert answer.status_code == 422
    page = soup(answer)
    assert page.find("input", id="f-brief-order")["value"] == "arrive, beach × 2"
    wrong = text(page.find(id="f-brief-order-error") or page.find("form", attrs={
        "aria-label": "Day after day"}))  # fmt: skip
    assert "beach" in wrong and "arrive" in wrong


def test_the_budgets_page_says_what_gives_out_and_which_stops_are_needed(client, base):
    page = soup(client.get(f"{base}/budgets"))
    assert "gives out first, on day" in text(page.select_one("#lines-title"))
    rows = page.select(".stops-table tbody tr")
    assert {text(row.th) for row in rows} == {"Fill fresh water", "Empty grey"}
    button = page.find(
        "button", attrs={"aria-label": lambda words: words and "Plan: Fill" in words}
    )
    day = button.find_parent("form").find("input", attrs={"name": "day"})["value"]
    after = soup(act(client, base, "stop.plan", day=day, what="fill fresh", _page="budgets"))
    planned = [text(cell) for cell in after.select(".stops-table tbody tr td:nth-of-type(1)")]
    assert any(f"day {day}" in words for words in planned)


def test_days_are_listed_and_lead_to_their_shower(client, show):
    page = soup(client.get(f"{show}/budgets"))
    rows = page.select(".days-table tbody tr")
    assert [text(row.select_one("td")) for row in rows] == [
        "To the field in the afternoon", "Show day", "Home after lunch",
    ]  # fmt: skip
    link = rows[2].select_one("a")["href"]
    day = soup(client.get(link))
    chosen = day.select_one(".days-switcher a[aria-current]")
    assert text(chosen).startswith("3 Home after lunch")
    assert [text(card) for card in day.select(".cards h3")] == ["Early shower", "Second shower"]


def test_a_day_the_trip_does_not_have_is_its_last(client, show):
    assert client.get(f"{show}/shower?day=99").status_code == 422
    page = soup(client.get(f"{show}/shower?day=60"))
    assert text(page.select_one(".days-switcher a[aria-current]")).startswith("3 ")


def test_lines_are_drawn_for_what_has_a_limit(client, vehicles):
    base = f"/vehicles/{vehicles.create(folio_on_trip(), 'x')}/button"
    page = soup(client.get(f"{base}/budgets"))
    titles = [text(row) for row in page.select(".chart-wide .level-row figcaption strong")]
    assert titles[0] == "Battery" and set(titles) == {"Fresh water", "Grey water", "Diesel",
                                                      "Battery"}  # fmt: skip
    assert page.select(".chart-wide .ends-mark") and page.select(".chart-wide .stop-mark")


def test_without_a_day_the_page_says_why(client):
    path = client.post("/vehicles", data={"name": "E", "start": "empty"})
    base = path.headers["location"].removesuffix("/brief")
    assert "no lines until" in text(soup(client.get(f"{base}/budgets")))


def test_where_it_goes_stands_on_the_page_largest_first(client, show):
    page = soup(client.get(f"{show}/budgets"))
    first = page.select_one(".going")
    assert text(first.summary).startswith("Fresh water")
    shares = [int(text(row.select(".number")[1]).rstrip("%")) for row in first.select(".goes li")]
    assert shares == sorted(shares, reverse=True) and 95 <= sum(shares) <= 105
    words = text(page.select_one(".goings"))
    assert "run away cold" in words and "Lost by stores while they stand" in words


def test_workers_run_a_trip_in_every_month(client, show, worker):
    first = client.get(f"{show}/year", headers=HTMX)
    assert "0 of 12 months have run" in first.text
    page = soup(finished(client, f"{show}/year", HTMX, 120.0))
    cells = [text(row) for row in page.select(".year-strip .month")]
    assert len(cells) == 12 and cells[0].startswith("Jan") and cells[-1].startswith("Dec")
    assert [text(row.strong) for row in page.select(".month.here")] == ["May"]
    assert "as asked" in cells[6] and "✓" in cells[6] and "✗" in cells[0]
    assert text(page.select_one(".said")) == "As asked in July; not in 11 of 12 months."
    rows = [text(row) for row in page.select("#year-figures tbody tr")]
    assert rows[4].startswith("May, as the brief has it") and "of 8" in rows[4]
    client.cookies.set("units", "us")
    whole = client.get(f"{show}/year").text
    assert "<html" in whole and "°F" in whole


def test_a_year_says_what_is_held(client, show, worker):
    form = form_of(client, f"{show}/brief", "brief", "cold_water_c")
    answer = client.post(f"{show}/edit", data={**form, "cold_water_c": "9"}, headers=HTMX)
    assert answer.status_code == 200
    page = finished(client, f"{show}/year", HTMX, 120.0)
    assert "Cold water is 9 °C in every month, as the brief has it." in text(soup(page))


def test_a_year_of_nothing_says_that_it_cannot_run(client, worker):
    path = client.post("/vehicles", data={"name": "E", "start": "empty"})
    base = path.headers["location"].removesuffix("/brief")
    page = text(soup(finished(client, f"{base}/year", HTMX, 120.0)))
    assert "It cannot be run in any month as the design stands." in page and "not run" in page


def test_levers_say_what_they_gain_and_cost_and_one_is_kept_and_undone(client, show, worker):
    page = soup(finished(client, f"{show}/levers", HTMX))
    assert "grey water lasts longer" in text(page.select_one(".said"))
    row = next(one for one in page.select(".mend") if "Throttle" in text(one))
    assert "more left at the end" in text(row) and "Fresh water −" in text(row)
    assert "As asked then: Early shower" in text(row)
    data = {str(one["name"]): str(one["value"]) for one in row.form.select("input")}
    kept = client.post(row.form["action"], data=data, headers=HTMX)
    assert kept.status_code == 200 and "Throttle" in kept.text
    assert client.post(row.form["action"], data=data, headers=HTMX).status_code == 422
    whole = client.get(f"{show}/levers").text
    assert "<html" in whole and "What would make it last longer?" in whole


def test_a_day_is_looked_at_hour_by_hour(client, vehicles):
    base = f"/vehicles/{vehicles.create(folio_on_trip(), 'x')}/button"
    page = soup(client.get(f"{base}/budgets?day=2"))
    fold = page.find(id="through-day")
    assert fold.has_attr("open") and text(fold.h2) == "Through day 2, hour by hour"
    titles = [text(one.strong) for one in fold.select(".chart-wide figcaption")]
    assert titles[:2] == ["What the battery holds", "Loads on the battery"]
    assert "Liquid heater" in text(fold.select_one(".stack-key"))
    shut = soup(client.get(f"{base}/budgets")).find(id="through-day")
    assert not shut.has_attr("open")
    for odd in ("99", "0", "²", "x", ""):
        assert client.get(f"{base}/budgets", params={"day": odd}).status_code == 200


def test_a_diverter_is_a_lever_and_kept_as_a_part(client, vehicles, worker):
    from isotherma.catalogue.demo import drover

    base = f"/vehicles/{vehicles.create(drover(), 'x')}/ten-litres"
    page = soup(finished(client, f"{base}/levers", HTMX))
    row = next(one for one in page.select(".mend") if "A return diverter before" in text(one))
    data = {str(one["name"]): str(one["value"]) for one in row.form.select("input")}
    assert row.form["action"].endswith("/diverter/place")
    kept = client.post(row.form["action"], data=data, headers=HTMX)
    assert kept.status_code == 200 and "What runs out first?" in kept.text
    assert "Return diverter" in client.get(f"{base}/parts?view=list").text
    again = client.post(row.form["action"], data=data, headers=HTMX)
    assert again.status_code == 422 and "return diverter is there already" in again.text


def test_lines_get_their_bands_when_somebody_asks(client, show, worker):
    plain = soup(client.get(f"{show}/budgets"))
    assert plain.select_one(".level-band") is None
    ask = plain.select_one(".band-ask a")
    assert text(ask) == "How sure are these lines?"
    page = soup(finished(client, f"{show}/budgets?band=1", None, 120.0))
    assert page.select(".chart-wide .level-band") and page.select_one(".band-ask") is None
    assert "as unsure figures may have it" in text(page.find(id="lines-panel"))
    later = soup(client.get(f"{show}/budgets"))  # asked once, it stands there from then on
    assert later.select(".level-band")


def test_reserves_and_what_does_not_matter_are_set_where_they_tell(client, show):
    before = soup(client.get(f"{show}/budgets"))
    assert "Fresh water" in {text(one) for one in before.select(".level-row figcaption strong")}
    form = form_of(client, f"{show}/budgets", "brief.budgets", "fresh_reserve")
    answer = client.post(f"{show}/edit", data={**form, "fresh_reserve": "20"}, headers=HTMX)
    assert answer.status_code == 200 and "What runs out first?" in answer.text
    ticks = [text(one) for one in soup(answer).select(".chart-wide .tick")]
    assert any(one.split() == ["96", "L"] for one in ticks)  # 120 L less a fifth
    form = form_of(client, f"{show}/budgets", "brief.budgets", "ignored")
    answer = client.post(f"{show}/edit", data={**form, "ignored": ["fresh", "grey"]}, headers=HTMX)
    left = {text(one) for one in soup(answer).select(".chart-wide figcaption strong")}
    assert "Fresh water" not in left and "Gas" in left
    assert "fresh water" in text(soup(answer).find(id="set-limits"))


@pytest.mark.parametrize("typed", ["120", "-5", "a lot", "1e9"])
def test_a_reserve_that_cannot_be_is_refused_beside_its_field(client, show, typed):
    form = form_of(client, f"{show}/budgets", "brief.budgets", "gas_reserve")
    answer = client.post(f"{show}/edit", data={**form, "gas_reserve": typed}, headers=HTMX)
    assert answer.status_code == 422
    page = soup(answer)
    assert page.find("input", attrs={"name": "gas_reserve"})["value"] == typed
    assert page.find(id="set-limits").has_attr("open") and page.select(".error")


def test_the_bottle_stands_in_the_day(client, vehicles):
    from isotherma.catalogue.layouts import layouts

    project = layouts()["gas-combi"].project()
    base = f"/vehicles/{vehicles.create(project, 'x')}/{project.variants[0].id}"
    fold = soup(client.get(f"{base}/budgets?day=1")).find(id="through-day")
    titles = [text(one.strong) for one in fold.select(".chart-wide figcaption")]
    assert "Pressure in the gas bottle" in titles
    assert "The bottle would carry the day’s largest flame" in text(fold) or (
        "At any hour the bottle would carry" in text(fold)
    )
    client.cookies.set("units", "us")
    assert "psi" in text(soup(client.get(f"{base}/budgets?day=1")).find(id="through-day"))
