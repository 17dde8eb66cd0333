"""What a builder does, with real clicks and keys against the real database."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.waiting import begin, until


def fill(page: Page, field_id: str, text: str) -> None:
    """Type into a field, leave it, and wait until the page has answered."""
    field = page.locator(f"#{field_id}")
    head = page.locator("#design").get_attribute("data-head")
    field.fill(text)
    field.press("Tab")
    expect(page.locator("#design")).not_to_have_attribute("data-head", head or "")


def warm(page: Page) -> float:
    text = page.locator('[data-budget="warmth"] .cell-used').text_content() or ""
    return float(text.split()[0])


def click_changes(page: Page, locator) -> None:
    head = page.locator("#design").get_attribute("data-head")
    locator.click()
    expect(page.locator("#design")).not_to_have_attribute("data-head", head or "")


def open_piece(page: Page, key: str) -> None:
    """Open a part or run on the Parts page by its row."""
    page.locator(f"#row-{key}").click()
    expect(page.locator(f"#row-{key}")).to_have_attribute("aria-current", "true")


STORE = "f-variants-first-system-parts-store-volume-m3"
TANK = "f-variants-first-system-parts-tank-volume-m3"


def make_design(page: Page) -> None:
    """From an empty database to a verdict, by hand."""
    page.goto("/")
    expect(page.get_by_text("No vehicle yet")).to_be_visible()
    begin(page, "Möwe")
    expect(page.locator("#verdict")).to_contain_text("Fresh tank has no usable volume")
    for _ in range(2):
        click_changes(page, page.get_by_role("button", name="Shower", exact=True))
    fill(page, "f-brief-draws-shower-2-start-s", "7:10")
    fill(page, "f-brief-cold-water-c", "10")
    page.get_by_role("link", name="Go and mend it").click()
    expect(page.locator(f"#next-{TANK}")).to_be_focused()
    fill(page, f"next-{TANK}", "90")
    expect(page.locator("#verdict")).to_contain_text("Store has no volume")
    page.locator(".stages").get_by_role("link", name=re.compile("^Parts")).click()
    open_piece(page, "part-store")
    fill(page, STORE, "10")
    page.get_by_label("Fit into it").select_option("element-usual")
    click_changes(page, page.get_by_role("button", name="Fit", exact=True))
    fill(page, "f-variants-first-system-parts-element-usual-rated-w", "1.2 kW")
    expect(page.locator("#verdict")).to_contain_text("Two washes of 5 min in June")
    open_piece(page, "part-store")


def test_from_nothing_to_a_verdict_and_back_through_a_file(page, tmp_path):
    make_design(page)
    before = warm(page)
    strip = page.locator(".cell-used").all_text_contents()
    fill(page, STORE, "14")
    assert warm(page) > before
    change = page.locator('[data-budget="warmth"] .cell-change')
    expect(change).to_contain_text(f"{before:g}")
    expect(change).to_contain_text("→")

    page.locator("#undo button").click()
    expect(page.locator("#f-variants-first-system-parts-store-volume-m3")).to_have_value("10")
    assert warm(page) == before
    page.reload()
    expect(page.locator(".cell-used")).to_have_text(strip)
    verdict = page.locator("#verdict").inner_text()

    with page.expect_download() as download:
        page.locator("#menu > summary").click()
        page.get_by_role("link", name="Export").click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    assert path.name == "mowe.isotherma.json"

    page.goto("/")
    page.get_by_text("Rename, copy, delete").click()
    page.get_by_role("button", name="Delete Möwe").click()
    expect(page.get_by_text("The vehicle was deleted")).to_be_visible()
    expect(page.locator(".vehicle")).to_have_count(0)
    page.get_by_label("Project file").set_input_files(path)
    page.get_by_role("button", name="Import").click()
    expect(page.get_by_text("“Möwe” was imported")).to_be_visible()
    page.locator(".variant-rows a").click()
    expect(page.locator("#verdict")).to_have_text(verdict)
    page.locator(".stages").get_by_role("link", name=re.compile("^Parts")).click()
    page.wait_for_url("**/parts*")
    expect(page.locator(".cell-used")).to_have_text(strip)


def test_delete_is_taken_back(page):
    make_design(page)
    page.goto("/")
    page.get_by_text("Rename, copy, delete").click()
    page.get_by_role("button", name="Delete Möwe").click()
    page.get_by_role("button", name="Bring it back").click()
    expect(page.locator(".vehicle h2")).to_have_text("Möwe")


def test_us_units_are_typed_and_shown_everywhere(page):
    make_design(page)
    page.locator("#menu > summary").click()
    page.get_by_role("button", name="Units: L, °C").click()
    expect(page.locator('[data-budget="fresh"]')).to_contain_text("gal")
    field = page.locator("#f-variants-first-system-parts-store-volume-m3")
    expect(field).to_have_value("2.642")
    fill(page, STORE, "3 1/2")
    expect(field).to_have_value("3.5")
    open_piece(page, "part-mixer")
    fill(page, "f-variants-first-system-parts-mixer-set-c", "105")
    page.locator(".stages").get_by_role("link", name=re.compile("^Shower")).click()
    expect(page.locator("[data-readout]")).to_contain_text("°F")
    expect(page.get_by_role("link", name="by gallons")).to_be_visible()
    page.locator("#menu > summary").click()
    page.get_by_role("button", name="Units: gal, °F").click()
    expect(page.get_by_role("link", name="by litres")).to_be_visible()


@pytest.mark.parametrize("typed", ["0", "7 bar", "💧"])
def test_awkward_values_stay_and_are_explained(page, typed):
    make_design(page)
    field = page.locator("#f-variants-first-system-parts-store-volume-m3")
    field.fill(typed)
    field.press("Tab")
    expect(field).to_have_attribute("aria-invalid", "true")
    expect(field).to_have_value(typed)
    expect(
        page.locator(f"#{'f-variants-first-system-parts-store-volume-m3-error'}")
    ).to_be_visible()
    expect(page.locator("#verdict")).to_contain_text("Two washes")
    fill(page, STORE, "12")
    expect(field).not_to_have_attribute("aria-invalid", "true")


def test_two_tabs_never_lose_a_change_silently(page):
    make_design(page)
    other = page.context.new_page()
    other.goto(page.url.split("#")[0])
    fill(page, STORE, "12")
    open_piece(page, "part-tank")
    open_piece(other, "part-tank")
    fill(other, TANK, "70")
    open_piece(other, "part-store")
    expect(other.locator(f"#{STORE}")).to_have_value("12")
    field = page.locator("#f-variants-first-system-parts-tank-volume-m3")
    field.fill("80")
    field.press("Tab")
    expect(page.locator("#f-variants-first-system-parts-tank-volume-m3-error")).to_contain_text(
        "Another window has meanwhile set this to 70 L"
    )
    expect(field).to_have_value("80")
    form = page.locator("form", has=field)
    click_changes(page, form.get_by_role("button", name="Save"))
    expect(field).to_have_value("80")
    other.locator("#undo button").click()
    expect(other.get_by_text("nothing was undone")).to_be_visible()
    other.close()


def test_quick_typing_loses_no_field(page):
    make_design(page)
    page.locator(".stages").get_by_role("link", name=re.compile("^Brief")).click()
    values = {"name": "First", "who": "Ana", "start-s": "6:40", "duration-s": "4", "low-c": "36"}
    for name, value in values.items():
        field = page.locator(f"#f-brief-draws-shower-{name}")
        field.focus()
        page.keyboard.press("Control+a")
        page.keyboard.type(value)
        page.keyboard.press("Tab")
    expect(page.locator("#undo")).to_contain_text("Warm enough from")
    expect(page.locator(".htmx-request")).to_have_count(0)
    page.reload()
    for name, value in values.items():
        expect(page.locator(f"#f-brief-draws-shower-{name}")).to_have_value(value)


def test_keyboard_alone(page):
    make_design(page)
    page.keyboard.press("Escape")
    page.locator("h1").click()
    page.keyboard.press("]")
    page.wait_for_url("**/spaces")
    page.keyboard.press("]")
    page.wait_for_url("**/flow")
    page.keyboard.press("]")
    page.wait_for_url("**/power")
    page.keyboard.press("]")
    page.wait_for_url("**/shower")
    slider = page.locator("#moment")
    slider.focus()
    head, seconds = page.locator('[data-key="head"]'), page.locator('[data-key="seconds"]')
    before = seconds.inner_text()
    cursor = page.locator(".chart-wide [data-cursor] circle")
    x = cursor.get_attribute("cx")
    for _ in range(20):
        page.keyboard.press("ArrowRight")
    expect(seconds).not_to_have_text(before)
    assert float(cursor.get_attribute("cx") or 0) > float(x or 0)
    page.keyboard.press("End")
    last = page.locator("[data-store] text").last.text_content() or ""
    assert float(last) < 60
    assert head.inner_text() in (slider.get_attribute("aria-valuetext") or "")
    page.keyboard.press("Home")
    expect(seconds).to_have_text("0:00")
    page.locator("h1").click()
    page.keyboard.press("?")
    expect(page.locator("#help")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("[")
    page.wait_for_url("**/power")
    page.keyboard.press("[")
    page.wait_for_url("**/flow")
    page.locator("h1").click()
    page.keyboard.press("[")
    page.wait_for_url("**/spaces")
    page.locator("h1").click()
    page.keyboard.press("[")
    page.wait_for_url("**/parts")
    page.keyboard.press("Control+k")
    page.keyboard.type("mixer")
    expect(page.locator("#jump-list button").first).to_be_visible()
    page.locator("#jump-text").fill("Thermostatic")
    page.keyboard.press("Enter")
    expect(page.locator("#piece-title")).to_have_text("Thermostatic mixer")
    page.locator("h1").click()
    head_id = page.locator("#design").get_attribute("data-head")
    page.keyboard.press("Control+z")
    expect(page.locator("#design")).not_to_have_attribute("data-head", head_id or "")
    page.keyboard.press("Control+Shift+z")
    expect(page.locator("#design")).to_have_attribute("data-head", head_id or "")


def test_pieces_of_the_route_come_and_go(page):
    make_design(page)
    open_piece(page, "run-hot-run")
    page.get_by_label("Put in here").select_option("check-valve-usual")
    click_changes(page, page.get_by_role("button", name="Put in"))
    expect(page.locator("#piece-title")).to_have_text("Check valve")
    expect(page.locator("#row-part-check-valve-usual")).to_be_visible()
    click_changes(page, page.get_by_role("button", name="Remove Check valve"))
    expect(page.locator("#row-part-check-valve-usual")).to_have_count(0)
    open_piece(page, "part-element-usual")
    click_changes(page, page.get_by_role("button", name="Remove Element, mains"))
    expect(page.locator("#verdict")).to_contain_text("Store has no element or burner")


def test_parts_are_found_as_one_types(page):
    make_design(page)
    page.get_by_label("Find a part or run").fill("mix")
    expect(page.locator("#row-part-mixer")).to_be_visible()
    expect(page.locator("#row-part-pump")).to_be_hidden()
    page.get_by_label("Find a part or run").fill("")
    expect(page.locator("#row-part-pump")).to_be_visible()


def test_numbers_open(page):
    make_design(page)
    page.locator(".stages").get_by_role("link", name=re.compile("^Shower")).click()
    page.locator("#numbers > summary").click()
    page.get_by_role("link", name="Flow at the head").click()
    expect(page.locator("h1")).to_have_text("Flow at the head")
    expect(page.locator(".trace table")).to_contain_text("parts.head.flow_factor_si")
    page.go_back()
    page.locator("#numbers > summary").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Every step of the day").click()
    assert download.value.suggested_filename == "mowe-first-timeline.csv"


def test_the_pages_work_without_scripts(browser, server):
    context = browser.new_context(base_url=server, java_script_enabled=False)
    page = context.new_page()
    page.goto("/")
    begin(page, "Plain")
    page.get_by_role("button", name="Shower", exact=True).click()
    expect(page.locator("#f-brief-draws-shower-name")).to_have_value("Shower")
    page.locator(".stages").get_by_role("link", name=re.compile("^Parts")).click()
    page.locator("#row-part-tank").click()
    tank = page.locator("#f-variants-first-system-parts-tank-volume-m3")
    tank.fill("90")
    page.locator("form", has=tank).get_by_role("button", name="Save").click()
    store = page.locator("#f-variants-first-system-parts-store-volume-m3")
    expect(page.locator("#verdict")).to_contain_text("Store has no volume")
    page.locator("#row-part-store").click()
    store.fill("10")
    page.locator("form", has=store).get_by_role("button", name="Save").click()
    page.get_by_label("Fit into it").select_option("element-usual")
    page.get_by_role("button", name="Fit", exact=True).click()
    power = page.locator("#f-variants-first-system-parts-element-usual-rated-w")
    power.fill("1200")
    page.locator("form", has=power).get_by_role("button", name="Save").click()
    page.locator(".stages").get_by_role("link", name=re.compile("^Shower")).click()
    expect(page.locator("svg.chart-wide")).to_be_visible()
    page.get_by_role("button", name="Show", exact=True).click()
    expect(page).to_have_url(re.compile("at="))
    context.close()


def test_a_lost_server_keeps_what_was_typed(page, troubles):
    make_design(page)
    open_piece(page, "part-tank")
    page.route("**/edit", lambda route: route.abort())
    field = page.locator("#f-variants-first-system-parts-tank-volume-m3")
    field.fill("55")
    field.press("Tab")
    expect(page.locator("#failed")).to_be_visible()
    expect(field).to_have_value("55")
    page.unroute("**/edit")
    page.locator("form", has=field).get_by_role("button", name="Save").dispatch_event("click")
    expect(page.locator('[data-budget="fresh"]')).to_contain_text("of 55 L")
    troubles.clear()


def test_clicks_and_typing_while_the_server_thinks_are_kept(page):
    """A slow answer must not swallow the button pressed, or the field left, meanwhile."""
    make_design(page)
    page.locator(".stages").get_by_role("link", name=re.compile("^Brief")).click()

    def slowly(route):
        page.wait_for_timeout(400)
        route.continue_()

    page.route("**/edit", slowly)
    field = page.locator("#f-brief-draws-shower-duration-s")
    field.fill("4")
    page.locator("#f-brief-inside-c").click()
    page.keyboard.press("Control+a")
    page.keyboard.type("21")
    page.locator("#f-brief-days").fill("3")
    page.get_by_role("button", name="Quick rinse").click()
    expect(page.locator("#draw-quick-rinse")).to_be_visible()
    expect(page.locator("#undo")).to_contain_text("Living space")
    page.reload()
    expect(page.locator("#f-brief-inside-c")).to_have_value("21")
    expect(page.locator("#f-brief-draws-shower-duration-s")).to_have_value("4")
    expect(page.locator("#f-brief-days")).to_have_value("3")
    expect(page.locator("#draw-quick-rinse")).to_be_visible()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"PK\x03\x04" + b" " * 201_000_000, "That is too large"),
        (b" " * 50_000_000, "a project file has at most 2 MB"),
        (b" " * 2_500_000, "a project file has at most 2 MB"),
        (b"{", "broken at line 1"),
        (b'{"format": "isotherma-project", "format_version": 99}', "newer Isotherma"),
    ],
    ids=["201 MB", "50 MB", "2.5 MB", "broken", "newer"],
)
def test_a_bad_file_is_refused_in_the_browser(page, tmp_path, content, words):
    path = tmp_path / "bad.isotherma.json"
    path.write_bytes(content)
    page.goto("/")
    page.get_by_label("Project file").set_input_files(path)
    page.get_by_role("button", name="Import").click()
    expect(page.locator("main")).to_contain_text(words)
    page.goto("/")
    expect(page.locator(".vehicle")).to_have_count(0)


def test_a_variant_is_copied_renamed_and_removed(page):
    make_design(page)
    page.locator("#menu > summary").click()
    page.get_by_role("button", name="Copy variant").click()
    page.wait_for_url("**/first-2/parts**")
    page.locator("#menu > summary").click()
    page.get_by_label("Name of this variant").fill("Second idea")
    page.get_by_role("button", name="Rename", exact=True).click()
    expect(page.locator(".top-variant")).to_have_text("Second idea")
    page.reload()
    page.locator("#menu > summary").click()
    page.get_by_role("button", name="Remove this variant").click()
    page.wait_for_url("**/first/parts**")
    expect(page.locator(".variant-tab", has_text="Second idea")).to_have_count(0)
    page.locator("#undo button").click()
    expect(page.locator(".variant-tab", has_text="Second idea")).to_have_count(1)


def slow_edits(page: Page) -> None:
    def slowly(route):
        page.wait_for_timeout(300)
        route.continue_()

    page.route("**/edit", slowly)


def test_a_link_followed_while_an_edit_is_under_way_waits_for_it(page):
    make_design(page)
    open_piece(page, "part-tank")
    slow_edits(page)
    page.locator("#f-variants-first-system-parts-tank-volume-m3").fill("61")
    page.locator(".stages").get_by_role("link", name=re.compile("^Brief")).click()
    page.wait_for_url("**/brief")
    expect(page.locator('[data-budget="fresh"]')).to_contain_text("of 61 L")
    page.locator("#f-brief-days").fill("soon")
    page.locator(".stages").get_by_role("link", name=re.compile("^Parts")).click()
    expect(page.locator("#f-brief-days-error")).to_be_visible()
    expect(page).to_have_url(re.compile("/brief$"))
    page.locator("#f-brief-days").fill("2")
    page.locator("#menu > summary").click()
    page.get_by_role("button", name="Units: L, °C").click()
    expect(page.locator('[data-budget="fresh"]')).to_contain_text("gal")
    expect(page.locator("#f-brief-days")).to_have_value("2")


def test_a_field_never_left_is_saved_when_the_page_is(page):
    make_design(page)
    open_piece(page, "part-tank")
    address = page.url
    page.locator("#f-variants-first-system-parts-tank-volume-m3").fill("62")
    page.goto("/elements")

    def saved():
        page.goto(address)
        return page.locator("#f-variants-first-system-parts-tank-volume-m3").input_value() == "62"

    until(page, saved)


def test_a_search_sent_while_an_edit_is_under_way_is_made_after_it(page):
    """The edit's answer puts a new search form in the place of the one that was sent."""
    make_design(page)
    open_piece(page, "part-tank")
    address = page.url
    slow_edits(page)
    page.locator(f"#{TANK}").fill("63")
    page.get_by_label("Called", exact=True).fill("three-way")
    page.get_by_role("button", name="Look in the catalogue").click()
    expect(page.get_by_role("button", name="Add Three-way valve", exact=True)).to_be_visible()
    page.goto(address)
    expect(page.locator(f"#{TANK}")).to_have_value("63")
