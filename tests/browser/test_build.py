"""Building on a phone: one task at a time, kept over a reload."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover, folio


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


def test_a_stage_is_missed_followed_to_the_fault_put_back_and_passed(page, vehicles):
    box = f"/vehicles/{vehicles.create(drover(), 'Demo')}/ten-litres"
    page.goto(f"{box}/build?view=stages")
    stage = page.locator('[id="stage-mix.mixer"]')
    stage.get_by_label("It reads, °C").fill("34")
    stage.get_by_role("button", name="Note it: temperature").click()
    expect(stage).to_contain_text("Read: 34 °C, off")
    expect(stage).to_contain_text("It may be: Thermostatic mixer")
    # it cannot be passed by a tick while it is off
    page.goto(f"{box}/build?task=test.mix.mixer")
    page.get_by_role("button", name="Done: ").first.click()
    expect(page.get_by_role("alert")).to_contain_text("To pass it by hand, say why")
    page.goto(f"{box}/build?view=stages")
    stage.get_by_role("button", name="Follow to the fault: temperature").click()
    page.wait_for_url("**/faults**")
    expect(page.locator("#suspects-title")).to_be_visible()
    turn = page.locator(".fault-list form", has=page.get_by_label("As found")).first
    turn.get_by_label("As found").fill("38")
    turn.get_by_label("As left").fill("45")
    turn.get_by_role("button", name="follows").click()
    change = page.locator(".fault-change")
    expect(change).to_contain_text("as found: 38; as left: 45")
    expect(page.locator("#fault-next-title")).to_have_count(0)  # one change at a time
    change.get_by_role("button", name="Put back").click()
    expect(change).to_have_count(0)
    page.goto(f"{box}/build?view=stages")
    stage.get_by_label("It reads, °C").fill("40")
    stage.get_by_role("button", name="Note it: temperature").click()
    expect(stage).to_contain_text("Read: 40 °C, as it should be")
    stage.get_by_label("It reads, s").fill("5")
    stage.get_by_role("button", name="Note it: wait").click()
    expect(stage).to_contain_text("Read: 5 s, as it should be")
    page.goto(f"{box}/build?task=test.mix.mixer")
    page.get_by_role("button", name="Done: ").first.click()
    expect(page.locator('[id="task-test.mix.mixer"]')).to_contain_text("done,")
