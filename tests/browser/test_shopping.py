"""Shopping and cutting in the browser: ends that do not meet, what is bought, pieces, holes."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import folio


@pytest.fixture
def library(vehicles):
    return f"/vehicles/{vehicles.create(folio(), 'Demo')}/button"


def test_two_ends_that_do_not_meet_are_mended_bought_and_ticked(page, library, serious):
    page.goto(f"{library}/shopping?view=ends")
    box = page.get_by_role("combobox", name="End of Pressure pump, 12 V, inlet")
    box.fill("male 3/4 in garden")
    box.press("Tab")
    row = page.locator("#end-pump-inlet")
    expect(row).to_contain_text("stated")
    chain = row.locator(".end-step")
    expect(chain.first).to_be_visible()
    fitting = chain.first.inner_text()
    page.get_by_role("link", name="What to buy").click()
    line = page.locator(".shop-line", has_text=fitting).first
    expect(line).to_be_visible()
    line.locator("summary").click()
    form = line.get_by_role("form").first
    form.get_by_label("Price of one").fill("4.20")
    form.get_by_role("button", name="Bought, or there").click()
    expect(page.get_by_text("There already")).to_be_visible()
    page.get_by_text("There already").click()
    expect(page.locator(".shop-line", has_text=fitting).filter(has_text="1 there")).to_be_visible()
    assert serious() == []
    page.keyboard.press("Control+z")
    expect(page.get_by_text("There already")).to_have_count(0)


def test_a_joint_that_is_apart_opens_from_the_drawing(page, library):
    page.goto(f"{library}/shopping?view=ends")
    box = page.get_by_role("combobox", name="End of Pressure pump, 12 V, inlet")
    box.fill("male M22x1")
    box.press("Tab")
    expect(page.locator("#ends-title")).to_contain_text("1 does not meet")
    page.goto(f"{library}/layout")
    page.locator("svg.route-wide a.gap").click()
    panel = page.locator("#ends-run-strainer-pump")
    expect(panel).to_contain_text("do not meet")
    panel.get_by_role("button", name="take one with").first.click()
    expect(page.locator("svg.route-wide a.gap")).to_have_count(0)


def test_a_run_is_measured_by_keyboard_and_its_piece_is_drawn(page, library, serious):
    page.goto(f"{library}/shopping?view=pieces")
    form = page.get_by_role("form", name="How Check valve to return tee before the store was")
    form.get_by_label("Measured").select_option("between centres")
    legs = form.get_by_label("Legs and turns")
    legs.fill("25 cm; 90; 400 mm")
    legs.press("Enter")
    form = page.get_by_role("form", name="How Check valve to return tee before the store was")
    expect(form).to_contain_text("take-out of check")
    form.get_by_label("Measured").select_option("between faces")
    form.get_by_role("button", name="Keep").click()
    expect(page.locator("#piece-check-return-tee-1")).to_contain_text("90° from")
    assert serious() == []


def test_prints_show_every_line_and_no_buttons(page, library):
    page.goto(f"{library}/shopping")
    page.evaluate("window.dispatchEvent(new Event('beforeprint'))")
    page.emulate_media(media="print")
    shops = page.locator("details.shop")
    assert all(shops.nth(place).evaluate("one => one.open") for place in range(shops.count()))
    assert page.locator(".shop-menu:visible").count() == 0
    assert page.locator(".shop-box:visible").count() > 60
    page.goto(f"{library}/shopping?view=holes")
    size = page.locator("svg.true-size").first.bounding_box()
    assert size is not None and size["width"] == pytest.approx(54 / 25.4 * 96, abs=0.6)


def test_the_list_is_ticked_on_a_phone(page, browser, server, library):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=server, has_touch=True
    )
    phone = context.new_page()
    phone.goto(f"{library}/shopping")
    line = phone.locator(".shop-line", has_text="Hand set").first
    line.locator("summary").tap()
    line.get_by_role("button", name="Ordered").tap()
    expect(phone.locator(".shop-line", has_text="Hand set").first).to_contain_text("1 ordered")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    context.close()
