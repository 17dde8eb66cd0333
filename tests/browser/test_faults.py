"""Faults with a mouse and on a phone: seen, read, tried, put back, practised."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover


@pytest.fixture
def box(vehicles):
    return f"/vehicles/{vehicles.create(drover(), 'Demo')}/ten-litres"


def test_from_a_symptom_to_a_mended_fault(page, box, serious):
    page.goto(f"{box}/faults")
    page.get_by_label("Search what people see").fill("less comes")
    expect(page.locator("#symptoms li:visible")).to_have_count(1)
    page.get_by_role("button", name="Seen: Less comes than before or than said").click()
    expect(page.locator("#suspects-title")).to_be_visible()
    page.get_by_label("Quantity").select_option("flow.head")
    page.get_by_label("Reads", exact=True).fill("slow")
    page.get_by_role("button", name="Note it", exact=True).first.click()
    expect(page.locator("#fault-error")).to_contain_text("Type for example")
    expect(page.locator("#fault-value")).to_have_value("slow")
    page.locator("#fault-value").fill("2,4")
    page.locator("#fault-value").press("Enter")
    expect(page.locator("#read-title ~ .said").first).to_contain_text("a sound system gives")
    expect(page.locator("#suspects-title")).to_be_visible()
    assert serious() == []
    page.get_by_label("It was").fill("Head scaled")
    page.get_by_role("button", name="End the case").click()
    expect(page.locator("#ended-title ~ ul")).to_contain_text("Head scaled")
    expect(page.locator(".fault-said")).to_have_count(0)


def test_a_fault_is_practised_on_a_phone(browser, server, box):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=server, has_touch=True
    )
    phone = context.new_page()
    phone.goto(f"{box}/faults")
    phone.get_by_role("link", name="Practise on a fault that is hidden").tap()
    expect(phone.locator("#try-title")).to_be_visible()
    choices = phone.locator("#try-title ~ ul a")
    count = choices.count()
    choices.first.tap()
    expect(choices).to_have_count(count - 1)
    expect(phone.locator("#case-title ~ .said").first).to_contain_text("Spent:")
    phone.get_by_role("button", name="Name it").tap()
    expect(phone.locator("#case-title ~ h3").last).to_contain_text("it was")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    context.close()
