"""Doors in the browser: a card from a code, a review to its signature, two people at once."""

from __future__ import annotations

import io
import re

import pytest
import zxingcpp
from PIL import Image
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.services.visitors import ALONE, visiting
from tests.browser.waiting import until

PASSWORD = "a long enough sentence"
PHONE = {"width": 390, "height": 844}


@pytest.fixture
def box(vehicles):
    return f"/vehicles/{vehicles.create(drover(), 'Demo')}/ten-litres"


@pytest.fixture
def app(unfurnished, server):
    """The served application; how it is run is as before afterwards."""
    yield unfurnished
    unfurnished.state.mode, unfurnished.state.address = "alone", ""
    visiting(ALONE)


@pytest.fixture
def opened(browser, server):
    """Open browsers of their own, each with what its console complained of; shut at the end.

    One that stays open keeps its stream, and the server waits for it.
    """
    contexts = []

    def open_one(**more):
        context = browser.new_context(base_url=server, accept_downloads=True, **more)
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(30_000)
        errors: list[str] = []
        page.on("console", lambda said: errors.append(said.text)
                if said.type == "error" and "status of 4" not in said.text else None)  # fmt: skip
        return page, errors

    yield open_one
    for context in contexts:
        context.close()


def test_a_code_on_a_printed_card_opens_the_card_on_a_phone(server, app, box, opened):
    app.state.address = server
    page, errors = opened(viewport={"width": 1280, "height": 800})
    page.goto(f"{box}/use?view=cards")
    page.get_by_label("Which").select_option(label="A warm shower")
    page.get_by_role("button", name="Show them to print").click()
    page.wait_for_url("**/use/cards?**")
    seen = page.locator("svg.qr").first.screenshot()
    read = zxingcpp.read_barcodes(Image.open(io.BytesIO(seen)))
    assert len(read) == 1 and read[0].text.startswith(f"{server}{box}/use/card?")
    phone, complaints = opened(viewport=PHONE, has_touch=True, is_mobile=True)
    phone.goto(read[0].text)
    expect(phone.locator("#act")).to_contain_text("Switch on Element")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    assert errors == [] and complaints == []


def test_cards_are_cut_for_their_paper(page, box):
    """What the printer is given: pages of the size that was chosen, none of them empty."""
    import pypdf

    for size, (wide, tall) in {"a6": (298, 420), "a5": (420, 595), "a4": (595, 842),
                               "letter": (612, 792)}.items():  # fmt: skip
        page.goto(f"{box}/use/cards?size={size}")
        made = pypdf.PdfReader(io.BytesIO(page.pdf(prefer_css_page_size=True)))
        for sheet in made.pages:
            assert abs(float(sheet.mediabox.width) - wide) < 2
            assert abs(float(sheet.mediabox.height) - tall) < 2
            assert len(sheet.extract_text().strip()) > 10
        assert len(made.pages) >= 8


@pytest.fixture
def burning(vehicles):
    project = drover()
    own = project.variants[0].model_copy(
        update={"system": layouts()["gas-combi"].system, "state": None}
    )
    number = vehicles.create(project.model_copy(update={"variants": (own,)}), "Demo")
    return f"/vehicles/{number}/ten-litres"


@pytest.mark.parametrize("habit", ["metric", "us"])
def test_a_review_from_link_to_signature_to_changed_after(
    server, page, burning, habit, serious, vehicles, opened
):
    page.context.add_cookies([{"name": "units", "value": habit, "url": server}])
    page.goto(f"{burning}/share")
    assert serious() == []
    page.get_by_label("What for").select_option("review")
    page.get_by_label("For whom").fill("Ada")
    page.get_by_label("shows whatever is newest").check()
    page.get_by_role("button", name="Make a link").click()
    link = page.locator("#link-made").inner_text()
    fitter, errors = opened(viewport=PHONE, has_touch=True)
    fitter.context.add_cookies([{"name": "units", "value": habit, "url": server}])
    fitter.goto(link)
    expect(fitter.get_by_role("heading", level=1)).to_contain_text("Review of Drover")
    assert fitter.evaluate("document.documentElement.scrollWidth") <= 390
    fitter.get_by_text("Figures", exact=True).click()
    unit = "gal" if habit == "us" else " L"
    expect(fitter.locator("#review-figures")).to_contain_text(unit)
    bottle = fitter.locator("article", has_text="bottle").filter(
        has=fitter.get_by_role("radio", name="looked at")).last  # fmt: skip
    bottle.get_by_text("looked at", exact=True).tap()
    bottle.get_by_label("Note", exact=True).fill("strap is new")
    fitter.get_by_role("button", name="Sign it").tap()
    expect(fitter.locator("#review-error")).to_contain_text("Say your name")
    expect(bottle.get_by_label("Note", exact=True)).to_have_value("strap is new")
    fitter.get_by_label("Your name").fill("Ada Brook")
    fitter.get_by_label("Licence number").fill("G-17")
    fitter.get_by_label("Looked at on").fill("2027-03-28")
    fitter.get_by_role("button", name="Sign it").tap()
    expect(fitter.get_by_role("status")).to_contain_text("It is kept")
    page.goto(f"{burning}/share")
    expect(page.locator("main")).to_contain_text("Ada Brook")
    expect(page.locator("main")).to_contain_text("strap is new")
    title = page.locator("article th[scope=row]").first.inner_text()
    number = int(burning.split("/")[2])
    found = vehicles.open(number)
    part = next(one for one in found.project.variants[0].system.parts if one.label == title)
    where = f"variants.ten-litres.system.parts.{part.id}.name"
    vehicles.set_values(number, found.head_id, {where: "Another"}, "changed")
    page.reload()
    expect(page.locator("main")).to_contain_text("before a change")
    page.get_by_label("Your answer").fill("Seen, thank you.")
    page.get_by_label("dealt with").check()
    page.get_by_role("button", name="Keep").click()
    fitter.goto(link)
    expect(fitter.locator("main")).to_contain_text("Answered: Seen, thank you.")
    page.get_by_role("button", name=re.compile("Revoke")).click()
    assert fitter.goto(link).status == 404
    assert errors == []


@pytest.fixture
def two(app, opened):
    """Two people who may both change a vehicle, each in a browser of their own."""
    accounts, services = app.state.services.accounts, app.state.services
    app.state.mode = "accounts"
    people = []
    for name in ("Ines", "Tomas"):
        token = accounts.accept(accounts.invite("account"), name, PASSWORD)
        people.append((name, token))
    visiting(accounts.visitor(people[0][1]))
    number = services.vehicles.create(drover(), "Started")
    services.sharing.share(number, "Tomas", "edit")
    visiting(ALONE)
    pages = []
    for name, _ in people:
        page, errors = opened(viewport={"width": 1280, "height": 800})
        page.goto(f"/vehicles/{number}/ten-litres/brief")
        page.get_by_label("Name", exact=True).fill(name)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_url("**/brief")
        pages.append((page, errors))
    return pages


def test_two_who_edit_see_each_other_within_two_seconds_and_lose_no_key(two, app):
    (ines, complaints), (tomas, others) = two
    until(ines, lambda: app.state.live.streams == 2)
    field = "#f-brief-draws-early-shower-duration-s"
    typed = tomas.locator("#f-brief-draws-second-shower-duration-s")
    typed.focus()
    typed.press("End")
    tomas.keyboard.type(".")
    value = typed.input_value()
    ines.locator(field).fill("11 min")
    ines.locator(field).press("Tab")
    expect(ines.locator(field)).to_have_value(re.compile("11"))
    # who types is told, and nothing under their hands is touched
    expect(tomas.locator(".elsewhere")).to_contain_text("Ines", timeout=2_000)
    assert typed.input_value() == value
    expect(typed).to_be_focused()
    tomas.keyboard.type("5")
    typed.press("Tab")
    expect(tomas.locator(field)).to_have_value(re.compile("11"))
    # who does not type sees it at once
    expect(ines.locator("#f-brief-draws-second-shower-duration-s")).to_have_value(
        "5.5", timeout=6_000
    )
    assert complaints == [] and others == []


def test_a_stream_ends_with_its_sign_in(two, app):
    (ines, _), (tomas, _) = two
    until(ines, lambda: app.state.live.streams == 2)
    tomas.goto("/me")
    accounts = app.state.services.accounts
    ids = {one.name: one.id for one in accounts.listed()}
    from isotherma.services.visitors import Visitor

    who = Visitor("account", ids["Ines"], "Ines")
    for one in accounts.signed_in(who):
        accounts.end(who, one.id)
    until(ines, lambda: app.state.live.streams == 0)


def test_a_phone_page_may_be_looked_at_but_keeps_nothing(two, app, server, opened):
    services = app.state.services
    number = 1
    token = services.accounts.accept(services.accounts.invite("account"), "Looker", PASSWORD)
    services.sharing.share(number, "Looker", "look")
    page, errors = opened(viewport=PHONE)
    page.context.add_cookies([{"name": "sign_in", "value": token, "url": server}])
    page.goto(f"/vehicles/{number}/ten-litres/brief")
    expect(page.locator("body")).to_have_attribute("data-may", "look")
    assert page.locator("main form[method=post] button:visible").count() == 0
    assert errors == []
    del two


def test_the_pages_of_coming_in_pass_the_checker(app, page, serious, server):
    accounts = app.state.services.accounts
    app.state.mode = "accounts"
    admin = accounts.accept(accounts.invite("admin"), "Boss", PASSWORD)
    invited = accounts.invite("account")
    paths = ["/sign-in", f"/invitation/{invited}"]
    for path in (*paths, "/accounts", "/me"):
        if path == "/accounts":
            page.context.add_cookies([{"name": "sign_in", "value": admin, "url": server}])
        for width, height in ((1280, 800), (390, 844)):
            page.set_viewport_size({"width": width, "height": height})
            page.goto(path)
            assert page.evaluate("document.documentElement.scrollWidth") <= width, path
            assert serious() == [], (path, width)
        page.emulate_media(color_scheme="dark")
        assert serious("color-contrast") == [], path
        page.emulate_media(color_scheme="light")
    page.goto("/accounts")
    page.get_by_role("button", name="Make an invitation").click()
    link = page.locator("#invitation").inner_text()
    assert link.startswith("/invitation/")
    app.state.mode = "lan"
    page.goto(f"/pair/{accounts.invite('phone')}")
    assert serious() == []
