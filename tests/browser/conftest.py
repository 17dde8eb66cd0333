"""A headless browser on the real application with a real database."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.browser.waiting import ANSWER_MS

FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
expect.set_options(timeout=ANSWER_MS)
AXE = Path(__file__).parents[1] / "vendor" / "axe.min.js"


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """One browser for the worker."""
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield made
        made.close()


@pytest.fixture
def troubles() -> list[str]:
    """What the console complained of; a test that breaks something on purpose clears it."""
    return []


@pytest.fixture
def page(browser, server, troubles) -> Iterator[Page]:
    """A page on the served application that must stay free of console errors."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=server, accept_downloads=True
    )
    made = context.new_page()
    made.set_default_timeout(ANSWER_MS)
    made.set_default_navigation_timeout(60_000)  # a page may compute a band before it answers
    made.on("pageerror", lambda error: troubles.append(str(error)))

    def note(message):
        # the browser itself reports refused forms (409, 422); those are answers, not mistakes
        if message.type == "error" and "status of 4" not in message.text:
            troubles.append(message.text)

    made.on("console", note)
    yield made
    context.close()
    assert troubles == []


@pytest.fixture
def serious(page):
    """Run the accessibility checker on the page; give what it finds serious."""

    def check(*only: str) -> list[str]:
        if not page.evaluate("'axe' in window"):
            page.evaluate(AXE.read_text())
        tags = ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa", "best-practice"]
        rules = {"type": "rule", "values": list(only)} if only else tags
        found = page.evaluate(
            """(rules) => axe.run(document, {runOnly: rules, resultTypes: ["violations"]})
            .then(r => r.violations.map(v =>
            [v.impact, v.id, v.nodes.slice(0, 3).map(n => n.target.join(" ")).join(" | ")]))""",
            rules,
        )
        return [f"{rule}: {where}" for impact, rule, where in found if impact != "minor"]

    return check
