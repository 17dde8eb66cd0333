"""The frame leaves the page its room: measured on every page, wide and narrow, in both units."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover, folio

PAGES = ("brief", "heat", "layout?o.head=1", "layout?o.head=1&piece=part-store",
         "parts?piece=part-store", "spaces", "flow?o.head=1", "shower?draw=1",
         "budgets")  # fmt: skip
TOP = "top => document.querySelector(top).getBoundingClientRect().top + window.scrollY"
WIDE, PHONE = (1280, 800), (390, 844)


@pytest.fixture
def library(vehicles):
    return f"/vehicles/{vehicles.create(folio(), 'x')}/button"


def edge(page, what):
    return page.evaluate(TOP, what)


@pytest.mark.parametrize(
    ("size", "top", "bar", "units"),
    [(WIDE, 220, 56, "us"), (PHONE, 200, 48, "metric")],
    ids=["wide", "phone"],
)
def test_the_main_visual_is_in_the_first_view(page, library, server, units, size, top, bar):
    page.context.add_cookies([{"name": "units", "value": units, "url": server}])
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for name in PAGES:
        page.goto(f"{library}/{name}")
        assert edge(page, "[data-main-visual]") <= top, name
        box = page.locator("[data-main-visual]").first.bounding_box()
        assert box is not None
        room = size[1] - box["y"]
        if size == WIDE:
            assert min(box["height"], room) >= 480, name
            tall = page.evaluate("document.documentElement.scrollHeight")
            assert tall <= 2.55 * size[1], name  # two and a half screens, folds shut
        assert page.evaluate("document.documentElement.scrollWidth") <= size[0], name
        page.evaluate("window.scrollTo(0, 600)")
        truth = page.locator(".truth").bounding_box()
        assert truth is not None and truth["height"] <= bar, name
        if page.evaluate("window.scrollY") > 200:  # the verdict stays in sight
            assert abs(truth["y"]) < 1, name


def test_the_whole_ledger_is_a_press_or_a_key_away_and_stays_open(page, vehicles):
    box = f"/vehicles/{vehicles.create(drover(), 'x')}/ten-litres"
    page.goto(f"{box}/parts?piece=part-store")
    strip = page.locator(".strip")
    expect(strip).to_be_hidden()
    page.locator("#whole > summary").click()
    expect(strip).to_be_visible()
    page.get_by_label("Volume").first.fill("14")
    page.get_by_label("Volume").first.press("Tab")
    expect(page.locator('[data-budget="warmth"] .cell-change')).to_contain_text("→")
    expect(strip).to_be_visible()  # made anew, and open as it was
    page.locator("h1").click()
    page.keyboard.press("l")
    expect(strip).to_be_hidden()
    page.keyboard.press("l")
    expect(strip).to_be_visible()


def test_menus_shut_by_key_and_by_a_press_elsewhere(page, library):
    page.goto(f"{library}/brief")
    menu = page.locator("#menu")
    menu.locator("summary").click()
    expect(page.get_by_role("link", name="Versions")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("link", name="Versions")).to_be_hidden()
    menu.locator("summary").click()
    page.locator("h1").click()
    expect(page.get_by_role("link", name="Versions")).to_be_hidden()


def test_another_variant_is_chosen_in_the_frame(page, vehicles):
    page.goto(f"/vehicles/{vehicles.create(drover(), 'x')}/ten-litres/flow")
    page.locator("#choose summary").click()
    page.get_by_role("link", name="Fourteen litres").click()
    page.wait_for_url("**/fourteen/flow")
    expect(page.locator(".top-variant")).to_have_text("Fourteen litres")


def test_the_open_page_is_in_sight_on_a_phone(page, library):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{library}/shower")
    expect(page.locator(".stages [aria-current]")).to_be_in_viewport(ratio=0.9)
    page.goto(f"{library}/flow?view=drain")  # the last of the page's own views too
    expect(page.locator(".switcher [aria-current]").first).to_be_in_viewport(ratio=0.9)


def test_the_verdict_in_every_state_comes_with_the_whole(page, library):
    page.goto(f"{library}/flow")
    page.locator("#whole > summary").click()
    rows = page.locator(".verdicts tbody tr")
    expect(rows.filter(has_text="seen now")).to_have_count(1)
    assert rows.count() == len(folio().variants[0].system.states)


SHIFTS = """() => { window.shifted = []; new PerformanceObserver(list => list.getEntries().forEach(
    entry => { if (!entry.hadRecentInput) window.shifted.push([entry.value,
    ...entry.sources.map(source => String(source.node && source.node.className))]); }
    )).observe({type: "layout-shift", buffered: true}); }"""


@pytest.mark.parametrize(
    ("path", "label", "text"),
    [
        ("brief", "Days between fills", "9"),
        ("layout?o.head=1&piece=part-mixer", "Set to", "38"),
        ("parts?piece=part-store", "Volume", "20"),
        ("shower", "", ""),
        ("heat", "", ""),
        ("spaces", "", ""),
        ("flow?o.head=1", "Hand set", "0.5"),
    ],
)
def test_nothing_moves_when_it_loads_or_is_edited(page, library, path, label, text):
    """The browser's own figure for layout shifts is 0, of what loads by itself too."""
    page.goto("/")  # people come from there, with letters and styles in the cache
    page.wait_for_load_state("networkidle")
    page.add_init_script(f"({SHIFTS})()")
    page.goto(f"{library}/{path}")
    page.wait_for_load_state("networkidle")
    if label:
        field = page.locator("main").get_by_label(label).and_(page.locator("input, select")).first
        head = page.locator("#design").get_attribute("data-head")
        if text == "0.5":
            field.select_option(text)
            expect(field).to_have_value("0.5")
        else:
            field.fill(text)
            field.press("Enter")
            expect(page.locator("#design")).not_to_have_attribute("data-head", head or "")
        page.wait_for_load_state("networkidle")
    shifted = page.evaluate("window.shifted")
    # 0 but for a letter that rounds to another pixel: a line that moved would be a hundred times it
    assert sum(value for value, *_ in shifted) < 2e-4, shifted
