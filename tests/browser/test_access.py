"""Every page: wide and narrow, bright and dark, nothing spills, nothing serious for the checker."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.core.project import Project, Variant
from isotherma.core.system.layouts import usual_route

SIZES = {"wide": (1280, 800), "phone": (390, 844)}
PAGES = ["/", "/start", "/words", "/method", "/elements", "/kinds", "{}/heat",
         "{}/heat?flame=1", "{}/mends", "{}/brief", "{}/parts", "{}/parts?piece=part-store",
         "{}/parts?view=runs", "{}/parts?view=list", "{}/parts?side=gas", "{}/spaces", "{}/flow",
         "{}/checks", "{}/shopping", "{}/shopping?view=pieces", "{}/shopping?view=holes",
         "{}/shopping?view=ends", "{}/build", "{}/build?view=stages", "{}/build?view=visits",
         "{}/faults", "{}/faults/practice?seed=4", "{}/log",
         "{}/log?view=sessions", "{}/log?view=learn", "{}/log?view=next", "{}/build?view=calendar",
         "{}/use?ask=1&on=element", "{}/use?view=lead", "{}/use?view=drain",
         "{}/use?view=trouble", "{}/use?view=tap", "{}/use?view=gauge",
         "{}/use?view=park", "{}/use?view=damp", "{}/use?view=routines", "{}/use?view=diary",
         "{}/use?view=cards", "{}/use/cards?card=first_frost", "{}/dossier", "{}/share", "/me",
         "/api/v1",
         "{}/shower", "{}/shower?draw=1&by=time", "{}/budgets", "/sums",
         "/sums/thread?across=20.9+mm", "/sums/meet?one=male+M22x1&other=hose+13+mm",
         "/sums?sum=heated&time=50", "/sums?sum=mix&hot=abc", "/sums?sum=knobs", "{}/layout",
         "{}/layout?piece=part-store", "{}/layout?piece=run-store-mixer",
         "{}/certainty", "{}/versions", "{}/shower?w.volume=14&compare=slug",
         "{}/shower?w.flow=lots&compare=mixing",
         "{}/trace/wait", "/nowhere"]  # fmt: skip


@pytest.fixture
def demo(vehicles):
    number = vehicles.create(drover(), "Demo")
    return f"/vehicles/{number}/ten-litres"


@pytest.fixture
def hung(vehicles):
    return f"/vehicles/{vehicles.create(layouts()['hung-outside'].project(), 'x')}/hung-outside"


@pytest.fixture
def unknown(vehicles):
    project = Project(name="New", variants=(Variant(id="first", name="a", system=usual_route()),))
    return f"/vehicles/{vehicles.create(project, 'x')}/first"


# the dark differs in its colours, a phone in the size of what is pressed and in what scrolls
ON_PHONES = ("target-size", "scrollable-region-focusable")
SHARES = 4  # so that two workers end together


@pytest.mark.parametrize("share", range(SHARES))
def test_pages_fit_and_pass_the_checker(page, demo, unknown, hung, serious, share):
    paths = [
        *(path.format(demo) for path in PAGES),
        f"{unknown}/shower",
        f"{unknown}/brief",
        f"{hung}/spaces",
        *(
            f"{hung}/flow?state=hot&view={view}"
            for view in ("flow", "leak", "waste", "drain", "air")
        ),
        f"{unknown}/flow",
        f"{hung}/parts?piece=part-heater",
        f"{hung}/layout",
        f"{unknown}/layout",
    ]
    for number, path in enumerate(paths[share::SHARES]):
        fit(page, path, "wide")
        assert serious() == [], path
        if number % 2 == 0:  # the colours of a page hang on its rules, which pages share
            page.emulate_media(color_scheme="dark")
            assert serious("color-contrast") == [], f"{path} in the dark"
        fit(page, None, "phone")
        assert serious(*ON_PHONES) == [], f"{path} on a phone"


def fit(page, path, size):
    """Open a page, or turn the open one, at a size it must not spill over."""
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    if path is not None:
        page.emulate_media(color_scheme="light")
        page.goto(path)
    assert page.evaluate("document.documentElement.scrollWidth") <= width, (page.url, size)


def test_errors_and_dialogs_pass_the_checker(page, demo, serious):
    page.goto(f"{demo}/brief")
    field = page.locator("#f-brief-draws-early-shower-duration-s")
    field.fill("soon")
    field.press("Tab")
    page.locator("#f-brief-draws-early-shower-duration-s-error").wait_for()
    assert serious() == []
    page.locator("h1").click()
    page.keyboard.press("?")
    assert serious() == []
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    assert serious() == []


def test_an_edit_shifts_nothing(page, demo):
    """The verdict, the pages and the edited field stay where they were while numbers change."""
    page.goto(f"{demo}/parts?piece=part-tank")
    field = page.locator("#f-variants-ten-litres-system-parts-tank-volume-m3")
    field.scroll_into_view_if_needed()
    places = [".truth", ".stages", "#f-variants-ten-litres-system-parts-tank-volume-m3"]
    before = [page.locator(place).bounding_box() for place in places]
    head = page.locator("#design").get_attribute("data-head")
    field.fill("110")
    field.press("Tab")
    expect(page.locator("#design")).not_to_have_attribute("data-head", head or "")
    assert [page.locator(place).bounding_box() for place in places] == before


def test_print_hides_the_controls(page, demo):
    page.goto(f"{demo}/shower")
    page.emulate_media(media="print")
    expect(page.locator("#undo")).to_be_hidden()
    expect(page.locator("#verdict")).to_be_visible()
    expect(page.locator("svg.chart-wide")).to_be_visible()
