"""At the bench with a phone in a wet hand: which thread, and what joins two ends."""

from __future__ import annotations

from playwright.sync_api import expect


def test_a_thread_is_told_by_touch_on_a_phone(page, browser, server, serious):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=server, has_touch=True
    )
    phone = context.new_page()
    phone.goto("/sums/thread")
    phone.get_by_label("Outside, or the bore").fill("20.9 mm")
    phone.get_by_label("Its pitch").fill("14 tpi")
    phone.get_by_label("Its pitch").press("Enter")
    expect(phone.locator("#thread-said")).to_contain_text("Likeliest")
    expect(phone.get_by_text("To decide:")).to_be_visible()
    phone.get_by_label("it is straight").tap()
    expect(phone.get_by_text("Hold a flank gauge")).to_be_visible()
    phone.get_by_label("55°").tap()
    expect(phone.locator("#thread-said")).to_have_text("Likeliest: 1/2 in parallel")
    expect(phone.get_by_label("it is straight")).to_be_checked()
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    box = phone.locator(".bench-key").first.bounding_box()
    assert box is not None and box["height"] >= 48
    context.close()
    page.goto("/sums/thread?across=20.9")
    assert serious() == []


def test_two_ends_are_joined_by_keyboard(page, serious):
    page.goto("/sums/meet")
    page.get_by_label("One end").fill("male M22x1")
    page.get_by_label("The other").fill("push-in 12 mm")
    page.keyboard.press("Enter")
    expect(page.locator("#meet-said")).to_contain_text("no chain known")
    page.locator("p.said a").first.click()
    expect(page.locator(".bench-chain li").first).to_be_visible()
    assert serious() == []
