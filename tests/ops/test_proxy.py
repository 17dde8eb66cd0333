"""Behind a proxy: forwarded headers count from those that were named, and from nobody else."""

from __future__ import annotations

import threading
import time

import httpx2 as httpx
import pytest
import uvicorn

from isotherma.ops.launch import believed
from isotherma.services.visitors import ALONE, visiting

PASSWORD = "a long enough sentence"
HEADERS = {"x-forwarded-proto": "https", "x-forwarded-for": "192.0.2.44"}


def asked(app, proxies):
    """Sign in through a proxy of this machine; the answer, and what counts as its address."""
    running = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=0, log_level="error",
                                            **believed(proxies)))  # fmt: skip
    thread = threading.Thread(target=running.run, daemon=True)
    thread.start()
    while not running.started:
        time.sleep(0.01)
    base = f"http://127.0.0.1:{running.servers[0].sockets[0].getsockname()[1]}"
    with httpx.Client(base_url=base, headers=HEADERS) as client:
        answer = client.post("/sign-in", data={"name": "owner", "password": PASSWORD})
    running.should_exit = True
    thread.join(10)
    return answer


@pytest.fixture
def workshop(client):
    app = client.app
    accounts = app.state.services.accounts
    accounts.accept(accounts.invite("admin"), "owner", PASSWORD)
    app.state.mode = "accounts"
    yield app
    app.state.mode = "alone"
    visiting(ALONE)


def test_a_named_proxy_is_believed(workshop):
    answer = asked(workshop, "127.0.0.1")
    assert answer.status_code == 303 and "secure" in answer.headers["set-cookie"].lower()


@pytest.mark.parametrize("proxies", ["", "192.0.2.9"])
def test_another_is_not(workshop, proxies):
    """How a password came to a proxy nobody named is not known: it is not taken."""
    answer = asked(workshop, proxies)
    assert answer.status_code == 403
    assert "sign_in=" not in answer.headers.get("set-cookie", "")
    assert "ISOTHERMA_PROXIES" in answer.text
