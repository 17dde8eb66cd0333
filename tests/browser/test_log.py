"""The log at the tap: stopwatch and bucket, a lost network, learning from a night."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover
from tests.browser.waiting import until
from tests.web.test_log import night


@pytest.fixture
def box(vehicles):
    return f"/vehicles/{vehicles.create(drover(), 'Demo')}/ten-litres"


def test_a_shower_is_logged_with_the_stopwatch_on_a_phone(browser, server, box):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=server, has_touch=True
    )
    phone = context.new_page()
    phone.goto(f"{box}/log")
    phone.get_by_label("The bucket holds").fill("0,5")
    phone.get_by_role("button", name="Start").tap()
    until(phone, lambda: phone.locator("[data-watch-clock]").inner_text() >= "1.0 s")
    phone.get_by_role("button", name="Stop").tap()
    phone.get_by_role("button", name="Into the form").tap()
    until(phone, lambda: "L/min" in phone.get_by_label("Reads").input_value())
    phone.get_by_label("Session").fill("Sunday")
    phone.get_by_role("button", name="Keep it").tap()
    expect(phone.get_by_label("Reads")).to_have_value("")
    phone.get_by_role("link", name="Sessions").tap()
    expect(phone.locator("tbody tr")).to_have_count(1)
    expect(phone.locator("tbody tr")).to_contain_text("bucket of 0.5 L")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    context.close()


def test_what_a_lost_network_did_not_take_is_sent_later(browser, server, box):
    context = browser.new_context(base_url=server)
    tab = context.new_page()
    tab.goto(f"{box}/log")
    context.set_offline(True)
    tab.get_by_label("Reads").fill("3.9")
    tab.get_by_role("button", name="Keep it").click()
    expect(tab.locator("[data-unsent-words]")).to_contain_text("kept on this device")
    context.set_offline(False)
    expect(tab.locator("[data-unsent-words]")).to_be_hidden()
    tab.goto(f"{box}/log?view=sessions")
    expect(tab.locator("tbody tr")).to_have_count(1)
    context.close()


def test_a_night_is_imported_learned_and_taken(page, box, tmp_path, serious):
    file = tmp_path / "night.csv"
    file.write_bytes(night())
    page.goto(f"{box}/log")
    page.get_by_label("CSV, ours or a logger’s").set_input_files(file)
    page.get_by_role("button", name="Import it").click()
    expect(page.locator("#sessions-title")).to_contain_text("10 readings")
    assert serious() == []
    page.get_by_role("link", name="Learn").click()
    page.get_by_role("button", name="Take it: Gas-and-mains store: standing loss").click()
    expect(page.locator("#taken-title")).to_be_visible()
    expect(page.get_by_text("Taken already")).to_be_visible()
    assert serious() == []
    page.keyboard.press("Control+z")
    expect(page.locator("#taken-title")).to_have_count(0)


def test_a_loggers_file_is_mapped_and_remembered(browser, server, box, tmp_path):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=server, has_touch=True
    )
    phone = context.new_page()
    path = tmp_path / "box 7.csv"
    rows = [f"28.03.2027 10:{at:02d};38,{at}" for at in range(30)]
    path.write_text("\n".join(["Datum;Head (°C)", *rows]))
    phone.goto(f"{box}/log")
    phone.get_by_label("CSV, ours or a logger’s").set_input_files(path)
    phone.get_by_role("button", name="Import it").tap()
    phone.wait_for_url("**view=columns**")
    expect(phone.get_by_label("Times are")).to_have_value("day first")
    phone.get_by_label("Session").fill("Bench")
    phone.get_by_label("Head (°C) holds").select_option("temp.head")
    phone.get_by_role("button", name="Keep the readings").tap()
    # no zone was said: the page says so, and keeps what was typed
    expect(phone.get_by_role("alert")).to_contain_text("Choose the time zone")
    expect(phone.get_by_label("Session")).to_have_value("Bench")
    phone.get_by_label("Time zone of dates").fill("Europe/Lisbon")
    phone.get_by_role("button", name="Keep the readings").tap()
    expect(phone.get_by_role("status").first).to_contain_text("30 readings kept")
    expect(phone.locator("#rows-title")).to_have_text("Bench")
    phone.goto(f"{box}/log")
    phone.get_by_label("CSV, ours or a logger’s").set_input_files(path)
    phone.get_by_role("button", name="Import it").tap()
    expect(phone.get_by_label("Head (°C) holds")).to_have_value("temp.head")
    expect(phone.get_by_label("Time zone of dates")).to_have_value("Europe/Lisbon")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    context.close()


def test_what_to_change_next_is_tried_and_kept(page, box):
    page.goto(f"{box}/log?view=next")
    page.get_by_role("link", name="Try what can be changed").click()
    first = page.locator("#what-next").get_by_role("button", name="Keep it").first
    expect(first).to_be_visible(timeout=120_000)
    words = first.get_attribute("aria-label")
    assert words is not None
    first.click()
    expect(page.locator("#undo")).to_contain_text(words.removeprefix("Keep it: ")[:20])
    # the design is another now, and it is tried anew
    expect(page.locator("#what-next")).to_contain_text("were tried", timeout=120_000)
