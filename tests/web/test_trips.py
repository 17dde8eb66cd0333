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
