"""A person enters a system from labels alone, half built, in two states; another imports it."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from isotherma.files.project_file import read_project
from tests.browser.test_journey import click_changes, fill, open_piece
from tests.browser.waiting import begin


def add(page: Page, side: str, called: str, button: str) -> None:
    """Find a class in the catalogue and add it."""
    page.get_by_label("Side", exact=True).select_option(side)
    page.get_by_label("Called", exact=True).fill(called)
    page.get_by_role("button", name="Look in the catalogue").click()
    click_changes(page, page.get_by_role("button", name=button, exact=True))


def join(page: Page, port: str, to: str) -> None:
    """Join an opening of the opened part to another part's."""
    page.get_by_label(f"Join {port} to").select_option(label=to)
    click_changes(page, page.get_by_role("button", name=f"Join {port}", exact=True))


def test_from_us_labels_half_built_with_two_states_to_another_database(page, tmp_path):
    page.goto("/")
    page.locator("#menu > summary").click()
    page.get_by_role("button", name="Units: L, °C").click()
    begin(page, "Kiebitz ½", "empty")
    page.locator(".stages").get_by_role("link", name=re.compile("^Parts")).click()
    expect(page.get_by_role("heading", name="No parts yet")).to_be_visible()

    # a tank by its label, a pump by its box, a heater that says gallons and BTU
    add(page, "water", "bench", "Add Tank under a bench")
    fill(page, "f-variants-first-system-parts-fresh-tank-small-nominal-m3", "12 gal")
    expect(page.locator(".figures-table")).to_contain_text("11.2 gal")
    add(page, "water", "small pressure", "Add Small pressure pump, 12 V")
    fill(page, "f-variants-first-system-parts-pump-small-open-flow-m3-per-s", "3 gal/min")
    fill(page, "f-variants-first-system-parts-pump-small-cut-out-pa", "45")
    add(page, "heat", "two-knob", "Add Small two-knob gas heater")
    heater = "f-variants-first-system-parts-through-flow-gas-small"
    fill(page, f"{heater}-rated-flow-m3-per-s", "")
    fill(page, f"{heater}-rated-w", "37500")
    page.locator(f"#{heater}-rating").select_option("input")
    expect(page.locator(".figures-table")).to_contain_text("taken as net; it may be gross")
    add(page, "water", "three-way", "Add Three-way valve")
    add(page, "water", "bucket", "Add Bucket")
    add(page, "use", "trigger", "Add Trigger spray")
    fill(page, "f-variants-first-system-parts-shower-head-trigger-filled-m3", "2 gal")
    fill(page, "f-variants-first-system-parts-shower-head-trigger-filled-s", "1 min 40 s")
    expect(page.locator(".figures-table")).to_contain_text("a bucket and a clock")

    # joined as far as it is built: the heater's outlet is still open
    open_piece(page, "part-selector-usual")
    join(page, "first", "Tank under a bench: outlet")
    join(page, "second", "Bucket: outlet")
    join(page, "common", "Small pressure pump, 12 V: inlet")
    open_piece(page, "part-pump-small")
    join(page, "outlet", "Small two-knob gas heater: inlet")
    page.locator(".line a", has_text="to small two-knob").click()
    run = "f-variants-first-system-runs-pump-small-through-flow-gas-sm"
    expect(page.locator(f"#{run}-length-m")).to_be_visible()
    page.locator(f"#{run}-family").select_option("inch plastic")
    page.locator(f"#{run}-nominal").select_option("1/2 in")
    fill(page, f"{run}-length-m", "5 ft 6 in")
    expect(page.locator(".figures-table")).to_contain_text("0.485 in")

    # two states, and what is moved between them
    page.locator(".stages").get_by_role("link", name=re.compile("^Spaces and states")).click()
    click_changes(page, page.get_by_role("button", name="Add a state"))
    click_changes(page, page.get_by_role("button", name="Add a state"))
    page.locator("#more-state-new-state-2 summary").click()
    fill(page, "f-variants-first-system-states-new-state-2-name", "From the bucket")
    page.locator("#table-water > summary").click()
    select = page.locator("#at-new-state-2-selector-usual")
    head = page.locator("#design").get_attribute("data-head")
    select.select_option("second")
    expect(page.locator("#design")).not_to_have_attribute("data-head", head or "")
    expect(page.locator(".moves")).to_contain_text("Three-way valve: first → second")
    click_changes(page, page.get_by_role("button", name="Add a space"))
    click_changes(page, page.get_by_role("button", name="Add a phase"))

    with page.expect_download() as download:
        page.locator("#menu > summary").click()
        page.get_by_role("link", name="Export").click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    first = read_project(path.read_bytes())
    assert len(first.variants[0].system.states) == 2

    # another person imports it and exports it again: the same, byte for byte
    page.goto("/")
    page.get_by_label("Project file").set_input_files(path)
    page.get_by_role("button", name="Import").click()
    expect(page.get_by_text("“Kiebitz ½” was imported")).to_be_visible()
    page.locator(".vehicle").first.get_by_text("Rename, copy, delete").click()
    with page.expect_download() as download:
        page.locator(".vehicle").first.get_by_role("link", name="Export file").click()
    again = tmp_path / "again.json"
    download.value.save_as(again)
    assert again.read_bytes() == path.read_bytes()
    page.locator(".variant-rows a").first.click()
    page.locator(".stages").get_by_role("link", name=re.compile("^Parts")).click()
    open_piece(page, "part-fresh-tank-small")
    field = page.locator("#f-variants-first-system-parts-fresh-tank-small-nominal-m3")
    expect(field).to_have_value("12")


def test_a_run_table_is_pasted_and_copied_with_the_keyboard(page):
    page.goto("/")
    begin(page, "Table")
    page.locator(".stages").get_by_role("link", name=re.compile("^Parts")).click()
    page.get_by_role("link", name="Run table").click()
    text = page.locator("#run-text")
    text.focus()
    table = text.input_value().replace("\t1.2\t", "\tlong\t")
    page.keyboard.press("Control+a")
    text.fill(table)
    page.get_by_role("button", name="Read it in").press("Enter")
    expect(page.locator(".error-list")).to_contain_text("Row 10, Length: “long”")
    expect(text).to_have_value(table)
    text.fill(table.replace("\tlong\t", "\t3,1\t"))
    page.get_by_role("button", name="Read it in").click()
    expect(page.locator(".run-table")).to_contain_text("3.1")
    page.locator("#undo button").click()
    expect(page.locator(".run-table")).to_contain_text("1.2")
    page.get_by_role("button", name="Copy", exact=True).click()
    expect(page.get_by_role("button", name="Copied")).to_be_visible()


def test_a_layout_on_a_phone(page):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto("/")
    begin(page, "Small", "seat-store")
    page.locator(".stages").get_by_role("link", name=re.compile("^Parts")).click()
    open_piece(page, "part-store")
    expect(page.locator("#piece-title")).to_be_in_viewport()
    page.locator(".stages").get_by_role("link", name=re.compile("^Spaces and states")).click()
    expect(page.locator(".state-card").first).to_be_visible()
    page.wait_for_load_state()  # its styles too
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
