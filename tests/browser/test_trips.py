"""A trip in the browser: days that differ, two stops more, another verdict."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover, folio
from isotherma.catalogue.demo_trips import drover_on_trip, folio_on_trip
from tests.browser.waiting import WORK_MS


@pytest.fixture
def library(vehicles):
    return f"/vehicles/{vehicles.create(folio(), 'x')}/button"


def binds(page):
    return page.locator(".truth-binds")


def test_two_stops_are_planned_and_the_verdict_changes(page, vehicles):
    box = f"/vehicles/{vehicles.create(drover(), 'x')}/fourteen"
    page.goto(f"{box}/budgets")
    expect(page.locator("#lines-title")).to_contain_text("gives out first, on day 2 of 2")
    page.get_by_role("button", name="Plan: Fill fresh water on day 2").click()
    expect(page.locator(".stops-table")).to_contain_text("before the first draw")
    expect(page.locator("#lines-title")).to_contain_text("Grey water gives out first")
    page.get_by_role("button", name="Plan: Empty grey on day 2").click()
    expect(page.locator("#lines-title")).to_have_text("Every day is as asked.")
    expect(page.locator("#verdict")).to_contain_text("nothing runs out in the 2 days")
    page.locator("#undo button").click()
    expect(page.locator("#lines-title")).to_contain_text("Grey water gives out first")


def test_a_trip_is_begun_with_and_mended_on_the_brief_page_by_keyboard(page, library):
    page.goto(f"{library}/brief")
    fold = page.locator("#trip-fold > summary")
    expect(fold).to_contain_text("10 days alike")
    fold.focus()
    page.keyboard.press("Enter")
    lay = page.get_by_role("button", name="Winter coast")
    lay.focus()
    page.keyboard.press("Enter")
    expect(page.locator("#trip-fold > summary")).to_contain_text("8 days: drive along the coast")
    order = page.get_by_label("Day after day", exact=True).and_(page.locator("input"))
    order.fill("drive, 2 coast, storm; drive")
    order.press("Enter")
    expect(page.locator("#trip-fold > summary")).to_contain_text("5 days")
    expect(order).to_have_value("drive, coast × 2, storm, drive")
    order.fill("drive, beach")
    order.press("Enter")
    expect(page.locator(".error")).to_contain_text("beach")
    expect(order).to_have_value("drive, beach")


def test_a_kind_of_day_gets_a_stop_and_leaves_a_draw_out(page, library):
    page.goto(f"{library}/brief")
    page.locator("#trip-fold > summary").click()
    page.get_by_role("button", name="One night in four on hook-up").click()
    page.locator("#kinds > summary").click()
    page.locator("#more-kind-off > summary").click()
    kind = page.locator("#kind-off")
    kind.get_by_label("Child’s shower").check()
    expect(kind.locator("summary").first).to_contain_text("1 left out")
    kind.get_by_label("Add a stop").select_option("empty grey")
    kind.get_by_role("button", name="Add", exact=True).click()
    expect(kind.get_by_role("heading", name="Empty grey")).to_be_visible()
    kind.get_by_label("At", exact=False).and_(kind.locator("input[name=at_s]")).fill("14:30")
    page.keyboard.press("Tab")
    expect(page.locator("#undo button")).to_have_attribute("title", re.compile("At → 14:30"))


def test_any_day_of_a_trip_is_looked_at(page, vehicles):
    box = f"/vehicles/{vehicles.create(folio_on_trip(), 'x')}/button"
    page.goto(f"{box}/budgets")
    page.get_by_role("link", name="What comes out of the head on day 4").click()
    days = page.get_by_role("navigation", name="Day of the trip")
    expect(days.locator("[aria-current]")).to_contain_text("4")
    expect(page.locator(".cards h3")).to_have_count(2)  # nobody showers in the morning
    days.get_by_role("link", name=re.compile("^1 ")).click()
    expect(page.locator(".cards h3")).to_have_count(4)


@pytest.mark.parametrize("size", [(1280, 800), (390, 844)])
def test_a_trip_is_run_in_every_month_by_keyboard(page, vehicles, serious, size):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    box = f"/vehicles/{vehicles.create(drover_on_trip(), 'x')}/ten-litres"
    page.goto(f"{box}/budgets")
    page.locator("#through-year > summary").focus()
    page.keyboard.press("Enter")
    months = page.locator(".year-strip .month")
    expect(months).to_have_count(12, timeout=WORK_MS)
    expect(page.locator("#year .said")).to_have_text("As asked in July; not in 11 of 12 months.")
    assert page.evaluate("document.documentElement.scrollWidth") <= size[0]
    page.evaluate("window.scrollTo(0, 0)")  # what the head covers in part counts as a small target
    assert serious() == []


@pytest.mark.parametrize(("size", "units"), [((1280, 800), "us"), ((390, 844), "metric")])
def test_pages_of_a_trip_fit(page, vehicles, server, serious, size, units):
    page.context.add_cookies([{"name": "units", "value": units, "url": server}])
    page.set_viewport_size({"width": size[0], "height": size[1]})
    box = f"/vehicles/{vehicles.create(folio_on_trip(), 'x')}/button-2"
    for name in ("budgets", "brief", "shower"):
        page.goto(f"{box}/{name}")
        assert page.evaluate("document.documentElement.scrollWidth") <= size[0], name
        tall = page.evaluate("document.documentElement.scrollHeight")
        if size[0] == 1280:
            assert tall <= 2.6 * size[1], name
        assert serious() == [], name
