"""A builder opens taps, changes states, finds a leak and drains down, by mouse and keyboard."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.layouts import layouts


@pytest.fixture
def seats(vehicles):
    return f"/vehicles/{vehicles.create(layouts()['seat-store'].project(), 'x')}/seat-store"


def test_opening_a_second_tap_and_changing_state(page, seats):
    page.goto(f"{seats}/flow")
    words = page.locator(".sentences").first
    expect(words).to_contain_text("Outside shower gives 4.6")
    page.get_by_label("Basin tap").select_option("open")
    expect(words).to_contain_text("Basin tap gives 2.6")
    expect(words).to_contain_text("When Basin tap is shut, Outside shower rises")
    expect(page).to_have_url(re.compile("o.basin=1"))
    page.get_by_role("link", name="Basin tap", exact=True).first.click()
    expect(page.locator(".eaten li").first).to_contain_text("Basin tap")
    page.get_by_label("State", exact=True).select_option("Shower from the bucket")
    expect(words).to_contain_text("Bucket pump runs on")
    page.go_back()
    expect(page.locator(".sentences").first).to_contain_text("Small pressure pump")


def test_leak_and_drain_down_by_keyboard(page, seats):
    page.goto(f"{seats}/flow")
    page.get_by_role("link", name="Leaks").focus()
    page.keyboard.press("Enter")
    page.get_by_label("The pump starts every").fill("20 min")
    page.keyboard.press("Tab")
    expect(page.locator("main .verdict")).to_contain_text("A start every 20 min is a leak of about")
    page.get_by_label("The pump starts every").fill("often")
    page.keyboard.press("Enter")
    expect(page.locator("#leak-every-error")).to_be_visible()
    expect(page.get_by_label("The pump starts every")).to_have_value("often")
    page.get_by_role("link", name="Drain-down").click()
    expect(page.locator("ol.moves")).to_contain_text("Open Drain cock")
    page.get_by_role("link", name="Waste and filling").click()
    page.get_by_label("Parked, nose up by").fill("5")
    page.keyboard.press("Enter")
    expect(page.locator("main")).to_contain_text("stay in it")


def test_flow_works_without_scripts(browser, server, seats):
    context = browser.new_context(java_script_enabled=False, base_url=server)
    page = context.new_page()
    page.goto(f"{seats}/flow")
    page.get_by_label("Basin tap").select_option("half")
    page.get_by_role("button", name="Show").click()
    expect(page.locator(".sentences").first).to_contain_text("Basin tap gives 1.6")
    context.close()
