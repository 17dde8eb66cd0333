"""Waiting for what the page itself cannot say: looked at again and again, not slept over."""

from __future__ import annotations

import time
from collections.abc import Callable

from playwright.sync_api import Page

ANSWER_MS = 20_000  # of a page on a machine that does other things too
WORK_MS = 180_000  # of what a worker computes, with others before it
LOOKS_EVERY_MS = 20


def until(page: Page, holds: Callable[[], bool], at_most_s: float = 30.0) -> None:
    """Look until something holds, with the browser running on meanwhile."""
    ends = time.monotonic() + at_most_s
    while not holds():
        assert time.monotonic() < ends, "it never came"
        page.wait_for_timeout(LOOKS_EVERY_MS)


def begin(page: Page, name: str, start: str = "usual") -> None:
    """Begin a vehicle with a start one knows, from the first page on."""
    page.get_by_role("link", name="Start a vehicle").click()
    page.locator("#known > summary").click()
    page.get_by_label("Its name").fill(name)
    page.get_by_label("Begin with").select_option(start)
    page.get_by_role("button", name="Start", exact=True).click()
