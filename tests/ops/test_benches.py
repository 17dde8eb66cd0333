"""The benchmarks start: their first seconds run, so that they cannot rot."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
SECONDS = 12
TRIES = 6


def _heeds_interrupts() -> None:
    """Let Ctrl-C end it: what a shell starts in the background is told not to heed it."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


def _stopped(running: subprocess.Popen[str]) -> tuple[str, str]:
    """Interrupt it so that it stops what it has started; again where the first went unheard.

    Python swallows an interrupt that falls into a weak reference's callback.
    """
    for _ in range(TRIES):
        running.send_signal(signal.SIGINT)
        try:
            return running.communicate(timeout=10)
        except subprocess.TimeoutExpired:
            continue
    running.kill()
    pytest.fail(f"not stopped by {TRIES} interrupts: {running.communicate()}")


@pytest.mark.parametrize("name", sorted(path.name for path in (ROOT / "bench").glob("*.py")))
def test_a_benchmark_runs_for_its_first_seconds(name):
    """It is still at work, or done without a fault."""
    command = [sys.executable, str(ROOT / "bench" / name)]
    with subprocess.Popen(
        command,
        cwd=ROOT,
        env={**os.environ, "PYTHONPATH": "src"},
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        preexec_fn=_heeds_interrupts,
    ) as running:
        try:
            out, fault = running.communicate(timeout=SECONDS)
        except subprocess.TimeoutExpired:
            out, fault = _stopped(running)
            assert "Traceback" not in fault or "KeyboardInterrupt" in fault, fault
            return
    assert running.returncode == 0, fault
    assert out.strip()
