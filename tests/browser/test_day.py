"""The state of the day is chosen by mouse and keyboard; long doubt is watched and stopped."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import folio


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


def test_how_sure_can_be_stopped(page, library):
    page.goto(f"{library}/shower")
    stop = page.locator("#sure").get_by_role("button", name="Stop", exact=True)
    expect(page.locator(".mend").first).to_be_visible(timeout=30_000)  # one long search at a time
    page.locator("#certainty > summary").click()
    expect(stop).to_be_visible()
    expect(page.locator("#sure [data-progress]")).to_contain_text("uncertain figures tried")
    stop.click()
    expect(page.locator("#sure [data-progress]")).to_have_text("Stopped.")
    expect(stop).to_be_hidden()
    expect(page.get_by_role("link", name="Run it again with what is uncertain")).to_be_visible()
