"""Start Isotherma: database, migrations, demo data, kernels, server; stop all on Ctrl-C."""

from __future__ import annotations

import argparse
import os
import shutil
import signal
import socket
import sys
import threading
import time
from collections.abc import Callable
from http.client import HTTPConnection
from typing import NoReturn, TypedDict

import uvicorn

from isotherma import kernel_folder
from isotherma.catalogue.demo import drover
from isotherma.core.results.outcome import Outcome
from isotherma.ops.cluster import ClusterError, free_port
from isotherma.ops.doors import (
    begin_mode,
    host_of,
    refused,
    say_code,
    tell_environment,
)
from isotherma.ops.ground import database
from isotherma.ops.working import end_workers, start_worker
from isotherma.services.accounts import Accounts, Refused
from isotherma.services.runs import compute
from isotherma.services.vehicles import Vehicles
from isotherma.settings import PROJECT, Settings
from isotherma.standins.probe_box import ProbeBox, channels_of
from isotherma.store.engine import open_engine, open_sessions


def choose_port(wanted: int, host: str = "127.0.0.1") -> int:
    """Give the wanted port, or a free one if something else has it."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, wanted))
        except OSError:
            return free_port()
    return wanted


def forget_old_kernels() -> None:
    """Remove kernels compiled from a core that has since changed."""
    current = kernel_folder()
    for folder in current.parent.glob("*"):
        if folder != current:
            shutil.rmtree(folder, ignore_errors=True)


def _told_to_end(number: int, frame: object) -> NoReturn:
    """Take being told to end as Ctrl-C: what was started is stopped on the way out."""
    raise KeyboardInterrupt


def _say_when_ready(port: int, say: Callable[[str], None]) -> None:
    """Say that it is ready once it answers."""

    def watch() -> None:
        while True:
            connection = HTTPConnection("127.0.0.1", port, timeout=2.0)
            try:
                connection.request("GET", "/alive")
                if connection.getresponse().status == 200:
                    break
            except OSError:
                pass
            finally:
                connection.close()
            time.sleep(0.05)
        say(f"ready: http://127.0.0.1:{port}/   (Ctrl-C stops)")

    threading.Thread(target=watch, name="says when ready", daemon=True).start()


def _leave(status: int) -> NoReturn:
    """End now, though a long computation still holds a thread."""
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(status)


def _begin_box(speed: int, say: Callable[[str], None]) -> None:
    """Begin a simulated box of probes once its day is computed, in a thread beside."""

    def begin() -> None:
        project = drover()
        outcome = compute(project, project.variants[0].built)
        if isinstance(outcome, Outcome):
            box = ProbeBox(channels_of(outcome, seed=1), speed=speed)
            box.begin()
            say(f"a simulated box of probes answers at {box.address}")

    threading.Thread(target=begin, name="begins the probe box", daemon=True).start()


class Believed(TypedDict):
    """Whose forwarded headers are believed."""

    proxy_headers: bool
    forwarded_allow_ips: str


def believed(proxies: str) -> Believed:
    """Say whom to believe who asks and by which scheme: named proxies, and nobody else."""
    return {"proxy_headers": bool(proxies), "forwarded_allow_ips": proxies}


def _serve(host: str, port: int, workers: int, proxies: str) -> None:
    uvicorn.run(
        "isotherma.web.app:create",
        factory=True,
        host=host,
        port=port,
        **believed(proxies),
        workers=workers if workers > 1 else None,
        log_level="warning",
        server_header=False,
        timeout_graceful_shutdown=2,
        # A worker imports for several seconds, longer on a busy machine; asked sooner
        # whether it lives it is ended and begun again without end.
        timeout_worker_healthcheck=120,
    )


def _reader() -> argparse.ArgumentParser:
    """Read the options of the command."""
    reader = argparse.ArgumentParser(prog="bin/start", description=__doc__)
    reader.add_argument("--port", type=int, default=8000, help="wanted port (8000)")
    reader.add_argument("--workers", type=int, default=1, help="server processes (1)")
    cores = os.cpu_count() or 1
    reader.add_argument(
        "--helpers", type=int, default=cores, help=f"processes for long work ({cores})"
    )
    reader.add_argument(
        "--probe-box", action="store_true", help="a simulated box of probes beside it, for practice"
    )
    reader.add_argument(
        "--probe-speed", type=int, default=1, help="its seconds in one, 1 to 600 (1)"
    )
    reader.add_argument(
        "--lan", action="store_true", help="answer to your own phones too, each paired by a code"
    )
    reader.add_argument(
        "--accounts", action="store_true", help="people sign in; each sees their own vehicles"
    )
    reader.add_argument("--host", default="", help="address to listen on (127.0.0.1)")
    reader.add_argument(
        "--address", default="", help="where others reach it, as https://water.example"
    )
    reader.add_argument(
        "--plain-http", action="store_true", help="let passwords travel without TLS"
    )
    return reader


def main() -> int:
    """Run the command."""
    options = _reader().parse_args()
    refusal = refused(options)
    if refusal:
        print(f"Isotherma did not start. {refusal}", file=sys.stderr)
        return 2
    began = time.monotonic()
    signal.signal(signal.SIGTERM, _told_to_end)
    settings = Settings.from_environment()

    def say(text: str) -> None:
        print(f"  {time.monotonic() - began:5.1f} s  {text}", flush=True)

    print("Isotherma", flush=True)
    try:
        with database(PROJECT, settings.database_url, say) as url:
            engine = open_engine(url)
            sessions = open_sessions(engine)
            try:
                code = begin_mode(Accounts(sessions), options)
                if Vehicles(sessions).load_demo_once():
                    say("loaded the demo vehicle")
            except Refused as error:
                print(f"Isotherma did not start. {error.why}", file=sys.stderr)
                return 2
            finally:
                engine.dispose()
            forget_old_kernels()
            if not any(kernel_folder().glob("**/*.nbi")):
                say("getting ready to compute beside the pages: figures come in a minute or two")
            host = host_of(options)
            port = choose_port(options.port, host)
            if port != options.port:
                say(f"port {options.port} is taken; using {port}")
            os.environ["DATABASE_URL"] = url
            address = tell_environment(options, settings, port)
            helpers = [start_worker(url, number) for number in range(options.helpers)]
            if options.probe_box:
                _begin_box(options.probe_speed, say)
            _say_when_ready(port, say)
            if code:
                say_code(options, address, port, code)
            try:
                _serve(host, port, options.workers, settings.proxies)
            finally:
                end_workers(helpers)
    except ClusterError as error:
        print(f"Isotherma did not start. {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        pass
    if any(not thread.daemon for thread in threading.enumerate()[1:]):
        _leave(0)
    return 0


if __name__ == "__main__":
    sys.exit(main())
