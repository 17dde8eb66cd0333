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


def _heeds_interrupts() -> None:
    """Let Ctrl-C end it: what a shell starts in the background is told not to heed it."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


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
            running.send_signal(signal.SIGINT)  # so that it stops what it has started
            out, fault = running.communicate(timeout=30)
            assert "Traceback" not in fault or "KeyboardInterrupt" in fault, fault
            return
    assert running.returncode == 0, fault
    assert out.strip()
