"""Fifty people at once on two workers: how long each kind of page takes, and memory over time.

Usage: PYTHONPATH=src .venv/bin/python bench/users.py [--users 50] [--minutes 2]

Needs nothing running: it makes a cluster of its own and serves on loopback. Everybody has a vehicle
of their own, a copy of a demo under another name, thinks one to three seconds between two pages,
and now and then writes a note or changes the store.
"""

from __future__ import annotations

import argparse
import asyncio
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Mapping
from pathlib import Path

import httpx

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.core.project import Project
from isotherma.ops.cluster import Cluster, free_port
from isotherma.services.kernels import compile_kernels
from isotherma.services.vehicles import Vehicles
from isotherma.store.engine import open_engine, open_sessions
from isotherma.store.migrate import migrate

SERVES = """
import sys, uvicorn
from isotherma.web.app import make_app
uvicorn.run(make_app(sys.argv[1], ("127.0.0.1",)), host="127.0.0.1", port=int(sys.argv[2]),
            log_level="error")
"""
# of five hundred pages: which, how often; a band takes a core for ten seconds and more, so that
# one in a hundred would ask for more than two cores have
MIX = (
    ("home", 40), ("brief", 70), ("parts", 80), ("layout", 60), ("spaces", 30), ("flow", 50),
    ("shower", 102), ("note", 40), ("store", 27), ("certainty", 1),
)  # fmt: skip
SETTLES_S = 30.0  # in which everybody's first pages are computed; told apart
Times = dict[str, list[float]]


def percentile(values: list[float], share: float) -> float:
    """Give a percentile by rank."""
    return sorted(values)[min(len(values) - 1, int(share * len(values)))]


def resident_mb(pids: list[int]) -> float:
    """Give what processes hold of the memory now [MB]."""
    page = os.sysconf("SC_PAGE_SIZE")
    held = (int(Path(f"/proc/{pid}/statm").read_text().split()[1]) for pid in pids)
    return sum(held) * page / 1e6


async def one_user(
    number: int, client: httpx.AsyncClient, design: str, head_id: int, until: float,
    minutes_s: float, times: Times, refused: list[int],
) -> None:  # fmt: skip
    """Look at pages and change things until the time is over."""
    dice = random.Random(number)
    variant = design.rsplit("/", 1)[1]
    scope = f"variants.{variant}.system.parts.store"
    names, weights = zip(*MIX, strict=True)
    await asyncio.sleep(dice.uniform(0.0, 3.0))
    while time.monotonic() < until:
        what = dice.choices(names, weights)[0]
        began = time.monotonic()
        if what in ("note", "store"):
            field, text = ("note", f"seen {dice.random():.3f}") if what == "note" else (
                "volume_m3", f"{dice.uniform(8.0, 20.0):.2f}"
            )  # fmt: skip
            answer = await client.post(f"{design}/edit", headers={"HX-Request": "true"}, data={
                "_scope": scope, "_fields": field, "_units": "metric", "_page": "parts",
                "_base": str(head_id), field: text,
            })  # fmt: skip
        else:
            answer = await client.get("/" if what == "home" else f"{design}/{what}")
        first = began < until - minutes_s + SETTLES_S
        times[f"{what}, at first" if first else what].append(time.monotonic() - began)
        if answer.status_code == 503:
            refused.append(answer.status_code)
        await asyncio.sleep(dice.uniform(1.0, 3.0))


async def everybody(
    ports: list[int], pids: list[int], designs: list[tuple[str, int]], minutes: float
) -> tuple[Times, list[int], list[float]]:
    """Let all of them work; give times by page, refusals, memory every ten seconds."""
    times: Times = defaultdict(list)
    refused: list[int] = []
    memory: list[float] = []
    until = time.monotonic() + minutes * 60.0

    async def watch() -> None:
        while time.monotonic() < until:
            memory.append(resident_mb(pids))
            await asyncio.sleep(10.0)

    clients = [
        httpx.AsyncClient(base_url=f"http://127.0.0.1:{ports[at % len(ports)]}", timeout=240.0,
                          headers={"Origin": f"http://127.0.0.1:{ports[at % len(ports)]}"})
        for at in range(len(designs))
    ]  # fmt: skip
    try:
        await asyncio.gather(watch(), *(
            one_user(at, client, *design, until, minutes * 60.0, times, refused)
            for at, (client, design) in enumerate(zip(clients, designs, strict=True))
        ))  # fmt: skip
    finally:
        for client in clients:
            await client.aclose()
    return times, refused, memory


def told(times: Mapping[str, list[float]]) -> list[str]:
    """Give a line for every kind of page: how many, p50 and p95 [s]."""
    return [
        f"{name:20} {len(values):5}  p50 {percentile(values, 0.5):6.2f} s"
        f"  p95 {percentile(values, 0.95):6.2f} s"
        for name, values in sorted(times.items())
    ]


def main() -> None:
    """Serve with two workers, let everybody work, print what it took."""
    reader = argparse.ArgumentParser(description=__doc__)
    reader.add_argument("--users", type=int, default=50)
    reader.add_argument("--minutes", type=float, default=2.0)
    asked = reader.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="isotherma-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres")
    cluster.start()
    servers: list[subprocess.Popen[bytes]] = []
    try:
        cluster.create_database("bench")
        url = cluster.url("bench")
        migrate(url)
        compile_kernels()
        engine = open_engine(url)
        vehicles = Vehicles(open_sessions(engine))
        designs = []
        for at in range(asked.users):
            made: Project = (drover, folio, curlew)[at % 3]()
            made = made.model_copy(update={"name": f"{made.name} of user {at}"})
            vehicle_id = vehicles.create(made, "Bench")
            opened = vehicles.open(vehicle_id)
            designs.append((f"/vehicles/{vehicle_id}/{made.variants[0].id}", opened.head_id))
        engine.dispose()
        ports = [free_port(), free_port()]
        for port in ports:
            servers.append(subprocess.Popen([sys.executable, "-c", SERVES, url, str(port)]))
        for port in ports:
            wait_for(port)
        pids = [server.pid for server in servers]
        times, refused, memory = asyncio.run(everybody(ports, pids, designs, asked.minutes))
        print(f"{asked.users} users, two workers, {asked.minutes:g} minutes")
        print("\n".join(told(times)))
        print(f"refused: {len(refused)}; memory of both at first, at most, at last: "
              f"{memory[0]:.0f}, {max(memory):.0f}, {memory[-1]:.0f} MB")  # fmt: skip
    finally:
        for server in servers:
            server.terminate()
            server.wait(timeout=20)
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


def wait_for(port: int) -> None:
    """Wait until a server answers."""
    until = time.monotonic() + 60.0
    while time.monotonic() < until:
        try:
            httpx.get(f"http://127.0.0.1:{port}/alive", timeout=2.0)
            return
        except httpx.TransportError:
            time.sleep(0.1)
    raise SystemExit("the server does not answer")


if __name__ == "__main__":
    main()
