"""While the kernels are compiled pages answer, say how far it is, and take what is entered."""

from __future__ import annotations

import threading

import pytest

from isotherma.services import readiness
from isotherma.services.readiness import KERNELS
from tests.web.test_pages import HTMX, soup, text


@pytest.fixture
def compiling():
    """The server's kernels are at work until the test lets them be done."""
    let_go = threading.Event()
    worker = KERNELS.begin(let_go.wait)
    yield let_go
    let_go.set()
    worker.join(10)
    assert KERNELS.waits() is None


def test_every_page_answers_and_says_how_far_it_is(client, demo, compiling):
    for page in ("brief", "heat", "layout", "parts", "spaces", "flow", "shower", "certainty"):
        answer = client.get(f"{demo}/{page}")
        assert answer.status_code == 200, page
        assert "still getting ready to compute" in text(soup(answer)), page
    assert client.get("/").status_code == 200
    verdict = soup(client.get(f"{demo}/brief")).find(id="verdict")
    assert verdict["hx-get"] == "/kernels"
    assert "Go and mend it" not in client.get(f"{demo}/brief").text


def test_the_page_of_elements_waits_too(client, compiling):
    answer = client.get("/elements")
    assert answer.status_code == 200 and "still getting ready" in answer.text
    compiling.set()
    while KERNELS.waits() is not None:
        compiling.wait(0.01)
    assert "still getting ready" not in client.get("/elements").text


def test_what_is_entered_meanwhile_is_kept(client, demo, compiling):
    from tests.web.test_pages import form_of

    data = form_of(client, f"{demo}/brief", "brief", "days")
    assert client.post(f"{demo}/edit", data=data | {"days": "7"}).status_code in (200, 303)
    service = client.app.state.services.vehicles
    assert service.overview()[0].project.brief.days == 7


def test_when_it_is_done_the_figures_are_there(client, demo, compiling):
    asked = client.get("/kernels", headers=HTMX)
    assert "still getting ready" in asked.text and 'hx-get="/kernels"' in asked.text
    compiling.set()
    while KERNELS.waits() is not None:
        compiling.wait(0.01)
    done = soup(client.get("/kernels", headers=HTMX))
    assert text(done.find("a")) == "Show the figures" and done.find("a")["href"] == ""
    assert "ends the trip" in text(soup(client.get(f"{demo}/brief")).find(id="verdict"))


def test_the_progress_counts_kernels(monkeypatch):
    class Kernel:
        def __init__(self, made):
            self.signatures = ["x"] if made else []

    monkeypatch.setattr(readiness, "_kernels", lambda: [Kernel(n < 3) for n in range(5)])
    let_go = threading.Event()
    warming = readiness.KernelCompilation()
    assert warming.waits() is None, "who never began compiles when it computes"
    worker = warming.begin(let_go.wait)
    waits = warming.waits()
    assert waits is not None and (waits.done, waits.of) == (3, 5)
    let_go.set()
    worker.join(10)
    assert warming.waits() is None
