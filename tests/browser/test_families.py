"""Ways of heating in the browser: from Start to a kept family, a wish, what saves, levers."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from isotherma.catalogue.demo import curlew, drover
from isotherma.catalogue.demo_trips import drover_on_trip
from isotherma.core.editing import set_values
from tests.browser.waiting import WORK_MS
from tests.support import few_ways


def test_from_start_to_a_kept_family_by_keyboard(page):
    """Five fields and four presses: start, show, size, begin."""
    page.goto("/")
    page.get_by_role("link", name="Start a vehicle").focus()
    page.keyboard.press("Enter")
    page.get_by_label(re.compile("^How many people wash a day")).fill("1")
    page.get_by_label(re.compile("^Days between fills")).fill("1")
    page.get_by_label(re.compile("^Fresh tank")).fill("100")
    page.get_by_label(re.compile("^Worst month")).select_option("July")
    page.get_by_label(re.compile("^Hook-up")).first.fill("10")
    page.get_by_role("button", name="Show what would do it").first.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("What should heat the water?")
    page.get_by_role("link", name="Size every way of heating").focus()
    page.keyboard.press("Enter")
    begin = page.get_by_role("button", name=re.compile("^Begin with Gas-and-mains store, "))
    expect(begin).to_be_visible(timeout=WORK_MS)
    begin.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("What comes out of the head?")
    expect(page.locator("#verdict")).to_contain_text("warm to the end", timeout=WORK_MS)


def test_a_wish_strikes_and_what_would_save_another_is_taken(page, vehicles):
    few = few_ways(drover(), "canister", "mains-through-flow", "gas-and-mains")
    page.goto(f"/vehicles/{vehicles.create(few, 'x')}/ten-litres/sizes")
    expect(page.locator("[data-under-way]")).to_have_count(0, timeout=WORK_MS)
    page.goto(page.url.replace("/sizes", "/heat"))
    expect(page.locator(".size-table .size-row").first).to_be_visible()
    page.get_by_label("A wish of your own").fill("Nothing that burns while we sleep")
    page.get_by_label("a “no” strikes").check()
    page.keyboard.press("Enter")
    verdict = page.get_by_label("Verdict on Gas-and-mains store: Nothing that burns")
    verdict.select_option("no")
    row = page.locator("#sized-gas-and-mains")
    expect(row).to_contain_text("Your wish “Nothing that burns while we sleep” says no")
    saves = page.get_by_role("button", name=re.compile("^Change the brief so that"))
    words = saves.first.get_attribute("aria-label") or ""
    saves.first.click()
    expect(page.locator("#undo button")).to_be_enabled()
    kept = words.partition(" does it: ")[2].split()[0]
    expect(page.locator("#undo button")).to_have_attribute("title", re.compile(f"^{kept}"))


def test_a_lever_is_kept_and_undone(page, vehicles):
    page.goto(f"/vehicles/{vehicles.create(drover_on_trip(), 'x')}/ten-litres/budgets")
    before = page.locator("#verdict").inner_text()
    page.locator("#last-longer > summary").focus()
    page.keyboard.press("Enter")
    keep = page.get_by_role("button", name=re.compile("^Keep it: Throttle"))
    expect(keep).to_be_visible(timeout=WORK_MS)
    keep.focus()
    page.keyboard.press("Enter")
    expect(page.locator("#undo button")).to_have_attribute("title", re.compile("^Throttle"))
    expect(page.locator("#verdict")).not_to_have_text(before)
    page.locator("#undo button").click()
    expect(page.locator("#verdict")).to_have_text(before)


def test_any_day_is_followed_hour_by_hour(page, vehicles):
    page.goto(f"/vehicles/{vehicles.create(drover_on_trip(), 'x')}/ten-litres/budgets")
    page.locator("#through-day > summary").click()
    expect(page.locator("#through-day .chart-wide").first).to_be_visible()
    page.get_by_role("navigation", name="Which day").get_by_role("link", name="1").click()
    expect(page.locator("#through-day h2")).to_have_text("Through day 1, hour by hour")
    expect(page.locator("#through-day")).to_have_attribute("open", "")


def test_one_cursor_reads_every_line_by_pointer_and_by_key(page, vehicles):
    page.goto(f"/vehicles/{vehicles.create(drover(), 'x')}/fourteen/budgets")
    said = page.locator("#trip-moment-said")
    slider = page.get_by_label("Moment")
    slider.focus()
    page.keyboard.press("Home")
    page.keyboard.press("ArrowRight")
    expect(said).to_contain_text("Day 1, 1:00: ")
    expect(said).to_contain_text("Grey water 99.6 L")
    page.keyboard.press("End")
    expect(said).to_contain_text("Day 2, 24:00")
    cursor = page.locator(".chart-wide .level-cursor").first
    expect(cursor).not_to_have_attribute("visibility", "hidden")  # it has no width to be seen by
    box = page.locator(".chart-wide svg[data-level]").nth(1).bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.53, box["y"] + 20)
    expect(said).to_contain_text("Day 2, ")


def test_what_one_has_is_noted_told_and_begun_with_by_keyboard(page, vehicles, serious):
    few = few_ways(drover(), "gas-combi", "kettle-and-bag")
    page.goto(f"/vehicles/{vehicles.create(few, 'x')}/ten-litres/heat")
    have = page.get_by_label("I have")
    have.select_option("combi-gas")
    page.get_by_role("button", name="What can it do?").focus()
    page.keyboard.press("Enter")
    panel = page.locator("#own-panel")
    expect(panel).to_contain_text("Longest warm draw", timeout=WORK_MS)
    expect(panel).to_contain_text("It would suit one person")
    page.get_by_role("link", name="Size every way of heating").click()
    kettle = page.locator("#sized-kettle-and-bag")
    expect(kettle).to_contain_text("Leaves your Gas combi unused.", timeout=WORK_MS)
    expect(page.locator("[data-under-way]")).to_have_count(0, timeout=WORK_MS)
    page.evaluate("window.scrollTo(0, 0)")
    assert serious() == []
    kettle.get_by_role("button", name="Bring back").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#undo button")).to_have_attribute("title", re.compile("brought back"))
    page.get_by_role("link", name="Size every way of heating").click()
    begin = page.get_by_role("button", name=re.compile("^Begin with Kettle and bag, "))
    expect(begin).to_be_visible(timeout=WORK_MS)
    begin.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("What comes out of the head?")


def test_lines_get_bands_and_reserves_on_the_page_where_they_tell(page, vehicles):
    page.goto(f"/vehicles/{vehicles.create(drover_on_trip(), 'x')}/ten-litres/budgets")
    page.get_by_role("link", name="How sure are these lines?").click()
    expect(page.locator(".chart-wide .level-band").first).to_be_visible(timeout=WORK_MS)
    page.locator("#set-limits > summary").click()
    field = page.get_by_label(re.compile("^Of the fresh water"))
    field.fill("2o")
    field.press("Tab")
    expect(page.locator("#set-limits .error").first).to_be_visible()
    expect(page.get_by_label(re.compile("^Of the fresh water"))).to_have_value("2o")
    page.get_by_label(re.compile("^Of the fresh water")).fill("20")
    page.keyboard.press("Tab")
    expect(page.locator("#undo button")).to_be_enabled()
    expect(page.locator(".chart-wide").first).to_contain_text("96")
    page.locator("#undo button").click()
    expect(page.locator(".chart-wide").first).to_contain_text("114")


def test_a_thin_wire_is_seen_and_the_offered_cable_taken_by_keyboard(page, vehicles, serious):
    at = "variants.store.system.runs"
    runs = ("battery-heat-circuit", "heat-circuit-heat-switch", "heat-switch-element")
    thin = set_values(curlew(), {f"{at}.{run}.area_m2": 1.5e-6 for run in runs})
    page.goto(f"/vehicles/{vehicles.create(thin, 'x')}/store/power")
    expect(page.get_by_role("heading", level=1)).to_have_text(
        "What do the wires and the gas pipe carry?"
    )
    expect(page.locator("#wires-title")).to_contain_text("more than the 3%")
    assert serious() == []
    page.get_by_role("checkbox", name="Small pressure pump, 12 V").uncheck()
    expect(page.locator(".power-tree.chart-wide")).to_contain_text("not on")
    page.go_back()
    expect(page.get_by_role("checkbox", name="Small pressure pump, 12 V")).to_be_checked()
    take = page.get_by_role("button", name=re.compile("^Take 10 mm²"))
    take.focus()
    page.keyboard.press("Enter")
    expect(page.locator("#undo button")).to_have_attribute("title", re.compile("^Cable of 10 mm²"))
    expect(take).to_have_count(0)
    page.locator("#undo button").click()
    expect(take).to_have_count(1)
