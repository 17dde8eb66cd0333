"""Which thread? Do these meet? Pages for the bench."""

from __future__ import annotations

import pytest

from tests.web.test_pages import soup, text


def ask(client, page, **asked):
    return soup(client.get(f"/sums/{page}", params=asked))


def test_bench_sums_lead_to_both_pages_and_nothing_is_asked_for(client):
    doors = [one["href"] for one in soup(client.get("/sums")).select(".bench-doors a")]
    assert doors == ["/sums/thread", "/sums/meet"]
    for door in doors:
        assert "panel" in client.get(door).text
    assert "Measure across it first" in text(ask(client, "thread"))
    assert "Two ends, and what is between them" in text(ask(client, "meet"))


def test_a_thread_is_named_and_what_decides_is_asked_next(client):
    page = ask(client, "thread", across="20.9 mm", pitch="14 tpi")
    assert "Hold a straight edge along it" in text(page.select_one(".said"))
    assert len(page.select(".thread-list li")) == 4
    sure = ask(client, "thread", across="20.9 mm", pitch="7 over 12.7 mm", taper="none",
               flank="55")  # fmt: skip
    assert text(sure.select_one("#thread-said")) == "Likeliest: 1/2 in parallel"
    assert sure.select_one("#key-flank-2").has_attr("checked")
    assert "None of these: 0%" in text(sure) or "None of these: 1%" in text(sure)
    client.cookies.set("units", "us")
    us = ask(client, "thread", across="0.823", pitch="14 tpi", taper="none", flank="60")
    assert text(us.select_one("#thread-said")) == "Likeliest: 1/2 in us parallel"
    assert " in" in text(us.select_one(".thread-list"))


@pytest.mark.parametrize(("asked", "field"), [
    ({"across": "wide"}, "across"), ({"across": "20", "pitch": "0 tpi"}, "pitch"),
    ({"across": "20", "pitch": "7 over a bit"}, "pitch"),
])  # fmt: skip
def test_what_cannot_be_read_is_kept_with_what_is_wrong(client, asked, field):
    page = ask(client, "thread", **asked)
    box = page.select_one(f"#bench-{field}")
    assert box["value"] == asked[field] and box["aria-invalid"] == "true"
    assert text(page.select_one(f"#bench-{field}-error"))
    assert page.select_one(".thread-list") is None


def test_a_thread_like_no_other_says_so(client):
    page = ask(client, "thread", across="70 mm", pitch="5 mm")
    assert "No thread known is like it" in text(page) and "100%" in text(page)


def test_two_ends_are_joined_in_a_chain_with_its_seals(client):
    page = ask(client, "meet", one="male 1/2 in us taper", other="plastic tube 15 mm", at="60 °C",
               pressure="3 bar", use="hot")  # fmt: skip
    assert text(page.select_one("#meet-said")) == "2 fittings join them."
    steps = [text(one) for one in page.select(".bench-chain li")]
    assert steps[0] == "male 1/2 in us taper" and steps[-1] == "plastic tube 15 mm"
    assert "tape or paste on the taper" in steps and "not sold everywhere" in steps[2]
    plain = ask(client, "meet", one="barb 13 mm", other="hose 13 mm")
    assert text(plain.select_one("#meet-said")) == "They meet as they are."
    assert "a clamp" in text(plain)


def test_what_does_not_meet_says_why_and_what_does(client):
    gas = ask(client, "meet", one="cone 8 mm", other="push-in 12 mm")
    assert "a gas end joins gas alone" in text(gas.select_one("#meet-said"))
    none = ask(client, "meet", one="male M22x1", other="push-in 12 mm")
    nearest = [one["href"] for one in none.select("p.said a")]
    assert nearest and "join" in text(soup(client.get(nearest[0])).select_one("#meet-said")).lower()
    strange = ask(client, "meet", one="banana <b>", other="push-in 12 mm")
    assert strange.select_one("#bench-one")["value"] == "banana <b>"
    assert "no end known here" in text(strange.select_one("#bench-one-error"))
    hot = ask(client, "meet", one="plastic tube 12 mm", other="push-in 12 mm", at="warm")
    assert text(hot.select_one("#bench-at-error"))
