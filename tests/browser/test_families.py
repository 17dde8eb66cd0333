"""Ways of heating in the browser: from Start to a kept family, a wish, what saves, levers."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import drover_on_trip


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
    expect(begin).to_be_visible(timeout=120_000)
    begin.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("What comes out of the head?")
    expect(page.locator("#verdict")).to_contain_text("warm to the end", timeout=60_000)


def test_a_wish_strikes_and_what_would_save_another_is_taken(page, vehicles):
    page.goto(f"/vehicles/{vehicles.create(drover(), 'x')}/ten-litres/sizes")
    expect(page.locator("[data-under-way]")).to_have_count(0, timeout=180_000)
    page.goto(page.url.replace("/sizes", "/heat"))
    expect(page.locator(".size-list .size-row").first).to_be_visible()
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
    expect(keep).to_be_visible(timeout=90_000)
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
