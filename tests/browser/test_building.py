"""How far it is built, and what tanks and gauges mean, by mouse and keyboard."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.layouts import layouts


def kept(vehicles, name):
    return f"/vehicles/{vehicles.create(layouts()[name].project(), 'x')}/{name}"


@pytest.fixture
def seats(vehicles):
    return kept(vehicles, "seat-store")


def test_the_phase_changes_verdict_and_drawing_and_is_undone(page, seats):
    page.goto(f"{seats}/layout")
    drawing = page.locator("svg.route-wide")
    expect(drawing).to_contain_text("Bucket")
    whole = page.locator("#verdict").inner_text()
    page.locator("#layout-phase").select_option("first")
    expect(page.locator("#verdict")).to_contain_text("Built as far as “First trip”")
    expect(drawing).not_to_contain_text("Bucket pump")
    # the other pages follow, and say so in one place
    page.get_by_role("link", name=re.compile("^Shower")).first.click()
    expect(page.locator("#verdict")).to_contain_text("Built as far as “First trip”")
    page.locator("#whole > summary").click()
    expect(page.locator("#day-phase")).to_have_value("first")
    page.locator("#day-phase").select_option("")
    expect(page.locator("#verdict")).to_have_text(whole)
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.locator("#verdict")).to_contain_text("Built as far as")
    # what is later is still there to be planned
    page.get_by_role("link", name=re.compile("^Parts")).first.click()
    expect(page.locator("main")).to_contain_text("Bucket pump")


def test_a_gauge_is_read_in_litres_by_keyboard_as_the_vehicle_leans(page, vehicles):
    page.goto(f"{kept(vehicles, 'two-tank-storage')}/flow")
    page.get_by_role("link", name="Gauges and tanks").focus()
    page.keyboard.press("Enter")
    cell = page.locator("tbody tr").nth(2).locator("td").first
    expect(cell).to_contain_text("L to")
    level = cell.inner_text()
    page.get_by_label("Parked, nose up by").fill("nine")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").first).to_be_visible()
    expect(page.get_by_label("Parked, nose up by")).to_have_value("nine")
    page.get_by_label("Parked, nose up by").fill("12")
    page.keyboard.press("Enter")
    expect(cell).not_to_have_text(level)


def test_two_knobs_are_set_in_the_bench_sums(page):
    page.goto("/sums")
    page.get_by_text("How do I set a heater with two knobs?").click()
    box = page.locator("#knobs")
    box.get_by_label("Wanted").fill("42")
    box.get_by_role("button", name="Work it out").click()
    expect(box.locator(".sum-figure")).to_contain_text("74")
    box.get_by_label("Wanted").fill("warm")
    box.get_by_role("button", name="Work it out").click()
    expect(box.get_by_role("alert")).to_be_visible()
    expect(box.get_by_label("Wanted")).to_have_value("warm")


def test_a_store_under_a_seat_that_is_too_low_is_told_and_a_lower_one_goes_in(page, seats):
    page.goto(f"{seats}/parts?piece=part-store")
    form = page.locator("#piece")
    form.locator("#keeping-part-store > summary").click()
    tall = form.get_by_label("Outside height")
    tall.fill("400 mm")
    tall.press("Enter")
    expect(page.locator("#undo")).to_contain_text("Outside height")
    page.get_by_role("link", name=re.compile("^Spaces and states")).first.click()
    page.locator("#more-space-living > summary").click()
    inside = page.locator("#more-space-living").get_by_label("Inside height")
    inside.fill("350 mm")
    inside.press("Enter")
    expect(page.locator("#fit")).to_contain_text("Store behind the seats is 50 mm too tall for")
    page.goto(f"{seats}/parts?piece=part-store")
    form.locator("#keeping-part-store > summary").click()
    tall.fill("250 mm")
    tall.press("Enter")
    expect(page.locator("#undo")).to_contain_text("Outside height")
    page.get_by_role("link", name=re.compile("^Spaces and states")).first.click()
    expect(page.locator("#fit")).not_to_contain_text("Store behind the seats")


def test_a_part_is_moved_by_arrow_keys_in_both_views_and_undone(page, seats):
    page.goto(f"{seats}/spaces")
    page.locator("#stand-place > summary").click()
    page.locator("#move-part").select_option("store")
    page.locator("#move-along").select_option("10")
    page.get_by_role("button", name="Place it").click()
    above = page.locator("#stand-above-store")
    expect(above).to_have_attribute("aria-label", re.compile("2.11"))
    above.focus()
    page.keyboard.press("ArrowRight")
    expect(above).to_have_attribute("aria-label", re.compile("2.16"))
    expect(above).to_be_focused()
    side = page.locator("#stand-side-store")
    before = side.locator("rect").get_attribute("y")
    side.focus()
    page.keyboard.press("ArrowUp")
    expect(page.locator("#undo")).to_contain_text("moved")
    expect(side).to_be_focused()
    assert before is not None
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(above).to_have_attribute("aria-label", re.compile("2.16"))


def test_an_either_or_switch_feeds_one_of_two_and_never_both(page, vehicles):
    at = kept(vehicles, "two-tank-storage")
    page.goto(f"{at}/power")
    loads = page.get_by_role("region", name="Loads in figures")
    pump = loads.get_by_role("row", name=re.compile("^Large pressure pump"))
    dump = loads.get_by_role("row", name=re.compile("^Dump pump"))
    expect(pump).not_to_contain_text("cut off")
    page.get_by_label("State", exact=True).last.select_option("emptying")
    expect(pump).to_contain_text("cut off by an open switch")
    expect(dump).not_to_contain_text("off")
    # turned back, it is the other way round
    page.goto(f"{at}/spaces")
    page.locator("#table-supply > summary").click()
    page.locator("#at-emptying-pump-or-dump").select_option("first")
    expect(page.locator("#undo button")).to_have_attribute("title", re.compile("→ first$"))
    page.goto(f"{at}/power?state=emptying")
    expect(dump).to_contain_text("cut off by an open switch")
    expect(pump).not_to_contain_text("cut off")
