"""Edit to answered page, over the wire, against a bare page of the same server in the same run.

Usage: PYTHONPATH=src .venv/bin/python bench/edit.py    (needs nothing running)
"""

from __future__ import annotations

import shutil
import statistics
import tempfile
import threading
import time
from pathlib import Path

import httpx
import uvicorn
from bs4 import BeautifulSoup

from isotherma.catalogue.demo import drover, folio
from isotherma.ops.cluster import Cluster
from isotherma.services.kernels import compile_kernels
from isotherma.store.migrate import migrate
from isotherma.web.app import make_app

EDITS = 200


def percentile(values: list[float], share: float) -> float:
    """Give a percentile by rank."""
    return sorted(values)[min(len(values) - 1, int(share * len(values)))]


def fields(html: str, field_id: str) -> dict[str, str]:
    """Give the form around a field as a browser would send it."""
    form = BeautifulSoup(html, "html.parser").find(id=field_id).find_parent("form")  # type: ignore[union-attr]
    data: dict[str, str] = {}
    for item in form.find_all(["input", "select"]):  # type: ignore[union-attr]
        if item.name == "select":
            chosen = item.find("option", selected=True) or item.find("option")
            data[str(item["name"])] = str(chosen["value"])  # type: ignore[index]
        else:
            data[str(item["name"])] = str(item.get("value", ""))
    return data


def time_edits(client: httpx.Client, name: str, design: str) -> None:
    """Change the store's volume again and again, and print it beside a bare page."""
    bare, edits = [], []
    place = f"{design}/parts?piece=part-store"
    for page in (place, f"{design}/shower"):
        client.get(page)
    html = client.get(place).text
    field = f"f-variants-{design.rsplit('/', 1)[1]}-system-parts-store-volume-m3"
    for round_number in range(EDITS):
        began = time.perf_counter()
        assert client.get("/nowhere").status_code == 404
        bare.append(time.perf_counter() - began)
        data = fields(html, field) | {"volume_m3": f"{8 + round_number * 0.05:.2f}"}
        began = time.perf_counter()
        answer = client.post(f"{design}/edit", data=data)
        edits.append(time.perf_counter() - began)
        assert answer.status_code == 200
        html = answer.text
    middle = statistics.median(bare)
    print(f"{name}: bare page p50 {middle * 1e3:.1f} ms")
    for share in (0.5, 0.95):
        value = percentile(edits, share)
        print(f"edit p{share * 100:.0f} {value * 1e3:.0f} ms = {value / middle:.0f} bare pages")


def main() -> None:
    """Serve, edit the store's volume again and again on the parts page, print both medians."""
    folder = Path(tempfile.mkdtemp(prefix="isotherma-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres")
    cluster.start()
    try:
        cluster.create_database("bench")
        migrate(cluster.url("bench"))
        compile_kernels()
        app = make_app(cluster.url("bench"), ("127.0.0.1",))
        vehicles = app.state.services.vehicles
        designs = {
            "Drover, computed": f"/vehicles/{vehicles.create(drover(), 'Demo')}/ten-litres",
            "Folio, 41 parts": f"/vehicles/{vehicles.create(folio(), 'Demo')}/button",
        }
        server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=0, log_level="error"))
        threading.Thread(target=server.run, daemon=True).start()
        while not server.started:
            time.sleep(0.01)
        base = f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
        client = httpx.Client(base_url=base, headers={"HX-Request": "true"}, timeout=30)
        for name, design in designs.items():
            time_edits(client, name, design)
        server.should_exit = True
        app.state.engine.dispose()
    finally:
        cluster.stop()
        shutil.rmtree(folder)


if __name__ == "__main__":
    main()
