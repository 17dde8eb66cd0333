"""Checks by hand: find, open, answer for, mend, watch it go."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.layouts import layouts
from isotherma.core.editing import set_values


@pytest.fixture
def flawed(vehicles):
    values = {"variants.gas-combi.system.parts.tank.vent_bore_m": 0.004,
              "variants.gas-combi.system.parts.combi.sealed": "open flue"}  # fmt: skip
    project = set_values(layouts()["gas-combi"].project(), values)
    return f"/vehicles/{vehicles.create(project, 'x')}/gas-combi"


def test_a_finding_is_opened_answered_for_and_taken_back(page, flawed, serious):
    page.goto(f"{flawed}/checks")
    expect(page.locator("#checks-title")).to_contain_text("2 to stop for")
    assert serious() == []
    finding = page.locator(".finding", has_text="vent of 4 mm")
    finding.locator("summary").focus()
    page.keyboard.press("Enter")
    expect(finding).to_contain_text("limit 8 mm")
    finding.get_by_label("It may stay because").fill("Filled slowly, seen to work")
    finding.get_by_label("says").fill("R. Moss")
    finding.get_by_role("button", name="Acknowledge").click()
    expect(page.locator("#checks-kept")).to_have_text("Acknowledged: 1")
    page.get_by_role("button", name="Take back pressure.vent").click()
    expect(page.locator("#checks-kept")).to_have_count(0)
    expect(page.locator(".checks-watch")).to_contain_text("vent of 4 mm")


def test_a_stop_goes_when_its_part_is_mended(page, flawed):
    page.goto(f"{flawed}/checks")
    stop = page.locator(".checks-stop .finding").first
    stop.locator("summary").click()
    stop.get_by_role("link", name="Gas combi").click()
    flue = page.get_by_label("Air and flue")
    page.locator("#piece details", has=flue).last.locator("summary").first.click()
    flue.select_option("room sealed")
    expect(page.locator("#undo button")).to_have_attribute("title", re.compile("Air and flue"))
    page.goto(f"{flawed}/checks")
    expect(page.locator("#checks-title")).to_contain_text("0 to stop for")


def test_rules_are_chosen_on_a_phone(page, flawed, serious):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{flawed}/checks")
    page.get_by_label("Limits by").select_option("uk-eu")
    expect(page.get_by_text("Whose rules apply where you travel?")).to_have_count(0)
    expect(page.get_by_label("Limits by")).to_have_value("uk-eu")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert serious("target-size") == []
