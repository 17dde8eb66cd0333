"""Deciding in the browser: figures varied, designs side by side, wishes, one kept."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import drover_on_trip
from tests.browser.waiting import WORK_MS


@pytest.fixture
def box(vehicles):
    return f"/vehicles/{vehicles.create(drover(), 'x')}/ten-litres"


def test_a_figure_is_varied_by_keyboard_a_run_kept_and_undone(page, box):
    page.goto(f"{box}/sweep")
    page.get_by_role("link", name="Gas-and-mains store: Volume").click()
    expect(page.locator("#swept .said")).to_contain_text("of 7 runs", timeout=WORK_MS)
    to = page.get_by_label(re.compile("^to")).first
    to.fill("16 L")
    page.locator("#v-x_from").fill("8")
    page.locator("#v-x_n").fill("3")
    page.keyboard.press("Enter")
    expect(page.locator("#swept .said")).to_contain_text("of 3 runs", timeout=WORK_MS)
    page.locator("#sweep-figures > summary").focus()
    page.keyboard.press("Enter")
    link = page.get_by_role("link", name=re.compile("^16"))
    link.focus()
    page.keyboard.press("Enter")
    expect(page.locator("#chosen-title")).to_have_text(re.compile(r"Volume 16\sL"))
    page.get_by_role("button", name=re.compile("^Set it so")).click()
    expect(page.locator("label[for=v-x]")).to_contain_text("today 16")
    page.locator("#undo button").click()
    expect(page.locator("label[for=v-x]")).to_contain_text("today 10")


def test_a_map_comes_row_by_row_and_can_be_cancelled(page, box):
    page.goto(f"{box}/sweep")
    page.locator("#v-x").fill("Gas-and-mains store: Volume")
    page.locator("#v-x_n").fill("25")
    page.locator("#v-y").fill("Brief: Living space kept at")
    page.locator("#v-y_n").fill("20")
    page.get_by_role("button", name="Run it").click()
    cells = page.locator(".chart-wide .map-cell")
    expect(cells.nth(24)).to_be_attached(timeout=WORK_MS)
    page.get_by_role("button", name="Cancel").click()
    expect(page.locator("#swept, .under-way").first).to_contain_text("Stopped")
    assert page.get_by_role("link", name="Begin again").is_visible()


def test_what_cannot_be_read_stays_in_its_field(page, box):
    page.goto(f"{box}/sweep")
    page.locator("#v-x").fill("Gas-and-mains stove: Volume")
    page.locator("#v-x_from").fill("ten")
    page.keyboard.press("Enter")
    expect(page.locator("#v-x-error")).to_contain_text("Gas-and-mains store: Volume")
    expect(page.locator("#v-x")).to_have_value("Gas-and-mains stove: Volume")
    expect(page.locator("#v-x_from")).to_have_value("ten")


def test_designs_are_compared_a_wish_judged_and_one_kept(page, box):
    page.goto(f"{box}/compare")
    expect(page.locator(".compare-head")).to_have_count(6)  # of the table, and of the draws'
    page.get_by_label("Fourteen, well foamed").first.uncheck()
    page.get_by_role("button", name="Compare", exact=True).click()
    heads = page.locator("section[data-main-visual] .compare-head")
    expect(heads).to_have_count(2)
    page.get_by_label("A wish of your own").fill("Mendable with parts from any shop")
    page.keyboard.press("Enter")
    verdict = page.get_by_label("Verdict on Fourteen litres: Mendable")
    expect(heads).to_have_count(2)  # what is compared stays
    verdict.select_option("so-so")
    expect(page.locator("#undo button")).to_have_attribute("title", "fourteen: so-so")
    expect(page.get_by_label("Verdict on Fourteen litres: Mendable")).to_have_value("so-so")
    page.get_by_role("button", name="Keep this one: Fourteen litres").click()
    expect(page.locator(".top-variant")).to_have_text("Fourteen litres")
    with page.expect_download() as caught:
        page.get_by_role("link", name="This table, CSV").click()
    assert caught.value.suggested_filename.endswith("-compare.csv")


def test_print_is_asked_of_the_browser(page, box):
    page.goto(f"{box}/compare")
    page.evaluate("window.print = () => { document.title = 'printed'; }")
    page.get_by_role("button", name="Print").click()
    assert page.title() == "printed"


@pytest.mark.parametrize(("size", "units"), [((1280, 800), "us"), ((390, 844), "metric")])
@pytest.mark.parametrize("where", ["sweep?x=brief.inside_c&x_n=2", "compare"])
def test_pages_of_deciding_fit(page, vehicles, serious, size, units, where):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    box = f"/vehicles/{vehicles.create(drover_on_trip(), 'x')}/ten-litres"
    page.goto("/")
    page.context.add_cookies([{"name": "units", "value": units, "url": page.url}])
    page.goto(f"{box}/{where}")
    expect(page.locator("[data-under-way]")).to_have_count(0, timeout=WORK_MS)
    assert page.evaluate("document.documentElement.scrollWidth") <= size[0]
    visual = page.locator("[data-main-visual]").bounding_box()
    assert visual["y"] < size[1] * 0.62
    assert serious() == []
