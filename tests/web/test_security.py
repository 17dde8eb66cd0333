"""Hosts, origins, sizes and headers: what every request and answer must have."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from isotherma.web.ramp import STOPS, colour, ink_on
from isotherma.web.security import MAX_BODY

TEMPLATES = Path(__file__).parents[2] / "src/isotherma/web"


@pytest.mark.parametrize(
    "host", ["evil.example", "127.0.0.1.evil.example", "", "[::2]", "[", "a@testserver.x"]
)
def test_other_hosts_are_refused(client, host):
    assert client.get("/", headers={"host": host}).status_code == 400


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 303),
        ({"origin": "http://testserver"}, 303),
        ({"origin": "http://evil.example"}, 403),
        ({"origin": "null"}, 403),
        ({"origin": "http://["}, 403),
        ({"origin": "testserver"}, 403),
        ({"sec-fetch-site": "cross-site"}, 403),
        ({"sec-fetch-site": "same-origin"}, 303),
    ],
)
def test_writes_come_from_our_own_pages(client, headers, status):
    response = client.post("/settings", data={"units": "us"}, headers=headers)
    assert response.status_code == status


@pytest.mark.parametrize("path", ["/", "/nowhere", "/static/isotherma.css"])
def test_every_answer_carries_the_policy(client, path):
    headers = client.get(path).headers
    policy = headers["content-security-policy"]
    assert "default-src 'none'" in policy and "unsafe" not in policy
    assert headers["x-content-type-options"] == "nosniff"
    assert headers["x-frame-options"] == "DENY"
    assert "server" not in headers


def test_a_body_without_a_length_is_counted(client):
    def pieces():
        for _ in range(MAX_BODY // 100_000 + 2):
            yield b"x" * 100_000

    response = client.post(
        "/settings", content=pieces(), headers={"content-type": "application/octet-stream"}
    )
    assert response.status_code in {303, 413}
    response = client.post(
        "/vehicles/import", content=pieces(),
        headers={"content-type": "multipart/form-data; boundary=x"},
    )  # fmt: skip
    assert response.status_code in {400, 413}
    assert client.app.state.services.vehicles.overview() == []


def test_templates_need_no_loosened_policy():
    for path in TEMPLATES.rglob("*.html"):
        text = path.read_text()
        assert " style=" not in text, path
        assert not re.search(r"\son[a-z]+=", text), path
        assert "javascript:" not in text, path
        for script in re.findall(r"<script[^>]*>", text):
            # the card that stands alone has its script's hash in a policy of its own
            own = path.name == "card.html"
            assert own or "src=" in script or 'type="application/json"' in script, path
        assert "|safe" not in text or path.name == "_shower.html"


def test_the_ramp_runs_from_blue_to_red_and_holds_at_its_ends():
    assert colour(-40) == colour(0)
    assert colour(120) == colour(80)
    for celsius, (red, green, blue) in STOPS:
        assert colour(celsius) == f"#{red:02x}{green:02x}{blue:02x}"
    blues = [int(colour(c)[5:], 16) - int(colour(c)[1:3], 16) for c in (5, 25, 40, 60)]
    assert blues == sorted(blues, reverse=True)


def luminance(text):
    channels = [int(text[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("celsius", range(0, 96, 2))
def test_figures_on_the_ramp_can_be_read(celsius):
    ink = "#000000" if ink_on(celsius) == "on-pale" else "#ffffff"
    light, dark = sorted([luminance(colour(celsius)), luminance(ink)], reverse=True)
    assert (light + 0.05) / (dark + 0.05) >= 4.5


@pytest.mark.parametrize(("site", "status"), [("same-origin", 303), ("cross-site", 403), ("", 403)])
def test_no_origin_is_ours_only_where_the_browser_says_so(client, site, status):
    """A page with no-referrer sends Origin: null; only the browser can say it is from here."""
    head = {"origin": "null", **({"sec-fetch-site": site} if site else {})}
    answer = client.post("/settings", data={"units": "us"}, headers=head)
    assert answer.status_code == status
