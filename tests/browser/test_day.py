"""The state of the day is chosen by mouse and keyboard; long doubt is watched and stopped."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import folio
from tests.browser.waiting import WORK_MS


@pytest.fixture
def library(vehicles):
    return f"/vehicles/{vehicles.create(folio(), 'x')}/button"


def test_the_state_of_the_day_is_chosen_once_and_undone(page, library):
    page.goto(f"{library}/brief")
    box = page.get_by_label("The day is seen")
    expect(box).to_have_value("pitch")
    box.select_option("On hook-up")
    expect(page.locator("#undo button")).to_have_attribute("title", "State of the day")
    page.get_by_role("link", name=re.compile("Shower")).first.click()
    expect(page.get_by_label("The day is seen")).to_have_value("hook-up")
    page.locator("#undo button").click()
    expect(page.get_by_label("The day is seen")).to_have_value("pitch")


def test_how_sure_can_be_cancelled_and_begun_again(page, library):
    page.goto(f"{library}/shower")
    box = page.locator("#sure")
    page.locator("#certainty > summary").click()
    expect(box).to_contain_text("uncertain figures tried", timeout=WORK_MS)
    box.get_by_role("button", name="Cancel").click()
    expect(box).to_contain_text("Stopped.")
    box.get_by_role("link", name="Begin again").click()
    expect(box).to_contain_text("uncertain figures were tried in", timeout=WORK_MS)
