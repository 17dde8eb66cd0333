"""A box of probes in the browser: live beside what a sound design gives, and when it fails."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from isotherma.catalogue.demo import drover
from isotherma.core.results.outcome import Outcome
from isotherma.services.runs import compute
from isotherma.standins.probe_box import ProbeBox, channels_of


@pytest.fixture(scope="module")
def channels():
    outcome = compute(drover(), drover().variants[0].built)
    assert isinstance(outcome, Outcome)
    return channels_of(outcome, seed=3)


@pytest.fixture
def box(channels):
    made = ProbeBox(channels, speed=20)
    made.begin()
    yield made
    made.end()


def test_a_box_is_asked_mapped_heard_killed_and_heard_again(page, vehicles, channels, box, serious):
    page.goto(f"/vehicles/{vehicles.create(drover(), 'x')}/ten-litres/log?view=probe")
    page.get_by_label("Its address").fill("http://8.8.8.8:80")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("on this machine")
    page.get_by_label("Its address").fill(box.address)
    page.keyboard.press("Enter")
    store = page.get_by_label(re.compile("^Probe 1, in the store is"))
    store.select_option("temp.store")
    page.get_by_label(re.compile("^Flow meter is")).select_option("flow.head")
    page.get_by_role("button", name="That is what they are").click()
    now = page.locator("[data-channel=t0]")
    expect(now).to_contain_text("°C")
    expect(page.get_by_label(re.compile("^Probe 1, in the store is"))).to_have_value("temp.store")
    state = page.locator("[data-probe-state]")
    expect(state).to_contain_text("Line")
    assert serious() == []
    port = int(box.address.rpartition(":")[2])
    box.temper = "rubbish"
    expect(state).to_contain_text("cannot be read")
    box.temper = "stalled"
    expect(state).to_contain_text("says nothing")
    box.end()
    expect(state).to_contain_text("gone")
    again = ProbeBox(channels, speed=20, port=port)
    again.begin()
    expect(state).to_contain_text("Line")
    page.get_by_role("button", name="From now").click()
    first = int(page.get_by_label("From line").input_value())
    page.get_by_label("To line").fill(str(first + 20))
    page.get_by_label("Session").fill("Sunday’s wash")
    page.get_by_role("button", name="Keep them").click()
    expect(page.locator("#rows-title")).to_have_text("Sunday’s wash")
    expect(page.get_by_role("status").first).to_contain_text("readings kept of 21 lines")
    again.end()
