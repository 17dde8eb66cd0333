"""A page nobody changed is answered from what is kept; any change is seen at once."""

from __future__ import annotations

import pytest
from bs4 import BeautifulSoup

from isotherma.core.errors import KernelsCompiling
from isotherma.services.readiness import KERNELS
from isotherma.web import page_cache as module

PAGES = ("brief", "layout", "parts", "spaces", "flow", "shower")
HTMX = {"HX-Request": "true"}


@pytest.fixture
def made(client, monkeypatch):
    """How often pages were made."""
    count: list[str] = []
    original = module.PageCache.answer

    def counting(self, request, vehicle_id, make, *whole):
        def made():
            count.append(request.url.path)
            return make()

        return original(self, request, vehicle_id, made, *whole)

    monkeypatch.setattr(module.PageCache, "answer", counting)
    return count


@pytest.mark.parametrize("page", PAGES)
def test_the_second_time_it_is_not_made(client, demo, made, page):
    first = client.get(f"{demo}/{page}")
    again = client.get(f"{demo}/{page}")
    assert first.status_code == again.status_code == 200
    assert first.text == again.text and len(made) == 1
    assert again.headers["etag"] == first.headers["etag"]
    assert again.headers["cache-control"] == "no-store"  # going back shows the newest
    same = client.get(f"{demo}/{page}", headers={"If-None-Match": first.headers["etag"]})
    assert same.status_code == 304 and same.content == b"" and len(made) == 1


def test_units_light_parts_and_questions_are_other_pages(client, demo, made):
    tags = {client.get(f"{demo}/parts").headers["etag"]}
    tags.add(client.get(f"{demo}/parts", headers=HTMX).headers["etag"])
    tags.add(client.get(f"{demo}/parts?piece=part-store").headers["etag"])
    client.cookies.set("units", "us")
    tags.add(client.get(f"{demo}/parts").headers["etag"])
    client.cookies.set("scheme", "dark")
    tags.add(client.get(f"{demo}/parts").headers["etag"])
    assert len(tags) == 5 and len(made) == 5


def test_an_edit_is_seen_at_once_and_so_is_undo(client, demo):
    before = client.get(f"{demo}/parts")
    done = client.post(f"{demo}/part/remove", data={"part": "strainer", "_page": "parts"})
    assert done.status_code in (200, 303)
    after = client.get(f"{demo}/parts", headers={"If-None-Match": before.headers["etag"]})
    assert after.status_code == 200 and after.text != before.text
    assert after.headers["etag"] != before.headers["etag"]
    services = client.app.state.services
    number = int(demo.split("/")[2])
    services.vehicles.undo(number, services.vehicles.open(number).head_id)
    back = client.get(f"{demo}/parts")
    assert back.text != after.text and "redo" in back.text.lower()


def test_a_page_that_is_not_there_is_not_kept(client, demo, made):
    number = int(demo.split("/")[2])
    assert client.get(f"/vehicles/{number + 1}/ten-litres/parts").status_code == 404
    assert client.get(f"/vehicles/{number}/castle/parts").status_code == 404
    client.app.state.services.vehicles.delete(number)
    assert client.get(f"{demo}/parts").status_code == 404


def test_while_kernels_are_made_nothing_is_kept(client, demo, monkeypatch):
    monkeypatch.setattr(KERNELS, "waits", lambda: KernelsCompiling(done=1, of=2))
    assert "etag" not in client.get(f"{demo}/brief").headers


def test_offers_without_a_verdict_are_made_again_until_it_is_known(client, demo, monkeypatch):
    computing = client.app.state.services.computing
    path = f"{demo}/heat"
    with monkeypatch.context() as unknown:
        unknown.setattr(computing, "peek", lambda *_: None)
        before = client.get(path)
    offer = BeautifulSoup(before.text, "html.parser").select(".starts .on-brief")[1]
    assert "What would it do?" in offer.get_text() and "etag" not in before.headers
    said = " ".join(client.get(str(offer["data-asks"]), headers=HTMX).text.split())
    after = BeautifulSoup(client.get(path).text, "html.parser").select(".starts .on-brief")[1]
    assert " ".join(after.get_text().split()) == said


def test_home_computes_nothing_that_was_computed_before(client, demo, monkeypatch):
    from isotherma.services import runs

    number = int(demo.split("/")[2])
    said = BeautifulSoup(
        client.get(f"/vehicles/{number}/ten-litres/verdict", headers=HTMX).text, "html.parser"
    ).select_one(".variant-verdict")
    assert said is not None
    services = client.app.state.services
    assert client.app.state.keeping.settle()
    monkeypatch.setattr(services.computing, "peek", lambda *_: None)

    def refuse(*_, **__):
        raise AssertionError("it ran")

    monkeypatch.setattr(runs, "simulate", refuse)
    page = BeautifulSoup(client.get("/").text, "html.parser")
    rows = page.select(".variant-verdict")
    assert said.get_text() in [row.get_text() for row in rows]
    assert len(page.select("svg.glance")) >= 1
