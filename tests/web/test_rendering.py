"""Addresses made from kept templates are those the router gives, and names of files are plain."""

from __future__ import annotations

import pytest
from starlette.requests import Request

from isotherma.web.rendering import file_name, path_for


def request_of(app, root=""):
    return Request({
        "type": "http", "app": app, "method": "GET", "path": "/", "headers": [], "root_path": root,
        "query_string": b"", "server": ("testserver", 80), "scheme": "http", "router": app.router,
    })  # fmt: skip


@pytest.mark.parametrize(
    ("name", "parts"),
    [
        ("home.show", {}),
        ("design.layout", {"vehicle_id": 3, "variant_id": "ten-litres"}),
        ("design.trace", {"vehicle_id": 3, "variant_id": "a", "trace_id": "used.gas"}),
        ("static", {"path": "js/main.js"}),
        ("static", {"path": "vendor/archivo-latin.woff2"}),
        ("design.part.insert", {"vehicle_id": 12, "variant_id": "b"}),
    ],
)
def test_an_address_is_what_the_router_says(client, name, parts):
    request = request_of(client.app)
    asked = {key: str(value) for key, value in parts.items()}
    for _ in range(2):  # the first makes the template, the second takes it
        assert path_for(request, name, **parts) == request.url_for(name, **asked).path


def test_what_has_letters_of_its_own_in_an_address_is_written_out(client):
    path = path_for(request_of(client.app), "design.offer", vehicle_id=1, variant_id="a",
                    start="ä b?c")  # fmt: skip
    assert path == "/vehicles/1/a/offer/%C3%A4%20b%3Fc"


def test_a_file_is_named_in_letters_every_system_takes():
    assert file_name("Grünes Müsli / №2") == "grunes-musli-no2"
    assert file_name("★") == "vehicle"
