"""Building on a phone: one task at a time, kept over a reload."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import folio


@pytest.fixture
def library(vehicles):
    return f"/vehicles/{vehicles.create(folio(), 'Demo')}/button"


def test_tasks_are_done_one_at_a_time_on_a_phone(page, browser, server, library, serious):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=server, has_touch=True
    )
    phone = context.new_page()
    phone.goto(f"{library}/build")
    first = phone.locator("#now-title").inner_text()
    phone.get_by_label("Done by").fill("Ruth")
    phone.get_by_role("button", name=f"Done: {first}").tap()
    expect(phone.locator("#now-title")).not_to_have_text(first)
    expect(phone.locator("#tasks-title")).to_contain_text("1 of")
    phone.reload()
    expect(phone.locator("#tasks-title")).to_contain_text("1 of")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    context.close()
    for view in ("tasks", "stages", "visits"):
        page.goto(f"{library}/build?view={view}")
        assert serious() == []


def test_a_task_is_opened_from_the_list_by_keyboard(page, library):
    page.goto(f"{library}/build")
    link = page.locator(".task-day[open] .task-row a").nth(2)
    title = link.inner_text()
    link.focus()
    page.keyboard.press("Enter")
    expect(page.locator("#now-title")).to_have_text(title)
    page.get_by_role("button", name=f"Leave out: {title}").click()
    expect(page.locator(".task-row", has_text="left out")).to_have_count(1)
