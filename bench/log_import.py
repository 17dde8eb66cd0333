"""How long a file of 100 000 readings takes until it is kept, and how often it is told.

Run by hand: `PYTHONPATH=src:. python bench/log_import.py [rows]`. It starts a database of its own.
"""

from __future__ import annotations

import json
import shutil
import sys
import tempfile
import time
from pathlib import Path

from starlette.testclient import TestClient

from isotherma.catalogue.demo import drover
from isotherma.files.readings_csv import HEADING
from isotherma.ops.cluster import Cluster
from isotherma.store.migrate import migrate
from isotherma.web.app import make_app

STREAM = {"accept": "application/x-ndjson"}


def ours(rows: int) -> bytes:
    """Write a table of our own columns."""
    lines = [f"s,draw,{at},temp.head,{30 + at % 90 / 10:.1f},C,,," for at in range(rows)]
    return "\n".join([",".join(HEADING), *lines]).encode()


def loggers(rows: int) -> bytes:
    """Write a logger's: three columns, a reading a second, decimals with a comma."""
    lines = [f"{at};{30 + at % 90 / 10:.1f};{12 + at % 7 / 10:.1f};12,7".replace(".", ",")
             for at in range(rows)]  # fmt: skip
    return "\n".join(["seconds;head;tank;volts", *lines]).encode()


def main(rows: int) -> None:
    """Send both and print what each took."""
    folder = Path(tempfile.mkdtemp(prefix="isotherma-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres", for_tests=True)
    cluster.start()
    try:
        cluster.create_database("bench")
        migrate(cluster.url("bench"))
        app = make_app(cluster.url("bench"), ("testserver",))
        client = TestClient(app, follow_redirects=False)
        number = app.state.services.vehicles.create(drover(), "Demo vehicle")
        path = f"/vehicles/{number}/ten-litres/log"
        began = time.monotonic()
        told = _stream(client, f"{path}/import", {"files": {"file": ("a.csv", ours(rows))}})
        print(f"ours, {rows} rows: {time.monotonic() - began:.2f} s, told {told} times")
        began = time.monotonic()
        asked = client.post(f"{path}/import", files={"file": ("b.csv", loggers(rows))})
        held = asked.headers["location"].rpartition("=")[2]
        print(f"a logger's, {rows} rows: held after {time.monotonic() - began:.2f} s")
        began = time.monotonic()
        means = {"file": held, "time": "0", "time_form": "seconds", "decimal": ",",
                 "session": "bench", "is.1": "temp.head", "is.2": "temp.tank"}  # fmt: skip
        told = _stream(client, f"{path}/columns", {"data": means})
        print(f"two of its columns: {time.monotonic() - began:.2f} s, told {told} times")
        app.state.engine.dispose()
    finally:
        cluster.stop()
        shutil.rmtree(folder)


def _stream(client: TestClient, path: str, sent: dict[str, object]) -> int:
    with client.stream("POST", path, headers=STREAM, **sent) as answer:  # type: ignore[arg-type]
        lines = [json.loads(line) for line in answer.iter_lines()]
    assert "go" in lines[-1], lines[-1]
    return len(lines) - 1


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 100_000)
