"""Values nobody should send, to every route there is: an answer in words, never a break."""

from __future__ import annotations

from random import Random
from urllib.parse import quote

import pytest
from starlette.routing import Route

from isotherma.catalogue.layouts import layouts
from isotherma.services.turns import Busy
from tests.web.test_pages import HTMX

WORDS = (
    "", "0", "-1", "²", "١٢", "1e999", "nan", "inf", "-inf", "9" * 400, "x" * 5000, "a\x00b",
    "\u202etxt", "\ud7ff", "<script>alert(1)</script>", "' OR 1=1 --", "../../../etc/passwd",
    "%00", "parts.store.volume_m3", "variants.x.system.parts", "=1+1", "{{ 7*7 }}", "null",
    "true", "-0.0", "1,5", "1 000", "12 gal", "°C", "🚐", "\r\nSet-Cookie: a=b", "[]", "{}",
)  # fmt: skip
KEYS = (
    "_scope", "_base", "_fields", "_page", "_piece", "_units", "edit", "kind", "run", "part",
    "part_class", "group", "preset", "host", "source",
    "name", "state", "view", "way", "o.head", "o.tap", "dirty", "every", "cooled", "pitch", "roll",
    "draw", "by", "at", "compare", "pause", "w.volume", "w.flow", "sum", "time", "volume", "q",
    "page", "piece", "start", "end", "with", "units", "scheme", "back", "layout", "table", "own",
    "state_id", "volume_m3", "set_c", "low_c", "days", "month", "version", "label", "confirm",
)  # fmt: skip
EACH = 6


def spots(app):
    """Every method of every route, of the application and of what it includes."""
    for item in app.routes:
        inner = getattr(item, "original_router", None)
        for route in inner.routes if inner is not None else (item,):
            if isinstance(route, Route):
                for method in sorted((route.methods or set()) - {"HEAD", "OPTIONS"}):
                    yield method, route.path


@pytest.fixture
def known(client):
    made = layouts()["tap-canister"].project()
    number = client.app.state.services.vehicles.create(made, "x")
    return {"vehicle_id": str(number), "variant_id": made.variants[0].id}


def filled(path, known, random):
    """Fill a path's parameters with what is there, or with anything else."""
    found = path
    while "{" in found:
        name = found[found.index("{") + 1 : found.index("}")]
        key = name.split(":")[0]
        value = known.get(key) if random.random() < 0.75 else None
        if value is None:
            value = random.choice(WORDS) or "x"
        found = found.replace("{" + name + "}", quote(value[:300], safe="", errors="replace"))
    return found


def test_no_value_breaks_a_route(client, known):
    random = Random(7)
    asked = 0
    for method, path in spots(client.app):
        if path.endswith("/events"):
            continue  # its answer has no end: tests/web/test_live.py
        for _ in range(EACH):
            values = {
                random.choice(KEYS): random.choice(WORDS) for _ in range(random.randint(0, 5))
            }
            headers = HTMX if random.random() < 0.5 else {}
            try:
                where = filled(path, known, random)
                if method == "GET":
                    answer = client.get(where, params=values, headers=headers)
                elif random.random() < 0.2:
                    files = {random.choice(("file", "upload")): ("x\x00.json", b"\xff{", "text/x")}
                    answer = client.request(method, where, data=values, files=files,
                                            headers=headers)  # fmt: skip
                else:
                    answer = client.request(method, where, data=values, headers=headers)
            except UnicodeEncodeError:
                continue  # what no client can put into an address
            asked += 1
            assert answer.status_code < 500, (method, where, values, answer.text[:500])
            assert "Traceback" not in answer.text and "<script>alert(1)" not in answer.text
            assert "a=b" not in str(answer.headers)
    assert asked > 600


def test_a_broken_address_of_the_page_before_is_no_matter(client, known):
    path = f"/vehicles/{known['vehicle_id']}/{known['variant_id']}/part/add"
    for address in ("http://[", "::::", "x" * 5000, "\u00ff"):
        answer = client.post(
            path, data={"part_class": "nothing", "_page": "flow"},
            headers={**HTMX, "HX-Current-URL": address.encode("latin-1")},
        )  # fmt: skip
        assert answer.status_code in (404, 422)


def test_busy_is_said_in_words_and_may_be_tried_again(client, known, monkeypatch):
    from isotherma.services import runs

    def busy(*_args, **_more):
        raise Busy

    monkeypatch.setattr(runs, "simulate", busy)
    answer = client.get(f"/vehicles/{known['vehicle_id']}/{known['variant_id']}/shower")
    assert answer.status_code == 503
    assert "again" in answer.text and "Traceback" not in answer.text
