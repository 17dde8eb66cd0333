"""Long work through the queue with two workers: a sweep, sizing, twelve months, edits beside it.

Usage: PYTHONPATH=src .venv/bin/python bench/work.py    (needs nothing running; minutes)
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import TypeVar

import httpx
import psycopg
import uvicorn

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import folio_on_trip
from isotherma.core.cache import Caches
from isotherma.core.options.sweep import Sweep, Vary
from isotherma.ops.cluster import Cluster
from isotherma.services.kernels import compile_kernels
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute
from isotherma.services.sizing import SizingService
from isotherma.services.stored_results import StoredResults
from isotherma.services.sweeps import SweepService, swept
from isotherma.services.year import MONTH_WORK, YearService, in_month
from isotherma.store.engine import open_engine, open_sessions
from isotherma.store.migrate import migrate
from isotherma.web.app import make_app

sys.path.insert(0, str(Path(__file__).parents[1]))  # beside the other benchmarks, however started

from bench.edit import EDITS, fields, percentile

WORKERS = 2
ASKS_EVERY_S = 0.5  # about as pages do
STORE = "variants.ten-litres.system.parts.store.volume_m3"


def worked_s(working_url: str, kind: str) -> float:
    """Give seconds from when the last work of a kind was asked for until all of it was done."""
    with psycopg.connect(working_url) as connection:
        row = connection.execute(
            "SELECT extract(epoch FROM max(ended_at) - min(created_at)) FROM job WHERE kind = %s",
            (kind,),
        ).fetchone()
    assert row is not None
    return float(row[0])


def until_done(ask: Callable[[], Sequence[object]]) -> tuple[float, float]:
    """Ask until nothing is under way; give seconds to the first answer and to all."""
    began, first = time.perf_counter(), 0.0
    while True:
        found = ask()
        ready = [row for row in found if not isinstance(row, UnderWay)]
        if ready and not first:
            first = time.perf_counter() - began
        if len(ready) == len(found):
            return first, time.perf_counter() - began
        time.sleep(ASKS_EVERY_S)


def grid(shift: float = 0.0) -> Sweep:
    """Ask for 25 times 20 runs of Drover; another shift is another question."""
    across = tuple(0.006 + shift + 0.0006 * step for step in range(25))
    return Sweep(Vary(STORE, across), Vary("brief.inside_c", tuple(5.0 + at for at in range(20))))


Item = TypeVar("Item")


def run_month(month: int) -> None:
    """Run one month of Folio's trip."""
    moved = in_month(folio_on_trip(), month)
    compute(moved, moved.variants[0])


def run_cells(piece: Sweep) -> None:
    """Run a row of Drover."""
    project = drover()
    swept(project, project.variants[0].id, piece)


def bare_s(run: Callable[[Item], None], items: Sequence[Item]) -> float:
    """Give seconds of the same work in as many bare processes, without queue or database.

    Two processes on two threads of one core are no twice as fast as one: that is the floor.
    """
    with ProcessPoolExecutor(WORKERS, mp_context=get_context("spawn")) as pool:
        for _ in range(2):  # kernels are loaded the first time
            list(pool.map(run, items[:WORKERS]))
        began = time.perf_counter()
        list(pool.map(run, items))
        return time.perf_counter() - began


def time_sweep(working: LongWork) -> None:
    """Run 500 days of Drover through the queue, and ask for them again."""
    project = drover()
    variant = project.variants[0]
    floor = 10.0 * bare_s(run_cells, grid(2e-5).pieces[:WORKERS])
    service = SweepService(Caches(10**8), working)
    first, took = until_done(lambda: service.pieces(project, variant, grid(), Asker("a" * 16)))
    print(f"sweep, 500 runs of Drover's day: {took:.1f} s, first row after {first:.1f} s; "
          f"{took / floor:.2f} of the same in {WORKERS} bare processes, {floor:.1f} s")  # fmt: skip
    again = SweepService(Caches(10**8), working)
    _, whole = until_done(lambda: again.pieces(project, variant, grid(), Asker("a" * 16)))
    print(f"the same asked again elsewhere: {whole:.2f} s")


def time_sizing(working: LongWork) -> None:
    """Size every family on Folio's brief, cold, and again."""
    project = folio_on_trip()
    variant = project.variants[0]
    service = SizingService(Caches(10**8), working)
    first, whole = until_done(lambda: service.rows(project, variant, Asker("b" * 16)))
    print(f"all families on Folio's trip: {whole:.1f} s, first row after {first:.1f} s")
    again = SizingService(Caches(10**8), working)
    _, whole = until_done(lambda: again.rows(project, variant, Asker("b" * 16)))
    print(f"the same asked again elsewhere: {whole:.2f} s")


def time_year(url: str, working: LongWork) -> None:
    """Run twelve months of Folio's trip against twelve single trips."""
    project = folio_on_trip()
    variant = project.variants[0]
    single = bare_s(run_month, list(range(1, 13)))
    service = YearService(Caches(10**8), working)
    _, whole = until_done(lambda: service.rows(project, variant, Asker("c" * 16)))
    done = worked_s(url, MONTH_WORK)
    print(f"twelve months of Folio's ten-day trip: {done:.2f} s, seen after {whole:.1f} s; "
          f"{done / single:.2f} of the same in {WORKERS} bare processes, "
          f"{single:.2f} s")  # fmt: skip


def time_edits(client: httpx.Client, design: str, turn: int) -> list[float]:
    """Change the store's volume again and again, to what nobody had yet; with the page after."""
    place = f"{design}/parts?piece=part-store"
    client.get(place)
    html = client.get(place).text
    field = f"f-variants-{design.rsplit('/', 1)[1]}-system-parts-store-volume-m3"
    took = []
    for round_number in range(EDITS):
        data = fields(html, field) | {"volume_m3": f"{8 + round_number * 0.05 + turn * 0.003:.3f}"}
        began = time.perf_counter()
        answer = client.post(f"{design}/edit", data=data)
        html = client.get(answer.headers["location"]).text
        took.append(time.perf_counter() - began)
    return took


def time_edits_beside(url: str, working: LongWork) -> None:
    """Edit while the workers sweep, and while they do not, in turn."""
    app = make_app(url, ("127.0.0.1",))
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=0, log_level="error"))
    threading.Thread(target=server.run, daemon=True).start()
    while not server.started:
        time.sleep(0.01)
    port = server.servers[0].sockets[0].getsockname()[1]
    project = drover()
    service = SweepService(Caches(10**8), working)
    with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60.0) as client:
        for turn in range(2):
            for place, sweeping in enumerate((False, True)):
                number = app.state.services.vehicles.create(project, "bench")
                if sweeping:
                    for piece in range(4):
                        shift = 1e-5 * (1 + piece + 4 * turn)
                        service.pieces(project, project.variants[0], grid(shift), Asker("d" * 16))
                took = time_edits(client, f"/vehicles/{number}/ten-litres", 2 * turn + place)
                words = "a sweep runs" if sweeping else "nothing else runs"
                print(f"edits while {words}: p50 {percentile(took, 0.5) * 1e3:.0f} ms, "
                      f"p95 {percentile(took, 0.95) * 1e3:.0f} ms")  # fmt: skip
    server.should_exit = True


def main() -> None:
    """Start a database and two workers, measure, and end them."""
    compile_kernels()
    folder = Path(tempfile.mkdtemp(prefix="isotherma-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres", for_tests=True)
    cluster.start()
    cluster.create_database("bench")
    url = cluster.url("bench")
    migrate(url)
    env = {**os.environ, "DATABASE_URL": url}
    command = [sys.executable, "-m", "isotherma", "work", "--processes", str(WORKERS)]
    workers = subprocess.Popen(command, env=env)
    try:
        sessions = open_sessions(open_engine(url))
        working = LongWork(sessions, StoredResults(sessions))
        warm = SweepService(Caches(10**8), working)  # kernels are loaded before anything is timed
        short = Sweep(Vary(STORE, (0.02, 0.03)), Vary("brief.inside_c", (1.0, 2.0, 3.0, 4.0)))
        until_done(lambda: warm.pieces(drover(), drover().variants[0], short, Asker("e" * 16)))
        time_year(url, working)
        time_sweep(working)
        time_sizing(working)
        time_edits_beside(url, working)
    finally:
        workers.terminate()
        workers.wait(30)
        cluster.stop()
        shutil.rmtree(folder)


if __name__ == "__main__":
    main()
