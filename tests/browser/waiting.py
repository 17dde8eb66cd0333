"""Waiting for what the page itself cannot say: looked at again and again, not slept over."""

from __future__ import annotations

import time
from collections.abc import Callable

from playwright.sync_api import Page

LOOKS_EVERY_MS = 20


def until(page: Page, holds: Callable[[], bool], at_most_s: float = 10.0) -> None:
    """Look until something holds, with the browser running on meanwhile."""
    ends = time.monotonic() + at_most_s
    while not holds():
        assert time.monotonic() < ends, "it never came"
        page.wait_for_timeout(LOOKS_EVERY_MS)
