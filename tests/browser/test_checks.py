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
    expect(page.locator("#checks-title")).to_contain_text("1 to stop for")
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


def test_a_button_mends_what_one_change_mends_and_the_mark_follows(page, vehicles):
    values = {"variants.gas-combi.system.parts.changeover.rated_kg_per_s": 0.1 / 3600}
    project = set_values(layouts()["gas-combi"].project(), values)
    at = f"/vehicles/{vehicles.create(project, 'x')}/gas-combi"
    page.goto(f"{at}/layout")
    mark = page.locator("#found-mark")
    expect(mark).to_contain_text("1 to fix")
    expect(page.locator('.route a[data-found="fix"]').first).to_be_visible()
    mark.click()
    finding = page.locator(".finding", has_text="gas.regulator-small")
    finding.locator("summary").click()
    rules = finding.get_by_role("table", name="By every rule set")
    expect(rules.get_by_role("row")).to_have_count(6)
    finding.get_by_role("button", name=re.compile("^Do it")).click()
    expect(finding).to_have_count(0)
    expect(page.locator("#step-checks")).not_to_contain_text("to fix")
    page.goto(f"{at}/layout")
    expect(mark).to_contain_text("not known")
    expect(page.locator('a[data-found="fix"]')).to_have_count(0)


def test_an_answer_ends_when_the_figure_moves(page, flawed):
    page.goto(f"{flawed}/checks")
    finding = page.locator(".finding", has_text="vent of 4 mm")
    finding.locator("summary").click()
    finding.get_by_label("It may stay because").fill("Filled slowly")
    finding.get_by_label("says").fill("R. Moss")
    finding.get_by_role("button", name="Acknowledge").click()
    expect(page.locator("#checks-kept")).to_be_visible()
    page.goto(f"{flawed}/parts?piece=part-tank#piece")
    bore = page.get_by_label("Vent bore")
    page.locator("#piece details", has=bore).last.locator("summary").first.click()
    bore.fill("3 mm")
    bore.press("Enter")
    expect(page.locator("#undo button")).to_have_attribute("title", re.compile("Vent bore"))
    page.goto(f"{flawed}/checks")
    expect(page.locator("#checks-kept")).to_have_count(0)
    expect(page.locator(".checks-watch")).to_contain_text("vent of 3 mm")


def test_every_finding_is_open_on_paper(page, flawed):
    page.goto(f"{flawed}/checks")
    page.evaluate("window.dispatchEvent(new Event('beforeprint'))")
    expect(page.locator("details.finding:not([open])")).to_have_count(0)
    page.emulate_media(media="print")
    expect(page.locator(".finding form").first).to_be_hidden()
    expect(page.get_by_text("Who looks:").first).to_be_visible()
    page.evaluate("window.dispatchEvent(new Event('afterprint'))")
    expect(page.locator("details.finding[open]")).to_have_count(0)
