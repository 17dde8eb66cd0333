"""Make the pictures of the README from the demo data, on a database of their own.

Usage: PYTHONPATH=src .venv/bin/python scripts/screenshots.py
"""

from __future__ import annotations

import asyncio
import shutil
import tempfile
import threading
import time
from pathlib import Path

import uvicorn
from playwright.sync_api import sync_playwright

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.demo_trips import folio_on_trip
from isotherma.core.faults.readings import Reading
from isotherma.jobs.worker import Worker
from isotherma.ops.cluster import Cluster
from isotherma.services.fault_cases import read, say
from isotherma.store.migrate import migrate
from isotherma.web.app import make_app

TARGET = Path(__file__).parents[1] / "docs/screenshots"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
WIDE, PHONE = (1280, 800), (390, 844)
# name, path, size, scheme, units
SHOTS = [
    ("home", "/", WIDE, "light", "metric"),
    ("brief", "{}/brief", WIDE, "light", "metric"),
    ("layout", "{folio}/layout?o.head=1&o.kitchen=0.5&piece=part-mixer", WIDE, "light", "metric"),
    ("shopping", "{folio}/shopping?view=pieces#size-1", WIDE, "light", "metric"),
    ("checks", "{}/checks", WIDE, "light", "metric"),
    ("sums", "/sums?sum=heated&time=50&volume=14#heated", WIDE, "dark", "us"),
    ("parts", "{folio}/parts?piece=part-store", WIDE, "light", "metric"),
    ("spaces", "{folio}/spaces?start=pitch&end=driving", WIDE, "light", "metric"),
    ("use", "{folio}/use?view=routines#routine-first_frost", WIDE, "light", "metric"),
    ("flow", "{folio}/flow?state=pitch&o.head=1&o.kitchen=0.5", WIDE, "light", "metric"),
    ("phone-review", "{review}", PHONE, "light", "metric"),
    ("compare", "{}/compare", WIDE, "light", "metric"),
    ("shower", "{}/shower?draw=1", WIDE, "light", "metric"),
    ("log-dark-us", "{}/log?view=next&ask=1", WIDE, "dark", "us"),
    ("faults", "{}/faults?now=1", WIDE, "light", "metric"),
    ("heat", "{}/heat", WIDE, "light", "metric"),
    ("phone-build", "{folio}/build", PHONE, "light", "metric"),
    ("budgets", "{trip}/budgets", WIDE, "light", "metric"),
    (
        "sweep",
        "{}/sweep?x=brief.draws.second-shower.flow_m3_per_s"
        "&y=variants.ten-litres.system.parts.store.volume_m3&show=warm.second-shower",
        WIDE,
        "light",
        "metric",
    ),
]


def main() -> None:
    """Serve the demo, visit every view, keep one picture each."""
    folder = Path(tempfile.mkdtemp(prefix="isotherma-shots-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres", for_tests=True)
    cluster.start()
    try:
        cluster.create_database("shots")
        migrate(cluster.url("shots"))
        app = make_app(cluster.url("shots"), ("127.0.0.1",))
        vehicles = app.state.services.vehicles
        vehicles.create(curlew(), "Demo vehicle")
        library = vehicles.create(folio(), "Demo vehicle")
        number = vehicles.create(drover(), "Demo vehicle")
        trip = vehicles.create(folio_on_trip(), "Demo vehicle")
        cases = app.state.services.fault_cases
        cases.change(number, "ten-litres", lambda case: say(case, "flow_low", "seen"))
        weak = Reading("flow", "head", 2.6)
        cases.change(number, "ten-litres", lambda case: read(case, weak))
        server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=0, log_level="error"))
        threading.Thread(target=server.run, daemon=True).start()
        while not server.started:
            time.sleep(0.01)
        base = f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
        worker = Worker(cluster.url("shots"))
        threading.Thread(target=lambda: asyncio.run(worker.run()), daemon=True).start()
        token = app.state.services.sharing.make_link(
            library, "button", kind="review", lasts="week", label="Fitter", newest=False
        )
        take(base, f"/vehicles/{number}/ten-litres", {
            "review": f"/r/{token}?trade=electrical",
            "folio": f"/vehicles/{library}/button",
            "trip": f"/vehicles/{trip}/button",
        })  # fmt: skip
        server.should_exit = True
        worker.end()
        app.state.engine.dispose()
    finally:
        cluster.stop()
        shutil.rmtree(folder)


def take(base: str, design: str, others: dict[str, str]) -> None:
    """Take every picture."""
    TARGET.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        sized = browser.new_page()  # the Heat page shows what is sized by then
        sized.goto(f"{base}{design}/sizes")
        sized.wait_for_selector("[data-under-way]", state="detached", timeout=240_000)
        sized.close()
        for name, path, (width, height), scheme, units in SHOTS:
            context = browser.new_context(
                viewport={"width": width, "height": height},
                color_scheme="dark" if scheme == "dark" else "light",
            )
            context.add_cookies([{"name": "units", "value": units, "url": base}])
            page = context.new_page()
            page.goto(base + path.format(design, **others))
            page.reload()  # its letters are there from the beginning now
            page.evaluate("document.fonts.ready")
            page.wait_for_load_state("networkidle")  # what loads by itself has come
            page.wait_for_selector("[data-under-way]", state="detached", timeout=120_000)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=TARGET / f"{name}.png")
            context.close()
        browser.close()


if __name__ == "__main__":
    main()
