"""Using it on a phone: the card goes on counting with the network gone."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover
from tests.browser.waiting import until


@pytest.fixture
def box(vehicles):
    return f"/vehicles/{vehicles.create(drover(), 'Demo')}/ten-litres"


def test_a_card_counts_down_with_the_network_gone(browser, server, box):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=server, has_touch=True
    )
    phone = context.new_page()
    errors = []
    phone.on("console", lambda said: errors.append(said.text) if said.type == "error" else None)
    phone.goto(f"{box}/use")
    phone.get_by_label("Fresh water left").fill("lots")
    phone.get_by_role("button", name="When do I switch on?").tap()
    expect(phone.locator("#use-error")).to_be_visible()
    expect(phone.get_by_label("Fresh water left")).to_have_value("lots")
    phone.get_by_label("Fresh water left").fill("60")
    phone.get_by_label("Burner").uncheck()
    phone.get_by_role("button", name="When do I switch on?").tap()
    expect(phone.locator(".use-acts li").first).to_contain_text("Switch on Element.")
    phone.get_by_role("link", name="Count it down on a card of its own").tap()
    phone.wait_for_url("**/use/card?**")
    context.set_offline(True)
    # the first act is at once; then it counts to the hot water, 45 minutes away
    expect(phone.locator("#act")).to_contain_text("Set Thermostatic mixer", timeout=10_000)
    before = phone.locator("#clock").inner_text()
    until(phone, lambda: phone.locator("#clock").inner_text() < before)
    assert before.startswith(("45:", "44:"))
    phone.get_by_role("button", name="Count from now again").tap()
    expect(phone.locator("#act")).to_contain_text("Switch on Element.")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert errors == []
    context.close()


def test_from_what_is_wrong_to_the_fault_by_keyboard(page, box, serious):
    page.goto(f"{box}/use?view=trouble")
    assert serious() == []
    link = page.locator("#trouble-no_water ~ p a")
    link.focus()
    page.keyboard.press("Enter")
    page.wait_for_url("**/faults?find=**")
    expect(page.locator("#symptoms li").first).to_contain_text("Nothing comes")
