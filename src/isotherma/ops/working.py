"""Workers: processes of low priority that do long work, started and ended together."""

from __future__ import annotations

import ctypes
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from typing import Final, NoReturn

from isotherma.ops.cluster import ClusterError
from isotherma.ops.ground import database
from isotherma.services.kernels import ENDS_WITH_PARENT, compile_kernels
from isotherma.settings import PROJECT, Settings

ENDS_WITHIN_S: Final = 6.0
RESTS_S: Final = 2.0  # before one that ended is begun again


def start_worker(url: str, number: int) -> subprocess.Popen[bytes]:
    """Start one worker process; it ends with this one, however that ends."""
    code = f"from isotherma.ops.working import be_worker; be_worker({number})"
    return subprocess.Popen([sys.executable, "-c", code], env={**os.environ, "DATABASE_URL": url})


def be_worker(number: int) -> None:
    """Be a worker in a process of its own, once the kernels are there."""
    from isotherma.jobs.worker import run_worker

    ctypes.CDLL(None).prctl(ENDS_WITH_PARENT, signal.SIGTERM)
    url = Settings.from_environment().database_url
    assert url is not None  # whoever starts it says where the database is
    os.nice(1)
    compile_kernels()
    run_worker(url, name=f"worker {os.getpid()}.{number}")


def end_workers(workers: list[subprocess.Popen[bytes]]) -> None:
    """Tell workers to end and wait for them; one that does not hear is ended."""
    for worker in workers:
        if worker.poll() is None:
            worker.terminate()
    until = time.monotonic() + ENDS_WITHIN_S
    for worker in workers:
        try:
            worker.wait(max(0.1, until - time.monotonic()))
        except subprocess.TimeoutExpired:
            worker.kill()
            worker.wait()


def work_until_ended(processes: int | None, fail: Callable[[str], NoReturn]) -> int:
    """Keep workers going until this process is told to end; give its exit status."""
    count = processes or os.cpu_count() or 1

    def told(number: int, frame: object) -> NoReturn:
        raise KeyboardInterrupt

    signal.signal(signal.SIGTERM, told)
    try:
        with database(PROJECT, Settings.from_environment().database_url, print) as url:
            workers = [start_worker(url, number) for number in range(count)]
            print(
                f"{count} {'worker' if count == 1 else 'workers'} at it. Ctrl-C ends.", flush=True
            )
            try:
                while True:
                    time.sleep(RESTS_S)
                    for number, worker in enumerate(workers):
                        if worker.poll() is not None:
                            workers[number] = start_worker(url, number)
            finally:
                end_workers(workers)
    except ClusterError as error:
        fail(str(error))
    except KeyboardInterrupt:
        return 0
